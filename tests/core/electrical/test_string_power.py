"""Strings with unequal groups: the full sum of I-V curves, limits and laws."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from noontide.core.electrical import max_power_point, string_power
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.shaded_strings import DIODE_DROP
from noontide.core.electrical.single_diode import circuit, voltage_at

levels = st.lists(st.sampled_from([0.0, 60.0, 150.0, 400.0, 700.0, 1000.0]), min_size=4, max_size=4)


@pytest.fixture(scope="module")
def module(parts):
    return parts.modules["veltrane-430"]


def summed(groups, module, temperature, window=(0.0, np.inf)):
    """Every point of the string's curve, and the best of those in the window."""
    p = fit_module(module).parameters
    current = np.linspace(0, max(groups) / 1000 * module.isc * 1.1 + 1e-6, 100_001)
    voltage = sum(
        np.maximum(voltage_at(circuit(p, max(g, 1e-3), temperature), current) / module.bypass_diodes, -DIODE_DROP) for g in groups
    )
    inside = (voltage >= window[0]) & (voltage <= window[1])
    powers = list((voltage * current)[inside])
    for edge in window:  # where groups give way the voltage falls steeply: the edge lies between two points
        between = np.flatnonzero((voltage[:-1] - edge) * (voltage[1:] - edge) < 0) if np.isfinite(edge) else []
        for k in between:
            powers.append(edge * np.interp(edge, voltage[[k + 1, k]], current[[k + 1, k]]))
    return float(max(powers, default=0.0))


@settings(max_examples=30, deadline=None)
@given(levels, st.floats(-10, 70), st.sampled_from([(0.0, np.inf), (40.0, np.inf), (0.0, 60.0), (60.0, 90.0)]))
@example([0.0, 60.0, 60.0, 400.0], 0.0, (60.0, 90.0))
def test_it_is_the_best_point_of_the_summed_curve(module, groups, temperature, window):
    groups = np.repeat(groups, 3)
    got = string_power(groups, module, temperature, window)
    assert got == pytest.approx(summed(groups, module, temperature, window), rel=2e-3, abs=0.05)


def test_equal_groups_are_so_many_modules(module):
    alone = float(max_power_point(fit_module(module).parameters, 800.0, 45.0).power)
    assert string_power(np.full(48, 800.0), module, 45.0) == pytest.approx(16 * alone, rel=1e-6)


def test_one_dark_group_costs_itself_and_its_diode(module):
    lit = np.full(30, 1000.0)
    dark = lit.copy()
    dark[7] = 0.0
    full = string_power(lit, module, 25.0)
    drop = DIODE_DROP * module.imp
    assert string_power(dark, module, 25.0) == pytest.approx(full * 29 / 30 - drop, rel=2e-3)


def test_a_window_above_what_the_lit_groups_reach_takes_the_weak_current(module):
    groups = np.array([1000.0] * 24 + [200.0] * 6)
    free = string_power(groups, module, 25.0)
    high = string_power(groups, module, 25.0, (0.97 * 10 * module.vmp, np.inf))
    assert high < 0.4 * free


def test_the_order_of_the_groups_does_not_matter(module):
    rng = np.random.default_rng(3)
    groups = rng.uniform(50, 1000, (12, 20))
    assert string_power(groups, module, 30.0) == pytest.approx(string_power(rng.permutation(groups), module, 30.0), rel=1e-9)


@pytest.mark.parametrize(
    ("light", "words"), [([1000.0] * 4, "no whole number"), ([-1.0] * 3, "negative"), ([np.nan] * 3, "not a number")]
)
def test_bad_light_is_refused(module, light, words):
    with pytest.raises(ValueError, match=words):
        string_power(light, module, 25.0)
