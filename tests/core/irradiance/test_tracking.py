import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.irradiance.geometry import cos_incidence
from noontide.core.irradiance.tracking import plane_at, rotation
from noontide.core.sun import solar_position

axes = st.tuples(st.floats(0, 30), st.floats(0, 360), st.floats(0.1, 0.9), st.floats(-20, 20))
suns = st.tuples(st.floats(1, 89), st.floats(0, 360))


def test_on_the_equinox_at_the_equator_a_level_axis_turns_with_the_hour_angle():
    """The sun runs in the plane across a north-south axis, so that the rotation is its zenith itself."""
    for zenith, azimuth in ((60.0, 90.0), (20.0, 90.0), (35.0, 270.0)):
        turned = rotation(zenith, azimuth, axis_azimuth=180.0, backtrack=False)
        assert turned == pytest.approx(-zenith if azimuth == 90 else zenith)
        assert rotation(zenith, azimuth, axis_azimuth=0.0, backtrack=False) == pytest.approx(-turned)


@given(axes, suns)
def test_without_backtracking_no_other_rotation_sees_more_of_the_beam(axis, sun):
    tilt, facing, _, _ = axis
    best = rotation(*sun, tilt, facing, maximum=180.0, backtrack=False)
    trials = np.linspace(-180, 180, 1441)

    def seen(turned):
        return cos_incidence(*plane_at(turned, tilt, facing), *sun)

    assert seen(best) >= seen(trials).max() - 1e-9


@given(axes, suns)
def test_backtracking_rows_never_shade_one_another_and_turn_no_farther_back_than_that(axis, sun):
    """Across the axes a row of width g stands in light that comes every unit of the slope: g cos(T - R) cos(b) = cos(T - b) at the edge."""
    tilt, facing, cover, slope = axis
    ideal = np.radians(rotation(*sun, tilt, facing, maximum=180.0, backtrack=False))
    turned = np.radians(rotation(*sun, tilt, facing, cover, slope, maximum=180.0))
    lit = abs(np.cos(ideal - np.radians(slope)))
    taken = cover * np.cos(np.radians(slope)) * np.cos(ideal - turned)
    assert taken <= lit + 1e-9
    if abs(ideal - turned) > 1e-6:
        assert taken == pytest.approx(lit, abs=1e-9)


def test_low_suns_lay_the_rows_flat_and_limits_hold():
    times = np.arange("2026-06-21", "2026-06-22", 10, dtype="datetime64[m]")
    sun = solar_position(times, 40.0, 0.0)
    turned = rotation(sun.apparent_zenith, sun.azimuth, maximum=55.0)
    assert np.abs(turned).max() == pytest.approx(55.0)
    up = np.flatnonzero(sun.apparent_zenith < 90)
    assert abs(turned[up[0]]) < 10
    assert np.all(turned[sun.apparent_zenith >= 90] == 0)
    # Morning and afternoon mirror one another about the noon of the day.
    noon = np.argmin(sun.apparent_zenith)
    assert_allclose(
        turned[noon - 20 : noon], -turned[noon + 1 : noon + 21][::-1], atol=1.3
    )  # noon falls between two of the times


def test_a_plane_at_rest_lies_as_its_axis_does():
    assert_allclose(plane_at(0.0, 12.0, 200.0), (12.0, 200.0), atol=1e-9)
    tilt, azimuth = plane_at(np.array([-30.0, 30.0]), 0.0, 180.0)
    assert_allclose(tilt, 30)
    assert_allclose(azimuth, [90, 270])


@pytest.mark.parametrize(
    ("change", "words"),
    [({"ground_cover_ratio": 0}, "cover"), ({"maximum": -1}, "rotation"), ({"cross_axis_slope": 90}, "slope")],
)
def test_what_no_tracker_is_is_refused(change, words):
    with pytest.raises(ValueError, match=words):
        rotation(30.0, 100.0, **change)
