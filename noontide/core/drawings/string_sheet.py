"""One page on the strings of a design: every figure against its limit, to be kept with it."""

from collections import defaultdict

from noontide.core.checks import find_checks
from noontide.core.checks.finding import signed
from noontide.core.checks.strings import lowest_temperature
from noontide.core.drawing import Sheet
from noontide.core.drawing.typeface import lines_of
from noontide.core.simulation.circuit_lines import is_over
from noontide.core.simulation.results import Results

WIDTH, HEIGHT, MARGIN = 210.0, 297.0, 16.0  # mm, A4 upright
LINE, SIZE = 4.9, 2.7  # mm
BLOCK = 13 * LINE
Figure = tuple[str, str, str, bool]  # what, actual, limit, whether it holds


def string_sheet(r: Results, title: str, footnote: str) -> list[Sheet]:
    """The strings on as many pages as they take; sub-arrays that are wired identically stand together."""
    alike: dict[tuple, list[int]] = defaultdict(list)
    for k in range(len(r.plant.subarrays)):
        alike[tuple(_figures(r, k)), _head(r, k)].append(k)
    sheets = [_page(r, title, footnote)]
    y = MARGIN + 34
    for (figures, head), members in alike.items():
        if y + BLOCK > HEIGHT - MARGIN - 12:
            sheets.append(_page(r, title, footnote))
            y = MARGIN + 34
        y = _block(sheets[-1], y, head, [r.plant.subarray_ids[k] for k in members], figures)
    _findings(r, sheets, y, title, footnote)
    for number, sheet in enumerate(sheets, 1):
        sheet.text(WIDTH - MARGIN, HEIGHT - MARGIN, f"Page {number} of {len(sheets)}", 2.5, "end", tone="soft")
    return sheets


def _page(r: Results, title: str, footnote: str) -> Sheet:
    sheet = Sheet(WIDTH, HEIGHT, f"{title}, strings")
    sheet.text(MARGIN, MARGIN + 4, title, 6.0, is_bold=True, most=WIDTH - 2 * MARGIN)
    sheet.text(MARGIN, MARGIN + 10, f"Strings and their limits. {footnote}", SIZE, tone="soft", most=WIDTH - 2 * MARGIN)
    annual, (lowest, origin) = r.annual, lowest_temperature(r)
    sheet.text(
        MARGIN, MARGIN + 17,
        f"{annual.modules} modules, {annual.dc_power:,.2f} kW DC on {annual.ac_power:,.1f} kW AC, ratio {annual.dc_ac_ratio:.2f}; "
        f"{annual.energy:,.0f} kWh a year, clipping {annual.clipped_share:.1%} of the DC energy.", SIZE, most=WIDTH - 2 * MARGIN,
    )  # fmt: skip
    rules = r.cables.rules
    sheet.text(
        MARGIN, MARGIN + 22, f"Coldest {signed(lowest)} °C ({origin}); rules: {rules.title} ({rules.source}); weather: {r.weather.title}.",
        SIZE, most=WIDTH - 2 * MARGIN,
    )  # fmt: skip
    sheet.line((MARGIN, MARGIN + 26), (WIDTH - MARGIN, MARGIN + 26), weight=0.35)
    return sheet


def _head(r: Results, k: int) -> tuple[str, str]:
    unit = r.plant.inverters[int(r.plant.inverter_of[k])]
    return r.plant.strings_in_words(k), f"on a tracker of {unit.maker} {unit.name}"


def _figures(r: Results, k: int) -> list[Figure]:
    plant, volts = r.plant, r.string_limits[k]
    subarray, module, i = plant.subarrays[k], plant.modules[k], int(plant.inverter_of[k])
    unit, n = plant.inverters[i], subarray.modules_per_string
    allowed, rules = unit.tracker_input(subarray.tracker), r.cables.rules
    short, working = r.cables.short_circuit_current(plant.beside(k)), plant.working_current(plant.beside(k))
    cold, hot = signed(volts.lowest), f"{volts.highest_cell:.0f}"
    power = plant.dc_power_of(i)
    fuses = r.cables.fuses[i, subarray.tracker]
    sizes = ", ".join(f"{size:g}" for size in fuses.sizes)
    point = r.subarray(k).point
    outside = float(point.outside.sum()) * r.sky.hours_per_interval
    return [
        (f"Voc at {cold} °C", f"{n * volts.cold_voc:,.0f} V", f"at most {volts.maximum_voltage:,.0f} V ({volts.maximum_of})", n <= volts.most),
        (f"Vmp at {hot} °C cell temperature", f"{n * volts.hot_vmp:,.0f} V", f"at least {unit.mppt_minimum:,.0f} V; full power from {unit.full_power_minimum:,.0f} V", n >= volts.window_fewest),
        (f"Voc at {hot} °C cell temperature", f"{n * volts.hot_voc:,.0f} V", f"at least {unit.start_voltage:,.0f} V, where the inverter starts", n >= volts.start_fewest),
        (f"Vmp at {cold} °C", f"{n * volts.cold_vmp:,.0f} V", f"at most {unit.mppt_maximum:,.0f} V", n <= volts.window_most),
        ("Modules in a string", str(n), f"{volts.fewest} to {volts.most}", volts.fewest <= n <= volts.most),
        (f"{rules.array_current:g} × Isc on the tracker", f"{short:.1f} A", f"at most {allowed.short_circuit:.1f} A", not is_over(short, allowed.short_circuit)),
        ("Imp on the tracker", f"{working:.1f} A", f"at most {allowed.current:.1f} A", not is_over(working, allowed.current)),
        ("DC power on the inverter", f"{power / 1000:,.2f} kW", f"at most {unit.maximum_dc_power / 1000:,.2f} kW", not is_over(power, unit.maximum_dc_power)),
        ("DC/AC ratio of the inverter", f"{power / unit.ac_power:.2f}", "", True),
        ("String fuses", f"{sizes} A" if fuses.is_needed else "not needed", f"{fuses.lowest:.1f} to {fuses.highest:.1f} A" if fuses.is_needed else "", not fuses.is_needed or bool(fuses.sizes)),
        ("Hours of the year outside the window", f"{outside:,.0f} h", "", True),
        ("Maximum DC power of a module", f"{module.power:g} W", "", True),
    ]  # fmt: skip


def _block(sheet: Sheet, y: float, head: tuple[str, str], names: list[str], figures: tuple[Figure, ...]) -> float:
    shown = ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")
    sheet.text(MARGIN, y, f"{head[0]} {head[1]}", 3.3, is_bold=True, most=WIDTH - 2 * MARGIN)
    sheet.text(MARGIN, y + LINE, shown, SIZE * 0.9, tone="soft", most=WIDTH - 2 * MARGIN)
    y += 2 * LINE
    for what, actual, limit, holds in figures:
        sheet.text(MARGIN, y, what, SIZE)
        sheet.text(MARGIN + 82, y, actual, SIZE, "end", is_bold=True, tone="ink" if holds else "loss")
        sheet.text(MARGIN + 87, y, limit, SIZE, tone="soft", most=WIDTH - 2 * MARGIN - 100)
        sheet.text(
            WIDTH - MARGIN,
            y,
            ("holds" if holds else "does not hold") if limit else "",
            SIZE,
            "end",
            tone="yield" if holds else "loss",
        )
        sheet.line((MARGIN, y + 1.3), (WIDTH - MARGIN, y + 1.3), weight=0.08, tone="soft")
        y += LINE
    return y + LINE


def _findings(r: Results, sheets: list[Sheet], y: float, title: str, footnote: str) -> None:
    """Open checks of the circuits and accepted ones with their reasons, below the last block and on as many further pages as they take."""
    wide = WIDTH - 2 * MARGIN
    for check in find_checks(r):
        if check.bench != "circuits":
            continue
        words = f"{check.detail} Accepted: {check.accepted}" if check.accepted else check.detail
        deep = 1.5 * SIZE * (len(lines_of(check.title, SIZE, wide, is_bold=True)) + len(lines_of(words, SIZE * 0.9, wide)))
        if y + deep > HEIGHT - MARGIN - 8:
            sheets.append(_page(r, title, footnote))
            y = MARGIN + 34
        y = sheets[-1].paragraph(MARGIN, y, check.title, wide, SIZE, is_bold=True, tone="soft" if check.accepted else "loss")
        y = sheets[-1].paragraph(MARGIN, y, words, wide, SIZE * 0.9, tone="soft") + LINE * 0.6
