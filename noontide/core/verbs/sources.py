"""What can be done to the demand of a design: add a source, take the rows of a spreadsheet as appliances."""

from typing import Any

from pydantic import Field

from noontide.core.demand.appliance_rows import read_rows
from noontide.core.demand.sources import KIND_TITLES, Appliances, Source
from noontide.core.design import Design
from noontide.core.design.naming import fresh, unlike
from noontide.core.fields import Document, Id
from noontide.core.verbs.shared import ImpossibleAct

MOST_TEXT = 200_000  # characters


class AddSource(Document):
    source: Source


class AddAppliance(Document):
    source: Id


class TakeRows(Document):
    source: Id | None = None  # a list of appliances; a new one where none is named
    text: str = Field(max_length=MOST_TEXT)
    replaces: bool = False


def add_source(design: Design, given: AddSource) -> tuple[dict[str, Any], str]:
    """A source under a fresh id, with a name that no other has."""
    source = given.source.model_dump(mode="json", exclude_unset=True)
    taken = [one.name for one in design.demand.sources.values()]
    name = source.get("name") or KIND_TITLES[given.source.kind]
    source["name"] = unlike(name, taken)
    key = fresh(given.source.kind.replace("_", "-"), design.demand.sources)
    return {"demand": {"sources": {key: source}}}, f"{source['name']} is added."


def add_appliance(design: Design, given: AddAppliance) -> tuple[dict[str, Any], str]:
    """An appliance more, with values that anybody sees are to be set.

    Raises
    ------
    ImpossibleAct
        If the source is no list of appliances.
    """
    items = _appliances(design, given.source).items
    item = {"name": "New appliance", "power": 100.0, "hours": "8-18"}
    patch = {"demand": {"sources": {given.source: {"appliances": {"items": {fresh("appliance", items): item}}}}}}
    return patch, "An appliance is added."


def _appliances(design: Design, source: str) -> Appliances:
    one = design.demand.sources.get(source)
    if one is None or one.appliances is None:
        raise ImpossibleAct(f"'{source}' is no list of appliances.")
    return one.appliances


def take_rows(design: Design, given: TakeRows) -> tuple[dict[str, Any], str]:
    """The rows of a spreadsheet as appliances, after those that are there or in place of them.

    Raises
    ------
    ImpossibleAct
        If no row can be read, or the source is no list of appliances; with the row and what is wrong with it.
    """
    try:
        items = read_rows(given.text)
    except ValueError as error:
        raise ImpossibleAct(str(error)) from None
    words = f"{len(items)} appliance{'s' if len(items) != 1 else ''} taken from the table."
    if given.source is None:
        rows = {f"appliance-{n}": item for n, item in enumerate(items, start=1)}
        source = {"name": "Appliances", "appliances": {"items": rows}}
        patch, _ = add_source(design, AddSource(source=Source.model_validate(source)))
        return patch, words
    before = _appliances(design, given.source).items
    known = dict.fromkeys(before)
    replaced: dict[str, Any] = dict.fromkeys(known) if given.replaces else {}
    taken: list[str] = [] if given.replaces else list(known)
    for item in items:
        key = fresh("appliance", taken)
        taken.append(key)
        # What was there under this id is replaced whole, not merged with.
        set_before = before[key].model_fields_set if key in known else ()
        replaced[key] = dict.fromkeys(set_before) | item
    return {"demand": {"sources": {given.source: {"appliances": {"items": replaced}}}}}, words
