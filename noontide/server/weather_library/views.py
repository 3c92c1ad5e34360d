from datetime import datetime
from pathlib import PurePath
from typing import Any

import numpy as np
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.weather import Reading, WeatherSummary
from noontide.core.weather.files import FORMAT_NAMES, as_bytes, format_of
from noontide.core.weather.quality import examine_quality
from noontide.core.weather.workings import FACTS, weather_working
from noontide.core.weather.year import runs_of
from noontide.server.jobs.running import start
from noontide.server.jobs.views import JobAnswer, job_answer
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.problems import Problem, findings_of
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.reading import ReadingAnswer, understand
from noontide.server.weather_library.region import RegionRequest
from noontide.server.weather_library.requesting import OwnedSourceRequest, OwnedWeatherRequest, WeatherRequest
from noontide.server.weather_library.sources import SourceRequest, SourcesAnswer, sources_near
from noontide.server.weather_library.storing import load, store
from noontide.server.weather_library.synthesising import SynthesisRequest, store_synthesis, synthesis_of
from noontide.server.working_answers import FactWorking

LONGEST_READING = 200_000  # characters
FORM_ROOM = LONGEST_READING + 4096  # bytes of the form around the file
FILE_KINDS = {
    "epw": "text/plain; charset=utf-8",
    "csv": "text/plain; charset=utf-8",
    "covjson": "application/prs.coverage+json",
    "parquet": "application/vnd.apache.parquet",
}
READING_FIELD = {"type": "string", "description": "a Reading as JSON; recognised where it is left out"}


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


def _length(request: Request) -> int:
    """Size that the request announces; one that announces none is read within Django's own limits."""
    text = request.META.get("CONTENT_LENGTH") or "0"
    return int(text) if text.isascii() and text.isdigit() and len(text) < 16 else 0


def _file(request: Request) -> UploadedFile:
    if _length(request) > settings.UPLOAD_LIMIT + FORM_ROOM:
        raise Problem(413, "too-large", "The file is too large", f"The limit is {settings.UPLOAD_LIMIT / 1e6:.0f} MB.")
    given = request.FILES.get("file")
    if given is None:
        raise Problem(422, "no-file", "A file is needed", "Send it as the field 'file' of a form.")
    if given.size > settings.UPLOAD_LIMIT:
        detail = f"It has {given.size / 1e6:.0f} MB; the limit is {settings.UPLOAD_LIMIT / 1e6:.0f} MB."
        raise Problem(413, "too-large", "The file is too large", detail)
    return given


def _reading(request: Request) -> Reading | None:
    """The reading that came with a file."""
    text = request.data.get("reading")
    if not text:
        return None
    if not isinstance(text, str) or len(text) > LONGEST_READING:
        detail = f"A reading is JSON text of at most {LONGEST_READING:,} characters."
        raise Problem(422, "invalid-reading", "The reading cannot be read", detail)
    try:
        return Reading.model_validate_json(text)
    except ValidationError as error:
        more = findings_of(error)
        first = more["errors"][0]
        where = f"{first['pointer']}: " if first["pointer"] else ""
        raise Problem(422, "invalid-reading", "The reading cannot be used", where + first["detail"], **more) from None


def _place(request: Request) -> tuple[float, float, float] | None:
    """The place to take where a file states none."""
    if not request.data.get("latitude") or not request.data.get("longitude"):
        return None
    given = {name: request.data.get(name) or 0 for name in ("latitude", "longitude", "elevation")}
    at = WeatherRequest.model_validate(given)
    return at.latitude, at.longitude, at.elevation


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
                "properties": {"file": {"type": "string", "format": "binary"}, "reading": READING_FIELD},
                "required": ["file"],
            }
        },
        responses={201: WeatherAnswer},
        operation_id="store_weather",
    )
    def post(self, request: Request) -> Response:
        """Store a weather file: EPW, or a table as the reading says, or as it is recognised where there is none."""
        given, reading = _file(request), _reading(request)
        year = store(given.read(), given.name or "weather", owner=request.user, reading=reading)
        return Response(_answer(year), status=201)


class WeatherReadingView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request={
            "multipart/form-data": {
                "type": "object",
                "properties": {
                    "file": {"type": "string", "format": "binary"},
                    "reading": READING_FIELD,
                    "latitude": {"type": "number"},
                    "longitude": {"type": "number"},
                    "elevation": {"type": "number"},
                },
                "required": ["file"],
            }
        },
        responses=ReadingAnswer,
        operation_id="read_weather",
    )
    def post(self, request: Request) -> Response:
        """How a file of weather is understood, beside its lines; nothing is kept."""
        given = _file(request)
        content = given.read()
        if kind := format_of(content):
            raise Problem(409, "known-format", "The file needs no reading", f"It is {FORMAT_NAMES[kind]}; store it.")
        name = PurePath(given.name or "weather").stem
        answer = understand(content, name, _place(request), _reading(request), request.user)
        return Response(answer.model_dump(mode="json"))


class WeatherYearView(APIView):
    @extend_schema(responses=WeatherAnswer, operation_id="weather_year")
    def get(self, request: Request, digest: str) -> Response:
        """A weather year of the library."""
        return Response(_answer(get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest)))


class WeatherFileView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["epw", "csv", "covjson", "parquet"])],
        responses={
            (200, "text/plain"): OpenApiTypes.STR,
            (200, "application/prs.coverage+json"): OpenApiTypes.OBJECT,
            (200, "application/vnd.apache.parquet"): OpenApiTypes.BINARY,
        },
        operation_id="weather_file",
    )
    def get(self, request: Request, digest: str) -> HttpResponse:
        """The year as a file: EPW, a plain weather table, CoverageJSON or Parquet."""
        year, kind = (
            get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest),
            request.query_params.get("kind", "csv"),
        )
        if kind not in FILE_KINDS:
            raise Problem(422, "unknown-kind", "Unknown kind", f"Choose among {', '.join(FILE_KINDS)}.")
        answer = HttpResponse(as_bytes(load(digest), kind), content_type=FILE_KINDS[kind])
        answer.headers["Content-Disposition"] = f'attachment; filename="weather-{year.latitude:.2f}-{year.longitude:.2f}.{kind}"'
        return answer


class DoubtAnswer(BaseModel):
    """A quality check that some intervals do not pass."""

    rule: str
    title: str
    detail: str
    source: str
    hours: float
    runs: list[tuple[int, int]] = Field(description="first interval and number of intervals, in order")


class WeatherQualityView(APIView):
    @extend_schema(responses=list_of(DoubtAnswer), operation_id="weather_quality")
    def get(self, request: Request, digest: str) -> Response:
        """What the quality checks of the literature doubt in a year, and where."""
        year = get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest)
        doubts = [
            DoubtAnswer(
                rule=doubt.rule,
                title=doubt.title,
                detail=doubt.detail,
                source=doubt.source,
                hours=doubt.hours,
                runs=[(start, length) for start, length, _ in runs_of(doubt.marks.astype(np.uint8))],
            )
            for doubt in examine_quality(load(year.digest))
        ]
        return Response([doubt.model_dump(mode="json") for doubt in doubts])


class WeatherWorkingView(APIView):
    @extend_schema(responses=FactWorking, operation_id="weather_working")
    def get(self, request: Request, digest: str, key: str) -> Response:
        """How a fact of a weather year is derived."""
        year = get_object_or_404(WeatherYear.objects.visible_to(request.user), pk=digest)
        if key not in FACTS:
            raise Problem(404, "not-found", "Unknown fact", f"'{key}' is none of {', '.join(FACTS)}.")
        return Response(FactWorking.model_validate(weather_working(load(year.digest), key)).model_dump(mode="json"))


class WeatherSynthesisView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=SynthesisRequest, responses={201: WeatherAnswer}, operation_id="synthesise_weather")
    def post(self, request: Request) -> Response:
        """Make a year of hours from twelve monthly values, and keep it in the library."""
        return Response(_answer(store_synthesis(synthesis_of(request), request.user)), status=201)


class WeatherRequestView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=WeatherRequest, responses={202: JobAnswer}, operation_id="request_weather")
    def post(self, request: Request) -> Response:
        """Ask the weather service for a year at a point; a job, whose result names the digest."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = WeatherRequest.model_validate(request.data)
        return Response(
            job_answer(start("weather", OwnedWeatherRequest(**asked.model_dump(), owner=request.user.pk), request.user)),
            status=202,
        )


class WeatherRegionView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=RegionRequest, responses={202: JobAnswer}, operation_id="request_region")
    def post(self, request: Request) -> Response:
        """Ask the weather service for the yearly irradiation of several sites; a job, whose result has it by key."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = RegionRequest.model_validate(request.data)
        return Response(job_answer(start("region", asked, request.user)), status=202)


class WeatherSourcesView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(
        parameters=[
            OpenApiParameter("latitude", float, required=True),
            OpenApiParameter("longitude", float, required=True),
            OpenApiParameter("elevation", float),
        ],
        responses=SourcesAnswer,
        operation_id="weather_sources",
    )
    def get(self, request: Request) -> Response:
        """Stations and gridded data near a site, nearest first, with distance, height difference, years and quantities."""
        given = {
            name: request.query_params[name] for name in ("latitude", "longitude", "elevation") if name in request.query_params
        }
        at = WeatherRequest.model_validate(given)
        return Response(sources_near(at.latitude, at.longitude, at.elevation).model_dump(mode="json"))

    @extend_schema(request=SourceRequest, responses={202: JobAnswer}, operation_id="request_source")
    def post(self, request: Request) -> Response:
        """Ask a source for a year; a job, whose result names the digest."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = SourceRequest.model_validate(request.data)
        return Response(
            job_answer(start("source", OwnedSourceRequest(**asked.model_dump(), owner=request.user.pk), request.user)), status=202
        )
