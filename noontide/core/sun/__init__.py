"""The sun: its place, its path over a site's horizon, its strength above the air."""

from noontide.core.sun.atmosphere import absolute_air_mass, extraterrestrial_normal, relative_air_mass
from noontide.core.sun.intervals import IntervalSun, interval_sun, solar_time
from noontide.core.sun.position import SunPosition, refraction, solar_position, standard_pressure

__all__ = [
    "IntervalSun",
    "SunPosition",
    "absolute_air_mass",
    "extraterrestrial_normal",
    "interval_sun",
    "refraction",
    "relative_air_mass",
    "solar_position",
    "solar_time",
    "standard_pressure",
]
