"""The stages from the weather to the light that reaches the cells.

All arrays run over the intervals in which there is light, (light,), and planes over (surfaces, light).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from functools import partial as partial_of

import numpy as np
from numpy.typing import NDArray

from noontide.core.angles import sin_cos
from noontide.core.electrical.datasheets import Module
from noontide.core.irradiance.geometry import cos_incidence
from noontide.core.irradiance.incidence import (
    Modifier,
    ashrae,
    fresnel,
    from_table,
    martin_ruiz,
    over_horizon,
    over_sky_and_ground,
    tabulated,
)
from noontide.core.irradiance.transposition import (
    PerezBrightness,
    SkyDiffuse,
    ground_reflected,
    hay_davies,
    isotropic,
    perez,
    perez_brightness,
    reindl,
)
from noontide.core.scheme.document import Incidence, Scheme, Surface
from noontide.core.shading.horizon import Horizon, dome_view
from noontide.core.shading.rows import (
    RowGeometry,
    electrically_shaded_fraction,
    profile_angle,
    row_views,
    shaded_fraction,
    strip_lit_fraction,
)
from noontide.core.sun import IntervalSun, extraterrestrial_normal, relative_air_mass
from noontide.core.weather.clock import clock_error
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Sky:
    """Sun and weather together, (light,)."""

    light: NDArray[np.int64]  # places on the calendar
    zenith: Floats  # [°]
    azimuth: Floats  # [°]
    cos_zenith: Floats
    extraterrestrial: Floats  # [W/m2]
    ghi: Floats  # [W/m2]
    dni: Floats  # [W/m2]
    dhi: Floats  # [W/m2]
    air_temperature: Floats  # [°C]
    wind: Floats  # at 10 m [m/s]
    months: NDArray[np.int64]
    lit_fraction: Floats  # share of the interval with the sun up
    perez: PerezBrightness
    clock_error: float  # of the weather's clock against the sun [h], 0 where they agree


@dataclass(frozen=True)
class PlaneLight:
    """Light on each surface, every field (surfaces, light); irradiances and losses [W/m2]."""

    cos_incidence: Floats  # of the sun; negative behind the plane
    unshaded: Floats
    horizon_loss: Floats
    row_loss: Floats
    poa: Floats  # what reaches the glass
    beam: Floats  # of it, from the sun itself
    sky: Floats  # of it, from the sky
    ground: Floats  # of it, from the ground
    shaded_fraction: Floats  # of a row's width, 0..1
    soiling_loss: Floats
    reflection_loss: Floats
    partial_shade_loss: Floats
    effective: Floats  # what reaches the cells and counts

    @property
    def reference(self) -> Floats:
        """What a sensor in the plane, clear of the rows, would measure."""
        return self.unshaded - self.horizon_loss


def meet_sky(sun: IntervalSun, weather: Weather) -> Sky:
    """The weather in the intervals with light: those with the sun up, and those in which the file has some all the same.

    Light after sunset (twilight, or a clock that is off) is all diffuse.
    """
    zenith, azimuth, distance, lit_fraction = sun.zenith, sun.azimuth, sun.distance, sun.lit_fraction
    light = sun.lit
    up = np.zeros(weather.calendar.intervals, dtype=bool)
    up[light] = True
    twilight = np.flatnonzero(~up & ((weather.ghi > 0) | (weather.dhi > 0)))
    ghi, dni, dhi = weather.ghi, weather.dni, weather.dhi
    if twilight.size:
        light = np.concatenate([light, twilight])
        order = np.argsort(light)
        light = light[order]
        zenith = np.concatenate([zenith, np.full(twilight.size, 90 - 1e-3)])[order]
        azimuth = np.concatenate([azimuth, np.zeros(twilight.size)])[order]
        distance = np.concatenate([distance, np.ones(twilight.size)])[order]
        lit_fraction = np.concatenate([lit_fraction, np.zeros(twilight.size)])[order]
        dni, dhi = dni.copy(), dhi.copy()
        dni[twilight], dhi[twilight] = 0.0, ghi[twilight]
    above = extraterrestrial_normal(distance)
    dni, dhi = dni[light], dhi[light]
    return Sky(
        light=light,
        zenith=zenith,
        azimuth=azimuth,
        cos_zenith=sin_cos(zenith)[1],
        extraterrestrial=above,
        ghi=ghi[light],
        dni=dni,
        dhi=dhi,
        air_temperature=weather.temperature[light],
        wind=weather.wind[light],
        months=weather.calendar.months[light],
        lit_fraction=lit_fraction,
        perez=perez_brightness(dhi, dni, above, zenith, relative_air_mass(zenith)),
        clock_error=clock_error(weather, sun),
    )


def light_planes(scheme: Scheme, surfaces: tuple[Surface, ...], glass: tuple[Glass, ...], sky: Sky) -> PlaneLight:
    """Light on the surfaces: sky and ground, horizon, rows, dirt and glass, each loss booked."""
    tilt, facing = np.array([[s.tilt] for s in surfaces]), np.array([[s.azimuth] for s in surfaces])
    cosine = cos_incidence(tilt, facing, sky.zenith, sky.azimuth)
    modifiers = [_modifier(scheme.models.incidence, front) for front in glass]
    none = np.broadcast_to(0.0, cosine.shape)

    free = _free_light(scheme, surfaces, sky, cosine, tilt)
    unshaded = free.total
    level = _LevelLight(sky.dni * sky.cos_zenith, sky.dhi)
    behind_hills, sky_iam = free, None
    if not (skyline := scheme.site.skyline).is_flat:
        behind_hills, level, sky_iam = _behind_horizon(free, level, skyline, surfaces, modifiers, sky)
    before_rows = unshaded if skyline.is_flat else behind_hills.total
    arriving, shaded, extra = behind_hills, none, none
    has_rows = any(s.rows for s in surfaces)
    if has_rows:
        arriving, shaded, extra = _behind_rows(behind_hills, level, surfaces, sky)
    poa = arriving.total if has_rows else before_rows

    dirt = _soiling(scheme, sky.months)
    directed, rest = _through_glass(arriving, surfaces, modifiers, np.maximum(cosine, 0), sky_iam)
    through = (directed + rest) * (1 - dirt)
    partial = directed * (1 - dirt) * extra if has_rows else none
    return PlaneLight(
        cos_incidence=cosine,
        unshaded=unshaded,
        horizon_loss=none if skyline.is_flat else unshaded - before_rows,
        row_loss=before_rows - poa if has_rows else none,
        poa=poa,
        beam=arriving.beam,
        sky=arriving.dome + arriving.circumsolar + arriving.band,
        ground=arriving.ground,
        shaded_fraction=shaded,
        soiling_loss=poa * dirt,
        reflection_loss=poa * (1 - dirt) - through,
        partial_shade_loss=partial,
        effective=through - partial if has_rows else through,
    )


@dataclass(frozen=True)
class _Parts:
    """Light on the planes by where it comes from, since shade and glass treat each apart; (surfaces, light) [W/m2]."""

    beam: Floats
    circumsolar: Floats
    dome: Floats
    band: Floats
    ground: Floats

    @property
    def total(self) -> Floats:
        return self.beam + self.dome + self.circumsolar + self.band + self.ground


@dataclass(frozen=True)
class _LevelLight:
    """What reaches the ground before the planes, (light,) [W/m2]."""

    beam: Floats
    sky: Floats

    def share_of(self, whole: _LevelLight) -> Floats:
        """Of what another would get, 0..1; 1 in the dark."""
        all_of_it = whole.beam + whole.sky
        return np.divide(self.beam + self.sky, all_of_it, out=np.ones_like(all_of_it), where=all_of_it > 0)


def _free_light(scheme: Scheme, surfaces: tuple[Surface, ...], sky: Sky, cosine: Floats, tilt: Floats) -> _Parts:
    """Light on planes that nothing stands before."""
    dome = _dome(scheme, sky, cosine, tilt)
    return _Parts(
        beam=sky.dni * np.maximum(cosine, 0),
        circumsolar=dome.circumsolar,
        dome=dome.isotropic,
        # A dark horizon band takes no more than the dome has.
        band=np.maximum(dome.horizon, -dome.isotropic),
        ground=ground_reflected(sky.ghi, _albedo(scheme, surfaces, sky.months), tilt),
    )


def _behind_horizon(
    light: _Parts, level: _LevelLight, skyline: Horizon, surfaces: tuple[Surface, ...], modifiers: list[Modifier], sky: Sky
) -> tuple[_Parts, _LevelLight, Floats]:
    """What hills leave of the light, also on the ground, and the mean modifier of the dome that is left, (surfaces, 1)."""
    seen = skyline.beam_seen(sky.zenith, sky.azimuth)
    views = [dome_view(skyline, s.tilt, s.azimuth, m) for s, m in zip(surfaces, modifiers, strict=True)]
    left = _LevelLight(level.beam * seen, level.sky * _level_view(skyline))
    parts = _Parts(
        beam=light.beam * seen,
        circumsolar=light.circumsolar * seen,
        dome=light.dome * np.array([[v.isotropic] for v in views]),
        band=light.band * np.array([[v.band] for v in views]),
        ground=light.ground * left.share_of(level),
    )
    return parts, left, np.array([[v.isotropic_iam] for v in views])


def _behind_rows(light: _Parts, level: _LevelLight, surfaces: tuple[Surface, ...], sky: Sky) -> tuple[_Parts, Floats, Floats]:
    """What the rows before leave of the light, the share of the rows in shade, and how much more of it the strings lose."""
    kept = {name: np.ones_like(light.beam) for name in ("direct", "dome", "band", "ground")}
    shaded, extra = np.zeros_like(light.beam), np.zeros_like(light.beam)
    for i, surface in enumerate(surfaces):
        if surface.rows is None:
            continue
        rows = RowGeometry(surface.tilt, surface.azimuth, surface.rows.width, surface.rows.pitch, surface.rows.count)
        profile, views, behind = profile_angle(sky.zenith, sky.azimuth, surface.azimuth), row_views(rows), rows.shaded_rows
        raw = shaded_fraction(rows, profile)
        shaded[i] = raw * behind
        # Rounded up to whole groups of cells, the same shade costs the strings more of the light that is left.
        beyond = (electrically_shaded_fraction(raw, surface.rows.steps) - raw) * behind
        extra[i] = np.minimum(beyond / np.where(shaded[i] < 1, 1 - shaded[i], 1.0), 1.0)
        strip = _LevelLight(level.beam * strip_lit_fraction(rows, profile), level.sky * views.strip_sky)
        kept["direct"][i] = 1 - shaded[i]
        kept["dome"][i] = 1 - behind * (1 - views.isotropic)
        kept["band"][i] = 1 - behind * (1 - views.band)
        kept["ground"][i] = 1 - behind * (1 - strip.share_of(level) * views.ground)
    parts = _Parts(
        beam=light.beam * kept["direct"],
        circumsolar=light.circumsolar * kept["direct"],
        dome=light.dome * kept["dome"],
        band=light.band * kept["band"],
        ground=light.ground * kept["ground"],
    )
    return parts, shaded, extra


def _through_glass(
    light: _Parts, surfaces: tuple[Surface, ...], modifiers: list[Modifier], ahead: Floats, sky_iam: Floats | None
) -> tuple[Floats, Floats]:
    """Light behind the glass, from the sun's direction and from the rest; `sky_iam` where a horizon changes the dome's."""
    both = list(zip(modifiers, surfaces, strict=True))
    dome_iam, ground_iam = np.array([over_sky_and_ground(m, s.tilt) for m, s in both]).T[:, :, np.newaxis]
    band_iam = np.array([[over_horizon(m, s.tilt)] for m, s in both])
    direct_iam = np.stack([m(row) for m, row in zip(modifiers, ahead, strict=True)])
    dome = light.dome * (dome_iam if sky_iam is None else sky_iam)
    return (light.beam + light.circumsolar) * direct_iam, dome + light.band * band_iam + light.ground * ground_iam


def _dome(scheme: Scheme, sky: Sky, cosine: Floats, tilt: Floats) -> SkyDiffuse:
    match scheme.models.transposition:
        case "isotropic":
            return isotropic(sky.dhi, tilt)
        case "hay-davies":
            return hay_davies(sky.dhi, sky.dni, sky.extraterrestrial, cosine, sky.cos_zenith, tilt)
        case "reindl":
            return reindl(sky.dhi, sky.dni, sky.ghi, sky.extraterrestrial, cosine, sky.cos_zenith, tilt)
        case "perez":
            return perez(sky.dhi, sky.perez, cosine, sky.cos_zenith, tilt)


def by_month(year: float, monthly: tuple[float, ...] | None, months: NDArray[np.int64]) -> Floats:
    """The value of each interval's month, 0 to 11; that of the year where there are none by month."""
    return np.array(monthly)[months] if monthly else np.full(months.size, year)


def _albedo(scheme: Scheme, surfaces: tuple[Surface, ...], months: NDArray[np.int64]) -> Floats:
    common = by_month(scheme.site.albedo, scheme.site.albedo_by_month, months)
    return np.stack([common if s.albedo is None else np.full(months.size, s.albedo) for s in surfaces])


def _soiling(scheme: Scheme, months: NDArray[np.int64]) -> Floats:
    return by_month(scheme.losses.soiling, scheme.losses.soiling_by_month, months) / 100


_FRESNEL = {coated: tabulated(partial_of(fresnel, coated=coated)) for coated in (False, True)}
_OTHERS: dict[str, Modifier] = {
    "martin-ruiz": martin_ruiz,
    "ashrae": ashrae,
    "none": lambda cosine: (np.asarray(cosine) > 0).astype(float),
}


@dataclass(frozen=True)
class Glass:
    """What the chosen model of reflection needs to know of a module's front."""

    is_coated: bool = False
    table: tuple[tuple[float, float], ...] | None = None  # angle [°] and modifier, of the datasheet


def glass_of(module: Module, model: Incidence) -> Glass:
    """The front of a module as far as the model asks for it, so that modules that are alike to it share their planes."""
    if model == "datasheet" and module.incidence:
        return Glass(table=module.incidence)
    return Glass(module.coated_glass) if model in ("fresnel", "datasheet") else Glass()


def _modifier(model: Incidence, glass: Glass) -> Modifier:
    if glass.table:
        return _tabulated_datasheet(glass.table)
    # Where a datasheet has no table, its glass has to do.
    return _FRESNEL[glass.is_coated] if model in ("fresnel", "datasheet") else _OTHERS[model]


@lru_cache(maxsize=64)
def _tabulated_datasheet(table: tuple[tuple[float, float], ...]) -> Modifier:
    angles, modifiers = zip(*table, strict=True)
    return tabulated(partial_of(from_table, angles=angles, modifiers=modifiers))


def _level_view(skyline: Horizon) -> float:
    """Share of the isotropic sky that level ground sees over the horizon."""
    return dome_view(skyline, 0.0, 0.0, lambda cosine: cosine * 0 + 1).isotropic
