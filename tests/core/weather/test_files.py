import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.calendar import Calendar
from noontide.core.sun import interval_sun
from noontide.core.weather import (
    Place,
    WeatherFileError,
    as_text,
    distance_km,
    fill_missing_columns,
    parse,
    read,
    summarise,
    write,
)
from tests.conftest import simulated_weather

COLUMNS = ("ghi", "dni", "dhi", "temperature", "wind", "pressure")


@pytest.fixture(scope="module")
def epw_lines(hill_weather):
    return as_text(hill_weather, "epw").splitlines()


def broken(lines: list[str], row: int, column: int, value: str) -> bytes:
    """The file with one field of one line (from 1) changed."""
    fields = lines[row - 1].split(",")
    fields[column] = value
    return "\n".join([*lines[: row - 1], ",".join(fields), *lines[row:]]).encode()


@pytest.mark.parametrize("kind", ["epw", "csv"])
@pytest.mark.parametrize("step", [60, 15])
def test_what_is_written_is_read_back(tmp_path, kind, step):
    weather = simulated_weather(51.3, -1.2, 60, 0, step)
    path = tmp_path / f"year.{kind}"
    write(weather, path)
    again = read(path)
    for column in COLUMNS:
        assert_allclose(getattr(again, column), getattr(weather, column), atol=1e-6 if kind == "epw" else 0)
    assert (again.calendar.step, again.place, again.is_typical) == (step, weather.place, weather.is_typical)


def test_the_plain_table_keeps_every_digit_and_the_digest(hill_weather):
    assert parse(as_text(hill_weather, "csv").encode()).digest == hill_weather.digest


@pytest.mark.parametrize("year", [2024, 2028])
def test_a_leap_year_keeps_its_day(tmp_path, year):
    weather = simulated_weather(10, 20, year=year)
    write(weather, tmp_path / "leap.epw")
    assert read(tmp_path / "leap.epw").calendar.intervals == 8784


def test_hour_one_of_epw_is_the_hour_from_midnight(epw_lines):
    """The energy of an hour stands at its start, and the sun agrees: light before and after noon is in balance."""
    weather = parse("\n".join(epw_lines).encode())
    first = epw_lines[8].split(",")
    assert weather.temperature[0] == pytest.approx(float(first[6]))
    sun = interval_sun(weather.calendar, 43.62, 11.31, 412)
    dark = np.setdiff1d(np.arange(8760), sun.interval_index)
    assert weather.ghi[dark].sum() == 0


@pytest.mark.parametrize(
    ("row", "column", "value", "said"),
    [
        pytest.param(
            100,
            6,
            "warm",
            r"line 100, column temperature: a number in °C was expected \(found 'warm'\)",
            id="a word for a number",
        ),
        pytest.param(4000, 13, "-7", r"line 4000, column ghi: 0 to 1800 W/m² was expected", id="negative light"),
        pytest.param(4000, 14, "2500", r"line 4000, column dni: 0 to 1500", id="more than the sun"),
        pytest.param(500, 3, "99", r"line 500, column date: month 1, day 21, hour 12 was expected", id="an hour that is none"),
        pytest.param(1, 6, "north", r"line 1, column latitude: a number", id="latitude in words"),
        pytest.param(1, 6, "95", r"line 1, column latitude: -90 to 90", id="latitude off the globe"),
        pytest.param(8, 2, "7", r"line 8, column records per hour", id="seven records an hour"),
        pytest.param(77, 9, "high", r"line 77, column pressure", id="pressure in words"),
    ],
)
def test_a_fault_is_told_with_its_place(epw_lines, row, column, value, said):
    with pytest.raises(WeatherFileError, match=said):
        parse(broken(epw_lines, row, column, value))


def test_a_short_year_is_not_taken_for_a_whole_one(epw_lines):
    with pytest.raises(WeatherFileError, match="8760 rows was expected; the file has 8756"):
        parse("\n".join(epw_lines[:-4]).encode())
    with pytest.raises(WeatherFileError, match="line 1010, column date"):
        parse("\n".join(epw_lines[:1009] + epw_lines[1010:]).encode())


def test_a_cut_row_is_told(epw_lines):
    with pytest.raises(WeatherFileError, match="line 42: a row has 35 fields; this one has 3"):
        parse("\n".join([*epw_lines[:41], "2026,1,2", *epw_lines[42:]]).encode())


@pytest.mark.parametrize("content", [b"", b"PK\x03\x04\x00\x00", b"hello,world\n1,2", b"LOCATION,x", b"\xff\xfe\x00"])
def test_other_files_are_refused_in_words(content):
    with pytest.raises(WeatherFileError):
        parse(content)


def test_short_gaps_are_filled_and_said_long_ones_refused(epw_lines):
    def with_gap(hours):
        lines = list(epw_lines)
        for i in range(3000, 3000 + hours):
            fields = lines[i].split(",")
            fields[6] = "99.9"
            lines[i] = ",".join(fields)
        return "\n".join(lines).encode()

    weather = parse(with_gap(3))
    assert any("3 missing values of temperature" in note for note in weather.notes)
    assert np.isfinite(weather.temperature).all()
    with pytest.raises(WeatherFileError, match="line 3001, column temperature: 7 hours in a row are missing"):
        parse(with_gap(7))


def test_months_of_several_years_make_a_typical_one(epw_lines):
    lines = epw_lines[:8] + [line.replace("2026,", f"{1999 + int(line.split(',')[1])},", 1) for line in epw_lines[8:]]
    weather = parse("\n".join(lines).encode())
    assert weather.is_typical
    assert any("typical year of months from 2000 to 2011" in note for note in weather.notes)


def test_a_file_as_stations_and_spreadsheets_leave_it_is_read(epw_lines, hill_weather):
    """A byte order mark, Windows line ends, blanks around numbers, minute 0 or 60, codes for missing, empty lines at the end."""
    head, rows = epw_lines[:8], [line.split(",") for line in epw_lines[8:]]
    head[7] = "DATA PERIODS, 1, 1,Data,Thursday, 1/ 1,12/31"
    for i, row in enumerate(rows):
        row[4] = "0" if i % 2 else "60"
        row[6] = f" {float(row[6]):5.1f} "
        row[9] = "999999" if i % 97 == 0 else f"{float(row[9]):.0f}"
        row[13] = f"{float(row[13]):.0f}"
        row[21] = "999." if i % 50 == 0 else f"{float(row[21]):.1f}"
    lines = [*head, *(",".join(row) for row in rows), "", " ", ",,,"]
    weather = parse(b"\xef\xbb\xbf" + "\r\n".join(lines).encode("utf-8"))
    assert weather.ghi.sum() == pytest.approx(hill_weather.ghi.sum(), rel=1e-3)
    assert_allclose(weather.temperature, hill_weather.temperature, atol=0.051)
    assert_allclose(weather.pressure, hill_weather.pressure, atol=1)
    assert [note.split()[0] for note in weather.notes if "missing values" in note] == ["91", "176"]


def test_letters_of_an_older_alphabet_do_not_stop_a_file(epw_lines):
    lines = [epw_lines[0].replace(epw_lines[0].split(",")[1], "Höhenhütte", 1), *epw_lines[1:]]
    assert parse("\n".join(lines).encode("latin-1")).title == "Höhenhütte"


def test_a_column_that_is_mostly_missing_is_left_out_and_said(epw_lines):
    rows = [line.split(",") for line in epw_lines[8:]]
    for row in rows[::5]:
        row[21] = "999"
    for row in rows:
        row[14] = row[15] = "9999"
    weather = parse("\n".join([*epw_lines[:8], *(",".join(row) for row in rows)]).encode())
    assert np.all(weather.wind == 2)
    assert any("More than a tenth of wind is missing" in note for note in weather.notes)
    assert any("derived from GHI (Erbs" in note for note in weather.notes)


PLAIN_HEAD = "# noontide-weather 1\n# latitude: 10\n# longitude: 20\n# utc_offset: 1\n"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("# noontide-weather 1\n# longitude: 20\ntime,ghi\n", "header needs a line '# latitude"),
        ("# noontide-weather 1\n# latitude: 10\n# longitude: 20\ntime,ghi\n", "header needs a line '# utc_offset"),
        (PLAIN_HEAD + "time,glow\n", "column glow: columns are"),
        (PLAIN_HEAD + "date,ghi\n", "first column must be 'time'"),
        (PLAIN_HEAD + "time,ghi\n2026-01-01T00:00,0,0\n", "this one has 3"),
        (PLAIN_HEAD + "time,ghi\nyesterday,0\n", "line 6, column time: a time such as"),
        (PLAIN_HEAD + "time,ghi\n2026-01-01T00:00,0\n2026-01-01T02:00,0\n", "line 7, column time: 2026-01-01T01:00 was expected"),
        (PLAIN_HEAD + "# step: 7\ntime,ghi\n2026-01-01T00:00,0\n", "line 5, column step: the step must be one of"),
    ],
)
def test_faults_of_a_plain_table_are_told(text, said):
    with pytest.raises(WeatherFileError, match=said):
        parse(text.encode())


@pytest.mark.parametrize("given", [("ghi",), ("ghi", "dhi"), ("ghi", "dni"), ("dni", "dhi"), ("ghi", "dni", "dhi")])
def test_missing_irradiance_is_derived_and_closes(hill_weather, given):
    columns = {name: getattr(hill_weather, name) for name in given} | {"temperature": hill_weather.temperature}
    weather = fill_missing_columns(hill_weather.calendar, hill_weather.place, columns, title="part of a year")
    assert abs(summarise(weather).closure) < 2e-3
    assert len(weather.notes) == (3 if len(given) < 3 else 2)  # wind, pressure, and what was derived


@pytest.mark.parametrize("columns", [{"ghi": np.zeros(8760)}, {"dni": np.zeros(8760), "temperature": np.zeros(8760)}])
def test_a_year_without_light_or_warmth_is_refused(columns):
    with pytest.raises(ValueError, match="missing"):
        fill_missing_columns(Calendar(), Place(0, 0), columns, title="")


def test_distances_on_the_globe():
    assert distance_km(Place(0, 0), Place(0, 90)) == pytest.approx(6371 * np.pi / 2)
    assert distance_km(Place(0, 179.5), Place(0, -179.5)) == pytest.approx(6371 * np.radians(1))
