"""The one place where an exception becomes problem details (RFC 9457). It knows no app: their problems are subclasses."""

import json
import logging
from contextvars import ContextVar

from django.conf import settings
from django.core.exceptions import RequestDataTooBig, SuspiciousOperation
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from pydantic import ValidationError
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import exception_handler, set_rollback

from noontide.core.design import DesignError
from noontide.core.fields import fault_in_words
from noontide.core.simulation import UnknownPart
from noontide.core.trials.runs_table import NoSuchColumn
from noontide.core.weather import WeatherFileError

logger = logging.getLogger(__name__)
MOST_FINDINGS = 20
REQUEST_ID: ContextVar[str] = ContextVar("request id", default="")
KIND = "application/problem+json"


class Problem(Exception):
    """A request that cannot be answered, with words for the person behind it.

    `errors` are findings with pointers; further members are given as keywords.
    """

    def __init__(
        self,
        status: int,
        kind: str,
        title: str,
        detail: str = "",
        pointer: str = "",
        errors: list[dict] | None = None,
        **more: object,
    ):
        super().__init__(detail or title)
        self.status, self.kind, self.title, self.detail, self.more = status, kind, title, detail, more
        self.errors = errors if errors is not None else [{"pointer": pointer, "detail": detail}] if pointer else []

    def __reduce__(self) -> tuple:
        """From another process it comes as a problem, whatever subclass raised it."""
        return _again, (self.status, self.kind, self.title, self.detail, self.errors, self.more)


def _again(status: int, kind: str, title: str, detail: str, errors: list[dict], more: dict) -> Problem:
    return Problem(status, kind, title, detail, errors=errors, **more)


def as_problem(error: Exception, context: dict) -> Response | None:
    """Answer for an exception raised in a view."""
    set_rollback()
    status, kind, title, detail, more = _parts(error)
    headers = {}
    if isinstance(error, exceptions.APIException) and (answer := exception_handler(error, context)):
        headers = {name: answer.headers[name] for name in ("Allow", "Retry-After") if name in answer.headers}
    if status >= 500:
        logger.error("request %s failed", REQUEST_ID.get(), exc_info=error)
    body = _body(status, kind, title, detail, more)
    return Response(body, status=status, content_type=KIND, headers=headers)


def _parts(error: Exception) -> tuple[int, str, str, str, dict]:
    match error:
        case Problem():
            return (
                error.status,
                error.kind,
                error.title,
                error.detail,
                ({"errors": error.errors} if error.errors else {}) | error.more,
            )
        case ValidationError():
            more = findings_of(error)
            return 422, "invalid-design", "The design has invalid values", more["errors"][0]["detail"], more
        case DesignError():
            return (
                422,
                "invalid-design",
                "This is not a design",
                str(error),
                {"errors": [{"pointer": error.pointer, "detail": str(error)}]},
            )
        case UnknownPart():
            return (
                422,
                "unknown-part",
                "A part is not in the library",
                str(error),
                {"errors": [{"pointer": error.pointer, "detail": str(error)}]},
            )
        case NoSuchColumn():
            return 422, "unknown-figure", "Unknown column", f"The runs have no '{str(error.args[0])[:60]}'.", {}
        case WeatherFileError():
            where = {"row": error.row, "column": error.column, "value": error.value}
            return (
                422,
                "weather-file",
                "The weather file cannot be read",
                str(error),
                {k: v for k, v in where.items() if v is not None},
            )
        case RequestDataTooBig():
            most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE / 1e6
            return (
                413,
                "too-large",
                "The request is too large",
                f"The limit is {most:.1f} MB; weather files have their own address.",
                {},
            )
        case SuspiciousOperation():
            return 400, "bad-request", "The request cannot be read", str(error).replace("\n", " ")[:300], {}
        case exceptions.APIException():
            detail = error.detail if isinstance(error.detail, str) else str(error.detail)
            return error.status_code, str(error.default_code).replace("_", "-"), detail[:300], "", {}
        case DatabaseError():
            return (
                503,
                "storage",
                "The data folder cannot be written",
                f"{error}. Nothing was changed. Check the free space and the rights of the folder.",
                {},
            )
        case OSError():
            return (
                503,
                "storage",
                "The data folder cannot be used",
                f"{error.strerror or error}. Nothing was changed. Check the free space and the rights of the folder.",
                {},
            )
        case _:
            if answer := exception_handler(error, {}):
                # Http404 and PermissionDenied of Django.
                is_missing = answer.status_code == 404
                return (
                    answer.status_code,
                    "not-found" if is_missing else "forbidden",
                    "Not found" if is_missing else "Not allowed",
                    "",
                    {},
                )
            return (
                500,
                "server-error",
                "The server failed",
                f"Request {REQUEST_ID.get()} is in the server's log. Nothing was changed.",
                {},
            )


def findings_of(error: ValidationError) -> dict:
    """Place and words of each value that is wrong, as `errors`, and how many more there are, as members of problem details."""
    every = error.errors(include_url=False, include_input=False)
    findings = [{"pointer": _pointer(e["loc"]), "detail": fault_in_words(e)} for e in every[:MOST_FINDINGS]]
    return {"errors": findings} | ({"further_errors": len(every) - MOST_FINDINGS} if len(every) > MOST_FINDINGS else {})


def as_response(status: int, kind: str, title: str, detail: str = "") -> HttpResponse:
    """Problem details outside of a view."""
    return HttpResponse(json.dumps(_body(status, kind, title, detail, {})), status=status, content_type=KIND)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's own refusals: a bad host, a suspicious address."""
    detail = str(exception) if isinstance(exception, SuspiciousOperation) else ""
    return as_response(400, "bad-request", "The request cannot be read", detail.replace("\n", " ")[:300])


def server_error(request: HttpRequest) -> HttpResponse:
    """What went wrong outside of the API's own views."""
    return as_response(500, "server-error", "The server failed", f"Request {REQUEST_ID.get()} is in the server's log.")


def _body(status: int, kind: str, title: str, detail: str, more: dict) -> dict:
    body = {"type": f"/problems/{kind}", "title": title, "status": status} | ({"detail": detail} if detail else {}) | more
    return body | ({"request_id": REQUEST_ID.get()} if REQUEST_ID.get() else {})


def _pointer(place: tuple[int | str, ...]) -> str:
    return "".join("/" + str(part).replace("~", "~0").replace("/", "~1") for part in place if part != "[key]")
