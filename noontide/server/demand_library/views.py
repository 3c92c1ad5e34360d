"""The library of interval data over HTTP."""

from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.demand.reading import ENERGIES, POWERS, ReadUse, UseReading
from noontide.core.design.site import is_time_zone
from noontide.core.weather import WeatherFileError
from noontide.server.demand_library.models import MeasuredUse
from noontide.server.demand_library.remembering import read_by_make, readings_by_make
from noontide.server.demand_library.storing import store
from noontide.server.list_of import list_of
from noontide.server.problems import Problem, findings_of
from noontide.server.uploads import file_form, read_apart, uploaded

LONGEST_READING = 200_000  # characters
FORM = file_form(
    reading={"type": "string", "description": "a UseReading as JSON; recognised where it is left out"},
    time_zone={"type": "string", "description": "of the meter, where the file states none"},
)


class UseAnswer(BaseModel):
    """A series of the library."""

    model_config = ConfigDict(from_attributes=True)

    digest: str
    file_name: str
    title: str
    first_day: str
    step: int = Field(description="[min]")
    days: int
    energy: float = Field(description="of all that is known [kWh]")
    peak: float = Field(description="highest mean of a step [kW]")
    reading: dict[str, Any]
    notes: list[str]
    created: datetime


class UseReadingAnswer(BaseModel):
    """A file as it is understood, and the series that comes of it."""

    reading: UseReading
    units: dict[str, list[str]] = Field(description="that each role of a column may have")
    problem: str = Field(description="why no series comes of it; empty where one does")
    is_remembered: bool = Field(False, description="read as the last file of the same make was")
    first_day: str = ""
    step: int = 0
    days: int = 0
    energy: float = 0.0
    peak: float = 0.0
    notes: list[str] = []
    week: list[float] = Field([], description="mean power of each hour of the week, Monday first [kW]")
    daily: list[float | None] = Field([], description="energy of each day [kWh]; null where it has gaps")


UNITS = {"power": list(POWERS), "energy": list(ENERGIES), "counter": list(ENERGIES), "export": [*ENERGIES, *POWERS], "": []}


class UseLibraryView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(responses=list_of(UseAnswer), operation_id="use_library")
    def get(self, request: Request) -> Response:
        """Interval data of the library, the newest first."""
        rows = MeasuredUse.objects.visible_to(request.user)
        return Response([UseAnswer.model_validate(row).model_dump(mode="json") for row in rows])

    @extend_schema(request=FORM, responses={201: UseAnswer}, operation_id="store_use")
    def post(self, request: Request) -> Response:
        """Read a file of interval data into the library."""
        given = uploaded(request, settings.UPLOAD_LIMIT)
        row = store(given.read(), (given.name or "interval data")[:200], _reading(request), _zone(request), request.user)
        return Response(UseAnswer.model_validate(row).model_dump(mode="json"), status=201)


class UseReadingView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(request=FORM, responses=UseReadingAnswer, operation_id="read_use")
    def post(self, request: Request) -> Response:
        """How a file of interval data is understood; nothing is kept."""
        given = uploaded(request, settings.UPLOAD_LIMIT)
        reading = _reading(request)
        try:
            found, is_remembered = read_apart(
                read_by_make,
                given.read(),
                Path(given.name or "interval data").stem[:200],
                reading,
                _zone(request),
                readings_by_make(request.user),
            )
        except WeatherFileError as error:
            if reading is None:
                raise
            return Response(UseReadingAnswer(reading=reading, units=UNITS, problem=str(error)).model_dump(mode="json"))
        return Response(_answer(found, is_remembered).model_dump(mode="json"))


def _answer(found: ReadUse, is_remembered: bool) -> UseReadingAnswer:
    series = found.series
    weekday = (series.dates.astype(np.int64) + 3) % 7
    hours = 24 if series.step <= 60 else 1440 // series.step
    by_hour = series.power.reshape(series.power.shape[0], hours, -1)
    week = [
        float(np.nanmean(by_hour[weekday == day, hour])) if np.isfinite(by_hour[weekday == day, hour]).any() else 0.0
        for day in range(7)
        for hour in range(hours)
    ]
    daily = series.power.sum(axis=1) * series.step / 60
    return UseReadingAnswer(
        reading=found.reading,
        units=UNITS,
        problem="",
        is_remembered=is_remembered,
        first_day=series.first_day,
        step=series.step,
        days=series.power.shape[0],
        energy=series.energy,
        peak=series.peak,
        notes=list(found.notes),
        week=week,
        daily=[None if not np.isfinite(v) else round(float(v), 3) for v in daily],
    )


def _reading(request: Request) -> UseReading | None:
    text = str(request.data.get("reading") or "")
    if not text:
        return None
    if len(text) > LONGEST_READING:
        raise Problem(413, "too-large", "The reading is too large", f"The limit is {LONGEST_READING:,} characters.")
    try:
        return UseReading.model_validate_json(text)
    except ValidationError as error:
        raise Problem(422, "invalid-reading", "The reading has invalid values", **findings_of(error)) from None


def _zone(request: Request) -> str:
    zone = str(request.data.get("time_zone") or "")[:60]
    if zone and not is_time_zone(zone):
        raise Problem(
            422, "unknown-zone", "Unknown time zone", f"There is no time zone '{zone}'. Choose one such as Europe/Rome."
        )
    return zone
