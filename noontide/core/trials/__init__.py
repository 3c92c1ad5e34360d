"""Many designs at once: a study lets values of one design loose, and every run is the year that this design would have by itself."""

from noontide.core.trials.comparing import as_good_as_best, best_of, shared_by
from noontide.core.trials.planning import Plan, StudyError, plan_of
from noontide.core.trials.running import Run, run, run_numbers
from noontide.core.trials.sensitivity import Effect, InputStep, inputs_of, sensitivity
from noontide.core.trials.study import Aim, Limit, Loose, Study

__all__ = [
    "Aim",
    "Effect",
    "InputStep",
    "Limit",
    "Loose",
    "Plan",
    "Run",
    "Study",
    "StudyError",
    "as_good_as_best",
    "best_of",
    "inputs_of",
    "plan_of",
    "run",
    "run_numbers",
    "sensitivity",
    "shared_by",
]
