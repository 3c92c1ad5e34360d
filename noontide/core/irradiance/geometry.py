"""Angles between the sun and a plane."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def cos_incidence(tilt: ArrayLike, azimuth: ArrayLike, sun_zenith: ArrayLike, sun_azimuth: ArrayLike) -> Floats:
    """Cosine of the angle between the sun and the plane's normal, -1..1; negative with the sun behind the plane.

    All angles in degrees; arguments broadcast, e.g. (surfaces, 1) with (intervals,).
    """
    beta, facing = np.radians(tilt), np.radians(azimuth)
    zenith, direction = np.radians(sun_zenith), np.radians(sun_azimuth)
    # The product of two unit vectors: the sun's is made once, whatever the number of planes.
    east, north = np.sin(zenith) * np.sin(direction), np.sin(zenith) * np.cos(direction)
    across = np.sin(beta)
    return across * np.sin(facing) * east + across * np.cos(facing) * north + np.cos(beta) * np.cos(zenith)
