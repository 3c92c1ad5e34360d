"""Optimisers: a converter at each module, which holds the module at its own maximum and gives the string what current it needs."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Inverter, Optimiser
from noontide.core.electrical.inverter import convert
from noontide.core.electrical.loss_polynomial import LossPolynomial, fit_weighted
from noontide.core.electrical.strings import OperatingPoint, Strings, TrackerLimits, find_operating_points

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Optimised:
    """Strings behind their optimisers."""

    point: OperatingPoint  # at the string's end, losses of the modules' own in it
    loss: Floats  # of the optimisers, their limits of power and current in it [W]


def string_voltage(inverter: Inverter) -> float:
    """At which strings with optimisers work [V]: what the inverter holds, else the middle of its full-power window."""
    return inverter.fixed_string_voltage or (inverter.full_power_minimum + inverter.mppt_maximum) / 2


def optimise(strings: Strings, optimiser: Optimiser, voltage: float, modules: float) -> Optimised:
    """Strings whose modules are each at their own maximum.

    Parameters
    ----------
    strings : Strings
        Of a sub-array.
    optimiser : Optimiser
        One a module.
    voltage : float
        At which the inverter holds the string [V].
    modules : float
        In all strings.

    Notes
    -----
    The modules of a sub-array are alike in light, so that each one's maximum is found for the string at once, within the optimiser's own
    input window. What leaves a module without light at all does not pull the others down: no mismatch is booked for strings with optimisers.
    """
    limits = TrackerLimits(
        optimiser.minimum_voltage * strings.series,
        optimiser.maximum_mpp_voltage * strings.series,
        0.0,
        optimiser.input_current * strings.parallel,
    )
    (point,) = find_operating_points([strings], limits)
    rated = optimiser.power * modules
    out = convert(point.power, np.ones_like(point.voltage), _losses(optimiser), rated, np.inf, 0.0)
    most = optimiser.output_current * strings.parallel * voltage
    given = np.minimum(out.ac, most)
    moved = replace(point, voltage=np.where(given > 0, voltage, 0.0), current=given / voltage)
    return Optimised(moved, point.power - given)


@lru_cache(maxsize=64)
def _losses(optimiser: Optimiser) -> LossPolynomial:
    return fit_weighted(optimiser.weighted_efficiency, optimiser.peak_efficiency)
