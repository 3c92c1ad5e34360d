"""Lists of parts in and out: what is written comes back, nonsense is refused with its place, slips are named."""

import csv
import io

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.electrical.part_slips import likely_slip
from noontide.core.electrical.parts_table import FORMULA, MOST_ROWS, read_parts, write_parts
from noontide.parts import built_in_parts

MODULES = built_in_parts().modules
GOOD = {
    "maker": "Veltrane", "name": "Own 430", "year": "2026", "cells_in_series": "54", "power": "430", "isc": "13.99", "voc": "38.9", "imp": "13.19",
    "vmp": "32.6", "isc_coefficient": "0.045", "voc_coefficient": "-0.25", "power_coefficient": "-0.29", "length": "1.762", "width": "1.134",
}  # fmt: skip


def table(*rows, divider=","):
    return "\n".join(divider.join(row) for row in (GOOD, *[r.values() for r in rows])).encode()


def row(**changes):
    return GOOD | changes


def test_the_library_comes_back_from_its_list():
    for kind, parts in (("modules", MODULES), ("inverters", built_in_parts().inverters)):
        plain = {key: part.model_copy(update={"incidence": None} if kind == "modules" else {}) for key, part in parts.items()}
        if kind == "inverters":
            # Curves have no place in a list; those that are known by two efficiencies go in and out.
            plain = {key: part for key, part in parts.items() if not part.efficiency}
        found = read_parts(write_parts(plain.values(), kind).encode(), kind)
        assert found.faults == ()
        assert found.parts == plain


def test_headings_of_a_spreadsheet_are_understood_in_other_words_and_with_units():
    text = "Manufacturer;Model;Year;Cells;Pmax [W];Isc (A);Open circuit voltage;Impp;Vmpp;alpha;beta;gamma;Length [m];Width [m];Colour\n"
    text += "Veltrane;Own 430;2026;54;430;13,99;38,9;13,19;32,6;0,045;-0,25;-0,29;1,762;1,134;black\n"
    found = read_parts(text.encode("cp1252"), "modules")
    assert found.faults == () and found.unused == ("Colour",)
    part = found.parts["veltrane-own-430"]
    assert (part.voc, part.voc_coefficient, part.imp) == (38.9, -0.25, 13.19)


def test_a_heading_can_be_mapped_by_hand():
    content = table(row()).replace(b"isc,", b"short,", 1)
    assert read_parts(content, "modules").faults[0].reason == "The value is missing."
    assert read_parts(content, "modules", {"short": "isc"}).faults == ()
    with pytest.raises(ValueError, match="no field shorts"):
        read_parts(content, "modules", {"short": "shorts"})
    with pytest.raises(ValueError, match="both mean isc"):
        read_parts(table(row()), "modules", {"voc": "isc"})


def test_one_bad_row_is_named_and_the_others_are_read():
    found = read_parts(table(row(), row(name="Bad", voc="many"), row(name="Good too")), "modules")
    assert list(found.parts) == ["veltrane-own-430", "veltrane-good-too"]
    (fault,) = found.faults
    assert (fault.row, fault.column) == (3, "voc")
    assert fault.reason == "A number was expected; it is 'many'."


@pytest.mark.parametrize(
    ("cell", "words"),
    [
        ("nan", "A number of some size"),
        ("inf", "A number of some size"),
        ("1e99", "A number of some size"),
        ("-5", "greater than 0"),
        ("=B2*2", "formula"),
        ("x" * 400, "400 characters"),
        ("", "missing"),
    ],
)
def test_nonsense_in_a_cell_is_refused_with_its_place(cell, words):
    found = read_parts(table(row(power=cell)), "modules")
    assert not found.parts
    assert (found.faults[0].row, found.faults[0].column) == (2, "power")
    assert words in found.faults[0].reason


@pytest.mark.parametrize(
    ("content", "words"),
    [
        pytest.param(b"", "empty", id="empty"),
        pytest.param(b"\0\1\2", "no table of text", id="binary"),
        pytest.param(b"PK\x03\x04broken", "workbook cannot be opened", id="broken-workbook"),
        pytest.param(b"colour,shape\nred,round\n", "No heading is known", id="another-table"),
        pytest.param(table(*[row(id="")] * 1), "", id="fine"),
    ],
)
def test_files_that_are_no_lists_are_refused_in_words(content, words):
    if not words:
        assert read_parts(content, "modules")
        return
    with pytest.raises(ValueError, match=words):
        read_parts(content, "modules")


def test_endless_lists_are_refused():
    with pytest.raises(ValueError, match="more than 5,000 rows"):
        read_parts(table(*[row(name=f"N{i}") for i in range(MOST_ROWS + 2)]), "modules")


def test_the_same_part_twice_is_said():
    found = read_parts(table(row(), row()), "modules")
    assert len(found.parts) == 1 and "stands in an earlier row" in found.faults[0].reason


def test_a_workbook_is_read_and_its_formulas_are_not():
    book = openpyxl.Workbook()
    book.active.append(list(GOOD))
    book.active.append([float(v) if k not in ("maker", "name") else v for k, v in GOOD.items()])
    book.active.append([v if k != "power" else "=1+1" for k, v in GOOD.items()])
    out = io.BytesIO()
    book.save(out)
    found = read_parts(out.getvalue(), "modules")
    assert found.parts["veltrane-own-430"].isc == 13.99
    assert found.faults[0].row == 3 and "formula" in found.faults[0].reason


@given(st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Zl", "Zp", "Cs"]), min_size=1, max_size=20))
def test_no_exported_cell_begins_a_formula_and_its_text_comes_back(name):
    part = MODULES["veltrane-430"].model_copy(update={"name": name, "incidence": None})
    text = write_parts([part], "modules")
    cell = next(iter(csv.reader(io.StringIO(text.split("\n", 1)[1]))))[2]
    assert not cell.startswith(FORMULA)
    found = read_parts(text.encode(), "modules")
    if name == name.strip() and name and not name.startswith(("'", "=")):
        assert found.parts["veltrane-430"].name == name


@pytest.mark.parametrize(
    ("kind", "changes", "words"),
    [
        ("modules", {"power": 0.43}, "in kW"),
        ("modules", {"voc_coefficient": 0.25}, "sign of the Voc coefficient"),
        ("modules", {"voc_coefficient": -0.0973}, "in V/K: −0.250"),
        ("modules", {"power_coefficient": -1.247}, "in W/K"),
        ("modules", {"isc_coefficient": 6.3}, "in mA/K: 0.045"),
        ("modules", {"isc": 13.19, "imp": 13.99}, "Isc and Imp seem to be swapped"),
        ("modules", {"voc": 32.6, "vmp": 38.9}, "Voc and Vmp seem to be swapped"),
        ("modules", {"length": 1762}, "in mm: 1.762 m"),
        ("modules", {"power": 544}, "Isc × Voc"),
        ("inverters", {"ac_power": 10, "mppt_maximum": 850, "maximum_tracker_current": 20}, "in kW: 10 kW"),
        ("inverters", {"ac_power": 10_000, "maximum_dc_power": 15}, "DC power seems to be in kW"),
        ("inverters", {"peak_efficiency": 0.975}, "97.5 %"),
    ],
)
def test_the_likely_slip_is_named(kind, changes, words):
    values = {key: float(v) for key, v in GOOD.items() if key not in ("maker", "name")} if kind == "modules" else {}
    assert words in likely_slip(values | changes, kind)


def test_a_sound_datasheet_has_no_slip():
    for module in MODULES.values():
        assert likely_slip(module.model_dump(), "modules") == "", module.name
    for inverter in built_in_parts().inverters.values():
        assert likely_slip(inverter.model_dump(), "inverters") == "", inverter.name


def test_a_row_that_can_be_read_and_looks_wrong_is_doubted():
    found = read_parts(table(row(), row(name="Long", length="1762"), row(name="Odd", voc_coefficient="-0.0973")), "modules")
    assert len(found.parts) == 3 and found.faults == ()
    assert [d.row for d in found.doubts] == [3, 4]
    assert "in mm" in found.doubts[0].reason and "in V/K" in found.doubts[1].reason


@pytest.mark.parametrize("heading", ["length mm", "length [mm]", "Length (mm)", "length"])
def test_a_length_is_read_in_the_unit_of_its_heading_and_a_list_needs_no_year(heading):
    value, width = ("1722", "1134") if "mm" in heading else ("1.722", "1.134")
    headings = f"maker;name;power Wp;voc;isc;vmp;imp;cells;technology;{heading};{heading.replace('ength', 'idth').replace('l', 'w', 1).replace('L', 'W')}"
    text = f"{headings};isc_coefficient;voc_coefficient;power_coefficient\nVeltrane;Shed 1;430;38,9;14,0;32,3;13,4;108;mono;{value};{width};0,046;-0,25;-0,3\n"
    found = read_parts(text.encode(), "modules")
    assert not found.faults and not found.unused
    (part,) = found.parts.values()
    assert (part.length, part.width, part.power) == (1.722, 1.134, 430)
    assert 2024 < part.year < 2100
