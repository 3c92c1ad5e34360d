"""Strings on trackers: the operating point that an inverter's tracker can reach.

Sub-arrays on one tracker share its voltage; each tracker's window and current limit bound the point.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.single_diode import Circuit, current_at, open_circuit_voltage

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


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
    n_series, scale = series[:, np.newaxis], factor * parallel[:, np.newaxis]
    voltage, current = maximum_voltage * n_series, maximum_current * scale
    own = voltage * current
    # Losses that do not occur take no memory.
    parallel_loss = window_loss = current_loss = np.broadcast_to(0.0, own.shape)

    tracker_ids = limits.tracker
    for tracker in np.flatnonzero(np.bincount(tracker_ids) > 1):
        rows = np.flatnonzero(tracker_ids == tracker)
        if _alike(rows, circuits, series):
            continue
        if not parallel_loss.flags.writeable:
            parallel_loss = np.zeros_like(own)
        shared = _common_voltage(_pick(circuits, rows), voltage[rows], current[rows], series[rows], scale[rows])
        voltage[rows] = shared
        current[rows] = np.maximum(current_at(_pick(circuits, rows), shared / series[rows, np.newaxis]), 0) * scale[rows]
        parallel_loss[rows] = own[rows] - voltage[rows] * current[rows]

    lowest, highest = limits.lowest[:, np.newaxis], limits.highest[:, np.newaxis]
    outside = ((voltage < lowest) | (voltage > highest)) & (own > 0)
    if outside.any():
        before = voltage * current
        row, when = np.nonzero(outside)
        held = np.clip(voltage, lowest, highest)[row, when]
        cell = _at(circuits, row, when)
        flows = np.maximum(current_at(cell, held / series[row]), 0) * scale[row, 0]
        flows = np.where(held / series[row] < open_circuit_voltage(cell), flows, 0.0)
        voltage[row, when], current[row, when] = held, flows
        window_loss = before - voltage * current

    counts = np.bincount(tracker_ids)
    total = (
        current[np.argsort(tracker_ids)]
        if counts.max() == 1
        else (np.arange(counts.size)[:, np.newaxis] == tracker_ids).astype(float) @ current
    )
    limit = np.zeros(counts.size)
    limit[tracker_ids] = limits.current
    if (total > limit[:, np.newaxis]).any():
        before = voltage * current
        for tracker in np.flatnonzero((total > limit[:, np.newaxis]).any(axis=1)):
            rows, when = np.flatnonzero(tracker_ids == tracker), np.flatnonzero(total[tracker] > limit[tracker])
            cells = [_at(circuits, np.full(when.size, row), when) for row in rows]
            raised = _voltage_for_current(cells, voltage[rows[0], when], limit[tracker], series[rows], scale[rows, 0])
            # The current falls by raising the voltage; at the top of the window it can only be throttled.
            inside = raised <= limits.highest[rows[0]]
            for cell, member in zip(cells, rows, strict=True):
                flows = np.maximum(current_at(cell, raised / series[member]), 0) * scale[member, 0]
                throttled = current[member, when] * limit[tracker] / total[tracker, when]
                current[member, when] = np.where(inside, flows, throttled)
                voltage[member, when] = np.where(inside, raised, voltage[member, when])
        current_loss = before - voltage * current
    return OperatingPoint(voltage, current, parallel_loss, window_loss, current_loss, outside)


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


def _common_voltage(circuits: Circuit, voltage: Floats, current: Floats, series: Floats, scale: Floats) -> Floats:
    """Voltage at which the strings on one tracker give most together, (intervals,).

    Golden-section search between the lowest and the highest of their own voltages, to 1e-4 of it: the power is
    flat at its top, so its error is of the order of the square.
    """
    lit = current > 0
    low = np.where(lit, voltage, np.inf).min(axis=0)
    low, high = np.where(np.isfinite(low), low, 0.0), voltage.max(axis=0)

    def power(trial: Floats) -> Floats:
        return trial * np.sum(np.maximum(current_at(circuits, trial / series[:, np.newaxis]), 0) * scale, axis=0)

    ratio = (np.sqrt(5) - 1) / 2
    inner, outer = high - ratio * (high - low), low + ratio * (high - low)
    at_inner, at_outer = power(inner), power(outer)
    for _ in range(20):
        left = at_inner > at_outer
        low, high = np.where(left, low, inner), np.where(left, outer, high)
        kept, kept_power = np.where(left, inner, outer), np.where(left, at_inner, at_outer)
        new = np.where(left, high - ratio * (high - low), low + ratio * (high - low))
        at_new = power(new)
        inner, outer = np.where(left, new, kept), np.where(left, kept, new)
        at_inner, at_outer = np.where(left, at_new, kept_power), np.where(left, kept_power, at_new)
    return (low + high) / 2
