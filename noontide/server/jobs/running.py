"""Running jobs: queued on an executor, told about their progress, cancelled between steps.

The work of today waits for other services, so threads carry it; heavy computation would take a process pool behind
the same `Executor` interface.
"""

import logging
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from django.db import close_old_connections, connection
from django.utils import timezone

from noontide.server.jobs.models import Job

Report = Callable[[float, str], None]
logger = logging.getLogger(__name__)
_executor = ThreadPoolExecutor(max_workers=2, thread_name_prefix="job")


class Cancelled(Exception):
    """The job was cancelled while it ran."""


def start(kind: str, parameters: dict, work: Callable[[Report], dict]) -> Job:
    """Queue work; `work` is given a function to report progress with and returns the result."""
    job = Job.objects.create(kind=kind, parameters=parameters)
    _executor.submit(_run, job.pk, work)
    return job


def cancel(job: Job) -> Job:
    """Cancel a job that has not ended; one that has is left as it is."""
    Job.objects.filter(pk=job.pk, state__in=[Job.State.WAITING, Job.State.RUNNING]).update(
        state=Job.State.CANCELLED, finished=timezone.now(), message="Cancelled."
    )
    job.refresh_from_db()
    return job


def mark_interrupted() -> int:
    """At the start of the server: whatever was under way before is told to have been interrupted."""
    return Job.objects.filter(state__in=[Job.State.WAITING, Job.State.RUNNING]).update(
        state=Job.State.INTERRUPTED, finished=timezone.now(), message="The server stopped meanwhile. Start it again."
    )


def _run(pk: object, work: Callable[[Report], dict]) -> None:
    close_old_connections()
    try:
        if not Job.objects.filter(pk=pk, state=Job.State.WAITING).update(state=Job.State.RUNNING):
            return

        def report(progress: float, message: str) -> None:
            if not Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(progress=progress, message=message):
                raise Cancelled

        result = work(report)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.DONE, progress=1.0, result=result, finished=timezone.now()
        )
    except Cancelled:
        pass
    except Exception as error:  # the job's row is where its failure is told
        logger.exception("job %s failed", pk)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.FAILED, message=str(error)[:300], finished=timezone.now()
        )
    finally:
        connection.close()
