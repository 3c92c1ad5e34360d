"""Batteries by hand, against the laws that hold for all of them, and against a linear programme that knows the future."""

import dataclasses
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from noontide.core.storage import (
    Battery,
    clipped_energy,
    dispatch,
    least_import_limits,
    least_peak,
    loops,
    loss_of_load,
    off_grid,
    own_use,
    peak_shaving,
    time_of_use,
    totals,
)

HOURS = np.arange(24)
SUN = np.maximum(0, 5 * np.sin((HOURS - 6) / 12 * np.pi))
USE = np.where((HOURS >= 17) & (HOURS < 22), 3.0, 0.6)
PRICES = np.where((HOURS >= 17) & (HOURS < 21), 0.4, np.where(HOURS < 6, 0.15, 0.25))


def days(one, count):
    return np.tile(one, count)


def close(found, demand, solar, battery, step=1.0):
    """The account of every interval, and what no strategy may do."""
    left = solar + found.imported + found.discharge + found.generator
    right = demand - found.unmet + found.charge + found.exported + found.curtailed
    assert np.allclose(left, right, rtol=0, atol=1e-9 * max(1.0, float(np.max(left))))
    fields = {f.name: np.asarray(getattr(battery, f.name), dtype=float)[..., np.newaxis] for f in dataclasses.fields(battery)}
    energy, leak = fields["energy"], np.minimum(fields["self_discharge"] * step, 1)
    first = np.broadcast_to(fields["initial"] * energy, (*found.stored.shape[:-1], 1))
    before = np.concatenate([first, found.stored[..., :-1]], axis=-1)
    after = (
        before * (1 - leak)
        + found.charge * fields["charge_efficiency"] * step
        - found.discharge * step / fields["discharge_efficiency"]
    )
    assert np.allclose(found.stored, after, rtol=0, atol=1e-9 * np.maximum(1.0, energy))
    slack = 1e-9 * np.maximum(1.0, energy)
    assert (found.stored <= fields["maximum"] * energy + slack).all()
    # What leaks away may go below the minimum; nobody takes it from there.
    assert ((found.stored >= fields["minimum"] * energy - slack) | (found.discharge <= 1e-9)).all()
    assert (found.charge <= fields["charge_power"] + 1e-9).all() and (found.discharge <= fields["discharge_power"] + 1e-9).all()
    for flow in vars(found).values():
        assert (flow >= -1e-12).all()
    assert (np.minimum(found.charge, found.discharge) == 0).all() and (found.unmet <= demand + 1e-12).all()


def test_a_day_by_hand():
    """3 kWh usable of 4, 2 kW, 90 % in and 80 % out: the hours of a short day, one by one."""
    demand, solar = np.array([1.0, 0.5, 0.5, 2.0, 3.0]), np.array([0.0, 2.0, 4.0, 0.0, 0.0])
    battery = Battery(4, 0.25, 1.0, 0.25, charge_power=2, discharge_power=2, charge_efficiency=0.9, discharge_efficiency=0.8)
    found = dispatch(demand, solar, battery, own_use())
    assert found.charge == pytest.approx([0, 1.5, (4 - 1 - 1.35) / 0.9, 0, 0])
    assert found.exported == pytest.approx([0, 0, 3.5 - 1.65 / 0.9, 0, 0])
    assert found.stored == pytest.approx([1, 2.35, 4, 4 - 2 / 0.8, 1])
    assert found.discharge == pytest.approx([0, 0, 0, 2, 0.4]) and found.imported == pytest.approx([1, 0, 0, 0, 2.6])
    close(found, demand, solar, battery)


def test_what_leaks_is_taken_first():
    found = dispatch([0.0, 0.0], [0.0, 1.0], Battery(10, 0, 1, 1, self_discharge=0.1), own_use())
    assert found.stored == pytest.approx([9, 9 * 0.9 + 1])
    half = dispatch([0.0], [0.0], Battery(10, 0, 1, 1, self_discharge=0.1), own_use(), step=0.5)
    assert half.stored == pytest.approx([9.5])


powers = st.lists(st.floats(0, 20), min_size=6, max_size=6)
batteries = st.builds(
    lambda energy, low, extra, first, power, out, eta_in, eta_out, leak: Battery(
        energy, low, low + extra, low + first * extra, power, out, eta_in, eta_out, leak
    ),
    st.floats(0, 50), st.floats(0, 0.5), st.floats(0, 0.5), st.floats(0, 1), st.floats(0, 10), st.floats(0, 10), st.floats(0.5, 1), st.floats(0.5, 1),
    st.sampled_from([0.0, 0.0, 1e-4, 0.3]),
)  # fmt: skip
strategies = st.one_of(
    st.just(own_use()),
    st.builds(peak_shaving, st.floats(0, 15), st.booleans(), st.booleans()),
    st.builds(least_peak, st.sampled_from([None, [0, 0, 0, 1, 1, 1]]), st.booleans(), st.booleans(), st.booleans()),
    st.builds(time_of_use, st.just([0.1, 0.4, 0.2, 0.1, 0.5, 0.3]), st.booleans(), st.floats(1, 24)),
    st.builds(clipped_energy, st.floats(0, 10)),
    st.builds(off_grid, st.floats(0, 8), st.just(0.2), st.floats(0.3, 0.9), st.floats(0, 0.5)),
    st.builds(lambda limit, share: own_use().with_export_limit(limit).with_reserve(share), st.floats(0, 5), st.floats(0, 1)),
)


@settings(max_examples=300, deadline=None)
@given(powers, powers, batteries, strategies, st.sampled_from([1.0, 0.25, 1 / 60]))
def test_energy_closes_and_limits_hold_for_every_strategy(demand, solar, battery, strategy, step):
    demand, solar = np.array(demand), np.array(solar)
    found = dispatch(demand, solar, battery, strategy, step)
    close(found, demand, solar, battery, step)
    if strategy.has_grid is True:
        assert (found.unmet == 0).all() and (found.exported <= np.asarray(strategy.export_limit) + 1e-9).all()
        assert (found.generator == 0).all()
    else:
        assert (found.imported == 0).all() and (found.exported == 0).all()
        assert (found.generator <= np.asarray(strategy.generator) + 1e-9).all()
    sums = totals(demand, solar, battery, strategy, step)
    for name in ("charge", "discharge", "imported", "exported", "curtailed", "unmet", "generator"):
        assert getattr(sums, name) == pytest.approx(getattr(found, name).sum() * step, abs=1e-9)
    assert sums.peak == found.imported.max() and sums.lowest <= found.stored.min()
    assert sums.longest_gap == pytest.approx(loss_of_load(found.unmet, demand, step).longest)


def test_candidates_beside_one_another_are_each_what_it_is_alone():
    demand, solar = days(USE, 14), days(SUN, 14) * np.linspace(0.3, 1.4, 14 * 24)
    energies, arrays = np.array([0.0, 2.0, 6.0, 40.0]), np.array([0.5, 1.0, 2.0])
    battery = Battery(energies[:, np.newaxis], 0.1, 1.0, 0.1, 2.0, 3.0, 0.96, 0.95, 1e-4)
    for strategy in (
        own_use(),
        peak_shaving(1.5),
        least_peak(np.repeat([0, 1], 7 * 24)),
        time_of_use(days(PRICES, 14)),
        off_grid(1.0, 0.2, 0.6),
    ):
        found = dispatch(demand, arrays[:, np.newaxis] * solar, battery, strategy)
        assert found.stored.shape == (4, 3, 14 * 24)
        close(found, demand, arrays[:, np.newaxis] * solar, battery)
        for i, energy in enumerate(energies):
            for j, array in enumerate(arrays):
                alone = dispatch(demand, array * solar, Battery(energy, 0.1, 1.0, 0.1, 2.0, 3.0, 0.96, 0.95, 1e-4), strategy)
                for name, flow in vars(alone).items():
                    assert np.array_equal(flow, getattr(found, name)[i, j]), (name, strategy)


def best_cost(demand, solar, battery, prices, sell=0.0, peaks=None, step=1.0):
    """The least bill that any control could reach, knowing everything: a linear programme. With `peaks` (period of each interval, price) of the highest imports."""
    n = demand.size
    periods, price_of_peak = peaks if peaks is not None else (np.zeros(n, dtype=int), 0.0)
    count = periods.max() + 1
    # Variables: charge, discharge, stored, imported, exported, and the highest import of each period.
    size = 5 * n + count
    cost = np.concatenate([np.zeros(3 * n), prices * step, np.full(n, -sell * step), np.full(count, price_of_peak)])
    equal, right = np.zeros((2 * n, size)), np.zeros(2 * n)
    for t in range(n):
        equal[t, [t, n + t, 3 * n + t, 4 * n + t]] = 1, -1, -1, 1
        right[t] = solar[t] - demand[t]
        equal[n + t, [t, n + t, 2 * n + t]] = -battery.charge_efficiency * step, step / battery.discharge_efficiency, 1
        if t:
            equal[n + t, 2 * n + t - 1] = -1
        else:
            right[n] = battery.initial * battery.energy
    under, most = np.zeros((n, size)), np.zeros(n)
    for t in range(n):
        under[t, 3 * n + t], under[t, 5 * n + periods[t]] = 1, -1
    stored = (battery.minimum * battery.energy, battery.maximum * battery.energy)
    bounds = [(0, battery.charge_power)] * n + [(0, battery.discharge_power)] * n + [stored] * n + [(0, None)] * (2 * n + count)
    found = linprog(cost, under, most, equal, right, bounds, method="highs")
    assert found.success
    return found.fun


@pytest.mark.parametrize("seed", range(6))
def test_no_strategy_beats_the_linear_programme_and_least_peak_is_within_three_percent(seed):
    draw = np.random.default_rng(seed)
    n = 96
    demand = days(USE, 4) * draw.uniform(0.4, 1.8, n)
    solar = days(SUN, 4) * draw.uniform(0, 1.2, n)
    battery = Battery(draw.uniform(2, 12), 0.1, 0.95, 0.5, 3, 2.5, 0.95, 0.93)
    prices = days(PRICES, 4)
    best = best_cost(demand, solar, battery, prices, sell=0.05)
    for strategy in (own_use(), peak_shaving(2), time_of_use(prices), time_of_use(prices, from_grid=False)):
        found = dispatch(demand, solar, battery, strategy)
        assert (found.imported * prices - found.exported * 0.05).sum() >= best - 1e-6
    flat = np.full(n, 1e-6)
    for periods in (np.zeros(n, dtype=int), np.repeat([0, 1], n // 2)):
        least = best_cost(demand, solar, battery, flat, peaks=(periods, 10.0))
        for serves in (False, True):
            found = dispatch(demand, solar, battery, least_peak(periods, own_use=serves))
            paid = sum(10.0 * found.imported[periods == k].max() for k in set(periods)) + (found.imported * flat).sum()
            assert least - 1e-6 <= paid <= 1.03 * least


def test_time_of_use_saves_where_prices_differ_and_beats_own_use_there():
    demand, solar = days(USE, 20), days(SUN, 20) * 0.25
    prices, battery = days(PRICES, 20), Battery(10, 0.05, 1, 0.05, 3, 3, 0.96, 0.96)

    def cost(strategy):
        return float((dispatch(demand, solar, battery, strategy).imported * prices).sum())

    own, timed = cost(own_use()), cost(time_of_use(prices))
    best = best_cost(demand[:240], solar[:240], battery, prices[:240])
    found = dispatch(demand[:240], solar[:240], battery, time_of_use(prices[:240]))
    assert timed < 0.95 * own and float((found.imported * prices[:240]).sum()) <= 1.05 * best
    # With one price for all hours there is nothing to shift: it is own use.
    alike = dispatch(demand, solar, battery, time_of_use(np.full(480, 0.3)))
    assert np.allclose(alike.imported, dispatch(demand, solar, battery, own_use()).imported)


@settings(max_examples=300, deadline=None)
@given(powers, powers, batteries, st.booleans(), st.sampled_from([1.0, 0.25]))
def test_the_least_limits_are_held_and_a_hair_less_is_not(demand, solar, battery, from_grid, step):
    demand, solar, periods = np.array(demand), np.array(solar), np.array([0, 0, 0, 1, 1, 1])
    limits = least_import_limits(demand, solar, battery, least_peak(periods, from_grid), step)
    held = dispatch(demand, solar, battery, peak_shaving(limits, from_grid), step)
    assert (held.imported <= limits + 1e-9).all()
    for k in (0, 1):
        if limits[periods == k][0] > 1e-5:
            less = np.where(periods == k, limits - 1e-6, limits)
            assert (dispatch(demand, solar, battery, peak_shaving(less, from_grid), step).imported > less + 1e-9)[
                periods == k
            ].any()


@pytest.mark.parametrize("serves", [False, True])
def test_who_knows_yesterday_alone_reads_nothing_of_what_comes(serves):
    rng = np.random.default_rng(5)
    demand, solar = days(USE, 20) * rng.uniform(0.5, 1.5, 480), days(SUN, 20) * np.repeat(rng.uniform(0, 1, 20), 24)
    battery, periods = Battery(6, 0.1, 1, 0.5, 2, 2, 0.95, 0.95, 1e-4), np.repeat([0, 1], 240)
    strategy = least_peak(periods, own_use=serves, yesterday=True)
    found = dispatch(demand, solar, battery, strategy)
    close(found, demand, solar, battery)
    later = 24 * 7 + 15
    changed = np.where(np.arange(480) > later, demand * 3 + 1, demand), np.where(np.arange(480) > later, 0.0, solar)
    other = dispatch(*changed, battery, strategy)
    for name, flow in vars(found).items():
        assert np.array_equal(flow[: later + 1], getattr(other, name)[: later + 1]), name
    # It is no better than who knows the month, and better than nothing.
    knowing = least_import_limits(demand, solar, battery, least_peak(periods))
    for k in (0, 1):
        peak = found.imported[periods == k].max()
        assert knowing[periods == k][0] - 1e-9 <= peak <= np.maximum(demand - solar, 0)[periods == k].max() + 1e-9


def test_where_every_day_is_like_the_one_before_yesterday_tells_all():
    demand, solar = days(USE, 12), days(SUN, 12) * 0.4
    battery = Battery(6, 0, 1, 1, 2, 2, 0.95, 0.95)
    knowing, found = (dispatch(demand, solar, battery, least_peak(yesterday=known)) for known in (False, True))
    assert found.imported.max() == pytest.approx(knowing.imported.max(), rel=1e-6)
    with pytest.raises(ValueError, match="no whole number of intervals"):
        dispatch(demand, solar, battery, least_peak(yesterday=True), step=0.7)


def test_own_use_between_the_peaks_keeps_them_just_as_low():
    demand, solar = days(USE, 10) * np.repeat(np.linspace(0.6, 1.5, 10), 24), days(SUN, 10) * 0.5
    battery = Battery(8, 0.1, 1, 1, 2, 2, 0.95, 0.95)
    periods = np.repeat([0, 1], 120)
    alone, both = (dispatch(demand, solar, battery, least_peak(periods, own_use=serves)) for serves in (False, True))
    limits = least_import_limits(demand, solar, battery, least_peak(periods))
    for k in (0, 1):
        assert both.imported[periods == k].max() <= limits[periods == k][0] + 1e-9
        assert alone.imported[periods == k].max() == pytest.approx(limits[periods == k][0])
    assert both.imported.sum() < alone.imported.sum()


def test_a_reserve_is_left_for_the_outage_and_carries_it():
    n = 48
    demand, solar = np.full(n, 1.0), np.zeros(n)
    battery = Battery(10, 0, 1, 1, 5, 5)
    grid = np.ones(n, dtype=bool)
    grid[30:36] = False
    kept = dispatch(demand, solar, battery, dataclasses.replace(own_use().with_reserve(0.5), has_grid=grid))
    bare = dispatch(demand, solar, battery, dataclasses.replace(own_use(), has_grid=grid))
    assert kept.unmet[30:36].sum() == pytest.approx(1) and kept.stored[29] == pytest.approx(5)
    assert bare.unmet.sum() == pytest.approx(6) and kept.unmet[:30].sum() == 0


def test_a_generator_by_hand():
    """4 kW; starts at 20 %, stops at 60 % of 10 kWh; runs at half its power at least."""
    demand, solar = np.array([3.0, 1, 1, 1, 9, 0]), np.zeros(6)
    battery = Battery(10, 0.1, 1, 0.5, 5, 5)
    found = dispatch(demand, solar, battery, off_grid(4.0, 0.2, 0.6, 0.5))
    assert found.stored == pytest.approx([2, 5, 8, 7, 2, 6])
    assert found.generator == pytest.approx([0, 4, 4, 0, 4, 4]) and found.unmet == pytest.approx(np.zeros(6))
    close(found, demand, solar, battery)
    quiet = dispatch(demand, solar, battery, off_grid(4.0, 0.2, 0.6, 0.5, allowed=np.array([1, 0, 0, 1, 1, 1], dtype=bool)))
    assert quiet.generator[1:3].sum() == 0
    # Below its least load it runs on and what nobody takes is lost.
    small = dispatch([0.5], [0.0], Battery(0), off_grid(4.0, least=0.5))
    assert (small.generator[0], small.curtailed[0], small.unmet[0]) == (2.0, 1.5, 0.0)


def test_only_what_would_be_cut_off_is_stored():
    demand, solar = np.array([0.0, 0.0, 4.0]), np.array([2.0, 6.0, 0.0])
    found = dispatch(demand, solar, Battery(10, 0, 1, 0, 3, 3), clipped_energy(4.0))
    assert found.charge == pytest.approx([0, 2, 0]) and found.exported == pytest.approx([2, 4, 0]) and found.discharge[2] == 2
    plain = dispatch(demand, solar, Battery(10, 0, 1, 0, 3, 3), own_use().with_export_limit(1.0))
    assert plain.curtailed == pytest.approx([0, 2, 0])


def test_the_ends_of_the_scale():
    none, perfect = Battery(0), Battery(1e7, 0, 1, 0)
    demand, solar = days(USE, 3), days(SUN, 3)
    nothing = dispatch(demand, solar, none, own_use())
    assert np.allclose(nothing.imported, np.maximum(demand - solar, 0)) and np.allclose(
        nothing.exported, np.maximum(solar - demand, 0)
    )
    kept = dispatch(demand, solar, perfect, own_use())
    assert kept.exported.sum() == 0 and kept.imported.sum() + solar.sum() - kept.stored[-1] == pytest.approx(demand.sum())
    dark = dispatch(demand, np.zeros(72), Battery(5, 0, 1, 0), own_use())
    assert np.allclose(dark.imported, demand) and dark.charge.sum() == 0
    idle = dispatch(np.zeros(72), solar, Battery(5, 0, 1, 0), own_use())
    assert idle.charge.sum() == pytest.approx(5) and idle.discharge.sum() == 0
    one = dispatch([2.0], [1.0], Battery(5, 0, 1, 1), own_use())
    assert one.imported[0] == 0 and one.stored[0] == 4
    minutes = dispatch(np.repeat(demand, 60), np.repeat(solar, 60), Battery(5, 0, 1, 0, 2, 2), own_use(), step=1 / 60)
    hourly = dispatch(demand, solar, Battery(5, 0, 1, 0, 2, 2), own_use())
    assert minutes.imported.sum() / 60 == pytest.approx(hourly.imported.sum())


@pytest.mark.parametrize(
    ("words", "act"),
    [
        ("demand: powers are 0 kW or more; interval 1 has -1", lambda: dispatch([1, -1], [0, 0], Battery(1), own_use())),
        ("solar: powers are 0 kW or more; interval 0 has nan", lambda: dispatch([1], [np.nan], Battery(1), own_use())),
        ("do not broadcast", lambda: dispatch(np.ones(3), np.ones(4), Battery(1), own_use())),
        ("do not broadcast", lambda: dispatch(np.ones((2, 3)), np.ones(3), Battery([1, 2, 3]), own_use())),
        ("a power for each interval", lambda: dispatch([], [], Battery(1), own_use())),
        ("length of an interval", lambda: dispatch([1], [1], Battery(1), own_use(), 0)),
        ("charge efficiency of a battery lies between 1e-06 and 1; it is 1.2", lambda: Battery(1, charge_efficiency=1.2)),
        ("energy of a battery lies between 0 and inf; it is -1", lambda: Battery(-1)),
        ("minimum lies above", lambda: Battery(1, 0.9, 0.2, 0.5)),
        ("begins between", lambda: Battery(1, 0.2, 0.9, 0.1)),
        ("prices: one value, or one for each of the 2", lambda: dispatch([1, 1], [0, 0], Battery(1), time_of_use([1, 2, 3]))),
        ("periods: a rising number", lambda: dispatch([1, 1], [0, 0], Battery(1), least_peak([1, 0]))),
        ("import limit: values of 0 or more", lambda: dispatch([1], [0], Battery(1), peak_shaving(-1))),
    ],
)
def test_what_cannot_be_is_refused_in_words(words, act):
    with pytest.raises(ValueError, match=re.escape(words)):
        act()


def test_loss_of_load_by_hand():
    found = loss_of_load([[0, 1, 1, 0, 2, 0], [0, 0, 0, 0, 0, 0]], [2, 2, 2, 2, 2, 0], step=0.5)
    assert (
        found.energy == pytest.approx([0.4, 0])
        and found.hours == pytest.approx([0.5, 0])
        and found.longest == pytest.approx([1.0, 0])
    )


def test_a_loop_has_one_version_whatever_its_inputs_are():
    """Another version would be compiled where it is first needed, and keep a person waiting for seconds."""
    demand, solar, ones = np.ones(48), np.ones((2, 48)), np.ones(48)
    for strategy in (
        own_use(),
        peak_shaving(ones),
        least_peak(own_use=True),
        least_peak(own_use=True, yesterday=True),
        time_of_use(ones),
        off_grid(1.0, 0.2, 0.5, 0.3, ones > 0),
    ):
        for sun in (solar, solar[0], [1.0] * 48):
            for battery in (Battery(5), Battery([5.0, 6.0])):
                for clipped in (0.0, ones):
                    dispatch(demand, sun, battery, strategy, 1.0, clipped)
                    totals(demand, sun, battery, strategy, 1.0, clipped)
    assert {len(loop.signatures) for loop in (loops.run_intervals, loops.least_limits, loops.limits_by_yesterday)} == {1}
