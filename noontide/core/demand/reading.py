"""Interval data of a meter, read as weather tables are: recognised with reasons, changed where that is needed, and applied.

Tables of any kind (CSV, XLSX, Parquet, JSON) and ESPI (Green Button, NAESB REQ.21) in XML; power, energy or meter readings at any step from a minute to a day.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.demand.espi import is_espi, read_espi
from noontide.core.demand.series import DAY, UseSeries
from noontide.core.demand.use_columns import ENERGIES, POWERS, UseColumn, value_columns
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.clockwork import Wall, is_newest_first, summer_times, wall_of
from noontide.core.weather.reading.columns import time_columns
from noontide.core.weather.reading.frame import Frame, frame_of
from noontide.core.weather.reading.headings import headings_of, samples_of
from noontide.core.weather.reading.layout import layout_of_lines
from noontide.core.weather.reading.model import Finding, Reading, Sureness
from noontide.core.weather.reading.stamps import order_of
from noontide.core.weather.reading.text import open_sheet

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Clock = Literal["civil", "standard"]
LONGEST_FILLED = 120  # min of a gap that is filled between its neighbours
COUNTER_GAP = DAY  # min between readings, over which a counter says no more than their mean
FEWEST_ROWS = 7
UNEVEN = 0.02  # share of rows that may stand off the step
DIGITS = tuple(10.0**k for k in range(3, 10))  # at which counters roll over


class UseReading(BaseModel):
    """How a file of interval data is understood."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["table", "espi"] = "table"
    table: Reading = Field(default_factory=Reading)
    values: list[UseColumn] = Field([], max_length=200)
    step: int = Field(60, ge=1, le=DAY)  # [min]
    stamps: Literal["start", "middle", "end"] = "start"
    clock: Clock = "civil"  # whether the file's clock keeps daylight saving time
    time_zone: str = Field("", max_length=60)
    title: str = Field("", max_length=200)
    findings: list[Finding] = Field([], max_length=60)


@dataclass(frozen=True, eq=False)
class ReadUse:
    """A reading and the series that comes of it."""

    reading: UseReading
    series: UseSeries
    notes: tuple[str, ...]


class _Findings:
    def __init__(self, reading: UseReading):
        self._reading = reading

    def __call__(self, subject: str, value: str, reason: str, sureness: Sureness) -> None:
        self._reading.findings.append(Finding(subject=subject, value=value, reason=reason, sureness=sureness))


def read(path: str | Path, reading: UseReading | None = None, time_zone: str = "") -> UseSeries:
    """Use that was measured, from a file.

    Parameters
    ----------
    path : str or Path
    reading : UseReading, optional
        How it is to be understood; recognised where none is given.
    time_zone : str
        Of the meter, where the file states none: whose daylight saving time its clock is held against.

    Raises
    ------
    WeatherFileError
        With line, column and value, where no series comes of it.
    OSError
        If the file cannot be opened.
    """
    path = Path(path)
    return read_use(path.read_bytes(), path.stem, reading, time_zone).series


def read_use(content: bytes, name: str = "interval data", reading: UseReading | None = None, time_zone: str = "") -> ReadUse:
    """The same of a file's content, with what was understood and what was done."""
    if is_espi(content):
        blocks = read_espi(content)
        found = UseReading(format="espi", clock="standard", time_zone=time_zone, title=name[:200], step=blocks.step)
        say = _Findings(found)
        say("format", "ESPI (Green Button)", "The file is an Atom feed with interval blocks of NAESB REQ.21.", "certain")
        say("step", f"{blocks.step} min", "Duration of the interval readings.", "certain")
        civil = _to_civil(blocks.start, time_zone) if time_zone else blocks.start + blocks.offset
        where = time_zone or f"UTC{blocks.offset / 60:+g}"
        say("clock", where, "Times are seconds of UTC; brought to the clock of the meter.", "certain" if time_zone else "likely")
        series, notes = _series(civil, blocks.power, blocks.step, found.title)
        return ReadUse(found, series, (*blocks.notes, *notes))
    if reading is None:
        reading, frame, wall = _recognise(content, name, time_zone)
    else:
        sheet = open_sheet(content, reading.table.sheet, reading.table.encoding)
        frame = _frame(sheet.lines, reading)
        wall = wall_of(frame, reading.table)
    series, notes = _apply(reading, frame, wall)
    return ReadUse(reading, series, notes)


def _frame(lines: list[str], reading: UseReading) -> Frame:
    table = reading.table
    places = [c.place for c in table.columns] + [c.place for c in reading.values]
    width = max(places, default=0) + 1
    texts = {c.place for c in table.columns if c.role in ("stamp", "date", "clock")}
    last = min(table.last_row, len(lines))
    return frame_of(
        lines, table.first_row - 1, last - 1, table.delimiter, table.decimal, width, texts, table.cuts, table.thousands
    )


def _recognise(content: bytes, name: str, time_zone: str) -> tuple[UseReading, Frame, Wall]:
    sheet = open_sheet(content)
    layout = layout_of_lines(sheet.lines)
    headings, units = headings_of(sheet.lines, layout)
    samples = samples_of(sheet.lines, layout)
    times, layouts = time_columns(samples, headings)
    if not times:
        raise WeatherFileError("no column holds dates or times; interval data need a time in each row", row=layout.first + 1)
    frame = frame_of(
        sheet.lines, layout.first, layout.last, layout.delimiter, layout.decimal, layout.width, set(layouts), layout.cuts, layout.thousands
    )  # fmt: skip
    if len(frame) < FEWEST_ROWS:
        raise WeatherFileError(
            f"interval data have a row for each interval; the table has {len(frame)} rows", row=layout.first + 1
        )
    table = Reading(
        source=sheet.source, sheet=sheet.sheet, encoding=sheet.encoding, delimiter=layout.delimiter, decimal=layout.decimal, cuts=list(layout.cuts),
        thousands=layout.thousands, header_rows=[i + 1 for i in layout.header], first_row=layout.first + 1, last_row=layout.last + 1, columns=times,
    )  # fmt: skip
    found = UseReading(table=table, time_zone=time_zone, title=name[:200])
    say = _Findings(found)
    _date_order(found, frame, layouts, say)
    wall = wall_of(frame, table)
    if not wall.has_year:
        raise WeatherFileError(
            "the dates have no year; interval data are laid onto the weather by the days of the week, which a date without year does not have",
            row=table.first_row,
        )
    _step(found, wall, say)
    found.values = value_columns(headings, units, {c.place for c in times}, frame, found.step, say)
    _clock(found, wall, say)
    return found, frame, wall


def _date_order(found: UseReading, frame: Frame, layouts: dict[int, str], say: _Findings) -> None:
    dated = found.table.column("stamp") or found.table.column("date")
    if dated is None or layouts.get(dated.place) != "ab":
        return
    order = order_of(frame.texts(dated.place), layouts[dated.place])
    found.table.date_order = order or "dmy"  # type: ignore[assignment]
    why = "One of the two numbers goes beyond 12." if order else "Neither number goes beyond 12."
    say("date", {"dmy": "day first", "mdy": "month first"}[found.table.date_order], why, "certain" if order else "guess")


def _step(found: UseReading, wall: Wall, say: _Findings) -> None:
    distances = np.diff(np.unique(wall.minutes))
    if not distances.size:
        raise WeatherFileError("all rows have the same time; a row for each interval was expected", row=found.table.first_row)
    values, counts = np.unique(np.round(distances), return_counts=True)
    usual = int(values[counts.argmax()])
    # A reading a month is no interval: counters of uneven times are brought to hours.
    found.step = usual if 1 <= usual <= DAY and DAY % usual == 0 else 60
    say("step", f"{found.step} min", "Most rows follow each other by it.", "certain" if found.step == usual else "guess")
    of_day, first, last = wall.minutes % DAY, wall.minutes.min() % DAY, wall.minutes.max() % DAY
    rest = float(np.median(of_day % found.step)) if found.step > 1 else 0.0
    if wall.highest_hour >= 24 or (found.step < DAY and first == found.step and last == 0):
        found.stamps = "end"
        say("time", "end of the interval", "The first row stands a step after midnight, or hours run to 24.", "likely")
    elif 1 < found.step < DAY and abs(rest - found.step / 2) < 0.1 * found.step:
        found.stamps = "middle"
        say("time", "middle of the interval", "Times stand half a step after the full one.", "likely")
    else:
        say("time", "start of the interval", "The first row stands at the beginning of a step.", "guess")


def _clock(found: UseReading, wall: Wall, say: _Findings) -> None:
    """Whether the clock keeps daylight saving time, by the hour that it leaves out in spring."""
    zone = found.time_zone
    if wall.zones is not None and np.isfinite(wall.zones).any():
        found.clock = "standard" if zone else "civil"
        where = zone or "the offset of each row"
        say("clock", where, "Each row states its offset from UTC.", "certain")
        return
    if not zone:
        say("clock", "as written", "No time zone is known; times are taken as the clock of the meter shows them.", "guess")
        return
    years = (wall.minutes.astype("int64").astype("datetime64[m]").astype("datetime64[Y]")).astype(np.int64) + 1970
    have = missing = 0
    present = np.unique(wall.minutes)
    for begin, _ in summer_times(zone, int(years.min()), int(years.max())):
        if not np.isfinite(begin) or found.step > 60:
            continue
        around = (present >= begin - 180) & (present < begin + 120)
        if around.sum() * found.step < 180:
            continue
        inside = (present >= begin - 60 + (found.step if found.stamps == "end" else 0)) & (
            present < begin + (found.step if found.stamps == "end" else 0)
        )
        have, missing = have + bool(inside.any()), missing + (not inside.any())
    if not have and not missing:
        say("clock", zone, "No change of the clock lies within the rows; daylight saving time is taken to be kept.", "guess")
    elif missing >= have:
        say("clock", f"{zone}, with daylight saving time", "The hour of the change in spring is missing.", "certain")
    else:
        found.clock = "standard"
        say("clock", f"{zone}, standard time all year", "The hour of the change in spring is there.", "certain")


def _apply(reading: UseReading, frame: Frame, wall: Wall) -> tuple[UseSeries, tuple[str, ...]]:
    """The series of a table under its reading."""
    used = [c for c in reading.values if c.role in ("power", "energy", "counter")]
    if not used:
        raise WeatherFileError(
            "no column is read as power, energy or readings of a meter; choose one", row=reading.table.first_row
        )
    back = {"start": 0.0, "middle": reading.step / 2, "end": float(reading.step)}[reading.stamps]
    minutes = wall.minutes
    if wall.zones is not None and np.isfinite(wall.zones).any() and reading.time_zone:
        utc = minutes - np.nan_to_num(wall.zones)
        civil = _to_civil(utc - back, reading.time_zone)
        times = utc
    else:
        times = minutes
        civil = (
            _plus_summer(minutes - back, reading.time_zone)
            if reading.clock == "standard" and reading.time_zone
            else minutes - back
        )
    backwards = is_newest_first(minutes)
    order = np.lexsort((-np.arange(times.size) if backwards else np.arange(times.size), times))
    notes: list[str] = []
    total = np.zeros(times.size)
    known = np.ones(times.size, dtype=bool)
    counters = [c for c in used if c.role == "counter"]
    if counters and len(counters) < len(used):
        raise WeatherFileError(
            "readings of a meter and values of intervals do not add up; leave one of them out", row=reading.table.first_row
        )
    if counters:
        return _of_counters(reading, frame, counters, times[order], civil[order] + back, order, notes)
    for column in used:
        values = frame.numbers(column.place, column.heading or f"column {column.place + 1}")
        values = np.where(np.isin(values, (-999.0, -9999.0, -99999.0)), np.nan, values)
        factor = POWERS[column.unit] if column.role == "power" else ENERGIES[column.unit] / (reading.step / 60)
        total += np.nan_to_num(values) * factor
        known &= np.isfinite(values)
    return _finished(reading, civil[order], np.where(known, total, np.nan)[order], notes)


def _of_counters(
    reading: UseReading, frame: Frame, counters: list[UseColumn], times: Floats, civil: Floats, order: Ints, notes: list[str]
) -> tuple[UseSeries, tuple[str, ...]]:
    """Mean power between readings, brought to the step."""
    power = np.zeros(times.size - 1)
    spans = np.diff(times)
    if not (spans > 0).any():
        raise WeatherFileError("the times of the readings do not rise", row=reading.table.first_row)
    rolled: list[str] = []
    changed: list[str] = []
    for column in counters:
        values = frame.numbers(column.place, column.heading)[order]
        rise = np.diff(values) * ENERGIES[column.unit]
        wraps = np.flatnonzero(rise < 0)
        for k in wraps:
            size = next(
                (d * ENERGIES[column.unit] for d in DIGITS if values[k] >= 0.9 * d and values[k + 1] < 0.1 * d and values[k] < d),
                None,
            )
            rise[k] = rise[k] + size if size is not None else np.nan
            (rolled if size is not None else changed).append(str(frame.row_of(int(order[k + 1]))))
        with np.errstate(divide="ignore", invalid="ignore"):
            power += np.where(spans > 0, rise / (spans / 60), 0.0)
    if rolled:
        notes.append(f"The meter rolls over in line {', '.join(rolled[:3])}.")
    if len(changed) > 12:
        raise WeatherFileError(
            f"the readings of the meter fall {len(changed)} times; they are values of intervals, or rows are out of order"
        )
    if changed:
        notes.append(f"The reading falls in line {', '.join(changed[:3])}: the meter was changed, and that interval is left out.")
    keep = spans > 0
    start, span, value = civil[:-1][keep], spans[keep], power[keep]
    value = np.where(span > COUNTER_GAP, np.nan, value)
    if np.mean(np.abs(span - reading.step) > 0.5) <= UNEVEN:
        return _finished(reading, start, value, notes)
    # Uneven readings: each interval of the step takes its share of those that lie in it.
    first, last = np.floor(start[0] / reading.step), np.ceil((start[-1] + span[-1]) / reading.step)
    edges = np.arange(first, last + 1) * reading.step
    energy = np.concatenate([[0.0], np.cumsum(np.nan_to_num(value) * span)])
    gaps = np.concatenate([[0.0], np.cumsum(np.isnan(value) * span)])
    at = np.append(start, start[-1] + span[-1])
    mean = np.diff(np.interp(edges, at, energy)) / reading.step
    unknown = np.diff(np.interp(edges, at, gaps)) > 0
    notes.append(f"Readings at uneven times are shared among steps of {reading.step} min.")
    return _finished(reading, edges[:-1], np.where(unknown, np.nan, mean), notes)


def _finished(reading: UseReading, civil: Floats, power: Floats, notes: list[str]) -> tuple[UseSeries, tuple[str, ...]]:
    series, more = _series(civil, power, reading.step, reading.title)
    exports = [c.heading for c in reading.values if c.role == "export"]
    if exports:
        notes.append(
            f"{', '.join(exports)} is energy that is given or produced, and is left out: where a plant was in use already, the use behind it is larger."
        )
    return series, (*notes, *more)


def _series(civil: Floats, power: Floats, step: int, title: str) -> tuple[UseSeries, tuple[str, ...]]:
    """Values on a regular axis of whole civil days."""
    notes: list[str] = []
    off = (civil + step / 2) % step - step / 2
    usual = float(np.median(off))
    uneven = np.abs(off - usual) > 0.3 * step
    if uneven.mean() > UNEVEN and step > 1:
        raise WeatherFileError(
            f"{uneven.sum():,} of {uneven.size:,} rows do not stand {step} min apart; interval data have even steps"
        )
    place = np.round((civil - usual) / step).astype(np.int64)
    first = int(place.min()) * step // DAY
    per_day = DAY // step
    index = place - first * per_day
    days = int(index.max()) // per_day + 1
    if days > 366 * 30:
        raise WeatherFileError(f"the rows reach over {days:,} days; the dates cannot be right")
    sums = np.bincount(index, weights=np.nan_to_num(power), minlength=days * per_day)
    counts = np.bincount(index, weights=np.isfinite(power), minlength=days * per_day)
    rows = np.bincount(index, minlength=days * per_day)
    values = np.divide(sums, counts, out=np.full(sums.size, np.nan), where=(counts > 0) & (counts == rows))
    twice = int((rows > 1).sum())
    if twice:
        notes.append(f"{twice} times come twice (a clock that is set back, or rows that are doubled): their mean is taken.")
    if (negative := int((values < 0).sum())) > 0:
        notes.append(f"{negative} values are negative, as of energy that is given; they count as 0.")
        values = np.where(values < 0, 0.0, values)
    filled, short = _filled(values, step)
    if short:
        notes.append(f"{short} missing values in gaps of up to {LONGEST_FILLED // 60} h lie between their neighbours.")
    matrix = filled.reshape(days, per_day)
    whole = np.isfinite(matrix).all(axis=1)
    # Days at the ends that were not measured as a whole are left out.
    known = np.flatnonzero(whole)
    if not known.size:
        raise WeatherFileError("no day of the rows is whole; interval data need days without gaps")
    matrix = matrix[known[0] : known[-1] + 1]
    missing = int((~np.isfinite(matrix).all(axis=1)).sum())
    if missing:
        notes.append(f"{missing} days between have longer gaps.")
    day = np.datetime64(first + int(known[0]), "D")
    return UseSeries(title, str(day), step, matrix), tuple(notes)


def _filled(values: Floats, step: int) -> tuple[Floats, int]:
    """Short gaps between their neighbours."""
    missing = ~np.isfinite(values)
    if not missing.any() or missing.all():
        return values, 0
    edges = np.diff(np.concatenate([[0], missing.astype(np.int8), [0]]))
    starts, ends = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    short = [(a, b) for a, b in zip(starts, ends, strict=True) if (b - a) * step <= LONGEST_FILLED and a > 0 and b < values.size]
    filled, known = values.copy(), np.flatnonzero(~missing)
    for a, b in short:
        filled[a:b] = np.interp(np.arange(a, b), known, values[known])
    return filled, int(sum(b - a for a, b in short))


def _to_civil(utc: Floats, zone: str) -> Floats:
    """Minutes of UTC on the civil clock of a zone."""
    import datetime
    from zoneinfo import ZoneInfo

    here = ZoneInfo(zone)
    year = int(utc.min() // 525_949 + 1970)
    offsets = [datetime.datetime(year, month, 1, tzinfo=here).utcoffset() for month in (1, 7)]
    standard = min(o.total_seconds() / 60 for o in offsets if o is not None)
    return _plus_summer(utc + standard, zone)


def _plus_summer(standard: Floats, zone: str) -> Floats:
    """Standard time with the hour of daylight saving time."""
    years = standard.astype("int64").astype("datetime64[m]").astype("datetime64[Y]").astype(np.int64) + 1970
    is_summer = np.zeros(standard.size, dtype=bool)
    for begin, end in summer_times(zone, int(years.min()), int(years.max())):
        is_summer |= (standard >= begin - 60) & (standard < end - 60)
    return standard + 60.0 * is_summer
