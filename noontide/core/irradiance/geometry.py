"""Angles between the sun and a plane."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.angles import sin_cos

Floats = NDArray[np.float64]


def cos_incidence(tilt: ArrayLike, azimuth: ArrayLike, sun_zenith: ArrayLike, sun_azimuth: ArrayLike) -> Floats:
    """Cosine of the angle between the sun and the plane's normal, -1..1; negative with the sun behind the plane.

    All angles in degrees; arguments broadcast, e.g. (surfaces, 1) with (intervals,).
    """
    # The product of two unit vectors: the sun's is made once, whatever the number of planes.
    (across, up), (sin_facing, cos_facing) = sin_cos(tilt), sin_cos(azimuth)
    (level, height), (sin_direction, cos_direction) = sin_cos(sun_zenith), sin_cos(sun_azimuth)
    return across * sin_facing * (level * sin_direction) + across * cos_facing * (level * cos_direction) + up * height
