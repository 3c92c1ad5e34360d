"""The one place that writes sets of trials: drafts, their beginning, pausing and end, and the schemes that come of runs."""

from collections import OrderedDict
from collections.abc import Sequence
from threading import Lock
from uuid import UUID

from django.db import transaction
from pydantic import BaseModel, ValidationError

from noontide.core.design import Design, difference, freeze
from noontide.core.fields import first_fault
from noontide.core.simulation import IncompleteDesign, Libraries
from noontide.core.trials import Plan, Run, Study, StudyError, plan_of, variant
from noontide.core.trials.comparing import short_names
from noontide.core.trials.runs_table import RunColumns, RunsTable
from noontide.core.verbs.catalogue import ImpossibleAct
from noontide.server.accounts.models import User
from noontide.server.jobs import running as jobs
from noontide.server.jobs.models import Job
from noontide.server.parts_library.library import library_of
from noontide.server.problems import Problem
from noontide.server.projects import revising
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.models import Scheme
from noontide.server.trials.loosen import Loosening, loosened
from noontide.server.trials.models import TrialChunk, TrialSet


class AskedTrials(BaseModel):
    """A set that is to be run, and by whom."""

    set: int
    owner: int


MOST_SETS = 60  # of a scheme
KEPT_TABLES = 128 * 1024**2  # bytes of runs in memory
IGNORED = ("name", "views")  # rooms of the document that no figure depends on
_tables: OrderedDict[tuple[UUID, int], RunsTable] = OrderedDict()
_lock = Lock()


def study_problem(error: StudyError | ValidationError) -> Problem:
    """What is wrong with a study, with a pointer into it."""
    if isinstance(error, StudyError):
        return Problem(422, "impossible-study", "This study cannot be run", str(error), error.pointer)
    words = first_fault(error)
    pointer, _, said = words.partition(": ")
    return Problem(422, "impossible-study", "This study cannot be run", said, pointer)


def draft_of(scheme: Scheme) -> TrialSet | None:
    """The draft of a scheme, if there is one."""
    return scheme.trials.filter(state=TrialSet.State.DRAFT).first()  # type: ignore[attr-defined]


@transaction.atomic
def loosen(scheme: Scheme, asked: Loosening, base: TrialSet | None, user: User) -> TrialSet:
    """Let a value loose in the draft of a scheme, or hold some again; where there is no draft it begins with the study of `base`.

    Raises
    ------
    Problem
        If there is no such value, or it cannot be let loose.
    """
    draft = draft_of(scheme)
    begun = draft.study if draft is not None else base.study if base is not None else None
    study = Study.model_validate(begun) if begun else None
    try:
        study = loosened(study, asked, Design.read(scheme.head.document), library_of(user))
    except (StudyError, ValidationError) as error:
        raise study_problem(error) from None
    return _written(draft, study) if draft is not None else _begun(scheme, study)


@transaction.atomic
def begin(scheme: Scheme, document: dict) -> TrialSet:
    """A draft of a whole study; the draft that there was goes into the list of what can be taken up again.

    Raises
    ------
    Problem
        If it is no study.
    """
    if scheme.trials.count() >= MOST_SETS:  # type: ignore[attr-defined]
        raise Problem(409, "too-many", "There are too many trials", f"{MOST_SETS} sets are kept of a scheme. Delete some first.")
    study = _read(document)
    return _begun(scheme, study)


@transaction.atomic
def rewrite(trial: TrialSet, document: dict | None) -> TrialSet:
    """Another study in place of a draft's; of a set that was run a new draft is made, and its runs stay.

    Raises
    ------
    Problem
        If it is no study.
    """
    study = _read(document) if document is not None else None
    if trial.state == TrialSet.State.DRAFT:
        return _written(trial, study)
    if study is not None and _has_same_runs(trial, study):
        forget(trial)
        return _written(trial, study)
    draft = draft_of(trial.scheme)
    return _written(draft, study) if draft is not None else _begun(trial.scheme, study)


def start(trial: TrialSet, user: User, anew: bool = False) -> TrialSet:
    """Run what is not yet run; `anew` all of it, on the design as it is now.

    Raises
    ------
    Problem
        If it is under way, or cannot be run: nothing is begun then.
    """
    now = trial.scheme.head
    document = now.document if anew or trial.state == TrialSet.State.DRAFT else trial.document
    plan = planned(trial.study, document, user)[0]
    with transaction.atomic():
        # Locked by the first write: two who begin it at once begin it once.
        if not TrialSet.objects.filter(pk=trial.pk).exclude(pk__in=under_way()).update(state=TrialSet.State.RUNNING, message=""):
            raise Problem(409, "under-way", "These trials are running", "Pause them first.")
        if document is not trial.document:
            TrialChunk.objects.filter(set=trial).delete()
            trial.done = trial.failed = 0
            trial.seconds = 0.0
        trial.document, trial.state, trial.total, trial.message = document, TrialSet.State.RUNNING, plan.count, ""
        if document is now.document:
            trial.revision = now.number
        if trial.job is not None:
            Job.objects.filter(pk=trial.job).delete()
        trial.job = None
        trial.save()
    job = jobs.start("trials", AskedTrials(set=trial.pk, owner=user.pk), user)
    TrialSet.objects.filter(pk=trial.pk).update(job=job.pk)
    trial.refresh_from_db()
    return trial


def stop(trial: TrialSet, state: TrialSet.State) -> TrialSet:
    """Pause or cancel what is under way; its runs stay."""
    words = "Paused." if state == TrialSet.State.PAUSED else "Cancelled."
    if TrialSet.objects.filter(pk=trial.pk, state=TrialSet.State.RUNNING).update(state=state, message=words):
        job = Job.objects.filter(pk=trial.job).first()
        if job is not None:
            jobs.cancel(job)
    trial.refresh_from_db()
    return trial


def delete(trial: TrialSet) -> None:
    """Delete a set with its runs."""
    stop(trial, TrialSet.State.CANCELLED)
    trial.delete()


@transaction.atomic
def adopt(trial: TrialSet, number: int, is_pinned: bool, user: User) -> Scheme:
    """The design of a run as a scheme of its project, pinned where asked.

    Raises
    ------
    Problem
        If there is no such run, or its design could not be made.
    """
    table = table_of(trial)
    place = table.place(number)
    if place is None:
        raise Problem(404, "not-found", "No such run", f"These trials have no run {number}.")
    one = table.run(place)
    try:
        base = Design.read(trial.document)
        design = variant(base, table.study, one.values, libraries_of(base, user))
    except (ValidationError, ImpossibleAct, ValueError) as error:
        raise Problem(422, "impossible-act", "This run has no design", one.error or str(error)) from None
    document = design.as_kept() | {"name": name_of(table.study, one.number, one.values)}
    scheme = revising.begin_scheme(trial.scheme.project, freeze(document, library_of(user)), user)
    if is_pinned:
        revising.pin(scheme)
    return scheme


def name_of(study: Study, number: int, values: dict) -> str:
    """What a run is called as a scheme."""
    names = short_names(study)
    words = []
    for key, value in values.items():
        unit = study.loose[key].unit
        text = f"{value:.6g}" if isinstance(value, float) else str(value)
        words.append(f"{names[key]} {text}{unit if unit == '°' else f' {unit}' if unit else ''}")
    return f"Run {number}: {', '.join(words)}"[:120]


def planned(study: dict | None, document: dict, user: User) -> tuple[Plan, Libraries]:
    """The plan of a study over a document, with what its runs read.

    Raises
    ------
    Problem
        If nothing is loose, or the study cannot be run.
    """
    if not study:
        raise Problem(422, "impossible-study", "Nothing is loose", "Let a value of the Brief loose first.")
    design = Design.read(document)
    libraries = libraries_of(design, user)
    try:
        return plan_of(Study.model_validate(study), design, libraries)[0], libraries
    except (StudyError, ValidationError) as error:
        raise study_problem(error) from None
    except (IncompleteDesign, ValueError, LookupError) as error:
        raise Problem(422, "impossible-study", "This study cannot be run", str(error)) from None


def under_way() -> list[int]:
    """Sets whose job is waiting or running; one of a server that was ended is not."""
    going = Job.objects.filter(kind="trials", state__in=[Job.State.WAITING, Job.State.RUNNING]).values("pk")
    return list(TrialSet.objects.filter(state=TrialSet.State.RUNNING, job__in=going).values_list("pk", flat=True))


def changed_since(trial: TrialSet, document: dict) -> list[str]:
    """Rooms of a document that differ from that which was run."""
    return [room for room in difference(trial.document, document) if room not in IGNORED]


def table_of(trial: TrialSet) -> RunsTable:
    """All runs that a set has by now; kept in memory within a limit."""
    if not trial.study:
        raise Problem(409, "no-runs", "There are no runs", "Let a value loose, and begin the trials.")
    count = trial.chunks.count()  # type: ignore[attr-defined]
    newest = trial.chunks.values_list("pk", flat=True).last() or 0  # type: ignore[attr-defined]
    key = (trial.uid, newest)
    with _lock:
        if key in _tables:
            _tables.move_to_end(key)
            return _tables[key]
        before = next((table for (uid, _), table in _tables.items() if uid == trial.uid), None)
        known = next((last for uid, last in _tables if uid == trial.uid), 0)
    study = Study.model_validate(trial.study)
    is_more = before is not None and before.study == study and count > 0
    rows = trial.chunks.filter(pk__gt=known if is_more else 0)  # type: ignore[attr-defined]
    some = [RunColumns.from_bytes(bytes(row.body)) for row in rows]
    if is_more and before is not None:
        some.insert(0, before.columns)
    table = RunsTable(study, RunColumns.joined(study, some))
    with _lock:
        for old in [one for one in _tables if one[0] == trial.uid]:
            del _tables[old]
        _tables[key] = table
        while len(_tables) > 1 and sum(one.columns.bytes for one in _tables.values()) > KEPT_TABLES:
            _tables.popitem(last=False)
    return table


def keep_runs(trial: TrialSet, runs: Sequence[Run]) -> None:
    """Keep runs that came together."""
    study = Study.model_validate(trial.study)
    TrialChunk.objects.create(set=trial, body=RunColumns.of(study, runs).as_bytes())


def forget(trial: TrialSet) -> None:
    """Forget the runs of a set that are in memory."""
    with _lock:
        for old in [one for one in _tables if one[0] == trial.uid]:
            del _tables[old]


def _read(document: dict) -> Study:
    try:
        return Study.model_validate(document)
    except ValidationError as error:
        raise study_problem(error) from None


def _has_same_runs(trial: TrialSet, study: Study) -> bool:
    """Whether a study asks for the runs that there are: its name, aims and limits may be others, since runs have all figures."""
    free = {"name"} if study.way == "search" or study.figures else {"name", "aim", "also", "limits"}
    return Study.model_validate(trial.study).model_dump(exclude=free) == study.model_dump(exclude=free)


def _begun(scheme: Scheme, study: Study | None) -> TrialSet:
    return _written(TrialSet(scheme=scheme, document=scheme.head.document, revision=scheme.head.number), study)


def _written(trial: TrialSet, study: Study | None) -> TrialSet:
    trial.study = study.model_dump(mode="json", exclude_unset=True) if study is not None else None
    trial.name = study.name if study is not None else ""
    trial.save()
    return trial
