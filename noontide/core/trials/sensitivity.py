"""What a step more and a step less of each input does to a figure: which of them matter, and which do not."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.simulation import IncompleteDesign, Libraries
from noontide.core.trials.planning import StudyError, patch_at

# Rooms whose numbers are inputs of the year; where a thing stands in the scene is edited on its drawing.
ROOMS = ("surfaces", "subarrays", "inverters", "connection", "wiring", "losses", "demand", "storage", "money", "site")
_STILL = {"latitude", "longitude", "layout", "points", "corners", "map_picture"}  # tied to weather, drawing or picture


@dataclass(frozen=True)
class InputStep:
    """A number of the design with the step that its field has."""

    pointer: str
    title: str  # with the thing that it belongs to
    unit: str
    value: float
    step: float


@dataclass(frozen=True)
class Effect:
    """A figure with an input a step lower and a step higher; None where the design refuses that, or has no such figure then."""

    input: InputStep
    lower: float | None
    higher: float | None

    def reach(self, own: float) -> float:
        """The larger of both changes."""
        return max((abs(value - own) for value in (self.lower, self.higher) if value is not None), default=0.0)


def inputs_of(design: Design) -> list[InputStep]:
    """Every number of the design that has a step, set or left at its default."""
    return [one for room in ROOMS for one in _numbers(getattr(design, room), f"/{room}", [])]


def _numbers(document: Any, pointer: str, place: list[str]) -> Iterator[InputStep]:
    if isinstance(document, dict):
        for key, inner in document.items():
            if isinstance(inner, BaseModel):
                yield from _numbers(inner, f"{pointer}/{key}", [*place, getattr(inner, "name", "") or str(key)])
        return
    for key, info in type(document).model_fields.items():
        value = getattr(document, key)
        if key in _STILL:
            continue
        title = info.title or key.replace("_", " ").capitalize()
        if isinstance(value, BaseModel | dict):
            yield from _numbers(value, f"{pointer}/{key}", place)
        elif isinstance(value, int | float) and not isinstance(value, bool) and isinstance(info.json_schema_extra, dict):
            extra = info.json_schema_extra
            if "x-step" in extra:
                step = float(str(extra["x-step"]))
                yield InputStep(f"{pointer}/{key}", ", ".join([title, *place[-1:]]), str(extra.get("x-unit", "")), value, step)


def sensitivity(
    design: Design, figure: str, libraries: Libraries, told: Callable[[int, int], None] | None = None
) -> tuple[float, list[Effect]]:
    """The figure of the design, and what a step of each input does to it, the largest change first.

    Every value is the figure of the design that differs in this input alone. Derived numbers, which a design does not keep, do nothing.

    Raises
    ------
    StudyError
        If there is no such figure, or the design has no year, or no such figure, of its own.
    """
    if figure not in FIGURE_OF:
        raise StudyError(f"There is no figure '{figure}'. There are {', '.join(FIGURE_OF)}.")
    try:
        own = _figure(design, figure, libraries)
    except IncompleteDesign as error:
        raise StudyError(f"The design has no year of its own yet: {error}") from None
    if own is None:
        raise StudyError(f"The design has no {FIGURE_OF[figure].title.lower()}.")
    document = design.as_kept()
    inputs = inputs_of(design)
    effects = []
    for done, one in enumerate(inputs, 1):
        lower, higher = (_changed(document, one, figure, by, libraries) for by in (-one.step, one.step))
        effects.append(Effect(one, lower, higher))
        if told is not None:
            told(done, len(inputs))
    return own, sorted(effects, key=lambda effect: -effect.reach(own))


def _changed(document: dict, one: InputStep, figure: str, by: float, libraries: Libraries) -> float | None:
    value = round(one.value + by, 9)
    try:
        design = Design.read(merge_patch(document, patch_at(one.pointer, int(value) if isinstance(one.value, int) else value)))
        return _figure(design, figure, libraries)
    except (ValidationError, ValueError):
        return None


def _figure(design: Design, figure: str, libraries: Libraries) -> float | None:
    results = libraries.year_of(design)
    return FIGURE_OF[figure].value(results) if FIGURE_OF[figure].is_there(results) else None
