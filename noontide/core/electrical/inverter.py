"""Inverters: the loss polynomial behind the efficiency curve, and the limits of power."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.optimize import brentq, minimize_scalar, nnls

from noontide.core.electrical.datasheets import Inverter

Floats = NDArray[np.float64]
# Shares of rated power and their weights: EN 50530 (European) and the Californian rule.
EUROPEAN = ((0.05, 0.1, 0.2, 0.3, 0.5, 1.0), (0.03, 0.06, 0.13, 0.10, 0.48, 0.20))
CALIFORNIAN = ((0.1, 0.2, 0.3, 0.5, 0.75, 1.0), (0.04, 0.05, 0.12, 0.21, 0.53, 0.05))


@dataclass(frozen=True)
class LossPolynomial:
    """Loss over rated AC power, k0 + k1 p + k2 p^2 in the AC output p over rated AC power; a row for each voltage.

    References
    ----------
    Schmidt, H. and Sauer, D. U. (1996), Wechselrichter-Wirkungsgrade, Sonnenenergie 4, 43-47.
    """

    voltages: tuple[float, ...]  # rising [V]
    coefficients: tuple[tuple[float, float, float], ...]

    def at(self, voltage: ArrayLike) -> tuple[Floats, Floats, Floats]:
        """k0, k1, k2 at input voltages [V], linear between the known ones and constant beyond them."""
        if len(self.voltages) == 1:
            return tuple(np.full(np.shape(voltage), k) for k in self.coefficients[0])
        table = np.array(self.coefficients)
        return tuple(np.interp(voltage, self.voltages, table[:, k]) for k in range(3))


@dataclass(frozen=True)
class Converted:
    """What becomes of DC power, all (inverters, intervals) [W]; dc = ac + clipping + conversion, ac + night use >= 0."""

    ac: Floats
    clipping: Floats  # DC power left at the modules because of the power limits
    conversion: Floats
    night_use: Floats  # drawn from the grid, 0 or more


@lru_cache(maxsize=512)
def fit_inverter(datasheet: Inverter) -> LossPolynomial:
    """Loss polynomial through the efficiency points of each voltage, by non-negative least squares.

    Where the datasheet has none, by its peak and European efficiency.
    """
    if not datasheet.efficiency:
        return fit_weighted(datasheet.european_efficiency, datasheet.peak_efficiency)
    curves = sorted(datasheet.efficiency, key=lambda curve: curve.voltage)
    return LossPolynomial(tuple(c.voltage for c in curves), tuple(_fit(c.points) for c in curves))


def fit_weighted(weighted: float, peak: float, rule: tuple[tuple[float, ...], tuple[float, ...]] = EUROPEAN) -> LossPolynomial:
    """Loss polynomial from the peak and the weighted efficiency [%] alone.

    Notes
    -----
    The ohmic part follows from the peak, which lies at p = sqrt(k0 / k2); the linear part is taken as a quarter of
    the loss at the peak, an assumption of ours. The weighted efficiency is met exactly by the no-load part.

    Raises
    ------
    ValueError
        If the weighted efficiency is not under the peak, or no polynomial of this family has both.
    """
    if not 50 < weighted < peak < 100:
        raise ValueError(f"the weighted efficiency must lie under the peak; it is {weighted:g} % beside {peak:g} %")
    relative = 100 / peak - 1
    k1 = relative / 4

    def polynomial(k0: float) -> tuple[float, float, float]:
        return k0, k1, ((relative - k1) / 2) ** 2 / k0

    def over(log_k0: float) -> float:
        return weighted_efficiency(polynomial(math.exp(log_k0)), rule) - weighted

    # The weighted value is best with the peak at two fifths of the load, and falls as the no-load part grows smaller or
    # larger; a peak under that load is the usual case.
    least = math.log(1e-6)
    best = float(minimize_scalar(lambda log_k0: -over(log_k0), bounds=(least, math.log(0.05)), method="bounded").x)
    if over(least) > 0 or over(best) < 0:
        raise ValueError(f"no loss polynomial peaks at {peak:g} % and weighs {weighted:g} %; check both against the datasheet")
    found = brentq(over, least, best, xtol=1e-12)
    return LossPolynomial((1.0,), (polynomial(math.exp(found)),))


def weighted_efficiency(
    coefficients: tuple[float, float, float], rule: tuple[tuple[float, ...], tuple[float, ...]] = EUROPEAN
) -> float:
    """European or Californian efficiency of a loss polynomial [%]."""
    p, weights = np.array(rule[0]), np.array(rule[1])
    k0, k1, k2 = coefficients
    return float(np.sum(weights * p / (p + k0 + k1 * p + k2 * p**2)) * 100)


def convert(
    dc: Floats, voltage: Floats, polynomials: list[LossPolynomial], ac_limit: Floats, dc_limit: Floats, night_power: Floats
) -> Converted:
    """Turn DC into AC power within an inverter's limits.

    Parameters
    ----------
    dc, voltage : (inverters, intervals)
        Power offered [W] and its voltage [V].
    polynomials : one each inverter
    ac_limit, dc_limit, night_power : (inverters,)
        Rated AC power, largest DC power, use with the sun down [W].

    Notes
    -----
    With less DC power than the no-load loss the inverter stays off: the DC power is lost in conversion and the night
    power is drawn.
    """
    ac, clipping, conversion, night = (np.zeros_like(dc) for _ in range(4))
    for i, polynomial in enumerate(polynomials):
        k0, k1, k2 = polynomial.at(voltage[i])
        rated = ac_limit[i]
        most = np.minimum((1 + k0 + k1 + k2) * rated, dc_limit[i])
        clipping[i] = np.maximum(dc[i] - most, 0)
        used = (dc[i] - clipping[i]) / rated
        over = used - k0
        # p + k1 p + k2 p^2 = over, in the form of the root that also holds for k2 = 0.
        linear = 1 + k1
        p = np.where(over > 0, 2 * over / (linear + np.sqrt(np.maximum(linear**2 + 4 * k2 * over, 0))), 0.0)
        ac[i] = np.minimum(p, 1.0) * rated
        conversion[i] = dc[i] - clipping[i] - ac[i]
        night[i] = np.where(p > 0, 0.0, night_power[i])
    return Converted(ac=ac, clipping=clipping, conversion=conversion, night_use=night)


def _fit(points: tuple[tuple[float, float], ...]) -> tuple[float, float, float]:
    share, efficiency = np.array(points).T
    loss = share * (100 / efficiency - 1)
    # Weighed so that an error counts as an error of efficiency, not of power.
    weight = 1 / share
    k, _ = nnls(np.stack([np.ones_like(share), share, share**2], axis=1) * weight[:, np.newaxis], loss * weight)
    return tuple(float(v) for v in k)
