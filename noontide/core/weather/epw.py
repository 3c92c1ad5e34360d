"""EPW, the open weather format of eight header lines and 35 columns, with hours ending 1 to 24 in local standard time."""

import csv
from calendar import isleap

import numpy as np

from noontide.core.calendar import NOMINAL_LEAP_YEAR, NOMINAL_YEAR, STEPS, Calendar
from noontide.core.weather.numbers import column_of, fill_gaps, rows_of
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.year import Place, Weather, complete

HEADER_LINES = 8
FIELDS = 35
LONGEST_LINE = 10_000
COLUMNS = {"temperature": 6, "pressure": 9, "ghi": 13, "dni": 14, "dhi": 15, "wind": 21}
OPTIONAL = ("wind", "pressure")


def read_epw(text: str, name: str = "EPW file") -> Weather:
    """Read a year from the text of an EPW file.

    Raises
    ------
    WeatherFileError
        With line, column and value, for anything that does not read as a whole, regular year.
    """
    lines = text.splitlines()
    if len(lines) <= HEADER_LINES or not lines[0].upper().startswith("LOCATION"):
        raise WeatherFileError(
            "an EPW file begins with a LOCATION line and seven more header lines", row=1, value=lines[0][:60] if lines else ""
        )
    title, place, utc_offset = _location(lines[0])
    per_hour = _records_per_hour(lines[:HEADER_LINES])
    rows = rows_of(lines[HEADER_LINES:])
    first = HEADER_LINES + 1
    for i, row in enumerate(rows):
        if len(row) < COLUMNS["wind"] + 1:
            raise WeatherFileError(f"a row has {FIELDS} fields; this one has {len(row)}", row=first + i, value=",".join(row)[:60])
    calendar, is_typical, said = _calendar(rows, per_hour, utc_offset, first)
    columns = {}
    for column, place_in_row in COLUMNS.items():
        texts = [row[place_in_row] for row in rows]
        if column == "pressure":
            texts = [_hectopascal(value, first + i) for i, value in enumerate(texts)]
        values = column_of(texts, column, first)
        if np.isnan(values).all() and column not in ("temperature",):
            continue
        if column in OPTIONAL and np.isnan(values).mean() > 0.1:
            said.append(f"More than a tenth of {column} is missing: not used.")
            continue
        columns[column], note = fill_gaps(values, column, first, calendar.hours_per_interval)
        if note:
            said.append(note)
    said.append(f"Hours ending 1 to 24 were taken as intervals from the hour before, UTC{utc_offset:+g}.")
    return complete(
        calendar,
        place,
        columns,
        title=title or name,
        source=lines[0].split(",")[4].strip() or "EPW file",
        is_typical=is_typical,
        notes=tuple(said),
    )


def write_epw(weather: Weather) -> str:
    """Text of an EPW file of the weather; what the format asks for and we do not know stands as its missing code."""
    c, place = weather.calendar, weather.place
    city = weather.title.replace(",", " ")
    head = [
        f"LOCATION,{city},-,-,{(weather.source or 'Noontide').replace(',', ' ')},0,{place.latitude:.6f},{place.longitude:.6f},{c.utc_offset:.2f},{place.elevation:.1f}",
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        f"HOLIDAYS/DAYLIGHT SAVINGS,{'Yes' if isleap(c.year) else 'No'},0,0,0",
        f"COMMENTS 1,{'; '.join(weather.notes).replace(',', ' ')}",
        f"COMMENTS 2,{'typical year' if weather.is_typical else 'single year'}",
        f"DATA PERIODS,1,{60 // c.step},Data,Sunday,1/1,12/31",
    ]
    starts = c.local_starts.astype("datetime64[m]").astype(object)
    rows = []
    for i, start in enumerate(starts):
        end = start.minute + c.step
        minute = 60 if end == 60 else end
        rows.append(
            f"{start.year},{start.month},{start.day},{start.hour + 1},{minute},?9?9,{_plain(weather.temperature[i])},99.9,999,"
            f"{_plain(weather.pressure[i] * 100)},9999,9999,9999,{_plain(weather.ghi[i])},{_plain(weather.dni[i])},{_plain(weather.dhi[i])},"
            f"999999,999999,999999,9999,999,{_plain(weather.wind[i])},99,99,9999,99999,9,999999999,999,.999,999,99,.999,999,99"
        )
    return "\n".join([*head, *rows]) + "\n"


def _plain(value: float) -> str:
    return repr(round(float(value), 6))


def _location(line: str) -> tuple[str, Place, float]:
    fields = next(csv.reader([line])) if len(line) < LONGEST_LINE else []
    if len(fields) < 10:
        raise WeatherFileError(
            "the LOCATION line needs ten fields, with latitude, longitude, time zone and elevation last", row=1, value=line[:60]
        )
    numbers = []
    for place, (label, low, high) in enumerate(
        (("latitude", -90, 90), ("longitude", -180, 180), ("time zone", -12, 14), ("elevation", -500, 9000)), start=6
    ):
        try:
            value = float(fields[place])
        except ValueError:
            raise WeatherFileError("a number was expected", row=1, column=label, value=fields[place]) from None
        if not low <= value <= high:
            raise WeatherFileError(f"{low} to {high} was expected", row=1, column=label, value=fields[place])
        numbers.append(value)
    latitude, longitude, utc_offset, elevation = numbers
    return fields[1].strip(), Place(latitude, longitude, elevation), utc_offset


def _records_per_hour(header: list[str]) -> int:
    for i, line in enumerate(header):
        if line.upper().startswith("DATA PERIODS"):
            fields = line.split(",")
            if len(fields) > 2 and fields[2].strip().isdigit() and int(fields[2]) > 0 and 60 // int(fields[2]) in STEPS:
                return int(fields[2])
            raise WeatherFileError(
                "the records per hour must be 1, 2, 4, 6, 12 or 60", row=i + 1, column="records per hour", value=line[:60]
            )
    raise WeatherFileError("the header has no DATA PERIODS line", row=HEADER_LINES)


def _calendar(rows: list[list[str]], per_hour: int, utc_offset: float, first: int) -> tuple[Calendar, bool, list[str]]:
    """The year's calendar, after making sure that every row stands where it should."""
    said: list[str] = []
    stamps = np.empty((len(rows), 4), dtype=np.int64)
    for i, row in enumerate(rows):
        for j in range(4):
            try:
                stamps[i, j] = int(row[j])
            except (ValueError, OverflowError):
                raise WeatherFileError(
                    "a whole number was expected", row=first + i, column=("year", "month", "day", "hour")[j], value=row[j]
                ) from None
    years = np.unique(stamps[:, 0])
    has_leap_day = bool(np.any((stamps[:, 1] == 2) & (stamps[:, 2] == 29)))
    is_typical = years.size > 1
    if years.size == 1 and isleap(int(years[0])) == has_leap_day and 1900 <= years[0] <= 2100:
        year = int(years[0])
    else:
        year = NOMINAL_LEAP_YEAR if has_leap_day else NOMINAL_YEAR
        if is_typical:
            said.append(f"A typical year of months from {years.min()} to {years.max()}: the sun is that of {year}.")
        else:
            said.append(
                f"The year {years[0]} stands here {'with' if has_leap_day else 'without'} 29 February: the sun is that of {year}."
            )
    calendar = Calendar(year, 60 // per_hour, utc_offset)
    expected = calendar.local_starts.astype("datetime64[h]").astype(object)
    for i in range(min(len(rows), calendar.intervals)):
        at = expected[i]
        if (stamps[i, 1], stamps[i, 2], stamps[i, 3]) != (at.month, at.day, at.hour + 1):
            raise WeatherFileError(
                f"month {at.month}, day {at.day}, hour {at.hour + 1} was expected: the rows must be a whole year in order, without gaps",
                row=first + i,
                column="date",
                value="/".join(str(v) for v in stamps[i, 1:4]),
            )
    if len(rows) != calendar.intervals:
        raise WeatherFileError(
            f"a year of {calendar.intervals} rows was expected; the file has {len(rows)}",
            row=first + min(len(rows), calendar.intervals),
        )
    return calendar, is_typical, said


def _hectopascal(text: str, row: int) -> str:
    try:
        value = float(text)
    except ValueError:
        raise WeatherFileError("a number in Pa was expected", row=row, column="pressure", value=text) from None
    return "" if value >= 999_999 else repr(value / 100)
