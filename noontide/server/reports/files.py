"""Reports as files, made as jobs: a long one says which page it is at, and can be cancelled."""

import re
import time
import uuid
from pathlib import Path
from typing import Literal

from django.conf import settings
from django.http import FileResponse, HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, Field, create_model
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.report import EDITIONS, MEDIA, PAGES, as_file, pages_of
from noontide.server.accounts.models import User
from noontide.server.files import write_whole
from noontide.server.jobs.kinds import Report as Progress
from noontide.server.jobs.kinds import job_kind
from noontide.server.jobs.running import start
from noontide.server.jobs.views import JobAnswer, job_answer
from noontide.server.problems import Problem
from noontide.server.projects.models import Revision, Scheme
from noontide.server.projects.requests import object_of, scheme_of
from noontide.server.projects.thinning import document_of
from noontide.server.reports.setting import scheme_address, set_report

KEPT_SECONDS = 24 * 3600.0  # that a file waits to be fetched
PATIENCE = 300.0  # s, for the other schemes beside this one
NAME = re.compile(r"[0-9a-f]{32}\.(pdf|html)")
# Of the work; setting the pages is most of it, writing the file the rest.
SETTING = 0.85


class ReportRequest(BaseModel):
    """What is to be set."""

    edition: str = Field("customer", max_length=40, description="whose pages are taken where none are named")
    pages: list[str] = Field([], max_length=len(PAGES))
    paper: str = Field("a4", max_length=8)
    kind: Literal["pdf", "html"] = "pdf"


class AskedReport(ReportRequest):
    """A request with the revision that it is about."""

    scheme: int
    revision: int
    owner: int
    address: str = Field("", max_length=300, description="where the scheme is opened, as it stands on paper")


class ReportFound(BaseModel):
    """A report that is ready to be fetched."""

    address: str
    file_name: str
    sheets: int
    bytes: int
    revision: int


ReportJob = create_model("ReportJob", __base__=JobAnswer, result=(ReportFound | None, None))


# Not in a process of its own: the stages that the server keeps make it ten times as fast, and it holds no lock for long.
@job_kind("report")
def make_report(asked: AskedReport, progress: Progress) -> ReportFound:
    """Set a report and keep its file for a day."""
    scheme = Scheme.objects.select_related("project", "head").get(pk=asked.scheme)
    head = Revision.objects.filter(scheme=scheme, number=asked.revision).first()
    if head is None:
        # The edits of one gesture are one revision, whose number rises with each.
        raise ValueError("The scheme has changed meanwhile. Begin the report again.")
    head.document = document_of(head)
    pages = asked.pages or list(pages_of(asked.edition))
    progress(0.02, "Simulating the year")

    def told(number: int, of: int, title: str) -> None:
        progress(0.05 + (SETTING - 0.05) * number / of, f"{title}, page {number + 1} of {of}")

    report, _ = set_report(scheme, head, User.objects.get(pk=asked.owner), pages, asked.paper, PATIENCE, told, asked.address)
    progress(SETTING, f"Writing {len(report.sheets)} sheets")
    content = as_file(report, asked.kind)
    _forget_old()
    name = f"{uuid.uuid4().hex}.{asked.kind}"
    write_whole(_folder() / name, content)
    file_name = f"report-scheme-{scheme.letter}-revision-{head.number}.{asked.kind}"
    return ReportFound(
        address=f"/api/report-files/{name}",
        file_name=file_name,
        sheets=len(report.sheets),
        bytes=len(content),
        revision=head.number,
    )


class ReportJobView(APIView):
    @extend_schema(request=ReportRequest, responses={202: ReportJob}, operation_id="begin_report")
    def post(self, request: Request, scheme_id: int) -> HttpResponse:
        """Begin to set a report of the scheme as it stands; the job's result names the file."""
        scheme, asked = scheme_of(request, scheme_id), ReportRequest.model_validate(object_of(request))
        if not asked.pages and asked.edition not in EDITIONS:
            raise Problem(422, "unknown-page", "There is no such edition", f"Choose {', '.join(EDITIONS)}.", "/edition")
        given = AskedReport(
            scheme=scheme.pk,
            revision=scheme.head.number,
            owner=request.user.pk,
            address=scheme_address(request, scheme),
            **asked.model_dump(),
        )
        return Response(job_answer(start("report", given, request.user)), status=202)


class ReportFileOfJobView(APIView):
    @extend_schema(
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, (200, "text/html"): OpenApiTypes.STR},
        operation_id="report_of_job",
    )
    def get(self, request: Request, name: str) -> FileResponse:
        """The file of a report that was made as a job; it is kept for a day."""
        from noontide.server.jobs.models import Job

        path = _folder() / name
        if not NAME.fullmatch(name) or not path.is_file():
            raise Problem(404, "not-found", "No such report", "It was made more than a day ago. Make it again.")
        job = get_object_or_404(Job.objects.visible_to(request.user), kind="report", result__address=f"/api/report-files/{name}")
        return FileResponse(
            path.open("rb"), content_type=MEDIA[name.rpartition(".")[2]], as_attachment=True, filename=job.result["file_name"]
        )


def _folder() -> Path:
    return Path(settings.DATA) / "reports"


def _forget_old() -> None:
    folder = _folder()
    for path in folder.glob("*") if folder.is_dir() else ():
        if time.time() - path.stat().st_mtime > KEPT_SECONDS:
            path.unlink(missing_ok=True)
