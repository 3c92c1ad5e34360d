"""Circuits: from the finder to the Brief and back."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import energy, headline, open_project, undo_all


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
