"""The protection list by hand, and the one-line diagram of plants of any size."""

import io

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.cells import as_xlsx, quoted
from noontide.core.checks import find_checks
from noontide.core.checks.protection import WantedDevice, protection_of
from noontide.core.costs.bill import bill_as_csv, bill_of, device_for
from noontide.core.design import Design, merge_patch
from noontide.core.drawing import Polyline, Text, as_dxf, as_pdf, as_svg
from noontide.core.drawing.typeface import registered
from noontide.core.drawings.circuit_rows import fold
from noontide.core.drawings.one_line import one_line
from noontide.core.money.terms import Money
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)


def results_of(**changes):
    return simulate(Design.read(merge_patch(SOUTH_ROOF, changes)), WEATHER, PARTS)


def items_of(**changes):
    return {item.key: item for item in protection_of(results_of(**changes))}


def test_three_strings_of_fourteen_amperes_by_hand():
    """Isc 13.98 A: fuses of 1.5 x 13.98 = 21.0 to 25 A (the module's), six of them; a switch over 1.25 x 3 x 13.98 = 52.4 A."""
    items = items_of(subarrays={"south": {"strings": 3}})
    fuse, switch = items["string-fuse:main:1"], items["dc-switch:main:1"]
    assert (fuse.chosen, fuse.count, fuse.state) == ("gPV 25 A, 1,000 V", 6, "fine")
    assert switch.limit == pytest.approx(1.25 * 3 * 13.98) and switch.device.current == 63


def test_a_breaker_lies_between_the_current_and_the_cable():
    """20 kW at 400 V is 28.9 A: 32 A; a cable of 1.5 mm2 in conduit (20 A) leaves no room for any."""
    thin = {"inverters": {"main": {"cable": {"length": 5, "section": 1.5}}}}
    assert items_of()["ac-breaker:main"].chosen == "32 A, 4 poles"
    assert items_of(**thin)["ac-breaker:main"].state == "error"
    rules = {check.rule: check for check in find_checks(results_of(**thin))}
    assert rules["ac-breaker"].severity == rules["cable-ampacity"].severity == "error"
    assert rules["cable-ampacity"].remedies[0].patch == {"inverters": {"main": {"cable": {"section": 4}}}}


def test_the_residual_current_device_follows_separation_and_declaration():
    models = {"hexley-20": "type A", "corvane-15t": "type B", "corvane-4x": "type A"}
    for model, kind in models.items():
        assert items_of(inverters={"main": {"model": model}})["residual-current:main"].chosen.startswith(kind), model


def test_the_voltage_rises_by_p_r_over_u_squared_and_reactive_power_lowers_it():
    grid = {"resistance": 0.2, "reactance": 0.3}
    rise = items_of(connection=grid)["voltage-rise"]
    assert rise.actual == pytest.approx(20_000 * 0.2 / 400**2 * 100)
    drawn = items_of(connection=grid | {"power_factor": 0.9})["voltage-rise"]
    reactive = 18_000 * (1 / 0.81 - 1) ** 0.5
    assert drawn.actual == pytest.approx((18_000 * 0.2 - reactive * 0.3) / 400**2 * 100)


def test_bonded_lightning_protection_takes_type_one_and_a_thicker_bond():
    items = items_of(connection={"lightning_protection": "bonded"})
    assert items["dc-surge:main"].device.type == items["ac-surge"].device.type == "1+2"
    assert items["bonding:main"].chosen == "16 mm² copper"


def test_a_fuse_must_fit_and_other_devices_may_be_larger():
    devices = PARTS.devices.values()
    assert device_for(WantedDevice("fuse", 25, 1000, 1), devices, Money()).current == 25
    assert device_for(WantedDevice("fuse", 26, 1000, 1), devices, Money()) is None
    assert device_for(WantedDevice("DC switch", 52, 1000, 2), devices, Money()).current == 63
    assert device_for(WantedDevice("residual-current device", 32, 400, 4, "B"), devices, Money()).type == "B"


def plant_of(count, alike, model="hexley-20"):
    """So many inverter sets, identical or each of another string length."""
    strings = {
        f"s{i}": {"surface": "barn", "module": "veltrane-430", "modules_per_string": 16 if alike else 12 + i % 11, "strings": 1 + (0 if alike else i // 11), "inverter": f"i{i}"}
        for i in range(count)
    }  # fmt: skip
    bare = {k: v for k, v in SOUTH_ROOF.items() if k not in ("inverters", "subarrays")}
    return simulate(
        Design.read(bare | {"inverters": {f"i{i}": {"model": model} for i in range(count)}, "subarrays": strings}),
        WEATHER,
        PARTS,
    )


def test_forty_identical_inverters_stand_in_one_row():
    results = plant_of(40, alike=True)
    assert [count for _, count in fold(results)] == [40]
    sheets = one_line(results, "a4", "Forty")
    assert len(sheets) == 1 and any(isinstance(m, Text) and m.text == "40 × Hexley 20" for m in sheets[0].marks)


@settings(max_examples=12, deadline=None)
@given(count=st.integers(1, 40), alike=st.booleans(), paper=st.sampled_from(["a4", "a3"]))
def test_a_diagram_stays_on_its_paper_and_can_be_read(count, alike, paper):
    sheets = one_line(plant_of(count, alike), paper, "Any", "Revision 1")
    for sheet in sheets:
        for mark in sheet.marks:
            if isinstance(mark, Polyline):
                assert all(0 <= x <= sheet.width and 0 <= y <= sheet.height for x, y in mark.points)
            elif isinstance(mark, Text):
                assert 0 <= mark.x <= sheet.width and 0 <= mark.y <= sheet.height
                assert mark.size >= 1.6  # mm; capitals of 1.2 mm can be read on paper
    assert len(as_pdf(sheets)) > 1000 and as_svg(sheets[0]).startswith("<svg") and "LWPOLYLINE" in as_dxf(sheets)
    shown = sum(row.text.endswith("Hexley 20") for sheet in sheets for row in sheet.marks if isinstance(row, Text))
    assert shown == len(fold(plant_of(count, alike)))


def test_the_bill_of_a_design_without_cables_has_none_and_still_sums_up():
    bill = bill_of(results_of(), PARTS)
    assert {line.kind for line in bill.lines} == {"modules", "inverters", "protection", "metering"}
    assert bill.mass > 36 * 21 and bill_as_csv(bill).count("\n") == len(bill.lines) + 2


def test_what_the_library_lacks_stands_in_the_bill_without_a_price():
    bill = bill_of(results_of(subarrays={"south": {"cable": {"length": 10, "section": 120}}}), PARTS)
    (missing,) = (line for line in bill.lines if line.price is None)
    assert (missing.name, missing.count, missing.note) == ("copper 120 mm²", 40, "none in the library")
    assert bill.without_price == 1


def test_a_price_in_another_currency_counts_by_its_rate_and_never_without_one():
    dollars = {
        "parts": {
            "modules": {"veltrane-430": PARTS.modules["veltrane-430"].model_dump(mode="json") | {"price": 100, "currency": "USD"}}
        }
    }
    without, by_rate = (
        bill_of(results_of(**dollars), PARTS),
        bill_of(results_of(money={"exchange": {"USD": 0.8}}, **dollars), PARTS),
    )
    (unknown,), (known,) = ([line for line in bill.lines if line.kind == "modules"] for bill in (without, by_rate))
    assert (unknown.price, without.without_price, without.foreign) == (None, 1, ("USD",))
    assert "100 USD" in unknown.note and "no exchange rate" in unknown.note
    assert known.price == pytest.approx(80 * known.count)
    assert by_rate.price == pytest.approx(without.price + 80 * known.count)
    # Everything in pounds: the shipped prices, in euros, count by their rate alone.
    pounds = {"currency": "GBP", "exchange": {"EUR": 0.85}}
    assert bill_of(results_of(money=pounds), PARTS).price == pytest.approx(0.85 * bill_of(results_of(), PARTS).price)
    assert bill_of(results_of(money={"currency": "GBP"}), PARTS).price == 0


def test_strings_that_meet_before_the_main_cable_take_a_combiner_box():
    joined = {"subarrays": {"south": {"main_cable": {"length": 20}}}}
    box = items_of(**joined)["combiner:south"]
    assert box.device.current == pytest.approx(1.25 * 13.98 * 2)
    results = results_of(**joined)
    assert any(line.name == "Combiner box, 4 strings" for line in bill_of(results, PARTS).lines)
    texts = {mark.text for mark in one_line(results)[0].marks if isinstance(mark, Text)}
    assert "combiner" in texts


@pytest.mark.parametrize(("count", "meter"), [(1, "Energy meter, one phase"), (3, "Energy meter, three phases")])
def test_single_phase_inverters_on_three_phases_take_a_meter_of_three(count, meter):
    lines = bill_of(plant_of(count, alike=True, model="hexley-5"), PARTS).lines
    assert [line.name for line in lines if line.kind == "metering"] == [meter]


@pytest.mark.parametrize("text", ["Zażółć gęślą jaźń", "Příliš žluťoučký kůň", "árvíztűrő tükörfúrógép", "Iğdır Şişli", "Київ, Щолково, Београд", "≤ ≥ → √ ± ° Ω µ ² − × △"])  # fmt: skip
def test_letters_and_signs_of_every_designer_are_in_the_typeface_on_paper(text):
    from reportlab.pdfbase.pdfmetrics import getFont

    for name in registered():
        assert {ch for ch in text if ch != " "} <= {chr(code) for code in getFont(name).face.charToGlyph}


def test_a_name_that_no_file_may_hold_leaves_the_files_whole():
    import xml.etree.ElementTree as ElementTree

    name = "Barn \ufffe\uffff\x07 <b> & \U0001f600 e\u0301"
    sheets = one_line(results_of(), "a4", name)
    assert ElementTree.fromstring(as_svg(sheets[0])) is not None
    assert as_pdf(sheets)
    openpyxl.load_workbook(io.BytesIO(as_xlsx([["surface", name], ["a", 1]], "Bill")))


@pytest.mark.parametrize(
    ("cell", "written"),
    [("=HYPERLINK(1)", "'=HYPERLINK(1)"), ("@x", "'@x"), ("-8.1", "-8.1"), ("+3e-2", "+3e-2"), ("-8.1+cmd", "'-8.1+cmd"), (-8.1, -8.1), ("\t=1", "'\t=1")],
)  # fmt: skip
def test_a_formula_is_quoted_and_a_number_is_not(cell, written):
    assert quoted(cell) == written


def test_a_bill_names_each_use_once_and_folds_many():
    """Names of surfaces hold commas; six strings of one surface are one use, eight inverters are two and how many more."""
    document = {
        "site": {"latitude": 43.62, "longitude": 11.31},
        "surfaces": {"s": {"name": "Barn, south pitch"}},
        "inverters": {f"i{k}": {"model": "hexley-8"} for k in range(8)},
        "subarrays": {
            f"s{k}": {"surface": "s", "module": "veltrane-430", "modules_per_string": 14, "inverter": f"i{k}"} for k in range(8)
        },
    }
    results = simulate(Design.read(document), simulated_weather(43.62, 11.31), PARTS)
    uses = {line.kind: line.use for line in bill_of(results, PARTS).lines if line.kind in ("modules", "inverters")}
    assert uses == {"modules": "Barn, south pitch", "inverters": "Inverter 1; Inverter 2 and 6 more"}
