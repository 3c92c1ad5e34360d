"""Strings in parallel of which every one has its own share of cell groups in shade, as one curve by interval.

The light of a group lies between two ends, the open light and what is left in full shade; it is taken in five steps between them. The
groups of a string carry one current, those that cannot are bypassed; the strings have one voltage. Voltages are of one module.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.electrical.single_diode import Circuit
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
LEVELS = 5  # of light, from full shade to none
POINTS = 121  # of the curve, from no voltage to the open circuit
CLOSE = 3e-3  # of the ideality: Newton's method squares what is left
EVEN = 16  # currents in even steps
NEAR_KNEE = (0.80, 0.90, 0.94, 0.97, 0.985, 0.995, 1.0, 1.002)  # currents around the light current of a level


@njit(cache=True, nogil=True)
def _voltages(grid, count, light, saturation, resistance, conductance, ideality, drop, table, level):  # type: ignore[no-untyped-def]
    """Voltages of a module at rising currents, each found from the one before, into a row of `table`; none below the diodes' drop."""
    u = ideality * np.log1p(light / saturation)
    for k in range(count):
        missing = light - grid[k]
        if missing <= 0:
            v = -np.inf if conductance <= 0 else missing / conductance - grid[k] * resistance
            table[level, k] = max(v, -drop)
            continue
        u = min(u, ideality * np.log1p(missing / saturation))
        for _ in range(20):
            rush = saturation * np.expm1(u / ideality)
            step = (missing - rush - u * conductance) / ((rush + saturation) / ideality + conductance)
            # From the left of the root the first step overshoots to its right, from where the method falls to it.
            u = min(u + step, ideality * np.log1p(missing / saturation))
            if abs(step) < CLOSE * ideality:
                break
        table[level, k] = max(u - grid[k] * resistance, -drop)


@njit(cache=True, nogil=True)
def _curves(light, saturation, resistance, conductance, ideality, shares, drop, knees, top, out, first, last):  # type: ignore[no-untyped-def]
    """Mean current of the strings at even voltages up to `top`, into `out` (intervals, points)."""
    strings, levels, _ = shares.shape
    points = out.shape[1]
    for t in range(first, last):
        most = light[levels - 1, t]
        used = np.zeros(levels, dtype=np.bool_)
        for s in range(strings):
            for level in range(levels):
                if shares[s, level, t] > 0:
                    used[level] = True
        grid = np.empty(EVEN + levels * knees.size)
        for k in range(EVEN):
            grid[k] = most * k / (EVEN - 1)
        count = EVEN
        for level in range(levels):
            if used[level]:
                for k in range(knees.size):
                    grid[count] = min(light[level, t] * knees[k], most)
                    count += 1
        grid[:count].sort()
        table = np.empty((levels, count))
        for level in range(levels):
            if used[level]:
                _voltages(
                    grid,
                    count,
                    light[level, t],
                    saturation[level, t],
                    resistance[level, t],
                    conductance[level, t],
                    ideality[level, t],
                    drop,
                    table,
                    level,
                )
        step = top[t] / (points - 1)
        volts = np.empty(count)
        for p in range(points):
            out[t, p] = 0.0
        for s in range(strings):
            for k in range(count):
                v = 0.0
                for level in range(levels):
                    if shares[s, level, t] > 0:
                        v += shares[s, level, t] * table[level, k]
                volts[k] = v
            k = count - 1
            for p in range(points):
                at = p * step
                while k > 0 and volts[k] < at:
                    k -= 1
                if volts[k] < at:
                    break
                if k == count - 1:
                    out[t, p] += grid[k] / strings
                    continue
                fall = volts[k] - volts[k + 1]
                part = (volts[k] - at) / fall if fall > 0 else 0.0
                out[t, p] += (grid[k] + part * (grid[k + 1] - grid[k])) / strings


@dataclass(frozen=True)
class MixedStrings:
    """Strings in parallel in the intervals with unequal light; arrays are (levels, shaded) or (shaded,)."""

    cells: Circuit  # of a module at every level of light, from the darkest, (levels, shaded)
    shares: NDArray[np.float32]  # of a string's groups at every level, (strings, levels, shaded)
    drop: float  # of all bypass diodes of a module in series [V]
    top: Floats  # open-circuit voltage of a module without shade [V]

    @cached_property
    def currents(self) -> Floats:
        """Mean current of the strings at even voltages from 0 to `top`, (shaded, points) [A]."""
        shape = self.cells.light_current.shape
        fields = [np.ascontiguousarray(np.broadcast_to(v, shape), dtype=float) for v in vars(self.cells).values()]
        out = np.zeros((shape[1], POINTS))
        inputs = (*fields, self.shares, self.drop, np.array(NEAR_KNEE), self.top, out)
        in_chunks(lambda first, last: _curves(*inputs, first, last), shape[1])
        return out

    def during(self, when: Ints) -> "_SomeOf":
        """The same in some of its intervals."""
        return _SomeOf(self.currents[when], self.top[when])

    def current(self, voltage: Floats) -> Floats:
        """Mean current of the strings at a voltage of a module, 0 or more [A]."""
        return _SomeOf(self.currents, self.top).current(voltage)

    def maxima(self) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
        """The two highest maxima as voltage and mean current; the second is the first again where there is one alone."""
        step = self.top / (POINTS - 1)
        volts = step[:, np.newaxis] * np.arange(POINTS)
        power = volts * self.currents
        middle = power[:, 1:-1]
        is_peak = (middle >= power[:, :-2]) & (middle > power[:, 2:])
        heights = np.where(is_peak, middle, -1.0)
        rows = np.arange(len(power))
        found = []
        for _ in range(2):
            k = np.argmax(heights, axis=1) + 1
            found.append(self._refined(power, k, step))
            heights[rows, k - 1] = -1.0
        first, second = found
        lone = heights.max(axis=1, initial=-1.0) <= -1.0
        return first, (np.where(lone, first[0], second[0]), np.where(lone, first[1], second[1]))

    def _refined(self, power: Floats, k: Ints, step: Floats) -> tuple[Floats, Floats]:
        """The top of the parabola through a maximum and its neighbours."""
        rows = np.arange(len(power))
        before, at, after = power[rows, k - 1], power[rows, k], power[rows, k + 1]
        bend = before - 2 * at + after
        shift = np.where(bend < 0, np.clip(0.5 * (before - after) / np.where(bend < 0, bend, -1.0), -0.5, 0.5), 0.0)
        voltage = (k + shift) * step
        best = at - 0.25 * (before - after) * shift
        return voltage, np.divide(best, voltage, out=np.zeros_like(best), where=voltage > 0)


@dataclass(frozen=True)
class _SomeOf:
    """Curves of some intervals."""

    currents: Floats
    top: Floats

    def current(self, voltage: Floats) -> Floats:
        """Mean current of the strings at a voltage of a module, 0 or more [A]."""
        place = np.divide(voltage, self.top, out=np.zeros_like(voltage), where=self.top > 0) * (POINTS - 1)
        low = np.clip(place.astype(np.int64), 0, POINTS - 2)
        rows = np.arange(len(self.currents))
        a, b = self.currents[rows, low], self.currents[rows, low + 1]
        return np.where(place > POINTS - 1, 0.0, np.maximum(a + (place - low) * (b - a), 0))
