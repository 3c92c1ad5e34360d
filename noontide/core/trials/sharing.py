"""What the runs of a plan share: how many solar years there are, and how long the whole will take."""

import time
from dataclasses import dataclass
from math import prod

from noontide.core.simulation import Libraries
from noontide.core.trials.course import Course, tasks_of
from noontide.core.trials.planning import DOWNSTREAM, Plan
from noontide.core.trials.running import run_tasks

AFTER_METER = ("demand", "storage", "money")
PATIENCE = 1.0  # s that measuring may take


@dataclass(frozen=True)
class Outlook:
    """What a study comes to, before it is begun."""

    runs: int
    solar_years: int
    seconds_a_run: float  # in one process, as measured on the first few
    seconds: float  # of all runs in one process


def solar_years(plan: Plan) -> int:
    """How many years are simulated from the sun to the meter; the other runs take one that is there already."""
    study = plan.study
    changing = [
        key for key, rooms in plan.shares.items() if any(room in DOWNSTREAM and room not in AFTER_METER for room in rooms)
    ]
    counts = [study.loose[key].count or plan.count for key in changing]
    if study.way == "grid":
        return min(prod(counts), plan.count)
    if study.way == "one at a time":
        return min(1 + sum(counts), plan.count)
    return min(prod(counts), plan.count)


def outlook(plan: Plan, libraries: Libraries) -> Outlook:
    """Runs, what they share, and how long they take, measured on four of them: two that share the sun, from the begin and from the midst."""
    course = Course(plan)
    order = course.batch()
    middle = len(order) // 2
    places = [place for place in dict.fromkeys((0, 1, middle, middle + 1)) if place < len(order)]
    began, taken = time.monotonic(), dict[int, float]()
    for place in places:
        before = time.monotonic()
        list(run_tasks(plan, tasks_of(course, [order[place]]), libraries))
        taken[place] = time.monotonic() - before
        if time.monotonic() - began > PATIENCE:
            break
    # The first one also does what all others share.
    first = taken.pop(0, 0.0)
    beside = [seconds for place, seconds in taken.items() if place != middle] or [first]
    own = taken.get(middle, first if not taken else max(taken.values()))
    years = solar_years(plan)
    usual = max(0, years - 1) * own + max(0, plan.count - years) * min(min(beside), own)
    return Outlook(plan.count, years, usual / max(1, plan.count - 1), first + usual)
