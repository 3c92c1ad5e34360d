"""Rows hold the very modules that were put into them, whatever those are."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from noontide.core.design.layout import Layout
from noontide.core.design.module_rows import EVEN, MOST_MODULES, Place, in_rows

places = st.builds(Place, st.integers(-400, 400).map(lambda k: k / 8), st.integers(0, 30).map(lambda k: k / 4), st.booleans())
names = st.one_of(
    st.integers(1, 60).map(lambda k: f"m{k}"), st.sampled_from(["m0", "m01", "n3", "m9999999", "m10000000", "roof-2", "m"])
)


def even(first: int, count: int, u: float = 0.3, v: float = 1.1, step: float = 1.154) -> dict[str, Place]:
    return {f"m{first + k}": Place(round(u + k * step, 4), v) for k in range(count)}


@given(st.dictionaries(names, places, max_size=40))
def test_any_modules_come_back_as_they_were(placed):
    layout = Layout().holding(placed)
    assert set(layout.placed) == set(placed)
    for key, place in placed.items():
        back = layout.placed[key]
        assert (back.v, back.is_landscape) == (place.v, place.is_landscape)
        assert back.u == pytest.approx(place.u, abs=EVEN)


@given(st.integers(1, 2000), st.floats(0.4, 3), st.floats(-50, 50), st.integers(1, 99))
def test_an_even_row_is_one_whatever_its_step(count, step, u, first):
    rows, hand = in_rows(even(first, count, u, 2.0, step))
    if count == 1:
        assert rows == {} and set(hand) == {f"m{first}"}
    else:
        (row,) = rows.values()
        assert (row.first, row.count, hand) == (first, count, {})


def test_rows_end_where_numbers_heights_ways_or_steps_do():
    two = even(1, 5) | even(6, 5, v=3.0)
    assert [(row.first, row.count) for row in in_rows(two)[0].values()] == [(1, 5), (6, 5)]
    gap = even(1, 9)
    del gap["m4"]
    assert [(row.first, row.count) for row in in_rows(gap)[0].values()] == [(1, 3), (5, 5)]
    turned = {key: place._replace(is_landscape=key > "m5") for key, place in even(1, 8).items()}
    assert [row.count for row in in_rows(turned)[0].values()] == [5, 3]
    leftwards = dict(zip(even(1, 4), reversed(even(1, 4).values()), strict=True))
    assert in_rows(leftwards)[0] == {} and len(in_rows(leftwards)[1]) == 4


def test_names_of_rows_that_are_there_are_left_alone():
    assert list(in_rows(even(1, 3), {"r1", "r2"})[0]) == ["r3"]


def test_what_was_moved_by_hand_goes_before_the_row_and_what_is_missing_is_not_there():
    row = {"first": 3, "count": 4, "u": 1, "v": 2, "step": 1.2, "missing": [5, 77]}
    placed = Layout.model_validate({"module_rows": {"r1": row}, "modules": {"m4": {"u": 9, "v": 9}}}).placed
    assert placed == {"m3": (1, 2, False), "m4": (9, 9, False), "m6": (4.6, 2, False)}


def test_rows_that_hold_more_than_a_surface_keeps_are_refused():
    row = {"first": 1, "count": MOST_MODULES, "u": 0, "v": 0, "step": 1}
    Layout.model_validate({"module_rows": {"r1": row}})
    with pytest.raises(ValidationError, match="The rows hold 80,000 modules; a surface keeps 40,000 or less"):
        Layout.model_validate({"module_rows": {"r1": row, "r2": row}})
    with pytest.raises(ValidationError):
        Layout.model_validate({"module_rows": {"r1": row | {"count": MOST_MODULES + 1}}})


def test_a_field_of_twenty_one_thousand_modules_is_a_document_of_some_kilobytes():
    field = {key: place for row in range(150) for key, place in even(1 + 140 * row, 140, v=6.5 * row).items()}
    layout = Layout().holding(field)
    kept = json.dumps(layout.model_dump(mode="json", exclude_unset=True))
    assert len(field) == 21_000 and len(kept) < 20_000
    assert Layout.model_validate_json(kept).placed == field


@given(
    st.lists(st.tuples(st.integers(1, 40), st.integers(1, 15), st.lists(st.integers(1, 60), max_size=6)), max_size=4),
    st.sets(st.one_of(st.integers(1, 60).map("m{}".format), st.sampled_from(["a", "m01"])), max_size=6),
)
def test_one_module_and_their_number_are_found_as_all_of_them_are(rows, hand):
    """Rows that share numbers, numbers that are missing twice or lie beside the row, modules moved by hand among them."""
    layout = Layout.model_validate(
        {
            "module_rows": {
                f"r{k}": {"first": first, "count": count, "u": 0.3 * k, "v": k, "step": 1.155, "missing": missing}
                for k, (first, count, missing) in enumerate(rows)
            },
            "modules": {key: {"u": 70 + k, "v": 3} for k, key in enumerate(sorted(hand))},
        }
    )
    assert layout.size == len(layout.placed)
    for key in [f"m{k}" for k in range(70)] + ["a", "m01", "m", "x1"]:
        assert layout.place_of(key) == layout.placed.get(key)


def test_the_last_modules_of_the_highest_numbers_are_found_too():
    layout = Layout.model_validate({"module_rows": {"r": {"first": 9_999_999, "count": 3, "u": 0, "v": 0, "step": 1}}})
    assert [layout.place_of(key) for key in layout.placed] == list(layout.placed.values()) and "m10000001" in layout.placed
