"""A year of weather on a regular axis, whatever file it came from."""

import hashlib
import re
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.sun import IntervalSun, extraterrestrial_normal, interval_sun, standard_pressure
from noontide.core.weather.decomposition import LEAST_COSINE, close_beam, erbs

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Place:
    """Where the weather was measured or made."""

    latitude: float  # [°]
    longitude: float  # [°]
    elevation: float = 0.0  # [m]


# How the note begins that a year carries whose place nobody stated.
GUESSED_PLACE = "The place is a guess"


@dataclass(frozen=True)
class Step:
    """One thing that was done to a year, in the order in which it was done."""

    kind: str  # read, synthesised, typical year, adjusted...
    words: str


TYPICAL = "typical year"  # kind of the step that says which year each month comes from


FILLED, CAPPED, SUSPECT = 1, 2, 4  # marks of an interval: a missing value was filled, a value was capped, a check doubts it


@dataclass(frozen=True, eq=False)
class Weather:
    """Means over each interval of a year, every column (intervals,)."""

    calendar: Calendar
    place: Place
    ghi: Floats  # [W/m2]
    dni: Floats  # [W/m2]
    dhi: Floats  # [W/m2]
    temperature: Floats  # of the air [°C]
    wind: Floats  # at 10 m [m/s]
    pressure: Floats  # [hPa]
    title: str = "Weather year"
    source: str = ""
    is_typical: bool = True
    notes: tuple[str, ...] = field(default=())  # what was derived, converted or corrected, in words
    given: tuple[str, ...] = (
        "ghi",
        "dni",
        "dhi",
        "temperature",
        "wind",
        "pressure",
    )  # columns of the source; the others are derived
    flags: NDArray[np.uint8] = field(default_factory=lambda: np.zeros(0, dtype=np.uint8))  # marks, (intervals,)
    steps: tuple[Step, ...] = ()  # where the year comes from, all the way

    def __post_init__(self) -> None:
        if self.flags.size != self.calendar.intervals:
            object.__setattr__(self, "flags", np.zeros(self.calendar.intervals, dtype=np.uint8))

    @property
    def is_place_guessed(self) -> bool:
        """Whether its place was found by the course of the light, since the file states none."""
        return any(note.startswith(GUESSED_PLACE) for note in self.notes)

    @cached_property
    def digest(self) -> str:
        """Hash of all that a simulation depends on."""
        c, place = self.calendar, self.place
        numbers = (c.year, c.step, c.utc_offset, place.latitude, place.longitude, place.elevation)
        digest = hashlib.blake2b(repr([float(number) for number in numbers]).encode(), digest_size=16)
        for column in (self.ghi, self.dni, self.dhi, self.temperature, self.wind, self.pressure):
            digest.update(np.ascontiguousarray(column).tobytes())
        return digest.hexdigest()


def fill_missing_columns(
    calendar: Calendar,
    place: Place,
    columns: dict[str, Floats],
    *,
    title: str,
    source: str = "",
    is_typical: bool = True,
    notes: tuple[str, ...] = (),
) -> Weather:
    """A whole weather year from the columns that a file has; the missing ones are derived, with a note for each.

    Parameters
    ----------
    columns : dict of (intervals,)
        `ghi` or both `dni` and `dhi` are needed, and `temperature`; `wind` and `pressure` are welcome.

    Raises
    ------
    ValueError
        If there is no irradiance or no temperature.
    """
    if "temperature" not in columns:
        raise ValueError("The air temperature is missing; it is needed for the cell temperature.")
    said = list(notes)
    sun = interval_sun(calendar, place.latitude, place.longitude, place.elevation)
    ghi, dni, dhi = _irradiance(calendar, sun, columns, said)
    if (wind := columns.get("wind")) is None:
        wind = np.full(calendar.intervals, 2.0)
        said.append("Wind is missing: taken as 2 m/s.")
    if (pressure := columns.get("pressure")) is None:
        pressure = np.full(calendar.intervals, standard_pressure(place.elevation))
        said.append(
            f"Air pressure is missing: {standard_pressure(place.elevation):.0f} hPa, standard atmosphere at {place.elevation:g} m."
        )
    weather = Weather(calendar, place, ghi, dni, dhi, columns["temperature"], wind, pressure, title, source, is_typical)
    return replace(weather, notes=tuple(said), given=tuple(columns))


def shift_clock(weather: Weather, hours: float) -> Weather:
    """The year with its values moved to later hours (earlier where `hours` is negative), in whole intervals, round the year's end.

    What was derived from the irradiance and the sun is derived again.
    """
    intervals = round(hours / weather.calendar.hours_per_interval)
    if not intervals:
        return weather
    columns = {name: np.roll(getattr(weather, name), intervals) for name in weather.given}
    shifted = replace(weather, flags=np.roll(weather.flags, intervals))
    return _again(shifted, columns, f"Clock shifted by {intervals * weather.calendar.hours_per_interval:+g} h.")


def beam_from_horizontal(weather: Weather) -> Weather:
    """The year with its DNI column read as the beam on the horizontal: DNI = beam / cos(zenith), no stronger than the sun above the air."""
    calendar, place = weather.calendar, weather.place
    sun = interval_sun(calendar, place.latitude, place.longitude, place.elevation)
    columns = {name: getattr(weather, name) for name in weather.given} | {"dni": dni_of_horizontal(weather.dni, sun)}
    return _again(weather, columns, "The DNI column was read as the beam on the horizontal and divided by cos(zenith).")


def dni_of_horizontal(beam: Floats, sun: IntervalSun) -> Floats:
    """DNI of a beam on the horizontal, both (intervals,) [W/m2]; 0 under the lowest suns."""
    up, dni = sun.interval_index, np.zeros(beam.size)
    dni[up] = np.divide(beam[up], sun.cos_zenith, out=np.zeros(up.size), where=sun.cos_zenith > LEAST_COSINE)
    dni[up] = np.minimum(dni[up], extraterrestrial_normal(sun.distance))
    return dni


def _again(weather: Weather, columns: dict[str, Floats], note: str) -> Weather:
    w = weather
    made = fill_missing_columns(w.calendar, w.place, columns, title=w.title, source=w.source, is_typical=w.is_typical)
    return replace(made, notes=(*w.notes, note), flags=w.flags, steps=(*w.steps, Step("adjusted", note)))


def _irradiance(
    calendar: Calendar, sun: IntervalSun, columns: dict[str, Floats], said: list[str]
) -> tuple[Floats, Floats, Floats]:
    ghi, dni, dhi = (columns.get(name) for name in ("ghi", "dni", "dhi"))
    cosine, lit_fraction, above = (np.zeros(calendar.intervals) for _ in range(3))
    cosine[sun.interval_index], lit_fraction[sun.interval_index] = sun.cos_zenith, sun.lit_fraction
    above[sun.interval_index] = extraterrestrial_normal(sun.distance)
    lit = sun.interval_index
    if ghi is None:
        if dni is None or dhi is None:
            raise ValueError("The irradiance is missing: GHI is needed, or both DNI and DHI.")
        said.append("GHI is missing: derived as DNI × cos(zenith) + DHI.")
        return dni * cosine + dhi, dni, dhi
    if dni is not None and dhi is not None:
        return ghi, dni, dhi
    new_dni, new_dhi = np.zeros_like(ghi), np.array(ghi, dtype=float)
    if dhi is not None:
        said.append("DNI is missing: derived from GHI = DNI × cos(zenith) + DHI.")
        new_dni[lit] = close_beam(ghi[lit], dhi[lit], cosine[lit])
        return ghi, new_dni, dhi
    if dni is not None:
        said.append("DHI is missing: derived from GHI = DNI × cos(zenith) + DHI.")
        return ghi, dni, np.maximum(ghi - dni * cosine, 0)
    said.append("DNI and DHI are missing: derived from GHI (Erbs et al. 1982).")
    new_dni[lit], new_dhi[lit] = erbs(ghi[lit], cosine[lit], above[lit], lit_fraction[lit])
    return ghi, new_dni, new_dhi


def runs_of(flags: NDArray[np.uint8]) -> list[list[int]]:
    """Marks of intervals as runs of start, length and mark: a few, where most intervals have none."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(np.int16), [0]])))
    pairs = pairwise(edges)
    return [[int(start), int(end - start), int(flags[start])] for start, end in pairs if flags[start]]


def flags_of(runs: list[list[int]], intervals: int) -> NDArray[np.uint8]:
    """The marks again, (intervals,)."""
    flags = np.zeros(intervals, dtype=np.uint8)
    for start, length, mark in runs:
        flags[start : start + length] = mark
    return flags


def source_years(weather: Weather) -> tuple[int, ...] | None:
    """The year that each month of a typical year comes from, (12,), where its steps say so."""
    for step in reversed(weather.steps):
        years = re.findall(r"[A-Z][a-z]{2} (\d{4})", step.words) if step.kind == TYPICAL else []
        if len(years) == 12:
            return tuple(map(int, years))
    return None
