"""Combined curves against exact summation, and their limits."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from noontide.core.electrical import SeriesString, combined_curve, fit_module, max_power_point
from noontide.core.electrical.single_diode import circuit, voltage_at
from noontide.parts import built_in_parts

P = fit_module(built_in_parts().modules["veltrane-430"]).parameters

strings = st.builds(
    lambda light, heat, modules, parallel: SeriesString(P, light, heat, modules, parallel),
    st.floats(20, 1100), st.floats(-10, 75), st.integers(1, 20), st.integers(1, 3),
)  # fmt: skip


def exact_current(string: SeriesString, voltage: float) -> float:
    """By root finding on the sum of the modules, one by one."""
    light = np.broadcast_to(string.irradiance, string.modules)
    heat = np.broadcast_to(string.cell_temperature, string.modules)

    def over(current: float) -> float:
        total = 0.0
        for g, t in zip(light, heat, strict=True):
            # Far beyond its light current a module's own solution leaves the numbers of the machine: its diodes conduct long before.
            beyond = g <= 0 or current > g / 1000 * 20
            total += -string.bypass_drop if beyond else max(float(voltage_at(circuit(P, g, t), current)), -string.bypass_drop)
        return total - voltage

    return 0.0 if over(0.0) <= 0 else brentq(over, 0, 20, xtol=1e-13) * string.parallel


@settings(max_examples=25)
@given(st.lists(strings, min_size=1, max_size=3))
def test_the_curve_is_the_exact_sum_of_its_strings(members):
    found = combined_curve(members, points=21)
    for i in (3, 11, 18):
        exact = sum(exact_current(s, float(found.voltage[i])) for s in members)
        assert found.current[i] == pytest.approx(exact, rel=1e-4, abs=1e-6)
    assert found.maximum_power >= (found.voltage * found.current).max() * (1 - 1e-9)


@given(strings)
def test_one_even_string_has_the_maximum_of_its_modules(string):
    found = combined_curve([string])
    module = max_power_point(P, string.irradiance, string.cell_temperature)
    assert found.maximum_power == pytest.approx(float(module.power) * string.modules * string.parallel, rel=1e-5)
    assert found.mismatch == pytest.approx(0, abs=1e-9)


@settings(max_examples=25)
@given(st.lists(strings, min_size=2, max_size=3))
def test_sharing_a_voltage_never_gains(members):
    found = combined_curve(members)
    assert -1e-7 <= found.mismatch < 1
    assert found.maximum_power <= found.alone * (1 + 1e-9)


def test_strings_of_other_directions_lose_little_and_of_other_lengths_much():
    morning, noon = SeriesString(P, 400, 40, 16), SeriesString(P, 900, 55, 16)
    assert combined_curve([morning, noon]).mismatch < 0.01
    assert combined_curve([SeriesString(P, 900, 55, 12), noon]).mismatch > 0.05


def test_a_module_in_the_dark_is_bypassed():
    even = combined_curve([SeriesString(P, 800, 45, 10)])
    light = np.full(10, 800.0)
    light[3] = 0.0
    shaded = combined_curve([SeriesString(P, light, 45, 10)])
    assert shaded.maximum_power == pytest.approx(even.maximum_power * 0.9, rel=0.01)
    nearly = light.copy()
    nearly[3] = 40.0
    assert combined_curve([SeriesString(P, nearly, 45, 10)]).maximum_power == pytest.approx(shaded.maximum_power, rel=2e-3)


@settings(max_examples=30)
@given(st.lists(st.just(0.0) | st.floats(5, 1000), min_size=2, max_size=6), st.floats(0.02, 0.98))
def test_a_string_in_uneven_light_is_the_exact_sum_of_its_modules(light, share):
    """Diodes take over one after the other: the curve has a kink for each."""
    string = SeriesString(P, np.array(light), 40.0, len(light))
    volts = share * string.open_voltage
    if volts <= 0:
        return
    exact = exact_current(string, volts)
    assert string.current(np.array([volts]))[0] == pytest.approx(exact, rel=1e-4, abs=1e-6)


def test_the_global_maximum_is_found_among_several():
    """Half of the modules in a tenth of the light: bypassing them gives more than their weak current."""
    light = np.array([900.0] * 8 + [90.0] * 8)
    found = combined_curve([SeriesString(P, light, 45, 16)])
    assert found.maximum_voltage < 0.6 * float(SeriesString(P, light, 45, 16).open_voltage)


def test_darkness_gives_nothing_and_no_strings_are_refused():
    dark = combined_curve([SeriesString(P, 0.0, 20, 10)])
    assert (dark.maximum_power, dark.mismatch) == (0, 0)
    with pytest.raises(ValueError, match="one string or more"):
        combined_curve([])
