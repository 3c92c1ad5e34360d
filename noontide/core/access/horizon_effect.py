"""What horizon and obstacles cost a surface: when, of which light, and each obstacle alone."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.document import Design
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.surroundings import Surroundings, surroundings_of
from noontide.core.simulation.cache import Kept, StageCache
from noontide.core.simulation.chain import around_of, attitude_of, corrected, is_shade_measured, sky_over
from noontide.core.simulation.plane_irradiance import (
    Attitude,
    ByMonth,
    PlaneInputs,
    PlaneIrradiance,
    light_plane,
)
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class HorizonEffect:
    """By month and hour of the local clock, (12, 24) [kWh/m2 a year], and in the year."""

    free: Floats  # plane irradiation with nothing around
    direct_lost: Floats  # beam and circumsolar
    diffuse_lost: Floats  # sky and ground
    obstacles: dict[str, float]  # what the plane would gain without each alone [kWh/m2]
    horizon: float  # what it would gain without the horizon line, the obstacles left [kWh/m2]

    @property
    def access(self) -> Floats:
        """Solar access: irradiation with what stands around to that without, (12, 24); 1 where there is no light."""
        lost = self.direct_lost + self.diffuse_lost
        return np.divide(self.free - lost, self.free, out=np.ones_like(self.free), where=self.free > 0)


def horizon_effect(design: Design, weather: Weather, surface: str, cache: StageCache) -> HorizonEffect:
    """The effect on one surface of a design.

    Raises
    ------
    KeyError
        If there is no such surface.
    """
    plane, site = design.surfaces[surface], design.site
    weather = corrected(weather, design, cache)
    sky = sky_over(site, weather, cache)
    attitude = attitude_of(plane, sky, weather.calendar, cache)
    albedo: ByMonth = site.albedo_before(plane.albedo)

    def light(around: Surroundings | None) -> PlaneIrradiance:
        return _light(cache, sky, attitude, design.models.transposition, albedo, around)

    free, shaded = light(None), light(around_of(site, plane))
    by_hand = is_shade_measured(site, plane)
    obstacles: dict[str, float] = {}
    horizon = 0.0
    if not by_hand:
        total = _sum(sky.value, shaded.reference)
        for key in site.obstacles:
            others = tuple(o.shape for other, o in site.obstacles.items() if other != key)
            without = surroundings_of(site.horizon_line, others, site.near_limit, site.array_across)
            obstacles[key] = _sum(sky.value, light(without).reference) - total
        if not site.horizon_line.is_flat:
            bare = surroundings_of(type(site.horizon_line)(), site.obstacle_shapes, site.near_limit, site.array_across)
            horizon = _sum(sky.value, light(bare).reference) - total
    return HorizonEffect(
        free=_by_hour(sky.value, free.free),
        direct_lost=_by_hour(sky.value, free.direct - shaded.direct),
        diffuse_lost=_by_hour(sky.value, free.diffuse - shaded.diffuse),
        obstacles=obstacles,
        horizon=horizon,
    )


def access_under(design: Design, weather: Weather, surface: str, outline: Horizon, cache: StageCache) -> Floats:
    """Solar access of a surface by month and hour under an outline of what was seen from a point of it, (12, 24).

    Raises
    ------
    KeyError
        If there is no such surface.
    """
    plane, site = design.surfaces[surface], design.site
    weather = corrected(weather, design, cache)
    sky = sky_over(site, weather, cache)
    attitude = attitude_of(plane, sky, weather.calendar, cache)
    around = surroundings_of(outline, (), site.near_limit, site.array_across)
    free, shaded = (
        _light(cache, sky, attitude, design.models.transposition, site.albedo_before(plane.albedo), each)
        for each in (None, around)
    )
    whole, lost = (
        _by_hour(sky.value, values) for values in (free.free, free.direct - shaded.direct + free.diffuse - shaded.diffuse)
    )
    return np.clip(np.divide(whole - lost, whole, out=np.ones_like(whole), where=whole > 0), 0, 1)


def _light(
    cache: StageCache,
    sky: Kept[SunAndWeather],
    attitude: Kept[Attitude],
    model: str,
    albedo: ByMonth,
    around: Surroundings | None,
) -> PlaneIrradiance:
    return cache.keep(PlaneInputs(sky, attitude, model, albedo, around, None), light_plane).value


def _sum(sky: SunAndWeather, irradiance: Floats) -> float:
    return float(irradiance.sum()) * sky.hours_per_interval / 1000


def _by_hour(sky: SunAndWeather, irradiance: Floats) -> Floats:
    cells = np.bincount(sky.months * 24 + sky.hours, irradiance, minlength=288)
    return cells.reshape(12, 24) * sky.hours_per_interval / 1000
