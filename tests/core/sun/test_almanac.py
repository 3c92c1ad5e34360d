"""The sun against a second method: the low-precision formulas of the Astronomical Almanac, good to 0.01° from 1950 to 2050."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.sun import solar_position

moments = st.integers(-631_152_000, 2_524_607_999).map(lambda s: np.datetime64(s, "s"))


def almanac(moment: np.datetime64, latitude: float, longitude: float) -> tuple[float, float, float]:
    """Zenith without refraction, azimuth [°] and distance [au], by the Almanac's page C5 and the spherical triangle."""
    n = float((moment - np.datetime64("2000-01-01T12:00:00")) / np.timedelta64(1, "s")) / 86_400
    mean_longitude, anomaly = 280.460 + 0.9856474 * n, np.radians(357.528 + 0.9856003 * n)
    ecliptic = np.radians(mean_longitude + 1.915 * np.sin(anomaly) + 0.020 * np.sin(2 * anomaly))
    obliquity = np.radians(23.439 - 0.0000004 * n)
    right_ascension = np.arctan2(np.cos(obliquity) * np.sin(ecliptic), np.cos(ecliptic))
    declination = np.arcsin(np.sin(obliquity) * np.sin(ecliptic))
    distance = 1.00014 - 0.01671 * np.cos(anomaly) - 0.00014 * np.cos(2 * anomaly)
    hour_angle = np.radians(280.46062 + 360.98564737 * n + longitude) - right_ascension
    phi = np.radians(latitude)
    cosine = np.sin(phi) * np.sin(declination) + np.cos(phi) * np.cos(declination) * np.cos(hour_angle)
    azimuth = np.arctan2(-np.sin(hour_angle), np.tan(declination) * np.cos(phi) - np.sin(phi) * np.cos(hour_angle))
    return float(np.degrees(np.arccos(np.clip(cosine, -1, 1)))), float(np.degrees(azimuth) % 360), float(distance)


@given(moments, st.floats(-89, 89), st.floats(-180, 180))
def test_zenith_and_distance_agree_with_the_almanac(moment, latitude, longitude):
    sun = solar_position(moment, latitude, longitude)
    zenith, _, distance = almanac(moment, latitude, longitude)
    # 0.01° of the Almanac and the parallax of 0.0024°, which it leaves out.
    assert float(sun.zenith) == pytest.approx(zenith, abs=0.0135)
    assert float(sun.distance) == pytest.approx(distance, abs=3e-4)


@given(moments, st.floats(-80, 80), st.floats(-180, 180))
def test_azimuth_agrees_with_the_almanac_away_from_the_zenith(moment, latitude, longitude):
    sun = solar_position(moment, latitude, longitude)
    zenith, azimuth, _ = almanac(moment, latitude, longitude)
    turn = (float(sun.azimuth) - azimuth + 180) % 360 - 180
    assert abs(turn) * np.sin(np.radians(zenith)) < 0.014


@pytest.mark.parametrize(
    ("day", "latitude", "hours"),
    [("2026-06-21", 0, 12.12), ("2026-06-21", 51.5, 16.64), ("2026-12-21", 51.5, 7.83), ("2026-03-20", 40, 12.15)],
)
def test_days_are_as_long_as_almanacs_print(day, latitude, hours):
    """Sunrise to sunset of the upper limb with 34' of refraction, 50' under the horizon for the centre [h]."""
    minutes = np.datetime64(f"{day}T00:00") + np.arange(1440) * np.timedelta64(1, "m")
    up = solar_position(minutes, latitude, 0).zenith < 90 + 50 / 60
    assert up.sum() / 60 == pytest.approx(hours, abs=0.04)
