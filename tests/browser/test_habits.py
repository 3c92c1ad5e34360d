"""Units and numbers of one's own in a real browser: shown, typed, kept, and on paper."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import brief, energy, findings, headline, landmark, open_project, undo_all


def choose(page: Page, **given: str) -> None:
    page.keyboard.press("Control+k")
    page.keyboard.type("Units and numbers")
    page.keyboard.press("Enter")
    sheet = page.get_by_role("dialog", name="Units and numbers")
    for label, value in given.items():
        sheet.locator("label").filter(has_text=label).locator("select").select_option(value)
    assert findings(page) == []
    sheet.get_by_role("button", name="Close").click()


def test_what_is_read_in_feet_and_decimal_commas_is_typed_and_printed_so(page: Page):
    open_project(page, "Aldermoor Dairy", "site")
    plain = energy(page)
    try:
        choose(page, Numbers="1.234,5", Units="imperial")
        expect(headline(page)).to_contain_text(plain.replace(".", ","))
        height = brief(page).get_by_role("textbox", name="Elevation of the site").first
        expect(height).to_have_value("1351,71")
        height.fill("1.400,5")
        height.press("Enter")
        expect(page.get_by_role("banner").get_by_role("button", name="Undo")).to_be_enabled()
        energy(page)
        kept = page.evaluate(
            "fetch(location.pathname.replace(/.*projects.\\d+.(\\d+).*/, '/api/schemes/$1')).then(r => r.json()).then(s => s.document.site.elevation)"
        )
        assert abs(kept - 1400.5 * 0.3048) < 1e-6, "the design keeps metres"
        page.reload()
        expect(height).to_have_value("1400,5")
        # Out of its range in feet: the words say it in feet.
        height.fill("99999")
        expect(
            brief(page).get_by_role("status").filter(has_text=re.compile("Enter a value between −1410,76 and 19685,04"))
        ).to_be_visible()
        height.press("Escape")
        brief(page).get_by_role("link", name="The design on paper").click()
        sheets = landmark(page, "Pages as they print")
        expect(sheets).to_contain_text("Air [°F]")
        expect(sheets).to_contain_text("elevation")
    finally:
        undo_all(page)
        choose(page, Numbers="", Units="metric")
    expect(headline(page)).to_contain_text(plain)
