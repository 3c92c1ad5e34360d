"""How often the lights go out: what is not served, as shares of energy and of time, and the longest gap."""

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


class LossOfLoad(NamedTuple):
    """Of each candidate, (…)."""

    energy: Floats  # share of the energy asked for that is not served, 0..1
    hours: Floats  # share of the time in which some of it is not served, 0..1
    longest: Floats  # such time in one piece [h]


def loss_of_load(unmet: ArrayLike, demand: ArrayLike, step: float = 1.0) -> LossOfLoad:
    """What is not served of a demand.

    Parameters
    ----------
    unmet, demand : (…, intervals)
        [kW]; they broadcast.
    step : float
        Length of an interval [h].

    Raises
    ------
    ValueError
        If they do not broadcast.
    """
    missed, wanted = np.broadcast_arrays(np.asarray(unmet, dtype=float), np.asarray(demand, dtype=float))
    whole = wanted.sum(axis=-1)
    share = np.divide(missed.sum(axis=-1), whole, out=np.zeros_like(whole), where=whole > 0)
    is_out = missed > 1e-9
    # Gaps grow interval by interval, for all candidates at once.
    counts = np.cumsum(is_out, axis=-1)
    before = np.maximum.accumulate(np.where(is_out, 0, counts), axis=-1)
    longest: Floats = (counts - before).max(axis=-1, initial=0).astype(float)
    return LossOfLoad(share, is_out.mean(axis=-1), longest * step)
