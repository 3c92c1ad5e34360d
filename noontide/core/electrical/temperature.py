"""Temperature of the cells [°C] from irradiance on the plane [W/m2], air temperature [°C] and wind [m/s]."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def faiman(poa: ArrayLike, air_temperature: ArrayLike, wind: ArrayLike, u0: ArrayLike = 25.0, u1: ArrayLike = 6.84) -> Floats:
    """Ta + G / (U0 + U1 v).

    Parameters
    ----------
    u0, u1
        Heat loss coefficients [W/(m2 K)] and [W s/(m3 K)].

    References
    ----------
    Faiman, D. (2008), Progress in Photovoltaics 16, 307-315, eq. 3.
    """
    return np.asarray(air_temperature, dtype=float) + np.asarray(poa, dtype=float) / (u0 + np.asarray(u1) * wind)


def noct_model(
    poa: ArrayLike, air_temperature: ArrayLike, noct: ArrayLike = 45.0, efficiency: ArrayLike = 0.2, absorptance: float = 0.9
) -> Floats:
    """Ta + G (NOCT - 20) / 800 (1 - efficiency / absorptance).

    References
    ----------
    Duffie, J. A. and Beckman, W. A., Solar Engineering of Thermal Processes, 4th ed. (2013), eq. 23.3.3, without its
    wind factor.
    """
    rise = (np.asarray(noct, dtype=float) - 20) / 800 * (1 - np.asarray(efficiency) / absorptance)
    return np.asarray(air_temperature, dtype=float) + np.asarray(poa, dtype=float) * rise


def king(
    poa: ArrayLike,
    air_temperature: ArrayLike,
    wind: ArrayLike,
    a: ArrayLike = -3.47,
    b: ArrayLike = -0.0594,
    rise: ArrayLike = 3.0,
) -> Floats:
    """Ta + G exp(a + b v) + G / 1000 rise.

    References
    ----------
    King, D. L., Boyson, W. E. and Kratochvil, J. A. (2004), Sandia National Laboratories SAND2004-3535, eqs. 11, 12
    and Table 1.
    """
    poa = np.asarray(poa, dtype=float)
    return np.asarray(air_temperature, dtype=float) + poa * np.exp(a + np.asarray(b) * wind) + poa / 1000 * rise
