"""Work in processes of their own: whatever becomes of it, it ends in words, soon, and the next goes on."""

import os
import time

import pytest
from django.db.models import QuerySet

from noontide.core.weather import WeatherFileError
from noontide.server.accounts.models import local_user
from noontide.server.apart import Died, TooLarge, TooLong, run_apart
from noontide.server.jobs import kinds
from noontide.server.jobs.models import Job
from noontide.server.jobs.running import cancel, start
from noontide.server.problems import Problem
from tests.server import work_apart

LIMITS = {"seconds": 20.0, "megabytes": 300}
ENDED = (Job.State.DONE, Job.State.FAILED, Job.State.CANCELLED)


def is_alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


def wait_until(is_so, seconds: float = 15.0) -> float:
    begun = time.monotonic()
    while not is_so():
        assert time.monotonic() - begun < seconds
        time.sleep(0.05)
    return time.monotonic() - begun


def test_a_result_and_its_progress_come_back():
    told = []
    assert run_apart(work_apart.double, {"number": 4}, hear=lambda *said: told.append(said), **LIMITS) == {"twice": 8}
    assert told == [(0.5, "half")]


def test_errors_come_back_as_they_were_raised():
    with pytest.raises(WeatherFileError) as raised:
        run_apart(work_apart.refuse, {}, **LIMITS)
    assert (raised.value.row, raised.value.value) == (3, "x")
    with pytest.raises(Problem) as problem:
        run_apart(work_apart.refuse, {"problem": True}, **LIMITS)
    assert (problem.value.status, problem.value.detail, problem.value.errors) == (409, "In words.", [{"pointer": "/a", "detail": "In words."}])  # fmt: skip


def test_more_memory_than_is_allowed_is_refused_and_the_next_goes_on():
    with pytest.raises(TooLarge, match="300 MB"):
        run_apart(work_apart.take_memory, {"doubles": 10**9}, **LIMITS)
    assert run_apart(work_apart.take_memory, {"doubles": 10**6}, **LIMITS) == {"sum": 1e6}


def test_what_takes_too_long_is_ended_with_its_process(tmp_path):
    note = tmp_path / "pid"
    with pytest.raises(TooLong, match="2 s"):
        run_apart(work_apart.take_time, {"pid": str(note)}, seconds=2.0, megabytes=300)
    wait_until(lambda: not is_alive(int(note.read_text())))


@pytest.mark.parametrize("work", [work_apart.be_killed, work_apart.freeze])
def test_a_process_that_dies_or_freezes_is_told_within_ten_seconds(work):
    begun = time.monotonic()
    with pytest.raises(Died):
        run_apart(work, {}, seconds=60.0, megabytes=300)
    assert time.monotonic() - begun < 10


@pytest.fixture
def kind(monkeypatch):
    """A kind of heavy job of each kind of work."""
    monkeypatch.setattr(kinds, "_KINDS", dict(kinds._KINDS))
    for name in ("double", "be_killed", "take_time"):
        kinds.job_kind(name, is_heavy=True)(getattr(work_apart, name))


@pytest.mark.django_db(transaction=True)
def test_the_job_after_a_killed_worker_runs(kind):
    killed, next_one = start("be_killed", {}, local_user()), start("double", {"number": 2}, local_user())
    wait_until(lambda: Job.objects.get(pk=next_one.pk).state in ENDED)
    killed.refresh_from_db()
    next_one.refresh_from_db()
    assert killed.state == Job.State.FAILED
    assert "signal 9" in killed.message and "Run it again" in killed.message
    assert next_one.result == {"twice": 4}


@pytest.mark.django_db(transaction=True)
def test_a_cancelled_job_ends_its_process_at_once(kind, tmp_path):
    note = tmp_path / "pid"
    job = start("take_time", {"pid": str(note)}, local_user())
    wait_until(lambda: note.exists() and note.read_text())
    cancel(job)
    assert wait_until(lambda: not is_alive(int(note.read_text()))) < 1
    job.refresh_from_db()
    assert job.state == Job.State.CANCELLED


@pytest.mark.django_db
@pytest.mark.parametrize("state", [Job.State.WAITING, Job.State.DONE])
def test_a_job_whose_row_goes_while_it_is_cancelled_is_answered(kind, state, monkeypatch):
    job = Job.objects.create(kind="double", owner=local_user(), state=state)
    changed = QuerySet.update

    def change_and_lose(rows, **values):
        count = changed(rows, **values)
        Job.objects.filter(pk=job.pk).delete()
        return count

    monkeypatch.setattr(QuerySet, "update", change_and_lose)
    assert cancel(job).state == (Job.State.CANCELLED if state == Job.State.WAITING else state)


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("address", ["tcp://127.0.0.1:9"])
def test_a_scheduler_that_is_not_there_is_told(kind, monkeypatch, address):
    monkeypatch.setenv("NOONTIDE_DASK_SCHEDULER", address)
    job = start("double", {"number": 1}, local_user())
    wait_until(lambda: Job.objects.get(pk=job.pk).state in ENDED)
    job.refresh_from_db()
    assert job.state == Job.State.FAILED
    assert "cheduler" in job.message
