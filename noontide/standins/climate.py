"""Years drawn from the climatology of a point: seeded, with monthly means and yearly extremes kept, and measured nowhere."""

from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.sun import extraterrestrial_normal, interval_sun, standard_pressure
from noontide.core.weather.climatology import climate_at
from noontide.core.weather.synthesis import month_line

Floats = NDArray[np.float64]
LABEL = "simulated from long-term maps, not measured"
CLEARNESS_MEMORY = 0.3  # lag-1 correlation of the daily clearness
COLDEST = -89.2  # °C, the lowest that was ever measured at a station
SPELL_MEMORY = 0.75  # of the daily mean temperature
SPELL = 2.05  # standard deviations between a usual and the most extreme day of a year
HIGHEST_CLEARNESS = 0.82  # of an hour
ROUNDS = 6


def synthetic_year(latitude: float, longitude: float, elevation: float, calendar: Calendar, seed: int = 0) -> dict[str, Floats]:
    """GHI [W/m2], temperature [°C], wind [m/s] and pressure [hPa] of a year.

    Monthly mean clearness and temperature are those of the climatology; the coldest and the hottest hour are the means of the
    yearly extremes. The same place, year and seed give the same year.
    """
    climate = climate_at(latitude, longitude, elevation)
    rng = np.random.default_rng([seed, calendar.year, *(round((v + 1000) * 1000) for v in (latitude, longitude))])
    days, per_day = calendar.days, 1440 // calendar.step
    day_months = calendar.months.reshape(days, per_day)[:, 0]
    clearness = _daily_clearness(climate.clearness, day_months, rng)
    ghi = _irradiance(clearness, climate.clearness, latitude, longitude, elevation, calendar, rng)

    solar_hour = (np.arange(calendar.intervals) % per_day + 0.5) * calendar.step / 60 - calendar.utc_offset + longitude / 15
    temperature = _temperature(climate, clearness, day_months, solar_hour, rng)
    gust = np.exp(0.45 * _persistent(rng, calendar.intervals, 0.92 ** (calendar.step / 60)))
    wind = gust * (0.85 + 0.15 * np.cos(2 * np.pi * (solar_hour - 14) / 24))
    at_day = np.arange(calendar.intervals) / per_day
    pressure = standard_pressure(elevation) + 7 * np.interp(at_day, np.arange(days) + 0.5, _persistent(rng, days, 0.8))
    return {
        "ghi": np.round(ghi, 1),
        # The maps end at the highest towns: above them, on the poles, the lapse rate would lead below what air has ever been.
        "temperature": np.round(np.maximum(temperature, COLDEST), 1),
        "wind": np.round(wind * climate.wind / wind.mean(), 1),
        "pressure": np.round(np.clip(pressure, 300, 1090), 1),
    }


def _monthly_means(daily: Floats, day_months: NDArray[np.int64]) -> Floats:
    return np.bincount(day_months, weights=daily, minlength=12) / np.bincount(day_months, minlength=12)


def _daily_clearness(monthly: Floats, day_months: NDArray[np.int64], rng: np.random.Generator) -> Floats:
    """Days about their month's mean, (days,); the spread is widest near a half, and clear days bound it above."""
    mean = month_line(monthly, day_months)
    spread = 0.19 * 4 * mean * (1 - mean)
    days = np.clip(mean + spread * _persistent(rng, mean.size, CLEARNESS_MEMORY), 0.04, 0.78)
    for _ in range(ROUNDS):
        days = np.clip(days * (monthly / _monthly_means(days, day_months))[day_months], 0.04, 0.8)
    return days


def _irradiance(
    clearness: Floats,
    monthly: Floats,
    latitude: float,
    longitude: float,
    elevation: float,
    calendar: Calendar,
    rng: np.random.Generator,
) -> Floats:
    """Intervals of days with a given clearness, scaled so that each month keeps its own, (intervals,)."""
    sun = interval_sun(calendar, latitude, longitude, elevation)
    above, shape = np.zeros(calendar.intervals), np.zeros(calendar.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    shape[sun.interval_index] = 0.55 + 0.6 * sun.cos_zenith**0.5
    per_day = 1440 // calendar.step
    day = np.arange(calendar.intervals) // per_day
    flutter = 1 + 0.45 * (0.8 - clearness[day]) * _persistent(rng, calendar.intervals, 0.5 ** (calendar.step / 60))
    shape *= np.clip(flutter, 0.15, 1.5)
    whole, shaped = (np.bincount(day, weights=w, minlength=calendar.days) for w in (above, above * shape))
    ghi = above * shape * (clearness * np.divide(whole, shaped, out=np.zeros(calendar.days), where=shaped > 0))[day]
    target = monthly * calendar.monthly_sums(above)
    for _ in range(ROUNDS):
        ghi = np.minimum(ghi, HIGHEST_CLEARNESS * above)
        sums = calendar.monthly_sums(ghi)
        ghi *= np.divide(target, sums, out=np.ones(12), where=sums > 0)[calendar.months]
    return np.minimum(ghi, 0.9 * above)


def _temperature(
    climate, clearness: Floats, day_months: NDArray[np.int64], solar_hour: Floats, rng: np.random.Generator
) -> Floats:
    """Seasons, spells of warm and cold days, and the swing of the day with its clearness, (intervals,)."""
    means, span = climate.temperature, month_line(climate.day_range, day_months)
    line = month_line(means, day_months)
    coldest, hottest = int(means.argmin()), int(means.argmax())
    cold_spread = max(means[coldest] - climate.lowest - climate.day_range[coldest] / 2, 1.0) / SPELL
    hot_spread = max(climate.highest - means[hottest] - climate.day_range[hottest] / 2, 1.0) / SPELL
    season = np.clip((line - means[coldest]) / max(means[hottest] - means[coldest], 0.1), 0, 1)
    spells = (cold_spread + (hot_spread - cold_spread) * season) * _persistent(rng, line.size, SPELL_MEMORY)
    # Clear days swing more; the month's mean swing stays.
    swing = span * (0.5 + clearness / np.maximum(month_line(_monthly_means(clearness, day_months), day_months), 0.05) / 2)
    swing *= (climate.day_range / _monthly_means(swing, day_months))[day_months]

    days, per_day = line.size, solar_hour.size // line.size
    at_day = np.arange(solar_hour.size) / per_day
    by_hour = np.repeat(swing / 2, per_day) * np.cos(2 * np.pi * (solar_hour - 15) / 24)

    def year(anomaly: Floats) -> Floats:
        return np.interp(at_day, np.arange(days) + 0.5, line + anomaly, period=days) + by_hour

    for _ in range(ROUNDS):
        spells = spells - month_line(_monthly_means(spells, day_months), day_months)
        for find, target in ((np.argmin, climate.lowest), (np.argmax, climate.highest)):
            whole = year(spells)
            place = int(find(whole))
            own = spells[min(place // per_day, days - 1)]
            if abs(own) > 0.2:
                factor = np.clip(1 + (target - whole[place]) / own, 0.6, 1.6)
                spells = np.where(np.sign(spells) == np.sign(own), spells * factor, spells)
    return year(spells - month_line(_monthly_means(spells, day_months), day_months))


def _persistent(rng: np.random.Generator, size: int, correlation: float) -> Floats:
    """Standard normal noise in which each value remembers the one before."""
    noise = rng.standard_normal(size + 60)
    fresh = (np.sqrt(1 - correlation**2) * noise).tolist()
    return np.array(list(accumulate(fresh, lambda before, new: new + correlation * before)))[60:]
