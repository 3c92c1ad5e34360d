"""The Sky bench: horizon, obstacles, shade by hand, and the picture of them all."""

import math
import re

from playwright.sync_api import expect

from tests.browser.conftest import brief, energy, headline, landmark, open_project, open_sketch, undo_all

SKY = "svg[aria-label='The sky over the site']"


def bench_of(page):
    return page.get_by_role("main", name="Sky")


def brief_of(page):
    return brief(page)


def place(page, azimuth: float, elevation: float) -> tuple[float, float]:
    """A direction of the polar picture on the screen."""
    box = page.locator(SKY).bounding_box()
    scale = box["width"] / 500
    r = 194 * (90 - elevation) / 90
    return box["x"] + scale * (272 + r * math.sin(math.radians(azimuth))), box["y"] + scale * (
        222 - r * math.cos(math.radians(azimuth))
    )


def test_a_horizon_is_pasted_in_another_convention_and_a_wrong_line_is_told(page):
    open_sketch(page, "sky")
    undo_all(page)
    before = energy(page)
    pairs = page.get_by_role("textbox", name="Horizon as pairs of azimuth and elevation")
    pairs.fill("0\t25\n90\t10\n270\t95")
    pairs.blur()
    expect(page.get_by_role("alert")).to_contain_text("Line 3")
    pairs.fill("-180\t25\n-90\t10\n90\t15")
    pairs.blur()
    expect(page.get_by_role("alert")).to_contain_text("do not count from north")
    page.get_by_role("combobox", name="How azimuths are counted").select_option("south-west")
    pairs.focus()
    pairs.blur()
    expect(brief_of(page)).to_contain_text("The horizon rises to 25° in the north and blocks")
    assert pairs.input_value() == "0\t25\n90\t10\n270\t15"
    assert energy(page) != before
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_a_horizon_is_drawn_on_the_sky(page):
    open_sketch(page, "sky")
    undo_all(page)
    before = energy(page)
    bench_of(page).get_by_role("button", name="draw the horizon").click()
    page.locator(SKY).scroll_into_view_if_needed()
    page.mouse.move(*place(page, 330, 28))
    page.mouse.down()
    for azimuth in range(335, 400, 5):
        page.mouse.move(*place(page, azimuth % 360, 28))
    page.mouse.up()
    expect(brief_of(page)).to_contain_text(re.compile(r"The horizon rises to (27|28|29)(\.\d)?° in the north"))
    assert energy(page) != before
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_obstacles_are_ranked_by_what_they_cost_and_dragged_out_of_the_way(page):
    open_project(page, "Weir Cottage", "sky")
    undo_all(page)
    bench = bench_of(page)
    before = energy(page)
    bench.get_by_role("button", name="+ building").click()
    expect(bench).to_contain_text(re.compile(r"surface gets\s+[\d.]+ kWh/m²\s+a year more, about [\d.,]+ kWh"))
    expect(brief_of(page)).to_contain_text(re.compile("in front of it: Oak, Neighbour's gable and Building"))
    bench.get_by_role("button", name="+ pole").click()
    rows = bench.locator("section", has=page.get_by_role("heading", name="Obstacles")).locator("li")
    expect(rows).to_have_count(4)
    expect(rows.last).to_contain_text("Pole")
    azimuth = bench.get_by_role("textbox", name="Azimuth of the obstacle")
    rows.filter(has_text="Building").get_by_role("button").click()
    start = azimuth.input_value()
    thing = page.get_by_role("button", name=re.compile("^Building: up to"))
    page.locator(SKY).scroll_into_view_if_needed()
    page.mouse.move(*place(page, float(start), 4))
    page.mouse.down()
    page.mouse.move(*place(page, float(start) + 25, 4), steps=5)
    page.mouse.up()
    expect(azimuth).to_have_value(str((int(float(start)) + 25) % 360))
    expect(thing).to_have_count(1)
    bench.get_by_role("button", name="Delete obstacle").click()
    expect(rows).to_have_count(3)
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_shaded_fields_are_counted_and_the_flag_follows_the_figures(page):
    open_project(page, "Weir Cottage", "sky")
    undo_all(page)
    bench = bench_of(page)
    before = energy(page)
    bench.get_by_role("button", name="Count shaded fields…").click()
    expect(brief_of(page)).to_contain_text("A table of solar access, estimated without a visit")
    page.get_by_role("checkbox", name=re.compile("^12:00, band 1: clear")).press("Enter")
    expect(page.get_by_role("checkbox", name=re.compile("^12:00, band 1: shaded"))).to_have_count(1)
    expect(bench).to_contain_text(re.compile(r"over the year 0\.9\d\d"))
    checks = landmark(page, "Headline")
    expect(checks).to_contain_text("Shade is estimated, not measured or calculated")
    bench.get_by_role("checkbox", name="measured on site").check()
    expect(checks).not_to_contain_text("Shade is estimated")
    expect(brief_of(page)).to_contain_text("measured on site")
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_a_factor_by_hand_replaces_the_calculation(page):
    open_project(page, "Weir Cottage", "sky")
    undo_all(page)
    before = energy(page)
    bench_of(page).get_by_role("button", name="One factor…").click()
    expect(brief_of(page)).to_contain_text("A shade factor of")
    page.get_by_role("button", name="Calculate it instead").click()
    expect(headline(page)).to_contain_text(before)
    undo_all(page)


def test_a_survey_is_pasted_as_a_table(page):
    open_project(page, "Weir Cottage", "sky")
    undo_all(page)
    bench = bench_of(page)
    bench.get_by_role("button", name="Paste a table or an outline…").click()
    table = bench.get_by_role("textbox", name="Solar access, 12 rows of 24 values")
    table.fill("\n".join(["80 " * 24] * 11))
    table.blur()
    expect(page.get_by_role("alert")).to_contain_text("Twelve rows of 24 values were expected")
    table.fill("\n".join(["80\t" * 24] * 12))
    table.blur()
    expect(bench).to_contain_text("over the year 0.800")
    # A second point of the array, measured as an outline: the table is the mean of both.
    bench.get_by_role("button", name="Join another point…").click()
    table = bench.get_by_role("textbox", name="Solar access, 12 rows of 24 values")
    table.fill("0 0\n90 0\n180 0\n270 0")
    table.blur()
    expect(bench).to_contain_text("the mean of 2 points of the array")
    expect(bench).to_contain_text("over the year 0.900")
    undo_all(page)


def test_a_photograph_is_placed_by_two_bearings_and_traced(page):
    open_project(page, "Weir Cottage", "sky")
    undo_all(page)
    bench = bench_of(page)
    drawing = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="1200" height="200"><rect width="1200" height="200" fill="#789"/></svg>'
    )
    bench.get_by_label("Trace a photograph…").set_input_files(
        {"name": "south.svg", "mimeType": "image/svg+xml", "buffer": drawing}
    )
    expect(bench.locator("image")).to_have_count(1)
    mark = bench.get_by_role("textbox", name="Bearing of the second mark")
    before = float(bench.locator("image").get_attribute("width"))
    mark.fill("180")
    mark.press("Enter")
    expect(bench.locator("image")).not_to_have_attribute("width", str(before))
    assert float(bench.locator("image").get_attribute("width")) < before
    bench.get_by_label("Another photograph…").set_input_files(
        {"name": "notes.png", "mimeType": "image/png", "buffer": b"not a picture"}
    )
    expect(page.get_by_role("alert")).to_contain_text("notes.png is no picture")


def test_the_picture_is_saved_as_drawing_and_image_and_the_sun_is_dragged(page):
    open_project(page, "Aldermoor Dairy", "sky")
    undo_all(page)
    bench = bench_of(page)
    sun = bench.get_by_role("slider", name=re.compile("^The sun"))
    before = sun.get_attribute("aria-valuetext")
    sun.focus()
    sun.press("ArrowRight")
    expect(sun).not_to_have_attribute("aria-valuetext", before)
    for kind in ("unrolled", "polar"):
        bench.get_by_role("button", name=kind).click()
        for name, start in (("SVG", b"<svg"), ("PNG", b"\x89PNG"), ("DXF", b"0\nSECTION")):
            with page.expect_download() as saved:
                bench.get_by_role("button", name=name, exact=True).click()
            assert saved.value.path().read_bytes().replace(b"\r\n", b"\n").lstrip().startswith(start)


def test_a_code_of_ones_own_is_a_place(page):
    open_project(page, "Saltwick Hut", "site")
    undo_all(page)
    page.get_by_role("button", name="Codes of your own…").click()
    dialog = page.get_by_role("dialog", name="Codes of your own")
    table = dialog.get_by_role("textbox", name="Codes, one place a line")
    table.fill("MAST7; north; 11.31")
    dialog.get_by_role("button", name="Keep these").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Line 1")
    table.fill("MAST7; 43.62; 11.31; 412; Harbour mast\nQUAY 2\t-43.18\t170.46")
    dialog.get_by_role("button", name="Keep these").click()
    expect(dialog).to_be_hidden()
    page.get_by_role("combobox", name="Place or coordinates").fill("mast7")
    expect(page.get_by_role("listbox", name="Places found")).to_contain_text("MAST7 Harbour mast")


def test_azimuth_and_elevation_are_drawn_for_what_is_picked(page):
    open_project(page, "Weir Cottage", "sky")
    page.get_by_role("button", name="What they mean, how they are measured").click()
    explained = page.get_by_role("dialog", name="Azimuth and elevation")
    expect(explained).to_contain_text("the sun at this moment")
    expect(explained.get_by_role("img", name=re.compile("Seen from above: the azimuth of"))).to_be_visible()
    explained.get_by_role("button", name="Close").click()
    expect(explained).to_have_count(0)
