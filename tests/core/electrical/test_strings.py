import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.electrical import fit_module
from noontide.core.electrical.single_diode import circuit, current_at, max_power_of
from noontide.core.electrical.strings import TrackerLimits, operate
from noontide.parts import built_in_parts

MODULE = built_in_parts().modules["veltrane-430"]


def array(light, warmth=25.0, series=(16,), parallel=(1,), tracker=(0,), window=(100.0, 900.0), most=100.0):
    """Operating points of sub-arrays of one module in the given light, (subarrays, intervals)."""
    light = np.atleast_2d(np.asarray(light, dtype=float))
    c = circuit(fit_module(MODULE).parameters, light, np.full_like(light, warmth))
    c = type(c)(**{name: np.broadcast_to(value, light.shape) for name, value in vars(c).items()})
    n = len(series)
    limits = TrackerLimits(np.array(tracker), np.full(n, window[0]), np.full(n, window[1]), np.full(n, most))
    top = max_power_of(c)
    point = operate(c, top.voltage, top.current, np.ones((n, 1)), np.array(series, float), np.array(parallel, float), limits)
    own = top.power * np.array(series)[:, None] * np.array(parallel)[:, None]
    return point, own, c


def books_close(point, own):
    assert_allclose(point.power + point.parallel_loss + point.window_loss + point.current_loss, own, rtol=1e-12, atol=1e-9)


def test_inside_the_window_each_string_works_at_its_own_maximum():
    point, own, _ = array([[0, 200, 1000]])
    assert_allclose(point.power, own)
    assert not point.outside.any()


@pytest.mark.parametrize("window", [(100.0, 480.0), (560.0, 900.0)])
def test_outside_the_window_the_nearest_edge_is_held_and_the_rest_booked(window):
    point, own, c = array([[1000.0]], window=window)
    edge = min(max(16 * MODULE.vmp, window[0]), window[1])
    assert point.voltage.item() == pytest.approx(edge)
    assert point.current.item() == pytest.approx(float(current_at(c, edge / 16).item()), rel=1e-9)
    assert point.window_loss.item() > 0
    books_close(point, own)


def test_under_the_lowest_voltage_nothing_comes():
    point, own, _ = array([[1000.0]], window=(700.0, 900.0))
    assert point.power.item() == 0
    books_close(point, own)


def test_over_the_trackers_current_the_voltage_rises_until_it_fits():
    point, own, c = array([[1000.0]], parallel=(2,), most=20.0)
    assert point.current.item() == pytest.approx(20.0)
    assert float(current_at(c, point.voltage / 16).item()) == pytest.approx(10.0, rel=1e-9)
    books_close(point, own)


def test_unlike_strings_work_at_the_best_common_voltage():
    """Against a fine scan of the voltage."""
    light = [[900.0, 600.0], [300.0, 700.0]]
    point, own, c = array(light, series=(16, 14), parallel=(1, 1), tracker=(0, 0))
    trial = np.linspace(300, 700, 20_001)
    for hour in range(2):
        total = sum(
            trial * np.maximum(current_at(type(c)(**{k: v[row, hour] for k, v in vars(c).items()}), trial / n), 0)
            for row, n in ((0, 16), (1, 14))
        )
        assert point.power[:, hour].sum() == pytest.approx(total.max(), rel=1e-5)
    assert np.all(point.parallel_loss.sum(axis=0) > 0)
    books_close(point, own)


def test_alike_strings_on_one_tracker_lose_nothing():
    point, own, _ = array([[800.0], [800.0]], series=(16, 16), parallel=(1, 2), tracker=(0, 0))
    assert_allclose(point.power, own)


@pytest.mark.parametrize("window", [(100.0, 900.0), (300.0, 900.0), (100.0, 250.0)])
def test_very_unlike_strings_find_the_higher_of_their_maxima(window):
    """5 and 25 modules in parallel have a maximum each; the window may shut the better one out, never open one."""
    light = [[900.0, 200.0, 700.0], [300.0, 700.0, 700.0]]
    point, own, c = array(light, series=(5, 25), parallel=(3, 1), tracker=(0, 0), window=window)
    trial = np.linspace(*window, 40_001)
    for hour in range(3):
        total = sum(
            trial * k * np.maximum(current_at(type(c)(**{n: v[row, hour] for n, v in vars(c).items()}), trial / length), 0)
            for row, length, k in ((0, 5, 3), (1, 25, 1))
        )
        assert point.power[:, hour].sum() == pytest.approx(total.max(), rel=1e-5)
    assert np.all(point.window_loss.sum(axis=0) >= -1e-6 * own.sum(axis=0))
    books_close(point, own)
