"""Cables, phases, power factor, derating, transformer and export limit: what the year makes of them, by hand where it can be had."""

from math import sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.design import Design, merge_patch
from noontide.core.simulation import simulate
from noontide.core.simulation.cables_in_use import rules_of
from noontide.core.simulation.phases import phases_of
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
HOT = {"warmer": 30}


def year_of(**changes):
    return simulate(Design.read(merge_patch(SOUTH_ROOF, changes)), WEATHER, PARTS)


def strings_of(**cable):
    """The first sub-array of the roof with a string cable."""
    key = next(iter(SOUTH_ROOF["subarrays"]))
    return {"subarrays": {key: {"cable": {"length": 30, "laying": "buried", "ambient": 20} | cable}}}


def test_a_string_cable_loses_what_ohms_law_says():
    """Buried at 20 °C: 30 m there and back of 4 mm2, 4.61 ohm/km, for each string; the rise follows the load."""
    results = year_of(**strings_of(section=4))
    run = results.cables.runs[0]
    point, subarray = results.subarray(0).point, results.plant.subarrays[0]
    module = results.plant.modules[0]
    each = point.current / subarray.strings
    rise = (90 - 20) * (module.imp / run.choice.ampacity) ** 2
    resistance = 2 * 30 * 4.61e-3 * (1 + 0.00393 * rise * (each / module.imp) ** 2)
    assert_allclose(results.subarray(0).wiring_loss, subarray.strings * each**2 * resistance, rtol=1e-9, atol=1e-9)


def test_aluminium_of_two_thirds_more_section_loses_about_the_same():
    copper, aluminium = (
        -year_of(**strings_of(section=section, conductor=conductor)).cascade["dc_wiring"].energy
        for section, conductor in ((10, "copper"), (16, "aluminium"))
    )
    assert aluminium / copper == pytest.approx(1.91 / 1.83, rel=0.01)


def test_a_proposed_section_keeps_its_limits_and_a_thin_one_says_what_is_wrong():
    run = year_of(**strings_of(drop_limit=0.5)).cables.runs[0]
    assert run.choice.section == run.proposed and run.choice.drop <= 0.5 and not run.problem
    thin = year_of(**strings_of(section=1.5, drop_limit=0.5)).cables.runs[0]
    assert thin.choice.section == 1.5 and "drops" in thin.problem and thin.proposed == run.proposed


def test_an_ac_cable_loses_three_times_i_squared_r():
    """A three-phase inverter of 20 kW at 400 V: 28.87 A at rated power."""
    key = next(iter(SOUTH_ROOF["inverters"]))
    results = year_of(
        inverters={key: {"model": "hexley-20", "cable": {"length": 50, "section": 16, "laying": "buried", "ambient": 20}}}
    )
    unit = results.grid[0]
    current = (unit.ac - unit.night_use) / (sqrt(3) * 400)
    run = results.cables.by_pointer[f"/inverters/{key}/cable"]
    rated = 20_000 / (sqrt(3) * 400)
    assert run.route.working_current == pytest.approx(rated)
    assert run.route.current == 32 and run.asks == "breaker of 32 A"
    resistance = 1.15e-3 * 50 * (1 + 0.00393 * (90 - 20) * (rated / run.choice.ampacity) ** 2 * (current / rated) ** 2)
    assert_allclose(unit.wiring_loss, 3 * current**2 * resistance, rtol=1e-9, atol=1e-9)


def test_a_transformer_takes_its_iron_loss_all_year_and_its_copper_loss_by_the_square():
    plain, results = year_of(), year_of(connection={"transformer": "brackwell-50"})
    transformer = PARTS.transformers["brackwell-50"]
    assert results.cascade["transformer_iron"].energy == pytest.approx(-transformer.iron_loss * 8.76, rel=1e-9)
    copper = transformer.copper_loss * (plain.delivered / transformer.rated_power) ** 2
    assert results.cascade["transformer_copper"].energy == pytest.approx(-copper.sum() / 1000, rel=1e-9)
    assert_allclose(results.delivered, plain.delivered - transformer.iron_loss - copper, rtol=1e-9)


def test_an_export_limit_caps_every_hour_and_books_the_rest():
    plain, limited = year_of(), year_of(connection={"export_limit": 5, "auxiliaries": 100})
    assert limited.delivered.max() == 5000
    assert limited.cascade["export_limit"].energy == pytest.approx(-np.maximum(plain.delivered - 100 - 5000, 0).sum() / 1000)
    assert limited.cascade["auxiliaries"].energy == pytest.approx(-876)
    assert limited.annual.peak_power == 5
    assert limited.annual.energy == pytest.approx(limited.cascade.delivered)


def test_a_power_factor_lowers_the_highest_power_and_only_a_larger_inverter_is_free_of_it():
    key = next(iter(SOUTH_ROOF["inverters"]))
    small = {"inverters": {key: {"model": "hexley-10"}}, "losses": {"ac_wiring": 0}}
    plain, results = year_of(**small), year_of(**small, connection={"power_factor": 0.9})
    assert plain.cascade["power_factor"].energy == 0 > results.cascade["power_factor"].energy
    assert max(results.grid[0].ac) == pytest.approx(9000)
    assert plain.cascade["clipping"].energy == results.cascade["clipping"].energy


def test_a_hot_place_derates_and_the_line_says_how_much():
    key = next(iter(SOUTH_ROOF["inverters"]))
    cool, hot = (year_of(inverters={key: {"model": "hexley-10"} | where}) for where in ({}, HOT))
    assert cool.cascade["derating"].energy == 0 > hot.cascade["derating"].energy
    left = PARTS.inverters["hexley-10"].derating.share(hot.sky.air_temperature + 30, hot.design.site.elevation)
    assert np.all(hot.grid[0].ac <= left * 10_000 + 1e-6)


def test_degradation_takes_its_share_and_most_of_it_from_the_current():
    new, old = year_of(), year_of(losses={"year_of_operation": 11, "degradation": 0.5})
    assert -old.cascade["degradation"].share == pytest.approx(0.05, rel=1e-9)
    assert new.cascade["degradation"].energy == 0
    bright = new.effective[0].mean > 300
    volts, amps = (
        getattr(old.subarray(0).point, q)[bright] / getattr(new.subarray(0).point, q)[bright] for q in ("voltage", "current")
    )
    assert_allclose(volts, 0.95**0.3, rtol=2e-3)
    assert_allclose(amps, 0.95**0.7, rtol=2e-3)


def test_single_phase_inverters_are_spread_over_the_phases():
    """5, 3 and 3 kW: each on a phase of its own; all on one where that is set."""
    surface = next(iter(SOUTH_ROOF["surfaces"]))
    string = {"surface": surface, "module": "veltrane-430", "modules_per_string": 8}
    sets = {"a": {"model": "hexley-5"}, "b": {"model": "hexley-3", "count": 2}}
    bare = {**SOUTH_ROOF, "inverters": sets, "subarrays": {f"s{k}": string | {"inverter": k} for k in sets}}
    results = simulate(Design.read(bare), WEATHER, PARTS)
    found = phases_of(results.plant, results.design.connection)
    assert found.apparent == (5000, 3000, 3000) and found.imbalance == 2000
    on_one = Design.read(merge_patch(bare, {"inverters": {"b": {"phase": "L1"}}}))
    assert phases_of(simulate(on_one, WEATHER, PARTS).plant, on_one.connection).apparent == (6000, 5000, 0)


def test_microinverters_share_a_cable_by_branches():
    """30 of them, 12 on a branch at most: three branches of ten, each with ten times the current."""
    surface = next(iter(SOUTH_ROOF["surfaces"]))
    string = {"surface": surface, "module": "veltrane-430", "modules_per_string": 1, "inverter": "m"}
    bare = {
        **SOUTH_ROOF,
        "inverters": {"m": {"model": "hexley-m450", "count": 30, "cable": {"length": 20}}},
        "subarrays": {"s": string},
    }
    results = simulate(Design.read(bare), WEATHER, PARTS)
    run = results.cables.runs[0]
    assert run.count == 3 and run.route.working_current == pytest.approx(10 * 450 / (400 / sqrt(3)))
    assert results.cascade.residual < 1e-9


def test_rules_of_ones_own_come_before_the_chosen_set():
    design = Design.read(merge_patch(SOUTH_ROOF, {"wiring": {"rules": "nec", "own_rules": {"title": "House", "fuse_from": 1.6}}}))
    assert (rules_of(design.wiring).title, rules_of(design.wiring).fuse_from) == ("House", 1.6)
    assert rules_of(Design.read(merge_patch(SOUTH_ROOF, {"wiring": {"rules": "nec"}})).wiring).conductor == 1.5625


@settings(max_examples=15, deadline=None)
@given(
    length=st.floats(0.1, 2000), laying=st.sampled_from(["surface", "conduit", "buried"]), power_factor=st.floats(0.7, 1),
    limit=st.none() | st.floats(0, 30), auxiliaries=st.floats(0, 5000), year=st.integers(1, 60), warmer=st.floats(-20, 40),
)  # fmt: skip
def test_the_balance_closes_whatever_stands_between_the_strings_and_the_meter(
    length, laying, power_factor, limit, auxiliaries, year, warmer
):
    key = next(iter(SOUTH_ROOF["inverters"]))
    results = year_of(
        **strings_of(length=length, laying=laying),
        inverters={key: {"model": "hexley-10", "warmer": warmer, "cable": {"length": length, "laying": laying}}},
        connection={
            "cable": {"length": length, "laying": laying}, "transformer": "brackwell-d30", "power_factor": power_factor, "export_limit": limit,
            "auxiliaries": auxiliaries,
        },
        losses={"year_of_operation": year, "degradation": 2},
    )  # fmt: skip
    assert results.cascade.residual < 1e-9
    assert limit is None or results.delivered.max() <= 1000 * limit + 1e-6


def test_mains_lose_by_what_each_phase_and_the_neutral_carry():
    """Inverters of 3 kW on L1 and L2 against the same with one on every phase, and one alone: currents by hand."""

    def mains(phases, **more):
        results = year_of(
            inverters={"main": None} | {p.lower(): {"model": "hexley-3", "phase": p} for p in phases},
            subarrays={"south": None} | {p.lower(): {"surface": "barn", "module": "veltrane-430", "modules_per_string": 7, "inverter": p.lower()} for p in phases},
            connection={"cable": {"length": 60, "section": 10, "laying": "buried", "ambient": 20}, "voltage": 400, **more},
        )  # fmt: skip
        one = results.grid[0].delivered / results.design.connection.phase_voltage / results.design.connection.power_factor
        return results, one, results.cables.by_pointer["/connection/cable"]

    for phases, lost, drop in ((("L1",), 2, 2), (("L1", "L2"), 3, 1.5), (("L1", "L2", "L3"), 3, 1)):
        results, current, run = mains(phases)
        rise = run.choice.temperature - 20
        resistance = 60 * 1.83e-3 * (1 + 0.00393 * rise * (current / run.route.working_current) ** 2)
        assert_allclose(-results.connected.value.changes["ac_main"], lost * current**2 * resistance, rtol=1e-9, atol=1e-9)
        hot = 60 * 1.83e-3 * (1 + 0.00393 * rise)
        assert run.choice.voltage_drop == pytest.approx(drop * run.route.working_current * hot), phases
        assert results.cascade.residual < 1e-9
    # At 0.8 the same current flows with less power: the conductor is as hot at the largest power of the inverters.
    results, current, run = mains(("L1", "L2"), power_factor=0.8)
    at_most = 3000 * 0.8 / results.design.connection.phase_voltage / 0.8
    assert run.route.working_current == pytest.approx(at_most)


def test_a_three_phase_and_a_single_phase_inverter_share_a_main_cable():
    """By hand at each hour: a third of the large one on every phase, the small one on top of L3."""
    results = year_of(
        inverters={"side": {"model": "hexley-3", "phase": "L3"}},
        subarrays={"side": {"surface": "barn", "module": "veltrane-430", "modules_per_string": 7, "inverter": "side"}},
        connection={"cable": {"length": 60, "section": 16, "laying": "buried", "ambient": 20}},
    )
    large, small = (unit.delivered / results.design.connection.phase_voltage for unit in results.grid)
    phases = np.stack([large / 3, large / 3, large / 3 + small])
    neutral = np.abs((phases * np.exp(2j * np.pi * np.arange(3) / 3)[:, np.newaxis]).sum(axis=0))
    run = results.cables.by_pointer["/connection/cable"]
    rise = (run.choice.temperature - 20) * (phases.max(axis=0) / run.route.working_current) ** 2
    expected = 60 * 1.15e-3 * (1 + 0.00393 * rise) * ((phases**2).sum(axis=0) + neutral**2)
    assert_allclose(-results.connected.value.changes["ac_main"], expected, rtol=1e-9, atol=1e-9)


def test_strings_of_the_plan_are_sized_by_the_longest_and_lose_by_their_mean():
    """18.6 and 53 m: the long string's drop is shown, and both together lose what two of 35.8 m do."""

    def of(cable):
        return year_of(subarrays={"south": {"cable": cable}})

    planned = of({"length": 53, "section": 4, "planned": {"longest": 53, "mean": 35.8}})
    longest, mean = of({"length": 53, "section": 4}), of({"length": 35.8, "section": 4})
    run = planned.cables.by_pointer["/subarrays/south/cable"]
    assert run.choice.drop == pytest.approx(longest.cables.by_pointer["/subarrays/south/cable"].choice.drop, rel=1e-12)
    assert planned.cascade.lost("dc_wiring") == pytest.approx(mean.cascade.lost("dc_wiring"), rel=1e-9)
    # What is typed over counts for all strings.
    typed = of({"length": 60, "section": 4, "planned": {"longest": 53, "mean": 35.8}})
    assert typed.cascade.lost("dc_wiring") == pytest.approx(of({"length": 60, "section": 4}).cascade.lost("dc_wiring"), rel=1e-12)
