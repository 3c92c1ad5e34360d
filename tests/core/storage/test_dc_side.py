"""Batteries on the DC side of the array's inverter: what is clipped is stored, the inverter's power is shared, and the grid's energy passes it twice."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from noontide.core.storage import Battery, dispatch, least_peak, off_grid, own_use, peak_shaving, time_of_use
from tests.core.storage.test_dispatch import PRICES, SUN, USE, days, powers

ROUND = 1e-9


def closes(found, demand, solar, battery, clipped=0.0, step=1.0):
    left = solar + clipped + found.imported + found.discharge + found.generator
    right = demand - found.unmet + found.charge + found.exported + found.curtailed
    assert np.allclose(left, right, rtol=0, atol=ROUND * max(1.0, float(np.max(left))))
    passes = battery.inverter_efficiency
    before = np.concatenate([[battery.initial * battery.energy], found.stored[:-1]]) * (1 - min(battery.self_discharge * step, 1))
    gained = ((found.charge - found.brought) / passes + found.brought * passes) * battery.charge_efficiency
    after = before + (gained - found.discharge / passes / battery.discharge_efficiency) * step
    assert np.allclose(found.stored, after, rtol=0, atol=ROUND * max(1.0, battery.energy))
    slack = ROUND * max(1.0, battery.energy)
    assert found.stored.max() <= battery.maximum * battery.energy + slack
    for flow in vars(found).values():
        assert (flow >= -ROUND).all()
    # What passes the inverter toward the AC side: the sun that is neither stored nor lost, and the battery.
    of_sun = solar + clipped - found.curtailed - (found.charge - found.brought)
    if not found.generator.any():
        assert (of_sun + found.discharge <= battery.inverter_power + ROUND).all()
    assert (np.minimum(found.charge, found.discharge) == 0).all()


def test_a_day_by_hand():
    """An inverter of 3 kW at 90 %, a battery of 12 kWh and 5 kW without losses of its own, empty at first; powers of the sun as they would arrive at the AC side."""
    demand, solar = np.array([1.0, 4.0, 1.0, 2.5, 4.0]), np.array([5.4, 5.4, 0.9, 0.0, 0.0])
    battery = Battery(12, 0, 1, 0, 5, 5, inverter_efficiency=0.9, inverter_power=3)
    found = dispatch(demand, solar, battery, own_use())
    # 4.4 at the AC side are 4.89 at the battery; then 2.4 that the inverter would not pass are 2.67, while 1 comes from the grid.
    assert found.charge == pytest.approx([4.4, 2.4, 0, 0, 0])
    assert found.stored == pytest.approx([4.4 / 0.9, 6.8 / 0.9, 6.7 / 0.9, 4.2 / 0.9, 1.2 / 0.9])
    assert found.discharge == pytest.approx([0, 0, 0.1, 2.5, 3.0])
    assert found.imported == pytest.approx([0, 1, 0, 0, 1]) and not found.curtailed.any()
    closes(found, demand, solar, battery)


def test_energy_from_the_grid_passes_the_inverter_both_ways():
    battery = Battery(10, 0, 1, 0, 4, 4, 0.95, 0.95, inverter_efficiency=0.9)
    prices = np.array([0.1, 0.5])
    found = dispatch([0.0, 2.0], [0.0, 0.0], battery, time_of_use(prices))
    assert found.discharge == pytest.approx([0, 2.0]) and found.brought == pytest.approx([2.0 / (0.95 * 0.9) ** 2, 0])
    # A night that costs four fifths of the evening is too dear for three quarters of it to come back.
    assert not dispatch([0.0, 2.0], [0.0, 0.0], battery, time_of_use(np.array([0.4, 0.5]))).charge.any()


def test_what_the_inverter_holds_back_is_stored_and_leaves_no_room_beside_it():
    battery = Battery(20, 0, 1, 0.5, 6, 6, inverter_efficiency=0.95, inverter_power=4)
    found = dispatch([6.0, 6.0], [3.9, 3.9], battery, own_use(), clipped=[1.0, 0.0])
    assert found.charge == pytest.approx([1.0, 0]) and found.discharge == pytest.approx([0, 0.1])
    full = dispatch([0.0], [4.0], Battery(5, 0, 1, 1, inverter_efficiency=0.95, inverter_power=4), own_use(), clipped=[2.5])
    assert full.curtailed == pytest.approx([2.5]) and full.exported == pytest.approx([4.0])


def test_one_with_a_limit_leaves_nothing_to_the_next_without():
    demand, solar = days(USE, 3), days(SUN, 3) * 1.5
    both = dispatch(demand, solar, Battery(9, 0, 1, 0, 3, 3, inverter_power=[2.0, np.inf]), own_use())
    alone = dispatch(demand, solar, Battery(9, 0, 1, 0, 3, 3), own_use())
    assert np.array_equal(both.stored[1], alone.stored) and not np.array_equal(both.stored[0], both.stored[1])


def test_with_an_inverter_that_loses_nothing_and_has_no_end_both_sides_are_one():
    demand, solar = days(USE, 10) * 1.3, days(SUN, 10)
    for strategy in (
        own_use(),
        least_peak(np.repeat([0, 1], 120), own_use=True),
        time_of_use(days(PRICES, 10)),
        off_grid(2, 0.2, 0.7),
    ):
        one = dispatch(demand, solar, Battery(9, 0.1, 1, 0.2, 3, 3, 0.94, 0.94), strategy)
        other = dispatch(
            demand, solar, Battery(9, 0.1, 1, 0.2, 3, 3, 0.94, 0.94, inverter_efficiency=1.0, inverter_power=1e9), strategy
        )
        for name, flow in vars(one).items():
            assert np.allclose(flow, getattr(other, name), rtol=0, atol=ROUND), name


batteries = st.builds(
    lambda energy, low, first, power, eta, leak, passes, most: Battery(
        energy, low, 1.0, low + first * (1 - low), power, power, eta, eta, leak, passes, most
    ),
    st.floats(0.1, 40), st.floats(0, 0.5), st.floats(0, 1), st.floats(0, 10), st.floats(0.6, 1), st.sampled_from([0.0, 1e-3]), st.floats(0.6, 1), st.floats(0, 12),
)  # fmt: skip
strategies = st.one_of(
    st.just(own_use()),
    st.builds(peak_shaving, st.floats(0, 15), st.booleans(), st.booleans()),
    st.builds(least_peak, st.sampled_from([None, [0, 0, 0, 1, 1, 1]]), st.booleans(), st.booleans()),
    st.builds(time_of_use, st.just([0.1, 0.4, 0.2, 0.1, 0.5, 0.3]), st.booleans(), st.floats(1, 24)),
    st.builds(lambda limit, share: own_use().with_export_limit(limit).with_reserve(share), st.floats(0, 5), st.floats(0, 1)),
    st.builds(off_grid, st.floats(0, 8), st.just(0.2), st.floats(0.3, 0.9), st.floats(0, 0.5)),
)


@settings(max_examples=200, deadline=None)
@given(powers, powers, powers, batteries, strategies)
def test_energy_closes_and_the_inverter_is_never_passed(demand, solar, clipped, battery, strategy):
    demand, solar = np.array(demand), np.array(solar)
    # The chain clips where the inverter is full alone.
    clipped = np.where(solar >= np.asarray(battery.inverter_power), clipped, 0.0)
    closes(dispatch(demand, solar, battery, strategy, clipped=clipped), demand, solar, battery, clipped)


@settings(max_examples=100, deadline=None)
@given(powers, powers, batteries, st.booleans())
def test_the_least_limit_on_the_dc_side_is_held_and_a_hair_less_is_not(demand, solar, battery, from_grid):
    demand, solar = np.array(demand), np.array(solar)
    limit = float(dispatch(demand, solar, battery, least_peak(None, from_grid)).imported.max())
    if limit > 1e-3:
        held = dispatch(demand, solar, battery, peak_shaving(limit * (1 + 1e-9), from_grid))
        assert held.imported.max() <= limit * (1 + 1e-6)
        less = dispatch(demand, solar, battery, peak_shaving(limit * 0.999, from_grid))
        assert less.imported.max() > limit * 0.999 * (1 + 1e-9)


def best_cost(demand, solar, battery, prices, sell):
    """What perfect foresight would pay: sun to the inverter or to the battery before it, the battery through the inverter, the grid's energy back through it."""
    n, passes = demand.size, battery.inverter_efficiency
    into, out = battery.charge_efficiency, battery.discharge_efficiency
    # Sun to the AC side, sun stored, discharged, stored from the grid (all at the AC side), stored, imported, exported.
    cost = np.concatenate([np.zeros(5 * n), prices, np.full(n, -sell)])
    equal, right, under, most = np.zeros((2 * n, 7 * n)), np.zeros(2 * n), np.zeros((3 * n, 7 * n)), np.zeros(3 * n)
    for t in range(n):
        equal[t, [t, 2 * n + t, 3 * n + t, 5 * n + t, 6 * n + t]] = 1, 1, -1, 1, -1
        right[t] = demand[t]
        equal[n + t, [n + t, 2 * n + t, 3 * n + t, 4 * n + t]] = -into / passes, 1 / passes / out, -into * passes, 1
        if t:
            equal[n + t, 4 * n + t - 1] = -1
        else:
            right[n] = battery.initial * battery.energy
        under[t, [t, n + t]], most[t] = 1, solar[t]
        under[n + t, [t, 2 * n + t]], most[n + t] = 1, battery.inverter_power
        under[2 * n + t, [n + t, 3 * n + t]], most[2 * n + t] = 1, battery.charge_power * passes
    stored = (battery.minimum * battery.energy, battery.maximum * battery.energy)
    bounds = (
        [(0, None)] * (2 * n)
        + [(0, battery.discharge_power * passes)] * n
        + [(0, None)] * n
        + [stored] * n
        + [(0, None)] * (2 * n)
    )
    found = linprog(cost, under, most, equal, right, bounds, method="highs")
    assert found.success
    return found.fun


@pytest.mark.parametrize("seed", range(4))
def test_no_strategy_beats_the_linear_programme(seed):
    draw = np.random.default_rng(seed)
    demand, solar = days(USE, 4) * draw.uniform(0.4, 1.8, 96), days(SUN, 4) * draw.uniform(0, 1.6, 96)
    battery = Battery(draw.uniform(2, 12), 0.1, 0.95, 0.5, 3, 2.5, 0.95, 0.93, 0.0, 0.94, draw.uniform(2, 5))
    prices = days(PRICES, 4)
    best = best_cost(demand, solar, battery, prices, 0.05)
    for strategy in (own_use(), peak_shaving(2), time_of_use(prices), time_of_use(prices, from_grid=False)):
        found = dispatch(demand, solar, battery, strategy)
        closes(found, demand, solar, battery)
        assert (found.imported * prices - found.exported * 0.05).sum() >= best - 1e-6
