"""What each bench lets a person do, one thing at a time, and every change taken back at the end."""

import re

import pytest
from playwright.sync_api import expect

from noontide.core.weather import as_text
from tests.browser.conftest import brief, energy, headline, landmark, open_project, open_sketch, undo_all


def test_a_surface_is_added_racked_renamed_and_taken_out(page):
    open_project(page, "Weir Cottage")
    bench = page.get_by_role("main", name="Surfaces")
    bench.get_by_role("button", name="+ add").click()
    name = bench.get_by_role("textbox", name="Name of the surface")
    expect(name).to_have_value("New surface")
    name.fill("Lean-to")
    name.press("Enter")
    sentences = brief(page)
    expect(sentences).to_contain_text("Lean-to")
    expect(sentences).to_contain_text("has no modules yet")
    bench.get_by_role("button", name="Arrange in rows…").click()
    expect(bench.get_by_role("textbox", name="Row pitch")).to_be_visible()
    expect(sentences.get_by_role("textbox", name="Row pitch of Lean-to")).to_be_visible()
    bench.get_by_role("button", name="Delete surface").click()
    expect(sentences).not_to_contain_text("Lean-to")
    undo_all(page)
    expect(sentences).not_to_contain_text("Lean-to")


def test_a_surface_learns_to_turn_and_the_day_of_its_plane_is_drawn(page):
    open_project(page, "Aldermoor Dairy")
    before = energy(page)
    bench, sentences = page.get_by_role("main", name="Surfaces"), brief(page)
    bench.get_by_label("How the surface moves").select_option("turns about one axis")
    expect(sentences).to_contain_text("turning about a north-south axis up to ±")
    expect(bench).to_contain_text("above the best fixed")
    expect(bench.locator("path", has=page.locator("title", has_text="How the plane turns over the day"))).to_have_count(1)
    expect(headline(page)).not_to_contain_text(before)
    bench.get_by_role("button", name="Arrange in rows…").click()
    expect(sentences).to_contain_text("backtracking")
    bench.get_by_label("How the surface moves").select_option("tilted by hand by season")
    expect(sentences).to_contain_text("from 1 April")
    bench.get_by_role("button", name="+ another change").click()
    expect(bench.get_by_role("textbox", name=re.compile("^Tilt from"))).to_have_count(3)
    bench.get_by_label("How the surface moves").select_option("fixed")
    expect(bench.get_by_role("textbox", name="Tilt", exact=True)).to_be_visible()
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_the_best_facing_is_one_click_away(page):
    open_project(page, "Weir Cottage")
    before = energy(page)
    bench = page.get_by_role("main", name="Surfaces")
    bench.get_by_role("button", name="Use this orientation", exact=True).click()
    expect(bench).to_contain_text(re.compile("[±0].0\u202f%\\s+of the best"))
    assert energy(page) != before
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


@pytest.mark.parametrize("season", ["summer", "winter"])
def test_the_disc_turns_to_a_season(page, season):
    open_project(page, "Aldermoor Dairy")
    bench = page.get_by_role("main", name="Surfaces")
    year = bench.locator(".legend").inner_text()
    bench.get_by_role("button", name=season).click()
    expect(bench.locator(".legend")).to_contain_text(f"in the {season} half")
    assert bench.locator(".legend").inner_text() != year


def test_strings_are_added_moved_and_taken_out(page):
    open_project(page, "Aldermoor Dairy", "circuits")
    bench = page.get_by_role("main", name="Circuits")
    expect(bench).to_contain_text("Total: 4 strings, 64 modules")
    bench.get_by_role("button", name="+ add parallel strings on tracker 2").click()
    expect(bench).to_contain_text("Total: 5 strings, 80 modules")
    expect(landmark(page, "Headline")).to_contain_text("Short-circuit current too high on tracker 2")
    bench.get_by_role("button", name=re.compile("Delete .*strings 3")).click()
    expect(bench).to_contain_text("Total: 4 strings, 64 modules")
    undo_all(page)
    expect(bench).to_contain_text("Total: 4 strings, 64 modules")


def test_a_row_of_voltages_is_picked_with_the_keyboard(page):
    open_project(page, "Weir Cottage", "circuits")
    row = page.get_by_role("button", name=re.compile("^10 modules: fits"))
    row.focus()
    row.press("Enter")
    expect(brief(page).get_by_role("textbox", name="Modules per string of South-east hip")).to_have_value("10")
    undo_all(page)


def test_a_set_of_two_inverters_counts_twice_in_all_and_once_each(page):
    open_sketch(page, "circuits")
    bench = page.get_by_role("main", name="Circuits")
    count = bench.get_by_role("textbox", name="Number of inverters 1")
    count.fill("2")
    count.press("Enter")
    expect(bench).to_contain_text("Total: 4 strings, 24 modules")
    expect(bench).to_contain_text("each: 12 modules")
    undo_all(page)


def test_a_time_zone_that_does_not_exist_is_refused(page):
    open_project(page, "Saltwick Hut", "site")
    zone = page.get_by_role("combobox", name="Time zone")
    kept = zone.input_value()
    zone.fill("Moon/Bay of Rainbows")
    zone.blur()
    expect(page.get_by_role("alert")).to_contain_text("There is no time zone 'Moon/Bay of Rainbows'")
    zone.fill(kept)
    zone.blur()


def test_a_range_of_the_tideline_sums_its_days_and_draws_them(page):
    open_project(page, "Aldermoor Dairy")
    tideline = page.get_by_role("slider", name="Moment of the year")
    box = tideline.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.30, box["y"] + 50)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.40, box["y"] + 50, steps=5)
    page.mouse.up()
    foot = page.get_by_role("contentinfo", name="Tideline")
    expect(foot).to_contain_text(re.compile(r"3[5-9] days"))
    page.get_by_role("link", name="Plot hourly values").click()
    expect(page.get_by_role("main", name="Hours")).to_contain_text("the Tideline's range")
    foot.get_by_role("button", name="Whole year").click()
    expect(foot).to_contain_text("Sun ")


def test_hours_are_copied_as_cells_and_saved_as_csv(page):
    open_project(page, "Aldermoor Dairy")
    page.get_by_role("link", name="Plot hourly values").click()
    bench = page.get_by_role("main", name="Hours")
    bench.get_by_role("combobox", name="Add a quantity").select_option("cell_temperature")
    expect(bench).to_contain_text("Cell temperature")
    bench.get_by_role("button", name="Copy cells").click()
    expect(page.get_by_role("status").filter(has_text="copied as cells")).to_be_visible()
    rows = page.evaluate("navigator.clipboard.readText()").splitlines()
    assert len(rows) == 25, "a heading and the hours of the day"
    assert rows[0].split("\t")[1] == "AC power delivered [kW]"
    with page.expect_download() as download:
        bench.get_by_role("link", name="Whole year as CSV").click()
    lines = download.value.path().read_text().splitlines()
    assert len(lines) == 8761
    assert "cell_temperature [°C]" in lines[0]


def test_the_account_is_copied_with_its_months(page):
    open_project(page, "Aldermoor Dairy", "losses")
    page.get_by_role("button", name="Copy as cells").click()
    expect(page.get_by_role("status").filter(has_text="copied")).to_be_visible()
    cells = [row.split("\t") for row in page.evaluate("navigator.clipboard.readText()").splitlines()]
    assert len(cells[0]) == 15
    for line in cells[1:]:
        assert sum(map(float, line[3:])) == pytest.approx(float(line[1]), abs=1e-6), line[0]


def test_a_project_is_deleted_and_brought_back(page):
    page.goto("/")
    page.get_by_role("link", name="Open Saltwick Hut").hover()
    page.get_by_role("button", name="Delete Saltwick Hut").click()
    expect(page.get_by_role("link", name="Open Saltwick Hut")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Open Saltwick Hut")).to_be_visible()


def test_a_project_and_a_scheme_are_renamed_where_they_stand(page):
    open_project(page, "Weir Cottage")
    page.get_by_role("button", name="Weir Cottage", exact=True).dblclick()
    name = page.get_by_role("textbox", name="Name of the project")
    name.fill("Weir House")
    name.press("Enter")
    expect(page.get_by_role("button", name="Weir House", exact=True)).to_be_visible()
    page.get_by_role("button", name="Weir House", exact=True).dblclick()
    name.fill("Weir Cottage")
    name.press("Enter")
    landmark(page, "Schemes").get_by_role("link", name=re.compile("^A ")).dblclick()
    scheme = page.get_by_role("textbox", name="Name of scheme A")
    scheme.fill("The hip alone")
    scheme.press("Enter")
    expect(landmark(page, "Schemes")).to_contain_text("The hip alone")
    undo_all(page)
    expect(landmark(page, "Schemes")).to_contain_text("South-east hip")


def test_an_address_of_nothing_says_so(page):
    page.goto("/projects/1/999999/surfaces")
    expect(page.get_by_role("heading", name="This scheme cannot be shown.")).to_be_visible()
    page.goto("/somewhere/else")
    expect(page.get_by_role("heading", name="Nothing found at this address.")).to_be_visible()


def test_any_table_is_copied_as_cells(page):
    open_project(page, "Weir Cottage", "circuits")
    brief(page).get_by_role("button", name=re.compile("Module on inverter 1")).click()
    library = page.get_by_role("dialog", name="Choose a module")
    library.get_by_role("button", name="Copy as cells").click()
    expect(page.get_by_role("status").filter(has_text="Copied 20 rows")).to_be_visible()
    rows = [row.split("\t") for row in page.evaluate("navigator.clipboard.readText()").splitlines()]
    assert {len(row) for row in rows} == {10}
    assert rows[0][1].startswith("Power [W]")
    assert ["Quillon 410 H54", "410"] in [row[:2] for row in rows]


def test_the_map_leans_in_and_a_click_says_where(page):
    open_project(page, "Saltwick Hut", "site")
    world = page.get_by_role("img", name=re.compile("^World map; the site is at 43.18° S"))
    page.get_by_role("button", name="At the site").click()
    expect(page.get_by_role("button", name="Whole world")).to_be_visible()
    box = world.bounding_box()
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(*middle)
    for _ in range(4):
        page.mouse.wheel(0, -300)
    # Now a tenth of the map's width is a fraction of a degree.
    page.mouse.click(middle[0] + box["width"] / 10, middle[1])
    sentences = brief(page)
    expect(sentences.get_by_role("link", name=re.compile("43.18° S, 17[01]"))).to_be_visible()
    expect(sentences.get_by_role("link", name=re.compile("43.18° S, 170.46° E"))).to_have_count(0)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 150, middle[1] + 40, steps=5)
    page.mouse.up()
    moved = sentences.get_by_role("link", name=re.compile("° S, 17")).inner_text()
    page.get_by_role("button", name="Whole world").click()
    assert sentences.get_by_role("link", name=re.compile("° S, 17")).inner_text() == moved
    undo_all(page)
    expect(sentences.get_by_role("link", name=re.compile("43.18° S, 170.46° E"))).to_be_visible()


def test_a_part_is_found_by_name_and_taken(page):
    open_project(page, "Weir Cottage")
    before = energy(page)
    page.keyboard.press("Control+k")
    page.keyboard.type("quillon 375")
    page.keyboard.press("Enter")
    library = page.get_by_role("dialog", name="Choose a module")
    expect(library.get_by_role("searchbox")).to_be_focused()
    expect(library.get_by_role("row")).to_have_count(2)
    library.get_by_role("button", name="Quillon 375 H60", exact=True).click()
    expect(library).to_be_hidden()
    expect(headline(page)).not_to_contain_text(before)
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_a_file_whose_clock_is_off_is_told(page, hill_weather):
    """The zone of the LOCATION line is wrong by two hours: the file is taken, and the sun says so."""
    open_project(page, "Aldermoor Dairy", "weather")
    lines = as_text(hill_weather, "epw").splitlines()
    fields = lines[0].split(",")
    fields[8] = "3"
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Open a file…").click()
    content = "\n".join([",".join(fields), *lines[1:]]).encode()
    chooser.value.set_files({"name": "zone.epw", "mimeType": "text/plain", "buffer": content})
    expect(landmark(page, "Headline")).to_contain_text("Weather timestamps do not match the sun")
    expect(page.get_by_role("main", name="Weather")).to_contain_text("Irradiance is 2 h ahead of the sun.")
    undo_all(page)
    expect(landmark(page, "Headline")).not_to_contain_text("Weather timestamps do not match the sun")


def test_what_is_typed_stays_while_answers_arrive(page):
    """The name is typed slowly while the answer to another edit redraws the bench."""
    open_project(page, "Weir Cottage")
    bench = page.get_by_role("main", name="Surfaces")
    held = []
    page.route("**/api/schemes/*", lambda route: held.append(route))
    tilt = bench.get_by_role("textbox", name="Tilt", exact=True)
    tilt.focus()
    tilt.press("ArrowUp")
    name = bench.get_by_role("textbox", name="Name of the surface")
    name.fill("Hip over the kit")
    for route in held:
        route.continue_()
    page.unroute("**/api/schemes/*")
    energy(page)
    expect(name).to_have_value("Hip over the kit")
    name.press_sequentially("chen")
    name.press("Enter")
    expect(brief(page)).to_contain_text("Hip over the kitchen")
    undo_all(page)


def test_soiling_is_given_by_month_and_the_brief_says_so(page):
    open_project(page, "Saltwick Hut", "losses")
    before = energy(page)
    sentences = brief(page)
    yearly = sentences.get_by_role("textbox", name="Soiling").input_value()
    page.get_by_role("button", name="Soiling: show its working").click()
    panel = page.get_by_role("dialog", name="Working")
    panel.get_by_role("button", name="Soiling by month").click()
    months = panel.get_by_role("group", name="Soiling by month")
    january = months.get_by_role("textbox", name="Soiling in Jan")
    january.fill("8")
    january.press("Enter")
    expect(sentences.get_by_role("button", name=f"{yearly} to 8 % by month")).to_be_visible()
    assert energy(page) != before
    page.evaluate("navigator.clipboard.writeText(Array(12).fill(" + yearly + ").join('\\n'))")
    january.click()
    expect(january).to_be_focused()
    page.keyboard.press("Control+v")
    expect(january).to_have_value(yearly)
    # Twelve times the value of the year is the year.
    assert energy(page) == before
    months.get_by_role("button", name="Use one annual value").click()
    expect(sentences.get_by_role("textbox", name="Soiling")).to_have_value(yearly)
    page.keyboard.press("Escape")
    undo_all(page)


def test_the_ground_before_a_wall_can_be_brighter_than_the_site_s(page):
    open_sketch(page)
    before = energy(page)
    bench = page.get_by_role("main", name="Surfaces")
    bench.get_by_role("button", name="Hut, north wall").click()
    expect(bench.get_by_role("textbox", name="Name of the surface")).to_have_value("Hut, north wall")
    albedo = bench.get_by_role("textbox", name="Albedo in front of the surface")
    expect(albedo).to_have_value("0.12")
    albedo.fill("0.6")
    albedo.press("Enter")
    expect(headline(page)).not_to_contain_text(before)
    undo_all(page)
    expect(headline(page)).to_contain_text(before)
