"""Where the first page, a second page or forty surfaces put the workbench to the test."""

import re
import time

from playwright.sync_api import expect

from tests.browser.conftest import brief, energy, headline, landmark, open_project, undo_all
from tests.browser.sketch import csrf


def test_a_project_opens_at_its_pinned_scheme(page):
    open_project(page, "Aldermoor Dairy")
    address = page.url
    project = re.search(r"/projects/(\d+)/", address)[1]
    shown = energy(page)
    page.goto(f"/projects/{project}")
    expect(page).to_have_url(re.compile(rf"/projects/{project}/\d+/surfaces"))
    expect(headline(page)).to_contain_text(shown)


def test_an_edit_under_way_stays_with_its_scheme_when_another_is_opened(page):
    """The answer is held back; meanwhile another scheme is opened, edited, and left again."""
    open_project(page, "Aldermoor Dairy", "losses")
    tabs = landmark(page, "Schemes").get_by_role("link")
    mismatch = page.get_by_role("textbox", name="Mismatch")
    before = mismatch.input_value()
    page.route(
        "**/api/schemes/*",
        lambda route: (time.sleep(0.8), route.continue_()) if route.request.method == "PATCH" else route.continue_(),
    )
    mismatch.fill("2.5")
    mismatch.press("Enter")
    tabs.nth(1).click()
    expect(tabs.nth(1)).to_have_attribute("aria-current", "page")
    expect(page.get_by_role("textbox", name="Mismatch")).to_have_value(before)
    page.unroute("**/api/schemes/*")
    energy(page)
    expect(page.get_by_role("textbox", name="Mismatch")).to_have_value(before)
    tabs.nth(0).click()
    expect(page.get_by_role("textbox", name="Mismatch")).to_have_value("2.5")
    undo_all(page)
    expect(page.get_by_role("textbox", name="Mismatch")).to_have_value(before)


def test_two_pages_that_set_one_value_both_see_both(page):
    open_project(page, "Saltwick Hut", "losses")
    other = page.context.new_page()
    other.goto(page.url)
    field = {p: p.get_by_role("textbox", name="Unavailability") for p in (page, other)}
    expect(field[other]).to_be_visible()
    before = field[page].input_value()
    # This page hears of nothing while the other edits.
    page.context.set_offline(True)
    field[page].fill("7")
    field[page].press("Enter")
    page.context.set_offline(False)
    expect(field[other]).to_have_value("7", timeout=15_000)
    field[other].fill("4")
    field[other].press("Enter")
    expect(field[page]).to_have_value("4", timeout=15_000)
    undo_all(page)
    expect(field[page]).to_have_value(before)
    other.close()


def test_forty_surfaces_are_named_on_approach_filtered_and_folded(page):
    open_project(page, "Aldermoor Dairy")
    scheme = page.request.get(f"/api/schemes/{page.url.split('/')[5]}").json()["document"]
    roof, strings, inverter = (next(iter(scheme[kind].values())) for kind in ("surfaces", "subarrays", "inverters"))
    many = scheme | {
        "surfaces": {
            f"s{i}": roof | {"name": "Hay barn" if i == 17 else f"Shed {i}", "tilt": 5 + i, "azimuth": 90 + i * 4}
            for i in range(40)
        },
        "inverters": {f"i{i}": inverter for i in range(20)},
        "subarrays": {f"a{i}": strings | {"surface": f"s{i}", "inverter": f"i{i // 2}", "tracker": i % 2 + 1} for i in range(40)},
    }
    made = page.request.post("/api/projects", data={"name": "Forty", "document": many}, headers=csrf(page)).json()
    page.goto(f"/projects/{made['id']}")
    energy(page)
    bench = page.get_by_role("main", name="Surfaces")
    expect(bench.locator(".tag")).to_have_count(1)
    bench.get_by_role("searchbox", name="Filter the surfaces").fill("hay")
    expect(bench).to_contain_text("1 of 40")
    assert len(brief(page).inner_text()) < 1550
    page.request.delete(f"/api/projects/{made['id']}", headers=csrf(page))
