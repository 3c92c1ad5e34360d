"""Strings of unequal light: the global maximum of the summed curve in any window, optimisers by hand, inverters apart."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.electrical import fit_module, max_power_point, string_power
from noontide.core.electrical.optimisers import optimise
from noontide.core.electrical.shaded_strings import DIODE_DROP
from noontide.core.electrical.string_curves import StringKinds
from noontide.core.electrical.strings import RowShade, SceneShade, Strings, TrackerLimits, find_operating_points
from noontide.parts import built_in_parts

PARTS = built_in_parts()
MODULE = PARTS.modules["veltrane-430"]
PARAMETERS = fit_module(MODULE).parameters
DROP = MODULE.bypass_diodes * DIODE_DROP
FREE = TrackerLimits(0.0, np.inf, 0.0, np.inf)


def kinds_of(light):
    """Kinds for the light of groups, (banks, strings, groups, intervals), each string by itself."""
    banks, strings, groups, intervals = light.shape
    first = np.arange(intervals * banks).reshape(intervals, banks) * strings
    level, lights, shares = [0], [], []
    for t in range(intervals):
        for b in range(banks):
            for s in range(strings):
                values, counts = np.unique(light[b, s, :, t], return_counts=True)
                lights += list(values[::-1])
                shares += list(counts[::-1] / groups)
                level.append(len(lights))
    weight = np.ones(intervals * banks * strings)
    return StringKinds(first, first + strings, weight, np.array(level), np.array(lights), np.array(shares))


def strings_of(light, lit, dark, celsius, series, parallel=None):
    """Strings of a sub-array under a scene; `light` is (banks, strings, groups, intervals)."""
    mean = dark + light.mean(axis=(0, 1, 2)) * (lit - dark)
    top = max_power_point(PARAMETERS, mean, celsius)
    shade = SceneShade(lit, dark, np.arange(lit.size), kinds_of(light))
    return Strings(PARAMETERS, mean, celsius, top.voltage, top.current, 1.0, series, parallel or light.shape[1], shade, DROP)


def maxima_of(light, lit, dark, celsius):
    """Sum of the own maxima of the modules of strings, (banks, strings, groups, intervals) -> (banks, intervals)."""
    banks, strings, groups, intervals = light.shape
    total = np.zeros((banks, intervals))
    for b in range(banks):
        for s in range(strings):
            for m in range(groups // 3):
                total[b] += string_power(dark + light[b, s, 3 * m : 3 * m + 3] * (lit - dark), MODULE, celsius)
    return total


@st.composite
def shades(draw, banks=1, strings=1):
    series = draw(st.integers(1, 14))
    intervals = 3
    levels = draw(st.lists(st.floats(0, 1), min_size=1, max_size=5)) + [1.0]
    rng = np.random.default_rng(draw(st.integers(0, 10**6)))
    light = rng.choice(levels, (banks, strings, 3 * series, intervals))
    lit = rng.uniform(60, 1100, intervals)
    return light, lit, lit * draw(st.floats(0.02, 0.9)), rng.uniform(-15, 75, intervals), series


windows = st.sampled_from([(0.0, np.inf), (0.35, 0.8), (0.5, 1.2), (0.85, 0.95), (0.0, 0.4)])


@settings(max_examples=60)
@given(shades(), windows)
def test_the_global_maximum_inside_any_window_is_found(shade, window):
    light, lit, dark, celsius, series = shade
    lowest, highest = (edge * series * MODULE.vmp for edge in window)
    (point,) = find_operating_points([strings_of(light, lit, dark, celsius, series)], TrackerLimits(lowest, highest, 0.0, np.inf))
    exact = string_power(dark + light[0, 0] * (lit - dark), MODULE, celsius, (lowest, highest))
    assert point.power == pytest.approx(exact, rel=2e-3, abs=0.02)


@settings(max_examples=40)
@given(shades(banks=2, strings=3), st.floats(2, 30))
def test_strings_never_give_more_than_their_modules_and_lose_nothing_to_another_inverter(shade, most):
    light, lit, dark, celsius, series = shade
    both = strings_of(light, lit, dark, celsius, series)
    for limits in (FREE, TrackerLimits(0.0, np.inf, 0.0, most)):
        (point,) = find_operating_points([both], limits)
        alone = [
            find_operating_points([strings_of(light[b : b + 1], lit, dark, celsius, series)], limits)[0].power for b in (0, 1)
        ]
        assert point.power == pytest.approx(np.mean(alone, axis=0), rel=1e-9, abs=1e-9)
        assert np.all(point.banks.voltage * point.banks.current <= maxima_of(light, lit, dark, celsius) * (1 + 1e-6) + 1e-6)
        assert np.all(point.banks.current <= limits.current * (1 + 1e-9))
        booked = point.partial_shade_loss + point.parallel_loss + point.window_loss + point.current_loss
        own = both.maximum_voltage * both.maximum_current * series * 3
        assert point.power + booked == pytest.approx(own, rel=1e-9, abs=1e-9)


@settings(max_examples=25)
@given(shades(strings=2), st.floats(3, 20))
def test_over_the_current_limit_the_best_voltage_that_is_left_is_taken(shade, most):
    """A maximum at a higher voltage may be better than the voltage at which the current just fits."""
    light, lit, dark, celsius, series = shade
    member = strings_of(light, lit, dark, celsius, series)
    (point,) = find_operating_points([member], TrackerLimits(0.0, np.inf, 0.0, most))
    trial = np.linspace(1, series * MODULE.voc * 1.15, 150)
    flow = np.zeros((lit.size, trial.size))
    for s in range(2):
        of_string = strings_of(light[:, s : s + 1], lit, dark, celsius, series)
        for k, volts in enumerate(trial):
            flow[:, k] += find_operating_points([of_string], TrackerLimits(volts, volts, 0.0, np.inf))[0].current
    # The voltage at the limit is read from the points of the curve, to a tenth of a per mille.
    assert np.all(point.power >= np.max(trial * np.minimum(flow, most), axis=1) * (1 - 1e-3))


@pytest.mark.parametrize("light", [0.05, 0.2, 0.53, 0.65, 0.85, 0.95])
def test_an_even_veil_leaves_each_module_its_own_maximum(light):
    lit, dark, celsius = np.array([850.0]), np.array([90.0]), np.array([40.0])
    even = np.full((1, 2, 30, 1), light)
    (point,) = find_operating_points([strings_of(even, lit, dark, celsius, 10)], FREE)
    assert point.power == pytest.approx(maxima_of(even, lit, dark, celsius)[0], rel=1e-6)
    assert abs(point.partial_shade_loss).max() < 1e-6 * point.power.max()


def test_row_shade_on_its_curve_is_its_closed_form():
    """Two ways to the same strings: the slope of the closed form, and the summed curve that dissimilar strings use."""
    rng = np.random.default_rng(5)
    lit = rng.uniform(100, 1000, 200)
    shade = RowShade(lit, lit * rng.uniform(0.03, 0.9, 200), rng.choice([1 / 3, 2 / 3, 1.0], 200), 0.7)
    mean = lit * (1 - 0.7 * shade.groups) + shade.shaded * 0.7 * shade.groups
    top = max_power_point(PARAMETERS, mean, 30.0)
    member = Strings(PARAMETERS, mean, np.full(200, 30.0), top.voltage, top.current, 1.0, 12, 3, shade, DROP)
    (closed,) = find_operating_points([member], FREE)
    tiny = dataclasses.replace(member, shade=None, factor=1e-9)  # beside it, so that their curves are added up
    summed, _ = find_operating_points([member, tiny], FREE)
    assert summed.power == pytest.approx(closed.power, rel=2e-4)


OPTIMISER = PARTS.optimisers["hexley-op600"]


def optimised(light, lit, dark, celsius, series, parallel, voltage, optimiser=OPTIMISER):
    """Strings behind optimisers; `light` is (inverters, strings, modules, groups, intervals)."""
    inverters, strings, modules, groups, intervals = light.shape
    apart = strings_of(light.reshape(inverters * strings, modules, groups, intervals), lit, dark, celsius, series, parallel)
    return optimise(apart, optimiser, voltage, series * parallel)


def test_dark_modules_hold_back_a_string_whose_optimisers_are_at_their_highest_voltage():
    """By hand: six bright modules give 6 x 60 V of the 390, so the two dark ones carry 15 V each at what current they have."""
    low = OPTIMISER.model_copy(update={"output_voltage": 60.0, "weighted_efficiency": 99.0, "peak_efficiency": 99.4})
    lit, dark, celsius = np.array([900.0]), np.array([70.0]), np.array([35.0])
    light = np.ones((1, 1, 8, 3, 1))
    light[0, 0, 6:] = 0.0
    given = optimised(light, lit, dark, celsius, 8, 1, 390.0, low).point.power.item()
    dim = float(max_power_point(PARAMETERS, 70.0, 35.0).power)
    ideal = 390 * dim / 15  # without losses of conversion
    assert 0.9 * ideal < given < ideal
    bright = float(max_power_point(PARAMETERS, 900.0, 35.0).power)
    free = optimised(light, lit, dark, celsius, 8, 1, 300.0, low).point.power.item()
    assert free == pytest.approx((6 * bright + 2 * dim) * 0.99, rel=0.01), "held lower, all of it passes"
    assert optimised(light, lit, dark, celsius, 8, 1, 490.0, low).point.power.item() == 0, "8 x 60 V do not reach 490 V"


@settings(max_examples=30)
@given(shades(banks=2, strings=6), st.floats(150, 500))
def test_optimised_strings_keep_every_limit_and_books(shade, voltage):
    light, lit, dark, celsius, _ = shade
    light = light[:, :, :3].reshape(2, 1, 6, 3, 3)
    found = optimised(light, lit, dark, celsius, 6, 1, voltage)
    maxima = sum(maxima_of(light[:, :, m], lit, dark, celsius) for m in range(6))
    given = found.point.banks.voltage * found.point.banks.current
    assert np.all(given <= np.minimum(maxima, OPTIMISER.output_current * voltage) * (1 + 1e-6) + 1e-6)
    point = found.point
    own = 6 * max_power_point(PARAMETERS, dark + light.mean(axis=(0, 1, 2, 3)) * (lit - dark), celsius).power
    booked = point.partial_shade_loss + point.window_loss + point.current_loss + found.loss
    assert point.power + booked == pytest.approx(own, rel=1e-9, abs=1e-6)
    if voltage < 6 * OPTIMISER.output_voltage * 0.5:
        even = optimised(np.ones_like(light), lit, dark, celsius, 6, 1, voltage)
        plain = 6 * max_power_point(PARAMETERS, lit, celsius).power
        assert even.point.power == pytest.approx(
            np.minimum(plain, OPTIMISER.output_current * voltage), rel=0.05, abs=0.01 * 6 * OPTIMISER.power
        )
