"""A language is a file: what of a customer's report it must hold, and what it must never touch."""

import ast
import re
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import noontide
from noontide.core.drawing import Text
from noontide.core.figures.catalogue import FIGURES
from noontide.core.report import PAGES, About, pages_of, report_of
from noontide.core.report.terms import TERMS
from noontide.core.report.wording import UnknownLanguage, languages, names_in, wording
from noontide.core.simulation import simulate
from noontide.core.simulation.connection import LINES
from noontide.core.units import NUMBERS

ROOT = Path(noontide.__file__).parent


def said(text: str, numbers: str = "", language: str = "de", names=()) -> str:
    return wording(language, numbers, names).say(text)


def test_figures_lines_terms_and_pages_are_in_every_catalogue():
    wanted = [figure.title for figure in FIGURES] + [line.title for line in LINES] + [page.title for page in PAGES.values()]
    wanted += [*TERMS, *TERMS.values()]
    for language in languages().values():
        if language.texts:
            assert [text for text in wanted if text not in language.texts] == []
            assert language.numbers in NUMBERS


def test_a_translation_has_the_places_of_its_text():
    for language in languages().values():
        for text, translated in language.texts.items():
            assert translated.count("{}") == text.count("{}"), text


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("Annual energy", "Jahresenergie"),
        ("36,909 kWh", "36.909 kWh"),
        ("−4,867", "−4.867"),
        ("45.4 %", "45,4 %"),
        ("43.62° N, 11.31° E", "43,62° N, 11,31° O"),
        ("S 12° W", "S 12° W"),
        ("revision 3, 1 May 2026", "Revision 3, 1. Mai 2026"),
        ("; cell temperature ", "; Zelltemperatur "),
        (" rises to 14° in the east", " steigt bis 14° im Osten"),
        ("Least light on the planes in December, most in July.", "Das wenigste Licht auf den Flächen im Dezember, das meiste im Juli."),
        ("Roof: drawn in the scene. Shade: computed from the scene and the horizon.", "Dach: am Gebäude gezeichnet. Schatten: berechnet aus dem Gebäude und dem Horizont."),
        ("9b6e190d282f14cc850d052f6e057690", "9b6e190d282f14cc850d052f6e057690"),
        ("Perez et al. (1990), Solar Energy 44, 271-289", "Perez et al. (1990), Solar Energy 44, 271-289"),
        ("2025-03", "2025-03"),
    ],
)  # fmt: skip
def test_texts_numbers_and_dates_are_put_into_german(text, expected):
    assert said(text) == expected


def test_names_stay_as_they_are():
    names = {"Hexley 1.5", "Annual energy", "May", "Barn, south pitch"}
    assert said("Hexley 1.5", names=names) == "Hexley 1.5"
    assert said("Annual energy", names=names) == "Annual energy", "a surface may be named like a figure"
    assert said("On the Barn, south pitch (tilt ", names=names) == "Auf Barn, south pitch (Neigung "
    assert names_in({"surfaces": {"s": {"name": "South", "mounting": "roof"}}}) == {"South"}


@pytest.mark.parametrize(
    ("numbers", "expected"),
    [("1,234.5", "1,234.5 kWh"), ("1.234,5", "1.234,5 kWh"), ("1 234,5", "1\u202f234,5 kWh"), ("1’234.5", "1’234.5 kWh")],
)
def test_english_has_any_numbers(numbers, expected):
    assert said("1,234.5 kWh", numbers, "en") == expected
    assert said("Least 1,234.5 kWh in Hexley 1.5, at 2.5.", numbers, "en", {"Hexley 1.5"}).count("Hexley 1.5") == 1


def test_what_is_missing_is_named_and_stands_in_english():
    words = wording("de")
    assert words.say("A wish of 1,234.5 m") == "A wish of 1.234,5 m"
    assert words.missing == {"A wish of 1,234.5 m"}


@pytest.mark.parametrize(("language", "numbers"), [("xx", ""), ("en", "1_234")])
def test_what_there_is_not_is_refused(language, numbers):
    with pytest.raises(UnknownLanguage, match=r"There is no|Numbers"):
        wording(language, numbers)


@settings(max_examples=200, deadline=None)
@given(st.text(max_size=60), st.sampled_from(["en", "de"]), st.sampled_from(list(NUMBERS)))
def test_any_text_comes_through(text, language, numbers):
    words = wording(language, numbers)
    found = words.say(text)
    assert found == words.say(text)
    # No letter of what is not known is lost.
    if text.strip() in words.missing:
        assert re.sub(r"[\W\d]", "", found) == re.sub(r"[\W\d]", "", text)


def test_english_with_its_own_numbers_changes_nothing(roof, hill_weather, parts):
    results = simulate(roof, hill_weather, parts)
    about = About("P", "C", "A, South", "revision 1, 1 May 2026", "ab" * 32)
    plain = report_of(results, about, list(PAGES))
    assert report_of(results, about, list(PAGES), words=wording("en", "1,234.5")).as_pdf() == plain.as_pdf()


@pytest.mark.parametrize("units", ["metric", "imperial"])
def test_the_whole_customers_edition_is_in_german(roof, hill_weather, parts, units):
    results = simulate(roof, hill_weather, parts)
    report = report_of(
        results,
        About("P", "C", "A, South", "revision 1, 1 May 2026", "ab" * 32),
        pages_of("customer"),
        words=wording("de", units=units),
    )
    assert report.untranslated == () and report.language == "de"


# What of the Brief's own words the catalogue has: a new sentence must bring its translation.
SPOKEN = ("paragraphs.py", "after_meter.py", "inputs.py")


@pytest.mark.parametrize("file", SPOKEN)
def test_sentences_of_the_brief_have_their_german(file):
    tree = ast.parse((ROOT / "core/brief" / file).read_text(encoding="utf-8"))
    spoken = [
        call.args[0].value
        for call in ast.walk(tree)
        if isinstance(call, ast.Call)
        and getattr(call.func, "id", "") == "text_run"
        and call.args
        and isinstance(call.args[0], ast.Constant)
    ]
    words = wording("de")
    for text in spoken:
        words.say(text)
    missing = {text for text in words.missing if not text.endswith("…")}
    assert missing == set()


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("412 m", "1,352 ft"),
        ("45.0 m", "147.6 ft"),
        ("String cables of 16 to 30 m", "String cables of 52 to 98 ft"),
        ("−40 °C to 30 °C", "−40 °F to 86 °F"),
        ("1,462 kWh/m²", "1,462 kWh/m²"),
        ("180 m²", "1,938 ft²"),
        ("4 mm² copper", "4 mm² copper"),
        ("kWh/m² a day", "kWh/m² a day"),
    ],
)
def test_lengths_and_temperatures_have_the_readers_units_and_energy_its_own(text, expected):
    assert wording("en", units="imperial").say(text) == expected


def test_columns_with_a_unit_in_their_heading_are_converted_too(roof, hill_weather, parts):
    results = simulate(roof, hill_weather, parts)
    plain, other = (
        [
            m.text
            for s in report_of(results, About("P"), ["yield"], words=wording("en", units=units)).sheets
            for m in s.marks
            if isinstance(m, Text)
        ]
        for units in ("metric", "imperial")
    )
    assert "Air [°C]" in plain and "Air [°F]" in other
    year = float(results.weather.temperature.mean())
    assert f"{year:.1f}" in plain and any(abs(float(t) - (1.8 * year + 32)) < 0.15 for t in other if re.fullmatch(r"\d+\.\d", t))
    assert [t for t in plain if "kWh" in t] == [t for t in other if "kWh" in t]
