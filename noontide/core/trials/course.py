"""What is run next: all runs of a grid or a sample at once, those of a search generation by generation."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

import numpy as np

from noontide.core.simulation import Libraries
from noontide.core.trials.planning import Plan, Values
from noontide.core.trials.running import Run, Task, breach, run_tasks
from noontide.core.trials.search import Dimension, Search
from noontide.core.trials.study import Aim, Loose


class Course:
    """The runs of a plan in batches, without those that are known already; the same whoever computes them, and in whatever order.

    `batch` gives the tasks that can be done now, or none while those of a generation are not all told; `is_over` says that there are
    no more.
    """

    def __init__(self, plan: Plan, known: Mapping[int, Run] | None = None):
        self.plan = plan
        self.known = dict(known or {})
        self.count = plan.count
        self._search = _search_of(plan) if plan.study.way == "search" else None
        self._asked: list[int] = []  # numbers of the generation
        self._values: dict[int, Values] = {}
        self._shares = np.zeros((0, 0))
        self._begun = False
        self.is_over = False

    def batch(self) -> Sequence[int]:
        """Numbers of the runs that can be done now."""
        if self._search is None:
            if self._begun:
                self.is_over = True
                return []
            self._begun = True
            return [number for number in self.plan.order() if number not in self.known]
        while all(number in self.known for number in self._asked):
            if not self._next_generation(self._search):
                self.is_over = True
                return []
            if missing := [number for number in self._asked if number not in self.known]:
                return missing
        return []

    def values(self, number: int) -> Values:
        """The loose values of a run that was asked for."""
        return self.plan.values(number) if self._search is None else self._values[number]

    def tell(self, one: Run) -> None:
        """A run is done; only a search keeps it in mind."""
        if self._search is not None:
            self.known[one.number] = one

    def _next_generation(self, search: Search) -> bool:
        study = self.plan.study
        if self._asked:
            runs = [self.known[number] for number in self._asked]
            worse = np.array([[_worse(run, aim) for aim in study.aims] for run in runs])
            search.tell(self._shares, worse, np.array([breach(study, run) for run in runs]))
        first = self._asked[-1] + 1 if self._asked else 0
        self._shares = search.ask()
        self._asked = list(range(first, first + len(self._shares)))
        for number, shares in zip(self._asked, self._shares, strict=True):
            pairs = zip(study.loose.items(), shares, strict=True)
            self._values[number] = {key: one.at(float(share)) for (key, one), share in pairs}
        self.count = first + len(self._asked) + max(0, search.left)
        return bool(self._asked)


def run(plan: Plan, libraries: Libraries, known: Mapping[int, Run] | None = None) -> Iterator[Run]:
    """All runs of a plan that are not known, in the order in which they share the most."""
    course = Course(plan, known)
    while not course.is_over:
        for one in run_tasks(plan, tasks_of(course, course.batch()), libraries):
            course.tell(one)
            yield one


def tasks_of(course: Course, numbers: Iterable[int]) -> Iterator[Task]:
    """Runs with their values."""
    return ((number, course.values(number)) for number in numbers)


def _worse(one: Run, aim: Aim) -> float:
    value = one.figures.get(aim.figure)
    return float("inf") if value is None else value * aim.sign


def _search_of(plan: Plan) -> Search:
    study = plan.study
    own = [_share(one, plan.own(one)) for one in study.loose.values()]
    dimensions = [Dimension(one.count, _is_ordered(one)) for one in study.loose.values()]
    return Search(dimensions, study.runs or 0, study.seed, None if None in own else own)  # type: ignore[arg-type]


def _is_ordered(one: Loose) -> bool:
    return one.values is None or all(isinstance(v, int | float) and not isinstance(v, bool) for v in one.values)


def _share(one: Loose, value: object) -> float | None:
    """Where a value lies on the way; None where it does not."""
    if one.values is not None:
        return (one.values.index(value) + 0.5) / len(one.values) if value in one.values else None  # type: ignore[arg-type]
    assert one.low is not None and one.high is not None
    if isinstance(value, bool) or not isinstance(value, int | float) or not one.low <= value <= one.high:
        return None
    share = (value - one.low) / (one.high - one.low)
    return share if one.count is None else min(round((value - one.low) / (one.step or 1.0)) + 0.5, one.count) / one.count
