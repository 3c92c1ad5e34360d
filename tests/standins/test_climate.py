import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.calendar import Calendar
from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.core.weather.climatology import climate_at, elevation_at
from noontide.standins.climate import synthetic_year

places = st.tuples(st.floats(-90, 90), st.floats(-180, 180), st.floats(0, 3000))


@given(places)
def test_a_year_is_physical_anywhere(place):
    latitude, longitude, elevation = place
    calendar = Calendar(utc_offset=round(longitude / 15))
    year = synthetic_year(latitude, longitude, elevation, calendar)
    sun = interval_sun(calendar, latitude, longitude, elevation)
    above = np.zeros(calendar.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    assert np.all(year["ghi"] >= 0)
    assert np.all(year["ghi"] <= 0.9 * above + 0.06)  # rounded to a tenth
    assert np.all(year["wind"] >= 0)
    assert -95 < year["temperature"].min() < year["temperature"].max() < 65
    assert np.all(np.abs(np.diff(year["temperature"])) < 15)


def test_the_same_place_and_seed_give_the_same_year_and_others_do_not():
    first, again, other, elsewhere = (
        synthetic_year(latitude, 11, 400, Calendar(), seed)["ghi"] for latitude, seed in ((43, 0), (43, 0), (43, 1), (44, 0))
    )
    assert np.array_equal(first, again)
    assert not np.array_equal(first, other)
    assert not np.array_equal(first, elsewhere)


@given(places)
def test_a_year_keeps_the_means_and_the_extremes_of_its_climate(place):
    latitude, longitude, elevation = place
    calendar = Calendar(utc_offset=round(longitude / 15))
    climate, year = climate_at(latitude, longitude, elevation), synthetic_year(latitude, longitude, elevation, calendar)
    means = calendar.monthly_sums(year["temperature"]) / calendar.monthly_sums(np.ones(calendar.intervals))
    assert np.abs(means - climate.temperature).max() < 0.3
    assert year["temperature"].min() == pytest.approx(climate.lowest, abs=2.5)
    assert year["temperature"].max() == pytest.approx(climate.highest, abs=2.5)
    sun = interval_sun(calendar, latitude, longitude, elevation)
    above = np.zeros(calendar.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    light, most = calendar.monthly_sums(year["ghi"]), calendar.monthly_sums(above)
    bright = most > 20_000
    assert np.abs(light[bright] / most[bright] / climate.clearness[bright] - 1).max(initial=0) < 0.02


@pytest.mark.parametrize(
    ("latitude", "longitude", "coldest"),
    [
        pytest.param(39.95, -75.2, -12, id="a continental east coast"),
        pytest.param(52.3, 104.3, -30, id="the middle of a continent"),
    ],
)
def test_winters_of_continents_are_as_cold_as_they_are(latitude, longitude, coldest):
    """What a string must bear there: published normals of the yearly lowest are -13 °C and -37 °C."""
    elevation = elevation_at(latitude, longitude)
    year = synthetic_year(latitude, longitude, elevation, Calendar(utc_offset=round(longitude / 15)))
    assert year["temperature"].min() < coldest


def test_it_is_colder_up_the_hill():
    assert_allclose(climate_at(43, 11, 1400).temperature, climate_at(43, 11, 400).temperature - 5.5)


def test_the_maps_close_over_the_date_line_and_at_the_poles():
    for name in ("clearness", "temperature", "day_range"):
        east, west = (getattr(climate_at(10.3, x, 0), name) for x in (179.999, -179.999))
        assert_allclose(east, west, atol=0.02)
    for latitude in (90, -90):
        assert np.isfinite(climate_at(latitude, 0, 0).temperature).all()


def test_the_sea_is_at_nought_and_mountains_are_high():
    assert elevation_at(0, -30) == 0
    assert elevation_at(46.5, 8) > 1500


def test_cities_have_the_irradiation_that_was_published_for_them():
    """Round figures of national services [kWh/m2 a year], to the error that is stated for the maps."""
    for latitude, longitude, elevation, published in (
        (33.4, -112.0, 340, 2100),
        (51.5, -0.1, 20, 1000),
        (-33.9, 151.2, 40, 1680),
        (28.6, 77.2, 215, 1850),
    ):
        climate = climate_at(latitude, longitude, elevation)
        year = synthetic_year(latitude, longitude, elevation, Calendar(utc_offset=round(longitude / 15)))
        assert year["ghi"].sum() / 1000 == pytest.approx(published, rel=0.12), (latitude, climate)


@pytest.mark.parametrize(("latitude", "warmest"), [(45, (6, 7)), (-45, (0, 1))])
def test_summer_is_where_the_sun_is(latitude, warmest):
    calendar = Calendar()
    year = synthetic_year(latitude, 11, 0, calendar)
    monthly = calendar.monthly_sums(year["temperature"]) / calendar.monthly_sums(np.ones(calendar.intervals))
    assert int(np.argmax(monthly)) in warmest
    light = calendar.monthly_sums(year["ghi"])
    assert int(np.argmax(light)) in {5, 6, 7, 4} if latitude > 0 else int(np.argmax(light)) in {11, 0, 10}


def test_days_remember_the_day_before():
    """Lag-1 correlation of the daily clearness, 0.3 by design."""
    calendar = Calendar()
    ghi = synthetic_year(35, 20, 100, calendar)["ghi"].reshape(365, 24).sum(axis=1)
    season = np.convolve(np.tile(ghi, 3), np.ones(31) / 31, mode="same")[365:730]
    anomaly = ghi / season - 1
    assert 0.1 < np.corrcoef(anomaly[1:], anomaly[:-1])[0, 1] < 0.6


def test_the_air_is_never_colder_than_it_has_ever_been():
    for latitude, elevation in ((-90.0, 6000.0), (89.5, 6000.0), (-78.0, 4000.0)):
        year = synthetic_year(latitude, 0.0, elevation, Calendar(2026, 60, 0))
        assert year["temperature"].min() >= -89.2 and year["temperature"].max() < 60
