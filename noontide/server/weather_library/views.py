from datetime import datetime
from typing import Any

from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field, field_validator
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.design.document import Line, is_time_zone
from noontide.core.weather import WeatherSummary, as_text
from noontide.server.jobs.running import start
from noontide.server.jobs.views import JobAnswer, job_answer
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.problems import Problem
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load, store

FORM_ROOM = 4096  # bytes of the form around the file


class WeatherAnswer(BaseModel):
    """A weather year with the figures by which it is judged."""

    model_config = ConfigDict(from_attributes=True)

    digest: str
    file_name: str
    title: str
    source: str
    origin: str
    latitude: float
    longitude: float
    elevation: float
    step: int
    utc_offset: float
    year: int
    is_typical: bool
    notes: list[str]
    summary: WeatherSummary
    reading: dict[str, Any]
    steps: list[Any]
    created: datetime


class WeatherRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    elevation: float = Field(0, ge=-430, le=6000, allow_inf_nan=False)
    name: Line = Field("", max_length=120)
    time_zone: str = Field(
        "", max_length=60, description="whose standard time the year runs in; that of the point if it is left empty"
    )

    @field_validator("time_zone")
    @classmethod
    def _zone_exists(cls, name: str) -> str:
        if name and not is_time_zone(name):
            raise ValueError(f"There is no time zone '{name[:60]}'. Choose one such as Europe/Rome, or leave it empty.")
        return name


def _length(request: Request) -> int:
    """Size that the request announces; one that announces none is read within Django's own limits."""
    text = request.META.get("CONTENT_LENGTH") or "0"
    return int(text) if text.isascii() and text.isdigit() and len(text) < 16 else 0


def _answer(year: WeatherYear) -> dict:
    return WeatherAnswer.model_validate(year).model_dump(mode="json")


class WeatherLibraryView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(responses=list_of(WeatherAnswer), operation_id="weather_library")
    def get(self, request: Request) -> Response:
        """All weather years of the library, newest first."""
        return Response([_answer(year) for year in WeatherYear.objects.visible_to(request.user)])

    @extend_schema(
        request={
            "multipart/form-data": {
                "type": "object",
                "properties": {"file": {"type": "string", "format": "binary"}},
                "required": ["file"],
            }
        },
        responses={201: WeatherAnswer},
        operation_id="store_weather",
    )
    def post(self, request: Request) -> Response:
        """Store a weather file: EPW or a plain weather table."""
        if _length(request) > settings.UPLOAD_LIMIT + FORM_ROOM:
            raise Problem(413, "too-large", "The file is too large", f"The limit is {settings.UPLOAD_LIMIT / 1e6:.0f} MB.")
        given = request.FILES.get("file")
        if given is None:
            raise Problem(422, "no-file", "A file is needed", "Send it as the field 'file' of a form.")
        if given.size > settings.UPLOAD_LIMIT:
            raise Problem(
                413,
                "too-large",
                "The file is too large",
                f"It has {given.size / 1e6:.0f} MB; the limit is {settings.UPLOAD_LIMIT / 1e6:.0f} MB.",
            )
        return Response(_answer(store(given.read(), given.name or "weather", owner=request.user)), status=201)


class WeatherYearView(APIView):
    @extend_schema(responses=WeatherAnswer, operation_id="weather_year")
    def get(self, request: Request, digest: str) -> Response:
        """A weather year of the library."""
        return Response(_answer(get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest)))


class WeatherFileView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["epw", "csv"])],
        responses={(200, "text/plain"): OpenApiTypes.STR},
        operation_id="weather_file",
    )
    def get(self, request: Request, digest: str) -> HttpResponse:
        """The year as a file: EPW, or a plain weather table."""
        year, kind = (
            get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest),
            request.query_params.get("kind", "csv"),
        )
        if kind not in ("epw", "csv"):
            raise Problem(422, "unknown-kind", "Unknown kind", "Choose epw or csv.")
        answer = HttpResponse(as_text(load(digest), kind), content_type="text/plain; charset=utf-8")
        answer.headers["Content-Disposition"] = f'attachment; filename="weather-{year.latitude:.2f}-{year.longitude:.2f}.{kind}"'
        return answer


class WeatherRequestView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=WeatherRequest, responses={202: JobAnswer}, operation_id="request_weather")
    def post(self, request: Request) -> Response:
        """Ask the weather service for a year at a point; a job, whose result names the digest."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = WeatherRequest.model_validate(request.data)

        return Response(job_answer(start("weather", asked.model_dump(), request.user)), status=202)
