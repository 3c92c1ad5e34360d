"""Checks of a design: each a rule with its limit, the actual value, the margin, and remedies that can be applied."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from math import ceil, floor
from typing import Literal

import numpy as np

from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, max_power_point, open_circuit_voltage
from noontide.core.scheme.merge_patch import merge_patch
from noontide.core.simulation.results import Results
from noontide.core.weather.clock import clock_words
from noontide.core.weather.statistics import distance_km
from noontide.core.weather.year import Place

FAR_KM = 50.0
HIGH_M = 300.0
SAME_HOUR_KM = 500.0


@dataclass(frozen=True)
class Remedy:
    """An edit that mends the finding, as a JSON Merge Patch."""

    label: str
    patch: dict


@dataclass(frozen=True)
class Check:
    """A finding. `margin` is how far the actual value is on the wrong side, in the unit of both."""

    rule: str
    severity: Literal["error", "caution"]
    title: str
    detail: str
    bench: str
    pointer: str
    actual: float
    limit: float
    unit: str
    source: str
    remedies: tuple[Remedy, ...] = field(default=())

    @property
    def margin(self) -> float:
        return abs(self.actual - self.limit)


@dataclass(frozen=True)
class StringVoltages:
    """Design voltages of one module of a sub-array, and the temperatures behind them."""

    coldest: float  # air [°C]
    coldest_origin: str
    hottest_cell: float  # [°C]
    cold_voc: float  # at 1000 W/m2 [V]
    cold_vmp: float  # [V]
    hot_vmp: float  # [V]


def string_voltages(results: Results, k: int) -> StringVoltages:
    """Voltages of a module of sub-array `k` at the coldest and the hottest of the site.

    The cold open circuit is taken at full sun with the cells as cold as the air: the strictest usual rule.
    """
    site = results.scheme.site
    coldest = site.lowest_temperature if site.lowest_temperature is not None else float(results.weather.temperature.min())
    origin = "set for the site" if site.lowest_temperature is not None else "lowest of the weather year"
    hottest = float(results.modules.cell_temperature[results.pair_of[k]].max())
    if site.highest_temperature is not None:
        hottest += site.highest_temperature - float(results.weather.temperature.max())
    parameters = fit_module(results.plant.modules[k]).parameters
    top = max_power_point(parameters, 1000.0, np.array([coldest, hottest]))
    voc = float(open_circuit_voltage(circuit(parameters, 1000.0, coldest)))
    return StringVoltages(coldest, origin, hottest, voc, float(top.voltage[0]), float(top.voltage[1]))


def find_checks(results: Results) -> list[Check]:
    """All findings of a simulated scheme, errors first."""
    found = [
        *_strings(results),
        *_trackers(results),
        *_sets(results),
        *_surfaces(results),
        *_weather(results),
        *_datasheets(results),
    ]
    return sorted(_once(found), key=lambda check: check.severity != "error")


def _once(found: list[Check]) -> list[Check]:
    """Findings of the same words, as for strings alike on several trackers, become one whose remedies mend them all."""
    kept: dict[tuple[str, str, str], Check] = {}
    for check in found:
        words = (check.rule, check.title, check.detail)
        if words not in kept:
            kept[words] = check
            continue
        both = zip(kept[words].remedies, check.remedies, strict=True)
        together = tuple(Remedy(one.label, merge_patch(one.patch, other.patch)) for one, other in both)
        kept[words] = replace(kept[words], remedies=together)
    return list(kept.values())


def _signed(value: float) -> str:
    return f"{value:.0f}".replace("-", "\u2212")


def _strings(r: Results) -> Iterator[Check]:
    for k, (name, subarray) in enumerate(zip(r.plant.subarray_ids, r.plant.subarrays, strict=True)):
        inverter, module = r.plant.inverters[r.plant.inverter_of[k]], r.plant.modules[k]
        volts, n = string_voltages(r, k), subarray.modules_per_string
        pointer = f"/subarrays/{name}/modules_per_string"
        most = min(inverter.maximum_dc_voltage, module.maximum_system_voltage)
        if n * volts.cold_voc > most:
            fits = floor(most / volts.cold_voc)
            whose = "inverter" if inverter.maximum_dc_voltage <= module.maximum_system_voltage else "module"
            yield Check(
                "cold-open-circuit", "error", f"{n} modules in a string are too many in the cold",
                f"Open circuit at {_signed(volts.coldest)} °C ({volts.coldest_origin}) is {n * volts.cold_voc:.0f} V; the {whose} bears {most:.0f} V.",
                "circuits", pointer, n * volts.cold_voc, most, "V", "IEC 62548-1: maximum array voltage at the lowest temperature",
                _length(name, fits),
            )  # fmt: skip
        if n * volts.hot_vmp < inverter.tracking_minimum:
            fits = ceil(inverter.tracking_minimum / volts.hot_vmp)
            yield Check(
                "hot-working-voltage", "error", f"{n} modules in a string are too few in the heat",
                f"The working voltage at {volts.hottest_cell:.0f} °C of the cells is {n * volts.hot_vmp:.0f} V; the tracker works from {inverter.tracking_minimum:.0f} V.",
                "circuits", pointer, n * volts.hot_vmp, inverter.tracking_minimum, "V", "Inverter's datasheet: tracking window",
                _length(name, fits),
            )  # fmt: skip
        elif n * volts.hot_vmp < inverter.full_power_minimum and r.annual.dc_ac_ratio > 0.9:
            fits = ceil(inverter.full_power_minimum / volts.hot_vmp)
            yield Check(
                "full-power-voltage", "caution", "Under the full-power voltage in the heat",
                f"{n * volts.hot_vmp:.0f} V at {volts.hottest_cell:.0f} °C of the cells; the inverter reaches its rated power from {inverter.full_power_minimum:.0f} V.",
                "circuits", pointer, n * volts.hot_vmp, inverter.full_power_minimum, "V", "Inverter's datasheet: full-power voltage",
                _length(name, fits) if fits * volts.cold_voc <= most else (),
            )  # fmt: skip
        if n * volts.cold_vmp > inverter.tracking_maximum:
            fits = floor(inverter.tracking_maximum / volts.cold_vmp)
            yield Check(
                "cold-working-voltage", "caution", "Over the tracker's window on cold, bright days",
                f"{n * volts.cold_vmp:.0f} V at {_signed(volts.coldest)} °C; the tracker follows up to {inverter.tracking_maximum:.0f} V.",
                "circuits", pointer, n * volts.cold_vmp, inverter.tracking_maximum, "V", "Inverter's datasheet: tracking window",
                _length(name, fits),
            )  # fmt: skip


def _length(name: str, fits: int) -> tuple[Remedy, ...]:
    return (Remedy(f"Make it {fits}", {"subarrays": {name: {"modules_per_string": fits}}}),) if 1 <= fits <= 60 else ()


def _trackers(r: Results) -> Iterator[Check]:
    groups: dict[tuple[str, int], list[int]] = {}
    for k, subarray in enumerate(r.plant.subarrays):
        groups.setdefault((subarray.inverter, subarray.tracker), []).append(k)
    for (_inverter_id, tracker), members in groups.items():
        inverter = r.plant.inverters[r.plant.inverter_of[members[0]]]
        names = [r.plant.subarray_ids[k] for k in members]
        subarrays = [r.plant.subarrays[k] for k in members]
        pointer = f"/subarrays/{names[0]}/tracker"
        if tracker > inverter.trackers:
            yield Check(
                "no-such-tracker", "error", f"The inverter has no tracker {tracker}",
                f"{inverter.maker} {inverter.name} has {inverter.trackers}.", "circuits", pointer, tracker, inverter.trackers, "",
                "Inverter's datasheet", (Remedy(f"Use tracker {inverter.trackers}", {"subarrays": {n: {"tracker": inverter.trackers} for n in names}}),),
            )  # fmt: skip
        short = sum(1.25 * r.plant.modules[k].isc * s.strings for k, s in zip(members, subarrays, strict=True))
        if short > inverter.maximum_short_circuit_current:
            yield Check(
                "short-circuit-current", "error", f"Too much current on tracker {tracker}",
                f"1.25 x short circuit of {sum(s.strings for s in subarrays)} strings is {short:.1f} A; the tracker bears {inverter.maximum_short_circuit_current:.1f} A.",
                "circuits", f"/subarrays/{names[0]}/strings", short, inverter.maximum_short_circuit_current, "A", "IEC 62548-1: 1.25 x Isc",
                _fewer_strings(r, members, inverter.maximum_short_circuit_current),
            )  # fmt: skip
        working = sum(r.plant.modules[k].imp * s.strings for k, s in zip(members, subarrays, strict=True))
        if working > inverter.maximum_tracker_current:
            lost = -r.cascade["current_limit"].energy
            yield Check(
                "tracker-current", "caution", f"Over the working current of tracker {tracker}",
                f"{working:.1f} A at rated power; the tracker takes {inverter.maximum_tracker_current:.1f} A. {lost:.0f} kWh a year are lost in all.",
                "circuits", f"/subarrays/{names[0]}/strings", working, inverter.maximum_tracker_current, "A", "Inverter's datasheet: operating current",
                _fewer_strings(r, members, inverter.maximum_tracker_current),
            )  # fmt: skip
        lengths = sorted({s.modules_per_string for s in subarrays})
        facings = {(r.scheme.surfaces[s.surface].tilt, r.scheme.surfaces[s.surface].azimuth) for s in subarrays}
        lost = -r.cascade["parallel"].energy
        if len(lengths) > 1:
            yield Check(
                "unlike-lengths", "error", f"Strings of {' and '.join(map(str, lengths))} modules share tracker {tracker}",
                f"Strings in parallel must be alike in length; {lost:.0f} kWh a year are lost in all.", "circuits", pointer,
                lengths[-1], lengths[0], "modules", "IEC 62548-1: strings in parallel",
                (Remedy(f"Make all {lengths[0]}", {"subarrays": {n: {"modules_per_string": lengths[0]} for n in names}}),),
            )  # fmt: skip
        elif len(facings) > 1:
            yield Check(
                "unlike-facings", "caution", f"Strings of {len(facings)} facings share tracker {tracker}",
                f"They work at one voltage: {lost:.0f} kWh a year are lost in all.", "circuits", pointer, len(facings), 1, "facings",
                "Common voltage of unlike strings, by their I-V curves",
            )  # fmt: skip


def _fewer_strings(r: Results, members: list[int], limit: float) -> tuple[Remedy, ...]:
    if len(members) != 1:
        return ()
    k = members[0]
    fits = floor(limit / (1.25 * r.plant.modules[k].isc))
    return (
        (Remedy(f"Make it {fits} string{'s' if fits > 1 else ''}", {"subarrays": {r.plant.subarray_ids[k]: {"strings": fits}}}),)
        if fits >= 1
        else ()
    )


def _sets(r: Results) -> Iterator[Check]:
    for i, (name, unit) in enumerate(zip(r.plant.inverter_ids, r.plant.inverters, strict=True)):
        mine = r.plant.inverter_of == i
        power = float(np.sum((r.plant.series * r.plant.parallel * r.plant.module_powers)[mine]))
        if power > unit.maximum_dc_power:
            yield Check(
                "dc-power", "error", f"Too many modules on {unit.maker} {unit.name}",
                f"{power / 1000:.2f} kW DC on one inverter; its datasheet allows {unit.maximum_dc_power / 1000:.2f} kW.",
                "circuits", f"/inverters/{name}/model", power / 1000, unit.maximum_dc_power / 1000, "kW", "Inverter's datasheet: DC power",
            )  # fmt: skip
        elif power < 0.6 * unit.ac_power:
            yield Check(
                "small-array", "caution", f"A small array for {unit.maker} {unit.name}",
                f"{power / 1000:.2f} kW DC on {unit.ac_power / 1000:g} kW AC: a ratio of {power / unit.ac_power:.2f}. A smaller inverter would do.",
                "circuits", f"/inverters/{name}/model", power / unit.ac_power, 0.6, "", "Rule of our own: at least 0.6",
            )  # fmt: skip
    if r.annual.clipped_share > 0.03:
        yield Check(
            "clipping", "caution", "Much is clipped", f"{r.annual.clipped_share:.1%} of the DC energy, in {r.annual.clipped_hours:.0f} hours.",
            "losses", "/inverters", r.annual.clipped_share * 100, 3.0, "%", "Rule of our own: at most 3 %",
        )  # fmt: skip


def _surfaces(r: Results) -> Iterator[Check]:
    area = r.plant.module_counts * r.plant.module_areas
    for s, (name, surface) in enumerate(zip(r.plant.surface_ids, r.plant.surfaces, strict=True)):
        covered = float(area[r.plant.surface_of == s].sum())
        if surface.area is not None and covered > surface.area:
            yield Check(
                "surface-area", "error", f"More modules than fit on {surface.name or name}",
                f"{covered:.1f} m² of modules on {surface.area:.1f} m².", "surfaces", f"/surfaces/{name}/area", covered, surface.area, "m²", "Area of the modules",
            )  # fmt: skip


def _weather(r: Results) -> Iterator[Check]:
    site, place = r.scheme.site, r.weather.place
    away = distance_km(Place(site.latitude, site.longitude), place)
    if away > FAR_KM:
        yield Check(
            "weather-far", "caution", "The weather is from elsewhere", f"{r.weather.title} belongs {away:.0f} km away.", "weather", "/weather",
            away, FAR_KM, "km", "Rule of our own: within 50 km",
        )  # fmt: skip
    if abs(place.elevation - site.elevation) > HIGH_M:
        yield Check(
            "weather-high", "caution", "The weather is from another height",
            f"{r.weather.title} belongs to {place.elevation:.0f} m; the site lies at {site.elevation:.0f} m.", "weather", "/weather",
            abs(place.elevation - site.elevation), HIGH_M, "m", "Rule of our own: within 300 m",
        )  # fmt: skip

    # From far enough, the sun itself is at another hour; that the weather is from elsewhere is said already.
    if (hours := r.sky.clock_error) and away < SAME_HOUR_KM:
        yield Check(
            "weather-clock", "caution", "The weather's clock is off", clock_words(hours), "weather", "/weather",
            hours, 0, "h", "Light of the file against the sun at its place",
        )  # fmt: skip


def _datasheets(r: Results) -> Iterator[Check]:
    for k, module in enumerate(r.plant.modules):
        if module in r.plant.modules[:k]:
            continue
        for finding in fit_module(module).findings:
            yield Check(
                "datasheet", "caution", f"The datasheet of {module.maker} {module.name} contradicts itself", finding, "circuits",
                f"/subarrays/{r.plant.subarray_ids[k]}/module", 0, 0, "", "Single-diode fit",
            )  # fmt: skip
        if r.scheme.models.incidence == "datasheet" and not module.incidence:
            yield Check(
                "no-incidence-table", "caution", f"{module.maker} {module.name} states no incidence table",
                "Its losses at the glass follow from the glass itself, after Fresnel.", "losses", "/models/incidence", 0, 0, "",
                "Module's datasheet", (Remedy("Use Fresnel for all", {"models": {"incidence": None}}),),
            )  # fmt: skip
