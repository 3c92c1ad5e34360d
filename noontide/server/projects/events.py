"""Server-sent events of a scheme: that it was revised, and figures that have followed."""

import asyncio
import json
import threading
from collections import defaultdict
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.db import connection
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse
from rest_framework.request import Request

from noontide.server.accounts.authentication import LocalUser
from noontide.server.problems import as_response
from noontide.server.projects.evaluator import Evaluated, evaluator
from noontide.server.projects.models import Scheme
from noontide.server.request_threads import let_thread_go

SILENCE = 5.0  # s, after which an event says that the server is there
MOST_WAITING = 64

Listener = tuple[asyncio.AbstractEventLoop, "asyncio.Queue[tuple[str, dict]]"]
_listeners: dict[int, set[Listener]] = defaultdict(set)
_lock = threading.Lock()


def announce(scheme: int, name: str, data: dict) -> None:
    """Tell all pages that show a scheme; called from any thread."""
    with _lock:
        listeners = list(_listeners.get(scheme, ()))
    for loop, queue in listeners:
        loop.call_soon_threadsafe(_put, queue, (name, data))


def announce_revision(scheme: int, revision: int) -> None:
    """A scheme stands at another revision now."""
    announce(scheme, "revised", {"revision": revision})


def _announce_figures(scheme: int, found: Evaluated) -> None:
    if scheme and found.state != "pending":
        announce(scheme, "evaluated", {"key": found.key, "state": found.state})


evaluator.listen(_announce_figures)


async def events(request: HttpRequest, scheme_id: int) -> HttpResponseBase:
    """A stream of events, until the page goes away."""
    # In one of few threads that all requests share: hundreds of pages that open at once open no hundred connections.
    is_visible = await sync_to_async(_is_visible, thread_sensitive=False)(request, scheme_id)
    let_thread_go()
    if not is_visible:
        return as_response(404, "not-found", "Not found")
    return StreamingHttpResponse(
        _stream(scheme_id),
        content_type="text/event-stream",
        # A compressed stream would wait for a full block.
        headers={"Cache-Control": "no-store", "Content-Encoding": "identity", "X-Accel-Buffering": "no"},
    )


async def _stream(scheme_id: int) -> AsyncIterator[bytes]:
    queue: asyncio.Queue[tuple[str, dict]] = asyncio.Queue(MOST_WAITING)
    mine: Listener = (asyncio.get_running_loop(), queue)
    with _lock:
        _listeners[scheme_id].add(mine)
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
            _listeners[scheme_id].discard(mine)
            if not _listeners[scheme_id]:
                del _listeners[scheme_id]


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


def _is_visible(request: HttpRequest, scheme_id: int) -> bool:
    try:
        user, _ = LocalUser().authenticate(Request(request))
        visible = Scheme.objects.visible_to(user)
        return visible.filter(pk=scheme_id, deleted=None, project__deleted=None).exists()
    finally:
        connection.close()  # the thread ends, and its connection with it
