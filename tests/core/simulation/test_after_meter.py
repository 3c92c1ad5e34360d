"""Demand, meter, bill and cash behind a simulated plant: they close, and each follows what it depends on."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from noontide.core.behind_meter.demand_picture import demand_picture
from noontide.core.behind_meter.price_week import price_weeks
from noontide.core.checks import find_checks
from noontide.core.costs.economics import cash_year_by_year, sensitivities, value_of_more
from noontide.core.demand.series import UseSeries
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import FIGURES, figures_of
from noontide.core.simulation import StageCache, simulate
from noontide.core.simulation.quantities import own_quantities
from noontide.parts import built_in_parts
from noontide.tariffs import built_in_tariffs
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
HOUSE = {"demand": {"sources": {"house": {"per_area": {"use": 90, "area": 160}}}}}


def tariff(key):
    return built_in_tariffs()[key].model_dump(mode="json", exclude_unset=True)


@pytest.fixture(scope="module")
def cache():
    return StageCache()


@pytest.fixture
def year(hill_weather, cache):
    def run(*patches, weather=None, series=None):
        document = SOUTH_ROOF
        for patch in patches:
            document = merge_patch(document, patch)
        return simulate(Design.read(document), weather or hill_weather, PARTS, cache, series)

    return run


def test_without_demand_all_goes_to_the_grid(year):
    results = year()
    metered = results.after.metered
    assert not results.after.has_demand
    assert metered.exported.sum() == pytest.approx(results.delivered.clip(0).sum() / 1000)
    assert metered.imported.sum() == pytest.approx(metered.own_use.sum())
    assert set(figures_of(results)) == {f.key for f in FIGURES[:9] if f.in_headline}


SOURCES = [
    {"per_area": {"use": 50, "area": 200, "shape": "office"}},
    {"vehicle": {"timing": "by the sun"}},
    {"vehicle": {"timing": "cheapest hours", "stays_on_weekends": True}},
    {"hot_water": {"timing": "by the sun"}},
    {"heating": {}},
    {"cooling": {}},
    {"pump": {"timing": "by the sun"}},
    {"monthly": {"energies": [300, None, None, None, None, None, None, 200, None, None, None, 310]}},
    {"appliances": {"items": {"a": {"power": 2000, "hours": "22-4"}}, "margin": 20}},
]


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow], deadline=None)
@given(
    st.lists(st.sampled_from(range(len(SOURCES))), min_size=1, max_size=4), st.sampled_from(sorted(built_in_tariffs())),
    st.sampled_from([None, 0.0, 3.0]), st.integers(0, 3),
)  # fmt: skip
def test_the_account_behind_the_meter_closes_for_any_sources_tariff_and_limit(year, chosen, key, limit, auxiliaries):
    sources = {f"s{n}": SOURCES[k] for n, k in enumerate(chosen)}
    results = year(
        {
            "demand": {"sources": sources},
            "money": {"tariff": tariff(key)},
            "connection": {"export_limit": limit, "auxiliaries": auxiliaries * 10},
        }
    )
    used, metered = results.after.demand, results.after.metered
    assert used.total == pytest.approx(sum(used.by_source.values()), abs=1e-9)
    delivered = results.delivered / 1000
    assert metered.produced - metered.own_use == pytest.approx(delivered, abs=1e-9)
    assert metered.produced == pytest.approx(metered.direct + metered.exported, abs=1e-9)
    assert metered.demand + metered.own_use == pytest.approx(metered.direct + metered.imported, abs=1e-9)
    assert results.cascade.residual < 1e-9
    if limit is not None:
        assert metered.exported.max() <= limit + 1e-9
    bill = results.after.bill
    assert bill.total == pytest.approx(sum(line.amount for line in bill.lines), abs=0.005)
    picture = demand_picture(results)
    assert sum(s.energy for s in picture.sources) == pytest.approx(picture.energy)
    assert picture.monthly_demand.sum() == pytest.approx(picture.energy)


def test_an_export_limit_leaves_alone_what_is_used_behind_the_meter(year):
    """With nothing to export, the plant still gives what the house uses, and no more."""
    none = {"connection": {"export_limit": 0}}
    alone, together = year(none), year(none, HOUSE)
    assert alone.annual.energy < 0.02 * year().annual.energy
    metered = together.after.metered
    assert metered.exported.max() < 1e-9
    assert metered.direct == pytest.approx(year(HOUSE).after.metered.direct, abs=1e-9)


def test_a_load_by_the_sun_raises_self_consumption_and_never_the_demand(year):
    car = {"weekday_km": 50, "weekend_km": 50, "stays_on_weekends": True}
    now, later = (
        year(HOUSE, {"demand": {"sources": {"car": {"vehicle": car | {"timing": t}}}}}) for t in ("at once", "by the sun")
    )
    assert later.after.metered.demand.sum() == pytest.approx(now.after.metered.demand.sum(), rel=1e-9)
    assert later.after.metered.self_consumption > now.after.metered.self_consumption + 0.01


def test_cheap_hours_make_the_bill_smaller(year):
    money = {"money": {"tariff": tariff("cottage-two-rates")}}
    bills = [
        year(HOUSE, money, {"demand": {"sources": {"car": {"vehicle": {"timing": timing}}}}}).after.bill.total
        for timing in ("at once", "cheapest hours")
    ]
    assert bills[1] < bills[0] - 20


def test_saving_is_the_bill_of_the_demand_alone_less_the_bill_with_the_plant(year):
    flat = {"money": {"tariff": {"energy": {"price": 0.3}, "export": {"price": 0.1}}}}
    results = year(HOUSE, flat)
    metered = results.after.metered
    by_hand = 0.3 * metered.demand.sum() - 0.3 * metered.imported.sum() + 0.1 * metered.exported.sum()
    assert figures_of(results)["saving"] == pytest.approx(by_hand, abs=0.15)  # twelve months to the cent, twice
    # A kWh more goes to the grid or is used in place of it.
    assert 0.1 <= value_of_more(results) <= 0.3


def test_the_tariff_before_can_be_another(year):
    money = {"money": {"tariff": {"energy": {"price": 0.2}}, "tariff_before": {"energy": {"price": 0.4}}}}
    results = year(HOUSE, money)
    assert results.after.bill_before.total == pytest.approx(0.4 * results.after.metered.demand.sum(), abs=0.07)


def test_without_a_tariff_all_energy_counts_its_value(year):
    results = year({"money": {"energy_value": 0.11, "costs": {"a": {"amount": 1000}}}})
    assert figures_of(results)["saving"] == pytest.approx(0.11 * results.annual.energy)
    assert "bill_share" not in figures_of(results)


def test_prices_change_the_money_and_no_light(year):
    """An edit of a price finds every stage of the light in the cache."""
    first = year(HOUSE, {"money": {"tariff": {"energy": {"price": 0.3}}}})
    assert first.annual.energy > 0
    again = year(HOUSE, {"money": {"tariff": {"energy": {"price": 0.33}}}})
    assert again.connected.key == first.connected.key and again.after.year.key == first.after.year.key
    assert again.after.bill.total > first.after.bill.total


def test_sensitivities_lie_on_both_sides_the_largest_first(year):
    results = year(HOUSE, {"money": {"tariff": tariff("dairy-demand"), "costs": {"a": {"amount": 300, "per": "kW"}}}})
    base = cash_year_by_year(results).net_present_value
    found = sensitivities(results)
    assert all((one.less - base) * (one.more - base) < 0 for one in found)
    spans = [abs(one.more - one.less) for one in found]
    assert spans == sorted(spans, reverse=True)
    dearer = next(one for one in found if one.key == "costs")
    assert dearer.less - base == pytest.approx(0.1 * cash_year_by_year(results).purchase.total)


def test_avoided_carbon_by_a_factor_and_by_the_hour(year):
    flat = year({"money": {"carbon": 250, "own_purchase": 1}})
    assert flat.after.avoided_carbon == pytest.approx(0.25 * flat.annual.energy)
    hourly = year({"money": {"carbon_by_hour": [250.0] * 288, "own_purchase": 1}})
    assert hourly.after.avoided_carbon == pytest.approx(flat.after.avoided_carbon)
    noon = year({"money": {"carbon_by_hour": [500.0 if 10 <= h < 14 else 0.0 for h in range(24)], "own_purchase": 1}})
    assert 0 < noon.after.avoided_carbon < 2 * flat.after.avoided_carbon


METER = UseSeries("Meter", "2025-01-01", 60, np.tile(np.r_[np.ones(12), 3 * np.ones(12)], (365, 1)))


def measured(digest=METER.digest, **more):
    return {"demand": {"sources": {"meter": {"interval": {"digest": digest, "title": "Meter"} | more}}}}


def test_interval_data_are_scaled_to_energy_and_peak(year):
    results = year(measured(energy=20_000.0, peak=4.0), series={METER.digest: METER})
    total = results.after.demand.total
    assert total.sum() == pytest.approx(20_000, rel=1e-6) and total.max() == pytest.approx(4, rel=1e-6)


@pytest.mark.parametrize(
    ("patch", "words"),
    [(measured("0" * 32), "are not there"), (measured(energy=1e6, peak=1.0), "do not go together")],
    ids=["missing", "impossible"],
)
def test_a_demand_that_is_not_known_is_a_check_and_takes_no_figure_with_it(year, patch, words):
    results = year(patch, {"money": {"tariff": tariff("cottage-flat")}}, series={METER.digest: METER})
    assert results.annual.energy == pytest.approx(year().annual.energy)
    found = next(c for c in find_checks(results) if c.rule == "demand-source")
    assert words in found.detail and found.pointer == "/demand/sources/meter" and found.bench == "demand"
    cured = year(patch, found.remedies[0].patch, series={METER.digest: METER})
    assert cured.after.problem is None


def test_what_a_charger_cannot_serve_is_a_check(year):
    results = year({"demand": {"sources": {"car": {"vehicle": {"weekday_km": 400, "weekend_km": 400, "charger": 2}}}}})
    found = next(c for c in find_checks(results) if c.rule == "unserved-demand")
    assert found.actual == pytest.approx(results.after.demand.unserved["car"]) and "kWh a year cannot be served" in found.title


def test_power_over_the_contract_is_a_check_whose_remedy_cures_it(year):
    charge = {"energy": {"price": 0.2}, "demand": {"p": {"price": 5.0, "contracted": 1.0, "averaging": 60}}}
    results = year(HOUSE, {"money": {"tariff": charge}})
    found = next(c for c in find_checks(results) if c.rule == "contracted-power")
    cured = year(HOUSE, {"money": {"tariff": charge}}, found.remedies[0].patch)
    assert not any(c.rule == "contracted-power" for c in find_checks(cured))


def test_every_source_is_a_quantity_of_its_own(year):
    results = year(
        HOUSE, {"demand": {"sources": {"list": {"name": "List", "appliances": {"items": {"a": {"power": 100}}, "margin": 10}}}}}
    )
    keys = own_quantities(results)
    assert set(keys) == {"demand_house", "demand_list", "demand_list_margin"}
    total = sum(results.quantity(key) for key in keys)
    assert total == pytest.approx(results.quantity("demand"))
    assert results.quantity("import") - results.quantity("export") == pytest.approx(total - results.delivered, abs=1e-6)
    table = results.hourly()
    assert "demand_list_margin [W]" in table and len(table) == 8760


@pytest.mark.parametrize("step", [30, 15])
def test_weeks_of_prices_hold_the_energy_of_the_year_at_any_step(step, year):
    weather = simulated_weather(43.62, 11.31, 412, 1, step)
    results = year(
        HOUSE, {"money": {"tariff": tariff("cottage-two-rates")}, "site": {"time_zone": "Europe/Rome"}}, weather=weather
    )
    one = results.design.money.tariff
    weeks = price_weeks(results, one, one.energy)
    assert [w.key for w in weeks] == ["winter", "summer"]
    winter = weeks[0]
    assert winter.periods[0][34] == "evening" and winter.prices[0][34] == 0.41
    total = sum(
        float((w.imported[k] * n).sum()) for w, counts in zip(weeks, _days(results), strict=True) for k, n in enumerate(counts)
    )
    assert total == pytest.approx(results.after.metered.imported.sum())


def _days(results):
    """Days of each kind in each season."""
    from noontide.core.civil_time import civil_time

    one = results.design.money.tariff
    time = civil_time(results.calendar, "Europe/Rome", one.holidays)
    per_day = 1440 // results.calendar.step
    for season in one.energy.seasons.values():
        inside = np.isin(time.month + 1, season.months)
        yield [np.count_nonzero(inside & (time.kind == k)) / per_day for k in range(4)]
