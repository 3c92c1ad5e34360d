"""What the columns of a table of interval data hold: power, energy or meter readings that count as use, by their headings and values."""

import re
from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.model import Sureness
from noontide.core.weather.reading.words import folded

Floats = NDArray[np.float64]
UseRole = Literal["power", "energy", "counter", "export", ""]
# Factor of each unit to kW, or to kWh.
POWERS = {"kW": 1.0, "W": 0.001, "MW": 1000.0}
ENERGIES = {"kWh": 1.0, "Wh": 0.001, "MWh": 1000.0, "MJ": 1 / 3.6, "kJ": 1 / 3600, "J": 1 / 3.6e6}
UNIT_WORDS = (
    ("MWh", r"mwh"), ("kWh", r"kwh|kw ?h\b|kilowatt.?h"), ("Wh", r"\bwh\b|watt.?h|watt.?stunden"), ("MW", r"\bmw\b"), ("kW", r"\bkw\b|kilowatt"),
    ("MJ", r"\bmj\b"), ("kJ", r"\bkj\b"), ("W", r"\bw\b|\bwatts?\b"), ("J", r"\bj\b|joule"),
)  # fmt: skip
EXPORT_WORDS = r"export|feed.?in|einspeis|delivered to grid|injection|generat|produc|solar|\bpv\b|2\.8\.\d|surplus|vertido|immess"
COUNTER_WORDS = r"meter ?read|zahlerstand|zaehlerstand|counter|register|stand\b|index|cumul|lecture|lettura|lectura|\b1\.8\.\d"
USE_WORDS = r"use|usage|consum|demand|load|import|bezug|verbrauch|last\b|leistung|energ|power|kwh|\bkw\b|\bwh\b|\bw\b|soutir|prelie|entnahme|value|wert|active"
LEFT_OUT = r"reactive|kvar|\bvar|voltage|\bvolt|current|\bamp|\bcos|power factor|\bpf\b|frequen|\bhz\b|temp|cost|price|eur|usd|gbp|\bid\b|flag|status|quality|estimat|tariff|blind"
SUM_WORDS = r"total|\bsum|gesamt|summe|\ball\b|somme|suma|somma|totale"
Say = Callable[[str, str, str, Sureness], None]


class UseColumn(BaseModel):
    """What a column of the table holds; with an empty role it is left out."""

    model_config = ConfigDict(extra="forbid", validate_assignment=True)

    place: int = Field(ge=0, le=999)
    heading: str = Field("", max_length=200)
    role: UseRole = ""
    unit: str = Field("", max_length=10)
    sureness: Sureness = "guess"
    reason: str = Field("", max_length=300)


def value_columns(headings: list[str], units: list[str], times: set[int], frame: Frame, step: int, say: Say) -> list[UseColumn]:
    """Every column of numbers beside the times, with its role and unit and the reason for both.

    Raises
    ------
    WeatherFileError
        If none of them is use.
    """
    columns = []
    for place in range(frame.table.shape[1]):
        if place in times:
            continue
        heading = headings[place] if place < len(headings) else ""
        words = folded(f"{heading} {units[place] if place < len(units) else ''}")
        values = frame.coerced(place)
        if not np.isfinite(values).any() or (np.isfinite(values).mean() < 0.5 and not frame.is_numeric(place)):
            continue
        columns.append(_column(place, heading, words, values, step))
    used = [c for c in columns if c.role in ("power", "energy", "counter")]
    if not used and len(rest := [c for c in columns if c.role == "" and not re.search(LEFT_OUT, folded(c.heading))]) == 1:
        rest[0].role, rest[0].unit, rest[0].reason = "energy", "kWh", "The only column of numbers; its unit is not stated."
        used = rest
    if not used:
        named = ", ".join(c.heading for c in columns[:6] if c.heading) or "no headings"
        raise WeatherFileError(f"no column was recognised as power or energy that is used ({named})", row=1)
    _leave_out_sums(used, frame)
    for c in used:
        if c.role:
            say("values", f"{c.heading or f'column {c.place + 1}'}: {c.role} [{c.unit}]", c.reason, c.sureness)
    return columns


def _column(place: int, heading: str, words: str, values: Floats, step: int) -> UseColumn:
    column = UseColumn(place=place, heading=heading[:200])
    unit = next((name for name, pattern in UNIT_WORDS if re.search(pattern, words)), "")
    if re.search(LEFT_OUT, words):
        column.reason = "The heading names something else."
        return column
    if re.search(EXPORT_WORDS, words) and not re.search(r"import|bezug|1\.8", words):
        column.role, column.unit, column.sureness, column.reason = (
            "export",
            unit or "kWh",
            "likely",
            "The heading names energy that is given or produced; it is no demand.",
        )
        return column
    if not unit and heading and not re.search(USE_WORDS, words):
        return column
    known = values[np.isfinite(values)]
    if unit not in POWERS and (_only_rises(known) or _only_rises(known[::-1])):
        column.role, column.unit, column.sureness = "counter", unit or "kWh", "certain" if unit else "likely"
        column.reason = "The values only rise: readings of a meter."
    elif unit in POWERS:
        column.role, column.unit, column.sureness, column.reason = "power", unit, "certain", f"The heading states {unit}."
    elif unit:
        column.role, column.unit, column.sureness, column.reason = (
            "energy",
            unit,
            "certain",
            f"The heading states {unit}, for each interval.",
        )
    elif heading:
        column.role, column.unit, column.reason = "energy", "kWh", "The heading names use; its unit is not stated."
    return column


def _only_rises(values: Floats) -> bool:
    """Whether values are readings of a meter: they rise by no more in all than they reach over, but where it rolls over or is changed."""
    if values.size < 8:
        return False
    steps = np.diff(values)
    falls, risen, reach = int((steps < 0).sum()), float(steps[steps > 0].sum()), float(values.max() - values.min())
    return (
        falls <= max(2, 0.002 * steps.size) and reach > 0 and risen <= 3.5 * reach and int((steps > 0).sum()) > 0.05 * steps.size
    )


def _leave_out_sums(used: list[UseColumn], frame: Frame) -> None:
    """Of a total beside its parts, the total alone counts."""
    if len(used) < 3 or len({(c.role, c.unit) for c in used}) > 1:
        return
    named = [c for c in used if re.search(SUM_WORDS, folded(c.heading))]
    if len(used) == 3 and not named:  # one of three can be the sum of the two others by chance
        return
    values = np.array([np.nan_to_num(frame.coerced(c.place)) for c in used])
    for k, column in enumerate(used):
        others = np.delete(values, k, axis=0).sum(axis=0)
        if np.allclose(values[k], others, rtol=0.01, atol=0.01 * max(float(np.abs(others).max()), 1e-9)):
            column.reason = "The sum of the other columns, which are left out."
            for other in used:
                if other is not column:
                    other.role, other.reason = "", "A part of the sum in another column."
            return
