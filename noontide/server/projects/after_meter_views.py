"""What the benches Demand and Money ask, and what is done to a design by name."""

from typing import Any

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.behind_meter.demand_picture import GROUPS
from noontide.core.estimate import EstimateRequest
from noontide.core.finding import FindRequest
from noontide.core.verbs.catalogue import VERBS
from noontide.core.verbs.targets import DesignTo
from noontide.server.constant import constant
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.problems import Problem
from noontide.server.projects import revising
from noontide.server.projects.answers import scheme_answer
from noontide.server.projects.api_models import SchemeAnswer
from noontide.server.projects.demand_answer import DemandAnswer, DemandKinds, demand_answer, demand_kinds
from noontide.server.projects.evaluator import results_for
from noontide.server.projects.events import announce_revision
from noontide.server.projects.money_answer import MoneyAnswer, money_answer
from noontide.server.projects.requests import EDIT, IF_MATCH, gesture, if_match, object_of, scheme_of
from noontide.server.projects.storage_answer import (
    OffGridAnswer,
    SizeLine,
    StorageAnswer,
    StorageDay,
    off_grid_answer,
    power_lines,
    storage_answer,
    storage_day,
)
from noontide.tariffs import built_in_tariffs


class DemandView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("days", str, enum=list(GROUPS), description="of which average days are made")],
        responses=DemandAnswer,
        operation_id="demand",
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """Who uses the energy, and when: sources, average days beside the sun, duration curve."""
        scheme, days = scheme_of(request, scheme_id), request.query_params.get("days", "kind")
        if days not in GROUPS:
            raise Problem(422, "bad-query", f"Average days are by {' or '.join(GROUPS)}; 'days' is '{days[:20]}'.")
        return Response(demand_answer(results_for(scheme.head.document), scheme.head.number, days).model_dump(mode="json"))


class MoneyView(APIView):
    @extend_schema(responses=MoneyAnswer, operation_id="money")
    def get(self, request: Request, scheme_id: int) -> Response:
        """Tariff, bills before and after, purchase, cash by year, sensitivities."""
        scheme = scheme_of(request, scheme_id)
        return Response(money_answer(results_for(scheme.head.document), scheme.head.number).model_dump(mode="json"))


class StorageView(APIView):
    @extend_schema(responses=StorageAnswer, operation_id="storage")
    def get(self, request: Request, scheme_id: int) -> Response:
        """What a battery does in the year, and what one of any size would do."""
        scheme = scheme_of(request, scheme_id)
        return Response(storage_answer(results_for(scheme.head.document), scheme.head.number).model_dump(mode="json"))


class StoragePowersView(APIView):
    @extend_schema(responses=list_of(SizeLine), operation_id="storage_powers")
    def get(self, request: Request, scheme_id: int) -> Response:
        """What the battery would do with any power, its energy as it is; the first line is no battery."""
        lines = power_lines(results_for(scheme_of(request, scheme_id).head.document))
        return Response([line.model_dump(mode="json") for line in lines])


class OffGridView(APIView):
    @extend_schema(responses=OffGridAnswer, operation_id="off_grid")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The worksheet of a place without a grid, its hourly proof, and the map of sizes."""
        scheme = scheme_of(request, scheme_id)
        return Response(off_grid_answer(results_for(scheme.head.document), scheme.head.number).model_dump(mode="json"))


class StorageDayView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("interval", int, required=True, description="of the year, from 0")],
        responses=StorageDay,
        operation_id="storage_day",
    )
    def get(self, request: Request, scheme_id: int) -> Response:
        """The flows of the day of an interval, and how long an outage after it would be survived."""
        scheme, text = scheme_of(request, scheme_id), request.query_params.get("interval", "")
        results = results_for(scheme.head.document)
        last = results.calendar.intervals - 1
        if not text.isdecimal() or len(text) > 9 or int(text) > last:
            raise Problem(422, "bad-query", f"The year has the intervals 0 to {last:,}; 'interval' is '{text[:20]}'.")
        return Response(storage_day(results, scheme.head.number, int(text)).model_dump(mode="json"))


class DemandKindsView(APIView):
    @extend_schema(responses=DemandKinds, operation_id="demand_kinds")
    def get(self, request: Request) -> HttpResponseBase:
        """What a source of demand can be, with shapes and templates."""
        return constant(request, _demand_kinds)


def _demand_kinds() -> dict:
    return demand_kinds().model_dump(mode="json")


class TariffLine(BaseModel):
    key: str
    name: str
    source: str
    tariff: dict[str, Any]


class TariffsView(APIView):
    @extend_schema(responses=list_of(TariffLine), operation_id="tariffs")
    def get(self, request: Request) -> HttpResponseBase:
        """The tariffs that ship."""
        return constant(request, _tariffs)


def _tariffs() -> list[dict]:
    lines = [
        TariffLine(key=key, name=t.name, source=t.source, tariff=t.model_dump(mode="json", exclude_unset=True))
        for key, t in built_in_tariffs().items()
    ]
    return [line.model_dump(mode="json") for line in lines]


class VerbLine(BaseModel):
    name: str
    title: str
    arguments: dict[str, Any] = Field(description="JSON Schema")


class QuestionLine(BaseModel):
    name: str
    arguments: dict[str, Any] = Field(description="JSON Schema")


class VerbsView(APIView):
    @extend_schema(responses=list_of(VerbLine), operation_id="verbs")
    def get(self, request: Request) -> HttpResponseBase:
        """What can be done to a design by name, with the schema of its arguments."""
        return constant(request, _verbs)


def _verbs() -> list[dict]:
    lines = [VerbLine(name=name, title=v.title, arguments=v.arguments.model_json_schema()) for name, v in VERBS.items()]
    return [line.model_dump(mode="json") for line in lines]


class QuestionsView(APIView):
    @extend_schema(responses=list_of(QuestionLine), operation_id="questions")
    def get(self, request: Request) -> HttpResponseBase:
        """What can be asked of the finder and of the estimate, with the schema of it: its ranges and choices."""
        return constant(request, _questions)


QUESTIONS: dict[str, type[BaseModel]] = {
    "find-strings": FindRequest,
    "estimate": EstimateRequest,
    "design-to": DesignTo,
}


def _questions() -> list[dict]:
    return [
        QuestionLine(name=name, arguments=asked.model_json_schema()).model_dump(mode="json") for name, asked in QUESTIONS.items()
    ]


class ActView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(
        request={"application/json": {"type": "object"}}, parameters=[IF_MATCH, EDIT], responses=SchemeAnswer, operation_id="act"
    )
    def post(self, request: Request, scheme_id: int, verb: str) -> HttpResponse:
        """Apply a verb to the design: one revision, one undo."""
        based_on, edit = if_match(request), gesture(request)
        scheme, arguments = scheme_of(request, scheme_id), object_of(request)
        if verb not in VERBS:
            raise Problem(404, "not-found", "No such act", f"Choose among {', '.join(VERBS)}.")
        revision, patch, words = revising.act(scheme, verb, arguments, based_on=based_on, author=request.user, gesture=edit)
        announce_revision(scheme.pk, revision.number)
        return scheme_answer(scheme, revision, patch, words=words)
