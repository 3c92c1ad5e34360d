"""The irradiation of every orientation at a site, and of the design's own surfaces."""

from dataclasses import dataclass

import numpy as np

from noontide.core.access.directed import DirectedInputs, MapInputs, beam_seen, gather, map_out
from noontide.core.calendar import Calendar
from noontide.core.design import Design
from noontide.core.design.surface import Surface
from noontide.core.irradiance import DirectedLight, OrientationMap
from noontide.core.irradiance.attitude import Fixed
from noontide.core.simulation import Libraries, StageCache
from noontide.core.simulation.chain import around_of, attitude_of, motion_of
from noontide.core.simulation.plane_irradiance import PlaneInputs, light_plane

OFF = (1, 5, 10, 20, 30)  # degrees


@dataclass(frozen=True)
class Price:
    """Share of the best orientation's irradiation that is lost some degrees off it."""

    degrees: float
    steeper: float
    flatter: float
    clockwise: float
    counter_clockwise: float


@dataclass(frozen=True)
class Orientations:
    """Unshaded irradiation of every orientation [kWh/m2], the best of them, what being off it costs, and the design's own surfaces."""

    map: OrientationMap
    best_tilt: float
    best_azimuth: float
    best: float
    prices: list[Price]
    surfaces: dict[str, float]


def orientations_of(design: Design, libraries: Libraries, season: str = "year", hours: tuple[int, int] = (0, 24)) -> Orientations:
    """Irradiation of every orientation at the site, the beam past its horizon and the whole sky, and of the design's own surfaces.

    Summer and winter are the halves of the year around the solstices, named for the site's own hemisphere.

    Raises
    ------
    IncompleteDesign, ImpossibleAdjustment
        Without weather, or where it cannot be adjusted as the design wants it.
    """
    site, stages = design.site, libraries.stages
    if site.latitude < 0:
        season = {"summer": "winter", "winter": "summer"}.get(season, season)
    inputs = DirectedInputs(libraries.sky_of(design), site.albedo_before(None), around_of(site), season, hours)
    light = stages.keep(inputs, gather)
    found: OrientationMap = stages.keep(MapInputs(light), map_out).value
    tilt, azimuth, best = found.best
    own = _own(design, inputs, light.value, libraries)
    return Orientations(found, tilt, azimuth, best, _prices(light.value, tilt, azimuth, best), own)


def _prices(light: DirectedLight, tilt: float, azimuth: float, best: float) -> list[Price]:
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
        Price(degrees=degrees, steeper=float(a), flatter=float(b), clockwise=float(c), counter_clockwise=float(d))
        for degrees, a, b, c, d in zip(OFF, *lost, strict=True)
    ]


def _own(design: Design, inputs: DirectedInputs, light: DirectedLight, libraries: Libraries) -> dict[str, float]:
    """Irradiation of each surface, counted as in the map [kWh/m2]."""
    motions = {key: motion_of(surface) for key, surface in design.surfaces.items()}
    fixed = {key: motion for key, motion in motions.items() if isinstance(motion, Fixed)}
    found: dict[str, float] = {}
    if fixed:
        tilts, azimuths = np.array([(motion.tilt, motion.azimuth) for motion in fixed.values()]).T
        found = dict(zip(fixed, light.on_planes(tilts, azimuths).tolist(), strict=True))
    assert libraries.weather is not None  # its light was gathered
    calendar = libraries.weather.calendar
    return {
        key: found[key] if key in found else _moving(surface, inputs, calendar, libraries.stages)
        for key, surface in design.surfaces.items()
    }


def _moving(surface: Surface, inputs: DirectedInputs, calendar: Calendar, stages: StageCache) -> float:
    """Of a surface that moves, interval by interval [kWh/m2]."""
    sky = inputs.sky.value
    attitude = attitude_of(surface, inputs.sky, calendar, stages)
    plane = stages.keep(PlaneInputs(inputs.sky, attitude, "perez", inputs.albedo, None, None), light_plane).value
    received = plane.direct * beam_seen(inputs) + plane.diffuse
    return float(received[inputs.during].sum()) * sky.hours_per_interval / 1000
