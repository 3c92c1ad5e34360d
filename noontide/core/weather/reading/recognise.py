"""Recognising a table of weather: as much as can be known of it, each thing with its reason and how sure it is."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import STEPS
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.assemble import table_of
from noontide.core.weather.reading.by_the_sun import find_closure, settle_by_the_sun
from noontide.core.weather.reading.clockwork import (
    Wall,
    before_stamp,
    is_newest_first,
    step_of,
    summer_times,
    wall_of,
)
from noontide.core.weather.reading.columns import (
    air_by_values,
    codes_in,
    light_by_values,
    named_columns,
    time_columns,
)
from noontide.core.weather.reading.findings import Findings
from noontide.core.weather.reading.frame import Frame, frame_of
from noontide.core.weather.reading.headings import headings_of, lines_around, samples_of
from noontide.core.weather.reading.layout import Layout, layout_of_lines
from noontide.core.weather.reading.model import Reading
from noontide.core.weather.reading.preamble import Preamble, preamble_of
from noontide.core.weather.reading.stamps import order_of
from noontide.core.weather.reading.summer_time import begins_late
from noontide.core.weather.reading.sunfit import SunFit
from noontide.core.weather.reading.table_light import fit_of, light_of
from noontide.core.weather.reading.text import Sheet, open_sheet
from noontide.core.weather.reading.words import folded

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
    words = preamble_of(lines_around(sheet.lines, layout))
    reading = Reading(
        source=sheet.source, sheet=sheet.sheet, encoding=sheet.encoding, delimiter=layout.delimiter, decimal=layout.decimal,
        cuts=list(layout.cuts), thousands=layout.thousands,
        header_rows=[i + 1 for i in layout.header], first_row=layout.first + 1, last_row=layout.last + 1, columns=times, title=words.title or name[:200],
    )  # fmt: skip
    say = Findings(reading)
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
    fit = settle_by_the_sun(reading, frame, wall, words, say)
    find_closure(reading, frame, wall, say)
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
    light = light_of(reading, frame)
    return Recognised(sheet, reading, frame, wall, fit_of(reading, wall, light) if light is not None else None)


def _why_table(layout: Layout) -> str:
    names = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars", " ": "blanks"}
    marks = f"decimals with a {'comma' if layout.decimal == ',' else 'point'}"
    if layout.thousands:
        marks += f", thousands with '{layout.thousands}'"
    if not layout.delimiter:
        begins = ", ".join(str(cut + 1) for cut in layout.cuts)
        return f"Columns of characters that begin at {begins}, since no divider leaves rows of one width; {marks}."
    return f"Rows of {layout.width} fields between {names[layout.delimiter]}, {marks}."


def _date_order(reading: Reading, frame: Frame, layouts: dict[int, str], say: Findings) -> None:
    dated = reading.column("stamp") or reading.column("date")
    if dated is None or layouts.get(dated.place) not in ("ab", "no year"):
        return
    order = order_of(frame.texts(dated.place), layouts[dated.place])
    reading.date_order = order or "dmy"  # type: ignore[assignment]
    words = {"dmy": "day first", "mdy": "month first"}[reading.date_order]
    why = "One of the two numbers goes beyond 12." if order else "Neither number goes beyond 12."
    say("date", words, why, "certain" if order else "guess")


def _clock(reading: Reading, frame: Frame, words: Preamble, say: Findings) -> Wall:
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
    elif begins_late(wall, step):
        reading.stamps = "end"
        say("time", "end of the interval", "The first row stands a step after midnight, the last one at midnight.", "likely")
    else:
        say("time", "start of the interval", "The first row stands at midnight.", "guess")
    return wall


def _kind_of_year(reading: Reading, wall: Wall, say: Findings) -> None:
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


def _place(reading: Reading, words: Preamble, given: tuple[float, float, float] | None, say: Findings) -> None:
    for name, index in (("latitude", 0), ("longitude", 1), ("elevation", 2)):
        stated = getattr(words, name)
        if stated is not None:
            setattr(reading, name, stated[0])
            say(name, f"{stated[0]:g}", f"Line {stated[1]} says so.", "certain")
        elif given is not None:
            setattr(reading, name, given[index])
            say(name, f"{given[index]:g}", "The file states none; the site's own is taken.", "guess")


def _zone(reading: Reading, words: Preamble, wall: Wall, headings: list[str], say: Findings) -> None:
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
