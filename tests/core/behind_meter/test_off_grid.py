"""A place without a grid: the worksheet by hand, the account hour by hour, the map beside single designs."""

import json
from pathlib import Path

import numpy as np
import pytest
from pypdf import PdfReader

from noontide.cli import main
from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.off_grid import proof, worksheet
from noontide.core.behind_meter.size_map import LEVELS, cheapest, choose, cost_lines, reliability_map, yearly_costs
from noontide.core.behind_meter.storage_picture import flows_of
from noontide.core.checks import find_checks
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import FIGURES, figures_of
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
LAMPS = {"demand": {"sources": {"hut": {"name": "Hut", "appliances": {"items": {
    "light": {"name": "Light", "number": 10, "power": 100, "hours": "18-23"}, "pump": {"name": "Pump", "power": 1500, "surge": 3, "hours": "10-12"},
    "fridge": {"name": "Fridge", "power": 200, "hours": "0-24"},
}}}}}}  # fmt: skip
GENERATOR = {"power": 3.0, "start": 30, "stop": 70, "least": 30}


def hut(**place):
    storage = {"bank": {"energy": 25, "power": 5, "leakage": 0} | place.pop("bank", {}), "off_grid": place}
    return simulate(Design.read(merge_patch(merge_patch(SOUTH_ROOF, LAMPS), {"storage": storage})), WEATHER, PARTS)


def test_the_worksheet_by_hand():
    r = hut()
    sheet = {line.key: line for line in worksheet(r)}
    # 10 x 100 W x 5 h + 1,500 W x 2 h + 200 W x 24 h, on every day of the year.
    assert sheet["energy"].value == pytest.approx(12.8, rel=1e-9)
    months = r.calendar.monthly_sums(r.whole_year(r.planes[0].poa)) / 1000
    sun = (months / np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])).min()
    assert sheet["sun"].value == pytest.approx(sun, rel=1e-6)
    array = 12.8 / (sun * 0.8)
    assert sheet["array"].value == pytest.approx(array, rel=1e-6) and sheet["modules"].value == np.ceil(
        array * 1000 / r.plant.modules[0].power
    )
    assert sheet["battery"].value == pytest.approx(12.8 * 3 / 0.8) and sheet["charge"].value == pytest.approx(48_000 / 48)
    # Light and fridge meet in the evening, pump and fridge at ten: 1.7 kW; the pump starts with three times its power.
    assert sheet["inverter"].value == pytest.approx(1.7 * 1.25) and "surge 4.7 kW" in sheet["inverter"].rule
    assert sheet["controller"].value == pytest.approx(array * 1000 / 48 * 1.25) and sheet["fuse"].value == pytest.approx(
        array * 1000 / 48 * 1.56
    )
    assert sheet["battery"].is_short and "2.0 days instead of 3" in sheet["battery"].verdict
    assert not {line.key: line for line in worksheet(hut(autonomy=1))}["battery"].is_short


def test_modules_and_batteries_in_series_and_parallel_by_hand():
    """24 V from batteries of 51.2 V cannot be; 48 V can, with three units for three days."""
    r = hut(bank={"model": "pellworth-10", "energy": None, "power": None, "parallel": 2})
    sheet = {line.key: line for line in worksheet(r)}
    limits, n = r.string_limits[0], r.plant.subarrays[0].modules_per_string
    assert sheet["series"].value == np.ceil(1.2 * 48 / limits.hot_vmp) and sheet["series"].chosen == n
    assert sheet["parallel"].value == np.ceil(sheet["array"].value * 1000 / r.plant.modules[0].power / sheet["series"].value)
    assert sheet["controller_voltage"].value == pytest.approx(n * limits.cold_voc)
    # 12.8 kWh a day for three days, of units that give 10 kWh each.
    assert (sheet["units_series"].value, sheet["units_parallel"].value) == (1, 4)
    assert sheet["units_parallel"].is_short and "2 too few" in sheet["units_parallel"].verdict
    assert sheet["battery_fuse"].value == pytest.approx(1.7 * 1.25 * 1000 / 48 * 1.25)
    assert sheet["ac_current"].value == pytest.approx(1.7 * 1.25 * 1000 / (400 / 3**0.5))
    unlike = {
        line.key: line
        for line in worksheet(hut(voltage=24, bank={"model": "pellworth-5", "energy": None, "power": None, "series": 2}))
    }
    assert unlike["units_series"].is_short and "102.4 V, and the system has 24 V" in unlike["units_series"].verdict


@pytest.mark.parametrize(
    "place",
    [
        {},
        {"generator": GENERATOR},
        {"generator": GENERATOR | {"quiet": "20-8"}},
        {"bank": {"energy": 0}},
        {"bank": {"energy": 4000}},
    ],
)
def test_the_account_closes_without_a_grid(place):
    r = hut(**dict(place))
    m = r.after.metered
    assert m.imported.sum() == 0 and m.exported.sum() == 0
    made, used = (
        m.produced + m.generated + m.discharge,
        m.demand + m.own_use - m.unmet + m.sun_stored + m.grid_stored + m.exported,
    )
    assert np.allclose(made, used, rtol=0, atol=1e-9) and (m.unmet <= m.demand + m.own_use + 1e-12).all()
    flows = flows_of(r)
    assert np.allclose(flows["sun_use"] + flows["battery_use"] + flows["grid_use"], m.demand + m.own_use - m.unmet, atol=1e-9)
    assert np.allclose(flows["grid_use"] + flows["grid_battery"], m.generated, atol=1e-9)
    found, battery = proof(r), battery_year(r)
    assert battery.lost > -1e-6 and found.dark_hours == pytest.approx(sum(found.dark_by_month))
    assert found.loss_of_load * (m.demand.sum() + m.own_use.sum()) == pytest.approx(found.unmet)
    bare = hut(bank={"energy": 0})
    assert r.annual.energy == bare.annual.energy and found.unmet <= proof(bare).unmet + 1e-9
    if place.get("generator"):
        assert found.generated > 0 and found.fuel == pytest.approx(0.25 * found.generated + 0.08 * 3 * found.generator_hours)
        quiet = place["generator"].get("quiet")
        hour = np.arange(m.generated.size) % 24
        assert not quiet or (
            m.generated[(hour >= 20) | (hour < 7)].max() <= m.generated.max() and found.unmet <= proof(hut()).unmet
        )
    assert figures_of(r)["lost_load"] == found.loss_of_load and all(check.title for check in find_checks(r))
    worked = {figure.key: [value.value for value in figure.inputs(r)] for figure in FIGURES if figure.is_there(r)}
    given, direct, stored, unused = worked["self_consumption"]
    assert figures_of(r)["self_consumption"] == pytest.approx((direct + stored) / (given + unused))
    elsewhere, demand, night = worked["self_sufficiency"]
    assert figures_of(r)["self_sufficiency"] == pytest.approx(1 - elsewhere / (demand + night))
    assert not {"imported", "exported", "peak_import"} & worked.keys()


def test_the_map_is_what_single_designs_give_and_more_of_either_never_loses_more():
    r = hut()
    sizes = reliability_map(r, 12)
    assert np.all(np.diff(sizes.loss, axis=0) <= 1e-9) and np.all(np.diff(sizes.loss, axis=1) <= 1e-9)
    k = int(np.argmin(np.abs(sizes.arrays - r.annual.dc_power)))
    for row in (0, 5, 11):
        energy = float(sizes.batteries[row])
        one = hut(bank={"energy": energy, "power": max(5.0, energy * 5 / 25)})
        low, high = sorted(np.interp([r.annual.dc_power * 0.9, r.annual.dc_power * 1.1], sizes.arrays, sizes.loss[row]))
        assert low - 1e-9 <= proof(one).loss_of_load <= high + 1e-9 and k >= 0


def test_with_a_grid_there_is_no_worksheet_and_the_command_line_says_so(capsys, tmp_path):
    design = json.loads(Path("docs/examples/south-roof.json").read_text())
    file = tmp_path / "design.json"
    file.write_text(json.dumps(design))
    with pytest.raises(SystemExit):
        main(["offgrid", str(file), "--weather", "docs/examples/aldermoor.csv"])
    assert "has a grid" in capsys.readouterr().err
    file.write_text(json.dumps(design | LAMPS | {"storage": {"bank": {"energy": 25}, "off_grid": {"generator": GENERATOR}}}))
    assert main(["offgrid", str(file), "--weather", "docs/examples/aldermoor.csv", "--map", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert len(found["worksheet"]) == 14 and len(found["map"]["loss"]) == 24 and found["proof"]["generator_starts"] > 0
    page = tmp_path / "summary.pdf"
    assert main(["offgrid", str(file), "--weather", "docs/examples/aldermoor.csv", "--map", "--sheet", str(page)]) == 0
    out = capsys.readouterr().out
    assert "By the worksheet" in PdfReader(page).pages[0].extract_text()
    assert "dark hours" in out and "price" in out
    priced_file = (
        design
        | LAMPS
        | {"storage": {"bank": {"energy": 25, "price": 300}, "off_grid": {}}, "money": {"costs": {"work": {"amount": 500}}}}
    )
    file.write_text(json.dumps(priced_file))
    assert main(["offgrid", str(file), "--weather", "docs/examples/aldermoor.csv", "--map", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["served_cost"] > 0 and found["cheapest"]["cost"] > 0
    assert main(["offgrid", str(file), "--weather", "docs/examples/aldermoor.csv", "--map"]) == 0
    out = capsys.readouterr().out
    assert "cost least" in out and "kWh that is served" in out
    with pytest.raises(SystemExit):
        main(["bill", str(file), "--weather", "docs/examples/aldermoor.csv", "--tariff", "dairy-demand"])
    assert "no grid" in capsys.readouterr().err


def priced(extra=None, **place):
    document = merge_patch(
        merge_patch(SOUTH_ROOF, LAMPS),
        {
            "storage": {"bank": {"energy": 25, "power": 5, "leakage": 0, "price": 400, "life": 12}, "off_grid": place},
            "money": {
                "interest": 4,
                "years": 20,
                "energy_value": 0.5,
                "costs": {"rails": {"amount": 60, "per": "module"}, "hut": {"amount": 900}},
            },
        },
    )
    return simulate(Design.read(merge_patch(document, extra or {})), WEATHER, PARTS)


def test_the_cheapest_size_is_that_of_a_search_over_every_cell():
    r = priced(accepted_loss=2)
    sizes, costs = reliability_map(r), yearly_costs(r)
    module = r.plant.modules[0]
    each = (module.price + 60) / (module.power / 1000)  # per kW: what is fixed does not grow with the array
    assert costs.array == pytest.approx(each * 0.04 / (1 - 1.04**-20))
    assert costs.battery == pytest.approx(400 * 0.04 / (1 - 1.04 ** -battery_year(r).life))
    best = cheapest(sizes, costs, 0.02)
    every = costs.array * sizes.arrays + costs.battery * sizes.batteries[:, np.newaxis]
    cell = np.where(sizes.loss <= 0.02, every, np.inf).min()
    step = costs.battery * (sizes.batteries[1] - sizes.batteries[0])
    # Between the cells it is a little cheaper, and by no more than a step of the battery.
    assert cell - step <= best.cost <= cell and best.cost == pytest.approx(costs.of(best.array, best.battery))
    assert f"{best.array:.3g} kW" in choose(r, sizes).words
    lines = cost_lines(sizes, costs)
    assert 2 <= len(lines) <= 6 and np.allclose(np.diff(lines), lines[0])
    # Less that may be missing never costs less.
    found = [cheapest(sizes, costs, level).cost for level in sorted(LEVELS) if cheapest(sizes, costs, level)]
    assert found == sorted(found, reverse=True)


def test_a_line_of_equal_loss_lies_between_the_cells_that_it_parts():
    sizes = reliability_map(priced(), 12)
    for level in LEVELS:
        needed = sizes.equal_loss(level)
        for k, battery in enumerate(needed):
            if np.isnan(battery):
                assert (sizes.loss[:, k] > level).all()
                continue
            assert (sizes.loss[sizes.batteries >= battery - 1e-9, k] <= level + 1e-12).all()
            assert (sizes.loss[sizes.batteries < battery - 1e-9, k] > level).all()


def test_without_a_price_there_is_a_map_and_no_cheapest_size():
    r = hut()
    sizes = reliability_map(r, 6)
    assert yearly_costs(r) is None and cheapest(sizes, None, 0.01) is None and cost_lines(sizes, None) == ()
    assert "price" in choose(r, sizes).words or "No size" in choose(r, sizes).words


def test_a_served_kwh_costs_what_is_spent_over_what_is_served():
    """Purchase, fuel and a battery renewed after twelve years, by hand."""
    r = priced(generator=GENERATOR)
    cash, found = cash_year_by_year(r), proof(r)
    served = float(r.after.metered.demand.sum()) - found.unmet
    assert cash.energies[1:] == pytest.approx([served] * 20)
    assert cash.flows["Fuel"][1] == pytest.approx(-found.fuel_cost) and found.fuel_cost > 0
    assert cash.flows["Energy saved and sold"][5] == pytest.approx(0.5 * served)
    discount = 1.04 ** -np.arange(1.0, 21)
    renewed = 25 * 400 * 1.04**-12
    spent = cash.purchase.total + found.fuel_cost * discount.sum() + renewed
    assert cash.levelised_cost == pytest.approx(spent / (served * discount.sum()))
    # What the sun gives and nobody takes counts for nothing.
    assert served < r.annual.energy


def test_a_tariff_where_there_is_no_grid_makes_no_bill_and_is_named():
    tariff = {"money": {"tariff": {"energy": {"price": 0.3}, "fixed": {"meter": {"name": "Meter", "amount": 10}}}}}
    r = priced(tariff)
    assert r.after.bills is None and "bill_share" not in figures_of(r)
    named = next(check for check in find_checks(r) if check.rule == "tariff-without-grid")
    assert not any(
        check.rule == "tariff-without-grid"
        for check in find_checks(simulate(Design.read(merge_patch(r.design.as_kept(), named.remedies[0].patch)), WEATHER, PARTS))
    )
    assert cash_year_by_year(r).flows["Energy saved and sold"][1] == cash_year_by_year(priced()).flows["Energy saved and sold"][1]
