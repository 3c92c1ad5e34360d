"""A place without a grid on one page: what stands where, the worksheet beside its proof, and what it costs."""

import numpy as np

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.bus_circuits import bus_circuits, direct_peak
from noontide.core.behind_meter.off_grid import Proof, WorksheetLine, place_of, proof, worksheet
from noontide.core.calendar import MONTHS
from noontide.core.costs.economics import cash_year_by_year, served_energy
from noontide.core.drawing import PAPERS, Sheet
from noontide.core.simulation.results import Results

MARGIN, LINE, SIZE = 12.0, 4.7, 2.6  # mm
TOP = MARGIN + 13  # of the diagram
DEEP = 34.0  # the diagram
YEAR = 26.0  # the picture of the charge


def off_grid_sheet(r: Results, title: str, footnote: str) -> Sheet:
    """The summary of a place without a grid, A4 landscape.

    Raises
    ------
    ValueError
        If the design has a grid, or no battery, or no demand.
    """
    lines, found = worksheet(r), proof(r)
    width, height = PAPERS["a4"]
    sheet = Sheet(width, height, f"{title}, without a grid")
    wide = width - 2 * MARGIN
    sheet.text(MARGIN, MARGIN + 4, title, 5.6, is_bold=True, most=wide * 0.6)
    sheet.text(MARGIN, MARGIN + 9, footnote, SIZE * 0.95, tone="soft", most=wide)
    _diagram(sheet, r, TOP, wide)
    top = TOP + DEEP + 6
    half = wide * 0.54
    foot = _worksheet(sheet, lines, MARGIN, top, half)
    right = MARGIN + half + 8
    at = _ledger(sheet, "By the hours of the year", _of_proof(r, found), right, top, wide - half - 8)
    if found.dark_hours > 0:
        at = _months(sheet, found, right, at + 2, wide - half - 8)
    at = _ledger(sheet, "Costs", _of_costs(r), right, at + 3, wide - half - 8)
    sheet.paragraph(right, at + 1, found.words, wide - half - 8, SIZE * 0.92, tone="soft")
    _verdicts(sheet, lines, MARGIN, foot + 2, half, height - MARGIN - YEAR - 8)
    _charge(sheet, r, MARGIN, height - MARGIN - YEAR - 3, wide)
    sheet.text(width - MARGIN, height - MARGIN + 3, f"Weather: {r.weather.title}", SIZE * 0.85, "end", tone="soft", most=wide)
    return sheet


def _diagram(sheet: Sheet, r: Results, top: float, wide: float) -> None:
    """Boxes from the array to the use, with what is between them."""
    setting, place = place_of(r)
    battery, bus = battery_year(r), r.after.bus
    assert battery is not None
    names = sorted({f"{unit.maker} {unit.name}" for unit in (r.plant.controllers or r.plant.inverters)})
    between = ", ".join(names)
    volts = battery.voltage or place.voltage
    amperes = f", {battery.charge:,.0f} Ah" if battery.charge is not None else ""
    unit = r.plant.bus_inverter
    inverter = f"{unit.maker} {unit.name}" if unit is not None else "inverter of the battery"
    boxes = [
        ("Array", f"{r.annual.dc_power:.3g} kW, {r.annual.modules} modules"),
        ("Charge controllers" if r.plant.is_on_bus else "Inverters", between),
        ("Battery", f"{battery.energy:.3g} kWh{amperes} at {volts:g} V"),
        ("Inverter", f"{inverter}, {battery.power:.3g} kW" if bus is not None else f"{battery.power:.3g} kW"),
        ("Use", f"{float(r.after.metered.demand.sum()):,.0f} kWh a year"),
    ]
    gap = 9.0
    each = (wide - gap * (len(boxes) - 1)) / len(boxes)
    y = top + 2
    for k, (name, words) in enumerate(boxes):
        x = MARGIN + k * (each + gap)
        sheet.box(x, y, each, 15, weight=0.35)
        sheet.text(x + 3, y + 5.6, name, 3.1, is_bold=True)
        sheet.text(x + 3, y + 11, words, SIZE * 0.95, tone="current", most=each - 6)
        if k:
            _arrow(sheet, x - gap, x, y + 7.5)
    low = y + 21
    if (peak := direct_peak(r)) and bus is not None:
        sheet.text(MARGIN + 2 * (each + gap) + 3, low, f"DC circuits, {peak * 1000:,.0f} W at once", SIZE * 0.95, most=each + gap)
    if place.generator is not None:
        one = place.generator
        words = f"Generator of {one.power:g} kW, from {one.start:g} to {one.stop:g} % of charge{f', quiet {one.quiet}' if one.quiet else ''}"
        sheet.text(MARGIN + 3 * (each + gap) + 3, low, words, SIZE * 0.95, most=2 * each + gap)
    wires = [
        f"{c.cable_title[0].lower()}{c.cable_title[1:]} 2 × {c.cable.section:g} mm², {c.fuse:g} A"
        for c in bus_circuits(r)
        if c.cable and c.fuse
    ]
    if wires:
        words = "; ".join(dict.fromkeys(wires))
        sheet.text(MARGIN, low + 5.4, f"{words[0].upper()}{words[1:]}.", SIZE * 0.92, tone="soft", most=wide)
    if setting.storage.reserve:
        sheet.text(MARGIN, low, f"{setting.storage.reserve:g} % kept back", SIZE * 0.92, tone="soft", most=each)


def _arrow(sheet: Sheet, x: float, end: float, y: float) -> None:
    sheet.line((x, y), (end - 1.8, y), weight=0.5)
    sheet.shape(((end, y), (end - 2.6, y - 1.3), (end - 2.6, y + 1.3)), is_filled=True)


def _worksheet(sheet: Sheet, lines: tuple[WorksheetLine, ...], x: float, y: float, wide: float) -> float:
    sheet.text(x, y, "By the worksheet", 3.2, is_bold=True)
    for words, at in (("proposed", 0.80), ("chosen", 1.0)):
        sheet.text(x + wide * at, y, words, SIZE * 0.9, "end", tone="soft")
    y += LINE
    for line in lines:
        sheet.text(x, y, line.title, SIZE, most=wide * 0.27)
        sheet.text(x + wide * 0.28, y, line.rule, SIZE * 0.85, tone="soft", most=wide * 0.40)
        sheet.text(x + wide * 0.80, y, f"{_number(line.value)} {line.unit}".strip(), SIZE, "end", is_bold=True)
        if line.chosen is not None:
            tone = "loss" if line.is_short else "yield"
            sheet.text(x + wide, y, f"{_number(line.chosen)} {line.unit}".strip(), SIZE, "end", tone=tone)  # type: ignore[arg-type]
        sheet.line((x, y + 1.3), (x + wide, y + 1.3), weight=0.08, tone="soft")
        y += LINE
    return y


def _verdicts(sheet: Sheet, lines: tuple[WorksheetLine, ...], x: float, y: float, wide: float, foot: float) -> None:
    """What is short, as far as there is room; the table marks all of it."""
    for line in lines:
        if line.is_short and line.verdict and y < foot:
            sheet.text(x, y, f"{line.title}: {line.verdict}", SIZE * 0.92, tone="loss", most=wide)
            y += LINE * 0.9


def _ledger(sheet: Sheet, title: str, rows: list[tuple[str, str]], x: float, y: float, wide: float) -> float:
    sheet.text(x, y, title, 3.2, is_bold=True)
    y += LINE
    for name, value in rows:
        sheet.text(x, y, name, SIZE, most=wide * 0.6)
        sheet.text(x + wide, y, value, SIZE, "end", is_bold=True)
        sheet.line((x, y + 1.3), (x + wide, y + 1.3), weight=0.08, tone="soft")
        y += LINE
    return y


def _of_proof(r: Results, found: Proof) -> list[tuple[str, str]]:
    rows = [
        ("Loss of load", f"{found.loss_of_load:.2%} of the energy"),
        ("Hours that stay dark", f"{found.dark_hours:,.0f} h, {found.longest_gap:,.0f} h at a stretch"),
        ("Energy served", f"{served_energy(r):,.0f} kWh"),
        ("Unused sun", f"{found.unused:,.0f} kWh"),
        ("State of charge, lowest and mean", f"{found.lowest:.0%}, {found.mean_charge:.0%}"),
    ]
    if found.generated > 0:
        rows += [
            ("Generator", f"{found.generated:,.0f} kWh in {found.generator_hours:,.0f} h, {found.generator_starts:,.0f} starts"),
            ("Fuel", f"{found.fuel:,.0f} l"),
        ]
    return rows


def _of_costs(r: Results) -> list[tuple[str, str]]:
    cash, battery, currency = cash_year_by_year(r), battery_year(r), r.design.money.currency
    assert battery is not None
    rows = [("Battery life", f"{battery.life:.1f} years")]
    if r.design.money.is_counted:
        cost = cash.levelised_cost
        rows = [
            ("Purchase", f"{cash.purchase.total:,.0f} {currency}"),
            ("Of a kWh served", f"{cost:.2f} {currency}" if cost is not None else "nothing is served"),
            *rows,
        ]
    if fuel := proof(r).fuel_cost:
        rows.append(("Fuel a year", f"{fuel:,.0f} {currency}"))
    return rows


def _months(sheet: Sheet, found: Proof, x: float, y: float, wide: float) -> float:
    """Dark hours of each month as columns, the highest with its figure."""
    most, deep = max(found.dark_by_month), 11.0
    each = wide / 12
    for k, hours in enumerate(found.dark_by_month):
        middle = x + (k + 0.5) * each
        if most > 0 and hours > 0:
            high = deep * hours / most
            sheet.box(middle - each * 0.3, y + deep - high, each * 0.6, high, is_filled=True)
            sheet.text(middle, y + deep - high - 0.8, f"{hours:,.0f}", SIZE * 0.75, "middle", tone="soft")
        sheet.text(middle, y + deep + 3.2, MONTHS[k][:3], SIZE * 0.8, "middle", tone="soft")
    sheet.line((x, y + deep), (x + wide, y + deep), weight=0.15)
    sheet.text(x, y + deep + 6.6, "Dark hours by month", SIZE * 0.85, tone="soft")
    return y + deep + 9.5


def _charge(sheet: Sheet, r: Results, x: float, y: float, wide: float) -> None:
    """The charge of every day of the year, from its lowest to its highest, and the days on which something is missing."""
    setting, _ = place_of(r)
    energy = float(np.asarray(setting.battery.energy))
    if not energy > 0:
        return
    days, high = r.calendar.days, YEAR - 7
    daily = (r.after.metered.stored / energy).reshape(days, -1)
    lowest, highest = daily.min(axis=1), daily.max(axis=1)
    dark = (r.after.metered.unmet > 1e-9).reshape(days, -1).sum(axis=1) > 0
    each, base = (wide - 10) / days, y + 4 + high
    left = x + 10

    def at(day: int, share: float) -> tuple[float, float]:
        return left + (day + 0.5) * each, base - share * high

    sheet.text(x, y + 1, "State of charge, lowest to highest of each day", SIZE, is_bold=True)
    if dark.any():
        sheet.text(x + wide, y + 1, f"{int(dark.sum())} days with dark hours, marked below", SIZE * 0.9, "end", tone="loss")
    for share in (0.0, 0.5, 1.0):
        sheet.text(left - 1.5, base - share * high + 0.8, f"{share:.0%}", SIZE * 0.8, "end", tone="soft")
        sheet.line((left, base - share * high), (x + wide, base - share * high), weight=0.08, tone="soft")
    for day in range(days):
        (middle, top), (_, foot) = at(day, float(highest[day])), at(day, float(lowest[day]))
        sheet.line((middle, top), (middle, max(foot, top + 0.2)), weight=max(each * 0.9, 0.1), tone="current")
        if dark[day]:
            sheet.line((middle, base + 0.6), (middle, base + 2.0), weight=max(each * 0.9, 0.1), tone="loss")
    starts = np.flatnonzero(np.diff(r.calendar.months.reshape(days, -1)[:, 0], prepend=-1)).tolist()
    for month, day in enumerate(starts):
        sheet.text(left + (day + 15) * each, base + 4.6, MONTHS[month % 12][:3], SIZE * 0.8, "middle", tone="soft")


def _number(value: float) -> str:
    if value in (float("inf"), float("-inf")):
        return "none"
    return f"{value:,.0f}" if abs(value) >= 1000 or float(value).is_integer() else f"{value:.3g}"
