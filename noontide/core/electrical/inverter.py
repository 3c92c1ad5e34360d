"""Inverters: the loss polynomial behind the efficiency curve, and the limits of power."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.inverter_loop import convert_intervals
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
    dc = np.ascontiguousarray(dc, dtype=float)
    offered, volts = dc.ravel(), np.ascontiguousarray(np.broadcast_to(voltage, dc.shape), dtype=float).ravel()
    capped = np.empty((len(caps), offered.size))
    for row, cap in zip(capped, caps, strict=True):
        row[:] = np.broadcast_to(cap, dc.shape).ravel()
    ac, clipping, conversion, night_use, held_back = (*np.empty((4, offered.size)), np.empty(capped.shape))
    convert_intervals(
        offered, volts, np.array(polynomial.voltages), np.array(polynomial.coefficients), float(ac_limit), float(dc_limit), float(night_power), capped,
        ac, clipping, conversion, night_use, held_back,
    )  # fmt: skip
    shaped = [values.reshape(dc.shape) for values in (ac, clipping, conversion, night_use)]
    return Converted(shaped[0], shaped[1], shaped[2], shaped[3], tuple(row.reshape(dc.shape) for row in held_back))


def _fit(points: Sequence[tuple[float, float]]) -> Coefficients:
    share, efficiency = np.array(points).T
    loss = share * (100 / efficiency - 1)
    # Weighted so that an error counts as an error of efficiency, not of power.
    weight = 1 / share
    k, _ = nnls(np.stack([np.ones_like(share), share, share**2], axis=1) * weight[:, np.newaxis], loss * weight)
    return float(k[0]), float(k[1]), float(k[2])
