"""The one place where an exception becomes problem details (RFC 9457)."""

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from pydantic import ValidationError
from rest_framework import exceptions
from rest_framework.response import Response
from rest_framework.views import exception_handler, set_rollback

from noontide.core.simulation import UnknownPart
from noontide.core.weather import WeatherFileError
from noontide.server.projects.revising import NothingToWalk, StaleRevision
from noontide.server.weather_library.edr import ServiceFailed


class Problem(Exception):
    """A request that cannot be answered, with words for the person behind it."""

    def __init__(self, status: int, kind: str, title: str, detail: str = "", pointer: str = ""):
        super().__init__(detail or title)
        self.status, self.kind, self.title, self.detail, self.pointer = status, kind, title, detail, pointer


def as_problem(error: Exception, context: dict) -> Response | None:
    """Answer for an exception, or None where it is a fault of ours."""
    match error:
        case Problem():
            findings = [{"pointer": error.pointer, "detail": error.detail}] if error.pointer else []
            return _problem(error.status, error.kind, error.title, error.detail, errors=findings)
        case StaleRevision():
            return _problem(412, "stale-revision", "The scheme has changed meanwhile", str(error), newest=error.newest)
        case NothingToWalk():
            return _problem(409, "nothing-there", str(error))
        case ValidationError():
            findings = [{"pointer": _pointer(e["loc"]), "detail": _words(e)} for e in error.errors()]
            return _problem(422, "invalid-design", "The design has invalid values", findings[0]["detail"], errors=findings)
        case UnknownPart():
            return _problem(
                422,
                "unknown-part",
                "A part is not in the library",
                str(error),
                errors=[{"pointer": error.pointer, "detail": str(error)}],
            )
        case WeatherFileError():
            where = {"row": error.row, "column": error.column, "value": error.value}
            return _problem(
                422,
                "weather-file",
                "The weather file cannot be read",
                str(error),
                **{k: v for k, v in where.items() if v is not None},
            )
        case ServiceFailed():
            return _problem(502, "weather-service", "The weather service did not answer", str(error))
        case RequestDataTooBig():
            most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE / 1e6
            return _problem(
                413,
                "too-large",
                "The request is too large",
                f"At most {most:.1f} MB are taken; weather files have their own address.",
            )
        case exceptions.APIException():
            answer = exception_handler(error, context)
            detail = error.detail if isinstance(error.detail, str) else str(error.detail)
            return _problem(
                error.status_code, error.default_code.replace("_", "-"), detail, headers=dict(answer.headers) if answer else None
            )
        case _:
            # Http404 and PermissionDenied of Django.
            if answer := exception_handler(error, context):
                return _problem(
                    answer.status_code,
                    "not-found" if answer.status_code == 404 else "refused",
                    "There is nothing here" if answer.status_code == 404 else "Not allowed",
                )
            return None


def _problem(status: int, kind: str, title: str, detail: str = "", headers: dict | None = None, **more: object) -> Response:
    set_rollback()
    body = {"type": f"/problems/{kind}", "title": title, "status": status} | ({"detail": detail} if detail else {}) | more
    keep = {name: value for name, value in (headers or {}).items() if name in ("Allow", "Retry-After")}
    return Response(body, status=status, content_type="application/problem+json", headers=keep)


def _pointer(place: tuple[int | str, ...]) -> str:
    return "".join("/" + str(part).replace("~", "~0").replace("/", "~1") for part in place)


def _words(error: dict) -> str:
    """What was expected, in the words of the interface."""
    limits = error.get("ctx", {})
    match error["type"]:
        case "greater_than_equal":
            return f"Choose {limits['ge']:g} or more."
        case "less_than_equal":
            return f"Choose {limits['le']:g} or less."
        case "float_parsing" | "int_parsing" | "float_type" | "int_type" | "int_from_float":
            return "Type a number." if error["type"].startswith("float") else "Type a whole number."
        case "finite_number":
            return "Type a finite number."
        case "extra_forbidden":
            return f"There is no value named '{error['loc'][-1]}' here."
        case "missing":
            return f"'{error['loc'][-1]}' is needed."
        case "value_error":
            return str(limits.get("error", error["msg"]))
        case _:
            return str(error["msg"])
