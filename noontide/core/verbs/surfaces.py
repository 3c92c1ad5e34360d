"""Surfaces that are added, arranged in rows, and deleted."""

from math import ceil, cos, radians, sin, tan
from typing import Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.naming import fresh
from noontide.core.design.surface import TURNING_COVER, Rows, Surface
from noontide.core.fields import Document
from noontide.core.plan.filling import stand_in, strings_taken_over
from noontide.core.verbs.shared import ImpossibleAct, OnSurface, must_be_there
from noontide.core.verbs.strings import without_strings

CLEAR_ABOVE = 18.0  # sun elevation from which rows stand clear of one another [°]
LEAST_GAP = 0.2  # m between rows


class AddSurface(Document):
    """A surface, with its orientation where it is known."""

    tilt: float | None = Field(None, ge=0, le=90, title="Tilt")
    azimuth: float | None = Field(None, ge=0, le=360, title="Azimuth")


def add_surface(design: Design, given: AddSurface) -> tuple[dict[str, Any], str]:
    """A further surface, towards the equator where nothing else is said."""
    towards = 0.0 if design.site.latitude < 0 else Surface.model_fields["azimuth"].default
    values = {
        "name": "New surface",
        "tilt": Surface.model_fields["tilt"].default if given.tilt is None else given.tilt,
        "azimuth": towards if given.azimuth is None else given.azimuth,
    }
    return {"surfaces": {fresh("surface", design.surfaces): values}}, "Surface added."


def delete_surface(design: Design, given: OnSurface) -> tuple[dict[str, Any], str]:
    """A surface with the strings on it.

    Raises
    ------
    ImpossibleAct
        If there is no such surface.
    """
    must_be_there("surface", given.surface, design.surfaces)
    on_it = [key for key, one in design.subarrays.items() if one.surface == given.surface]
    words = "Surface and its strings deleted." if on_it else "Surface deleted."
    return {"surfaces": {given.surface: None}} | without_strings(on_it), words


def take_strings(design: Design, given: OnSurface) -> tuple[dict[str, Any], str]:
    """The strings of the plane of no building, such as the one an estimate began with, onto a surface of the scene; the plane goes.

    Raises
    ------
    ImpossibleAct
        If there is no such surface, it has strings, or there is not just one such plane.
    """
    must_be_there("surface", given.surface, design.surfaces)
    surface = design.surfaces[given.surface]
    loose = stand_in(design, given.surface)
    if surface.face is None or loose is None:
        raise ImpossibleAct(
            f"{surface.name or 'The surface'} has strings, lies on no face, or there is no one plane beside the scene with strings to take."
        )
    return strings_taken_over(
        design, loose, given.surface
    ), f"The strings of {design.surfaces[loose].name or loose} are on {surface.name or 'the surface'} now."


def arrange_rows(design: Design, given: OnSurface) -> tuple[dict[str, Any], str]:
    """Rows of a module's width, as far apart as a sun 18° up asks for at the steepest tilt; of trackers by their ground cover.

    Raises
    ------
    ImpossibleAct
        If there is no such surface.
    """
    must_be_there("surface", given.surface, design.surfaces)
    surface = design.surfaces[given.surface]
    width = surface.rows.width if surface.rows is not None else Rows.model_fields["width"].default
    seasonal = surface.seasonal_tilt
    tilt = radians(max((one.tilt for one in seasonal.changes.values()), default=surface.tilt) if seasonal else surface.tilt)
    apart = width / TURNING_COVER if surface.tracking else width * (cos(tilt) + sin(tilt) / tan(radians(CLEAR_ABOVE)))
    pitch = max(ceil(round(apart * 10, 9)) / 10, width + LEAST_GAP)
    return {"surfaces": {given.surface: {"rows": {"pitch": pitch}}}}, f"Rows {pitch:g} m apart."
