"""Reports of simulated designs: every edition is set, says what the screen says, and is the same bytes when it is made again."""

import copy
import dataclasses
import io
import itertools
import re

import numpy as np
import pytest
from pypdf import PdfReader

from noontide.core.access.solar_access import accesses_of
from noontide.core.brief.comparing import differences
from noontide.core.costs.bill import bill_of
from noontide.core.design import Design, merge_patch
from noontide.core.drawing import Cells, Polyline, Text
from noontide.core.drawing.ramp import ramp
from noontide.core.figures.catalogue import figures_of
from noontide.core.plan.layouts import plans_of
from noontide.core.report import EDITIONS, PAGES, About, Other, Record, UnknownPage, as_html, pages_of, report_of
from noontide.core.report.pages import headline, value_of
from noontide.core.report.wording import wording
from noontide.core.simulation import StageCache, simulate
from noontide.core.verbs.catalogue import applied
from noontide.tariffs import built_in_tariffs
from tests.conftest import SOUTH_ROOF, filled, simulated_weather

ABOUT = About("Barn on the hill", "Cooperative", "A, South roof", "revision 3, 1 December 2026", "0f" * 32)
HOUSE = {"house": {"name": "House", "per_area": {"use": 40, "area": 150}}}


@pytest.fixture(scope="module")
def roof_year(hill_weather, parts):
    tariff = built_in_tariffs()["dairy-demand"].model_dump(mode="json", exclude_unset=True)
    document = copy.deepcopy(SOUTH_ROOF) | {"demand": {"sources": HOUSE}, "money": {"tariff": tariff}}
    return simulate(Design.read(document), hill_weather, parts)


@pytest.fixture(scope="module")
def scene_year(hill_weather, parts):
    document = copy.deepcopy(SOUTH_ROOF) | {
        "scene": {"buildings": {"barn": {"name": "Barn", "length": 20, "width": 12, "gable": {"pitch": 25}}}},
        "surfaces": {"barn": {"face": "barn/roof-1", "layout": {"module": "veltrane-430"}}},
    }
    return simulate(Design.read(filled(document, {"surface": "barn"}, parts)), hill_weather, parts)


def words_of(report, page=None):
    return [
        mark.text
        for sheet, key in zip(report.sheets, report.pages, strict=True)
        for mark in sheet.marks
        if isinstance(mark, Text) and page in (None, key)
    ]


@pytest.mark.parametrize("edition", list(EDITIONS))
@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_every_edition_has_its_pages_in_order_or_says_why_not(roof_year, edition, paper):
    report = report_of(roof_year, ABOUT, pages_of(edition), paper)
    left_out = dict(report.left_out)
    assert list(dict.fromkeys(report.pages)) == [key for key in pages_of(edition) if key not in left_out]
    assert all(left_out.values())
    numbers = [int(m[1]) for text in words_of(report) if (m := re.fullmatch(rf"(\d+) of {len(report.sheets)}", text))]
    assert numbers == sorted(numbers) and numbers[0] == 1
    sheets = [mark.sheet for mark in report.outline]
    assert sheets == sorted(sheets) and max(sheets) < len(report.sheets)


def test_a_place_without_a_grid_has_its_worksheet_on_paper(hill_weather, parts):
    document = copy.deepcopy(SOUTH_ROOF) | {
        "demand": {"sources": HOUSE},
        "storage": {"bank": {"energy": 12}, "off_grid": {"voltage": 48}},
    }
    report = report_of(simulate(Design.read(document), hill_weather, parts), ABOUT, pages_of("off-grid"))
    assert "place" in report.pages and "By the worksheet" in words_of(report, "place")


def test_every_word_stands_on_its_paper(scene_year):
    report = report_of(scene_year, ABOUT, list(PAGES))
    for sheet in report.sheets:
        for mark in sheet.marks:
            if isinstance(mark, Text):
                assert -0.5 <= mark.x <= sheet.width + 0.5 and 0 <= mark.y <= sheet.height


def test_figures_are_those_of_the_screen(roof_year):
    cover = words_of(report_of(roof_year, ABOUT, ["cover"]))
    for figure in headline(roof_year)[:20]:
        assert figure.title in cover and value_of(figure, roof_year) in cover
    balance = words_of(report_of(roof_year, ABOUT, ["balance"]))
    assert f"{roof_year.cascade.delivered:,.0f}" in balance
    for entry in roof_year.cascade.entries:
        if abs(entry.energy) >= 0.5:
            assert entry.title in balance and f"{entry.energy:,.0f}".replace("-", "−") in balance


def test_the_months_on_paper_sum_to_the_year(roof_year):
    bars = [int(t.replace(",", "")) for t in words_of(report_of(roof_year, ABOUT, ["yield"])) if re.fullmatch(r"[\d,]+", t)]
    months = bars[:12]
    assert sum(months) == pytest.approx(roof_year.annual.energy, abs=6)


def test_the_bill_of_materials_on_paper_is_the_bill(roof_year):
    bill = bill_of(roof_year, roof_year.library)
    words = words_of(report_of(roof_year, ABOUT, ["materials"]))
    assert f"{bill.price:,.2f}" in words and all(line.kind in words for line in bill.lines)


def test_the_band_of_the_cover_has_an_hour_for_each_of_the_year_and_is_dark_at_night(roof_year):
    (band,) = [m for m in report_of(roof_year, ABOUT, ["cover"]).sheets[0].marks if isinstance(m, Cells)]
    assert (len(band.colours), {len(row) for row in band.colours}) == (24, {365})
    assert len(set(band.colours[-1])) == 1  # the first hour after midnight
    assert len(set(band.colours[11])) > 10  # at noon


def test_the_same_design_makes_the_same_bytes(roof_year):
    one, other = (report_of(roof_year, ABOUT, pages_of("engineer")) for _ in range(2))
    assert one.as_pdf() == other.as_pdf() and as_html(one) == as_html(other)


def test_solar_access_and_plan_stand_in_a_report_of_a_scene(scene_year):
    report = report_of(scene_year, ABOUT, pages_of("shade"))
    assert not report.left_out
    assert any("Plan 1:" in text for text in words_of(report, "plan"))
    assert "Barn, front" in " ".join(words_of(report, "access")) or "Barn" in " ".join(words_of(report, "access"))


@pytest.mark.parametrize(
    ("pages", "paper", "said"),
    [(["cover", "castle"], "a4", "no page 'castle'"), (["cover"], "papyrus", "no paper"), ([], "a4", "one page or more"), (["plan"], "a4", "No surface lies")],
)  # fmt: skip
def test_what_there_is_not_is_refused_in_words(roof_year, pages, paper, said):
    with pytest.raises(UnknownPage, match=said):
        report_of(roof_year, ABOUT, pages, paper)


def test_an_edition_that_there_is_not_is_refused():
    with pytest.raises(UnknownPage, match="customer"):
        pages_of("banker")


def test_a_hostile_name_is_words_in_both_formats(roof_year):
    name = "<script>alert(1)</script> & \u202e=HYPERLINK(1) \ufffe \x07" + "W" * 300
    report = report_of(roof_year, About(name, name, name, name, "ab"), ["cover", "inputs"])
    page = as_html(report)
    assert "<script" not in page and "&lt;script&gt;" in page and "\x07" not in page and "\ufffe" not in page
    assert report.as_pdf().startswith(b"%PDF")


def test_html_needs_nothing_beside_it(roof_year):
    page = as_html(report_of(roof_year, ABOUT, ["cover", "yield"]))
    assert not re.search(r"""(src|href)=["']?(https?:|//|/)""", page) and "url(data:font" in page
    assert page.count("<svg") == 2 and page.count('href="#sheet-') == 2


# At 78.2° the sun of 21 February (declination 10.7° south) still clears the horizon by a degree; that of 21 January does not.
@pytest.mark.parametrize(("latitude", "months"), [(51.3, 7), (-43.2, 7), (0.0, 7), (78.2, 5), (-78.2, 5)])
def test_the_suns_paths_lie_in_the_sky_and_only_where_the_sun_is_up(parts, latitude, months):
    document = copy.deepcopy(SOUTH_ROOF)
    document["site"] |= {
        "latitude": latitude,
        "longitude": 0,
        "horizon": [{"azimuth": 90, "elevation": 14}, {"azimuth": 200, "elevation": 3}],
    }
    year = simulate(Design.read(document), simulated_weather(latitude, 0, 10, 0), parts)
    report = report_of(year, ABOUT, ["sky"])
    (sheet,) = report.sheets
    assert sum(bool(re.fullmatch(r"21 \w{3}", text)) for text in words_of(report)) == months
    lines = [mark for mark in sheet.marks if isinstance(mark, Polyline)]
    assert all(0 < x < sheet.width and 0 < y < sheet.height for mark in lines for x, y in mark.points)
    # No path runs across the picture from one side to the other at once.
    for mark in lines:
        if mark.tone == "sun":
            assert max(abs(b[0] - a[0]) for a, b in itertools.pairwise(mark.points)) < sheet.width / 2


def test_the_pdf_can_be_searched_has_its_type_in_it_and_bookmarks_lead_to_the_pages(roof_year):
    report = report_of(roof_year, ABOUT, pages_of("engineer"))
    read = PdfReader(io.BytesIO(report.as_pdf()))
    assert len(read.pages) == len(report.sheets)
    text = read.pages[0].extract_text()
    assert "Annual energy" in text and f"{roof_year.annual.energy:,.0f} kWh" in text
    tops = [line for line in read.outline if not isinstance(line, list)]
    assert [read.get_destination_page_number(line) for line in tops] == [m.sheet for m in report.outline if m.level == 0]
    fonts = [font.get_object() for page in read.pages for font in page["/Resources"]["/Font"].values()]
    embedded = [f["/FontDescriptor"].get_object() for f in fonts if "/FontDescriptor" in f]
    assert embedded and all("/FontFile2" in one for one in embedded)
    assert read.metadata.title.startswith("Barn on the hill") and read.metadata.subject == ABOUT.footnote


def test_years_of_a_record_stand_with_p50_and_p90(roof, hill_weather, parts):
    results = simulate(roof, hill_weather, parts)
    record = Record(((2021, 10_000.0, 1000.0, 0.85), (2022, 12_000.0, 1200.0, 0.86)), 11_000.0, 0.129, 11_000.0, 9_187.0)
    with_it = report_of(results, About("P"), ["years"], record=record)
    texts = " ".join(mark.text for sheet in with_it.sheets for mark in sheet.marks if isinstance(mark, Text))
    assert "9,187 kWh" in texts and "2022" in texts and "12,000" in texts
    without = report_of(results, About("P"), ["cover", "years"])
    assert without.left_out[0][0] == "years"


def test_a_customers_report_takes_four_pages_and_says_what_differs_elsewhere(roof, hill_weather, parts):
    results = simulate(roof, hill_weather, parts)
    report = report_of(results, About("P", "C", "A, South"), pages_of("customer"))
    assert len(report.sheets) <= 4 and report.pages[0] == "built"
    steeper = Design.read(roof.as_kept() | {"losses": {"soiling": 4.5}, "name": "Dirty"})
    lines = differences(roof, steeper)
    assert ("Losses, Soiling", "2 %", "4.5 %") in lines
    assert differences(roof, roof) == ()
    # Both ways the same places, the values exchanged.
    assert {(place, b, a) for place, a, b in differences(steeper, roof)} == set(lines)
    other = Other("B, Dirty", figures_of(results), lines)
    page = report_of(results, About("P", "", "A, South"), ["schemes"], others=[other])
    texts = [mark.text for sheet in page.sheets for mark in sheet.marks if isinstance(mark, Text)]
    assert "4.5 %" in texts and "Losses, Soiling" in texts


def test_terms_are_those_that_the_pages_use(roof, hill_weather, parts):
    results = simulate(roof, hill_weather, parts)
    texts = [m.text for s in report_of(results, About("P"), ["cover", "glossary"]).sheets for m in s.marks if isinstance(m, Text)]
    assert "Performance ratio" in texts and "Backtracking" not in texts


@pytest.mark.parametrize("units, unit, metre", [("metric", "m", 1.0), ("imperial", "ft", 0.3048)])
def test_the_plan_is_in_the_readers_unit_and_its_scale_is_as_long_as_it_says(scene_year, units, unit, metre):
    report = report_of(scene_year, ABOUT, ["plan"], words=wording("en", "1.234,5", units=units))
    (sheet,) = report.sheets
    words = words_of(report)
    assert f"{20 / metre:.2f}".replace(".", ",") in words, "the length of the ridge"
    scale = int(next(m[1] for text in words if (m := re.match(r"Plan 1:(\d+)", text))))
    bar = next(mark for mark in sheet.marks if isinstance(mark, Text) and re.fullmatch(rf"\d+ {unit}", mark.text))
    line = next(mark for mark in sheet.marks if isinstance(mark, Polyline) and mark.weight == 0.5)
    long = line.points[1][0] - line.points[0][0]
    assert long * scale / 1000 == pytest.approx(int(bar.text.split()[0]) * metre)


def kept(scene_year, **views):
    design = Design.read(scene_year.design.as_kept() | {"views": views})
    return dataclasses.replace(scene_year, design=design)


def modules_of(report):
    return [m for s in report.sheets for m in s.marks if isinstance(m, Polyline) and m.fill and m.weight == 0.06]


def test_kept_views_take_the_place_of_the_seasons_with_their_eye_colours_and_time(scene_year):
    views = {
        "a": {"name": "Plan", "azimuth": 180, "elevation": 90, "quantity": "as built"},
        "b": {"name": "In June", "azimuth": 180, "elevation": 40, "quantity": "irradiation", "month": 6},
        "c": {"name": "A noon", "azimuth": 180, "elevation": 40, "span": [171 * 1440 + 720, 171 * 1440 + 780]},
    }
    report = report_of(kept(scene_year, **views), ABOUT, ["views"])
    words = words_of(report)
    assert [w for w in words if w in ("Plan", "In June", "A noon")] == ["Plan", "In June", "A noon"]
    assert "As built." in words and "Irradiation: June." in words and "Solar access: 21 June 12:00 to 21 June 13:00." in words
    drawn = modules_of(report)
    count = len(drawn) // 3
    assert len(drawn) == 3 * count > 0
    assert len({m.fill for m in drawn[:count]}) == 1, "as built, a module is a module"
    # The colours of amounts end at what the brightest face receives in that month, here the only one.
    accesses = accesses_of(scene_year.design, scene_year.library, scene_year.joined, StageCache())
    assert f"{accesses[0].access.free[5]:,.0f} kWh/m²" in words
    # From above, a module is as wide on paper as it is long on its face, and as its slope is high seen on the ground.
    wide, high = np.ptp(np.array(drawn[0].points), axis=0)
    corners = next(iter(plans_of(scene_year.design, scene_year.library).values()))
    size = np.ptp(corners.corners(corners.ids[0])[:, :2], axis=0)
    assert wide / high == pytest.approx(size[0] / size[1], rel=1e-6)


@pytest.mark.parametrize(
    "view, said",
    [
        ({"month": 6, "span": [0, 60]}, "a month or a span"),
        ({"span": [60, 60]}, "ends after it begins"),
        ({"quantity": "colour"}, "as built"),
        ({"elevation": 91}, "less than or equal to 90"),
        ({"span": [0, 10**9]}, "less than or equal"),
    ],
)
def test_a_view_that_cannot_be_is_refused_in_words(scene_year, view, said):
    with pytest.raises(ValueError, match=said):
        kept(scene_year, a=view)


def test_a_view_is_kept_under_a_name_that_tells_it_apart(scene_year):
    design = scene_year.design
    for expected in ("From the south-west, solar access", "From the south-west, solar access 2"):
        patch, words = applied(design, "keep-view", {"azimuth": 215, "elevation": 30})
        assert [view["name"] for view in patch["views"].values()] == [expected] and expected in words
        design = Design.read(merge_patch(design.as_kept(), patch))
    patch, _ = applied(design, "keep-view", {"azimuth": 0, "elevation": 90, "quantity": "irradiation", "month": 12})
    assert next(iter(patch["views"].values()))["name"] == "From above, irradiation in December"
    # A view is no part of the plant: nothing of the year is counted anew for it.
    before = simulate(scene_year.design, scene_year.weather, scene_year.library)
    assert simulate(design, scene_year.weather, scene_year.library).annual.energy == before.annual.energy


def test_views_of_the_scene_show_every_module_by_its_access(scene_year):
    report = report_of(scene_year, ABOUT, ["views"])
    modules = sum(len(plan.ids) for plan in plans_of(scene_year.design, scene_year.library).values())
    filled_in = modules_of(report)
    assert modules > 0 and len(filled_in) == 3 * modules, "the year and two seasons"
    assert all(0 <= x <= 210 and 0 <= y <= 297 for m in filled_in for x, y in m.points)
    # Nothing shades a bare roof: all of it has the colour at the upper end of the scale.
    assert {m.fill for m in filled_in} == set(ramp([1.0]))
    assert b"%PDF" in report.as_pdf()[:8]
