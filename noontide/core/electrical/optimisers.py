"""Optimisers: a converter at each module, which holds the module at its own maximum and gives the string what current it needs."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Inverter, Optimiser
from noontide.core.electrical.inverter import convert
from noontide.core.electrical.loss_polynomial import LossPolynomial, fit_weighted
from noontide.core.electrical.string_curves import (
    add_curve,
    best_voltage,
    flow_at,
    most_of,
    spread,
    within_current,
)
from noontide.core.electrical.strings import (
    NOTHING,
    Banks,
    OperatingPoint,
    SceneShade,
    Strings,
    TrackerLimits,
    find_operating_points,
    moved,
)
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Optimised:
    """Strings behind their optimisers."""

    point: OperatingPoint  # at the string's end, losses of the modules' own in it
    loss: Floats  # of the optimisers, their limits of power, current and voltage in it [W]


def string_voltage(inverter: Inverter) -> float:
    """At which strings with optimisers work [V]: what the inverter holds, else the middle of its full-power window."""
    return inverter.fixed_string_voltage or (inverter.full_power_minimum + inverter.mppt_maximum) / 2


def optimise(strings: Strings, optimiser: Optimiser, voltage: float, modules: float) -> Optimised:
    """Strings whose modules are each at their own maximum.

    Parameters
    ----------
    strings : Strings
        Of a sub-array; in the shade of a scene each column of its kinds is one string, and its kinds are modules.
    optimiser : Optimiser
        One a module.
    voltage : float
        At which the inverter holds the string [V].
    modules : float
        In all strings.

    Notes
    -----
    Each module works at its own maximum within the optimiser's input window and current; what is converted is up to its power. The outputs
    of a string are in series: they carry one current, at which their voltages add up to the string's. None gives more than the highest
    output voltage, so that a string with dark modules takes what the others lack from them, at their little current; and the current is no
    higher than the optimiser's. What leaves a module without light at all does not pull the others down: no mismatch is booked.
    """
    in_string = modules / strings.parallel
    limits = TrackerLimits(
        optimiser.minimum_voltage * in_string,
        optimiser.maximum_mpp_voltage * in_string,
        0.0,
        optimiser.input_current * strings.parallel,
    )
    plain = replace(strings, shade=None) if isinstance(strings.shade, SceneShade) else strings
    (point,) = find_operating_points([plain], limits)
    rated = optimiser.power * modules
    out = convert(point.power, np.ones_like(point.voltage), _losses(optimiser), rated, np.inf, 0.0)
    most = optimiser.output_current * strings.parallel * voltage if in_string * optimiser.output_voltage >= voltage else 0.0
    given = np.minimum(out.ac, most)
    loss = point.power - given
    volts, amperes = np.where(given > 0, voltage, 0.0), given / voltage
    found = replace(point, voltage=volts, current=amperes)
    when = strings.mixed
    return (
        _in_shade(strings, optimiser, voltage, in_string, when, Optimised(found, loss)) if when.size else Optimised(found, loss)
    )


def _in_shade(strings: Strings, optimiser: Optimiser, voltage: float, in_string: float, when: Ints, free: Optimised) -> Optimised:
    """The same with the intervals in which the scene lights the modules unequally."""
    per_module = strings.series / in_string  # of aged ones the part that their voltage is of new ones
    member = replace(strings, series=per_module, parallel=in_string).curves(when)
    of_strings = member.kinds.first.shape[1]
    inverters = of_strings // strings.parallel if of_strings % strings.parallel == 0 else 1
    each = of_strings // inverters
    alone, held, limited, given = (np.zeros((inverters, when.size)) for _ in range(4))
    k0, k1, k2 = _losses(optimiser).coefficients[0]
    kinds = member.kinds
    limits = (optimiser.minimum_voltage, optimiser.maximum_mpp_voltage, optimiser.input_current, optimiser.power, optimiser.output_voltage, optimiser.output_current, voltage)  # fmt: skip
    most_points, most_levels = most_of(kinds.level)
    most_kinds = int((kinds.last - kinds.first).max(initial=1))
    inputs = (
        member.fields, per_module, member.factor, member.drop, kinds.first, kinds.last, kinds.weight, kinds.level, kinds.light, kinds.share, limits, (k0, k1, k2),
        strings.parallel / each, each, most_kinds, most_points, most_levels, alone, held, limited, given,
    )  # fmt: skip
    in_chunks(lambda begin, end: _operate(*inputs, begin, end), when.size)
    own = (strings.maximum_voltage * strings.maximum_current)[when] * (strings.series * strings.scale)
    means = [own, *(values.mean(axis=0) for values in (alone, held, limited, given))]
    point, intervals = free.point, strings.light.size
    volts, amperes, loss = point.voltage.copy(), point.current.copy(), np.broadcast_to(free.loss, (intervals,)).copy()
    volts[when], amperes[when] = np.where(means[4] > 0, voltage, 0.0), means[4] / voltage
    loss[when] = means[3] - means[4]
    banks = Banks(when, np.where(given > 0, voltage, 0.0), given / voltage) if inverters > 1 else None
    found = OperatingPoint(
        volts,
        amperes,
        partial_shade_loss=moved(point.partial_shade_loss, when, intervals, means[0] - means[1]),
        parallel_loss=NOTHING,
        window_loss=moved(point.window_loss, when, intervals, means[1] - means[2]),
        current_loss=moved(point.current_loss, when, intervals, means[2] - means[3]),
        outside=point.outside,
        banks=banks,
    )
    return Optimised(found, loss)


@njit(cache=True, nogil=True, error_model="numpy")
def _string_current(outputs, weights, number, voltage, highest):  # type: ignore[no-untyped-def]
    """Current at which optimisers in series add up to a voltage that they reach, none giving more than the highest; outputs fall."""
    bound, rest = 0.0, 0.0
    for k in range(number):
        rest += outputs[k] * weights[k]
    for k in range(number + 1):
        # The first k kinds are at their highest voltage, the others share what is left.
        left = voltage - highest * bound
        if k == number or left <= 0:
            return outputs[k - 1] / highest
        current = rest / left
        if outputs[k] <= highest * current:
            return current
        bound += weights[k]
        rest -= outputs[k] * weights[k]
    return 0.0


@njit(cache=True, nogil=True, error_model="numpy")
def _operate(fields, series, factor, drop, first, last, weight, level, light, share, limits, losses, scale, each, most_kinds, most_points, most_levels, alone, held, limited, given, start, end):  # type: ignore[no-untyped-def]  # fmt: skip
    """Strings of optimisers in some intervals: maxima of their modules, within the input's window, within its current, and what the strings give."""
    minimum, maximum, input_current, rated, output_voltage, output_current, voltage = limits
    k0, k1, k2 = losses
    points, ends = np.empty((4, most_points)), np.zeros(2, np.int64)
    volts, flows = np.empty(most_points + 2), np.empty(most_points + 2)
    lights, shunts, shares = np.empty(most_levels), np.empty(most_levels), np.empty(most_levels)
    outputs, weights = np.empty(most_kinds), np.empty(most_kinds)
    for t in range(start, end):
        for s in range(first.shape[1]):
            b = s // each
            number = 0
            for i in range(first[t, s], last[t, s]):
                circuit = spread(i, fields, drop, t, level, light, share, lights, shunts, shares)
                ends[1] = add_curve(circuit, series, factor, points, 0)
                tried = best_voltage(0.0, np.inf, points, ends, 0, 1, volts, flows)
                power = 0.0
                for step in range(3):
                    before = tried
                    if step == 1 and (tried < minimum or tried > maximum):
                        tried = best_voltage(minimum, maximum, points, ends, 0, 1, volts, flows)
                    if step == 2:
                        tried = within_current(input_current, tried, maximum, points, ends, 0, 1, volts, flows)
                    if step == 0 or tried != before or step == 2:
                        flow = flow_at(tried, 0, points, ends, circuit, series, factor)
                        power = tried * (min(flow, input_current) if step == 2 else flow)
                    into = alone if step == 0 else held if step == 1 else limited
                    into[b, t] += power * weight[i] * scale
                over = power / rated - k0
                # p + k1 p + k2 p^2 = over, as in the conversion of an inverter.
                linear = 1 + k1
                p = 2 * over / (linear + np.sqrt(max(linear**2 + 4 * k2 * over, 0.0))) if over > 0 else 0.0
                out = min(p, 1.0) * rated
                if out <= 0:
                    continue
                k = number
                while k > 0 and outputs[k - 1] < out:
                    outputs[k], weights[k] = outputs[k - 1], weights[k - 1]
                    k -= 1
                outputs[k], weights[k] = out, weight[i]
                number += 1
            reach = 0.0
            for k in range(number):
                reach += weights[k] * output_voltage
            if number == 0 or reach < voltage:
                continue
            current = _string_current(outputs, weights, number, voltage, output_voltage)
            given[b, t] += min(current, output_current) * voltage * scale


@lru_cache(maxsize=64)
def _losses(optimiser: Optimiser) -> LossPolynomial:
    return fit_weighted(optimiser.weighted_efficiency, optimiser.peak_efficiency)
