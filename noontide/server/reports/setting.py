"""Setting a report of a scheme: what stands on it besides the design, and the other schemes beside it."""

import hashlib
import time
from collections.abc import Callable, Sequence
from datetime import datetime

from pydantic import BaseModel, Field

from noontide.core.fields import Line
from noontide.core.report import About, Other, Report, UnknownPage, report_of
from noontide.server.accounts.models import User
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_key import canonical
from noontide.server.projects.evaluator import evaluator, results_for
from noontide.server.projects.models import Revision, Scheme
from noontide.server.projects.stages import STAGES
from noontide.server.reports.models import Letterhead

PATIENCE_WITH_OTHERS = 1.0  # s, for schemes that have not been looked at since they were changed; all of them together


class LetterheadLine(BaseModel):
    """Who one's reports are from, and the words under the figures of their first page."""

    sender: Line = Field("", max_length=120)
    contact: Line = Field("", max_length=200)
    closing: str = Field("", max_length=2000)


def letterhead_of(user: User) -> LetterheadLine:
    """Who the reports of a user are from."""
    mine = Letterhead.objects.visible_to(user).first()
    return LetterheadLine() if mine is None else LetterheadLine(sender=mine.sender, contact=mine.contact, closing=mine.closing)


def title_of(scheme: Scheme) -> str:
    """Letter and name."""
    assert scheme.head is not None, "a scheme has a head from its first moment on"
    return f"{scheme.letter}, {scheme.head.document.get('name', '')}".rstrip(", ")


def about_of(
    project: str, customer: str, scheme: str, revision: int, made: datetime, document: dict, head_of: LetterheadLine
) -> About:
    """What a report says of a revision, and who it is from."""
    return About(
        project=project,
        customer=customer,
        scheme=scheme,
        revision=f"revision {revision}, {made.day} {made:%B %Y}",
        digest=hashlib.sha256(canonical(document)).hexdigest(),
        sender=head_of.sender,
        contact=head_of.contact,
        closing=head_of.closing,
    )


def set_report(
    scheme: Scheme,
    head: Revision,
    user: User,
    pages: Sequence[str],
    paper: str,
    patience: float = PATIENCE_WITH_OTHERS,
    told: Callable[[int, int, str], None] | None = None,
) -> tuple[Report, list[str]]:
    """The report of a revision, and the other schemes whose figures it would show and that were not there in time.

    Raises
    ------
    Problem
        If a page or the paper is not known, or the design cannot be simulated.
    """
    project = scheme.project
    about = about_of(
        project.name, project.customer, title_of(scheme), head.number, head.created, head.document, letterhead_of(user)
    )
    others, missing = others_of(scheme, patience) if "schemes" in pages else ([], [])
    try:
        return report_of(results_for(head.document), about, pages, paper, STAGES, others, told), missing
    except UnknownPage as error:
        raise Problem(422, "unknown-page", "This report cannot be made", str(error)) from None


def others_of(scheme: Scheme, patience: float) -> tuple[list[Other], list[str]]:
    """The other schemes of the project that have figures, and the letters of those that are still computed after all the patience."""
    rest = list(Scheme.objects.filter(project=scheme.project_id, deleted=None).exclude(pk=scheme.pk).select_related("head"))
    # All are begun before the first is waited for.
    for one in rest:
        evaluator.ask(one.head.document, one.pk, 0.0)
    until = time.monotonic() + patience
    found, missing = [], []
    for one in rest:
        evaluated = evaluator.ask(one.head.document, one.pk, max(until - time.monotonic(), 0.0))
        if evaluated.state == "pending":
            missing.append(one.letter)
        elif evaluated.evaluation.headline is not None:
            found.append(Other(title_of(one), {figure.key: figure.value for figure in evaluated.evaluation.figures}))
    return found, missing
