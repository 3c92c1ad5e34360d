"""Whole journeys in a real browser. Things are found as a person finds them: by role and by name."""

import re

import pytest
from playwright.sync_api import expect

from noontide.core.weather import as_text
from tests.browser.conftest import brief, energy, findings, headline, landmark, open_as_a_person_does, open_project, undo_all


def drop(page, name: str, content: str) -> None:
    """Let a file fall on the window."""
    transfer = page.evaluate_handle(
        "([name, text]) => { const t = new DataTransfer(); t.items.add(new File([text], name, { type: 'text/plain' })); return t }",
        [name, content],
    )
    for event in ("dragenter", "dragover", "drop"):
        page.dispatch_event("body", event, {"dataTransfer": transfer})


def test_a_quick_estimate_becomes_a_project(page):
    page.goto("/")
    estimate = landmark(page, "Quick estimate")
    place = estimate.get_by_role("combobox", name="Place")
    place.fill("43°37'12\"N 11°18'36\"E")
    expect(page.get_by_role("listbox", name="Places found").get_by_role("option").first).to_contain_text("43.62° N, 11.31° E")
    place.press("Enter")
    estimate.get_by_role("button", name="a number of modules").click()
    amount = estimate.get_by_role("textbox", name="Amount: modules")
    amount.fill("24")
    expect(estimate).to_contain_text("24 modules")
    shown = estimate.locator(".result").inner_text()
    estimate.get_by_role("button", name="Go on from here").click()
    expect(headline(page)).to_be_visible()
    assert energy(page).split() == shown.split()
    expect(brief(page)).to_contain_text("24 modules")


def test_an_estimate_out_of_reach_says_why(page):
    page.goto("/")
    estimate = landmark(page, "Quick estimate")
    estimate.get_by_role("button", name="an area").click()
    estimate.get_by_role("textbox", name="Amount: m²").fill("1")
    expect(estimate.get_by_role("alert")).to_contain_text("One module needs")
    expect(estimate.get_by_role("button", name="Go on from here")).to_be_disabled()


def test_a_dropped_weather_file_changes_the_year_and_undo_brings_it_back(page, hill_weather):
    open_project(page, "Weir Cottage", "weather")
    before = energy(page)
    drop(page, "hill.epw", as_text(hill_weather, "epw"))
    expect(page.get_by_role("main", name="Weather")).to_contain_text("Hours ending 1 to 24 were taken")
    expect(landmark(page, "Headline")).to_contain_text("Weather data is for another location")
    assert energy(page) != before
    page.get_by_role("button", name="Undo", exact=True).first.click()
    expect(headline(page)).to_contain_text(before)


def test_a_wrong_file_is_told_with_its_line_and_changes_nothing(page, hill_weather):
    open_project(page, "Weir Cottage", "weather")
    before = energy(page)
    lines = as_text(hill_weather, "epw").splitlines()
    fields = lines[99].split(",")
    fields[6] = "warm"
    lines[99] = ",".join(fields)
    drop(page, "broken.epw", "\n".join(lines))
    told = page.get_by_role("alertdialog", name="The file cannot be read")
    expect(told).to_contain_text("line 100, column temperature")
    expect(told).to_contain_text("Nothing was changed")
    told.get_by_role("button", name="Close").click()
    assert energy(page) == before


def test_a_handle_is_dragged_and_the_headline_follows(page):
    open_project(page, "Aldermoor Dairy")
    before = energy(page)
    handle = page.get_by_role("slider", name=re.compile("Barn, south pitch"))
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 20, steps=4)
    page.mouse.move(x - 5, y + 45, steps=6)
    page.mouse.up()
    expect(headline(page)).not_to_contain_text(before)
    expect(brief(page).get_by_role("textbox", name="Tilt of Barn, south pitch")).not_to_have_value("18")
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_a_tilt_out_of_range_is_refused_and_kept(page):
    open_project(page, "Aldermoor Dairy")
    tilt = page.get_by_role("textbox", name="Tilt of Barn, south pitch")
    tilt.fill("95")
    tilt.press("Enter")
    expect(tilt).to_have_accessible_description(re.compile("Enter a value between 0 and 90."))
    expect(tilt).to_have_value("95")
    tilt.press("Escape")
    expect(tilt).to_have_value("18")


def test_arrow_keys_step_a_value_and_escape_takes_it_all_back(page):
    open_project(page, "Aldermoor Dairy")
    before = energy(page)
    tilt = page.get_by_role("textbox", name="Tilt of Barn, south pitch")
    tilt.focus()
    for _ in range(3):
        tilt.press("ArrowUp")
    expect(tilt).to_have_value("21")
    expect(headline(page)).not_to_contain_text(before)
    tilt.press("Escape")
    expect(tilt).to_have_value("18")
    expect(headline(page)).to_contain_text(before)


def test_an_override_keeps_its_default_beside_it_and_can_be_put_back(page):
    open_project(page, "Aldermoor Dairy", "losses")
    soiling = page.get_by_role("textbox", name="Soiling")
    soiling.fill("5")
    soiling.press("Enter")
    soiling.focus()
    expect(soiling).to_have_accessible_description(re.compile("Default 2 %"))
    page.get_by_role("button", name="Reset to default").click()
    expect(soiling).to_have_value("2")


def test_fork_edit_compare_pin_and_delete(page):
    open_project(page, "Saltwick Hut", "losses")
    page.get_by_role("button", name="Fork this scheme", exact=True).click()
    tab = landmark(page, "Schemes")
    expect(tab.get_by_role("link", name=re.compile("^C "))).to_have_attribute("aria-current", "page")
    soiling = page.get_by_role("textbox", name="Soiling")
    soiling.fill("9")
    soiling.press("Enter")
    panel = landmark(page, "Headline")
    expect(panel).to_contain_text(re.compile("−.* against A"))
    page.get_by_role("button", name=re.compile("^This scheme")).click()
    page.get_by_role("menuitem", name=re.compile("^Pin")).click()
    expect(panel).to_contain_text("Baseline")
    tab.get_by_role("link", name=re.compile("^A ")).click()
    expect(panel).to_contain_text(re.compile(r"\+.* against C"))
    page.get_by_role("button", name=re.compile("^This scheme")).click()
    page.get_by_role("menuitem", name=re.compile("^Pin")).click()
    expect(panel).to_contain_text("Baseline")
    tab.get_by_role("link", name=re.compile("^C ")).click()
    page.get_by_role("button", name=re.compile("^This scheme")).click()
    page.get_by_role("menuitem", name="Delete this scheme").click()
    expect(tab.get_by_role("link")).to_have_count(2)


def test_a_remedy_mends_its_check(page):
    open_project(page, "Weir Cottage", "circuits")
    length = brief(page).get_by_role("textbox", name="Modules per string of South-east hip")
    length.fill("20")
    length.press("Enter")
    panel = landmark(page, "Headline")
    expect(panel).to_contain_text("String too long")
    panel.get_by_role("button", name=re.compile("^Use .* modules per string")).first.click()
    expect(panel).not_to_contain_text("String too long")
    undo_all(page)
    expect(length).to_have_value("9")


def test_a_module_is_found_in_the_library_and_chosen(page):
    open_project(page, "Weir Cottage", "circuits")
    before = energy(page)
    brief(page).get_by_role("button", name=re.compile("Module on inverter 1")).click()
    library = page.get_by_role("dialog", name="Choose a module")
    library.get_by_role("searchbox").fill("quillon 2022")
    expect(library.get_by_role("row")).to_have_count(2)
    library.get_by_role("button", name="Quillon 410 H54", exact=True).click()
    expect(headline(page)).not_to_contain_text(before)
    page.keyboard.press("Control+z")
    expect(headline(page)).to_contain_text(before)


def test_a_loss_shows_its_working_and_its_months_turn_the_tideline(page):
    open_project(page, "Aldermoor Dairy", "losses")
    page.get_by_role("button", name="Soiling: show its working").click()
    panel = page.get_by_role("dialog", name="Working")
    expect(panel.locator("math").first).to_be_visible()
    expect(panel).to_contain_text("Fraction of plane irradiance")
    page.keyboard.press("Escape")
    expect(panel).to_be_hidden()
    page.get_by_role("button", name="Show Cell temperature in the Tideline").click()
    expect(page.get_by_role("combobox", name="Quantity of the Tideline")).to_have_value("loss_temperature")


def test_a_moment_has_an_address_and_survives_a_reload(page):
    open_project(page, "Aldermoor Dairy")
    page.get_by_role("link", name="Plot hourly values").click()
    expect(page.get_by_role("main", name="Hours")).to_be_visible()
    tideline = page.get_by_role("slider", name="Moment of the year")
    tideline.focus()
    tideline.press("Home")
    for _ in range(12):
        tideline.press("ArrowUp")
    tideline.press("ArrowRight")
    expect(tideline).to_have_attribute("aria-valuenow", str(24 + 12))
    tideline.press("Enter")
    expect(page.get_by_role("dialog", name=re.compile("All values"))).to_contain_text("Plane-of-array irradiance")
    page.reload()
    expect(page.get_by_role("slider", name="Moment of the year")).to_have_attribute("aria-valuenow", "36")
    expect(page.get_by_role("main", name="Hours")).to_be_visible()


def test_moving_the_site_asks_what_to_do_with_the_weather(page):
    open_project(page, "Weir Cottage", "site")
    before = energy(page)
    old_weather = "Simulated climate, Weir Cottage"
    expect(brief(page)).to_contain_text(old_weather)
    search = page.get_by_role("combobox", name="Place or coordinates")
    search.fill("-43.18, 170.46")
    expect(page.get_by_role("listbox", name="Places found").get_by_role("option").first).to_be_visible(timeout=60_000)
    search.press("Enter")
    asked = page.get_by_role("alertdialog", name="Weather data for another location")
    expect(asked).to_contain_text("km from the new site")
    asked.get_by_role("button", name="Get weather for the new site").click()
    # The year is on its way for a while, and the one of the old place has a title that begins alike.
    expect(brief(page)).not_to_contain_text(old_weather, timeout=60_000)
    expect(landmark(page, "Headline")).not_to_contain_text("Weather data is for another location")
    assert energy(page) != before
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_everything_is_reached_with_the_keyboard_alone(page):
    page.goto("/")
    expect(page.get_by_role("link", name="Open Aldermoor Dairy")).to_be_visible()
    for _ in range(60):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.getAttribute('aria-label')") == "Open Aldermoor Dairy":
            break
    page.keyboard.press("Enter")
    expect(headline(page)).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("losses")
    page.keyboard.press("Enter")
    expect(page.get_by_role("main", name="Losses")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("performance ratio")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog", name="Working")).to_contain_text("Performance ratio")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog", name="Working")).to_be_hidden()


def test_the_server_goes_and_comes_back_and_no_edit_is_lost(page, application):
    open_project(page, "Weir Cottage", "losses")
    before = energy(page)
    soiling = page.get_by_role("textbox", name="Soiling")
    application.stop()
    try:
        soiling.fill("7")
        soiling.press("Enter")
        expect(page.get_by_role("banner")).to_contain_text("Offline: edits are saved on this computer")
        expect(landmark(page, "Headline")).to_contain_text("out of date")
        expect(soiling).to_have_value("7")
        mismatch = page.get_by_role("textbox", name="Mismatch")
        mismatch.fill("2")
        mismatch.press("Enter")
    finally:
        application.start()
    expect(page.get_by_role("banner")).not_to_contain_text("Server away", timeout=15_000)
    expect(headline(page)).not_to_contain_text(before)
    expect(soiling).to_have_value("7")
    expect(mismatch).to_have_value("2")
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_two_windows_edit_one_scheme_and_both_edits_stay(page, browser, application):
    open_project(page, "Saltwick Hut", "losses")
    other = page.context.new_page()
    other.goto(page.url)
    theirs = other.get_by_role("textbox", name="Mismatch")
    theirs.fill("3")
    theirs.press("Enter")
    expect(other.get_by_role("banner").get_by_role("button", name="Undo")).to_be_enabled()
    mine = page.get_by_role("textbox", name="Soiling")
    mine.fill("6")
    mine.press("Enter")
    expect(page.get_by_role("textbox", name="Mismatch")).to_have_value("3")
    expect(mine).to_have_value("6")


@pytest.mark.parametrize(
    "bench",
    ["site", "weather", "sky", "surfaces", "scene", "circuits", "demand", "storage", "losses", "hours", "money", "report"],
)
def test_axe_finds_nothing_on_any_bench(page, bench):
    open_project(page, "Aldermoor Dairy", bench)
    energy(page)
    assert findings(page) == []


def test_at_two_hundred_per_cent_every_bench_fits_the_page_and_axe_is_silent(page):
    page.set_viewport_size({"width": 640, "height": 400})
    open_project(page, "Aldermoor Dairy", "site")
    start = page.url.rsplit("/", 1)[0]
    for bench in (
        "site",
        "weather",
        "sky",
        "surfaces",
        "scene",
        "circuits",
        "demand",
        "storage",
        "losses",
        "hours",
        "money",
        "report",
    ):
        page.goto(f"{start}/{bench}")
        energy(page)
        assert page.evaluate("document.documentElement.scrollWidth") <= 640, bench
        if bench in ("site", "circuits", "demand", "losses", "money"):
            assert findings(page) == [], bench


def test_on_paper_stands_the_bench_under_a_line_that_says_what_it_is_of(page):
    open_as_a_person_does(page, "Aldermoor Dairy", "Losses")
    energy(page)
    # On the screen columns scroll by themselves; the page as a whole is as high as the window.
    assert page.evaluate("document.documentElement.scrollHeight <= window.innerHeight")
    page.emulate_media(media="print")
    line = page.locator("p.printed")
    expect(line).to_be_visible()
    expect(line).to_have_text(re.compile(r"Aldermoor Dairy, scheme A .*, revision\s+\d+, \d+ \w+ 20\d\d"))
    expect(brief(page)).to_be_hidden()
    expect(page.get_by_role("contentinfo", name="Tideline")).to_be_hidden()
    assert page.evaluate("document.querySelector('#bench').scrollHeight <= document.querySelector('#bench').clientHeight + 1")


def test_axe_finds_nothing_on_the_first_page(page):
    page.goto("/")
    expect(page.get_by_role("link", name="Open Aldermoor Dairy")).to_be_visible()
    expect(page.get_by_role("button", name="Go on from here")).to_be_enabled()
    assert findings(page) == []


def test_axe_finds_nothing_where_months_and_the_map_are_open(page):
    open_project(page, "Saltwick Hut", "site")
    page.get_by_role("button", name="At the site").click()
    page.get_by_role("button", name="Albedo by month").click()
    expect(page.get_by_role("group", name="Albedo by month")).to_be_visible()
    energy(page)
    assert findings(page) == []
    brief(page).get_by_role("link", name="Losses", exact=True).click()
    page.get_by_role("button", name="Soiling: show its working").click()
    page.get_by_role("dialog", name="Working").get_by_role("button", name="Soiling by month").click()
    expect(page.get_by_role("group", name="Soiling by month")).to_be_visible()
    energy(page)
    assert findings(page) == []
    undo_all(page)


def test_axe_finds_nothing_in_any_dialog_or_page_of_a_bench(page):
    open_project(page, "Aldermoor Dairy", "circuits")
    energy(page)
    start = page.url.split("?")[0].rsplit("/", 1)[0]
    for name in ("Cables and protection", "One-line diagram", "Bill of materials", "Parts library"):
        page.get_by_role("navigation", name="Pages of the bench").get_by_role("link", name=name).click()
        page.wait_for_load_state("networkidle")
        assert findings(page) == [], name
    for path, dialog in (
        ("circuits?act=find-strings", "Find strings"),
        ("site?act=place-codes", "Codes of your own"),
        ("weather?act=twelve-numbers", "A year from twelve numbers"),
    ):
        page.goto(f"{start}/{path}")
        page.get_by_role("dialog", name=dialog).wait_for()
        page.wait_for_load_state("networkidle")
        assert findings(page) == [], dialog
    for path in ("money?page=costs", "money?page=years", "demand?thing=dairy", "demand?thing=house"):
        page.goto(f"{start}/{path}")
        energy(page)
        page.wait_for_load_state("networkidle")
        assert findings(page) == [], path
    page.goto(f"{start}/losses")
    energy(page)
    page.keyboard.press("Control+k")
    page.get_by_role("dialog", name="Find anything").wait_for()
    page.wait_for_timeout(400)
    assert findings(page) == []


def test_a_scheme_stands_under_its_own_project_whatever_the_address_says(page):
    open_project(page, "Aldermoor Dairy", "losses")
    energy(page)
    project, scheme = page.url.split("/projects/")[1].split("/")[:2]
    page.goto(f"/projects/{int(project) - 1}/{scheme}/losses")
    energy(page)
    expect(page).to_have_url(re.compile(f"/projects/{project}/{scheme}/losses"))
    expect(page.get_by_role("button", name="Aldermoor Dairy")).to_be_visible()


def test_a_dropped_file_goes_where_its_content_belongs_or_is_named(page):
    open_project(page, "Weir Cottage", "losses")
    energy(page)

    def drop(name, text):
        handle = page.evaluate_handle(
            "([name, text]) => { const d = new DataTransfer(); d.items.add(new File([text], name)); return d }", [name, text]
        )
        page.dispatch_event("body", "drop", {"dataTransfer": handle})

    drop(
        "house.csv",
        "v 0 0 0\nv 8 0 0\nv 8 6 0\nv 0 6 0\nv 0 0 5\nv 8 0 5\nv 8 6 5\nv 0 6 5\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n",
    )
    expect(page.get_by_role("heading", name="Scene", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Discard the rest")).to_be_visible()
    drop("list.txt", "maker,name,power,voc,isc,vmp,imp\nVeltrane,X,430,38,14,32,13.4\n")
    expect(page.get_by_text("Another list…")).to_be_visible()
    assert "page=parts" in page.url
    drop("notes.csv", "%PDF-1.7 something")
    expect(page.get_by_role("alertdialog", name="The file cannot be read")).to_contain_text("This is a PDF document")


def test_a_place_that_is_none_is_said_and_nothing_old_is_its_answer(page):
    page.goto("/")
    go_on = page.get_by_role("button", name="Go on from here")
    expect(go_on).to_be_enabled()
    place = page.get_by_role("combobox", name="Place")
    place.fill("8010")
    place.press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("No place '8010' is known")
    expect(go_on).to_be_disabled()
    place.fill("Springfield")
    expect(page.get_by_role("listbox", name="Places found")).to_contain_text("Several places may be meant")
    place.press("Enter")
    expect(go_on).to_be_disabled()
    place.press("ArrowDown")
    place.press("Enter")
    expect(go_on).to_be_enabled()
    place.fill("12 Mill Lane, Graz")
    expect(page.get_by_role("option", name=re.compile("Graz, Styria"))).to_be_visible()


def test_a_number_is_read_as_the_screen_writes_it(page):
    page.goto("/")
    expect(page.get_by_role("button", name="Go on from here")).to_be_enabled()
    page.get_by_role("button", name="a yearly demand").click()
    amount = page.get_by_role("textbox", name=re.compile("^Amount"))
    amount.fill("1,412")
    expect(page.get_by_text("Read as 1,412: the comma marks thousands.")).to_be_visible()
    amount.press("Tab")
    kept = "JSON.parse(localStorage.getItem('noontide-estimate')).amount"
    for _ in range(100):
        if page.evaluate(kept) == 1412:
            break
        page.wait_for_timeout(100)
    assert page.evaluate(kept) == 1412
