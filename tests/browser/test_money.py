"""Demand and Money in a real browser: a newcomer's household, a meter's file, a painted week, a payback."""

import re

import pytest
from playwright.sync_api import Page, expect

from noontide.standins.meter import dairy_file
from tests.browser.conftest import brief, figure, landmark, open_project, open_sketch, undo_all


@pytest.fixture
def hut(page: Page):
    """A project that has no demand and no money yet."""
    open_sketch(page, "demand")
    yield page
    undo_all(page)


def go(page: Page, bench: str):
    brief(page).get_by_role("link", name=bench, exact=True).click()


def test_a_household_is_begun_from_a_template_and_its_hours_typed(hut: Page):
    expect(brief(hut)).to_contain_text("No demand")
    hut.get_by_role("button", name=re.compile("^Household")).click()
    expect(figure(hut, "Self-sufficiency")).to_contain_text("%")
    demand = figure(hut, "Demand").locator("dd").first
    before = demand.inner_text()
    expect(hut.get_by_role("img", name=re.compile("^Average working day of"))).to_be_visible()
    hours = hut.get_by_role("textbox", name=re.compile("^Hours of Freezer"))
    hours.fill("6-12")
    hours.press("Enter")
    expect(demand).not_to_have_text(before)
    expect(hut.get_by_role("img", name="Freezer: 6-12")).to_be_visible()
    hours.fill("25-26")
    hours.press("Enter")
    expect(hut.get_by_role("status").filter(has_text="outside the day").first).to_be_visible()


def test_the_end_of_a_bar_is_dragged_and_rows_are_pasted_and_copied(hut: Page):
    hut.get_by_role("button", name=re.compile("^Shop")).click()
    bar = hut.get_by_role("img", name="Till and computer: 8-19")
    bar.scroll_into_view_if_needed()
    box = bar.bounding_box()
    hut.mouse.move(box["x"] + box["width"] * 19 / 24, box["y"] + 10)
    hut.mouse.down()
    hut.mouse.move(box["x"] + box["width"] * 21 / 24, box["y"] + 10, steps=5)
    hut.mouse.up()
    expect(hut.get_by_role("img", name="Till and computer: 8-21")).to_be_visible()
    hut.evaluate("navigator.clipboard.writeText('Name\\tPower [W]\\tHours\\nFan\\t60\\t9-17')")
    hut.get_by_role("button", name="Paste rows of a spreadsheet").click()
    expect(hut.get_by_role("img", name="Fan: 9-17")).to_be_visible()
    hut.get_by_role("button", name="Copy as cells").first.click()
    expect(hut.get_by_text("Copied 6 appliances")).to_be_visible()
    assert "Fan\t1\t1\t60" in hut.evaluate("navigator.clipboard.readText()")


def test_the_file_of_a_meter_is_shown_changed_and_used(hut: Page):
    field = hut.get_by_label("File of interval data")
    field.set_input_files({"name": "meter.csv", "mimeType": "text/csv", "buffer": dairy_file()})
    sheet = hut.get_by_role("dialog", name="How the interval data are understood")
    expect(sheet).to_contain_text("every 15 min", timeout=30_000)
    sheet.get_by_role("combobox", name="What Energy (kWh) is").select_option("power")
    expect(sheet).to_contain_text(re.compile(r"28\.\d MWh"), timeout=30_000)  # kW of the same numbers are a quarter
    sheet.get_by_role("combobox", name="What Energy (kWh) is").select_option("energy")
    expect(sheet).to_contain_text(re.compile(r"114(\.\d)? MWh"), timeout=30_000)
    sheet.get_by_role("button", name="Use it as a source").click()
    expect(brief(hut)).to_contain_text("measured: meter")
    hut.get_by_role("button", name="Scale the energy").click()
    energy = hut.get_by_role("main").get_by_role("textbox", name="Energy a year")
    energy.fill("9000")
    energy.press("Enter")
    expect(figure(hut, "Demand")).to_contain_text("9,000 kWh")


def test_what_is_no_file_of_a_meter_is_refused_and_nothing_is_lost(hut: Page):
    field = hut.get_by_label("File of interval data")
    field.set_input_files({"name": "letter.txt", "mimeType": "text/plain", "buffer": b"Dear all,\nnothing here.\n"})
    sheet = hut.get_by_role("dialog", name="How the interval data are understood")
    expect(sheet).to_contain_text("no table was found")
    hut.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    expect(brief(hut)).to_contain_text("No demand")


def test_a_tariff_is_chosen_its_week_painted_and_the_plant_pays_back(hut: Page):
    hut.get_by_role("button", name=re.compile("^Household")).click()
    expect(figure(hut, "Demand")).to_be_visible()
    go(hut, "Money")
    hut.get_by_role("combobox", name="Tariff", exact=True).select_option(label="Cottage day and night")
    expect(hut.get_by_role("main")).to_contain_text("The bill falls from")
    saving = figure(hut, "Saving of the first year").locator("dd").first
    before = saving.inner_text()
    hut.get_by_role("button", name="Paint with winter evening").click()
    week = hut.get_by_role("img", name=re.compile("^Prices of a week, winter"))
    box = week.bounding_box()
    hut.mouse.move(box["x"] + 35, box["y"] + 60)
    hut.mouse.down()
    hut.mouse.move(box["x"] + 150, box["y"] + 100, steps=4)
    hut.mouse.up()
    expect(saving).not_to_have_text(before)
    hut.get_by_role("link", name="Purchase and costs").click()
    hut.get_by_role("button", name="Add an item").click()
    expect(figure(hut, "Payback")).to_contain_text("years")
    hut.get_by_role("link", name="Over the years").click()
    expect(hut.get_by_role("img", name=re.compile("paid back after"))).to_be_visible()
    hut.get_by_role("main").get_by_role("button", name="Net present value: show its working").click()
    working = hut.get_by_role("dialog", name="Working")
    expect(working).to_contain_text("Short, Packey and Holt")
    working.get_by_role("button", name="Close").click()
    expect(brief(hut)).to_contain_text("Buys at Cottage day and night")


def test_prices_by_hour_are_pasted_and_what_is_no_table_stays_to_be_mended(hut: Page):
    hut.get_by_role("button", name=re.compile("^Household")).click()
    expect(figure(hut, "Demand")).to_be_visible()
    go(hut, "Money")
    hut.get_by_role("combobox", name="Tariff", exact=True).select_option(label="Cottage day and night")
    saving = figure(hut, "Saving of the first year").locator("dd").first
    expect(saving).to_be_visible()
    before = saving.inner_text()
    hut.get_by_role("button", name="Prices by hour…").click()
    cells = hut.get_by_role("textbox", name="Prices by hour")
    rows = [f"{hour}:00\t{0.2 + 0.01 * hour:.2f}" for hour in range(24)]
    cells.fill("\n".join(rows[:-1]))
    hut.get_by_role("button", name="Take these prices").click()
    expect(hut.get_by_role("status").filter(has_text="There are 23 prices").first).to_be_visible()
    expect(cells).to_have_value(re.compile("22:00"))
    cells.fill("\n".join(rows))
    hut.get_by_role("button", name="Take these prices").click()
    expect(hut.get_by_role("main")).to_contain_text("Prices by hour from a table: 0.200 to 0.430 EUR")
    expect(saving).not_to_have_text(before)
    hut.get_by_role("button", name="Standing charge").click()
    expect(hut.get_by_role("textbox", name="Standing charge").last).to_be_visible()


def test_one_price_is_divided_into_tiers(hut: Page):
    hut.get_by_role("button", name=re.compile("^Household")).click()
    expect(figure(hut, "Demand")).to_be_visible()
    go(hut, "Money")
    hut.get_by_role("combobox", name="Tariff", exact=True).select_option(label="Cottage flat")
    saving = figure(hut, "Saving of the first year").locator("dd").first
    hut.get_by_role("button", name="Tiers by month").click()
    price = hut.get_by_role("textbox", name="Price of tier 2")
    expect(price).to_be_visible()
    before = saving.inner_text()
    price.fill("0,95")
    price.press("Enter")
    expect(saving).not_to_have_text(before)
    hut.get_by_role("button", name="Add a tier").click()
    expect(hut.get_by_role("textbox", name="Price of tier 3")).to_have_value("0.95")
    end = hut.get_by_role("textbox", name="End of tier 2")
    end.fill("1")
    end.press("Enter")
    expect(hut.get_by_role("status").filter(has_text="must rise").first).to_be_visible()
    expect(end).not_to_have_value("1")
    hut.get_by_role("button", name="Delete tier 2").click()
    expect(hut.get_by_role("textbox", name="Price of tier 3")).to_have_count(0)


def test_a_tariff_can_be_dropped_anywhere(hut: Page):
    text = '{"format": "noontide-tariff/1", "name": "Dropped", "energy": {"price": 0.4}}'
    hut.evaluate(
        """(text) => {
          const transfer = new DataTransfer()
          transfer.items.add(new File([text], 'tariff.json', { type: 'application/json' }))
          window.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true }))
        }""",
        text,
    )
    expect(hut.get_by_role("main", name="Money")).to_contain_text("Dropped")
    expect(brief(hut)).to_contain_text("Buys at Dropped")


def test_a_car_by_the_sun_moves_the_headline(page: Page):
    open_project(page, "Weir Cottage", "demand")
    page.get_by_role("main").get_by_role("button", name=re.compile("^Car")).click()
    own = figure(page, "Self-consumption").locator("dd").first
    before = float(own.inner_text().split("\u202f")[0])
    page.get_by_role("combobox", name="Charged").select_option("by the sun")
    expect(own).not_to_have_text(f"{before}\u202f%")
    assert float(own.inner_text().split("\u202f")[0]) > before
    page.get_by_role("combobox", name="Quantity of the Tideline").select_option(label="Demand: Car")
    expect(page.get_by_role("slider", name="Moment of the year")).to_have_attribute("aria-valuetext", re.compile("Car"))
    undo_all(page)


def test_the_quick_estimate_says_what_it_is_worth(page: Page):
    page.goto("/")
    page.get_by_role("button", name=re.compile("^What is it worth")).click()
    estimate = landmark(page, "Quick estimate")
    expect(estimate).to_contain_text("Payback")
    page.get_by_role("button", name="a share of the bill").click()
    amount = page.get_by_role("textbox", name="Amount: % of the bill")
    amount.fill("40")
    expect(estimate).to_contain_text("Size limited by 40 % of the bill")
    page.get_by_role("button", name="By month").click()
    expect(estimate.get_by_role("row", name=re.compile("^Saved"))).to_be_visible()
    met = estimate.locator("div", has=page.get_by_text("Self-sufficiency", exact=True)).last.get_by_role("definition")
    before = met.inner_text()
    page.get_by_role("button", name="Put it in").click()
    expect(estimate).to_contain_text(re.compile(r"With 1 × Pellworth B \d+, \d+ kWh"))
    expect(met).not_to_have_text(before)
    page.get_by_role("button", name="Leave it out").click()
    expect(estimate).not_to_contain_text("Payback")
    expect(estimate).not_to_contain_text("Pellworth B")
