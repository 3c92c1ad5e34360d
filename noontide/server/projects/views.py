from collections.abc import Callable

from django.db.models import Prefetch
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, OpenApiResponse, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.scheme import Scheme as Design
from noontide.core.simulation import Results
from noontide.core.simulation.derivations import working
from noontide.core.simulation.quantities import QUANTITIES
from noontide.server.lists import several
from noontide.server.problems import Problem
from noontide.server.projects import revising
from noontide.server.projects.drawing import SEASONS, orientation_of, voltages_of
from noontide.server.projects.estimating import estimate
from noontide.server.projects.evaluating import evaluate, results_of
from noontide.server.projects.hourly import as_columns, as_csv, as_json
from noontide.server.projects.models import Project, Revision, Scheme
from noontide.server.projects.shapes import (
    EstimateAnswer,
    EstimateRequest,
    ForkRequest,
    MomentAnswer,
    MomentValue,
    OrientationAnswer,
    ProjectAnswer,
    ProjectCard,
    ProjectEdit,
    ProjectRequest,
    QuantityLine,
    RevisionLine,
    SchemeAnswer,
    SchemeLine,
    VoltageAnswer,
    WorkingAnswer,
)

BENCH_OF = {
    "site": "site",
    "weather": "weather",
    "surfaces": "surfaces",
    "subarrays": "circuits",
    "inverters": "circuits",
    "parts": "circuits",
    "losses": "losses",
    "models": "losses",
}
IF_MATCH = OpenApiParameter(
    "If-Match", str, OpenApiParameter.HEADER, required=True, description='the revision the edit is based on, such as "3"'
)


def _project(project_id: int) -> Project:
    return get_object_or_404(Project.objects.select_related("pinned"), pk=project_id, deleted=None)


def _scheme(scheme_id: int) -> Scheme:
    return get_object_or_404(Scheme.objects.select_related("head", "project"), pk=scheme_id, deleted=None, project__deleted=None)


def _project_answer(project: Project) -> dict:
    schemes = project.schemes.filter(deleted=None).select_related("head")
    lines = [
        SchemeLine(id=s.pk, letter=s.letter, name=s.head.document.get("name", ""), pinned=s.pk == project.pinned_id)
        for s in schemes
    ]
    return ProjectAnswer(
        id=project.pk, name=project.name, customer=project.customer, note=project.note, changed=project.changed, pinned=project.pinned_id, schemes=lines
    ).model_dump(mode="json")  # fmt: skip


def _scheme_answer(scheme: Scheme, revision: Revision, changed: list[str] | None = None, status: int = 200) -> Response:
    design = Design.model_validate(revision.document)
    answer = SchemeAnswer(
        id=scheme.pk, project=scheme.project_id, letter=scheme.letter, revision=revision.number, can_undo=revision.parent_id is not None,
        can_redo=revision.children.exists(), document=revision.document, evaluation=evaluate(design), changed=changed or [],
    )  # fmt: skip
    return Response(answer.model_dump(mode="json"), status=status, headers={"ETag": f'"{revision.number}"'})


def _if_match(request: Request) -> int:
    given = request.headers.get("If-Match", "").strip().strip("W/").strip('"')
    if not given.isdigit():
        raise Problem(
            428,
            "precondition-required",
            "If-Match is needed",
            'Send the revision that the edit is based on, such as If-Match: "3".',
        )
    return int(given)


def _object(request: Request) -> dict:
    if not isinstance(request.data, dict):
        raise Problem(422, "invalid-body", "A JSON object is needed")
    return request.data


def _results(scheme: Scheme) -> Results:
    results = results_of(Design.model_validate(scheme.head.document))
    if results is None:
        raise Problem(
            409, "not-complete", "There is no year yet", "The scheme needs weather and modules before it can be simulated."
        )
    return results


class ProjectsView(APIView):
    @extend_schema(responses=several(ProjectCard), operation_id="projects")
    def get(self, request: Request) -> Response:
        """All projects, the last changed first, each with what its pinned scheme gives."""
        living = (
            Project.objects.filter(deleted=None)
            .select_related("pinned__head")
            .prefetch_related(Prefetch("schemes", Scheme.objects.filter(deleted=None)))
        )
        return Response([_card(project) for project in living])

    @extend_schema(request=ProjectRequest, responses={201: ProjectAnswer}, operation_id="begin_project")
    def post(self, request: Request) -> Response:
        """Begin a project from a design document, which becomes its scheme A."""
        asked = ProjectRequest.model_validate(_object(request))
        project = revising.begin_project(asked.name, asked.document, asked.customer, asked.note)
        return Response(_project_answer(project), status=201)


def _card(project: Project) -> dict:
    base = _project_answer(project)
    head = project.pinned.head if project.pinned and project.pinned.deleted is None else None
    if head is None:
        return ProjectCard(
            **base, latitude=None, longitude=None, place="", energy=None, dc_power=None, specific_yield=None, monthly_energy=[], planes=[], errors=0, cautions=0
        ).model_dump(mode="json")  # fmt: skip
    design = Design.model_validate(head.document)
    evaluation = evaluate(design)
    figures = evaluation.headline
    modules = {
        name: sum(
            s.modules_per_string * s.strings * design.inverters[s.inverter].count
            for s in design.subarrays.values()
            if s.surface == name
        )
        for name in design.surfaces
    }
    return ProjectCard(
        **base,
        latitude=design.site.latitude, longitude=design.site.longitude, place=design.site.name,
        energy=figures.energy if figures else None, dc_power=figures.dc_power if figures else None,
        specific_yield=figures.specific_yield if figures else None, monthly_energy=figures.monthly_energy if figures else [],
        planes=[(s.tilt, s.azimuth, modules[name]) for name, s in design.surfaces.items()],
        errors=sum(c.severity == "error" for c in evaluation.checks), cautions=sum(c.severity != "error" for c in evaluation.checks),
    ).model_dump(mode="json")  # fmt: skip


class ProjectView(APIView):
    @extend_schema(responses=ProjectAnswer, operation_id="project")
    def get(self, request: Request, project_id: int) -> Response:
        """A project and its schemes."""
        return Response(_project_answer(_project(project_id)))

    @extend_schema(request=ProjectEdit, responses=ProjectAnswer, operation_id="edit_project")
    def patch(self, request: Request, project_id: int) -> Response:
        """Rename a project or change its customer or note."""
        project, edit = _project(project_id), ProjectEdit.model_validate(_object(request))
        for field, value in edit.model_dump(exclude_unset=True, exclude_none=True).items():
            setattr(project, field, value)
        project.save()
        return Response(_project_answer(project))

    @extend_schema(responses={204: None}, operation_id="delete_project")
    def delete(self, request: Request, project_id: int) -> Response:
        """Put a project aside; it can be restored."""
        revising.delete(_project(project_id))
        return Response(status=204)


class ProjectRestoreView(APIView):
    @extend_schema(request=None, responses=ProjectAnswer, operation_id="restore_project")
    def post(self, request: Request, project_id: int) -> Response:
        """Bring a deleted project back."""
        project = get_object_or_404(Project, pk=project_id)
        revising.restore(project)
        return Response(_project_answer(project))


class SchemeView(APIView):
    @extend_schema(responses=SchemeAnswer, operation_id="scheme")
    def get(self, request: Request, scheme_id: int) -> Response:
        """A scheme as it stands, simulated."""
        scheme = _scheme(scheme_id)
        return _scheme_answer(scheme, scheme.head)

    @extend_schema(
        request={"application/merge-patch+json": OpenApiTypes.OBJECT},
        parameters=[IF_MATCH],
        responses=SchemeAnswer,
        operation_id="revise_scheme",
    )
    def patch(self, request: Request, scheme_id: int) -> Response:
        """Edit the design with a JSON Merge Patch (RFC 7396)."""
        scheme, patch = _scheme(scheme_id), _object(request)
        revision = revising.revise(scheme, patch, based_on=_if_match(request))
        return _scheme_answer(scheme, revision, sorted({BENCH_OF[key] for key in patch if key in BENCH_OF}))

    @extend_schema(responses={204: None}, operation_id="delete_scheme")
    def delete(self, request: Request, scheme_id: int) -> Response:
        """Put a scheme aside; it can be restored. The pinned one and the last one stay."""
        scheme = _scheme(scheme_id)
        if scheme.project.pinned_id == scheme.pk:
            raise Problem(409, "pinned", "The pinned scheme stays", "Pin another scheme first, then delete this one.")
        revising.delete(scheme)
        return Response(status=204)


class SchemeVerbView(APIView):
    """Undo and redo: both move the head of a scheme."""

    verb: Callable = staticmethod(revising.undo)

    @extend_schema(request=None, parameters=[IF_MATCH], responses=SchemeAnswer)
    def post(self, request: Request, scheme_id: int) -> Response:
        """Move along the scheme's revisions."""
        scheme = _scheme(scheme_id)
        before = scheme.head.document
        revision = type(self).verb(scheme, based_on=_if_match(request))
        changed = {BENCH_OF[key] for key in BENCH_OF if before.get(key) != revision.document.get(key)}
        return _scheme_answer(scheme, revision, sorted(changed))


class UndoView(SchemeVerbView):
    verb = staticmethod(revising.undo)


class RedoView(SchemeVerbView):
    verb = staticmethod(revising.redo)


class ForkView(APIView):
    @extend_schema(request=ForkRequest, responses={201: SchemeAnswer}, operation_id="fork_scheme")
    def post(self, request: Request, scheme_id: int) -> Response:
        """A new scheme that begins as this one stands."""
        asked = ForkRequest.model_validate(_object(request) if request.data else {})
        scheme = revising.fork(_scheme(scheme_id), asked.name)
        return _scheme_answer(scheme, scheme.head, status=201)


class PinView(APIView):
    @extend_schema(request=None, responses=ProjectAnswer, operation_id="pin_scheme")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Make this scheme the one that the others are compared with."""
        return Response(_project_answer(revising.pin(_scheme(scheme_id))))


class SchemeRestoreView(APIView):
    @extend_schema(request=None, responses=SchemeAnswer, operation_id="restore_scheme")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Bring a deleted scheme back."""
        scheme = get_object_or_404(Scheme.objects.select_related("head"), pk=scheme_id, project__deleted=None)
        revising.restore(scheme)
        return _scheme_answer(scheme, scheme.head)


class RevisionsView(APIView):
    @extend_schema(responses=several(RevisionLine), operation_id="revisions")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The whole history of a scheme, oldest first."""
        scheme = _scheme(scheme_id)
        lines = [
            RevisionLine(
                number=r.number,
                parent=r.parent.number if r.parent else None,
                patch=r.patch,
                created=r.created,
                is_head=r.pk == scheme.head_id,
            )
            for r in scheme.revisions.select_related("parent")
        ]
        return Response([line.model_dump(mode="json") for line in lines])


class WorkingView(APIView):
    @extend_schema(responses=WorkingAnswer, operation_id="working")
    def get(self, request: Request, scheme_id: int, key: str) -> Response:
        """How a figure of the Headline or a line of the Cascade came about."""
        try:
            shown = working(_results(_scheme(scheme_id)), key)
        except KeyError:
            raise Problem(404, "not-found", "There is no such figure", f"'{key}' is none of the figures.") from None
        return Response(WorkingAnswer.model_validate(shown).model_dump(mode="json"))


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
        keys = [key for key in request.query_params.get("quantities", "").split(",") if key]
        unknown = [key for key in keys if key not in QUANTITIES]
        if unknown or not keys:
            raise Problem(
                422,
                "unknown-quantity",
                "There is no such quantity",
                f"{', '.join(unknown) or 'None is named'}; choose among {', '.join(QUANTITIES)}.",
            )
        writers = {"columns": as_columns, "json": as_json, "csv": as_csv}
        kind = request.query_params.get("kind", "columns")
        if kind not in writers:
            raise Problem(422, "unknown-kind", "There is no such kind", f"Choose among {', '.join(writers)}.")
        scheme = _scheme(scheme_id)
        try:
            return writers[kind](
                _results(scheme), list(dict.fromkeys(keys)), request.query_params.get("subarray") or None, scheme.head.number
            )
        except KeyError as error:
            raise Problem(
                422, "unknown-subarray", "There is no such sub-array", f"{error.args[0]} is none of the scheme's."
            ) from None


class MomentView(APIView):
    @extend_schema(responses=MomentAnswer, operation_id="moment")
    def get(self, request: Request, scheme_id: int, interval: int) -> Response:
        """The values of every stage in one interval."""
        results = _results(_scheme(scheme_id))
        if interval >= results.calendar.intervals:
            raise Problem(
                422, "no-such-interval", "The year is over by then", f"It has {results.calendar.intervals} intervals, from 0."
            )
        values = [
            MomentValue(
                key=key, title=q.title, unit=q.unit, scope=q.scope, subarray=name, value=float(q.read(results, k)[interval])
            )
            for key, q in QUANTITIES.items()
            for k, name in enumerate(results.plant.subarray_ids if q.scope == "subarray" else ("",))
        ]
        return Response(
            MomentAnswer(interval=interval, start=str(results.calendar.local_starts[interval]), values=values).model_dump(
                mode="json"
            )
        )


class OrientationView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("season", str, enum=list(SEASONS))], responses=OrientationAnswer, operation_id="orientation"
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """What every facing is worth at the site."""
        design, season = Design.model_validate(_scheme(scheme_id).head.document), request.query_params.get("season", "year")
        if season not in SEASONS:
            raise Problem(422, "unknown-season", "There is no such season", f"Choose among {', '.join(SEASONS)}.")
        if design.weather is None:
            raise Problem(409, "not-complete", "There is no weather yet", "Choose a weather year first.")
        return Response(orientation_of(design, season).model_dump(mode="json"))


class VoltagesView(APIView):
    @extend_schema(responses=VoltageAnswer, operation_id="voltages")
    def get(self, request: Request, scheme_id: int, subarray: str) -> Response:
        """The year's string voltages for every length near the present one, on the inverter's scale."""
        try:
            return Response(voltages_of(_results(_scheme(scheme_id)), subarray).model_dump(mode="json"))
        except KeyError:
            raise Problem(404, "not-found", "There is no such sub-array", f"'{subarray}' is none of the scheme's.") from None


class EstimateView(APIView):
    @extend_schema(request=EstimateRequest, responses=EstimateAnswer, operation_id="estimate")
    def post(self, request: Request) -> Response:
        """The Quick estimate: nothing is kept."""
        return Response(estimate(EstimateRequest.model_validate(_object(request))).model_dump(mode="json"))


class QuantitiesView(APIView):
    @extend_schema(responses=several(QuantityLine), operation_id="quantities")
    def get(self, request: Request) -> Response:
        """All hourly quantities."""
        return Response(
            [
                QuantityLine(key=key, title=q.title, unit=q.unit, scope=q.scope, colour=q.colour).model_dump()
                for key, q in QUANTITIES.items()
            ]
        )


class DesignSchemaView(APIView):
    @extend_schema(responses={200: OpenApiResponse(OpenApiTypes.OBJECT, description="JSON Schema")}, operation_id="design_schema")
    def get(self, request: Request) -> Response:
        """JSON Schema of the design document: units, ranges, defaults and the reasons for them."""
        return Response(Design.model_json_schema())
