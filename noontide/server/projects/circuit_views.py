"""What the Circuits bench asks: strings, cables, protection, the one-line diagram and the bill of materials."""

from typing import ClassVar

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.cells import XLSX
from noontide.core.costs.bill import bill_as_csv, bill_of
from noontide.core.costs.workbook import bill_as_xlsx
from noontide.core.drawing import PAPERS, as_dxf, as_pdf, as_svg
from noontide.core.drawings.off_grid_sheet import off_grid_sheet
from noontide.core.drawings.one_line import one_line
from noontide.core.drawings.string_sheet import string_sheet
from noontide.core.finding import FindRequest
from noontide.server.parsers import JSONParser
from noontide.server.parts_library.library import library_of
from noontide.server.problems import Problem
from noontide.server.projects.api_models import VoltageAnswer
from noontide.server.projects.bill_answer import BillAnswer, bill_answer
from noontide.server.projects.diagram_answer import DiagramAnswer, diagram_answer
from noontide.server.projects.evaluator import results_for
from noontide.server.projects.preview import PreviewAnswer, PreviewRequest, preview
from noontide.server.projects.requests import scheme_of
from noontide.server.projects.scheme_file import scheme_file
from noontide.server.projects.string_finding import FoundStrings, find_strings
from noontide.server.projects.string_voltages import voltages_of
from noontide.server.projects.tracker_curve import CurveAnswer, curve_of
from noontide.server.projects.wiring_answer import WiringAnswer, wiring_of


class TrackerCurveView(APIView):
    @extend_schema(responses=CurveAnswer, operation_id="tracker_curve")
    def get(self, request: Request, scheme_id: int, subarray: str, interval: int) -> Response:
        """The current-voltage curve of all strings on a sub-array's tracker in one interval."""
        scheme = scheme_of(request, scheme_id)
        results = results_for(scheme.head.document)
        if interval >= results.calendar.intervals:
            raise Problem(
                422, "no-such-interval", "Interval out of range", f"The year has {results.calendar.intervals} intervals, from 0."
            )
        try:
            found = curve_of(results, subarray, interval, scheme.head.number)
        except KeyError:
            raise Problem(404, "not-found", "Unknown sub-array", f"The scheme has no sub-array '{subarray}'.") from None
        return Response(found.model_dump(mode="json"))


class FindStringsView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=FindRequest, responses=FoundStrings, operation_id="find_strings")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Ways to connect the modules of a surface to inverters, each with its simulated year; nothing is changed."""
        scheme = scheme_of(request, scheme_id)
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        found = find_strings(scheme.head.document, FindRequest.model_validate(request.data), scheme.head.number, request.user)
        return Response(found.model_dump(mode="json"))


class VoltagesView(APIView):
    @extend_schema(responses=VoltageAnswer, operation_id="voltages")
    def get(self, request: Request, scheme_id: int, subarray: str) -> Response:
        """The year's string voltages for every length near the present one, on the inverter's scale."""
        scheme = scheme_of(request, scheme_id)
        try:
            found = voltages_of(results_for(scheme.head.document), subarray, scheme.head.number)
        except KeyError:
            raise Problem(404, "not-found", "Unknown sub-array", f"The scheme has no sub-array '{subarray}'.") from None
        return Response(found.model_dump(mode="json"))


class PreviewView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=PreviewRequest, responses=PreviewAnswer, operation_id="preview")
    def post(self, request: Request, scheme_id: int) -> Response:
        """What an edit would change, before it is made."""
        scheme = scheme_of(request, scheme_id)
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = PreviewRequest.model_validate(request.data)
        found = preview(scheme.head.document, asked, library_of(request.user), scheme.head.number)
        return Response(found.model_dump(mode="json"))


class WiringView(APIView):
    @extend_schema(responses=WiringAnswer, operation_id="wiring")
    def get(self, request: Request, scheme_id: int) -> Response:
        """Every cable with its section, loss and cost, and all protection, each held against its rule."""
        scheme = scheme_of(request, scheme_id)
        library = library_of(request.user)
        return Response(wiring_of(results_for(scheme.head.document), library, scheme.head.number).model_dump(mode="json"))


class DiagramView(APIView):
    kinds: ClassVar = ("json", "svg", "pdf", "dxf")

    @extend_schema(
        parameters=[
            OpenApiParameter("paper", str, enum=list(PAPERS), description="landscape"),
            OpenApiParameter("kind", str, enum=["json", "svg", "pdf", "dxf"]),
            OpenApiParameter("sheet", int, description="of an SVG, from 1; the first if it is left out"),
        ],
        responses={
            (200, "application/json"): DiagramAnswer,
            (200, "image/svg+xml"): OpenApiTypes.STR,
            (200, "application/pdf"): OpenApiTypes.BINARY,
            (200, "image/vnd.dxf"): OpenApiTypes.STR,
        },
        operation_id="diagram",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """The one-line diagram of the plant."""
        scheme = scheme_of(request, scheme_id)
        paper, kind = request.query_params.get("paper", "a4"), request.query_params.get("kind", "json")
        if paper not in PAPERS or kind not in self.kinds:
            raise Problem(
                422, "unknown-paper", "Unknown paper or kind", f"Paper is {' or '.join(PAPERS)}; kind is {', '.join(self.kinds)}."
            )
        project = scheme.project.name
        footnote = f"Scheme {scheme.letter}, {scheme.head.document.get('name', '')}, revision {scheme.head.number}"
        sheets = one_line(results_for(scheme.head.document), paper, project, footnote)
        if kind == "json":
            return Response(diagram_answer(sheets, scheme.head.number).model_dump(mode="json"))
        if kind == "svg":
            number = request.query_params.get("sheet", "1")
            if not (number.isascii() and number.isdigit() and 1 <= int(number[:4]) <= len(sheets)):
                raise Problem(422, "no-such-sheet", "No such sheet", f"The diagram has {len(sheets)}, from 1.")
            return scheme_file(as_svg(sheets[int(number) - 1]), "image/svg+xml", scheme, "one-line", "svg")
        if kind == "pdf":
            return scheme_file(as_pdf(sheets, f"{project}, one-line diagram"), "application/pdf", scheme, "one-line", "pdf")
        return scheme_file(as_dxf(sheets), "image/vnd.dxf", scheme, "one-line", "dxf")


class StringSheetView(APIView):
    @extend_schema(responses={(200, "application/pdf"): OpenApiTypes.BINARY}, operation_id="string_sheet")
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """A page on the strings, every figure against its limit, as PDF."""
        scheme = scheme_of(request, scheme_id)
        footnote = f"Scheme {scheme.letter}, revision {scheme.head.number}"
        sheets = string_sheet(results_for(scheme.head.document), scheme.project.name, footnote)
        return scheme_file(as_pdf(sheets), "application/pdf", scheme, "strings", "pdf")


class OffGridSheetView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["pdf", "svg"])],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, (200, "image/svg+xml"): OpenApiTypes.STR},
        operation_id="off_grid_sheet",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """A place without a grid on one page: diagram, worksheet, proof and costs."""
        scheme, kind = scheme_of(request, scheme_id), request.query_params.get("kind", "pdf")
        if kind not in ("pdf", "svg"):
            raise Problem(422, "unknown-kind", "Unknown kind", "Kind is pdf or svg.")
        footnote = (
            f"Place without a grid. Scheme {scheme.letter}, {scheme.head.document.get('name', '')}, revision {scheme.head.number}"
        )
        try:
            sheet = off_grid_sheet(results_for(scheme.head.document), scheme.project.name, footnote)
        except ValueError as error:
            raise Problem(409, "not-off-grid", "There is no worksheet", str(error)) from None
        if kind == "svg":
            return scheme_file(as_svg(sheet), "image/svg+xml", scheme, "without-a-grid", "svg")
        return scheme_file(as_pdf([sheet]), "application/pdf", scheme, "without-a-grid", "pdf")


class BillView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["json", "csv", "xlsx"])],
        responses={
            (200, "application/json"): BillAnswer,
            (200, "text/csv"): OpenApiTypes.STR,
            (200, XLSX): OpenApiTypes.BINARY,
        },
        operation_id="bill",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """Every part of the plant with its count or length, mass and price."""
        scheme = scheme_of(request, scheme_id)
        kind = request.query_params.get("kind", "json")
        if kind not in ("json", "csv", "xlsx"):
            raise Problem(422, "unknown-kind", "Unknown kind", "Kind is json, csv or xlsx.")
        bill = bill_of(results_for(scheme.head.document), library_of(request.user))
        if kind == "csv":
            return scheme_file(bill_as_csv(bill), "text/csv; charset=utf-8", scheme, "bill", "csv")
        if kind == "xlsx":
            return scheme_file(bill_as_xlsx(bill), XLSX, scheme, "bill", "xlsx")
        return Response(bill_answer(bill, scheme.head.number).model_dump(mode="json"))
