"""Running a study: each run is the year that its design has by itself, to the last bit; what runs share is computed once."""

import hashlib
import json
import time
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import ValidationError

from noontide.core.design import Design
from noontide.core.fields import first_fault
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import Libraries
from noontide.core.trials.planning import Plan, Values, open_findings, variant
from noontide.core.trials.study import Limit, Study


@dataclass(frozen=True)
class Run:
    """A run of a study: its values and figures, or why it has none."""

    number: int
    values: Values
    state: Literal["done", "failed"]
    figures: Mapping[str, float | None] = field(default_factory=dict)  # errors and cautions among them
    error: str = ""
    broken: tuple[str, ...] = ()  # limits that it does not keep, in words
    design: str = ""  # digest of its document: different values may come to one design, such as sizes between two batteries
    seconds: float = 0.0

    @property
    def is_kept(self) -> bool:
        """Whether it has figures, and keeps every limit."""
        return self.state == "done" and not self.broken


def run(plan: Plan, libraries: Libraries) -> Iterator[Run]:
    """All runs of a plan, in the order in which they share the most."""
    return run_numbers(plan, plan.order(), libraries)


def run_numbers(plan: Plan, numbers: Iterable[int], libraries: Libraries) -> Iterator[Run]:
    """Some runs of a plan, one after the other; one that fails is a row with words."""
    for number in numbers:
        yield _one(plan, number, libraries)


def _one(plan: Plan, number: int, libraries: Libraries) -> Run:
    began = time.monotonic()
    values = plan.values(number)
    try:
        design = variant(plan.document, plan.study, values, libraries)
        results = libraries.year_of(design)
        found: dict[str, Any] = {**figures_of(results), **open_findings(results)}
    except Exception as error:  # one design that fails must not take the others with it
        return Run(number, values, "failed", error=words_of(error), seconds=time.monotonic() - began)
    broken = broken_limits(plan.study, found)
    wanted = {*plan.study.figures, "errors", "cautions"} if plan.study.figures else found.keys()
    figures = {key: value for key, value in found.items() if key in wanted or _is_asked(plan.study, key)}
    return Run(number, values, "done", figures, broken=broken, design=_digest(design), seconds=time.monotonic() - began)


def _digest(design: Design) -> str:
    text = json.dumps(design.as_kept(), sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def _is_asked(study: Study, key: str) -> bool:
    return (study.aim is not None and study.aim.figure == key) or any(limit.figure == key for limit in study.limits)


def broken_limits(study: Study, figures: Mapping[str, float | None]) -> tuple[str, ...]:
    """The limits that figures do not keep, in words; a figure that the design does not have keeps none."""
    return tuple(words for limit in study.limits if (words := _broken(limit, figures.get(limit.figure))))


def _broken(limit: Limit, value: float | None) -> str:
    if value is None:
        return f"no {limit.figure}"
    if limit.at_least is not None and not value >= limit.at_least:
        return f"{limit.figure} {value:g} below {limit.at_least:g}"
    if limit.at_most is not None and not value <= limit.at_most:
        return f"{limit.figure} {value:g} above {limit.at_most:g}"
    return ""


def words_of(error: Exception) -> str:
    """Why a run has no figures, in one line."""
    if isinstance(error, ValidationError):
        return first_fault(error)
    return " ".join(str(error).split())[:300] or type(error).__name__
