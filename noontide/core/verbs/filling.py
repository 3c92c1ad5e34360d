"""Modules onto a face of the scene: a surface for it, what was laid as a patch, and the strings of the plane that stood for it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from noontide.core.design import Design, join_patches
from noontide.core.design.layout import LEVEL, PlacedModule
from noontide.core.electrical import Catalogue
from noontide.core.scene import Face
from noontide.core.verbs.naming import fresh

Modules = Mapping[str, PlacedModule]


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


def laid(design: Design, key: str, layout: dict, model: str, modules: Modules, backs: Backs | None = None) -> dict[str, Any]:
    """What writes modules of a model onto a surface, with the values of its layout that they were laid by; those that lay there are gone.

    Racks back to back lay the surface that faces the other way too, as it is or new.
    """
    surfaces: dict[str, Any] = {key: {"layout": {**layout, "modules": _in_place_of(design, key, modules)}}}
    if backs is None:
        return {"surfaces": surfaces}
    own = design.surfaces[key]
    racks = (own.layout.racks.model_dump(exclude_unset=True) if own.layout and own.layout.racks else {}) | (
        layout.get("racks") or {}
    )
    shared = {**layout, "racks": racks | {"azimuth": backs.azimuth}}
    if backs.surface is not None:
        surfaces[backs.surface] = {"layout": {**shared, "modules": _in_place_of(design, backs.surface, backs.modules)}}
        return {"surfaces": surfaces}
    like = own.model_dump(mode="json", exclude_unset=True)
    kept = {name: value for name, value in (like.get("layout") or {}).items() if name != "modules"}
    face = design.built_scene.face(own.face or "")
    title = f"{face.name.split(',')[0] if face else own.name}, backs of the pairs"
    surfaces[fresh("surface", design.surfaces)] = like | {
        "name": title[:80],
        "layout": {"module": model} | join_patches(kept, shared) | {"modules": _as_kept(backs.modules)},
    }
    return {"surfaces": surfaces}


def added(key: str, modules: Modules, backs: Backs | None = None) -> dict[str, Any]:
    """What adds modules to those that lie on a surface; the backs of pairs have the names of their fronts."""
    some = {key: modules} | ({backs.surface: backs.modules} if backs is not None and backs.surface is not None else {})
    return {"surfaces": {name: {"layout": {"modules": _as_kept(each)}} for name, each in some.items()}}


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


def _in_place_of(design: Design, key: str, modules: Modules) -> dict[str, Any]:
    """The modules of a surface as a patch that deletes all others."""
    surface = design.surfaces.get(key)
    old = surface.layout.modules if surface is not None and surface.layout is not None else {}
    return dict.fromkeys(name for name in old if name not in modules) | _as_kept(modules)


def _as_kept(modules: Modules) -> dict[str, Any]:
    return {name: placed.model_dump(mode="json", exclude_unset=True) for name, placed in modules.items()}
