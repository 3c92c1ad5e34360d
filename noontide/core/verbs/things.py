"""Things of the scene that are deleted, with all that stands on them."""

from typing import Annotated, Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.fields import Document, Id
from noontide.core.verbs.shared import ImpossibleAct
from noontide.core.verbs.strings import without_strings


class DeleteThings(Document):
    things: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)] = Field(title="Things of the scene")


def delete_things(design: Design, given: DeleteThings) -> tuple[dict[str, Any], str]:
    """Things of the scene, what stands on them, the surfaces on their faces and the strings there.

    Raises
    ------
    ImpossibleAct
        If the scene has no such thing.
    """
    scene = design.scene.model_dump(exclude_unset=True)
    kind_of = {key: kind for kind, some in scene.items() if isinstance(some, dict) for key in some}
    if unknown := [key for key in given.things if key not in kind_of]:
        raise ImpossibleAct(f"The scene has no '{unknown[0]}'.")
    gone = set(given.things)
    while more := {key for key, kind in kind_of.items() if key not in gone and scene[kind][key].get("on") in gone}:
        gone |= more
    patch: dict[str, Any] = {"scene": {}}
    for key in sorted(gone):
        patch["scene"].setdefault(kind_of[key], {})[key] = None
    lost = [key for key, one in design.surfaces.items() if (one.face or "").split("/")[0] in gone]
    if lost:
        patch["surfaces"] = dict.fromkeys(lost)
    patch |= without_strings([key for key, one in design.subarrays.items() if one.surface in lost])
    first = (
        scene[kind_of[given.things[0]]][given.things[0]].get("name") or kind_of[given.things[0]].removesuffix("s").capitalize()
    )
    return patch, f"{first} deleted." if len(given.things) == 1 else f"{len(given.things):,} things deleted."
