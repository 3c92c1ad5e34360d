"""The time of every row: as the file's clock says it, and on a regular axis in standard time."""

import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import STEPS
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.model import LONG_STEPS, Reading
from noontide.core.weather.reading.stamps import CLOCKS, LAYOUTS, clock_of, layout_of, minutes_of_date, parse_clocks, parse_dates

Floats = NDArray[np.float64]
SAMPLE = 60
_MIDNIGHT = re.compile(r"(?<!\d)24:00")


@dataclass(frozen=True)
class Wall:
    """Times of the rows as the file's clock shows them."""

    minutes: Floats  # since 1970 [min]
    has_year: bool
    zones: Floats | None  # offset from UTC that a row states [min], NaN where none
    highest_hour: float  # within a day, of the clock as it is written [h]
    has_midnight: bool  # whether a row stands at 0:00


def wall_of(frame: Frame, reading: Reading) -> Wall:
    """Read the columns of time.

    Raises
    ------
    WeatherFileError
        At the first row whose time cannot be read.
    """
    column = {c.role: c for c in reading.columns if c.role}
    zones, has_year, of_day = None, True, np.zeros(len(frame))
    if (dated := column.get("stamp") or column.get("date")) is not None:
        texts = frame.texts(dated.place)
        layout = layout_of(_some(texts)) or next((name for name, p in LAYOUTS.items() if p.fullmatch(texts[0].strip())), "")
        if not layout:
            raise WeatherFileError(
                "a date was expected, such as 2026-01-31 or 31.01.2026",
                row=frame.row_of(0),
                column=dated.heading,
                value=texts[0][:40],
            )
        found = parse_dates(texts, layout, reading.date_order)
        minutes, has_year, zones = found.minutes, found.has_year, found.zones
        _whole(minutes, frame, dated.heading, texts)
        if found.has_clock:
            of_day = _of_day(texts, minutes)
    elif "month" in column and "day" in column:
        year = frame.numbers(column["year"].place) if "year" in column else np.full(len(frame), 1970.0)
        has_year = "year" in column
        month, day = (frame.numbers(column[part].place) for part in ("month", "day"))
        for name, values in (("year", year), ("month", month), ("day", day)):
            _whole(
                np.where(values == np.round(values), values, np.nan),
                frame,
                column[name].heading if name in column else name,
                None,
            )
        year = np.where(year < 100, year + np.where(year < 70, 2000, 1900), year)
        minutes = minutes_of_date(year.astype(np.int64), month.astype(np.int64), day.astype(np.int64))
        _whole(minutes, frame, column["day"].heading, None)
    elif "day of year" in column:
        year = frame.numbers(column["year"].place) if "year" in column else np.full(len(frame), 1970.0)
        has_year = "year" in column
        number = frame.numbers(column["day of year"].place)
        _whole(number + year, frame, column["day of year"].heading, None)
        minutes = (
            minutes_of_date(year.astype(np.int64), np.ones(len(frame), dtype=np.int64), np.ones(len(frame), dtype=np.int64))
            + (number - 1) * 1440
        )
    else:
        return Wall(np.arange(len(frame)) * float(reading.step), False, None, 23.0, True)
    if "clock" in column:
        texts = frame.texts(column["clock"].place)
        notation = clock_of(_some(texts)) or "clock"
        if notation == "hhmm" or (
            all(CLOCKS["hhmm"].fullmatch(t.split(".")[0].zfill(4)) for t in texts[:20]) and not clock_of(_some(texts))
        ):
            texts, notation = [t.split(".")[0].zfill(4) for t in texts], "hhmm"
        of_day = parse_clocks(texts, notation)
        _whole(of_day, frame, column["clock"].heading, texts)
        minutes = minutes + of_day
    elif "hour" in column:
        hours = frame.numbers(column["hour"].place)
        _whole(hours, frame, column["hour"].heading, None)
        of_day = hours * 60
        if "minute" in column:
            of_day = of_day + frame.numbers(column["minute"].place)
        minutes = minutes + of_day
    highest = float(np.max(of_day, initial=0)) / 60
    return Wall(np.round(minutes, 3), has_year, zones, highest, bool(np.any(of_day == 0)))


def _some(texts: list[str]) -> list[str]:
    stride = max(1, len(texts) // SAMPLE)
    return texts[::stride][:SAMPLE]


def _of_day(texts: list[str], minutes: Floats) -> Floats:
    """Time of day as it is written: 24:00 stays 1440 and is not the next day's beginning."""
    of_day = minutes % 1440
    late = [i for i, text in enumerate(texts) if of_day[i] == 0 and _MIDNIGHT.search(text)]
    of_day[late] = 1440.0
    return of_day


def _whole(values: Floats, frame: Frame, heading: str, texts: list[str] | None) -> None:
    wrong = np.flatnonzero(~np.isfinite(values))
    if wrong.size:
        i = int(wrong[0])
        raise WeatherFileError(
            "a date and time was expected as in the rows before",
            row=frame.row_of(i),
            column=heading,
            value=texts[i][:40] if texts else None,
        )


def is_newest_first(minutes: Floats) -> bool:
    """Whether most rows stand before the row of the time before."""
    return minutes.size > 1 and float(np.median(np.diff(minutes))) < 0


def step_of(minutes: Floats) -> int:
    """Length of an interval: the usual distance between times that follow each other.

    Raises
    ------
    WeatherFileError
        If it is none that a year can have.
    """
    distances = np.diff(np.unique(minutes))
    distances = distances[(distances > 0) & (distances < 1440)]
    if not distances.size:
        raise WeatherFileError("the times of the rows do not rise; a row for each interval of the year was expected")
    values, counts = np.unique(np.round(distances), return_counts=True)
    step = int(values[np.argmax(counts)])
    if step not in (*STEPS, *LONG_STEPS):
        raise WeatherFileError(
            f"rows follow each other by {step} min; {', '.join(map(str, (*LONG_STEPS, *STEPS)))} min can be read. Bring them to one of these"
        )
    return step


def standard_minutes(wall: Wall, reading: Reading) -> Floats:
    """Start of each row's interval in the standard time of the reading's clock [min since 1970]."""
    minutes = wall.minutes
    if wall.zones is not None:
        known = np.isfinite(wall.zones)
        minutes = np.where(known, minutes - np.nan_to_num(wall.zones) + reading.utc_offset * 60, minutes)
    elif reading.daylight_saving:
        # A stamp is the clock's own at its moment, or that of the interval's begin with its length added: as fewer fall on one.
        back, zone = before_stamp(reading), reading.daylight_saving
        starts = _without_summer_time(minutes, zone) - back
        if back:
            others = _without_summer_time(minutes - back, zone)
            starts = others if np.unique(others).size > np.unique(starts).size else starts
        return starts + reading.shift
    return minutes - before_stamp(reading) + reading.shift


def before_stamp(reading: Reading) -> float:
    """How long before its stamp an interval begins [min]."""
    return {"start": 0.0, "middle": reading.step / 2, "end": float(reading.step)}[reading.stamps]


def summer_times(zone: str, first_year: int, last_year: int) -> list[tuple[float, float]]:
    """Begin and end of summer time on the wall clock, as the clock shows them after and before its change [min since 1970].

    Raises
    ------
    WeatherFileError
        If there is no such zone.
    """
    try:
        here = ZoneInfo(zone)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise WeatherFileError(f"there is no time zone {zone[:40]!r}; name one such as Europe/Rome") from None
    changes: list[tuple[float, int]] = []
    at, last = datetime(first_year - 1, 12, 1, tzinfo=ZoneInfo("UTC")), datetime(last_year + 1, 2, 1, tzinfo=ZoneInfo("UTC"))
    offset = at.astimezone(here).utcoffset()
    while at < last:
        following = at + timedelta(hours=12)
        if following.astimezone(here).utcoffset() != offset:
            low, high = at, following
            while high - low > timedelta(minutes=1):
                middle = low + (high - low) / 2
                low, high = (low, middle) if middle.astimezone(here).utcoffset() != offset else (middle, high)
            new = following.astimezone(here).utcoffset()
            changes.append((round(high.timestamp() / 60) + new.total_seconds() / 60, int((new - offset).total_seconds() // 60)))  # type: ignore[operator, union-attr]
            offset = new
        at = following
    spans, begin = [], None
    if changes and changes[0][1] < 0:
        begin = -np.inf
    for moment, change in changes:
        if change > 0:
            begin = moment
        elif begin is not None:
            spans.append((begin, moment - change))
            begin = None
    if begin is not None:
        spans.append((begin, np.inf))
    return spans


def _without_summer_time(minutes: Floats, zone: str) -> Floats:
    """An hour is taken off in summer; of the two hours of one name in autumn, the first is the summer's."""
    years = minutes.astype("int64").astype("datetime64[m]").astype("datetime64[Y]").astype(np.int64) + 1970
    is_summer = np.zeros(minutes.size, dtype=bool)
    for begin, end in summer_times(zone, int(years.min()), int(years.max())):
        inside = (minutes >= begin) & (minutes < end)
        twice = np.flatnonzero(inside & (minutes >= end - 60))
        if twice.size:
            if is_newest_first(minutes):
                twice = twice[::-1]
            seen: dict[float, int] = {}
            for i in twice:
                seen[minutes[i]] = seen.get(minutes[i], 0) + 1
            met: set[float] = set()
            for i in twice:
                # A name that comes once belongs to winter: the file has left one of the two out, or runs in standard time there.
                inside[i] = seen[minutes[i]] > 1 and minutes[i] not in met
                met.add(minutes[i])
        is_summer |= inside
    return minutes - 60.0 * is_summer
