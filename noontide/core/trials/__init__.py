"""Many designs at once: a study lets values of one design loose, and every run is the year that this design would have by itself."""

from noontide.core.trials.comparing import as_good_as_best, best_of, shared_by
from noontide.core.trials.course import Course, run, tasks_of
from noontide.core.trials.planning import Plan, StudyError, plan_of, variant
from noontide.core.trials.running import Run, Task, run_numbers, run_tasks
from noontide.core.trials.sensitivity import Effect, InputStep, inputs_of, sensitivity
from noontide.core.trials.study import Aim, Limit, Loose, Study

__all__ = [
    "Aim",
    "Course",
    "Effect",
    "InputStep",
    "Limit",
    "Loose",
    "Plan",
    "Run",
    "Study",
    "StudyError",
    "Task",
    "as_good_as_best",
    "best_of",
    "inputs_of",
    "plan_of",
    "run",
    "run_numbers",
    "run_tasks",
    "sensitivity",
    "shared_by",
    "tasks_of",
    "variant",
]
