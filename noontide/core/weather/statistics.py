"""The figures by which a designer judges a weather year."""

from dataclasses import dataclass

import numpy as np

from noontide.core.earth import EARTH_RADIUS
from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.core.weather.clock import clock_error, describe_clock_error
from noontide.core.weather.closure import closure, closure_words, is_off
from noontide.core.weather.year import Place, Weather


@dataclass(frozen=True)
class WeatherSummary:
    """Sums and extremes of a weather year; lists are by month."""

    annual_ghi: float  # [kWh/m2]
    annual_dni: float  # [kWh/m2]
    annual_dhi: float  # [kWh/m2]
    monthly_ghi: list[float]  # [kWh/m2]
    monthly_dhi: list[float]  # [kWh/m2]
    monthly_temperature: list[float]  # mean [°C]
    monthly_lowest: list[float]  # mean of the days' lowest [°C]
    monthly_highest: list[float]  # mean of the days' highest [°C]
    mean_temperature: float  # [°C]
    lowest_temperature: float  # [°C]
    highest_temperature: float  # [°C]
    mean_wind: float  # [m/s]
    closure: float  # annual GHI less DNI cos(zenith) + DHI, relative to GHI
    closure_warning: str = ""  # where the three irradiances of the file do not agree
    clock_error: float = 0.0  # hours by which the light comes later than the sun [h]
    clearness: float | None = None  # annual GHI over that above the air; unknown of years that were stored before it was kept
    clock_warning: str = ""  # where the file's clock does not agree with the sun


def summarise(weather: Weather) -> WeatherSummary:
    """Sums, means and extremes, and how well the three irradiances agree with the sun."""
    c = weather.calendar
    energy = c.hours_per_interval / 1000
    sun = interval_sun(c, weather.place.latitude, weather.place.longitude, weather.place.elevation)
    hours = clock_error(weather, sun)
    above = float(np.sum(extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction))
    rebuilt = float(weather.dhi.sum() + np.sum(weather.dni[sun.interval_index] * sun.cos_zenith))
    days = weather.temperature.reshape(c.days, -1)
    month_of_day = c.months.reshape(c.days, -1)[:, 0]

    def by_month(daily: np.ndarray) -> list[float]:
        return [float(daily[month_of_day == month].mean()) for month in range(12)]

    return WeatherSummary(
        annual_ghi=float(weather.ghi.sum() * energy),
        annual_dni=float(weather.dni.sum() * energy),
        annual_dhi=float(weather.dhi.sum() * energy),
        monthly_ghi=(c.monthly_sums(weather.ghi) * energy).tolist(),
        monthly_dhi=(c.monthly_sums(weather.dhi) * energy).tolist(),
        monthly_temperature=by_month(days.mean(axis=1)),
        monthly_lowest=by_month(days.min(axis=1)),
        monthly_highest=by_month(days.max(axis=1)),
        mean_temperature=float(weather.temperature.mean()),
        lowest_temperature=float(weather.temperature.min()),
        highest_temperature=float(weather.temperature.max()),
        mean_wind=float(weather.wind.mean()),
        clearness=float(weather.ghi.sum()) / max(above, 1e-9),
        closure=float((weather.ghi.sum() - rebuilt) / max(weather.ghi.sum(), 1e-9)),
        closure_warning=closure_words(found) if (found := closure(weather, sun)) and is_off(found) else "",
        clock_error=hours,
        clock_warning=describe_clock_error(hours) if hours else "",
    )


def distance_km(one: Place, other: Place) -> float:
    """Great-circle distance [km], by the haversine formula."""
    phi1, phi2 = np.radians(one.latitude), np.radians(other.latitude)
    half = (
        np.sin((phi2 - phi1) / 2) ** 2
        + np.cos(phi1) * np.cos(phi2) * np.sin(np.radians(other.longitude - one.longitude) / 2) ** 2
    )
    # By the radius to the kilometre: a sphere is no nearer to the Earth than that.
    return float(2 * round(EARTH_RADIUS / 1000) * np.arcsin(np.sqrt(np.clip(half, 0, 1))))
