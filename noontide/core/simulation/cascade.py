"""The Cascade: where the energy goes, from the horizontal irradiation to the energy delivered."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.simulation.balance import Books
from noontide.core.simulation.connection import LINES, ConnectionYear
from noontide.core.simulation.losses import Loss

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class CascadeEntry:
    """One line: what was left before it and what it changed, losses negative."""

    line: Loss
    monthly: Floats  # change by month, (12,) [kWh]
    energy: float  # change over the year [kWh]
    before: float  # energy left before this line [kWh]

    @property
    def key(self) -> str:
        return self.line.key

    @property
    def title(self) -> str:
        return self.line.title

    @property
    def group(self) -> str:
        return self.line.group

    @property
    def share(self) -> float:
        """Of what was left before it, signed."""
        return self.energy / self.before if self.before else 0.0


@dataclass(frozen=True)
class Cascade:
    """The energy balance: `start` + the sum of all entries = `delivered`, in every interval and over the year."""

    start: float  # horizontal irradiation on the area of the modules [kWh]
    delivered: float  # [kWh]
    entries: tuple[CascadeEntry, ...]
    imbalance: float  # of the worst interval of any inverter set, relative to the set's largest start

    def __getitem__(self, key: str) -> CascadeEntry:
        return next(entry for entry in self.entries if entry.key == key)

    def lost(self, key: str) -> float:
        """What a line takes in a year, 0 or more [kWh]; never a negative zero, which would be written with its sign."""
        return max(-self[key].energy, 0.0) + 0.0

    def lost_share(self, *keys: str) -> float:
        """What some lines take, each as a share of the energy before it, added up; 0 or more likewise."""
        return max(-sum(self[key].share for key in keys), 0.0) + 0.0

    @property
    def residual(self) -> float:
        """Closure error, relative: the larger of the year's and of any interval's."""
        changes = [entry.energy for entry in self.entries]
        scale = max(abs(self.start), abs(self.delivered), max(map(abs, changes), default=0.0))
        yearly = abs(self.start + sum(changes) - self.delivered) / scale if scale else 0.0
        return max(self.imbalance, yearly)


def build_cascade(books: Sequence[Books], counts: Sequence[float], connection: ConnectionYear, delivered: float) -> Cascade:
    """The Cascade of several inverter sets.

    Parameters
    ----------
    books, counts
        Of each set: those of one inverter, and how many there are.
    connection : ConnectionYear
        Of all inverters together.
    delivered : float
        Over the whole year, summed apart from the changes [kWh].
    """
    of_sets = sum(one.changes * count for one, count in zip(books, counts, strict=True))
    monthly = np.concatenate([of_sets, connection.monthly_changes])
    start = float(sum(one.start.sum() * count for one, count in zip(books, counts, strict=True)))
    left, entries = start, []
    for line, months in zip(LINES, monthly, strict=True):
        energy = float(months.sum())
        entries.append(CascadeEntry(line, months, energy, left))
        left += energy
    most = sum(one.largest_start * count for one, count in zip(books, counts, strict=True))
    imbalance = max(*(one.imbalance / max(one.largest_start, 1.0) for one in books), connection.imbalance / max(most, 1.0))
    return Cascade(start, delivered, tuple(entries), imbalance)
