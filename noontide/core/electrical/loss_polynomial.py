"""The loss of an inverter as a polynomial of its output, and what two efficiencies alone say about it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.optimize import brentq

Floats = NDArray[np.float64]
Rule = tuple[tuple[float, ...], tuple[float, ...]]
Coefficients = tuple[float, float, float]
# Shares of rated power and their weights: EN 50530 (European) and the Californian rule.
EUROPEAN: Rule = ((0.05, 0.1, 0.2, 0.3, 0.5, 1.0), (0.03, 0.06, 0.13, 0.10, 0.48, 0.20))
CALIFORNIAN: Rule = ((0.1, 0.2, 0.3, 0.5, 0.75, 1.0), (0.04, 0.05, 0.12, 0.21, 0.53, 0.05))
# Load of the highest efficiency: modern transformerless inverters peak near two fifths of their load; where the weighted
# value lies a point or more below the peak, the no-load loss is large and the peak moves to half of it.
PEAK_LOADS = ((0.4, 0.42), (1.0, 0.5))  # difference of the two efficiencies [points], load of the peak
ROUNDING = 0.05  # [points] by which two rounded efficiencies may seem to contradict each other


@dataclass(frozen=True)
class LossPolynomial:
    """Loss over rated AC power, k0 + k1 p + k2 p^2 in the AC output p over rated AC power; a row for each voltage.

    References
    ----------
    Schmidt, H. and Sauer, D. U. (1996), Wechselrichter-Wirkungsgrade, Sonnenenergie 4, 43-47.
    """

    voltages: tuple[float, ...]  # rising [V]
    coefficients: tuple[Coefficients, ...]

    def coefficients_at(self, voltage: float) -> Coefficients:
        """k0, k1, k2 at one input voltage [V]."""
        k0, k1, k2 = (float(values) for values in self.at(voltage))
        return k0, k1, k2

    def at(self, voltage: ArrayLike) -> tuple[Floats, Floats, Floats]:
        """k0, k1, k2 at input voltages [V], linear between the known ones and constant beyond them."""
        if len(self.voltages) == 1:
            first, second, third = self.coefficients[0]
            shape = np.shape(voltage)
            return np.full(shape, first), np.full(shape, second), np.full(shape, third)
        volts, table = np.asarray(voltage, dtype=float), np.array(self.coefficients)
        return (
            np.interp(volts, self.voltages, table[:, 0]),
            np.interp(volts, self.voltages, table[:, 1]),
            np.interp(volts, self.voltages, table[:, 2]),
        )


def loss_at(coefficients: Coefficients, load: ArrayLike) -> Floats:
    """Loss over rated AC power of a loss polynomial at shares of it."""
    (k0, k1, k2), p = coefficients, np.asarray(load, dtype=float)
    return np.asarray(k0 + k1 * p + k2 * p**2)


def efficiency_at(coefficients: Coefficients, load: ArrayLike) -> Floats:
    """Efficiency of a loss polynomial at shares of rated AC power above 0 [%]."""
    return np.asarray(100 * np.asarray(load) / (load + loss_at(coefficients, load)))


def weighted_efficiency(coefficients: Coefficients, rule: Rule = EUROPEAN) -> float:
    """European or Californian efficiency of a loss polynomial [%]."""
    return float(np.sum(np.array(rule[1]) * efficiency_at(coefficients, np.array(rule[0]))))


def fit_weighted(weighted: float, peak: float, rule: Rule = EUROPEAN) -> LossPolynomial:
    """Loss polynomial from the peak and the weighted efficiency [%] alone.

    Parameters
    ----------
    weighted, peak : float
        [%]; a weighted value up to 0.05 points above the peak is taken as rounding.
    rule
        Shares of rated power and their weights.

    Notes
    -----
    With the peak at the load p*, k0 = s p* and k2 = s / p*, and the loss relative to the output is k1 + 2 s there. The
    weighted efficiency sets s; two values cannot set p*, which is the usual one (`PEAK_LOADS`) as long as k1 >= 0. A larger
    difference of the two values moves the peak towards full load.

    Raises
    ------
    ValueError
        If no polynomial without negative parts and with its peak within the rated power has both values.
    """
    if not 50 < weighted <= 100 or not 50 < peak < 100:
        raise ValueError(f"Efficiencies must lie between 50 and 100 %; they are {weighted:g} % weighted and {peak:g} % peak.")
    if weighted > peak + ROUNDING:
        raise ValueError(
            f"The weighted efficiency must not exceed the peak; it is {weighted:g} % beside {peak:g} %. Check whether the two were swapped."
        )
    relative = 100 / peak - 1  # loss over output at the peak

    def polynomial(s: float, load: float) -> Coefficients:
        return s * load, max(relative - 2 * s, 0.0), s / load

    def short_of(s: float, load: float) -> float:
        return weighted_efficiency(polynomial(s, load), rule) - weighted

    if short_of(0.0, 1.0) <= 0:
        return LossPolynomial((1.0,), (polynomial(0.0, 1.0),))
    differences, loads = np.array(PEAK_LOADS).T
    load = float(np.interp(peak - weighted, differences, loads))
    most = relative / 2
    if short_of(most, load) <= 0:
        s = float(brentq(short_of, 0.0, most, args=(load,), xtol=1e-14))
        return LossPolynomial((1.0,), (polynomial(s, load),))
    if short_of(most, 1.0) > 0:
        least = weighted_efficiency(polynomial(most, 1.0), rule)
        raise ValueError(
            f"With a peak of {peak:g} % the weighted efficiency is {least:.1f} % or more; it is {weighted:g} %. Check both against the datasheet."
        )
    load = float(brentq(lambda p: short_of(most, p), load, 1.0, xtol=1e-12))
    return LossPolynomial((1.0,), (polynomial(most, load),))
