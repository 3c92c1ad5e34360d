"""Solar access of the surfaces on a scene, by module and month, and what each obstacle costs."""

from contextlib import suppress

from pydantic import BaseModel, Field

from noontide.core.access.shade_table import shade_table
from noontide.core.access.solar_access import accesses_of, mean_access
from noontide.core.access.takers import takers_of
from noontide.core.cells import as_csv
from noontide.core.design.document import Design
from noontide.core.electrical import Catalogue
from noontide.core.plan.layouts import plans_of
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.chain import corrected, sky_over
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.server.problems import Problem
from noontide.server.projects.evaluator import STAGES, results_for
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load


class ShadedSurface(BaseModel):
    """A face with modules or in pieces; irradiation in kWh/m2, shares 0..1."""

    face: str
    surface: str | None = Field(description="id of the design's surface on the face")
    name: str
    tilt: float = Field(description="[°]")
    azimuth: float = Field(description="[°]")
    is_pieces: bool = Field(description="whether no module lies there and the face is shown in pieces")
    ids: list[str] = Field(description="of the modules, or of the pieces")
    corners: list[list[tuple[float, float, float]]] = Field(description="of each piece; empty for modules")
    received: list[list[float]] = Field(description="by month and module [kWh/m2]")
    free: list[float] = Field(description="without any shade, by month [kWh/m2]")
    during: list[float] = Field(description="by module in the span that was asked for [kWh/m2]; empty without one")
    free_during: float = Field(description="in the span without any shade [kWh/m2]")
    access: float = Field(description="solar access over the year, mean of the modules")
    orientation: float = Field(description="orientation factor: this plane unshaded over the best fixed plane")
    product: float = Field(description="total solar resource fraction")


class ShadeAnswer(BaseModel):
    revision: int
    is_coarse: bool = Field(description="a preview within some per cent; the exact answer is asked for next")
    span: tuple[int, int] | None = Field(description="intervals of the year that are looked at by themselves")
    best: float = Field(description="irradiation of the best fixed plane, without shade [kWh/m2]")
    access: float = Field(description="of all modules, weighted by their number")
    product: float
    modules: int
    surfaces: list[ShadedSurface]


class LightTaker(BaseModel):
    id: str
    kind: str
    name: str
    taken: float = Field(description="irradiation that the module would have more without it [kWh/m2 a year]")
    by_month: list[float] = Field(description="[kWh/m2]")
    by_hour: list[float] = Field(description="direct light by hour of the local clock [kWh/m2]")


class LightTakers(BaseModel):
    revision: int
    takers: list[LightTaker] = Field(description="the one that takes most first")


def weather_sky(design: Design) -> Kept[SunAndWeather]:
    """The sun and the weather of a design.

    Raises
    ------
    Problem
        If the design has no weather year.
    """
    if design.weather is None:
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Choose a weather year; solar access is counted with its light."
        )
    try:
        weather = corrected(load(design.weather.digest), design, STAGES)
    except WeatherYear.DoesNotExist:
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Its weather year is not in the library.", "/weather"
        ) from None
    return sky_over(design.site, weather, STAGES)


def shade_answer(
    design: Design,
    parts: Catalogue,
    revision: int,
    everything: bool = False,
    coarse: bool = False,
    spacing: float | None = None,
    span: tuple[int, int] | None = None,
) -> ShadeAnswer:
    """Solar access of every surface on a face, and of every other roof where all are asked for.

    Parameters
    ----------
    spacing : float, optional
        Of the pieces that faces without modules are shown in [m].
    span : (first, last), optional
        Intervals of the year that are looked at by themselves.

    Raises
    ------
    Problem
        If the design has no weather year.
    """
    sky = weather_sky(design)
    accesses = accesses_of(design, parts, sky, STAGES, everything, coarse, spacing, span)
    found = []
    for one in accesses:
        plane = one.targets.planes[0]
        found.append(
            ShadedSurface(
                face=one.face.id, surface=one.surface_id, name=one.name, tilt=one.tilt, azimuth=one.azimuth, is_pieces=one.is_pieces,
                ids=list(one.targets.ids),
                corners=[[tuple(p) for p in plane.frame.out_of(o).round(3).tolist()] for o in plane.outlines] if one.is_pieces else [],
                received=one.access.received.round(2).tolist(), free=one.access.free.round(2).tolist(),
                during=one.during.received.round(5).tolist() if one.during else [], free_during=one.during.free if one.during else 0.0,
                access=one.mean, orientation=one.orientation, product=one.mean * one.orientation,
            )
        )  # fmt: skip
    access = mean_access(accesses)
    modules = sum(len(s.ids) for s in found if not s.is_pieces)
    weights = [len(s.ids) if not s.is_pieces or not modules else 0 for s in found]
    total = sum(weights)
    product = sum(w * s.product for w, s in zip(weights, found, strict=True)) / total if total else 0.0
    return ShadeAnswer(
        revision=revision,
        is_coarse=coarse,
        span=span,
        best=accesses[0].best if accesses else 0.0,
        modules=modules,
        surfaces=found,
        access=access,
        product=product,
    )


def shade_csv(document: dict, design: Design, parts: Catalogue, by_module: bool = False) -> str:
    """The table of solar access, for spreadsheets; with the energy of the surfaces where the design is complete.

    Raises
    ------
    Problem
        If the design has no weather year.
    """
    found = accesses_of(design, parts, weather_sky(design), STAGES)
    energy: dict[str, float] = {}
    if not by_module:
        with suppress(Problem):
            energy = results_for(document).energy_by_surface
    return as_csv(shade_table(found, by_module, energy))


def takers_answer(design: Design, parts: Catalogue, surface: str, module: str, revision: int) -> LightTakers:
    """What takes light from one module.

    Raises
    ------
    Problem
        If there is no such module on a face of the scene, or no weather year.
    """
    plans = plans_of(design, parts)
    if surface not in plans or module not in plans[surface].ids:
        raise Problem(404, "not-found", "No such module", f"Surface '{surface}' has no module '{module}' in its place.")
    found = takers_of(design, surface, plans, module, weather_sky(design), STAGES)
    return LightTakers(
        revision=revision,
        takers=[
            LightTaker(
                id=t.id, kind=t.kind, name=t.name, taken=round(t.annual, 3), by_month=t.by_month.round(3).tolist(),
                by_hour=t.by_hour.round(3).tolist(),
            )
            for t in found
        ],
    )  # fmt: skip
