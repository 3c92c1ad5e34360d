"""Sets of trials that come with a project of a file."""

from datetime import datetime

from django.utils import timezone

from noontide.core.exchange import KeptTrials
from noontide.server.projects.models import Scheme
from noontide.server.trials.models import TrialChunk, TrialSet


def bring_trials(scheme: Scheme, given: KeptTrials, document: dict) -> TrialSet:
    """A set of trials of a scheme, with its runs."""
    runs = given.runs
    trial = TrialSet.objects.create(
        scheme=scheme, name=given.study.name, study=given.study.model_dump(mode="json", exclude_unset=True), document=document,
        revision=given.revision, state=given.state, total=given.total, seconds=given.seconds,
        done=0 if runs is None else len(runs.numbers), failed=0 if runs is None else int((~runs.is_done).sum()),
    )  # fmt: skip
    if runs is not None and len(runs.numbers):
        TrialChunk.objects.create(set=trial, body=runs.as_bytes())
    if (made := moment_of(given.created)) is not None:
        # The clock of the row is set by the database when it is made.
        TrialSet.objects.filter(pk=trial.pk).update(created=made)
    return trial


def moment_of(text: str) -> datetime | None:
    """A moment of a file; None where it is none."""
    try:
        made = datetime.fromisoformat(text)
    except ValueError:
        return None
    return made if made.tzinfo else timezone.make_aware(made)
