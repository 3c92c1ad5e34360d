"""Modules onto a face of the scene: a surface for it, what was laid as a patch, and the strings of the plane that stood for it."""

from collections.abc import Container, Mapping
from dataclasses import dataclass, replace
from typing import Any

from noontide.core.design import Design, join_patches
from noontide.core.design.layout import LEVEL, Layout
from noontide.core.design.module_rows import ModuleRow, Place, PlacedModule, in_rows
from noontide.core.design.naming import fresh
from noontide.core.electrical import Catalogue
from noontide.core.electrical.datasheets import Module
from noontide.core.fields import Document
from noontide.core.plan import FaceModules
from noontide.core.plan.laying import behind, proposed
from noontide.core.plan.layouts import free_plan, partner_of, plans_of
from noontide.core.scene import Face

Modules = Mapping[str, Place]


@dataclass(frozen=True)
class Backs:
    """The modules behind those of racks that stand back to back."""

    surface: str | None  # that they lie on; None where there is none yet
    azimuth: float  # [°]
    modules: Modules


def surface_for(design: Design, face: Face, parts: Catalogue) -> tuple[str, dict[str, Any]]:
    """A surface on a face, new, with its id: level faces take racks in the open. Its module is that of the strings there are, else the library's first."""
    model = next((subarray.module for subarray in design.subarrays.values()), next(iter(parts.modules), None))
    layout: dict[str, Any] = {"module": model} if model else {}
    key = fresh("surface", design.surfaces)
    is_level = face.tilt <= LEVEL
    values = {"face": face.id, "layout": layout | ({"racks": {}} if is_level else {})} | (
        {"mounting": "open rack"} if is_level else {}
    )
    return key, {"surfaces": {key: values}}


def backs_of(design: Design, key: str, plan: FaceModules, modules: Modules) -> Backs | None:
    """The backs of what was laid, where racks stand in pairs, with the surface that they belong to."""
    if not plan.is_paired:
        return None
    azimuth = (plan.racks_azimuth + 180) % 360
    assert plan.racks is not None
    layout = plan.layout.model_copy(update={"racks": plan.racks.model_copy(update={"azimuth": azimuth})}).holding({})
    return Backs(partner_of(design, key), round(azimuth, 6), behind(plan, replace(plan, layout=layout), modules))


def laid(design: Design, key: str, layout: dict, model: str, modules: Modules, backs: Backs | None = None) -> dict[str, Any]:
    """What writes modules of a model onto a surface, with the values of its layout that they were laid by; those that lay there are gone.

    Racks back to back lay the surface that faces the other way too, as it is or new.
    """
    surfaces: dict[str, Any] = {key: {"layout": {**layout, **in_place_of(design, key, modules)}}}
    if backs is None:
        return {"surfaces": surfaces}
    own = design.surfaces[key]
    racks = (own.layout.racks.model_dump(exclude_unset=True) if own.layout and own.layout.racks else {}) | (
        layout.get("racks") or {}
    )
    shared = {**layout, "racks": racks | {"azimuth": backs.azimuth}}
    if backs.surface is not None:
        surfaces[backs.surface] = {"layout": {**shared, **in_place_of(design, backs.surface, backs.modules)}}
        return {"surfaces": surfaces}
    like = own.model_dump(mode="json", exclude_unset=True)
    kept = {name: value for name, value in (like.get("layout") or {}).items() if name not in ("module_rows", "modules")}
    face = design.built_scene.face(own.face or "")
    title = f"{face.name.split(',')[0] if face else own.name}, backs of the pairs"
    surfaces[fresh("surface", design.surfaces)] = like | {
        "name": title[:80],
        "layout": {"module": model} | join_patches(kept, shared) | as_kept(backs.modules),
    }
    return {"surfaces": surfaces}


def added(design: Design, key: str, modules: Modules, backs: Backs | None = None) -> dict[str, Any]:
    """What adds modules to those that lie on a surface; the backs of pairs have the names of their fronts."""
    some = {key: modules} | ({backs.surface: backs.modules} if backs is not None and backs.surface is not None else {})
    layouts = {name: design.surfaces[name].layout or Layout() for name in some}
    return {"surfaces": {name: {"layout": as_kept(each, layouts[name].module_rows)} for name, each in some.items()}}


def stand_in(design: Design, key: str) -> str | None:
    """The plane of no building that has strings, such as the one an estimate began with, while a surface on a face has none: it stood for the roof."""
    if any(subarray.surface == key for subarray in design.subarrays.values()):
        return None
    strung = {subarray.surface for subarray in design.subarrays.values()}
    loose = [name for name, surface in design.surfaces.items() if surface.face is None and name in strung]
    return loose[0] if len(loose) == 1 else None


def strings_taken_over(design: Design, stand_in: str, key: str) -> dict[str, Any]:
    """What moves the strings of the plane that stood for a roof onto the surface on it; the plane goes."""
    moved = [name for name, subarray in design.subarrays.items() if subarray.surface == stand_in]
    return {"subarrays": {name: {"surface": key} for name in moved}, "surfaces": {stand_in: None}}


def room_on(design: Design, key: str, module: Module, parts: Catalogue) -> int | None:
    """Modules that a surface has room for: those on its plan or, where none lies yet, as many as fill its face or cover its area; None where it has no limit."""
    surface = design.surfaces[key]
    if surface.face is None or design.built_scene.face(surface.face) is None:
        return None if surface.area is None else int(surface.area / module.area * (1 + 1e-9))
    plans = plans_of(design, parts)
    if (plan := plans.get(key)) is not None and plan.ids:
        return len(plan.ids)
    layout = (surface.layout or Layout()).holding({})
    return len(proposed(free_plan(design, key, layout, module, plans)))


def in_place_of(design: Design, key: str, modules: Modules) -> dict[str, Any]:
    """The modules of a surface as a patch of its layout that deletes all others."""
    surface = design.surfaces.get(key)
    old = surface.layout if surface is not None and surface.layout is not None else Layout()
    found = as_kept(modules)
    return {
        "module_rows": dict.fromkeys(old.module_rows)
        | {name: _anew(ModuleRow, row) for name, row in found["module_rows"].items()},
        "modules": dict.fromkeys(old.modules) | {name: _anew(PlacedModule, one) for name, one in found["modules"].items()},
    }


def _anew(kind: type[Document], values: dict[str, Any]) -> dict[str, Any]:
    """Values of an entry as a patch, under which nothing stays of one that was called the same."""
    return dict.fromkeys(name for name, field in kind.model_fields.items() if not field.is_required()) | values


def as_kept(modules: Modules, beside: Container[str] = ()) -> dict[str, Any]:
    """Modules as a layout keeps them, in rows that are called otherwise than those beside them."""
    rows, hand = in_rows(modules, beside)
    return {
        "module_rows": {name: row.model_dump(mode="json", exclude_defaults=True) for name, row in rows.items()},
        "modules": {name: one.model_dump(mode="json", exclude_defaults=True) for name, one in hand.items()},
    }
