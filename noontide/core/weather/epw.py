"""EPW, the open weather format of eight header lines and 35 columns, with hours ending 1 to 24 in local standard time."""

import csv
from calendar import isleap
from dataclasses import replace

import numpy as np

from noontide.core.calendar import MONTHS, NOMINAL_LEAP_YEAR, NOMINAL_YEAR, STEPS, Calendar
from noontide.core.weather.numbers import UNITS, check_range, fill_gaps
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.table import LONGEST_LINE, Table, lines_of
from noontide.core.weather.year import TYPICAL as TYPICAL_STEP
from noontide.core.weather.year import Place, Step, Weather, fill_missing_columns, source_years

HEADER_LINES = 8
FIELDS = 35
COLUMNS = {"temperature": 6, "pressure": 9, "ghi": 13, "dni": 14, "dhi": 15, "wind": 21}
OPTIONAL = ("wind", "pressure")
MONTHS_FROM = "Months from "
TYPICAL = "typical year"  # as `write_epw` says it of a year made of one


def read_epw(text: str, name: str = "EPW file") -> Weather:
    """Read a year from the text of an EPW file.

    Raises
    ------
    WeatherFileError
        With line, column and value, for anything that does not read as a whole, regular year.
    """
    lines = lines_of(text)
    if len(lines) <= HEADER_LINES or not lines[0].upper().startswith("LOCATION"):
        raise WeatherFileError(
            "an EPW file begins with a LOCATION line and seven more header lines", row=1, value=lines[0][:60] if lines else ""
        )
    title, place, utc_offset = _location(lines[0])
    per_hour = _records_per_hour(lines[:HEADER_LINES])
    table = Table.below(lines, HEADER_LINES)
    table.check_widths(FIELDS, least=COLUMNS["wind"] + 1)
    calendar, is_of_many_years, said = _calendar(table, per_hour, utc_offset)
    is_typical = is_of_many_years or any(line.strip() == f"COMMENTS 2,{TYPICAL}" for line in lines[:HEADER_LINES])
    columns = {}
    for column, values in table.numbers(COLUMNS, UNITS | {"pressure": "Pa"}).items():
        values = check_range(values, column, table, COLUMNS[column], scale=0.01 if column == "pressure" else 1.0)
        if np.isnan(values).all() and column not in ("temperature",):
            continue
        if column in OPTIONAL and np.isnan(values).mean() > 0.1:
            said.append(f"More than a tenth of {column} is missing: not used.")
            continue
        columns[column], note = fill_gaps(values, column, table.first_row, calendar.hours_per_interval)
        if note:
            said.append(note)
    said.append(f"Hours ending 1 to 24 were taken as intervals from the hour before, UTC{utc_offset:+g}.")
    weather = fill_missing_columns(
        calendar,
        place,
        columns,
        title=title or name,
        source=lines[0].split(",")[4].strip() or "EPW file",
        is_typical=is_typical,
        notes=tuple(said),
    )
    months = next((note.removeprefix(MONTHS_FROM) for note in said if note.startswith(MONTHS_FROM)), "")
    return replace(weather, steps=(Step(TYPICAL_STEP, months),)) if months else weather


def write_epw(weather: Weather) -> str:
    """Text of an EPW file of the weather; what the format asks for and we do not know stands as its missing code."""
    c, place = weather.calendar, weather.place
    city = " ".join(weather.title.replace(",", " ").split())
    head = [
        f"LOCATION,{city},-,-,{(weather.source or 'Noontide').replace(',', ' ')},0,{place.latitude:.6f},{place.longitude:.6f},{c.utc_offset:.2f},{place.elevation:.1f}",
        "DESIGN CONDITIONS,0",
        "TYPICAL/EXTREME PERIODS,0",
        "GROUND TEMPERATURES,0",
        f"HOLIDAYS/DAYLIGHT SAVINGS,{'Yes' if isleap(c.year) else 'No'},0,0,0",
        f"COMMENTS 1,{'; '.join(weather.notes).replace(',', ' ')}",
        f"COMMENTS 2,{TYPICAL if weather.is_typical else 'single year'}",
        f"DATA PERIODS,1,{60 // c.step},Data,Sunday,1/1,12/31",
    ]
    starts = c.local_starts.astype("datetime64[m]").astype(object)
    months = source_years(weather) or ()
    of_month = months if len(set(months)) > 1 else (c.year,) * 12  # one year alone would be taken for the year itself
    rows = []
    for i, start in enumerate(starts):
        end = start.minute + c.step
        minute = 60 if end == 60 else end
        rows.append(
            f"{of_month[start.month - 1]},{start.month},{start.day},{start.hour + 1},{minute},?9?9,{_plain(weather.temperature[i])},99.9,999,"
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


def _calendar(table: Table, per_hour: int, utc_offset: float) -> tuple[Calendar, bool, list[str]]:
    """The year's calendar, after making sure that every row stands where it should."""
    said: list[str] = []
    names = {"year": 0, "month": 1, "day": 2, "hour": 3}
    read = np.column_stack(list(table.numbers(names, dict.fromkeys(names, "")).values()))
    uneven = np.argwhere(~(np.abs(read) < 1e6) | (read != np.round(read)))
    if uneven.size:
        i, j = map(int, uneven[0])
        raise WeatherFileError(
            "a whole number was expected", row=table.first_row + i, column=list(names)[j], value=table.text_at(i, j)
        )
    stamps = read.astype(np.int64)
    years = np.unique(stamps[:, 0])
    has_leap_day = bool(np.any((stamps[:, 1] == 2) & (stamps[:, 2] == 29)))
    is_typical = years.size > 1
    if years.size == 1 and isleap(int(years[0])) == has_leap_day and 1900 <= years[0] <= 2100:
        year = int(years[0])
    else:
        year = NOMINAL_LEAP_YEAR if has_leap_day else NOMINAL_YEAR
        if is_typical:
            by_month = [
                int(stamps[stamps[:, 1] == month, 0][0]) if np.any(stamps[:, 1] == month) else 0 for month in range(1, 13)
            ]
            said.append(MONTHS_FROM + ", ".join(f"{name[:3]} {of}" for name, of in zip(MONTHS, by_month, strict=True)) + ".")
            said.append(f"A typical year of months from {years.min()} to {years.max()}: sun positions are calculated for {year}.")
        else:
            said.append(
                f"The year {years[0]} is given {'with' if has_leap_day else 'without'} 29 February: sun positions are calculated for {year}."
            )
    calendar = Calendar(year, 60 // per_hour, utc_offset)
    starts = calendar.local_starts
    days = starts.astype("datetime64[D]")
    months = days.astype("datetime64[M]")
    expected = np.column_stack(
        [
            months.astype(int) % 12 + 1,
            (days - months.astype("datetime64[D]")).astype(int) + 1,
            (starts.astype("datetime64[h]") - days.astype("datetime64[h]")).astype(int) + 1,
        ]
    )
    n = min(len(table), calendar.intervals)
    wrong = np.flatnonzero((stamps[:n, 1:] != expected[:n]).any(axis=1))
    if wrong.size:
        i = int(wrong[0])
        month, day, hour = map(int, expected[i])
        raise WeatherFileError(
            f"month {month}, day {day}, hour {hour} was expected: the rows must be a whole year in order, without gaps",
            row=table.first_row + i,
            column="date",
            value="/".join(str(v) for v in stamps[i, 1:4]),
        )
    if len(table) != calendar.intervals:
        raise WeatherFileError(
            f"a year of {calendar.intervals} rows was expected; the file has {len(table)}",
            row=table.first_row + n,
        )
    return calendar, is_typical, said
