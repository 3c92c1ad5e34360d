"""The stages from light on the cells to power at the meter.

Sub-arrays run over (subarrays, light) for one inverter of their set; totals are for all inverters.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.inverter import convert, fit_inverter
from noontide.core.electrical.single_diode import Circuit, circuit, max_power_of, max_power_point
from noontide.core.electrical.strings import TrackerLimits, operate
from noontide.core.electrical.temperature import faiman, king, noct_model
from noontide.core.electrical.wiring import wire, wire_ac
from noontide.core.scheme.document import HEAT_LOSS, Losses, Scheme
from noontide.core.simulation.light import PlaneLight, Sky
from noontide.core.simulation.plant import Plant, stacked_parameters

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class ModulePower:
    """One module of each kind on each plane it lies on, (pairs, light)."""

    cell_temperature: Floats  # [°C]
    at_reference: Floats  # maximum power at 25 °C [W]
    maximum: Floats  # maximum power [W]
    voltage: Floats  # at the maximum [V]
    current: Floats  # at the maximum [A]
    circuits: Circuit
    rating: Floats  # (pairs,) factor from the fitted to the rated power


@dataclass(frozen=True)
class StringPower:
    """Sub-arrays at their inverters' terminals, (subarrays, light), for one inverter of the set."""

    nominal: Floats  # effective light at the rated efficiency [W]
    weak_light_loss: Floats
    temperature_loss: Floats
    quality_loss: Floats
    light_induced_loss: Floats
    mismatch_loss: Floats
    parallel_loss: Floats
    window_loss: Floats
    current_loss: Floats
    wiring_loss: Floats
    power: Floats  # after the cables [W]
    voltage: Floats  # of the strings [V]
    current: Floats  # of all strings of the sub-array [A]
    outside: NDArray[np.bool_]


@dataclass(frozen=True)
class GridPower:
    """Inverter sets at the meter, (inverters, light), for one inverter of the set; (inverters,) with the sun down."""

    dc: Floats
    clipping: Floats
    conversion: Floats
    ac: Floats
    night_use: Floats
    wiring_loss: Floats
    availability_loss: Floats
    delivered: Floats
    dark_use: Floats  # (inverters,) drawn in each dark interval [W]
    dark_wiring: Floats  # (inverters,)


def run_modules(
    scheme: Scheme, pairs: tuple[tuple[int, int], ...], plant: Plant, planes: PlaneLight, plane_mounts: tuple[str, ...], sky: Sky
) -> ModulePower:
    """Cell temperature and maximum power of each pair of plane and module.

    `pairs` holds the index of the plane and of a sub-array that has the module.
    """
    on = np.array([plane for plane, _ in pairs])
    modules = tuple(plant.modules[k] for _, k in pairs)
    temperature = _cell_temperature(scheme, planes.poa[on], [plane_mounts[p] for p in on], modules, sky)
    parameters, rating = stacked_parameters(modules)
    effective = planes.effective[on]
    cool = max_power_point(parameters, effective, 25.0)
    circuits = circuit(parameters, effective, temperature)
    warm = max_power_of(circuits)
    return ModulePower(temperature, cool.power, warm.power, warm.voltage, warm.current, circuits, rating)


def run_strings(losses: Losses, plant: Plant, of_pair: Ints, effective: Floats, modules: ModulePower, sky: Sky) -> StringPower:
    """Strings on their trackers and through their cables, every loss booked where it happens."""
    series, parallel = plant.series, plant.parallel
    count = (series * parallel)[:, np.newaxis]
    rating = modules.rating[of_pair][:, np.newaxis]
    nominal = effective * (plant.module_powers / 1000)[:, np.newaxis] * count
    at_reference = modules.at_reference[of_pair] * rating * count
    maximum = modules.maximum[of_pair] * rating * count
    quality = maximum * (losses.quality / 100)
    light_induced = (maximum - quality) * (losses.light_induced / 100)
    mismatch = (maximum - quality - light_induced) * (losses.mismatch / 100)
    keep = (1 - losses.quality / 100) * (1 - losses.light_induced / 100) * (1 - losses.mismatch / 100)

    point = operate(
        circuits=_of_subarrays(modules.circuits, of_pair),
        maximum_voltage=modules.voltage[of_pair],
        maximum_current=modules.current[of_pair],
        factor=rating * keep,
        series=series,
        parallel=parallel,
        limits=_limits(plant),
    )
    cables = wire(point.current, point.voltage, _cable_resistance(losses, plant), sky.air_temperature)
    return StringPower(
        nominal=nominal,
        weak_light_loss=nominal - at_reference,
        temperature_loss=at_reference - maximum,
        quality_loss=quality,
        light_induced_loss=light_induced,
        mismatch_loss=mismatch,
        parallel_loss=point.parallel_loss,
        window_loss=point.window_loss,
        current_loss=point.current_loss,
        wiring_loss=cables.loss,
        power=cables.power,
        voltage=point.voltage,
        current=point.current,
        outside=point.outside,
    )


def run_inverters(losses: Losses, plant: Plant, strings: StringPower) -> GridPower:
    """Inverters, AC cables and the time out of service."""
    n = len(plant.inverters)
    gather = (np.arange(n)[:, np.newaxis] == plant.inverter_of).astype(float)
    dc = gather @ strings.power
    weighed = gather @ (strings.power * strings.voltage)
    voltage = np.divide(weighed, dc, out=np.zeros_like(dc), where=dc > 0)
    rated = np.array([i.ac_power for i in plant.inverters])
    night = np.array([i.night_power for i in plant.inverters])
    out = convert(
        dc,
        voltage,
        [fit_inverter(i) for i in plant.inverters],
        rated,
        np.array([i.maximum_dc_power for i in plant.inverters]),
        night,
    )
    cable = wire_ac(out.ac - out.night_use, rated, losses.ac_wiring / 100)
    idle = np.maximum(cable.power, 0) * (losses.unavailability / 100)
    dark = wire_ac(-night[:, np.newaxis], rated, losses.ac_wiring / 100)
    return GridPower(
        dc=dc,
        clipping=out.clipping,
        conversion=out.conversion,
        ac=out.ac,
        night_use=out.night_use,
        wiring_loss=cable.loss,
        availability_loss=idle,
        delivered=cable.power - idle,
        dark_use=night,
        dark_wiring=dark.loss[:, 0],
    )


def _cell_temperature(scheme: Scheme, poa: Floats, mounts: list[str], modules: tuple, sky: Sky) -> Floats:
    wind = sky.wind * scheme.models.wind_factor
    match scheme.models.temperature:
        case "faiman":
            u0, u1 = np.array([HEAT_LOSS[m] for m in mounts]).T[:, :, np.newaxis]
            return faiman(poa, sky.air_temperature, wind, u0, u1)
        case "noct":
            noct = np.array([[m.noct] for m in modules])
            return noct_model(poa, sky.air_temperature, noct, np.array([[m.efficiency] for m in modules]))
        case "king":
            # Open rack and, for all roofs, the insulated back of King et al. (2004), Table 1: glass over polymer.
            a, b, rise = np.array([KING["open rack" if m == "open rack" else "insulated"] for m in mounts]).T[:, :, np.newaxis]
            return king(poa, sky.air_temperature, sky.wind, a, b, rise)


KING = {"open rack": (-3.56, -0.075, 3.0), "insulated": (-2.81, -0.0455, 0.0)}


def _of_subarrays(circuits: Circuit, of_pair: Ints) -> Circuit:
    if np.array_equal(of_pair, np.arange(circuits.light_current.shape[0])):
        return circuits
    return Circuit(**{name: value[of_pair] for name, value in vars(circuits).items()})


def _limits(plant: Plant) -> TrackerLimits:
    trackers: dict[tuple[str, int], int] = {}
    index = np.array([trackers.setdefault((s.inverter, s.tracker), len(trackers)) for s in plant.subarrays], dtype=np.int64)
    units = [plant.inverters[i] for i in plant.inverter_of]
    return TrackerLimits(
        tracker=index,
        lowest=np.array([u.tracking_minimum for u in units]),
        highest=np.array([u.tracking_maximum for u in units]),
        current=np.array([u.maximum_tracker_current for u in units]),
    )


def _cable_resistance(losses: Losses, plant: Plant) -> Floats:
    """Of the run to each sub-array that loses the given share of its rated power [ohm]."""
    vmp = np.array([m.vmp for m in plant.modules]) * plant.series
    imp = np.array([m.imp for m in plant.modules]) * plant.parallel
    return losses.dc_wiring / 100 * vmp / imp
