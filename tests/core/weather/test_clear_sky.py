import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.sun import absolute_air_mass, relative_air_mass, standard_pressure
from noontide.core.weather.clear_sky import haurwitz, ineichen_perez


def test_the_printed_formula_step_by_step():
    """Ineichen and Perez 2002 at 400 m, zenith 40°, Linke turbidity 3.5, each factor on its own line."""
    mass = float(absolute_air_mass(relative_air_mass(40.0), standard_pressure(400)))
    fh1, fh2 = np.exp(-400 / 8000), np.exp(-400 / 1250)
    a1, a2 = 0.868 + 5.09e-5 * 400, 0.0387 + 3.92e-5 * 400
    ghi = a1 * 1361.1 * np.cos(np.radians(40)) * np.exp(-a2 * mass * (fh1 + fh2 * 2.5))
    dni = (0.664 + 0.163 / fh1) * 1361.1 * np.exp(-0.09 * mass * 2.5)
    sky = ineichen_perez(40.0, 1361.1, 3.5, 400)
    assert float(sky.ghi) == pytest.approx(ghi, rel=1e-9)
    assert float(sky.dni) == pytest.approx(dni, rel=1e-9)


@given(st.floats(0, 100), st.floats(1.5, 8), st.floats(0, 4000))
def test_the_three_close_and_stay_below_the_sun_above_the_air(zenith, turbidity, elevation):
    sky = ineichen_perez(zenith, 1361.1, turbidity, elevation)
    assert float(sky.ghi) == pytest.approx(float(sky.dni) * max(np.cos(np.radians(zenith)), 0) + float(sky.dhi), abs=1e-9)
    assert sky.dhi >= 0 and 0 <= sky.ghi <= 1361.1 and 0 <= sky.dni <= 1361.1
    if zenith >= 90:
        assert sky.ghi == 0


def test_dirtier_air_and_lower_places_have_less_light():
    assert_allclose(np.diff(ineichen_perez(30.0, 1361.1, np.array([2.0, 3.0, 5.0])).ghi) < 0, True)
    assert ineichen_perez(30.0, 1361.1, 3.0, 2000).ghi > ineichen_perez(30.0, 1361.1, 3.0, 0).ghi


def test_haurwitz_overhead_and_at_the_horizon():
    assert haurwitz(0) == pytest.approx(1098 * np.exp(-0.059))
    assert haurwitz(60) == pytest.approx(549 * np.exp(-0.118))
    assert haurwitz(np.array([90.0, 95.0])).tolist() == [0, 0]


def test_both_models_agree_on_an_ordinary_clear_day():
    zenith = np.linspace(0, 62, 16)
    assert_allclose(ineichen_perez(zenith, 1361.1, 3.0, 0).ghi, haurwitz(zenith), rtol=0.08)
