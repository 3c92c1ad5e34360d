import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.testing import assert_allclose
from scipy.optimize import brentq, minimize_scalar

from noontide.core.electrical import fit_module, max_power_point
from noontide.core.electrical.module_table import module_maximum
from noontide.core.electrical.single_diode import circuit, current_at, open_circuit_voltage, short_circuit_current
from noontide.core.electrical.temperature import faiman, king, noct_model
from noontide.parts import built_in_parts

MODULES = list(built_in_parts().modules.values())
lights, warmths = st.floats(1, 1300), st.floats(-30, 90)


def implicit_current(c, voltage: float) -> float:
    """I of the single-diode equation at V, by a bracketed root of the textbook form."""
    il, i0, rs, g, a = (float(np.squeeze(v)) for v in vars(c).values())

    def residual(i):
        inner = voltage + i * rs
        return il - i0 * np.expm1(inner / a) - inner * g - i

    return brentq(residual, -50 * il - 1, il + 1, xtol=1e-14, rtol=1e-15)


@pytest.mark.parametrize("module", MODULES, ids=lambda m: m.id)
def test_the_fit_gives_the_datasheet_back(module):
    parameters = fit_module(module).parameters
    reference = circuit(parameters, 1000.0, 25.0)
    top = max_power_point(parameters, 1000.0, 25.0)
    assert float(short_circuit_current(reference)) == pytest.approx(module.isc, rel=1e-3)
    assert float(open_circuit_voltage(reference)) == pytest.approx(module.voc, rel=1e-3)
    assert float(top.voltage) == pytest.approx(module.vmp, rel=1e-3)
    assert float(top.current) == pytest.approx(module.imp, rel=1e-3)
    assert fit_module(module).voc_coefficient == pytest.approx(module.voc_coefficient, abs=0.01)
    assert parameters.series_resistance > 0
    assert parameters.shunt_conductance > 0


@given(st.sampled_from(MODULES), lights, warmths)
def test_the_maximum_is_that_of_a_bracketed_search(module, light, warmth):
    parameters = fit_module(module).parameters
    c = circuit(parameters, light, warmth)
    found = minimize_scalar(
        lambda v: -v * implicit_current(c, v),
        bounds=(0, float(open_circuit_voltage(c))),
        method="bounded",
        options={"xatol": 1e-7},
    )
    assert float(max_power_point(parameters, light, warmth).power) == pytest.approx(-found.fun, rel=1e-6)


@given(st.sampled_from(MODULES), lights, warmths, st.floats(0, 1.05))
def test_current_solves_the_implicit_equation(module, light, warmth, share):
    c = circuit(fit_module(module).parameters, light, warmth)
    voltage = share * float(open_circuit_voltage(c))
    assert float(current_at(c, voltage)) == pytest.approx(implicit_current(c, voltage), abs=1e-9)


@given(st.sampled_from(MODULES), lights, warmths)
def test_the_curve_falls_from_short_to_open_circuit(module, light, warmth):
    c = circuit(fit_module(module).parameters, light, warmth)
    currents = current_at(c, np.linspace(0, 1, 50) * float(open_circuit_voltage(c)))
    assert currents[0] == pytest.approx(float(short_circuit_current(c)), rel=1e-9)
    assert currents[-1] == pytest.approx(0, abs=1e-8)
    assert np.all(np.diff(currents) < 1e-9)


def test_no_light_gives_nothing_and_no_warning():
    top = max_power_point(fit_module(MODULES[0]).parameters, np.array([0.0, -5.0, 500.0]), 25.0)
    assert_allclose(top.power[:2], 0)
    assert top.power[2] > 0


@given(st.sampled_from(MODULES), arrays(float, 50, elements=st.floats(0, 2500)), arrays(float, 50, elements=st.floats(-30, 95)))
def test_the_year_s_maximum_is_the_one_that_is_solved_for_each_hour(module, light, celsius):
    """The table at 25 °C and the better start change the power by less than 1e-5 of what is rated."""
    parameters = fit_module(module).parameters
    found = module_maximum(parameters, light, celsius)
    for one, at in ((found.power_at_25c, 25.0), (found.hot.power, celsius)):
        exact = [max_power_point(parameters, g, t).power for g, t in zip(light, np.broadcast_to(at, 50), strict=True)]
        assert_allclose(one, np.ravel(exact), rtol=1e-6, atol=1e-5)


def test_a_datasheet_that_contradicts_itself_is_told():
    """Fill factor of 95 %: no silicon diode at 25 °C bends as sharply."""
    sharp = MODULES[0].model_copy(update={"imp": 8.0, "vmp": 35.8, "power": 286.0})
    assert any("maximum" in finding or "coefficient" in finding for finding in fit_module(sharp).findings)


@pytest.mark.parametrize("wrong", [{"imp": 9.0}, {"vmp": 40.0}, {"power": 300.0}])
def test_an_impossible_datasheet_is_refused(wrong):
    data = MODULES[0].model_dump() | wrong
    with pytest.raises(ValueError, match=r"below|more than 2 %"):
        type(MODULES[0]).model_validate(data)


def test_temperatures_by_hand():
    assert faiman(1000, 20, 1) == pytest.approx(20 + 1000 / 31.84, abs=1e-9)
    assert noct_model(800, 20, noct=45, efficiency=0.0) == pytest.approx(45)
    assert king(1000, 20, 0, a=-3.47, b=-0.0594, rise=3) == pytest.approx(20 + 1000 * np.exp(-3.47) + 3)


def test_low_light_points_are_met_and_the_three_points_kept():
    module = built_in_parts().modules["veltrane-430"]
    plain = fit_module(module)

    def at(parameters, light):
        return float(max_power_point(parameters, light, 25.0).power) / (module.vmp * module.imp) * 1000 / light

    # A little better and a little worse at low light than the curve without such points.
    for shift in (0.006, -0.006):
        wished = module.model_copy(
            update={"low_light": ((200.0, at(plain.parameters, 200.0) + shift), (400.0, at(plain.parameters, 400.0) + shift / 2))}
        )
        fit = fit_module(wished)
        assert max(map(abs, fit.low_light)) < 0.004 < 0.006
        assert float(max_power_point(fit.parameters, 1000.0, 25.0).power) == pytest.approx(module.vmp * module.imp, rel=1e-3)


def test_low_light_points_that_no_diode_has_are_a_finding():
    module = built_in_parts().modules["veltrane-430"].model_copy(update={"low_light": ((200.0, 0.75),)})
    assert any("At 200 W/m²" in finding for finding in fit_module(module).findings)
