"""Whatever happens to a file on its way: it is read as a whole year, or refused with words; nothing else."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.weather import WeatherFileError, as_text, parse
from tests.conftest import simulated_weather

FILES = {kind: as_text(simulated_weather(43.62, 11.31, 412, 1), kind).encode() for kind in ("epw", "csv")}
damage = st.sampled_from(["", "-", ",", "nan", "inf", "1e999", "9" * 30, "\n", "\r", '"', "\t", "é", "0x1", "#", "-0", " "])


def read_or_told(content: bytes) -> None:
    try:
        weather = parse(content)
    except WeatherFileError:
        return
    assert weather.ghi.size == weather.calendar.intervals
    for values in (weather.ghi, weather.dni, weather.dhi, weather.temperature, weather.wind, weather.pressure):
        assert np.isfinite(values).all()
    assert min(weather.ghi.min(), weather.dni.min(), weather.dhi.min(), weather.wind.min()) >= 0


@settings(max_examples=25)
@given(st.sampled_from(sorted(FILES)), st.lists(st.tuples(st.floats(0, 1), damage, st.integers(0, 4)), min_size=1, max_size=3))
def test_a_few_letters_changed_anywhere(kind, changes):
    content = FILES[kind]
    for where, text, length in changes:
        # Half of the damage falls into the header, which is a thousandth of the file.
        at = int(where * 2 * 1200) if where < 0.5 else int((where * 2 - 1) * len(content))
        content = content[:at] + text.encode() + content[at + length :]
    read_or_told(content)


@pytest.mark.slow
@pytest.mark.parametrize("part", range(4))
def test_eight_hundred_damaged_files_are_read_or_refused(part):
    """Letters changed, lines doubled, swapped and lost, fields moved: the same eight hundred files every time, two hundred in each part."""
    rng = np.random.default_rng(20260704 + part)
    pieces = [
        b"",
        b"-",
        b",",
        b",,",
        b"nan",
        b"inf",
        b"1e999",
        b"9" * 30,
        b"\n",
        b"\r",
        b'"',
        b"\t",
        b"0x1",
        b"#",
        b"\xff",
        b"_1",
    ]
    for i in range(200):
        kind = ("epw", "csv")[i % 2]
        content = FILES[kind]
        if i % 4 < 2:
            for _ in range(rng.integers(1, 4)):
                at = int(rng.integers(0, 1200 if rng.random() < 0.5 else len(content)))
                content = content[:at] + pieces[rng.integers(len(pieces))] + content[at + int(rng.integers(0, 5)) :]
        else:
            lines = content.split(b"\n")
            a, b = rng.integers(0, 12 if rng.random() < 0.5 else len(lines), 2)
            if i % 8 < 4:
                lines[a], lines[b] = lines[b], lines[a]
            else:
                lines[a:a] = lines[b : b + int(rng.integers(0, 3))]
            content = b"\n".join(lines)
        read_or_told(content)


def test_more_lines_than_any_year_has_are_refused_before_they_are_split():
    for end in (b"\n", b"\r", b"\r\n"):
        with pytest.raises(WeatherFileError, match="at most 527,040 rows"):
            parse(b"LOCATION,a,b,c,d,e,1,2,3,4" + end * 600_000)


def test_a_line_without_end_is_refused_with_its_number():
    with pytest.raises(WeatherFileError, match="at most 10,000 characters") as caught:
        parse(b"# noontide-weather 1\n# title: a\n# source: " + b"x" * 10_001)
    assert caught.value.row == 3


@settings(max_examples=12)
@given(st.sampled_from(sorted(FILES)), st.floats(0, 1), st.floats(0, 1))
def test_a_piece_cut_out(kind, begin, end):
    content = FILES[kind]
    a, b = sorted((int(begin * len(content)), int(end * len(content))))
    read_or_told(content[:a] + content[b:])


@settings(max_examples=25)
@given(st.binary(max_size=400), st.sampled_from([b"", b"LOCATION,", b"# noontide-weather 1\n"]))
def test_anything_at_all(content, beginning):
    read_or_told(beginning + content)


HEAD = ["# noontide-weather 1", "# latitude: 10", "# longitude: 20", "# utc_offset: 1"]


def table(*rows: str, head: list[str] | None = None) -> bytes:
    return "\n".join([*(head or HEAD), *rows]).encode()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (table(), "after the header, a row of column names"),
        (table("time,ghi,ghi"), "each column may stand only once"),
        (table("time,ghi"), "the table has no rows"),
        (table("time,ghi", "1850-01-01T00:00,0"), "a year between 1900 and 2100"),
        (table("time,ghi", "2026-01-01T00:00,0", head=[*HEAD, "# elevation: high"]), "column elevation: a number"),
        (table("time,ghi", "2026-01-01T00:00,0", head=[*HEAD, "# elevation: 99999"]), "-500 to 9000 was expected"),
        (table("time,ghi", "2026-01-01T00:00,0", head=[*HEAD, "# step: often"]), "column step: a number"),
        (table("time,ghi", "NaT,0"), "a time such as 2026-01-01T00:00"),
        (table("time,ghi", "2026-01-01T00:00Z,0"), "on the clock of the utc_offset"),
        (table("time,ghi", "2026-01-01T00:00+01:00,0"), "on the clock of the utc_offset"),
        (table("time,ghi", "2026-13-01T00:00,0"), "a time such as 2026-01-01T00:00"),
        (table("time,ghi", "2026-01-01T00:00,0", "2026-01-01T01:00,0"), "has 8760 rows of 60 min; the file has 2"),
        (table("time,ghi", "2028-01-01T00:00,0"), r"the year 2028 \(a leap year\) has 8784 rows"),
    ],
)
def test_a_table_tells_what_it_wants(content, said):
    with pytest.raises(WeatherFileError, match=said):
        parse(content)


def test_a_kind_of_year_that_is_none_is_told_with_its_line():
    with pytest.raises(WeatherFileError, match="line 9, column kind: the kind of year is 'typical' or 'measured'"):
        parse(FILES["csv"].replace(b"# kind: typical", b"# kind: splendid"))


def test_a_table_without_warmth_says_so():
    lines = FILES["csv"].decode().splitlines()
    cut = [line if line.startswith("#") else ",".join(line.split(",")[:4]) for line in lines]
    with pytest.raises(WeatherFileError, match="The air temperature is missing"):
        parse("\n".join(cut).encode())
