"""Inverters on the phases of the grid."""

from dataclasses import dataclass
from math import ceil, sqrt

from noontide.core.design.circuits import Connection
from noontide.core.electrical.datasheets import Inverter
from noontide.core.simulation.plant import Plant

PHASES = ("L1", "L2", "L3")


@dataclass(frozen=True)
class Phases:
    """Apparent power by phase, and how many inverters of each set stand on it."""

    apparent: tuple[float, float, float]  # [VA]
    single: dict[str, tuple[int, int, int]]  # of each set of single-phase inverters

    @property
    def used(self) -> int:
        """Phases that carry something."""
        return sum(power > 0 for power in self.apparent)

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
    return Phases((load[0], load[1], load[2]), single)
