from django.db.models import Prefetch
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.design import Design
from noontide.core.estimate import EstimateRequest
from noontide.core.figures.catalogue import FIGURES
from noontide.core.simulation.connection import LINES
from noontide.core.simulation.quantities import QUANTITIES
from noontide.server.accounts.habits import habits_of
from noontide.server.constant import constant
from noontide.server.list_of import list_of
from noontide.server.parts_library.library import library_of
from noontide.server.projects import revising
from noontide.server.projects.answers import cards, project_answer
from noontide.server.projects.api_models import (
    EstimateAnswer,
    FigureLine,
    FiguresAnswer,
    ProjectAnswer,
    ProjectCard,
    ProjectEdit,
    ProjectRequest,
    QuantityLine,
)
from noontide.server.projects.estimating import estimate
from noontide.server.projects.models import Project, Scheme
from noontide.server.projects.requests import object_of, project_of


class ProjectsView(APIView):
    @extend_schema(responses=list_of(ProjectCard), operation_id="projects")
    def get(self, request: Request) -> Response:
        """All projects, last changed first, each with the figures of its pinned scheme."""
        living = (
            Project.objects.visible_to(request.user)
            .filter(deleted=None)
            .select_related("pinned__head")
            .prefetch_related(Prefetch("schemes", Scheme.objects.filter(deleted=None).select_related("head")))
        )
        return Response(cards(living))

    @extend_schema(request=ProjectRequest, responses={201: ProjectAnswer}, operation_id="begin_project")
    def post(self, request: Request) -> Response:
        """Create a project from a design document, which becomes its scheme A."""
        asked = ProjectRequest.model_validate(object_of(request))
        document, own = asked.document, habits_of(request.user).currency
        if own and "money" not in document:
            document = document | {"money": {"currency": own}}
        project = revising.begin_project(asked.name, document, asked.customer, asked.note, request.user)
        return Response(project_answer(project), status=201)


class ProjectView(APIView):
    @extend_schema(responses=ProjectAnswer, operation_id="project")
    def get(self, request: Request, project_id: int) -> Response:
        """A project and its schemes."""
        return Response(project_answer(project_of(request, project_id)))

    @extend_schema(request=ProjectEdit, responses=ProjectAnswer, operation_id="edit_project")
    def patch(self, request: Request, project_id: int) -> Response:
        """Rename a project or change its customer or note."""
        project, edit = project_of(request, project_id), ProjectEdit.model_validate(object_of(request))
        return Response(project_answer(revising.rename(project, edit.model_dump(exclude_unset=True, exclude_none=True))))

    @extend_schema(responses={204: None}, operation_id="delete_project")
    def delete(self, request: Request, project_id: int) -> Response:
        """Delete a project (can be restored)."""
        revising.delete(project_of(request, project_id))
        return Response(status=204)


class ProjectRestoreView(APIView):
    @extend_schema(request=None, responses=ProjectAnswer, operation_id="restore_project")
    def post(self, request: Request, project_id: int) -> Response:
        """Restore a deleted project."""
        project = get_object_or_404(Project.objects.visible_to(request.user), pk=project_id)
        revising.restore(project)
        return Response(project_answer(project))


class EstimateView(APIView):
    @extend_schema(request=EstimateRequest, responses=EstimateAnswer, operation_id="estimate")
    def post(self, request: Request) -> Response:
        """The Quick estimate: nothing is kept."""
        return Response(
            estimate(EstimateRequest.model_validate(object_of(request)), library_of(request.user), request.user).model_dump(
                mode="json"
            )
        )


class QuantitiesView(APIView):
    @extend_schema(responses=list_of(QuantityLine), operation_id="quantities")
    def get(self, request: Request) -> HttpResponseBase:
        """All hourly quantities."""
        return constant(request, _quantities)


def _quantities() -> list[dict]:
    return [
        QuantityLine(
            key=key, title=q.title, unit=q.unit, scope=q.scope, colour=q.colour, also=q.also, is_all_day=q.is_all_day
        ).model_dump()
        for key, q in QUANTITIES.items()
    ]


class FiguresView(APIView):
    @extend_schema(responses=FiguresAnswer, operation_id="figures")
    def get(self, request: Request) -> HttpResponseBase:
        """How every figure of the Headline and every line of the Cascade is titled and shown."""
        return constant(request, _figures)


def _figures() -> dict:
    figures = [
        FigureLine.model_validate(figure).model_copy(update={"unit": figure.unit.replace("{currency}", "currency")})
        for figure in FIGURES
    ]
    lines = [
        FigureLine(
            key=f"loss_{line.key}",
            title=line.title,
            unit="kWh",
            decimals=0,
            is_percentage=False,
            better="less",
            in_headline=False,
            also=line.also,
        )
        for line in LINES
    ]
    return FiguresAnswer(figures=figures, lines=lines).model_dump()


class DesignSchemaView(APIView):
    @extend_schema(responses={200: OpenApiResponse(OpenApiTypes.OBJECT, description="JSON Schema")}, operation_id="design_schema")
    def get(self, request: Request) -> HttpResponseBase:
        """JSON Schema of the design document: units, ranges, defaults and the reasons for them."""
        return constant(request, Design.model_json_schema)
