"""An hourly year from twelve numbers: days with a real climate's statistics, hours with a real day's, monthly means kept exactly."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import betaincinv, ndtr

from noontide.core.calendar import MONTHS, NOMINAL_YEAR, Calendar
from noontide.core.sun import extraterrestrial_normal, interval_sun, relative_air_mass
from noontide.core.weather.climatology import climate_at
from noontide.core.weather.year import Place, Step, Weather, fill_missing_columns

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LOWEST_DAY = 0.05  # daily clearness
DAY_MEMORY = 0.36  # of the underlying noise: what is left within months of thirty days is the 0.29 of Graham et al. (1988)
HIGHEST_MEAN = 0.83  # monthly clearness beyond which no month has been measured
HIGHEST_HOUR = 0.88  # of the extraterrestrial, about noon
SPELL, SPELL_MEMORY = 2.6, 0.7  # K and lag-1 correlation of the days' mean temperature about the season's
ROUNDS = 40


def synthesise(
    monthly_ghi: Sequence[float],
    latitude: float,
    longitude: float,
    elevation: float = 0.0,
    monthly_temperature: Sequence[float] | None = None,
    seed: int = 0,
    *,
    monthly_dhi: Sequence[float] | None = None,
    title: str = "Synthetic year",
) -> Weather:
    """An hourly year whose months have the given irradiation and mean temperature.

    Parameters
    ----------
    monthly_ghi : sequence of 12
        Irradiation on the horizontal in each month [kWh/m2].
    latitude, longitude : float
        [°].
    elevation : float
        [m].
    monthly_temperature : sequence of 12, optional
        Mean of each month [°C]; that of the climatology for the place and elevation where it is not given, with a note.
    seed : int
        The same numbers and seed give the same year.
    monthly_dhi : sequence of 12, optional
        Diffuse irradiation [kWh/m2]; by Erbs' correlation where it is not given.

    Raises
    ------
    ValueError
        If there are not twelve values, or a month has more than the sun can give there, with its name.

    References
    ----------
    Bendt, P., Collares-Pereira, M. and Rabl, A. (1981), Solar Energy 27, 1-5: distribution of the daily clearness.
    Graham, V. A., Hollands, K. G. T. and Unny, T. E. (1988), Solar Energy 40, 83-92: its sequence.
    Graham, V. A. and Hollands, K. G. T. (1990), Solar Energy 44, 333-341: hours of a day.
    Erbs, D. G., Klein, S. A. and Beckman, W. A. (1983), ASHRAE Journal 25(6), 60-65: temperature by hour.
    """
    calendar = Calendar(NOMINAL_YEAR, 60, float(np.clip(round(longitude / 15), -12, 14)))
    target = _twelve(monthly_ghi, "GHI", 0.0) * 1000
    sun = interval_sun(calendar, latitude, longitude, elevation)
    above = np.zeros(calendar.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    possible = calendar.monthly_sums(above)
    clearness = np.divide(target, possible, out=np.zeros(12), where=possible > 0)
    for month in range(12):
        if target[month] > HIGHEST_MEAN * possible[month] + 1e-9:
            raise ValueError(
                f"{MONTHS[month]} cannot have {target[month] / 1000:g} kWh/m² at latitude {latitude:g}°: "
                f"without an atmosphere it would be {possible[month] / 1000:.0f}, and at most {HIGHEST_MEAN:.0%} of it reach the ground."
            )
    rng = np.random.default_rng([seed, 20_000 + round(latitude * 100), 40_000 + round(longitude * 100)])
    day_months = calendar.months.reshape(calendar.days, 24)[:, 0]
    days = daily_clearness(clearness, day_months, rng)
    ghi = _hours(days, sun.interval_index, sun.cos_zenith, above, calendar, target, rng)
    columns = {
        "ghi": ghi,
        "temperature": _temperature(monthly_temperature, latitude, elevation, clearness, calendar, longitude, rng),
    }
    notes = ["Synthetic: hours drawn from monthly means, with the statistics of a real climate; not measured."]
    if monthly_temperature is None:
        notes.append(
            "The temperature is that of long-term maps for this place and elevation. Give twelve monthly means where they are known."
        )
    weather = fill_missing_columns(
        calendar, Place(latitude, longitude, elevation), columns, title=title, source="monthly means", notes=tuple(notes)
    )
    if monthly_dhi is not None:
        weather = _with_diffuse(weather, _twelve(monthly_dhi, "DHI", 0.0) * 1000, target)
    step = Step("synthesised", f"From monthly GHI of {', '.join(f'{g:g}' for g in monthly_ghi)} kWh/m², seed {seed}.")
    return replace(weather, given=("ghi", "temperature"), steps=(step,))


def daily_clearness(monthly: Floats, day_months: Ints, rng: np.random.Generator) -> Floats:
    """Clearness of each day, (days,): distributed as Bendt et al. found about each month's mean, and following one another as Graham et al. did."""
    score = _persistent(rng, day_months.size, DAY_MEMORY)
    days = np.zeros(day_months.size)
    for month in range(12):
        mine = np.flatnonzero(day_months == month)
        if monthly[month] <= 0:
            continue
        # Ranks instead of the scores' own chances: thirty draws would miss the month's distribution by their own luck.
        even = (np.argsort(np.argsort(score[mine])) + 0.5) / mine.size
        days[mine] = clearness_at(even, float(monthly[month]))
    return days


def clearness_at(chance: Floats, mean: float) -> Floats:
    """Daily clearness that a share of the days stays below, for a month of a given mean (Bendt et al. 1981; Hollands and Huget 1983)."""
    low, high = min(LOWEST_DAY, 0.5 * mean), highest_clearness(mean)
    if high - low < 1e-6 or mean >= high - 1e-6:
        return np.full(chance.shape, mean)

    def mean_of(gamma: float) -> float:
        if abs(gamma) < 1e-6:
            return (low + high) / 2
        e_low, e_high = np.exp(gamma * (low - high)), 1.0
        return ((low - 1 / gamma) * e_low - (high - 1 / gamma) * e_high) / (e_low - e_high)

    gamma = (
        brentq(lambda g: mean_of(g) - mean, -600.0, 600.0)
        if mean_of(-600.0) < mean < mean_of(600.0)
        else 600.0 * np.sign(mean - (low + high) / 2)
    )
    if abs(gamma) < 1e-6:
        return low + chance * (high - low)
    return high + np.log(np.exp(gamma * (low - high)) * (1 - chance) + chance) / gamma


def highest_clearness(mean: float) -> float:
    """Clearness of the clearest days of a month (Hollands and Huget 1983)."""
    return float(np.clip(0.6313 + 0.267 * mean - 11.9 * (mean - 0.75) ** 8, mean, HIGHEST_MEAN))


def _hours(
    days: Floats, index: Ints, cos_zenith: Floats, above: Floats, calendar: Calendar, target: Floats, rng: np.random.Generator
) -> Floats:
    """GHI of the hours of days, scaled so that each month has exactly its own, (intervals,) [W/m2]."""
    day = index // 24
    mean_of_day = np.clip(days[day], 0.01, 0.95)
    mass = np.minimum(relative_air_mass(np.degrees(np.arccos(np.clip(cos_zenith, 0, 1)))), 20.0)
    # Graham and Hollands: an hour's mean clearness falls with the air mass, the more the cloudier the day.
    usual = (
        mean_of_day
        - 1.167 * mean_of_day**3 * (1 - mean_of_day)
        + 0.979 * (1 - mean_of_day) * np.exp(-1.141 * (1 - mean_of_day) / mean_of_day * mass)
    )
    spread = 0.16 * np.sin(np.pi * np.clip(mean_of_day, 0, 0.9) / 0.9)
    ceiling = HIGHEST_HOUR * np.clip(0.45 + 0.55 * cos_zenith**0.35, 0.3, 1.0)
    memory = 0.38 + 0.06 * np.cos(7.4 * mean_of_day - 2.5)
    noise, score = rng.standard_normal(index.size), np.zeros(index.size)
    for i in range(index.size):
        follows = i and index[i] == index[i - 1] + 1
        score[i] = memory[i] * score[i - 1] + np.sqrt(1 - memory[i] ** 2) * noise[i] if follows else noise[i]
    part = np.clip(usual / ceiling, 0.02, 0.98)
    narrow = np.minimum(spread / ceiling, 0.95 * np.sqrt(part * (1 - part)))
    weight = np.maximum(part * (1 - part) / np.maximum(narrow, 1e-3) ** 2 - 1, 0.05)
    hourly = betaincinv(part * weight, (1 - part) * weight, np.clip(ndtr(score), 1e-4, 1 - 1e-4)) * ceiling
    ghi, limit = np.zeros(calendar.intervals), np.zeros(calendar.intervals)
    ghi[index], limit[index] = hourly * above[index], np.maximum(ceiling, 0.0) * above[index]
    whole, made = (np.bincount(np.arange(calendar.intervals) // 24, weights=w, minlength=calendar.days) for w in (above, ghi))
    ghi *= np.repeat(np.divide(days * whole, made, out=np.zeros(calendar.days), where=made > 0), 24)
    months = calendar.months
    for _ in range(ROUNDS):
        ghi = np.minimum(ghi, limit)
        sums = calendar.monthly_sums(ghi)
        if np.allclose(sums, target, rtol=1e-12, atol=1e-9):
            break
        ghi *= np.divide(target, sums, out=np.zeros(12), where=sums > 0)[months]
    sums = calendar.monthly_sums(ghi)
    return ghi * np.divide(target, sums, out=np.zeros(12), where=sums > 0)[months]


def _temperature(
    monthly: Sequence[float] | None,
    latitude: float,
    elevation: float,
    clearness: Floats,
    calendar: Calendar,
    longitude: float,
    rng: np.random.Generator,
) -> Floats:
    means = climate_at(latitude, longitude, elevation).temperature if monthly is None else _twelve(monthly, "temperature", -80.0)
    day_months = calendar.months.reshape(calendar.days, 24)[:, 0]
    season = month_line(means, day_months)
    spells = SPELL * _persistent(rng, calendar.days, SPELL_MEMORY)
    swing = np.maximum(25.8 * month_line(clearness, day_months) - 5.21, 3.0)
    solar_hour = (np.arange(calendar.intervals) + 0.5 - calendar.utc_offset + longitude / 15) % 24
    turn = 2 * np.pi * (solar_hour - 1) / 24
    by_hour = (
        0.4632 * np.cos(turn - 3.805)
        + 0.0984 * np.cos(2 * turn - 0.360)
        + 0.0168 * np.cos(3 * turn - 0.822)
        + 0.0138 * np.cos(4 * turn - 3.513)
    )
    at = np.arange(calendar.intervals) / 24
    hourly = np.interp(at, np.arange(calendar.days) + 0.5, season + spells, period=calendar.days) + np.repeat(swing, 24) * by_hour
    counts = np.bincount(calendar.months, minlength=12)
    return hourly + (means - calendar.monthly_sums(hourly) / counts)[calendar.months]


def month_line(means: Floats, day_months: Ints) -> Floats:
    """Daily values, linear between mid-months, whose monthly means are those given, (days,)."""
    days = day_months.size
    edges = np.append(np.searchsorted(day_months, np.arange(12)), days)
    middle, day = (edges[:-1] + edges[1:]) / 2, np.arange(days) + 0.5
    counts = np.bincount(day_months, minlength=12)
    knots = np.array(means, dtype=float)
    line = knots[day_months]
    for _ in range(30):
        line = np.interp(day, middle, knots, period=days)
        knots += means - np.bincount(day_months, weights=line, minlength=12) / counts
    return line


def _with_diffuse(weather: Weather, target: Floats, global_target: Floats) -> Weather:
    """The year with its diffuse light scaled to monthly sums, DNI from what is left."""
    if np.any(target > global_target * (1 + 1e-9)):
        month = int(np.argmax(target - global_target))
        raise ValueError(
            f"{MONTHS[month]} has more diffuse irradiation than global: {target[month] / 1000:g} of {global_target[month] / 1000:g} kWh/m²."
        )
    calendar, dhi = weather.calendar, weather.dhi.copy()
    for _ in range(ROUNDS):
        sums = calendar.monthly_sums(dhi)
        dhi = np.minimum(dhi * np.divide(target, sums, out=np.zeros(12), where=sums > 0)[calendar.months], weather.ghi)
    columns = {"ghi": weather.ghi, "dhi": dhi, "temperature": weather.temperature}
    made = fill_missing_columns(calendar, weather.place, columns, title=weather.title, source=weather.source)
    return replace(made, notes=weather.notes)


def _twelve(values: Sequence[float], name: str, least: float) -> Floats:
    found = np.asarray(values, dtype=float)
    if found.shape != (12,):
        raise ValueError(f"Twelve monthly values of {name} are needed; there are {found.size}.")
    wrong = np.flatnonzero(~np.isfinite(found) | (found < least))
    if wrong.size:
        raise ValueError(f"{name} of {MONTHS[int(wrong[0])]} is {found[wrong[0]]:g}; a number of {least:g} or more was expected.")
    return found


def _persistent(rng: np.random.Generator, size: int, correlation: float) -> Floats:
    """Standard normal noise in which each value remembers the one before, (size,)."""
    noise = rng.standard_normal(size)
    found = np.empty(size)
    found[0] = noise[0]
    for i in range(1, size):
        found[i] = correlation * found[i - 1] + np.sqrt(1 - correlation**2) * noise[i]
    return found
