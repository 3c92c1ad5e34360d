"""A smooth climate of our own for any point of the globe: plausible, seeded, and measured nowhere.

Clearness is highest in the dry belts around 25° of latitude, temperature falls with latitude and height, and the
swing of the seasons grows with latitude and continentality. None of it is fitted to any place.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.sun import extraterrestrial_normal, interval_sun, standard_pressure

Floats = NDArray[np.float64]
LABEL = "simulated climate, not measured"


@dataclass(frozen=True)
class Climate:
    """What the year is drawn from."""

    clearness: float  # yearly mean clearness index
    summer_clearness: float  # added in midsummer, taken off in midwinter
    mean_temperature: float  # [°C]
    season_swing: float  # half the difference between midsummer and midwinter [K]
    day_swing: float  # half the difference between afternoon and dawn on a mean day [K]
    wind: float  # mean [m/s]


def climate_at(latitude: float, longitude: float, elevation: float) -> Climate:
    """Climate of a point; varies smoothly over the globe."""
    north = np.sin(np.radians(latitude))
    continental = _continentality(latitude, longitude)
    ripple = 0.02 * np.sin(np.radians(3 * longitude + 2 * latitude)) + 0.01 * np.sin(np.radians(5 * longitude - 40))
    clearness = 0.38 + 0.27 * np.exp(-(((abs(latitude) - 25) / 20) ** 2)) + 0.03 * elevation / 1000 + ripple
    return Climate(
        clearness=float(np.clip(clearness, 0.3, 0.7)),
        summer_clearness=float(0.07 * abs(north)),
        mean_temperature=float(27 - 32 * north**2 + 8 * north**2 * (1 - north**2) - 12 * north**8 - 6 * elevation / 1000),
        season_swing=float((3 + 14 * continental) * abs(north)),
        day_swing=float(2 + 5 * continental),
        wind=float(5.5 - 3.5 * continental + 0.5 * elevation / 1000),
    )


def synthetic_year(latitude: float, longitude: float, elevation: float, calendar: Calendar, seed: int = 0) -> dict[str, Floats]:
    """Hourly GHI [W/m2], temperature [°C], wind [m/s] and pressure [hPa] of a year.

    Days follow each other with a lag-1 correlation of 0.35 in clearness and 0.75 in temperature; the same place, year
    and seed give the same year.
    """
    climate = climate_at(latitude, longitude, elevation)
    rng = np.random.default_rng([seed, calendar.year, *(round((v + 1000) * 1000) for v in (latitude, longitude))])
    days, per_day = calendar.days, 1440 // calendar.step
    summer_day = 196 if latitude >= 0 else 14
    season = np.cos(2 * np.pi * (np.arange(days) - summer_day) / days)
    mean = np.clip(climate.clearness + climate.summer_clearness * season, 0.15, 0.75)
    clearness = np.clip(mean + 0.17 * _persistent(rng, days, 0.35), 0.05, 0.78)
    # Clipping shifts the mean a little; the year's own is put back.
    clearness = np.clip(clearness * mean.mean() / clearness.mean(), 0.05, 0.8)

    sun = interval_sun(calendar, latitude, longitude, elevation)
    above = np.zeros(calendar.intervals)
    above[sun.lit] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    day = np.arange(calendar.intervals) // per_day
    sky = np.zeros(calendar.intervals)
    sky[sun.lit] = 0.55 + 0.6 * sun.cos_zenith**0.5
    flutter = 1 + 0.45 * (0.8 - clearness[day]) * _persistent(rng, calendar.intervals, 0.5)
    shape = sky * np.clip(flutter, 0.15, 1.5)
    whole = np.bincount(day, weights=above, minlength=days)
    shaped = np.bincount(day, weights=above * shape, minlength=days)
    ghi = above * np.minimum(shape * (clearness * np.divide(whole, shaped, out=np.zeros(days), where=shaped > 0))[day], 0.84)

    hour = (np.arange(calendar.intervals) % per_day + 0.5) * calendar.step / 60
    solar_hour = hour - calendar.utc_offset + longitude / 15
    swing = climate.day_swing * (0.35 + 1.3 * clearness)
    spell = 2.8 * _persistent(rng, days, 0.75)
    # Sunny spells are a little warmer in summer and colder in winter; the seasons lag the sun by three weeks.
    lagging = np.cos(2 * np.pi * (np.arange(days) - summer_day - 21) / days)
    daily = climate.mean_temperature + climate.season_swing * lagging + spell + 4 * (clearness - mean) * season
    at_day = np.interp(np.arange(calendar.intervals) / per_day, np.arange(days) + 0.5, daily)
    temperature = at_day + swing[day] * np.cos(2 * np.pi * (solar_hour - 15) / 24)
    gust = np.exp(0.45 * _persistent(rng, calendar.intervals, 0.92) - 0.1)
    wind = climate.wind * gust * (0.85 + 0.15 * np.cos(2 * np.pi * (solar_hour - 14) / 24))
    pressure = standard_pressure(elevation) + 7 * np.interp(
        np.arange(calendar.intervals) / per_day, np.arange(days) + 0.5, _persistent(rng, days, 0.8)
    )
    return {
        "ghi": np.round(ghi, 1),
        "temperature": np.round(temperature, 1),
        "wind": np.round(wind, 1),
        "pressure": np.round(pressure, 1),
    }


def _continentality(latitude: float, longitude: float) -> float:
    """0 on the open sea to 1 deep inland: a few broad hills over the large lands."""
    lands = (
        (52, 80, 28, 55, 0.75),
        (42, 15, 20, 25, 0.42),
        (48, -100, 18, 25, 0.7),
        (15, 15, 20, 22, 0.6),
        (-12, -58, 18, 14, 0.5),
        (-25, 134, 12, 16, 0.6),
        (-15, 25, 18, 12, 0.5),
    )
    reach = sum(
        height * np.exp(-(((latitude - lat) / wide) ** 2) - ((((longitude - lon + 180) % 360) - 180) / long) ** 2)
        for lat, lon, wide, long, height in lands
    )
    return float(np.clip(0.12 + reach, 0, 1))


def _persistent(rng: np.random.Generator, size: int, correlation: float) -> Floats:
    """Standard normal noise in which each value remembers the one before."""
    noise = rng.standard_normal(size)
    fresh = np.sqrt(1 - correlation**2)
    out = np.empty(size)
    out[0] = noise[0]
    for i in range(1, size):
        out[i] = correlation * out[i - 1] + fresh * noise[i]
    return out
