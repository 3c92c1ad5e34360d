"""Inverters on the phases of the grid."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, sqrt

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.circuits import Connection
from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.wiring import squares_with_neutral
from noontide.core.simulation.plant import Plant

Floats = NDArray[np.float64]
PHASES = ("L1", "L2", "L3")


@dataclass(frozen=True)
class Phases:
    """Apparent power by phase, and how many inverters of each set stand on it."""

    apparent: tuple[float, float, float]  # [VA]
    single: dict[str, tuple[int, int, int]]  # of each set of single-phase inverters
    on_phase: tuple[tuple[float, float, float], ...]  # inverters of each set by phase; three-phase ones count a third on each

    @property
    def used(self) -> int:
        """Phases that carry something."""
        return sum(power > 0 for power in self.apparent)

    @property
    def drop_conductors(self) -> float:
        """Conductors in which the current of the fullest phase makes the largest drop of any phase to neutral: 1 where the phases balance, 2 of one alone."""
        most, total = max(self.apparent), sum(self.apparent)
        return max(2.5 * power - 0.5 * total for power in self.apparent) / most if most else 1.0

    @property
    def loss_conductors(self) -> float:
        """Conductors in which the current of the fullest phase makes the loss of all, with the neutral: 3 where the phases balance, 2 of one alone."""
        most = max(self.apparent)
        return float(squares_with_neutral(np.array(self.apparent) / most)) if most else 3.0

    @property
    def imbalance(self) -> float:
        """Between the phase with most and that with least [VA]."""
        return max(self.apparent) - min(self.apparent)


def apparent_power(unit: Inverter, power_factor: float) -> float:
    """Of an inverter at its largest active power [VA]."""
    return unit.power_at(power_factor) / power_factor


def phase_voltage(unit: Inverter, connection: Connection) -> float:
    """Between the conductors that an inverter feeds: phase to phase, or phase to neutral where it has one phase [V]."""
    return connection.voltage if unit.phases == 3 else connection.phase_voltage


def inverter_current(unit: Inverter, connection: Connection) -> float:
    """AC current of an inverter at its largest power, a conductor [A]."""
    power = apparent_power(unit, connection.power_factor)
    return power / (sqrt(3) * connection.voltage) if unit.phases == 3 else power / phase_voltage(unit, connection)


def on_branch(unit: Inverter, count: int) -> int:
    """Inverters of a set on one AC cable: one, or the microinverters of a branch, as evenly as can be."""
    if unit.kind != "micro":
        return 1
    return ceil(count / ceil(count / (unit.most_on_branch or count)))


def power_on_phases(on_phase: Sequence[tuple[float, float, float]], outputs: Sequence[Floats]) -> Floats:
    """Power on each phase, of sets of inverters by the output of one of each, (3, intervals) [W]."""
    return np.asarray(sum(np.array(on)[:, np.newaxis] * one for on, one in zip(on_phase, outputs, strict=True)))


def phases_of(plant: Plant, connection: Connection) -> Phases:
    """Three-phase inverters on all phases, single-phase ones where they are set or on the phase with least, the largest first; microinverters by branches."""
    load = [0.0, 0.0, 0.0]
    single = {}
    for one, unit in zip(plant.sets, plant.inverters, strict=True):
        if unit.phases == 3:
            load = [power + one.count * apparent_power(unit, connection.power_factor) / 3 for power in load]
    order = sorted(range(len(plant.sets)), key=lambda i: (plant.sets[i].phase is None, -plant.inverters[i].ac_power))
    for i in order:
        one, unit = plant.sets[i], plant.inverters[i]
        if unit.phases == 3:
            continue
        on, power = [0, 0, 0], apparent_power(unit, connection.power_factor)
        together, left = on_branch(unit, one.count), one.count
        while left > 0:
            some = min(together, left)
            place = PHASES.index(one.phase) if one.phase else min(range(3), key=lambda p: load[p])
            on[place] += some
            load[place] += some * power
            left -= some
        single[plant.inverter_ids[i]] = (on[0], on[1], on[2])
    on_phase = tuple(
        single[key] if key in single else (one.count / 3,) * 3 for key, one in zip(plant.inverter_ids, plant.sets, strict=True)
    )
    return Phases((load[0], load[1], load[2]), single, on_phase)
