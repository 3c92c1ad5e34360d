"""A place without a grid: the trade's worksheet, and the hourly proof of the same system."""

from dataclasses import dataclass
from math import ceil

import numpy as np
from numpy.typing import NDArray

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.bus_circuits import DC_FACTOR, direct_peak
from noontide.core.calendar import MONTHS
from noontide.core.demand.totals import appliance_totals
from noontide.core.once import once_for_each
from noontide.core.simulation.results import Results
from noontide.core.simulation.storage_year import StorageSetting
from noontide.core.storage import loss_of_load
from noontide.core.storage.document import OffGrid

Floats = NDArray[np.float64]
FUSE_FACTOR = 1.56
CHARGING = 1.2  # voltage of a battery that is charged, over its nominal one


@dataclass(frozen=True)
class WorksheetLine:
    """A step of the worksheet: what is proposed by which rule, and what the design has."""

    key: str
    title: str
    value: float
    unit: str
    rule: str  # with its numbers
    chosen: float | None = None
    verdict: str = ""  # of what is chosen against what is proposed
    is_short: bool = False


@dataclass(frozen=True)
class Proof:
    """The same system, hour by hour."""

    loss_of_load: float  # share of the energy asked for
    dark_hours: float
    longest_gap: float  # [h]
    unmet: float  # [kWh]
    unused: float  # of the sun [kWh]
    dark_by_month: tuple[float, ...]  # hours
    lowest: float  # charge, share
    mean_charge: float
    generator_hours: float
    generator_starts: float
    generated: float  # [kWh]
    fuel: float  # [l]
    fuel_cost: float
    words: str  # why worksheet and proof differ


def place_of(r: Results) -> tuple[StorageSetting, OffGrid]:
    """The battery and the place of a design without a grid.

    Raises
    ------
    ValueError
        If it has a grid, or no battery, or no demand.
    """
    setting = r.after.storage
    if setting is None or setting.storage.off_grid is None:
        raise ValueError("The design has a grid, or no battery. Add a battery and say that there is no grid.")
    if not r.after.has_demand:
        raise ValueError("The design has no demand. Say who uses the energy.")
    return setting, setting.storage.off_grid


@once_for_each
def worksheet(r: Results) -> tuple[WorksheetLine, ...]:
    """The system by the trade's formulas, from the month in which the sun gives least for what is asked.

    Raises
    ------
    ValueError
        As `place_of`.
    """
    setting, place = place_of(r)
    battery, metered = battery_year(r), r.after.metered
    assert battery is not None
    lengths = r.calendar.monthly_sums(np.ones(r.calendar.intervals)) * r.calendar.hours_per_interval / 24
    asked = r.calendar.monthly_sums(metered.demand) / lengths
    sun = _plane_months(r) / lengths
    worst = int(np.argmax(np.divide(asked, sun, out=np.full(12, np.inf), where=sun > 0)))
    energy, hours = float(asked[worst]), float(sun[worst])
    performance, depth = place.performance / 100, place.depth / 100
    array = energy / (hours * performance) if hours > 0 else np.inf
    module = r.plant.modules[0]
    wanted = energy * place.autonomy / depth
    peak, surge = _peak_of(r)
    inverter = peak * (1 + place.inverter_margin / 100)
    have = float(r.annual.dc_power)
    current = array * 1000 / place.voltage * DC_FACTOR
    month = MONTHS[worst]
    usable = wanted * depth
    return (
        WorksheetLine("energy", "Energy a day", energy, "kWh", f"mean of {month}, the margin of the demand in it"),
        WorksheetLine("sun", f"Sun hours of {month}", hours, "h", "plane irradiation a day in the worst month, in kWh/m²"),
        WorksheetLine(
            "array", "Array", array, "kW", f"{energy:.3g} / ({hours:.3g} × {performance:g})", have, _verdict(have, array, "of the array"), have < array * 0.999
        ),
        WorksheetLine("modules", "Modules", ceil(array * 1000 / module.power) if np.isfinite(array) else np.inf, "", f"{array * 1000:,.0f} W / {module.power:g} W, rounded up",
                      float(r.annual.modules)),
        *_strings(r, place, array),
        WorksheetLine(
            "battery", "Battery", wanted, "kWh", f"{energy:.3g} × {place.autonomy:g} days / {depth:g}", battery.energy / depth if depth else None,
            _days(battery.energy, energy, place.autonomy), battery.energy < usable * 0.999,
        ),
        WorksheetLine("charge", "", wanted * 1000 / place.voltage, "Ah", f"at {place.voltage:g} V"),
        *_units(setting, place, usable),
        WorksheetLine(
            "inverter", "Inverter", inverter, "kW", f"{peak:.3g} × {1 + place.inverter_margin / 100:g}; surge {surge:.3g} kW", battery.power,
            _verdict(battery.power, inverter, "of the inverter"), battery.power < inverter * 0.999,
        ),
        _controller(r, current, f"{array:.3g} kW / {place.voltage:g} V × {DC_FACTOR}"),
        WorksheetLine("fuse", "DC fuse at least", current / DC_FACTOR * FUSE_FACTOR, "A", f"current of the array × {FUSE_FACTOR}"),
        *_currents(r, place, inverter),
        *_direct(r, place),
    )  # fmt: skip


def _strings(r: Results, place: OffGrid, array: float) -> list[WorksheetLine]:
    """Modules in series for the voltage of the system, strings beside one another, and the voltage that the controller must bear."""
    limits, module = r.string_limits[0], r.plant.modules[0]
    asked = CHARGING * place.voltage
    series = ceil(asked / limits.hot_vmp - 1e-9)
    lengths = {one.modules_per_string for one in r.plant.subarrays}
    longest = max(lengths)
    parallel = ceil(array * 1000 / module.power / series - 1e-9) if np.isfinite(array) else np.inf
    have = min(lengths)
    words = f"{have * limits.hot_vmp:.3g} V when hot, under the {asked:.3g} V that charging takes." if have < series else ""
    cold = limits.lowest
    return [
        WorksheetLine(
            "series", "Modules in series", series, "", f"Vmp when hot {limits.hot_vmp:.3g} V; charging takes {CHARGING:g} × {place.voltage:g} V", float(have), words,
            have < series,
        ),
        WorksheetLine("parallel", "Strings in parallel", parallel, "", f"{array * 1000:,.0f} W / ({series} × {module.power:g} W), rounded up",
                      float(sum(one.strings * int(n) for one, n in zip(r.plant.subarrays, r.plant.counts[r.plant.inverter_of], strict=True)))),
        _controller_voltage(r, longest * max(one.cold_voc for one in r.string_limits), f"Voc of {longest} modules at {cold:g} °C".replace("-", "\u2212")),
    ]  # fmt: skip


def _controller(r: Results, current: float, rule: str) -> WorksheetLine:
    """The current to the battery, against that of the controllers where there are any."""
    if not r.plant.is_on_bus:
        return WorksheetLine("controller", "Controller", current, "A", rule)
    have = float(sum(one.current * n for one, n in zip(r.plant.controllers, r.plant.counts, strict=True)))
    words = _verdict(have, current, "of the controllers", "A")
    return WorksheetLine("controller", "Controllers", current, "A", rule, have, words, have < current * 0.999)


def _controller_voltage(r: Results, voltage: float, rule: str) -> WorksheetLine:
    title = "Controller voltage at least"
    if not r.plant.is_on_bus:
        return WorksheetLine("controller_voltage", title, voltage, "V", rule)
    have = min(one.maximum_voltage for one in r.plant.controllers)
    short = have < voltage
    return WorksheetLine(
        "controller_voltage", title, voltage, "V", rule, have, f"{voltage - have:.0f} V too little." if short else "", short
    )


def _units(setting: StorageSetting, place: OffGrid, usable: float) -> list[WorksheetLine]:
    """Batteries in series and parallel, where the battery is one of the library."""
    bank, sheet = setting.storage.bank, setting.datasheet
    if bank is None or sheet is None:
        return []
    series = max(round(place.voltage / sheet.voltage), 1)
    parallel = ceil(usable * 1000 / (sheet.capacity * series) - 1e-9)
    volts = bank.series * sheet.voltage
    unlike = "" if bank.series == series else f"{volts:g} V, and the system has {place.voltage:g} V."
    few = (
        "" if bank.parallel * bank.series >= parallel * series else f"{parallel * series - bank.parallel * bank.series} too few."
    )
    return [
        WorksheetLine("units_series", "Batteries in series", series, "", f"{place.voltage:g} V / {sheet.voltage:g} V", float(bank.series), unlike, bool(unlike)),
        WorksheetLine("units_parallel", "Batteries in parallel", parallel, "", f"{usable:.3g} kWh / ({series} × {sheet.capacity / 1000:.3g} kWh), rounded up", float(bank.parallel), few, bool(few)),
    ]  # fmt: skip


def _currents(r: Results, place: OffGrid, inverter: float) -> list[WorksheetLine]:
    """Between battery and inverter, and behind it on one phase."""
    connection = r.design.connection
    volts, factor = connection.phase_voltage, connection.power_factor
    direct = inverter * 1000 / place.voltage * DC_FACTOR
    return [
        WorksheetLine("battery_fuse", "Battery fuse at least", direct, "A", f"{inverter:.3g} kW / {place.voltage:g} V × {DC_FACTOR}"),
        WorksheetLine("ac_current", "AC current", inverter * 1000 / (volts * factor), "A", f"{inverter:.3g} kW / ({volts:.3g} V × {factor:g}), one phase"),
    ]  # fmt: skip


def _direct(r: Results, place: OffGrid) -> list[WorksheetLine]:
    """Current of what hangs on the bus itself."""
    if not r.plant.is_on_bus or not (peak := direct_peak(r)):
        return []
    rule = f"{peak * 1000:,.0f} W at once / {place.voltage:g} V × {DC_FACTOR}"
    return [
        WorksheetLine("direct_current", "Fuse of the DC circuits at least", peak * 1000 / place.voltage * DC_FACTOR, "A", rule)
    ]


@once_for_each
def proof(r: Results) -> Proof:
    """What the same system does in every interval of the year.

    Raises
    ------
    ValueError
        As `place_of`.
    """
    setting, place = place_of(r)
    m, hours = r.after.metered, r.calendar.hours_per_interval
    unmet = m.unmet / hours
    # Behind a bus its inverter's loss is the plant's own use, and nothing that anybody asks for.
    asked = m.demand if r.after.bus is not None else m.demand + m.own_use
    lost = loss_of_load(unmet, asked / hours, hours)
    dark = r.calendar.monthly_sums((unmet > 1e-9).astype(float)) * hours
    energy = float(np.asarray(setting.battery.energy))
    one, made = place.generator, m.generated
    runs = made > 1e-9
    time = float(runs.sum()) * hours
    fuel = 0.0 if one is None else one.fuel * float(made.sum()) + one.idle * one.power * time
    return Proof(
        loss_of_load=float(lost.energy),
        dark_hours=float(lost.hours) * r.calendar.intervals * hours,
        longest_gap=float(lost.longest),
        unmet=float(m.unmet.sum()),
        unused=float(m.unused.sum()),
        dark_by_month=tuple(float(value) for value in dark),
        lowest=float(m.stored.min()) / energy if energy > 0 else 0.0,
        mean_charge=float(m.stored.mean()) / energy if energy > 0 else 0.0,
        generator_hours=time,
        generator_starts=float((np.diff(runs.astype(int), prepend=0) > 0).sum()),
        generated=float(made.sum()),
        fuel=fuel,
        fuel_cost=0.0 if one is None else fuel * one.fuel_price,
        words=_why(r, dark),
    )


def _plane_months(r: Results) -> Floats:
    """Plane irradiation of each month, planes weighed by their rated power, (12,) [kWh/m2]."""
    weights = r.plant.module_counts * r.plant.module_powers
    months = [r.sky.monthly_sums(r.planes[k].poa) * r.sky.hours_per_interval / 1000 for k in range(len(r.plant.subarrays))]
    return np.average(months, axis=0, weights=weights)


def _peak_of(r: Results) -> tuple[float, float]:
    """Coincident peak and surge of what the inverter carries [kW]: of lists of appliances by their hours, of all else the highest mean of an interval. Off a bus, direct current does not pass it."""
    used = r.after.demand
    assert used is not None
    peak = surge = 0.0
    for key, source in r.design.demand.sources.items():
        if not source.is_on:
            continue
        if source.appliances is not None:
            some = source.appliances.of_current("AC") if r.plant.is_on_bus else source.appliances
            one = appliance_totals(some)
            peak, surge = peak + one.peak / 1000 * source.factor, surge + one.surge / 1000 * source.factor
        elif key in used.by_source:
            highest = float(used.by_source[key].max())
            peak, surge = peak + highest, surge + highest
    return peak, surge


def _verdict(have: float, asked: float, of: str, unit: str = "kW") -> str:
    if not np.isfinite(asked) or asked <= 0:
        return f"No size {of} is enough: the month has no sun." if asked > 0 else ""
    share = have / asked - 1
    if share < -0.001:
        return f"{-share:.0%} too small; {asked:.3g} {unit} would do."
    return f"{share:.0%} over what is asked."


def _days(usable: float, energy: float, wanted: float) -> str:
    if energy <= 0:
        return ""
    days = usable / energy
    return f"{days:.1f} days instead of {wanted:g}." if days < wanted * 0.999 else f"{days:.1f} days."


def _why(r: Results, dark: Floats) -> str:
    """What the worksheet does not know, where hours stay dark."""
    if dark.sum() <= 0:
        return "No hour of the year stays dark."
    worst = int(dark.argmax())
    m = r.after.metered
    daily = m.produced.reshape(r.calendar.days, -1).sum(axis=1)
    months = r.calendar.months.reshape(r.calendar.days, -1)[:, 0]
    own = daily[months == worst]
    dull = int((own < 0.5 * own.mean()).sum()) if own.mean() > 0 else own.size
    return f"{MONTHS[worst]} has {dark[worst]:,.0f} of the {dark.sum():,.0f} dark hours: {dull} of its days have less than half of its mean sun, and the worksheet knows the mean alone."
