import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.electrical import fit_module
from noontide.core.electrical.shaded_strings import DIODE_DROP
from noontide.core.electrical.single_diode import Circuit, circuit, current_at, max_power_of, open_circuit_voltage, voltage_at
from noontide.core.electrical.strings import RowShade, Strings, TrackerLimits, find_operating_points
from noontide.parts import built_in_parts

MODULE = built_in_parts().modules["veltrane-430"]
PARAMETERS = fit_module(MODULE).parameters
DROP = 3 * DIODE_DROP


def strings(light, celsius=25.0, series=16, parallel=1, shade=None) -> Strings:
    light = np.atleast_1d(np.asarray(light, dtype=float))
    celsius = np.full_like(light, celsius)
    top = max_power_of(circuit(PARAMETERS, light, celsius))
    return Strings(PARAMETERS, light, celsius, top.voltage, top.current, 1.0, series, parallel, shade, DROP)


def own_power(member: Strings):
    return member.maximum_voltage * member.maximum_current * member.series * member.parallel


def run(*members, window=(100.0, 900.0), most=100.0, start=0.0):
    points = find_operating_points(members, TrackerLimits(*window, start, most))
    for point, member in zip(points, members, strict=True):
        booked = point.partial_shade_loss + point.parallel_loss + point.window_loss + point.current_loss
        assert_allclose(point.power + booked, own_power(member), rtol=1e-12, atol=1e-9)
    return points


def test_inside_the_window_each_string_operates_at_its_own_maximum():
    (point,) = run(member := strings([0, 200, 1000]))
    assert_allclose(point.power, own_power(member))
    assert not point.outside.any()


@pytest.mark.parametrize("window", [(100.0, 480.0), (560.0, 900.0)])
def test_outside_the_window_the_nearest_edge_is_held_and_the_rest_booked(window):
    (point,) = run(member := strings(1000.0), window=window)
    edge = min(max(16 * MODULE.vmp, window[0]), window[1])
    assert point.voltage.item() == pytest.approx(edge)
    assert point.current.item() == pytest.approx(current_at(member.cells(np.array([0])), edge / 16).item(), rel=1e-9)
    assert point.window_loss.item() > 0


def test_below_the_lowest_voltage_there_is_nothing():
    (point,) = run(strings(1000.0), window=(700.0, 900.0))
    assert point.power.item() == 0


def test_an_inverter_does_not_start_below_its_start_voltage():
    """Voc of 16 modules is about 620 V in full sun: 700 V is never reached, 600 V only in good light."""
    assert run(strings(1000.0), start=700.0)[0].power.item() == 0
    dim, bright = run(strings([5.0, 1000.0]), start=600.0)[0].power
    assert dim == 0 < bright


def test_over_the_trackers_current_the_voltage_rises_until_it_fits():
    (point,) = run(member := strings(1000.0, parallel=2), most=20.0)
    assert point.current.item() == pytest.approx(20.0)
    assert current_at(member.cells(np.array([0])), point.voltage / 16).item() == pytest.approx(10.0, rel=1e-9)


def test_a_current_that_cannot_be_met_inside_the_window_is_throttled_at_its_end():
    """At 530 V, the end of the window, the strings would still drive more than 20 A."""
    (point,) = run(strings(1000.0, parallel=2), window=(100.0, 530.0), most=20.0)
    assert (point.voltage.item(), point.current.item()) == (pytest.approx(530.0), pytest.approx(20.0))


def test_dissimilar_strings_operate_at_the_best_common_voltage():
    """Against a fine scan of the voltage."""
    members = strings([900.0, 600.0], series=16), strings([300.0, 700.0], series=14)
    points = run(*members)
    trial = np.linspace(300, 700, 20_001)
    for hour in range(2):
        total = sum(trial * np.maximum(current_at(m.cells(np.array([hour])), trial / m.series), 0) for m in members)
        assert sum(p.power[hour] for p in points) == pytest.approx(total.max(), rel=1e-5)
    assert np.all(sum(p.parallel_loss for p in points) > 0)


def test_identical_strings_on_one_tracker_lose_nothing():
    members = strings(800.0), strings(800.0, parallel=2)
    for point, member in zip(run(*members), members, strict=True):
        assert_allclose(point.power, own_power(member))


@pytest.mark.parametrize("window", [(100.0, 900.0), (300.0, 900.0), (100.0, 250.0)])
def test_very_dissimilar_strings_find_the_higher_of_their_maxima(window):
    """5 and 25 modules in parallel have a maximum each; the window may shut the better one out, never open one."""
    members = strings([900.0, 200.0, 700.0], series=5, parallel=3), strings([300.0, 700.0, 700.0], series=25)
    points = run(*members, window=window)
    trial = np.linspace(*window, 40_001)
    for hour in range(3):
        total = sum(trial * m.parallel * np.maximum(current_at(m.cells(np.array([hour])), trial / m.series), 0) for m in members)
        assert sum(p.power[hour] for p in points) == pytest.approx(total.max(), rel=1e-5)
    assert np.all(sum(p.window_loss for p in points) >= -1e-6 * sum(own_power(m) for m in members))


# Partial shade: everything is held against the whole I-V curve, summed over groups at 20,000 currents.


def curve(lit: float, shaded: float, groups: float, celsius: float, currents):
    """Voltage of a module of which a share of the groups is in shade, at each current."""
    bright, dim = (Circuit(**{k: np.asarray(v) for k, v in vars(circuit(PARAMETERS, g, celsius)).items()}) for g in (lit, shaded))
    return (1 - groups) * voltage_at(bright, currents) + groups * np.maximum(voltage_at(dim, currents), -DROP)


def exact(lit, shaded, groups, behind, celsius, series, parallel, window):
    """Highest power of strings in front and behind on one voltage, by brute force."""
    most = float(circuit(PARAMETERS, lit, celsius).light_current)
    currents = np.linspace(0, most, 20_001)
    voltage = curve(lit, shaded, groups, celsius, currents) * series
    trial = np.linspace(*window, 8001)
    behind_current = np.interp(trial, voltage[::-1], currents[::-1], left=most, right=0)
    cells = circuit(PARAMETERS, np.full(trial.size, lit), np.full(trial.size, celsius))
    front = np.maximum(current_at(cells, trial / series), 0)
    return float(np.max(trial * parallel * (behind * behind_current + (1 - behind) * front)))


shades = st.tuples(
    st.floats(60, 1100),
    st.floats(0.03, 0.95),
    st.sampled_from([1 / 3, 1 / 2, 2 / 3, 1.0]),
    st.sampled_from([0.5, 0.83, 1.0]),
    st.floats(0, 70),
)


@given(shades, st.sampled_from([(100.0, 900.0), (100.0, 430.0), (400.0, 900.0), (460.0, 520.0)]))
def test_shaded_groups_give_the_power_of_the_whole_curve(shade, window):
    lit, part, groups, behind, celsius = shade
    shaded = lit * part
    mean = lit * (1 - behind * groups) + shaded * behind * groups
    member = strings(
        mean, celsius, series=16, parallel=2, shade=RowShade(*(np.array([v]) for v in (lit, shaded, groups)), behind)
    )
    (point,) = run(member, window=window)
    best = exact(lit, shaded, groups, behind, celsius, 16, 2, window)
    assert point.power.item() == pytest.approx(best, rel=3e-3, abs=0.5)


def test_bypassed_groups_give_nothing_of_their_diffuse_light():
    """Two groups of three in deep shade: the third goes on at its own maximum, less the drop of two diodes."""
    shade = RowShade(np.array([800.0]), np.array([30.0]), np.array([2 / 3]), 1.0)
    (point,) = run(strings(290.0, shade=shade))
    third = max_power_of(circuit(PARAMETERS, np.array([800.0]), np.array([25.0])))
    least = 16 * third.current.item() * (third.voltage.item() / 3 - 2 * DIODE_DROP)
    assert least <= point.power.item() <= least * 1.005
    assert point.voltage.item() < 0.4 * 16 * MODULE.vmp


def test_where_the_window_shuts_the_bypassed_voltage_out_all_carry_the_weak_current():
    shade = RowShade(np.array([800.0]), np.array([200.0]), np.array([2 / 3]), 1.0)
    (point,) = run(strings(400.0, shade=shade), window=(400.0, 900.0))
    assert point.voltage.item() >= 400
    assert point.current.item() < circuit(PARAMETERS, 200.0, 25.0).light_current * 1.01


def test_shaded_strings_beside_others_share_the_best_voltage():
    shade = RowShade(np.array([800.0]), np.array([120.0]), np.array([1 / 3]), 1.0)
    members = strings(570.0, shade=shade), strings(800.0, series=15)
    points = run(*members)
    trial = np.linspace(100, 700, 6001)
    total = sum(trial * m.current(trial, np.zeros(trial.size, dtype=np.int64)) for m in members)
    # The search reads the shaded curve from points; its place is good to a few tenths of a per mille.
    assert sum(p.power.item() for p in points) == pytest.approx(total.max(), rel=1e-3)


@given(st.floats(1, 1200), st.floats(-20, 90), st.floats(0, 1.05))
def test_voltage_and_current_are_inverse_to_each_other(light, celsius, part):
    c = circuit(PARAMETERS, np.array([light]), np.array([celsius]))
    voltage = part * open_circuit_voltage(c)
    assert_allclose(voltage_at(c, current_at(c, voltage)), voltage, rtol=1e-7, atol=1e-6)
