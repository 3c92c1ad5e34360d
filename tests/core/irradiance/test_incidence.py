import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.integrate import dblquad

from noontide.core.irradiance import ashrae, fresnel, from_table, martin_ruiz
from noontide.core.irradiance.incidence import mean_iam_of_band, mean_iam_of_sky, over_ground, tabulated

MODELS = {"fresnel": fresnel, "coated": lambda c: fresnel(c, coated=True), "ashrae": ashrae, "martin-ruiz": martin_ruiz}


@pytest.mark.parametrize("name", MODELS)
def test_modifier_is_one_ahead_falls_with_the_angle_and_ends_at_zero(name):
    cosine = np.cos(np.radians(np.linspace(0, 90, 200)))
    values = MODELS[name](cosine)
    assert values[0] == pytest.approx(1, abs=1e-12)
    assert np.all(np.diff(values) <= 1e-3)  # a coating gains a little before it loses
    assert values[-1] == pytest.approx(0, abs=1e-6)
    assert np.all(MODELS[name](np.array([-0.5, -1.0])) == 0)


def test_bare_glass_at_normal_incidence_is_what_the_index_says():
    """Snell and Fresnel for n = 1.526 at 60°: refraction 34.58°, reflectances by hand, absorption path 1 / cos."""
    inner = np.arcsin(np.sin(np.radians(60)) / 1.526)
    s = (np.sin(inner - np.pi / 3) / np.sin(inner + np.pi / 3)) ** 2
    p = (np.tan(inner - np.pi / 3) / np.tan(inner + np.pi / 3)) ** 2
    normal = 1 - ((1.526 - 1) / (1.526 + 1)) ** 2
    expected = (1 - (s + p) / 2) * np.exp(-0.008 / np.cos(inner)) / (normal * np.exp(-0.008))
    assert fresnel(0.5) == pytest.approx(expected, rel=1e-9)


def test_a_coating_helps_at_grazing_light():
    assert fresnel(np.cos(np.radians(70)), coated=True) > fresnel(np.cos(np.radians(70)))


@pytest.mark.parametrize("tilt", [0, 5, 30, 60, 90])
@pytest.mark.parametrize("name", MODELS)
def test_dome_means_are_those_of_a_brute_force_integral(name, tilt):
    """Sky and ground seen by the plane, integrated over elevation and azimuth instead of the angle to the normal."""
    beta = np.radians(tilt)

    def mean(low, high):
        elevations = np.radians(np.linspace(low, high, 1201))
        turns = np.radians(np.linspace(0, 180, 721))
        e, t = np.meshgrid((elevations[1:] + elevations[:-1]) / 2, (turns[1:] + turns[:-1]) / 2)
        c = np.maximum(np.cos(beta) * np.sin(e) + np.sin(beta) * np.cos(e) * np.cos(t), 0)
        weight = c * np.cos(e)
        return np.sum(weight * MODELS[name](c)) / np.sum(weight)

    assert mean_iam_of_sky(MODELS[name], tilt) == pytest.approx(mean(0, 90), rel=1e-3)
    if tilt >= 5:
        assert over_ground(MODELS[name], tilt) == pytest.approx(mean(-90, 0), rel=1e-3, abs=5e-4)


def test_horizon_mean_of_a_wall_by_quadrature():
    top = dblquad(lambda turn, _: fresnel(np.cos(turn)) * np.cos(turn), 0, 1, 0, np.pi / 2)[0]
    assert mean_iam_of_band(fresnel, 90) == pytest.approx(top, rel=1e-3)


@given(st.floats(0, 1))
def test_the_table_is_the_function(cosine):
    assert tabulated(fresnel)(np.array([cosine])).item() == pytest.approx(float(fresnel(cosine)), abs=2e-6)


def test_a_datasheet_table_is_read_linearly_and_ends_at_zero():
    cosine = np.cos(np.radians([0, 25, 60, 75, 90]))
    assert_allclose(from_table(cosine, [0, 50, 60, 70], [1, 0.98, 0.95, 0.88]), [1, 0.99, 0.95, 0.66, 0], atol=1e-9)
    with pytest.raises(ValueError, match="rise"):
        from_table(cosine, [0, 50, 40], [1, 1, 1])


def test_a_table_that_begins_late_begins_at_one():
    assert_allclose(from_table(np.cos(np.radians([0, 20, 40])), [40, 60, 80], [0.9, 0.8, 0.5]), [1, 0.95, 0.9], atol=1e-9)


def test_light_from_behind_gets_through_no_table():
    assert_allclose(from_table([-0.5, -1e-12, 0.0], [0, 45, 90], [1, 1, 1]), 0)
