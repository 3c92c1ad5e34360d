"""Inverters: the loss polynomial behind the efficiency curve, and the limits of power."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.loss_polynomial import Coefficients, LossPolynomial, fit_weighted

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Converted:
    """What becomes of DC power, all (intervals,) [W]; dc = ac + clipping + conversion, ac + night use >= 0."""

    ac: Floats
    clipping: Floats  # DC power left at the modules because of the power limits
    conversion: Floats
    night_use: Floats  # drawn from the grid, 0 or more
    held_back: tuple[Floats, ...] = ()  # DC power left at the modules because of each further cap


@lru_cache(maxsize=512)
def fit_inverter(datasheet: Inverter) -> LossPolynomial:
    """Loss polynomial through the efficiency points of each voltage, by non-negative least squares.

    Where the datasheet has none, by its peak and European efficiency.
    """
    if not datasheet.efficiency:
        assert datasheet.european_efficiency is not None and datasheet.peak_efficiency is not None  # the datasheet's own rule
        return fit_weighted(datasheet.european_efficiency, datasheet.peak_efficiency)
    curves = sorted(datasheet.efficiency, key=lambda curve: curve.voltage)
    return LossPolynomial(tuple(c.voltage for c in curves), tuple(_fit(c.points) for c in curves))


def convert(
    dc: Floats,
    voltage: Floats,
    polynomial: LossPolynomial,
    ac_limit: float,
    dc_limit: float,
    night_power: float,
    caps: Sequence[Floats] = (),
) -> Converted:
    """Turn DC into AC power within an inverter's limits.

    Parameters
    ----------
    dc, voltage : (intervals,)
        Power offered [W] and its voltage [V].
    polynomial : LossPolynomial
    ac_limit, dc_limit, night_power : float
        Rated AC power, largest DC power, use at night [W].
    caps : sequence of (intervals,)
        Further caps on the AC power, each within the one before [W]: of power factor and of derating.

    Notes
    -----
    With less DC power than the no-load loss the inverter stays off: the DC power is lost in conversion and the night
    power is drawn.
    """
    k0, k1, k2 = polynomial.at(voltage)
    most = np.minimum((1 + k0 + k1 + k2) * ac_limit, dc_limit)
    clipping = np.maximum(dc - most, 0)
    left, held_back = dc - clipping, []
    for cap in caps:
        p = np.minimum(cap / ac_limit, 1.0)
        more = np.where(p > 0, np.maximum(left - (p + k0 + k1 * p + k2 * p**2) * ac_limit, 0), left)
        held_back.append(more)
        left = left - more
    used = left / ac_limit
    over = used - k0
    # p + k1 p + k2 p^2 = over, in the form of the root that also holds for k2 = 0.
    linear = 1 + k1
    p = np.where(over > 0, 2 * over / (linear + np.sqrt(np.maximum(linear**2 + 4 * k2 * over, 0))), 0.0)
    ac = np.minimum(p, 1.0) * ac_limit
    return Converted(
        ac=ac, clipping=clipping, conversion=left - ac, night_use=np.where(p > 0, 0.0, night_power), held_back=tuple(held_back)
    )


def _fit(points: Sequence[tuple[float, float]]) -> Coefficients:
    share, efficiency = np.array(points).T
    loss = share * (100 / efficiency - 1)
    # Weighted so that an error counts as an error of efficiency, not of power.
    weight = 1 / share
    k, _ = nnls(np.stack([np.ones_like(share), share, share**2], axis=1) * weight[:, np.newaxis], loss * weight)
    return float(k[0]), float(k[1]), float(k[2])
