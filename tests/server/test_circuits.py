"""Cables, protection, diagram, bill and previews through HTTP; files are opened again with the packages that read them."""

import csv
import io
from xml.etree import ElementTree

import ezdxf
import openpyxl
import pypdf
import pytest

from noontide.server.projects.revising import revise

WIRED = {
    "subarrays": {"south": {"cable": {"length": 28}}},
    "inverters": {"main": {"cable": {"length": 20}}},
    "connection": {"cable": {"length": 40, "laying": "buried"}, "resistance": 0.1},
}


@pytest.fixture
def wired(scheme):
    revise(scheme, WIRED, based_on=1)
    scheme.refresh_from_db()
    return scheme


@pytest.fixture
def at(wired):
    return f"/api/schemes/{wired.pk}"


def test_every_cable_has_a_section_a_loss_and_a_cost(api, at):
    found = api.get(f"{at}/wiring").json()
    assert [run["kind"] for run in found["runs"]] == ["string", "AC", "AC main"]
    for run in found["runs"]:
        assert run["is_proposed"] and run["drop"] <= run["drop_limit"] and run["current"] <= run["ampacity"]
        costs = {line["section"]: line["total"] for line in run["sections"]}
        assert run["economic"] == min(costs, key=costs.get) and run["section"] in costs
    assert {line["title"] for line in found["protection"]} >= {"String fuses", "DC switch", "AC breaker", "Voltage rise"}
    assert 0 < found["dc_loss"] < 0.02


def test_the_rule_set_changes_what_is_chosen_and_is_named(api, wired, at):
    before = api.get(f"{at}/wiring").json()
    api.send("patch", at, {"wiring": {"rules": "nec"}}, wired.head.number)
    after = api.get(f"{at}/wiring").json()
    assert before["rules"] == "IEC" and after["rules"] == "125 % rules of NFPA 70"
    assert after["runs"][0]["current"] == pytest.approx(before["runs"][0]["current"] * 1.25)
    assert after["runs"][1]["asks"] == "breaker of 40 A" != before["runs"][1]["asks"]


def test_the_diagram_is_a_drawing_in_three_formats(api, at):
    svg = ElementTree.fromstring(api.get(f"{at}/diagram?kind=svg").content)
    words = " ".join(text.text or "" for text in svg.iter("{http://www.w3.org/2000/svg}text"))
    assert "2 strings of 18 Veltrane 430" in words and "Hexley 20" in words and "4 mm² Cu, 28 m" in words
    pdf = pypdf.PdfReader(io.BytesIO(api.get(f"{at}/diagram?kind=pdf&paper=a3").content))
    assert [round(float(side) / 72 * 25.4) for side in pdf.pages[0].mediabox[2:]] == [420, 297]
    assert "Hexley 20" in pdf.pages[0].extract_text()
    dxf = ezdxf.read(io.StringIO(api.get(f"{at}/diagram?kind=dxf").content.decode()))
    assert not dxf.audit().errors
    assert "Hexley 20" in {text.dxf.text for text in dxf.modelspace().query("TEXT")}


@pytest.mark.parametrize("query", ["kind=gif", "paper=a5", "kind=svg&sheet=2", "kind=svg&sheet=x"])
def test_a_diagram_that_is_not_there_is_refused_in_words(api, at, query):
    answer = api.get(f"{at}/diagram?{query}")
    assert answer.status_code == 422 and answer.json()["detail"]


def test_the_bill_counts_everything_and_its_files_say_the_same(api, at):
    bill = api.get(f"{at}/bill").json()
    counts = {line["name"]: line["count"] for line in bill["lines"]}
    assert counts["430"] == 36 and counts["20"] == 1 and counts["PV-F 1 × 4 mm²"] == 2 * 28 * 2
    assert bill["price"] == pytest.approx(sum(line["price"] or 0 for line in bill["lines"]))
    rows = list(csv.reader(io.StringIO(api.get(f"{at}/bill?kind=csv").content.decode())))
    sheet = openpyxl.load_workbook(io.BytesIO(api.get(f"{at}/bill?kind=xlsx").content), data_only=True).active
    assert len(rows) == sheet.max_row == len(bill["lines"]) + 2
    assert float(rows[-1][8]) == pytest.approx(bill["price"], abs=0.01) == pytest.approx(sheet.cell(len(rows), 9).value, abs=0.01)


def test_an_export_never_starts_a_cell_with_a_formula(api, wired, at):
    api.send("patch", at, {"surfaces": {"barn": {"name": "=HYPERLINK(1)"}}}, wired.head.number)
    assert "'=HYPERLINK(1)" in api.get(f"{at}/bill?kind=csv").content.decode()
    sheet = openpyxl.load_workbook(io.BytesIO(api.get(f"{at}/bill?kind=xlsx").content)).active
    assert sheet.cell(2, 4).value == "'=HYPERLINK(1)" and sheet.cell(2, 4).data_type == "s"


def test_a_remedy_says_what_it_would_do_and_does_just_that(api, wired, at):
    scheme = api.send("patch", at, {"subarrays": {"south": {"modules_per_string": 25}}}, wired.head.number).json()
    check = next(c for c in scheme["evaluation"]["checks"] if c["rule"] == "cold-open-circuit")
    remedy = check["remedies"][0]
    asked = {"patch": remedy["patch"], "rule": check["rule"], "pointer": check["pointer"]}
    shown = api.send("post", f"{at}/preview", asked).json()
    assert shown["actual_before"] == check["actual"] > check["limit"] >= shown["actual"]
    assert check["title"] in shown["solved"]
    assert api.get(at).json()["revision"] == scheme["revision"]
    done = api.send("patch", at, remedy["patch"], scheme["revision"]).json()
    assert done["evaluation"]["headline"]["energy"] == pytest.approx(shown["energy"], rel=1e-12)


def test_a_preview_of_nonsense_is_refused(api, at):
    answer = api.send("post", f"{at}/preview", {"patch": {"surfaces": {"barn": {"tilt": 1e9}}}})
    assert answer.status_code == 422 and answer.json()["errors"][0]["pointer"] == "/surfaces/barn/tilt"


def test_an_accepted_check_counts_no_more_until_it_gets_worse(api, wired, at):
    scheme = api.send("patch", at, {"subarrays": {"south": {"modules_per_string": 16, "strings": 3}}}, wired.head.number).json()
    check = next(c for c in scheme["evaluation"]["checks"] if c["rule"] == "full-power-voltage")
    entry = {check["key"]: {"reason": "Rare hours.", "title": check["title"], "actual": check["actual"]}}
    scheme = api.send("patch", at, {"accepted": entry}, scheme["revision"]).json()
    shown = next(c for c in scheme["evaluation"]["checks"] if c["key"] == check["key"])
    assert shown["accepted"] == "Rare hours."
    circuits = next(b for b in scheme["evaluation"]["benches"] if b["name"] == "circuits")
    assert circuits["cautions"] + circuits["errors"] == sum(
        not c["accepted"] and c["bench"] == "circuits" for c in scheme["evaluation"]["checks"]
    )
    worse = api.send("patch", at, {"subarrays": {"south": {"modules_per_string": 15}}}, scheme["revision"]).json()
    assert next(c for c in worse["evaluation"]["checks"] if c["key"] == check["key"])["accepted"] == ""


def test_the_sheet_of_strings_says_every_limit(api, at):
    pdf = pypdf.PdfReader(io.BytesIO(api.get(f"{at}/string-sheet").content))
    text = pdf.pages[0].extract_text()
    assert len(pdf.pages) == 1 and "2 strings of 18 Veltrane 430 on a tracker of Hexley 20" in text
    assert "1.25 × Isc on the tracker" in text and "does not hold" not in text


def test_a_string_that_is_too_long_stands_in_the_sheet_as_such(api, wired, at):
    api.send("patch", at, {"subarrays": {"south": {"modules_per_string": 25}}}, wired.head.number)
    text = pypdf.PdfReader(io.BytesIO(api.get(f"{at}/string-sheet").content)).pages[0].extract_text()
    assert "does not hold" in text and "String too long" in text
