"""A table that nobody has described becomes a trusted year: its reading beside its lines, a column set right, the clock mended."""

from datetime import timedelta

from playwright.sync_api import expect

from tests.browser.conftest import open_project
from tests.browser.test_journeys import drop


def table(weather, late=0, heading="Was auch immer") -> str:
    """A late one is a little warmer: the library keeps one row for one year of values, however it came."""
    rows = [
        f"{s + timedelta(minutes=late):%d.%m.%Y;%H:%M};{g:.1f};{d:.1f};{t + late / 600:.1f}"
        for s, g, d, t in zip(
            weather.calendar.local_starts.astype(object), weather.ghi, weather.dhi, weather.temperature, strict=True
        )
    ]
    return f"Station: harbour mast\nLat;43.62\nLon;11.31\nHeight;412 m\nUTC+1\nTag;Zeit;Global;{heading};Luft\n" + "\n".join(rows)


def test_an_awkward_table_is_dropped_one_column_set_right_and_the_year_is_the_schemes(page, hill_weather):
    open_project(page, "Aldermoor Dairy", "weather")
    drop(page, "harbour-mast.csv", table(hill_weather))
    sheet = page.get_by_role("dialog", name="How the file is understood")
    expect(sheet.get_by_role("region", name="Lines of the file")).to_contain_text("Station: harbour mast")
    expect(sheet.get_by_role("combobox", name="What Global holds")).to_have_value("ghi")
    expect(sheet).to_contain_text("the time fits the sun")
    sheet.get_by_role("button", name="1 column not used").click()
    expect(sheet).to_contain_text("DNI and DHI are missing: derived from GHI")
    sheet.get_by_role("combobox", name="What Was auch immer holds").select_option("dhi")
    # The effect is there at once: DHI is read now, no longer derived.
    expect(sheet).to_contain_text("DNI is missing: derived from GHI = DNI × cos(zenith) + DHI")
    sheet.get_by_role("button", name="Use this year").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_role("heading", name="Weather", exact=True)).to_be_visible()
    expect(page.get_by_text("harbour mast is now the scheme's weather.")).to_be_visible()
    page.get_by_role("button", name="Undo").first.click()


def test_a_clock_two_hours_late_is_seen_against_the_sun_and_mended_by_one_button(page, hill_weather):
    open_project(page, "Aldermoor Dairy", "weather")
    drop(page, "late.csv", table(hill_weather, late=120, heading="Diffus"))
    sheet = page.get_by_role("dialog", name="How the file is understood")
    expect(sheet).to_contain_text("−120 min fits best")
    sheet.get_by_role("button", name="Shift by −120 min and use").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_text("Times shifted by -120 min.")).to_be_visible()


def test_what_is_no_table_is_refused_in_words_and_a_sheet_can_be_closed_with_the_keyboard(page, hill_weather):
    open_project(page, "Aldermoor Dairy", "weather")
    drop(page, "letter.txt", "Dear Sir,\n" * 300)
    expect(page.get_by_role("alertdialog")).to_contain_text("no table was found")
    page.keyboard.press("Escape")
    drop(page, "other.csv", table(hill_weather, heading="Diffus"))
    sheet = page.get_by_role("dialog", name="How the file is understood")
    expect(sheet).to_be_visible()
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()


def test_twelve_numbers_are_pasted_as_cells_and_become_the_schemes_year(page):
    open_project(page, "Weir Cottage", "weather")
    page.get_by_role("button", name="Twelve numbers…").first.click()
    sheet = page.get_by_role("dialog", name="A year from twelve numbers")
    expect(sheet.get_by_role("button", name="Make the year")).to_be_disabled()
    first = sheet.get_by_role("textbox", name="GHI of Jan")
    cells = "\n".join(
        f"{g}\t{t}" for g, t in zip((20, 35, 70, 110, 140, 150, 145, 120, 80, 45, 23, 15), range(2, 14), strict=True)
    )
    first.evaluate(
        "(field, text) => { const t = new DataTransfer(); t.setData('text/plain', text);"
        " field.dispatchEvent(new ClipboardEvent('paste', { clipboardData: t, bubbles: true, cancelable: true })) }",
        cells,
    )
    expect(sheet.get_by_role("textbox", name="Temperature of Dec")).to_have_value("13")
    expect(sheet).to_contain_text("Year 953 kWh/m²")
    sheet.get_by_role("textbox", name="GHI of Jun").fill("900")
    sheet.get_by_role("button", name="Make the year").click()
    expect(sheet.get_by_role("alert")).to_contain_text("June cannot have 900 kWh/m²")
    sheet.get_by_role("textbox", name="GHI of Jun").fill("150")
    sheet.get_by_role("button", name="Make the year").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_role("main", name="Weather")).to_contain_text("its hours are drawn, not measured")
    expect(page.get_by_role("main", name="Weather")).to_contain_text("953 kWh/m²")
    page.get_by_role("button", name="Undo", exact=True).first.click()
