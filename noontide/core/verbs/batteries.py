"""What can be done to the storage of a design: take a battery, give it a size."""

from typing import Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.circuits import MOST_STRINGS
from noontide.core.electrical.string_limits import LONGEST
from noontide.core.fields import Document
from noontide.core.storage.document import Bank
from noontide.core.verbs.shared import ImpossibleAct

SMALLEST = 0.05  # kWh, below which there is no battery


class TakeBattery(Document):
    model: str | None = Field(None, max_length=64)  # of the library; one of a size alone where none is named


class SizeBattery(Document):
    energy: float = Field(ge=0, le=1e6)  # usable [kWh]
    power: float | None = Field(None, gt=0, le=1e6)  # at the AC side [kW]; as it is where none is given


class SizeSystem(Document):
    array: float = Field(gt=0, le=1e6)  # rated [kW]
    energy: float = Field(ge=0, le=1e6)  # usable [kWh]
    power: float | None = Field(None, gt=0, le=1e6)  # of the battery at the AC side [kW]; as it is where none is given


def take_battery(design: Design, given: TakeBattery) -> tuple[dict[str, Any], str]:
    """A battery of the library, or one of a size alone, in place of the present one; what it serves stays."""
    if design.storage.bank is None:
        bank: dict[str, Any] = {} if given.model is None else {"model": given.model}
        return {"storage": {"bank": bank or {"energy": Bank().energy}}}, "A battery is added."
    changes: dict[str, Any] = {"model": given.model, "series": None, "parallel": None, "power": None, "efficiency": None}
    if given.model is None:
        sheet = design.parts.batteries.get(design.storage.bank.model or "")
        if sheet is not None:
            bank_now = design.storage.bank
            changes["energy"] = sheet.capacity * bank_now.series * bank_now.parallel / 1000
    return {"storage": {"bank": changes}}, "Another battery is in its place."


def size_battery(design: Design, given: SizeBattery) -> tuple[dict[str, Any], str]:
    """A battery of a size: as many units in parallel as come nearest where it is one of the library; none at all for next to nothing.

    Raises
    ------
    ImpossibleAct
        If the datasheet of its model is not in the design.
    """
    if given.energy < SMALLEST:
        return {"storage": {"bank": None}}, "The battery is removed."
    bank, power = design.storage.bank, {"power": given.power} if given.power is not None else {}
    if bank is None or bank.model is None:
        return {"storage": {"bank": {"energy": round(given.energy, 2), **power}}}, f"{given.energy:.3g} kWh."
    sheet = design.parts.batteries.get(bank.model)
    if sheet is None:
        raise ImpossibleAct(f"The datasheet of '{bank.model}' is not in the design. Choose the battery again.")
    string = sheet.capacity * bank.series / 1000
    count = max(round(given.energy / string), 1)
    words = f"{count} × {f'{bank.series} × ' if bank.series > 1 else ''}{sheet.maker} {sheet.name}: {count * string:.3g} kWh."
    return {"storage": {"bank": {"parallel": count, **power}}}, words


def is_laid(design: Design) -> bool:
    """Whether modules have places on the scene, so that their number is not a matter of a number alone."""
    return any(s.layout is not None for s in design.surfaces.values()) or any(s.string_plan for s in design.subarrays.values())


def size_system(design: Design, given: SizeSystem) -> tuple[dict[str, Any], str]:
    """Array and battery of a size: strings are added or removed in proportion, modules of a string where there is one alone.

    Raises
    ------
    ImpossibleAct
        If the modules have places of their own on the scene, or a datasheet is not in the design.
    """
    if is_laid(design):
        raise ImpossibleAct(
            "The modules have their places on the scene. Fill or clear its faces there, and size the battery alone."
        )
    if not design.subarrays:
        raise ImpossibleAct("There are no modules yet. Add a sub-array first.")
    counts = {key: design.inverters[one.inverter].count for key, one in design.subarrays.items()}
    powers: dict[str, float] = {}
    for key, one in design.subarrays.items():
        sheet = design.parts.modules.get(one.module)
        if sheet is None:
            raise ImpossibleAct(f"The datasheet of '{one.module}' is not in the design. Choose the module again.")
        powers[key] = sheet.power * counts[key] / 1000
    have = sum(powers[key] * one.strings * one.modules_per_string for key, one in design.subarrays.items())
    ratio, total, changes = given.array / have, 0.0, {}
    for key, one in design.subarrays.items():
        length, strings = one.modules_per_string, one.strings
        if strings == 1 and round(ratio) <= 1:
            length = min(max(round(length * ratio), 1), LONGEST)
        else:
            strings = min(max(round(strings * ratio), 1), MOST_STRINGS)
        changes[key] = {"modules_per_string": length, "strings": strings}
        total += powers[key] * length * strings
    battery, words = size_battery(design, SizeBattery(energy=given.energy, power=given.power))
    return {"subarrays": changes, **battery}, f"{total:.3g} kW of the {given.array:.3g} kW asked for, in whole modules. {words}"
