"""Things of the scene that are deleted, with all that stands on them."""

from typing import Annotated, Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.standing import kinds_of_objects, with_what_stands_on
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
    kind_of = kinds_of_objects(design)
    if unknown := [key for key in given.things if key not in kind_of]:
        raise ImpossibleAct(f"The scene has no '{unknown[0]}'.")
    patch: dict[str, Any] = {"scene": with_what_stands_on(design, given.things)}
    gone = {key for some in patch["scene"].values() for key in some}
    lost = [key for key, one in design.surfaces.items() if (one.face or "").split("/")[0] in gone]
    if lost:
        patch["surfaces"] = dict.fromkeys(lost)
    patch |= without_strings([key for key, one in design.subarrays.items() if one.surface in lost])
    kind = kind_of[given.things[0]]
    first = getattr(design.scene, kind)[given.things[0]].name or kind.removesuffix("s").capitalize()
    return patch, f"{first} deleted." if len(given.things) == 1 else f"{len(given.things):,} things deleted."
