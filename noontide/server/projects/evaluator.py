"""Evaluation of designs, apart from their documents: whatever a simulation raises becomes a failed state with words.

`ask` answers at once what is known, computes what takes less than its patience, and lets the rest follow through
`changes`. The newest request of a scheme wins; older ones that have not begun are dropped. Schemes do not wait for one
another more than the number of workers makes them.
"""

import logging
import os
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYet
from dataclasses import dataclass
from time import monotonic, sleep
from typing import Literal

from django.db import DatabaseError, connection, transaction
from pydantic import ValidationError

from noontide.core.design import Design, DesignError
from noontide.core.simulation import ImpossibleAdjustment, IncompleteDesign, Results, StageCache, UnknownPart, simulate
from noontide.core.weather import Weather
from noontide.parts import built_in_parts
from noontide.server.demand_library.storing import series_of
from noontide.server.memory import give_back
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_answer import (
    Evaluation,
    failed_evaluation,
    open_evaluation,
    summary_of,
    weather_year,
    whole_evaluation,
)
from noontide.server.projects.evaluation_key import is_current, key_of_document
from noontide.server.projects.models import Scheme, StoredEvaluation
from noontide.server.projects.stages import STAGES
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load

logger = logging.getLogger(__name__)
PATIENCE = 0.15  # s until an answer is given without the figures
HOPELESS = 4  # times the patience that the last one took: then the answer does not wait for figures that will not come
KEPT_AFTER = 0.3  # s until figures are written to the disk, with all that came meanwhile
KEPT_RESULTS_BYTES = 64 * 1024**2
KEPT_ANSWERS = 512
NOT_SIMULATED = "These values could not be simulated. The design is kept; undo the last edit to have figures again."
MOST_STORED = 200  # figures on the disk of what no scheme is any more; undo finds them without a simulation
SPARE = 50  # more, before they are looked through again
LARGE_YEAR = 60_000  # intervals, from which on the memory of an evaluation is given back at once
_RESULTS = StageCache(KEPT_RESULTS_BYTES)

State = Literal["exact", "pending", "failed", "open"]


@dataclass(frozen=True)
class Evaluated:
    """What is known of a design: `open` while something is missing, `pending` while it is computed."""

    key: str
    state: State
    evaluation: Evaluation


@dataclass(frozen=True)
class _Task:
    """A complete design with all that its evaluation needs of the library."""

    key: str
    document: dict
    design: Design
    weather: Weather
    year: WeatherYear


class Evaluator:
    """Evaluates frozen documents. With no patience (None) everything is computed where it is asked for."""

    def __init__(self, patience: float | None = PATIENCE, workers: int = 2):
        self.patience = patience
        self._pool = ThreadPoolExecutor(max_workers=workers, thread_name_prefix="evaluation")
        self._lock = threading.Lock()
        self._known: OrderedDict[str, Evaluated] = OrderedDict()
        self._under_way: dict[str, Future[Evaluated]] = {}
        self._newest: dict[int, str] = {}
        self._took: dict[int, float] = {}  # s, the last evaluation of each scheme
        self._listeners: list[Callable[[int, Evaluated], None]] = []
        self._keeper = ThreadPoolExecutor(max_workers=1, thread_name_prefix="keeper")
        self._unkept: list[Evaluated] = []

    def listen(self, listener: Callable[[int, Evaluated], None]) -> None:
        """Call a function with the scheme and its figures whenever they have followed an answer that came without them."""
        self._listeners.append(listener)

    def ask(self, document: dict, scheme: int = 0, patience: float | None = None, key: str = "") -> Evaluated:
        """What is known of a document within the patience; `key` where it was stored with the document."""
        key = key if is_current(key) else key_of_document(document)
        if (found := self.known(key)) is not None:
            return found
        try:
            design = Design.read(document)
        except (ValidationError, DesignError) as error:
            return Evaluated(
                key, "failed", failed_evaluation(document, "The design cannot be read", _first_words(error), _first_place(error))
            )
        year = weather_year(design)
        if (missing := open_evaluation(design, year)) is not None:
            return Evaluated(key, "open", missing)
        try:
            weather = load(design.weather.digest)  # type: ignore[union-attr]
        except WeatherYear.DoesNotExist:
            return Evaluated(
                key,
                "failed",
                failed_evaluation(
                    document, "The weather year is not in the library", "Choose another, or load its file.", "/weather"
                ),
            )
        except Problem as problem:
            return Evaluated(key, "failed", failed_evaluation(document, problem.title, problem.detail, "/weather"))
        task = _Task(key, document, design, weather, year)  # type: ignore[arg-type]
        if self.patience is None:
            found = self._remember(self._compute(task))
            if found.state == "exact":
                keep_evaluations([found])
            return found
        future = self._submit(task, scheme)
        usual = 0.0 if self._took.get(scheme, 0.0) > HOPELESS * self.patience else self.patience
        try:
            return future.result(usual if patience is None else patience)
        except NotYet:
            return Evaluated(key, "pending", failed_evaluation(document))

    def known(self, key: str) -> Evaluated | None:
        """What was computed before, in this process or an earlier one."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        stored = StoredEvaluation.objects.filter(pk=key).first()
        if stored is None:
            return None
        try:
            evaluation = Evaluation.model_validate(stored.body)
        except ValidationError:
            # Of another shape: what cannot be read counts as missing, and is computed anew.
            stored.delete()
            return None
        return self._remember(Evaluated(key, evaluation.state, evaluation))

    def forget(self) -> None:
        """Forget everything in memory."""
        with self._lock:
            self._known.clear()
        STAGES.clear()
        _RESULTS.clear()

    def _submit(self, task: _Task, scheme: int) -> "Future[Evaluated]":
        with self._lock:
            self._newest[scheme] = task.key
            future = self._under_way.get(task.key)
            if future is None:
                future = self._under_way[task.key] = Future()
                self._pool.submit(self._work, future, task, scheme)
        return future

    def _work(self, promise: "Future[Evaluated]", task: _Task, scheme: int) -> None:
        """Computes, answers whoever waits, and leaves the figures to be kept on the disk."""
        key = task.key
        try:
            with self._lock:
                is_old = scheme and self._newest.get(scheme) != key
            if is_old:
                promise.set_result(Evaluated(key, "pending", failed_evaluation(task.document)))
                return
            begun = monotonic()
            found = self._remember(self._compute(task))
            self._took[scheme] = monotonic() - begun
            promise.set_result(found)
            for listener in self._listeners:
                listener(scheme, found)
            if found.state == "exact":
                self._keep_soon(found)
        finally:
            with self._lock:
                self._under_way.pop(key, None)
            if not promise.done():
                promise.set_result(
                    Evaluated(
                        key, "failed", failed_evaluation(task.document, "The simulation failed", "See the server's log.", "")
                    )
                )

    def _keep_soon(self, found: Evaluated) -> None:
        """Leaves figures to the keeper, which writes those of a moment together, out of the way of the edits that wait."""
        with self._lock:
            self._unkept.append(found)
            if len(self._unkept) == 1:
                self._keeper.submit(self._keep_all)

    def _keep_all(self) -> None:
        sleep(KEPT_AFTER)
        with self._lock:
            unkept, self._unkept = self._unkept, []
        try:
            keep_evaluations(unkept)
        except DatabaseError:
            # The figures are there; that they could not be kept costs a computation after a restart.
            logger.exception("%d evaluations could not be kept", len(unkept))
        finally:
            connection.close()

    def _compute(self, task: _Task) -> Evaluated:
        key, document, weather = task.key, task.document, task.weather
        try:
            results = results_of(task.design, weather, key)
            evaluation = whole_evaluation(key, task.design, results, task.year)
            if weather.calendar.intervals > LARGE_YEAR:
                give_back()
            return Evaluated(key, "exact", evaluation)
        except UnknownPart as error:
            return Evaluated(
                key, "failed", failed_evaluation(document, "A part is not in the library", str(error), error.pointer)
            )
        except IncompleteDesign as error:
            return Evaluated(key, "failed", failed_evaluation(document, "The design is incomplete", str(error), error.pointer))
        except ImpossibleAdjustment as error:
            return Evaluated(
                key, "failed", failed_evaluation(document, "The weather cannot be adjusted so", str(error), error.pointer)
            )
        except MemoryError:
            logger.exception("evaluation %s failed", key)
            words = "It needs more memory than this machine has. A weather year of longer steps, or fewer modules in the scene, need less."
            return Evaluated(key, "failed", failed_evaluation(document, "The simulation failed", words, ""))
        except Exception:  # whatever it is, the document comes, and the words are for a person
            logger.exception("evaluation %s failed", key)
            return Evaluated(
                key,
                "failed",
                failed_evaluation(
                    document, "The simulation failed", f"{NOT_SIMULATED} The server's log has the details under {key}.", ""
                ),
            )

    def _remember(self, found: Evaluated) -> Evaluated:
        with self._lock:
            self._known[found.key] = found
            while len(self._known) > KEPT_ANSWERS:
                self._known.popitem(last=False)
        return found


def keep_evaluations(every: Sequence[Evaluated]) -> None:
    """Store figures by their keys."""
    rows = [
        StoredEvaluation(key=found.key, body=found.evaluation.model_dump(mode="json"), summary=summary_of(found.evaluation))
        for found in every
    ]
    with transaction.atomic():
        StoredEvaluation.objects.bulk_create(rows, ignore_conflicts=True)
        drop_old_evaluations()


def drop_old_evaluations(most: int = MOST_STORED) -> int:
    """Figures go by themselves: those of what the schemes are now stay, and of all others the newest. How many went."""
    heads = Scheme.objects.filter(head__isnull=False).values("head__evaluation_key")
    others = StoredEvaluation.objects.exclude(pk__in=heads)
    if others.count() <= most + SPARE:
        return 0
    newest = list(others.order_by("-used").values_list("pk", flat=True)[:most])
    return others.exclude(pk__in=newest).delete()[0]


def results_of(design: Design, weather: Weather, key: str) -> Results:
    """The simulated year of a design, kept for the questions that follow its figures."""
    return _RESULTS.keep(
        _ResultsInputs(key), lambda _: simulate(design, weather, built_in_parts(), STAGES, series_of(design.demand))
    ).value


@dataclass(frozen=True)
class _ResultsInputs:
    document: str


def results_for(document: dict) -> Results:
    """The simulated year of a document, computed here if it is not kept.

    Raises
    ------
    Problem
        If the design is incomplete or cannot be simulated.
    """
    try:
        design = Design.read(document)
    except (ValidationError, DesignError) as error:
        raise Problem(409, "not-complete", "The design cannot be read", _first_words(error), _first_place(error)) from error
    if (missing := open_evaluation(design, weather_year(design))) is not None:
        needs = "; ".join(bench.say for bench in missing.benches if bench.say)
        raise Problem(
            409,
            "not-complete",
            "The scheme is incomplete",
            needs or "The scheme needs weather and modules before it can be simulated.",
        )
    try:
        return results_of(design, load(design.weather.digest), key_of_document(document))  # type: ignore[union-attr]
    except WeatherYear.DoesNotExist:
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Its weather year is not in the library.", "/weather"
        ) from None
    except (UnknownPart, IncompleteDesign, ImpossibleAdjustment) as error:
        raise Problem(409, "not-complete", "The scheme is incomplete", str(error), getattr(error, "pointer", "")) from None
    except (ArithmeticError, ValueError, LookupError) as error:
        logger.exception("simulation failed")
        raise Problem(409, "simulation-failed", "The simulation failed", NOT_SIMULATED) from error


def _first_words(error: Exception) -> str:
    return str(error.errors()[0]["msg"])[:300] if isinstance(error, ValidationError) else str(error)[:300]


def _first_place(error: Exception) -> str:
    if isinstance(error, ValidationError):
        return "".join(f"/{step}" for step in error.errors()[0]["loc"])
    return getattr(error, "pointer", "")


evaluator = Evaluator(None if os.environ.get("NOONTIDE_EVALUATE_INLINE") == "1" else PATIENCE)
