"""Addresses of projects that travel."""

import json
import re

from django.conf import settings
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.cells import XLSX
from noontide.core.costs.workbook import money_workbook
from noontide.core.exchange import pack
from noontide.server.exchange.bringing import bring_in, look_into
from noontide.server.exchange.gathering import project_file_of
from noontide.server.exchange.ways import WaysAnswer, ways_of
from noontide.server.list_of import list_of
from noontide.server.problems import Problem
from noontide.server.projects.answers import project_answer
from noontide.server.projects.api_models import ProjectAnswer
from noontide.server.projects.evaluator import results_for
from noontide.server.projects.requests import project_of, scheme_of
from noontide.server.projects.scheme_file import scheme_file
from noontide.server.uploads import file_form, uploaded

PROJECT_FILE = "application/vnd.noontide.project+zip"
PARQUET = "application/vnd.apache.parquet"


class BroughtAnswer(BaseModel):
    """What a project's file brings, or has brought."""

    words: list[str]
    project: ProjectAnswer | None = Field(description="none where the file was only looked into")


class ProjectFileView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("history", bool, description="with every revision, as it is by default, or the heads alone")
        ],
        responses={(200, PROJECT_FILE): OpenApiTypes.BINARY},
        operation_id="project_file",
    )
    def get(self, request: Request, project_id: int) -> HttpResponse:
        """The project as one file, with its weather, measured use, pictures and own parts; see docs/formats/project-file.md."""
        project = project_of(request, project_id)
        with_history = request.query_params.get("history", "true") != "false"
        content = pack(project_file_of(project, request.user, with_history))
        name = re.sub(r"[^A-Za-z0-9]+", "-", project.name).strip("-").lower()[:60] or "project"
        answer = HttpResponse(content, content_type=PROJECT_FILE)
        answer.headers["Content-Disposition"] = f'attachment; filename="{name}.noontide"'
        return answer


class ProjectFilesView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request=file_form(look={"type": "boolean", "description": "say what it would bring, and bring nothing"}),
        responses={200: BroughtAnswer, 201: BroughtAnswer},
        operation_id="bring_in_project",
    )
    def post(self, request: Request) -> Response:
        """Bring in a project from its file; all of it, or nothing."""
        content = uploaded(request, settings.UPLOAD_LIMIT).read()
        if request.data.get("look") == "true":
            return Response(BroughtAnswer(words=list(look_into(content)), project=None).model_dump(mode="json"))
        brought = bring_in(content, request.user)
        project = ProjectAnswer.model_validate(project_answer(brought.project))
        return Response(BroughtAnswer(words=list(brought.words), project=project).model_dump(mode="json"), status=201)


class SchemeDocumentView(APIView):
    @extend_schema(responses={(200, "application/json"): OpenApiTypes.OBJECT}, operation_id="scheme_document")
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """The design document as a file, as the command line reads it."""
        scheme = scheme_of(request, scheme_id)
        text = json.dumps(scheme.head.document, ensure_ascii=False, indent=1) + "\n"
        return scheme_file(text, "application/json", scheme, "design", "json")


class HoursFileView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["csv", "parquet"])],
        responses={(200, "text/csv"): OpenApiTypes.STR, (200, PARQUET): OpenApiTypes.BINARY},
        operation_id="hours_file",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """Every quantity of every interval of the year as one table."""
        scheme, kind = scheme_of(request, scheme_id), request.query_params.get("kind", "csv")
        if kind not in ("csv", "parquet"):
            raise Problem(422, "unknown-kind", "Unknown kind", "Kind is csv or parquet.")
        table = results_for(scheme.head.document).hourly()
        if kind == "csv":
            return scheme_file(table.to_csv(), "text/csv; charset=utf-8", scheme, "hours", "csv")
        return scheme_file(table.to_parquet(), PARQUET, scheme, "hours", "parquet")


class WorkbookView(APIView):
    @extend_schema(responses={(200, XLSX): OpenApiTypes.BINARY}, operation_id="workbook")
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """Purchase, materials, bills and cash as a workbook with live formulas."""
        scheme = scheme_of(request, scheme_id)
        return scheme_file(money_workbook(results_for(scheme.head.document)), XLSX, scheme, "money", "xlsx")


class TakeAwayView(APIView):
    @extend_schema(responses=list_of(WaysAnswer), operation_id="take_away")
    def get(self, request: Request, scheme_id: int) -> Response:
        """All that a scheme and its project can be written as, with what each is good for."""
        return Response([group.model_dump(mode="json") for group in ways_of(scheme_of(request, scheme_id))])
