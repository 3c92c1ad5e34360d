"""The stages from the weather to the light that reaches the glass: attitude, transposition, horizon, parallel rows."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.angles import sin_cos
from noontide.core.calendar import Calendar
from noontide.core.design.losses import Models
from noontide.core.irradiance.attitude import Motion, stance
from noontide.core.irradiance.incidence import Modifier
from noontide.core.irradiance.tracking import angle_about
from noontide.core.irradiance.transposition import (
    SkyDiffuse,
    ground_reflected,
    hay_davies,
    isotropic,
    perez,
    reindl,
)
from noontide.core.shading.horizon import DomeView
from noontide.core.shading.rows import RowViews, section_shade, section_strip_lit, section_views
from noontide.core.shading.surroundings import Surroundings
from noontide.core.shading.views import by_tilt
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.near_shade import LOSSES as NEAR_LOSSES
from noontide.core.simulation.near_shade import NearShade
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ByMonth = float | tuple[float, ...]  # one value for the year, or twelve

_SKY_SOURCES = {
    "perez": "Perez et al. (1990), Solar Energy 44, 271-289, all-sites coefficients",
    "reindl": "Reindl, Beckman and Duffie (1990), Solar Energy 45, 9-17",
    "hay-davies": "Hay and Davies (1980)",
    "isotropic": "Liu and Jordan (1963), Solar Energy 7, 53-74",
}


def sky_source(models: Models) -> str:
    """Source of the transposition model."""
    return _SKY_SOURCES[models.transposition]


LOSSES = (
    Loss(
        "transposition", "Transposition", "sunlight",
        r"\Delta E = A\sum_t\bigl(G_\mathrm{plane}-\mathrm{GHI}\bigr)\Delta t,\quad G_\mathrm{plane}=\mathrm{DNI}\cos\theta+G_\mathrm{sky}+\rho\,\mathrm{GHI}\,\tfrac{1-\cos\beta}{2}",
        sky_source, (Setting("/site/albedo", r"\rho"),), also="tilt and azimuth, POA, plane of array, orientation", may_gain=True,
    ),
    Loss(
        "horizon", "Horizon", "sunlight", r"\Delta E = -A\sum_t\bigl(G_\mathrm{free}-G_\mathrm{horizon}\bigr)\Delta t",
        "Horizon line and obstacles against the sun's position; dome integrated", also="far shading, horizon shading, obstacles, trees, shade factor",
    ),
    *NEAR_LOSSES,
    Loss(
        "rows", "Shade of rows", "sunlight",
        r"\Delta E = -A\sum_t\bigl(G_\mathrm{lone}-G_\mathrm{rows}\bigr)\Delta t,\quad f=1-\frac{p}{w}\,\frac{\sin\psi}{\sin(\beta+\psi)}",
        "Profile angle; view factors by crossed strings (Hottel and Sarofim 1967)", also="inter-row shading, self-shading, mutual shading",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class AttitudeInputs:
    sky: Kept[SunAndWeather]
    motion: Motion
    calendar: Calendar | None  # for planes that are tilted by the date


@dataclass(frozen=True)
class Attitude:
    """How a plane stands: (1,) where it is fixed, else (light,)."""

    tilt: Floats  # [°]
    azimuth: Floats  # [°]
    cos_incidence: Floats  # of the sun, (light,); negative behind the plane
    rotation: Floats | None  # about its one axis, where it has one (light,) [°]


def turn_plane(row: AttitudeInputs) -> Attitude:
    """Attitude of a plane and the sun's incidence on it."""
    sky = row.sky.value
    starts = row.calendar.local_starts[sky.interval_index] if row.calendar else _NO_DATES
    stands = stance(row.motion, sky.zenith, sky.azimuth, sky.wind, starts)
    (across, up), (sin_facing, cos_facing) = sin_cos(stands.tilt), sin_cos(stands.azimuth)
    cosine = (across * sin_facing) * sky.east + (across * cos_facing) * sky.north + up * sky.cos_zenith
    return Attitude(stands.tilt, stands.azimuth, cosine, stands.rotation)


_NO_DATES = np.zeros(0, dtype="datetime64[m]")


@dataclass(frozen=True)
class RowField:
    """Parallel rows, and the cell groups along their slope."""

    width: float  # of a row along its slope [m]
    pitch: float  # from row to row, level [m]
    count: int
    groups: int
    axis_tilt: float  # of the rows' own long direction [°]
    axis_azimuth: float  # [°], a quarter turn before the direction that a positive tilt faces
    slope: float  # of the ground across the rows [°], in the sense of the tilt

    @property
    def coverage(self) -> float:
        """Row width over the distance of the rows along the ground."""
        return self.width / self.pitch * float(np.cos(np.radians(self.slope)))

    @property
    def shaded_rows(self) -> float:
        """Share of the rows that stand behind another."""
        return (self.count - 1) / self.count


@dataclass(frozen=True)
class PlaneInputs:
    sky: Kept[SunAndWeather]
    attitude: Kept[Attitude]
    transposition: str
    albedo: ByMonth
    surroundings: Surroundings | None
    rows: RowField | None
    near: Kept[NearShade] | None = None


@dataclass(frozen=True)
class PlaneIrradiance:
    """Irradiance on a plane by where it comes from, (light,) [W/m2]; the diffuse parts are means over the rows."""

    free: Floats  # with nothing in front
    reference: Floats  # behind the horizon, clear of the rows
    beam: Floats  # where no row shades, from the sun itself
    circumsolar: Floats  # where no row shades
    dome: Floats
    band: Floats  # along the horizon; negative under overcast skies
    ground: Floats
    shaded: Floats  # share of a row's width in the shade of the row in front, 0..1
    behind: float  # share of the rows that are behind another
    is_measured: bool = False  # shade that was given by hand replaces horizon and obstacles
    near: Floats | None = None  # share of the direct light that the scene leaves, mean over the modules, 0..1

    @property
    def direct(self) -> Floats:
        """From the sun and around it, where no row shades."""
        return self.beam + self.circumsolar

    @property
    def diffuse(self) -> Floats:
        return self.dome + self.band + self.ground

    @property
    def poa(self) -> Floats:
        """What reaches the glass, mean over the rows."""
        return self.reaching(self.direct) + self.diffuse

    def reaching(self, direct: Floats) -> Floats:
        """What rows and scene leave of a direct light, mean over the modules."""
        if self.near is not None:
            return direct * self.near
        return direct * self.lit if self.behind else direct

    @property
    def lit(self) -> Floats:
        """Share of the modules without shade of a row, 0..1."""
        return 1 - self.behind * self.shaded

    @property
    def sensor(self) -> Floats:
        """What an unshaded sensor in the plane measures: shade that was given by hand is the array's, as that of a scene or of rows is."""
        return self.free if self.is_measured else self.reference

    def changes(self, sky: SunAndWeather) -> dict[str, Floats]:
        """What each line of the Cascade changes, (light,) [W/m2]."""
        return {
            "transposition": self.free - sky.ghi,
            "horizon": _difference(self.reference, self.free),
            "near_shade": self.poa - self.reference if self.near is not None else _NOTHING,
            "rows": self.poa - self.reference if self.behind else _NOTHING,
        }


_NOTHING = np.zeros(1)


def _difference(after: Floats, before: Floats) -> Floats:
    return _NOTHING if after is before else after - before


@dataclass(frozen=True)
class _IrradianceComponents:
    """Irradiance on a plane by where it comes from, since each is shaded and reflected in its own way; (light,) [W/m2]."""

    beam: Floats
    circumsolar: Floats
    dome: Floats
    band: Floats
    ground: Floats

    @property
    def total(self) -> Floats:
        return self.beam + self.circumsolar + self.dome + self.band + self.ground

    def keep(
        self, direct: Floats | float, dome: Floats | float, band: Floats | float, ground: Floats | float
    ) -> "_IrradianceComponents":
        """What is left of each part. A dark band loses as the dome behind it does, so that hiding it gains nothing."""
        return _IrradianceComponents(
            self.beam * direct,
            self.circumsolar * direct,
            self.dome * dome,
            np.where(self.band < 0, self.band * dome, self.band * band),
            self.ground * ground,
        )


@dataclass(frozen=True)
class _HorizontalIrradiance:
    """What reaches the ground in front of the planes, (light,) [W/m2]."""

    beam: Floats
    sky: Floats

    def share_of(self, whole: "_HorizontalIrradiance") -> Floats:
        """Of what another would get, 0..1; 1 in the dark."""
        everything = whole.beam + whole.sky
        return np.divide(self.beam + self.sky, everything, out=np.ones_like(everything), where=everything > 0)


def light_plane(row: PlaneInputs) -> PlaneIrradiance:
    """Irradiance on a plane: sky and ground, then horizon, then the rows in front."""
    sky, attitude = row.sky.value, row.attitude.value
    parts = _free_components(row, sky, attitude)
    free = parts.total
    level = _HorizontalIrradiance(sky.dni * sky.cos_zenith, sky.dhi)
    reference, shaded, behind = free, np.broadcast_to(0.0, free.shape), 0.0
    if row.surroundings is not None:
        parts, level = _behind_surroundings(parts, level, row.surroundings, attitude, sky)
        reference = parts.total
    near = None
    if row.near is not None:
        scene = row.near.value
        near = scene.light
        ground = scene.ground[sky.months]
        if scene.racks is not None:
            # Between the rows the ground is a strip that they shade, as between endless ones.
            field = RowField(scene.racks.slant, scene.racks.pitch, 2, 1, 0.0, scene.racks.azimuth - 90, 0.0)
            strip = _section(field, attitude, sky).strip(level)
            ground = ground - scene.ground_between[sky.months] * (1 - strip.share_of(level))
        parts = parts.keep(1.0, scene.isotropic[sky.months], scene.band[sky.months], ground)
    elif row.rows is not None:
        behind = row.rows.shaded_rows
        parts, shaded = _behind_rows(parts, level, row.rows, attitude, sky)
    return PlaneIrradiance(
        free=free,
        reference=reference,
        beam=parts.beam,
        circumsolar=parts.circumsolar,
        dome=parts.dome,
        band=parts.band,
        ground=parts.ground,
        shaded=shaded,
        behind=behind,
        is_measured=row.surroundings is not None and row.surroundings.access is not None,
        near=near,
    )


def _free_components(row: PlaneInputs, sky: SunAndWeather, attitude: Attitude) -> _IrradianceComponents:
    """Irradiance on a plane with nothing in front of it."""
    dome = _dome(row.transposition, sky, attitude)
    return _IrradianceComponents(
        beam=sky.dni * np.maximum(attitude.cos_incidence, 0),
        circumsolar=dome.circumsolar,
        dome=dome.isotropic,
        # A dark horizon band takes no more than the dome has.
        band=np.maximum(dome.horizon, -dome.isotropic),
        ground=ground_reflected(sky.ghi, by_month(row.albedo, sky.months), attitude.tilt),
    )


def _behind_surroundings(
    parts: _IrradianceComponents, level: _HorizontalIrradiance, around: Surroundings, attitude: Attitude, sky: SunAndWeather
) -> tuple[_IrradianceComponents, _HorizontalIrradiance]:
    """What the horizon and the obstacles leave of the light, also on the ground."""
    access = around.access_at(sky.months, sky.hours)
    if access is not None:
        return parts.keep(access, access, access, access), _HorizontalIrradiance(level.beam * access, level.sky * access)
    seen = around.beam_seen(sky.zenith, sky.azimuth, sky.months)
    view = plane_view(around, attitude, np.ones_like, sky.months)
    level_view = around.view(np.zeros(1), np.zeros(1), np.ones_like, sky.months)
    left = _HorizontalIrradiance(level.beam * seen, level.sky * level_view.isotropic)
    return parts.keep(seen, view.isotropic, view.band, left.share_of(level)), left


def _behind_rows(
    parts: _IrradianceComponents, level: _HorizontalIrradiance, rows: RowField, attitude: Attitude, sky: SunAndWeather
) -> tuple[_IrradianceComponents, Floats]:
    """What the rows in front leave of the diffuse light, and the share of a row in their shade."""
    section, behind = _section(rows, attitude, sky), rows.shaded_rows
    views, strip = section.views, section.strip(level)
    left = parts.keep(
        direct=1.0,
        dome=1 - behind * (1 - views.isotropic),
        band=1 - behind * (1 - views.band),
        ground=1 - behind * (1 - strip.share_of(level) * views.ground),
    )
    return left, np.where(sky.lit_fraction > 0, section_shade(section.sun, section.turned, section.coverage), 0.0)


@dataclass(frozen=True)
class _Section:
    """The section across rows, with angles from the normal of their ground, (light,) or (1,)."""

    sun: Floats  # [°]
    turned: Floats  # of the rows [°]
    coverage: float
    views: RowViews

    def strip(self, level: _HorizontalIrradiance) -> _HorizontalIrradiance:
        """What reaches the ground between two rows."""
        lit = section_strip_lit(self.sun, self.turned, self.coverage)
        return _HorizontalIrradiance(level.beam * lit, level.sky * self.views.strip_sky)


def _section(rows: RowField, attitude: Attitude, sky: SunAndWeather) -> _Section:
    sun = angle_about(sky.east, sky.north, sky.cos_zenith, rows.axis_tilt, rows.axis_azimuth) - rows.slope
    turned = (attitude.tilt if attitude.rotation is None else attitude.rotation) - rows.slope
    return _Section(sun, turned, rows.coverage, _views_between(turned, rows.coverage))


def _views_between(turned: Floats, coverage: float) -> RowViews:
    """View factors between rows; of those that move, from a table."""
    if turned.size == 1:
        return section_views(abs(float(turned[0])), coverage)

    def at(tilt: float) -> tuple[float, ...]:
        views = section_views(tilt, coverage)
        return float(views.isotropic), float(views.band), float(views.ground), float(views.strip_sky)

    return RowViews(*by_tilt(at, np.abs(turned)))


def plane_view(around: Surroundings, attitude: Attitude, modifier: Modifier, months: Ints) -> DomeView:
    """What a plane sees of the dome above all that stands around it."""
    return around.view(attitude.tilt, attitude.azimuth, modifier, months)


def _dome(model: str, sky: SunAndWeather, attitude: Attitude) -> SkyDiffuse:
    cosine, tilt = attitude.cos_incidence, attitude.tilt
    match model:
        case "isotropic":
            return isotropic(sky.dhi, tilt)
        case "hay-davies":
            return hay_davies(sky.dhi, sky.dni, sky.extraterrestrial, cosine, sky.cos_zenith, tilt)
        case "reindl":
            return reindl(sky.dhi, sky.dni, sky.ghi, sky.extraterrestrial, cosine, sky.cos_zenith, tilt)
        case "perez":
            return perez(sky.dhi, sky.perez, cosine, sky.cos_zenith, tilt)
    raise ValueError(f"there is no transposition model '{model}'")


def by_month(values: ByMonth, months: Ints) -> Floats | float:
    """The value of each interval's month, 0 to 11; one number where there are none by month."""
    return np.array(values)[months] if isinstance(values, tuple) else values
