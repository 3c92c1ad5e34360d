"""The one-line diagram of a design, drawn by the machine: identical inverters and trackers are folded into one row.

Symbols are those of IEC 60617: photovoltaic generator, fuse, switch-disconnector, surge protective device, converter, circuit-breaker,
residual-current device, transformer, meter.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, pi, sin

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.bus_circuits import bus_circuits
from noontide.core.checks.protection import Protection, protection_of
from noontide.core.drawing import PAPERS, Mark, Polyline, Sheet
from noontide.core.drawing.sheet import SMALLEST, Tone, cut_to, fits
from noontide.core.drawing.typeface import lines_of
from noontide.core.simulation.cables_in_use import SizedRun
from noontide.core.simulation.results import Results

MARGIN, TITLE_HEIGHT, HEAD = 7.0, 16.0, 14.0  # mm
ROW, LEAST_ROW, ROOMY = 19.0, 11.5, 30.0  # mm between trackers: usual, at least, and where there are few
LETTER = 2.9  # mm
SCHEDULE_LINE = 4.6  # mm
INVERTER_WIDTH = 14.0  # mm
SHORT = {"copper": "Cu", "aluminium": "Al"}
CONDUCTORS = {1: "L + N + PE", 3: "3 L + N + PE"}


@dataclass(frozen=True)
class TrackerRow:
    """Identical trackers of one inverter."""

    trackers: int
    strings: tuple[str, ...]  # each kind of strings on it in words
    power: float  # of one tracker [kW]
    fuse: str
    switch: str
    string_cable: str
    main_cable: str


@dataclass(frozen=True)
class InverterRow:
    """Inverters that are wired identically."""

    title: str
    rating: str
    phases: int
    trackers: tuple[TrackerRow, ...]
    cable: str
    breaker: str
    residual: str
    surge: str
    is_micro: bool
    on_branch: int
    is_controller: bool = False


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
    items = _protection(r)
    folded = _fold(r, items)
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
    tail = [*_schedule(r), *((f"({n})", text) for n, text in enumerate(notes.texts, 1))]
    sheets = []
    for number, rows in enumerate(pages, 1):
        sheet = Sheet(width, height)
        is_last = number == len(pages)
        lines = sum(len(inverter.trackers) for inverter, _ in rows)
        drawn = min(max(pitch, room / lines), ROOMY)
        blocks = _blocks(tail, width) if is_last else []
        deep = sum(block.height for block in blocks) + SCHEDULE_LINE
        if drawn * lines + deep > room:
            drawn = min(drawn, max(pitch, (room - deep) / lines))
        fits_here = is_last and drawn * lines + deep <= room
        _rows(sheet, r, items, rows, drawn, room - (deep if fits_here else 0), number, len(pages), notes)
        sheets.append(sheet)
        foot = height - MARGIN - TITLE_HEIGHT
        if fits_here:
            _write(sheet, blocks, foot - deep)
        elif is_last:
            top = MARGIN + HEAD
            sheets.append(Sheet(width, height))
            for block in blocks[1:]:
                if top + block.height > foot - 2 or top == MARGIN + HEAD:
                    if top > MARGIN + HEAD:
                        sheets.append(Sheet(width, height))
                    top = _write(sheets[-1], blocks[:1], MARGIN + HEAD)
                top = _write(sheets[-1], [block], top)
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


def fold(r: Results) -> list[tuple[InverterRow, int]]:
    """Inverters that are wired identically, and how many there are of them, in the order of the design."""
    return _fold(r, _protection(r))


def _protection(r: Results) -> dict[str, Protection]:
    return {item.key: item for item in protection_of(r)}


def _fold(r: Results, items: dict[str, Protection]) -> list[tuple[InverterRow, int]]:
    found: dict[InverterRow, int] = {}
    for i, one in enumerate(r.plant.sets):
        row = _inverter_row(r, i, items)
        found[row] = found.get(row, 0) + one.count
    return list(found.items())


def _inverter_row(r: Results, i: int, items: dict[str, Protection]) -> InverterRow:
    plant, unit, name = r.plant, r.plant.inverters[i], r.plant.inverter_ids[i]
    on = sorted((tracker, members) for (own, tracker), members in plant.on_trackers.items() if own == i)
    trackers: dict[tuple, int] = {}
    for tracker, members in on:
        row = _tracker_row(r, members, items, name, tracker)
        trackers[row] = trackers.get(row, 0) + 1
    run = r.cables.by_pointer.get(f"/inverters/{name}/cable")
    if plant.is_on_bus:
        controller = plant.controllers[i]
        return InverterRow(
            title=f"{unit.maker} {unit.name}",
            rating=f"{controller.current:g} A, {'MPPT' if controller.tracks else 'PWM'}",
            phases=1,
            trackers=tuple(TrackerRow(count, *row) for row, count in trackers.items()),
            cable="",
            breaker=_rating(items, f"bus-fuse:controller:{name}"),
            residual="",
            surge=_rating(items, f"dc-surge:{name}"),
            is_micro=False,
            on_branch=1,
            is_controller=True,
        )
    current = r.cables.branch_current(i)
    return InverterRow(
        title=f"{unit.maker} {unit.name}",
        rating=f"{unit.ac_power / 1000:g} kW, {current:.1f} A",
        phases=unit.phases,
        trackers=tuple(TrackerRow(count, *row) for row, count in trackers.items()),
        cable=_cable_words(run) if run else "",
        breaker=_rating(items, f"ac-breaker:{name}"),
        residual=_rating(items, f"residual-current:{name}"),
        surge=_rating(items, f"dc-surge:{name}"),
        is_micro=unit.kind == "micro",
        on_branch=round(plant.sets[i].count / r.cables.branches(i)),
    )


def _rating(items: dict[str, Protection], key: str) -> str:
    item = items.get(key)
    return item.chosen if item is not None and item.state != "not needed" else ""


def _tracker_row(r: Results, members: tuple[int, ...], items: dict[str, Protection], name: str, tracker: int) -> tuple:
    plant = r.plant
    strings, power = [], 0.0
    # Strings of several sub-arrays may have cables of their own each.
    string_cables: dict[str, None] = {}
    main_cables: dict[str, None] = {}
    for k in members:
        subarray, module = plant.subarrays[k], plant.modules[k]
        strings.append(plant.strings_in_words(k))
        power += subarray.strings * subarray.modules_per_string * module.power / 1000
        key = plant.subarray_ids[k]
        if run := r.cables.by_pointer.get(f"/subarrays/{key}/cable"):
            string_cables[_cable_words(run)] = None
        if run := r.cables.by_pointer.get(f"/subarrays/{key}/main_cable"):
            main_cables[_cable_words(run)] = None
    fuse, switch = _rating(items, f"string-fuse:{name}:{tracker}"), _rating(items, f"dc-switch:{name}:{tracker}")
    return tuple(strings), round(power, 2), fuse, switch, " / ".join(string_cables), " / ".join(main_cables)


def _cable_words(run: SizedRun) -> str:
    metal = SHORT[run.route.material]
    return f"{run.choice.section:g} mm² {metal}, {run.route.length:g} m"


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


def _schedule(r: Results) -> list[tuple[str, ...]]:
    """Cables as lines of a table, identical ones in one line."""
    folded: dict[tuple[str, ...], tuple[list[str], int]] = {}
    for run in r.cables.runs:
        key = (
            run.title, f"{run.choice.section:g} mm² {run.route.material}, {run.route.method}", f"{run.route.length:g} m",
            f"{run.route.current:.1f} of {run.choice.ampacity:.0f} A", f"{run.choice.drop:.2f} %",
        )  # fmt: skip
        owners, count = folded.get(key, ([], 0))
        folded[key] = [*owners, *([run.serves] if run.serves else [])], count + run.count
    for circuit in bus_circuits(r):
        if (cable := circuit.cable) is not None and circuit.fuse is not None:
            key = (
                circuit.cable_title, f"{cable.section:g} mm² copper, on a surface", f"{circuit.length:g} m", f"{circuit.fuse:.1f} of {cable.ampacity:.0f} A", f"{cable.drop:.2f} %",
            )  # fmt: skip
            owners, count = folded.get(key, ([], 0))
            folded[key] = [*owners, circuit.place], count + circuit.count
    return [(key[0], ", ".join(owners), f"{count} ×", *key[1:]) for key, (owners, count) in folded.items()]


@dataclass(frozen=True)
class _Block:
    """One line of the schedule of cables, or a note under it, with its cells broken into lines."""

    cells: tuple[tuple[float, list[str]], ...]
    height: float
    is_head: bool = False


HEADS = ("Cable", "of", "", "Section and laying", "Length", "Current, ampacity", "Drop")
SMALL = LETTER * 0.85


def _blocks(lines: Sequence[tuple[str, ...]], width: float) -> list[_Block]:
    """The heading, the lines of the schedule and the notes; the heading first, which is repeated on every sheet."""
    inner = width - 2 * MARGIN - 8
    columns = [MARGIN + 4 + share * inner for share in (0, 0.13, 0.40, 0.46, 0.68, 0.77, 0.92)]
    ends = [*columns[1:], width - MARGIN - 4]
    found = [_Block(tuple((x, [head]) for x, head in zip(columns, HEADS, strict=True)), SCHEDULE_LINE, is_head=True)]
    for line in lines:
        if len(line) == 2:
            note = MARGIN + 12
            cells: list[tuple[float, list[str]]] = [
                (MARGIN + 4, [line[0]]),
                (note, lines_of(line[1], SMALL, width - MARGIN - 4 - note)),
            ]
        else:
            cells = [(x, lines_of(text, SMALL, end - x - 2)) for x, end, text in zip(columns, ends, line, strict=True)]
        found.append(_Block(tuple(cells), SCHEDULE_LINE * 0.75 * (max(len(part) for _, part in cells) - 1) + SCHEDULE_LINE))
    return found


def _write(sheet: Sheet, blocks: Sequence[_Block], top: float) -> float:
    """Blocks below one another; the place after them."""
    for block in blocks:
        for x, part in block.cells:
            for k, text in enumerate(part):
                tone: Tone = "soft" if block.is_head else "ink"
                sheet.text(x, top + 0.75 * k * SCHEDULE_LINE, text, SMALL, is_bold=block.is_head, tone=tone)
        if block.is_head:
            sheet.line((MARGIN + 4, top + 1.4), (sheet.width - MARGIN - 4, top + 1.4), weight=0.18, tone="soft")
        top += block.height
    return top


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
    _generator(sheet, left + 5, y)
    _tracker_words(sheet, x, y, tracker, inverter, notes)
    sheet.line((left + 10, y), (end, y))
    if tracker.fuse:
        _fuse(sheet, x["fuse"], y)
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
        _switch(sheet, x["switch"], y, is_disconnector=True)
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
    _converter(sheet, left, y, half, is_to_dc=inverter.is_controller)
    _inverter_words(sheet, x, y, inverter, count, notes)
    if inverter.surge:
        _surge(sheet, x["surge"] + 2, y if half < 8 else y - half + 4)
        sheet.text(
            x["surge"] + 4.4, (y if half < 8 else y - half + 4) + 6.6, inverter.surge.split(",")[0], LETTER * 0.8, tone="soft"
        )
    sheet.line((left + width, y), (x["bus"], y))
    if inverter.is_controller:
        _fuse(sheet, x["breaker"] + 1, y)
        sheet.text(x["breaker"] + 4, y + 5.4, inverter.breaker, LETTER * 0.85, "middle", most=x["bus"] - x["breaker"] - 4)
        _slashes(sheet, x["bus"] - (8 if count > 1 else 5), y, 2)
        if count > 1:
            sheet.text(x["bus"] - 1.5, y - 2.2, f"{count} ×", LETTER * 0.85, "end", tone="soft")
        sheet.circle(x["bus"], y, 0.7, is_filled=True)
        return
    _slashes(sheet, x["bus"] - (8 if count > 1 else 5), y, 5 if inverter.phases == 3 else 3)
    _breaker(sheet, x["breaker"], y)
    sheet.text(
        x["breaker"] + 4,
        y + 5.4,
        inverter.breaker.split(",")[0],
        LETTER * 0.85,
        "middle",
        most=x["residual"] - x["breaker"] - 0.5,
    )
    _residual(sheet, x["residual"] + 4, y)
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
        _surge(sheet, bus + 6, low)
        sheet.text(bus + 8.6, low + 6.4, surge.chosen.split(",")[0], LETTER * 0.8, tone="soft")
    if (main := items.get("main-breaker")) is not None:
        _breaker(sheet, x["main breaker"], y)
        sheet.text(x["main breaker"] + 4, y + 5.4, main.chosen.split(",")[0], LETTER * 0.85, "middle")
    if (run := r.cables.by_pointer.get("/connection/cable")) is not None:
        next_mark = x["transformer"] if transformer is not None else x["meter"] - 6
        middle = (x["main breaker"] + 9 + next_mark) / 2
        sheet.text(
            middle, y - 2, _cable_words(run), LETTER * 0.85, "middle", tone="current", most=next_mark - x["main breaker"] - 10
        )
    if transformer is not None:
        _transformer(sheet, x["transformer"] + 5, y)
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
            right, y - 10.4, f"3 × {collector.section:g} mm² {SHORT[collector.material]}", LETTER * 0.85, "end", tone="current"
        )
        sheet.text(right, y - 7, pieces, LETTER * 0.85, "end", tone="current")
    sheet.box(x["meter"] - 5, y - 5, 10, 10)
    sheet.line((x["meter"] - 5, y - 2.2), (x["meter"] + 5, y - 2.2))
    sheet.text(x["meter"], y + 2.4, "kWh", 3.0, "middle")
    sheet.circle(x["mains"] + 4, y, 4)
    _wave(sheet, x["mains"] + 2, y, 4.0)
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
    _converter(sheet, inverter, y, 7.0)
    title = f"{unit.maker} {unit.name}" if unit is not None else "Inverter"
    sheet.text(inverter, y + 11, title, LETTER * 0.9, is_bold=True, most=x["mains"] - inverter)
    sheet.text(inverter, y + 14.6, f"{bus.power:.3g} kW", LETTER * 0.85)
    _breaker(sheet, x["meter"], y)
    sheet.text(x["meter"] + 4, y + 5.4, _rating(items, "ac-breaker").split(",")[0], LETTER * 0.85, "middle")
    _residual(sheet, x["meter"] + 12, y)
    sheet.text(x["meter"] + 12, y - 4.6, _rating(items, "residual-current").removeprefix("type "), LETTER * 0.8, "middle")
    sheet.text(x["mains"] + 1, y + 1, "Use", LETTER, is_bold=True)
    if "bus-fuse:direct" in items:
        branch = y + 0.62 * (low - y)
        sheet.line((left, branch), (x["mains"], branch))
        _fuse(sheet, left + 6, branch)
        sheet.text(left + 9, branch + 5.2, _rating(items, "bus-fuse:direct"), LETTER * 0.85, "middle")
        sheet.text(x["mains"] - 2, branch + 3.4, _rating(items, "bus-cable:direct"), LETTER * 0.85, "end", tone="current")
        sheet.text(x["mains"] + 1, branch + 1, "DC use", LETTER, is_bold=True)
    end = x["meter"] - 6
    sheet.line((left, low), (end, low))
    _fuse(sheet, left + 6, low)
    sheet.text(left + 9, low + 5.2, _rating(items, "bus-fuse:battery"), LETTER * 0.85, "middle")
    _switch(sheet, left + 18, low, is_disconnector=True)
    sheet.text(left + 22, low + 5.2, _rating(items, "battery-switch").split(",")[0], LETTER * 0.85, "middle")
    sheet.text(
        end - 2, low - 1.6, _rating(items, "bus-cable:battery").removesuffix(" copper"), LETTER * 0.85, "end", tone="current"
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
    _earth(sheet, place_of_earth, low + 3)
    generator = place.generator
    if generator is not None:
        words = f"generator of {generator.power:g} kW at its AC input"
        sheet.text(inverter, y + 18.2, words, LETTER * 0.85, tone="soft", most=x["mains"] + 6 - inverter)


def _generator(sheet: Sheet, x: float, y: float) -> None:
    """Photovoltaic generator: G over a cell, with light from above."""
    sheet.box(x - 5, y - 5, 10, 10)
    sheet.text(x, y - 0.4, "G", 4.0, "middle", is_bold=True)
    sheet.line((x - 3.2, y + 2.8), (x - 0.7, y + 2.8))
    sheet.line((x - 0.7, y + 1.2), (x - 0.7, y + 4.4))
    sheet.line((x + 0.7, y + 2.0), (x + 0.7, y + 3.6), weight=0.5)
    sheet.line((x + 0.7, y + 2.8), (x + 3.2, y + 2.8))
    for shift in (-1.2, 1.0):
        sheet.line((x - 6.4 + shift, y - 8.2), (x - 3.8 + shift, y - 5.6))
        sheet.line((x - 5.0 + shift, y - 5.9), (x - 3.8 + shift, y - 5.6), (x - 4.1 + shift, y - 6.8))


def _fuse(sheet: Sheet, x: float, y: float) -> None:
    sheet.box(x, y - 1.3, 6, 2.6)


def _switch(sheet: Sheet, x: float, y: float, is_disconnector: bool) -> None:
    """A make contact; a disconnector has a bar at its fixed contact, a load-break switch a circle."""
    _gap(sheet, x, y)
    if is_disconnector:
        sheet.circle(x + 7.2, y, 0.7)
        sheet.line((x + 7.9, y - 1.6), (x + 7.9, y + 1.6))


def _gap(sheet: Sheet, x: float, y: float) -> None:
    # Paper over the line, and the open blade.
    sheet.marks = [*_without(sheet.marks, x + 1, x + 6.5, y)]
    sheet.line((x + 1, y), (x + 6.4, y - 3.0))


def _without(marks: list[Mark], from_x: float, to_x: float, y: float) -> list[Mark]:
    """The marks with a horizontal line at y interrupted between two places."""
    kept: list[Mark] = []
    for mark in marks:
        if isinstance(mark, Polyline) and len(mark.points) == 2 and mark.points[0][1] == mark.points[1][1] == y:
            (start, _), (end, _) = mark.points
            if start < from_x and end > to_x:
                kept += [
                    Polyline(((start, y), (from_x, y)), mark.weight, tone=mark.tone),
                    Polyline(((to_x, y), (end, y)), mark.weight, tone=mark.tone),
                ]
                continue
        kept.append(mark)
    return kept


def _breaker(sheet: Sheet, x: float, y: float) -> None:
    _gap(sheet, x, y)
    sheet.line((x + 5.6, y - 0.9), (x + 7.4, y + 0.9))
    sheet.line((x + 5.6, y + 0.9), (x + 7.4, y - 0.9))


def _residual(sheet: Sheet, x: float, y: float) -> None:
    """A summation transformer around the conductors."""
    ring = [(x + 1.6 * cos(2 * pi * i / 24), y + 3.4 * sin(2 * pi * i / 24)) for i in range(24)]
    sheet.shape(ring)


def _surge(sheet: Sheet, x: float, y: float) -> None:
    """A surge protective device between a conductor and earth."""
    sheet.circle(x, y, 0.55, is_filled=True)
    sheet.line((x, y), (x, y + 2))
    sheet.box(x - 1.4, y + 2, 2.8, 4.4)
    sheet.line((x, y + 2.6), (x, y + 5.6))
    sheet.line((x - 0.7, y + 4.6), (x, y + 5.6), (x + 0.7, y + 4.6))
    sheet.line((x, y + 6.4), (x, y + 7.6))
    _earth(sheet, x, y + 7.6)


def _earth(sheet: Sheet, x: float, y: float) -> None:
    for i, half in enumerate((1.6, 1.05, 0.5)):
        sheet.line((x - half, y + 0.7 * i), (x + half, y + 0.7 * i))


def _converter(sheet: Sheet, x: float, y: float, half: float, is_to_dc: bool = False) -> None:
    """From direct current above the diagonal to what stands below it."""
    width = INVERTER_WIDTH
    sheet.box(x, y - half, width, 2 * half)
    sheet.line((x, y + half), (x + width, y - half))
    for lift in (3.0, 4.2):
        sheet.line((x + 2, y - half + lift), (x + 5.5, y - half + lift))
        if is_to_dc:
            sheet.line((x + width - 6, y + half - lift), (x + width - 2.5, y + half - lift))
    if not is_to_dc:
        _wave(sheet, x + width - 6, y + half - 3.5, 4.0)


def _transformer(sheet: Sheet, x: float, y: float) -> None:
    sheet.marks = _without(sheet.marks, x - 5.6, x + 5.6, y)
    sheet.circle(x - 1.9, y, 3.7)
    sheet.circle(x + 1.9, y, 3.7)


def _wave(sheet: Sheet, x: float, y: float, width: float) -> None:
    sheet.line(*((x + width * i / 16, y - 0.8 * sin(2 * pi * i / 16)) for i in range(17)))


def _slashes(sheet: Sheet, x: float, y: float, conductors: int) -> None:
    """A stroke across the line with the number of conductors."""
    sheet.line((x - 1, y + 1.6), (x + 1, y - 1.6))
    sheet.text(x + 1.2, y - 1.6, str(conductors), LETTER * 0.8)
