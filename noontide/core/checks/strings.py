"""Checks of strings, trackers, inverters and datasheets against one set of limits (`electrical.string_limits`)."""

from collections.abc import Iterator

from noontide.core.checks.finding import Check, Remedy, signed
from noontide.core.electrical.datasheets import Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.optimisers import string_voltage
from noontide.core.electrical.protection import RuleSet
from noontide.core.electrical.string_limits import LONGEST, StringLimits
from noontide.core.simulation.chain import motion_of
from noontide.core.simulation.circuit_lines import is_over
from noontide.core.simulation.limits import lowest_temperature_of
from noontide.core.simulation.results import Results

WINDOW = "Inverter's datasheet: MPP voltage window"
SMALLEST_RATIO = 0.6


def limits_of(results: Results) -> list[StringLimits]:
    """Limits of the strings of each sub-array at the coldest and the hottest of the site."""
    return results.string_limits


def lowest_temperature(results: Results) -> tuple[float, str]:
    """The air temperature that strings are checked at [°C], and where it comes from."""
    return lowest_temperature_of(results.design, results.weather)


def check_strings(r: Results) -> Iterator[Check]:
    """Findings about strings, trackers, inverters and datasheets."""
    limits = limits_of(r)
    yield from _voltages(r, limits)
    yield from _trackers(r, limits)
    yield from _inverters(r)
    yield from _datasheets(r)


def _voltages(r: Results, limits: list[StringLimits]) -> Iterator[Check]:
    _, origin = lowest_temperature(r)
    for k, (name, subarray) in enumerate(zip(r.plant.subarray_ids, r.plant.subarrays, strict=True)):
        inverter, n, volts = r.plant.inverters[r.plant.inverter_of[k]], subarray.modules_per_string, limits[k]
        pointer = f"/subarrays/{name}/modules_per_string"
        if r.plant.optimisers[k] is not None:
            yield from _optimisers(r, k, volts)
            continue
        cold, hot = signed(volts.lowest), f"{volts.highest_cell:.0f}"
        if n > volts.most and n * volts.cold_voc > volts.maximum_voltage:
            voltage = n * volts.cold_voc
            yield Check(
                "cold-open-circuit", "error", f"String too long: {voltage:,.0f} V at {cold} °C",
                f"Voc of {n} modules at {cold} °C ({origin}) is {voltage:,.0f} V; the {volts.maximum_of}'s maximum is {volts.maximum_voltage:,.0f} V.",
                "circuits", pointer, voltage, volts.maximum_voltage, "V", "IEC 62548-1: maximum array voltage at the lowest temperature",
                _length(name, volts.most, volts),
            )  # fmt: skip
        if n < volts.start_fewest:
            voltage = n * volts.hot_voc
            yield Check(
                "start-voltage", "error" if n * volts.cold_voc < inverter.start_voltage else "caution", "String too short: below the start voltage when hot",
                f"Voc of {n} modules at {hot} °C cell temperature is {voltage:,.0f} V; the inverter starts at {inverter.start_voltage:,.0f} V.",
                "circuits", pointer, voltage, inverter.start_voltage, "V", "Inverter's datasheet: start voltage", _length(name, volts.fewest, volts),
            )  # fmt: skip
        if n < volts.window_fewest:
            voltage = n * volts.hot_vmp
            yield Check(
                "hot-working-voltage", "error", "String too short: below the MPP window when hot",
                f"Vmp of {n} modules at {hot} °C cell temperature is {voltage:,.0f} V; the MPP window starts at {inverter.mppt_minimum:,.0f} V.",
                "circuits", pointer, voltage, inverter.mppt_minimum, "V", WINDOW, _length(name, volts.fewest, volts),
            )  # fmt: skip
        elif n < volts.full_power_fewest and r.annual.dc_ac_ratio > 0.9:
            voltage = n * volts.hot_vmp
            yield Check(
                "full-power-voltage", "caution", "Below the full-power voltage when hot",
                f"Vmp of {n} modules at {hot} °C cell temperature is {voltage:,.0f} V; the inverter reaches rated power from {inverter.full_power_minimum:,.0f} V.",
                "circuits", pointer, voltage, inverter.full_power_minimum, "V", "Inverter's datasheet: full-power voltage", _length(name, volts.full_power_fewest, volts),
            )  # fmt: skip
        if n > volts.window_most and n * volts.cold_vmp > inverter.mppt_maximum:
            voltage = n * volts.cold_vmp
            yield Check(
                "cold-working-voltage", "caution", "Above the MPP window on cold, bright days",
                f"Vmp of {n} modules at {cold} °C is {voltage:,.0f} V; the MPP window ends at {inverter.mppt_maximum:,.0f} V.",
                "circuits", pointer, voltage, inverter.mppt_maximum, "V", WINDOW, _length(name, volts.window_most, volts),
            )  # fmt: skip


def _optimisers(r: Results, k: int, volts: StringLimits) -> Iterator[Check]:
    """Limits of the optimisers at the modules of a sub-array, and of their strings."""
    optimiser, module, subarray = r.plant.optimisers[k], r.plant.modules[k], r.plant.subarrays[k]
    assert optimiser is not None  # asked for those alone
    name, n = r.plant.subarray_ids[k], subarray.modules_per_string
    title, source, length = (
        f"{optimiser.maker} {optimiser.name}",
        "Optimiser's datasheet",
        f"/subarrays/{name}/modules_per_string",
    )
    cold = signed(volts.lowest)
    if not optimiser.fewest <= n <= optimiser.most:
        fits = min(max(n, optimiser.fewest), optimiser.most)
        yield Check(
            "optimiser-string", "error", f"String of {n} optimisers", f"A string takes {optimiser.fewest} to {optimiser.most} {title}.", "circuits", length, n,
            optimiser.fewest if n < optimiser.fewest else optimiser.most, "optimisers", source,
            (Remedy(f"Use {fits} modules per string", {"subarrays": {name: {"modules_per_string": fits}}}),),
        )  # fmt: skip
    inverter = r.plant.inverters[r.plant.inverter_of[k]]
    if (held := string_voltage(inverter)) > n * optimiser.output_voltage:
        yield Check(
            "optimiser-voltage", "error", "Too few optimisers for the string voltage",
            f"{n} optimisers reach {n * optimiser.output_voltage:,.0f} V; the string is held at {held:,.0f} V.", "circuits", length, n * optimiser.output_voltage,
            held, "V", source,
        )  # fmt: skip
    if is_over(n * module.power, optimiser.string_power):
        yield Check(
            "optimiser-power", "caution", "Too much power on a string of optimisers",
            f"{n} modules have {n * module.power / 1000:,.2f} kW; a string takes {optimiser.string_power / 1000:,.2f} kW.", "circuits", length,
            n * module.power / 1000, optimiser.string_power / 1000, "kW", source,
        )  # fmt: skip
    at = f"/subarrays/{name}/optimiser"
    if volts.cold_voc > optimiser.maximum_input_voltage:
        yield Check(
            "optimiser-input", "error", "Module voltage too high for the optimiser",
            f"Voc of a module at {cold} °C is {volts.cold_voc:.1f} V; {title} takes {optimiser.maximum_input_voltage:g} V.", "circuits", at, volts.cold_voc,
            optimiser.maximum_input_voltage, "V", source,
        )  # fmt: skip
    short = r.cables.rules.array_current * module.highest_isc
    if is_over(short, optimiser.short_circuit_current):
        yield Check(
            "optimiser-current", "error", "Module current too high for the optimiser",
            f"{r.cables.rules.array_current:g} × Isc is {short:.1f} A; {title} takes {optimiser.short_circuit_current:g} A.", "circuits", at, short,
            optimiser.short_circuit_current, "A", source,
        )  # fmt: skip
    if module.power > optimiser.power * 1.1:
        yield Check(
            "optimiser-module", "caution", "Module larger than the optimiser", f"The module has {module.power:g} W; {title} passes {optimiser.power:g} W.",
            "circuits", at, module.power, optimiser.power, "W", source,
        )  # fmt: skip


def _length(name: str, length: int, volts: StringLimits) -> tuple[Remedy, ...]:
    """A length that keeps both the cold and the hot limit; none where there is no such length."""
    if not volts.fewest <= length <= min(volts.most, LONGEST):
        return ()
    return (Remedy(f"Use {length} modules per string", {"subarrays": {name: {"modules_per_string": length}}}),)


def _trackers(r: Results, limits: list[StringLimits]) -> Iterator[Check]:
    lost = {key: r.cascade.lost(key) for key in ("current_limit", "parallel")}
    for (i, tracker), members in r.plant.on_trackers.items():
        inverter = r.plant.inverters[i]
        names = [r.plant.subarray_ids[k] for k in members]
        subarrays = [r.plant.subarrays[k] for k in members]
        pointer = f"/subarrays/{names[0]}/tracker"
        optimised = [r.plant.optimisers[k] is not None for k in members]
        if any(optimised) and not all(optimised):
            chosen = next(r.plant.subarrays[k].optimiser for k in members if r.plant.subarrays[k].optimiser)
            yield Check(
                "mixed-optimisers", "error", f"Strings with and without optimisers share tracker {tracker}",
                "An optimised string takes its voltage from the inverter, the others hold it at theirs.", "circuits", pointer, sum(optimised), len(optimised), "strings",
                "Common voltage of strings in parallel", (Remedy("Use optimisers on all", {"subarrays": {n: {"optimiser": chosen} for n in names}}),),
            )  # fmt: skip
        strings = sum(s.strings for s in subarrays)
        if tracker > inverter.trackers:
            yield Check(
                "no-such-tracker", "error", f"The inverter has no tracker {tracker}", f"{inverter.maker} {inverter.name} has {inverter.trackers}.",
                "circuits", pointer, tracker, inverter.trackers, "", "Inverter's datasheet",
                (Remedy(f"Use tracker {inverter.trackers}", {"subarrays": {n: {"tracker": inverter.trackers} for n in names}}),),
            )  # fmt: skip
        rules, allowed = r.cables.rules, inverter.tracker_input(tracker)
        if all(optimised):
            yield from _optimised_current(r, i, tracker, members, lost["current_limit"])
            continue
        short = r.cables.short_circuit_current(members)
        if is_over(short, allowed.short_circuit):
            yield Check(
                "short-circuit-current", "error", f"Short-circuit current too high on tracker {tracker}",
                f"{rules.array_current:g} × Isc of {strings} parallel strings is {short:.1f} A; the tracker's maximum is {allowed.short_circuit:.1f} A.",
                "circuits", f"/subarrays/{names[0]}/strings", short, allowed.short_circuit, "A", f"{rules.source}: {rules.array_current:g} × Isc",
                _fewer_strings(names, subarrays[0].strings, limits[members[0]].short_circuit_strings),
            )  # fmt: skip
        parallel_fuses = r.cables.fuses[i, tracker]
        if parallel_fuses.is_needed and not parallel_fuses.sizes:
            yield Check(
                "string-fuses", "error", f"No string fuse serves tracker {tracker}", parallel_fuses.reason, "circuits", f"/subarrays/{names[0]}/strings",
                parallel_fuses.lowest, parallel_fuses.highest, "A", f"{rules.source}: at least {rules.fuse_from:g} × Isc, at most the module's series fuse",
                _fewer_strings(names, subarrays[0].strings, _strings_without_fuses(r.plant.modules[members[0]], rules)),
            )  # fmt: skip
        working = r.plant.working_current(members)
        if is_over(working, allowed.current):
            yield Check(
                "tracker-current", "caution", f"Operating current too high on tracker {tracker}",
                f"Imp of {strings} parallel strings is {working:.1f} A; the tracker's maximum is {allowed.current:.1f} A. The current limit costs {lost['current_limit']:,.0f} kWh a year in all.",
                "circuits", f"/subarrays/{names[0]}/strings", working, allowed.current, "A", "Inverter's datasheet: operating current",
                _fewer_strings(names, subarrays[0].strings, min(limits[members[0]].current_strings, limits[members[0]].short_circuit_strings)),
            )  # fmt: skip
        yield from _dissimilar(r, tracker, members, limits, lost["parallel"])


def _optimised_current(r: Results, i: int, tracker: int, members: tuple[int, ...], lost: float) -> Iterator[Check]:
    """The current of strings with optimisers, which follows from their power at the voltage that the inverter holds."""
    inverter, plant = r.plant.inverters[i], r.plant
    allowed, working = inverter.tracker_input(tracker).current, plant.working_current(members)
    if not is_over(working, allowed):
        return
    names, strings = [plant.subarray_ids[k] for k in members], sum(plant.subarrays[k].strings for k in members)
    yield Check(
        "tracker-current", "caution", f"Operating current too high on tracker {tracker}",
        f"At {string_voltage(inverter):,.0f} V the rated power of {strings} string{'s' if strings > 1 else ''} with optimisers makes {working:.1f} A; the tracker's maximum is {allowed:.1f} A. The current limit costs {lost:,.0f} kWh a year in all.",
        "circuits", f"/subarrays/{names[0]}/strings", working, allowed, "A", "Inverter's datasheet: operating current",
        _fewer_strings(names, plant.subarrays[members[0]].strings, int(allowed / plant.current_of_string(members[0]) + 1e-9)),
    )  # fmt: skip


def _strings_without_fuses(module: Module, rules: RuleSet) -> int:
    """Most strings in parallel that need no fuses."""
    return 1 + int(module.maximum_series_fuse / (rules.array_current * module.highest_isc) + 1e-9)


def _dissimilar(r: Results, tracker: int, members: tuple[int, ...], limits: list[StringLimits], lost: float) -> Iterator[Check]:
    names, subarrays = [r.plant.subarray_ids[k] for k in members], [r.plant.subarrays[k] for k in members]
    pointer = f"/subarrays/{names[0]}/tracker"
    lengths = sorted({s.modules_per_string for s in subarrays})
    orientations = {motion_of(r.design.surfaces[s.surface]) for s in subarrays}
    if len(lengths) > 1:
        fits = [n for n in lengths if all(limits[k].fewest <= n <= limits[k].most for k in members)]
        common = fits[0] if fits else None
        yield Check(
            "dissimilar-lengths", "error", f"Strings of {' and '.join(map(str, lengths))} modules share tracker {tracker}",
            f"Parallel strings must have the same length; dissimilar strings cost {lost:,.0f} kWh a year in all.", "circuits", pointer,
            lengths[-1], lengths[0], "modules", "IEC 62548-1: strings in parallel",
            (Remedy(f"Use {common} modules in all", {"subarrays": {n: {"modules_per_string": common} for n in names}}),) if common else (),
        )  # fmt: skip
    elif len(orientations) > 1:
        yield Check(
            "dissimilar-orientations", "caution", f"Strings of different orientation share tracker {tracker}",
            f"Strings of {len(orientations)} orientations operate at one voltage; dissimilar strings cost {lost:,.0f} kWh a year in all.", "circuits", pointer,
            len(orientations), 1, "orientations", "Common voltage of the strings' I-V curves",
        )  # fmt: skip


def _fewer_strings(names: list[str], strings: int, fits: int) -> tuple[Remedy, ...]:
    if len(names) != 1 or not 1 <= fits < strings:
        return ()
    return (Remedy(f"Use {fits} parallel string{'s' if fits > 1 else ''}", {"subarrays": {names[0]: {"strings": fits}}}),)


def _inverters(r: Results) -> Iterator[Check]:
    if r.plant.is_on_bus:
        return  # the current to the battery is the limit, and what is beyond it is clipped
    for i, (name, unit) in enumerate(zip(r.plant.inverter_ids, r.plant.inverters, strict=True)):
        power = r.plant.dc_power_of(i)
        pointer = f"/inverters/{name}/model"
        if is_over(power, unit.maximum_dc_power):
            yield Check(
                "dc-power", "error", f"Too many modules on {unit.maker} {unit.name}",
                f"{power / 1000:,.2f} kW DC on one inverter; its maximum is {unit.maximum_dc_power / 1000:,.2f} kW.",
                "circuits", pointer, power / 1000, unit.maximum_dc_power / 1000, "kW", "Inverter's datasheet: DC power",
            )  # fmt: skip
        elif power < SMALLEST_RATIO * unit.ac_power:
            yield Check(
                "small-array", "caution", "Inverter oversized for the array",
                f"{power / 1000:,.2f} kW DC on {unit.ac_power / 1000:g} kW AC ({unit.maker} {unit.name}): DC/AC ratio {power / unit.ac_power:.2f}. A smaller inverter is enough.",
                "circuits", pointer, power / unit.ac_power, SMALLEST_RATIO, "", "Noontide rule: at least 0.6",
            )  # fmt: skip


def _datasheets(r: Results) -> Iterator[Check]:
    seen = set()
    for name, module in zip(r.plant.subarray_ids, r.plant.modules, strict=True):
        if module.fingerprint in seen:
            continue
        seen.add(module.fingerprint)
        for finding in fit_module(module).findings:
            yield Check(
                "datasheet", "caution", f"Datasheet values of {module.maker} {module.name} contradict each other", finding, "circuits",
                f"/subarrays/{name}/module", 0, 0, "", "Single-diode fit",
            )  # fmt: skip
        if r.design.models.incidence == "datasheet" and not module.incidence:
            yield Check(
                "no-incidence-table", "caution", f"No IAM table for {module.maker} {module.name}",
                "The datasheet has no IAM table; its reflection loss is calculated after Fresnel.", "losses", "/models/incidence", 0, 0, "",
                "Module's datasheet", (Remedy("Use Fresnel for all", {"models": {"incidence": None}}),),
            )  # fmt: skip
