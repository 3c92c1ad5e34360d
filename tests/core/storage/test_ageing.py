"""Cycles by the example of the standard, and the life that comes of them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.storage.ageing import life, rainflow, wear


def test_the_example_of_astm_e1049():
    """Section X1, figure 6: the history A to I and its cycles."""
    ranges, counts = rainflow([-2, 1, -3, 5, -1, 3, -4, 4, -2])
    found = {}
    for size, count in zip(ranges, counts, strict=True):
        found[size] = found.get(size, 0) + count
    assert found == {3: 0.5, 4: 1.5, 6: 0.5, 8: 1.0, 9: 0.5}


@given(st.lists(st.floats(0, 10), min_size=2, max_size=60))
def test_no_range_is_longer_than_the_course_and_repeating_a_value_changes_nothing(course):
    ranges, counts = rainflow(course)
    assert np.all(ranges <= max(course) - min(course) + 1e-12) and set(counts) <= {0.5, 1.0}
    again = rainflow(np.repeat(course, 3))
    assert np.array_equal(ranges, again[0]) and np.array_equal(counts, again[1])
    # Every way up and down is in it once: half the sum of all ways is that of the full ranges.
    assert (2 * ranges * counts).sum() == pytest.approx(np.abs(np.diff(course)).sum(), abs=1e-9)


def test_wear_by_hand():
    """Ten full cycles of 6,000 and twenty half ones of 15,000."""
    course = np.array([0, 10] * 10 + [0] + [5, 0] * 20, dtype=float)
    points = [(0.5, 15_000.0), (1.0, 6_000.0)]
    assert wear(course, 10, points) == pytest.approx(10 / 6000 + 20 / 15_000)
    # Known at full depth alone, energy counts: a half cycle is half a full one.
    assert wear(course, 10, [(1.0, 6_000.0)]) == pytest.approx(10 / 6000 + 10 / 6000)
    assert wear(course, 10, []) == 0 and wear(course, 0, points) == 0
    assert life(0.05, 20) == pytest.approx(10) and life(0, 15) == 15
