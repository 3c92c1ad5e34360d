"""A yield table of one's own: what a scheme of rules counts a kW of modules to yield by zone, tilt and azimuth, and a shade factor from counted fields of the sky."""

import re
from itertools import pairwise
from typing import Annotated, Self

import numpy as np
from pydantic import Field, model_validator

from noontide.core.cells import number_in, rows_of
from noontide.core.fields import Document, Line, quantity

MOST_TILTS, MOST_AZIMUTHS = 91, 361
Tilt = Annotated[float, Field(ge=0, le=90)]
Azimuth = Annotated[float, Field(ge=0, le=360)]
Yield = Annotated[float, Field(ge=0, le=5000)]
HEADINGS = {
    "zone": r"zone|region|area|code",
    "tilt": r"tilt|pitch|slope|inclination",
    "deviation": r"from (south|north|the equator)|off (south|north)|deviation|orientation",
    "azimuth": r"azimuth|bearing|direction",
    "yield": r"yield|kwh",
}


class YieldTable(Document):
    """One zone of a yield table: kWh a kW by tilt and azimuth."""

    name: Line = Field("", max_length=120, title="Name")
    zone: Line = Field("", max_length=60, title="Zone")
    tilts: tuple[Tilt, ...] = Field(min_length=1, max_length=MOST_TILTS, title="Tilts [°]")
    azimuths: tuple[Azimuth, ...] = Field(min_length=1, max_length=MOST_AZIMUTHS, title="Azimuths [°]")
    from_equator: bool = Field(False, title="Azimuths are counted from the side of the equator, alike to both sides")
    yields: tuple[Annotated[tuple[Yield, ...], Field(max_length=MOST_AZIMUTHS)], ...] = Field(
        max_length=MOST_TILTS, title="Yield by tilt and azimuth [kWh/kW]"
    )
    shaded_fields: float = quantity(0.0, "Fields of the sky that are shaded", "", 0, 1000, "None was counted.", 1)
    share_of_field: float = quantity(
        1.0, "Share that a shaded field takes", "%", 0, 100, "A hundred fields share the sky's light.", 0.1
    )

    @model_validator(mode="after")
    def _is_a_grid(self) -> Self:
        for what, values in (("tilts", self.tilts), ("azimuths", self.azimuths)):
            if any(b <= a for a, b in pairwise(values)):
                raise ValueError(f"The {what} of a yield table must rise, each once.")
        if len(self.yields) != len(self.tilts) or any(len(row) != len(self.azimuths) for row in self.yields):
            raise ValueError(
                f"A yield table has a row for each of the {len(self.tilts)} tilts and a value for each of the {len(self.azimuths)} azimuths."
            )
        return self

    @property
    def shade_factor(self) -> float:
        """Share of the light that is left, 0..1."""
        return max(1 - self.shaded_fields * self.share_of_field / 100, 0.0)

    def yield_at(self, tilt: float, azimuth: float, equator: float = 180.0) -> float | None:
        """Yield of a kW between the values of the table, linear in both; None outside it [kWh/kW].

        A level surface has no azimuth: outside the azimuths of the table it takes their mean at 0°.

        Parameters
        ----------
        equator : float
            Azimuth of the side of the equator: 180° north of it, 0° south of it.
        """
        grid = np.array(self.yields)
        across = self._across(azimuth, equator)
        if tilt == 0 and self.tilts[0] == 0 and across is None:
            return float(grid[0].mean())
        if across is None or not self.tilts[0] <= tilt <= self.tilts[-1]:
            return None
        places, values = across
        return float(np.interp(tilt, self.tilts, [np.interp(places, values, row) for row in self._closed(grid)]))

    def _across(self, azimuth: float, equator: float) -> tuple[float, np.ndarray] | None:
        """Where an azimuth lies among those of the table, once around where it goes all around."""
        values = np.array(self.azimuths)
        place = abs((azimuth - equator + 180) % 360 - 180) if self.from_equator else azimuth % 360
        if self._goes_around:
            values = np.append(values, values[0] + 360)
            place = place if place >= values[0] else place + 360
        elif place == 0 and values[-1] == 360:
            place = 360.0
        return (place, values) if values[0] <= place <= values[-1] else None

    @property
    def _goes_around(self) -> bool:
        """Whether the step over north is no longer than the longest between two azimuths."""
        if self.from_equator or len(self.azimuths) < 3:
            return False
        steps = np.diff(self.azimuths)
        return bool(0 < self.azimuths[0] + 360 - self.azimuths[-1] <= steps.max() + 1e-9)

    def _closed(self, grid: np.ndarray) -> np.ndarray:
        return np.column_stack([grid, grid[:, 0]]) if self._goes_around else grid


def read_yield_table(text: str, zone: str = "", name: str = "") -> YieldTable:
    """A zone of a table with a row for each zone, tilt and azimuth, as CSV or cells; in any order, with headings.

    Parameters
    ----------
    zone : str
        Which one, where the table has several.

    Raises
    ------
    ValueError
        With the row and what is wrong in it, the zones that there are, or the combination that is missing.
    """
    rows = list(rows_of(text))
    if len(rows) < 2:
        raise ValueError("A yield table has headings (zone, tilt, azimuth, kWh/kW) and a row for each combination.")
    places = _places([cell.casefold() for cell in rows[0]])
    direction = "deviation" if "deviation" in places else "azimuth"
    if missing := [word for word in ("tilt", direction, "yield") if word not in places]:
        raise ValueError(f"Row 1: no column for {' and '.join(missing)}. Head them zone, tilt, azimuth (or from south), kWh/kW.")
    lines = [(number, row) for number, row in enumerate(rows[1:], start=2) if any(row)]
    zones = list(dict.fromkeys(_cell(row, places["zone"]) for _, row in lines)) if "zone" in places else [""]
    chosen = zone.strip() or (zones[0] if len(zones) == 1 else "")
    if chosen not in zones:
        known = ", ".join(zones[:12]) + (f" and {len(zones) - 12} more" if len(zones) > 12 else "")
        raise ValueError(
            f"The table has the zones {known}. Say which one."
            if not zone.strip()
            else f"The table has no zone '{zone[:40]}'; it has {known}."
        )
    found: dict[tuple[float, float], float] = {}
    for number, row in lines:
        if "zone" in places and _cell(row, places["zone"]) != chosen:
            continue
        lowest = -180.0 if direction == "deviation" else 0.0
        key = (
            _number(row, places["tilt"], number, "tilt", 0, 90),
            _number(row, places[direction], number, "azimuth", lowest, 360),
        )
        if key in found:
            raise ValueError(f"Row {number}: tilt {key[0]:g}° and azimuth {key[1]:g}° stand in an earlier row too.")
        found[key] = _number(row, places["yield"], number, "yield", 0, 5000)
    is_signed = direction == "deviation" and any(azimuth < 0 for _, azimuth in found)
    if is_signed:  # east and west apart: as azimuths of a compass, north of the equator
        found = {(tilt, (azimuth + 180) % 360): value for (tilt, azimuth), value in found.items()}
    tilts, azimuths = sorted({tilt for tilt, _ in found}), sorted({azimuth for _, azimuth in found})
    for tilt in tilts:
        for azimuth in azimuths:
            if (tilt, azimuth) not in found:
                raise ValueError(
                    f"The table has no row for tilt {tilt:g}° and azimuth {azimuth:g}°; every combination is needed."
                )
    return YieldTable(
        name=name, zone=chosen, tilts=tuple(tilts), azimuths=tuple(azimuths), from_equator=direction == "deviation" and not is_signed,
        yields=tuple(tuple(found[tilt, azimuth] for azimuth in azimuths) for tilt in tilts),
    )  # fmt: skip


def _places(headings: list[str]) -> dict[str, int]:
    """Column of each word that a heading means."""
    places: dict[str, int] = {}
    for place, heading in enumerate(headings):
        word = next((word for word, pattern in HEADINGS.items() if word not in places and re.search(pattern, heading)), None)
        if word is not None:
            places[word] = place
    return places


def _cell(row: list[str], place: int) -> str:
    return row[place].strip() if place < len(row) else ""


def _number(row: list[str], place: int, number: int, word: str, low: float, high: float) -> float:
    text = _cell(row, place)
    value = number_in(text.replace("°", ""))
    if value is None:
        raise ValueError(f"Row {number}: '{text[:20]}' is no {word}." if text else f"Row {number}: the {word} is missing.")
    if not low <= value <= high:
        raise ValueError(f"Row {number}: a {word} lies between {low:g} and {high:g}; it is {text[:20]}.")
    return value
