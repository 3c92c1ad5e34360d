"""Setting a report of a scheme: what stands on it besides the design, and the other schemes beside it."""

import hashlib
import time
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Self

from pydantic import BaseModel, Field, field_validator, model_validator
from rest_framework.request import Request

from noontide.core.brief.comparing import differences
from noontide.core.design import Design
from noontide.core.drawing.sheet import COLOURS
from noontide.core.fields import Line
from noontide.core.report import About, Other, Record, Report, TrialsShown, UnknownPage, report_of
from noontide.core.report.logo import LEAST_CONTRAST, contrast_on_paper
from noontide.core.report.wording import Wording, wording
from noontide.server.accounts.habits import day_of, habits_of
from noontide.server.accounts.models import User
from noontide.server.jobs.models import Job
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_key import canonical
from noontide.server.projects.evaluator import evaluator, results_for
from noontide.server.projects.models import Revision, Scheme
from noontide.server.projects.stages import STAGES
from noontide.server.projects.yearly import YearsResult
from noontide.server.reports.models import Letterhead
from noontide.server.trials.keeping import changed_since, table_of
from noontide.server.trials.models import TrialSet

MOST_TRIALS = 3  # sets that a report shows
PATIENCE_WITH_OTHERS = 1.0  # s, for schemes that have not been looked at since they were changed; all of them together


class LetterheadLine(BaseModel):
    """Who one's reports are from, and the words under the figures of their first page."""

    sender: Line = Field("", max_length=120)
    contact: Line = Field("", max_length=200)
    closing: str = Field("", max_length=2000)
    colour: str = Field("", pattern="^(#[0-9a-fA-F]{6})?$", description="of headings; the house's own where it is empty")
    language: str = Field("en", max_length=8)

    @field_validator("colour")
    @classmethod
    def _can_be_read(cls, colour: str) -> str:
        if colour and contrast_on_paper(colour) < LEAST_CONTRAST:
            raise ValueError("It is too pale to be read on paper. Choose a darker one.")
        return colour

    @model_validator(mode="after")
    def _is_known(self) -> Self:
        wording(self.language)
        return self


class LetterheadAnswer(LetterheadLine):
    """With what stands beside the words."""

    has_logo: bool = False
    house_colour: str = Field(COLOURS["accent"], description="of headings, where no other is chosen")


def letterhead_of(user: User) -> LetterheadAnswer:
    """Who the reports of a user are from."""
    mine = _kept(user)
    fields = {name: getattr(mine, name) for name in LetterheadLine.model_fields}
    return LetterheadAnswer(**fields, has_logo=bool(mine.logo))


def _kept(user: User) -> Letterhead:
    return Letterhead.objects.visible_to(user).first() or Letterhead(owner=user)


def title_of(scheme: Scheme) -> str:
    """Letter and name."""
    assert scheme.head is not None, "a scheme has a head from its first moment on"
    return f"{scheme.letter}, {scheme.head.document.get('name', '')}".rstrip(", ")


def about_of(
    project: str, customer: str, scheme: str, revision: int, made: datetime, document: dict, user: User, address: str = ""
) -> About:
    """What a report says of a revision, and who it is from."""
    mine = _kept(user)
    return About(
        project=project,
        customer=customer,
        scheme=scheme,
        revision=f"revision {revision}, {day_of(made, habits_of(user).dates)}",
        digest=hashlib.sha256(canonical(document)).hexdigest(),
        sender=mine.sender,
        contact=mine.contact,
        closing=mine.closing,
        address=address,
        accent=mine.colour or COLOURS["accent"],
        logo=bytes(mine.logo),
        logo_shape=mine.logo_shape,
    )


def wording_of(user: User) -> Wording:
    """The language and the numbers of a user's reports."""
    habits = habits_of(user)
    return wording(_kept(user).language, habits.numbers, units=habits.units)


def set_report(
    scheme: Scheme,
    head: Revision,
    user: User,
    pages: Sequence[str],
    paper: str,
    patience: float = PATIENCE_WITH_OTHERS,
    told: Callable[[int, int, str], None] | None = None,
    address: str = "",
) -> tuple[Report, list[str]]:
    """The report of a revision, and the other schemes whose figures it would show and that were not there in time.

    Raises
    ------
    Problem
        If a page or the paper is not known, or the design cannot be simulated.
    """
    project = scheme.project
    about = about_of(project.name, project.customer, title_of(scheme), head.number, head.created, head.document, user, address)
    others, missing = others_of(scheme, patience) if "schemes" in pages else ([], [])
    record = record_of(scheme, head) if "years" in pages else None
    trials = trials_of(scheme) if "trials" in pages else []
    try:
        results = results_for(head.document)
        return report_of(results, about, pages, paper, STAGES, others, told, wording_of(user), record, trials), missing
    except UnknownPage as error:
        raise Problem(422, "unknown-page", "This report cannot be made", str(error)) from None


def record_of(scheme: Scheme, head: Revision) -> Record | None:
    """What the last run over the years of a record has found, where it was of this revision."""
    job = Job.objects.filter(kind="years", parameters__scheme=scheme.pk, state=Job.State.DONE).first()
    if job is None or job.parameters["document"] != head.document:
        return None
    found = YearsResult.model_validate(job.result)
    runs = tuple((run.year, run.energy, run.specific_yield, run.performance_ratio) for run in found.runs)
    return Record(runs, found.mean, found.spread, found.p50, found.p90)


def trials_of(scheme: Scheme) -> list[TrialsShown]:
    """The newest sets of trials that have been run to their end."""
    done = scheme.trials.filter(state=TrialSet.State.DONE)[:MOST_TRIALS]  # type: ignore[attr-defined]
    return [TrialsShown(one.name, table_of(one), tuple(changed_since(one, scheme.head.document))) for one in done if one.study]


def others_of(scheme: Scheme, patience: float) -> tuple[list[Other], list[str]]:
    """The other schemes of the project that have figures, and the letters of those that are still computed after all the patience."""
    rest = list(Scheme.objects.filter(project=scheme.project_id, deleted=None).exclude(pk=scheme.pk).select_related("head"))
    # All are begun before the first is waited for.
    for one in rest:
        evaluator.ask(one.head.document, one.pk, 0.0)
    until = time.monotonic() + patience
    own = Design.read(scheme.head.document)
    found, missing = [], []
    for one in rest:
        evaluated = evaluator.ask(one.head.document, one.pk, max(until - time.monotonic(), 0.0))
        if evaluated.state == "pending":
            missing.append(one.letter)
        elif evaluated.evaluation.headline is not None:
            figures = {figure.key: figure.value for figure in evaluated.evaluation.figures}
            found.append(Other(title_of(one), figures, differences(own, Design.read(one.head.document))))
    return found, missing


def scheme_address(request: Request, scheme: Scheme) -> str:
    """Where the scheme is opened, as it stands on paper."""
    return request.build_absolute_uri(f"/projects/{scheme.project_id}/{scheme.pk}")
