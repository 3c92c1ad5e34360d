"""The one-line diagram of a design, drawn by the machine: identical inverters and trackers are folded into one row.

Symbols are those of IEC 60617: photovoltaic generator, fuse, switch-disconnector, surge protective device, converter, circuit-breaker,
residual-current device, transformer, meter.
"""

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.checks.protection import Protection
from noontide.core.drawing import PAPERS, Sheet
from noontide.core.drawing.sheet import SMALLEST, Tone, cut_to, fits
from noontide.core.drawings import symbols
from noontide.core.drawings.cable_schedule import blocks_of, schedule_of, write_blocks
from noontide.core.drawings.circuit_rows import (
    METALS,
    InverterRow,
    TrackerRow,
    cable_words,
    folded_rows,
    protection_by_key,
    rating_of,
)
from noontide.core.drawings.measures import HEAD, INVERTER_WIDTH, LETTER, MARGIN, SCHEDULE_LINE, TITLE_HEIGHT
from noontide.core.simulation.results import Results

ROW, LEAST_ROW, ROOMY = 19.0, 11.5, 30.0  # mm between trackers: usual, at least, and where there are few
CONDUCTORS = {1: "L + N + PE", 3: "3 L + N + PE"}


def one_line(r: Results, paper: str = "a4", title: str = "", footnote: str = "") -> list[Sheet]:
    """The diagram on as many sheets of paper as it takes.

    Parameters
    ----------
    paper : str
        a4 or a3, landscape.
    title, footnote : str
        For the title block.

    Raises
    ------
    KeyError
        If there is no such paper.
    """
    width, height = PAPERS[paper]
    items = protection_by_key(r)
    folded = folded_rows(r, items)
    room = height - 2 * MARGIN - TITLE_HEIGHT - HEAD
    largest = max(len(inverter.trackers) for inverter, _ in folded)
    pitch = max(min(ROW, room / largest), LEAST_ROW)
    capacity = max(int(room / pitch), largest)
    pages: list[list[tuple[InverterRow, int]]] = [[]]
    used = 0
    for inverter, count in folded:
        if used + len(inverter.trackers) > capacity:
            pages.append([])
            used = 0
        pages[-1].append((inverter, count))
        used += len(inverter.trackers)
    x = _places(width)
    notes = Notes()
    for inverter, count in folded:
        # Once without paper: what does not fit its place is numbered before anything is drawn.
        _words(Sheet(width, height), x, 0.0, inverter, count, notes)
    tail = [*schedule_of(r), *((f"({n})", text) for n, text in enumerate(notes.texts, 1))]
    sheets = []
    for number, rows in enumerate(pages, 1):
        sheet = Sheet(width, height)
        is_last = number == len(pages)
        lines = sum(len(inverter.trackers) for inverter, _ in rows)
        drawn = min(max(pitch, room / lines), ROOMY)
        blocks = blocks_of(tail, width) if is_last else []
        deep = sum(block.height for block in blocks) + SCHEDULE_LINE
        if drawn * lines + deep > room:
            drawn = min(drawn, max(pitch, (room - deep) / lines))
        fits_here = is_last and drawn * lines + deep <= room
        _rows(sheet, r, items, rows, drawn, room - (deep if fits_here else 0), number, len(pages), notes)
        sheets.append(sheet)
        foot = height - MARGIN - TITLE_HEIGHT
        if fits_here:
            write_blocks(sheet, blocks, foot - deep)
        elif is_last:
            top = MARGIN + HEAD
            sheets.append(Sheet(width, height))
            for block in blocks[1:]:
                if top + block.height > foot - 2 or top == MARGIN + HEAD:
                    if top > MARGIN + HEAD:
                        sheets.append(Sheet(width, height))
                    top = write_blocks(sheets[-1], blocks[:1], MARGIN + HEAD)
                top = write_blocks(sheets[-1], [block], top)
    for number, sheet in enumerate(sheets, 1):
        sheet.title = f"{title}, one-line diagram, sheet {number} of {len(sheets)}"
        _frame(sheet, r, title, footnote, number, len(sheets))
    return sheets


class Notes:
    """Texts that are too long for their place: there they stand shortened, with a number, and in full below the schedule of cables."""

    def __init__(self) -> None:
        self.texts: list[str] = []

    def write(
        self, sheet: Sheet, x: float, y: float, text: str, size: float, most: float, is_bold: bool = False, tone: Tone = "ink"
    ) -> None:
        if not fits(text, size, most, is_bold):
            if text not in self.texts:
                self.texts.append(text)
            size *= SMALLEST
            text = cut_to(text, size, most, is_bold, f"… ({self.texts.index(text) + 1})")
        sheet.text(x, y, text, size, is_bold=is_bold, tone=tone, most=most)


def _frame(sheet: Sheet, r: Results, title: str, footnote: str, number: int, of: int) -> None:
    sheet.box(MARGIN, MARGIN, sheet.width - 2 * MARGIN, sheet.height - 2 * MARGIN, weight=0.35)
    top = sheet.height - MARGIN - TITLE_HEIGHT
    sheet.line((MARGIN, top), (sheet.width - MARGIN, top), weight=0.35)
    right = sheet.width - MARGIN
    sheet.text(MARGIN + 4, top + 6.4, title, 4.0, is_bold=True, most=sheet.width * 0.42)
    sheet.text(MARGIN + 4, top + 11.8, footnote, 2.5, tone="soft", most=sheet.width * 0.42)
    middle = MARGIN + sheet.width * 0.47
    sheet.text(middle, top + 6.4, "One-line diagram", 3.2, is_bold=True)
    rules = r.cables.rules
    sheet.text(
        middle,
        top + 11.8,
        f"Symbols after IEC 60617; rules: {rules.title} ({rules.source})",
        2.3,
        tone="soft",
        most=sheet.width * 0.33,
    )
    sheet.text(right - 4, top + 6.4, f"Sheet {number} of {of}", 2.8, "end")
    power = r.annual.ac_power if r.after.bus is None else r.after.bus.power
    sheet.text(right - 4, top + 11.8, f"{r.annual.dc_power:,.2f} kW DC, {power:,.1f} kW AC", 2.5, "end", tone="soft")


def _places(width: float) -> dict[str, float]:
    """Where on a sheet the things stand."""
    return {key: MARGIN + share * (width - 2 * MARGIN) for key, share in COLUMNS.items()}


def _words(sheet: Sheet, x: dict[str, float], y: float, inverter: InverterRow, count: int, notes: Notes) -> None:
    for tracker in inverter.trackers:
        _tracker_words(sheet, x, y, tracker, inverter, notes)
    _inverter_words(sheet, x, y, inverter, count, notes)


def _rows(
    sheet: Sheet,
    r: Results,
    items: dict[str, Protection],
    rows: list[tuple[InverterRow, int]],
    pitch: float,
    room: float,
    number: int,
    of: int,
    notes: Notes,
) -> None:
    x = _places(sheet.width)
    # Few rows stand in the middle of the sheet.
    top = MARGIN + HEAD + max(0.0, room - pitch * sum(len(inverter.trackers) for inverter, _ in rows)) / 2
    heads = ("Controller", "Bus", "Battery and use") if r.plant.is_on_bus else ("Inverter", "AC", "Connection")
    for key, words in zip(("array", "dc", "inverter", "ac", "grid"), ("Array", "DC", *heads), strict=True):
        sheet.text(x[key], MARGIN + 7, words, 2.8, is_bold=True, tone="soft")
    bus_from = bus_to = 0.0
    line = 0
    for inverter, count in rows:
        heights = [top + (line + j + 0.5) * pitch for j in range(len(inverter.trackers))]
        middle = (heights[0] + heights[-1]) / 2
        half = max(7.0, (heights[-1] - heights[0]) / 2 + 4.0)
        for y, tracker in zip(heights, inverter.trackers, strict=True):
            _tracker(sheet, x, y, tracker, inverter, notes)
        _inverter(sheet, x, middle, half, inverter, count, notes)
        bus_from, bus_to = bus_from or middle, middle
        line += len(inverter.trackers)
    foot = sheet.height - MARGIN - TITLE_HEIGHT
    if r.plant.is_on_bus:
        _battery_bus(sheet, r, items, x, bus_from - 8, min(max(bus_to, bus_from + 38) + 8, foot - 2), number)
    else:
        _connection(sheet, r, items, x, bus_from - 8, min(bus_to + 8, foot - 2), number, of)


# Shares of the width at which things stand.
COLUMNS = {"array": 0.015, "dc": 0.22, "fuse": 0.225, "main": 0.265, "switch": 0.335, "surge": 0.385, "inverter": 0.43, "ac": 0.53, "breaker": 0.60, "residual": 0.64, "bus": 0.70, "grid": 0.715, "main breaker": 0.735, "transformer": 0.80, "meter": 0.885, "mains": 0.955}  # fmt: skip


def _tracker_words(sheet: Sheet, x: dict[str, float], y: float, tracker: TrackerRow, inverter: InverterRow, notes: Notes) -> None:
    left = x["array"]
    each = f"{tracker.trackers} × " if tracker.trackers > 1 else ""
    end_of_words = x["fuse"] if tracker.fuse else x["main"] if tracker.main_cable else x["switch"]
    room = end_of_words - left - 16
    words = [f"{each}{text}" for text in tracker.strings] if not inverter.is_micro else ["1 module each"]
    notes.write(sheet, left + 13, y - 2.2, words[0], LETTER, room, is_bold=True)
    if len(words) > 1:
        notes.write(sheet, left + 13, y + 3.6, f"and {', '.join(words[1:])}", LETTER * 0.9, room)
    detail = f"{tracker.power:g} kW{f', {tracker.string_cable}' if tracker.string_cable else ''}"
    notes.write(sheet, left + 13, y + (6.8 if len(words) > 1 else 3.6), detail, LETTER * 0.9, room, tone="current")


def _tracker(sheet: Sheet, x: dict[str, float], y: float, tracker: TrackerRow, inverter: InverterRow, notes: Notes) -> None:
    left, end = x["array"], x["inverter"]
    symbols.generator(sheet, left + 5, y)
    _tracker_words(sheet, x, y, tracker, inverter, notes)
    sheet.line((left + 10, y), (end, y))
    if tracker.fuse:
        symbols.fuse(sheet, x["fuse"], y)
        sheet.text(
            x["fuse"] + 3,
            y + 5,
            tracker.fuse.removeprefix("gPV ").split(",")[0],
            LETTER * 0.85,
            "middle",
            most=x["main"] - x["fuse"] - 1,
        )
    if tracker.main_cable:
        # The box where strings meet, around the fuses.
        sheet.box(x["fuse"] - 1.6, y - 3.4, x["main"] - x["fuse"] - 0.8, 6.8, weight=0.18)
        sheet.text(x["fuse"] - 1.6, y - 4.2, "combiner", LETTER * 0.8, tone="soft")
        most = x["switch"] - x["main"]
        notes.write(sheet, x["main"], y - 1.4, tracker.main_cable, LETTER * 0.85, most, tone="current")
    if not inverter.is_micro:
        symbols.switch(sheet, x["switch"], y, is_disconnector=True)
        sheet.text(
            x["switch"] + 4, y + 5, tracker.switch.split(",")[0], LETTER * 0.85, "middle", most=x["surge"] - x["switch"] - 1
        )


def _inverter_words(sheet: Sheet, x: dict[str, float], y: float, inverter: InverterRow, count: int, notes: Notes) -> None:
    left = x["inverter"] + INVERTER_WIDTH + 1.5
    most = x["breaker"] - left - 0.5
    many = f"{count} × " if count > 1 else ""
    notes.write(sheet, left, y - 2.2, f"{many}{inverter.title}", LETTER, most, is_bold=True)
    branch = f"{inverter.on_branch} on a branch, " if inverter.is_micro and inverter.on_branch > 1 else ""
    notes.write(sheet, left, y + 3.6, f"{branch}{inverter.rating}", LETTER * 0.9, most)
    if inverter.is_controller:
        return
    tone: Tone = "current" if inverter.cable else "soft"
    notes.write(sheet, left, y + 7.2, inverter.cable or "cable not set", LETTER * 0.9, most, tone=tone)


def _inverter(sheet: Sheet, x: dict[str, float], y: float, half: float, inverter: InverterRow, count: int, notes: Notes) -> None:
    left, width = x["inverter"], INVERTER_WIDTH
    symbols.converter(sheet, left, y, half, is_to_dc=inverter.is_controller)
    _inverter_words(sheet, x, y, inverter, count, notes)
    if inverter.surge:
        symbols.surge(sheet, x["surge"] + 2, y if half < 8 else y - half + 4)
        sheet.text(
            x["surge"] + 4.4, (y if half < 8 else y - half + 4) + 6.6, inverter.surge.split(",")[0], LETTER * 0.8, tone="soft"
        )
    sheet.line((left + width, y), (x["bus"], y))
    if inverter.is_controller:
        symbols.fuse(sheet, x["breaker"] + 1, y)
        sheet.text(x["breaker"] + 4, y + 5.4, inverter.breaker, LETTER * 0.85, "middle", most=x["bus"] - x["breaker"] - 4)
        symbols.slashes(sheet, x["bus"] - (8 if count > 1 else 5), y, 2)
        if count > 1:
            sheet.text(x["bus"] - 1.5, y - 2.2, f"{count} ×", LETTER * 0.85, "end", tone="soft")
        sheet.circle(x["bus"], y, 0.7, is_filled=True)
        return
    symbols.slashes(sheet, x["bus"] - (8 if count > 1 else 5), y, 5 if inverter.phases == 3 else 3)
    symbols.breaker(sheet, x["breaker"], y)
    sheet.text(
        x["breaker"] + 4,
        y + 5.4,
        inverter.breaker.split(",")[0],
        LETTER * 0.85,
        "middle",
        most=x["residual"] - x["breaker"] - 0.5,
    )
    symbols.residual(sheet, x["residual"] + 4, y)
    sheet.text(
        x["residual"] + 4,
        y + 7.4,
        inverter.residual.split(",")[0].removeprefix("type "),
        LETTER * 0.85,
        "middle",
        most=x["bus"] - x["residual"] - 6,
    )
    if count > 1:
        sheet.text(x["bus"] - 1.5, y - 2.2, f"{count} ×", LETTER * 0.85, "end", tone="soft")
    sheet.circle(x["bus"], y, 0.7, is_filled=True)


def _connection(
    sheet: Sheet, r: Results, items: dict[str, Protection], x: dict[str, float], top: float, foot: float, number: int, of: int
) -> None:
    bus, y = x["bus"], (top + foot) / 2
    sheet.line((bus, top), (bus, foot), weight=0.9)
    connection, transformer = r.design.connection, r.plant.transformer
    phases, neutral = 1 if r.cables.is_single_phase else 3, connection.phase_voltage
    voltage = f"{neutral:.0f} V" if phases == 1 else f"{neutral:.0f}/{connection.voltage:.0f} V"
    more = "" if number > 1 or of == 1 else f"; continued on sheets 2 to {of}" if of > 2 else "; continued on sheet 2"
    sheet.text(bus + 2, top - 1.2, f"{CONDUCTORS[phases]}, {voltage}{more}", LETTER * 0.85, tone="soft")
    if number > 1:
        sheet.line((bus, y), (bus + 12, y))
        sheet.text(bus + 13, y + 1, "to the board on sheet 1", LETTER, tone="soft")
        return
    sheet.line((bus, y), (x["mains"], y))
    if (surge := items.get("ac-surge")) is not None:
        low = foot - 5
        sheet.line((bus, low), (bus + 6, low))
        symbols.surge(sheet, bus + 6, low)
        sheet.text(bus + 8.6, low + 6.4, surge.chosen.split(",")[0], LETTER * 0.8, tone="soft")
    if (main := items.get("main-breaker")) is not None:
        symbols.breaker(sheet, x["main breaker"], y)
        sheet.text(x["main breaker"] + 4, y + 5.4, main.chosen.split(",")[0], LETTER * 0.85, "middle")
    if (run := r.cables.by_pointer.get("/connection/cable")) is not None:
        next_mark = x["transformer"] if transformer is not None else x["meter"] - 6
        middle = (x["main breaker"] + 9 + next_mark) / 2
        sheet.text(
            middle, y - 2, cable_words(run), LETTER * 0.85, "middle", tone="current", most=next_mark - x["main breaker"] - 10
        )
    if transformer is not None:
        transformer(sheet, x["transformer"] + 5, y)
        many = f"{connection.stations} × " if connection.stations > 1 else ""
        sheet.text(x["transformer"] + 5, y + 9, f"{many}{transformer.rated_power / 1000:g} kVA", LETTER * 0.85, "middle")
        high = transformer.high_voltage
        sheet.text(x["transformer"] + 5, y + 12.4, f"{connection.voltage:g} V / {high / 1000:g} kV" if high >= 1000 else f"{connection.voltage:g} / {high:g} V", LETTER * 0.8, "middle", tone="soft")  # fmt: skip
    if connection.stations > 1:
        # What stands between the bus and the medium voltage is there in every station; each takes the same share of the inverters.
        sheet.text(bus + 2, top - 4.8, f"in each of {connection.stations} stations", LETTER * 0.85, is_bold=True)
    if (collector := r.cables.collector) is not None and connection.collector is not None:
        length = connection.collector.length
        pieces = f"{connection.stations} × {length:g} m" if connection.stations > 1 else f"{length:g} m"
        right = x["meter"] + 5
        sheet.text(
            right, y - 10.4, f"3 × {collector.section:g} mm² {METALS[collector.material]}", LETTER * 0.85, "end", tone="current"
        )
        sheet.text(right, y - 7, pieces, LETTER * 0.85, "end", tone="current")
    sheet.box(x["meter"] - 5, y - 5, 10, 10)
    sheet.line((x["meter"] - 5, y - 2.2), (x["meter"] + 5, y - 2.2))
    sheet.text(x["meter"], y + 2.4, "kWh", 3.0, "middle")
    sheet.circle(x["mains"] + 4, y, 4)
    symbols.wave(sheet, x["mains"] + 2, y, 4.0)
    sheet.text(x["mains"] + 4, y + 8, "Grid", LETTER, "middle", is_bold=True)
    if connection.export_limit is not None:
        sheet.text(x["mains"] + 8, y - 7.4, f"export to {connection.export_limit:g} kW", LETTER * 0.85, "end", tone="loss")


def _battery_bus(
    sheet: Sheet, r: Results, items: dict[str, Protection], x: dict[str, float], top: float, foot: float, number: int
) -> None:
    """The bus with its battery below and its inverter beside it, and what that feeds."""
    place, bus, battery = r.design.storage.off_grid, r.after.bus, battery_year(r)
    assert place is not None and bus is not None and battery is not None
    left = x["bus"]
    sheet.line((left, top), (left, foot), weight=0.9)
    sheet.text(left + 2, top - 1.2, f"+ and −, {place.voltage:g} V", LETTER * 0.85, tone="soft")
    if number > 1:
        y = (top + foot) / 2
        sheet.line((left, y), (left + 12, y))
        sheet.text(left + 13, y + 1, "to the battery on sheet 1", LETTER, tone="soft")
        return
    y, low = top + 8, foot - 10
    unit = r.plant.bus_inverter
    inverter = x["main breaker"] + 12
    sheet.line((left, y), (x["mains"], y))
    symbols.converter(sheet, inverter, y, 7.0)
    title = f"{unit.maker} {unit.name}" if unit is not None else "Inverter"
    sheet.text(inverter, y + 11, title, LETTER * 0.9, is_bold=True, most=x["mains"] - inverter)
    sheet.text(inverter, y + 14.6, f"{bus.power:.3g} kW", LETTER * 0.85)
    symbols.breaker(sheet, x["meter"], y)
    sheet.text(x["meter"] + 4, y + 5.4, rating_of(items, "ac-breaker").split(",")[0], LETTER * 0.85, "middle")
    symbols.residual(sheet, x["meter"] + 12, y)
    sheet.text(x["meter"] + 12, y - 4.6, rating_of(items, "residual-current").removeprefix("type "), LETTER * 0.8, "middle")
    sheet.text(x["mains"] + 1, y + 1, "Use", LETTER, is_bold=True)
    if "bus-fuse:direct" in items:
        branch = y + 0.62 * (low - y)
        sheet.line((left, branch), (x["mains"], branch))
        symbols.fuse(sheet, left + 6, branch)
        sheet.text(left + 9, branch + 5.2, rating_of(items, "bus-fuse:direct"), LETTER * 0.85, "middle")
        sheet.text(x["mains"] - 2, branch + 3.4, rating_of(items, "bus-cable:direct"), LETTER * 0.85, "end", tone="current")
        sheet.text(x["mains"] + 1, branch + 1, "DC use", LETTER, is_bold=True)
    end = x["meter"] - 6
    sheet.line((left, low), (end, low))
    symbols.fuse(sheet, left + 6, low)
    sheet.text(left + 9, low + 5.2, rating_of(items, "bus-fuse:battery"), LETTER * 0.85, "middle")
    symbols.switch(sheet, left + 18, low, is_disconnector=True)
    sheet.text(left + 22, low + 5.2, rating_of(items, "battery-switch").split(",")[0], LETTER * 0.85, "middle")
    sheet.text(
        end - 2, low - 1.6, rating_of(items, "bus-cable:battery").removesuffix(" copper"), LETTER * 0.85, "end", tone="current"
    )
    for k in range(2):
        at = end + 3.2 * k
        sheet.line((at, low - 4), (at, low + 4))
        sheet.line((at + 1.6, low - 2), (at + 1.6, low + 2), weight=0.5)
    sheet.text(end, low + 8, "Battery", LETTER * 0.9, is_bold=True)
    amperes = f", {battery.charge:,.0f} Ah" if battery.charge is not None else ""
    sheet.text(end, low + 11.6, f"{battery.energy:.3g} kWh{amperes}", LETTER * 0.85)
    place_of_earth = left + 34
    sheet.line((place_of_earth, low), (place_of_earth, low + 3))
    symbols.earth(sheet, place_of_earth, low + 3)
    generator = place.generator
    if generator is not None:
        words = f"generator of {generator.power:g} kW at its AC input"
        sheet.text(inverter, y + 18.2, words, LETTER * 0.85, tone="soft", most=x["mains"] + 6 - inverter)
