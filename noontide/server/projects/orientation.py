"""The irradiation of every orientation at a site, and of the design's own surfaces."""

from dataclasses import dataclass

import numpy as np

from noontide.core.calendar import MONTHS, Calendar
from noontide.core.design import Design
from noontide.core.design.document import Surface
from noontide.core.irradiance import DirectedLight, OrientationMap, directed_light, orientation_map
from noontide.core.irradiance.attitude import Fixed
from noontide.core.shading.surroundings import Surroundings
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.chain import around_of, attitude_of, corrected, motion_of, sky_over
from noontide.core.simulation.plane_irradiance import ByMonth, PlaneInputs, by_month, light_plane
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.server.projects.api_models import OrientationAnswer, OrientationPrice
from noontide.server.projects.evaluator import STAGES
from noontide.server.weather_library.storing import load

SEASONS = {"year": range(12), "summer": range(3, 9), "winter": (9, 10, 11, 0, 1, 2)} | {
    name[:3].lower(): (month,) for month, name in enumerate(MONTHS)
}

OFF = (1, 5, 10, 20, 30)  # degrees


@dataclass(frozen=True)
class DirectedInputs:
    """What the irradiation of orientations depends on."""

    sky: Kept[SunAndWeather]
    albedo: ByMonth
    around: Surroundings | None
    season: str
    hours: tuple[int, int]  # of the local clock, from the first to before the second; over midnight where it runs back

    @property
    def during(self) -> np.ndarray:
        """Whether each interval counts, (light,)."""
        sky, (first, last) = self.sky.value, self.hours
        inside = (sky.hours >= first) & (sky.hours < last) if first < last else (sky.hours >= first) | (sky.hours < last)
        return np.isin(sky.months, list(SEASONS[self.season])) & inside


@dataclass(frozen=True)
class MapInputs:
    light: Kept[DirectedLight]


def orientation_of(
    design: Design, season: str = "year", hours: tuple[int, int] = (0, 24), revision: int = 0
) -> OrientationAnswer:
    """Irradiation of every orientation at the site, the beam past its horizon and the whole sky, and of the design's own surfaces.

    Summer and winter are the halves of the year around the solstices, named for the site's own hemisphere.
    """
    assert design.weather is not None
    weather, site = corrected(load(design.weather.digest), design, STAGES), design.site
    if site.latitude < 0:
        season = {"summer": "winter", "winter": "summer"}.get(season, season)
    inputs = DirectedInputs(sky_over(site, weather, STAGES), site.albedo_before(None), around_of(site), season, hours)
    light = STAGES.keep(inputs, gather)
    found: OrientationMap = STAGES.keep(MapInputs(light), lambda i: orientation_map(i.light.value)).value
    tilt, azimuth, best = found.best
    own = _own(design, inputs, light.value, weather.calendar)
    return OrientationAnswer(
        revision=revision, tilts=found.tilts.tolist(), azimuths=found.azimuths.tolist(), irradiation=np.round(found.irradiation, 2).tolist(),
        best_tilt=tilt, best_azimuth=azimuth, best=best, prices=_prices(light.value, tilt, azimuth, best), surfaces=own,
    )  # fmt: skip


def _prices(light: DirectedLight, tilt: float, azimuth: float, best: float) -> list[OrientationPrice]:
    """What being off the best orientation costs, a few degrees at a time."""
    if best <= 0:
        return []
    off = np.array(OFF)
    tilts = np.concatenate([tilt + off, tilt - off, np.full(2 * off.size, tilt)])
    azimuths = np.concatenate([np.full(2 * off.size, azimuth), azimuth + off, azimuth - off])
    # Leaning back past the horizontal is leaning the other way.
    turned = np.where(tilts < 0, azimuths + 180, azimuths) % 360
    lost = (1 - light.on_planes(np.minimum(np.abs(tilts), 90.0), turned) / best).reshape(4, -1)
    return [
        OrientationPrice(degrees=degrees, steeper=float(a), flatter=float(b), clockwise=float(c), counter_clockwise=float(d))
        for degrees, a, b, c, d in zip(OFF, *lost, strict=True)
    ]


def _own(design: Design, inputs: DirectedInputs, light: DirectedLight, calendar: Calendar) -> dict[str, float]:
    """Irradiation of each surface, counted as in the map [kWh/m2]."""
    motions = {key: motion_of(surface) for key, surface in design.surfaces.items()}
    fixed = {key: motion for key, motion in motions.items() if isinstance(motion, Fixed)}
    found: dict[str, float] = {}
    if fixed:
        tilts, azimuths = np.array([(motion.tilt, motion.azimuth) for motion in fixed.values()]).T
        found = dict(zip(fixed, light.on_planes(tilts, azimuths).tolist(), strict=True))
    return {key: found[key] if key in found else _moving(surface, inputs, calendar) for key, surface in design.surfaces.items()}


def _moving(surface: Surface, inputs: DirectedInputs, calendar: Calendar) -> float:
    """Of a surface that moves, interval by interval [kWh/m2]."""
    sky = inputs.sky.value
    attitude = attitude_of(surface, inputs.sky, calendar, STAGES)
    plane = STAGES.keep(PlaneInputs(inputs.sky, attitude, "perez", inputs.albedo, None, None), light_plane).value
    received = plane.direct * _beam_seen(inputs) + plane.diffuse
    return float(received[inputs.during].sum()) * sky.hours_per_interval / 1000


def _beam_seen(inputs: DirectedInputs) -> np.ndarray:
    """Share of the beam that gets past what stands around, (light,)."""
    sky, around = inputs.sky.value, inputs.around
    if around is None:
        return np.ones(sky.zenith.size)
    access = around.access_at(sky.months, sky.hours)
    return around.beam_seen(sky.zenith, sky.azimuth, sky.months) if access is None else access


def gather(inputs: DirectedInputs) -> DirectedLight:
    sky = inputs.sky.value
    during = inputs.during
    part = {name: getattr(sky, name)[during] for name in ("dni", "dhi", "ghi", "zenith", "azimuth")}
    bright = type(sky.perez)(**{name: values[during] for name, values in vars(sky.perez).items()})
    albedo = np.broadcast_to(by_month(inputs.albedo, sky.months), sky.months.shape)[during]
    return directed_light(**part, albedo=albedo, sky=bright, beam_seen=_beam_seen(inputs)[during], hours=sky.hours_per_interval)
