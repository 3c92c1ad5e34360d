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
    open_circuit_voltage,
    slope_at,
    voltage_and_slope,
    voltage_at,
)

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
DIODE_DROP = 0.5  # V of a conducting Schottky bypass diode
PLACE = 1e-3  # of the span, of a maximum: its power is then right to a millionth
EXACT = 1e-9  # of the span
MOST_STEPS = 60


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
        return self.behind * self._behind_current(voltage) + (1 - self.behind) * self._free_current(voltage)

    def voltage(self, current: Floats) -> Floats:
        """Of a module in a string behind, at the current of that string."""
        rest = np.maximum(voltage_at(self.shaded, current), -self.drop)
        return (1 - self.groups) * voltage_at(self.lit, current) + self.groups * rest

    def maxima(self) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
        """Both local maxima as voltage and mean current: with all groups at the weak current, and with the shaded ones bypassed."""
        knee, most = self._knees()
        weak = self._best_current(self._slope_weak, np.zeros_like(knee), knee)
        bypassed = self._best_current(self._slope_bypassed, knee, most)
        uniform = np.flatnonzero(self.groups >= 1)
        if uniform.size:
            # Where every group is in shade the strings behind are modules with less light.
            for found, value in zip(weak, self.during(uniform)._uniform(), strict=True):
                found[uniform] = value
            for found in bypassed:
                found[uniform] = 0.0
        return weak, bypassed

    def _knees(self) -> tuple[Floats, Floats]:
        """The current from which the shaded groups are bypassed, and the largest that the lit ones make [A]."""
        knee = self.shaded.light_current + self.shaded.shunt_conductance * self.drop
        return knee, np.maximum(np.broadcast_to(self.lit.light_current, knee.shape), knee)

    def _best_current(self, slope: Callable[[Floats], Floats], low: Floats, high: Floats) -> tuple[Floats, Floats]:
        """Where the strings give most between two currents of those behind, as voltage and mean current."""
        if np.all(self.groups >= 1):
            return np.zeros_like(low), np.zeros_like(low)
        current = falling_root(slope, low, high, PLACE)
        voltage = np.maximum(self.voltage(current), 0)
        return voltage, self.behind * current + (1 - self.behind) * self._free_current(voltage)

    def _slope_weak(self, current: Floats) -> Floats:
        lit, lit_slope = voltage_and_slope(self.lit, current)
        rest, rest_slope = voltage_and_slope(self.shaded, current)
        share = self.groups
        return self._power_slope(current, (1 - share) * lit + share * rest, (1 - share) * lit_slope + share * rest_slope)

    def _slope_bypassed(self, current: Floats) -> Floats:
        lit, lit_slope = voltage_and_slope(self.lit, current)
        return self._power_slope(current, (1 - self.groups) * lit - self.groups * self.drop, (1 - self.groups) * lit_slope)

    def _power_slope(self, current: Floats, voltage: Floats, slope: Floats) -> Floats:
        """How the power changes with the current of the strings behind [V]; negative too where there is no voltage."""
        if self.behind >= 1:
            change = voltage + current * slope
        else:
            free = self._free_current(voltage)
            mean = self.behind * current + (1 - self.behind) * free
            free_slope = slope_at(self.lit, voltage, free)
            change = slope * mean + voltage * (self.behind + (1 - self.behind) * free_slope * slope)
        return np.where(voltage > 0, change, -1.0)

    def _free_current(self, voltage: Floats) -> Floats:
        return np.maximum(current_at(self.lit, np.maximum(voltage, 0)), 0) if self.behind < 1 else np.zeros_like(voltage)

    def _uniform(self) -> tuple[Floats, Floats]:
        """The maximum where every group of the strings behind is in shade; they drop out beyond their open-circuit voltage."""

        def slope(voltage: Floats) -> Floats:
            behind, free = current_at(self.shaded, voltage), current_at(self.lit, voltage)
            behind_change = behind + voltage * slope_at(self.shaded, voltage, behind)
            free_change = free + voltage * slope_at(self.lit, voltage, free)
            return self.behind * behind_change + (1 - self.behind) * free_change

        alone, weak = max_power_of(self.lit).voltage, max_power_of(self.shaded).voltage
        open_circuit = open_circuit_voltage(self.shaded)
        low, high = np.minimum(alone, weak), np.minimum(np.maximum(alone, weak), open_circuit)
        together = falling_root(slope, low, np.maximum(low, high), PLACE)
        flows, alone_flows = self.current(together), self.current(alone)
        is_together = together * flows >= alone * alone_flows
        return np.where(is_together, together, alone), np.where(is_together, flows, alone_flows)

    def _behind_current(self, voltage: Floats) -> Floats:
        """Of a string behind at a voltage of a module, 0 or more."""
        if np.all(self.groups >= 1):
            return np.maximum(current_at(self.shaded, voltage), 0)
        knee, most = (np.broadcast_to(end, voltage.shape) for end in self._knees())
        found = np.empty_like(voltage)
        is_beyond = (self.voltage(knee) > voltage) & (self.groups < 1)  # uniform ones have no such branch
        beyond, short = np.flatnonzero(is_beyond), np.flatnonzero(~is_beyond)
        if beyond.size:
            # With the shaded groups bypassed the lit ones have the rest of the voltage and the diodes' drop.
            share = self.groups[beyond]
            of_lit = (voltage[beyond] + share * self.drop) / (1 - share)
            found[beyond] = np.clip(current_at(during(self.lit, beyond), of_lit), knee[beyond], most[beyond])
        if short.size:
            strings, at = self.during(short), voltage[short]
            found[short] = falling_root(lambda i: strings.voltage(i) - at, np.zeros(short.size), knee[short], EXACT)
        return found


def falling_root(function: Callable[[Floats], Floats], low: Floats, high: Floats, share: float) -> Floats:
    """Where a falling function crosses zero between `low` and `high`, each place on its own, to a share of the span.

    An end where the function has the same sign as at the other is the answer: `high` where it is positive throughout.

    References
    ----------
    Chandrupatla, T. R. (1997), Advances in Engineering Software 28, 145-149: inverse quadratic interpolation where the three
    points allow it, else halving.
    """
    at_low, at_high = function(low), function(high)
    # `b` is the best point so far, `a` lies on the other side of the root, `c` is what `b` or `a` was before.
    a, b, fa, fb = low, high, at_low, at_high
    c, fc = a, fa
    is_settled = (at_low <= 0) | (at_high >= 0)
    part = np.full_like(low, 0.5)
    span = np.maximum(high - low, 1e-300)
    for _ in range(MOST_STEPS):
        x = a + part * (b - a)
        fx = function(x)
        is_same_side = np.sign(fx) == np.sign(fa)
        c, fc = np.where(is_same_side, a, b), np.where(is_same_side, fa, fb)
        b, fb = np.where(is_same_side, b, a), np.where(is_same_side, fb, fa)
        a, fa = x, fx
        if np.all(is_settled | (np.abs(b - a) < share * span) | (fa == 0)):
            break
        with np.errstate(divide="ignore", invalid="ignore"):
            place, height = (a - b) / (c - b), (fa - fb) / (fc - fb)
            is_smooth = (height**2 < place) & ((1 - height) ** 2 < 1 - place)
            inner = fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
        smallest = np.minimum(0.5 * share * span / np.maximum(np.abs(b - a), 1e-300), 0.5)
        part = np.clip(np.where(is_smooth & np.isfinite(inner), inner, 0.5), smallest, 1 - smallest)
    best = np.where(np.abs(fa) <= np.abs(fb), a, b)
    return np.where(at_low <= 0, low, np.where(at_high >= 0, high, best))
