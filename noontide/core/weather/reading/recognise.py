"""Recognising a table of weather: as much as can be known of it, each thing with its reason and how sure it is."""

import re
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import STEPS
from noontide.core.sun import solar_position
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.assemble import table_of
from noontide.core.weather.reading.clockwork import (
    Wall,
    before_stamp,
    is_newest_first,
    standard_minutes,
    step_of,
    summer_times,
    wall_of,
)
from noontide.core.weather.reading.columns import (
    air_by_values,
    codes_in,
    factor_of,
    light_by_values,
    named_columns,
    time_columns,
    told_apart,
    without_codes,
)
from noontide.core.weather.reading.frame import Frame, frame_of
from noontide.core.weather.reading.layout import Layout, fields_of, layout_of_lines, without_mark
from noontide.core.weather.reading.model import IRRADIANCES, Finding, Reading, Sureness
from noontide.core.weather.reading.preamble import Preamble, preamble_of
from noontide.core.weather.reading.stamps import order_of
from noontide.core.weather.reading.sunfit import SunFit, fit_sun, guess_place
from noontide.core.weather.reading.text import Sheet, open_sheet
from noontide.core.weather.reading.words import UNIT_WORDS, folded

Floats = NDArray[np.float64]
SUMMER_ZONES = (
    "Europe/Paris",
    "Europe/London",
    "Europe/Helsinki",
    "America/New_York",
    "Australia/Sydney",
    "Pacific/Auckland",
    "America/Santiago",
)
# South, north, west, east [°] and the offset [h] of countries whose clock is no whole hour; the smaller ones first.
PART_HOUR_ZONES = (
    (26.3, 30.5, 80.0, 88.2, 5.75),
    (29.3, 38.5, 60.5, 71.0, 4.5),
    (25.0, 39.8, 44.0, 60.5, 3.5),
    (9.5, 28.5, 92.5, 101.2, 6.5),
    (5.9, 35.5, 70.5, 97.4, 5.5),
    (-38.1, -10.9, 129.0, 141.0, 9.5),
    (46.6, 60.4, -60.0, -52.6, -3.5),
)
TELLING = 25.0  # min of disagreement with the sun from which it is spoken of
CLEAR_GAIN = 0.25  # of the misfit that a shift must take away
LEAST_ROWS = 100


@dataclass
class Recognised:
    """A reading with the table and the fit to the sun that it came from."""

    sheet: Sheet
    reading: Reading
    frame: Frame
    wall: Wall
    fit: SunFit | None


def recognise_content(content: bytes, name: str = "weather table", place: tuple[float, float, float] | None = None) -> Recognised:
    """Understand a file.

    Parameters
    ----------
    content : bytes
        Of a text table, a workbook, Parquet or JSON records.
    place : tuple of float, optional
        Latitude, longitude [°] and elevation [m] to take where the file states none.

    Raises
    ------
    WeatherFileError
        If there is no table in it, or no time in the table.
    """
    sheet = open_sheet(content)
    layout = layout_of_lines(sheet.lines)
    headings, units = headings_of(sheet.lines, layout)
    samples = samples_of(sheet.lines, layout)
    times, layouts = time_columns(samples, headings)
    frame = frame_of(
        sheet.lines,
        layout.first,
        layout.last,
        layout.delimiter,
        layout.decimal,
        layout.width,
        set(layouts),
        layout.cuts,
        layout.thousands,
    )
    if len(frame) < LEAST_ROWS:
        raise WeatherFileError(
            f"a weather year has a row for each hour or less; the table has {len(frame)} rows", row=layout.first + 1
        )
    words = preamble_of(_around(sheet.lines, layout))
    reading = Reading(
        source=sheet.source, sheet=sheet.sheet, encoding=sheet.encoding, delimiter=layout.delimiter, decimal=layout.decimal,
        cuts=list(layout.cuts), thousands=layout.thousands,
        header_rows=[i + 1 for i in layout.header], first_row=layout.first + 1, last_row=layout.last + 1, columns=times, title=words.title or name[:200],
    )  # fmt: skip
    say = _Findings(reading)
    say("table", f"lines {reading.first_row} to {reading.last_row}", _why_table(layout), "certain")
    _date_order(reading, frame, layouts, say)
    wall = _clock(reading, frame, words, say)
    numeric = [place for place in range(layout.width) if place not in layouts and not any(c.place == place for c in times)]
    reading.missing = codes_in(frame, numeric)
    if reading.missing:
        say(
            "missing values",
            ", ".join(f"{v:g}" for v in reading.missing),
            "They stand far outside of all other values of their column.",
            "likely",
        )
    named = named_columns(headings, units, {c.place for c in times}, frame, reading.missing, reading.step)
    light_by_values(named, frame, reading.missing, reading.step)
    air_by_values(named, frame, reading.missing)
    reading.columns = sorted([*times, *named], key=lambda c: c.place)
    _kind_of_year(reading, wall, say)
    _place(reading, words, place, say)
    _zone(reading, words, wall, headings, say)
    fit = _settle_by_the_sun(reading, frame, wall, words, say)
    _closure(reading, frame, wall, say)
    return Recognised(sheet, reading, frame, wall, fit)


def examine(content: bytes, reading: Reading) -> Recognised:
    """The table, its times and its fit to the sun under a reading that is given.

    Raises
    ------
    WeatherFileError
        If the rows or their times cannot be read by it.
    """
    sheet = open_sheet(content, reading.sheet, reading.encoding)
    frame = table_of(sheet, reading)
    wall = wall_of(frame, reading)
    light = _light(reading, frame)
    return Recognised(sheet, reading, frame, wall, _fit(reading, wall, light) if light is not None else None)


class _Findings:
    """Writes down what was understood."""

    def __init__(self, reading: Reading):
        self._reading = reading

    def __call__(self, subject: str, value: str, reason: str, sureness: Sureness) -> None:
        self._reading.findings = [f for f in self._reading.findings if f.subject != subject]
        self._reading.findings.append(Finding(subject=subject, value=value, reason=reason, sureness=sureness))


def _sureness(reading: Reading) -> dict[str, Sureness]:
    """Of every subject that has been found."""
    return {finding.subject: finding.sureness for finding in reading.findings}


def _why_table(layout: Layout) -> str:
    names = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars", " ": "blanks"}
    marks = f"decimals with a {'comma' if layout.decimal == ',' else 'point'}"
    if layout.thousands:
        marks += f", thousands with '{layout.thousands}'"
    if not layout.delimiter:
        begins = ", ".join(str(cut + 1) for cut in layout.cuts)
        return f"Columns of characters that begin at {begins}, since no divider leaves rows of one width; {marks}."
    return f"Rows of {layout.width} fields between {names[layout.delimiter]}, {marks}."


def headings_of(lines: list[str], layout: Layout) -> tuple[list[str], list[str]]:
    """A heading and a unit for each column; of two lines of words, the one that holds units gives the units."""
    blank = [""] * layout.width
    if not layout.header:
        return blank, blank
    divider = layout.delimiter
    if not divider:
        return lines[layout.header[0]].split(), blank
    rows = [_padded(fields_of(without_mark(lines[i], divider), divider), layout) for i in layout.header]
    if len(rows) == 1:
        return rows[0], blank
    above, below = rows
    if _are_units(below):
        return above, below
    return below, above if _are_units(above) else blank


def _padded(fields: list[str], layout: Layout) -> list[str]:
    if layout.delimiter == " " and len(fields) == layout.width - 1:
        # A stamp with a blank inside has one heading over its two columns.
        fields = [fields[0], "", *fields[1:]]
    return [*fields, *[""] * layout.width][: layout.width]


def _are_units(fields: list[str]) -> bool:
    words = [folded(f) for f in fields if f.strip("[]() -")]
    patterns = [pattern for units in UNIT_WORDS.values() for _, pattern in units]
    units = sum(any(re.search(pattern, word) for pattern in patterns) and len(word) <= 14 for word in words)
    return bool(words) and units >= 0.5 * len(words)


def samples_of(lines: list[str], layout: Layout) -> list[list[str]]:
    count = layout.last - layout.first + 1
    places = sorted({*range(min(40, count)), *np.linspace(0, count - 1, 60).astype(int).tolist()})
    rows = [fields_of(lines[layout.first + i], layout.delimiter, layout.cuts) for i in places if lines[layout.first + i].strip()]
    return [[row[place] for row in rows if len(row) > place] for place in range(layout.width)]


def _around(lines: list[str], layout: Layout) -> list[tuple[int, str]]:
    above = [(i + 1, lines[i]) for i in range(min(layout.first, 400))]
    below = [(i + 1, lines[i]) for i in range(layout.last + 1, min(len(lines), layout.last + 101))]
    return [*above, *below]


def _date_order(reading: Reading, frame: Frame, layouts: dict[int, str], say: _Findings) -> None:
    dated = reading.column("stamp") or reading.column("date")
    if dated is None or layouts.get(dated.place) not in ("ab", "no year"):
        return
    order = order_of(frame.texts(dated.place), layouts[dated.place])
    reading.date_order = order or "dmy"  # type: ignore[assignment]
    words = {"dmy": "day first", "mdy": "month first"}[reading.date_order]
    why = "One of the two numbers goes beyond 12." if order else "Neither number goes beyond 12."
    say("date", words, why, "certain" if order else "guess")


def _clock(reading: Reading, frame: Frame, words: Preamble, say: _Findings) -> Wall:
    """The times as they stand, the step, and what of an interval they mark as far as the clock itself tells."""
    if not any(c.role for c in reading.columns):
        step = next((s for s in STEPS if len(frame) in (365 * 1440 // s, 366 * 1440 // s)), 0)
        if not step:
            raise WeatherFileError(
                f"no column holds dates or times, and {len(frame):,} rows are no whole year; a column of time is needed",
                row=reading.first_row,
            )
        reading.step = step
        say(
            "time",
            "rows in order from 1 January",
            f"No column holds times; {len(frame):,} rows are a year of {step} min.",
            "guess",
        )
        return wall_of(frame, reading)
    wall = wall_of(frame, reading)
    reading.step = step_of(wall.minutes)
    step, of_day = reading.step, wall.minutes % 1440
    say("step", f"{step} min", "Most rows follow each other by it.", "certain")
    rest = np.median(of_day % step) if step > 1 else 0.0
    if words.stamps is not None:
        reading.stamps = words.stamps[0]  # type: ignore[assignment]
        say("time", f"{reading.stamps} of the interval", f"Line {words.stamps[1]} says so.", "certain")
    elif wall.highest_hour >= 24 or (
        "hour" in [c.role for c in reading.columns] and not wall.has_midnight and wall.highest_hour >= 23.9
    ):
        reading.stamps = "end"
        say("time", "end of the interval", "Hours run to 24.", "certain")
    elif step > 1 and abs(rest - step / 2) < 0.1 * step:
        reading.stamps = "middle"
        say(
            "time",
            "middle of the interval",
            f"Times stand {step / 2:g} min after the full {'hour' if step == 60 else 'step'}.",
            "likely",
        )
    elif _begins_late(wall, step):
        reading.stamps = "end"
        say("time", "end of the interval", "The first row stands a step after midnight, the last one at midnight.", "likely")
    else:
        say("time", "start of the interval", "The first row stands at midnight.", "guess")
    return wall


def _begins_late(wall: Wall, step: int) -> bool:
    first, last = wall.minutes.min() % 1440, wall.minutes.max() % 1440
    return first == step and last == 0


def _kind_of_year(reading: Reading, wall: Wall, say: _Findings) -> None:
    if not wall.has_year:
        say("year", "none in the dates", "A nominal year is taken for the sun.", "certain")
        return
    back = before_stamp(reading)
    minutes = wall.minutes[::-1] if is_newest_first(wall.minutes) else wall.minutes
    dates = (minutes - back).astype("int64").astype("datetime64[m]")
    years = dates.astype("datetime64[Y]").astype(np.int64) + 1970
    months = dates.astype("datetime64[M]").astype(np.int64) % 12
    some, counts = np.unique(years, return_counts=True)
    reading.years = [int(y) for y, n in zip(some, counts, strict=True) if n > 24][:200] or [int(some[0])]
    if len(reading.years) < 2:
        say("year", str(reading.years[0]), "All rows but a few are of it.", "certain")
        return
    turns = np.count_nonzero(np.diff(months) < 0)
    a_year = 366 * 1440 // reading.step
    if (
        turns <= 1
        and len(months) <= a_year + 48
        and np.all(np.abs(np.diff(years)[np.diff(years) != 0]) >= 1)
        and _years_follow_months(years, months)
    ):
        reading.is_typical = True
        say(
            "years", f"typical, of {len(reading.years)} years", "The months follow each other, and their years do not.", "certain"
        )
    else:
        say(
            "years",
            f"{reading.years[0]} to {reading.years[-1]}",
            "The table holds several years; the fullest, of these the last, is used.",
            "certain",
        )


def _years_follow_months(years: NDArray[np.int64], months: NDArray[np.int64]) -> bool:
    """Whether each month is of one year, as in a typical year; in a record, January comes in several."""
    return all(len(np.unique(years[months == m])) == 1 for m in range(12) if np.any(months == m)) or bool(
        np.any(np.diff(years) < 0)
    )


def _place(reading: Reading, words: Preamble, given: tuple[float, float, float] | None, say: _Findings) -> None:
    for name, index in (("latitude", 0), ("longitude", 1), ("elevation", 2)):
        stated = getattr(words, name)
        if stated is not None:
            setattr(reading, name, stated[0])
            say(name, f"{stated[0]:g}", f"Line {stated[1]} says so.", "certain")
        elif given is not None:
            setattr(reading, name, given[index])
            say(name, f"{given[index]:g}", "The file states none; the site's own is taken.", "guess")


def _zone(reading: Reading, words: Preamble, wall: Wall, headings: list[str], say: _Findings) -> None:
    """The clock's offset, as far as the file states it."""
    if wall.zones is not None and np.isfinite(wall.zones).any():
        stated = wall.zones[np.isfinite(wall.zones)]
        reading.utc_offset = float(stated.min()) / 60
        varies = stated.max() > stated.min()
        say(
            "clock",
            f"UTC{reading.utc_offset:+g}",
            "Each time states its offset" + ("; in summer it is another." if varies else "."),
            "certain",
        )
        return
    in_heading = next((h for h in headings if re.search(r"\b(utc|gmt)\b", folded(h)) and not re.search(r"[+-]\s*\d", h)), "")
    if words.utc_offset is not None:
        reading.utc_offset = words.utc_offset[0]
        say("clock", f"UTC{reading.utc_offset:+g}", f"Line {words.utc_offset[1]} says so.", "certain")
    elif in_heading:
        say("clock", "UTC", f"The heading {in_heading!r} says so.", "certain")
    elif words.zone is not None:
        try:
            spans = summer_times(words.zone[0], 2026, 2026)
        except WeatherFileError:
            return
        from datetime import datetime
        from zoneinfo import ZoneInfo

        offsets = [datetime(2026, m, 1, tzinfo=ZoneInfo(words.zone[0])).utcoffset() for m in (1, 7)]
        reading.utc_offset = min(o.total_seconds() for o in offsets if o is not None) / 3600
        say("clock", f"UTC{reading.utc_offset:+g}", f"Line {words.zone[1]} names {words.zone[0]}.", "certain")
        if spans and words.has_summer_time is not None and words.has_summer_time[0]:
            reading.daylight_saving = words.zone[0]
    elif reading.longitude is not None:
        reading.utc_offset, why = _usual_offset(reading.latitude, reading.longitude)
        say("clock", f"UTC{reading.utc_offset:+g}", f"The file does not say; {why}.", "guess")
    else:
        say("clock", "UTC", "The file does not say.", "guess")


def _usual_offset(latitude: float | None, longitude: float) -> tuple[float, str]:
    """The standard offset that a place probably has [h], and why."""
    for south, north, west, east, offset in PART_HOUR_ZONES:
        if latitude is not None and south <= latitude <= north and west <= longitude <= east:
            return offset, "clocks there stand on a part of an hour"
    return float(np.clip(round(longitude / 15), -12, 14)), "by the longitude"


def _settle_by_the_sun(reading: Reading, frame: Frame, wall: Wall, words: Preamble, say: _Findings) -> SunFit | None:
    """What the clock itself leaves open is settled by the sun; where both are sure and disagree, a shift is proposed."""
    light = _light(reading, frame)
    if light is None:
        return None
    if reading.latitude is None or reading.longitude is None:
        middles = _middles(reading, wall)
        guessed = guess_place(middles, light, reading.step, reading.utc_offset)
        if guessed is None:
            return None
        for name, value in zip(("latitude", "longitude"), guessed, strict=True):
            if getattr(reading, name) is None:
                setattr(reading, name, round(value, 1))
                say(
                    name,
                    f"about {value:.0f}",
                    "The file does not say; where the sun would follow its light. Give the place.",
                    "guess",
                )
    sureness = _sureness(reading)
    has_zones = wall.zones is not None
    if not has_zones and not reading.daylight_saving:
        _summer_time(reading, frame, wall, light, words, say)
    fit = _fit(reading, wall, light)
    if fit is None or (abs(fit.best) < TELLING) or fit.gain < CLEAR_GAIN:
        if fit is not None and sureness.get("time") == "guess" and reading.step >= 30:
            say(
                "time",
                f"{reading.stamps} of the interval",
                "The first row stands at midnight, and the clearest days follow the sun.",
                "likely",
            )
        if fit is not None and sureness.get("clock") == "guess" and abs(fit.best) < TELLING:
            say("clock", f"UTC{reading.utc_offset:+g}", "The clearest days follow the sun under it.", "likely")
        return fit
    step = reading.step
    left = fit.best
    if sureness.get("clock") == "guess":
        # Whole hours are the clock's, what is left is the interval's.
        backs = (0.0,) if sureness.get("time") == "certain" else (0.0, -step / 2, -float(step))
        moves = {float(h) for h in range(-12, 13)} | {a - reading.utc_offset for a in range(-12, 15)}
        candidates = [(abs(left + 60 * h - back), abs(h), h, back) for h in sorted(moves) for back in backs]
        near = [c for c in candidates if c[0] <= 15.0 and -12 <= reading.utc_offset + c[2] <= 14]
        if near:
            _, _, hours, _ = min(near, key=lambda c: (c[3] != 0.0, c[0], c[1]))
            if hours:
                reading.utc_offset += hours
                say(
                    "clock",
                    f"UTC{reading.utc_offset:+g}",
                    f"The file does not say; under it the clearest days follow the sun ({fit.best:+.0f} min before).",
                    "likely",
                )
                left += 60 * hours
    if (
        sureness.get("time") in ("guess", "likely")
        and reading.stamps == "start"
        and step >= 30
        and min(abs(left + step), abs(left + step / 2)) <= 15
    ):
        reading.stamps = "end" if abs(left + step) <= abs(left + step / 2) else "middle"
        say(
            "time",
            f"{reading.stamps} of the interval",
            f"Read as its start, the clearest days would be {-left:.0f} min behind the sun.",
            "likely",
        )
    fit = _fit(reading, wall, light)
    if fit is not None and abs(fit.best) >= TELLING and fit.gain >= CLEAR_GAIN:
        reading.proposed_shift = fit.best
        late = "behind" if fit.best < 0 else "ahead of"
        say("sun", f"{fit.best:+.0f} min", f"On {fit.days} clear days the light is {abs(fit.best):.0f} min {late} the sun. A shift by {fit.best:+.0f} min mends it; it is not done unless you say so.", "likely")  # fmt: skip
    return fit


def _summer_time(reading: Reading, frame: Frame, wall: Wall, light: Floats, words: Preamble, say: _Findings) -> None:
    """Whether the clock follows a summer time: by the hour it leaves out and the hour it shows twice, else by the sun in summer and winter."""
    if words.has_summer_time is not None and not words.has_summer_time[0]:
        say("summer time", "none", f"Line {words.has_summer_time[1]} says so.", "certain")
        return
    if reading.is_typical or not wall.has_year:
        return
    years = wall.minutes.astype("int64").astype("datetime64[m]").astype("datetime64[Y]").astype(np.int64) + 1970
    stamps = np.unique(wall.minutes)
    doubled = wall.minutes.size - stamps.size
    zones = ([words.zone[0]] if words.zone else []) + [z for z in SUMMER_ZONES if not words.zone or z != words.zone[0]]
    is_open = _sureness(reading).get("time") != "certain"
    marks = [reading.stamps, *(m for m in ("start", "end") if is_open and m != reading.stamps)]
    seen = [
        (zone, mark)
        for mark in marks
        for zone in zones
        if any(
            _changes_as_in(zone, stamps, doubled, years, reading.step, back)
            # A stamp may be the clock's own at its moment, or that of the interval's begin with the interval's length added.
            for back in {0.0, before_stamp(reading.model_copy(update={"stamps": mark}))}
        )
    ]
    if seen:
        zone, mark = _by_the_sun(seen, reading, wall, light)
        reading.daylight_saving = zone
        say("summer time", zone, "The clock leaves out the hour of spring and shows the hour of autumn twice.", "certain")
        if mark != reading.stamps:
            reading.stamps = mark  # type: ignore[assignment]
            say("time", f"{mark} of the interval", "Under it the clearest days follow the sun.", "likely")
        elif is_open:
            _first_row_without_summer_time(reading, wall, say)
        return
    # A clock in summer time whose changes cannot be seen, as with nights left out: the sun tells by an hour's difference.
    if doubled or reading.latitude is None or reading.longitude is None:
        return
    halves = []
    month = (wall.minutes.astype("int64").astype("datetime64[m]").astype("datetime64[M]").astype(np.int64)) % 12
    for months in ((4, 5, 6, 7), (10, 11, 0, 1)):
        mine = np.isin(month, months)
        if not mine.any():
            return
        found = fit_sun(_middles(reading, wall)[mine], light[mine], reading.step, reading.latitude, reading.longitude)
        if found is None:
            return
        halves.append(found.best)
    northern, southern = halves
    apart = southern - northern  # a clock an hour ahead in the northern summer needs an hour less there
    if 45 <= abs(apart) <= 75:
        is_north = apart > 0
        zone = next((z for z in zones if words.zone and z == words.zone[0]), "Europe/Paris" if is_north else "Australia/Sydney")
        if is_north and reading.longitude < -30:
            zone = words.zone[0] if words.zone else "America/New_York"
        reading.daylight_saving = zone
        say("summer time", zone, f"In summer the light is {abs(apart):.0f} min later by the clock than in winter.", "likely")
        if _sureness(reading).get("time") != "certain":
            _first_row_without_summer_time(reading, wall, say)


def _first_row_without_summer_time(reading: Reading, wall: Wall, say: _Findings) -> None:
    """In the south a year begins in summer time: a first row at one o'clock may be the midnight of standard time."""
    minutes = standard_minutes(wall, reading.model_copy(update={"stamps": "start"}))
    if reading.stamps == "end" and not _begins_late(replace(wall, minutes=minutes), reading.step) and minutes.min() % 1440 == 0:
        reading.stamps = "start"
        say("time", "start of the interval", "In standard time the first row stands at midnight.", "guess")


def _changes_as_in(zone: str, stamps: Floats, doubled: int, years: NDArray[np.int64], step: int, back: float) -> bool:
    """Whether times leave out the hours of spring and show those of autumn twice as the clock of a zone does."""
    try:
        spans = summer_times(zone, int(years.min()), int(years.max()))
    except WeatherFileError:
        return False
    begins = [b for b, _ in spans if np.isfinite(b) and stamps[0] + 1440 < b < stamps[-1] - 1440]
    ends = [e for _, e in spans if np.isfinite(e) and stamps[0] + 1440 < e < stamps[-1] - 1440]
    if not begins or not ends or doubled < len(ends):
        return False
    inside = np.arange(step / 2, 60, step)
    left_out = all(not np.isin(np.round(b - 60 + inside - step / 2 + back), np.round(stamps)).any() for b in begins)
    return left_out and all(np.isin(np.round([b - 60 - step + back, b + back]), np.round(stamps)).all() for b in begins)


def _by_the_sun(seen: list[tuple[str, str]], reading: Reading, wall: Wall, light: Floats) -> tuple[str, str]:
    """Of zones and marks that suit the changes of a clock, those under which the clearest days follow the sun clearly best."""
    if len({mark for _, mark in seen}) == 1 or reading.latitude is None or reading.longitude is None:
        return seen[0]

    def off(one: tuple[str, str]) -> float:
        zone, mark = one
        trial = reading.model_copy(update={"daylight_saving": zone, "stamps": mark})
        fit = _fit(trial, wall, light)
        return abs(fit.best) if fit is not None else np.inf

    best = min(seen, key=off)
    return best if off(best) < off(seen[0]) - TELLING else seen[0]


def _light(reading: Reading, frame: Frame) -> Floats | None:
    for role in ("ghi", "beam_horizontal", "dhi", "dni"):
        if (column := reading.column(role)) is not None:
            values = without_codes(frame.coerced(column.place), reading.missing)
            factor, _ = factor_of(column.unit, role, reading.step)
            return np.maximum(values * factor, 0)
    return None


def _middles(reading: Reading, wall: Wall) -> Floats:
    return standard_minutes(wall, reading) - reading.utc_offset * 60 + reading.step / 2


def _fit(reading: Reading, wall: Wall, light: Floats) -> SunFit | None:
    if reading.latitude is None or reading.longitude is None:
        return None
    return fit_sun(_middles(reading, wall), light, reading.step, reading.latitude, reading.longitude)


def _closure(reading: Reading, frame: Frame, wall: Wall, say: _Findings) -> None:
    """Whether the three irradiances are what their headings say."""
    columns = {r: c for r in IRRADIANCES if (c := reading.column(r)) is not None}
    if len(columns) < 3 or reading.latitude is None or reading.longitude is None:
        return
    some = np.unique(np.linspace(0, len(frame) - 1, min(len(frame), 9000)).astype(np.int64))
    values = {}
    for role, column in columns.items():
        factor, _ = factor_of(column.unit, role, reading.step)
        values[role] = without_codes(frame.coerced(column.place), reading.missing)[some] * factor
    middles = _middles(reading, wall)[some] + (reading.proposed_shift or 0.0)
    zenith = solar_position((middles * 60).astype("int64").astype("datetime64[s]"), reading.latitude, reading.longitude).zenith
    found = told_apart(values, np.maximum(np.cos(np.radians(zenith)), 0))
    if found is None:
        return
    new_roles, before, after = found
    changed = [(column, new_roles[role]) for role, column in columns.items() if new_roles[role] != role]
    for column, _ in changed:
        column.role = ""
    words = []
    for column, role in changed:
        # The unit stays: a heading that names the wrong quantity mostly states the right unit.
        column.role, column.sureness = role, "likely"  # type: ignore[assignment]
        column.reason = (
            f"The values are not what the heading says: as {role} the three close to {after:.0%} of GHI, before {before:.0%}."
        )
        words.append(f"{column.heading or f'column {column.place + 1}'} is {role}")
    say(
        "closure",
        "; ".join(words),
        f"GHI = DNI cos(zenith) + DHI is off by {before:.0%} of GHI as the headings say, by {after:.0%} so.",
        "likely",
    )
