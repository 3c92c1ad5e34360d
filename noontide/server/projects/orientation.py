"""The irradiation of every orientation at a site, and of the design's own surfaces."""

from dataclasses import dataclass

import numpy as np

from noontide.core.design import Design
from noontide.core.irradiance import DirectedLight, OrientationMap, directed_light, orientation_map
from noontide.core.shading.horizon import Horizon
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.chain import corrected, sky_over
from noontide.core.simulation.plane_irradiance import ByMonth, by_month
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.server.projects.api_models import OrientationAnswer
from noontide.server.projects.evaluator import STAGES
from noontide.server.weather_library.storing import load

SEASONS = {"year": range(12), "summer": range(3, 9), "winter": (9, 10, 11, 0, 1, 2)}


@dataclass(frozen=True)
class DirectedInputs:
    """What the irradiation of orientations depends on."""

    sky: Kept[SunAndWeather]
    albedo: ByMonth
    horizon: Horizon
    season: str


@dataclass(frozen=True)
class MapInputs:
    light: Kept[DirectedLight]


def orientation_of(design: Design, season: str = "year", revision: int = 0) -> OrientationAnswer:
    """Irradiation of every orientation at the site, the beam past its horizon and the whole sky, and of the design's own surfaces.

    Summer and winter are the halves of the year around the solstices, named for the site's own hemisphere.
    """
    assert design.weather is not None
    weather, site = corrected(load(design.weather.digest), design.weather), design.site
    if season != "year" and site.latitude < 0:
        season = {"summer": "winter", "winter": "summer"}[season]
    inputs = DirectedInputs(sky_over(site, weather, STAGES), site.albedo_by_month or site.albedo, site.horizon_line, season)
    light = STAGES.keep(inputs, _gather)
    found: OrientationMap = STAGES.keep(MapInputs(light), lambda i: orientation_map(i.light.value)).value
    tilt, azimuth, best = found.best
    surfaces = design.surfaces.values()
    own: list[float] | np.ndarray = (
        light.value.on_planes(np.array([s.tilt for s in surfaces]), np.array([s.azimuth for s in surfaces])) if surfaces else []
    )
    return OrientationAnswer(
        revision=revision, tilts=found.tilts.tolist(), azimuths=found.azimuths.tolist(), irradiation=np.round(found.irradiation, 2).tolist(),
        best_tilt=tilt, best_azimuth=azimuth, best=best, surfaces=dict(zip(design.surfaces, map(float, own), strict=True)),
    )  # fmt: skip


def _gather(inputs: DirectedInputs) -> DirectedLight:
    sky = inputs.sky.value
    during = np.isin(sky.months, list(SEASONS[inputs.season]))
    part = {name: getattr(sky, name)[during] for name in ("dni", "dhi", "ghi", "zenith", "azimuth")}
    bright = type(sky.perez)(**{name: values[during] for name, values in vars(sky.perez).items()})
    seen = inputs.horizon.beam_seen(part["zenith"], part["azimuth"])
    albedo = np.broadcast_to(by_month(inputs.albedo, sky.months), sky.months.shape)[during]
    return directed_light(**part, albedo=albedo, sky=bright, beam_seen=seen, hours=sky.hours_per_interval)
