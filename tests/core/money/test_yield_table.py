"""A yield table by hand: between its values, around north, level, outside it, and every way to write it wrong."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.costs.rules_yield import rules_yield
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.money.yield_table import read_yield_table
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)


def compass(step=45):
    """A cone of yields around south, alike at 0°."""
    rows = [f"A;{tilt};{az};{900 + tilt * (90 - abs(az - 180)) / 9}" for tilt in (0, 45, 90) for az in range(0, 360, step)]
    return "Zone;Tilt [°];Azimuth [°];kWh/kW\n" + "\n".join(rows)


FROM_SOUTH = "zone,pitch,from south,yield\n" + "\n".join(
    f"{zone},{tilt},{off},{base - 2 * off - abs(tilt - 35)}" for zone, base in (("N1", 900), ("S2", 1100)) for tilt in (0, 35, 90) for off in (0, 90, 180)
)  # fmt: skip


def test_between_values_it_is_linear_and_around_north_it_closes():
    table = read_yield_table(compass())
    assert table.zone == "A" and table.yield_at(45, 180) == 900 + 45 * 90 / 9
    assert table.yield_at(22.5, 180) == pytest.approx(900 + 22.5 * 10)
    # From 315° over north to 0° = 360°, half-way.
    assert table.yield_at(45, 337.5) == pytest.approx((table.yield_at(45, 315) + table.yield_at(45, 0)) / 2)
    assert table.yield_at(45, 360) == table.yield_at(45, 0)


@given(st.floats(0, 90), st.floats(0, 360))
def test_it_never_leaves_the_range_of_the_table_and_is_alike_to_both_sides(tilt, azimuth):
    table = read_yield_table(compass())
    low, high = min(map(min, table.yields)), max(map(max, table.yields))
    found = table.yield_at(tilt, azimuth)
    assert low - 1e-9 <= found <= high + 1e-9
    off = read_yield_table(FROM_SOUTH, "S2")
    assert off.yield_at(tilt, azimuth) == pytest.approx(off.yield_at(tilt, (360 - azimuth) % 360))
    # South of the equator the same roof is turned about.
    assert off.yield_at(tilt, azimuth, equator=0.0) == pytest.approx(off.yield_at(tilt, (azimuth + 180) % 360))


def test_a_table_of_a_part_of_the_compass_has_nothing_outside_it_but_a_level_roof():
    part = read_yield_table("tilt,azimuth,kWh/kW\n" + "\n".join(f"{t},{a},{900 + t}" for t in (0, 30) for a in (135, 180, 225)))
    assert part.yield_at(30, 90) is None and part.yield_at(45, 180) is None and part.yield_at(0, 90) == 900
    signed = read_yield_table("tilt;off south;kWh/kW\n" + "\n".join(f"{t};{a};{900 + a}" for t in (0, 30) for a in (-90, 0, 90)))
    assert (signed.yield_at(30, 90), signed.yield_at(30, 270)) == (810, 990)


@pytest.mark.parametrize(
    ("text", "zone", "words"),
    [
        ("", "", "headings"),
        ("a,b\n1,2\n", "", "no column for tilt"),
        (FROM_SOUTH, "", "zones N1, S2"),
        (FROM_SOUTH, "X", "no zone 'X'"),
        (FROM_SOUTH + "\nS2,0,0,5", "S2", "Row 20: tilt 0° and azimuth 0° stand in an earlier row"),
        (FROM_SOUTH + "\nS2,10,0,5", "S2", "no row for tilt 10° and azimuth 90°"),
        ("tilt,azimuth,kWh\n1,2,x\n", "", "Row 2: 'x' is no yield"),
        ("tilt,azimuth,kWh\n95,2,900\n", "", "Row 2: a tilt lies between 0 and 90; it is 95"),
        ("tilt,azimuth,kWh\n5,2,\n", "", "Row 2: the yield is missing"),
    ],
)
def test_what_is_wrong_is_named_with_its_row(text, zone, words):
    with pytest.raises(ValueError, match=re.escape(words)):
        read_yield_table(text, zone)


def test_the_figure_is_the_powers_by_the_table_and_their_shade_beside_the_simulated_energy():
    table = read_yield_table(FROM_SOUTH, "S2").model_dump(mode="json") | {"shaded_fields": 12}
    results = simulate(Design.read(merge_patch(SOUTH_ROOF, {"money": {"yield_table": table}})), WEATHER, PARTS)
    (surface,) = results.design.surfaces.values()
    off = abs(surface.azimuth - 180)
    by_hand = results.annual.dc_power * (1100 - 2 * off - abs(surface.tilt - 35)) * 0.88
    assert rules_yield(results) == pytest.approx(by_hand) == pytest.approx(FIGURE_OF["rules_yield"].value(results))
    without = simulate(Design.read(SOUTH_ROOF), WEATHER, PARTS)
    assert not FIGURE_OF["rules_yield"].is_there(without) and results.annual.energy == without.annual.energy
