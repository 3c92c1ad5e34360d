"""What a battery does, as strategies that can be combined: own use, peak shaving, time of use, clipped energy, backup, and a place without a grid.

Every strategy comes to the same few limits of each interval, which one loop follows (`dispatch`).
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Strategy:
    """What the loop follows. Values of an interval may be one number for all, or (intervals,), or (…, intervals)."""

    serves_use: bool = True  # discharges into whatever is used
    import_limit: ArrayLike = np.inf  # from the grid, which discharging keeps and charging does not exceed [kW]
    charges_from_grid: bool = False  # up to the import limit, whenever there is room
    keeps_for_peaks: bool = False  # own use leaves what the coming peaks over the import limit need
    prices: ArrayLike | None = None  # of energy from the grid, by which it is charged cheap and discharged dear
    horizon: float = 24.0  # for which prices and use are known ahead [h]
    export_limit: ArrayLike = np.inf  # [kW]
    stores_only_clipped: bool = False  # only what the export limit would cut off
    reserve: ArrayLike = 0.0  # share of the energy that own use and prices leave for an outage
    has_grid: ArrayLike = True  # (intervals,) where it is there at times
    generator: ArrayLike = 0.0  # power [kW]
    generator_start: float = 0.0  # share of charge at which it starts, besides whenever use is not met
    generator_stop: float = 0.0  # share up to which it charges once it runs
    generator_least: float = 0.0  # share of its power below which it does not run
    generator_allowed: ArrayLike = True  # (intervals,): not in quiet hours
    least_peak_periods: Ints | None = None  # number of the period of each interval, in which the least import limit is sought
    knows_yesterday_alone: bool = (
        False  # the least limit of each day is that of the day before, and never under what the period has seen
    )

    def with_export_limit(self, limit: ArrayLike) -> "Strategy":
        """The same where no more than `limit` may be given to the grid [kW]."""
        return replace(self, export_limit=limit)

    def with_reserve(self, share: ArrayLike) -> "Strategy":
        """The same with a share of the energy kept for an outage."""
        return replace(self, reserve=share)


def own_use() -> Strategy:
    """Surplus of the sun is stored, and used as soon as there is use again."""
    return Strategy()


def peak_shaving(limit: ArrayLike, from_grid: bool = True, own_use: bool = False) -> Strategy:
    """Import is kept at or under a limit.

    Parameters
    ----------
    limit : float or (…, intervals)
        [kW]
    from_grid : bool
        Whether the battery is charged from the grid too, wherever import stays under the limit.
    own_use : bool
        Whether it serves use between the peaks as well, and leaves what the coming peaks need (with knowledge of them).
    """
    return Strategy(serves_use=own_use, import_limit=limit, charges_from_grid=from_grid, keeps_for_peaks=own_use)


def least_peak(
    periods: ArrayLike | None = None, from_grid: bool = True, own_use: bool = False, yesterday: bool = False
) -> Strategy:
    """Import is kept under the least limit that the battery can hold in each period, with knowledge of the whole of it or of yesterday alone.

    Parameters
    ----------
    periods : (intervals,) of int, optional
        Number of the period of each interval, rising: months. All of it is one period where none are given.
    yesterday : bool
        Each day is expected to be as the one before, the first as it is. Its limit is the least that could be held then with what is
        stored, and no less than the highest import of the period so far, which is paid for anyway.
    """
    numbers = np.zeros(0, dtype=np.int64) if periods is None else np.asarray(periods, dtype=np.int64)
    return replace(peak_shaving(np.inf, from_grid, own_use), least_peak_periods=numbers, knows_yesterday_alone=yesterday)


def time_of_use(prices: ArrayLike, from_grid: bool = True, horizon: float = 24.0) -> Strategy:
    """Stored energy goes into the dearest hours ahead; in cheap hours the grid fills what those will need and the sun will not bring.

    Parameters
    ----------
    prices : (intervals,)
        Of a kWh from the grid.
    horizon : float
        For which prices, use and sun are known ahead [h].
    """
    return Strategy(prices=prices, horizon=horizon, charges_from_grid=from_grid)


def clipped_energy(export_limit: ArrayLike) -> Strategy:
    """Only what an export limit would cut off is stored, and used when there is use."""
    return Strategy(export_limit=export_limit, stores_only_clipped=True)


def off_grid(
    generator: ArrayLike = 0.0, start: float = 0.0, stop: float = 0.0, least: float = 0.0, allowed: ArrayLike = True
) -> Strategy:
    """A place without a grid: sun, battery, and a generator.

    Parameters
    ----------
    generator : float or (…)
        Power [kW]. It runs where sun and battery do not meet the use.
    start, stop : float
        Shares of charge: it runs too from where the charge has fallen to `start` until it has reached `stop`, and charges with what use leaves.
    least : float
        Least load as a share of its power; below, what is not used or stored is lost.
    allowed : bool or (intervals,)
        Where it may run: not in quiet hours.
    """
    return Strategy(
        has_grid=False,
        generator=generator,
        generator_start=start,
        generator_stop=stop,
        generator_least=least,
        generator_allowed=allowed,
    )
