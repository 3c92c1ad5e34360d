"""What leaves and what comes in, in a real browser: one place for each, and a view for others on any width."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import brief, energy, findings, headline, open_project, undo_all

# A file held over the window.
DRAG = """() => { const data = new DataTransfer(); data.items.add(new File(['{}'], 'a.json'))
  window.dispatchEvent(new DragEvent('dragenter', { dataTransfer: data })) }"""


def bring(page: Page, name: str, content: bytes):
    """Choose a file in the place where files come in."""
    page.get_by_role("button", name="Bring in…").first.click()
    sheet = page.get_by_role("dialog", name="Bring in")
    sheet.get_by_label("File to bring in").set_input_files(
        {"name": name, "mimeType": "application/octet-stream", "buffer": content}
    )
    return sheet


def take_away(page: Page):
    page.get_by_role("button", name=re.compile("^This scheme")).click()
    page.get_by_role("menuitem", name="Take away…").click()
    return page.get_by_role("dialog", name="Take away")


def taken(page: Page, name: str) -> bytes:
    with page.expect_download() as file:
        page.get_by_role("dialog", name="Take away").get_by_role("link", name=name).click()
    return file.value.path().read_bytes()


def test_a_scheme_is_taken_away_and_opened_as_a_project_with_the_same_figures(page: Page):
    open_project(page, "Saltwick Hut")
    before = energy(page)
    take_away(page)
    document = json.loads(taken(page, "Scheme A alone: JSON"))
    assert document["format"] == "noontide-design/5"
    page.goto("/")
    sheet = bring(page, "again.json", json.dumps(document | {"name": "Saltwick again"}).encode())
    expect(sheet).to_contain_text("This is a scheme; it opens as a project of its own.")
    sheet.get_by_role("button", name="Bring it in").click()
    expect(headline(page)).to_contain_text(before)


def test_a_project_is_taken_away_and_brought_in_as_a_copy(page: Page):
    open_project(page, "Saltwick Hut")
    before = energy(page)
    assert findings_in(take_away(page), page) == []
    content = taken(page, "Project: with history")
    page.goto("/")
    sheet = bring(page, "saltwick.noontide", content)
    expect(sheet).to_contain_text("is here already: this one stands beside it as a copy")
    expect(sheet).to_contain_text(re.compile(r"2 schemes"))
    page.keyboard.press("Escape")
    expect(page.get_by_role("link", name="Open Saltwick Hut (2)")).to_have_count(0)
    sheet = bring(page, "saltwick.noontide", content)
    sheet.get_by_role("button", name="Bring it in").click()
    expect(headline(page)).to_contain_text(before)
    expect(page.get_by_role("banner")).to_contain_text("Saltwick Hut (2)")
    page.goto("/")
    card = page.locator("article, .sheet, li").filter(has_text="Saltwick Hut (2)").first
    expect(card).to_contain_text("a copy")


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("plan.pdf", b"%PDF-1.7 and so on", "It cannot be brought in."),
        ("odd.json", b'{"site": {"latitude": 99, "longitude": 0}, "format": "noontide-design/5"}', "Enter 90 or less"),
        ("half.noontide", b"PK\x03\x04 and nothing more", "damaged or cut off"),
    ],
)
def test_a_file_that_is_none_of_ours_is_refused_in_words(page: Page, name, content, said):
    page.goto("/")
    sheet = bring(page, name, content)
    if name == "odd.json":
        sheet.get_by_role("button", name="Bring it in").click()
    expect(sheet.get_by_role("alert")).to_contain_text(said)
    expect(sheet.get_by_role("button", name="Bring it in")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)


def test_a_view_is_shared_read_on_a_phone_and_taken_back(page: Page):
    open_project(page, "Aldermoor Dairy")
    shown = energy(page)
    brief(page).get_by_role("link", name="take it away").click()
    sheet = page.get_by_role("dialog", name="Take away")
    sheet.get_by_role("button", name="Share this revision").click()
    expect(page.get_by_role("status").filter(has_text="The address is copied.")).to_be_visible()
    address = page.evaluate("navigator.clipboard.readText()")
    assert "/shared/" in address

    reader = page.context.browser.new_context(
        viewport={"width": 390, "height": 800}, device_scale_factor=0.5, color_scheme="light"
    )
    phone = reader.new_page()
    phone.goto(address)
    expect(phone.get_by_role("heading", name="Aldermoor Dairy")).to_be_visible()
    expect(phone.get_by_role("region", name="Headline")).to_contain_text(shown)
    expect(phone.get_by_role("img", name=re.compile("^The power of every hour"))).to_be_visible()
    expect(phone.get_by_role("region", name="The design in words")).to_contain_text("Hexley 20")
    expect(phone.get_by_role("figure", name=re.compile("^Page 1 of"))).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth"), "no page is wider than the phone"
    assert phone.get_by_role("textbox").count() == 0, "nothing can be typed"
    phone.evaluate(DRAG)
    assert phone.get_by_text("Drop the file here").count() == 0, "nothing can be brought in"
    assert findings(phone) == []

    sheet.get_by_role("button", name="take back").first.click()
    expect(page.get_by_role("status").filter(has_text="taken back")).to_be_visible()
    phone.reload()
    expect(phone.get_by_role("heading", name="Nothing is shared here")).to_be_visible()
    reader.close()
    page.keyboard.press("Escape")
    undo_all(page)


def findings_in(sheet, page: Page) -> list[str]:
    """Findings of axe while a sheet lies open."""
    expect(sheet.get_by_role("link", name="Money: XLSX").or_(sheet.get_by_text("Money is not counted.")).first).to_be_visible()
    return findings(page)
