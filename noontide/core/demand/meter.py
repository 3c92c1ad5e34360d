"""Energy at the meter: what is used as it is made, what comes from the grid, what goes to it; an account of its own that closes."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar

Floats = NDArray[np.float64]


def _nothing() -> Floats:
    return np.zeros(1)


@dataclass(frozen=True, eq=False)
class Metered:
    """Energies of each interval [kWh], (intervals,)."""

    produced: Floats
    demand: Floats
    own_use: Floats  # of the plant at night
    direct: Floats  # made and used in the same interval
    imported: Floats
    exported: Floats
    # Of a battery; without one they are a single 0.
    sun_stored: Floats = field(default_factory=_nothing)  # charged from what is made
    grid_stored: Floats = field(default_factory=_nothing)  # charged from the grid
    discharge: Floats = field(default_factory=_nothing)
    stored: Floats = field(default_factory=_nothing)  # at the end of the interval
    # Where there is no grid.
    unused: Floats = field(default_factory=_nothing)  # made, and neither used nor stored nor given
    unmet: Floats = field(default_factory=_nothing)  # of the demand
    generated: Floats = field(default_factory=_nothing)  # by a generator, and used or stored

    @cached_property
    def self_consumption(self) -> float:
        """Share of what is made that is used at once or stored, 0..1; 0 where nothing is made. What nobody can take, without a grid, is made too."""
        return _share(self.direct + self.sun_stored, self.produced + self.unused)

    @cached_property
    def self_sufficiency(self) -> float:
        """Share of the demand and the plant's own use that sun and battery meet, 0..1; 0 where there is none."""
        used = float((self.demand + self.own_use).sum())
        otherwise = float(self.imported.sum() + self.unmet.sum() + self.generated.sum())
        return max(1 - otherwise / used, 0.0) if used > 0 else 0.0

    @cached_property
    def hours_met(self) -> float:
        """Share of the intervals with a demand that need nothing from the grid, 0..1."""
        needs = self.demand + self.own_use > 0
        return float(np.mean(self.imported[needs] <= 1e-12)) if needs.any() else 0.0


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
    return Metered(produced, wanted, own, direct, wanted + own - direct, produced - direct)


def _share(part: Floats, whole: Floats) -> float:
    total = float(whole.sum())
    return float(part.sum()) / total if total > 0 else 0.0
