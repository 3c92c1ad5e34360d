import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.sun import solar_position
from noontide.core.sun.position import geocentric_path

moments = st.integers(-631_152_000, 2_524_607_999).map(lambda s: np.datetime64(s, "s"))  # 1950 to 2049
latitudes, longitudes = st.floats(-90, 90), st.floats(-180, 180)


def test_the_worked_example_of_nrel_tp_560_34302():
    sun = solar_position(
        np.datetime64("2003-10-17T19:30:30"), 39.742476, -105.1786, elevation=1830.14, pressure=820, temperature=11
    )
    assert sun.apparent_zenith == pytest.approx(50.11162, abs=2e-4)
    assert sun.azimuth == pytest.approx(194.34024, abs=2e-4)
    assert sun.distance == pytest.approx(0.9965422974, abs=2e-6)


def test_meeus_example_25b_for_1992_october_13():
    """Apparent right ascension 13h 13m 30.749s and declination -7° 47' 01.74" at 0h dynamical time (Meeus, p. 169).

    Ours counts from the mean equinox: less by the nutation in longitude, 15.908", times the cosine of 23.4402°.
    """
    days = np.array(
        [(np.datetime64("1992-10-13") - np.datetime64("2000-01-01T12:00")) / np.timedelta64(1, "s") / 86_400 - 59 / 86_400]
    )
    place = geocentric_path(days)(days)
    equinoxes = 15.908 / 3600 * np.cos(np.radians(23.4402))
    assert_allclose(place.right_ascension % 360 + equinoxes, (13 + 13 / 60 + 30.749 / 3600) * 15, atol=3e-4)
    assert_allclose(np.degrees(np.arcsin(place.sin_declination)), -(7 + 47 / 60 + 1.74 / 3600), atol=3e-4)


@pytest.mark.parametrize(
    ("moment", "declination"),
    [
        pytest.param("2026-06-21T08:24", 23.4362, id="June solstice"),
        pytest.param("2026-12-21T20:50", -23.4362, id="December solstice"),
        pytest.param("2026-03-20T14:46", 0.0, id="March equinox"),
        pytest.param("2026-09-23T00:05", 0.0, id="September equinox"),
    ],
)
def test_seasons_begin_at_their_published_minutes(moment, declination):
    """At the poles the elevation is the declination; times as published in astronomical almanacs, to the minute."""
    sun = solar_position(np.datetime64(moment), 90, 0)
    assert 90 - sun.zenith == pytest.approx(declination, abs=0.004)


@given(moments, longitudes)
def test_the_poles_see_opposite_suns(moment, longitude):
    north, south = (solar_position(moment, latitude, longitude) for latitude in (90, -90))
    # The parallax, up to 8.8 arc seconds, lowers the sun for both.
    assert north.zenith + south.zenith == pytest.approx(180, abs=0.006)


@given(moments, latitudes)
def test_the_date_line_has_two_names(moment, latitude):
    east, west = solar_position(moment, latitude, 180), solar_position(moment, latitude, -180)
    assert east.zenith == pytest.approx(west.zenith, abs=1e-9)


@given(moments, latitudes, longitudes)
def test_many_times_at_once_are_the_same_as_one_by_one(moment, latitude, longitude):
    many = moment + np.arange(400) * np.timedelta64(1, "h")
    year = solar_position(many, latitude, longitude)
    for i in (0, 133, 399):
        one = solar_position(many[i], latitude, longitude)
        assert year.zenith[i] == pytest.approx(float(one.zenith), abs=2e-5)


@given(moments, st.floats(-80, 80), longitudes)
def test_refraction_lifts_the_sun_by_at_most_its_horizon_value(moment, latitude, longitude):
    sun = solar_position(moment, latitude, longitude)
    assert 0 <= sun.zenith - sun.apparent_zenith < 0.75
    assert 0 <= sun.azimuth < 360
    assert 0.983 < sun.distance < 1.017


def test_noon_on_the_equator_at_equinox_is_overhead():
    day = np.datetime64("2026-03-20T12:00") + np.arange(0, 20, 1) * np.timedelta64(1, "m")
    assert solar_position(day, 0, 0).zenith.min() < 0.2


@pytest.mark.parametrize("field", [{"latitude": 91}, {"latitude": np.nan}, {"longitude": -181}, {"pressure": 82_000}])
def test_a_place_off_the_globe_is_refused_with_its_value(field):
    with pytest.raises(ValueError, match="must be between"):
        solar_position(np.datetime64("2026-01-01"), **({"latitude": 0, "longitude": 0} | field))


def test_a_missing_time_is_refused():
    with pytest.raises(ValueError, match="NaT"):
        solar_position(np.array(["2026-01-01", "NaT"], dtype="datetime64[s]"), 0, 0)
