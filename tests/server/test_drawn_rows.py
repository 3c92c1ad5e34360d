"""Modules as rows on their way to the drawing: all of them come back, where they were."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.server.projects.drawn_rows import drawn_rows, spans_of
from tests.server.conftest import modules_of_rows

ALONG, UP = np.array([1.1, 0.2, 0.0]), np.array([-0.1, 1.6, 0.4])


def quads(places):
    places = np.asarray(places, dtype=float).reshape(-1, 3)
    return np.stack([places, places + ALONG, places + ALONG + UP, places + UP], axis=1)


def test_an_even_row_is_one_line_and_a_moved_module_parts_it():
    places = np.arange(300)[:, np.newaxis] * np.array([1.154, 0.31, 0.0])
    ids = [f"m{k}" for k in range(41, 341)]
    (row,) = drawn_rows(ids, quads(places))
    assert (row.first, row.number, row.count) == ("m41", 1, 300)
    places[120] += 0.05
    # The moved one and the next make a row of their own step.
    assert [one.count for one in drawn_rows(ids, quads(places))] == [120, 2, 178]


names = st.one_of(st.integers(0, 30).map("m{}".format), st.sampled_from(["a", "row-007", "x9y", "m01", "7"]))
spots = st.tuples(*[st.floats(-50, 50).map(lambda x: round(x, 3))] * 3)


@given(st.lists(st.tuples(names, spots), unique_by=lambda pair: pair[0], min_size=1, max_size=12), st.integers(0, 8))
def test_all_modules_come_back_where_they_were(loose, even):
    places = [spot for _, spot in loose] + [(100 + 1.2 * k, 0.0, 0.1 * k) for k in range(even)]
    ids = [key for key, _ in loose] + [f"r{k}" for k in range(8, 8 + even)]
    corners = quads(places)
    assert drawn_rows([], np.zeros((0, 4, 3))) == []
    back = modules_of_rows([row.model_dump() for row in drawn_rows(ids, corners)])
    assert [one["id"] for one in back] == ids and [one["number"] for one in back] == list(range(1, len(ids) + 1))
    assert np.allclose([one["corners"] for one in back], corners, atol=1e-3)


@pytest.mark.parametrize(
    ("ids", "spans"),
    [
        pytest.param(["m1", "m2", "m3"], [("m1", "m3")], id="up"),
        pytest.param(["m9", "m8", "m7", "m3"], [("m9", "m7"), ("m3", "m3")], id="down, then one apart"),
        pytest.param(["m1", "m2", "m1"], [("m1", "m2"), ("m1", "m1")], id="there and back"),
        pytest.param(["m09", "m10"], [("m09", "m09"), ("m10", "m10")], id="a number with a zero before it stands alone"),
        pytest.param([], [], id="none"),
    ],
)
def test_ids_of_a_string_are_kept_in_their_order(ids, spans):
    assert spans_of(ids) == spans
