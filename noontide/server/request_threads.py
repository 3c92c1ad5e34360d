"""The threads that requests run in: few, kept with their open connection to the database, and lent to one request at a time.

Django begins a thread for each request, and with it a connection; that took longer than most answers.
"""

from concurrent.futures import ThreadPoolExecutor
from contextvars import ContextVar

from asgiref.sync import SyncToAsync, ThreadSensitiveContext, iscoroutinefunction, sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.core.handlers.base import BaseHandler
from django.db import connections
from django.http import HttpRequest
from django.urls import Resolver404, resolve

MOST_IDLE = 8


class Loan:
    """A thread, lent until it is given back."""

    _idle: "list[ThreadPoolExecutor]" = []

    def __init__(self):
        self.executor = self._idle.pop() if self._idle else ThreadPoolExecutor(1, thread_name_prefix="request")
        self.is_over = False

    def end(self) -> None:
        """Give the thread back; once."""
        if self.is_over:
            return
        self.is_over = True
        if len(self._idle) < MOST_IDLE:
            self._idle.append(self.executor)
        else:
            self.executor.submit(connections.close_all)
            self.executor.shutdown(wait=False)


_LOAN: ContextVar[Loan] = ContextVar("loan")
_ENDINGS = ThreadPoolExecutor(1, thread_name_prefix="endings")


class Requests(ASGIHandler):
    """Django's handler, with threads that outlive a request, and one change of thread for all that is not asynchronous.

    Left to itself, Django goes to the thread and back for each middleware, the view and the rendering of its answer.
    """

    def __init__(self):
        super().__init__()
        self._in_one_go = BaseHandler()
        self._in_one_go.load_middleware()

    async def get_response_async(self, request: HttpRequest):
        """Middleware and view, in the thread of the request but where the view waits for events."""
        if _is_asynchronous(request):
            return await super().get_response_async(request)
        return await sync_to_async(self._in_one_go.get_response, thread_sensitive=True)(request)

    async def __call__(self, scope, receive, send):
        """Answer one request."""
        if scope["type"] != "http":
            raise ValueError(f"Only HTTP is answered, not {scope['type']}.")
        loan = Loan()
        _LOAN.set(loan)
        try:
            async with ThreadSensitiveContext(executor=loan.executor):
                await self.handle(scope, receive, send)
        finally:
            loan.end()


def _is_asynchronous(request: HttpRequest) -> bool:
    try:
        return iscoroutinefunction(resolve(request.path_info).func)
    except Resolver404:
        return False


def let_thread_go() -> None:
    """Give the thread of this request back early: a page that listens to events would hold it as long as it is open."""
    loan = _LOAN.get(None)
    if loan is None:
        return
    # What is left to do when the stream ends is done in a thread that all streams share.
    SyncToAsync.context_to_thread_executor[SyncToAsync.thread_sensitive_context.get()] = _ENDINGS
    loan.end()
