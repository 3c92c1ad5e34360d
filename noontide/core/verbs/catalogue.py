"""Every verb that is applied by name: its words, the schema of its arguments, and the function."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from noontide.core.design import Design
from noontide.core.fields import Document
from noontide.core.verbs.batteries import SizeBattery, SizeSystem, TakeBattery, size_battery, size_system, take_battery
from noontide.core.verbs.costs import AddCost, TakeCarbon, TakeYieldTable, add_cost, take_carbon, take_yield_table
from noontide.core.verbs.hanging import HangStrings, hang_strings
from noontide.core.verbs.shared import ImpossibleAct
from noontide.core.verbs.sources import AddAppliance, AddSource, TakeRows, add_appliance, add_source, take_rows
from noontide.core.verbs.strings import (
    AddInverter,
    AddStrings,
    DeleteInverter,
    add_inverter,
    add_strings,
    delete_inverter,
)
from noontide.core.verbs.surfaces import AddSurface, ArrangeRows, DeleteSurface, add_surface, arrange_rows, delete_surface
from noontide.core.verbs.tariffs import (
    AddTerm,
    DivideYear,
    PaintWeek,
    SetTiers,
    TakePrices,
    TakeTariff,
    add_term,
    divide_year,
    paint_week,
    set_tiers,
    take_prices,
    take_tariff,
)

__all__ = ["VERBS", "ImpossibleAct", "Verb", "applied"]


@dataclass(frozen=True)
class Verb:
    """What can be done to a design: pure, (design, arguments) to a merge patch and words."""

    title: str
    arguments: type[Document]
    act: Callable[[Design, Any], tuple[dict[str, Any], str]]


VERBS: dict[str, Verb] = {
    "take-tariff": Verb("Take another tariff", TakeTariff, take_tariff),
    "paint-week": Verb("Paint hours of the week with a price", PaintWeek, paint_week),
    "divide-year": Verb("Make some months a season of their own", DivideYear, divide_year),
    "take-prices": Verb("Take prices by hour from pasted cells", TakePrices, take_prices),
    "set-tiers": Verb("Set prices that rise with the energy of the month", SetTiers, set_tiers),
    "add-term": Verb("Add a demand charge, standing charge, tax or price of exported energy", AddTerm, add_term),
    "add-cost": Verb(
        "Add an item of the purchase, a yearly cost, a replacement, a grant, a loan or tax relief", AddCost, add_cost
    ),
    "take-carbon": Verb("Take CO₂ of the grid by hour from pasted cells", TakeCarbon, take_carbon),
    "take-yield-table": Verb(
        "Take a zone of a yield table from a list of zone, tilt, azimuth and kWh/kW", TakeYieldTable, take_yield_table
    ),
    "take-battery": Verb("Take a battery of the library, or one of a size alone", TakeBattery, take_battery),
    "size-battery": Verb("Give the battery a size", SizeBattery, size_battery),
    "size-system": Verb("Give array and battery a size", SizeSystem, size_system),
    "hang-strings": Verb("Hang all strings on inverters, or on charge controllers", HangStrings, hang_strings),
    "add-inverter": Verb("Add an inverter, with a string on its first tracker", AddInverter, add_inverter),
    "add-strings": Verb("Add a string to a tracker", AddStrings, add_strings),
    "delete-inverter": Verb("Delete an inverter with its strings", DeleteInverter, delete_inverter),
    "add-surface": Verb("Add a surface", AddSurface, add_surface),
    "arrange-rows": Verb("Arrange a surface in rows", ArrangeRows, arrange_rows),
    "delete-surface": Verb("Delete a surface with its strings", DeleteSurface, delete_surface),
    "add-source": Verb("Add a source of demand", AddSource, add_source),
    "add-appliance": Verb("Add an appliance to a list", AddAppliance, add_appliance),
    "take-rows": Verb("Take rows of a spreadsheet as appliances", TakeRows, take_rows),
}


def applied(design: Design, name: str, arguments: Any) -> tuple[dict[str, Any], str]:
    """The merge patch and the words of a verb.

    Raises
    ------
    KeyError
        If there is no such verb.
    pydantic.ValidationError
        If the arguments do not fit its schema.
    ImpossibleAct
        If it cannot be done to this design.
    """
    verb = VERBS[name]
    return verb.act(design, verb.arguments.model_validate(arguments))
