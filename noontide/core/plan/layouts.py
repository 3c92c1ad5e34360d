"""The plans of a design: every surface on a face of its scene, with the module that lies there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.circuits import SubArray
from noontide.core.design.document import Design
from noontide.core.design.layout import Layout
from noontide.core.electrical.datasheets import Catalogue, Module
from noontide.core.lately import Lately
from noontide.core.plan.face_modules import FaceModules
from noontide.core.scene.solids import Face


def module_named(design: Design, name: str, parts: Catalogue) -> Module | None:
    """A module of the design's own parts, or else of the library."""
    return design.parts.modules.get(name) or parts.modules.get(name)


def module_on(design: Design, key: str, parts: Catalogue) -> tuple[str | None, Module | None]:
    """The module that lies on a surface, with its id: that of the first strings there, else the layout's own; of the design's parts before the library's."""
    for subarray in design.subarrays.values():
        if subarray.surface == key:
            return subarray.module, module_named(design, subarray.module, parts)
    layout = design.surfaces[key].layout
    laid = layout.module if layout is not None else None
    return laid, module_named(design, laid, parts) if laid else None


def plans_of(design: Design, parts: Catalogue) -> dict[str, FaceModules]:
    """The modules of every surface that has a layout, a face and a module."""
    modules = {key: module for key in design.surfaces if (module := module_on(design, key, parts)[1]) is not None}
    return plans_with(design, modules)


def plans_with(design: Design, modules: Mapping[str, Module]) -> dict[str, FaceModules]:
    """The plans of surfaces whose module is known. Of surfaces that share a face, the first in the document has its places first."""
    found: dict[str, FaceModules] = {}
    lying: dict[str, list[NDArray[np.float64]]] = {}
    for key, surface in design.surfaces.items():
        face = design.built_scene.face(surface.face) if surface.face else None
        layout = surface.lies
        if face is None or layout is None or key not in modules:
            continue
        before = lying.setdefault(face.id, [])
        plan = found[key] = _plan_on(face, layout, modules[key], design.site.latitude, tuple(before))
        if _shares_its_face(design, key):
            before += plan.all_corners
    return found


_remembered: Lately[FaceModules] = Lately(12)
LARGE = 200  # modules, from which a plan is remembered for those who ask for it next


def forget_plans() -> None:
    """Let go of the plans that are remembered."""
    _remembered.clear()


def _plan_on(face: Face, layout: Layout, module: Module, latitude: float, others: tuple[NDArray[np.float64], ...]) -> FaceModules:
    """The plan of a face, of which a large one is found once as long as nothing about it changes."""
    plan = FaceModules(face, layout, module, latitude, others)
    if sum(row.count for row in layout.module_rows.values()) + len(layout.modules) < LARGE:
        return plan
    outlines = [face.outline, *(hole.outline for hole in face.holes), *others]
    kinds = [edge.kind for edge in face.edges], [hole.kind for hole in face.holes]
    key = (face.id, b"".join(o.tobytes() for o in outlines), repr(kinds), layout.model_dump_json(), module.fingerprint, latitude)
    return _remembered.find(key, lambda: plan)


def free_plan(design: Design, key: str, layout: Layout, module: Module, plans: Mapping[str, FaceModules]) -> FaceModules:
    """A surface with another layout among all that lies on its face; of a pair that is laid anew, the partner is left out."""
    surface = design.surfaces[key]
    face = design.built_scene.face(surface.face or "")
    assert face is not None
    layout = surface.model_copy(update={"layout": layout}).lies or layout
    partner = partner_of(design, key) if layout.racks is not None and layout.racks.is_paired else None
    others = [c for k, p in plans.items() if k not in (key, partner) and p.face.id == face.id for c in p.all_corners]
    return FaceModules(face, layout, module, design.site.latitude, tuple(others))


def partner_of(design: Design, key: str) -> str | None:
    """The surface whose rows stand back to back with those of a surface: on the same face, paired, and facing the other way."""
    surface = design.surfaces[key]
    face = design.built_scene.face(surface.face or "")
    if face is None:
        return None
    own = _front(face, surface.layout)
    for other, candidate in design.surfaces.items():
        racks = candidate.layout.racks if candidate.layout else None
        if other == key or candidate.face != surface.face or racks is None or not racks.is_paired:
            continue
        if abs((_front(face, candidate.layout) - own) % 360 - 180) < 1:
            return other
    return None


def _front(face: Face, layout: Layout | None) -> float:
    """That the modules of a layout on a face look to [°]."""
    racks = layout.racks if layout is not None else None
    return face.azimuth if racks is None or racks.azimuth is None else racks.azimuth


def _shares_its_face(design: Design, key: str) -> bool:
    face = design.surfaces[key].face
    return sum(other.face == face for other in design.surfaces.values()) > 1


def deal(ids: Sequence[str], members: Sequence[tuple[SubArray, int]]) -> list[list[tuple[str, ...]]]:
    """The modules of every string of sub-arrays that share a surface: as drawn on the plan, else the next ones in reading order.

    `members` are the sub-arrays, each with how many strings it has in all.
    """
    drawn = {i for subarray, _ in members for string in subarray.string_plan or () for i in string}
    free = iter([i for i in ids if i not in drawn])
    return [
        list(subarray.string_plan)
        if subarray.string_plan
        else [tuple(islice(free, subarray.modules_per_string)) for _ in range(many)]
        for subarray, many in members
    ]


def strings_in_all(design: Design, subarray: SubArray) -> int:
    """Of a sub-array, over all inverters of its set."""
    return subarray.strings * design.inverters[subarray.inverter].count


def strings_of(design: Design, key: str, plan: FaceModules) -> list[tuple[str, tuple[str, ...]]]:
    """The strings on a surface with their sub-array, in order."""
    mine = {k: s for k, s in design.subarrays.items() if s.surface == key}
    dealt = deal(plan.ids, [(s, strings_in_all(design, s)) for s in mine.values()])
    return [(k, string) for k, strings in zip(mine, dealt, strict=True) for string in strings]


LEAD = 1.1  # of a module's own cables, each [m]


@dataclass(frozen=True, eq=False)
class StringRun:
    """The way of a string's cables over a face, from its positive end back to its negative one."""

    number: int  # on the surface, from 1
    subarray: str
    modules: tuple[str, ...]  # the first has the positive end
    middles: NDArray[np.float64]  # of the modules in space, (modules, 3)
    length: float  # of cable beside the modules' own, one way [m]


def string_runs(design: Design, key: str, plan: FaceModules) -> list[StringRun]:
    """The strings on a surface, each with the cable that it needs to where the cables leave the face.

    Notes
    -----
    Both ends run straight to the exit, and what the modules' own cables do not bridge between one module and the next is added; half
    of the sum is the length one way, since a string's cable counts both ways.
    """
    keys, parts = [], []
    for some, frame in plan.planes(list(plan.ids)):
        keys += some
        parts.append(frame.out_of(plan.quads(some).mean(axis=1)))
    place = {key: k for k, key in enumerate(keys)}
    every = np.concatenate([np.zeros((0, 3)), *parts])
    found = []
    for number, (subarray, string) in enumerate(strings_of(design, key, plan), start=1):
        modules = tuple(i for i in string if i in place)
        if not modules:
            continue
        middles = every[[place[i] for i in modules]]
        hops = np.sqrt((np.diff(middles, axis=0) ** 2).sum(axis=1))
        ends = np.sqrt(((middles[[0, -1]] - plan.exit) ** 2).sum(axis=1))
        cable = np.maximum(hops - 2 * LEAD, 0).sum() + np.maximum(ends - LEAD, 0).sum()
        found.append(StringRun(number, subarray, modules, middles, float(cable) / 2))
    return found
