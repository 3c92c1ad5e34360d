import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.testing import assert_allclose
from pydantic import ValidationError

from noontide.core.electrical import Inverter, fit_inverter, weighted_efficiency
from noontide.core.electrical.datasheets import Derating
from noontide.core.electrical.inverter import convert
from noontide.core.electrical.loss_polynomial import CALIFORNIAN, EUROPEAN, fit_weighted
from noontide.core.electrical.wiring import COEFFICIENTS, AcCableLoss, CableResistance, wire_ac, wire_through
from noontide.parts import built_in_parts

INVERTERS = list(built_in_parts().inverters.values())
plants = st.tuples(  # two sub-arrays, a day
    arrays(float, (2, 24), elements=st.floats(0, 40)),
    arrays(float, (2, 24), elements=st.floats(200, 1500)),
    st.floats(0, 2),
    arrays(float, 24, elements=st.floats(-40, 90)),
)


def one(inverter, dc, voltage=600.0):
    dc = np.atleast_1d(np.asarray(dc, dtype=float))
    return convert(
        dc, np.full_like(dc, voltage), fit_inverter(inverter), inverter.ac_power, inverter.maximum_dc_power, inverter.night_power
    )


@pytest.mark.parametrize("inverter", [i for i in INVERTERS if i.efficiency], ids=lambda i: i.id)
def test_the_fit_gives_the_weighted_efficiency_of_the_points_back(inverter):
    """European weighting of the datasheet's own points, against that of the polynomial through them."""
    for curve, k in zip(sorted(inverter.efficiency, key=lambda c: c.voltage), fit_inverter(inverter).coefficients, strict=True):
        loads, efficiencies = np.array(curve.points).T
        by_points = np.sum(np.array(EUROPEAN[1]) * np.interp(EUROPEAN[0], loads, efficiencies))
        assert weighted_efficiency(k) == pytest.approx(by_points, abs=0.05)


@pytest.mark.parametrize(
    ("weighted", "peak", "rule"), [(98.0, 98.4, EUROPEAN), (97.0, 97.6, CALIFORNIAN), (94.8, 96.0, EUROPEAN)]
)
def test_a_weighted_efficiency_alone_is_reproduced(weighted, peak, rule):
    k = fit_weighted(weighted, peak, rule).coefficients[0]
    p = np.linspace(0.02, 1, 2000)
    assert weighted_efficiency(k, rule) == pytest.approx(weighted, abs=0.05)
    assert np.max(p / (p + k[0] + k[1] * p + k[2] * p**2)) * 100 == pytest.approx(peak, abs=0.02)


@pytest.mark.parametrize("inverter", [i for i in INVERTERS if i.efficiency], ids=lambda i: i.id)
def test_two_efficiencies_give_the_californian_value_of_an_inverter_that_has_both(inverter):
    """The whole curve is known here; of it the fit gets the peak and the European value alone."""
    p = np.linspace(0.02, 1, 2000)
    for k in fit_inverter(inverter).coefficients:
        peak = float(np.max(p / (p + k[0] + k[1] * p + k[2] * p**2)) * 100)
        found = fit_weighted(weighted_efficiency(k), peak).coefficients[0]
        assert weighted_efficiency(found, CALIFORNIAN) == pytest.approx(weighted_efficiency(k, CALIFORNIAN), abs=0.15)
        at_full_load = [100 / (1 + sum(c)) for c in (found, k)]
        assert at_full_load[0] == pytest.approx(at_full_load[1], abs=0.6)


@given(st.floats(90, 99.3), st.floats(0, 0.9))
def test_any_plausible_pair_gives_a_plausible_curve(peak, part):
    """Up to the difference that a peak at full load would make; losses are positive and efficiencies have one peak."""
    relative = 100 / peak - 1
    lowest = weighted_efficiency((relative / 2, 0.0, relative / 2))
    weighted = peak - part * (peak - lowest)
    k = fit_weighted(weighted, peak).coefficients[0]
    assert min(k) >= 0
    assert weighted_efficiency(k) == pytest.approx(weighted, abs=0.01)
    p = np.linspace(0.01, 1, 1000)
    curve = p / (p + k[0] + k[1] * p + k[2] * p**2)
    assert np.max(curve) * 100 == pytest.approx(peak, abs=0.01)
    rises = np.sign(np.round(np.diff(curve), 12))
    assert np.count_nonzero(np.diff(rises[rises != 0])) <= 1


def test_a_swapped_or_impossible_pair_is_refused_where_it_is_entered():
    sheet = built_in_parts().inverters["corvane-4x"].model_dump()
    for changes, told in (
        ({"peak_efficiency": 95.4, "european_efficiency": 96.2}, "swapped"),
        ({"peak_efficiency": 98.0, "european_efficiency": 94.0}, "96.3 % or more"),
    ):
        with pytest.raises(ValidationError, match=told):
            Inverter.model_validate(sheet | changes)


def test_a_weighted_efficiency_over_the_peak_is_refused():
    with pytest.raises(ValueError, match="must not exceed the peak"):
        fit_weighted(98.5, 98.0)


def test_a_datasheet_with_two_efficiencies_alone_is_met():
    inverter = built_in_parts().inverters["corvane-4x"]
    k = fit_inverter(inverter)
    assert not inverter.efficiency
    assert weighted_efficiency(k.coefficients[0]) == pytest.approx(inverter.european_efficiency, abs=0.01)
    p = np.linspace(0.02, 1, 500)
    out = one(inverter, p * inverter.ac_power)
    assert np.max(out.ac / (p * inverter.ac_power)) * 100 == pytest.approx(inverter.peak_efficiency, abs=0.02)


@pytest.mark.parametrize(
    ("changes", "told"),
    [
        pytest.param({"european_efficiency": None}, "the peak and the European efficiency", id="one of the two"),
        pytest.param({"european_efficiency": 96.4}, "it is 96.4 % beside 96.2 %", id="over the peak"),
    ],
)
def test_an_inverter_without_a_known_efficiency_is_refused(changes, told):
    with pytest.raises(ValidationError, match=told):
        Inverter.model_validate(built_in_parts().inverters["corvane-4x"].model_dump() | changes)


@given(st.sampled_from(INVERTERS), arrays(float, 24, elements=st.floats(0, 3)), st.floats(100, 1000))
def test_dc_is_ac_and_clipping_and_loss(inverter, loads, voltage):
    dc = loads * inverter.ac_power
    out = one(inverter, dc, voltage)
    assert_allclose(out.ac + out.clipping + out.conversion, dc, rtol=1e-12, atol=1e-9)
    assert np.all(out.ac <= inverter.ac_power * (1 + 1e-12))
    assert np.all(out.conversion >= -1e-9)


def test_output_at_a_known_load_solves_the_polynomial():
    inverter = INVERTERS[7]
    k0, k1, k2 = fit_inverter(inverter).coefficients[1]
    p = 0.37
    out = one(inverter, (p + k0 + k1 * p + k2 * p * p) * inverter.ac_power, fit_inverter(inverter).voltages[1])
    assert out.ac.item() == pytest.approx(p * inverter.ac_power, rel=1e-9)


def test_in_the_dark_it_draws_its_night_power():
    out = one(built_in_parts().inverters["hexley-20"], [0.0, 5.0, 5000.0])
    assert_allclose(out.night_use, [3, 3, 0])
    assert out.ac[2] > 0


COPPER = COEFFICIENTS["copper"]


@pytest.mark.parametrize(
    ("celsius", "watts"),
    [pytest.param(20, 50, id="at the reference temperature"), pytest.param(70, 59.825, id="50 K warmer: 19.65 % more")],
)
def test_ten_amperes_through_half_an_ohm(celsius, watts):
    wired = wire_through(np.array([10.0]), np.array([600.0]), [CableResistance(0.5, COPPER, 0.0)], 10.0, np.array([celsius]))
    assert wired.loss.item() == pytest.approx(watts, rel=1e-12)


def test_two_runs_lose_what_each_loses_one_of_them_cool_in_the_ground():
    """10 A through 0.2 ohm of copper at 50 °C and 0.3 ohm of aluminium at 20 °C: 20 W x 1.1179 and 30 W."""
    runs = [CableResistance(0.2, COPPER, 0.0), CableResistance(0.3, COEFFICIENTS["aluminium"], 0.0, ground=20.0)]
    wired = wire_through(np.array([10.0]), np.array([600.0]), runs, 10.0, np.array([50.0]))
    assert wired.loss.item() == pytest.approx(20 * 1.1179 + 30, rel=1e-12)


@given(plants)
def test_power_in_is_power_out_plus_loss(plant):
    current, voltage, resistance, air = plant
    wired = wire_through(current, voltage, [CableResistance(resistance, COPPER, 15.0)], 12.0, air)
    assert_allclose(wired.power + wired.loss, current * voltage, rtol=1e-12, atol=1e-9)


@given(plants)
def test_half_the_current_loses_a_quarter_at_one_temperature(plant):
    current, voltage, resistance, air = plant
    runs = [CableResistance(resistance, COPPER, 0.0)]
    loss = wire_through(current, voltage, runs, 12.0, air).loss
    half = wire_through(current / 2, voltage, runs, 12.0, air).loss
    free = loss < current * voltage  # where the cable does not take all
    assert_allclose(4 * half[free], loss[free], rtol=1e-12, atol=1e-9)


def test_a_string_that_drops_all_its_voltage_in_the_cable_gives_nothing():
    """20 A at 50 V into 5 ohm: the cable would take 2000 W of 1000 W."""
    wired = wire_through(np.array([20.0]), np.array([50.0]), [CableResistance(5.0, COPPER, 0.0)], 20.0, np.array([20.0]))
    assert (wired.power.item(), wired.loss.item()) == (0, 1000)


@pytest.mark.parametrize(("load", "celsius"), [(0, 20), (0.5, 25), (1, 40)])
def test_a_conductor_is_hotter_than_the_air_by_the_square_of_its_load(load, celsius):
    warm = CableResistance(1.0, 0.004, 20.0).during(np.array([load]), np.array([20.0]))
    assert warm.item() == pytest.approx(1 + 0.004 * (celsius - 20), rel=1e-12)


def test_ac_wiring_loses_its_share_at_rated_power_and_a_quarter_of_the_watts_at_half():
    out = wire_ac(np.array([1000.0, 500.0]), AcCableLoss.of_share(0.02, 1000.0))
    assert_allclose(out.loss, [20.0, 5.0])


def test_a_cap_holds_power_back_and_all_of_it_is_booked():
    """The rated power first, then a power factor of 0.9, then heat that leaves 0.5."""
    inverter = built_in_parts().inverters["hexley-20"]
    dc = np.array([30_000.0, 19_000.0, 8_000.0])
    caps = (np.full(3, 0.9 * inverter.ac_power), np.full(3, 0.5 * inverter.ac_power))
    out = convert(dc, np.full(3, 650.0), fit_inverter(inverter), inverter.ac_power, inverter.maximum_dc_power, 3.0, caps)
    assert_allclose(out.ac[:2], 0.5 * inverter.ac_power, rtol=1e-9)
    assert [bool(held.any()) for held in out.held_back] == [True, True] and out.held_back[1][2] == 0
    assert_allclose(dc, out.ac + out.clipping + out.conversion + sum(out.held_back), rtol=1e-12)


def test_an_inverter_that_is_too_hot_gives_nothing_and_draws_its_night_power():
    inverter = built_in_parts().inverters["hexley-20"]
    out = convert(np.array([9000.0]), np.array([650.0]), fit_inverter(inverter), 20_000, 30_000, 3.0, (np.zeros(1),))
    assert (out.ac.item(), out.held_back[0].item(), out.night_use.item()) == (0, 9000, 3)


@pytest.mark.parametrize(
    ("temperature", "height", "left"),
    [(40, 0, 1), (50, 0, 0.9), (64.9, 0, 0.602), (65, 0, 0), (40, 3000, 0.9), (50, 3000, 0.81), (45, 20_000, 0)],
)
def test_derating_by_hand(temperature, height, left):
    """2 % a kelvin above 45 °C until 65 °C, 1 % each 100 m above 2000 m."""
    assert Derating().share(temperature, height).item() == pytest.approx(left, abs=1e-12)
