"""How a battery wears: cycles counted by rainflow (ASTM E1049-85), weighed by the life that its depth allows, beside the years."""

from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def rainflow(stored: ArrayLike) -> tuple[Floats, Floats]:
    """Ranges of a course and how often each occurs: full cycles count 1, halves 0.5.

    Parameters
    ----------
    stored : (intervals,)

    Returns
    -------
    ranges, counts : (cycles,)

    References
    ----------
    ASTM E1049-85 (2017), section 5.4.4.
    """
    values = np.asarray(stored, dtype=float)
    if values.size < 2:
        return np.zeros(0), np.zeros(0)
    turns = _turns(values)
    return _count(turns)


def wear(stored: ArrayLike, energy: float, cycles: Sequence[tuple[float, float]]) -> float:
    """Share of the cycle life that a course takes, by the linear rule of Palmgren and Miner.

    Parameters
    ----------
    stored : (intervals,)
        [kWh]
    energy : float
        Usable [kWh].
    cycles : pairs
        Depth (share of the usable energy, 0..1) and the number of cycles of that depth that a battery lasts; between them the logarithms
        lie on a line, below the least depth energy counts.
    """
    if energy <= 0 or not cycles:
        return 0.0
    ranges, counts = rainflow(stored)
    depth = np.clip(ranges / energy, 1e-9, 1.0)
    known = sorted(cycles)
    depths, lives = np.log([d for d, _ in known]), np.log([n for _, n in known])
    inside = np.interp(np.log(depth), depths, lives)
    # Shallower than any that is stated: as many more as they are shallower.
    inside = np.where(np.log(depth) < depths[0], lives[0] + depths[0] - np.log(depth), inside)
    return float(np.sum(counts / np.exp(inside)))


def life(wear_a_year: float, calendar: float) -> float:
    """Years until cycles and calendar together have taken the life of a battery."""
    return 1 / (wear_a_year + 1 / calendar)


@njit(cache=True, nogil=True)
def _turns(values):
    """The first and last value, and every one at which the course turns."""
    found = np.empty(values.size)
    found[0], count = values[0], 1
    for i in range(1, values.size):
        if values[i] == found[count - 1]:
            continue
        if count > 1 and (values[i] - found[count - 1]) * (found[count - 1] - found[count - 2]) > 0:
            found[count - 1] = values[i]
        else:
            found[count] = values[i]
            count += 1
    return found[:count]


@njit(cache=True, nogil=True)
def _count(turns):
    stack, ranges, counts = np.empty(turns.size), np.empty(turns.size), np.empty(turns.size)
    height = found = 0
    for value in turns:
        stack[height] = value
        height += 1
        while height >= 3:
            last, before = abs(stack[height - 1] - stack[height - 2]), abs(stack[height - 2] - stack[height - 3])
            if last < before:
                break
            ranges[found] = before
            if height == 3:
                counts[found] = 0.5
                stack[0], stack[1] = stack[1], stack[2]
                height = 2
            else:
                counts[found] = 1.0
                stack[height - 3] = stack[height - 1]
                height -= 2
            found += 1
    for k in range(height - 1):
        ranges[found], counts[found] = abs(stack[k + 1] - stack[k]), 0.5
        found += 1
    return ranges[:found], counts[:found]
