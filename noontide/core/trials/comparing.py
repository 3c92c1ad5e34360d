"""What the runs of a study tell: the best, those as good as the best, and what these have in common."""

from collections.abc import Sequence

from noontide.core.trials.running import Run
from noontide.core.trials.study import Aim, Scalar, Study


def best_of(runs: Sequence[Run], aim: Aim) -> Run | None:
    """The best run that keeps every limit; of equal ones the first. None where no run does."""
    return next(iter(_ranked(runs, aim)), None)


def as_good_as_best(runs: Sequence[Run], aim: Aim, share: float) -> list[Run]:
    """Runs whose aim lies within a share of the best one's, the best first; of those that are one and the same design the first.

    The room to choose is a share of the best value, or of the spread of all runs where the best is about nothing.
    """
    ranked = _ranked(runs, aim)
    if not ranked:
        return []
    best, last = _worse(ranked[0], aim), _worse(ranked[-1], aim)
    room = share * (abs(best) or last - best)
    found: dict[str, Run] = {}
    for one in ranked:
        if _worse(one, aim) <= best + room:
            found.setdefault(one.design or str(one.number), one)
    return list(found.values())


def shared_by(runs: Sequence[Run], study: Study) -> list[str]:
    """What runs have in common, a sentence for each loose value that they do not use all of."""
    said = []
    for key, one in study.loose.items():
        name, unit = one.title or key, f" {one.unit}" if one.unit else ""
        values = list(dict.fromkeys(run.values[key] for run in runs))
        if len(values) == 1 and one.count != 1:
            said.append(f"All have {name} {_text(values[0])}{unit}.")
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


def _ranked(runs: Sequence[Run], aim: Aim) -> list[Run]:
    """Runs that keep every limit and have the figure, the best first."""
    kept = [one for one in runs if one.is_kept and one.figures.get(aim.figure) is not None]
    return sorted(kept, key=lambda one: (_worse(one, aim), one.number))


def _worse(one: Run, aim: Aim) -> float:
    value = one.figures[aim.figure]
    assert value is not None
    return value if aim.better == "less" else -value


def _text(value: Scalar) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)
