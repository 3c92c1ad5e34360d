"""Filling a face: no overlap, every distance kept, and at least the best regular lattice."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.layout import ImpossibleFace, fill, usable_area


def boxes(modules):
    return shapely.box(modules[:, 0], modules[:, 1], modules[:, 0] + modules[:, 2], modules[:, 1] + modules[:, 3])


def best_lattice(usable, width, height, gap, step):
    """Most modules of any regular lattice, by trying its offsets one by one."""
    best = 0
    x0, y0, x1, y1 = usable.bounds
    for w, h in ((width, height), (height, width)):
        for dy in np.arange(0, h + gap, step):
            for dx in np.arange(0, w + gap, step):
                x, y = np.meshgrid(np.arange(x0 + dx, x1, w + gap), np.arange(y0 + dy, y1, h + gap))
                tried = shapely.box(x.ravel() + 1e-7, y.ravel() + 1e-7, x.ravel() + w - 1e-7, y.ravel() + h - 1e-7)
                best = max(best, int(shapely.contains(usable, tried).sum()) if len(tried) else 0)
    return best


@st.composite
def faces(draw):
    count = draw(st.integers(3, 8))
    gaps = np.array(draw(st.lists(st.floats(0.2, 1.0), min_size=count, max_size=count)))
    turn = np.cumsum(gaps / gaps.sum() * 2 * np.pi)
    radius = np.array(draw(st.lists(st.floats(1.5, 5.0), min_size=count, max_size=count)))
    outline = np.column_stack([radius * np.cos(turn), radius * np.sin(turn)])
    place = st.tuples(st.floats(-2, 2), st.floats(-2, 2), st.floats(0.2, 1.0))
    holes = [np.array(shapely.box(x, y, x + s, y + s).exterior.coords)[:-1] for x, y, s in draw(st.lists(place, max_size=2))]
    return outline, holes


@pytest.mark.parametrize(
    ("size", "setback", "count"),
    [
        pytest.param((10, 6), 0.0, 25, id="five rows of five in landscape"),
        pytest.param((1.134, 1.722), 0.0, 1, id="a face as large as a module"),
        pytest.param((1.133, 1.722), 0.0, 0, id="a millimetre too small"),
        pytest.param((1.134 + 0.6, 1.722 + 0.6), 0.3, 1, id="and its setbacks"),
    ],
)
def test_a_rectangle_holds_what_divides_it(size, setback, count):
    outline = np.array(shapely.box(0, 0, *size).exterior.coords)[:-1]
    assert len(fill(outline, [], 1.134, 1.722, gap=0.02, setback=setback)) == count


@settings(max_examples=25, deadline=None)
@given(
    faces(),
    st.floats(0.7, 1.4),
    st.floats(1.2, 2.2),
    st.sampled_from([0.0, 0.02, 0.1]),
    st.sampled_from([0.0, 0.3]),
    st.sampled_from([0.0, 0.2]),
)
def test_nothing_overlaps_and_every_distance_is_kept(face, width, height, gap, setback, clearance):
    outline, holes = face
    modules = fill(outline, holes, width, height, gap, setback, clearance)
    whole, found = shapely.Polygon(outline), boxes(modules)
    assert np.all(shapely.covers(whole.buffer(1e-7), found))
    assert np.all(shapely.distance(whole.exterior, found) >= setback - 1e-6)
    for hole in holes:
        away = shapely.distance(shapely.Polygon(hole), found)
        assert np.all(away >= clearance - 1e-6)
        assert np.all(shapely.area(shapely.intersection(shapely.Polygon(hole), found)) < 1e-6)
    for k, one in enumerate(found):
        for other in found[:k]:
            assert one.distance(other) >= gap - 1e-6 and one.intersection(other).area < 1e-6


@settings(max_examples=12, deadline=None)
@given(faces(), st.floats(0.8, 1.3), st.floats(1.4, 2.0), st.sampled_from([0.0, 0.02]), st.sampled_from([0.0, 0.2]))
def test_it_holds_at_least_the_best_lattice(face, width, height, gap, setback):
    outline, holes = face
    usable = usable_area(outline, holes, setback, 0.1)
    if usable.is_empty:
        return
    assert len(fill(outline, holes, width, height, gap, setback, 0.1)) >= best_lattice(usable, width, height, gap, 0.09)


def test_the_best_orientation_is_the_one_of_which_more_fit():
    low = [[0, 0], [8, 0], [8, 1.2], [0, 1.2]]
    assert len(fill(low, [], 1.134, 1.722, orientation="portrait")) == 0
    assert len(fill(low, [], 1.134, 1.722)) == len(fill(low, [], 1.134, 1.722, orientation="landscape")) == 4


def test_a_regular_pattern_is_taken_where_it_holds_as_many():
    modules = fill([[0, 0], [10, 0], [10, 6], [0, 6]], [], 1.134, 1.722, 0.02)
    assert len(np.unique(modules[:, 0].round(6))) == 5


def test_setbacks_edge_by_edge():
    outline = [[0, 0], [10, 0], [10, 6], [0, 6]]
    usable = usable_area(outline, [], [1.0, 0, 0.5, 0])
    assert usable.bounds == pytest.approx((0, 1, 10, 5.5))


@pytest.mark.parametrize(
    ("outline", "words"),
    [
        ([[0, 0], [5, 5], [5, 0], [0, 5]], "crosses itself"),
        ([[0, 0], [1, 1]], "three corners"),
        ([[0, 0], [1, 0], [np.nan, 1]], "not a number"),
    ],
)
def test_a_broken_outline_is_refused(outline, words):
    with pytest.raises(ImpossibleFace, match=words):
        fill(outline, [], 1, 2)
