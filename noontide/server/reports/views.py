"""Reports of a scheme: what they can have, how they will print, and the files."""

from typing import Annotated, Any

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field, field_validator
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.drawing import as_svg
from noontide.core.fields import Line
from noontide.core.report import EDITIONS, MEDIA, PAGES, UnknownPage, as_file, pages_of
from noontide.core.report.logo import NoLogo, read_logo
from noontide.core.report.setting import PAPERS
from noontide.core.report.wording import languages
from noontide.server.problems import Problem
from noontide.server.projects.requests import scheme_of
from noontide.server.projects.scheme_file import scheme_file
from noontide.server.reports.models import Letterhead, OwnEdition
from noontide.server.reports.setting import LetterheadAnswer, LetterheadLine, letterhead_of, scheme_address, set_report
from noontide.server.uploads import FILE_FORM, read_apart, uploaded

MOST_EDITIONS = 100
LARGEST_LOGO = 10_000_000  # bytes
PATIENCE_OF_FILES = 60.0  # s, for the other schemes on a report that is taken away
Pages = Annotated[list[str], Field(min_length=1, max_length=len(PAGES))]


class PageLine(BaseModel):
    """A page that a report can have."""

    key: str
    title: str
    says: str


class EditionLine(BaseModel):
    """A set of pages for one reader; one's own have an id."""

    key: str
    title: str
    says: str
    pages: list[str]
    paper: str = "a4"
    is_own: bool = False


class LanguageLine(BaseModel):
    """A language that reports can be set in."""

    key: str
    name: str


class ReportCatalogue(BaseModel):
    """What a report can be made of."""

    pages: list[PageLine]
    editions: list[EditionLine]
    papers: list[str]
    languages: list[LanguageLine]


class KeptEdition(BaseModel):
    """An edition to be kept."""

    title: Line = Field(min_length=1, max_length=80)
    pages: Pages
    paper: str = "a4"

    @field_validator("pages")
    @classmethod
    def _pages_are_known(cls, pages: list[str]) -> list[str]:
        if unknown := [key for key in pages if key not in PAGES]:
            raise ValueError(f"There is no page '{unknown[0][:40]}'. Choose from {', '.join(PAGES)}.")
        return list(dict.fromkeys(pages))

    @field_validator("paper")
    @classmethod
    def _paper_is_known(cls, paper: str) -> str:
        if paper not in PAPERS:
            raise ValueError(f"Paper is {' or '.join(PAPERS)}.")
        return paper


class SheetLine(BaseModel):
    """A sheet of a report as it prints."""

    page: str
    width: float  # mm
    height: float
    svg: str


class OutlineLine(BaseModel):
    title: str
    sheet: int  # from 0
    level: int


class LeftOut(BaseModel):
    """A page that was asked for, and why it has nothing to show."""

    page: str
    why: str


class ReportAnswer(BaseModel):
    """A report of a revision, sheet by sheet."""

    revision: int
    sheets: list[SheetLine]
    outline: list[OutlineLine]
    left_out: list[LeftOut]
    untranslated: list[str] = Field(description="texts that the language does not have, which stand in English")
    waits_for: list[str] = Field(description="letters of other schemes that are still computed: ask again to have their figures")


ASKED = [
    OpenApiParameter("edition", str, description="whose pages are taken where none are named"),
    OpenApiParameter("pages", str, description="keys of pages in their order, between commas"),
    OpenApiParameter("paper", str, enum=list(PAPERS)),
]


class ReportsView(APIView):
    @extend_schema(responses=ReportCatalogue, operation_id="report_catalogue")
    def get(self, request: Request) -> Response:
        """The pages that a report can have, and the editions: those that ship and one's own."""
        own = OwnEdition.objects.visible_to(request.user)
        editions = [EditionLine(key=e.key, title=e.title, says=e.says, pages=list(e.pages)) for e in EDITIONS.values()]
        editions += [_own(edition) for edition in own]
        pages = [PageLine(key=page.key, title=page.title, says=page.says) for page in PAGES.values()]
        known = [LanguageLine(key=one.key, name=one.name) for one in languages().values()]
        return Response(
            ReportCatalogue(pages=pages, editions=editions, papers=list(PAPERS), languages=known).model_dump(mode="json")
        )

    @extend_schema(request=KeptEdition, responses={201: EditionLine}, operation_id="keep_edition")
    def post(self, request: Request) -> Response:
        """Keep pages as an edition of one's own; one of the same name is replaced."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        given = KeptEdition.model_validate(request.data)
        mine = OwnEdition.objects.visible_to(request.user)
        if mine.exclude(title=given.title).count() >= MOST_EDITIONS:
            raise Problem(409, "too-many", "Too many editions", f"{MOST_EDITIONS} are kept. Delete one first.")
        values = {"pages": given.pages, "paper": given.paper}
        edition, _ = OwnEdition.objects.update_or_create(owner=request.user, title=given.title, defaults=values)
        return Response(_own(edition).model_dump(mode="json"), status=201)


class EditionView(APIView):
    @extend_schema(responses={204: None}, operation_id="delete_edition")
    def delete(self, request: Request, key: Any) -> HttpResponse:
        """Delete an edition of one's own."""
        gone, _ = OwnEdition.objects.visible_to(request.user).filter(pk=key).delete()
        if not gone:
            raise Problem(404, "not-found", "No such edition", "It is deleted already, or one of those that ship.")
        return HttpResponse(status=204)


class LogoView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(request=FILE_FORM, responses=LetterheadAnswer, operation_id="set_logo")
    def post(self, request: Request) -> Response:
        """The logo of one's reports: PNG, JPEG or WebP, kept as large as paper can show it."""
        content = uploaded(request, LARGEST_LOGO, "The logo is too large").read()
        try:
            png, shape = read_apart(read_logo, content)
        except NoLogo as error:
            raise Problem(422, "no-logo", "The logo cannot be read", f"{error} Nothing was changed.") from None
        Letterhead.objects.update_or_create(owner=request.user, defaults={"logo": png, "logo_shape": shape})
        return Response(letterhead_of(request.user).model_dump(mode="json"))

    @extend_schema(responses={200: LetterheadAnswer}, operation_id="remove_logo")
    def delete(self, request: Request) -> Response:
        """Reports without a logo."""
        Letterhead.objects.visible_to(request.user).update(logo=b"")
        return Response(letterhead_of(request.user).model_dump(mode="json"))


class LetterheadView(APIView):
    @extend_schema(responses=LetterheadAnswer, operation_id="letterhead")
    def get(self, request: Request) -> Response:
        """Who one's reports are from."""
        return Response(letterhead_of(request.user).model_dump(mode="json"))

    @extend_schema(request=LetterheadLine, responses=LetterheadAnswer, operation_id="set_letterhead")
    def put(self, request: Request) -> Response:
        """Say who one's reports are from."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        given = LetterheadLine.model_validate(request.data)
        Letterhead.objects.update_or_create(owner=request.user, defaults=given.model_dump())
        return Response(letterhead_of(request.user).model_dump(mode="json"))


class ReportView(APIView):
    @extend_schema(parameters=ASKED, responses=ReportAnswer, operation_id="report")
    def get(self, request: Request, scheme_id: int) -> Response:
        """A report of the scheme as it stands, sheet by sheet as it prints."""
        scheme = scheme_of(request, scheme_id)
        head = scheme.head
        pages, paper = _asked(request)
        report, missing = set_report(scheme, head, request.user, pages, paper, address=scheme_address(request, scheme))
        answer = ReportAnswer(
            revision=head.number,
            sheets=[
                SheetLine(page=page, width=sheet.width, height=sheet.height, svg=as_svg(sheet))
                for page, sheet in zip(report.pages, report.sheets, strict=True)
            ],
            outline=[OutlineLine(title=mark.title, sheet=mark.sheet, level=mark.level) for mark in report.outline],
            left_out=[LeftOut(page=page, why=why) for page, why in report.left_out],
            untranslated=list(report.untranslated),
            waits_for=missing,
        )
        return Response(answer.model_dump(mode="json"))


class ReportFileView(APIView):
    @extend_schema(
        parameters=[*ASKED, OpenApiParameter("kind", str, enum=["pdf", "html"])],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, (200, "text/html"): OpenApiTypes.STR},
        operation_id="report_file",
    )
    def get(self, request: Request, scheme_id: int) -> HttpResponse:
        """A report of the scheme as it stands, as PDF or as one HTML file."""
        scheme, kind = scheme_of(request, scheme_id), request.query_params.get("kind", "pdf")
        if kind not in MEDIA:
            raise Problem(422, "unknown-kind", "Unknown kind", "Kind is pdf or html.")
        pages, paper = _asked(request)
        address = scheme_address(request, scheme)
        report, _ = set_report(scheme, scheme.head, request.user, pages, paper, PATIENCE_OF_FILES, address=address)
        return scheme_file(as_file(report, kind), MEDIA[kind], scheme, "report", kind)


def _own(edition: OwnEdition) -> EditionLine:
    known = [key for key in edition.pages if key in PAGES]
    return EditionLine(key=str(edition.pk), title=edition.title, says="", pages=known, paper=edition.paper, is_own=True)


def _asked(request: Request) -> tuple[list[str], str]:
    """Pages and paper of an address."""
    named = [key for key in request.query_params.get("pages", "")[:4000].split(",") if key]
    try:
        pages = named or list(pages_of(request.query_params.get("edition", "customer")))
    except UnknownPage as error:
        raise Problem(422, "unknown-page", "This report cannot be made", str(error)) from None
    return pages, request.query_params.get("paper", "a4")
