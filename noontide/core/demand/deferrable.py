"""Loads that can wait: energy that is asked for at a time and must be there by another, put at once, into cheap hours or under the sun."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.demand.sources import Timing

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MODES: dict[Timing, int] = {"at once": 0, "cheapest hours": 1, "by the sun": 2, "by the sun alone": 3}


@dataclass(frozen=True, eq=False)
class Deferrable:
    """Energies with the time from which on each can be taken; what is left goes on to the next. The year's end goes on at its beginning."""

    timing: Timing
    start: Ints  # (requests,) interval, rising; a request ends where the next begins
    energy: Floats  # (requests,) [kWh]
    limit: Floats  # (intervals,) most that can be taken in each [kWh]

    def place(self, surplus: Floats | None = None, prices: Floats | None = None) -> tuple[Floats, float]:
        """When the energy is taken.

        Parameters
        ----------
        surplus : (intervals,), optional
            Of the sun over all other demand [kWh]; taken first by what goes by the sun.
        prices : (intervals,), optional
            Of energy from the grid; the cheapest hours come first in all that does not go at once.

        Returns
        -------
        taken : (intervals,)
            [kWh]
        missed : float
            What cannot be served within a year [kWh].
        """
        nothing = np.zeros(self.limit.size)
        taken = _place(
            self.start,
            self.energy,
            self.limit,
            np.maximum(surplus, 0.0) if surplus is not None else nothing,
            prices if prices is not None else nothing,
            MODES[self.timing],
        )
        whole = float(self.energy.sum())
        missed = max(whole - float(taken.sum()), 0.0)
        return taken, missed if missed > 1e-9 * max(whole, 1.0) else 0.0


@njit(cache=True)
def _place(start: Ints, energy: Floats, limit: Floats, surplus: Floats, prices: Floats, mode: int) -> Floats:
    size, requests = limit.size, start.size
    taken = np.zeros(size)
    if requests == 0:
        return taken
    waiting = 0.0
    for _ in range(2):  # once more with what was left at the year's end
        taken[:] = 0.0
        for i in range(requests):
            first = start[i]
            last = start[i + 1] if i + 1 < requests else start[0] + size
            waiting += energy[i]
            if waiting <= 0.0:
                continue
            if mode >= 2:
                for j in range(first, last):
                    k = j % size
                    part = min(waiting, limit[k] - taken[k], surplus[k] - taken[k])
                    if part > 0.0:
                        taken[k] += part
                        waiting -= part
            if mode == 0:
                for j in range(first, last):
                    k = j % size
                    part = min(waiting, limit[k] - taken[k])
                    taken[k] += part
                    waiting -= part
                    if waiting <= 0.0:
                        break
            elif waiting > 0.0 and mode != 3:
                window = np.empty(last - first)
                for j in range(first, last):
                    window[j - first] = prices[j % size]
                for at in np.argsort(window, kind="mergesort"):
                    k = (first + at) % size
                    part = min(waiting, limit[k] - taken[k])
                    taken[k] += part
                    waiting -= part
                    if waiting <= 0.0:
                        break
    return taken
