"""The stage from the glass to the cells: soiling, then reflection by the incidence angle modifier."""

from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.losses import Models
from noontide.core.electrical.datasheets import Module
from noontide.core.irradiance.incidence import (
    Modifier,
    ashrae,
    fresnel,
    from_table,
    martin_ruiz,
    mean_iam_of_band,
    over_sky_and_ground,
    tabulated,
)
from noontide.core.shading.rows import lit_halves, shaded_groups
from noontide.core.shading.surroundings import Surroundings
from noontide.core.shading.views import by_tilt
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.plane_irradiance import Attitude, ByMonth, PlaneIrradiance, RowField, by_month, plane_view
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]

_COVER_SOURCES = {
    "fresnel": "De Soto, Klein and Beckman (2006), Solar Energy 80, 78-88, eqs. 13 to 15",
    "martin-ruiz": "Martin and Ruiz (2001), Solar Energy Materials and Solar Cells 70, 25-38",
    "ashrae": "Souka and Safwat (1966); ASHRAE 93",
    "datasheet": "IAM table of the module's datasheet, linear interpolation between its angles",
    "none": "No reflection loss (user setting)",
}


def _cover_source(models: Models) -> str:
    return _COVER_SOURCES[models.incidence]


LOSSES = (
    Loss(
        "soiling", "Soiling", "sunlight", r"\Delta E = -A\sum_t s\,G_\mathrm{poa}\,\Delta t", "Fraction of plane irradiance (user setting)",
        (Setting("/losses/soiling", "s"),), also="dust, dirt, snow",
    ),
    Loss(
        "reflection", "Incidence angle (IAM)", "sunlight", r"\Delta E = -A\sum_t\sum_c\bigl(1-K_c\bigr)\,G_c\,(1-s)\,\Delta t", _cover_source,
        (Setting("/models/incidence"),), also="reflection, incidence angle modifier, glass, Fresnel, AOI",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class CoverOptics:
    """What the chosen model of reflection needs to know of a module's front."""

    model: str
    is_coated: bool = False
    table: tuple[tuple[float, float], ...] | None = None  # angle [°] and modifier, of the datasheet


def cover_of(module: Module, model: str) -> CoverOptics:
    """The front of a module as far as the model asks for it, so that modules with the same front share their planes."""
    if model == "datasheet" and module.incidence:
        return CoverOptics(model, table=module.incidence)
    # Where a datasheet has no table, its glass has to do.
    return CoverOptics("fresnel", module.coated_glass) if model in ("fresnel", "datasheet") else CoverOptics(model)


@dataclass(frozen=True)
class EffectiveInputs:
    sky: Kept[SunAndWeather]
    attitude: Kept[Attitude]
    plane: Kept[PlaneIrradiance]
    surroundings: Surroundings | None
    rows: RowField | None
    is_half_cut: bool  # counts for one module up the row alone
    cover: CoverOptics
    soiling: ByMonth  # [%]


@dataclass(frozen=True)
class EffectiveIrradiance:
    """What reaches the cells, (light,) [W/m2], with the shaded share apart."""

    direct: Floats  # where no row shades
    diffuse: Floats  # mean over the rows
    mean: Floats  # over all modules, shaded and not
    groups: Floats  # share of the cell groups in shade in rows behind another, 0..1
    direct_in_shade: Floats  # share of the direct light that a group in shade still gets, 0..1
    soiling: Floats | float  # share, 0..1

    def changes(self, plane: PlaneIrradiance) -> dict[str, Floats]:
        """What each line of the Cascade changes, (light,) [W/m2]."""
        poa = plane.poa
        dirt = poa * self.soiling
        return {"soiling": -dirt, "reflection": self.mean - (poa - dirt)}


def pass_cover(row: EffectiveInputs) -> EffectiveIrradiance:
    """Irradiance behind dirt and glass."""
    sky, plane, attitude = row.sky.value, row.plane.value, row.attitude.value
    modifier = _modifier(row.cover)
    dome_iam, ground_iam, band_iam = _mean_iams(row.cover, attitude.tilt)
    if row.surroundings is not None and row.surroundings.access is None:
        dome_iam = plane_view(row.surroundings, attitude, modifier, sky.months).isotropic_iam
    soiling = by_month(row.soiling, sky.months) / 100
    clean = 1 - soiling
    direct = plane.direct * modifier(np.maximum(attitude.cos_incidence, 0)) * clean
    behind_glass = plane.dome * dome_iam + plane.band * band_iam + plane.ground * ground_iam
    # A dark band along the horizon is light that the dome lacks where the glass lets least through: where it is nearly all of the dome,
    # the parts apart would give more than nothing, or more than is there.
    diffuse = np.minimum(np.maximum(behind_glass, 0.0), np.maximum(plane.diffuse, 0.0)) * clean
    groups = in_shade = np.broadcast_to(0.0, direct.shape)
    if row.rows is not None:
        groups = shaded_groups(plane.shaded, row.rows.groups)
        # The two halves of a half-cut module in portrait are in parallel: the upper one goes on in the light.
        if row.is_half_cut and row.rows.groups == 1:
            in_shade = lit_halves(plane.shaded)
    mean = plane.reaching(direct) + diffuse
    return EffectiveIrradiance(direct, diffuse, mean, groups, in_shade, soiling)


def _mean_iams(cover: CoverOptics, tilt: Floats) -> tuple[Floats | float, ...]:
    """Mean modifiers of the dome, the ground and the horizon band; of planes that move, from a table."""
    at = partial(_mean_iams_at, cover)
    return at(float(tilt[0])) if tilt.size == 1 else by_tilt(at, tilt)


@lru_cache(maxsize=4096)
def _mean_iams_at(cover: CoverOptics, tilt: float) -> tuple[float, ...]:
    """At one tilt [°], that a plane turned to other sides meets again."""
    modifier = _modifier(cover)
    return *over_sky_and_ground(modifier, tilt), mean_iam_of_band(modifier, tilt)


_FRESNEL = {coated: tabulated(partial(fresnel, coated=coated)) for coated in (False, True)}
_OTHERS: dict[str, Modifier] = {
    "martin-ruiz": martin_ruiz,
    "ashrae": ashrae,
    "none": lambda cosine: (np.asarray(cosine) > 0).astype(float),
}


def _modifier(cover: CoverOptics) -> Modifier:
    if cover.table:
        return _tabulated_datasheet(cover.table)
    return _FRESNEL[cover.is_coated] if cover.model == "fresnel" else _OTHERS[cover.model]


@lru_cache(maxsize=64)
def _tabulated_datasheet(table: tuple[tuple[float, float], ...]) -> Modifier:
    angles, modifiers = zip(*table, strict=True)
    return tabulated(partial(from_table, angles=angles, modifiers=modifiers))
