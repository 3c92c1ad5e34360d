"""What the benches draw beside the figures: the worth of every facing, and the voltages of every string length."""

import numpy as np

from noontide.core.electrical.single_diode import open_circuit_voltage
from noontide.core.irradiance import DirectedLight, directed_light, orientation_map
from noontide.core.scheme import Scheme as Design
from noontide.core.simulation import Results
from noontide.core.simulation.cache import key_of
from noontide.core.simulation.chain import sky_over
from noontide.core.simulation.checks import string_voltages
from noontide.core.simulation.light import by_month
from noontide.server.projects.evaluating import STAGES
from noontide.server.projects.shapes import OrientationAnswer, VoltageAnswer, VoltageRow
from noontide.server.weather_library.storing import load

SEASONS = {"year": range(12), "summer": range(3, 9), "winter": (9, 10, 11, 0, 1, 2)}
BIN = 10.0  # V


def orientation_of(design: Design, season: str = "year") -> OrientationAnswer:
    """The worth of every facing at the site, the beam past its horizon and the whole sky, and of the scheme's own surfaces.

    Summer and winter are the halves of the year around the solstices, named for the site's own hemisphere.
    """
    weather, site = load(design.weather.digest), design.site
    if season != "year" and site.latitude < 0:
        season = {"summer": "winter", "winter": "summer"}[season]
    sky_key, sky = sky_over(site, weather, STAGES)
    during = np.isin(sky.months, list(SEASONS[season]))
    hours = weather.calendar.hours_per_interval
    albedo = by_month(site.albedo, site.albedo_by_month, sky.months)

    def gathered() -> DirectedLight:
        part = {name: getattr(sky, name)[during] for name in ("dni", "dhi", "ghi", "zenith", "azimuth")}
        bright = type(sky.perez)(**{name: values[during] for name, values in vars(sky.perez).items()})
        seen = site.skyline.beam_seen(part["zenith"], part["azimuth"])
        return directed_light(**part, albedo=albedo[during], sky=bright, beam_seen=seen, hours=hours)

    key = key_of("orientation", sky_key, site.albedo, site.albedo_by_month, site.horizon, season)
    light = STAGES.get(key, gathered)
    found = STAGES.get(key_of("map", key), lambda: orientation_map(light))
    tilt, azimuth, best = found.best
    surfaces = design.surfaces.values()
    own = light.on_planes(np.array([s.tilt for s in surfaces]), np.array([s.azimuth for s in surfaces])) if surfaces else []
    return OrientationAnswer(
        tilts=found.tilts.tolist(), azimuths=found.azimuths.tolist(), irradiation=np.round(found.irradiation, 2).tolist(), best_tilt=tilt,
        best_azimuth=azimuth, best=best, surfaces=dict(zip(design.surfaces, map(float, own), strict=True)),
    )  # fmt: skip


def voltages_of(results: Results, subarray: str) -> VoltageAnswer:
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
    volts, pair = string_voltages(results, k), results.pair_of[k]
    circuits = type(results.modules.circuits)(
        **{name: value[pair if value.shape[0] > 1 else 0] for name, value in vars(results.modules.circuits).items()}
    )
    working, opened = results.modules.voltage[pair], open_circuit_voltage(circuits)
    lit = results.modules.maximum[pair] > 0.002 * module.power
    limit, limit_of = min((inverter.maximum_dc_voltage, "inverter"), (module.maximum_system_voltage, "module"))
    hours = results.calendar.hours_per_interval
    own = results.plant.subarrays[k].modules_per_string
    most = max(int(limit // volts.cold_voc), 1)
    first = max(1, min(own, most) - 4)
    lengths = sorted({*range(first, first + 7), own})
    edges = np.arange(0, limit * 1.18 + BIN, BIN)

    def row(n: int) -> VoltageRow:
        why = ""
        if n * volts.cold_voc > limit:
            why = f"{n * volts.cold_voc:.0f} V open at {volts.coldest:.0f} °C".replace("-", "\u2212")
        elif n * volts.hot_vmp < inverter.tracking_minimum:
            why = f"{n * volts.hot_vmp:.0f} V working at {volts.hottest_cell:.0f} °C"
        return VoltageRow(
            length=n,
            working=(np.histogram(working[lit] * n, edges)[0] * hours).tolist(),
            open_circuit=(np.histogram(opened[lit] * n, edges)[0] * hours).tolist(),
            cold_open_circuit=n * volts.cold_voc,
            hot_working=n * volts.hot_vmp,
            fits=not why,
            why=why,
        )

    return VoltageAnswer(
        subarray=subarray, edges=edges.tolist(), rows=[row(n) for n in lengths], start=inverter.start_voltage, lowest=inverter.tracking_minimum,
        full_power=inverter.full_power_minimum, highest=inverter.tracking_maximum, limit=limit, limit_of=limit_of, coldest=volts.coldest,
        coldest_origin=volts.coldest_origin, hottest_cell=volts.hottest_cell,
    )  # fmt: skip
