import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.calendar import Calendar
from noontide.core.irradiance.attitude import Fixed, Seasonal, SingleAxis, TwoAxis, stance
from noontide.core.irradiance.geometry import cos_incidence

NO_DATES = np.zeros(0, dtype="datetime64[m]")
CALM = np.zeros(1)


def at(motion, zenith, azimuth, wind=0.0):
    return stance(motion, np.array([zenith]), np.array([azimuth]), np.array([wind]), NO_DATES)


def test_a_fixed_plane_has_one_tilt_for_the_whole_year():
    stands = stance(Fixed(30, 170), np.full(9, 40.0), np.full(9, 180.0), np.zeros(9), NO_DATES)
    assert (stands.tilt.tolist(), stands.azimuth.tolist(), stands.rotation) == ([30], [170], None)


@given(st.floats(0, 89.9), st.floats(0, 360))
def test_two_axes_take_the_beam_head_on(zenith, azimuth):
    stands = at(TwoAxis(90, None), zenith, azimuth)
    assert_allclose(cos_incidence(stands.tilt, stands.azimuth, zenith, azimuth), 1, atol=1e-12)


def test_two_axes_stop_at_their_limit_lie_level_at_night_and_in_wind():
    assert at(TwoAxis(70, 12.0), 85.0, 100.0).tilt == 70
    assert at(TwoAxis(70, 12.0), 90.0, 100.0).tilt == 0
    assert at(TwoAxis(70, 12.0), 40.0, 100.0, wind=12.0).tilt == 0
    assert at(TwoAxis(70, 12.0), 40.0, 100.0, wind=11.9).tilt == 40


def test_a_stowed_row_stands_at_its_stow_angle_whatever_the_sun():
    axis = SingleAxis(0, 180, 60, None, 0, 15.0, 30.0)
    assert at(axis, 50.0, 90.0).rotation == pytest.approx(-50)
    stowed = at(axis, 50.0, 90.0, wind=15.0)
    assert (float(stowed.tilt[0]), float(stowed.azimuth[0])) == pytest.approx((30, 270))


@pytest.mark.parametrize("year", [2026, 2028])
@pytest.mark.parametrize("step", [60, 10])
def test_each_tilt_by_hand_holds_from_its_own_day_to_the_next_also_over_the_new_year(year, step):
    calendar = Calendar(year=year, step=step)
    motion = Seasonal(180, ((2, 29, 50.0), (6, 1, 10.0), (11, 15, 70.0)))
    zeros = np.zeros(calendar.intervals)
    tilts = stance(motion, zeros, zeros, zeros, calendar.local_starts).tilt
    of_day = {
        str(day): tilts[calendar.local_starts.astype("datetime64[D]") == day]
        for day in np.unique(calendar.local_starts.astype("datetime64[D]"))
    }
    assert all(np.ptp(values) == 0 for values in of_day.values())
    found = {day[5:]: values[0] for day, values in of_day.items()}
    assert (found["01-01"], found["02-28"], found["03-01"]) == (70, 70, 50)
    assert (found["05-31"], found["06-01"], found["11-14"], found["11-15"], found["12-31"]) == (50, 10, 10, 70, 70)
    if year == 2028:
        assert found["02-29"] == 50
