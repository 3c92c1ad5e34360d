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
    brief = circuits.get_by_role("navigation", name="The Brief")
    expect(brief).to_contain_text("Hexley 10")
    circuits.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(headline(circuits)).to_contain_text(before)


def test_a_number_that_does_not_go_names_the_nearest_that_do(circuits: Page):
    circuits.get_by_role("button", name="Find strings…").click()
    finder = circuits.get_by_role("dialog", name="Find strings")
    finder.get_by_label("Inverter").select_option(label="Hexley 20")
    number = finder.get_by_label("Number of modules")
    number.fill("20")
    number.press("Enter")
    expect(finder).to_contain_text("20 modules do not go with these wishes.")
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
    section = circuits.get_by_label("Section of /subarrays/south-1/cable")
    expect(section.locator("option:checked")).to_have_text("4 mm²")
    circuits.get_by_role("button", name=re.compile(r"^1.5 mm²|^2.5 mm²|^6 mm²: .* loses")).last.click()
    expect(section.locator("option:checked")).to_have_text("6 mm², set")
    circuits.get_by_label("Length of /subarrays/south-1/cable").fill("260")
    circuits.keyboard.press("Enter")
    expect(circuits.get_by_text("String cable of south-1 drops too much voltage")).to_be_visible()
    remedy = circuits.get_by_role("button", name=re.compile(r"^Use \d+ mm²$"))
    remedy.hover()
    expect(circuits.get_by_role("status").filter(has_text="a year")).to_contain_text("→")
    remedy.click()
    expect(circuits.get_by_text("String cable of south-1 drops too much voltage")).to_have_count(0)
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
