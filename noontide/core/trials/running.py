"""Running a study: each run is the year that its design has by itself, to the last bit; what runs share is computed once."""

import time
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Literal

from noontide.core.design import Design
from noontide.core.fields import in_one_line
from noontide.core.figures.catalogue import FIGURE_OF, figures_of
from noontide.core.simulation import Libraries, Results
from noontide.core.simulation.cache import Company
from noontide.core.trials.planning import COUNTED, Plan, Values, open_findings, variant
from noontide.core.trials.study import Limit, Study

BESIDE = 16  # years of hours that are begun before the first is ended
PATIENCE = 0.2  # s, after which no more are begun
Task = tuple[int, Values]  # number of a run, and its values


@dataclass(frozen=True)
class Run:
    """A run of a study: its values and figures, or why it has none."""

    number: int
    values: Values
    state: Literal["done", "failed"]
    figures: Mapping[str, float | None] = field(
        default_factory=dict
    )  # open errors and cautions among them, where they are asked for
    error: str = ""
    broken: tuple[str, ...] = ()  # limits that it does not keep, in words
    design: str = ""  # digest of its document: different values may come to one design, such as sizes between two batteries
    seconds: float = 0.0

    @property
    def is_kept(self) -> bool:
        """Whether it has figures, and keeps every limit."""
        return self.state == "done" and not self.broken


def run_tasks(plan: Plan, tasks: Iterable[Task], libraries: Libraries) -> Iterator[Run]:
    """Some runs of a plan, in their order; one that fails is a row with words.

    A few are begun before the first is ended: what follows the meter is found for them beside one another. Designs that come again are
    run once.
    """
    known: dict[str, Mapping[str, float | None]] = {}
    waiting = iter(tasks)
    while begun := _begin_some(plan, waiting, libraries, known):
        for one in begun:
            yield one.end(known)


def _begin_some(plan: Plan, waiting: Iterator[Task], libraries: Libraries, known: Mapping[str, object]) -> list["_Begun"]:
    """The next runs, to a number of years that are not known."""
    begun: list[_Begun] = []
    years, until, company = set[str](), time.monotonic() + PATIENCE, Company()
    # Their hours are in memory together.
    intervals = 8760 if libraries.weather is None else libraries.weather.calendar.intervals
    most = max(1, BESIDE * 8760 // intervals)
    for number, values in waiting:
        one = _Begun(plan, number, values, libraries, company)
        if one.design not in known and one.design not in years:
            one.begin()
            years.add(one.design)
        begun.append(one)
        if len(years) >= most or time.monotonic() > until:
            break
    return begun


class _Begun:
    """A run whose design is made."""

    def __init__(self, plan: Plan, number: int, values: Values, libraries: Libraries, company: Company):
        self._study, self._number, self._values = plan.study, number, values
        self._libraries, self._company = libraries, company
        self.design = self._error = ""
        self._made: Design | None = None
        self._results: Results | None = None
        began = time.monotonic()
        with self._in_words():
            self._made = variant(plan.base, plan.study, values, libraries)
            self.design = self._made.fingerprint[:16]
        self._seconds = time.monotonic() - began

    def begin(self) -> None:
        """Begin its year; what follows the meter waits for the others."""
        began = time.monotonic()
        with self._in_words():
            if self._made is not None:
                self._results = self._libraries.year_of(self._made, self._company)
        self._seconds += time.monotonic() - began

    def end(self, known: dict[str, Mapping[str, float | None]]) -> Run:
        """Its figures; those of a design that was run before are known."""
        began = time.monotonic()
        if self.design not in known and not self._error:
            if self._results is None:  # the run before it with the same design failed
                self.begin()
            with self._in_words():
                if self._results is not None:
                    known[self.design] = _figures(self._results, _wanted(self._study))
        self._results = None
        seconds = self._seconds + time.monotonic() - began
        if self._error:
            return Run(self._number, self._values, "failed", error=self._error, seconds=seconds)
        figures = known[self.design]
        broken = broken_limits(self._study, figures)
        return Run(self._number, self._values, "done", figures, broken=broken, design=self.design, seconds=seconds)

    @contextmanager
    def _in_words(self) -> Iterator[None]:
        """One design that fails must not take the others with it."""
        try:
            yield
        except Exception as error:
            self._error = in_one_line(error)


def run_numbers(plan: Plan, numbers: Iterable[int], libraries: Libraries) -> Iterator[Run]:
    """Runs of a plan by their numbers, where these say what they are: not those of a search."""
    return run_tasks(plan, ((number, plan.values(number)) for number in numbers), libraries)


def _wanted(study: Study) -> set[str]:
    """Keys of the figures that a run is asked for; none where all are."""
    if not study.figures:
        return set()
    return {*study.figures, *(limit.figure for limit in study.limits), *(aim.figure for aim in study.aims)}


def _figures(results: Results, wanted: set[str]) -> dict[str, float | None]:
    """Those that are wanted, in the order of the Headline; findings are counted where somebody asks for them."""
    if not wanted:
        return {**figures_of(results), **open_findings(results)}
    found = {key: figure.value(results) for key, figure in FIGURE_OF.items() if key in wanted and figure.is_there(results)}
    return found | (open_findings(results) if wanted & set(COUNTED) else {})


def broken_limits(study: Study, figures: Mapping[str, float | None]) -> tuple[str, ...]:
    """The limits that figures do not keep, in words; a figure that the design does not have keeps none."""
    return tuple(words for limit in study.limits if (words := _broken(limit, figures.get(limit.figure))))


def breach(study: Study, one: Run) -> float:
    """How far a run is from keeping all limits: 0 where it does, infinite where it has no figures."""
    if one.state != "done":
        return float("inf")
    total = 0.0
    for limit in study.limits:
        value = one.figures.get(limit.figure)
        if value is None:
            return float("inf")
        for end, sign in ((limit.at_least, 1.0), (limit.at_most, -1.0)):
            if end is not None:
                total += max(0.0, sign * (end - value)) / max(abs(end), 1.0)
    return total


def _broken(limit: Limit, value: float | None) -> str:
    if value is None:
        return f"no {limit.figure}"
    if limit.at_least is not None and not value >= limit.at_least:
        return f"{limit.figure} {value:g} below {limit.at_least:g}"
    if limit.at_most is not None and not value <= limit.at_most:
        return f"{limit.figure} {value:g} above {limit.at_most:g}"
    return ""
