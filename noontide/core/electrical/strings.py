"""Strings on a tracker: the operating point that an inverter can reach.

Sub-arrays on one tracker share its voltage; the tracker's window, start voltage and current limit bound the point.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.mixed_strings import LEVELS, MixedStrings
from noontide.core.electrical.shaded_strings import ShadedStrings, golden_section
from noontide.core.electrical.single_diode import (
    Circuit,
    ModuleParameters,
    circuit,
    current_at,
    open_circuit_voltage,
)

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Point = tuple[Floats, Floats]  # voltage [V] and current [A]

FAR_APART = 0.2  # of the higher voltage, from which on the power of several strings may have two maxima
TRIALS = 24
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
    shares: NDArray[np.float32]  # of a string's groups at every level of light from full shade to none, (strings, levels, shaded)


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
    def partial(self) -> tuple[Ints, ShadedStrings | MixedStrings] | None:
        """The intervals with shade, and the strings in them."""
        shade = self.shade
        if shade is None:
            return None
        if isinstance(shade, SceneShade):
            return self._mixed(shade)
        when = np.flatnonzero((shade.groups > 0) & (shade.lit - shade.shaded > 1e-6))
        if not when.size:
            return None
        lit, shaded = (circuit(self.parameters, light[when], self.cell_temperature[when]) for light in (shade.lit, shade.shaded))
        return when, ShadedStrings(lit, shaded, shade.groups[when], shade.behind, self.drop)

    def _mixed(self, shade: SceneShade) -> tuple[Ints, MixedStrings] | None:
        kept = np.flatnonzero(shade.lit[shade.when] - shade.shaded[shade.when] > 1e-6)
        if not kept.size:
            return None
        when = shade.when[kept]
        steps = np.linspace(0, 1, LEVELS)[:, np.newaxis]
        light = shade.shaded[when] + steps * (shade.lit[when] - shade.shaded[when])
        cells = circuit(self.parameters, light, self.cell_temperature[when])
        top = open_circuit_voltage(circuit(self.parameters, shade.lit[when], self.cell_temperature[when]))
        return when, MixedStrings(cells, np.ascontiguousarray(shade.shares[:, :, kept]), self.drop, top)

    @cached_property
    def partial_place(self) -> Ints:
        """Place of each interval among those with shade, -1 without."""
        place = np.full(self.light.size, -1, dtype=np.int64)
        if self.partial:
            place[self.partial[0]] = np.arange(self.partial[0].size)
        return place

    def current(self, voltage: Floats, when: Ints) -> Floats:
        """Of all strings at a string voltage in some intervals, 0 or more [A]."""
        of_module = voltage / self.series
        flows = np.maximum(current_at(self.cells(when), of_module), 0)
        if self.partial:
            place = self.partial_place[when]
            inside = np.flatnonzero(place >= 0)
            if inside.size:
                flows[inside] = self.partial[1].during(place[inside]).current(of_module[inside])
        return flows * self.scale

    @cached_property
    def _shaded_curve(self) -> tuple[Floats, Floats]:
        strings = self.partial[1] if self.partial else None
        assert isinstance(strings, ShadedStrings)
        return strings.curve()

    def rough_current(self, voltage: Floats, when: Ints) -> Floats:
        """Like `current`, but read from points of the curve where a group is in shade: for searches, to a thousandth."""
        of_module = voltage / self.series
        flows = np.maximum(current_at(self.cells(when), of_module), 0)
        if self.partial:
            place = self.partial_place[when]
            inside = np.flatnonzero(place >= 0)
            if inside.size and isinstance(self.partial[1], MixedStrings):
                flows[inside] = self.partial[1].during(place[inside]).current(of_module[inside])
            elif inside.size:
                shaded, at = place[inside], of_module[inside]
                volts, amperes = self._shaded_curve
                low = np.clip(np.count_nonzero(volts[:, shaded] > at, axis=0) - 1, 0, volts.shape[0] - 2)
                v0, v1, i0, i1 = volts[low, shaded], volts[low + 1, shaded], amperes[low, shaded], amperes[low + 1, shaded]
                part = np.clip((v0 - at) / np.maximum(v0 - v1, 1e-12), 0, 1)
                behind = np.where(at > volts[0, shaded], 0.0, i0 + part * (i1 - i0))
                strings = self.partial[1].during(shaded)
                assert isinstance(strings, ShadedStrings)
                free = np.maximum(current_at(strings.lit, at), 0) if strings.behind < 1 else 0.0
                flows[inside] = strings.behind * behind + (1 - strings.behind) * free
        return flows * self.scale

    def open_circuit(self, when: Ints) -> Floats:
        """Voltage of a string without current in some intervals [V]."""
        return open_circuit_voltage(self.cells(when)) * self.series


@dataclass(frozen=True)
class TrackerLimits:
    """What a tracker allows."""

    mppt_minimum: float  # voltage of the MPP window [V]
    mppt_maximum: float  # [V]
    start: float  # voltage without current from which the inverter starts [V]
    current: float  # largest operating current [A]


@dataclass(frozen=True)
class OperatingPoint:
    """Where the strings of a sub-array work, and what that costs against each one's own maximum.

    Arrays are (intervals,), or `NOTHING` for a loss that does not occur in the year.
    """

    voltage: Floats  # of a string [V]
    current: Floats  # of all strings of the sub-array [A]
    partial_shade_loss: Floats  # groups in shade [W]
    parallel_loss: Floats  # dissimilar strings at one voltage [W]
    window_loss: Floats  # voltage outside the window or below the start [W]
    current_loss: Floats  # current over the tracker's limit [W]
    outside: NDArray[np.bool_]  # whether the own maximum lies outside the window

    @property
    def power(self) -> Floats:
        return self.voltage * self.current


def find_operating_points(members: Sequence[Strings], limits: TrackerLimits) -> list[OperatingPoint]:
    """Find the operating point of the sub-arrays on one tracker.

    Parameters
    ----------
    members : one each sub-array, all over the same intervals
    limits : TrackerLimits

    Notes
    -----
    A sub-array alone on its tracker and inside the window, the ordinary hour, stays at its own maximum; only the others
    are solved again. Without enough light to reach the lowest voltage, or to start, a string gives nothing.
    """
    return _ParallelStrings(members, limits).operate()


class _ParallelStrings:
    """The strings on a tracker, with operating points that each verb moves in place: lists of (intervals,), one each member."""

    def __init__(self, members: Sequence[Strings], limits: TrackerLimits):
        self.members, self.limits = members, limits
        self.voltage = [m.maximum_voltage * m.series for m in members]
        self.current = [m.maximum_current * m.scale for m in members]
        self.maxima: list[tuple[Point, Point] | None] = [None] * len(members)

    def power(self) -> list[Floats]:
        return [v * i for v, i in zip(self.voltage, self.current, strict=True)]

    def operate(self) -> list[OperatingPoint]:
        own = self.power()
        is_partial = [self._shade(k) for k in range(len(self.members))]
        alone = self.power() if any(is_partial) else own
        best_inside = self._share()
        shared = self.power() if best_inside is not None else alone
        outside = [(v < self.limits.mppt_minimum) | (v > self.limits.mppt_maximum) for v in self.voltage]
        outside = [out & (p > 0) for out, p in zip(outside, alone, strict=True)]
        is_held = self._clamp_to_mppt_window(outside, best_inside)
        held = self.power() if is_held else shared
        is_limited = self._limit()
        final = self.power() if is_limited else held
        return [
            OperatingPoint(
                self.voltage[k],
                self.current[k],
                partial_shade_loss=own[k] - alone[k] if is_partial[k] else NOTHING,
                parallel_loss=alone[k] - shared[k] if best_inside is not None else NOTHING,
                window_loss=shared[k] - held[k] if is_held else NOTHING,
                current_loss=held[k] - final[k] if is_limited else NOTHING,
                outside=outside[k],
            )
            for k in range(len(self.members))
        ]

    def _shade(self, k: int) -> bool:
        """Move a sub-array to its own maximum under shade; whether there is any."""
        member = self.members[k]
        if not member.partial:
            return False
        when, strings = member.partial
        weak, bypassed = ((v * member.series, i * member.scale) for v, i in strings.maxima())
        is_weak = weak[0] * weak[1] >= bypassed[0] * bypassed[1]
        self.voltage[k][when] = np.where(is_weak, weak[0], bypassed[0])
        self.current[k][when] = np.where(is_weak, weak[1], bypassed[1])
        self.maxima[k] = weak, bypassed
        return True

    def _share(self) -> Floats | None:
        """Bring dissimilar strings to their best common voltage; the best inside the window, None where each has its own."""
        if len(self.members) < 2 or _identical(self.members):
            return None
        every = np.arange(self.voltage[0].size)
        reached = [np.where(i > 0, v, np.nan) for v, i in zip(self.voltage, self.current, strict=True)]
        for k, maxima in enumerate(self.maxima):
            if maxima is not None:
                place = self.members[k].partial[0]  # type: ignore[index]
                for voltage, current in maxima:
                    spread = np.full(every.size, np.nan)
                    spread[place] = np.where(voltage * current > 0, voltage, np.nan)
                    reached.append(spread)
        own = np.stack(reached)
        low, high = np.nan_to_num(np.fmin.reduce(own, axis=0)), np.nan_to_num(np.fmax.reduce(own, axis=0))
        window = self.limits.mppt_minimum, self.limits.mppt_maximum
        shared = self._common_voltage(low, high, every)
        inside = np.clip(shared, *window)
        beyond = np.flatnonzero(inside != shared)
        if beyond.size:
            found = self._common_voltage(np.clip(low[beyond], *window), np.clip(high[beyond], *window), beyond)
            inside[beyond] = found
            # Of strings a hundredfold apart the free search may miss what the narrower one has found.
            missed = self._total_power(found, beyond) > self._total_power(shared[beyond], beyond)
            shared[beyond] = np.where(missed, found, shared[beyond])
        for k, member in enumerate(self.members):
            self.voltage[k], self.current[k] = shared.copy(), member.current(shared, every)
        return inside

    def _clamp_to_mppt_window(self, outside: list[NDArray[np.bool_]], best_inside: Floats | None) -> bool:
        """Hold the best voltage of the window, and nothing where the inverter does not start; whether anything moved."""
        window = self.limits.mppt_minimum, self.limits.mppt_maximum
        is_held = False
        for k, member in enumerate(self.members):
            when = np.flatnonzero(outside[k])
            if when.size:
                is_held = True
                held = np.clip(self.voltage[k][when], *window) if best_inside is None else best_inside[when]
                flows = member.current(held, when)
                if best_inside is None and self.maxima[k] is not None:
                    held, flows = self._better_inside(k, when, held, flows)
                self.voltage[k][when], self.current[k][when] = held, flows
        highest = self.voltage[0] if len(self.voltage) == 1 else np.max(self.voltage, axis=0)
        low = np.flatnonzero((highest < self.limits.start) & (highest > 0))
        if low.size:
            idle = low[np.max([m.open_circuit(low) for m in self.members], axis=0) < self.limits.start]
            for current in self.current:
                is_held = is_held or bool(np.any(current[idle] > 0))
                current[idle] = 0.0
        return is_held

    def _better_inside(self, k: int, when: Ints, held: Floats, flows: Floats) -> Point:
        """Of the window's nearest voltage, its other end and the maxima inside it, the one that gives most."""
        member, lowest, highest = self.members[k], self.limits.mppt_minimum, self.limits.mppt_maximum
        candidates = [(held, flows)]
        for end in (lowest, highest):
            at_end = np.full(when.size, end)
            candidates.append((at_end, member.current(at_end, when)))
        place = member.partial_place[when]
        for voltage, current in self.maxima[k]:  # type: ignore[union-attr]
            is_inside = (place >= 0) & (voltage[place] >= lowest) & (voltage[place] <= highest)
            candidates.append((np.where(is_inside, voltage[place], held), np.where(is_inside, current[place], 0.0)))
        best = np.argmax([v * i for v, i in candidates], axis=0)
        spread = np.arange(when.size)
        return np.stack([v for v, _ in candidates])[best, spread], np.stack([i for _, i in candidates])[best, spread]

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
        """Voltage over `low` at which the strings carry the limit together, by bisection."""
        high = np.max([m.open_circuit(when) for m in self.members], axis=0)
        low = low.copy()
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            more = sum(m.current(middle, when) for m in self.members) > self.limits.current
            low, high = np.where(more, middle, low), np.where(more, high, middle)
        return high

    def _total_power(self, voltage: Floats, when: Ints) -> Floats:
        return voltage * sum(m.rough_current(voltage, when) for m in self.members)

    def _common_voltage(self, low: Floats, high: Floats, when: Ints) -> Floats:
        """Voltage between `low` and `high` at which the strings give most together.

        Strings whose own voltages lie far apart may have several maxima: for them the best of 24 voltages is taken first.
        """
        span = high - low
        far = np.flatnonzero(span > FAR_APART * high)
        if far.size:
            bottom, reach = low[far], span[far]
            trials = bottom + np.linspace(0, 1, TRIALS)[:, np.newaxis] * reach
            best = np.argmax([self._total_power(trial, when[far]) for trial in trials], axis=0)
            place = trials[best, np.arange(far.size)]
            low, high = low.copy(), high.copy()
            low[far] = np.maximum(bottom, place - reach / (TRIALS - 1))
            high[far] = np.minimum(high[far], place + reach / (TRIALS - 1))
        return golden_section(lambda v: self._total_power(v, when), low, high, steps=14)


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
