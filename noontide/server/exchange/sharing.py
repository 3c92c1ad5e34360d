"""Views to share: an address that shows one revision to whoever has it, until it expires or is taken back."""

from datetime import datetime, timedelta
from typing import Any, Literal

from django.http import HttpResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.brief.prose import prose_of
from noontide.core.drawing import as_svg
from noontide.core.report import EDITIONS, MEDIA, Report, as_file, pages_of, report_of
from noontide.server.exchange.models import SharedView
from noontide.server.problems import Problem
from noontide.server.projects.evaluator import evaluator, results_for
from noontide.server.projects.hourly import as_columns
from noontide.server.projects.money_answer import FigureText
from noontide.server.projects.requests import object_of, scheme_of
from noontide.server.projects.stages import STAGES
from noontide.server.reports.setting import about_of, letterhead_of, title_of, wording_of

DAYS, LEAST_DAYS = 30, 1
MOST_DAYS = 366
MOST_VIEWS = 200  # of a user
PATIENCE = 10.0  # s that the figures of a view are waited for
SHOWN_QUANTITIES = ["delivered", "daylight"]


class ViewRequest(BaseModel):
    """What is to be shared."""

    model_config = ConfigDict(extra="forbid")

    days: int = Field(DAYS, ge=LEAST_DAYS, le=MOST_DAYS, title="Days", json_schema_extra={"x-unit": "d"})
    edition: str = Field("customer", max_length=40, title="Edition")


class ViewLine(BaseModel):
    """An address that shows a revision."""

    id: str
    address: str = Field(description="of the page, below this server's own address")
    revision: int
    edition: str
    created: datetime
    expires: datetime
    is_current: bool = Field(description="whether the scheme still stands at that revision")


class ViewsAnswer(BaseModel):
    """The views of a scheme that are shared, and what a new one begins with."""

    views: list[ViewLine]
    days: int = Field(description="of a new one, until it expires")
    least_days: int
    most_days: int


class ProseLine(BaseModel):
    """A paragraph of the Brief; what stands out from its sentences is marked."""

    title: str
    runs: list[tuple[str, bool]]


class SheetOfView(BaseModel):
    width: float
    height: float
    svg: str


class ViewAnswer(BaseModel):
    """A revision as others see it."""

    project: str
    scheme: str
    revision: int
    sender: str
    contact: str
    created: datetime
    expires: datetime
    state: Literal["exact", "pending", "failed", "open"]
    figures: list[FigureText]
    monthly_energy: list[float]
    checks: list[str] = Field(description="open findings, by their titles")
    brief: list[ProseLine]


class SheetsAnswer(BaseModel):
    sheets: list[SheetOfView]


class SharedViewsView(APIView):
    @extend_schema(responses=ViewsAnswer, operation_id="shared_views")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The addresses under which revisions of a scheme can be read by others."""
        scheme = scheme_of(request, scheme_id)
        lines = [_line(view) for view in _living(request.user).filter(scheme=scheme)]
        return Response(ViewsAnswer(views=lines, days=DAYS, least_days=LEAST_DAYS, most_days=MOST_DAYS).model_dump(mode="json"))

    @extend_schema(request=ViewRequest, responses={201: ViewLine}, operation_id="share_view")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Share the scheme as it stands: a long address by chance, which expires."""
        scheme, asked = scheme_of(request, scheme_id), ViewRequest.model_validate(object_of(request))
        if asked.edition not in EDITIONS:
            raise Problem(422, "unknown-page", "There is no such edition", f"Choose {', '.join(EDITIONS)}.", "/edition")
        if _living(request.user).count() >= MOST_VIEWS:
            raise Problem(409, "too-many", "Too many views are shared", f"{MOST_VIEWS} are kept. Take one back first.")
        view = SharedView.objects.create(
            owner=request.user,
            scheme=scheme,
            project_name=scheme.project.name,
            customer=scheme.project.customer,
            scheme_title=title_of(scheme)[:200],
            revision=scheme.head.number,
            document=scheme.head.document,
            edition=asked.edition,
            expires=timezone.now() + timedelta(days=asked.days),
        )
        return Response(_line(view).model_dump(mode="json"), status=201)


class SharedViewView(APIView):
    @extend_schema(responses={204: None}, operation_id="take_back_view")
    def delete(self, request: Request, key: Any) -> HttpResponse:
        """Take a view back: its address shows nothing any more."""
        gone, _ = SharedView.objects.visible_to(request.user).filter(pk=key).delete()
        if not gone:
            raise Problem(404, "not-found", "No such view", "It is taken back already.")
        return HttpResponse(status=204)


class ReadViewView(APIView):
    @extend_schema(responses=ViewAnswer, operation_id="read_view")
    def get(self, request: Request, token: str) -> Response:
        """What a shared address shows: figures, the Brief, months."""
        view = _view(token)
        evaluated = evaluator.ask(view.document, _own_queue(view), PATIENCE)
        shown = evaluated.evaluation
        letterhead = letterhead_of(view.owner)
        answer = ViewAnswer(
            project=view.project_name,
            scheme=view.scheme_title,
            revision=view.revision,
            sender=letterhead.sender,
            contact=letterhead.contact,
            created=view.created,
            expires=view.expires,
            state=evaluated.state,
            figures=shown.figures,
            monthly_energy=shown.headline.monthly_energy if shown.headline else [],
            checks=[check.title for check in shown.checks if not check.accepted],
            brief=_brief(view) if evaluated.state == "exact" else [],
        )
        return Response(answer.model_dump(mode="json"))


class ReadViewYearView(APIView):
    @extend_schema(responses={(200, "application/vnd.noontide.columns"): OpenApiTypes.BINARY}, operation_id="read_view_year")
    def get(self, request: Request, token: str) -> HttpResponse:
        """The power of every interval of a shared revision, for its Tideline; see docs/formats/columns.md."""
        view = _view(token)
        return as_columns(results_for(view.document), SHOWN_QUANTITIES, None, view.revision)


class ReadViewReportView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=["sheets", "pdf", "html"])],
        responses={
            (200, "application/json"): SheetsAnswer,
            (200, "application/pdf"): OpenApiTypes.BINARY,
            (200, "text/html"): OpenApiTypes.STR,
        },
        operation_id="read_view_report",
    )
    def get(self, request: Request, token: str) -> HttpResponse | Response:
        """The report of a shared revision: as sheets, as PDF, or as one HTML file."""
        view, kind = _view(token), request.query_params.get("kind", "sheets")
        if kind not in ("sheets", *MEDIA):
            raise Problem(422, "unknown-kind", "Unknown kind", "Kind is sheets, pdf or html.")
        report = _report(view)
        if kind == "sheets":
            sheets = [SheetOfView(width=sheet.width, height=sheet.height, svg=as_svg(sheet)) for sheet in report.sheets]
            return Response(SheetsAnswer(sheets=sheets).model_dump(mode="json"))
        name = f"report-revision-{view.revision}.{kind}"
        return HttpResponse(
            as_file(report, kind), content_type=MEDIA[kind], headers={"Content-Disposition": f'attachment; filename="{name}"'}
        )


def _living(user: Any) -> Any:
    """The views of a user that have not expired; those that have are deleted when they are looked for."""
    mine = SharedView.objects.visible_to(user)
    mine.filter(expires__lte=timezone.now()).delete()
    return mine


def _view(token: str) -> SharedView:
    view = SharedView.objects.select_related("owner").filter(token=token, expires__gt=timezone.now()).first()
    if view is None or view.scheme.deleted is not None or view.scheme.project.deleted is not None:
        raise Problem(
            404, "not-shared", "Nothing is shared here", "The address has expired or was taken back. Ask for a new one."
        )
    return view


def _line(view: SharedView) -> ViewLine:
    assert view.scheme.head is not None, "a scheme has a head from its first moment on"
    return ViewLine(
        id=str(view.pk),
        address=f"/shared/{view.token}",
        revision=view.revision,
        edition=view.edition,
        created=view.created,
        expires=view.expires,
        is_current=view.scheme.head.document == view.document,
    )


def _own_queue(view: SharedView) -> int:
    """Views wait for nobody's edits, and nobody's edits for them."""
    return -1 - view.pk.int % 2**31


def _brief(view: SharedView) -> list[ProseLine]:
    return [ProseLine(title=one.title, runs=list(one.runs)) for one in prose_of(results_for(view.document))]


def _report(view: SharedView) -> Report:
    results = results_for(view.document)
    about = about_of(view.project_name, view.customer, view.scheme_title, view.revision, view.created, view.document, view.owner)
    return report_of(results, about, pages_of(view.edition), "a4", STAGES, words=wording_of(view.owner))
