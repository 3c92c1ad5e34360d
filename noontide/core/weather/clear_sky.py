"""Irradiance under a cloudless sky."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.sun import absolute_air_mass, relative_air_mass, standard_pressure

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class ClearSky:
    """Under a cloudless sky, each in the common shape of the arguments [W/m2]."""

    ghi: Floats
    dni: Floats
    dhi: Floats


def ineichen_perez(
    zenith: ArrayLike,
    extraterrestrial: ArrayLike,
    linke_turbidity: ArrayLike = 3.0,
    elevation: float = 0.0,
    pressure: float | None = None,
) -> ClearSky:
    """Clear sky by the Linke turbidity and the height of the place.

    Parameters
    ----------
    zenith : any shape
        Of the sun, apparent [°]; from 90 on there is no light.
    extraterrestrial, linke_turbidity : broadcast with `zenith`
        Normal irradiance above the air [W/m2]; turbidity at air mass 2.
    elevation : float
        Above sea level [m].
    pressure : float, optional
        Of the air [hPa], for the absolute air mass; of the standard atmosphere where it is not given.

    References
    ----------
    Ineichen, P. and Perez, R. (2002), Solar Energy 73, 151-157: the global irradiance with the coefficients a1, a2, fh1 and fh2 by
    height, the normal beam with b; without later enhancement factors.
    """
    z, above, turbidity = np.broadcast_arrays(*(np.asarray(v, dtype=float) for v in (zenith, extraterrestrial, linke_turbidity)))
    up = z < 90
    low = np.where(up, z, 89.0)
    mass = absolute_air_mass(relative_air_mass(low), standard_pressure(elevation) if pressure is None else pressure)
    cosine = np.cos(np.radians(low))
    fh1, fh2 = np.exp(-elevation / 8000), np.exp(-elevation / 1250)
    a1, a2 = 5.09e-5 * elevation + 0.868, 3.92e-5 * elevation + 0.0387
    ghi = a1 * above * cosine * np.exp(-a2 * mass * (fh1 + fh2 * (turbidity - 1)))
    b = 0.664 + 0.163 / fh1
    dni = b * above * np.exp(-0.09 * mass * (turbidity - 1))
    # The beam on the horizontal is no more than the whole.
    dni = np.minimum(dni, ghi / np.maximum(cosine, 1e-9))
    ghi, dni = np.where(up, ghi, 0.0), np.where(up, dni, 0.0)
    return ClearSky(ghi, dni, np.where(up, np.maximum(ghi - dni * cosine, 0), 0.0))


def haurwitz(zenith: ArrayLike) -> Floats:
    """Global horizontal irradiance of a clear sky [W/m2] from the zenith of the sun alone [°]: 1098 cos z exp(-0.059 / cos z).

    References
    ----------
    Haurwitz, B. (1945), Journal of Meteorology 2, 154-166, in units of today.
    """
    cosine = np.cos(np.radians(np.asarray(zenith, dtype=float)))
    up = cosine > 1e-6
    safe = np.where(up, cosine, 1.0)
    return np.where(up, 1098 * safe * np.exp(-0.059 / safe), 0.0)
