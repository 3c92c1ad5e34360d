"""A year is doubted, adjusted and run over all the years of its file."""

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.conftest import brief, energy, headline, open_project, undo_all
from tests.browser.test_journeys import drop


def record(weather) -> str:
    """Three years of one station, each a tenth brighter; the middle one has a sensor that is stuck for a day."""
    lines = ["# latitude 43.62", "# longitude 11.31", "# elevation 412", "time;GHI [W/m2];temperature [C]"]
    for i, year in enumerate((2021, 2022, 2023)):
        starts = np.datetime64(f"{year}-01-01T00:00") + np.arange(8760) * np.timedelta64(60, "m")
        ghi = weather.ghi * (0.8 + 0.1 * i)
        if year == 2023:
            ghi[4000:4024] = 444
        lines += [f"{s};{g:.2f};{t:.2f}" for s, g, t in zip(starts.astype(str), ghi, weather.temperature, strict=True)]
    return "\n".join(lines)


def test_a_stuck_sensor_is_found_filled_and_the_scheme_is_run_over_every_year(page, hill_weather):
    open_project(page, "Weir Cottage", "weather")
    undo_all(page)
    before = energy(page)
    drop(page, "record.csv", record(hill_weather))
    sheet = page.get_by_role("dialog", name="How the file is understood")
    sheet.get_by_role("combobox", name="Year").select_option("2023")
    expect(sheet).to_contain_text("8,760 intervals")
    sheet.get_by_role("button", name="Use this year").click()
    bench = page.get_by_role("main", name="Weather")
    checks = bench.get_by_role("table", name="Quality checks")
    expect(checks).to_contain_text("GHI repeats the same value")
    checks.get_by_role("button", name="GHI repeats the same value").click()
    expect(page.get_by_role("slider", name="Moment of the year")).to_have_attribute("aria-valuetext", re.compile("^16 Jun"))
    doubtful = energy(page)

    bench.get_by_role("button", name="Fill marked values…").click()
    bench.get_by_role("checkbox", name="doubtful ones too").check()
    sentences = brief(page)
    expect(sentences).to_contain_text("adjusted: marked values filled")
    expect(headline(page)).not_to_contain_text(doubtful)
    filled = energy(page)
    bench.get_by_role("checkbox", name="Fill marked values: in use").uncheck()
    expect(headline(page)).not_to_contain_text(filled)
    bench.get_by_role("checkbox", name="Fill marked values: in use").check()
    expect(headline(page)).to_contain_text(filled)

    bench.get_by_role("button", name="Simulate the scheme over all of them").click()
    expect(bench.get_by_role("table", name="Each year of the record")).to_contain_text("2021", timeout=60_000)
    expect(bench).to_contain_text(re.compile(r"exceeded in nine of ten"))
    bench.get_by_role("button", name="Warmer climate").click()
    expect(bench).to_contain_text("These figures belong to an earlier state of the scheme")
    undo_all(page)
    expect(headline(page)).to_contain_text(before)


def test_two_sources_near_the_site_are_fetched_compared_and_one_is_chosen(page):
    open_project(page, "Weir Cottage", "weather")
    undo_all(page)
    before = energy(page)
    bench = page.get_by_role("main", name="Weather")
    bench.get_by_role("button", name="Sources near the site…").click()
    sources = page.get_by_role("dialog", name="Weather sources near the site")
    expect(sources.get_by_role("checkbox")).not_to_have_count(0)
    for i in (1, 2):
        sources.get_by_role("checkbox").nth(i).check()
    sources.get_by_role("button", name="Fetch 2 and compare").click()
    compared = page.get_by_role("dialog", name="Years compared")
    expect(compared).to_contain_text("2 years compared", timeout=30_000)
    compared.get_by_role("button", name="Use this").nth(1).click()
    expect(compared).to_be_hidden()
    expect(headline(page)).not_to_contain_text(before)
    ticks = bench.get_by_role("checkbox", name=re.compile("^Compare "))
    ticks.nth(0).check()
    ticks.nth(1).check()
    bench.get_by_role("button", name="Compare 2").click()
    expect(compared).to_contain_text("2 years compared")
    compared.get_by_role("button", name="Close").click()
    undo_all(page)
    expect(headline(page)).to_contain_text(before)
