"""Server-sent events: that a scheme was revised, figures that have followed, and how long work of the user goes on."""

import asyncio
import json
import threading
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import suppress

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse
from rest_framework.request import Request

from noontide.server.accounts.authentication import LocalUser
from noontide.server.jobs import running
from noontide.server.jobs.models import Job
from noontide.server.problems import as_response
from noontide.server.projects.evaluator import Evaluated, evaluator
from noontide.server.projects.models import Scheme
from noontide.server.request_threads import let_thread_go

SILENCE = 5.0  # s, after which an event says that the server is there
MOST_WAITING = 64

Listener = tuple[asyncio.AbstractEventLoop, "asyncio.Queue[tuple[str, dict]]"]
_listeners: dict[int, set[Listener]] = defaultdict(set)
_of_user: dict[int | None, set[Listener]] = defaultdict(set)
_lock = threading.Lock()


def announce(scheme: int, name: str, data: dict) -> None:
    """Tell all pages that show a scheme; called from any thread."""
    with _lock:
        listeners = list(_listeners.get(scheme, ()))
    _send(listeners, name, data)


def _send(listeners: list[Listener], name: str, data: dict) -> None:
    for loop, queue in listeners:
        with suppress(RuntimeError):  # its loop has ended with the server
            loop.call_soon_threadsafe(_put, queue, (name, data))


def announce_revision(scheme: int, revision: int) -> None:
    """A scheme stands at another revision now."""
    announce(scheme, "revised", {"revision": revision})


def _announce_figures(scheme: int, found: Evaluated) -> None:
    if scheme and found.state != "pending":
        announce(scheme, "evaluated", {"key": found.key, "state": found.state})


def _announce_job(job: Job) -> None:
    """Tell all pages of the owner how a job goes on; what it found is asked for."""
    with _lock:
        listeners = list(_of_user.get(job.owner_id, ()))
    news = {"id": str(job.pk), "kind": job.kind, "state": job.state, "progress": job.progress, "message": job.message}
    _send(listeners, "job", news)


evaluator.listen(_announce_figures)
running.listen(_announce_job)


async def events(request: HttpRequest, scheme_id: int) -> HttpResponseBase:
    """A stream of events, until the page goes away."""
    # In one of few threads that all requests share: hundreds of pages that open at once open no hundred connections.
    user = await sync_to_async(_who_may_see, thread_sensitive=False)(request, scheme_id)
    let_thread_go()
    if user is None:
        return as_response(404, "not-found", "Not found")
    return StreamingHttpResponse(
        _stream(scheme_id, user),
        content_type="text/event-stream",
        # A compressed stream would wait for a full block.
        headers={"Cache-Control": "no-store", "Content-Encoding": "identity", "X-Accel-Buffering": "no"},
    )


async def _stream(scheme_id: int, user: int) -> AsyncIterator[bytes]:
    queue: asyncio.Queue[tuple[str, dict]] = asyncio.Queue(MOST_WAITING)
    mine: Listener = (asyncio.get_running_loop(), queue)
    with _lock:
        _listeners[scheme_id].add(mine)
        _of_user[user].add(mine)
    try:
        yield b"retry: 2000\n\n"
        # What happened between the page's reading of the scheme and this stream, or while the stream was broken, is told by where it stands now.
        head = await sync_to_async(_head, thread_sensitive=False)(scheme_id)
        if head is not None:
            yield _event("revised", {"revision": head})
        while True:
            try:
                yield _event(*await asyncio.wait_for(queue.get(), SILENCE))
            except TimeoutError:
                yield b"event: alive\ndata: {}\n\n"
    finally:
        with _lock:
            for some, key in ((_listeners, scheme_id), (_of_user, user)):
                some[key].discard(mine)
                if not some[key]:
                    del some[key]


def _event(name: str, data: dict) -> bytes:
    return f"event: {name}\ndata: {json.dumps(data)}\n\n".encode()


def _put(queue: "asyncio.Queue[tuple[str, dict]]", item: tuple[str, dict]) -> None:
    if queue.full():
        queue.get_nowait()
    queue.put_nowait(item)


def _head(scheme_id: int) -> int | None:
    try:
        return Scheme.objects.filter(pk=scheme_id).values_list("head__number", flat=True).first()
    finally:
        connection.close()


def _who_may_see(request: HttpRequest, scheme_id: int) -> int | None:
    """The user that asks, where the scheme is visible to them."""
    try:
        user, _ = LocalUser().authenticate(Request(request))
        visible = Scheme.objects.visible_to(user)
        return user.pk if visible.filter(pk=scheme_id, deleted=None, project__deleted=None).exists() else None
    finally:
        connection.close()  # the thread ends, and its connection with it
