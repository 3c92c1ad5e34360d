"""Whether the values of a year can be: the quality checks of the literature, with the intervals that each doubts."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.sun import IntervalSun, extraterrestrial_normal, interval_sun
from noontide.core.weather.clear_sky import ineichen_perez
from noontide.core.weather.year import FILLED, SUSPECT, Weather

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
BSRN = "Long and Dutton (2002), BSRN recommended QC tests V2.0"
ENVELOPE = 1.2  # times the cleanest clear sky may an hour have: light from the edges of clouds comes on top
ENVELOPE_SHORT = 1.45  # the same in means of less than half an hour
CLEANEST = 1.8  # Linke turbidity
NIGHT = 5.0  # W/m2 that a sensor may show at night
LEAST_REPEATS_HOURS = {"ghi": 3.0, "temperature": 12.0, "wind": 24.0}
MONTH_BREAK = 0.6  # h between the clocks of summer and winter that is a change of daylight saving time


@dataclass(frozen=True)
class Doubt:
    """A check that some intervals do not pass."""

    rule: str
    title: str
    detail: str  # figures, and what to look at
    source: str
    marks: Bools  # (intervals,)
    hours: float  # in all [h]


def examine_quality(weather: Weather) -> list[Doubt]:
    """All checks of a year that find anything, the gravest first.

    Notes
    -----
    Limits that hold for three measured irradiances are applied to those alone that the year was given, not derived.
    """
    sun = interval_sun(weather.calendar, weather.place.latitude, weather.place.longitude, weather.place.elevation)
    return [
        *_possible(weather, sun),
        *_at_night(weather, sun),
        *_envelope(weather, sun),
        *_components(weather, sun),
        *_repeats(weather, sun),
        *_daylight_saving(weather, sun),
        *_filled(weather),
    ]


def with_marks(weather: Weather, doubts: list[Doubt]) -> Weather:
    """The year with the doubted intervals marked as suspect."""
    flags = weather.flags & ~np.uint8(SUSPECT)
    for doubt in doubts:
        if doubt.rule != "filled":
            flags = np.where(doubt.marks, flags | np.uint8(SUSPECT), flags)
    return replace(weather, flags=flags.astype(np.uint8))


def _doubt(weather: Weather, rule: str, title: str, detail: str, source: str, marks: Bools) -> Iterator[Doubt]:
    if marks.any():
        yield Doubt(rule, title, detail, source, marks, float(np.count_nonzero(marks)) * weather.calendar.hours_per_interval)


def _of_sun(weather: Weather, sun: IntervalSun) -> tuple[Floats, Floats, Floats]:
    """Cosine of the zenith, extraterrestrial normal irradiance and lit share of each interval, (intervals,)."""
    cosine, above, lit = (np.zeros(weather.calendar.intervals) for _ in range(3))
    cosine[sun.interval_index] = sun.cos_zenith
    above[sun.interval_index] = extraterrestrial_normal(sun.distance)
    lit[sun.interval_index] = sun.lit_fraction
    return cosine, above, lit


def _possible(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    cosine, above, lit = _of_sun(weather, sun)
    day = lit > 0
    power = np.where(day, np.maximum(cosine, 0), 0.0) ** 1.2
    # The sun's distance is the same at night; there the limits are the constants alone.
    scale = np.where(day, above, 1361.0)
    limits = {
        "ghi": (scale * 1.5 * power + 100, scale * 1.2 * power + 50),
        "dhi": (scale * 0.95 * power + 50, scale * 0.75 * power + 30),
        "dni": (scale, scale * 0.95 * np.maximum(cosine, 0) ** 0.2 + 10),
    }
    names = {"ghi": "GHI", "dhi": "DHI", "dni": "DNI"}
    beyond = {key: (getattr(weather, key) > possible) | (getattr(weather, key) < -4) for key, (possible, _) in limits.items()}
    rare = {
        key: ((getattr(weather, key) > seldom) | (getattr(weather, key) < -2)) & ~beyond[key]
        for key, (_, seldom) in limits.items()
    }
    for rule, title, found in (
        ("physically-possible", "Outside the physically possible", beyond),
        ("extremely-rare", "Extremely rare values", rare),
    ):
        hit = {key: marks for key, marks in found.items() if key in weather.given and marks.any()}
        if hit:
            words = ", ".join(f"{names[key]} in {_hours(weather, marks)}" for key, marks in hit.items())
            yield from _doubt(
                weather, rule, title, f"{words}. Check units and columns.", BSRN, np.logical_or.reduce(list(hit.values()))
            )


def _at_night(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    lit = _of_sun(weather, sun)[2]
    # The intervals beside sunrise and sunset may still have twilight.
    dark = (lit == 0) & (np.roll(lit, 1) == 0) & (np.roll(lit, -1) == 0)
    marks = dark & (weather.ghi > NIGHT)
    yield from _doubt(
        weather, "night", "Irradiance at night", f"GHI over {NIGHT:g} W/m² in {_hours(weather, marks)} with the sun down. Check the clock and the sensor's offset.", BSRN, marks
    )  # fmt: skip


def _envelope(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    clear = ineichen_perez(sun.zenith, extraterrestrial_normal(sun.distance), CLEANEST, max(weather.place.elevation, 0.0))
    factor = ENVELOPE if weather.calendar.step >= 30 else ENVELOPE_SHORT
    marks = np.zeros(weather.calendar.intervals, dtype=bool)
    whole = (sun.lit_fraction > 0.99) & (sun.zenith < 75)
    marks[sun.interval_index] = whole & (weather.ghi[sun.interval_index] > factor * clear.ghi)
    yield from _doubt(
        weather, "clear-sky", "Brighter than a clear sky", f"GHI over {factor:g} times the clear sky of the cleanest air in {_hours(weather, marks)}. Check units, elevation and clock.",
        "Ineichen and Perez (2002), Solar Energy 73, 151-157", marks,
    )  # fmt: skip


def _components(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    if not {"ghi", "dhi"} <= set(weather.given):
        return
    cosine, _, lit = _of_sun(weather, sun)
    high, low = cosine > np.cos(np.radians(75)), (cosine > np.cos(np.radians(88))) & (cosine <= np.cos(np.radians(75)))
    bright = (weather.ghi > 50) & (lit > 0.99)
    share = np.divide(weather.dhi, weather.ghi, out=np.zeros_like(weather.ghi), where=weather.ghi > 0)
    marks = bright & ((high & (share > 1.05)) | (low & (share > 1.10)))
    yield from _doubt(
        weather, "diffuse-ratio", "More diffuse than global irradiance", f"DHI exceeds GHI by more than 5 % in {_hours(weather, marks)}. Check the shading of the sensor and the columns.", BSRN, marks
    )  # fmt: skip
    if "dni" not in weather.given:
        return
    total = weather.dni * cosine + weather.dhi
    ratio = np.divide(weather.ghi, total, out=np.ones_like(total), where=total > 50)
    off = np.abs(ratio - 1)
    marks = (total > 50) & (lit > 0.99) & ((high & (off > 0.08)) | (low & (off > 0.15)))
    yield from _doubt(
        weather, "closure", "The three irradiances do not close", f"GHI differs from DNI cos(zenith) + DHI by over 8 % (15 % under a low sun) in {_hours(weather, marks)}.", BSRN, marks
    )  # fmt: skip


def _repeats(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    names = {"ghi": "GHI", "temperature": "Temperature", "wind": "Wind"}
    lit = _of_sun(weather, sun)[2] > 0
    for key, hours in LEAST_REPEATS_HOURS.items():
        if key not in weather.given:
            continue
        values = getattr(weather, key)
        least = max(3, round(hours / weather.calendar.hours_per_interval))
        stuck = _runs(values, least)
        if key == "ghi":
            stuck &= lit & (values > 0)
        elif key == "wind":
            stuck &= values > 0
        if np.count_nonzero(stuck) == values.size:
            continue  # one value all year is a column that was filled in, and said so
        yield from _doubt(
            weather, f"repeated-{key}", f"{names[key]} repeats the same value", f"{_hours(weather, stuck)} lie in runs of {hours:g} h or more. Check the sensor and the logger.", "Repetition of values", stuck
        )  # fmt: skip


def _runs(values: Floats, least: int) -> Bools:
    """Whether each value lies in a run of at least `least` equal ones."""
    starts = np.flatnonzero(np.concatenate([[True], values[1:] != values[:-1]]))
    lengths = np.diff(np.append(starts, values.size))
    return np.repeat(lengths >= least, lengths)


def monthly_clock_errors(weather: Weather, sun: IntervalSun) -> Floats:
    """Hours by which the light of each month comes late, (12,), from the middle of the light against the sun's; NaN without both.

    The middle is that of the light's own curve on each day, so that clouds in the morning or in the afternoon cancel over a month.
    """
    calendar = weather.calendar
    hours = (np.arange(calendar.intervals) % (calendar.intervals // calendar.days) + 0.5) * calendar.hours_per_interval
    up = np.zeros(calendar.intervals)
    up[sun.interval_index] = sun.lit_fraction * np.maximum(sun.cos_zenith, 0)
    errors = np.full(12, np.nan)
    for month in range(12):
        of = calendar.months == month
        light, sky = weather.ghi[of].sum(), up[of].sum()
        if light > 0 and sky > 0:
            errors[month] = (hours[of] * weather.ghi[of]).sum() / light - (hours[of] * up[of]).sum() / sky
    return errors


def _daylight_saving(weather: Weather, sun: IntervalSun) -> Iterator[Doubt]:
    errors = monthly_clock_errors(weather, sun)
    if np.isnan(errors).any():
        return
    warm = np.arange(12) if weather.place.latitude >= 0 else (np.arange(12) + 6) % 12
    summer, winter = errors[warm[4:9]], errors[np.concatenate([warm[:2], warm[11:]])]
    step = float(np.median(summer) - np.median(winter))
    if abs(step - 1) > 1 - MONTH_BREAK or np.ptp(winter) > MONTH_BREAK:
        return
    late = errors - np.median(winter) > MONTH_BREAK
    marks = late[weather.calendar.months]
    yield from _doubt(
        weather, "daylight-saving", "The clock changes to daylight saving time", f"Light comes {step:.1f} h later from spring to autumn than in winter. Read the file again with daylight saving time.",
        "Middle of the light against the sun, by month", marks,
    )  # fmt: skip


def _filled(weather: Weather) -> Iterator[Doubt]:
    marks = (weather.flags & FILLED) > 0
    yield from _doubt(
        weather, "filled", "Filled values", f"{_hours(weather, marks)} were missing and hold filled values.", "Reading of the file", marks
    )  # fmt: skip


def _hours(weather: Weather, marks: Bools) -> str:
    hours = float(np.count_nonzero(marks)) * weather.calendar.hours_per_interval
    return f"{hours:,.0f} h" if hours >= 10 or hours == round(hours) else f"{hours:.1f} h"
