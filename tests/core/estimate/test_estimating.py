"""A whole design from one sentence: it keeps what was asked for, and every limit."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from noontide.cli import main
from noontide.core.checks import find_checks
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.design import Design
from noontide.core.estimate import CannotEstimate, EstimateRequest, estimate
from noontide.core.simulation import Libraries
from noontide.core.weather import as_text
from noontide.parts import built_in_parts

PARTS = built_in_parts()
HERE = {"latitude": 43.6, "longitude": 11.3, "elevation": 350, "place": "Hill"}


@pytest.fixture(scope="module")
def found(hill_weather):
    libraries = Libraries(PARTS, hill_weather)
    return lambda **asked: estimate(EstimateRequest.model_validate(HERE | asked), "Europe/Rome", libraries)


@given(st.integers(3, 900), st.sampled_from(sorted(PARTS.modules)), st.sampled_from(["", *sorted(PARTS.inverters)]))
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_is_estimated_can_be_built(found, modules, module, inverter):
    try:
        one = found(start="modules", amount=modules, module=module, inverter=inverter)
    except CannotEstimate:  # its words are tried below
        return
    assert one.way.modules + one.way.left_over == modules and one.way.left_over <= 20
    assert one.results.annual.modules == one.way.modules
    assert one.results.annual.energy == pytest.approx(one.way.energy, rel=1e-9)
    limits = ("voltage", "current", "short-circuit", "dc-power")
    broken = [c.title for c in find_checks(one.results) if c.severity == "error" and any(word in c.rule for word in limits)]
    assert broken == []


def test_of_the_ways_that_leave_nothing_over_the_cheapest_energy_is_taken(found):
    one = found(start="modules", amount=233)
    priced = PARTS.inverters[one.way.inverter].price * one.way.count + PARTS.modules["veltrane-430"].price * 233
    assert one.way.price == pytest.approx(priced)
    dear = found(start="modules", amount=233, inverter="hexley-3")
    assert one.way.price_a_kwh < dear.way.price_a_kwh and dear.way.count > 20


@pytest.mark.parametrize(
    ("asked", "reached"),
    [
        pytest.param({"start": "demand", "amount": 6000}, 6000, id="a yearly demand"),
        pytest.param({"start": "use", "amount": 80, "use": 9000}, 7200, id="four fifths of the use"),
    ],
)
def test_an_energy_is_reached_and_one_module_less_would_not_do(found, asked, reached):
    one = found(**asked)
    energy, count = one.results.annual.energy, one.way.modules
    assert energy >= 0.995 * reached
    try:
        fewer = found(start="modules", amount=count - 1, inverter=one.way.inverter)
    except CannotEstimate:  # one less makes no string on it
        return
    assert fewer.results.annual.energy < reached


def test_the_best_value_is_better_than_every_other_size(found):
    """Of a household: a larger array would give more to the grid for little."""
    prices = {"use": 5000, "price": 0.35, "export_price": 0.03, "work": 500}
    best = found(start="value", amount=120, **prices)
    value = cash_year_by_year(best.results).net_present_value
    assert value > 0 and best.limited_by == "the best net present value"
    for other in (0.5, 0.75, 1.4, 2.0):
        size = found(start="modules", amount=round(best.way.modules * other), **prices)
        assert cash_year_by_year(size.results).net_present_value < value, size.way.modules
    with pytest.raises(CannotEstimate, match="earns what it costs"):
        found(start="value", amount=120, use=5000, price=0.02, export_price=0.01, work=2000)
    with pytest.raises(CannotEstimate, match="how much electricity"):
        found(start="value", amount=120)
    assert found(start="value", amount=1e7, **prices | {"use": 900}).way.modules < 20, "of a huge area what a small use needs"


@pytest.mark.parametrize(
    ("asked", "pointer", "words"),
    [
        ({"start": "modules", "amount": 1}, "/amount", "no string length keeps"),
        ({"start": "power", "amount": 9e6}, "/amount", "1,000,000 or less"),
        ({"start": "demand", "amount": 1e7, "module": "none"}, "/module", "no module 'none'"),
        ({"amount": 5, "inverter": "none"}, "/inverter", "no inverter 'none'"),
        ({"start": "use", "amount": 50}, "/use", "how much electricity"),
    ],
)
def test_what_cannot_be_estimated_is_refused_at_its_blank(found, asked, pointer, words):
    with pytest.raises(CannotEstimate, match=words) as refused:
        found(**asked)
    assert refused.value.pointer == pointer


def test_the_command_line_writes_the_same_design(found, hill_weather, tmp_path, capsys):
    weather, out = tmp_path / "hill.csv", tmp_path / "out.json"
    weather.write_text(as_text(hill_weather, "csv"))
    here = [word for name in ("latitude", "longitude", "elevation", "place") for word in (f"--{name}", str(HERE[name]))]
    run = ["estimate", "--weather", str(weather), *here, "--time-zone", "Europe/Rome", "--power", "12", "--tilt", "20"]
    assert main([*run, "--out", str(out)]) == 0
    one = found(amount=12, tilt=20)
    written = json.loads(out.read_text())
    assert {**written, "weather": None} == {**Design.read(one.document).as_kept(), "weather": None}
    assert f"{one.results.annual.energy:,.0f} kWh" in capsys.readouterr().out


def test_the_proposed_battery_is_put_in_and_changes_nothing_else(found):
    asked = {"start": "power", "amount": 6, "use": 6000}
    without, with_it = found(**asked), found(**asked, battery=True)
    assert without.battery_taken == "" and with_it.battery == without.battery
    assert with_it.battery_taken == "1 × Pellworth B 10, 10 kWh" and "About 8 kWh" in with_it.battery
    added = {"storage", "parts"}
    assert all(with_it.document[key] == part for key, part in without.document.items() if key not in added)
    assert {key: part for key, part in with_it.document["parts"].items() if key != "batteries"} == without.document["parts"]
    assert with_it.results.annual.energy == pytest.approx(without.results.annual.energy)
    before, after = without.results.after.metered, with_it.results.after.metered
    assert after.self_sufficiency > before.self_sufficiency + 0.05
    assert after.imported.sum() < before.imported.sum() and after.exported.sum() < before.exported.sum()
    bought = [cash_year_by_year(one.results).purchase.total for one in (without, with_it)]
    assert bought[1] > bought[0]


def test_a_battery_for_no_use_is_refused(found):
    with pytest.raises(CannotEstimate, match="how much electricity is used"):
        found(start="power", amount=6, battery=True)


def test_where_no_battery_is_worth_it_none_is_put_in(found):
    # A plant that meets next to nothing of a large use has nothing to store.
    one = found(start="modules", amount=4, use=500_000, battery=True)
    assert one.battery_taken == "" and one.battery.startswith("None")
