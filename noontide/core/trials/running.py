"""Running a study: each run is the year that its design has by itself, to the last bit; what runs share is computed once."""

import hashlib
import json
import time
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal

from noontide.core.design import Design
from noontide.core.fields import in_one_line
from noontide.core.figures.catalogue import FIGURE_OF, figures_of
from noontide.core.simulation import Libraries, Results
from noontide.core.trials.planning import COUNTED, Plan, Values, open_findings, variant
from noontide.core.trials.study import Limit, Study

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
    """Some runs of a plan, one after the other; one that fails is a row with words."""
    for number, values in tasks:
        yield _one(plan, number, values, libraries)


def run_numbers(plan: Plan, numbers: Iterable[int], libraries: Libraries) -> Iterator[Run]:
    """Runs of a plan by their numbers, where these say what they are: not those of a search."""
    return run_tasks(plan, ((number, plan.values(number)) for number in numbers), libraries)


def _one(plan: Plan, number: int, values: Values, libraries: Libraries) -> Run:
    began = time.monotonic()
    try:
        design = variant(plan.document, plan.study, values, libraries)
        results = libraries.year_of(design)
        figures = _figures(results, _wanted(plan.study))
    except Exception as error:  # one design that fails must not take the others with it
        return Run(number, values, "failed", error=in_one_line(error), seconds=time.monotonic() - began)
    broken = broken_limits(plan.study, figures)
    seconds = time.monotonic() - began
    return Run(number, values, "done", figures, broken=broken, design=_digest(design), seconds=seconds)


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


def _digest(design: Design) -> str:
    text = json.dumps(design.as_kept(), sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:16]


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
