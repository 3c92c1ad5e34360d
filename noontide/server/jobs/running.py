"""Running jobs: queued on an executor, told about their progress, cancelled between steps.

Work that waits for others runs in threads; work that computes runs in processes, or on a Dask scheduler where one is named
(`NOONTIDE_DASK_SCHEDULER`). All are reached through `concurrent.futures.Executor`.
"""

import logging
import multiprocessing
import os
from concurrent.futures import Executor, ProcessPoolExecutor, ThreadPoolExecutor
from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING

from django.conf import settings
from django.db import close_old_connections, connection
from django.utils import timezone

from noontide.server.jobs.kinds import Kind, kind_named

if TYPE_CHECKING:
    from noontide.server.accounts.models import User
    from noontide.server.jobs.models import Job

logger = logging.getLogger(__name__)
INTERRUPTED = "Interrupted by a server restart. Run it again."


class Cancelled(Exception):
    """The job was cancelled while it ran."""


def start(kind: str, parameters: dict, owner: "User") -> "Job":
    """Queue a job of a registered kind."""
    from noontide.server.jobs.models import Job

    known = kind_named(kind)
    job = Job.objects.create(kind=kind, parameters=parameters, owner=owner)
    _executor(known.is_heavy).submit(run_stored, str(job.pk))
    return job


def cancel(job: "Job") -> "Job":
    """Cancel a job that has not ended; one that has is left as it is."""
    under_way = [job.State.WAITING, job.State.RUNNING]
    type(job).objects.filter(pk=job.pk, state__in=under_way).update(
        state=job.State.CANCELLED, finished=timezone.now(), message="Cancelled."
    )
    job.refresh_from_db()
    return job


def mark_interrupted() -> int:
    """At the start of the server, which alone has the data folder: jobs under way before were interrupted."""
    from noontide.server.jobs.models import Job

    return Job.objects.filter(state__in=[Job.State.WAITING, Job.State.RUNNING]).update(
        state=Job.State.INTERRUPTED, finished=timezone.now(), message=INTERRUPTED
    )


def run_stored(pk: str) -> None:
    """Run a stored job where this function is called: in a thread, another process, or on a worker."""
    import django
    from django.apps import apps

    if not apps.ready:
        django.setup()
    # A process of its own has not seen where the kinds are registered.
    for module in settings.JOB_MODULES:
        import_module(module)
    from noontide.server.jobs.models import Job

    close_old_connections()
    try:
        if not Job.objects.filter(pk=pk, state=Job.State.WAITING).update(state=Job.State.RUNNING):
            return

        def report(progress: float, message: str) -> None:
            if not Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(progress=progress, message=message[:300]):
                raise Cancelled

        job = Job.objects.get(pk=pk)
        kind: Kind = kind_named(job.kind)
        result = kind.work(job.parameters, report)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.DONE, progress=1.0, result=result, finished=timezone.now()
        )
    except Cancelled:
        pass
    except Exception as error:  # the job's row is where its failure is shown
        logger.exception("job %s failed", pk)
        Job.objects.filter(pk=pk, state=Job.State.RUNNING).update(
            state=Job.State.FAILED, message=str(error)[:300], finished=timezone.now()
        )
    finally:
        connection.close()


@cache
def _executor(is_heavy: bool) -> Executor:
    if not is_heavy:
        return ThreadPoolExecutor(max_workers=2, thread_name_prefix="job")
    if scheduler := os.environ.get("NOONTIDE_DASK_SCHEDULER"):
        from distributed import Client

        return Client(scheduler).get_executor()
    # A fresh interpreter: a fork would copy the server's threads and open files.
    return ProcessPoolExecutor(max_workers=max(1, (os.cpu_count() or 2) - 1), mp_context=multiprocessing.get_context("spawn"))
