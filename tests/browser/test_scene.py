"""The Scene bench in a real browser: drawing by typing, filling, shade that follows, files in and out, the keyboard alone."""

import io
import json
import re

import ezdxf
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.conftest import brief, energy, landmark, open_project, open_sketch, undo_all
from tests.browser.sketch import csrf


def open_scheme(page, name, title):
    """Go to a scheme of a project by its tab, and to its Scene bench."""
    open_project(page, name)
    landmark(page, "Schemes").get_by_role("link", name=re.compile(title)).click()
    brief(page).get_by_role("link", name="Scene", exact=True).click()
    expect(page.get_by_role("heading", name="Scene", exact=True)).to_be_visible()


def things(page):
    return page.get_by_role("navigation", name="Objects of the scene")


def add(page, phrase):
    line = page.get_by_role("combobox", name="Add a thing: its name and sizes")
    line.fill(phrase)
    expect(page.get_by_role("listbox").get_by_role("option").first).to_be_visible()
    line.press("Enter")


def open_drawer(page):
    """The table of solar access, the obstacles and the files."""
    handle = page.locator("button.handle")
    if handle.get_attribute("aria-expanded") == "false":
        handle.click()


def figure(page):
    """Solar access of all modules, as it stands under the table."""
    open_drawer(page)
    return page.locator(".access p b").first


def access(page):
    """The same as a number [%], once it belongs to what is drawn."""
    expect(page.get_by_text("previous result, recalculating")).to_have_count(0)
    expect(page.get_by_text("preview, exact result follows")).to_have_count(0)
    expect(figure(page)).to_be_visible()
    return float(figure(page).inner_text().rstrip(" %").replace("\u202f", ""))


@pytest.fixture
def cottage(page):
    open_scheme(page, "Weir Cottage", "The house as it stands")
    yield page
    undo_all(page)


def test_a_hipped_house_is_drawn_by_typing_its_dimensions_and_filled(page):
    open_sketch(page)
    brief(page).get_by_role("link", name="Scene", exact=True).click()
    add(page, "house 12 x 8.5")
    expect(page.get_by_role("img", name=re.compile("Axonometric"))).to_be_visible()
    eave = page.get_by_role("textbox", name="Eave [m]")
    eave.fill("9'6\"")
    eave.press("Enter")
    sentences = brief(page)
    expect(sentences.get_by_role("textbox", name="Eave of House")).to_have_value("2.8956")
    length = page.get_by_role("textbox", name="Length [m]")
    length.fill("13500mm")
    length.press("Enter")
    expect(sentences.get_by_role("textbox", name="Length of House")).to_have_value("13.5")
    length.fill("long")
    length.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Type a length such as")
    length.press("Escape")
    landmark(page, "Roof faces").get_by_role("button", name="south pitch").click()
    page.get_by_role("button", name="Put modules here").click()
    page.get_by_role("button", name="Fill", exact=True).click()
    expect(page.locator(".face")).to_contain_text(re.compile(r"\d\d [A-Z][a-z]+ [^.]* on"))
    open_drawer(page)
    expect(page.get_by_role("table", name="Solar access by surface and month")).to_contain_text("House, south pitch")
    assert access(page) > 97
    undo_all(page)


def test_shade_follows_a_chimney_that_is_added_and_moved(cottage):
    before, year, shown = access(cottage), energy(cottage), figure(cottage).inner_text()
    things(cottage).get_by_role("button", name="Cottage").click()
    add(cottage, "chimney 0.8 x 0.8 x 3")
    expect(things(cottage).get_by_role("button", name="Chimney")).to_have_count(2)
    expect(figure(cottage)).not_to_have_text(shown)
    with_chimney = access(cottage)
    assert with_chimney < before and energy(cottage) != year
    things(cottage).get_by_role("button", pressed=True).focus()
    for _ in range(12):
        cottage.keyboard.press("Shift+ArrowUp")
    expect(figure(cottage)).not_to_have_text(f"{with_chimney} %")
    assert access(cottage) > with_chimney
    cottage.keyboard.press("Delete")
    expect(things(cottage).get_by_role("button", name="Chimney")).to_have_count(1)
    expect(figure(cottage)).to_have_text(shown)


def test_modules_are_laid_by_hand_and_a_setback_is_typed_where_it_stands(cottage):
    page = cottage
    things(page).get_by_role("button", name="Cottage", exact=True).click()
    landmark(page, "Roof faces").get_by_role("button", name=re.compile("south-east")).click()
    page.get_by_role("button", name="square to the face").click()
    count = page.locator(".face b").nth(1)
    expect(count).to_have_text("9")
    page.get_by_role("button", name="clear", exact=True).click()
    expect(count).to_have_text("0")
    sheet = page.get_by_role("img", name=re.compile("Axonometric")).bounding_box()
    middle = sheet["x"] + sheet["width"] / 2, sheet["y"] + sheet["height"] * 0.55
    page.get_by_role("button", name="lay by hand").click()
    page.mouse.click(*middle)
    expect(page.get_by_text("One module laid.")).to_be_visible()
    expect(count).to_have_text("1")
    page.mouse.move(middle[0] - 100, middle[1] + 12)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] + 10, steps=4)
    page.mouse.move(middle[0] + 100, middle[1] + 8, steps=4)
    page.mouse.up()
    expect(count).not_to_have_text("1")
    several = int(count.inner_text())
    assert several >= 2
    page.keyboard.press("Escape")
    usable = page.locator(".face")
    before = usable.inner_text()
    eave = page.get_by_role("textbox", name=re.compile("Setback from the eave"))
    eave.fill("1.2")
    eave.press("Enter")
    expect(usable).not_to_have_text(before)
    expect(page.get_by_role("textbox", name=re.compile("Setback from the eave"))).to_have_value("1.2")


def test_a_string_is_drawn_over_the_modules_and_what_it_breaks_is_repaired(cottage):
    page = cottage
    things(page).get_by_role("button", name="Cottage", exact=True).click()
    landmark(page, "Roof faces").get_by_role("button", name=re.compile("south-east")).click()
    page.get_by_role("button", name="square to the face").click()
    page.get_by_role("button", name="drawn", exact=True).click()
    numbers = page.locator(".over text")
    expect(numbers).to_have_text([re.compile(r"1[+−]?")] * 9)
    first, last = (numbers.nth(k).bounding_box() for k in (0, 2))
    page.mouse.move(first["x"] + 4, first["y"] + 4)
    page.mouse.down()
    page.mouse.move(last["x"] + 4, last["y"] + 4, steps=12)
    page.mouse.up()
    expect(numbers.filter(has_text="·")).to_have_count(6)
    page.get_by_role("button", name="repair", exact=True).click()
    expect(numbers.filter(has_text="·")).to_have_count(0)
    page.get_by_role("button", name="use in the wiring").click()
    expect(page.get_by_text("The string cables follow the plan")).to_be_visible()


def test_a_thing_is_added_by_finding_it_and_several_are_moved_together(cottage):
    page = cottage
    page.keyboard.press("Control+k")
    page.keyboard.type("pole 0.2 x 5")
    page.get_by_role("option", name=re.compile("Add a pole")).click()
    expect(things(page).get_by_role("button", name="Pole", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("textbox", name="Height [m]")).to_have_value("5")
    before = page.get_by_role("textbox", name="East of Pole").input_value()
    things(page).get_by_role("button", name="Oak", exact=True).click(modifiers=["Shift"])
    expect(page.get_by_text("2 objects are selected")).to_be_visible()
    page.locator(".scene").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_role("textbox", name="East of Pole")).to_have_value(f"{float(before) + 1:g}")
    page.keyboard.press("Delete")
    expect(things(page).get_by_role("button", name="Pole", exact=True)).to_have_count(0)
    expect(things(page).get_by_role("button", name="Oak", exact=True)).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(things(page).get_by_role("button", name="Oak", exact=True)).to_be_visible()


def test_the_array_is_held_against_the_use_of_the_building_and_limited_by_a_share_of_it(cottage):
    page = cottage
    open_drawer(page)
    line = page.locator(".demand")
    used = float(re.sub(r"[^0-9.]", "", line.get_by_role("link").inner_text()))
    share = float(line.locator("b").inner_text().rstrip(" %\u202f"))
    kwh = float(re.sub(r"[^0-9.]", "", energy(page).replace("kWh", "")))
    assert share == pytest.approx(kwh / used * 100, abs=1)
    things(page).get_by_role("button", name="Cottage", exact=True).click()
    landmark(page, "Roof faces").get_by_role("button", name=re.compile("south-east")).click()
    page.get_by_label("What is limited").select_option("demand")
    limit = page.get_by_label("At most so many % of the use")
    limit.fill("25")
    limit.press("Enter")
    # A quarter of 7,600 kWh at some 400 kWh a module.
    expect(page.locator(".face b").nth(1)).to_have_text(re.compile("^[45]$"))


def test_a_tree_grows_ten_years_and_an_obstacle_is_ranked(cottage):
    before = access(cottage)
    things(cottage).get_by_role("button", name="Oak").click()
    height = cottage.get_by_role("textbox", name="Height [m]")
    height.fill("15")
    height.press("Enter")
    cottage.get_by_role("navigation", name="The Brief").get_by_role("textbox", name="Height of Oak").wait_for()
    expect(cottage.get_by_text("of the state before")).to_have_count(0)
    cottage.wait_for_function("(b) => parseFloat(document.querySelector('.access p b').textContent) < b", arg=before)
    cottage.get_by_role("button", name="What does each obstacle cost?").click()
    expect(cottage.get_by_text(re.compile(r"Without")).first).to_contain_text("the oak", timeout=20_000)


def test_the_table_says_yes_or_no_and_the_worst_modules_are_deleted_in_one_click(cottage):
    open_drawer(cottage)
    words = cottage.get_by_role("main")
    expect(words).to_contain_text("over your 70 %")
    threshold = cottage.get_by_role("textbox", name="Threshold of solar access [%]")
    threshold.fill("99")
    threshold.press("Enter")
    expect(words).to_contain_text("under your 99 %")
    cottage.get_by_role("button", name="delete them").click()
    expect(cottage.get_by_text("modules deleted from the plan")).to_be_visible()
    expect(words).not_to_contain_text("9 modules 9")


def test_points_are_read_and_their_planes_accepted(cottage):
    rng = np.random.default_rng(2)
    x, y = rng.uniform(-6, 6, 3000), rng.uniform(-4, 4, 3000)
    roof = np.column_stack([x + 30, y, 3 + (4 - np.abs(y)) * 0.6 + rng.normal(0, 0.02, 3000)])
    ground = np.column_stack([rng.uniform(18, 42, 800), rng.uniform(-12, 12, 800), rng.normal(0, 0.02, 800)])
    text = "\n".join(f"{a:.3f} {b:.3f} {c:.3f}" for a, b, c in np.vstack([roof, ground]))
    chooser = cottage.get_by_label("Read outlines, a model, points or heights from a file")
    chooser.set_input_files({"name": "roof.xyz", "mimeType": "text/plain", "buffer": text.encode()})
    reading = cottage.get_by_role("region", name="Read from the file")
    expect(reading).to_contain_text("mm from the planes on average")
    expect(reading).to_contain_text("2 roof faces")
    reading.get_by_role("button", name="Accept Roof 1").click()
    roof = things(cottage).get_by_role("button", name="Roof 1")
    expect(roof).to_be_visible()
    expect(reading).to_have_count(0)
    roof.click()
    cottage.get_by_role("navigation", name="Roof faces").get_by_role("button", name="south pitch").click()
    cottage.get_by_role("button", name="Put modules here").click()
    expect(cottage.get_by_text(re.compile(r"\d+ modules laid"))).to_be_visible()
    chooser.set_input_files({"name": "roof.xyz", "mimeType": "text/plain", "buffer": b"one two three\nfour"})
    expect(cottage.get_by_text("line 2 has no three numbers")).to_be_visible()


def test_the_plan_is_exported_and_opened_with_another_library(cottage):
    open_drawer(cottage)
    links = cottage.get_by_role("main")
    with cottage.expect_download() as loading:
        links.get_by_role("link", name="DXF").click()
    drawing = ezdxf.read(io.StringIO(loading.value.path().read_text()))
    assert len(drawing.modelspace().query('POLYLINE[layer=="MODULES"]')) == 9
    with cottage.expect_download() as loading:
        links.get_by_role("link", name="GeoJSON").click()
    features = json.loads(loading.value.path().read_text())["features"]
    assert sum(f["properties"]["kind"] == "module" for f in features) == 9


def test_by_keyboard_alone_a_thing_is_added_moved_copied_and_taken_back(cottage):
    things(cottage).get_by_role("button", name="every roof").focus()
    cottage.keyboard.type("pole 0.3 x 9")
    cottage.keyboard.press("Enter")
    pole = things(cottage).get_by_role("button", name="Pole")
    expect(pole).to_have_attribute("aria-pressed", "true")
    pole.focus()
    east = cottage.get_by_role("textbox", name="East of Pole").first
    was = float(east.input_value())
    cottage.keyboard.press("Shift+ArrowRight")
    expect(east).to_have_value(f"{was + 1:g}")
    cottage.keyboard.press("Control+c")
    cottage.keyboard.press("Control+v")
    expect(pole).to_have_count(2)
    cottage.keyboard.press("Control+z")
    expect(pole).to_have_count(1)


def test_a_trace_of_the_drawing_is_turned_and_the_year_never_mixes_states(cottage):
    drawing = cottage.get_by_role("img", name=re.compile("Axonometric"))
    before = drawing.screenshot()
    cottage.get_by_role("button", name="North arrow: turn the sheet by 45°").click()
    cottage.wait_for_timeout(300)
    assert drawing.screenshot() != before
    cottage.get_by_role("button", name="plan", exact=True).click()
    cottage.get_by_role("button", name="irradiation", exact=True).click()
    expect(cottage.get_by_role("main")).to_contain_text("kWh/m²")


def picture_of_a_roof() -> bytes:
    """A plan as someone would photograph it: a dark rectangle on light ground."""
    from PIL import Image, ImageDraw

    image = Image.new("RGB", (400, 300), "#efe8d8")
    ImageDraw.Draw(image).rectangle((120, 90, 280, 200), fill="#8a6f57")
    kept = io.BytesIO()
    image.save(kept, "PNG")
    return kept.getvalue()


def test_a_house_is_traced_from_a_placed_picture_with_right_angles(page):
    open_sketch(page)
    scheme = page.url.split("/")[5]
    token = csrf(page)
    kept = page.request.post(
        "/api/pictures",
        multipart={"file": {"name": "roof.png", "mimeType": "image/png", "buffer": picture_of_a_roof()}},
        headers=token,
    )
    site = page.request.get(f"/api/schemes/{scheme}").json()
    place = site["document"]["site"]
    plan = {
        "digest": kept.json()["digest"], "name": "Roof", "width_to_height": 4 / 3, "first_x": 0.3, "first_y": 0.5, "second_x": 0.7, "second_y": 0.5,
        "latitude": place["latitude"], "longitude": place["longitude"], "distance": 16, "azimuth": 90,
    }  # fmt: skip
    laid = page.request.patch(
        f"/api/schemes/{scheme}", data=json.dumps({"site": {"map_picture": plan}}),
        headers=token | {"If-Match": f'"{site["revision"]}"', "Content-Type": "application/merge-patch+json"},
    )  # fmt: skip
    assert laid.ok, laid.text()
    page.reload()
    brief(page).get_by_role("link", name="Scene", exact=True).click()
    energy(page)
    page.wait_for_load_state("networkidle")
    page.get_by_role("button", name="trace a building").click()
    hint = page.get_by_text("Click the corners of the outline")
    expect(hint).to_be_visible()
    drawing = page.get_by_role("img", name=re.compile("Axonometric"))
    box = drawing.bounding_box()
    middle = (box["width"] / 2, box["height"] / 2)
    for dx, dy in ((-90, 40), (90, 42), (88, -40), (-91, -38)):
        drawing.click(position={"x": middle[0] + dx, "y": middle[1] + dy}, force=True)
    page.keyboard.press("Enter")
    expect(hint).to_have_count(0)
    expect(things(page).get_by_role("button", name="House")).to_have_attribute("aria-pressed", "true")
    expect(brief(page)).to_contain_text("House, 4 corners, hipped roof")
    document = page.request.get(f"/api/schemes/{scheme}").json()["document"]
    outline = np.array(next(iter(document["scene"]["buildings"].values()))["outline"])
    edges = np.roll(outline, -1, axis=0) - outline
    turns = [abs(a @ b) / (np.hypot(*a) * np.hypot(*b)) for a, b in zip(edges, np.roll(edges, -1, axis=0), strict=True)]
    assert max(turns) < 0.01
    expect(landmark(page, "Roof faces").get_by_role("button")).to_have_count(4)
    undo_all(page)


def test_a_thing_is_turned_and_raised_by_its_handles_in_one_undo_each(cottage):
    page = cottage
    things(page).get_by_role("button", name="Cottage", exact=True).click()
    direction = page.get_by_role("textbox", name="Azimuth of the front of Cottage").first
    expect(direction).to_have_value("148")
    page.get_by_role("button", name="plan", exact=True).click()
    # From above nothing can be raised: that its handle is gone says that the plan is drawn.
    expect(page.locator(".grip.raise")).to_have_count(0)
    grip = page.locator(".grip.turn .area")
    box = grip.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 5):
        page.mouse.move(x + 12 * step, y + 3 * step)
        page.wait_for_timeout(300)
    page.mouse.up()
    expect(direction).not_to_have_value("148")
    page.keyboard.press("Control+z")
    expect(direction).to_have_value("148")
    page.get_by_role("button", name="axonometry").click()
    expect(page.locator(".grip.raise")).to_have_count(1)
    box = page.locator(".grip.raise .area").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    eave = page.get_by_role("textbox", name="Eave [m]")
    before = float(eave.input_value())
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 15, steps=3)
    page.mouse.up()
    expect(eave).not_to_have_value(f"{before:g}")
    assert float(eave.input_value()) > before
    page.keyboard.press("Control+z")
    expect(eave).to_have_value(f"{before:g}")
    # The same by keys.
    page.locator(".scene").focus()
    page.keyboard.press("]")
    expect(direction).to_have_value("153")
    page.keyboard.press("PageUp")
    expect(eave).to_have_value(f"{before + 0.1:g}")


def test_a_group_is_kept_and_goes_together(cottage):
    page = cottage
    first, second = (things(page).get_by_role("button", name=name) for name in ("Neighbour", "Oak"))
    first.click()
    # Its faces open below it and move the next name: nobody hits what is on its way.
    expect(page.get_by_role("navigation", name="Faces")).to_be_visible()
    expect(first).to_have_attribute("aria-pressed", "true")
    second.click(modifiers=["Shift"])
    expect(second).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="keep as a group").click()
    things(page).get_by_role("button", name="Chimney").click()
    things(page).get_by_role("button", name="Oak").click()
    expect(page.locator(".several")).to_contain_text("2 objects are selected")
    page.locator(".scene").focus()
    page.keyboard.press("Control+d")
    expect(things(page).get_by_role("button", name="Oak")).to_have_count(2)
    expect(things(page).get_by_role("button", name="Neighbour")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(things(page).get_by_role("button", name="Oak")).to_have_count(1)
    expect(things(page).get_by_role("button", name="Neighbour")).to_have_count(1)


def test_a_view_is_kept_named_gone_back_to_and_stands_in_the_report(page):
    open_scheme(page, "Aldermoor Dairy", "The dairy as it stands")
    kept = landmark(page, "Views that are kept")
    page.get_by_role("button", name="irradiation", exact=True).click()
    page.get_by_label("Period").select_option("Dec")
    page.get_by_role("button", name="from the south", exact=True).click()
    kept.get_by_role("button", name="keep this view").click()
    view = kept.get_by_role("button", name="From the south, irradiation in December")
    expect(view).to_be_visible()
    page.get_by_role("button", name="as built", exact=True).click()
    view.click()
    expect(page.get_by_role("button", name="irradiation", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Period")).to_have_value("Dec")
    name = kept.get_by_role("textbox")
    name.fill("At Christmas")
    name.press("Enter")
    expect(kept.get_by_role("button", name="Delete the view At Christmas")).to_be_visible()
    page.goto(page.url.replace("/scene", "/report").split("?")[0] + "?pages=views")
    sheet = page.locator("#sheet-0")
    expect(sheet).to_contain_text("At Christmas")
    expect(sheet).to_contain_text("Irradiation: December.")
    undo_all(page)
    expect(sheet).to_contain_text("November to January")


def test_racks_stand_back_to_back_and_a_type_is_swapped(page):
    open_scheme(page, "Aldermoor Dairy", "The dairy as it stands")
    things(page).get_by_role("button", name="Cold store").click()
    landmark(page, "Roof faces").get_by_role("button").first.click()
    face = page.locator(".face")
    page.get_by_role("button", name="all one way").click()
    expect(page.get_by_text("64 modules laid.")).to_be_visible()
    expect(face.get_by_role("button", name=re.compile("^azimuth "))).to_have_count(2)
    open_drawer(page)
    expect(page.get_by_role("table", name="Solar access by surface and month")).to_contain_text("backs of the pairs")
    face.get_by_role("button", name=re.compile("^azimuth ")).nth(1).click()
    expect(face.locator("b").nth(1)).to_have_text("32")
    face.get_by_role("button", name="Module on the face").click()
    page.get_by_role("dialog", name="Choose a module").get_by_role("button", name="Veltrane 450 Nocturne", exact=True).click()
    expect(page.get_by_text(re.compile("keep a place|have a place"))).to_be_visible()
    undo_all(page)


def test_rows_on_a_meadow_turn_after_the_sun_and_stand_again(page):
    open_sketch(page)
    brief(page).get_by_role("link", name="Scene", exact=True).click()
    add(page, "ground 40 x 30")
    landmark(page, "Roof faces").get_by_role("button").first.click()
    page.get_by_role("button", name="Put modules here").click()
    page.get_by_role("button", name="on trackers").click()
    expect(page.locator(".face")).to_contain_text("trackers about")
    sentences = brief(page)
    expect(sentences).to_contain_text("turning about a north-south axis")
    expect(page.get_by_role("textbox", name="Azimuth of the axes [°]")).to_have_value("180")
    axes = page.get_by_role("textbox", name="Azimuth of the axes [°]")
    axes.fill("90")
    axes.press("Enter")
    expect(sentences).to_contain_text("turning about an east-west axis")
    page.get_by_role("button", name="on fixed racks").click()
    expect(page.get_by_role("textbox", name="Tilt of the racks [°]")).to_be_visible()
    expect(sentences).not_to_contain_text("turning about")
