"""Whether a clock kept summer time, and by which zone: by its stamps, and by the sun."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.clockwork import (
    Wall,
    before_stamp,
    standard_minutes,
    summer_times,
)
from noontide.core.weather.reading.findings import Findings, sureness_of
from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.model import Reading
from noontide.core.weather.reading.preamble import Preamble
from noontide.core.weather.reading.sunfit import fit_sun
from noontide.core.weather.reading.table_light import (
    TELLING,
    Floats,
    fit_of,
    middles_of,
)

SUMMER_ZONES = (
    "Europe/Paris",
    "Europe/London",
    "Europe/Helsinki",
    "America/New_York",
    "Australia/Sydney",
    "Pacific/Auckland",
    "America/Santiago",
)


def find_summer_time(reading: Reading, frame: Frame, wall: Wall, light: Floats, words: Preamble, say: Findings) -> None:
    """Whether the clock follows a summer time: by the hour it leaves out and the hour it shows twice, else by the sun in summer and winter."""
    if words.has_summer_time is not None and not words.has_summer_time[0]:
        say("summer time", "none", f"Line {words.has_summer_time[1]} says so.", "certain")
        return
    if reading.is_typical or not wall.has_year:
        return
    years = wall.minutes.astype("int64").astype("datetime64[m]").astype("datetime64[Y]").astype(np.int64) + 1970
    stamps = np.unique(wall.minutes)
    doubled = wall.minutes.size - stamps.size
    zones = ([words.zone[0]] if words.zone else []) + [z for z in SUMMER_ZONES if not words.zone or z != words.zone[0]]
    is_open = sureness_of(reading).get("time") != "certain"
    marks = [reading.stamps, *(m for m in ("start", "end") if is_open and m != reading.stamps)]
    seen = [
        (zone, mark)
        for mark in marks
        for zone in zones
        if any(
            _changes_as_in(zone, stamps, doubled, years, reading.step, back)
            # A stamp may be the clock's own at its moment, or that of the interval's begin with the interval's length added.
            for back in {0.0, before_stamp(reading.model_copy(update={"stamps": mark}))}
        )
    ]
    if seen:
        zone, mark = _by_the_sun(seen, reading, wall, light)
        reading.daylight_saving = zone
        say("summer time", zone, "The clock leaves out the hour of spring and shows the hour of autumn twice.", "certain")
        if mark != reading.stamps:
            reading.stamps = mark  # type: ignore[assignment]
            say("time", f"{mark} of the interval", "Under it the clearest days follow the sun.", "likely")
        elif is_open:
            _first_row_without(reading, wall, say)
        return
    # A clock in summer time whose changes cannot be seen, as with nights left out: the sun tells by an hour's difference.
    if doubled or reading.latitude is None or reading.longitude is None:
        return
    halves = []
    month = (wall.minutes.astype("int64").astype("datetime64[m]").astype("datetime64[M]").astype(np.int64)) % 12
    for months in ((4, 5, 6, 7), (10, 11, 0, 1)):
        mine = np.isin(month, months)
        if not mine.any():
            return
        found = fit_sun(middles_of(reading, wall)[mine], light[mine], reading.step, reading.latitude, reading.longitude)
        if found is None:
            return
        halves.append(found.best)
    northern, southern = halves
    apart = southern - northern  # a clock an hour ahead in the northern summer needs an hour less there
    if 45 <= abs(apart) <= 75:
        is_north = apart > 0
        zone = next((z for z in zones if words.zone and z == words.zone[0]), "Europe/Paris" if is_north else "Australia/Sydney")
        if is_north and reading.longitude < -30:
            zone = words.zone[0] if words.zone else "America/New_York"
        reading.daylight_saving = zone
        say("summer time", zone, f"In summer the light is {abs(apart):.0f} min later by the clock than in winter.", "likely")
        if sureness_of(reading).get("time") != "certain":
            _first_row_without(reading, wall, say)


def _first_row_without(reading: Reading, wall: Wall, say: Findings) -> None:
    """In the south a year begins in summer time: a first row at one o'clock may be the midnight of standard time."""
    minutes = standard_minutes(wall, reading.model_copy(update={"stamps": "start"}))
    if reading.stamps == "end" and not begins_late(replace(wall, minutes=minutes), reading.step) and minutes.min() % 1440 == 0:
        reading.stamps = "start"
        say("time", "start of the interval", "In standard time the first row stands at midnight.", "guess")


def _changes_as_in(zone: str, stamps: Floats, doubled: int, years: NDArray[np.int64], step: int, back: float) -> bool:
    """Whether times leave out the hours of spring and show those of autumn twice as the clock of a zone does."""
    try:
        spans = summer_times(zone, int(years.min()), int(years.max()))
    except WeatherFileError:
        return False
    begins = [b for b, _ in spans if np.isfinite(b) and stamps[0] + 1440 < b < stamps[-1] - 1440]
    ends = [e for _, e in spans if np.isfinite(e) and stamps[0] + 1440 < e < stamps[-1] - 1440]
    if not begins or not ends or doubled < len(ends):
        return False
    inside = np.arange(step / 2, 60, step)
    left_out = all(not np.isin(np.round(b - 60 + inside - step / 2 + back), np.round(stamps)).any() for b in begins)
    return left_out and all(np.isin(np.round([b - 60 - step + back, b + back]), np.round(stamps)).all() for b in begins)


def _by_the_sun(seen: list[tuple[str, str]], reading: Reading, wall: Wall, light: Floats) -> tuple[str, str]:
    """Of zones and marks that suit the changes of a clock, those under which the clearest days follow the sun clearly best."""
    if len({mark for _, mark in seen}) == 1 or reading.latitude is None or reading.longitude is None:
        return seen[0]

    def off(one: tuple[str, str]) -> float:
        zone, mark = one
        trial = reading.model_copy(update={"daylight_saving": zone, "stamps": mark})
        fit = fit_of(trial, wall, light)
        return abs(fit.best) if fit is not None else np.inf

    best = min(seen, key=off)
    return best if off(best) < off(seen[0]) - TELLING else seen[0]


def begins_late(wall: Wall, step: int) -> bool:
    first, last = wall.minutes.min() % 1440, wall.minutes.max() % 1440
    return first == step and last == 0
