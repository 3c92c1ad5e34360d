"""Charge controllers on a battery bus: the array within their limits or at the battery's own voltage, and the balance of the place behind them."""

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.optimize import brentq

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.bus_circuits import bus_circuits
from noontide.core.behind_meter.off_grid import proof, worksheet
from noontide.core.behind_meter.size_map import reliability_map
from noontide.core.behind_meter.storage_picture import flows_of
from noontide.core.checks import find_checks
from noontide.core.checks.protection import protection_of
from noontide.core.costs.bill import bill_of
from noontide.core.design import Design, merge_patch
from noontide.core.drawing import as_pdf
from noontide.core.drawing.typeface import width_of
from noontide.core.drawings.off_grid_sheet import off_grid_sheet
from noontide.core.drawings.one_line import one_line
from noontide.core.electrical.cables import FLEXIBLE
from noontide.core.electrical.controllers import as_unit
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, voltage_at
from noontide.core.simulation import IncompleteDesign, UnknownPart, simulate
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(-43.18, 170.46, 6, 12)
HUT = {
    "name": "Hut",
    "site": {"latitude": -43.18, "longitude": 170.46, "elevation": 6},
    "surfaces": {"roof": {"tilt": 40, "azimuth": 352}},
    "inverters": {"one": {"controller": "corvane-c60"}},
    "subarrays": {"a": {"surface": "roof", "module": "quillon-410", "modules_per_string": 3, "strings": 2, "inverter": "one"}},
    "demand": {"sources": {"hut": {"name": "Hut", "yearly": {"energy": 1500}}}},
    "storage": {"bank": {"energy": 10, "power": 2.5}, "off_grid": {}},
}


def hut(**changes):
    return simulate(Design.read(merge_patch(HUT, changes)), WEATHER, PARTS)


PWM = {
    "inverters": {"one": {"controller": "corvane-c10p"}},
    "subarrays": {"a": {"module": "thornby-250", "modules_per_string": 1, "strings": 1}},
    "storage": {"off_grid": {"voltage": 24}},
}
CASES = {
    "tracking": {},
    "no generator, small battery": {"storage": {"bank": {"energy": 1.0}}},
    "generator": {"storage": {"off_grid": {"generator": {"power": 2.0, "quiet": "22-7"}}}},
    "an inverter of the library": {
        "storage": {"off_grid": {"inverter": next(k for k, u in PARTS.inverters.items() if u.kind == "stand-alone")}}
    },
    "more asked than it passes": {"storage": {"bank": {"power": 0.2}}},
    "a model": {"storage": {"bank": {"model": "pellworth-10", "energy": None, "power": None}}},
    "switching": PWM,
    "no demand": {"demand": None},
}


@pytest.mark.parametrize("case", CASES)
def test_the_account_of_the_bus_closes(case):
    r = hut(**CASES[case])
    m, hours = r.after.metered, r.calendar.hours_per_interval
    assert np.allclose(
        m.produced + m.generated + m.discharge, m.demand - m.unmet + m.own_use + m.sun_stored + m.grid_stored, rtol=0, atol=1e-9
    )
    assert all((values >= -1e-12).all() for values in vars(m).values())
    assert (m.unmet <= m.demand + 1e-12).all() and not m.imported.any() and not m.exported.any()
    # What the controllers bring to the bus is used, stored or unused; no more comes out of the battery than went in.
    assert np.allclose(m.produced + m.unused, np.maximum(r.delivered, 0) / 1000 * hours, rtol=0, atol=1e-9)
    battery = battery_year(r)
    assert battery.lost >= -1e-6 and m.stored.max() <= battery.energy + 1e-9
    assert all((flow >= -1e-12).all() for flow in flows_of(r).values())
    # Between bus and use lies the inverter.
    served = float((m.demand - m.unmet).sum())
    if served and not m.generated.any() and m.unmet.sum() < 1e-9:
        lost = float(m.own_use.sum()) - r.after.storage.standby * r.calendar.intervals * hours
        assert lost >= served * (1 / r.after.bus.efficiency - 1) * 0.999 - 1e-6
    assert r.cascade.residual < 1e-9
    assert float(m.unmet.sum()) >= float(np.maximum(m.demand - r.after.bus.power * hours, 0).sum()) - 1e-9


def test_a_controller_that_switches_runs_the_array_at_the_batterys_voltage():
    """The current at 27 V by root finding on the module's own curve, less the losses that the chain books."""
    r = hut(
        **PWM,
        losses={
            "quality": 0,
            "light_induced": 0,
            "mismatch": 0,
            "dc_wiring": 0,
            "ac_wiring": 0,
            "unavailability": 0,
            "degradation": 0,
        },
    )
    module, point = PARTS.modules["thornby-250"], r.subarray(0).point
    parameters = fit_module(module).parameters
    when = np.flatnonzero(r.effective[0].mean > 150)[::97]
    assert when.size > 10
    for t in when:
        cells = circuit(parameters, float(r.effective[0].mean[t]), float(r.modules[0].cell_temperature[t]))

        def over(current, cells=cells):
            return float(voltage_at(cells, current)) - 27.0

        # A module that cannot reach the battery's voltage gives nothing.
        exact = brentq(over, 0.0, 2 * module.isc, xtol=1e-12) * r.modules[0].rating if over(0.0) > 0 else 0.0
        assert float(point.current[t]) == pytest.approx(exact, rel=1e-6, abs=1e-6)
        assert exact == 0 or float(point.voltage[t]) == pytest.approx(27.0, abs=1e-9)
    # Never more than the controller's current, and the rest is booked.
    unit = r.plant.inverters[0]
    assert (r.grid[0].ac <= unit.ac_power * (1 + 1e-9)).all() and unit.ac_power == pytest.approx(10 * 27.0)
    assert r.cascade.lost("window") > 0


def test_a_tracking_controller_gives_more_than_a_switching_one_and_less_than_its_current_allows():
    switching = hut(**PWM)
    tracking = hut(**merge_patch(PWM, {"inverters": {"one": {"controller": "corvane-c20"}}}))
    assert tracking.annual.energy > 1.02 * switching.annual.energy
    r = hut(subarrays={"a": {"strings": 6}})
    unit = r.plant.inverters[0]
    assert unit.ac_power == 60 * 54.0 and (r.grid[0].ac <= unit.ac_power + 1e-6).all() and r.cascade.lost("clipping") > 0
    assert np.allclose(
        r.grid[0].conversion[r.grid[0].ac > 1] / (r.grid[0].ac + r.grid[0].conversion)[r.grid[0].ac > 1], 0.02, atol=1e-6
    )


def lamps(current, number=4):
    item = {"name": "Lamp", "power": 25.0, "number": number, "current": current, "hours": "17-23"}
    return {"demand": {"sources": {"hut": {"yearly": None, "appliances": {"items": {"lamp": item}}}}}}


SURE = {"storage": {"bank": {"energy": 200.0, "standby": 0.0, "leakage": 0.0, "converter": 90.0}}}


def test_direct_current_does_not_pass_the_inverter():
    """Enough sun and battery: 4 lamps of 25 W for 6 hours take 219 kWh a year from the bus, by an inverter of 90 % 243.3 kWh."""
    ac, dc = (hut(**merge_patch(lamps(current), SURE)) for current in ("AC", "DC"))
    for r, lost in ((ac, 219 / 0.9 - 219), (dc, 0.0)):
        m = r.after.metered
        assert m.demand.sum() == pytest.approx(219, abs=1e-9) and m.unmet.sum() == pytest.approx(0, abs=1e-9)
        assert m.own_use.sum() >= lost - 1e-6
    assert ac.after.metered.own_use.sum() - dc.after.metered.own_use.sum() == pytest.approx(219 / 0.9 - 219, abs=1e-6)


@pytest.mark.parametrize("energy", [0.0, 0.3, 3.0])
@pytest.mark.parametrize("fuelled", [False, True])
def test_direct_current_never_leaves_more_dark_than_alternating(energy, fuelled):
    place = {"storage": {"bank": {"energy": energy}, "off_grid": {"generator": {"power": 0.05} if fuelled else None}}}
    ac, dc = (hut(**merge_patch(lamps(current, 20), place)) for current in ("AC", "DC"))
    if not fuelled:  # a generator reaches the bus through a charger
        assert dc.after.metered.unmet.sum() <= ac.after.metered.unmet.sum() + 1e-9
    for r in (ac, dc):
        m = r.after.metered
        given = m.produced + m.generated + m.discharge
        assert np.allclose(given, m.demand - m.unmet + m.own_use + m.sun_stored + m.grid_stored, rtol=0, atol=1e-9)
        assert (m.generated <= 0.05 + 1e-9).all() and (m.unmet <= m.demand + 1e-12).all()
        # The map's own point is the design's, but for the part of what is missing that the inverter draws by itself.
        found = reliability_map(r)
        assert (np.diff(found.loss, axis=0) <= 1e-9).all() and (np.diff(found.loss, axis=1) <= 1e-9).all()


def test_a_generator_reaches_direct_current_through_the_charger():
    """A battery that holds nothing: in the dark all comes from the generator, and 1 kWh on the bus takes 1 / efficiency of it."""
    place = {
        "bank": {"energy": 0.001, "converter": 90.0, "standby": 0.0},
        "off_grid": {"generator": {"power": 3.0, "least": 0.0, "start": 100, "stop": 100}},
    }
    r = hut(**merge_patch(lamps("DC", 20), {"storage": place}))
    m, bare = r.after.metered, hut(**merge_patch(lamps("DC", 20), {"storage": {"bank": {"energy": 0.0, "standby": 0.0}}}))
    dark = (m.produced == 0) & (m.demand > 0)
    assert dark.sum() > 500 and m.unmet.sum() == 0
    drawn = r.plant.inverters[0].night_power / 1000
    assert m.generated[dark] == pytest.approx((0.5 + drawn) / 0.9, abs=2e-3)
    assert (m.generated <= 3.0 + 1e-9).all() and bare.after.metered.generated.sum() == 0


def test_a_generator_at_its_limit_charges_less_before_a_lamp_goes_out():
    r = hut(**merge_patch(lamps("DC", 20), {"storage": {"bank": {"energy": 5.0}, "off_grid": {"generator": {"power": 0.7}}}}))
    m = r.after.metered
    assert m.unmet.sum() == 0 and (m.generated <= 0.7 + 1e-9).all()
    # There are hours in which it gives all it has, and a part of that charges.
    assert ((m.generated > 0.7 - 1e-6) & (m.demand > 0) & (m.grid_stored > 0)).any()


def test_circuits_of_the_bus_have_fuse_and_cable():
    r = hut(**merge_patch(lamps("DC"), {"storage": {"off_grid": {"cables": {"battery": 4.0, "direct": 30.0}}}}))
    by_key = {one.key: one for one in bus_circuits(r)}
    assert set(by_key) == {"battery", "controller:one", "direct"}
    direct, battery = by_key["direct"], by_key["battery"]
    assert direct.current == pytest.approx(100 / 48) and direct.fuse == 10
    assert battery.current == pytest.approx(2500 / 0.97 / 48 + 100 / 48)
    for one in by_key.values():
        # By hand: two conductors, warmer than 20 °C, at the current of the largest power; no more than the limit, and the fuse protects the cable.
        least = 2 * one.length * one.current * FLEXIBLE[one.cable.section] / 1000
        assert least <= one.cable.voltage_drop <= 1.4 * least and one.cable.drop <= one.drop_limit
        assert one.cable.ampacity >= one.fuse >= one.asked
    items = {item.key: item for item in protection_of(r)}
    assert items["bus-cable:battery"].chosen == f"2 × {battery.cable.section:g} mm² copper"
    bill = bill_of(r, PARTS)
    copper = sum(
        line.count for line in bill.lines if line.kind == "cables" and ("battery bus" in line.use or "DC circuits" in line.use)
    )
    assert copper >= 2 * 4 + 2 * 30
    assert any("Fuse of the DC circuits" in line.name for line in bill.lines)
    texts = " ".join(str(vars(mark).get("text", "")) for sheet in one_line(r) for mark in sheet.marks)
    assert "DC use" in texts and items["bus-cable:direct"].chosen in texts
    asked = {line.key: line for line in worksheet(r)}
    assert asked["direct_current"].value == pytest.approx(1.25 * 100 / 48) and asked["inverter"].value == 0


@pytest.mark.parametrize("case", [*CASES, "far too small", "direct current"])
def test_the_summary_has_all_of_the_worksheet_within_one_page(case):
    small = {"storage": {"bank": {"energy": 0.0, "power": 0.1}}, "demand": {"sources": {"hut": {"yearly": {"energy": 9e6}}}}}
    r = hut(**{**CASES, "far too small": small, "direct current": lamps("DC", 120)}[case])
    if not r.after.has_demand:
        with pytest.raises(ValueError, match="no demand"):
            off_grid_sheet(r, "Hut", "")
        return
    sheet = off_grid_sheet(r, "Hut", "Scheme A, revision 3")
    texts = [mark for mark in sheet.marks if hasattr(mark, "text")]
    said = {mark.text for mark in texts}
    assert {line.title for line in worksheet(r)} - {""} <= said
    assert f"{proof(r).loss_of_load:.2%} of the energy" in said
    for mark in texts:
        wide = width_of(mark.text, mark.size, mark.is_bold)
        left = mark.x - {"start": 0.0, "middle": wide / 2, "end": wide}[mark.anchor]
        assert left >= 0 and left + wide <= sheet.width and 0 <= mark.y <= sheet.height, mark.text
    assert as_pdf([sheet]).startswith(b"%PDF")


def test_a_run_that_no_cable_serves_says_so_and_keeps_the_figures():
    r = hut(storage={"off_grid": {"cables": {"battery": 200.0, "drop": 0.1}}})
    found = next(item for item in protection_of(r) if item.key == "bus-cable:battery")
    assert found.state == "error" and "Shorten it" in found.detail
    assert proof(r).loss_of_load >= 0 and one_line(r)


def test_direct_current_without_a_bus_is_said():
    document = merge_patch(
        merge_patch(HUT, lamps("DC")), {"storage": None, "subarrays": {"a": {"modules_per_string": 8, "strings": 1}}}
    )
    with_grid = simulate(Design.read(document | {"inverters": {"one": {"model": "hexley-5"}}}), WEATHER, PARTS)
    assert "direct-current-without-bus" in {check.rule for check in find_checks(with_grid)}
    assert "direct-current-without-bus" not in {check.rule for check in find_checks(hut(**lamps("DC")))}


def test_worksheet_checks_protection_drawing_and_bill_know_the_bus():
    r = hut(storage={"off_grid": {"generator": {"power": 2.0}}})
    lines = {line.key: line for line in worksheet(r)}
    assert lines["controller"].chosen == 60 and lines["controller_voltage"].chosen == 150
    assert lines["controller_voltage"].value < 150 and not lines["controller_voltage"].is_short
    items = {item.key: item for item in protection_of(r)}
    assert items["bus-fuse:controller:one"].actual >= 1.25 * 60 and items["bus-fuse:battery"].state == "fine"
    assert items["bus-fuse:battery"].limit == pytest.approx(1.25 * 2500 / 0.97 / 48)
    assert items["ac-breaker"].actual >= 2500 / 231 and "ac-breaker:one" not in items
    words = " ".join(str(vars(mark).get("text", "")) for sheet in one_line(r) for mark in sheet.marks)
    for word in ("Controller", "Battery", "Use", "48 V", "MPPT", "generator"):
        assert word in words
    assert "kWh" in words and "Grid" not in words
    names = [line.name for line in bill_of(r, PARTS).lines]
    assert "C 60" in names
    assert not any(check.rule == "controller-voltage" for check in find_checks(r))
    odd = hut(storage={"off_grid": {"voltage": 36}})
    found = next(check for check in find_checks(odd) if check.rule == "controller-voltage")
    assert found.severity == "error" and found.remedies[0].patch == {"storage": {"off_grid": {"voltage": 48}}}


def test_the_map_agrees_with_the_proof_of_single_designs():
    r = hut()
    found = reliability_map(r, 6)
    assert (np.diff(found.loss, axis=0) <= 1e-9).all() and (np.diff(found.loss, axis=1) <= 1e-9).all()
    # An array that is large for its use stands on the map itself, two and a half cells of twelve from its end.
    little = {"demand": {"sources": {"hut": {"yearly": {"energy": 500}}}}}
    found = reliability_map(hut(**little), 12)
    assert found.arrays[4] == pytest.approx(r.annual.dc_power)
    single = hut(**little, storage={"bank": {"energy": float(found.batteries[0]), "power": 2.5}})
    assert found.loss[0, 4] == pytest.approx(proof(single).loss_of_load, rel=0.03) and found.loss[0, 4] > 0.005
    small = hut(storage={"bank": {"power": 0.05}})
    assert reliability_map(small, 4).loss.min() > 0.5


def test_the_same_hut_on_controllers_wastes_less_than_by_ac():
    """One conversion less between sun and battery."""
    at_ac = hut(
        inverters={"one": {"controller": None, "model": "hexley-3"}}, subarrays={"a": {"modules_per_string": 6, "strings": 1}}
    )
    bus = hut()
    assert battery_year(bus).lost < battery_year(at_ac).lost


def test_what_does_not_go_together_is_refused_in_words():
    both = {"inverters": {"one": {"model": "hexley-3"}}}
    with pytest.raises(ValidationError, match="one of model and controller"):
        Design.read(merge_patch(HUT, both))
    with pytest.raises(ValidationError, match="no AC cable"):
        Design.read(merge_patch(HUT, {"inverters": {"one": {"cable": {"length": 5}}}}))
    with pytest.raises(IncompleteDesign, match="Choose an inverter, or say on the Storage bench"):
        hut(storage={"off_grid": None})
    with pytest.raises(IncompleteDesign, match="need a battery"):
        hut(storage={"bank": None})
    with pytest.raises(IncompleteDesign, match="on the one or on the other"):
        hut(inverters={"two": {"model": "hexley-3"}}, subarrays={"b": HUT["subarrays"]["a"] | {"inverter": "two"}})
    with pytest.raises(IncompleteDesign, match="allows 50 V; a battery of 48 V is charged at 54 V"):
        hut(inverters={"one": {"controller": "corvane-c10p"}})
    with pytest.raises(UnknownPart, match="no charge controller 'nobody'"):
        hut(inverters={"one": {"controller": "nobody"}})
    with pytest.raises(IncompleteDesign, match="bus that the charge controllers feed"):
        hut(storage={"bank": {"inverter": "one"}})


def test_strings_are_hung_on_controllers_and_back_by_a_verb():
    document = merge_patch(HUT, {"inverters": {"one": {"controller": None, "model": "hexley-3"}}})
    design = Design.read(document)
    patch, words = applied(design, "hang-strings", {"kind": "controllers", "part": "corvane-c60"})
    assert Design.read(merge_patch(document, patch)).inverters["one"].part == "corvane-c60" and "controllers" in words
    back, _ = applied(Design.read(HUT), "hang-strings", {"kind": "inverters", "part": "hexley-3"})
    assert Design.read(merge_patch(HUT, back)).inverters["one"].model == "hexley-3"
    with pytest.raises(ImpossibleAct, match="no grid"):
        applied(
            Design.read(merge_patch(document, {"storage": None})), "hang-strings", {"kind": "controllers", "part": "corvane-c60"}
        )


def test_the_window_is_the_batterys_charging_voltage():
    tracking, switching = as_unit(PARTS.controllers["corvane-c60"], 48), as_unit(PARTS.controllers["corvane-c10p"], 24)
    assert (tracking.mppt_minimum, tracking.mppt_maximum, tracking.start_voltage) == (55.0, 150, 59.0)
    assert switching.mppt_minimum == switching.mppt_maximum == 27.0


def test_a_hut_that_asks_for_nothing_has_its_worksheet_too():
    lines = {line.key: line for line in worksheet(hut(demand={"sources": {"hut": {"yearly": {"energy": 0}}}}))}
    assert lines["controller"].value == 0 and not lines["controller"].is_short
