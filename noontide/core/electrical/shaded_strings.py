"""Strings with cell groups in shade: their I-V curve and where it gives most.

A string in a row behind another has a share q of its cell groups in shade. In series they carry one current: up to what the
shaded groups can make, all give voltage; beyond, the shaded groups are bypassed and cost the drop of their diodes. The curve
has a maximum on either side. Voltages here are of one module, currents of one string.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.single_diode import (
    Circuit,
    current_at,
    during,
    max_power_of,
    voltage_at,
)

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
DIODE_DROP = 0.5  # V of a conducting Schottky bypass diode
GOLDEN = (np.sqrt(5) - 1) / 2
STEPS = 18  # of the golden section: the place to 2e-4 of its span
HALVINGS = 30
POINTS = 24  # of either part of the curve, for a search


@dataclass(frozen=True)
class ShadedStrings:
    """Identical strings of which a share lies in rows behind others, in the intervals with shade; arrays are (shaded,)."""

    lit: Circuit  # of a module without shade
    shaded: Circuit  # of a module of which every group is in shade
    groups: Floats  # share of a module's groups in shade, above 0 and up to 1
    behind: float  # share of the strings in rows behind another, 0..1
    drop: float  # of all bypass diodes of a module in series [V]

    def during(self, when: Ints) -> "ShadedStrings":
        """The same in some of its intervals."""
        return ShadedStrings(during(self.lit, when), during(self.shaded, when), self.groups[when], self.behind, self.drop)

    def current(self, voltage: Floats) -> Floats:
        """Mean current of the strings at a voltage of a module, 0 or more."""
        free = np.maximum(current_at(self.lit, voltage), 0) if self.behind < 1 else 0.0
        return self.behind * self._behind_current(voltage) + (1 - self.behind) * free

    def voltage(self, current: Floats) -> Floats:
        """Of a module in a string behind, at the current of that string."""
        rest = np.maximum(voltage_at(self.shaded, current), -self.drop)
        return (1 - self.groups) * voltage_at(self.lit, current) + self.groups * rest

    def curve(self) -> tuple[Floats, Floats]:
        """Points of the curve of a string behind, dense at both knees: voltages falling and currents rising, (points, shaded)."""
        knee = self.shaded.light_current + self.shaded.shunt_conductance * self.drop
        most = np.maximum(np.broadcast_to(self.lit.light_current, knee.shape), knee)
        dense = 1 - (1 - np.linspace(0, 1, POINTS)[:, np.newaxis]) ** 3
        current = np.concatenate([dense * knee, knee + dense[1:] * (most - knee)])
        return np.stack([self.voltage(row) for row in current]), current

    def maxima(self) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
        """Both local maxima as voltage and mean current: with all groups at the weak current, and with the shaded ones bypassed."""
        knee = self.shaded.light_current + self.shaded.shunt_conductance * self.drop
        most = np.maximum(np.broadcast_to(self.lit.light_current, knee.shape), knee)
        uniform = np.flatnonzero(self.groups >= 1)
        weak, bypassed = (self._best_current(low, high) for low, high in ((np.zeros_like(knee), knee), (knee, most)))
        if uniform.size:
            # Where every group is in shade the strings behind are modules with less light.
            for found, value in zip(weak, self.during(uniform)._uniform(), strict=True):
                found[uniform] = value
            for found in bypassed:
                found[uniform] = 0.0
        return weak, bypassed

    def _best_current(self, low: Floats, high: Floats) -> tuple[Floats, Floats]:
        if np.all(self.groups >= 1):
            return np.zeros_like(low), np.zeros_like(low)

        def power(current: Floats) -> Floats:
            voltage = self.voltage(current)
            return voltage * self._mean(current, voltage)

        current = golden_section(power, low, high)
        voltage = self.voltage(current)
        return np.maximum(voltage, 0), self._mean(current, voltage)

    def _mean(self, current: Floats, voltage: Floats) -> Floats:
        if self.behind >= 1:
            return current
        free = np.maximum(current_at(self.lit, np.maximum(voltage, 0)), 0)
        return self.behind * current + (1 - self.behind) * free

    def _uniform(self) -> tuple[Floats, Floats]:
        ends = np.stack([max_power_of(c).voltage for c in (self.lit, self.shaded)])
        voltage = golden_section(lambda v: v * self.current(v), ends.min(axis=0), ends.max(axis=0))
        return voltage, self.current(voltage)

    def _behind_current(self, voltage: Floats) -> Floats:
        if np.all(self.groups >= 1):
            return np.maximum(current_at(self.shaded, voltage), 0)
        low, high = np.zeros_like(voltage), np.broadcast_to(self.lit.light_current, voltage.shape).copy()
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            above = self.voltage(middle) > voltage
            low, high = np.where(above, middle, low), np.where(above, high, middle)
        return low


def golden_section(power: Callable[[Floats], Floats], low: Floats, high: Floats, steps: int = STEPS) -> Floats:
    """Where a function with one maximum between `low` and `high` is largest, each place on its own."""
    inner, outer = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    at_inner, at_outer = power(inner), power(outer)
    for _ in range(steps):
        left = at_inner > at_outer
        low, high = np.where(left, low, inner), np.where(left, outer, high)
        kept, kept_power = np.where(left, inner, outer), np.where(left, at_inner, at_outer)
        new = np.where(left, high - GOLDEN * (high - low), low + GOLDEN * (high - low))
        at_new = power(new)
        inner, outer = np.where(left, new, kept), np.where(left, kept, new)
        at_inner, at_outer = np.where(left, at_new, kept_power), np.where(left, kept_power, at_new)
    return (low + high) / 2
