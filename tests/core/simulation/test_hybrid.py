"""A battery on the DC side of the array's inverter, in the year of a design."""

import numpy as np
import pytest
from pydantic import ValidationError

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.storage_picture import flows_of, outage_after, year_flows
from noontide.core.behind_meter.storage_sizes import size_curve
from noontide.core.costs.economics import cash_year_by_year, savings_of
from noontide.core.design import Design, merge_patch
from noontide.core.simulation import IncompleteDesign
from tests.conftest import SOUTH_ROOF
from tests.core.simulation.test_storage_year import CASES, PARTS, RATES, bank, year

# An array of 31 kW on an inverter of 20 kW: a good part of the summer's noons is held back.
LARGE = {"subarrays": {"south": {}, "second": SOUTH_ROOF["subarrays"]["south"] | {"tracker": 2}}}
OTHER = {
    "inverters": {"other": {"model": "hexley-20"}},
    "subarrays": {
        "more": {"surface": "barn", "module": "veltrane-430", "modules_per_string": 18, "strings": 1, "inverter": "other"}
    },
}


def on_dc(changes, *more):
    found = merge_patch(LARGE, merge_patch(changes, {"storage": {"bank": {"inverter": "main"}}}))
    for one in more:
        found = merge_patch(found, one)
    return found


@pytest.mark.parametrize("beside", [{}, OTHER], ids=["alone", "beside another inverter"])
@pytest.mark.parametrize("case", CASES)
def test_the_second_account_closes_on_the_dc_side_too(case, beside):
    r = year(**on_dc(CASES[case], beside))
    m, side, hours = r.after.metered, r.after.side.value, r.calendar.hours_per_interval
    made, used = m.produced + m.imported + m.discharge, m.demand + m.own_use + m.sun_stored + m.grid_stored + m.exported
    assert np.allclose(made, used, rtol=0, atol=1e-9)
    assert all((flow >= -1e-12).all() for flow in flows_of(r).values())
    # A bill refuses what is below zero by as little as rounding.
    assert all((flow >= 0).all() for flow in (m.imported, m.exported, m.unmet, m.generated, m.unused, m.direct, m.produced))
    # What the inverter passes is never more than it can; what is stored of the clipped is never more than was clipped.
    passed = m.produced - m.sun_stored - np.minimum(side.beside * hours, m.produced - m.sun_stored) + m.discharge
    assert (passed <= side.power * hours + 1e-9).all() and (m.of_clipped <= side.clipped * hours + 1e-12).all()
    battery, flows = battery_year(r), year_flows(r)
    assert battery.lost >= -1e-6 and m.stored.max() <= battery.energy + 1e-9
    assert flows["sun_battery"] + flows["grid_battery"] - flows["battery_use"] - flows["lost"] == pytest.approx(
        m.stored[-1] * side.efficiency, abs=1e-6
    )
    assert r.cascade.residual < 1e-9
    limit = r.design.connection.export_limit
    if limit is not None:
        assert (m.exported <= limit * hours + 1e-9).all()


def test_what_the_inverter_clips_is_stored_and_used_in_the_evening():
    without, at_ac, at_dc = year(**LARGE), year(**merge_patch(LARGE, bank(15.0))), year(**on_dc(bank(15.0)))
    clipped = -next(e.energy for e in at_dc.cascade.entries if e.key == "clipping")
    assert clipped > 100 and at_dc.annual.energy == without.annual.energy
    stored = float(at_dc.after.metered.of_clipped.sum())
    assert 0.05 * clipped < stored < clipped
    gained = float(at_dc.after.metered.produced.sum() - at_ac.after.metered.produced.sum())
    assert gained == pytest.approx(stored, rel=1e-9) and not at_ac.after.metered.of_clipped.any()
    # The way of the sun to the use is shorter by one conversion of two.
    assert at_dc.after.metered.self_sufficiency > at_ac.after.metered.self_sufficiency
    share = [battery_year(r).lost / battery_year(r).discharge for r in (at_dc, at_ac)]
    assert share[0] < 0.6 * share[1]


def test_the_cash_counts_what_was_kept_of_the_clipped_energy():
    at_dc, large = year(**on_dc(bank(15.0))), year(**merge_patch(LARGE, bank(15.0)))
    stored = float(at_dc.after.metered.of_clipped.sum())
    assert cash_year_by_year(at_dc).energies[1] == pytest.approx(large.annual.energy + stored, abs=1e-6)
    assert cash_year_by_year(large).energies[1] == pytest.approx(large.annual.energy, abs=1e-6)
    # All of it at one value, without a tariff.
    assert savings_of(at_dc)[0] == pytest.approx(savings_of(large)[0] + at_dc.design.money.energy_value * stored, abs=1e-6)


def test_the_efficiency_is_that_of_the_inverters_own_year():
    r = year(**on_dc(bank()))
    side, grid = r.after.side.value, r.grid[0]
    assert side.efficiency == pytest.approx(
        float(r.connected.value.delivered.clip(0).sum() / (grid.ac + grid.conversion).sum()), rel=2e-3
    )
    assert 0.93 < side.efficiency < 0.99 and side.power == pytest.approx(20, rel=0.02)
    lit = np.flatnonzero(grid.clipping > 1)
    assert side.clipped[r.sky.interval_index[lit]] == pytest.approx(grid.clipping[lit] * side.efficiency / 1000)


def test_sizes_agree_with_single_years_and_none_is_none():
    r = year(**on_dc(bank(12.0)) | {"money": {"tariff": RATES}})
    curve = size_curve(r, 24.0)
    k = int(np.abs(curve.energies - 12.0).argmin())
    single = year(**on_dc(bank(float(curve.energies[k]), bank={"power": float(curve.powers[k])})) | {"money": {"tariff": RATES}})
    assert curve.imported[k] == pytest.approx(float(single.after.metered.elsewhere.sum()), rel=1e-9)
    assert curve.self_sufficiency[k] == pytest.approx(single.after.metered.self_sufficiency, rel=1e-9)
    none = year(**on_dc(bank(0.0, bank={"standby": 0})))
    assert none.after.metered.imported == pytest.approx(year(**LARGE).after.metered.imported, abs=1e-12)


def test_an_all_in_one_unit_carries_a_place_without_a_grid():
    r = year(**on_dc({"storage": {"bank": {"energy": 40.0}, "off_grid": {"generator": {"power": 5}}}}))
    m = r.after.metered
    made = m.produced + m.generated + m.discharge
    assert np.allclose(made, m.demand + m.own_use - m.unmet + m.sun_stored + m.grid_stored, rtol=0, atol=1e-9)
    assert not m.imported.any() and not m.exported.any() and m.unused.sum() > 0
    assert float((m.produced + m.unused).sum()) == pytest.approx(
        float(r.delivered.clip(0).sum() / 1000 + r.after.side.value.clipped.sum()), rel=1e-9
    )
    assert outage_after(r, 4000).hours > 0


def test_an_aged_array_has_less_to_clip_and_never_more_to_give():
    side = year(**on_dc(bank())).after.side.value
    aged = side.aged(0.8)
    assert (
        aged.clipped.sum() < 0.5 * side.clipped.sum()
        and (aged.own + aged.clipped <= 0.8 * (side.own + side.clipped) + 1e-12).all()
    )
    assert side.aged(1.0) is side


def test_where_it_cannot_stand_it_says_so():
    document = merge_patch(SOUTH_ROOF, {"storage": {"bank": {"inverter": "nobody"}}})
    with pytest.raises(ValidationError, match="DC side of inverter 'nobody', which does not exist"):
        Design.read(document)
    with pytest.raises(IncompleteDesign, match="has no strings") as told:
        year(inverters={"idle": {"model": "hexley-20"}}, **bank(bank={"inverter": "idle"}))
    assert told.value.pointer == "/storage/bank/inverter"
    micro = next(key for key, unit in PARTS.inverters.items() if unit.kind == "micro")
    changes = {"inverters": {"main": {"model": micro}}, "subarrays": {"south": {"modules_per_string": 1, "strings": 1}}}
    with pytest.raises(IncompleteDesign, match="microinverter"):
        year(**changes, **bank(bank={"inverter": "main"}))
