"""The first stages: the sun of each interval, and the weather joined to it.

Arrays run over the intervals with light, (light,): those with the sun up, and those in which the weather has light all the same.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.angles import sin_cos
from noontide.core.calendar import Calendar
from noontide.core.irradiance.transposition import PerezBrightness, perez_brightness
from noontide.core.simulation.cache import Kept
from noontide.core.sun import IntervalSun, extraterrestrial_normal, interval_sun, relative_air_mass
from noontide.core.weather.clock import clock_error
from noontide.core.weather.closure import Closure, closure
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class SunInputs:
    calendar: Calendar
    latitude: float  # [°]
    longitude: float  # [°]
    elevation: float  # [m]


@dataclass(frozen=True)
class SunAndWeatherInputs:
    sun: Kept[IntervalSun]
    weather: Weather


@dataclass(frozen=True)
class SunAndWeather:
    """Sun and weather together, (light,)."""

    interval_index: Ints  # places on the calendar, rising
    zenith: Floats  # [°]; 90 at night
    azimuth: Floats  # [°]
    east: Floats  # of the unit vector to the sun
    north: Floats
    cos_zenith: Floats
    extraterrestrial: Floats  # [W/m2]
    ghi: Floats  # [W/m2]
    dni: Floats  # [W/m2], 0 at night and never above the extraterrestrial
    dhi: Floats  # [W/m2]
    air_temperature: Floats  # [°C]
    wind: Floats  # at 10 m [m/s]
    months: Ints  # 0 = January
    lit_fraction: Floats  # share of the interval with the sun up
    perez: PerezBrightness
    capped_beam: float  # beam above the extraterrestrial, booked to diffuse, on the horizontal [Wh/m2]
    clock_error: float  # of the weather's clock against the sun [h], 0 where they agree
    closure: Closure | None  # of the three irradiances, None where one was derived
    hours_per_interval: float
    intervals: int  # of the whole year
    month_lengths: Ints  # intervals of each month, (12,)

    @cached_property
    def hours(self) -> Ints:
        """Hour of the local clock in which each interval starts, 0 to 23."""
        return (self.interval_index * self.hours_per_interval).astype(np.int64) % 24

    @cached_property
    def _months(self) -> tuple[Ints, Ints]:
        """The months that have intervals with light, and the first of each: those of polar night have none."""
        starts = np.searchsorted(self.months, np.arange(13))
        some = np.flatnonzero(starts[1:] > starts[:-1])
        return some, starts[some]

    def monthly_sums(self, values: Floats) -> Floats:
        """Sums over months, (..., light) to (..., 12)."""
        some, starts = self._months
        if some.size == 12:
            return np.add.reduceat(values, starts, axis=-1)
        sums = np.zeros((*values.shape[:-1], 12))
        if some.size:
            sums[..., some] = np.add.reduceat(values, starts, axis=-1)
        return sums

    @cached_property
    def dark_by_month(self) -> Ints:
        """Intervals without light in each month, (12,)."""
        return self.month_lengths - np.bincount(self.months, minlength=12)


def find_sun(inputs: SunInputs) -> IntervalSun:
    return interval_sun(inputs.calendar, inputs.latitude, inputs.longitude, inputs.elevation)


def join_sun_and_weather(inputs: SunAndWeatherInputs) -> SunAndWeather:
    """The weather in the intervals with light.

    Light at night (twilight, or a clock that is off) is isotropic diffuse. A beam above the extraterrestrial is capped and the
    excess booked to diffuse.
    """
    sun, weather = inputs.sun.value, inputs.weather
    index, zenith, azimuth, distance, lit = sun.interval_index, sun.zenith, sun.azimuth, sun.distance, sun.lit_fraction
    up = np.zeros(weather.calendar.intervals, dtype=bool)
    up[index] = True
    night = np.flatnonzero(~up & ((weather.ghi > 0) | (weather.dhi > 0)))
    if night.size:
        index = np.concatenate([index, night])
        order = np.argsort(index)
        index = index[order]
        fill = {"zenith": 90.0, "azimuth": 0.0, "distance": 1.0, "lit": 0.0}
        zenith, azimuth, distance, lit = (
            np.concatenate([values, np.full(night.size, fill[name])])[order]
            for name, values in (("zenith", zenith), ("azimuth", azimuth), ("distance", distance), ("lit", lit))
        )
    (level, height), (sin_azimuth, cos_azimuth) = sin_cos(zenith), sin_cos(azimuth)
    above = extraterrestrial_normal(distance)
    ghi, dni, dhi = weather.ghi[index], weather.dni[index], weather.dhi[index]
    capped = 0.0
    if night.size:
        is_up = up[index]
        height = np.where(is_up, height, 0.0)
        dni, dhi = np.where(is_up, dni, 0.0), np.where(is_up, dhi, ghi)
    if np.any(over := dni > above):
        excess = np.where(over, dni - above, 0.0)
        dni, dhi = np.minimum(dni, above), dhi + excess * height
        capped = float(np.sum(excess * height)) * weather.calendar.hours_per_interval
    brightness = perez_brightness(dhi, dni, above, zenith, relative_air_mass(np.minimum(zenith, 90.0)))
    if night.size:
        brightness = PerezBrightness(
            brightness.clearness,
            brightness.brightness,
            *(np.where(is_up, f, 0.0) for f in (brightness.circumsolar, brightness.horizon)),
        )
    return SunAndWeather(
        interval_index=index,
        zenith=zenith,
        azimuth=azimuth,
        east=level * sin_azimuth,
        north=level * cos_azimuth,
        cos_zenith=height,
        extraterrestrial=above,
        ghi=ghi,
        dni=dni,
        dhi=dhi,
        air_temperature=weather.temperature[index],
        wind=weather.wind[index],
        months=weather.calendar.months[index],
        lit_fraction=lit,
        perez=brightness,
        capped_beam=capped,
        clock_error=clock_error(weather, sun),
        closure=closure(weather, sun),
        hours_per_interval=weather.calendar.hours_per_interval,
        intervals=weather.calendar.intervals,
        month_lengths=np.bincount(weather.calendar.months, minlength=12),
    )
