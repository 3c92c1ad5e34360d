"""Circuits: from the finder to the Brief and back."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import energy, headline, open_project, undo_all
from tests.core.electrical.test_parts_table import row, table


@pytest.fixture
def circuits(page: Page):
    open_project(page, "Aldermoor Dairy", "circuits")
    undo_all(page)
    yield page
    undo_all(page)


def test_strings_are_found_and_written_to_the_brief(circuits: Page):
    before = energy(circuits)
    circuits.get_by_role("button", name="Find strings…").click()
    finder = circuits.get_by_role("dialog", name="Find strings")
    rows = finder.get_by_role("table", name="Ways to connect the modules").get_by_role("row")
    expect(rows.nth(3)).to_be_visible()
    finder.get_by_label("Inverter").select_option(label="Hexley 10")
    expect(rows.nth(1)).to_contain_text("2 × Hexley 10")
    finder.get_by_role("button", name=re.compile("Use Hexley 10 with 2 trackers of 16")).first.click()
    expect(finder).to_have_count(0)
    sentences = circuits.get_by_role("navigation", name="The Brief")
    expect(sentences).to_contain_text("Hexley 10")
    circuits.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(headline(circuits)).to_contain_text(before)


def test_a_number_that_does_not_go_names_the_nearest_that_do(circuits: Page):
    circuits.get_by_role("button", name="Find strings…").click()
    finder = circuits.get_by_role("dialog", name="Find strings")
    finder.get_by_label("Inverter").select_option(label="Hexley 20")
    number = finder.get_by_label("Number of modules")
    number.fill("20")
    number.press("Enter")
    expect(finder).to_contain_text("20 modules do not meet these limits.")
    expect(finder).to_contain_text("One inverter has a DC/AC ratio of 0.43")
    finder.get_by_role("button", name="47", exact=True).click()
    expect(number).to_have_value("47")
    expect(finder.get_by_role("table", name="Ways to connect the modules")).to_be_visible()
    finder.get_by_role("button", name="Close").click()


def test_a_list_of_own_parts_with_one_bad_row_is_looked_at_and_kept(circuits: Page):
    circuits.get_by_role("button", name="Module on inverter 1").click()
    picker = circuits.get_by_role("dialog", name="Choose a module")
    content = table(row(name="Own 433"), row(name="Bad", power="0.43"))
    picker.get_by_label("Parts of your own, from a list").set_input_files(
        {"name": "own.csv", "mimeType": "text/csv", "buffer": content}
    )
    faults = picker.get_by_role("list", name="Rows that cannot be read")
    expect(faults).to_contain_text("The power seems to be in kW: 0.43 kW are 430 W.")
    picker.get_by_role("button", name="Keep 1, leave the others").click()
    own = picker.get_by_role("button", name="Veltrane Own 433", exact=True)
    expect(own).to_be_visible()
    own.click()
    expect(circuits.get_by_role("navigation", name="The Brief")).to_contain_text("Veltrane Own 433")
    energy(circuits)
    undo_all(circuits)
    circuits.get_by_role("button", name="Module on inverter 1").click()
    picker.get_by_role("button", name="Delete Veltrane Own 433 from the library").click()
    expect(own).to_have_count(0)
    circuits.keyboard.press("Escape")


def test_a_module_shows_its_curves(circuits: Page):
    circuits.get_by_role("button", name="Module on inverter 1").click()
    circuits.get_by_role("button", name="Curves of Veltrane 430", exact=True).click()
    curves = circuits.get_by_role("dialog", name="Curves of Veltrane 430")
    expect(curves).to_contain_text("Maximum power against the datasheet")
    curves.get_by_role("button", name="by temperature").click()
    expect(curves.get_by_role("img", name="Current over voltage by cell temperature")).to_be_visible()
    curves.get_by_role("button", name="Close").click()
    circuits.get_by_role("dialog", name="Choose a module").get_by_role("button", name="Close").click()


def test_cables_are_set_sized_and_drawn_and_the_diagram_is_taken_away(circuits: Page):
    before = energy(circuits)
    circuits.get_by_role("link", name="Cables and protection").click()
    circuits.get_by_role("button", name="Set string cables of 25 m").click()
    section = circuits.get_by_label("Section of the string cable of Barn, south pitch, strings 1")
    expect(section.locator("option:checked")).to_have_text("4 mm²")
    circuits.get_by_role("button", name=re.compile(r"^6 mm²")).last.click()
    expect(section.locator("option:checked")).to_have_text("6 mm², set")
    circuits.get_by_label("Length of the string cable of Barn, south pitch, strings 1").fill("260")
    circuits.keyboard.press("Enter")
    expect(circuits.get_by_text("String cable of Barn, south pitch, strings 1 drops too much voltage")).to_be_visible()
    remedy = circuits.get_by_role("button", name=re.compile(r"^Use \d+ mm²$"))
    remedy.hover()
    expect(circuits.get_by_role("status").filter(has_text="a year")).to_contain_text("→")
    remedy.click()
    expect(circuits.get_by_text("String cable of Barn, south pitch, strings 1 drops too much voltage")).to_have_count(0)
    circuits.get_by_role("link", name="One-line diagram").click()
    sheet = circuits.get_by_role("img", name=re.compile("one-line diagram, sheet 1 of 1"))
    expect(sheet).to_contain_text("260 m")
    sheet.focus()
    whole = sheet.get_attribute("viewBox")
    circuits.keyboard.press("+")
    expect(sheet).not_to_have_attribute("viewBox", whole)
    with circuits.expect_download() as file:
        circuits.get_by_role("link", name="PDF", exact=True).click()
    assert file.value.suggested_filename.startswith("one-line-scheme-A") and file.value.path().read_bytes()[:5] == b"%PDF-"
    circuits.get_by_role("link", name="Bill of materials").click()
    expect(circuits.get_by_role("row", name=re.compile("PV-F 1 × "))).not_to_have_count(0)
    undo_all(circuits)
    circuits.get_by_role("link", name="Strings", exact=True).click()
    assert energy(circuits) == before


def test_a_rule_set_is_changed_and_one_of_ones_own_is_made(circuits: Page):
    circuits.get_by_role("link", name="Cables and protection").click()
    breaker = circuits.get_by_role("row", name=re.compile("AC breaker"))
    expect(breaker.first).to_contain_text("32 A")
    circuits.get_by_label("Rule set", exact=True).select_option(label="125 % rules of NFPA 70")
    expect(breaker.first).to_contain_text("40 A")
    circuits.get_by_label("Rule set", exact=True).select_option(label="rules of one's own")
    expect(breaker.first).to_contain_text("32 A")
    factor = circuits.get_by_label("AC breaker over current")
    factor.fill("1.5")
    factor.press("Enter")
    expect(breaker.first).to_contain_text("50 A")


def test_a_check_is_accepted_with_a_reason_and_reopened(circuits: Page):
    check = circuits.get_by_text("Below the full-power voltage when hot")
    expect(check).to_be_visible()
    circuits.get_by_role("button", name="Accept…").first.click()
    circuits.get_by_label("Reason for accepting the check").fill("Rare hours.")
    circuits.keyboard.press("Enter")
    circuits.get_by_text("1 accepted").click()
    expect(circuits.get_by_text("“Rare hours.”")).to_be_visible()
    circuits.get_by_role("button", name="Reopen").click()
    expect(circuits.get_by_role("button", name="Accept…")).to_be_visible()


def test_a_datasheet_is_typed_in_fitted_kept_and_used(circuits: Page):
    circuits.get_by_role("button", name="Module on inverter 1").click()
    picker = circuits.get_by_role("dialog", name="Choose a module")
    picker.get_by_role("button", name="From a datasheet…").click()
    sheet = circuits.get_by_role("dialog", name="A module from its datasheet")
    lines = "Maker: Own\nModel: Typed 445\nCells 54\nPmax 445 W\nVoc 39.6 V\nIsc 14.0 A\nVmp 33.5 V\nImp 13.28 A\nDimensions 1762 x 1134 mm\nYear 2026"
    sheet.get_by_label("Lines of the datasheet").fill(lines)
    expect(sheet.get_by_role("button", name="Keep in the library")).to_be_disabled()
    for name, value in (("Isc coefficient", "0.045"), ("Voc coefficient", "0.25"), ("Power coefficient", "-0.3")):
        sheet.get_by_label(name, exact=True).fill(value)
    expect(sheet.get_by_text("The sign of the Voc coefficient seems to be lost").first).to_be_visible()
    sheet.get_by_label("Voc coefficient", exact=True).fill("-0.25")
    expect(sheet).to_contain_text("The values agree with one another.")
    expect(sheet).to_contain_text("Maximum power against the datasheet")
    sheet.get_by_role("button", name="Keep in the library").click()
    own = picker.get_by_role("button", name="Own Typed 445", exact=True)
    own.click()
    expect(circuits.get_by_role("navigation", name="The Brief")).to_contain_text("Own Typed 445")
    undo_all(circuits)
    circuits.get_by_role("button", name="Module on inverter 1").click()
    picker.get_by_role("button", name="Delete Own Typed 445 from the library").click()
    expect(own).to_have_count(0)
    circuits.keyboard.press("Escape")


def test_parts_are_narrowed_marked_and_compared(circuits: Page):
    circuits.get_by_role("button", name="Inverter 1: Hexley 20").first.click()
    picker = circuits.get_by_role("dialog", name="Choose an inverter")
    picker.get_by_label("Kind", exact=True).select_option(label="micro")
    expect(picker.get_by_role("button", name="Hexley M 450", exact=True)).to_be_visible()
    expect(picker.get_by_role("button", name="Hexley 20", exact=True)).to_have_count(0)
    picker.get_by_role("button", name="Hexley M 450 in Favourites").click()
    for name in ("Hexley M 450", "Corvane M 800 Duo"):
        picker.get_by_role("button", name=f"Compare {name}").click()
    picker.get_by_role("button", name="Compare 2").click()
    beside = circuits.get_by_role("dialog", name="Parts side by side")
    expect(beside.get_by_role("row", name=re.compile("European"))).to_contain_text("(best)")
    beside.get_by_role("button", name="Close").click()
    picker.get_by_role("button", name="Clear").click()
    picker.get_by_label("Set of parts").select_option(label="Favourites")
    expect(picker.get_by_role("row")).to_have_count(2)
    picker.get_by_role("button", name="Hexley M 450 in Favourites").click()
    expect(picker).to_contain_text("No parts in Favourites yet.")
    picker.get_by_role("button", name="Close").click()


def test_module_level_electronics_are_tried_and_used(circuits: Page):
    before = energy(circuits)
    circuits.get_by_role("button", name="Compare with module-level electronics").click()
    options = circuits.get_by_role("list", name="Module-level electronics compared").get_by_role("listitem")
    expect(options.first).to_contain_text("a year")
    options.first.get_by_role("button", name="Use").click()
    expect(circuits.get_by_label("Optimiser at each module")).not_to_have_value("")
    circuits.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(headline(circuits)).to_contain_text(before)


def test_a_demand_becomes_modules_and_the_cheapest_way_comes_first(circuits: Page):
    circuits.get_by_role("button", name="Find strings…").click()
    finder = circuits.get_by_role("dialog", name="Find strings")
    finder.get_by_label("What is needed").select_option(label="kWh a year from")
    amount = finder.get_by_label("Amount in kWh a year")
    amount.fill("20000")
    amount.press("Enter")
    expect(finder).to_contain_text(re.compile(r"\d+ modules for 20,000 kWh a year"))
    finder.get_by_role("button", name="a kWh").click()
    costs = finder.get_by_role("table", name="Ways to connect the modules").get_by_role("row")
    expect(costs.nth(2)).to_be_visible()
    first, second = (float(costs.nth(n).get_by_role("cell").nth(9).inner_text()) for n in (1, 2))
    assert first <= second
    finder.get_by_role("button", name="Close").click()
