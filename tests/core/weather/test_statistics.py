import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.weather import Place, distance_km, fill_missing_columns, summarise
from noontide.core.weather.numbers import UNITS, check_range, fill_gaps
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.table import ROWS_AT_ONCE, Table

places = st.builds(Place, st.floats(-90, 90), st.floats(-180, 180))


def plain_year(**columns):
    calendar = Calendar()
    base = {"ghi": np.zeros(8760), "temperature": np.zeros(8760), "wind": np.full(8760, 2.0), "pressure": np.full(8760, 1000.0)}
    return fill_missing_columns(calendar, Place(45, 0), base | columns, title="plain")


def test_sums_and_means_of_a_year_made_by_hand():
    """100 W/m² in every hour, and a temperature that counts the hour of the day."""
    hours = np.tile(np.arange(24.0), 365)
    found = summarise(plain_year(ghi=np.full(8760, 100.0), dni=np.zeros(8760), dhi=np.full(8760, 100.0), temperature=hours))
    assert found.annual_ghi == found.annual_dhi == pytest.approx(876)
    assert found.annual_dni == 0
    assert found.monthly_ghi[1] == pytest.approx(28 * 2.4)
    assert (found.lowest_temperature, found.highest_temperature, found.mean_temperature) == (0, 23, pytest.approx(11.5))
    assert found.monthly_lowest == [0] * 12
    assert found.monthly_highest == [23] * 12
    assert found.closure == pytest.approx(0)


def test_closure_tells_of_light_that_does_not_add_up():
    found = summarise(plain_year(ghi=np.full(8760, 100.0), dni=np.zeros(8760), dhi=np.full(8760, 90.0)))
    assert found.closure == pytest.approx(0.1)


@given(places, places)
def test_distance_is_the_same_both_ways_and_never_over_half_the_globe(one, other):
    assert distance_km(one, other) == pytest.approx(distance_km(other, one), abs=1e-6)
    assert 0 <= distance_km(one, other) <= 6371 * np.pi + 1e-6
    assert distance_km(one, one) == pytest.approx(0, abs=1e-3)


@given(places, places, places)
def test_a_detour_is_never_shorter(one, other, third):
    assert distance_km(one, other) <= distance_km(one, third) + distance_km(third, other) + 1e-6


@pytest.mark.parametrize(("text", "value"), [("12.5", 12.5), (" 7 ", 7), ("-3e0", -3), ("", np.nan), ("99.9", np.nan)])
def test_fields_become_numbers_or_gaps(text, value):
    table = Table([f"x,{text},"], 1)
    read = table.numbers({"temperature": 1}, UNITS)["temperature"]
    assert check_range(read, "temperature", table, 1)[0] == pytest.approx(value, nan_ok=True)


@pytest.mark.parametrize("before", [1, ROWS_AT_ONCE - 1, ROWS_AT_ONCE, 3 * ROWS_AT_ONCE + 7])
@pytest.mark.parametrize("text", ["nan?", "1;5", "0x10", "12 C", "1_0"])
def test_a_field_that_is_no_number_is_told_wherever_it_stands(text, before):
    lines = ["1"] * before + [text] + ["2"] * 5
    with pytest.raises(WeatherFileError) as caught:
        Table(lines, 10).numbers({"wind": 0}, UNITS)
    assert (caught.value.row, caught.value.column, caught.value.value) == (10 + before, "wind", text)


def test_a_table_of_many_pieces_keeps_its_rows_in_order():
    lines = [f"{i},{i / 4}" for i in range(2 * ROWS_AT_ONCE + 3)] + ["", " , "]
    table = Table.below(["head", *lines], 1)
    read = table.numbers({"ghi": 1, "wind": 0}, UNITS)
    assert len(table) == 2 * ROWS_AT_ONCE + 3
    assert np.array_equal(read["wind"], np.arange(len(table)))
    assert np.array_equal(read["ghi"], np.arange(len(table)) / 4)


def test_a_gap_is_a_straight_line_between_its_neighbours_and_is_said():
    values, note = fill_gaps(np.array([1.0, np.nan, np.nan, 4.0]), "wind", 1, 1.0)
    assert values.tolist() == [1, 2, 3, 4]
    assert note == "2 missing values of wind were linearly interpolated."
    assert fill_gaps(np.array([1.0, 2.0]), "wind", 1, 1.0)[1] is None


@pytest.mark.parametrize(("minutes", "gap", "is_filled"), [(60, 6, True), (60, 7, False), (15, 24, True), (15, 25, False)])
def test_six_hours_are_the_longest_gap_at_any_step(minutes, gap, is_filled):
    values = np.concatenate([[1.0], np.full(gap, np.nan), [1.0]])
    if is_filled:
        assert np.isfinite(fill_gaps(values, "wind", 1, minutes / 60)[0]).all()
    else:
        with pytest.raises(WeatherFileError, match="in a row are missing"):
            fill_gaps(values, "wind", 1, minutes / 60)
