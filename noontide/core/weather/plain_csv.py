"""Our own plain weather table: a comment header with site and units, then one row an interval (docs/formats/weather-csv.md)."""

import json
import re
from calendar import isleap

import numpy as np

from noontide.core.calendar import NOMINAL_LEAP_YEAR, NOMINAL_YEAR, STEPS, Calendar
from noontide.core.weather.numbers import RANGES, UNITS, check_range, fill_gaps
from noontide.core.weather.passport import COLUMNS, passport_of, year_of
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.table import Table, lines_of
from noontide.core.weather.year import Place, Weather, fill_missing_columns

MAGIC = "# noontide-weather 1"
CARRIED = ("given", "flags", "steps")
TIME = re.compile(r"(\d{4}-\d\d-\d\d[T ]\d\d:\d\d)(:00)?", re.ASCII)


def read_plain(text: str, name: str = "weather table") -> Weather:
    """Read a year from the text of a plain weather table.

    Raises
    ------
    WeatherFileError
        With line, column and value, for anything that does not read as a whole, regular year.
    """
    lines = lines_of(text)
    if not lines or lines[0].strip() != MAGIC:
        raise WeatherFileError(f"a weather table begins with the line '{MAGIC}'", row=1, value=lines[0][:60] if lines else "")
    header, table_at = _header(lines)
    if table_at >= len(lines):
        raise WeatherFileError("after the header, a row of column names was expected", row=len(lines))
    names = [field.strip() for field in lines[table_at].split(",")]
    if not names or names[0] != "time":
        raise WeatherFileError("the first column must be 'time'", row=table_at + 1, value=lines[table_at][:60])
    for column in names[1:]:
        if column not in RANGES:
            raise WeatherFileError(
                f"columns are {', '.join(RANGES)}; rename this one or take it out", row=table_at + 1, column=column
            )
    if len(set(names)) != len(names):
        raise WeatherFileError("each column may stand only once", row=table_at + 1, value=lines[table_at][:60])
    table = Table.below(lines, table_at + 1)
    table.check_widths(len(names))
    place = Place(
        _number(header, "latitude", -90, 90),
        _number(header, "longitude", -180, 180),
        _number(header, "elevation", -500, 9000, 0.0),
    )
    calendar = _calendar(table, header)
    columns, said = {}, []
    places = {column: i for i, column in enumerate(names) if i}
    read = table.numbers(places, UNITS) if places else {}
    for column, values in read.items():
        values = check_range(values, column, table, places[column])
        columns[column], note = fill_gaps(values, column, table.first_row, calendar.hours_per_interval)
        if note:
            said.append(note)
    kind = header.get("kind", ("typical", 0))[0]
    if kind not in ("typical", "measured"):
        raise WeatherFileError("the kind of year is 'typical' or 'measured'", row=header["kind"][1], column="kind", value=kind)
    try:
        weather = fill_missing_columns(
            calendar,
            place,
            columns,
            title=header.get("title", (name, 0))[0],
            source=header.get("source", ("", 0))[0],
            is_typical=kind == "typical",
            notes=(*(note for note in header.get("notes", ("", 0))[0].split(" | ") if note), *said),
        )
    except ValueError as error:
        raise WeatherFileError(str(error), row=table_at + 1) from error
    return _with_carried(weather, header)


def _with_carried(weather: Weather, header: dict[str, tuple[str, int]]) -> Weather:
    """The year with the marks and steps that it was written with."""
    if "carried" not in header:
        return weather
    text, row = header["carried"]
    try:
        carried = json.loads(text)
        return year_of(
            passport_of(weather) | {key: carried[key] for key in CARRIED if key in carried},
            {name: getattr(weather, name) for name in COLUMNS},
        )
    except (ValueError, TypeError, RecursionError) as error:
        raise WeatherFileError(
            f"the line of what the year carries cannot be read: {str(error)[:160]}", row=row, column="carried"
        ) from error


def write_plain(weather: Weather) -> str:
    """Text of a plain weather table; reading it gives the same numbers back."""
    c, place = weather.calendar, weather.place
    notes, passport = " | ".join(weather.notes), passport_of(weather)
    head = [
        MAGIC,
        f"# title: {weather.title}",
        f"# source: {weather.source}",
        f"# latitude: {place.latitude!r}",
        f"# longitude: {place.longitude!r}",
        f"# elevation: {place.elevation!r}",
        f"# utc_offset: {c.utc_offset!r}",
        f"# step: {c.step}",
        f"# kind: {'typical' if weather.is_typical else 'measured'}",
        f"# notes: {notes}",
        f"# carried: {json.dumps({key: passport[key] for key in CARRIED})}",
        "# units: time is the start of the interval in local standard time; ghi, dni, dhi W/m2; temperature degC; wind m/s; pressure hPa",
        "time,ghi,dni,dhi,temperature,wind,pressure",
    ]
    columns = (weather.ghi, weather.dni, weather.dhi, weather.temperature, weather.wind, weather.pressure)
    rows = (
        ",".join([str(start), *(repr(float(v)) for v in values)]) for start, *values in zip(c.local_starts, *columns, strict=True)
    )
    return "\n".join([*head, *rows]) + "\n"


def _header(lines: list[str]) -> tuple[dict[str, tuple[str, int]], int]:
    """Entries as value and line number, and where the table begins."""
    entries: dict[str, tuple[str, int]] = {}
    for i, line in enumerate(lines[1:], start=1):
        if not line.startswith("#"):
            return entries, i
        key, colon, value = line[1:].partition(":")
        if colon:
            entries[key.strip().lower()] = (value.strip(), i + 1)
    return entries, len(lines)


def _number(header: dict[str, tuple[str, int]], key: str, low: float, high: float, default: float | None = None) -> float:
    if key not in header:
        if default is not None:
            return default
        raise WeatherFileError(f"the header needs a line '# {key}: ...'", row=1)
    text, row = header[key]
    try:
        value = float(text.split()[0])
    except (ValueError, IndexError):
        raise WeatherFileError("a number was expected", row=row, column=key, value=text) from None
    if not low <= value <= high:
        raise WeatherFileError(f"{low:g} to {high:g} was expected", row=row, column=key, value=text)
    return value


def _calendar(table: Table, header: dict[str, tuple[str, int]]) -> Calendar:
    step = _number(header, "step", 1, 60, 60.0)
    if step not in STEPS:
        raise WeatherFileError(
            f"the step must be one of {', '.join(map(str, STEPS))} min",
            row=header["step"][1],
            column="step",
            value=header["step"][0],
        )
    offset = _number(header, "utc_offset", -12, 14)
    if not len(table):
        raise WeatherFileError("the table has no rows", row=table.first_row)
    times = np.empty(len(table), dtype="datetime64[m]")
    for start, (stamps,) in table.columns([0]):
        try:
            times[start : start + len(stamps)] = [_time(stamp) for stamp in stamps]
        except ValueError:
            i, stamp = next((i, stamp) for i, stamp in enumerate(stamps) if not _is_time(stamp))
            raise WeatherFileError(
                "a time such as 2026-01-01T00:00 was expected, on the clock of the utc_offset",
                row=table.first_row + start + i,
                column="time",
                value=stamp,
            ) from None
    year = int(times[0].astype("datetime64[Y]").astype(int)) + 1970
    if not 1900 <= year <= 2100:
        raise WeatherFileError(
            f"a year between 1900 and 2100 was expected; a typical year takes {NOMINAL_YEAR}, or {NOMINAL_LEAP_YEAR} with 29 February",
            row=table.first_row,
            column="time",
            value=table.text_at(0, 0),
        )
    calendar = Calendar(year, int(step), offset)
    expected = calendar.local_starts
    n = min(len(times), len(expected))
    wrong = np.flatnonzero(times[:n] != expected[:n])
    if wrong.size:
        i = int(wrong[0])
        raise WeatherFileError(
            f"{expected[i]} was expected: rows must follow each other by {int(step)} min from 1 January, without gaps",
            row=table.first_row + i,
            column="time",
            value=table.text_at(i, 0),
        )
    if len(times) != len(expected):
        leap = " (a leap year)" if isleap(year) else ""
        raise WeatherFileError(
            f"the year {year}{leap} has {len(expected)} rows of {int(step)} min; the file has {len(times)}",
            row=table.first_row + n,
        )
    return calendar


def _time(stamp: str) -> str:
    """A time without a zone, as NumPy reads it; one with a zone would be moved to UTC in silence."""
    if not (found := TIME.fullmatch(stamp.strip())):
        raise ValueError
    return found[1]


def _is_time(stamp: str) -> bool:
    try:
        np.datetime64(_time(stamp), "m")
    except ValueError:
        return False
    return True
