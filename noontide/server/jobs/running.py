"""Running jobs: queued, told about their progress, cancelled at once, and ended in words whatever becomes of their worker.

Work that waits for others runs in threads; work that computes is a pure function of all that it needs, and runs in a process of its own, or
on a Dask scheduler where one is named (`NOONTIDE_DASK_SCHEDULER`). Only the server writes the database.
"""

import logging
import multiprocessing
import os
import pickle
import time
from collections.abc import Callable
from concurrent.futures import Executor, ThreadPoolExecutor
from functools import cache
from multiprocessing.connection import Connection
from threading import Lock
from typing import TYPE_CHECKING, Any

from django.db import close_old_connections, connection
from django.utils import timezone

from noontide.server.apart import Died, NotFinished, Stopped, run_apart
from noontide.server.jobs.kinds import Kind, Report, kind_named
from noontide.server.jobs.on_worker import carry_out

if TYPE_CHECKING:
    from noontide.server.accounts.models import User
    from noontide.server.jobs.models import Job

logger = logging.getLogger(__name__)
INTERRUPTED = "Interrupted by a server restart. Run it again."
LONGEST = 6 * 3600.0  # s of a job that computes
MEGABYTES = int(os.environ.get("NOONTIDE_JOB_MB", "4096"))
NEWS_APART = 0.1  # s between two words about its progress
GONE = 8.0  # s without a scheduler, after which it counts as gone
_stops: dict[str, Connection] = {}
_lock = Lock()
_listeners: list[Callable[["Job"], None]] = []


class Cancelled(Exception):
    """The job was cancelled while it ran."""


def listen(listener: Callable[["Job"], None]) -> None:
    """Call a function whenever a job has begun, gone on or ended; from any thread."""
    _listeners.append(listener)


def start(kind: str, asked: Any, owner: "User") -> "Job":
    """Queue a job of a registered kind."""
    from noontide.server.jobs.models import Job

    known = kind_named(kind)
    job = Job.objects.create(kind=kind, parameters=known.asked.dump_python(asked, mode="json"), owner=owner)
    _executor(known.is_heavy).submit(run_stored, str(job.pk))
    return job


def cancel(job: "Job") -> "Job":
    """Cancel a job that has not ended, its process with it; one that has is left as it is."""
    under_way = [job.State.WAITING, job.State.RUNNING]
    end = {"state": job.State.CANCELLED, "finished": timezone.now(), "message": "Cancelled."}
    was_under_way = type(job).objects.filter(pk=job.pk, state__in=under_way).update(**end)
    with _lock:
        if (stop := _stops.get(str(job.pk))) is not None:
            stop.send(True)
    # The next work of its scheme may have taken its row away meanwhile: what is known of it is said then.
    if (now := type(job).objects.filter(pk=job.pk).first()) is not None:
        job = now
    elif was_under_way:
        job.state, job.finished, job.message = end.values()
    _tell(job)
    return job


def mark_interrupted() -> int:
    """At the start of the server, which alone has the data folder: jobs under way before were interrupted."""
    from noontide.server.jobs.models import Job

    return Job.objects.filter(state__in=[Job.State.WAITING, Job.State.RUNNING]).update(
        state=Job.State.INTERRUPTED, finished=timezone.now(), message=INTERRUPTED
    )


def run_stored(pk: str) -> None:
    """Run a stored job, watched from where this function is called."""
    from noontide.server.jobs.models import Job

    close_old_connections()
    stop, ours = multiprocessing.Pipe(duplex=False)
    try:
        if not Job.objects.filter(pk=pk, state=Job.State.WAITING).update(state=Job.State.RUNNING):
            return
        with _lock:
            _stops[pk] = ours

        job = Job.objects.get(pk=pk)
        _tell(job)
        told = time.monotonic()

        def report(progress: float, message: str) -> None:
            nonlocal told
            if not Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(progress=progress, message=message[:300]):
                raise Cancelled
            if time.monotonic() - told >= NEWS_APART:
                told = time.monotonic()
                job.progress, job.message = progress, message[:300]
                _tell(job)

        kind = kind_named(job.kind)
        found = _carried_out(kind, kind.asked.validate_python(job.parameters), report, stop)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.DONE, progress=1.0, result=kind.found.dump_python(found, mode="json"), finished=timezone.now()
        )
    except (Cancelled, Stopped):
        pass
    except Exception as error:  # the job's row is where its failure is shown
        logger.exception("job %s failed", pk)
        words = f"The work was ended. {error} Run it again." if isinstance(error, NotFinished) else str(error)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.FAILED, message=words[:300], finished=timezone.now()
        )
    finally:
        with _lock:
            _stops.pop(pk, None)
        ours.close()
        stop.close()
        if (ended := Job.objects.filter(pk=pk).first()) is not None:
            _tell(ended)
        connection.close()


def _tell(job: "Job") -> None:
    for listener in _listeners:
        listener(job)


def _carried_out(kind: Kind, asked: Any, report: Report, stop: Connection) -> Any:
    given = kind.gather(asked) if kind.gather is not None else asked
    if not kind.is_heavy:
        return kind.work(given, report)
    if scheduler := os.environ.get("NOONTIDE_DASK_SCHEDULER"):
        return _on_dask(scheduler, kind, given, stop)
    return run_apart(kind.work, given, seconds=LONGEST, megabytes=MEGABYTES, hear=report, stop=stop)


def _on_dask(scheduler: str, kind: Kind, given: Any, stop: Connection) -> Any:
    """The result from a worker that shares neither disk nor database with the server; its progress stays with it."""
    try:
        from distributed import Client
    except ImportError:
        raise Died(
            "NOONTIDE_DASK_SCHEDULER names a scheduler, and 'distributed' is not installed: install noontide[cluster]."
        ) from None
    try:
        client = Client(scheduler, timeout=GONE)
    except OSError as error:
        raise Died(f"The Dask scheduler at {scheduler} is not there ({str(error)[:120]}).") from error
    try:
        future = client.submit(
            carry_out, kind.work.__module__, kind.work.__qualname__, pickle.dumps(given), pure=False, retries=0
        )
        last = time.monotonic()
        while not future.done():
            if stop.poll(0.25):
                future.cancel()
                raise Stopped("Cancelled.")
            if client.status == "running":
                last = time.monotonic()
            elif time.monotonic() - last > GONE:
                raise Died(f"The Dask scheduler at {scheduler} is gone.")
        return future.result(timeout=GONE)
    finally:
        client.close(timeout=2)


@cache
def _executor(is_heavy: bool) -> Executor:
    """Threads that wait: for services, or for the processes in which work is done."""
    if not is_heavy:
        return ThreadPoolExecutor(max_workers=4, thread_name_prefix="job")
    return ThreadPoolExecutor(max_workers=max(1, (os.cpu_count() or 2) - 1), thread_name_prefix="watch")
