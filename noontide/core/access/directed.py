"""The light of a site by direction: what planes of every orientation receive of it."""

from dataclasses import dataclass

import numpy as np

from noontide.core.calendar import MONTHS
from noontide.core.irradiance import DirectedLight, OrientationMap, directed_light, orientation_map
from noontide.core.shading.surroundings import Surroundings
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.plane_irradiance import ByMonth, by_month
from noontide.core.simulation.sun_and_weather import SunAndWeather

SEASONS = {"year": range(12), "summer": range(3, 9), "winter": (9, 10, 11, 0, 1, 2)} | {
    name[:3].lower(): (month,) for month, name in enumerate(MONTHS)
}


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


def map_out(inputs: MapInputs) -> OrientationMap:
    """The irradiation of every orientation."""
    return orientation_map(inputs.light.value)


def beam_seen(inputs: DirectedInputs) -> np.ndarray:
    """Share of the beam that gets past what stands around, (light,)."""
    sky, around = inputs.sky.value, inputs.around
    if around is None:
        return np.ones(sky.zenith.size)
    access = around.access_at(sky.months, sky.hours)
    return around.beam_seen(sky.zenith, sky.azimuth, sky.months) if access is None else access


def gather(inputs: DirectedInputs) -> DirectedLight:
    """The light of the intervals that count."""
    sky = inputs.sky.value
    during = inputs.during
    part = {name: getattr(sky, name)[during] for name in ("dni", "dhi", "ghi", "zenith", "azimuth")}
    bright = type(sky.perez)(**{name: values[during] for name, values in vars(sky.perez).items()})
    albedo = np.broadcast_to(by_month(inputs.albedo, sky.months), sky.months.shape)[during]
    return directed_light(**part, albedo=albedo, sky=bright, beam_seen=beam_seen(inputs)[during], hours=sky.hours_per_interval)
