"""Modules onto a face: all that fit, as many as a limit allows on the sunniest places, or those of an area, by hand.

The first face of a project that began without a scene takes the strings of the plane that stood for it, found anew.
"""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from noontide.core.access.solar_access import access_of
from noontide.core.design import Design, join_patches, merge_patch
from noontide.core.design.layout import LEVEL, FaceId, Layout
from noontide.core.design.module_rows import MOST_MODULES, Place
from noontide.core.electrical import Catalogue
from noontide.core.fields import Document, Id
from noontide.core.finding import CannotFind, FindRequest, ProposalLine, find_strings
from noontide.core.layout import ImpossibleFace
from noontide.core.plan import FaceModules, groups_of, racks_beside
from noontide.core.plan.filling import added, backs_of, laid, stand_in, strings_taken_over, surface_for
from noontide.core.plan.laying import laid_by_hand, proposed
from noontide.core.plan.layouts import free_plan, module_named, module_on, partner_of, plans_of
from noontide.core.simulation import ImpossibleAdjustment, IncompleteDesign, Libraries, UnknownPart
from noontide.core.verbs.shared import ImpossibleAct, must_be_there

Reach = Annotated[float, Field(ge=-1e5, le=1e5)]
Corner = tuple[Reach, Reach, Reach]
ASSUMED_PERFORMANCE = 0.8  # of an array that is not wired yet
LEFT_OVER = 2  # modules that may stay without a string
MOST_FOUND = 4000  # modules for which strings are found while somebody waits; more take tens of seconds


class FillLimit(BaseModel):
    """What the modules may come to; as many as stay under it are laid, on the sunniest places."""

    model_config = ConfigDict(extra="forbid")

    of: Literal["modules", "power", "area", "energy"]
    value: float = Field(ge=0, le=1e9, description="a number, kW, m2, or kWh a year")


class Fill(Document):
    """Where modules are laid, of which type, and how many."""

    surface: Id | None = Field(None, title="Surface")
    face: str = Field("", max_length=90, description="in place of a surface: a face of the scene, for which one is made")
    module: str = Field("", max_length=64, description="that is laid where no string says which")
    layout: dict = Field({}, description="a JSON Merge Patch of the surface's layout, that goes with the modules")
    limit: FillLimit | None = Field(None, description="in place of the layout's own number")
    within: tuple[Corner, Corner] | None = Field(
        None,
        description="two corners of an area on the face, east, north and up [m]: modules are added there beside those that lie; "
        "an area lower than a module asks for a row, and one point for one module",
    )

    @model_validator(mode="after")
    def _one_place(self) -> "Fill":
        if bool(self.surface) == bool(self.face):
            raise ValueError("Give a surface, or a face of the scene.")
        return self


class FillFaces(Document):
    """Several faces that are filled alike, such as the parts of a field."""

    faces: Annotated[tuple[FaceId, ...], Field(min_length=1, max_length=200)] = Field(title="Faces of the scene")
    module: str = Field("", max_length=64, description="that is laid where no string says which")
    layout: dict = Field({}, description="a JSON Merge Patch of the layout of each surface")


def fill_faces(design: Design, given: FillFaces, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """Lay modules on several faces, on the surfaces that are there or on new ones; what is laid already is laid anew.

    Racks of new surfaces all face the way of those that are there, or the equator: a field in planes has rows that run one way.

    Raises
    ------
    ImpossibleAct
        As for one face. Faces on which nothing fits are named; where nothing fits on any, that is a refusal.
    """
    kept = design.as_kept()
    whole: dict[str, Any] = {}
    counts: dict[str, int] = {}
    words = ""
    front = _common_front(design, given.faces)
    for face in dict.fromkeys(given.faces):
        on_it = [key for key, one in design.surfaces.items() if one.face == face]
        where = {"surface": on_it[0]} if on_it else {"face": face}
        found = design.built_scene.face(face)
        turned = {"racks": {"azimuth": front}} if not on_it and found is not None and found.tilt <= LEVEL else {}
        layout = merge_patch(turned, given.layout)
        patch, said = fill(design, Fill(**where, module=given.module, layout=layout), libraries)
        whole = join_patches(whole, patch)
        design = Design.read(merge_patch(kept, whole))
        counts[face] = sum(one.layout.size for one in design.surfaces.values() if one.face == face and one.layout is not None)
        words = words or said.partition(" laid.")[2].strip()
    total = sum(counts.values())
    if not total:
        raise ImpossibleAct("No module fits on any of these faces, between their setbacks.")
    empty = [each.name if (each := design.built_scene.face(face)) else face for face, count in counts.items() if not count]
    beside = f" None fits on {', '.join(empty[:4])}{' and others' if len(empty) > 4 else ''}." if empty else ""
    return (
        whole,
        f"{total:,} modules laid on {len(counts) - len(empty)} face{'s' * (len(counts) - len(empty) != 1)}.{beside}{' ' + words if words else ''}",
    )


def _common_front(design: Design, faces: Sequence[str]) -> float:
    """That racks on some faces face: as the first that stand there, or the equator [°]."""
    some = (one.layout.racks for one in design.surfaces.values() if one.face in faces and one.layout is not None)
    towards = 0.0 if design.site.latitude < 0 else 180.0
    return next((racks.azimuth for racks in some if racks is not None and racks.azimuth is not None), towards)


def fill(design: Design, given: Fill, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """Lay modules on a surface, or on a face that has none yet.

    Without weather the places are taken in reading order, and strings that are taken over stay as they are.

    Raises
    ------
    ImpossibleAct
        If there is no such surface or face, no module says how large one is, the face cannot be filled, or nothing fits where it was asked for.
    """
    kept, key = design.as_kept(), given.surface or ""
    before: dict[str, Any] = {}
    if given.face:
        key, before = _surface_on(design, given.face, libraries.parts)
        design = Design.read(merge_patch(kept, before))
    try:
        count, patch = _laid_on(design, key, given, libraries)
    except (ImpossibleFace, ImpossibleAdjustment) as error:
        raise ImpossibleAct(str(error)) from error
    patch = join_patches(before, patch)
    by_hand = given.within is not None
    if by_hand and not count:
        raise ImpossibleAct("No module fits there, between the setbacks and beside those that lie there.")
    if by_hand or not count:
        return patch, _words(count)
    return _with_strings(kept, patch, key, _words(count), libraries)


def room_by_way(design: Design, key: str, libraries: Libraries) -> tuple[int, int, float]:
    """Modules that a surface has room for in portrait and in landscape, and its usable area [m2].

    Raises
    ------
    ImpossibleAct
        If the surface lies on no face, or no module says how large one is.
    """
    ground = _ground(design, key, Fill(surface=key), libraries)
    layout = ground.plan.layout
    portrait, landscape = (
        len(proposed(replace(ground.plan, layout=layout.model_copy(update={"orientation": way, "most": None}))))
        for way in ("portrait", "landscape")
    )
    return portrait, landscape, ground.plan.usable.area


@dataclass(frozen=True)
class _Ground:
    """A face as it is to be filled: its plan without modules, those of all other surfaces, and the layout that is kept."""

    plan: FaceModules
    plans: Mapping[str, FaceModules]
    layout: dict[str, Any]
    model: str


def _surface_on(design: Design, face_id: str, parts: Catalogue) -> tuple[str, dict[str, Any]]:
    face = design.built_scene.face(face_id)
    if face is None:
        known = [face.id for face in design.built_scene.faces if face.kind in ("roof", "ground")]
        there = f"It has {', '.join(known[:12])}." if known else "It has no face that takes modules."
        raise ImpossibleAct(f"The scene has no face '{face_id}'. {there}")
    return surface_for(design, face, parts)


def _ground(design: Design, key: str, given: Fill, libraries: Libraries) -> _Ground:
    must_be_there("surface", key, design.surfaces)
    surface = design.surfaces[key]
    if surface.face is None or design.built_scene.face(surface.face) is None:
        raise ImpossibleAct(f"{surface.name or key} lies on no face of the scene. Choose its face on the Scene bench first.")
    model, module = module_on(design, key, libraries.parts)
    if given.module:
        model, module = given.module, module_named(design, given.module, libraries.parts)
    if module is None or model is None:
        raise ImpossibleAct("No module is chosen. Say which is to be laid, such as one of the library.")
    kept = surface.layout.model_dump(mode="json", exclude_unset=True) if surface.layout else {}
    layout = merge_patch(kept, given.layout)
    plans = plans_of(design, libraries.parts)
    return _Ground(free_plan(design, key, Layout.model_validate(layout).holding({}), module, plans), plans, layout, model)


def _laid_on(design: Design, key: str, given: Fill, libraries: Libraries) -> tuple[int, dict[str, Any]]:
    """How many modules are laid, and the patch that lays them."""
    ground = _ground(design, key, given, libraries)
    if given.within is not None:
        lying = replace(ground.plan, layout=Layout.model_validate(ground.layout))
        modules = laid_by_hand(lying, *lying.frame.into(np.array(given.within))[:, :2])
        backs = backs_of(design, key, ground.plan, modules)
        patch = added(design, key, modules, backs)
    else:
        modules = _sunniest(design, key, ground, given.limit, libraries)
        backs = backs_of(design, key, ground.plan, modules)
        most = {"most": len(modules)} if given.limit is not None else {}
        typed = {"module": given.module} if given.module else {}
        patch = laid(design, key, {**given.layout, **typed, **most}, ground.model, modules, backs)
    return len(modules) + (len(backs.modules) if backs is not None else 0), patch


def light_on(design: Design, key: str, model: str, libraries: Libraries) -> np.ndarray:
    """What each place of a surface that could take a module receives in the year, as it stands [kWh/m2].

    Raises
    ------
    ImpossibleAct, ImpossibleFace
        If the surface lies on no face that takes modules.
    """
    ground = _ground(design, key, Fill(surface=key, module=model), libraries)
    plan = ground.plan
    every = proposed(replace(plan, layout=plan.layout.model_copy(update={"most": None})))
    if not every:
        return np.zeros(0)
    whole = replace(plan, layout=plan.layout.holding(every))
    return _received(design, key, ground, whole, libraries).received.sum(axis=0)


def _received(design: Design, key: str, ground: _Ground, whole: FaceModules, libraries: Libraries) -> Any:
    surface = design.surfaces[key]
    racks = racks_beside({k: p for k, p in ground.plans.items() if k != partner_of(design, key)}, key)
    targets, sky = groups_of(whole, racks), libraries.sky_of(design)
    return access_of(design, surface, surface.tilt, surface.azimuth, targets, sky, libraries.stages).value


def _sunniest(design: Design, key: str, ground: _Ground, limit: FillLimit | None, libraries: Libraries) -> dict[str, Place]:
    """As many modules as a limit allows: where it allows fewer than fit, those that receive most; numbered in reading order."""
    plan = ground.plan
    most = plan.layout.most if limit is None else _most(limit, plan)
    every = proposed(replace(plan, layout=plan.layout.model_copy(update={"most": None})))
    if most is None or (len(every) <= most and (limit is None or limit.of != "energy")):
        return every
    if most == 0 or libraries.weather is None or design.surfaces[key].tracking is not None:
        return dict(list(every.items())[:most])
    whole = replace(plan, layout=plan.layout.holding(every))
    access = _received(design, key, ground, whole, libraries)
    # Places of the same light are taken row by row, so that the modules lie together.
    order = sorted(range(len(whole.ids)), key=lambda k: (-round(float(access.annual[k]), 3), k))
    if limit is not None and limit.of == "energy":
        yields = access.received.sum(axis=0)[order] * plan.module.power / 1000 * _performance(design, libraries)
        most = int(np.searchsorted(np.cumsum(yields), limit.value * (1 + 1e-9), side="right"))
    kept = sorted(order[:most])
    return {f"m{number}": every[whole.ids[k]] for number, k in enumerate(kept, start=1)}


def _performance(design: Design, libraries: Libraries) -> float:
    """Energy over what modules would give at their rated efficiency of the light that they receive."""
    with suppress(IncompleteDesign, UnknownPart):  # a scheme without strings has no year of its own yet
        return libraries.year_of(design).annual.performance_ratio
    return ASSUMED_PERFORMANCE


def _most(limit: FillLimit, plan: FaceModules) -> int:
    """Modules under a limit; of an energy, as many as there may be at all."""
    module = plan.module
    each = {"modules": 1.0, "power": module.power / 1000, "area": module.width * module.length}.get(limit.of, 1e-6)
    return int(min(limit.value * (1 + 1e-9) / each, MOST_MODULES))


def _with_strings(
    kept: dict[str, Any], patch: dict[str, Any], key: str, words: str, libraries: Libraries
) -> tuple[dict[str, Any], str]:
    """What was laid, with strings: where one plane of no building has them and the face none, they are the face's.

    They are found anew for the modules on it; where the library has no inverter for that number, they move as they are.
    """
    document = merge_patch(kept, patch)
    filled = Design.read(document)
    loose = stand_in(filled, key)
    if loose is None:
        return patch, words
    name = filled.surfaces[loose].name or loose
    taken = strings_taken_over(filled, loose, key)
    model = next(s.module for s in filled.subarrays.values() if s.surface == loose)
    layout = filled.surfaces[key].layout
    count = layout.size if layout is not None else 0
    ways = _ways(Design.read(merge_patch(document, taken)), key, model, count, libraries)
    if not ways:
        as_they_are = f"They take the strings of {name} as they are: find strings for {count} modules on the Circuits bench."
        return join_patches(patch, taken), f"{words} {as_they_are}"
    best = ways[0]
    inverter = filled.parts.inverters.get(best.inverter) or libraries.parts.inverters[best.inverter]
    title = f"{inverter.maker} {inverter.name}"
    number = f"{best.count} × {title}" if best.count > 1 else title
    anew = f"They take the place of {name}, in strings found anew: {best.modules} modules on {number}."
    return join_patches(join_patches(patch, taken), best.patch), f"{words} {anew}"


def _ways(design: Design, key: str, model: str, count: int, libraries: Libraries) -> Sequence[ProposalLine]:
    """Strings for the modules of a surface, the best first; none without weather, by which they are compared, nor for a very large field."""
    if libraries.weather is None or not 1 <= count <= MOST_FOUND:
        return ()
    asked = FindRequest(surface=key, module=model, number=count, leave_over=min(LEFT_OVER, count - 1), first=True)
    try:
        return find_strings(design, asked, libraries).proposals
    except CannotFind:
        return ()


def _words(count: int) -> str:
    return "No module fits there." if not count else "One module laid." if count == 1 else f"{count:,} modules laid."
