"""The sun's paths over a scheme's site, and how its moving surfaces follow them, as answers."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.design import Design
from noontide.core.simulation.sky_picture import day_of_planes, sun_paths
from noontide.server.projects.api_models import PlaneDay, PlanesAnswer, SunPathsAnswer
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


def _calendar(design: Design) -> Calendar:
    """The weather year's, or one on the clock of the site's longitude while there is none."""
    if design.weather is not None:
        try:
            return replace(load(design.weather.digest).calendar, step=60)
        except WeatherYear.DoesNotExist:
            pass
    return Calendar(utc_offset=float(np.clip(round(design.site.longitude / 15), -12, 12)))


def _short(values: NDArray[np.float64], digits: int = 3) -> list[float]:
    return np.round(values, digits).tolist()
