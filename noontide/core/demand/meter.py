"""Energy at the meter: what is used as it is made, what comes from the grid, what goes to it; an account of its own that closes."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Metered:
    """Energies of each interval [kWh], (intervals,)."""

    produced: Floats
    demand: Floats
    own_use: Floats  # of the plant at night
    direct: Floats  # made and used in the same interval
    imported: Floats
    exported: Floats
    # Of a battery.
    sun_stored: Floats  # charged from what is made
    grid_stored: Floats  # charged from the grid, or from a generator where there is none
    discharge: Floats
    stored: Floats  # at the end of the interval
    # Where there is no grid.
    unused: Floats  # made, and neither used nor stored
    unmet: Floats  # of the demand
    generated: Floats  # by a generator, and used or stored
    # Of a battery on the DC side.
    of_clipped: Floats  # of what is stored from the sun: what the inverter would have held back

    @cached_property
    def elsewhere(self) -> Floats:
        """What sun and battery do not meet: from the grid, from a generator, or from nowhere."""
        return np.asarray(self.imported + self.generated + self.unmet)

    @cached_property
    def self_consumptions(self) -> Floats:
        """Share of what is made that is used at once or stored, 0..1; 0 where nothing is made; of candidates, (…)."""
        return _share(self.direct + self.sun_stored, self.produced + self.unused)

    @cached_property
    def self_sufficiencies(self) -> Floats:
        """Share of the demand and the plant's own use that sun and battery meet, 0..1; 0 where there is none; of candidates, (…)."""
        used = self.demand + self.own_use
        return np.where(used.sum(axis=-1) > 0, np.maximum(1 - _share(self.elsewhere, used), 0.0), 0.0)

    @property
    def self_consumption(self) -> float:
        return float(self.self_consumptions)

    @property
    def self_sufficiency(self) -> float:
        return float(self.self_sufficiencies)

    @cached_property
    def hours_met(self) -> float:
        """Share of the intervals with a demand that sun and battery meet wholly, 0..1."""
        needs = self.demand + self.own_use > 0
        return float(np.mean(self.elsewhere[needs] <= 1e-12)) if needs.any() else 0.0


def at_the_meter(delivered: ArrayLike, demand: ArrayLike, calendar: Calendar) -> Metered:
    """A plant and a demand behind one meter, without storage.

    Parameters
    ----------
    delivered : (intervals,)
        AC power of the plant, negative while it draws [kW].
    demand : (intervals,)
        [kW], 0 or more.

    Raises
    ------
    ValueError
        If there are not as many values as intervals, or a demand is negative; the message names the first.
    """
    power, used = (np.asarray(values, dtype=float) for values in (delivered, demand))
    for name, values in (("delivered", power), ("demand", used)):
        if values.shape != (calendar.intervals,):
            raise ValueError(f"{name}: {calendar.intervals:,} intervals are needed; there are {values.size:,}.")
    if (wrong := np.flatnonzero(~(used >= 0))).size:
        raise ValueError(f"demand: powers are 0 kW or more; interval {wrong[0]} has {used[wrong[0]]:g}.")
    hours = calendar.hours_per_interval
    produced, own, wanted = np.maximum(power, 0) * hours, np.maximum(-power, 0) * hours, used * hours
    direct = np.minimum(produced, wanted + own)
    nothing = np.zeros(calendar.intervals)
    return Metered(produced, wanted, own, direct, wanted + own - direct, produced - direct, *[nothing] * 8)


def _share(part: Floats, whole: Floats) -> Floats:
    """Of sums over the intervals, (…, intervals) to (…); 0 of nothing."""
    total = whole.sum(axis=-1)
    return np.divide(part.sum(axis=-1), total, out=np.zeros(np.shape(total)), where=total > 0)
