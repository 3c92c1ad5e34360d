"""Every verb that is applied by name: its words, the schema of its arguments, and the function."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from noontide.core.design import Design
from noontide.core.design.kept_view import KeptView
from noontide.core.fields import Document
from noontide.core.simulation import Libraries
from noontide.core.verbs.batteries import SizeBattery, SizeSystem, TakeBattery, size_battery, size_system, take_battery
from noontide.core.verbs.connection import JoinStations, LimitExport, SetImpedance, join_stations, limit_export, set_impedance
from noontide.core.verbs.copies import CopyObjects, MirrorObjects, PutObjects, copy_objects, mirror_objects, put_objects
from noontide.core.verbs.costs import AddCost, TakeCarbon, TakeYieldTable, add_cost, take_carbon, take_yield_table
from noontide.core.verbs.fill import Fill, FillFaces, fill, fill_faces
from noontide.core.verbs.hanging import HangStrings, hang_strings
from noontide.core.verbs.land import FollowLand, follow_land
from noontide.core.verbs.modules import (
    DeleteModules,
    DrawString,
    MoveModules,
    StringModules,
    SwapModules,
    UnpairRacks,
    delete_modules,
    draw_string,
    move_modules,
    repair_strings,
    string_modules,
    swap_modules,
    unpair_racks,
)
from noontide.core.verbs.outlines import TraceOutline, trace_outline
from noontide.core.verbs.planned_lengths import take_lengths
from noontide.core.verbs.shared import ImpossibleAct, OnSurface
from noontide.core.verbs.sources import AddAppliance, AddSource, TakeRows, add_appliance, add_source, take_rows
from noontide.core.verbs.strings import (
    AddInverter,
    AddStrings,
    DeleteInverter,
    add_inverter,
    add_strings,
    delete_inverter,
)
from noontide.core.verbs.surfaces import AddSurface, add_surface, arrange_rows, delete_surface, take_strings
from noontide.core.verbs.targets import DesignTo, FindStrings, design_to, string_anew
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
from noontide.core.verbs.things import DeleteThings, delete_things
from noontide.core.verbs.trackers import TurnRows, turn_rows
from noontide.core.verbs.views import keep_view

__all__ = ["VERBS", "ImpossibleAct", "Verb", "applied"]


@dataclass(frozen=True)
class Verb:
    """What can be done to a design: pure, (design, arguments) to a merge patch and words; some look into the libraries, and are given them too."""

    title: str
    arguments: type[Document]
    act: Callable[..., tuple[dict[str, Any], str]]
    looks_into_libraries: bool = False


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
    "limit-export": Verb("Limit the export", LimitExport, limit_export),
    "set-impedance": Verb("Say what the grid's impedance is", SetImpedance, set_impedance),
    "join-stations": Verb("Lay a medium-voltage cable between stations", JoinStations, join_stations),
    "add-surface": Verb("Add a surface", AddSurface, add_surface),
    "arrange-rows": Verb("Arrange a surface in rows", OnSurface, arrange_rows),
    "take-strings": Verb("Take the strings of the plane beside the scene to a surface", OnSurface, take_strings),
    "delete-surface": Verb("Delete a surface with its strings", OnSurface, delete_surface),
    "fill": Verb("Lay modules on a face", Fill, fill, looks_into_libraries=True),
    "fill-faces": Verb("Lay modules on several faces", FillFaces, fill_faces, looks_into_libraries=True),
    "turn-rows": Verb("Put rows on single-axis trackers, or back on racks", TurnRows, turn_rows, looks_into_libraries=True),
    "move-modules": Verb("Move modules on their face", MoveModules, move_modules),
    "delete-modules": Verb("Take modules from the plan", DeleteModules, delete_modules),
    "swap-modules": Verb("Lay another type of module", SwapModules, swap_modules, looks_into_libraries=True),
    "unpair-racks": Verb("Let all racks of a face look one way again", UnpairRacks, unpair_racks),
    "string-modules": Verb("Put the modules of a surface into its strings by a pattern", StringModules, string_modules),
    "draw-string": Verb("A string through modules in their order", DrawString, draw_string),
    "repair-strings": Verb("Fill up strings that lost modules", OnSurface, repair_strings),
    "take-lengths": Verb("String cables as long as the plan asks for", OnSurface, take_lengths),
    "trace-outline": Verb("Make an outline on the ground a building or a field", TraceOutline, trace_outline),
    "find-strings": Verb("Find strings and inverters anew", FindStrings, string_anew, looks_into_libraries=True),
    "design-to": Verb("Design an array to a target", DesignTo, design_to, looks_into_libraries=True),
    "follow-land": Verb("Part a field into planes that follow the land", FollowLand, follow_land),
    "copy-objects": Verb("Put copies of objects beside them", CopyObjects, copy_objects),
    "mirror-objects": Verb("Mirror objects over the middle of their building", MirrorObjects, mirror_objects),
    "put-objects": Verb("Put objects of this or another scene down", PutObjects, put_objects),
    "delete-things": Verb("Delete things of the scene with all that stands on them", DeleteThings, delete_things),
    "keep-view": Verb("Keep a view of the scene, for reports", KeptView, keep_view),
    "add-source": Verb("Add a source of demand", AddSource, add_source),
    "add-appliance": Verb("Add an appliance to a list", AddAppliance, add_appliance),
    "take-rows": Verb("Take rows of a spreadsheet as appliances", TakeRows, take_rows),
}


def applied(design: Design, name: str, arguments: Any, libraries: Libraries | None = None) -> tuple[dict[str, Any], str]:
    """The merge patch and the words of a verb; what it does not find in the libraries it finds in the design, or does without.

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
    given = verb.arguments.model_validate(arguments)
    return verb.act(design, given, libraries or Libraries()) if verb.looks_into_libraries else verb.act(design, given)
