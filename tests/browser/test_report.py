"""Report in a real browser: an edition is chosen, changed by mouse and keyboard, kept, read and taken away."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import brief, energy, findings, landmark, open_project, undo_all


def pages_of(page: Page):
    return page.locator('[aria-label="Pages of the report"]')


def names(page: Page) -> list[str]:
    return [re.sub(r"\s+", " ", text).strip() for text in pages_of(page).locator(".name").all_inner_texts()]


def test_the_report_is_read_changed_kept_and_taken_away(page: Page):
    open_project(page, "Aldermoor Dairy")
    energy(page)
    brief(page).get_by_role("link", name="The design on paper").click()
    sheets = landmark(page, "Pages as they print")
    first = sheets.locator("#sheet-0")
    expect(first).to_contain_text("Aldermoor Dairy")
    whole = page.locator("aside[aria-label='Headline']").inner_text()
    mwh = float(re.search(r"([\d.]+)\s*MWh", whole)[1])
    told = float(re.search(r"Annual energy\s*([\d,]+) kWh", first.text_content())[1].replace(",", ""))
    assert abs(told / 1000 - mwh) <= 0.05

    # Pages are left out, added, and moved by the keyboard; the address keeps them.
    page.get_by_role("button", name="Leave out Energy by month").click()
    expect(pages_of(page)).not_to_contain_text("Energy by month")
    page.get_by_role("button", name="+ Checks").click()
    expect(pages_of(page)).to_contain_text("Checks")
    checks = pages_of(page).get_by_role("button", name="Checks", exact=True)
    checks.focus()
    page.keyboard.press("Alt+ArrowUp")
    expect(checks).to_be_focused()
    order = names(page)
    page.reload()
    expect(pages_of(page)).to_contain_text("Checks")
    assert names(page) == order

    # The text of a page is text: it is found and copied.
    expect(sheets.get_by_text("Cables and protection")).to_have_count(0)
    page.get_by_label("Edition").select_option(label="electrical")
    # Two browsers beside it on a small machine: the sheets of this edition are many.
    expect(sheets.get_by_text("Cables and protection").first).to_be_attached(timeout=60_000)
    expect(sheets.locator("figure")).not_to_have_count(0, timeout=60_000)
    assert findings(page) == []

    with page.expect_download() as file:
        page.get_by_role("button", name="PDF", exact=True).click()
    assert file.value.suggested_filename.startswith("report-scheme-A") and file.value.path().read_bytes()[:5] == b"%PDF-"

    page.get_by_role("button", name=re.compile("^Keep it as an edition")).click()
    page.get_by_label("Name of the edition").fill("For the bank")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Edition").locator("option:checked")).to_have_text("For the bank")
    page.get_by_role("button", name="delete For the bank").click()
    expect(page.get_by_label("Edition").locator("option", has_text="For the bank")).to_have_count(0)


def test_who_it_is_from_stands_on_the_first_page_and_schemes_stand_side_by_side(page: Page):
    open_project(page, "Aldermoor Dairy")
    energy(page)
    brief(page).get_by_role("link", name="The design on paper").click()
    first = page.locator("#sheet-0")
    expect(first).to_contain_text("Annual energy")
    sender = page.get_by_label("Letterhead: your name")
    sender.fill("Hill Solar")
    sender.press("Enter")
    expect(first).to_contain_text("Hill Solar")
    page.reload()
    expect(sender).to_have_value("Hill Solar")
    sender.fill("")
    sender.press("Enter")
    expect(first).not_to_contain_text("Hill Solar")
    page.get_by_role("button", name="+ Schemes side by side").click()
    expect(page.locator("figure").filter(has_text="B, Barn and cold store")).to_have_count(1)


def test_an_edit_sets_the_pages_anew(page: Page):
    open_project(page, "Aldermoor Dairy")
    energy(page)
    brief(page).get_by_role("link", name="The design on paper").click()
    first = page.locator("#sheet-0")
    before = first.text_content()
    tilt = brief(page).get_by_label("Tilt of Barn, south pitch")
    tilt.fill("44")
    tilt.press("Enter")
    expect(first).not_to_have_text(before)
    expect(page.get_by_text("setting it anew…")).to_have_count(0)
    undo_all(page)
