"""What the benches draw beside the figures: the irradiation of every orientation, and the voltages of every string length."""

from dataclasses import dataclass

import numpy as np

from noontide.core.design import Design
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, open_circuit_voltage
from noontide.core.irradiance import DirectedLight, OrientationMap, directed_light, orientation_map
from noontide.core.shading.horizon import Horizon
from noontide.core.simulation import Results
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.chain import corrected, sky_over
from noontide.core.simulation.checks import limits_of
from noontide.core.simulation.checks.strings import lowest_temperature
from noontide.core.simulation.plane_irradiance import ByMonth, by_month
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.server.projects.api_models import OrientationAnswer, VoltageAnswer, VoltageRow
from noontide.server.projects.evaluator import STAGES
from noontide.server.weather_library.storing import load

SEASONS = {"year": range(12), "summer": range(3, 9), "winter": (9, 10, 11, 0, 1, 2)}
BIN = 10.0  # V


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


def voltages_of(results: Results, subarray: str, revision: int = 0) -> VoltageAnswer:
    """The year's voltages of a sub-array's string at every length near its own, on the inverter's scale.

    Raises
    ------
    KeyError
        If there is no such sub-array.
    """
    if subarray not in results.plant.subarray_ids:
        raise KeyError(subarray)
    k = results.plant.subarray_ids.index(subarray)
    inverter, module = results.plant.inverters[results.plant.inverter_of[k]], results.plant.modules[k]
    limits, power = limits_of(results)[k], results.modules[k]
    working = power.voltage
    opened = open_circuit_voltage(circuit(fit_module(module).parameters, results.effective[k].mean, power.cell_temperature))
    lit = power.maximum > 0.002 * module.power
    hours = results.calendar.hours_per_interval
    own = results.plant.subarrays[k].modules_per_string
    first = max(1, min(own, max(limits.most, 1)) - 4)
    lengths = sorted({*range(first, first + 7), own})
    edges = np.arange(0, limits.maximum_voltage * 1.18 + BIN, BIN)

    def row(n: int) -> VoltageRow:
        why = ""
        if n > limits.most:
            why = f"Voc {n * limits.cold_voc:,.0f} V at {limits.lowest:.0f} °C".replace("-", "\u2212")
        elif n < limits.fewest:
            why = f"Vmp {n * limits.hot_vmp:,.0f} V at {limits.highest_cell:.0f} °C cell temperature"
        return VoltageRow(
            length=n,
            working=(np.histogram(working[lit] * n, edges)[0] * hours).tolist(),
            open_circuit=(np.histogram(opened[lit] * n, edges)[0] * hours).tolist(),
            cold_open_circuit=n * limits.cold_voc,
            hot_working=n * limits.hot_vmp,
            fits=not why,
            why=why,
        )

    return VoltageAnswer(
        revision=revision, subarray=subarray, edges=edges.tolist(), rows=[row(n) for n in lengths], start=inverter.start_voltage,
        lowest=inverter.tracking_minimum, full_power=inverter.full_power_minimum, highest=inverter.tracking_maximum,
        limit=limits.maximum_voltage, limit_of=limits.maximum_of, coldest=limits.lowest,
        coldest_origin=lowest_temperature(results)[1], hottest_cell=limits.highest_cell,
    )  # fmt: skip
