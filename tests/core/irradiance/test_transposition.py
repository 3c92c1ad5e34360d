import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.irradiance import cos_incidence, ground_reflected, hay_davies, isotropic, perez, perez_brightness, reindl
from noontide.core.sun import relative_air_mass
from noontide.core.weather import erbs

ABOVE = 1361.1
tilts, azimuths, zeniths = st.floats(0, 90), st.floats(0, 360), st.floats(0, 85)


def all_models(dhi, dni, zenith, tilt, incidence):
    """Totals of the four models for one sun and sky."""
    cosine, cz = np.cos(np.radians(incidence)), np.cos(np.radians(zenith))
    sky = perez_brightness(np.array([dhi]), np.array([dni]), ABOVE, np.array([zenith]), relative_air_mass(np.array([zenith])))
    return {
        "isotropic": isotropic(np.array([dhi]), tilt),
        "hay-davies": hay_davies(np.array([dhi]), np.array([dni]), ABOVE, cosine, cz, tilt),
        "reindl": reindl(np.array([dhi]), np.array([dni]), np.array([dhi + dni * cz]), ABOVE, cosine, cz, tilt),
        "perez": perez(np.array([dhi]), sky, cosine, cz, tilt),
    }


@given(st.floats(1, 600), st.floats(0, 1000), zeniths)
def test_every_model_gives_the_horizontal_diffuse_on_the_flat(dhi, dni, zenith):
    for name, sky in all_models(dhi, dni, zenith, 0.0, zenith).items():
        assert_allclose(sky.total, dhi, rtol=1e-9, err_msg=name)


@given(st.floats(1, 600), zeniths, tilts)
def test_without_beam_hay_davies_and_reindl_are_isotropic(dhi, zenith, tilt):
    models = all_models(dhi, 0.0, zenith, tilt, 30.0)
    for name in ("hay-davies", "reindl"):
        assert_allclose(models[name].total, models["isotropic"].total, rtol=1e-12)


def test_perez_coefficients_at_the_edge_of_the_clearest_bin():
    """By hand, from the table of the paper: zenith 60°, DHI 100, DNI 900 gives epsilon 10/(2.195)+..., bin 7 or 8."""
    zenith = np.array([60.0])
    sky = perez_brightness(np.array([100.0]), np.array([900.0]), ABOVE, zenith, relative_air_mass(zenith))
    cubed = 1.041 * (np.pi / 3) ** 3
    epsilon, delta = (10 + cubed) / (1 + cubed), 100 * 1.9939 / ABOVE
    assert sky.clearness.item() == pytest.approx(epsilon, rel=1e-9)
    assert 4.5 < epsilon < 6.2
    assert sky.circumsolar.item() == pytest.approx(1.060 - 1.600 * delta - 0.359 * np.pi / 3, abs=1e-4)
    assert sky.horizon.item() == pytest.approx(0.264 - 1.127 * delta + 0.131 * np.pi / 3, abs=1e-4)


@given(tilts, azimuths, st.floats(0, 90), azimuths)
def test_incidence_is_the_angle_between_two_unit_vectors(tilt, azimuth, zenith, sun_azimuth):
    def vector(angle, direction):
        a, d = np.radians(angle), np.radians(direction)
        return np.array([np.sin(a) * np.sin(d), np.sin(a) * np.cos(d), np.cos(a)])

    assert cos_incidence(tilt, azimuth, zenith, sun_azimuth) == pytest.approx(
        vector(tilt, azimuth) @ vector(zenith, sun_azimuth), abs=1e-12
    )


@given(tilts, zeniths, st.floats(0, 180))
def test_morning_and_evening_are_alike_for_a_plane_facing_south(tilt, zenith, from_south):
    morning, evening = (cos_incidence(tilt, 180, zenith, 180 + side * from_south) for side in (-1, 1))
    assert morning == pytest.approx(evening, abs=1e-12)


def test_ground_and_sky_share_the_view_of_a_wall():
    assert ground_reflected(800.0, 0.2, 90.0) == pytest.approx(80.0)
    assert ground_reflected(800.0, 0.2, 0.0) == pytest.approx(0.0)


@given(st.floats(0, 1300), st.floats(0.06, 1), st.floats(0.1, 1))
def test_erbs_closes_exactly_and_never_exceeds_the_sun(ghi, cosine, lit):
    dni, dhi = erbs(ghi, cosine, ABOVE, lit)
    assert_allclose(dni * cosine + dhi, ghi, rtol=1e-12, atol=1e-9)
    assert 0 <= dni <= ABOVE * lit + 1e-9


@pytest.mark.parametrize(
    ("clearness", "fraction"),
    [
        pytest.param(0.0, 1.0, id="night-dark"),
        pytest.param(0.2, 0.982, id="overcast"),
        pytest.param(0.5, 0.6592, id="between"),
        pytest.param(0.9, 0.165, id="clear"),
    ],
)
def test_diffuse_fraction_of_erbs_by_hand(clearness, fraction):
    ghi = clearness * ABOVE * 0.7
    _, dhi = erbs(ghi, 0.7, ABOVE)
    assert dhi == pytest.approx(ghi * fraction, rel=2e-4)
