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
