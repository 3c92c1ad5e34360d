import numpy as np
import pytest

from noontide.core.calendar import Calendar
from noontide.core.irradiance import cos_incidence, directed_light, ground_reflected, orientation_map, perez, perez_brightness
from noontide.core.sun import extraterrestrial_normal, interval_sun, relative_air_mass
from tests.conftest import simulated_weather


@pytest.fixture(scope="module")
def sky():
    weather = simulated_weather(43.62, 11.31, 412, 1)
    sun = interval_sun(weather.calendar, 43.62, 11.31, 412)
    dni, dhi, ghi = (getattr(weather, name)[sun.interval_index] for name in ("dni", "dhi", "ghi"))
    above = extraterrestrial_normal(sun.distance)
    bright = perez_brightness(dhi, dni, above, sun.zenith, relative_air_mass(sun.zenith))
    return sun, dni, dhi, ghi, bright


def mapped(sky, **more):
    sun, dni, dhi, ghi, bright = sky
    ones = np.ones_like(dni)
    return orientation_map(directed_light(dni, dhi, ghi, 0.2 * ones, sun.zenith, sun.azimuth, bright, ones, 1.0), **more)


@pytest.mark.parametrize(("tilt", "azimuth"), [(0, 0), (30, 180), (60, 90), (90, 270), (90, 0), (12, 336)])
def test_a_point_of_the_map_is_the_plane_itself(sky, tilt, azimuth):
    """The sums that the map takes apart, put together hour by hour for one plane."""
    sun, dni, dhi, ghi, bright = sky
    cosine = cos_incidence(tilt, azimuth, sun.zenith, sun.azimuth)
    dome = perez(dhi, bright, cosine, sun.cos_zenith, tilt)
    plane = np.sum(dni * np.maximum(cosine, 0) + dome.total + ground_reflected(ghi, 0.2, tilt)) / 1000
    found = mapped(sky)
    row, column = int(np.argmin(np.abs(found.tilts - tilt))), int(np.argmin(np.abs(found.azimuths - azimuth)))
    assert found.irradiation[row, column] == pytest.approx(plane, rel=1e-9)


def test_the_flat_is_worth_the_same_whichever_way_it_faces(sky):
    flat = mapped(sky).irradiation[0]
    assert np.ptp(flat) < 1e-9
    assert flat[0] == pytest.approx(sky[3].sum() / 1000, rel=2e-3)


def test_the_best_facing_looks_to_the_equator(sky):
    tilt, azimuth, worth = mapped(sky).best
    assert 28 <= tilt <= 42
    assert 168 <= azimuth <= 192
    assert worth == mapped(sky).irradiation.max()


def test_a_finer_map_holds_the_coarser_one(sky):
    coarse, fine = mapped(sky, tilt_step=6, azimuth_step=12), mapped(sky, tilt_step=3, azimuth_step=6)
    assert np.allclose(fine.irradiation[::2, ::2], coarse.irradiation)


def test_south_of_the_equator_it_looks_north():
    weather = simulated_weather(-43.18, 170.46, 6, 12)
    sun = interval_sun(Calendar(utc_offset=12), -43.18, 170.46, 6)
    dni, dhi, ghi = (getattr(weather, name)[sun.interval_index] for name in ("dni", "dhi", "ghi"))
    bright = perez_brightness(dhi, dni, extraterrestrial_normal(sun.distance), sun.zenith, relative_air_mass(sun.zenith))
    ones = np.ones_like(dni)
    _, azimuth, _ = orientation_map(directed_light(dni, dhi, ghi, 0.2 * ones, sun.zenith, sun.azimuth, bright, ones, 1.0)).best
    assert azimuth <= 24 or azimuth >= 336
