"""Strings on a tracker: the operating point that an inverter can reach.

Sub-arrays on one tracker share its voltage; the tracker's window, start voltage and current limit bound the point.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.shaded_strings import ShadedStrings
from noontide.core.electrical.single_diode import (
    Circuit,
    ModuleParameters,
    circuit,
    current_at,
    open_circuit_voltage,
    voltage_at,
)
from noontide.core.electrical.string_curves import CurveMember, StringKinds, operate_curves

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

HALVINGS = 45
NOTHING = np.zeros(1)  # a loss that does not occur


@dataclass(frozen=True)
class RowShade:
    """Shade on the rows of a sub-array, (intervals,)."""

    lit: Floats  # effective irradiance of a group without shade [W/m2]
    shaded: Floats  # of a group in shade [W/m2]
    groups: Floats  # share of a module's groups in shade, 0..1
    behind: float  # share of the strings that lie behind another row


@dataclass(frozen=True)
class SceneShade:
    """Shade of a scene on the cell groups of every string of a sub-array."""

    lit: Floats  # effective irradiance of a group without shade, (intervals,) [W/m2]
    shaded: Floats  # of a group in full shade [W/m2]
    when: Ints  # intervals in which groups differ, (shaded,)
    kinds: StringKinds  # of strings on the tracker of each inverter in them; the weights of a tracker add up to `parallel`


@dataclass(frozen=True)
class Strings:
    """The identical strings of a sub-array on a tracker; arrays are (intervals,)."""

    parameters: ModuleParameters
    light: Floats  # effective irradiance, mean over the modules [W/m2]
    cell_temperature: Floats  # [°C]
    maximum_voltage: Floats  # of one module at the mean irradiance [V]
    maximum_current: Floats  # [A]
    factor: float  # what tolerance, light-induced degradation and mismatch leave of the current
    series: float  # modules in a string; of aged ones the part that their voltage is of new ones
    parallel: int
    shade: RowShade | SceneShade | None = None
    drop: float = 0.0  # of all bypass diodes of a module [V]

    @property
    def scale(self) -> float:
        """From a module's current to that of all strings."""
        return self.factor * self.parallel

    def cells(self, when: Ints) -> Circuit:
        """A module under its mean irradiance in some intervals."""
        return circuit(self.parameters, self.light[when], self.cell_temperature[when])

    @cached_property
    def partial(self) -> tuple[Ints, ShadedStrings] | None:
        """The intervals with shade of rows, and the strings in them."""
        shade = self.shade
        if not isinstance(shade, RowShade):
            return None
        when = np.flatnonzero((shade.groups > 0) & (shade.lit - shade.shaded > 1e-6))
        if not when.size:
            return None
        lit, shaded = (circuit(self.parameters, light[when], self.cell_temperature[when]) for light in (shade.lit, shade.shaded))
        return when, ShadedStrings(lit, shaded, shade.groups[when], shade.behind, self.drop)

    @cached_property
    def partial_place(self) -> Ints:
        """Place of each interval among those with shade of rows, -1 without."""
        return self._place_among(self.partial[0] if self.partial else np.zeros(0, dtype=np.int64))

    def _place_among(self, some: Ints) -> Ints:
        place = np.full(self.light.size, -1, dtype=np.int64)
        place[some] = np.arange(some.size)
        return place

    @cached_property
    def mixed(self) -> Ints:
        """The intervals in which the scene lights groups unequally."""
        shade = self.shade
        if not isinstance(shade, SceneShade):
            return np.zeros(0, dtype=np.int64)
        return shade.when[shade.lit[shade.when] - shade.shaded[shade.when] > 1e-6]

    def current(self, voltage: Floats, when: Ints) -> Floats:
        """Of all strings at a string voltage in some intervals without shade of a scene, 0 or more [A]."""
        of_module = voltage / self.series
        flows = np.maximum(current_at(self.cells(when), of_module), 0)
        if self.partial:
            place = self.partial_place[when]
            inside = np.flatnonzero(place >= 0)
            if inside.size:
                flows[inside] = self.partial[1].during(place[inside]).current(of_module[inside])
        return flows * self.scale

    def open_circuit(self, when: Ints) -> Floats:
        """Voltage of a string without current in some intervals [V]."""
        return open_circuit_voltage(self.cells(when)) * self.series

    def curves(self, when: Ints) -> CurveMember:
        """The strings of some intervals by their kinds, whatever shades them."""
        lit, dark = self.light[when], self.light[when]
        if isinstance(self.shade, RowShade):
            is_shaded = self.partial_place[when] >= 0
            lit, dark = np.where(is_shaded, self.shade.lit[when], lit), np.where(is_shaded, self.shade.shaded[when], dark)
            kinds = _kinds_of_rows(np.where(is_shaded, self.shade.groups[when], 0.0), self.shade.behind, self.parallel)
        elif isinstance(self.shade, SceneShade):
            place = self._place_among(self.shade.when)[when]
            mixed = np.isin(when, self.mixed)
            lit, dark = np.where(mixed, self.shade.lit[when], lit), np.where(mixed, self.shade.shaded[when], dark)
            kinds = _kinds_during(self.shade.kinds, np.where(mixed, place, -1), self.parallel)
        else:
            kinds = _uniform_kinds(when.size, self.parallel)
        bright, dim = (circuit(self.parameters, light, self.cell_temperature[when]) for light in (lit, dark))
        return CurveMember(
            kinds,
            (dim.light_current, bright.light_current),
            (dim.shunt_conductance, bright.shunt_conductance),
            bright.saturation_current,
            bright.series_resistance,
            bright.ideality,
            self.series,
            self.factor,
            self.drop,
        )


def _uniform_kinds(intervals: int, parallel: float) -> StringKinds:
    first = np.zeros((intervals, 1), dtype=np.int64)
    return StringKinds(first, first + 1, np.array([float(parallel)]), np.array([0, 1]), np.ones(1), np.ones(1))


def _kinds_of_rows(groups: Floats, behind: float, parallel: float) -> StringKinds:
    """Strings behind another row, with a share of their groups in shade, and those in front."""
    first = 2 * np.arange(groups.size)[:, np.newaxis]
    weight = np.tile([behind * parallel, (1 - behind) * parallel], groups.size)
    share = np.stack([1 - groups, groups, np.ones_like(groups)], axis=1).ravel()
    level = np.concatenate(
        [np.stack([3 * np.arange(groups.size), 3 * np.arange(groups.size) + 2], axis=1).ravel(), [3 * groups.size]]
    )
    return StringKinds(first, first + 2, weight, level.astype(np.int64), np.tile([1.0, 0.0, 1.0], groups.size), share)


def _kinds_during(kinds: StringKinds, place: Ints, parallel: float) -> StringKinds:
    """The kinds at some places; one uniform kind where the place is -1."""
    uniform = kinds.weight.size
    first = np.where(place[:, np.newaxis] >= 0, kinds.first[place], uniform)
    last = np.where(place[:, np.newaxis] >= 0, kinds.last[place], uniform + 1)
    return StringKinds(
        first,
        last,
        np.append(kinds.weight, float(parallel)),
        np.append(kinds.level, kinds.light.size + 1),
        np.append(kinds.light, 1.0),
        np.append(kinds.share, 1.0),
    )


@dataclass(frozen=True)
class TrackerLimits:
    """What a tracker allows."""

    mppt_minimum: float  # voltage of the MPP window [V]
    mppt_maximum: float  # [V]
    start: float  # voltage without current from which the inverter starts [V]
    current: float  # largest operating current [A]


@dataclass(frozen=True)
class Banks:
    """The inverters of a set where they differ: each has trackers of its own."""

    when: Ints  # (some,)
    voltage: Floats  # (inverters, some) [V]
    current: Floats  # (inverters, some) [A]

    def spread(self, same: Floats, own: Floats, when: Ints) -> Floats:
        """Values of each inverter in some intervals, (inverters, some): the same for all, (intervals,), or their own where they differ."""
        each = np.repeat(same[np.newaxis, when], len(self.current), axis=0)
        each[:, np.searchsorted(when, self.when)] = own
        return each


@dataclass(frozen=True)
class OperatingPoint:
    """Where the strings of a sub-array work, and what that costs against each one's own maximum.

    Where the inverters of a set differ, voltage and current are those of the mean power, the voltage weighted by it, and losses are means.
    Arrays are (intervals,), or `NOTHING` for a loss that does not occur in the year.
    """

    voltage: Floats  # of a string [V]
    current: Floats  # of all strings of the sub-array [A]
    partial_shade_loss: Floats  # groups in shade [W]
    parallel_loss: Floats  # dissimilar strings at one voltage [W]
    window_loss: Floats  # voltage outside the window or below the start [W]
    current_loss: Floats  # current over the tracker's limit [W]
    outside: NDArray[np.bool_]  # whether the own maximum lies outside the window
    banks: "Banks | None" = None

    @property
    def power(self) -> Floats:
        return self.voltage * self.current

    def of_banks(self, when: Ints) -> tuple[Floats, Floats]:
        """Voltage and current of each inverter of the set in some intervals, (inverters, some); one row where all are the same."""
        banks = self.banks
        if banks is None:
            return self.voltage[np.newaxis, when], self.current[np.newaxis, when]
        return banks.spread(self.voltage, banks.voltage, when), banks.spread(self.current, banks.current, when)


def find_operating_points(members: Sequence[Strings], limits: TrackerLimits) -> list[OperatingPoint]:
    """Find the operating point of the sub-arrays on one tracker.

    Parameters
    ----------
    members : one each sub-array, all over the same intervals
    limits : TrackerLimits

    Notes
    -----
    A sub-array alone on its tracker and inside the window, the ordinary hour, stays at its own maximum. Dissimilar strings, and
    strings in the shade of a scene, are found on the sum of their curves. Without enough light to reach the lowest voltage, or to start,
    a string gives nothing.
    """
    is_shared = len(members) > 1 and not _identical(members)
    intervals = members[0].light.size
    when = np.arange(intervals) if is_shared else np.unique(np.concatenate([m.mixed for m in members]))
    if when.size < intervals:
        alike = _IdenticalStrings(members, limits)
        points = alike.operate()
        when = np.union1d(when, alike.has_others)
    else:
        points = [_own_maximum(member) for member in members]
    return _on_their_curves(members, limits, when, points) if when.size else points


def _own_maximum(member: Strings) -> OperatingPoint:
    voltage, current = member.maximum_voltage * member.series, member.maximum_current * member.scale
    return OperatingPoint(voltage, current, NOTHING, NOTHING, NOTHING, NOTHING, np.zeros(voltage.shape, dtype=np.bool_))


def _on_their_curves(
    members: Sequence[Strings], limits: TrackerLimits, when: Ints, points: list[OperatingPoint]
) -> list[OperatingPoint]:
    """The same points, in some intervals found anew on the curves of the strings."""
    found = operate_curves(
        [m.curves(when) for m in members], limits.mppt_minimum, limits.mppt_maximum, limits.start, limits.current
    )
    after = []
    for k, (member, point) in enumerate(zip(members, points, strict=True)):
        own = (member.maximum_voltage * member.maximum_current)[when] * (member.series * member.scale)
        power = found.voltage * found.current[k]
        alone, shared, held, final = (v.mean(axis=0) for v in (found.alone[k], found.shared[k], found.held[k], power))
        if not member.mixed.size and member.partial is None:
            alone = own
        voltage, current, outside = point.voltage.copy(), point.current.copy(), point.outside.copy()
        weighted = (found.voltage * power).mean(axis=0)
        voltage[when] = np.divide(weighted, final, out=found.voltage.mean(axis=0), where=final > 0)
        current[when] = np.divide(final, voltage[when], out=np.zeros(when.size), where=voltage[when] > 0)
        outside[when] = found.outside[k].any(axis=0)
        before = (point.partial_shade_loss, point.parallel_loss, point.window_loss, point.current_loss)
        partial, parallel, window, limit = (
            moved(loss, when, member.light.size, first - last)
            for loss, (first, last) in zip(before, pairwise((own, alone, shared, held, final)), strict=True)
        )
        banks = Banks(when, found.voltage, found.current[k]) if len(found.voltage) > 1 else point.banks
        after.append(OperatingPoint(voltage, current, partial, parallel, window, limit, outside, banks))
    return after


def moved(loss: Floats, when: Ints, intervals: int, now: Floats) -> Floats:
    """A loss with new values in some intervals; `NOTHING` where there is none anywhere."""
    if loss is NOTHING and not np.any(np.abs(now) > 1e-12):
        return NOTHING
    after = np.zeros(intervals) if loss is NOTHING else loss.copy()
    after[when] = now
    return after


class _IdenticalStrings:
    """Identical strings on a tracker, with operating points that each verb moves in place: lists of (intervals,), one each member.

    `has_others` are the intervals in which the limits shut out the maximum of strings with shade, so that their whole curves must be looked at.
    """

    def __init__(self, members: Sequence[Strings], limits: TrackerLimits):
        self.members, self.limits = members, limits
        self.voltage = [m.maximum_voltage * m.series for m in members]
        self.current = [m.maximum_current * m.scale for m in members]
        self.has_others = np.zeros(0, dtype=np.int64)

    def power(self) -> list[Floats]:
        return [v * i for v, i in zip(self.voltage, self.current, strict=True)]

    def operate(self) -> list[OperatingPoint]:
        own = self.power()
        is_partial = [self._shade(k) for k in range(len(self.members))]
        alone = self.power() if any(is_partial) else own
        outside = [(v < self.limits.mppt_minimum) | (v > self.limits.mppt_maximum) for v in self.voltage]
        outside = [out & (p > 0) for out, p in zip(outside, alone, strict=True)]
        if any(is_partial):
            # Where the limits shut the best maximum out, another one may be the best that is left.
            is_shut_out = np.any(outside, axis=0) | (sum(self.current) > self.limits.current)
            self.has_others = np.flatnonzero(is_shut_out & np.any([m.partial_place >= 0 for m in self.members], axis=0))
        is_held = self._clamp_to_mppt_window(outside)
        held = self.power() if is_held else alone
        is_limited = self._limit()
        final = self.power() if is_limited else held
        return [
            OperatingPoint(
                self.voltage[k],
                self.current[k],
                partial_shade_loss=own[k] - alone[k] if is_partial[k] else NOTHING,
                parallel_loss=NOTHING,
                window_loss=alone[k] - held[k] if is_held else NOTHING,
                current_loss=held[k] - final[k] if is_limited else NOTHING,
                outside=outside[k],
            )
            for k in range(len(self.members))
        ]

    def _shade(self, k: int) -> bool:
        """Move a sub-array to its own maximum under the shade of rows; whether there is any."""
        member = self.members[k]
        if not member.partial:
            return False
        when, strings = member.partial
        weak, bypassed = ((v * member.series, i * member.scale) for v, i in strings.maxima())
        is_weak = weak[0] * weak[1] >= bypassed[0] * bypassed[1]
        self.voltage[k][when] = np.where(is_weak, weak[0], bypassed[0])
        self.current[k][when] = np.where(is_weak, weak[1], bypassed[1])
        return True

    def _clamp_to_mppt_window(self, outside: list[NDArray[np.bool_]]) -> bool:
        """Hold the best voltage of the window, and nothing where the inverter does not start; whether anything moved."""
        window = self.limits.mppt_minimum, self.limits.mppt_maximum
        is_held = False
        for k, member in enumerate(self.members):
            when = np.flatnonzero(outside[k])
            if when.size:
                is_held = True
                held = np.clip(self.voltage[k][when], *window)
                self.voltage[k][when], self.current[k][when] = held, member.current(held, when)
        highest = self.voltage[0] if len(self.voltage) == 1 else np.max(self.voltage, axis=0)
        low = np.flatnonzero((highest < self.limits.start) & (highest > 0))
        if low.size:
            idle = low[np.max([m.open_circuit(low) for m in self.members], axis=0) < self.limits.start]
            for voltage, current in zip(self.voltage, self.current, strict=True):
                is_held = is_held or bool(np.any(current[idle] > 0))
                voltage[idle], current[idle] = 0.0, 0.0
        return is_held

    def _limit(self) -> bool:
        """Raise the voltage until the current is allowed, at most to the window's end, and throttle what is left; whether any was over."""
        total = sum(self.current)
        when = np.flatnonzero(total > self.limits.current)
        if not when.size:
            return False
        raised = self._voltage_for_current(np.max([v[when] for v in self.voltage], axis=0), when)
        voltage = np.minimum(raised, np.maximum(self.limits.mppt_maximum, np.max([v[when] for v in self.voltage], axis=0)))
        flows = [member.current(voltage, when) for member in self.members]
        sums = np.maximum(sum(flows), 1e-12)
        throttle = np.minimum(self.limits.current / sums, 1.0)
        for k, flow in enumerate(flows):
            self.voltage[k][when], self.current[k][when] = voltage, flow * throttle
        return True

    def _voltage_for_current(self, low: Floats, when: Ints) -> Floats:
        """Voltage over `low` at which the strings carry the limit together: that of each one's part of it, and under shade of rows by bisection."""
        first = self.members[0]
        part = self.limits.current / sum(m.scale for m in self.members)
        found = np.maximum(voltage_at(first.cells(when), part) * first.series, low)
        shaded = np.flatnonzero(np.any([m.partial_place[when] >= 0 for m in self.members], axis=0))
        if shaded.size:
            found[shaded] = self._bisected(low[shaded], when[shaded])
        return found

    def _bisected(self, low: Floats, when: Ints) -> Floats:
        high = np.max([m.open_circuit(when) for m in self.members], axis=0)
        low = low.copy()
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            more = sum(m.current(middle, when) for m in self.members) > self.limits.current
            low, high = np.where(more, middle, low), np.where(more, high, middle)
        return high


def _identical(members: Sequence[Strings]) -> bool:
    """Whether the strings are the same in length, module, irradiance and temperature, so that one voltage suits all."""
    first = members[0]

    def same(one: object, other: object) -> bool:
        return one is other or (isinstance(one, np.ndarray) and isinstance(other, np.ndarray) and np.array_equal(one, other))

    def alike_in_shade(one: RowShade | SceneShade | None, other: RowShade | SceneShade | None) -> bool:
        if one is None or other is None or isinstance(one, SceneShade) or isinstance(other, SceneShade):
            return one is other
        return one.behind == other.behind and all(same(getattr(one, f), getattr(other, f)) for f in ("lit", "shaded", "groups"))

    return all(
        member.series == first.series
        and member.parameters == first.parameters
        and member.drop == first.drop
        and same(member.light, first.light)
        and same(member.cell_temperature, first.cell_temperature)
        and alike_in_shade(member.shade, first.shade)
        for member in members[1:]
    )
