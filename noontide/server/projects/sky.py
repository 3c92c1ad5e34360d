"""The sun's paths over a scheme's site, and how its moving surfaces follow them, as answers."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.access.horizon_effect import access_under, horizon_effect
from noontide.core.access.sky_picture import day_of_planes, sun_paths
from noontide.core.calendar import Calendar
from noontide.core.design import Design
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.surroundings import obstacle_band
from noontide.core.simulation.chain import is_shade_measured
from noontide.server.problems import Problem
from noontide.server.projects.api_models import (
    AccessTable,
    HorizonEffectAnswer,
    ObstacleCost,
    ObstacleLines,
    ObstaclesAnswer,
    PlaneDay,
    PlanesAnswer,
    SeenOutline,
    SkyLine,
    SunPathsAnswer,
)
from noontide.server.projects.evaluator import STAGES, results_for
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load


def sun_paths_of(design: Design, revision: int) -> SunPathsAnswer:
    """Every day's path, to a thousandth of a degree."""
    calendar = _calendar(design)
    paths = sun_paths(design.site, calendar)
    return SunPathsAnswer(
        revision=revision,
        year=calendar.year,
        utc_offset=calendar.utc_offset,
        elevation=_short(paths.elevation),
        azimuth=_short(paths.azimuth),
        noon=_short(paths.noon, 4),
        day_length=_short(paths.day_length, 4),
    )


def planes_of(design: Design, day: int, revision: int) -> PlanesAnswer:
    """A day of the surfaces that move."""
    found = day_of_planes(design, _calendar(design), day)
    return PlanesAnswer(
        revision=revision,
        day=day,
        elevation=_short(90 - found.zenith),
        azimuth=_short(found.azimuth),
        surfaces={
            key: PlaneDay(
                tilt=_short(one.tilt),
                azimuth=_short(one.azimuth),
                rotation=None if one.rotation is None else _short(one.rotation),
            )
            for key, one in found.stances.items()
        },
    )


def obstacles_of(design: Design, revision: int) -> ObstaclesAnswer:
    """The obstacles of a site as lines on the sky."""
    site = design.site
    found = {}
    for key, obstacle in site.obstacles.items():
        low, high = obstacle_band(obstacle.shape, site.near_limit, site.array_across)
        found[key] = ObstacleLines(is_near=low != high, highest=_line(high), lowest=_line(low))
    return ObstaclesAnswer(revision=revision, across=round(site.array_across, 1), obstacles=found)


def _line(line: Horizon) -> SkyLine:
    """A line from its first point to its last, also over north."""
    azimuths, elevations = np.array(line.azimuths), np.array(line.elevations)
    up = np.flatnonzero(elevations > 0)
    if not up.size:
        return SkyLine(azimuths=[], elevations=[])
    order = np.arange(azimuths.size)
    gaps = np.diff(azimuths[up], append=azimuths[up[0]] + 360)
    first = up[(int(np.argmax(gaps)) + 1) % up.size]  # after the widest open sky
    order = np.roll(order, -max(int(first) - 1, 0))
    kept = order[: int(np.flatnonzero(elevations[order] > 0)[-1]) + 2]
    return SkyLine(azimuths=_short(np.unwrap(azimuths[kept], period=360)), elevations=_short(elevations[kept]))


def outline_access(design: Design, asked: SeenOutline) -> AccessTable:
    """Solar access by month and hour under an outline."""
    assert design.weather is not None
    line = Horizon(tuple(p.azimuth for p in asked.outline), tuple(p.elevation for p in asked.outline))
    found = access_under(design, load(design.weather.digest), asked.surface, line, STAGES)
    return AccessTable(access=found.round(4).tolist())


def effect_of(design: Design, surface: str, revision: int) -> HorizonEffectAnswer:
    """What horizon and obstacles cost a surface of a design that has weather."""
    assert design.weather is not None
    found = horizon_effect(design, load(design.weather.digest), surface, STAGES)
    total, energy = float(found.free.sum()), _energy_of(design, surface)

    def cost(irradiation: float) -> ObstacleCost:
        return ObstacleCost(
            irradiation=irradiation,
            share=irradiation / total if total else 0.0,
            energy=None if energy is None else irradiation * energy,
        )

    return HorizonEffectAnswer(
        revision=revision,
        surface=surface,
        is_by_hand=is_shade_measured(design.site, design.surfaces[surface]),
        free=_short(found.free),
        direct_lost=_short(found.direct_lost),
        diffuse_lost=_short(found.diffuse_lost),
        access=_short(found.access, 4),
        obstacles={key: cost(value) for key, value in found.obstacles.items()},
        horizon=cost(found.horizon),
    )


def _energy_of(design: Design, surface: str) -> float | None:
    """Energy that a kWh/m2 on a surface is worth: its rated power by the scheme's performance ratio [kWh]."""
    if not any(s.surface == surface for s in design.subarrays.values()):
        return None
    try:
        results = results_for(design.as_kept())
    except (Problem, ValueError):
        return None
    plant = results.plant
    mine = plant.surface_of == plant.surface_ids.index(surface)
    return float(np.sum((plant.module_counts * plant.module_powers)[mine])) / 1000 * results.annual.performance_ratio


def _calendar(design: Design) -> Calendar:
    """The weather year's, or one on the clock of the site's longitude while there is none."""
    if design.weather is not None:
        try:
            return replace(load(design.weather.digest).calendar, step=60)
        except WeatherYear.DoesNotExist:
            pass
    return Calendar(utc_offset=float(np.clip(round(design.site.longitude / 15), -12, 12)))


def _short(values: NDArray[np.float64], digits: int = 3) -> list:
    return np.round(values, digits).tolist()
