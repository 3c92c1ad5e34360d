"""Sunlight above the air and through it."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
SOLAR_CONSTANT = 1361.1  # W/m2, ASTM E490-22


def extraterrestrial_normal(distance: ArrayLike) -> Floats:
    """Irradiance on a plane facing the sun above the air [W/m2], by the distance of the sun [au]."""
    return SOLAR_CONSTANT / np.square(np.asarray(distance, dtype=float))


def relative_air_mass(apparent_zenith: ArrayLike) -> Floats:
    """Optical path relative to the zenith's, by the apparent zenith angle [°]; NaN with the sun down.

    References
    ----------
    Kasten, F. and Young, A. T. (1989), Applied Optics 28, 4735-4738.
    """
    zenith = np.asarray(apparent_zenith, dtype=float)
    up = zenith <= 90
    safe = np.where(up, zenith, 0.0)
    mass = 1 / (np.cos(np.radians(safe)) + 0.50572 * (96.07995 - safe) ** -1.6364)
    return np.where(up, mass, np.nan)


def absolute_air_mass(relative: ArrayLike, pressure: float) -> Floats:
    """Relative air mass corrected to the site's pressure [hPa]."""
    return np.asarray(relative, dtype=float) * pressure / 1013.25
