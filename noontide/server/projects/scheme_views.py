from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import ClassVar

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.access.directed import SEASONS
from noontide.core.access.orientations import orientations_of
from noontide.core.benches import BENCH_OF
from noontide.core.design import Design
from noontide.core.figures.months import table_of_months
from noontide.core.figures.workings import working
from noontide.core.simulation import ImpossibleAdjustment, IncompleteDesign
from noontide.core.simulation.quantities import quantities_of
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.problems import Problem
from noontide.server.projects import revising
from noontide.server.projects.answers import project_answer, scheme_answer
from noontide.server.projects.api_models import (
    AccessTable,
    ForkRequest,
    HorizonEffectAnswer,
    MomentAnswer,
    MomentValue,
    MonthsAnswer,
    ObstaclesAnswer,
    OrientationAnswer,
    PlanesAnswer,
    ProjectAnswer,
    RevisionLine,
    SchemeAnswer,
    SeenOutline,
    SunPathsAnswer,
    WorkingAnswer,
)
from noontide.server.projects.evaluator import results_for
from noontide.server.projects.events import announce_revision
from noontide.server.projects.hourly import as_columns, as_csv, as_json
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.models import Scheme
from noontide.server.projects.orientation import orientation_answer
from noontide.server.projects.requests import EDIT, IF_MATCH, gesture, if_match, object_of, scheme_of
from noontide.server.projects.sky import effect_of, obstacles_of, outline_access, planes_of, sun_paths_of
from noontide.server.projects.weather_comparison import WeatherComparison, compare_weather
from noontide.server.weather_library.models import WeatherYear


class SchemeView(APIView):
    @extend_schema(responses=SchemeAnswer, operation_id="scheme")
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """A scheme at its newest revision."""
        scheme = scheme_of(request, scheme_id)
        return scheme_answer(scheme, scheme.head)

    @extend_schema(
        request={"application/merge-patch+json": OpenApiTypes.OBJECT},
        parameters=[IF_MATCH, EDIT],
        responses=SchemeAnswer,
        operation_id="revise_scheme",
    )
    def patch(self, request: Request, scheme_id: int) -> HttpResponse:
        """Edit the design with a JSON Merge Patch (RFC 7396)."""
        based_on, edit = if_match(request), gesture(request)
        scheme, patch = scheme_of(request, scheme_id), object_of(request)
        revision = revising.revise(scheme, patch, based_on=based_on, author=request.user, gesture=edit)
        announce_revision(scheme.pk, revision.number)
        return scheme_answer(scheme, revision, patch)

    @extend_schema(responses={204: None}, operation_id="delete_scheme")
    def delete(self, request: Request, scheme_id: int) -> Response:
        """Delete a scheme (can be restored). The pinned one cannot be deleted."""
        revising.delete(scheme_of(request, scheme_id))
        return Response(status=204)


class WalkRevisionsView(APIView):
    """Undo and redo: both move the head of a scheme."""

    verb: ClassVar[Callable] = staticmethod(revising.undo)

    @extend_schema(request=None, parameters=[IF_MATCH], responses=SchemeAnswer)
    def post(self, request: Request, scheme_id: int) -> HttpResponse:
        """Move along the scheme's revisions."""
        based_on = if_match(request)
        scheme = scheme_of(request, scheme_id)
        before = scheme.head.document
        revision = type(self).verb(scheme, based_on=based_on)
        announce_revision(scheme.pk, revision.number)
        return scheme_answer(scheme, revision, [key for key in BENCH_OF if before.get(key) != revision.document.get(key)])


class UndoView(WalkRevisionsView):
    verb = staticmethod(revising.undo)


class RedoView(WalkRevisionsView):
    verb = staticmethod(revising.redo)


class ForkView(APIView):
    @extend_schema(request=ForkRequest, responses={201: SchemeAnswer}, operation_id="fork_scheme")
    def post(self, request: Request, scheme_id: int) -> HttpResponse:
        """A new scheme that starts as a copy of this one."""
        asked = ForkRequest.model_validate(object_of(request) if request.data else {})
        scheme = revising.fork(scheme_of(request, scheme_id), asked.name, request.user)
        return scheme_answer(scheme, scheme.head, status=201)


class PinView(APIView):
    @extend_schema(request=None, responses=ProjectAnswer, operation_id="pin_scheme")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Make this scheme the one that the others are compared with."""
        return Response(project_answer(revising.pin(scheme_of(request, scheme_id))))


class SchemeRestoreView(APIView):
    @extend_schema(request=None, responses=SchemeAnswer, operation_id="restore_scheme")
    def post(self, request: Request, scheme_id: int) -> HttpResponse:
        """Restore a deleted scheme."""
        every = Scheme.objects.visible_to(request.user).filter(project__deleted=None)
        scheme = get_object_or_404(every.select_related("head"), pk=scheme_id)
        revising.restore(scheme)
        return scheme_answer(scheme, scheme.head)


class RevisionsView(APIView):
    @extend_schema(responses=list_of(RevisionLine), operation_id="revisions")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The whole history of a scheme, oldest first."""
        scheme = scheme_of(request, scheme_id)
        lines = [
            RevisionLine(
                number=r.number,
                parent=r.parent.number if r.parent else None,
                patch=r.patch,
                created=r.created,
                author=r.author.get_full_name() if r.author else "",
                is_head=r.pk == scheme.head_id,
            )
            for r in scheme.revisions.select_related("parent", "author")
        ]
        return Response([line.model_dump(mode="json") for line in lines])


class WorkingView(APIView):
    @extend_schema(responses=WorkingAnswer, operation_id="working")
    def get(self, request: Request, scheme_id: int, key: str) -> Response:
        """How a figure of the Headline or a line of the Cascade is derived."""
        scheme = scheme_of(request, scheme_id)
        try:
            shown = working(results_for(scheme.head.document), key)
        except KeyError:
            raise Problem(404, "not-found", "Unknown figure", f"'{key}' is none of the figures.") from None
        answer = WorkingAnswer.model_validate({**vars(shown), "revision": scheme.head.number})
        return Response(answer.model_dump(mode="json"))


class HourlyView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("quantities", str, required=True, description="keys with commas, see /api/quantities"),
            OpenApiParameter("subarray", str, description="whose, for quantities of sub-arrays; the first if it is left out"),
            OpenApiParameter(
                "kind", str, enum=["columns", "json", "csv"], description="columns: float32 after a JSON header, see docs/formats"
            ),
        ],
        responses={
            (200, "application/vnd.noontide.columns"): OpenApiTypes.BINARY,
            (200, "application/json"): OpenApiTypes.OBJECT,
            (200, "text/csv"): OpenApiTypes.STR,
        },
        operation_id="hourly",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """Quantities of every interval of the year."""
        keys = [key for key in request.query_params.get("quantities", "")[:4000].split(",") if key]
        writers = {"columns": as_columns, "json": as_json, "csv": as_csv}
        kind = request.query_params.get("kind", "columns")
        if kind not in writers:
            raise Problem(422, "unknown-kind", "Unknown kind", f"Choose among {', '.join(writers)}.")
        scheme = scheme_of(request, scheme_id)
        subarray = request.query_params.get("subarray") or None
        results = results_for(scheme.head.document)
        known = quantities_of(results)
        unknown = [key for key in keys if key not in known]
        if unknown or not keys:
            named = ", ".join(unknown[:5])[:200] or "None is named"
            raise Problem(422, "unknown-quantity", "Unknown quantity", f"{named}; choose among {', '.join(known)}.")
        try:
            return writers[kind](results, list(dict.fromkeys(keys)), subarray, scheme.head.number)
        except KeyError as error:
            raise Problem(
                422, "unknown-subarray", "Unknown sub-array", f"The scheme has no sub-array '{str(error.args[0])[:60]}'."
            ) from None


class MomentView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("subarray", str, description="whose values; all of them where it is left out")],
        responses=MomentAnswer,
        operation_id="moment",
    )
    def get(self, request: Request, scheme_id: int, interval: int) -> Response:
        """The values of every stage in one interval."""
        scheme = scheme_of(request, scheme_id)
        results = results_for(scheme.head.document)
        if interval >= results.calendar.intervals:
            raise Problem(
                422, "no-such-interval", "Interval out of range", f"The year has {results.calendar.intervals} intervals, from 0."
            )
        only = request.query_params.get("subarray")
        names = results.plant.subarray_ids
        if only and only not in names:
            raise Problem(422, "unknown-subarray", "Unknown sub-array", f"The scheme has no sub-array '{only[:60]}'.")
        shown = [names.index(only)] if only else range(len(names))
        values = [
            MomentValue(
                key=key,
                title=q.title,
                unit=q.unit,
                scope=q.scope,
                subarray=names[k] if q.scope == "subarray" else "",
                value=float(q.read(results, k)[interval]),
            )
            for key, q in quantities_of(results).items()
            for k in (shown if q.scope == "subarray" else (0,))
        ]
        start = str(results.calendar.local_starts[interval])
        answer = MomentAnswer(revision=scheme.head.number, interval=interval, start=start, values=values)
        return Response(answer.model_dump(mode="json"))


class MonthsView(APIView):
    @extend_schema(responses=MonthsAnswer, operation_id="months")
    def get(self, request: Request, scheme_id: int) -> Response:
        """Irradiation, temperature and energy by month."""
        scheme = scheme_of(request, scheme_id)
        found = table_of_months(results_for(scheme.head.document))
        return Response(MonthsAnswer.model_validate({**vars(found), "revision": scheme.head.number}).model_dump(mode="json"))


@contextmanager
def _needs_weather(design: Design) -> Iterator[None]:
    """What is asked inside needs the design's weather: without it the scheme is incomplete."""
    if design.weather is None:
        raise Problem(409, "not-complete", "The scheme is incomplete", "Choose a weather year first.", "/weather")
    try:
        yield
    except (WeatherYear.DoesNotExist, IncompleteDesign):
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Its weather year is not in the library.", "/weather"
        ) from None
    except ImpossibleAdjustment as error:
        raise Problem(409, "not-complete", "The weather cannot be adjusted so", str(error), error.pointer) from None


class OrientationView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("season", str, enum=list(SEASONS)),
            OpenApiParameter("from", int, description="first hour of the clock that counts, 0 to 23"),
            OpenApiParameter("to", int, description="hour before which they end, 1 to 24"),
        ],
        responses=OrientationAnswer,
        operation_id="orientation",
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """Irradiation of every orientation at the site."""
        scheme, season = scheme_of(request, scheme_id), request.query_params.get("season", "year")
        if season not in SEASONS:
            raise Problem(422, "unknown-season", "Unknown season", f"Choose among {', '.join(SEASONS)}.")
        hours = [request.query_params.get(name, default) for name, default in (("from", "0"), ("to", "24"))]
        if not all(h.isascii() and h.isdigit() and len(h) < 3 for h in hours) or not (
            int(hours[0]) < 24 and 1 <= int(hours[1]) <= 24
        ):
            raise Problem(422, "unknown-hours", "Hours out of range", "`from` lies within 0 to 23, `to` within 1 to 24.")
        design = Design.read(scheme.head.document)
        with _needs_weather(design):
            found = orientations_of(design, libraries_of(design, request.user), season, (int(hours[0]), int(hours[1])))
        return Response(orientation_answer(found, scheme.head.number).model_dump(mode="json"))


class SunPathsView(APIView):
    @extend_schema(responses=SunPathsAnswer, operation_id="sun_paths")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The sun's paths over every day of the year."""
        scheme = scheme_of(request, scheme_id)
        return Response(sun_paths_of(Design.read(scheme.head.document), scheme.head.number).model_dump(mode="json"))


class ObstaclesView(APIView):
    @extend_schema(responses=ObstaclesAnswer, operation_id="obstacles")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The obstacles of the site as lines on the sky."""
        scheme = scheme_of(request, scheme_id)
        return Response(obstacles_of(Design.read(scheme.head.document), scheme.head.number).model_dump(mode="json"))


class HorizonEffectView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("surface", str, description="whose; the first if it is left out")],
        responses=HorizonEffectAnswer,
        operation_id="horizon_effect",
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """What horizon and obstacles cost a surface, by month and hour, and each obstacle alone."""
        scheme = scheme_of(request, scheme_id)
        design = Design.read(scheme.head.document)
        surface = request.query_params.get("surface") or next(iter(design.surfaces), "")
        if not surface:
            raise Problem(409, "not-complete", "The scheme is incomplete", "Add a surface first.", "/surfaces")
        if surface not in design.surfaces:
            raise Problem(422, "unknown-surface", "Unknown surface", f"The scheme has no surface '{surface[:60]}'.")
        with _needs_weather(design):
            effect = effect_of(design, surface, scheme.head.number)
        return Response(effect.model_dump(mode="json"))


class OutlineAccessView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=SeenOutline, responses=AccessTable, operation_id="outline_access")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Solar access by month and hour under an outline that was measured at a point of a surface; nothing is kept."""
        scheme = scheme_of(request, scheme_id)
        design = Design.read(scheme.head.document)
        asked = SeenOutline.model_validate(object_of(request))
        if asked.surface not in design.surfaces:
            raise Problem(422, "unknown-surface", "Unknown surface", f"The scheme has no surface '{asked.surface}'.")
        with _needs_weather(design):
            found = outline_access(design, asked)
        return Response(found.model_dump(mode="json"))


class PlanesView(APIView):
    @extend_schema(responses=PlanesAnswer, operation_id="planes")
    def get(self, request: Request, scheme_id: int, day: int) -> Response:
        """How the surfaces that move stand over a day, in calm air."""
        if not 0 <= day < 366:
            raise Problem(422, "no-such-day", "Day out of range", "Days count from 0 to 365.")
        scheme = scheme_of(request, scheme_id)
        return Response(planes_of(Design.read(scheme.head.document), day, scheme.head.number).model_dump(mode="json"))


class CompareWeatherView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("digests", str, required=True, description="weather years of the library, with commas")],
        responses=WeatherComparison,
        operation_id="compare_weather",
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """Weather years side by side, with what this scheme yields in each."""
        scheme = scheme_of(request, scheme_id)
        digests = [digest for digest in request.query_params.get("digests", "")[:1000].split(",") if digest]
        found = compare_weather(scheme.head.document, digests, request.user, scheme.head.number)
        return Response(found.model_dump(mode="json"))
