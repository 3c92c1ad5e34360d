"""Stations in a line: the cable between them, what all lose together, and what is asked of each."""

import math

import numpy as np
import pytest

from noontide.core.checks import find_checks
from noontide.core.checks.protection import protection_of
from noontide.core.costs.bill import bill_of
from noontide.core.design import Design, merge_patch
from noontide.core.electrical.collector import AMPACITIES, SECTIONS, collector_cable, squares_along
from noontide.core.electrical.protection import BREAKERS
from noontide.core.simulation import StageCache, simulate
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited
from tests.conftest import SOUTH_ROOF

STATIONED = merge_patch(
    SOUTH_ROOF,
    {
        "inverters": {"main": {"count": 6}},
        "connection": {
            "transformer": "brackwell-50",
            "stations": 3,
            "cable": {"length": 20},
            "collector": {"length": 400, "section": 50},
        },
    },
)


def year(document, weather, parts):
    return simulate(Design.read(edited(document, {}, parts)), weather, parts, StageCache())


@pytest.mark.parametrize("stations", [1, 2, 5, 40])
def test_the_pieces_of_a_line_carry_what_the_stations_before_them_give(stations):
    pieces = [(k / stations) ** 2 for k in range(1, stations + 1)]
    assert squares_along(stations) == pytest.approx(sum(pieces))


def test_a_single_piece_loses_as_ohm_says():
    cable = collector_cable(2e6, 20_000, 0.95, 1, 1500, "aluminium", 95)
    current = 2e6 / (math.sqrt(3) * 20_000 * 0.95)
    assert cable.current == pytest.approx(current)
    resistance = 0.320 * 1.5 * (1 + 0.00403 * 70 * (current / AMPACITIES["aluminium"][95]) ** 2)
    assert cable.loss.during(np.array([2e6]), 0.0)[0] == pytest.approx(3 * current**2 * resistance, rel=1e-9)


@pytest.mark.parametrize("material", ["copper", "aluminium"])
def test_the_smallest_section_that_carries_all_is_taken(material):
    before = 0.0
    for power in np.geomspace(1e5, 3e7, 40):
        cable = collector_cable(float(power), 20_000, 1.0, 4, 100, material, None)
        assert cable.section >= before
        before = cable.section
        smaller = [s for s in SECTIONS if s < cable.section]
        assert cable.serves or cable.section == SECTIONS[-1]
        assert not smaller or AMPACITIES[material][smaller[-1]] < cable.current


def test_a_line_of_stations_closes_and_each_loss_is_that_of_its_parts(hill_weather, parts):
    found = year(STATIONED, hill_weather, parts)
    assert found.cascade.residual < 1e-9
    lost = {key: found.cascade.lost(key) for key in ("transformer_iron", "transformer_copper", "collector", "ac_main")}
    assert all(value > 0 for value in lost.values())
    # A third of the plant with one of the stations loses a third, but in the cable between them.
    third = merge_patch(STATIONED, {"inverters": {"main": {"count": 2}}, "connection": {"stations": 1, "collector": None}})
    alone = year(third, hill_weather, parts)
    for key in ("transformer_iron", "transformer_copper", "ac_main"):
        assert 3 * alone.cascade.lost(key) == pytest.approx(lost[key], rel=1e-9), key
    without = year(merge_patch(STATIONED, {"connection": {"collector": None}}), hill_weather, parts)
    assert without.annual.energy - found.annual.energy == pytest.approx(lost["collector"], rel=1e-6)
    assert 3 * alone.annual.energy == pytest.approx(without.annual.energy, rel=1e-12)


def test_one_station_is_what_a_connection_was(hill_weather, parts):
    plain = merge_patch(STATIONED, {"connection": {"stations": None, "collector": None}})
    one = merge_patch(plain, {"connection": {"stations": 1}})
    assert year(plain, hill_weather, parts).annual.energy == year(one, hill_weather, parts).annual.energy


def test_devices_and_parts_are_counted_in_every_station(hill_weather, parts):
    found = year(STATIONED, hill_weather, parts)
    items = {item.key: item for item in protection_of(found)}
    single = {
        item.key: item
        for item in protection_of(year(merge_patch(STATIONED, {"connection": {"stations": 1}}), hill_weather, parts))
    }
    assert items["main-breaker"].count == items["ac-surge"].count == items["transformer"].count == 3
    assert items["main-breaker"].limit == pytest.approx(single["main-breaker"].limit / 3)
    assert items["collector"].limit == pytest.approx(single["collector"].limit)
    lines = {line.name: line for line in bill_of(found, parts).lines}
    assert any(line.kind == "transformer" and line.count == 3 for line in lines.values())
    (medium,) = (line for name, line in lines.items() if "Medium voltage" in name)
    assert (medium.count, medium.unit) == (3 * 3 * 400, "m")


def test_ten_megawatts_find_a_breaker_and_a_transformer_that_is_too_small_is_said(hill_weather, parts):
    large = merge_patch(
        STATIONED,
        {"inverters": {"main": {"count": 500}}, "connection": {"stations": 10, "cable": None, "collector": {"section": None}}},
    )
    found = year(large, hill_weather, parts)
    items = {item.key: item for item in protection_of(found)}
    assert items["main-breaker"].state == "fine" and items["main-breaker"].actual in BREAKERS
    rules = {finding.rule: finding for finding in find_checks(found)}
    assert rules["transformer"].severity == "caution" and "kVA in each station" in rules["transformer"].detail
    (remedy,) = rules["transformer"].remedies
    mended = year(merge_patch(large, remedy.patch), hill_weather, parts)
    assert "transformer" not in {finding.rule for finding in find_checks(mended)}
    assert items["collector"].state == ("fine" if items["collector"].actual >= items["collector"].limit else "error")
    other = year(merge_patch(STATIONED, {"connection": {"voltage": 690}}), hill_weather, parts)
    assert "transformer-voltage" in {finding.rule for finding in find_checks(other)}


def test_a_first_value_comes_from_the_core(parts):
    design = Design.read(edited(STATIONED, {}, parts))
    rated = 6 * parts.inverters["hexley-20"].ac_power / 1000
    patch, words = applied(design, "limit-export", {})
    assert patch["connection"]["export_limit"] == pytest.approx(0.7 * rated) and "kW" in words
    assert applied(design, "limit-export", {"limit": 5})[0] == {"connection": {"export_limit": 5}}
    assert applied(design, "set-impedance", {})[0]["connection"]["resistance"] > 0
    assert applied(design, "join-stations", {"length": 90})[0] == {"connection": {"collector": {"length": 90}}}
    bare = Design.read(merge_patch(SOUTH_ROOF, {"inverters": None, "subarrays": None}))
    for verb in ("limit-export", "join-stations"):
        with pytest.raises(ImpossibleAct):
            applied(bare, verb, {})
