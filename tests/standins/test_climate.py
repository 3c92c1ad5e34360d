import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.standins.climate import climate_at, synthetic_year

places = st.tuples(st.floats(-90, 90), st.floats(-180, 180), st.floats(0, 3000))


@given(places)
def test_a_year_is_physical_anywhere(place):
    latitude, longitude, elevation = place
    calendar = Calendar(utc_offset=round(longitude / 15))
    year = synthetic_year(latitude, longitude, elevation, calendar)
    sun = interval_sun(calendar, latitude, longitude, elevation)
    above = np.zeros(calendar.intervals)
    above[sun.lit] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    assert np.all(year["ghi"] >= 0)
    assert np.all(year["ghi"] <= 0.84 * above + 0.06)  # rounded to a tenth
    assert np.all(year["wind"] >= 0)
    assert -90 < year["temperature"].min() < year["temperature"].max() < 65
    assert np.all(np.abs(np.diff(year["temperature"])) < 12)


def test_the_same_place_and_seed_give_the_same_year_and_others_do_not():
    first, again, other, elsewhere = (
        synthetic_year(latitude, 11, 400, Calendar(), seed)["ghi"] for latitude, seed in ((43, 0), (43, 0), (43, 1), (44, 0))
    )
    assert np.array_equal(first, again)
    assert not np.array_equal(first, other)
    assert not np.array_equal(first, elsewhere)


@given(places, st.floats(-0.5, 0.5))
def test_the_climate_is_smooth(place, step):
    """Half a degree away, on any side, nothing jumps."""
    latitude, longitude, elevation = place
    here = climate_at(latitude, longitude, elevation)
    there = climate_at(np.clip(latitude + step, -90, 90), longitude, elevation)
    assert abs(here.clearness - there.clearness) < 0.02
    assert abs(here.mean_temperature - there.mean_temperature) < 1.5


def test_it_is_colder_up_the_hill_and_toward_the_pole():
    assert climate_at(43, 11, 1400).mean_temperature == pytest.approx(climate_at(43, 11, 400).mean_temperature - 6)
    assert (
        climate_at(60, 11, 0).mean_temperature < climate_at(45, 11, 0).mean_temperature < climate_at(10, 11, 0).mean_temperature
    )


@pytest.mark.parametrize(("latitude", "warmest"), [(45, (6, 7)), (-45, (0, 1))])
def test_summer_is_where_the_sun_is(latitude, warmest):
    calendar = Calendar()
    year = synthetic_year(latitude, 11, 0, calendar)
    monthly = calendar.monthly_sums(year["temperature"]) / calendar.monthly_sums(np.ones(calendar.intervals))
    assert int(np.argmax(monthly)) in warmest
    light = calendar.monthly_sums(year["ghi"])
    assert int(np.argmax(light)) in {5, 6, 7, 4} if latitude > 0 else int(np.argmax(light)) in {11, 0, 10}


def test_days_remember_the_day_before():
    """Lag-1 correlation of the daily clearness, a third by design."""
    calendar = Calendar()
    ghi = synthetic_year(35, 20, 100, calendar)["ghi"].reshape(365, 24).sum(axis=1)
    season = np.convolve(np.tile(ghi, 3), np.ones(31) / 31, mode="same")[365:730]
    anomaly = ghi / season - 1
    assert 0.1 < np.corrcoef(anomaly[1:], anomaly[:-1])[0, 1] < 0.6
