"""The sun of each interval, taken at the middle of the part in which it is up."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.angles import sin_cos, wrap_360
from noontide.core.calendar import Calendar
from noontide.core.sun.position import (
    GeocentricPlace,
    days_since_j2000,
    geocentric_path,
    hour_angle,
    rising_elevation,
    seen_from,
    standard_pressure,
)

Floats = NDArray[np.float64]
DEGREES_PER_MINUTE = 0.25
PIECE = 2**16  # intervals that are worked on at once: a year of minutes would need 100 MB of interim values
AIR_TEMPERATURE = 12.0  # [°C], bends the light only


@dataclass(frozen=True)
class IntervalSun:
    """The sun over a year of intervals; all but `interval_index` are over the intervals in which it is up, (lit,)."""

    interval_index: NDArray[np.int64]  # of those intervals on the calendar, rising
    lit_fraction: Floats  # share of the interval with the sun up, 0..1
    zenith: Floats  # apparent [°]
    azimuth: Floats  # [°]
    distance: Floats  # [au]

    @property
    def cos_zenith(self) -> Floats:
        return sin_cos(self.zenith)[1]


def interval_sun(calendar: Calendar, latitude: float, longitude: float, elevation: float = 0.0) -> IntervalSun:
    """Place of the sun in each interval that has any, at the middle of its lit part.

    Parameters
    ----------
    calendar : Calendar
    latitude, longitude : float
        [°].
    elevation : float
        [m].

    Notes
    -----
    Taken at the middle of the whole interval, the hours of sunrise and sunset would be lost or counted double.
    Where the sun sets and rises again within one interval, the longer lit part is taken.
    """
    days = days_since_j2000(calendar.utc_midpoints)
    path = geocentric_path(days)
    pressure = standard_pressure(elevation)
    pieces = [
        _piece(days[start : start + PIECE], start, path, calendar.step, latitude, longitude, elevation, pressure)
        for start in range(0, days.size, PIECE)
    ]
    index, *values = (np.concatenate(parts) for parts in zip(*pieces, strict=True))
    return IntervalSun(index, *values)


def _piece(
    days: Floats,
    start: int,
    path: Callable[[Floats], GeocentricPlace],
    step: int,
    latitude: float,
    longitude: float,
    elevation: float,
    pressure: float,
) -> tuple[NDArray[np.int64], Floats, Floats, Floats, Floats]:
    """The fields of `IntervalSun` for consecutive intervals of which the first is number `start`."""
    place = path(days)
    angle = wrap_360(hour_angle(place, days, longitude) + 180) - 180
    half = step * DEGREES_PER_MINUTE / 2
    limit = place.sunset_hour_angle(latitude, rising_elevation(pressure, AIR_TEMPERATURE))
    begin, end = np.maximum(angle - half, -limit), np.minimum(angle + half, limit)
    # Around midnight the interval may reach over ±180° into the other day's lit part.
    over = angle + half - 360 + limit
    under = -(angle - half) - 360 + limit
    whole = limit >= 180
    width = np.where(whole, 2 * half, np.maximum(end - begin, 0))
    middle = np.where(whole, angle, (begin + end) / 2)
    for reach, centre in ((over, 360 - limit + over / 2), (under, limit - 360 - under / 2)):
        longer = ~whole & (reach > width)
        width = np.where(longer, reach, width)
        middle = np.where(longer, centre, middle)
    lit = np.flatnonzero(width > 1e-9)
    moments = days[lit] + (middle - angle)[lit] / 360
    sun = seen_from(path(moments), moments, latitude, longitude, elevation, pressure, AIR_TEMPERATURE)
    fraction, zenith = np.minimum(width[lit] / (2 * half), 1.0), np.minimum(sun.apparent_zenith, 90 - 1e-3)
    return lit + start, fraction, zenith, sun.azimuth, sun.distance


def solar_time(calendar: Calendar, longitude: float) -> Floats:
    """Apparent solar time at the middle of each interval, (intervals,) [h], 12 with the sun in the meridian."""
    days = days_since_j2000(calendar.utc_midpoints)
    return wrap_360(hour_angle(geocentric_path(days)(days), days, longitude) + 180) / (60 * DEGREES_PER_MINUTE)
