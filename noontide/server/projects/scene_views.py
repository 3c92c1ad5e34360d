"""What the Scene bench asks: the drawing, solar access, filling, the cost of obstacles, and the plan as files."""

from django.conf import settings
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.design.document import Design
from noontide.core.layout import ImpossibleFace
from noontide.core.plan.exports import FORMATS, export
from noontide.core.scene.importers import UnreadableScene, read_part
from noontide.core.scene.own_files import with_free_ids
from noontide.core.verbs.fill import room_by_way
from noontide.core.verbs.shared import ImpossibleAct
from noontide.server.parts_library.library import library_of
from noontide.server.problems import Problem
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.models import Scheme
from noontide.server.projects.requests import scheme_of
from noontide.server.projects.scene_answer import SceneAnswer, SceneReading, reading_of, scene_answer
from noontide.server.projects.shade_answer import (
    LightTakers,
    ShadeAnswer,
    shade_answer,
    shade_csv,
    takers_answer,
)
from noontide.server.uploads import file_form, read_apart, uploaded

MOST_INTERVALS = 366 * 1440  # of a year of minutes


class RoomAnswer(BaseModel):
    """Modules of the type that is chosen, as many as the surface has room for."""

    revision: int
    portrait: int
    landscape: int
    usable_area: float = Field(description="[m2]")


class SceneView(APIView):
    @extend_schema(responses=SceneAnswer, operation_id="scene")
    def get(self, request: Request, scheme_id: int) -> Response:
        """Faces, bodies and modules of the scene, as they are drawn."""
        scheme = scheme_of(request, scheme_id)
        found = scene_answer(Design.read(scheme.head.document), library_of(request.user), scheme.head.number)
        return Response(found.model_dump(mode="json"))


class ShadeView(APIView):
    @extend_schema(
        responses=ShadeAnswer,
        operation_id="shade",
        parameters=[
            OpenApiParameter("everything", bool, description="every roof, not only those with a surface"),
            OpenApiParameter("coarse", bool, description="a preview within some per cent"),
            OpenApiParameter("spacing", float, description="of the pieces of faces without modules [m]; 0.05 or more"),
            OpenApiParameter("first", int, description="interval of the year, counted from 0, from which a span is looked at"),
            OpenApiParameter("last", int, description="interval of the year with which the span ends"),
        ],
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """Solar access by module and month, orientation factor and their product."""
        scheme = scheme_of(request, scheme_id)
        everything, coarse = (request.query_params.get(name, "") in ("1", "true") for name in ("everything", "coarse"))
        spacing = _spacing(request.query_params.get("spacing", ""))
        span = _span(request.query_params.get("first", ""), request.query_params.get("last", ""))
        design = Design.read(scheme.head.document)
        found = shade_answer(design, library_of(request.user), scheme.head.number, everything, coarse, spacing, span)
        return Response(found.model_dump(mode="json"))


def _spacing(text: str) -> float | None:
    """Of pieces [m]; None where it is not said."""
    if not text:
        return None
    try:
        found = float(text)
    except ValueError:
        found = -1.0
    if not 0.05 <= found <= 1000:
        raise Problem(422, "invalid", "The spacing is no length", f"Give 0.05 to 1000 m, not '{text[:40]}'.", "spacing")
    return found


def _span(first: str, last: str) -> tuple[int, int] | None:
    """Intervals of the year; None where none are said."""
    if not first and not last:
        return None
    are_numbers = all(end.isdecimal() and len(end) < 10 for end in (first, last))  # longer ones are no numbers to the interpreter
    if not (are_numbers and int(first) <= int(last) < MOST_INTERVALS):
        detail = f"Give two intervals of the year, the first not after the last, not '{first[:20]}' and '{last[:20]}'."
        raise Problem(422, "invalid", "The span is none", detail, "first")
    return int(first), int(last)


class ShadeTableView(APIView):
    @extend_schema(
        responses={(200, "text/csv"): OpenApiTypes.STR},
        operation_id="shade_table",
        parameters=[OpenApiParameter("modules", bool, description="a line for each module, not for each surface")],
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """Solar access, irradiation, orientation factor and product by month and over the year (CSV)."""
        scheme = scheme_of(request, scheme_id)
        by_module = request.query_params.get("modules", "") in ("1", "true")
        document = scheme.head.document
        text = shade_csv(document, Design.read(document), library_of(request.user), by_module)
        answer = HttpResponse(text, content_type="text/csv")
        answer["Content-Disposition"] = 'attachment; filename="solar-access.csv"'
        return answer


class LightTakersView(APIView):
    @extend_schema(responses=LightTakers, operation_id="light_takers")
    def get(self, request: Request, scheme_id: int, surface: str, module: str) -> Response:
        """Which obstacles take light from a module, how much, in which months and at which hours."""
        scheme = scheme_of(request, scheme_id)
        design = Design.read(scheme.head.document)
        found = takers_answer(design, library_of(request.user), surface, module, scheme.head.number)
        return Response(found.model_dump(mode="json"))


class RoomView(APIView):
    @extend_schema(responses=RoomAnswer, operation_id="room")
    def get(self, request: Request, scheme_id: int, surface: str) -> Response:
        """How many modules a surface has room for, in portrait and in landscape."""
        scheme = scheme_of(request, scheme_id)
        design = Design.read(scheme.head.document)
        try:
            portrait, landscape, area = room_by_way(design, surface, libraries_of(design, request.user))
        except (ImpossibleAct, ImpossibleFace) as error:
            raise Problem(409, "no-room", "The surface cannot be filled", str(error)) from None
        found = RoomAnswer(revision=scheme.head.number, portrait=portrait, landscape=landscape, usable_area=round(area, 2))
        return Response(found.model_dump(mode="json"))


class SceneReadingView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request=file_form(up={"type": "string", "enum": ["", "y", "z"]}), responses=SceneReading, operation_id="read_scene"
    )
    def post(self, request: Request, scheme_id: int) -> Response:
        """What a file would add to the scene: outlines, bodies, or roofs found among points, with ids that are free; nothing is changed.

        `up` is the axis of a model that points up; without it, as the format says or as the model seems to stand.
        """
        scheme = scheme_of(request, scheme_id)
        design = Design.read(scheme.head.document)
        given = uploaded(request, settings.UPLOAD_LIMIT)
        up = str(request.data.get("up", "")).lower()
        if up not in ("", "y", "z"):
            raise Problem(422, "invalid-form", "Unknown axis", f"up is '{up[:20]}'. Give y or z, or leave it out.")
        name = given.name or "file"
        try:
            part = read_apart(read_part, given.read(), name, design.site.latitude, design.site.longitude, up or None)
        except UnreadableScene as error:
            raise Problem(422, "unreadable-scene", "The file gives no scene", str(error)) from error
        found = with_free_ids(part, design.scene.ids, set(design.surfaces))
        return Response(reading_of(found, scheme.head.number, part["up"], name).model_dump(mode="json"))


class SceneFileView(APIView):
    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
        operation_id="scene_file",
        parameters=[OpenApiParameter("kind", str, OpenApiParameter.PATH, enum=list(FORMATS))],
    )
    def get(self, request: Request, scheme_id: int, kind: str) -> HttpResponse:
        """The plan with its dimensions and numbers (SVG, PDF, DXF), the scene (glTF, GeoJSON), or the modules' coordinates (CSV)."""
        scheme: Scheme = scheme_of(request, scheme_id)
        if kind not in FORMATS:
            raise Problem(404, "not-found", "Unknown format", f"'{kind}' is none of {', '.join(FORMATS)}.")
        design = Design.read(scheme.head.document)
        content = export(design, library_of(request.user), kind)
        media, ending = FORMATS[kind]
        answer = HttpResponse(content, content_type=media)
        answer["Content-Disposition"] = f'attachment; filename="scene.{ending}"'
        return answer
