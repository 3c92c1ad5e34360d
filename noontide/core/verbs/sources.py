"""What can be done to the demand of a design: add a source, take the rows of a spreadsheet as appliances."""

from typing import Any

from pydantic import Field

from noontide.core.demand.appliance_rows import read_rows
from noontide.core.demand.sources import KIND_TITLES, Source
from noontide.core.design import Design
from noontide.core.fields import Document, Id
from noontide.core.verbs.naming import fresh
from noontide.core.verbs.tariffs import ImpossibleAct

MOST_TEXT = 200_000  # characters


class AddSource(Document):
    source: Source


class TakeRows(Document):
    source: Id | None = None  # a list of appliances; a new one where none is named
    text: str = Field(max_length=MOST_TEXT)
    replaces: bool = False


def add_source(design: Design, given: AddSource) -> tuple[dict[str, Any], str]:
    """A source under a fresh id, with a name that no other has."""
    source = given.source.model_dump(mode="json", exclude_unset=True)
    taken = [one.name for one in design.demand.sources.values()]
    name = source.get("name") or KIND_TITLES[given.source.kind]
    source["name"] = next(title for n in range(1, len(taken) + 2) if (title := name if n == 1 else f"{name} {n}") not in taken)
    key = fresh(given.source.kind.replace("_", "-"), design.demand.sources)
    return {"demand": {"sources": {key: source}}}, f"{source['name']} is added."


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
    one = design.demand.sources.get(given.source)
    if one is None or one.appliances is None:
        raise ImpossibleAct(f"'{given.source}' is no list of appliances.")
    known = dict.fromkeys(one.appliances.items)
    replaced: dict[str, Any] = dict.fromkeys(known) if given.replaces else {}
    taken: list[str] = [] if given.replaces else list(known)
    for item in items:
        key = fresh("appliance", taken)
        taken.append(key)
        # What was there under this id is replaced whole, not merged with.
        before = one.appliances.items[key].model_fields_set if key in known else ()
        replaced[key] = dict.fromkeys(before) | item
    return {"demand": {"sources": {given.source: {"appliances": {"items": replaced}}}}}, words
