"""Trials as a job: the server hands out chunks and alone writes what comes back."""

import os
import threading
import time

from pydantic import BaseModel

from noontide.carried import load_of
from noontide.core.design import Design
from noontide.core.fields import in_one_line
from noontide.core.trials import Course, Run, Study, plan_of
from noontide.server.accounts.models import User
from noontide.server.apart import context
from noontide.server.jobs.kinds import Report, job_kind
from noontide.server.jobs.running import Cancelled
from noontide.server.projects.libraries import libraries_of
from noontide.server.trials.keeping import AskedTrials, keep_runs, table_of
from noontide.server.trials.models import TrialSet
from noontide.trying import Here, Lanes, Pace, spread

WRITTEN_EVERY = 0.4  # s between two writings of runs
MOST_AT_ONCE = 5_000  # runs of one writing
MOST_PROCESSES = 8
POLITE = 12  # an edit that somebody waits for goes before
LOOK_EVERY = 0.5  # s between two looks whether it was cancelled


class TrialsFound(BaseModel):
    """What came of it; the runs are the set's."""

    set: int
    runs: int
    failed: int
    seconds: float
    seconds_a_run: float
    sent_bytes: int
    received_bytes: int


@job_kind("trials")
def run_trials(asked: AskedTrials, report: Report) -> TrialsFound:
    """Run what is missing of a set."""
    trial = TrialSet.objects.get(pk=asked.set)
    pace = Pace()
    try:
        _run(trial, asked.owner, report, pace)
        _end(trial, TrialSet.State.DONE, "")
    except Cancelled:
        raise
    except Exception as error:
        _end(trial, TrialSet.State.FAILED, in_one_line(error))
        raise
    trial.refresh_from_db()
    return TrialsFound(
        set=trial.pk, runs=trial.done, failed=trial.failed, seconds=trial.seconds, seconds_a_run=pace.seconds_a_run,
        sent_bytes=pace.sent_bytes, received_bytes=pace.received_bytes,
    )  # fmt: skip


def _run(trial: TrialSet, owner: int, report: Report, pace: Pace) -> None:
    began = time.monotonic()
    design = Design.read(trial.document)
    libraries = libraries_of(design, User.objects.get(pk=owner))
    plan, _ = plan_of(Study.model_validate(trial.study), design, libraries)
    table = table_of(trial)
    is_search = plan.study.way == "search"
    known = {int(number): table.run(place) if is_search else None for place, number in enumerate(table.numbers)}
    course = Course(plan, known)  # type: ignore[arg-type]
    done, failed = len(known), int((~table.is_done).sum())
    waiting: list[Run] = []
    written = looked = time.monotonic()
    stop, said = threading.Event(), ""

    def write() -> None:
        nonlocal written
        if waiting:
            keep_runs(trial, waiting)
            waiting.clear()
        seconds = trial.seconds + time.monotonic() - began
        TrialSet.objects.filter(pk=trial.pk).update(done=done, failed=failed, total=max(course.count, done), seconds=seconds)
        written = time.monotonic()

    def is_stopped() -> bool:
        nonlocal looked, said
        if time.monotonic() - looked > LOOK_EVERY:
            looked = time.monotonic()
            if (words := lanes.waits_for) != said:
                said = words
                TrialSet.objects.filter(pk=trial.pk).update(message=words[:300])
                report(done / max(course.count, 1), words or "Workers have come")
            if not TrialSet.objects.filter(pk=trial.pk, state=TrialSet.State.RUNNING).exists():
                stop.set()
        return stop.is_set()

    lanes = lanes_here()
    try:
        for runs in spread(course, load_of(plan, libraries), lanes, pace, is_stopped):
            waiting += runs
            done += len(runs)
            failed += sum(one.state == "failed" for one in runs)
            if time.monotonic() - written > WRITTEN_EVERY or len(waiting) >= MOST_AT_ONCE:
                write()
                report(done / max(course.count, 1), f"{done:,} of {course.count:,} runs")
        if stop.is_set():
            raise Cancelled
    finally:
        lanes.shutdown()
        if TrialSet.objects.filter(pk=trial.pk).exists():
            write()


def lanes_here() -> Lanes:
    """Processes of this machine, or the workers of a scheduler where one is named."""
    if address := os.environ.get("NOONTIDE_DASK_SCHEDULER"):
        from noontide.cluster import DaskLanes

        return DaskLanes(address)
    count = int(os.environ.get("NOONTIDE_TRIAL_PROCESSES", "0")) or min(os.cpu_count() or 1, MOST_PROCESSES)
    return Here(count, context=context(), niceness=POLITE)


def _end(trial: TrialSet, state: TrialSet.State, words: str) -> None:
    # One that was paused or cancelled meanwhile stays so.
    TrialSet.objects.filter(pk=trial.pk, state=TrialSet.State.RUNNING).update(state=state, message=words[:300])
