"""What a study comes to before anything is run: its runs in their order, what they share, and whether its values can be at all."""

import json
from collections import OrderedDict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import product
from math import ceil, log2, prod
from threading import Lock
from typing import Any

import numpy as np
from pydantic import ValidationError
from scipy.stats import qmc

from noontide.core.checks import find_checks
from noontide.core.design import Design
from noontide.core.design.merge_patch import difference
from noontide.core.fields import first_fault
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.simulation import IncompleteDesign, Libraries, Results
from noontide.core.trials.study import MOST_RUNS, Loose, Scalar, Study, Tie, is_tie
from noontide.core.verbs.catalogue import VERBS, ImpossibleAct, applied

MOST_BEFORE = 4  # designs before their rooms behind the meter are read, that are kept in mind
MOST_ACTED = 300  # designs after a verb that are kept in mind
MOST_TRIED = 200  # values of one loose value that are tried before anything starts
BEHIND_METER = frozenset({"demand", "storage", "money"})
COUNTED = ("errors", "cautions")  # beside the figures: findings that are open
# Rooms of the document in the order in which the light passes them: what is changed last leaves the most to be used again.
DOWNSTREAM = (
    "site", "weather", "scene", "surfaces", "models", "parts", "subarrays", "inverters", "wiring", "losses", "connection", "demand", "storage", "money",
)  # fmt: skip
Values = dict[str, Scalar]


class StudyError(ValueError):
    """What is wrong with a study, with a pointer into it."""

    def __init__(self, words: str, pointer: str = ""):
        self.pointer = pointer
        super().__init__(words)


def variant(base: Design, study: Study, values: Mapping[str, Scalar], libraries: Libraries) -> Design:
    """The design of a run: loose values and ties first, then the verbs, as one would edit it by hand.

    Raises
    ------
    pydantic.ValidationError, ImpossibleAct, ValueError
        If this design cannot be.
    """
    patch: dict[str, Any] = {}
    for key, one in study.loose.items():
        for pointer in one.pointers:
            _put(patch, pointer, values[key])
    for pointer, tie in study.ties.items():
        _put(patch, pointer, _tied(tie, values))
    design = _edited(base, patch)
    for act in study.acts:
        given = {name: _argument(argument, values) for name, argument in act.arguments.items()}
        design = _acted(design, act.verb, given, libraries)
    return design


_ACTED: OrderedDict[str, tuple[Libraries, Design]] = OrderedDict()
_BEFORE: OrderedDict[str, Design] = OrderedDict()
_lock = Lock()


def _edited(base: Design, patch: dict[str, Any]) -> Design:
    """The design after a patch; what lies before the meter is read once for all runs that differ behind it alone."""
    behind = {room: part for room, part in patch.items() if room in BEHIND_METER}
    if not behind or len(behind) == len(patch):
        return base.edited(patch)
    before = {room: part for room, part in patch.items() if room not in BEHIND_METER}
    key = json.dumps([base.fingerprint, before], sort_keys=True)
    with _lock:
        held = _BEFORE.get(key)
    if held is None:
        try:
            held = base.edited(before)
        except ValidationError:  # what is valid with the rest may not be by itself
            return base.edited(patch)
        _remember(_BEFORE, key, held, MOST_BEFORE)
    return held.edited(behind)


def _acted(design: Design, verb: str, given: dict[str, Any], libraries: Libraries) -> Design:
    """The design after a verb. Runs that differ further on share it: finding strings takes as long as many years."""
    key = json.dumps([verb, given, design.fingerprint], sort_keys=True)
    with _lock:
        held = _ACTED.get(key)
    # Of the same libraries: what a verb finds depends on parts and weather too.
    if held is not None and _alike(held[0], libraries):
        return held[1]
    edit, _ = applied(design, verb, given, libraries)
    found = design.edited(edit)
    _remember(_ACTED, key, (libraries, found), MOST_ACTED)
    return found


def _remember(kept: OrderedDict[str, Any], key: str, made: object, most: int) -> None:
    with _lock:
        kept[key] = made
        while len(kept) > most:
            kept.popitem(last=False)


def _alike(one: Libraries, other: Libraries) -> bool:
    if one is other:
        return True
    weather = [None if each.weather is None else each.weather.digest for each in (one, other)]
    return one.parts == other.parts and weather[0] == weather[1] and one.series.keys() == other.series.keys()


def pointer_steps(pointer: str) -> list[str]:
    return [step.replace("~1", "/").replace("~0", "~") for step in pointer[1:].split("/")]


def _put(patch: dict[str, Any], pointer: str, value: Scalar) -> None:
    *steps, last = pointer_steps(pointer)
    for step in steps:
        patch = patch.setdefault(step, {})
    patch[last] = value


def patch_at(pointer: str, value: Scalar) -> dict[str, Any]:
    """A merge patch that sets one value."""
    patch: dict[str, Any] = {}
    _put(patch, pointer, value)
    return patch


def _tied(tie: Tie, values: Mapping[str, Scalar]) -> Scalar:
    value = values[tie.loose]
    if tie.times == 1.0 and tie.plus == 0.0 and not tie.is_whole:
        return value
    if not isinstance(value, int | float) or isinstance(value, bool):
        raise ValueError(f"'{tie.loose}' is {value!r}, no number that {tie.times:g} times as much could be taken of.")
    found = value * tie.times + tie.plus
    return round(found) if tie.is_whole else found


def _argument(argument: Any, values: Mapping[str, Scalar]) -> Any:
    return _tied(Tie.model_validate(argument), values) if is_tie(argument) else argument


@dataclass(frozen=True, eq=False)
class Plan:
    """The runs of a study over a design. A run has its number from 0 on, whatever the order in which it is computed."""

    study: Study
    document: Mapping[str, Any]
    shares: Mapping[str, tuple[str, ...]]  # rooms of the design that a loose value changes

    @cached_property
    def count(self) -> int:
        return _count(self.study)

    @cached_property
    def base(self) -> Design:
        """The design whose values are let loose."""
        return Design.read(self.document)

    def values(self, number: int) -> Values:
        """The loose values of a run."""
        study = self.study
        if study.way == "search":
            raise LookupError("The runs of a search follow one from the other.")
        if study.way == "grid":
            found: Values = {}
            for key in reversed(study.loose):
                one = study.loose[key]
                number, place = divmod(number, one.count or 1)
                found[key] = one.value(place)
            return {key: found[key] for key in study.loose}
        if study.way == "one at a time":
            values = {key: self.own(one) for key, one in study.loose.items()}
            if number == 0:
                return values
            number -= 1
            for key, one in study.loose.items():
                if number < (one.count or 0):
                    return values | {key: one.value(number)}
                number -= one.count or 0
            raise IndexError("There is no such run.")
        row = self._sample[number]
        return {key: one.at(float(share)) for (key, one), share in zip(study.loose.items(), row, strict=True)}

    def own(self, one: Loose) -> Scalar:
        """The value at which a loose one is held while others are tried."""
        return one.own if one.own is not None or not one.pointers else value_at(self.document, one.pointers[0])

    @cached_property
    def _sample(self) -> np.ndarray:
        """Shares 0..1 by run and loose value (McKay, Beckman and Conover 1979; Sobol 1967, scrambled after Owen 1998)."""
        size, study = self.count, self.study
        if study.way == "latin hypercube":
            return np.asarray(qmc.LatinHypercube(len(study.loose), seed=study.seed).random(size))
        whole = qmc.Sobol(len(study.loose), seed=study.seed).random_base2(ceil(log2(size)) if size > 1 else 0)
        return np.asarray(whole[:size])

    def order(self) -> Iterator[int]:
        """Numbers of the runs, those beside one another that share the most."""
        study = self.study
        if study.way != "grid":
            yield from range(self.count)
            return
        keys = sorted(study.loose, key=lambda key: _depth(self.shares.get(key, ())))
        weights = {}
        weight = 1
        for key in reversed(study.loose):
            weights[key] = weight
            weight *= study.loose[key].count or 1
        for places in product(*(range(study.loose[key].count or 1) for key in keys)):
            yield sum(place * weights[key] for place, key in zip(places, keys, strict=True))


def _depth(rooms: tuple[str, ...]) -> int:
    """How far down the chain the first room lies that is changed."""
    return min((DOWNSTREAM.index(room) for room in rooms if room in DOWNSTREAM), default=len(DOWNSTREAM))


def _count(study: Study) -> int:
    if study.way == "grid":
        return prod(one.count or 1 for one in study.loose.values())
    if study.way == "one at a time":
        return 1 + sum(one.count or 0 for one in study.loose.values())
    return study.runs or 0


def value_at(document: Mapping[str, Any], pointer: str) -> Any:
    """What stands at a pointer of a document; None where nothing does."""
    at: Any = document
    for step in pointer_steps(pointer):
        at = at.get(step) if isinstance(at, dict) else None
    return at


def plan_of(study: Study, design: Design, libraries: Libraries) -> tuple[Plan, Results]:
    """The runs of a study, and the year of the design itself.

    Everything that can be said before the first run is said here: figures that there are not, values that the design refuses, verbs
    that cannot be done, and too many runs.

    Raises
    ------
    StudyError
        With words and a pointer into the study.
    """
    count = _count(study)
    if count > MOST_RUNS:
        raise StudyError(f"This study has {count:,} runs; {MOST_RUNS:,} can be made. Take fewer values, or a sample.", "/loose")
    for number, act in enumerate(study.acts):
        if act.verb not in VERBS:
            raise StudyError(f"There is no verb '{act.verb}'. There are {', '.join(VERBS)}.", f"/acts/{number}/verb")
    named = [("/figures", key) for key in study.figures] + [("/limits", limit.figure) for limit in study.limits]
    named += [(f"/also/{k - 1}" if k else "/aim", aim.figure) for k, aim in enumerate(study.aims)]
    for pointer, key in named:
        is_aim = pointer.startswith(("/aim", "/also"))
        if key not in FIGURE_OF and (key not in COUNTED or is_aim):
            raise StudyError(f"There is no figure '{key}'. There are {', '.join(FIGURE_OF)}.", pointer)
    try:
        results = libraries.year_of(design)
    except IncompleteDesign as error:
        raise StudyError(f"The design has no year of its own yet: {error}") from None
    for pointer, key in named:
        is_aim = pointer.startswith(("/aim", "/also"))
        if is_aim and not FIGURE_OF[key].is_there(results) and not study.acts:
            raise StudyError(f"The design has no {FIGURE_OF[key].title.lower()}, so that nothing can be aimed at.", pointer)
    document = design.as_kept()
    plan = Plan(study, document, {})
    return Plan(study, document, {key: _rooms(plan, key, libraries) for key in study.loose}), results


def _rooms(plan: Plan, key: str, libraries: Libraries) -> tuple[str, ...]:
    """The rooms that a loose value changes; every value is tried on the design, those of a long list in even steps.

    Raises
    ------
    StudyError
        If the design refuses a value, by itself and beside the first values of the others.
    """
    study = plan.study
    one = study.loose[key]
    if plan.study.way == "one at a time" and plan.own(one) is None:
        raise StudyError(f"The design has no value for '{key}' to be held at. Give it its own.", f"/loose/{key}/own")
    first = {name: other.at(0.0) for name, other in study.loose.items()}
    count = one.count
    shares = np.linspace(0, 1, min(count or 2, MOST_TRIED))
    tried = [one.at(float(share)) for share in shares]
    rooms: set[str] = set()
    before = None
    for value in tried:
        try:
            after = variant(plan.base, study, first | {key: value}, libraries).as_kept()
        except ValidationError as error:
            raise StudyError(f"{key} at {value!r}: {first_fault(error)}", f"/loose/{key}") from None
        except ImpossibleAct as error:
            raise StudyError(f"{key} at {value!r}: {error}", f"/loose/{key}") from None
        if before is not None:
            rooms |= set(difference(before, after))
        before = after
    return tuple(room for room in DOWNSTREAM if room in rooms)


def open_findings(results: Results) -> dict[str, int]:
    """How many errors and cautions are open."""
    checks = [check for check in find_checks(results) if not check.accepted]
    errors = sum(check.severity == "error" for check in checks)
    return {"errors": errors, "cautions": len(checks) - errors}
