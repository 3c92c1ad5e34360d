"""Angles between the sun and a plane."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def cos_incidence(tilt: ArrayLike, azimuth: ArrayLike, sun_zenith: ArrayLike, sun_azimuth: ArrayLike) -> Floats:
    """Cosine of the angle between the sun and the plane's normal, -1..1; negative with the sun behind the plane.

    All angles in degrees; arguments broadcast, e.g. (surfaces, 1) with (intervals,).
    """
    beta, zenith = np.radians(tilt), np.radians(sun_zenith)
    turn = np.radians(np.asarray(sun_azimuth, dtype=float) - azimuth)
    return np.cos(beta) * np.cos(zenith) + np.sin(beta) * np.sin(zenith) * np.cos(turn)
