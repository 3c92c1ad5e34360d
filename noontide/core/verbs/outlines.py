"""An outline that was traced on the ground becomes a building or a field, and a field follows the land under it."""

from typing import Annotated, Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.naming import fresh
from noontide.core.design.standing import kinds_of_objects
from noontide.core.fields import Document
from noontide.core.scene.document import Corner, check_outline
from noontide.core.scene.placing import Place
from noontide.core.verbs.shared import ImpossibleAct

Floats = NDArray[np.float64]
CLEAN = 3  # decimals of a place [m]
PITCH = 35.0  # of the hipped roof that a traced building begins with [°]


class TraceOutline(Document):
    """Corners on the ground, one after another, and what they are the outline of; the first edge is its front."""

    corners: Annotated[tuple[Corner, ...], Field(min_length=3, max_length=200)] = Field(title="Corners: east and north [m]")
    kind: Literal["building", "field"] = Field("building", title="What it is the outline of")


def trace_outline(design: Design, given: TraceOutline) -> tuple[dict[str, Any], str]:
    """A building with a hipped roof, or level ground for an array, whose front is the first edge.

    Raises
    ------
    ImpossibleAct
        If the outline crosses itself or has no area.
    """
    try:
        check_outline(given.corners)
    except ValueError as error:
        raise ImpossibleAct(str(error)) from error
    kind, values = (
        ("buildings", {"name": "House", "hip": {"pitch": PITCH}}) if given.kind == "building" else ("grounds", {"name": "Field"})
    )
    stem = "house" if given.kind == "building" else "field"
    key = fresh(stem, kinds_of_objects(design))
    corners = np.array(given.corners)
    if not shapely.LinearRing(corners).is_ccw:
        corners = np.roll(corners[::-1], 2, axis=0)  # run the other way, and begun with the same edge
    placed = outlined(corners, azimuth_of_edge(corners[0], corners[1]))
    return {"scene": {kind: {key: values | placed}}}, f"{values['name']} added."


def azimuth_of_edge(one: Floats, other: Floats) -> float:
    """That an edge of a counterclockwise outline faces: to the right of its way [°]."""
    east, north = other - one
    return float(np.degrees(np.arctan2(north, -east)) % 360)


def outlined(corners: Floats, azimuth: float) -> dict[str, Any]:
    """An outline (n, 2) of the site as an object keeps it: its middle, its direction, and its corners in its own frame."""
    x, y = corners.mean(axis=0).round(CLEAN).tolist()
    azimuth = round(azimuth, CLEAN) % 360
    return {"x": x, "y": y, "azimuth": azimuth, "outline": Place(x, y, azimuth).into(corners).round(CLEAN).tolist()}
