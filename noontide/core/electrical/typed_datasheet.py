"""A datasheet as it is typed or pasted: lines of a name, a number and a unit, in the words of the trade."""

import re
from dataclasses import dataclass, field
from typing import Any

from noontide.core.electrical.datasheets import KINDS
from noontide.core.electrical.parts_table import field_words

MOST_LINES = 400
NUMBER = re.compile(r"[-+\u2212]?\d+(?:[.,]\d+)?")
DIMENSIONS = re.compile(
    r"(\d+(?:[.,]\d+)?)\s*[x×*]\s*(\d+(?:[.,]\d+)?)(?:\s*[x×*]\s*\d+(?:[.,]\d+)?)?\s*(mm|cm|m)\b", re.IGNORECASE
)
# Units that are not the datasheet's own, and what they are multiplied by.
UNITS = {
    "kw": 1000.0, "kva": 1000.0, "kwp": 1000.0, "kv": 1000.0, "mm": 0.001, "cm": 0.01, "ma": 0.001, "kwh": 1000.0, "g": 0.001, "t": 1000.0,
}  # fmt: skip
SPELT = {"v/k": "V/K", "mv/k": "mV/K", "a/k": "A/K", "ma/k": "mA/K", "w/k": "W/K"}
COEFFICIENTS = {"isc_coefficient": "isc", "voc_coefficient": "voc", "power_coefficient": "power"}


@dataclass
class TypedDatasheet:
    """What lines of a datasheet say."""

    values: dict[str, Any] = field(default_factory=dict)  # by field
    converted: list[str] = field(default_factory=list)  # what was converted, in words
    unread: list[str] = field(default_factory=list)  # lines that mean nothing known


def read_datasheet(text: str, kind: str) -> TypedDatasheet:
    """Fields and values of pasted lines such as `Voc 39.4 V` or `Temperature coefficient of Pmax: -0.30 %/K`.

    Raises
    ------
    ValueError
        If there are more lines than any datasheet has.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise ValueError(f"A datasheet has at most {MOST_LINES} lines; these are {len(lines):,}. Paste one part at a time.")
    words = sorted(field_words(KINDS[kind].model).items(), key=lambda item: -len(item[0]))
    found, per_kelvin = TypedDatasheet(), {}
    for line in lines:
        if "length" in KINDS[kind].model.model_fields and (sides := DIMENSIONS.search(line)):
            factor = {"mm": 0.001, "cm": 0.01, "m": 1.0}[sides[3].lower()]
            long, short = sorted((_number(sides[1]) * factor, _number(sides[2]) * factor), reverse=True)
            found.values |= {"length": round(long, 6), "width": round(short, 6)}
            continue
        name, rest = _parted(line)
        key = next((key for word, key in words if _holds(name, word)), "")
        if not key:
            found.unread.append(line)
            continue
        number = NUMBER.search(rest)
        if number is None:
            if key in ("maker", "name", "technology", "source", "date") and rest:
                found.values[key] = rest
            else:
                found.unread.append(line)
            continue
        unit = rest[number.end() :].strip().split(" ")[0].strip("()[],;").lower().replace("°c", "k")
        if key in ("maker", "name", "source", "date"):
            found.values[key] = rest
        elif key in COEFFICIENTS and unit in SPELT:
            per_kelvin[key] = _number(number[0]) * (0.001 if unit.startswith("m") else 1.0), unit
        else:
            value = _number(number[0]) * UNITS.get(unit, 1.0)
            if unit in UNITS:
                found.converted.append(f"{line}: taken as {value:g}")
            found.values[key] = int(value) if value == int(value) and abs(value) < 1e9 else round(value, 9)
    for key, (value, unit) in per_kelvin.items():
        of = found.values.get(COEFFICIENTS[key])
        if of:
            found.values[key] = round(value / of * 100, 5)
            found.converted.append(
                f"{key.replace('_', ' ')} from {SPELT[unit]}: {found.values[key]:g} %/K".replace("-", "\u2212")
            )
    return found


def _parted(line: str) -> tuple[str, str]:
    """The name before the value, and the value."""
    for divider in ("\t", ":", "="):
        if divider in line:
            name, rest = line.split(divider, 1)
            return name, rest.replace("\t", " ").strip()
    if (wide := re.split(r"\s{2,}", line, maxsplit=1)) and len(wide) == 2:
        return wide[0], wide[1].strip()
    number = re.search(r"(?<![\w.])[-+\u2212]?\d", line)
    if number is None:
        name, _, rest = line.partition(" ")
        return name, rest
    return line[: number.start()], line[number.start() :]


def _holds(name: str, word: str) -> bool:
    """Whether a name says a known word, whole."""
    folded = " ".join(re.sub(r"[^a-z0-9]+", " ", name.casefold()).split())
    return f" {word} " in f" {folded} "


def _number(text: str) -> float:
    return float(text.replace("\u2212", "-").replace(",", "."))
