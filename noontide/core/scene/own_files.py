"""What a file of ours carries beside its shapes, so that it is read back to the same scene and the same modules."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from noontide.core.earth import METRES_A_DEGREE

MEMBER = "noontide"
FORMAT = "noontide-scene/1"
NEAR = 1.0  # m between the origin of a file and that of a design, up to which they are one


def carried(document: dict[str, Any], modules: Mapping[str, str]) -> dict[str, Any]:
    """The member of a file: scene and surfaces of a design as it is kept, with where the scene's origin lies.

    `modules` names the type that lies on a surface where its strings say it, which do not travel.
    """
    site = document.get("site", {})
    surfaces = {
        key: {**s, "layout": {**s["layout"], "module": modules[key]}} if "layout" in s and key in modules else s
        for key, s in document.get("surfaces", {}).items()
        if "face" in s
    }
    origin = {name: site[name] for name in ("latitude", "longitude") if name in site}
    return {"format": FORMAT, "origin": origin, "scene": document.get("scene", {}), "surfaces": surfaces}


def own_part(member: Any, latitude: float, longitude: float) -> dict[str, Any] | None:
    """Scene and surfaces out of a file's member; None where it is none of ours, or its origin is another place."""
    if not isinstance(member, dict) or member.get("format") != FORMAT:
        return None
    origin, scene, surfaces = (member.get(name) for name in ("origin", "scene", "surfaces"))
    if not (isinstance(origin, dict) and isinstance(scene, dict) and isinstance(surfaces, dict)):
        return None
    try:
        north = (float(origin["latitude"]) - latitude) * METRES_A_DEGREE
        east = (float(origin["longitude"]) - longitude) * METRES_A_DEGREE * np.cos(np.radians(latitude))
    except (KeyError, TypeError, ValueError):
        return None
    return {"scene": scene, "surfaces": surfaces} if np.hypot(east, north) <= NEAR else None


def with_free_ids(part: dict[str, Any], taken_scene: set[str], taken_surfaces: set[str]) -> dict[str, Any]:
    """A part of a design whose ids are free beside those that a design has; what names an id follows it."""
    new: dict[str, str] = {}
    taken = set(taken_scene)
    scene: dict[str, Any] = {}
    # The years of growth belong to the design that reads.
    by_kind = {kind: things for kind, things in part["scene"].items() if isinstance(things, dict)}
    for key in (key for things in by_kind.values() for key in things):
        new[key] = _free(key, taken)
        taken.add(new[key])
    for kind, things in by_kind.items():
        scene[kind] = {new[key]: _following(values, new) for key, values in things.items()}
    surfaces: dict[str, Any] = {}
    for key, values in part.get("surfaces", {}).items():
        solid, _, face = str(values.get("face", "")).partition("/")
        name = _free(key, taken_surfaces | set(surfaces))
        surfaces[name] = {**values, "face": f"{new.get(solid, solid)}/{face}"}
    return {"scene": scene, "surfaces": surfaces}


def _following(values: dict[str, Any], new: dict[str, str]) -> dict[str, Any]:
    return {**values, "on": new.get(values["on"], values["on"])} if isinstance(values.get("on"), str) else values


def _free(key: str, taken: set[str]) -> str:
    if key not in taken:
        return key
    stem = key.rstrip("0123456789").rstrip("-") or key
    return next(name for n in range(2, 10**6) if (name := f"{stem[:34]}-{n}") not in taken)
