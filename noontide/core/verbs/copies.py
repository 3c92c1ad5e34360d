"""Objects of the scene once more: beside those that they are copies of, mirrored, or out of another design."""

import re
from collections.abc import Callable, Mapping
from functools import partial
from typing import Annotated, Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.naming import fresh
from noontide.core.design.standing import kinds_of_objects
from noontide.core.fields import Document, Id
from noontide.core.scene.document import KINDS
from noontide.core.verbs.shared import ImpossibleAct

Values = dict[str, Any]
Ids = Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
Metres = Annotated[float, Field(ge=-5000, le=5000)]
BESIDE = 0.5  # between an object and its copy [m]
MOST_COPIES = 100
CLEAN = 3  # decimals of a place [m]


class CopyObjects(Document):
    """Objects of the scene, and how many times they are put beside themselves."""

    objects: Ids = Field(title="Objects of the scene")
    times: int = Field(1, ge=1, le=MOST_COPIES, title="How many times")
    apart: Metres | None = Field(
        None, title="From one to the next; where it is left out, half a metre between the first and its copy [m]"
    )


class MirrorObjects(Document):
    objects: Ids = Field(title="Objects that stand on a building")


class PutObjects(Document):
    """Objects out of a scene, as its document has them, and how far from there they are put down."""

    objects: dict[str, dict[Id, dict[str, Any]]] = Field(title="Objects by kind and id", min_length=1, max_length=len(KINDS))
    east: Metres = Field(0.0, title="To the east [m]")
    north: Metres = Field(0.0, title="To the north [m]")


def copy_objects(design: Design, given: CopyObjects) -> tuple[dict[str, Any], str]:
    """Objects in a line with copies of themselves, along the front of what they stand on.

    Raises
    ------
    ImpossibleAct
        If the scene has no such object.
    """
    some = _objects(design, given.objects)
    apart = _length(design, given.objects[0]) + BESIDE if given.apart is None else given.apart
    patch: dict[str, Any] = {}
    taken = set(kinds_of_objects(design))
    for k in range(1, given.times + 1):
        _put(design, some, patch, taken, partial(_further, east=k * apart))
    count = len(some) * given.times
    return {"scene": patch}, "Object copied." if count == 1 else f"{count:,} copies."


def mirror_objects(design: Design, given: MirrorObjects) -> tuple[dict[str, Any], str]:
    """Copies on the other side of the middle of the building that objects stand on.

    Raises
    ------
    ImpossibleAct
        If the scene has no such object, or one stands on no building.
    """
    some = _objects(design, given.objects)
    if loose := [key for key, (_, values) in some.items() if values.get("on") is None]:
        raise ImpossibleAct(f"{_name(design, loose[0])} stands on no building whose middle it could be mirrored over.")
    patch: dict[str, Any] = {}
    _put(design, some, patch, set(kinds_of_objects(design)), _mirrored)
    return {"scene": patch}, "Object mirrored." if len(some) == 1 else f"{len(some):,} objects mirrored."


def put_objects(design: Design, given: PutObjects) -> tuple[dict[str, Any], str]:
    """Objects out of this or another scene, under ids that nothing has; what stood on a building that is not there stands on the ground.

    Raises
    ------
    ImpossibleAct
        If a scene has no objects of a kind.
    """
    if unknown := [kind for kind in given.objects if kind not in KINDS]:
        raise ImpossibleAct(f"A scene has no {unknown[0]!r}. It has {', '.join(KINDS)}.")
    some = {key: (kind, values) for kind, objects in given.objects.items() for key, values in objects.items()}
    patch: dict[str, Any] = {}
    _put(design, some, patch, set(kinds_of_objects(design)), partial(_further, east=given.east, north=given.north))
    return {"scene": patch}, "Object added." if len(some) == 1 else f"{len(some):,} objects added."


def _objects(design: Design, ids: Ids) -> dict[str, tuple[str, Values]]:
    """Objects with their kinds and the values that were set."""
    kind_of = kinds_of_objects(design)
    if unknown := [key for key in ids if key not in kind_of]:
        raise ImpossibleAct(f"The scene has no '{unknown[0]}'.")
    scene = design.as_kept()["scene"]
    return {key: (kind_of[key], scene[kind_of[key]][key]) for key in dict.fromkeys(ids)}


def _put(
    design: Design,
    some: Mapping[str, tuple[str, Values]],
    patch: dict[str, Any],
    taken: set[str],
    place: Callable[[Values], Values],
) -> None:
    """Add objects to a patch of a scene; those that stand on a building that is copied too keep their place on its copy, and groups are new ones."""
    ids: dict[str, str] = {}
    for key in some:
        ids[key] = fresh(re.sub(r"-?\d+$", "", key) or "object", taken)
        taken.add(ids[key])
    groups: dict[str, str] = {}
    for key, (kind, values) in some.items():
        host, group = values.get("on"), values.get("group")
        placed = dict(values) if host in ids else values | place(values)
        if host is not None:
            placed["on"] = ids.get(host, host if host in design.scene.buildings else None)
        if group is not None:
            placed["group"] = groups.setdefault(group, f"group-{ids[key]}"[:40].rstrip("-"))
        patch.setdefault(kind, {})[ids[key]] = {name: value for name, value in placed.items() if value is not None}


def _further(values: Values, east: float, north: float | None = None) -> Values:
    by = {"x": east} | ({} if north is None else {"y": north})
    return {axis: _moved(values.get(axis, 0.0), step) for axis, step in by.items()}


def _mirrored(values: Values) -> Values:
    turned = {"azimuth": _clean(-values["azimuth"] % 360)} if "azimuth" in values else {}
    return {"x": -values.get("x", 0.0)} | turned


def _length(design: Design, key: str) -> float:
    """Of an object along its front [m]."""
    thing = getattr(design.scene, kinds_of_objects(design)[key])[key]
    return float(getattr(thing, "length", None) or getattr(thing, "diameter", None) or 1.0)


def _name(design: Design, key: str) -> str:
    return getattr(design.scene, kinds_of_objects(design)[key])[key].name or key


def _moved(value: Any, step: float) -> Any:
    """A place by a step further; what is no number stays as it is, and is refused where the design is read."""
    return _clean(value + step) if isinstance(value, int | float) else value


def _clean(value: float) -> float:
    return round(value, CLEAN)
