"""Rows of a face that turn after the sun, or stand on fixed racks again."""

from typing import Any

from pydantic import Field

from noontide.core.design import Design, join_patches, merge_patch
from noontide.core.design.layout import LEVEL
from noontide.core.simulation import Libraries
from noontide.core.verbs.fill import Fill, fill
from noontide.core.verbs.shared import ImpossibleAct, OnSurface, must_be_there


class TurnRows(OnSurface):
    turns: bool = Field(True, title="Whether the rows turn")
    axis_azimuth: float | None = Field(None, ge=0, le=360, title="Azimuth of their axes; as it is where it is left out [°]")


def turn_rows(design: Design, given: TurnRows, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """Put the rows of a level face on single-axis trackers, or back on racks; modules that lie there are laid anew.

    Raises
    ------
    ImpossibleAct
        If there is no such surface, it lies on no level face, its racks stand back to back, or no module says how large one is.
    """
    must_be_there("surface", given.surface, design.surfaces)
    surface = design.surfaces[given.surface]
    name = surface.name or "The surface"
    face = design.built_scene.face(surface.face) if surface.face else None
    if face is None:
        raise ImpossibleAct(f"{name} lies on no face of the scene. Its tracking is set on Surfaces.")
    if given.turns and face.tilt > LEVEL:
        raise ImpossibleAct(f"Trackers stand on ground of {LEVEL:g}° or less; {face.name} has {face.tilt:.1f}°.")
    layout = surface.layout
    if given.turns and layout is not None and layout.racks is not None and layout.racks.is_paired:
        raise ImpossibleAct(f"The racks of {name} stand back to back. Let all rows face one way first.")
    values: dict[str, Any] = {"tracking": None}
    if given.turns:
        about = {} if given.axis_azimuth is None else {"axis_azimuth": given.axis_azimuth}
        values = {"tracking": about, "mounting": "open rack"}
        if layout is None or layout.racks is None:
            values["layout"] = {"racks": {}}
    patch: dict[str, Any] = {"surfaces": {given.surface: values}}
    words = f"The rows of {name} turn after the sun." if given.turns else f"The rows of {name} stand on racks."
    if layout is None or not layout.size:
        return patch, words
    turned = Design.read(merge_patch(design.as_kept(), patch))
    laid, said = fill(turned, Fill(surface=given.surface), libraries)
    return join_patches(patch, laid), f"{words} {said}"
