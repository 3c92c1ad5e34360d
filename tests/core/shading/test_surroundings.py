"""Obstacles and horizon, against single rays and closed forms."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.irradiance import fresnel
from noontide.core.shading.horizon import Horizon, dome_view
from noontide.core.shading.surroundings import Obstacle, highest, lowest, obstacle_band, surroundings_of

OPAQUE = (0.0,) * 12
HILLS = Horizon((20.0, 60.0, 85.0, 250.0, 300.0), (2.0, 14.0, 6.0, 18.0, 1.0))
JUNE = np.full(1, 5)


@st.composite
def lines(draw):
    turns = sorted(draw(st.sets(st.integers(0, 359), min_size=1, max_size=8)))
    return Horizon(tuple(map(float, turns)), tuple(float(draw(st.integers(0, 60))) for _ in turns))


boxes = st.builds(
    Obstacle,
    light=st.just(OPAQUE),
    distance=st.floats(12, 400),
    azimuth=st.floats(0, 360),
    width=st.floats(0.5, 60),
    height=st.floats(0.2, 60),
)


@given(lines(), lines())
def test_the_line_over_two_is_the_higher_one_everywhere(one, other):
    turns = np.linspace(0, 359.99, 977)
    for join, choose in ((highest, np.maximum), (lowest, np.minimum)):
        assert_allclose(
            join(one, other).elevation_at(turns), choose(one.elevation_at(turns), other.elevation_at(turns)), atol=2e-4
        )


@settings(deadline=None)
@given(boxes, st.floats(0.5, 80), st.floats(-30, 30))
def test_a_rectangle_hides_the_sun_where_a_ray_meets_it(box, elevation, off):
    """A ray from the middle of the array to the sun meets the upright plane of the rectangle inside its width and under its top."""
    azimuth = (box.azimuth + off) % 360
    line, same = obstacle_band(box, 10, 6)
    assert line == same
    along = box.distance * np.tan(np.radians(off))
    height = box.distance / np.cos(np.radians(off)) * np.tan(np.radians(elevation))
    inside = abs(along) < box.width / 2 and height < box.height
    edge = abs(abs(along) - box.width / 2) < 0.002 * box.distance or abs(height - box.height) < 0.002 * box.height + 0.002
    if not edge:
        seen = surroundings_of(Horizon(), (box,), 10, 6).beam_seen(np.array([90 - elevation]), np.array([azimuth]), JUNE)
        assert seen.item() == (0.0 if inside else 1.0)


def test_light_that_it_lets_through_goes_by_month():
    leaves = (1.0,) * 3 + (0.25,) * 6 + (1.0,) * 3
    tree = Obstacle(leaves, 20.0, 180.0, 10.0, 12.0)
    around = surroundings_of(Horizon(), (tree,), 10, 6)
    sun = np.full(2, 80.0), np.full(2, 180.0)
    assert around.beam_seen(*sun, np.array([0, 6])).tolist() == [1.0, 0.25]
    view = around.view(np.array([30.0]), np.array([180.0]), np.ones_like, np.array([0, 6]))
    opaque = surroundings_of(Horizon(), (Obstacle(OPAQUE, 20.0, 180.0, 10.0, 12.0),), 10, 6).view(
        np.array([30.0]), np.array([180.0]), np.ones_like, JUNE
    )
    assert view.isotropic[0] == pytest.approx(1, abs=1e-6)
    assert 1 - view.isotropic[1] == pytest.approx(0.75 * (1 - opaque.isotropic), rel=1e-4)


def test_an_opaque_veil_is_an_opaque_obstacle_also_for_the_glass():
    hidden = Obstacle(OPAQUE, 30.0, 200.0, 15.0, 20.0)
    thin = Obstacle((1e-12,) * 12, 30.0, 200.0, 15.0, 20.0)
    plane = np.array([25.0]), np.array([170.0])
    one, other = (surroundings_of(HILLS, (o,), 10, 6).view(*plane, fresnel, JUNE) for o in (hidden, thin))
    for field in ("isotropic", "band", "isotropic_iam"):
        assert np.ravel(getattr(other, field)) == pytest.approx(np.ravel(getattr(one, field)), abs=1e-6)


@settings(deadline=None, max_examples=30)
@given(boxes, st.floats(1.01, 3))
def test_the_sky_that_is_seen_shrinks_as_an_obstacle_grows(box, factor):
    taller = Obstacle(OPAQUE, box.distance, box.azimuth, box.width * factor, box.height * factor)
    small, large = (
        dome_view(surroundings_of(HILLS, (o,), 10, 6).horizon, 30, 180, np.ones_like).isotropic for o in (box, taller)
    )
    assert large <= small + 1e-6  # the quadrature between other points


@settings(deadline=None, max_examples=30)
@given(boxes, st.floats(0, 360))
def test_turning_everything_together_changes_nothing(box, turn):
    turned = Obstacle(OPAQUE, box.distance, (box.azimuth + turn) % 360, box.width, box.height)
    first = dome_view(surroundings_of(Horizon(), (box,), 10, 6).horizon, 30, 100, np.ones_like)
    second = dome_view(surroundings_of(Horizon(), (turned,), 10, 6).horizon, 30, (100 + turn) % 360, np.ones_like)
    assert first.isotropic == pytest.approx(second.isotropic, abs=2e-5)


def test_a_near_pole_is_a_band_and_counts_as_seen_from_where_it_hides_most():
    pole = Obstacle(OPAQUE, 4.0, 180.0, 0.2, 2.0)
    low, high = obstacle_band(pole, 10, 6)
    turns = np.linspace(0, 359, 360)
    assert np.all(low.elevation_at(turns) <= high.elevation_at(turns) + 1e-9)
    assert high.elevation_at(180.0) == pytest.approx(np.degrees(np.arctan(2 / 1)), abs=0.6)  # three metres nearer
    far_low, far_high = obstacle_band(Obstacle(OPAQUE, 12.0, 180.0, 0.2, 2.0), 10, 6)
    assert far_low == far_high
    assert far_high.elevation_at(180.0) == pytest.approx(np.degrees(np.arctan(2 / 12)), abs=1e-3)
    # From some place of the array the pole stands before any sun between the ends of the band.
    assert np.all(high.elevation_at(np.arange(150, 210, 0.5)) > 15)
    counted = surroundings_of(Horizon(), (pole,), 10, 6).horizon
    assert counted.elevation_at(180.0) == pytest.approx(np.degrees(np.arctan(2 / 1)), abs=0.6)
    assert counted.elevation_at(190.0) == 0  # 0.2 m wide and a metre away


@pytest.mark.parametrize("distance", [None, 40.0])
def test_a_measured_outline_may_run_over_north(distance):
    tree = Obstacle(OPAQUE, distance, outline=((350.0, 10.0), (0.0, 30.0), (12.0, 8.0)))
    line, _ = obstacle_band(tree, 10, 6)
    assert_allclose(line.elevation_at([350, 0, 12, 180]), [10, 30, 8, 0], atol=1e-4)
    assert line.elevation_at(349.0) == 0


def test_an_obstacle_within_the_array_hides_at_most_the_half_of_the_sky_behind_it():
    wall = Obstacle(OPAQUE, 0.3, 180.0, 1000.0, 500.0)
    view = dome_view(surroundings_of(Horizon(), (wall,), 10, 6).horizon, 0, 0, np.ones_like)
    assert 0 <= view.isotropic < 0.55


def test_a_table_of_solar_access_stands_in_place_of_everything():
    from noontide.core.shading.surroundings import Surroundings

    table = tuple(tuple(0.01 * hour + 0.05 * month for hour in range(24)) for month in range(12))
    found = Surroundings(Horizon(), access=table).access_at(np.array([0, 11]), np.array([9, 20]))
    assert found.tolist() == pytest.approx([0.09, 0.75])
