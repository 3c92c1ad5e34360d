"""A study in processes: its runs in chunks that share what they can, and one table of them all."""

import os
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.trials import Plan, Run, Study, run, run_numbers
from noontide.processes import ENDED, Work

if TYPE_CHECKING:
    import pandas as pd

CHUNKS_EACH = 4  # of a process, so that none waits long for the last one
MOST_IN_CHUNK = 500
Told = Callable[[int, int], None]


def tried(plan: Plan, libraries: Libraries, processes: int = 1, told: Told | None = None) -> Iterator[Run]:
    """All runs of a plan, as they come; in this process where `processes` is 1, else in so many, and in one a core where it is 0."""
    count = processes or os.cpu_count() or 1
    runs = run(plan, libraries) if count == 1 else _in_processes(plan, libraries, count)
    for done, one in enumerate(runs, 1):
        if told is not None:
            told(done, plan.count)
        yield one


def _in_processes(plan: Plan, libraries: Libraries, processes: int) -> Iterator[Run]:
    order = list(plan.order())
    size = max(1, min(MOST_IN_CHUNK, -(-len(order) // (CHUNKS_EACH * processes))))
    chunks = [tuple(order[at : at + size]) for at in range(0, len(order), size)]
    work = Work(
        _run_chunk,
        lambda chunk: [Run(chunk[0], plan.values(chunk[0]), "failed", error=ENDED)],
        lambda chunk: [chunk[: len(chunk) // 2], chunk[len(chunk) // 2 :]] if len(chunk) > 1 else [],
        _begin,
        (plan.study.model_dump(mode="json"), dict(plan.document), dict(plan.shares), libraries.parts, libraries.weather, dict(libraries.series)),
    )  # fmt: skip
    for runs in work.results(chunks, processes):
        yield from runs


_HERE: dict[str, Any] = {}


def _begin(study: dict, document: dict, shares: dict, parts: Any, weather: Any, series: dict) -> None:
    """Once in each process: the study, its design and all that the runs read."""
    _HERE["plan"] = Plan(Study.model_validate(study), Design.read(document).as_kept(), shares)
    _HERE["libraries"] = Libraries(parts, weather, series)


def _run_chunk(numbers: tuple[int, ...]) -> list[Run]:
    return list(run_numbers(_HERE["plan"], numbers, _HERE["libraries"]))


def table_of(runs: list[Run], study: Study) -> "pd.DataFrame":
    """The runs as a table, by their numbers: values, figures, and what was broken or failed."""
    import pandas as pd

    keys = list(dict.fromkeys(key for one in runs for key in one.figures))
    rows = [
        {"run": one.number, **one.values, "state": one.state, **{key: one.figures.get(key) for key in keys},
         "limits": "; ".join(one.broken), "error": one.error, "design": one.design, "seconds": round(one.seconds, 4)}
        for one in sorted(runs, key=lambda one: one.number)
    ]  # fmt: skip
    return pd.DataFrame(rows, columns=["run", *study.loose, "state", *keys, "limits", "error", "design", "seconds"])
