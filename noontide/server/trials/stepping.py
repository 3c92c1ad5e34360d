"""What a step more and a step less of each input does to a figure, as a job on a scheme."""

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.trials import sensitivity
from noontide.server.jobs.kinds import Report
from noontide.server.projects.scheme_jobs import Given, OfRevision, scheme_kind
from noontide.server.projects.string_finding import has_weather


class SensitivityAsked(BaseModel):
    """The figure that is looked at."""

    model_config = ConfigDict(extra="forbid")

    figure: str = Field("energy", max_length=60)


class StepLine(BaseModel):
    """An input, and the figure with it a step lower and a step higher."""

    pointer: str
    title: str
    unit: str
    value: float
    step: float
    lower: float | None = Field(description="none where the design refuses that")
    higher: float | None


class SensitivityFound(OfRevision):
    """Inputs in the order of what they do; those that do nothing are counted."""

    figure: str
    value: float
    steps: list[StepLine]
    without: int


@scheme_kind("sensitivity", SensitivityAsked, may_begin=has_weather)
def sensitivity_of(given: Given, report: Report) -> SensitivityFound:
    """What a step more and a step less of each input does to a figure."""
    figure = given.arguments.figure
    title = FIGURE_OF[figure].title if figure in FIGURE_OF else figure

    def told(done: int, of: int) -> None:
        report(done / of, f"{title}: {done} of {of} inputs")

    own, effects = sensitivity(given.design, figure, given.libraries, told)
    moving = [effect for effect in effects if effect.reach(own) > 0]
    steps = [
        StepLine(
            pointer=one.input.pointer, title=one.input.title, unit=one.input.unit, value=one.input.value, step=one.input.step,
            lower=one.lower, higher=one.higher,
        )
        for one in moving
    ]  # fmt: skip
    return SensitivityFound(revision=given.revision, figure=figure, value=own, steps=steps, without=len(effects) - len(moving))
