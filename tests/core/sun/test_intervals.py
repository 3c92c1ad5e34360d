import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.sun import absolute_air_mass, extraterrestrial_normal, interval_sun, relative_air_mass


def horizontal_energy(latitude: float, step: int, longitude: float = 0.0) -> float:
    """Extraterrestrial irradiation on the flat over a year [kWh/m2], by the suns of the intervals."""
    sun = interval_sun(Calendar(step=step), latitude, longitude)
    return float(np.sum(extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction) * step / 60 / 1000)


@pytest.mark.parametrize("latitude", [0, 43.6, -43.2, 66.5, 78, -89])
def test_sunrise_hours_are_neither_lost_nor_doubled(latitude):
    """The hour's sun at the middle of its lit part gives the year's irradiation as the minute's does."""
    assert horizontal_energy(latitude, 60) == pytest.approx(horizontal_energy(latitude, 5), rel=0.006)


@pytest.mark.parametrize(("step", "within"), [(30, 0.003), (15, 0.001), (10, 0.001)])
def test_steps_agree(step, within):
    assert horizontal_energy(51.3, step) == pytest.approx(horizontal_energy(51.3, 5), rel=within)


def test_daylight_over_a_year_is_half_of_it_and_the_lift_of_refraction():
    """34 minutes of arc at both ends of 365 days; on the equator the sun climbs at 15 cos(declination) degrees an hour."""
    declinations = np.radians(23.44) * np.sin(np.linspace(0, 2 * np.pi, 1000))
    longer = 365 * 2 * 34 / 60 / 15 * np.mean(1 / np.cos(declinations))
    assert sum(interval_sun(Calendar(), 0, 0).lit_fraction) == pytest.approx(4380 + longer, abs=0.5)


def test_the_pole_has_one_day_a_year():
    sun = interval_sun(Calendar(), 90, 0)
    assert np.all(np.diff(sun.interval_index) == 1)
    assert 186 * 24 < sun.interval_index.size < 190 * 24


@given(st.floats(-90, 90), st.floats(-180, 180), st.sampled_from([60, 30]))
def test_every_lit_interval_has_the_sun_above_the_horizon(latitude, longitude, step):
    sun = interval_sun(Calendar(step=step, utc_offset=round(longitude / 15)), latitude, longitude)
    assert np.all((sun.lit_fraction > 0) & (sun.lit_fraction <= 1))
    assert np.all(sun.zenith < 90)


@given(st.floats(-60, 60), st.floats(-179, 179))
def test_places_on_one_parallel_see_the_same_year_shifted(latitude, longitude):
    """With a clock that follows the sun, the longitude does not matter."""
    here = interval_sun(Calendar(utc_offset=0), latitude, 0.0).lit_fraction.sum()
    there = interval_sun(Calendar(utc_offset=max(-12, min(14, longitude / 15))), latitude, longitude).lit_fraction.sum()
    assert there == pytest.approx(here, rel=2e-3)


def test_a_leap_year_has_its_day():
    calendar = Calendar(2028)
    assert calendar.intervals == 8784
    assert calendar.monthly_sums(np.ones(8784))[1] == 29 * 24


@pytest.mark.parametrize("wrong", [{"step": 7}, {"utc_offset": 15}, {"utc_offset": -13}])
def test_an_irregular_clock_is_refused(wrong):
    with pytest.raises(ValueError, match="must"):
        Calendar(**wrong)


def test_air_mass_by_kasten_and_young_table():
    """Published values: 1 overhead (to 0.03 %), 1.9939 at 60°, about 38 at the horizon."""
    assert relative_air_mass(0.0) == pytest.approx(0.9997, abs=1e-4)
    assert relative_air_mass(60.0) == pytest.approx(1.9939, abs=1e-3)
    assert relative_air_mass(90.0) == pytest.approx(37.92, abs=0.03)
    assert np.isnan(relative_air_mass(95.0))
    assert absolute_air_mass(2.0, 506.625) == pytest.approx(1.0)
