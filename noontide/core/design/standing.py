"""What stands on what in a scene."""

from collections.abc import Iterable

from noontide.core.design.document import Design


def kinds_of_objects(design: Design) -> dict[str, str]:
    """The collection of the scene that each object is in, by its id."""
    scene = design.scene
    some = {kind: getattr(scene, kind) for kind in type(scene).model_fields}
    return {key: kind for kind, objects in some.items() if isinstance(objects, dict) for key in objects}


def with_what_stands_on(design: Design, ids: Iterable[str]) -> dict[str, dict[str, None]]:
    """Objects of the scene and all that stands on them, by their collections: a merge patch of the scene that deletes them."""
    kind_of = kinds_of_objects(design)
    on = {key: getattr(getattr(design.scene, kind)[key], "on", None) for key, kind in kind_of.items()}
    gone = set(ids)
    while more := {key for key, below in on.items() if key not in gone and below in gone}:
        gone |= more
    patch: dict[str, dict[str, None]] = {}
    for key in sorted(gone):
        patch.setdefault(kind_of[key], {})[key] = None
    return patch


def objects_that_cast(design: Design) -> list[str]:
    """Objects of the scene that can cast shade and carry no modules, each once: a tree has a trunk and a crown."""
    carrying = {(surface.face or "").split("/")[0] for surface in design.surfaces.values()}
    return list(dict.fromkeys(body.id for body in design.built_scene.bodies if body.id not in carrying and body.kind != "rows"))
