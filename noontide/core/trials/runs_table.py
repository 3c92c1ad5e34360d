"""The runs of a study by columns: sorted, filtered and put together for a table, a map, a front and the effects of values."""

import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal, Self

import numpy as np
from numpy.typing import NDArray

from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.trials.running import Run, broken_limits
from noontide.core.trials.search import fronts
from noontide.core.trials.study import Aim, Loose, Scalar, Study

MOST_CELLS = 60  # of a map along one side; more values are put into as many parts of the way
BINS = 24  # of a value that is drawn at random
MOST_POINTS = 3_000  # of a front that are drawn beside those on it
Of = Literal["best", "mean"]
Floats = NDArray[np.float64]
Numbers = NDArray[np.int64]
RUN = "run"


class NoSuchColumn(KeyError):
    """A column that the runs do not have."""


@dataclass(frozen=True)
class Filter:
    """Runs of which a column lies within two ends."""

    key: str
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Cell:
    """Runs that fall on one place of a map, or on one value."""

    x: Scalar
    y: Scalar
    value: float | None  # of the figure: the best, or the mean
    run: int | None  # number of the run that is the best there
    count: int
    kept: int  # of them keep every limit
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, eq=False)
class RunColumns:
    """Runs by columns, as they are kept: words are their place in the list of their value, what is not there is not a number."""

    numbers: Numbers  # (runs,)
    values: Floats  # (runs, loose values)
    keys: tuple[str, ...]  # of the figures
    figures: Floats  # (runs, figures)
    is_done: NDArray[np.bool_]  # (runs,)
    designs: NDArray[np.uint64]  # digests, (runs,)
    seconds: Floats  # (runs,)
    errors: dict[int, str]  # by number of the run

    @classmethod
    def of(cls, study: Study, runs: Sequence[Run]) -> Self:
        """Columns of some runs."""
        keys = tuple(dict.fromkeys(key for one in runs for key in one.figures))
        places = {key: _places(loose) for key, loose in study.loose.items()}
        return cls(
            np.array([one.number for one in runs], dtype=np.int64),
            np.array([[_number(one.values.get(key), places[key]) for key in study.loose] for one in runs], dtype=float).reshape(len(runs), len(study.loose)),
            keys,
            np.array([[_number(one.figures.get(key), None) for key in keys] for one in runs], dtype=float).reshape(len(runs), len(keys)),
            np.array([one.state == "done" for one in runs], dtype=bool),
            np.array([int(one.design or "0", 16) for one in runs], dtype=np.uint64),
            np.array([one.seconds for one in runs], dtype=float),
            {one.number: one.error for one in runs if one.error},
        )  # fmt: skip

    @classmethod
    def joined(cls, study: Study, some: Sequence[Self]) -> Self:
        """All runs of several, each once, by their numbers; those of a later one with an earlier's number are left out."""
        if not some:
            return cls.of(study, [])
        keys = tuple(dict.fromkeys(key for one in some for key in one.keys))
        figures = [
            np.stack([one.figures[:, one.keys.index(key)] if key in one.keys else np.full(len(one.numbers), np.nan) for key in keys], axis=1)
            if keys else np.zeros((len(one.numbers), 0)) for one in some
        ]  # fmt: skip
        numbers, first = np.unique(np.concatenate([one.numbers for one in some]), return_index=True)
        return cls(
            numbers, np.concatenate([one.values for one in some])[first], keys, np.concatenate(figures)[first],
            np.concatenate([one.is_done for one in some])[first], np.concatenate([one.designs for one in some])[first],
            np.concatenate([one.seconds for one in some])[first],
            {n: words for one in reversed(some) for n, words in one.errors.items()},
        )  # fmt: skip

    def as_bytes(self) -> bytes:
        """As they are kept on a disk."""
        buffer = io.BytesIO()
        words = {"keys": self.keys, "errors": self.errors}
        np.savez_compressed(
            buffer, numbers=self.numbers, values=self.values, figures=self.figures, is_done=self.is_done, designs=self.designs,
            seconds=self.seconds, words=np.frombuffer(json.dumps(words).encode(), dtype=np.uint8),
        )  # fmt: skip
        return buffer.getvalue()

    @classmethod
    def from_bytes(cls, content: bytes) -> Self:
        """What was kept."""
        with np.load(io.BytesIO(content), allow_pickle=False) as file:
            words = json.loads(file["words"].tobytes())
            return cls(
                file["numbers"], file["values"], tuple(words["keys"]), file["figures"], file["is_done"], file["designs"], file["seconds"],
                {int(n): text for n, text in words["errors"].items()},
            )  # fmt: skip

    @property
    def bytes(self) -> int:
        """That they take in memory, without the words."""
        return sum(
            column.nbytes for column in (self.numbers, self.values, self.figures, self.is_done, self.designs, self.seconds)
        )


class RunsTable:
    """All runs of a study, in the order of their numbers."""

    def __init__(self, study: Study, columns: RunColumns):
        self.study = study
        self.columns = columns
        self.numbers = columns.numbers
        self.is_done = columns.is_done
        self._place = {key: k for k, key in enumerate(study.loose)}

    @classmethod
    def of(cls, study: Study, runs: Sequence[Run]) -> Self:
        """The table of some runs."""
        return cls(study, RunColumns.joined(study, [RunColumns.of(study, runs)]))

    def __len__(self) -> int:
        return len(self.numbers)

    @cached_property
    def figure_keys(self) -> tuple[str, ...]:
        """Figures that any run has, in the order of the Headline."""
        order = {key: place for place, key in enumerate(FIGURE_OF)}
        return tuple(sorted(self.columns.keys, key=lambda key: order.get(key, len(order))))

    @cached_property
    def kept(self) -> NDArray[np.bool_]:
        """Which runs keep every limit of the study as it is now, (runs,); a figure that a run does not have keeps none."""
        found = self.is_done.copy()
        for limit in self.study.limits:
            column = self.column(limit.figure) if limit.figure in self.columns.keys else np.full(len(self), np.nan)
            found &= np.isfinite(column)
            if limit.at_least is not None:
                found &= column >= limit.at_least
            if limit.at_most is not None:
                found &= column <= limit.at_most
        return found

    def run(self, place: int) -> Run:
        """The run of a place."""
        columns, number = self.columns, int(self.numbers[place])
        values = {key: _scalar(loose, columns.values[place, k]) for k, (key, loose) in enumerate(self.study.loose.items())}
        figures = {
            key: None if np.isnan(value) else float(value)
            for key, value in zip(columns.keys, columns.figures[place], strict=True)
        }
        is_done = bool(self.is_done[place])
        return Run(
            number, values, "done" if is_done else "failed", figures if is_done else {}, columns.errors.get(number, ""),
            broken_limits(self.study, figures) if is_done else (), f"{int(columns.designs[place]):016x}" if is_done else "", float(columns.seconds[place]),
        )  # fmt: skip

    def place(self, number: int) -> int | None:
        """Where the run of a number stands; None where there is none."""
        at = int(np.searchsorted(self.numbers, number))
        return at if at < len(self) and self.numbers[at] == number else None

    def column(self, key: str) -> Floats:
        """A loose value, a figure or the number of every run, (runs,); not a number where a run has none. Words are their place in the list.

        Raises
        ------
        NoSuchColumn
            If there is none of this key.
        """
        if key == RUN:
            return self.numbers.astype(float)
        if key in self._place:
            return self.columns.values[:, self._place[key]]
        if key in self.columns.keys:
            return self.columns.figures[:, self.columns.keys.index(key)]
        raise NoSuchColumn(key)

    @cached_property
    def ranges(self) -> dict[str, tuple[float, float]]:
        """Least and most of each column, of those that have any value."""
        found = {}
        for key in (*self.study.loose, *self.columns.keys):
            column = self.column(key)
            if (there := column[np.isfinite(column)]).size:
                found[key] = (float(there.min()), float(there.max()))
        return found

    def good(self, aim: Aim, share: float) -> Numbers:
        """Places of the runs that are as good as the best within a share of it, the best first, one of each design."""
        values = self.column(aim.figure) * aim.sign
        return as_good(values, self.columns.designs, self.kept, share)

    def chosen(self, filters: Sequence[Filter] = (), only_kept: bool = False) -> NDArray[np.bool_]:
        """Which runs pass all filters, (runs,)."""
        passed = self.kept.copy() if only_kept else np.ones(len(self), dtype=bool)
        for one in filters:
            column = self.column(one.key)
            if one.low is not None:
                passed &= column >= one.low
            if one.high is not None:
                passed &= column <= one.high
        return passed

    def ordered(self, key: str = RUN, down: bool = False, chosen: NDArray[np.bool_] | None = None) -> Numbers:
        """Places of the runs in the order of a column; those without come last, equal ones by their numbers."""
        column = self.column(key)
        places = np.arange(len(self)) if chosen is None else np.flatnonzero(chosen)
        return places[np.argsort(-column[places] if down else column[places], kind="stable")]

    def map(self, x: str, y: str, figure: str, of: Of = "best", held: Mapping[str, Scalar] | None = None) -> list[Cell]:
        """A figure over two loose values: of the runs that fall on a cell, the best that keeps the limits, or the mean of all."""
        return self._cells([x, y], figure, of, held or {})

    def effect(self, x: str, figure: str, of: Of = "mean", held: Mapping[str, Scalar] | None = None) -> list[Cell]:
        """A figure over one loose value, the others held or taken together."""
        return self._cells([x], figure, of, held or {})

    def _cells(self, keys: list[str], figure: str, of: Of, held: Mapping[str, Scalar]) -> list[Cell]:
        values, done = self.column(figure), self.is_done & np.isfinite(self.column(figure))
        for key, value in held.items():
            loose = self.study.loose.get(key)
            if loose is None:
                raise NoSuchColumn(key)
            place = loose.values.index(value) if is_words(loose) and value in loose.values else value  # type: ignore[arg-type, union-attr, operator]
            done &= self._parted(key)[0] == self._part_of(key, place)
        parts = [self._parted(key) for key in keys]
        along = np.stack([part for part, _ in parts])
        groups: dict[tuple[int, ...], list[int]] = {}
        for place in np.flatnonzero(self._there(keys)):
            groups.setdefault(tuple(along[:, place].astype(int)), []).append(int(place))
        better = better_of(self.study, figure)
        cells = []
        for group, members in sorted(groups.items()):
            inside = np.array([place for place in members if done[place]], dtype=int)
            if held and not len(inside):
                continue
            kept = inside[self.kept[inside]]
            pool = kept if len(kept) else inside
            best = pool[np.argmax(values[pool] if better == "more" else -values[pool])] if len(pool) else None
            value = None if best is None else float(values[best]) if of == "best" else float(np.mean(values[inside]))
            at = [parts[k][1][number] for k, number in enumerate(group)]
            cells.append(Cell(
                at[0], at[1] if len(at) > 1 else None, value, None if best is None else int(self.numbers[best]), len(members), len(kept),
                float(values[inside].min()) if len(inside) else None, float(values[inside].max()) if len(inside) else None,
            ))  # fmt: skip
        return cells

    def _there(self, keys: list[str]) -> NDArray[np.bool_]:
        found = np.ones(len(self), dtype=bool)
        for key in keys:
            if key not in self.study.loose:
                raise NoSuchColumn(key)
            found &= np.isfinite(self.column(key)) | is_words(self.study.loose[key])
        return found

    def _parted(self, key: str) -> tuple[Floats, list[Scalar]]:
        """The part of the way on which each run lies, and what each part is called: the values themselves where they are few."""
        if key not in self.study.loose:
            raise NoSuchColumn(key)
        loose, column = self.study.loose[key], self.column(key)
        if loose.count is not None and loose.count <= MOST_CELLS:
            if is_words(loose):
                return column, list(loose.values or ())
            values = [loose.value(k) for k in range(loose.count)]
            order = np.argsort(np.array(values, dtype=float), kind="stable")
            ranked = np.array(values, dtype=float)[order]
            return np.clip(np.searchsorted(ranked, column - 1e-9), 0, len(values) - 1).astype(float), [values[k] for k in order]
        ends = [float(loose.at(share)) for share in (0.0, 1.0)]  # type: ignore[arg-type]
        low, high = min(ends), max(ends)
        part = np.clip((column - low) / (high - low) * BINS, 0, BINS - 1e-9)
        return np.floor(part), [low + (k + 0.5) * (high - low) / BINS for k in range(BINS)]

    def _part_of(self, key: str, value: Any) -> float:
        _, names = self._parted(key)
        if is_words(self.study.loose[key]):
            return float(value) if isinstance(value, int) else -1.0
        return float(np.argmin([abs(float(name) - float(value)) for name in names]))  # type: ignore[arg-type]

    def front(self, aims: Sequence[Aim]) -> Numbers:
        """Places of the runs that keep the limits and that no other is better than in both figures, in the order of the first."""
        columns = [self.column(aim.figure) * aim.sign for aim in aims]
        worse = np.stack(columns, axis=1) if columns else np.zeros((len(self), 0))
        places = np.flatnonzero(self.kept & np.all(np.isfinite(worse), axis=1))
        if not len(places):
            return places
        if len(aims) > 2:
            return places[fronts(worse[places], np.zeros(len(places))) == 0]
        # From the best in the first on, each that is better in the second than all before it.
        order = places[np.lexsort([worse[places, k] for k in reversed(range(worse.shape[1]))])]
        last = worse[order, -1]
        before = np.concatenate([[np.inf], np.minimum.accumulate(last)[:-1]])
        return order[last < before] if len(aims) == 2 else order[:1]

    def scattered(self, x: str, y: str) -> Numbers:
        """Places of runs for a picture of two columns: all of them, or a part that fills the picture as they do."""
        places = np.flatnonzero(np.isfinite(self.column(x)) & np.isfinite(self.column(y)))
        return places if len(places) <= MOST_POINTS else places[:: -(-len(places) // MOST_POINTS)]


def as_good(worse: Floats, designs: NDArray[np.uint64], kept: NDArray[np.bool_], share: float) -> Numbers:
    """Places of those within a share of the least, the least first; of those that are one and the same design the first.

    The room to choose is a share of the best value, or of the spread of all where the best is about nothing.
    """
    places = np.flatnonzero(kept & np.isfinite(worse))
    if not len(places):
        return places
    ranked = places[np.argsort(worse[places], kind="stable")]
    best, last = worse[ranked[0]], worse[ranked[-1]]
    near = ranked[worse[ranked] <= best + share * (abs(best) or last - best)]
    _, first = np.unique(designs[near], return_index=True)
    return near[np.sort(first)]


def better_of(study: Study, figure: str) -> Literal["more", "less"]:
    """Whether more or less of a figure is better: as the study aims, else as the figure itself says."""
    for aim in study.aims:
        if aim.figure == figure:
            return aim.better
    known = FIGURE_OF.get(figure)
    return "more" if known is not None and known.better == "more" else "less"


def is_words(loose: Loose) -> bool:
    """Whether a loose value is a choice among words rather than a number."""
    return loose.values is not None and not all(isinstance(v, int | float) and not isinstance(v, bool) for v in loose.values)


def _places(loose: Loose) -> dict[Any, float] | None:
    return {value: float(k) for k, value in enumerate(loose.values or ())} if is_words(loose) else None


def _number(value: Any, places: Mapping[Any, float] | None) -> float:
    if places is not None:
        return places.get(value, np.nan)
    return float(value) if isinstance(value, int | float) else np.nan


def _scalar(loose: Loose, value: float) -> Scalar:
    """The value as the study has it."""
    if np.isnan(value):
        return None
    if is_words(loose):
        return (loose.values or ())[int(value)]
    if loose.values is not None:
        return next((one for one in loose.values if one == value), float(value))
    return int(value) if loose.is_whole else float(value)
