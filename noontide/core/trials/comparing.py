"""What the runs of a study tell: the best, those as good as the best, and what these have in common."""

from collections.abc import Sequence

import numpy as np

from noontide.core.trials.running import Run
from noontide.core.trials.runs_table import as_good
from noontide.core.trials.study import Aim, Scalar, Study


def best_of(runs: Sequence[Run], aim: Aim) -> Run | None:
    """The best run that keeps every limit; of equal ones the first. None where no run does."""
    return next(iter(as_good_as_best(runs, aim, 0.0)), None)


def as_good_as_best(runs: Sequence[Run], aim: Aim, share: float) -> list[Run]:
    """Runs whose aim lies within a share of the best one's, the best first; of those that are one and the same design the first.

    The room to choose is a share of the best value, or of the spread of all runs where the best is about nothing.
    """
    ordered = sorted(runs, key=lambda one: one.number)
    values = [one.figures.get(aim.figure) for one in ordered]
    worse = np.array([np.nan if value is None else value * aim.sign for value in values], dtype=float)
    # Runs without a digest are each a design of its own.
    known: dict[str, int] = {}
    designs = np.array([known.setdefault(one.design or f"run {one.number}", len(known)) for one in ordered], dtype=np.uint64)
    kept = np.array([one.is_kept for one in ordered], dtype=bool)
    return [ordered[place] for place in as_good(worse, designs, kept, share)]


def shared_by(runs: Sequence[Run], study: Study) -> list[str]:
    """What runs have in common, a sentence for each loose value that they do not use all of."""
    said = []
    names = short_names(study)
    for key, one in study.loose.items():
        name, unit = names[key], "°" if one.unit == "°" else f" {one.unit}" if one.unit else ""
        values = list(dict.fromkeys(run.values[key] for run in runs))
        if len(values) == 1 and one.count != 1:
            said.append(f"{name} is {_text(values[0])}{unit} in all of them.")
            continue
        numbers = [value for value in values if isinstance(value, int | float) and not isinstance(value, bool)]
        if len(numbers) < len(values) or not numbers:
            if one.count is not None and len(values) < one.count:
                said.append(f"{name} is {', '.join(_text(value) for value in values[:-1])} or {_text(values[-1])}.")
            continue
        ends = [value for value in (one.at(0.0), one.at(1.0)) if isinstance(value, int | float)]
        if min(numbers) > min(ends) or max(numbers) < max(ends):
            said.append(f"{name} lies between {_text(min(numbers))} and {_text(max(numbers))}{unit}.")
    return said


def short_names(study: Study) -> dict[str, str]:
    """What each loose value is called: the field alone, where no two have the same."""
    short = {key: (one.title or key).split(",")[0] for key, one in study.loose.items()}
    names = list(short.values())
    return {key: name if names.count(name) == 1 else study.loose[key].title or key for key, name in short.items()}


def _text(value: Scalar) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)
