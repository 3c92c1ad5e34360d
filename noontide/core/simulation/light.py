"""The stages from the weather to the light that reaches the cells.

All arrays run over the intervals in which there is light, (light,), and planes over (surfaces, light).
"""

from dataclasses import dataclass
from functools import partial as partial_of

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.geometry import cos_incidence
from noontide.core.irradiance.incidence import (
    Modifier,
    ashrae,
    fresnel,
    martin_ruiz,
    over_horizon,
    over_sky_and_ground,
    tabulated,
)
from noontide.core.irradiance.transposition import (
    PerezBrightness,
    SkyDiffuse,
    hay_davies,
    isotropic,
    perez,
    perez_brightness,
    reindl,
)
from noontide.core.scheme.document import Scheme, Surface
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
        cos_zenith=np.cos(np.radians(zenith)),
        extraterrestrial=above,
        ghi=ghi[light],
        dni=dni,
        dhi=dhi,
        air_temperature=weather.temperature[light],
        wind=weather.wind[light],
        months=weather.calendar.months[light],
        lit_fraction=lit_fraction,
        perez=perez_brightness(dhi, dni, above, zenith, relative_air_mass(zenith)),
    )


def light_planes(scheme: Scheme, surfaces: tuple[Surface, ...], coated: tuple[bool, ...], sky: Sky) -> PlaneLight:
    """Light on the surfaces: sky and ground, horizon, rows, dirt and glass, each loss booked."""
    tilt = np.array([[s.tilt] for s in surfaces])
    facing = np.array([[s.azimuth] for s in surfaces])
    cosine = cos_incidence(tilt, facing, sky.zenith, sky.azimuth)
    ahead = np.maximum(cosine, 0)
    albedo = _albedo(scheme, surfaces, sky.months)
    ground_view = (1 - np.cos(np.radians(tilt))) / 2

    beam = sky.dni * ahead
    dome = _dome(scheme, sky, cosine, tilt)
    # A dark horizon band takes no more than the dome has.
    bright_band = np.maximum(dome.horizon, -dome.isotropic)
    ground = sky.ghi * albedo * ground_view
    unshaded = beam + dome.isotropic + dome.circumsolar + bright_band + ground

    modifiers = [_modifier(scheme, has_coating) for has_coating in coated]
    even, band, circumsolar = dome.isotropic, bright_band, dome.circumsolar
    sky_iam, ground_iam = np.array([over_sky_and_ground(m, s.tilt) for m, s in zip(modifiers, surfaces, strict=True)]).T[
        :, :, np.newaxis
    ]
    ground_beam, ground_sky = sky.dni * sky.cos_zenith, sky.dhi
    none = np.broadcast_to(0.0, beam.shape)
    horizon_loss, before_rows = none, unshaded
    skyline = scheme.site.skyline
    if not skyline.is_flat:
        seen = skyline.beam_seen(sky.zenith, sky.azimuth)
        views = [dome_view(skyline, s.tilt, s.azimuth, m) for s, m in zip(surfaces, modifiers, strict=True)]
        beam, circumsolar = beam * seen, circumsolar * seen
        even = even * np.array([[v.isotropic] for v in views])
        band = band * np.array([[v.band] for v in views])
        sky_iam = np.array([[v.isotropic_iam] for v in views])
        level = _level_view(skyline)
        left = ground_beam * seen + ground_sky * level
        whole = ground_beam + ground_sky
        share = np.divide(left, whole, out=np.ones_like(left), where=whole > 0)
        ground = ground * share
        ground_beam, ground_sky = ground_beam * seen, ground_sky * level
        before_rows = beam + even + circumsolar + band + ground
        horizon_loss = unshaded - before_rows

    shaded, partial = none, none
    has_rows = any(s.rows for s in surfaces)
    if has_rows:
        shaded, extra = np.zeros_like(beam), np.zeros_like(beam)
        before_beam, before_circumsolar = beam, circumsolar
        beam, circumsolar, even, band, ground = (part.copy() for part in (beam, circumsolar, even, band, ground))
        for i, surface in enumerate(surfaces):
            if surface.rows is None:
                continue
            rows = RowGeometry(surface.tilt, surface.azimuth, surface.rows.width, surface.rows.pitch, surface.rows.count)
            profile = profile_angle(sky.zenith, sky.azimuth, surface.azimuth)
            between, behind = row_views(rows), rows.shaded_rows
            raw = shaded_fraction(rows, profile)
            shaded[i] = raw * behind
            # Rounded up to whole groups of cells, the same shade costs the strings more.
            extra[i] = (electrically_shaded_fraction(raw, surface.rows.steps) - raw) * behind
            beam[i] = before_beam[i] * (1 - shaded[i])
            circumsolar[i] = before_circumsolar[i] * (1 - shaded[i])
            even[i] *= 1 - behind * (1 - between.isotropic)
            band[i] *= 1 - behind * (1 - between.band)
            strip = ground_beam * strip_lit_fraction(rows, profile) + ground_sky * between.strip_sky
            whole = ground_beam + ground_sky
            kept = np.divide(strip, whole, out=np.ones_like(strip), where=whole > 0) * between.ground
            ground[i] *= 1 - behind * (1 - kept)
    sky_light = even + circumsolar + band
    poa = beam + sky_light + ground if has_rows else before_rows

    dirt = _soiling(scheme, sky.months)
    clean = 1 - dirt
    direct = np.stack([m(row) for m, row in zip(modifiers, ahead, strict=True)])
    band_iam = np.array([[over_horizon(m, s.tilt)] for m, s in zip(modifiers, surfaces, strict=True)])
    directed = (beam + circumsolar) * direct
    through = (directed + even * sky_iam + band * band_iam + ground * ground_iam) * clean
    if has_rows:
        partial = directed * clean * np.minimum(extra / np.where(shaded < 1, 1 - shaded, 1.0), 1.0)
    return PlaneLight(
        cos_incidence=cosine,
        unshaded=unshaded,
        horizon_loss=horizon_loss,
        row_loss=before_rows - poa if has_rows else none,
        poa=poa,
        beam=beam,
        sky=sky_light,
        ground=ground,
        shaded_fraction=shaded,
        soiling_loss=poa * dirt,
        reflection_loss=poa * clean - through,
        partial_shade_loss=partial,
        effective=through - partial if has_rows else through,
    )


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


def _albedo(scheme: Scheme, surfaces: tuple[Surface, ...], months: NDArray[np.int64]) -> Floats:
    site = scheme.site
    common = np.array(site.albedo_by_month)[months] if site.albedo_by_month else np.full(months.size, site.albedo)
    return np.stack([common if s.albedo is None else np.full(months.size, s.albedo) for s in surfaces])


def _soiling(scheme: Scheme, months: NDArray[np.int64]) -> Floats:
    if scheme.losses.soiling_by_month:
        return np.array(scheme.losses.soiling_by_month)[months] / 100
    return np.full(months.size, scheme.losses.soiling / 100)


_FRESNEL = {coated: tabulated(partial_of(fresnel, coated=coated)) for coated in (False, True)}
_OTHERS: dict[str, Modifier] = {
    "martin-ruiz": martin_ruiz,
    "ashrae": ashrae,
    "none": lambda cosine: (np.asarray(cosine) > 0).astype(float),
}


def _modifier(scheme: Scheme, coated: bool) -> Modifier:
    return _FRESNEL[coated] if scheme.models.incidence == "fresnel" else _OTHERS[scheme.models.incidence]


def _level_view(skyline: Horizon) -> float:
    """Share of the isotropic sky that level ground sees over the horizon."""
    return dome_view(skyline, 0.0, 0.0, lambda cosine: cosine * 0 + 1).isotropic
