"""Sections of cables, by hand from the tables of the standards."""

from itertools import pairwise
from math import sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.electrical.cables import (
    RESISTANCES,
    NoSection,
    Route,
    cable_section,
    economic_sections,
    grouping_factor,
    present_value_factor,
)
from noontide.core.electrical.wiring import CableResistance, FourWireLoss

runs = st.tuples(st.floats(1, 200), st.floats(1, 100), st.sampled_from(["surface", "conduit", "buried"]), st.floats(0, 60))


def test_a_string_cable_by_hand():
    """30 m of flexible cable on a roof at 60 °C with 16.5 A at 600 V: 1.5 mm2 carries 24 A and drops 2 I R = 2.2 %; 4 mm2 drops 0.8 %."""
    found = cable_section(30, 16.5, method="surface", ambient=60, voltage=600, drop_limit=1.0, flexible=True)
    assert (found.section, found.ampacity, found.limited_by) == (4, 44, "voltage drop")
    temperature = 60 + 60 * (16.5 / 44) ** 2
    resistance = 5.09e-3 * 30 * (1 + 0.00393 * (temperature - 20))
    assert found.temperature == pytest.approx(temperature)
    assert found.voltage_drop == pytest.approx(2 * 16.5 * resistance, rel=1e-12)
    assert found.loss == pytest.approx(2 * 16.5**2 * resistance, rel=1e-12)


def test_a_three_phase_cable_in_conduit_by_hand():
    """29 A at 40 °C beside one other circuit: 6 mm2 carries 48 x 0.913 x 0.8 = 35.1 A, 4 mm2 only 27.0 A."""
    found = cable_section(10, 29, ambient=40, voltage=400, conductors=3, circuits=2)
    assert found.section == 6 and found.limited_by == "ampacity"
    assert found.ampacity == pytest.approx(48 * sqrt(50 / 60) * 0.8)
    temperature = 40 + 50 * (29 / found.ampacity) ** 2
    resistance = 3.08e-3 * 10 * (1 + 0.00393 * (temperature - 20))
    assert found.drop == pytest.approx(sqrt(3) * 29 * resistance / 400 * 100, rel=1e-12)


def test_aluminium_in_the_ground_by_hand():
    found = cable_section(80, 120, "aluminium", "buried", 20, voltage=400, conductors=3, drop_limit=2)
    assert found.section == 95  # 70 mm2 carries 130 A, and drops 2.04 %
    assert found.ampacity == 154


@given(runs)
def test_the_choice_keeps_both_limits_and_the_next_smaller_section_does_not(run):
    length, current, method, ambient = run
    try:
        found = cable_section(length, current, method=method, ambient=ambient, voltage=230, drop_limit=1.5)
    except NoSection:
        return
    assert found.ampacity >= current and found.drop <= 1.5 + 1e-9
    smaller = [s for s in RESISTANCES["copper"] if s < found.section]
    if smaller:
        route = Route(length, current, current, 230, method=method, ambient=ambient)
        before = route.at(smaller[-1])
        assert before.drop > 1.5 if found.limited_by == "voltage drop" else before.ampacity < current


@given(runs, st.floats(1.01, 3))
def test_a_longer_run_never_takes_a_smaller_section(run, times):
    length, current, method, ambient = run
    try:
        long = cable_section(length * times, current, method=method, ambient=ambient, voltage=230, drop_limit=1.5)
    except NoSection:
        return
    assert cable_section(length, current, method=method, ambient=ambient, voltage=230, drop_limit=1.5).section <= long.section


def test_the_power_factor_counts_the_reactance():
    even, lagging = (cable_section(50, 20, voltage=400, conductors=3, power_factor=pf, drop_limit=5) for pf in (1.0, 0.8))
    r = even.resistance
    assert lagging.voltage_drop == pytest.approx(sqrt(3) * 20 * (r * 0.8 + 0.6 * 0.08 * 50 / 1000), rel=1e-12)


@pytest.mark.parametrize(("circuits", "factor"), [(1, 1.0), (2, 0.8), (9, 0.5), (10, 0.45), (20, 0.38)])
def test_grouping_by_the_table(circuits, factor):
    assert grouping_factor(circuits) == factor


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"current": 2000}, "more than"),
        ({"length": 9000}, "drops more than"),
        ({"ambient": 95}, r"\(0 A\)"),
        ({"circuits": 0}, "From 1 to 20 circuits"),
        ({"circuits": 40}, "Divide the route"),
        ({"voltage": 0}, "voltage must lie"),
        ({"method": "open air"}, "Fixed cable lies"),
        ({"flexible": True, "method": "buried"}, "Photovoltaic cable is copper"),
        ({"material": "iron"}, "copper or aluminium"),
    ],
)
def test_what_cannot_be_laid_is_refused_in_words(given, words):
    asked = {"length": 20, "current": 20, "voltage": 400} | given
    with pytest.raises(ValueError, match=words):
        cable_section(**asked)


def test_the_present_value_of_a_unit_a_year():
    """20 years at 3 %: (1 - 1.03^-20) / 0.03 = 14.8775; without interest the years themselves."""
    assert present_value_factor(20, 3.0) == pytest.approx(14.8775, abs=1e-4)
    assert present_value_factor(20, 0.0) == 20


def test_the_economic_section_by_hand():
    """40 m of two conductors with 1.2 million A2h a year: the loss is 2 R x 1.2e6 Wh, and each kWh is worth 0.10 for 10 years."""
    route = Route(40, 20, 15, 400, method="buried", ambient=20)
    lines = {line.section: line for line in economic_sections(route, 3.0, {4: 1.0, 6: 1.4, 10: 2.2, 16: 3.4}, 1.2e6, 0.10, 10.0)}
    for section, per_km in ((4, 4.61), (6, 3.08), (10, 1.83), (16, 1.15)):
        warm = per_km * 0.04 * (1 + 0.00393 * 70 * (15 / route.ampacity(section)) ** 2)
        assert lines[section].annual_loss == pytest.approx(2 * warm * 1.2e6 / 1000, rel=1e-12)
        assert lines[section].total == pytest.approx(lines[section].purchase + lines[section].annual_loss, rel=1e-12)
    assert lines[16].purchase == pytest.approx(3.4 * 40)


def test_a_section_that_does_not_serve_is_none_of_the_economic_ones():
    route = Route(40, 60, 50, 400, method="buried", ambient=20)  # 60 A take 10 mm2
    assert [line.section for line in economic_sections(route, 3.0, {4: 1.0, 6: 1.4, 10: 2.2}, 1e5, 0.1, 10.0)] == [10]


def test_photovoltaic_cable_carries_what_two_that_touch_carry_and_no_more_where_it_is_cooler():
    """EN 50618: 44 A at 4 mm2 and 60 °C for two cables touching; its temperature factor is 1.00 up to 60 °C."""
    for ambient, ampacity in ((60, 44), (30, 44), (-10, 44), (90, 44 * np.sqrt(30 / 60))):
        for method in ("surface", "open air"):
            choice = cable_section(1, 30, method=method, ambient=ambient, voltage=600, drop_limit=50, flexible=True)
            route = Route(1, 30, 30, 600, "copper", method, ambient, flexible=True)
            assert route.ampacity(4) == pytest.approx(ampacity)
            assert choice.temperature == pytest.approx(
                ambient + 60 * (30 / route.at(choice.section).ampacity * np.sqrt(max(0, 120 - max(ambient, 60)) / 60)) ** 2
            )


@pytest.mark.parametrize(("material", "conductors"), [("copper", 2), ("copper", 3), ("aluminium", 3)])
def test_conduit_goes_up_to_240_and_every_table_rises_with_the_section(material, conductors):
    for method in ("surface", "conduit", "buried"):
        route = Route(10, 1, 1, 400, material, method, 30, conductors)
        assert route.sections[-1] == 240
        ampacities = [route.ampacity(section) for section in route.sections]
        assert ampacities == sorted(ampacities)
        # A step of the series carries 1.1 to 1.5 times the one before.
        assert all(1.03 < b / a < 1.5 for a, b in pairwise(ampacities))


def test_a_four_wire_cable_loses_by_phase_and_neutral():
    """By hand, 10 A a phase through 0.1 ohm a conductor: balanced 3 x 10 W, one phase 2 x 10 W, two phases 3 x 10 W (the neutral carries as much)."""
    cable = FourWireLoss(CableResistance(0.1, 0.0, 0.0), 230.0, 10.0)
    powers = 2300.0 * np.array([[1, 1, 1], [1, 0, 0], [1, 1, 0], [1, 0.5, 0], [0, 0, 0]]).T
    assert cable.during(powers, 20.0) == pytest.approx([30, 20, 30, 10 * (1.25 + 0.75), 0])
