"""A reading applied: from the rows of a table to weather years on a regular axis."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import NOMINAL_LEAP_YEAR, NOMINAL_YEAR, Calendar
from noontide.core.sun import IntervalSun, interval_sun
from noontide.core.weather.numbers import RANGES, gaps_in
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.clockwork import Wall, standard_minutes, wall_of
from noontide.core.weather.reading.columns import factor_of, without_codes
from noontide.core.weather.reading.frame import Frame, frame_of
from noontide.core.weather.reading.model import IRRADIANCES, TIME_PARTS, Reading
from noontide.core.weather.reading.text import Sheet
from noontide.core.weather.year import FILLED, GUESSED_PLACE, Place, Step, Weather, dni_of_horizontal, fill_missing_columns

Floats = NDArray[np.float64]
SHORT_GAP = 6.0  # h, interpolated
LONG_GAP = 15.0 * 24  # h, filled from the days before and after
MOST_MISSING = 0.25  # of the lit intervals of a year
OPTIONAL = ("wind", "pressure")


@dataclass(frozen=True)
class _Rows:
    """Rows of one year: their place on the axis and their number in the table."""

    calendar: Calendar
    index: NDArray[np.int64]
    row: NDArray[np.int64]


def table_of(sheet: Sheet, reading: Reading) -> Frame:
    """The rows of a sheet as a reading divides them."""
    width = max((c.place for c in reading.columns), default=0) + 1
    texts = {c.place for c in reading.columns if c.role in ("stamp", "date", "clock")}
    last = min(reading.last_row, len(sheet.lines))
    if reading.first_row > last:
        raise WeatherFileError(
            f"the table cannot begin in line {reading.first_row} and end in line {last}", row=reading.first_row
        )
    return frame_of(
        sheet.lines,
        reading.first_row - 1,
        last - 1,
        reading.delimiter,
        reading.decimal,
        width,
        texts,
        reading.cuts,
        reading.thousands,
    )


def apply_reading(
    sheet: Sheet, reading: Reading, name: str = "weather table", frame: Frame | None = None, wall: Wall | None = None
) -> Weather:
    """The weather year of a table: of several years the one that the reading names, else the fullest, of these the last.

    `frame` and `wall` are the table's columns and times where they have been taken out of it already.

    Raises
    ------
    WeatherFileError
        With line, column and value, where the table and the reading do not make a year.
    """
    frame = frame if frame is not None else table_of(sheet, reading)
    wall = wall if wall is not None else wall_of(frame, reading)
    rows = _years(wall, reading)
    if reading.year is not None and not reading.is_typical:
        chosen = next((one for one in rows if one.calendar.year == reading.year), None)
        if chosen is None:
            raise WeatherFileError(f"the table has no rows of {reading.year}; it has {_said_years(rows)}", row=reading.first_row)
    else:
        chosen = max(rows, key=lambda one: (round(len(np.unique(one.index)) / one.calendar.intervals, 2), one.calendar.year))
    return _weather(chosen, frame, reading, name, [one.calendar.year for one in rows])


def years_of(sheet: Sheet, reading: Reading, name: str = "weather table") -> list[Weather]:
    """Every year of a table that is nearly whole, in order.

    Raises
    ------
    WeatherFileError
        If none is.
    """
    frame = table_of(sheet, reading)
    rows = _years(wall_of(frame, reading), reading)
    whole = [one for one in rows if len(np.unique(one.index)) > 0.3 * one.calendar.intervals]
    made, refused = [], None
    for one in whole:
        try:
            made.append(_weather(one, frame, reading, name, [one.calendar.year]))
        except WeatherFileError as error:
            refused = refused or error
    if not made:
        raise refused or WeatherFileError(f"no year of the table is whole; it has {_said_years(rows)}", row=reading.first_row)
    return made


def _said_years(rows: list[_Rows]) -> str:
    years = [one.calendar.year for one in rows]
    return str(years[0]) if len(years) == 1 else f"{years[0]} to {years[-1]}"


def _years(wall: Wall, reading: Reading) -> list[_Rows]:
    """The rows by year, each with its place on the year's axis."""
    starts = standard_minutes(wall, reading)
    # An interval begins at a whole number of steps after midnight; a clock that is some minutes off is brought there.
    off = (starts % reading.step + reading.step / 2) % reading.step - reading.step / 2
    usual = float(np.median(off))
    uneven = np.flatnonzero(np.abs(off - usual) > 0.3 * reading.step)
    if uneven.size > 0.01 * starts.size:
        raise WeatherFileError(
            f"times do not follow each other by {reading.step} min; the first that is off stands {abs(off[uneven[0]]):.0f} min beside",
            row=reading.first_row + int(uneven[0]),
        )
    starts = np.round((starts - usual) / reading.step) * reading.step
    dates = starts.astype("int64").astype("datetime64[m]")
    years = dates.astype("datetime64[Y]").astype(np.int64) + 1970
    if not wall.has_year or reading.is_typical:
        return [_nominal(dates, reading)]
    found = []
    for year in np.unique(years):
        row = np.flatnonzero(years == year)
        # A last row that marks the end of the year begins no year of its own.
        if 1900 <= year <= 2100 and (row.size > 1440 // reading.step or len(np.unique(years)) == 1):
            calendar = Calendar(int(year), _step(reading), reading.utc_offset)
            first = calendar.local_starts[0].astype(np.int64)
            index = ((starts[row] - first) / calendar.step).astype(np.int64)
            found.append(_Rows(calendar, index, row))
    if not found:
        raise WeatherFileError("the dates lie in no year between 1900 and 2100", row=reading.first_row)
    return found


def _step(reading: Reading) -> int:
    """Of the year that is made: rows of several hours are divided into hours."""
    return min(reading.step, 60)


def _nominal(dates: NDArray[np.datetime64], reading: Reading) -> _Rows:
    """The rows of a typical year on the calendar of a nominal one, by month, day and time."""
    months = dates.astype("datetime64[M]")
    month = months.astype(np.int64) % 12
    day = (dates.astype("datetime64[D]") - months.astype("datetime64[D]")).astype(np.int64)
    of_day = (dates - dates.astype("datetime64[D]")).astype(np.int64)
    has_leap_day = bool(np.any((month == 1) & (day == 28)))
    calendar = Calendar(NOMINAL_LEAP_YEAR if has_leap_day else NOMINAL_YEAR, _step(reading), reading.utc_offset)
    first_of_month = np.array([np.datetime64(f"{calendar.year}-{m:02d}-01", "m").astype(np.int64) for m in range(1, 13)])
    start = first_of_month[month] + day * 1440 + of_day
    index = (start - calendar.local_starts[0].astype(np.int64)) // calendar.step
    return _Rows(calendar, index, np.arange(dates.size))


def _weather(rows: _Rows, frame: Frame, reading: Reading, name: str, years: list[int]) -> Weather:
    calendar = rows.calendar
    if reading.latitude is None or reading.longitude is None:
        raise WeatherFileError("the file does not say where it was measured: latitude and longitude are needed in the reading")
    place = Place(reading.latitude, reading.longitude, reading.elevation or 0.0)
    sun = interval_sun(calendar, place.latitude, place.longitude, place.elevation)
    lit = np.zeros(calendar.intervals, dtype=bool)
    lit[sun.interval_index] = True
    present = np.zeros(calendar.intervals, dtype=bool)
    for late in range(max(1, reading.step // 60)):
        present[np.minimum(rows.index + late, calendar.intervals - 1)] = True
    if present.mean() < 0.3:
        first, last = calendar.local_starts[rows.index.min()], calendar.local_starts[rows.index.max()]
        raise WeatherFileError(
            f"a whole year was expected; the table has {int(present.sum()):,} of the {calendar.intervals:,} intervals of {calendar.year}, from {first} to {last}",
            row=reading.first_row,
        )
    notes = _said(reading, calendar, years)
    if (twice := rows.index.size - len(np.unique(rows.index))) > 0:
        notes.append(f"{twice:,} times are listed twice; the first of each is used.")
    columns: dict[str, Floats] = {}
    flags = np.zeros(calendar.intervals, dtype=np.uint8)
    for column in reading.columns:
        if not column.role or column.role in TIME_PARTS:
            continue
        role = column.role
        values = _on_axis(rows, without_codes(frame.numbers(column.place, column.heading), reading.missing), calendar)
        factor, shift = factor_of(column.unit, role, reading.step)
        values = values * factor + shift
        _check(values, role, rows, frame, column.heading, notes)
        if reading.step > 60:
            values = _in_hours(values, rows, role, reading.step // 60, sun)
        kept = _filled(values, role, lit, frame, column.heading, calendar, flags, notes)
        if kept is not None:
            columns[role] = kept
    _beam_on_the_horizontal(columns, sun, notes)
    if "temperature" not in columns:
        raise WeatherFileError(
            "no column holds the air temperature, which is needed for the cell temperature; name it in the reading",
            row=reading.first_row,
        )
    if "ghi" not in columns and not {"dni", "dhi"} <= columns.keys():
        raise WeatherFileError(
            "no column holds GHI, nor two of them DNI and DHI; name them in the reading", row=reading.first_row
        )
    weather = fill_missing_columns(
        calendar,
        place,
        columns,
        title=reading.title or name,
        source=name,
        is_typical=reading.is_typical or not reading.years,
        notes=tuple(notes),
    )
    return replace(weather, flags=flags, steps=(Step("read", f"Read from {name}, {len(frame):,} rows of {reading.step} min."),))


def _said(reading: Reading, calendar: Calendar, years: list[int]) -> list[str]:
    notes = []
    if any(f.subject in ("latitude", "longitude") and f.value.startswith("about") for f in reading.findings):
        notes.append(
            f"{GUESSED_PLACE} by the course of the light, about {reading.latitude:.0f}°, {reading.longitude:.0f}°: the file states none. Give it in the reading."
        )
    notes.append(f"Times mark the {reading.stamps} of an interval of {reading.step} min, UTC{reading.utc_offset:+g}.")
    if reading.step > 60:
        notes.append(
            f"Rows of {reading.step // 60} hours were divided into hours: light by the height of the sun, the rest linearly interpolated."
        )
    if reading.daylight_saving:
        notes.append(f"The clock follows the summer time of {reading.daylight_saving}; brought to standard time.")
    if reading.shift:
        notes.append(f"Times shifted by {reading.shift:+g} min.")
    if reading.is_typical and reading.years:
        notes.append(
            f"A typical year of months from {min(reading.years)} to {max(reading.years)}: sun positions are calculated for {calendar.year}."
        )
    elif not reading.years:
        notes.append(f"The dates have no year: sun positions are calculated for {calendar.year}.")
    elif len(years) > 1:
        notes.append(f"The table has the years {', '.join(map(str, years[:12]))}; {calendar.year} is used.")
    if reading.missing:
        notes.append(f"Values of {', '.join(f'{v:g}' for v in reading.missing)} are taken as missing.")
    return notes


def _on_axis(rows: _Rows, values: Floats, calendar: Calendar) -> Floats:
    on_axis = np.full(calendar.intervals, np.nan)
    # The first of several rows for one interval stays: written last.
    on_axis[rows.index[::-1]] = values[rows.row][::-1]
    return on_axis


def _in_hours(values: Floats, rows: _Rows, role: str, hours: int, sun: IntervalSun) -> Floats:
    """Values of rows of several hours, each at its first hour, in every hour: light keeps its mean and follows the height of the sun."""
    starts = np.unique(rows.index)
    if role not in IRRADIANCES:
        known = starts[np.isfinite(values[starts])]
        return np.interp(np.arange(values.size), known + (hours - 1) / 2, values[known]) if known.size else values
    height = np.zeros(values.size)
    height[sun.interval_index] = np.maximum(np.cos(np.radians(sun.zenith)), 0) * sun.lit_fraction
    if role == "dni":
        height = (height > 0).astype(float)
    spread = np.full(values.size, np.nan)
    places = starts[:, np.newaxis] + np.arange(hours)
    places = places[places[:, -1] < values.size]
    weight = height[places]
    total = weight.sum(axis=1, keepdims=True)
    even = np.full_like(weight, 1 / hours)
    spread[places] = values[places[:, :1]] * hours * np.divide(weight, total, out=even, where=total > 0)
    return spread


def _check(values: Floats, role: str, rows: _Rows, frame: Frame, heading: str, notes: list[str]) -> None:
    """Small negative irradiances become 0; what no place on Earth has is refused where it stands."""
    bounds = RANGES["dni" if role == "beam_horizontal" else role]
    if role in IRRADIANCES:
        low = (values < 0) & (values > -30)
        if low.any():
            values[low] = 0.0
            notes.append(
                f"{int(low.sum()):,} small negative values of {_plain(role)} were set to 0, as instruments show them at night."
            )
    with np.errstate(invalid="ignore"):
        wrong = np.flatnonzero((values < bounds.low) | (values > bounds.high))
    if wrong.size:
        i = int(wrong[0])
        row = int(rows.row[np.flatnonzero(rows.index == i)[0]])
        raise WeatherFileError(
            f"{bounds.low:g} to {bounds.high:g} {bounds.unit} was expected for {_plain(role)}; this is {values[i]:,.5g} {bounds.unit} as it is read ({wrong.size:,} such values). "
            "Check the unit of the column, or name the value as one that is missing",
            row=frame.row_of(row),
            column=heading,
        )


def _filled(
    values: Floats,
    role: str,
    lit: NDArray[np.bool_],
    frame: Frame,
    heading: str,
    calendar: Calendar,
    flags: NDArray[np.uint8],
    notes: list[str],
) -> Floats | None:
    """Gaps closed, and marked; None where a quantity that may be left out has too few values."""
    missing = np.isnan(values)
    if not missing.any():
        return values
    if role in IRRADIANCES:
        night = missing & ~lit
        values[night] = 0.0
        missing &= lit
        if night.any():
            notes.append(f"{int(night.sum()):,} missing values of {_plain(role)} at night are 0.")
    share = missing.sum() / max(int(lit.sum()) if role in IRRADIANCES else values.size, 1)
    # Where the nights were left out, what was measured by day is all there: it counts by day.
    by_day = float((missing & lit).sum() / max(int(lit.sum()), 1))
    if role in OPTIONAL and min(share, by_day) > MOST_MISSING:
        notes.append(f"{share:.0%} of {_plain(role)} is missing: not used.")
        return None
    if missing.all() or (share > MOST_MISSING and role in IRRADIANCES) or share > 0.6:
        raise WeatherFileError(
            f"{share:.0%} of {_plain(role)} is missing; a year needs at least {1 - MOST_MISSING:.0%}",
            row=frame.first_row,
            column=heading,
        )
    if not missing.any():
        return values
    starts, ends = gaps_in(missing)
    a_day, hours = 1440 // calendar.step, (ends - starts) * calendar.hours_per_interval
    if (longest := float(hours.max())) > LONG_GAP:
        at = int(starts[int(np.argmax(hours))])
        raise WeatherFileError(
            f"{_plain(role)} is missing for {longest / 24:,.0f} days from {calendar.local_starts[at]}; gaps of up to {LONG_GAP / 24:.0f} days can be filled",
            column=heading,
        )
    known = np.flatnonzero(~missing)
    is_short = np.zeros(values.size, dtype=bool)
    for start, end, length in zip(starts, ends, hours, strict=True):
        # Rows left out at night split a day: what stands between two lit values of one day is short.
        if length <= SHORT_GAP and (role not in IRRADIANCES or length <= 3):
            is_short[start:end] = True
    values[missing] = np.interp(np.flatnonzero(missing), known, values[known])
    long = np.flatnonzero(missing & ~is_short)
    if long.size:
        values[long] = _from_days_around(values, missing, long, a_day)
    flags[missing] |= FILLED
    short = int((missing & is_short).sum())
    if short:
        notes.append(f"{short:,} missing values of {_plain(role)} were linearly interpolated.")
    if long.size:
        notes.append(
            f"{long.size:,} missing values of {_plain(role)} were filled from the days before and after, at the same time of day."
        )
    return values


def _from_days_around(values: Floats, missing: NDArray[np.bool_], wanted: NDArray[np.int64], a_day: int) -> Floats:
    """The mean of the same time on the nearest day before and the nearest after that have a value."""
    total, count = np.zeros(wanted.size), np.zeros(wanted.size)
    for direction in (-1, 1):
        at, open_ = wanted.copy(), np.ones(wanted.size, dtype=bool)
        for _ in range(40):
            at = np.where(open_, at + direction * a_day, at)
            inside = (at >= 0) & (at < values.size)
            usable = open_ & inside & ~missing[np.clip(at, 0, values.size - 1)]
            total[usable] += values[at[usable]]
            count[usable] += 1
            open_ &= ~usable & inside
            if not open_.any():
                break
    return np.where(count > 0, total / np.maximum(count, 1), values[wanted])


def _beam_on_the_horizontal(columns: dict[str, Floats], sun: IntervalSun, notes: list[str]) -> None:
    beam = columns.pop("beam_horizontal", None)
    if beam is None:
        return
    if "dni" in columns:
        notes.append("The beam on the horizontal is not used: DNI has a column of its own.")
        return
    columns["dni"] = dni_of_horizontal(beam, sun)
    notes.append("DNI is the beam on the horizontal divided by cos(zenith).")


def _plain(role: str) -> str:
    return {"ghi": "GHI", "dni": "DNI", "dhi": "DHI", "beam_horizontal": "the beam on the horizontal"}.get(role, role)
