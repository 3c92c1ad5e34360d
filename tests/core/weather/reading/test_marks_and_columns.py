"""Marks between thousands, and columns of characters that touch one another."""

import numpy as np
import pytest
from pydantic import ValidationError

from noontide.core.weather import WeatherFileError, parse, reading_of
from noontide.core.weather.reading.layout import layout_of_lines
from noontide.core.weather.reading.model import Reading
from tests.conftest import simulated_weather
from tests.core.weather.reading.test_recognise import LONDON, assert_same, starts_of

ABOVE = ["Latitude: 51.52", "Longitude: -0.12", "Elevation: 24 m", "UTC+0"]


def grouped(value: float, thousands: str, decimal: str, digits: int) -> str:
    text = f"{value:,.{digits}f}".replace(",", "\0").replace(".", decimal)
    return text.replace("\0", thousands)


def table(thousands: str, decimal: str, delimiter: str, digits: int = 1, quote: str = "") -> bytes:
    """Pressure is beyond a thousand in most hours."""
    rows = [
        delimiter.join(
            [
                start.strftime("%Y-%m-%d %H:%M"),
                *(quote + grouped(v, thousands, decimal, digits) + quote for v in (ghi, temperature, pressure)),
            ]
        )
        for start, ghi, temperature, pressure in zip(
            starts_of(LONDON), LONDON.ghi * 3.6, LONDON.temperature, LONDON.pressure + 5, strict=True
        )
    ]
    head = delimiter.join(["time", "GHI [kJ/m2]", "Temperature [°C]", "Pressure [hPa]"])
    return "\n".join([*ABOVE, head, *rows]).encode()


@pytest.mark.parametrize(
    ("thousands", "decimal", "delimiter", "quote"),
    [
        (".", ",", ";", ""),
        (",", ".", ";", ""),
        (",", ".", ",", '"'),
        ("'", ".", "\t", ""),
        ("\u00a0", ",", ";", ""),
        ("\u202f", ",", ";", ""),
        (" ", ",", ";", ""),
    ],
)
def test_thousands_are_read_whatever_stands_between_them(thousands, decimal, delimiter, quote):
    content = table(thousands, decimal, delimiter, quote=quote)
    read = parse(content, "table")
    np.testing.assert_allclose(read.ghi, LONDON.ghi, atol=0.02)
    np.testing.assert_allclose(read.pressure, LONDON.pressure + 5, atol=0.06)
    reading = reading_of(content, "table")
    assert (reading.thousands, reading.decimal) == (thousands, decimal)


def test_three_decimals_are_no_thousands():
    content = table("", ",", ";", digits=3)
    reading = reading_of(content, "table")
    assert (reading.thousands, reading.decimal) == ("", ",")
    np.testing.assert_allclose(parse(content, "table").temperature, LONDON.temperature, atol=0.001)


def test_whole_numbers_in_thousands_are_told_by_those_below():
    content = table(".", ",", ";", digits=0)
    assert reading_of(content, "table").thousands == "."
    np.testing.assert_allclose(parse(content, "table").ghi, LONDON.ghi, atol=0.2)


def test_a_word_in_a_column_with_marks_is_named_by_its_own_row():
    lines = table(".", ",", ";").decode().split("\n")
    lines[4000] = ";".join([*lines[4000].split(";")[:3], "broken"])
    with pytest.raises(WeatherFileError, match="broken") as found:
        parse("\n".join(lines).encode(), "table")
    assert found.value.row == 4001


def test_a_mark_cannot_be_for_decimals_and_thousands():
    with pytest.raises(ValidationError, match="same mark"):
        Reading(decimal=",", thousands=",")
    with pytest.raises(ValidationError, match="places that rise"):
        Reading(delimiter="", cuts=[4, 2])
    with pytest.raises(ValidationError, match="places that rise"):
        Reading(delimiter="")


def fixed(weather, head: list[str]) -> bytes:
    """Year, month, day, hour in ten characters, then numbers that fill their columns where they are large."""
    rows = [
        f"{start:%Y%m%d%H}{round(ghi * 3.6):4d}{round(dhi * 3.6):4d}{temperature:5.1f}{round(pressure * 10):5d}"
        for start, ghi, dhi, temperature, pressure in zip(
            starts_of(weather), weather.ghi, weather.dhi, weather.temperature, weather.pressure, strict=True
        )
    ]
    return "\n".join([*head, *rows]).encode()


def test_columns_of_characters_without_blanks_between_them():
    content = fixed(LONDON, ABOVE)
    layout = layout_of_lines(content.decode().split("\n"))
    assert layout.delimiter == ""
    assert {10, 14, 18} <= set(layout.cuts)
    reading = reading_of(content, "table")
    # Without headings the quantities are set by hand.
    by_cut = {10: ("ghi", "kJ/m²"), 14: ("dhi", "kJ/m²"), 18: ("temperature", "°C")}
    roles = {reading.cuts.index(cut): role for cut, role in by_cut.items()}
    columns = [
        c.model_copy(update=dict(zip(("role", "unit"), roles.get(c.place, ("", "")), strict=True)))
        if c.place >= min(roles)
        else c
        for c in reading.columns
    ]
    chosen = Reading.model_validate(reading.model_dump() | {"columns": [c.model_dump() for c in columns]})
    read = parse(content, "table", chosen)
    np.testing.assert_allclose(read.ghi, LONDON.ghi, atol=0.15)
    np.testing.assert_allclose(read.temperature, LONDON.temperature, atol=0.06)


def test_headings_over_columns_of_characters_are_taken():
    content = fixed(LONDON, [*ABOVE, "     stamp ghi dhi temp pres"])
    reading = reading_of(content, "table")
    assert [c.heading for c in sorted(reading.columns, key=lambda c: c.place)][-4:] == ["ghi", "dhi", "temp", "pres"]


def test_blanks_divide_where_they_always_do():
    lines = [
        f"{start:%Y-%m-%d %H:%M}  {ghi:7.1f}  {t:6.1f}"
        for start, ghi, t in zip(starts_of(LONDON), LONDON.ghi, LONDON.temperature, strict=True)
    ]
    assert layout_of_lines(["date clock ghi temp", *lines]).delimiter == " "
    assert_same("\n".join([*ABOVE, "date time GHI[W/m2] Temp[C]", *lines]).encode(), LONDON)


def test_minutes_of_a_cold_place_in_columns():
    arctic = simulated_weather(69.6, 18.9, 10, 1)
    layout = layout_of_lines(fixed(arctic, ABOVE).decode().split("\n"))
    assert layout.delimiter == "" and 18 in layout.cuts
