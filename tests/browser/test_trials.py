"""Trials in a real browser: values let loose in the Brief, run, read in every picture, adopted; and with the keyboard alone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import brief, figure, findings, landmark, open_project, open_sketch, undo_all
from tests.browser.sketch import csrf

RUNS = 60_000  # ms that a study of a few dozen designs may take, with the first processes


@pytest.fixture
def dairy(page: Page):
    """The dairy's scheme that has the battery study."""
    open_project(page, "Aldermoor Dairy", "trials")
    project = page.url.split("/projects/")[1].split("/")[0]
    schemes = page.request.get(f"/api/projects/{project}").json()["schemes"]
    page.goto(re.sub(r"/\d+/trials.*", f"/{schemes[1]['id']}/trials", page.url))
    return page


def open_sketch_without_sets(page: Page):
    """The sketch's bench, with nothing loose: other tests leave sets behind."""
    open_sketch(page, "trials")
    scheme = page.url.split("/projects/")[1].split("/")[1]
    for line in page.request.get(f"/api/schemes/{scheme}/trials").json():
        gone = page.request.delete(f"/api/trials/{line['id']}", headers=csrf(page))
        assert gone.ok, gone.text()
    page.goto(page.url.split("?")[0])
    expect(landmark(page, "Trials")).to_contain_text("Nothing is loose yet")


def loosen(page: Page, name: str):
    brief(page).get_by_role("button", name=re.compile(f"^Let loose: {name}")).first.click()


def test_values_are_let_loose_run_looked_at_and_adopted(page: Page):
    open_sketch_without_sets(page)
    bench = landmark(page, "Trials")
    loosen(page, "Tilt")
    expect(bench.get_by_role("button", name="Run 7 designs")).to_be_visible(timeout=30_000)
    loosen(page, "Azimuth")
    step = bench.get_by_role("textbox", name="Azimuth: step")
    step.fill("45")
    step.press("Enter")
    run = bench.get_by_role("button", name=re.compile(r"^Run \d+ designs"))
    expect(run).to_be_enabled(timeout=30_000)
    bench.get_by_role("button", name=re.compile("looked for")).click()
    expect(bench).to_contain_text("Looked for", timeout=30_000)
    run.click()
    expect(bench).to_contain_text("The best is", timeout=RUNS)
    expect(bench).to_contain_text(re.compile(r"14 designs in"), timeout=RUNS)
    table = bench.get_by_role("table", name="Runs")
    expect(table.get_by_role("row").nth(1)).to_be_visible()
    bench.get_by_role("button", name="Map", exact=True).click()
    expect(bench.get_by_role("img", name=re.compile("over Tilt and Azimuth"))).to_be_visible()
    bench.get_by_role("button", name="Effects", exact=True).click()
    expect(bench.get_by_role("img", name=re.compile("over Azimuth"))).to_be_visible()
    bench.get_by_role("button", name="Table", exact=True).click()
    # With the keyboard: the first run of the table becomes a scheme.
    rows = bench.get_by_role("group", name="Runs; arrow keys select one")
    expect(table.get_by_role("row").nth(2)).to_be_visible()
    rows.press("ArrowDown")
    adopt = bench.get_by_role("button", name="Adopt as a scheme")
    expect(adopt).to_be_visible()
    adopt.click()
    expect(page.get_by_text(re.compile(r"^Run \d+ is scheme [A-Z]"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Open [A-Z]")).click()
    expect(page).to_have_url(re.compile("/surfaces"))


def test_the_study_that_ships_is_read_filtered_and_out_of_date_after_an_edit(dairy: Page):
    bench = landmark(dairy, "Trials")
    expect(bench).to_contain_text("60 designs in", timeout=30_000)
    expect(bench).to_contain_text(re.compile(r"Of \d+ different designs that keep the limits"))
    expect(bench.get_by_role("table", name="Runs")).to_contain_text("Net present value")
    expect(bench).to_contain_text("48 of 60")
    bench.get_by_role("checkbox", name="only those that keep every limit").uncheck()
    expect(bench).to_contain_text("60 of 60")
    bench.get_by_role("combobox", name="Column of the filter").select_option("battery")
    low = bench.get_by_role("textbox", name="Filter from")
    low.fill("50")
    low.press("Enter")
    expect(bench).to_contain_text("20 of 60")
    assert findings(dairy) == []
    bench.get_by_role("button", name="Front", exact=True).click()
    expect(bench).to_contain_text(re.compile(r"\d+ of 60 runs are on the front"))
    soiling = brief(dairy).get_by_role("textbox", name=re.compile("Soiling", re.IGNORECASE)).first
    soiling.fill("6")
    soiling.press("Enter")
    expect(bench).to_contain_text("Out of date: losses changed since", timeout=30_000)
    undo_all(dairy)
    expect(bench).not_to_contain_text("Out of date", timeout=30_000)


def test_an_array_is_designed_to_a_target_and_taken_back(page: Page):
    open_sketch(page, "trials")
    landmark(page, "Trials").get_by_role("button", name="Design to a target…").click()
    sheet = page.get_by_role("dialog", name="Design to a target")
    sheet.get_by_role("combobox", name="Target").select_option("modules")
    amount = sheet.get_by_role("textbox", name="Amount in modules")
    amount.fill("9")
    amount.press("Tab")
    sheet.get_by_role("button", name="Design it").click()
    expect(page.get_by_text(re.compile("^9 modules, "))).to_be_visible(timeout=RUNS)
    expect(figure(page, "DC power")).to_contain_text("3.69")
    undo_all(page)


def test_values_follow_one_another_and_inverters_the_ratio(page: Page):
    open_sketch_without_sets(page)
    bench = landmark(page, "Trials")
    loosen(page, "Tilt")
    bench.get_by_role("button", name="let the DC/AC ratio loose: inverters follow it").click()
    expect(bench).to_contain_text("find strings (DC/AC ratio)", timeout=30_000)
    bench.get_by_role("combobox", name="Let another value follow a loose one").select_option("/losses/soiling")
    times = bench.get_by_role("textbox", name="Soiling: times")
    expect(times).to_be_visible(timeout=30_000)
    times.fill("0.1")
    times.press("Enter")
    expect(bench.get_by_role("button", name="Run 49 designs")).to_be_visible(timeout=30_000)
    assert findings(page) == []
    # Another one leads, and it stands in the proportion of both; then it follows nothing, and the ratio is held again.
    bench.get_by_role("combobox", name="What Soiling follows").select_option(label="DC/AC ratio")
    expect(times).to_have_value("1")
    bench.get_by_role("button", name="Let Soiling follow nothing").click()
    expect(times).to_have_count(0)
    bench.get_by_role("button", name="Hold DC/AC ratio again").click()
    expect(bench.get_by_role("button", name="Run 7 designs")).to_be_visible(timeout=30_000)
    expect(bench).not_to_contain_text("find strings (")
