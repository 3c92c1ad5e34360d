"""What a picture of the sky is drawn from: the sun's paths over the year, and how moving planes follow it over a day."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.design.document import Design
from noontide.core.design.site import Site
from noontide.core.irradiance.attitude import Fixed, Stance, stance
from noontide.core.simulation.chain import motion_of
from noontide.core.sun.intervals import AIR_TEMPERATURE, DEGREES_PER_MINUTE
from noontide.core.sun.position import (
    days_since_j2000,
    geocentric_path,
    hour_angle,
    rising_elevation,
    solar_position,
    standard_pressure,
)

Floats = NDArray[np.float64]
STEP = 10  # minutes between the points of a path
PER_DAY = 1440 // STEP


@dataclass(frozen=True)
class SunPaths:
    """The sun's place every ten minutes of the year on the local clock without daylight saving time, from 1 January 0:00."""

    elevation: Floats  # apparent, negative below the horizon (days * 144,) [°]
    azimuth: Floats  # [°]
    noon: Floats  # solar noon of each day on that clock, (days,) [h]
    day_length: Floats  # from sunrise to sunset on a level horizon, (days,) [h]


def sun_paths(site: Site, calendar: Calendar) -> SunPaths:
    """Paths of the sun over every day of a year."""
    starts = np.datetime64(f"{calendar.year:04d}-01-01T00:00", "m") - _offset(calendar)
    times = starts + np.arange(calendar.days * PER_DAY) * np.timedelta64(STEP, "m")
    sun = solar_position(times, site.latitude, site.longitude, site.elevation)
    middays = days_since_j2000(
        (starts + np.arange(calendar.days) * np.timedelta64(1440, "m") + np.timedelta64(720, "m")).astype("datetime64[us]")
    )
    place = geocentric_path(middays)(middays)
    angle = (hour_angle(place, middays, site.longitude) + 180) % 360 - 180
    limit = place.sunset_hour_angle(site.latitude, rising_elevation(standard_pressure(site.elevation), AIR_TEMPERATURE))
    hours = 60 * DEGREES_PER_MINUTE
    return SunPaths(90 - sun.apparent_zenith, sun.azimuth, 12 - angle / hours, 2 * limit / hours)


@dataclass(frozen=True)
class DayOfPlanes:
    """How the moving surfaces of a design stand over a day, in calm air."""

    minutes: NDArray[np.int64]  # of the local clock, (144,)
    zenith: Floats  # of the sun [°]
    azimuth: Floats  # [°]
    stances: dict[str, Stance]  # of each surface that moves


def day_of_planes(design: Design, calendar: Calendar, day: int) -> DayOfPlanes:
    """How the surfaces of a design stand through a day; `day` counts from 0 = 1 January."""
    local = (
        np.datetime64(f"{calendar.year:04d}-01-01T00:00", "m")
        + np.timedelta64(day * 1440, "m")
        + np.arange(PER_DAY) * np.timedelta64(STEP, "m")
    )
    site = design.site
    sun = solar_position(local - _offset(calendar), site.latitude, site.longitude, site.elevation)
    motions = {key: motion_of(surface) for key, surface in design.surfaces.items()}
    calm = np.zeros(PER_DAY)
    stances = {
        key: stance(motion, sun.apparent_zenith, sun.azimuth, calm, local)
        for key, motion in motions.items()
        if not isinstance(motion, Fixed)
    }
    return DayOfPlanes(np.arange(PER_DAY) * STEP, sun.apparent_zenith, sun.azimuth, stances)


def _offset(calendar: Calendar) -> np.timedelta64:
    return np.timedelta64(round(calendar.utc_offset * 60), "m")
