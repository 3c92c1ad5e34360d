"""What the bench Trials asks, and what is done to sets of trials."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.cells import XLSX
from noontide.core.trials.runs_table import RUN, Filter, RunsTable, better_of, is_words
from noontide.core.trials.study import Aim, Study
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.problems import Problem
from noontide.server.projects.answers import scheme_answer
from noontide.server.projects.api_models import SchemeAnswer
from noontide.server.projects.requests import object_of, scheme_of
from noontide.server.trials import keeping
from noontide.server.trials.answers import (
    GOOD_SHARE,
    TrialAnswer,
    TrialEffect,
    TrialEffects,
    TrialFront,
    TrialGood,
    TrialLine,
    TrialMap,
    TrialRuns,
    cell_lines,
    front_answer,
    good_answer,
    runs_page,
    trial_answer,
    trial_lines,
)
from noontide.server.trials.loosen import Loosening
from noontide.server.trials.models import TrialSet
from noontide.trying import as_table_file, table_of

MOST_ROWS = 500  # of a page
MOST_NUMBER = 10**12  # that is asked for: the database holds no longer one
FILES = {"csv": "text/csv", "xlsx": XLSX, "parquet": "application/vnd.apache.parquet"}
HELD = OpenApiParameter(
    "hold", str, many=True, description="a loose value and what it is held at, such as tilt:30; may be repeated"
)
OF = OpenApiParameter(
    "of", str, enum=["best", "mean"], description="of the runs on a place: the best that keeps the limits, or all"
)


class StudyRequest(BaseModel):
    """A study, or nothing that is loose."""

    model_config = ConfigDict(extra="forbid")

    study: dict[str, Any] | None


class Adoption(BaseModel):
    """A run that becomes a scheme."""

    model_config = ConfigDict(extra="forbid")

    run: int = Field(ge=0, le=MOST_NUMBER)
    pin: bool = False


def trial_of(request: Request, trial_id: int) -> TrialSet:
    """A set of a scheme that is there and visible to the user."""
    living = TrialSet.objects.visible_to(request.user).filter(scheme__deleted=None, scheme__project__deleted=None)
    return get_object_or_404(living.select_related("scheme__head", "scheme__project"), pk=trial_id)


def _answer(request: Request, trial: TrialSet, status: int = 200) -> Response:
    return Response(trial_answer(trial, request.user).model_dump(mode="json"), status=status)


class TrialsView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(responses=list_of(TrialLine), operation_id="trials")
    def get(self, request: Request, scheme_id: int) -> Response:
        """The sets of trials of a scheme, the newest first."""
        return Response([line.model_dump(mode="json") for line in trial_lines(scheme_of(request, scheme_id))])

    @extend_schema(request=StudyRequest, responses={201: TrialAnswer}, operation_id="begin_trials")
    def post(self, request: Request, scheme_id: int) -> Response:
        """A draft of a study; it is run when it is started."""
        scheme, asked = scheme_of(request, scheme_id), StudyRequest.model_validate(object_of(request))
        return _answer(request, keeping.begin(scheme, asked.study or {}), 201)


class LoosenView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=Loosening, responses=TrialAnswer, operation_id="let_loose")
    def post(self, request: Request, scheme_id: int) -> Response:
        """Let a value of the design loose in the draft, which is begun where there is none; or hold it again. A value may follow a loose one."""
        scheme, asked = scheme_of(request, scheme_id), Loosening.model_validate(object_of(request))
        base = trial_of(request, asked.of) if asked.of is not None else None
        return _answer(request, keeping.loosen(scheme, asked, base, request.user))


class TrialView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(responses=TrialAnswer, operation_id="trial")
    def get(self, request: Request, trial_id: int) -> Response:
        """A set of trials: its study, how far it is, and what it comes to."""
        return _answer(request, trial_of(request, trial_id))

    @extend_schema(request=StudyRequest, responses=TrialAnswer, operation_id="rewrite_trials")
    def put(self, request: Request, trial_id: int) -> Response:
        """Another study. Runs stay where it asks for the same ones; else a draft is made beside the set that was run."""
        asked = StudyRequest.model_validate(object_of(request))
        return _answer(request, keeping.rewrite(trial_of(request, trial_id), asked.study))

    @extend_schema(responses={204: None}, operation_id="delete_trials")
    def delete(self, request: Request, trial_id: int) -> Response:
        """Delete a set with its runs."""
        keeping.delete(trial_of(request, trial_id))
        return Response(status=204)


class StartView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=None, responses={202: TrialAnswer}, operation_id="start_trials")
    def post(self, request: Request, trial_id: int) -> Response:
        """Run a draft, or what is missing of a set that was paused, cancelled or interrupted."""
        return _answer(request, keeping.start(trial_of(request, trial_id), request.user), 202)


class AgainView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=None, responses={202: TrialAnswer}, operation_id="run_trials_again")
    def post(self, request: Request, trial_id: int) -> Response:
        """Run all of it again, on the scheme as it is now."""
        return _answer(request, keeping.start(trial_of(request, trial_id), request.user, anew=True), 202)


class PauseView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=None, responses=TrialAnswer, operation_id="pause_trials")
    def post(self, request: Request, trial_id: int) -> Response:
        """Pause what is under way; it goes on from there when it is started again."""
        return _answer(request, keeping.stop(trial_of(request, trial_id), TrialSet.State.PAUSED))


class CancelView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=None, responses=TrialAnswer, operation_id="cancel_trials")
    def post(self, request: Request, trial_id: int) -> Response:
        """Cancel what is under way; the runs that are there stay."""
        return _answer(request, keeping.stop(trial_of(request, trial_id), TrialSet.State.CANCELLED))


class RunsView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("sort", str, description="a loose value, a figure, or run"),
            OpenApiParameter("down", bool, description="the largest first"),
            OpenApiParameter("where", str, many=True, description="a column and its ends, such as energy:5000: or tilt:10:30; may be repeated"),
            OpenApiParameter("kept", bool, description="only runs that keep every limit"),
            OpenApiParameter("first", int),
            OpenApiParameter("count", int, description=f"at most {MOST_ROWS}"),
        ],
        responses=TrialRuns,
        operation_id="trial_runs",
    )  # fmt: skip
    def get(self, request: Request, trial_id: int) -> Response:
        """Some runs, sorted and filtered."""
        table, query = keeping.table_of(trial_of(request, trial_id)), request.query_params
        chosen = table.chosen([_filter(text) for text in query.getlist("where")], query.get("kept") == "true")
        places = table.ordered(query.get("sort") or RUN, query.get("down") == "true", chosen)
        first, count = _whole(query.get("first"), 0, 10**9), _whole(query.get("count"), 100, MOST_ROWS)
        return Response(runs_page(table, places[first : first + count], len(places)).model_dump(mode="json"))


class RunPlaceView(APIView):
    @extend_schema(responses=TrialRuns, operation_id="trial_run")
    def get(self, request: Request, trial_id: int, number: int) -> Response:
        """One run."""
        table = keeping.table_of(trial_of(request, trial_id))
        place = table.place(number)
        if place is None:
            raise Problem(404, "not-found", "No such run", f"These trials have no run {number}.")
        return Response(runs_page(table, [place], 1).model_dump(mode="json"))


class MapView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("x", str, required=True, description="a loose value"), OpenApiParameter("y", str, required=True, description="another"),
            OpenApiParameter("figure", str, required=True), OF, HELD,
        ],
        responses=TrialMap, operation_id="trial_map",
    )  # fmt: skip
    def get(self, request: Request, trial_id: int) -> Response:
        """A figure over two loose values."""
        table, query = keeping.table_of(trial_of(request, trial_id)), request.query_params
        cells = table.map(query.get("x", ""), query.get("y", ""), query.get("figure", ""), _of(query), _held(table, query))
        return Response(TrialMap(cells=cell_lines(cells)).model_dump(mode="json"))


class EffectsView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("figure", str, required=True), OF, HELD],
        responses=TrialEffects,
        operation_id="trial_effects",
    )
    def get(self, request: Request, trial_id: int) -> Response:
        """A figure over each loose value, the others held or taken together."""
        table, query = keeping.table_of(trial_of(request, trial_id)), request.query_params
        held, figure = _held(table, query), query.get("figure", "")
        effects = [
            TrialEffect(
                key=key, cells=cell_lines(table.effect(key, figure, _of(query), {k: v for k, v in held.items() if k != key}))
            )
            for key in table.study.loose
        ]
        return Response(TrialEffects(effects=effects).model_dump(mode="json"))


class FrontView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("x", str, required=True), OpenApiParameter("y", str, required=True)],
        responses=TrialFront,
        operation_id="trial_front",
    )
    def get(self, request: Request, trial_id: int) -> Response:
        """Two figures of the runs, and the front of what cannot be had together."""
        table, query = keeping.table_of(trial_of(request, trial_id)), request.query_params
        return Response(front_answer(table, query.get("x", ""), query.get("y", "")).model_dump(mode="json"))


class GoodView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("share", float, description=f"of the best value in per cent; {GOOD_SHARE:g} where it is left out"),
            OpenApiParameter("figure", str, description="the aim of the study where it is left out"),
        ],
        responses={200: TrialGood, 204: None},
        operation_id="trial_good",
    )
    def get(self, request: Request, trial_id: int) -> Response:
        """The runs that are as good as the best, and what they have in common."""
        table, query = keeping.table_of(trial_of(request, trial_id)), request.query_params
        figure = query.get("figure") or (table.study.aim.figure if table.study.aim else "")
        try:
            share = float(query.get("share", GOOD_SHARE))
        except ValueError:
            share = -1.0
        if not 0 <= share <= 100:
            raise Problem(422, "bad-query", "'share' is 0 to 100 %.")
        if not figure or not len(table):
            return Response(status=204)
        aim = next((aim for aim in table.study.aims if aim.figure == figure), None)
        return Response(good_answer(table, aim or _aim(table, figure), share).model_dump(mode="json"))


class AdoptView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=Adoption, responses={201: SchemeAnswer}, operation_id="adopt_run")
    def post(self, request: Request, trial_id: int) -> HttpResponse:
        """Make the design of a run a scheme of the project; pinned where asked."""
        trial, asked = trial_of(request, trial_id), Adoption.model_validate(object_of(request))
        scheme = keeping.adopt(trial, asked.run, asked.pin, request.user)
        return scheme_answer(scheme, scheme.head, status=201)


class TrialFileView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("kind", str, enum=[*FILES, "study"])],
        responses={
            (200, "text/csv"): OpenApiTypes.STR,
            (200, XLSX): OpenApiTypes.BINARY,
            (200, FILES["parquet"]): OpenApiTypes.BINARY,
            (200, "application/json"): OpenApiTypes.OBJECT,
        },
        operation_id="trial_file",
    )
    def get(self, request: Request, trial_id: int) -> HttpResponse:
        """All runs as a table, or the study as a document."""
        trial, kind = trial_of(request, trial_id), request.query_params.get("kind", "csv")
        if kind == "study":
            study = Study.model_validate(trial.study) if trial.study else None
            content = study.model_dump_json(indent=1, exclude_unset=True) if study is not None else "{}"
            return _file(content.encode(), "application/json", f"study-{trial.pk}.json")
        if kind not in FILES:
            raise Problem(422, "unknown-kind", "Unknown kind", f"Choose among {', '.join([*FILES, 'study'])}.")
        table = keeping.table_of(trial)
        runs = [table.run(place) for place in range(len(table))]
        return _file(as_table_file(table_of(runs, table.study), kind), FILES[kind], f"trials-{trial.pk}.{kind}")


def _file(content: bytes, kind: str, name: str) -> HttpResponse:
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _aim(table: RunsTable, figure: str) -> Aim:
    return Aim(figure=figure, better=better_of(table.study, figure))


def _of(query: Any) -> Any:
    of = query.get("of") or "best"
    if of not in ("best", "mean"):
        raise Problem(422, "bad-query", "'of' is best or mean.")
    return of


def _held(table: RunsTable, query: Any) -> dict[str, Any]:
    held = {}
    for text in query.getlist("hold"):
        key, _, value = text.partition(":")
        loose = table.study.loose.get(key)
        if loose is None:
            raise Problem(422, "bad-query", f"'{key[:40]}' is not loose.")
        if is_words(loose):
            found = next((one for one in loose.values or () if str(one) == value), None)
            if found is None and value != "None":
                raise Problem(422, "bad-query", f"'{key}' has no value '{value[:40]}'.")
            held[key] = found
        else:
            held[key] = _number(value, f"'{key}' is held at a number")
    return held


def _filter(text: str) -> Filter:
    key, _, ends = text.partition(":")
    low, _, high = ends.partition(":")
    words = f"'{key[:40]}' lies between two numbers, such as {key[:40]}:10:30"
    return Filter(key, _number(low, words) if low else None, _number(high, words) if high else None)


def _number(text: str, words: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise Problem(422, "bad-query", f"{words}; it is '{text[:40]}'.") from None


def _whole(text: str | None, usual: int, most: int) -> int:
    if not text:
        return usual
    if not text.isdecimal() or len(text) > 10:
        raise Problem(422, "bad-query", f"'first' and 'count' are whole numbers; one is '{text[:20]}'.")
    return min(int(text), most)
