"""Temperature of the cells [°C] from irradiance on the plane [W/m2], air temperature [°C] and wind [m/s]."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

# Heat loss coefficients U0 [W/(m2 K)] and U1 [W s/(m3 K)] by mounting: the open rack as measured by Faiman (2008); the others
# are assumptions of ours, between it and a module that loses heat at its front alone.
HEAT_LOSS: dict[str, tuple[float, float]] = {
    "open rack": (25.0, 6.84),
    "roof, ventilated": (22.0, 4.5),
    "roof, flush": (18.0, 2.5),
    "integrated": (15.0, 2.0),
}
# What close mounting adds to the nominal operating cell temperature, which is measured on an open rack [K]; chosen so that
# the yearly mean agrees with the coefficients above.
NOCT_RISE: dict[str, float] = {"open rack": 0.0, "roof, ventilated": 6.0, "roof, flush": 18.0, "integrated": 27.0}
# a, b [s/m] and temperature difference of cell and back [K]: King et al. (2004), Table 1: glass and polymer on an open rack,
# glass and glass on an open rack, close roof mount, insulated back.
KING: dict[str, tuple[float, float, float]] = {
    "open rack": (-3.56, -0.075, 3.0),
    "roof, ventilated": (-3.47, -0.0594, 3.0),
    "roof, flush": (-2.98, -0.0471, 1.0),
    "integrated": (-2.81, -0.0455, 0.0),
}


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
