"""A search: bounded, without derivatives, over real and whole numbers and choices at once, for one aim or a front of several.

Differential evolution (Storn and Price 1997) with the selection of Kukkonen and Lampinen (2005, "GDE3"): a new design takes the
place of its parent where it is better in every aim, stands beside it where neither is, and the crowd is thinned by non-dominated
sorting and crowding distance (Deb et al. 2002). Limits come before aims, by the rules of Deb (2000). With one aim it is plain
differential evolution towards the better ones (Zhang and Sanderson 2009, "current-to-pbest").
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
FEWEST, MOST = 10, 48  # designs of a generation
GENERATIONS = 14  # that a budget should last for, at least
BEST_SHARE = 0.2  # of the crowd, towards which a step goes
NEARBY = 0.25  # of the new designs look about the best one, in steps that become smaller
TRIES = 24  # for a design that was not yet run, before any will do


@dataclass(frozen=True)
class Dimension:
    """One value of the search: `count` values in order, choices without one, or a range where `count` is None."""

    count: int | None = None
    is_ordered: bool = True

    def snapped(self, share: float) -> float:
        """The share in the middle of the value that it falls on; of a range itself."""
        if self.count is None:
            return min(max(share, 0.0), 1.0)
        return (min(int(min(max(share, 0.0), 1.0) * self.count), self.count - 1) + 0.5) / self.count


class Search:
    """Asks for designs, generation by generation, and is told what they came to; the same seed asks for the same ones.

    Parameters
    ----------
    dimensions
        What is sought, each as a share 0..1 of its way.
    budget : int
        Designs that may be asked for; where there are fewer, all of them are.
    seed : int
    first : sequence of float, optional
        Shares of a design that is tried first, such as the one there is.
    """

    def __init__(self, dimensions: Sequence[Dimension], budget: int, seed: int, first: Sequence[float] | None = None):
        self.dimensions = tuple(dimensions)
        self.budget = budget
        self.size = int(np.clip(min(4 * len(self.dimensions) + 6, budget // GENERATIONS), min(FEWEST, budget), MOST))
        self._chance = np.random.default_rng(seed)
        self._first = first
        self._asked: set[tuple[float, ...]] = set()
        self._crowd: Floats = np.zeros((0, len(self.dimensions)))
        self._worse: Floats = np.zeros((0, 0))  # aims to be made small, (designs, aims)
        self._broken: Floats = np.zeros(0)  # how far limits are broken, 0 where they are kept

    @property
    def left(self) -> int:
        """Designs that may still be asked for."""
        counts = [one.count for one in self.dimensions]
        there = np.inf if None in counts else float(np.prod([float(count or 1) for count in counts]))
        return int(min(self.budget, there)) - len(self._asked)

    def ask(self) -> Floats:
        """Shares of the next generation, (designs, dimensions); none when the search is over."""
        number = min(self.size, self.left)
        if number <= 0:
            return np.zeros((0, len(self.dimensions)))
        make = self._scattered(number) if not len(self._crowd) else [self._child(k) for k in range(number)]
        return np.array([self._new(shares) for shares in make])

    def tell(self, shares: Floats, worse: Floats, broken: Floats) -> None:
        """What the generation came to: aims of which less is better, (designs, aims), and how far limits are broken (designs,).

        A design without figures has infinite aims.
        """
        if not len(self._crowd):
            self._crowd, self._worse, self._broken = shares, worse, broken
            return
        stays, further = list(range(len(self._crowd))), []
        all_worse, all_broken = np.vstack([self._worse, worse]), np.append(self._broken, broken)
        for k in range(len(shares)):
            parent, child = k % len(self._crowd), len(self._crowd) + k
            if dominates(all_worse[child], all_broken[child], all_worse[stays[parent]], all_broken[stays[parent]]):
                stays[parent] = child
            elif not dominates(all_worse[stays[parent]], all_broken[stays[parent]], all_worse[child], all_broken[child]):
                further.append(child)
        every = np.array(list(dict.fromkeys(stays + further)))
        kept = every[thinned(all_worse[every], all_broken[every], self.size)]
        together = np.vstack([self._crowd, shares])
        self._crowd, self._worse, self._broken = together[kept], all_worse[kept], all_broken[kept]

    def _scattered(self, number: int) -> list[Floats]:
        """A Latin hypercube, the design that there is among it."""
        d = len(self.dimensions)
        cells = np.array([self._chance.permutation(number) for _ in range(d)]).T
        shares = (cells + self._chance.random((number, d))) / number
        if self._first is not None:
            shares[0] = self._first
        return list(shares)

    def _child(self, k: int) -> Floats:
        chance, crowd = self._chance, self._crowd
        if self._worse.shape[1] == 1 and chance.random() < NEARBY:
            return self._beside_best()
        parent = crowd[k % len(crowd)]
        order = ranked(self._worse, self._broken)
        good = crowd[order[chance.integers(max(1, round(BEST_SHARE * len(crowd))))]]
        one, other = crowd[chance.integers(len(crowd))], crowd[chance.integers(len(crowd))]
        step = chance.uniform(0.4, 0.95)
        moved = parent + step * (good - parent) + step * (one - other)
        for d, dimension in enumerate(self.dimensions):
            if not dimension.is_ordered:
                # A choice has no direction: it is one of those of the three, or any.
                moved[d] = chance.random() if chance.random() < 0.1 else (good, one, other)[chance.integers(3)][d]
        outside = (moved < 0) | (moved > 1)
        moved[outside] = ((parent + np.where(moved < 0, 0.0, 1.0)) / 2)[outside]
        crossed = chance.random(len(moved)) < (0.9 if chance.random() < 0.7 else 0.3)
        crossed[chance.integers(len(moved))] = True
        return np.where(crossed, moved, parent)

    def _beside_best(self) -> Floats:
        """One or a few values of the best design, changed by a step that becomes smaller with the budget."""
        chance = self._chance
        shares = self._crowd[ranked(self._worse, self._broken)[0]].copy()
        reach = 0.3 * 10 ** (-4.0 * len(self._asked) / self.budget * chance.random())
        for d in chance.permutation(len(shares))[: 1 + chance.integers(min(2, len(shares)))]:
            one = self.dimensions[d]
            if not one.is_ordered:
                shares[d] = chance.random()
            else:
                # A whole number goes on by one at least.
                by = chance.normal() * reach
                shares[d] += by if one.count is None else np.sign(by) * max(abs(by), 1 / one.count)
        return np.clip(shares, 0, 1)

    def _new(self, shares: Floats) -> Floats:
        """The design that these shares fall on, or another near it that was not asked for yet."""
        for attempt in range(TRIES + 1):
            snapped = tuple(one.snapped(share) for one, share in zip(self.dimensions, shares, strict=True))
            if snapped not in self._asked:
                break
            shares = np.array(snapped)
            changed = self._chance.permutation(len(shares))[: 1 + attempt * len(shares) // TRIES]
            shares[changed] = self._chance.random(len(changed))
        else:
            snapped = self._untried()
        self._asked.add(snapped)
        return np.array(snapped)

    def _untried(self) -> tuple[float, ...]:
        """Any design that was not asked for, one after the other from a place that chance gives: few are left."""
        sizes = [one.count or 1 for one in self.dimensions]
        whole = int(np.prod([float(size) for size in sizes]))
        begin = int(self._chance.integers(whole))
        for k in range(whole):
            number, places = (begin + k) % whole, []
            for size in reversed(sizes):
                number, place = divmod(number, size)
                places.append(place)
            found = tuple((place + 0.5) / size for place, size in zip(reversed(places), sizes, strict=True))
            if found not in self._asked:
                return found
        raise AssertionError("There is none left, and `left` says so.")


def dominates(worse: Floats, broken: float, other: Floats, other_broken: float) -> bool:
    """Whether a design is better than another: it keeps the limits better, or keeps them too and is better in an aim and worse in none."""
    if broken != other_broken:
        return bool(broken < other_broken)
    return bool(np.all(worse <= other) and np.any(worse < other))


def fronts(worse: Floats, broken: Floats) -> NDArray[np.int64]:
    """Number of the front that each design stands on, 0 for those that none is better than (Deb et al. 2002)."""
    count = len(worse)
    better = np.all(worse[:, None] <= worse[None], axis=2) & np.any(worse[:, None] < worse[None], axis=2)
    better = np.where(broken[:, None] == broken[None], better, broken[:, None] < broken[None])
    rank = np.full(count, -1)
    number = 0
    while np.any(rank < 0):
        open_ = rank < 0
        rank[open_ & ~np.any(better & open_[:, None], axis=0)] = number
        number += 1
    return rank


def crowding(worse: Floats) -> Floats:
    """How far the neighbours of each design of a front are, the ends infinitely (Deb et al. 2002)."""
    found = np.zeros(len(worse))
    for aim in worse.T:
        order = np.argsort(aim, kind="stable")
        span = aim[order[-1]] - aim[order[0]]
        found[order[[0, -1]]] = np.inf
        if len(aim) > 2 and np.isfinite(span) and span > 0:
            found[order[1:-1]] += (aim[order[2:]] - aim[order[:-2]]) / span
    return found


def ranked(worse: Floats, broken: Floats) -> NDArray[np.int64]:
    """Numbers of the designs, the best first: by front, within it the lonely ones."""
    if worse.shape[1] == 1:
        return np.lexsort((worse[:, 0], broken))
    rank, lonely = fronts(worse, broken), np.zeros(len(worse))
    for number in range(rank.max() + 1):
        lonely[rank == number] = crowding(worse[rank == number])
    return np.lexsort((-lonely, rank))


def thinned(worse: Floats, broken: Floats, size: int) -> NDArray[np.int64]:
    """Those that stay of a crowd that has grown."""
    return np.sort(ranked(worse, broken)[:size])


def searched(
    aims: Callable[[Floats], Sequence[float]], dimensions: Sequence[Dimension], budget: int, seed: int
) -> tuple[Floats, Floats]:
    """All designs that a search asked for and their aims, where these are a function of the shares: (designs, dimensions), (designs, aims)."""
    search = Search(dimensions, budget, seed)
    every: list[Floats] = []
    found: list[Floats] = []
    while len(shares := search.ask()):
        worse = np.array([np.atleast_1d(aims(one)) for one in shares], dtype=float)
        search.tell(shares, worse, np.zeros(len(shares)))
        every.append(shares)
        found.append(worse)
    return np.vstack(every), np.vstack(found)
