"""Strings on trackers: the operating point that an inverter's tracker can reach.

Sub-arrays on one tracker share its voltage; each tracker's window and current limit bound the point.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.single_diode import Circuit, current_at, open_circuit_voltage

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


FAR_APART = 0.2  # of the higher voltage, from which on the power of several strings may have two maxima


@dataclass(frozen=True)
class TrackerLimits:
    """Of the tracker on which each sub-array hangs, (subarrays,)."""

    tracker: Ints  # index of the tracker, 0..trackers - 1
    lowest: Floats  # voltage of the window [V]
    highest: Floats  # [V]
    current: Floats  # largest operating current of the tracker [A]


@dataclass(frozen=True)
class OperatingPoint:
    """Where the strings work, and what that costs against each one's own maximum, (subarrays, intervals)."""

    voltage: Floats  # of a string [V]
    current: Floats  # of all strings of the sub-array [A]
    parallel_loss: Floats  # unlike strings at one voltage [W]
    window_loss: Floats  # voltage outside the window [W]
    current_loss: Floats  # current over the tracker's limit [W]
    outside: NDArray[np.bool_]  # whether the own maximum lies outside the window

    @property
    def power(self) -> Floats:
        return self.voltage * self.current


def operate(
    circuits: Circuit,
    maximum_voltage: Floats,
    maximum_current: Floats,
    factor: Floats,
    series: Floats,
    parallel: Floats,
    limits: TrackerLimits,
) -> OperatingPoint:
    """Find the operating point of every sub-array.

    Parameters
    ----------
    circuits, maximum_voltage, maximum_current : (subarrays, intervals)
        Of one module: its curve, and the maximum on it [V], [A].
    factor : (subarrays, 1)
        What quality, first light and mismatch leave of the current, 0..1.
    series, parallel : (subarrays,)
        Modules in a string, strings.
    limits : TrackerLimits

    Notes
    -----
    Sub-arrays alone on their tracker and inside the window, the ordinary hours, stay at their own maximum; only the
    others are solved again. Without enough light to reach the lowest voltage a string gives nothing.
    """
    array = _Array(circuits, series, factor * parallel[:, np.newaxis], limits)
    voltage, current = maximum_voltage * series[:, np.newaxis], maximum_current * array.scale
    own = voltage * current
    together = array.share_voltages(voltage, current)
    shared = voltage * current if together else own
    outside = ((voltage < limits.lowest[:, np.newaxis]) | (voltage > limits.highest[:, np.newaxis])) & (own > 0)
    if outside.any():
        array.hold_window(voltage, current, outside, together)
    held = voltage * current if outside.any() else shared
    is_limited = array.limit_currents(voltage, current)
    # Losses that do not occur take no memory.
    none = np.broadcast_to(0.0, own.shape)
    return OperatingPoint(
        voltage,
        current,
        parallel_loss=own - shared if together else none,
        window_loss=shared - held if outside.any() else none,
        current_loss=held - voltage * current if is_limited else none,
        outside=outside,
    )


@dataclass(frozen=True)
class _Array:
    """The strings and their trackers; each verb moves the operating points, (subarrays, intervals), in place."""

    circuits: Circuit
    series: Floats
    scale: Floats  # (subarrays, 1) from a module's current to that of all strings
    limits: TrackerLimits

    def share_voltages(self, voltage: Floats, current: Floats) -> dict[int, Floats]:
        """Bring unlike strings on one tracker to their best common voltage; the best inside the window, by tracker."""
        together: dict[int, Floats] = {}
        trackers = self.limits.tracker
        for tracker in np.flatnonzero(np.bincount(trackers) > 1).tolist():
            rows = np.flatnonzero(trackers == tracker)
            if _alike(rows, self.circuits, self.series):
                continue
            members, series, scale = _pick(self.circuits, rows), self.series[rows], self.scale[rows]
            own = np.where(current[rows] > 0, voltage[rows], np.nan)
            low, high = np.nan_to_num(np.fmin.reduce(own, axis=0)), np.nan_to_num(np.fmax.reduce(own, axis=0))
            shared = _common_voltage(members, low, high, series, scale)
            window = self.limits.lowest[rows[0]], self.limits.highest[rows[0]]
            together[tracker] = inside = np.clip(shared, *window)
            if (beyond := np.flatnonzero(inside != shared)).size:
                bounds = np.clip(low[beyond], *window), np.clip(high[beyond], *window)
                lit = _during(members, beyond)
                inside[beyond] = found = _common_voltage(lit, *bounds, series, scale)
                # Of strings a hundredfold apart the free search may miss what the narrower one has found.
                missed = _power(lit, found, series, scale) > _power(lit, shared[beyond], series, scale)
                shared[beyond] = np.where(missed, found, shared[beyond])
            voltage[rows] = shared
            current[rows] = np.maximum(current_at(members, shared / series[:, np.newaxis]), 0) * scale
        return together

    def hold_window(self, voltage: Floats, current: Floats, outside: NDArray[np.bool_], together: dict[int, Floats]) -> None:
        """Hold the nearest voltage of the window; too little light to reach its lowest gives nothing."""
        inside = np.clip(voltage, self.limits.lowest[:, np.newaxis], self.limits.highest[:, np.newaxis])
        for tracker, best in together.items():
            inside[self.limits.tracker == tracker] = best
        row, when = np.nonzero(outside)
        held, cell = inside[row, when], _at(self.circuits, row, when)
        of_module = held / self.series[row]
        flows = np.maximum(current_at(cell, of_module), 0) * self.scale[row, 0]
        voltage[row, when] = held
        current[row, when] = np.where(of_module < open_circuit_voltage(cell), flows, 0.0)

    def limit_currents(self, voltage: Floats, current: Floats) -> bool:
        """Raise the voltage of a tracker until its current is allowed, or throttle it; whether any had to be."""
        trackers = self.limits.tracker
        counts = np.bincount(trackers)
        member_of = (np.arange(counts.size)[:, np.newaxis] == trackers).astype(float)
        total = current[np.argsort(trackers)] if counts.max() == 1 else member_of @ current
        limit = np.zeros(counts.size)
        limit[trackers] = self.limits.current
        over = total > limit[:, np.newaxis]
        for tracker in np.flatnonzero(over.any(axis=1)).tolist():
            rows, when = np.flatnonzero(trackers == tracker), np.flatnonzero(over[tracker])
            cells = [_at(self.circuits, np.full(when.size, row), when) for row in rows]
            raised = _voltage_for_current(cells, voltage[rows[0], when], limit[tracker], self.series[rows], self.scale[rows, 0])
            inside = raised <= self.limits.highest[rows[0]]
            for cell, row in zip(cells, rows.tolist(), strict=True):
                flows = np.maximum(current_at(cell, raised / self.series[row]), 0) * self.scale[row, 0]
                throttled = current[row, when] * limit[tracker] / total[tracker, when]
                current[row, when] = np.where(inside, flows, throttled)
                voltage[row, when] = np.where(inside, raised, voltage[row, when])
        return bool(over.any())


def _alike(rows: Ints, circuits: Circuit, series: Floats) -> bool:
    """Whether strings on a tracker are the same in length, module, light and warmth, so that one voltage suits all."""
    first = rows[0]
    return bool(np.all(series[rows] == series[first])) and all(
        np.array_equal(_row(value, first), _row(value, row)) for value in vars(circuits).values() for row in rows[1:]
    )


def _row(value: Floats, row: int) -> Floats:
    return value[row] if value.shape[0] > 1 else value[0]


def _pick(circuits: Circuit, rows: Ints) -> Circuit:
    return Circuit(**{name: value[rows] if value.shape[0] > 1 else value for name, value in vars(circuits).items()})


def _at(circuits: Circuit, row: Ints, when: Ints) -> Circuit:
    def pick(value: Floats) -> Floats:
        return value[row if value.shape[0] > 1 else 0, when if value.shape[1] > 1 else 0]

    return Circuit(**{name: pick(value) for name, value in vars(circuits).items()})


def _voltage_for_current(cells: list[Circuit], low: Floats, current: float, series: Floats, scale: Floats) -> Floats:
    """Voltage over `low` at which the strings on a tracker carry `current` together, by bisection; (intervals,)."""
    high = np.max([open_circuit_voltage(cell) * n for cell, n in zip(cells, series, strict=True)], axis=0)
    low = low.copy()
    for _ in range(45):
        middle = (low + high) / 2
        flows = sum(np.maximum(current_at(cell, middle / n), 0) * k for cell, n, k in zip(cells, series, scale, strict=True))
        more = flows > current
        low, high = np.where(more, middle, low), np.where(more, high, middle)
    return high


def _during(circuits: Circuit, when: Ints) -> Circuit:
    return Circuit(**{name: value[:, when] if value.shape[1] > 1 else value for name, value in vars(circuits).items()})


def _power(circuits: Circuit, voltage: Floats, series: Floats, scale: Floats) -> Floats:
    """Of all strings on a tracker at one voltage, (intervals,) [W]."""
    return voltage * np.sum(np.maximum(current_at(circuits, voltage / series[:, np.newaxis]), 0) * scale, axis=0)


def _common_voltage(circuits: Circuit, low: Floats, high: Floats, series: Floats, scale: Floats) -> Floats:
    """Voltage between `low` and `high` at which the strings on one tracker give most together, (intervals,).

    Strings whose own voltages lie far apart may have several maxima: for them the best of 24 voltages is taken first.
    Then follows a golden-section search; the power is flat at its top, so its error is of the order of the square of the voltage's, 1e-6.
    """

    def power(trial: Floats, cells: Circuit = circuits) -> Floats:
        return _power(cells, trial, series, scale)

    span = high - low
    far = np.flatnonzero(span > FAR_APART * high)
    if far.size:
        part, bottom, reach = _during(circuits, far), low[far], span[far]
        trials = bottom + np.linspace(0, 1, 24)[:, np.newaxis] * reach
        best = trials[np.argmax([power(trial, part) for trial in trials], axis=0), np.arange(far.size)]
        low, high = low.copy(), high.copy()
        low[far], high[far] = np.maximum(bottom, best - reach / 23), np.minimum(high[far], best + reach / 23)

    ratio = (np.sqrt(5) - 1) / 2
    inner, outer = high - ratio * (high - low), low + ratio * (high - low)
    at_inner, at_outer = power(inner), power(outer)
    for _ in range(14):
        left = at_inner > at_outer
        low, high = np.where(left, low, inner), np.where(left, outer, high)
        kept, kept_power = np.where(left, inner, outer), np.where(left, at_inner, at_outer)
        new = np.where(left, high - ratio * (high - low), low + ratio * (high - low))
        at_new = power(new)
        inner, outer = np.where(left, new, kept), np.where(left, kept, new)
        at_inner, at_outer = np.where(left, at_new, kept_power), np.where(left, kept_power, at_new)
    return (low + high) / 2
