"""The finder's answers against brute force over random parts, and its words."""

from collections import Counter
from itertools import combinations_with_replacement, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.electrical import Inverter, arrangements, explain, string_limits
from noontide.core.electrical.datasheets import TrackerInput
from noontide.core.electrical.finder import loads_of
from noontide.core.electrical.fleet import Wish, mixtures, proposals, ratio_of
from noontide.parts import built_in_parts

PARTS = built_in_parts()
MODULE = PARTS.modules["veltrane-430"]
COLD, HOT = -10.0, 70.0


@st.composite
def inverters(draw):
    """Any window and currents: from ones that nothing fits to ones that take three strings a tracker."""
    start = draw(st.integers(60, 400))
    return Inverter(
        id="any", maker="Hexley", name="Any", year=2026, ac_power=draw(st.sampled_from([2000, 6000, 15000])), trackers=draw(st.integers(1, 3)),
        maximum_dc_power=draw(st.sampled_from([3000, 9000, 24000])), maximum_dc_voltage=draw(st.integers(500, 1100)), start_voltage=start,
        mppt_minimum=start, full_power_minimum=start + 20, mppt_maximum=480, maximum_tracker_current=draw(st.sampled_from([9.0, 15.0, 30.0])),
        maximum_short_circuit_current=draw(st.sampled_from([10.0, 20.0, 55.0])), peak_efficiency=97.5, european_efficiency=97.0,
    )  # fmt: skip


def by_brute_force(number, inverter):
    """Every multiset of tracker loads, tried one by one."""
    limits = string_limits(MODULE, inverter, COLD, HOT)
    if number * MODULE.power > inverter.maximum_dc_power * (1 + 1e-9):
        return set()
    lengths = [
        n
        for n in range(1, number + 1)
        if n * limits.hot_vmp >= inverter.mppt_minimum - 1e-6 and n * limits.cold_voc <= limits.maximum_voltage + 1e-6
    ]
    loads = [(0, 0), *product(range(1, limits.parallel + 1), lengths)]
    found = set()
    for chosen in combinations_with_replacement(loads, inverter.trackers):
        if sum(strings * length for strings, length in chosen) == number:
            found.add(frozenset(Counter(chosen).items()))
    return found


def as_set(found):
    return {frozenset(Counter((len(strings), strings[0] if strings else 0) for strings in a).items()) for a in found}


@settings(max_examples=150)
@given(st.integers(1, 45), inverters())
def test_every_arrangement_is_found_and_no_other(number, inverter):
    found = arrangements(number, MODULE, inverter, COLD, HOT)
    expected = by_brute_force(number, inverter)
    assert as_set(found) == expected
    assert len(found) == len(expected)
    assert explain(number, MODULE, inverter, COLD, HOT).fits == bool(expected)


@settings(max_examples=12)
@given(st.integers(1, 40), inverters())
def test_what_does_not_go_has_a_reason_and_the_nearest_that_does(number, inverter):
    said = explain(number, MODULE, inverter, COLD, HOT)
    assert bool(said.reasons) != said.fits
    going = [n for n in range(1, 58) if by_brute_force(n, inverter)]
    assert set(said.nearest) <= set(going)
    if going:
        assert abs(said.nearest[0] - number) == min(abs(n - number) for n in going)


@given(st.integers(2, 40), inverters())
def test_arrangements_are_in_canonical_order_with_the_fullest_first(number, inverter):
    for found in arrangements(number, MODULE, inverter, COLD, HOT, leave_over=1):
        sums = [sum(strings) for strings in found]
        assert sums == sorted(sums, reverse=True)
        assert sum(sums) in (number, number - 1)
        assert len(found) == inverter.trackers
        assert all(len(set(strings)) <= 1 for strings in found)


def test_none_is_left_over_where_it_need_not_be():
    found = arrangements(37, MODULE, PARTS.inverters["hexley-20"], COLD, HOT, leave_over=3)
    totals = [sum(map(sum, a)) for a in found]
    assert totals == sorted(totals, reverse=True)
    assert totals[0] == 37


def test_words_name_the_limit_that_is_in_the_way():
    hexley = PARTS.inverters["hexley-20"]
    few = explain(3, MODULE, hexley, COLD, HOT)
    assert "the MPP window starts at" in few.reasons[0]
    many = explain(5000, MODULE, hexley, COLD, HOT)
    assert "kW DC, which is" in many.reasons[0] and "over 1000 V" in many.reasons[1]
    impossible = explain(10, MODULE, hexley.model_copy(update={"mppt_minimum": 940, "full_power_minimum": 940}), COLD, HOT)
    assert impossible.nearest == () and impossible.reasons[0].startswith("No length fits")
    tight = explain(10, MODULE, hexley.model_copy(update={"maximum_short_circuit_current": 5.0}), COLD, HOT)
    assert tight.reasons[0].startswith("1.25 × Isc of one string")


def test_a_number_between_strings_is_said_to_lie_there():
    limits = string_limits(MODULE, PARTS.inverters["hexley-3"], COLD, HOT)
    narrow = PARTS.inverters["hexley-10"].model_copy(
        update={"mppt_minimum": 0.999 * limits.hot_vmp * 20, "full_power_minimum": 800.0}
    )
    said = explain(25, MODULE, narrow, COLD, HOT)
    assert not said.fits and "25 lies between" in said.reasons[0]
    assert said.nearest[0] == 23


@pytest.mark.parametrize(("number", "left"), [(0, 0), (-1, 0), (5, -1)])
def test_numbers_that_cannot_be_are_refused(number, left):
    with pytest.raises(ValueError, match="must be"):
        arrangements(number, MODULE, PARTS.inverters["hexley-20"], COLD, HOT, left)


def test_like_trackers_are_folded():
    assert loads_of([[18, 18], [18, 18], [17], []]) == [(2, 2, 18), (1, 1, 17)]


@given(st.integers(1, 400), st.integers(0, 3))
def test_proposals_place_what_they_say_and_keep_to_the_wish(number, leave_over):
    wish = Wish(leave_over, 0.9, 1.4)
    found, rejected = proposals(number, MODULE, PARTS.inverters.values(), COLD, HOT, wish)
    assert {p.inverter.id for p in found} | set(rejected) == set(PARTS.inverters)
    assert {p.inverter.id for p in found}.isdisjoint(rejected)
    for p in found:
        assert p.modules + p.left_over == number and p.left_over <= leave_over
        assert 0.9 - 1e-9 <= p.ratio(MODULE) <= 1.4 + 1e-9
        for share in p.shares:
            modules = sum(map(sum, share.strings))
            assert modules * MODULE.power <= p.inverter.maximum_dc_power * (1 + 1e-9)
            assert len(share.strings) == p.inverter.trackers
            for strings in share.strings:
                assert len(set(strings)) <= 1 and len(strings) <= p.limits.parallel
                assert all(p.limits.fewest <= length <= p.limits.most for length in strings)
    assert all(said.reasons for said in rejected.values())


def test_phases_that_were_asked_for_are_kept():
    found, rejected = proposals(12, MODULE, PARTS.inverters.values(), COLD, HOT, Wish(phases=1))
    assert {p.inverter.phases for p in found} == {1}
    assert "3 phases; 1 were asked for" in rejected["hexley-20"].reasons[0]


def test_too_few_modules_for_the_ratio_name_the_numbers_that_reach_it():
    hexley = PARTS.inverters["hexley-20"]
    _, rejected = proposals(20, MODULE, [hexley], COLD, HOT, Wish(0, 1.0, 1.4))
    said = rejected["hexley-20"]
    assert "DC/AC ratio of 0.43" in said.reasons[0]
    assert said.nearest[0] == 47  # 47 × 430 W are the first over 20 kW


@pytest.mark.parametrize("number", [97, 140, 333])
def test_a_mixture_places_every_module_and_keeps_the_ratios_of_both_models(number):
    wish = Wish(lowest_ratio=0.9, highest_ratio=1.4)
    units = [unit for unit in PARTS.inverters.values() if unit.kind == "string"]
    found = mixtures(number, MODULE, units, -10, 70, wish)
    assert found
    for large, small in found:
        assert large.modules + small.modules == number and large.inverter.ac_power > small.inverter.ac_power
        assert large.inverter.phases == small.inverter.phases
        for part in (large, small):
            assert 0.9 - 1e-9 <= part.ratio(MODULE) <= 1.4 + 1e-9
        assert 0.9 - 1e-9 <= ratio_of((large, small), MODULE) <= 1.4 + 1e-9


def test_the_start_voltage_bounds_the_shortest_string_as_the_window_does():
    """An inverter that starts late: its strings must reach the start voltage on their hot Voc, by hand from the limits."""
    late = PARTS.inverters["hexley-20"].model_copy(update={"start_voltage": 700.0})
    limits = string_limits(MODULE, late, COLD, HOT)
    assert limits.fewest == limits.start_fewest == int(np.ceil(700 / limits.hot_voc)) > limits.window_fewest
    assert all(
        len(strings) == 0 or strings[0] >= limits.fewest
        for found in arrangements(60, MODULE, late, COLD, HOT)
        for strings in found
    )
    said = explain(limits.fewest - 1, MODULE, late, COLD, HOT)
    assert "the inverter starts at 700 V, which takes" in said.reasons[0]


def test_the_finder_takes_the_factor_of_the_rules():
    """At 1.6 x Isc a tracker of two strings takes one; the capacity of the inverter halves."""
    unit = PARTS.inverters["hexley-20"].model_copy(
        update={"maximum_short_circuit_current": 2 * 1.3 * MODULE.highest_isc, "maximum_tracker_current": 60.0}
    )
    usual, strict = (string_limits(MODULE, unit, COLD, HOT, array_current=factor) for factor in (1.25, 1.6))
    assert set(usual.parallel_of) == {2} and set(strict.parallel_of) == {1}
    for factor, most in ((1.25, 2), (1.6, 1)):
        found = arrangements(40, MODULE, unit, COLD, HOT, array_current=factor)
        assert found and max(len(strings) for way in found for strings in way) <= most
        taken, _ = proposals(40, MODULE, [unit], COLD, HOT, Wish(0, 0.1, 3.0, array_current=factor))
        assert taken and max(len(s) for p in taken for share in p.shares for s in share.strings) <= most


def test_unequal_trackers_are_named_with_what_each_takes():
    unit = PARTS.inverters["hexley-20"]
    inputs = [{"current": 14.0 * n, "short_circuit": 19.0 * n} for n in (6, 5)]
    unequal = unit.model_copy(
        update={"trackers": 2, "tracker_inputs": tuple(TrackerInput(**one) for one in inputs), "maximum_dc_power": 1e6}
    )
    limits = string_limits(MODULE, unequal, COLD, HOT)
    most = sum(limits.parallel_of) * limits.most
    said = explain(most + 1, MODULE, unequal, COLD, HOT)
    assert (
        limits.parallel_of == (6, 5)
        and f"2 trackers with 6 and 5 parallel strings of at most {limits.most} modules take {most}" in said.reasons[0]
    )


def test_cold_voc_is_the_higher_of_the_curve_and_the_coefficient():
    for module in PARTS.modules.values():
        for cold in (-40.0, -10.0, 5.0):
            straight = module.voc * (1 + module.voc_coefficient / 100 * (cold - 25))
            assert string_limits(module, PARTS.inverters["hexley-20"], cold, 70.0).cold_voc >= straight
