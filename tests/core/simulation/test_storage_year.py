"""A battery in the year of a design: the balance after the meter closes, the first balance does not notice, and sizes agree with single years."""

import numpy as np
import pytest

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.storage_picture import average_flows, day_flows, flows_of, outage_after, year_flows
from noontide.core.behind_meter.storage_sizes import next_kwh, propose, size_curve
from noontide.core.costs.bill import bill_of
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from noontide.tariffs import built_in_tariffs
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
HOUSE = {"demand": {"sources": {"house": {"name": "House", "yearly": {"energy": 9000}}}}}
RATES = built_in_tariffs()["cottage-two-rates"].model_dump(mode="json", exclude_unset=True)
DAIRY = built_in_tariffs()["dairy-demand"].model_dump(mode="json", exclude_unset=True)


def year(**changes):
    return simulate(Design.read(merge_patch(merge_patch(SOUTH_ROOF, HOUSE), changes)), WEATHER, PARTS)


def bank(energy=10.0, **more):
    return {"storage": {"bank": {"energy": energy} | more.pop("bank", {})} | more}


CASES = {
    "own use": bank(),
    "peaks": bank(serves="peaks alone", peak={}),
    "peaks and own use": bank(peak={"limit": 2.0}),
    "prices": bank(serves="dear hours") | {"money": {"tariff": RATES}},
    "prices and peaks": bank(serves="dear hours", peak={}) | {"money": {"tariff": DAIRY}},
    "clipped": bank(only_clipped=True) | {"connection": {"export_limit": 6.0}},
    "limited": bank() | {"connection": {"export_limit": 3.0}},
    "reserve": bank(reserve=40),
    "a model": {"storage": {"bank": {"model": "pellworth-10", "parallel": 2}}},
    "nothing used": bank() | {"demand": None},
}


@pytest.mark.parametrize("case", CASES)
def test_the_second_account_closes_and_the_first_does_not_notice(case):
    r, bare = year(**CASES[case]), year(**{k: v for k, v in CASES[case].items() if k != "storage"})
    m, size = r.after.metered, r.calendar.intervals
    assert m.stored.shape == (size,)
    made, used = m.produced + m.imported + m.discharge, m.demand + m.own_use + m.sun_stored + m.grid_stored + m.exported
    assert np.allclose(made, used, rtol=0, atol=1e-9)
    assert np.allclose(sum(flows_of(r)[k] for k in ("sun_use", "sun_battery", "sun_grid")), m.produced, atol=1e-9)
    assert np.allclose(sum(flows_of(r)[k] for k in ("sun_use", "battery_use", "grid_use")), m.demand + m.own_use, atol=1e-9)
    assert all((flow >= 0).all() for flow in flows_of(r).values())
    battery, flows = battery_year(r), year_flows(r)
    assert battery.lost >= -1e-6 and m.stored.max() <= battery.energy + 1e-9
    assert flows["sun_battery"] + flows["grid_battery"] - flows["battery_use"] - flows["lost"] == pytest.approx(
        m.stored[-1], abs=1e-6
    )
    # Energy before the meter is as it was; with an export limit more of it is of use.
    limit = r.design.connection.export_limit
    if limit is None:
        assert r.annual.energy == bare.annual.energy
    else:
        assert r.annual.energy >= bare.annual.energy and (m.exported <= limit + 1e-9).all()
        assert float(m.produced.sum()) == pytest.approx(float(np.maximum(r.delivered, 0).sum()) / 1000, rel=1e-9)
    assert r.cascade.residual < 1e-9


def by_power(points, **storage):
    """A year with a battery of the library that has other efficiencies by power."""
    sheet = PARTS.batteries["pellworth-10"].model_copy(update={"efficiency_by_power": points})
    library = PARTS.model_copy(update={"batteries": PARTS.batteries | {"pellworth-10": sheet}})
    changes = {"storage": {"bank": {"model": "pellworth-10"} | storage}}
    return simulate(Design.read(merge_patch(merge_patch(SOUTH_ROOF, HOUSE), changes)), WEATHER, library)


def test_an_efficiency_that_is_the_same_at_every_power_is_that_efficiency():
    flat, constant = by_power(((0.2, 95.5), (1.0, 95.5))), by_power(())
    assert flat.after.metered.discharge == pytest.approx(constant.after.metered.discharge, abs=1e-12)
    assert battery_year(flat).lost == pytest.approx(battery_year(constant).lost, abs=1e-9)


def test_the_efficiency_by_power_is_weighted_by_the_years_own_energy():
    points = ((0.1, 97.5), (0.25, 96.8), (0.5, 95.5), (1.0, 90.0))
    r, first = by_power(points), by_power(())
    round_trip = r.after.storage.storage.bank.efficiency
    assert 90.0 < round_trip < 97.5
    # By hand, interval by interval, from the year at the efficiency of the datasheet.
    m, power = first.after.metered, 5.0
    charge = m.sun_stored + m.grid_stored
    into = sum(c * np.sqrt(np.interp(c / power, *zip(*points, strict=True)) / 100) for c in charge) / charge.sum()
    out = m.discharge.sum() / sum(g / np.sqrt(np.interp(g / power, *zip(*points, strict=True)) / 100) for g in m.discharge)
    assert round_trip == pytest.approx(100 * into * out, rel=1e-9)
    # An efficiency that somebody has set comes first.
    assert by_power(points, efficiency=93.0).after.storage.storage.bank.efficiency == 93.0


@pytest.mark.parametrize("storage", [{"parallel": 4}, {"power": 0.01}, {"power": 0.0}])
def test_an_efficiency_by_power_holds_for_idle_and_for_busy_batteries(storage):
    r = by_power(((0.1, 60.0), (1.0, 99.0)), **storage)
    assert 60.0 <= r.after.storage.storage.bank.efficiency <= 99.0
    m = r.after.metered
    made, used = m.produced + m.imported + m.discharge, m.demand + m.own_use + m.sun_stored + m.grid_stored + m.exported
    assert np.allclose(made, used, rtol=0, atol=1e-9)
    curve = size_curve(r)
    k = int(np.argmin(np.abs(curve.energies - battery_year(r).energy)))
    assert curve.energies.size and k >= 0


def test_powers_of_an_efficiency_rise():
    sheet = PARTS.batteries["pellworth-10"].model_dump()
    with pytest.raises(ValueError, match="must rise"):
        type(PARTS.batteries["pellworth-10"]).model_validate(sheet | {"efficiency_by_power": [[0.5, 95], [0.5, 96]]})


def test_without_a_battery_nothing_changes_but_what_it_says():
    plain, off = year(), year(storage={"serves": "peaks alone", "peak": {}})
    assert figures_of(plain) == figures_of(off) and off.after.storage is None
    assert year(**bank(0.0, bank={"standby": 0})).after.metered.imported == pytest.approx(plain.after.metered.imported, abs=1e-12)


def test_peaks_fall_and_the_bill_of_a_demand_charge_with_them():
    tariff = {"money": {"tariff": DAIRY}}
    bare, shaved = year(**tariff), year(**bank(20.0, serves="peaks alone", peak={}) | tariff)
    months = bare.calendar.months
    peaks = [[r.after.metered.imported[months == m].max() for m in range(12)] for r in (bare, shaved)]
    assert all(low < high for high, low in zip(*peaks, strict=True))
    assert shaved.after.bill.total_of(kind="demand") < bare.after.bill.total_of(kind="demand")


def test_prices_are_followed_only_where_there_are_any_and_save_more_than_own_use():
    tariff = {"money": {"tariff": RATES}}
    own, dear = year(**bank() | tariff), year(**bank(serves="dear hours") | tariff)
    assert dear.after.bill.total < own.after.bill.total
    unknown = year(**bank(serves="dear hours"))
    assert unknown.after.metered.imported == pytest.approx(year(**bank()).after.metered.imported)


def test_the_curve_is_what_single_designs_give():
    tariff = {"money": {"tariff": RATES, "interest": 2.0}}
    r = year(**bank(8.0, bank={"price": 300.0}) | tariff)
    curve = size_curve(r)
    bare = year(**tariff)
    assert curve.imported[0] == pytest.approx(float(bare.after.metered.imported.sum()))
    for k in (4, 19, 32):
        one = year(**bank(float(curve.energies[k])) | tariff)
        assert curve.self_sufficiency[k] == pytest.approx(one.after.metered.self_sufficiency, rel=1e-9)
        assert curve.self_consumption[k] == pytest.approx(one.after.metered.self_consumption, rel=1e-9)
        assert curve.savings[k] == pytest.approx(bare.after.bill.total - one.after.bill.total, abs=0.011)
        assert curve.cycles[k] == pytest.approx(battery_year(one).cycles, rel=1e-6)
    assert np.all(np.diff(curve.self_sufficiency[1:]) >= -1e-9) and curve.prices[32] == pytest.approx(300 * curve.energies[32])
    assert next_kwh(curve, 8.0)["imported"] < 0 < next_kwh(curve, 8.0)["saving"]
    assert "300" not in propose(r, curve).words and propose(r, curve).words.startswith(("About", "No battery"))
    cheap = year(**bank(8.0, bank={"price": 5.0}) | tariff)
    best = propose(cheap, size_curve(cheap))
    assert best.energy > 0 and best.energy >= propose(r, curve).energy
    assert propose(year(), size_curve(year())).energy > 0 and propose(year(demand=None), size_curve(year(demand=None))) is None


def test_a_battery_is_bought_renewed_and_in_the_bill_of_materials():
    r = year(storage={"bank": {"model": "pellworth-10", "parallel": 2}}, money={"tariff": RATES, "years": 25})
    (line,) = [one for one in bill_of(r, PARTS).lines if one.kind == "battery"]
    assert (line.count, line.price) == (2, 2 * 2890)
    battery, flows = battery_year(r), cash_year_by_year(r).flows
    assert battery.energy == 20 and battery.charge == pytest.approx(2 * 10_000 / 51.2) and battery.voltage == 51.2
    due = [n for n in range(1, 25) if int(n / battery.life) > int((n - 1) / battery.life)]
    assert list(np.flatnonzero(flows["Battery renewed"])) == due and flows["Battery renewed"][due[0]] == -2 * 2890


def test_an_outage_by_hand():
    """1 kW at all hours, 10 kWh full, night: until it is empty."""
    flat = {"demand": {"sources": {"house": None, "flat": {"appliances": {"items": {"a": {"power": 1000, "hours": "0-24"}}}}}}}
    r = year(**bank(10.0, bank={"converter": 100, "efficiency": 100, "leakage": 0, "standby": 0, "power": 5}, reserve=100) | flat)
    m = r.after.metered
    evening = next(t for t in range(4000, 8000) if m.stored[t] > 9.999 and m.produced[t + 1 : t + 12].sum() == 0)
    own = m.own_use[evening + 1]
    found = outage_after(r, evening)
    assert found.hours == pytest.approx(10 / (1 + own), abs=0.01) and not found.is_longer
    assert outage_after(year(), 100) is None


def test_pictures_sum_to_the_year():
    r = year(**bank())
    means, stored = average_flows(r)
    days = np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])
    hours = 24 / means["sun_use"].shape[1]
    for key, total in year_flows(r).items():
        if key in means:
            assert (means[key].sum(axis=1) * hours * days).sum() == pytest.approx(total, rel=0.01)
    flows, level = day_flows(r, 170)
    assert level == pytest.approx(r.after.metered.stored[170 * 24 : 171 * 24]) and flows["sun_use"].size == 24
    assert stored.max() <= 10


def test_a_worn_battery_costs_what_a_smaller_one_would_by_its_age():
    """Life of eight years by the calendar alone: new, halfway down after four, new again in the ninth."""
    tariff = RATES | {"yearly_change": 0}
    document = bank(8.0, bank={"life": 8, "worn": 60, "power": 3}) | {"money": {"tariff": tariff, "years": 12, "price_change": 0}}
    r, smaller = year(**document), year(**merge_patch(document, {"storage": {"bank": {"energy": 8.0 * 0.6}}}))
    lost = smaller.after.bill.total - r.after.bill.total
    assert r.after.cost_of_wear == pytest.approx(lost, abs=0.011) and lost > 0
    flow = cash_year_by_year(r).flows["Capacity that the battery has lost"]
    assert flow[[1, 5, 9]] == pytest.approx([0, -lost / 2, 0], abs=0.02) and flow[8] == pytest.approx(-lost * 7 / 8, abs=0.02)
    battery = battery_year(r)
    assert [battery.capacity(n) for n in (1, 5, 9)] == pytest.approx([8, 6.4, 8])
    # What keeps its capacity costs nothing more, and there is no such line.
    kept = year(**merge_patch(document, {"storage": {"bank": {"worn": 100}}}))
    assert "Capacity that the battery has lost" not in cash_year_by_year(kept).flows
    assert cash_year_by_year(kept).net_present_value > cash_year_by_year(r).net_present_value


def test_a_power_of_the_curve_is_the_year_of_that_power():
    document = bank(12.0, bank={"power": 4}) | {"money": {"tariff": RATES}}
    curve = size_curve(year(**document), by="power")
    assert curve.powers[0] == 0 and curve.energies[0] == 0 and (curve.energies[1:] == 12).all()
    for k in (0, 5, 20):
        power = float(curve.powers[k])
        one = year(**merge_patch(document, {"storage": {"bank": {"power": power} if k else None}}))
        m = one.after.metered
        assert curve.imported[k] == pytest.approx(float(m.imported.sum()))
        assert curve.savings[k] == pytest.approx(
            year(**merge_patch(document, {"storage": {"bank": None}})).after.bill.total - one.after.bill.total, abs=0.011
        )
    # More power never serves less, and soon no more.
    assert (np.diff(curve.self_sufficiency[1:]) > -1e-9).all() and curve.self_sufficiency[-1] == pytest.approx(
        curve.self_sufficiency[-5], abs=0.01
    )
