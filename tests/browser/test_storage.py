"""A battery from the first click to the bill, and the parts library that it comes from, in a real browser."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import brief, energy, figure, findings, headline, landmark, open_project, open_sketch, undo_all


@pytest.fixture
def hut(page: Page):
    open_sketch(page, "demand")
    energy(page)
    page.get_by_role("button", name=re.compile("^Household")).first.click()
    expect(landmark(page, "Headline")).to_contain_text("Self-sufficiency")
    yield page
    undo_all(page)


def go(page: Page, bench: str) -> None:
    brief(page).get_by_role("link", name=bench, exact=True).click()
    expect(page.get_by_role("heading", name=bench, level=2)).to_be_visible()


def test_a_battery_is_added_sized_on_the_curve_and_keeps_the_lights_on(hut: Page):
    sentences = hut.get_by_role("navigation", name="The Brief")
    expect(sentences).to_contain_text("No storage")
    before = figure(hut, "Self-sufficiency").inner_text()
    go(hut, "Storage")
    hut.get_by_role("button", name="Add a battery").click()
    expect(figure(hut, "Battery, usable")).to_contain_text("10.0 kWh")
    expect(figure(hut, "Self-sufficiency")).not_to_have_text(before)
    expect(hut.get_by_role("img", name=re.compile("^average day of .* sun to use"))).to_be_visible()
    expect(hut.get_by_role("main")).to_contain_text("everything would run for")
    # With the keyboard: a little larger, and Enter takes it.
    curve = hut.get_by_role("slider", name=re.compile("^Self-sufficiency by size"))
    curve.focus()
    for _ in range(3):
        hut.keyboard.press("ArrowRight")
    hut.keyboard.press("Enter")
    expect(figure(hut, "Battery, usable")).not_to_contain_text("10.0 kWh")
    hut.get_by_role("main").get_by_role("combobox", name="Battery", exact=True).select_option(label="Pellworth B 10, 10.0 kWh")
    expect(sentences).to_contain_text("Pellworth B 10")
    expect(hut.get_by_role("main")).to_contain_text("195 Ah at 51.2 V")
    hut.get_by_role("button", name="Full cycles", exact=True).click()
    expect(hut.get_by_role("slider", name=re.compile("^Full cycles by size"))).to_be_visible()
    hut.get_by_role("button", name="and peaks first").click()
    expect(sentences).to_contain_text("First it keeps imports as low as it can in each month")
    hut.get_by_role("main").get_by_role("combobox", name="What the least is found from").select_option("yesterday")
    expect(sentences).to_contain_text("as low as yesterday would have allowed")
    hut.get_by_role("button", name="by power").click()
    powers = hut.get_by_role("slider", name=re.compile("^Full cycles by power"))
    powers.focus()
    for _ in range(3):
        hut.keyboard.press("ArrowRight")
    hut.keyboard.press("Enter")
    expect(hut.get_by_role("main")).not_to_contain_text(", 5.00 kW.")
    hut.get_by_role("button", name="by size").click()
    expect(hut.get_by_role("img", name=re.compile("Sun to Use"))).to_be_visible()
    figure(hut, "Full cycles a year").get_by_role("button").click()
    expect(hut.get_by_role("dialog", name="Working")).to_contain_text("from the battery")
    hut.keyboard.press("Escape")
    hut.get_by_role("button", name="Remove", exact=True).click()
    expect(figure(hut, "Self-sufficiency")).to_have_text(before)


def test_any_kind_of_part_is_typed_and_chosen(hut: Page):
    go(hut, "Circuits")
    hut.get_by_role("link", name="Parts library").click()
    hut.get_by_role("button", name=re.compile("^Batteries")).click()
    hut.get_by_role("button", name="Type or paste a datasheet").click()
    sheet = hut.get_by_role("dialog", name="A battery from its datasheet")
    sheet.get_by_role("textbox", name="Lines of the datasheet").fill("Usable capacity 7200 Wh\nPower 3600 W\nVoltage 48 V")
    sheet.get_by_role("textbox", name="Maker").fill("Ferrow")
    sheet.get_by_role("textbox", name="Name").fill("Seven")
    sheet.get_by_role("textbox", name="Year").fill("2026")
    expect(sheet).to_contain_text("agree with one another")
    sheet.get_by_role("button", name="Keep in the library").click()
    table = hut.get_by_role("table", name="Batteries")
    expect(table).to_contain_text("Ferrow Seven")
    go(hut, "Storage")
    hut.get_by_role("button", name="Add a battery").click()
    hut.get_by_role("main").get_by_role("combobox", name="Battery", exact=True).select_option(label="Ferrow Seven, 7.2 kWh")
    expect(hut.get_by_role("navigation", name="The Brief")).to_contain_text("Ferrow Seven")
    go(hut, "Circuits")
    hut.get_by_role("link", name="Parts library").click()
    hut.get_by_role("button", name=re.compile("^Batteries")).click()
    hut.get_by_role("button", name="Delete Ferrow Seven from the library").click()
    expect(table).not_to_contain_text("Ferrow Seven")
    # The design has its copy.
    expect(hut.get_by_role("navigation", name="The Brief")).to_contain_text("Ferrow Seven")


def test_what_rules_count_stands_beside_what_is_simulated(hut: Page):
    go(hut, "Money")
    hut.get_by_role("link", name="Purchase and costs").click()
    rows = "zone\ttilt\tfrom north\tkWh/kW\n" + "\n".join(
        f"{z}\t{t}\t{a}\t{y - t - a / 2}" for z, y in (("N", 900), ("S", 1100)) for t in (0, 45, 90) for a in (0, 90, 180)
    )
    hut.evaluate("text => navigator.clipboard.writeText(text)", rows)
    hut.get_by_role("button", name="Paste one").click()
    expect(hut.get_by_role("status").filter(has_text="zones N, S").first).to_be_visible()
    hut.get_by_role("textbox", name="Zone of the table").fill("S")
    hut.get_by_role("button", name="Take it").click()
    main = hut.get_by_role("main")
    expect(main).to_contain_text("by the table")
    fields = main.get_by_role("textbox", name="Fields of the sky that are shaded")
    before = main.get_by_role("button", name=re.compile(r"^[\d,]+ kWh$")).inner_text()
    fields.fill("10")
    fields.press("Enter")
    expect(main.get_by_role("button", name=before)).to_have_count(0)
    main.get_by_role("button", name=re.compile(r"^[\d,]+ kWh$")).click()
    expect(hut.get_by_role("dialog", name="Working")).to_contain_text("shade factor")
    hut.keyboard.press("Escape")
    expect(headline(hut)).to_be_visible()


def test_a_place_without_a_grid_shows_its_hours_and_axe_is_silent(page: Page):
    projects = page.request.get("/api/projects").json()
    project = next(one for one in projects if one["name"] == "Saltwick Hut")
    schemes = page.request.get(f"/api/projects/{project['id']}").json()["schemes"]
    page.goto(f"/projects/{project['id']}/{schemes[0]['id']}/storage")
    energy(page)
    main = page.get_by_role("main")
    expect(main.get_by_role("table", name="Worksheet")).to_contain_text("Battery")
    expect(main.get_by_role("img", name=re.compile("^Map of sizes"))).to_be_visible()
    assert findings(page) == []
    expect(main).to_contain_text("With 1 % missing")
    expect(main).to_contain_text("A kWh that is served costs")
    accepted = main.get_by_role("textbox", name="Share of the energy that may be missing")
    accepted.fill("5")
    accepted.press("Enter")
    expect(main).to_contain_text("With 5 % missing")
    days = main.get_by_role("textbox", name="Days without sun")
    before = main.get_by_role("table", name="Worksheet").inner_text()
    days.fill("1")
    days.press("Enter")
    expect(main.get_by_role("table", name="Worksheet")).not_to_have_text(before)
    expect(brief(page)).to_contain_text("There is no grid")
    summary = main.get_by_role("link", name="Summary on one page").get_attribute("href")
    assert page.request.get(summary).body().startswith(b"%PDF")
    # The map by the keyboard: some sizes up, to a third unit, and Enter takes it.
    expect(figure(page, "Battery, usable")).to_contain_text("20.0 kWh")
    sizes = main.get_by_role("group", name=re.compile("^Sizes on the map"))
    sizes.focus()
    for _ in range(6):
        sizes.press("ArrowUp")
    expect(main.get_by_role("status").filter(has_text="missing")).to_be_visible()
    sizes.press("Enter")
    expect(figure(page, "Battery, usable")).to_contain_text("30.0 kWh")
    main.get_by_role("button", name="Remove it").click()
    expect(main).to_contain_text("dark hours: ")
    undo_all(page)
    open_project(page, "Aldermoor Dairy", "storage")
    landmark(page, "Schemes").get_by_role("link").nth(1).click()
    expect(main.get_by_role("slider")).to_be_visible()
    assert findings(page) == []
