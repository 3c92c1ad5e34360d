"""Protection of a design: every device with its rule, source, rating, limit and margin; and the findings where one is missing."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil, inf, sqrt
from typing import Literal

from noontide.core.behind_meter.bus_circuits import AIR, DC_FACTOR, BusCircuit, bus_circuits
from noontide.core.checks.finding import Check, Remedy, signed
from noontide.core.design.circuits import Connection
from noontide.core.electrical.cables import SECTIONS
from noontide.core.electrical.controllers import MEAN_CHARGING
from noontide.core.electrical.datasheets import DeviceKind
from noontide.core.electrical.protection import BREAKERS, breaker_size, residual_current_device, voltage_rise
from noontide.core.simulation.cables_in_use import SizedRun
from noontide.core.simulation.results import Results

State = Literal["fine", "caution", "error", "not needed"]
# Rated currents of DC switch-disconnectors, and DC voltages that devices are made for.
SWITCHES = (16.0, 25.0, 32.0, 40.0, 63.0, 125.0, 250.0, 400.0)
DC_VOLTAGES = (600.0, 1000.0, 1500.0)
BUS_SWITCHES = (63.0, 125.0, 160.0, 250.0, 400.0, 630.0)
OFF_VOLTAGE = 0.05  # between the grid that the inverters feed and the low side of the transformer
BONDING, BONDING_WITH_LIGHTNING = 6.0, 16.0  # mm2 of copper


@dataclass(frozen=True)
class WantedDevice:
    """What a device must be able to do."""

    kind: DeviceKind
    current: float  # [A]
    voltage: float  # [V]
    poles: int
    type: str = ""


@dataclass(frozen=True)
class Protection:
    """A device or a figure of the connection, held against its rule."""

    key: str
    place: str  # in words
    title: str
    chosen: str  # rating, or what is done
    detail: str
    source: str
    actual: float
    limit: float
    unit: str
    is_at_least: bool  # whether the limit is the least; else the most
    state: State
    pointer: str
    count: int = 0
    device: WantedDevice | None = None

    @property
    def margin(self) -> float:
        """How far on the right side, negative on the wrong one."""
        return self.actual - self.limit if self.is_at_least else self.limit - self.actual


def protection_of(r: Results) -> list[Protection]:
    """All protection of a design, from the strings to the grid."""
    return [*_of_trackers(r), *_after_the_strings(r)]


def _after_the_strings(r: Results) -> Iterator[Protection]:
    if r.plant.is_on_bus:
        yield from _of_bus(r)
    else:
        yield from _of_inverters(r)
        yield from _of_connection(r)


def check_wiring(r: Results) -> Iterator[Check]:
    """Findings about cables, protection and the connection."""
    for run in r.cables.runs:
        if run.problem:
            yield _about_cable(run)
    for item in _after_the_strings(r):
        if item.state in ("caution", "error"):
            yield Check(
                item.key.split(":")[0], "error" if item.state == "error" else "caution", f"{item.title}: {item.chosen}", item.detail, "circuits", item.pointer,
                item.actual, item.limit, item.unit, item.source, _remedies(r, item),
            )  # fmt: skip


def _about_cable(run: SizedRun) -> Check:
    is_too_thin = run.choice.ampacity < run.route.current * (1 - 1e-9)
    actual, limit, unit = (
        (run.route.current, run.choice.ampacity, "A") if is_too_thin else (run.choice.drop, run.run.drop_limit, "%")
    )
    steps = run.pointer.strip("/").split("/")
    patch: dict = {"section": run.proposed}
    for step in reversed(steps):
        patch = {step: patch}
    remedies = (Remedy(f"Use {run.proposed:g} mm²", patch),) if run.proposed and run.proposed != run.run.section else ()
    where = f" of {run.serves}" if run.serves else ""
    return Check(
        "cable-ampacity" if is_too_thin else "cable-drop", "error" if is_too_thin else "caution",
        f"{run.title}{where} {'overloaded' if is_too_thin else 'drops too much voltage'}", run.problem, "circuits", run.pointer, actual, limit, unit,
        run.choice.source if is_too_thin else "IEC 60364-5-52, annex G; limit set in the design", remedies,
    )  # fmt: skip


def _remedies(r: Results, item: Protection) -> tuple[Remedy, ...]:
    if item.key == "voltage-rise" and r.design.connection.power_factor > 0.95:
        return (Remedy("Draw reactive power: power factor 0.95", {"connection": {"power_factor": 0.95, "is_absorbing": True}}),)
    if item.key == "transformer":
        stations = ceil(r.design.connection.stations * item.limit / item.actual - 1e-9)
        return (Remedy(f"Use {stations} stations", {"connection": {"stations": stations}}),)
    if item.key == "imbalance":
        fixed = [key for key, one in zip(r.plant.inverter_ids, r.plant.sets, strict=True) if one.phase]
        if fixed:
            return (Remedy("Spread the inverters over the phases", {"inverters": {key: {"phase": None} for key in fixed}}),)
    return ()


def _of_trackers(r: Results) -> Iterator[Protection]:
    plant, rules, limits = r.plant, r.cables.rules, r.string_limits
    for (i, tracker), fuses in r.cables.fuses.items():
        members = plant.on_trackers[i, tracker]
        name, count = plant.inverter_ids[i], plant.sets[i].count
        place = f"{plant.sets[i].name}, tracker {tracker}"
        strings = sum(plant.subarrays[k].strings for k in members)
        voc = max(plant.subarrays[k].modules_per_string * limits[k].cold_voc for k in members)
        cold = signed(limits[members[0]].lowest)
        pointer = f"/subarrays/{plant.subarray_ids[members[0]]}/strings"
        made_for = _voltage_class(voc)
        if not fuses.is_needed:
            yield Protection(
                f"string-fuse:{name}:{tracker}", place, "String fuses", "not needed", fuses.reason, rules.source, fuses.reverse_current,
                min(plant.modules[k].maximum_series_fuse for k in members), "A", False, "not needed", pointer,
            )  # fmt: skip
        else:
            size = fuses.sizes[0] if fuses.sizes else fuses.lowest
            chosen = f"gPV {size:g} A, {made_for:,.0f} V" if fuses.sizes else "none is made"
            yield Protection(
                f"string-fuse:{name}:{tracker}", place, "String fuses", chosen, fuses.reason, rules.source, size, fuses.highest, "A", False,
                "fine" if fuses.sizes else "error", pointer, 2 * strings * count, WantedDevice("fuse", size, made_for, 1),
            )  # fmt: skip
        short = r.cables.short_circuit_current(members)
        for k in members:
            subarray = plant.subarrays[k]
            if subarray.main_cable is None:
                continue
            current = r.cables.short_circuit_current([k])
            yield Protection(
                f"combiner:{plant.subarray_ids[k]}", place, "Combiner box", f"{subarray.strings} strings, {current:.0f} A, {made_for:,.0f} V",
                "Strings are joined before the DC main cable.", "IEC 62548-1; IEC 61439-2", current, current, "A", True, "fine",
                f"/subarrays/{plant.subarray_ids[k]}/main_cable", count, WantedDevice("combiner box", current, made_for, min(2 * subarray.strings, 12)),
            )  # fmt: skip
        switch = next((size for size in SWITCHES if size >= short * (1 - 1e-9)), inf)
        yield Protection(
            f"dc-switch:{name}:{tracker}", place, "DC switch", f"{switch:g} A, {made_for:,.0f} V, DC-PV2" if switch < inf else "none is made",
            f"{rules.array_current:g} × Isc of {strings} string{'s' if strings > 1 else ''} is {short:.1f} A; Voc at {cold} °C is {voc:,.0f} V.",
            f"{rules.source}; IEC 60947-3, annex D", switch if switch < inf else 0.0, short, "A", True, "fine" if switch < inf else "error", pointer, count,
            WantedDevice("DC switch", switch, made_for, 2) if switch < inf else None,
        )  # fmt: skip


def _voltage_class(voltage: float) -> float:
    return next((made for made in DC_VOLTAGES if voltage <= made), DC_VOLTAGES[-1])


def _of_inverters(r: Results) -> Iterator[Protection]:
    plant, connection, cables = r.plant, r.design.connection, r.cables
    for i, (name, one, unit) in enumerate(zip(plant.inverter_ids, plant.sets, plant.inverters, strict=True)):
        place, pointer = one.name, f"/inverters/{name}/model"
        if unit.kind != "micro":
            yield _dc_surge(r, i, pointer)
        current, size, branches = cables.branch_current(i), cables.breaker_of(i), cables.branches(i)
        run = cables.by_pointer.get(f"/inverters/{name}/cable")
        poles, voltage = (4, connection.voltage) if unit.phases == 3 else (2, connection.phase_voltage)
        factor = f"{cables.rules.continuous:g} × " if cables.rules.continuous != 1 else ""
        detail = f"{factor}{current:.1f} A at the largest power"
        if run is not None and size is not None:
            detail += f"; the cable carries {run.choice.ampacity:.0f} A"
        yield Protection(
            f"ac-breaker:{name}", place, "AC breaker", f"{size} A, {poles} poles" if size else "none fits",
            f"{detail}." if size else f"{detail}; no rating lies between it and the {run.choice.ampacity:.0f} A of the cable." if run and run.run.section else f"{detail}; {BREAKERS[-1]:,} A is the largest.",
            "IEC 60364-4-43, 433.1: IB ≤ In ≤ Iz", float(size or 0), cables.rules.continuous * current, "A", True, "fine" if size else "error", pointer, branches,
            WantedDevice("AC breaker", float(size), voltage, poles) if size else None,
        )  # fmt: skip
        leakage = unit.leakage_current * (one.count / branches)
        device = residual_current_device(unit.is_separated, leakage, unit.feeds_no_dc_fault)
        needs = "required" if connection.earthing == "TT" else "where the rules of the place ask for one"
        yield Protection(
            f"residual-current:{name}", place, "Residual-current device", f"type {device.type}, {device.sensitivity:g} mA",
            f"{device.reason} Leakage {leakage:.0f} mA; in {connection.earthing} {needs}.", "IEC 60364-7-712, 712.531.3.5.1; IEC 61008-1",
            device.sensitivity / 2, leakage, "mA", True, "fine", pointer, branches,
            WantedDevice("residual-current device", float(size or 0), voltage, poles, device.type) if size else None,
        )  # fmt: skip
        if run is not None:
            yield _earthing(f"earthing:{name}", place, run)
        yield _bonding(f"bonding:{name}", place, connection.lightning_protection == "bonded", pointer)


def _of_bus(r: Results) -> Iterator[Protection]:
    """Of a battery bus: what lies between it and its controllers, its battery and its inverter, and behind that."""
    plant, connection, bus = r.plant, r.design.connection, r.after.bus
    place = r.design.storage.off_grid
    assert bus is not None and place is not None
    for i, (name, one) in enumerate(zip(plant.inverter_ids, plant.sets, strict=True)):
        yield _dc_surge(r, i, f"/inverters/{name}/controller")
        yield _bonding(f"bonding:{name}", one.name, connection.lightning_protection == "bonded", f"/inverters/{name}/controller")
    for circuit in bus_circuits(r):
        yield from _of_circuit(circuit)
    at, where, battery = "/storage/bank", "the battery bus", bus_circuits(r)[0]
    switch = next((size for size in BUS_SWITCHES if size >= battery.asked * (1 - 1e-9)), inf)
    yield Protection(
        "battery-switch", where, "Battery disconnector", f"{switch:g} A, {MEAN_CHARGING * place.voltage:.0f} V" if switch < inf else "none is made", _current_words(battery), "IEC 60364-5-57; IEC 60947-3",
        switch if switch < inf else 0.0, battery.asked, "A", True, "fine" if switch < inf else "error", at, 1,
    )  # fmt: skip
    yield Protection(
        "bus-earthing", where, "Earthing of the bus", f"{BONDING_WITH_LIGHTNING:g} mm² copper", "One pole at one place, beside the battery; the inverter separates it from the AC side or its maker says which pole.", "IEC 60364-5-57",
        BONDING_WITH_LIGHTNING, BONDING_WITH_LIGHTNING, "mm²", True, "fine", at,
    )  # fmt: skip
    volts = connection.phase_voltage
    ac = bus.power * 1000 / (volts * connection.power_factor)
    size = breaker_size(ac, inf, r.cables.rules)
    yield Protection(
        "ac-breaker", "the inverter", "AC breaker", f"{size} A, 2 poles" if size else "none fits", f"{ac:.1f} A at the largest power, one phase.",
        "IEC 60364-4-43, 433.1: IB ≤ In ≤ Iz", float(size or 0), r.cables.rules.continuous * ac, "A", True, "fine" if size else "error", "/storage/off_grid", 1,
        WantedDevice("AC breaker", float(size), volts, 2) if size else None,
    )  # fmt: skip
    yield Protection(
        "residual-current", "the inverter", "Residual-current device", "type A, 30 mA", "Additional protection of sockets.", "IEC 60364-4-41, 411.3.3", 30, 30, "mA", True, "fine", "/storage/off_grid", 1,
        WantedDevice("residual-current device", float(size or 0), volts, 2, "A") if size else None,
    )  # fmt: skip


def _current_words(circuit: BusCircuit) -> str:
    return f"{DC_FACTOR:g} × {circuit.current:.3g} A: {circuit.words}."


def _of_circuit(circuit: BusCircuit) -> Iterator[Protection]:
    """Fuse and cable of a circuit on the bus."""
    size, cable = circuit.fuse, circuit.cable
    yield Protection(
        f"bus-fuse:{circuit.key}", circuit.place, circuit.fuse_title, f"{size:g} A" if size else "none is made", _current_words(circuit), "IEC 60269-7; IEC 60364-5-57", size or 0.0, circuit.asked, "A", True,
        "fine" if size else "error", circuit.pointer, circuit.count,
    )  # fmt: skip
    if size is None:
        return
    run = f"{circuit.length:g} m one way, air of {AIR:g} °C, fuse of {size:g} A"
    if cable is None:
        words = f"No section carries this with no more than {circuit.drop_limit:g} % of drop: {run}. Shorten it, or raise the voltage of the system."
        chosen, actual, is_fine = "none serves", 0.0, False
    else:
        words = f"{run}: carries {cable.ampacity:.0f} A, drops {cable.drop:.2f} % at {circuit.current:.3g} A; {circuit.drop_limit:g} % at most. Its section follows the {cable.limited_by}."
        chosen, actual, is_fine = f"2 × {cable.section:g} mm² copper", cable.ampacity, True
    yield Protection(
        f"bus-cable:{circuit.key}", circuit.place, circuit.cable_title, chosen, words, "IEC 60364-4-43, 433.1; EN 50618", actual, size, "A", True, "fine" if is_fine else "error", circuit.pointer, circuit.count,
    )  # fmt: skip


def _dc_surge(r: Results, i: int, pointer: str) -> Protection:
    """Before the inverters or controllers of a set."""
    plant, connection, one = r.plant, r.design.connection, r.plant.sets[i]
    spd_type = _surge_type(connection)
    reason = {
        "none": "Without external lightning protection type 2 serves on both sides.",
        "separated": "The separation distance to the lightning protection is kept: type 2 serves on both sides.",
        "bonded": "Bonded to the lightning protection: partial lightning currents flow, which takes type 1.",
    }[connection.lightning_protection]
    voc = max(plant.subarrays[k].modules_per_string * r.string_limits[k].cold_voc for k in plant.members[i])
    made_for = _voltage_class(voc)
    return Protection(
        f"dc-surge:{plant.inverter_ids[i]}", one.name, "DC surge protection", f"type {spd_type}, {made_for:,.0f} V", f"{reason} Voc at the coldest is {voc:,.0f} V.",
        "IEC 60364-7-712, IEC 61643-32", made_for, voc, "V", True, "fine" if voc <= made_for else "caution", pointer, one.count,
        WantedDevice("surge protective device", 0, made_for, 3, spd_type),
    )  # fmt: skip


def _surge_type(connection: Connection) -> str:
    return "1+2" if connection.lightning_protection == "bonded" else "2"


def _earthing(key: str, place: str, run: SizedRun) -> Protection:
    phase = run.choice.section
    least = phase if phase <= 16 else 16.0 if phase <= 35 else phase / 2
    section = next(s for s in SECTIONS if s >= least)
    return Protection(
        key, place, "Protective conductor", f"{section:g} mm²", f"Phase conductors have {phase:g} mm².",
        "IEC 60364-5-54: as the phase to 16 mm², 16 mm² to 35 mm², half beyond", section, least, "mm²", True, "fine", run.pointer,
    )  # fmt: skip


def _bonding(key: str, place: str, is_bonded: bool, pointer: str) -> Protection:
    least = BONDING_WITH_LIGHTNING if is_bonded else BONDING
    words = (
        "Frames and racks are bonded to the lightning protection."
        if is_bonded
        else "Frames and racks, without lightning currents."
    )
    return Protection(key, place, "Bonding of the array", f"{least:g} mm² copper", words, "IEC 62548-1", least, least, "mm²", True, "fine", pointer)  # fmt: skip


def _of_connection(r: Results) -> Iterator[Protection]:
    plant, connection, cables = r.plant, r.design.connection, r.cables
    at, place = "/connection", "the connection"
    phases, is_single = cables.phases, cables.is_single_phase
    poles, voltage = (2, connection.phase_voltage) if is_single else (4, connection.voltage)
    main = cables.by_pointer.get("/connection/cable")
    if sum(cables.branches(i) for i in range(len(plant.sets))) > 1:
        size, asked = cables.main_breaker, cables.rules.continuous * cables.main_current
        yield Protection(
            "main-breaker", place, "Main breaker", f"{size} A, {poles} poles" if size else "none fits",
            f"{cables.main_current:.1f} A in the phase that carries most." if size else f"{asked:,.0f} A; {BREAKERS[-1]:,} A is the largest, and the cable's ampacity the limit.",
            "IEC 60364-4-43, 433.1: IB ≤ In ≤ Iz", float(size or 0), asked, "A", True, "fine" if size else "error", f"{at}/cable" if main else at, connection.stations,
            WantedDevice("AC breaker", float(size), voltage, poles) if size else None,
        )  # fmt: skip
    if main is not None:
        yield _earthing("earthing", place, main)
    yield from _of_stations(r)
    spd_type = _surge_type(connection)
    yield Protection(
        "ac-surge", place, "AC surge protection", f"type {spd_type}, {voltage:.0f} V", "At the board that the inverters feed.", "IEC 60364-5-53, 534; IEC 61643-12",
        voltage, voltage, "V", True, "fine", at, connection.stations, WantedDevice("surge protective device", 0, voltage, poles, spd_type),
    )  # fmt: skip
    if phases.single:
        imbalance = phases.imbalance / 1000
        loads = ", ".join(f"L{n + 1} {power / 1000:.1f}" for n, power in enumerate(phases.apparent))
        yield Protection(
            "imbalance", place, "Balance of phases", f"{imbalance:.1f} kVA between phases", f"{loads} kVA.", "Limit set in the design (common limit of low-voltage grids)",
            imbalance, connection.imbalance_limit, "kVA", False, "fine" if imbalance <= connection.imbalance_limit + 1e-9 else "caution", f"{at}/imbalance_limit",
        )  # fmt: skip
    yield from _voltage_rise(r, main)
    if connection.power_factor < 1:
        lost = r.cascade.lost("power_factor")
        side = "drawn" if connection.is_absorbing else "given"
        yield Protection(
            "power-factor", place, "Power factor", f"{connection.power_factor:g}, reactive power {side}", f"Costs {lost:,.0f} kWh a year where the apparent power is used up.",
            "Set in the design", connection.power_factor, connection.power_factor, "", True, "fine", f"{at}/power_factor",
        )  # fmt: skip
    if connection.export_limit is not None:
        lost = r.cascade.lost("export_limit")
        yield Protection(
            "export-limit", place, "Export limit", f"{connection.export_limit:g} kW", f"Costs {lost:,.0f} kWh a year.", "Set in the design", r.annual.peak_power,
            connection.export_limit, "kW", False, "fine", f"{at}/export_limit",
        )  # fmt: skip


def _of_stations(r: Results) -> Iterator[Protection]:
    """Transformers against what they carry, and the cable between them."""
    connection, transformer, count = r.design.connection, r.plant.transformer, r.design.connection.stations
    if transformer is None:
        return
    at, place = "/connection", "the connection"
    load, made = sum(r.cables.phases.apparent) / count / 1000, transformer.rated_power / 1000
    many = f"{count} × " if count > 1 else ""
    each = " in each station" if count > 1 else ""
    yield Protection(
        "transformer", place, "Transformer", f"{many}{made:,.0f} kVA", f"{load:,.0f} kVA{each} at the largest power of the inverters.", "IEC 60076-1, rated power",
        made, load, "kVA", True, "fine" if made >= load * (1 - 1e-9) else "caution", f"{at}/transformer", count,
    )  # fmt: skip
    low = transformer.low_voltage
    yield Protection(
        "transformer-voltage", place, "Voltage of the transformer", f"{low:,.0f} V", f"The inverters feed {connection.voltage:,.0f} V.", "IEC 60076-1, rated voltage",
        low, connection.voltage, "V", True, "fine" if abs(low / connection.voltage - 1) < OFF_VOLTAGE else "caution", f"{at}/voltage",
    )  # fmt: skip
    if (cable := r.cables.collector) is not None and connection.collector is not None:
        pieces = f"{count} × {connection.collector.length:g} m" if count > 1 else f"{connection.collector.length:g} m"
        yield Protection(
            "collector", place, "Medium-voltage cable", f"3 × {cable.section:g} mm² {cable.material}", f"{pieces} in the ground; {cable.current:,.0f} A before the grid at {transformer.high_voltage / 1000:g} kV, and it carries {cable.ampacity:,.0f} A.",
            "IEC 60502-2, annex B", cable.ampacity, cable.current, "A", True, "fine" if cable.serves else "error", f"{at}/collector/section",
        )  # fmt: skip


def _voltage_rise(r: Results, main: SizedRun | None) -> Iterator[Protection]:
    plant, connection = r.plant, r.design.connection
    runs = [run for run in r.cables.runs if run.kind == "AC"]
    in_cables = max((run.choice.drop for run in runs), default=0.0) + (main.choice.drop if main else 0.0)
    in_grid = 0.0
    if connection.resistance is not None:
        total = sum(
            one.count * unit.power_at(connection.power_factor) for one, unit in zip(plant.sets, plant.inverters, strict=True)
        )
        limit = inf if connection.export_limit is None else 1000 * connection.export_limit
        # Of the fullest phase, as far as the export limit lets it.
        power = max(r.cables.phases.apparent) * connection.power_factor * min(1.0, limit / total if total else 1.0)
        reactive = power * sqrt(1 / connection.power_factor**2 - 1) * (-1 if connection.is_absorbing else 1)
        in_one = voltage_rise(power, connection.resistance, connection.reactance, connection.phase_voltage, 3, reactive)
        in_grid = in_one * r.cables.phases.drop_conductors
    if not runs and main is None and connection.resistance is None:
        return
    rise = in_cables + in_grid
    parts = [f"{in_cables:.2f} % in AC cables" if runs or main else "AC cables are not set"]
    parts.append(f"{in_grid:.2f} % in the grid" if connection.resistance is not None else "the grid's impedance is not set")
    yield Protection(
        "voltage-rise", "the connection", "Voltage rise", f"{rise:.2f} % at full power", _sentence(", ".join(parts)),
        "IEC 60364-5-52, annex G; (P R + Q X) / U²", rise, connection.rise_limit, "%", False,
        "fine" if rise <= connection.rise_limit + 1e-9 else "caution", "/connection/rise_limit",
    )  # fmt: skip


def _sentence(text: str) -> str:
    return f"{text[0].upper()}{text[1:]}."
