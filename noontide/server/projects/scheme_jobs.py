"""Long work on a scheme: each kind is one function of a design, the libraries and its own arguments, with one address to begin and to read it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, get_type_hints

from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, create_model
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.server.accounts.models import User
from noontide.server.jobs.kinds import Report, job_kind
from noontide.server.jobs.models import Job
from noontide.server.jobs.running import start
from noontide.server.jobs.views import JobAnswer, job_answer
from noontide.server.parsers import JSONParser
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.models import Scheme
from noontide.server.projects.requests import object_of, scheme_of


class NoArguments(BaseModel):
    """Nothing but the scheme."""

    model_config = ConfigDict(extra="forbid")


class OfRevision(BaseModel):
    """What is found for a scheme: the revision that it belongs to."""

    revision: int


class AskedOfScheme(BaseModel):
    """A job on a scheme as it is stored: the design as it was, and for whom."""

    scheme: int
    revision: int
    document: dict[str, Any]
    owner: int
    arguments: dict[str, Any] = {}


@dataclass(frozen=True)
class Given:
    """All that the work of a job on a scheme may look at; it sees neither disk nor database."""

    revision: int
    document: dict[str, Any]
    libraries: Libraries
    arguments: Any
    more: Any = None

    @property
    def design(self) -> Design:
        return Design.read(self.document)


@dataclass(frozen=True)
class SchemeKind:
    """A kind of long work on a scheme."""

    name: str
    words: str
    arguments: type[BaseModel]
    found: type[OfRevision]
    may_begin: Callable[[Design, User], None] | None


Work = Callable[[Given, Report], Any]
SCHEME_KINDS: dict[str, SchemeKind] = {}


def scheme_kind(
    name: str,
    arguments: type[BaseModel] = NoArguments,
    may_begin: Callable[[Design, User], None] | None = None,
    more: Callable[[Design], Any] | None = None,
) -> Callable[[Work], Work]:
    """Register `(given, report) -> found` as long work on a scheme.

    Parameters
    ----------
    arguments : type
        Of what it is asked beside the scheme.
    may_begin : function, optional
        Raises a Problem where the design cannot be asked.
    more : function, optional
        What it needs beside the libraries, by content.
    """

    def gather(asked: AskedOfScheme) -> Given:
        design = Design.read(asked.document)
        libraries = libraries_of(design, User.objects.get(pk=asked.owner))
        given = arguments.model_validate(asked.arguments)
        return Given(asked.revision, asked.document, libraries, given, more(design) if more is not None else None)

    def register(work: Work) -> Work:
        found = get_type_hints(work)["return"]
        SCHEME_KINDS[name] = SchemeKind(name, (work.__doc__ or "").strip(), arguments, found, may_begin)
        return job_kind(name, is_heavy=True, gather=gather, asked=AskedOfScheme)(work)

    return register


def asked_of(scheme: Scheme, kind: SchemeKind, arguments: dict[str, Any], owner: User) -> AskedOfScheme:
    """What a job is asked about a scheme at its newest revision.

    Raises
    ------
    Problem, pydantic.ValidationError
        If the design cannot be asked, or the arguments do not fit.
    """
    given = kind.arguments.model_validate(arguments)
    head = scheme.head
    if kind.may_begin is not None:
        kind.may_begin(Design.read(head.document), owner)
    kept = given.model_dump(mode="json")
    return AskedOfScheme(scheme=scheme.pk, revision=head.number, document=head.document, owner=owner.pk, arguments=kept)


def job_view(kind: SchemeKind) -> type[APIView]:
    """The address of a kind: a POST begins it, a GET reads the last one."""
    answer = create_model(f"{kind.found.__name__}Job", __base__=JobAnswer, result=(kind.found | None, None))

    class SchemeJobView(APIView):
        parser_classes = [JSONParser]

        @extend_schema(request=kind.arguments, responses={202: answer}, operation_id=f"begin_{kind.name}", description=kind.words)
        def post(self, request: Request, scheme_id: int) -> HttpResponse:
            asked = asked_of(scheme_of(request, scheme_id), kind, object_of(request), request.user)
            # Only the last one is read: what ended before goes, with the design that it was asked about.
            ended = Job.objects.visible_to(request.user).exclude(state__in=[Job.State.WAITING, Job.State.RUNNING])
            ended.filter(kind=kind.name, parameters__scheme=asked.scheme).delete()
            return Response(job_answer(start(kind.name, asked, request.user)), status=202)

        @extend_schema(
            responses={200: answer, 204: None}, operation_id=f"latest_{kind.name}", description="The last one of this scheme."
        )
        def get(self, request: Request, scheme_id: int) -> HttpResponse:
            scheme = scheme_of(request, scheme_id)
            job = Job.objects.visible_to(request.user).filter(kind=kind.name, parameters__scheme=scheme.pk).first()
            return Response(status=204) if job is None else Response(job_answer(job))

    return SchemeJobView
