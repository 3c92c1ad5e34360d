"""The door of the API: a writing request must show the token that only our own pages can read, before its body is looked at."""

import logging
import secrets
import uuid
from collections.abc import Callable

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.conf import settings
from django.http import HttpRequest, HttpResponse

from noontide.server.problems import REQUEST_ID, as_response

SAFE = ("GET", "HEAD", "OPTIONS")
logger = logging.getLogger(__name__)


class ApiGuard:
    """Middleware: a request id, the token of writing requests, and problem details where a view raised."""

    sync_capable = async_capable = True

    def __init__(self, get_response: Callable):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest):
        request.request_id = uuid.uuid4().hex[:12]
        REQUEST_ID.set(request.request_id)
        refusal = self._refusal(request)
        if iscoroutinefunction(self):
            return self._later(request, refusal)
        return self._signed(request, refusal or self.get_response(request))

    async def _later(self, request: HttpRequest, refusal: HttpResponse | None) -> HttpResponse:
        return self._signed(request, refusal or await self.get_response(request))

    def _signed(self, request: HttpRequest, response: HttpResponse) -> HttpResponse:
        response.headers["X-Request-Id"] = request.request_id
        return response

    def _refusal(self, request: HttpRequest) -> HttpResponse | None:
        if request.method in SAFE or not request.path.startswith("/api/") or getattr(request, "_dont_enforce_csrf_checks", False):
            return None
        cookie, shown = request.COOKIES.get(settings.CSRF_COOKIE_NAME, ""), request.headers.get("X-CSRFToken", "")
        origin = request.headers.get("Origin")
        if origin and origin.partition("://")[2] != request.META.get("HTTP_HOST", request.META.get("SERVER_NAME", "")):
            logger.warning("request %s from origin %s refused", request.request_id, origin[:100])
            return as_response(403, "forbidden", "Requests from other sites are refused", "The Origin header names another site.")
        if len(cookie) < 16 or not secrets.compare_digest(cookie.encode(), shown.encode()):
            return as_response(
                403, "forbidden", "The request has no valid token", "Send the value of the csrftoken cookie as X-CSRFToken."
            )
        return None
