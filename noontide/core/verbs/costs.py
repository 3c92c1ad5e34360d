"""What can be done to the costs of a design: add an item of any kind, take CO₂ of the grid by hour from pasted cells."""

from typing import Any, Literal

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.naming import fresh
from noontide.core.fields import Document
from noontide.core.money.price_table import read_hour_table
from noontide.core.money.yield_table import read_yield_table
from noontide.core.verbs.shared import MOST_TEXT, ImpossibleAct

CostKind = Literal["costs", "upkeep", "replacements", "grants", "loans", "tax_relief"]
CarbonPer = Literal["g/kWh", "kg/kWh"]  # kg/MWh are g/kWh
# An item that is added begins with a value that anybody sees is to be set.
NEW_ITEMS: dict[CostKind, dict[str, Any]] = {
    "costs": {"name": "Mounting and work", "amount": 350.0, "per": "kW"},
    "upkeep": {"name": "Operation and insurance", "amount": 1.0, "per": "% of purchase"},
    "replacements": {"name": "Inverters", "amount": 150.0, "per": "kW"},
    "grants": {"name": "Grant", "share": 10.0},
    "loans": {"name": "Loan"},
    "tax_relief": {"name": "Write-off"},
}


class AddCost(Document):
    kind: CostKind


class TakeCarbon(Document):
    text: str = Field(max_length=MOST_TEXT)
    per: CarbonPer = "g/kWh"


class TakeYieldTable(Document):
    text: str = Field(max_length=MOST_TEXT)
    zone: str = Field("", max_length=60)
    name: str = Field("", max_length=120)


def add_cost(design: Design, given: AddCost) -> tuple[dict[str, Any], str]:
    """An item of the purchase, a yearly cost, a replacement, a grant, a loan or tax relief more."""
    item = NEW_ITEMS[given.kind]
    key = fresh(given.kind.removesuffix("s").replace("_", "-"), getattr(design.money, given.kind))
    return {"money": {given.kind: {key: item}}}, f"{item['name']} is added."


def take_carbon(design: Design, given: TakeCarbon) -> tuple[dict[str, Any], str]:
    """CO₂ of energy from the grid by hour, in place of the one value for all hours; empty cells give that one back.

    Raises
    ------
    ImpossibleAct
        If the cells are no table of hours.
    """
    if not given.text.strip():
        return {"money": {"carbon_by_hour": None}}, "CO₂ of the grid is one value for all hours."
    try:
        table = read_hour_table(given.text, "value")
    except ValueError as error:
        raise ImpossibleAct(str(error)) from None
    factor = 1000.0 if given.per == "kg/kWh" else 1.0
    grams = [value * factor for value in table]
    words = f"{len(grams):,} values by hour, {min(grams):,.4g} to {max(grams):,.4g} g/kWh."
    return {"money": {"carbon_by_hour": grams}}, words


def take_yield_table(design: Design, given: TakeYieldTable) -> tuple[dict[str, Any], str]:
    """A zone of a yield table in place of the present one; what was counted of the sky stays.

    Raises
    ------
    ImpossibleAct
        If the cells are no yield table, or have several zones and none is named.
    """
    before = design.money.yield_table
    try:
        table = read_yield_table(given.text, given.zone, given.name or (before.name if before is not None else "Table of rules"))
    except ValueError as error:
        raise ImpossibleAct(str(error)) from None
    values = table.model_dump(mode="json", exclude_unset=True)
    words = f"{len(table.tilts)} tilts by {len(table.azimuths)} azimuths{f' of zone {table.zone}' if table.zone else ''}."
    return {"money": {"yield_table": values}}, words
