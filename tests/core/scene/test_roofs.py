"""Roofs over outlines: closed forms of rectangles, and laws that hold for any outline."""

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from noontide.core.scene.roofs import ImpossibleRoof, Stage, raise_roof

RECTANGLE = np.array([[0, 0], [10, 0], [10, 6], [0, 6.0]])


def area(ring):
    x, y = np.asarray(ring)[:, :2].T
    return float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) / 2)


@st.composite
def outlines(draw):
    count = draw(st.integers(3, 10))
    gaps = np.array(draw(st.lists(st.floats(0.2, 1.0), min_size=count, max_size=count)))
    turn = np.cumsum(gaps / gaps.sum() * 2 * np.pi)
    radius = np.array(draw(st.lists(st.floats(2.0, 9.0), min_size=count, max_size=count)))
    outline = np.column_stack([radius * np.cos(turn), radius * np.sin(turn)])
    assume(shapely.Polygon(outline).is_valid and area(outline) > 1)
    return outline


def test_the_ridge_of_a_hip_is_as_long_as_the_rectangle_is_longer_than_wide():
    parts = raise_roof(RECTANGLE, (Stage((30,) * 4),))
    ridge = [p for p in np.concatenate([part.outline for part in parts]) if p[2] > 0.1]
    assert max(p[2] for p in ridge) == pytest.approx(3 * np.tan(np.radians(30)))
    assert {round(float(p[0]), 6) for p in ridge} == {3.0, 7.0}


def test_gables_stand_upright_and_meet_the_ridge():
    parts = raise_roof(RECTANGLE, (Stage((40, 90, 40, 90)),))
    gables = [part for part in parts if part.is_gable]
    assert len(gables) == 2
    assert all(part.outline[:, 2].max() == pytest.approx(3 * np.tan(np.radians(40))) for part in gables)


def test_a_mansard_breaks_at_its_height():
    parts = raise_roof(RECTANGLE, (Stage((60,) * 4, 1.5), Stage((20,) * 4)))
    upper = [part for part in parts if part.stage == 1]
    assert all(part.outline[:, 2].min() == pytest.approx(1.5) for part in upper)
    inset = 1.5 / np.tan(np.radians(60))
    assert sum(area(part.outline) for part in upper) == pytest.approx((10 - 2 * inset) * (6 - 2 * inset))


def test_a_wing_makes_a_valley_where_the_roofs_meet():
    wing = np.array([[0, 0], [10, 0], [10, 5], [4, 5], [4, 12], [0, 12.0]])
    parts = raise_roof(wing, (Stage((45,) * 6),))
    # The valley runs at half the angle of the inner corner, from (4, 5) inward and down.
    assert any(np.allclose(p, [2, 3, 2], atol=1e-6) for part in parts for p in part.outline)


@settings(max_examples=60, deadline=None)
@given(outlines(), st.floats(15, 70))
def test_the_faces_cover_the_outline_once_and_have_the_pitch(outline, pitch):
    parts = raise_roof(outline, (Stage((pitch,) * len(outline)),))
    polygons = [shapely.Polygon(part.outline[:, :2]) for part in parts]
    whole = shapely.Polygon(outline).area
    assert sum(p.area for p in polygons) == pytest.approx(whole, rel=1e-3)
    assert shapely.union_all(polygons, grid_size=1e-9).area == pytest.approx(whole, rel=1e-3)
    for part in parts:
        distance = shapely.distance(
            shapely.LineString([outline[part.edge], outline[(part.edge + 1) % len(outline)]]), shapely.points(part.outline[:, :2])
        )
        assert np.all(part.outline[:, 2] <= distance * np.tan(np.radians(pitch)) + 1e-6)


@settings(max_examples=30, deadline=None)
@given(outlines(), st.floats(0, 6.28))
def test_turning_the_outline_turns_the_roof(outline, turn):
    c, s = np.cos(turn), np.sin(turn)
    turned = outline @ np.array([[c, s], [-s, c]])
    stages = (Stage((35,) * len(outline)),)

    def heights(shape):
        found = {}
        for part in raise_roof(shape, stages):
            found[part.edge] = max(found.get(part.edge, 0.0), float(part.outline[:, 2].max()))
        return found

    assert heights(turned) == pytest.approx(heights(outline), abs=1e-3)


def test_pitches_that_never_close_are_refused():
    with pytest.raises(ImpossibleRoof, match="every edge is a gable"):
        raise_roof(RECTANGLE, (Stage((90,) * 4),))
