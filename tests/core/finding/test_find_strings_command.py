"""Strings are found on the command line as in the browser, and what is taken gives the year that it promised."""

import json

import pytest

from noontide.cli import main
from noontide.core.design import Design, merge_patch
from noontide.core.finding import CannotFind, FindRequest, find_strings
from noontide.core.simulation import Libraries, simulate
from tests.conftest import SOUTH_ROOF

DESIGN, WEATHER = "docs/examples/south-roof.json", "docs/examples/aldermoor.csv"


def run(capsys, *more):
    with open(DESIGN, encoding="utf-8") as file:
        surface = next(iter(json.load(file)["surfaces"]))
    code = main(["find-strings", DESIGN, "--weather", WEATHER, "--surface", surface, "--module", "veltrane-430", *more])
    return code, capsys.readouterr().out


def test_a_way_that_is_taken_gives_the_energy_that_was_shown(capsys, tmp_path):
    code, shown = run(capsys, "--number", "36", "--inverter", "corvane-15t", "--json")
    found = json.loads(shown)
    assert code == 0 and found["number"] == 36 and found["proposals"][0]["modules"] == 36
    out = tmp_path / "taken.json"
    assert run(capsys, "--number", "36", "--inverter", "corvane-15t", "--take", "1", "--out", str(out))[0] == 0
    assert main(["simulate", str(out), "--weather", WEATHER, "--json"]) == 0
    year = json.loads(capsys.readouterr().out)
    assert year["annual"]["energy"] == pytest.approx(found["proposals"][0]["energy"], rel=1e-9)


def test_the_list_is_read_and_a_power_is_reached(capsys):
    code, shown = run(capsys, "--power", "12", "--ratio", "1", "1.3")
    lines = [line.split() for line in shown.splitlines() if line[:3].strip().isdigit()]
    assert code == 0 and lines and all(line[0] == str(k) for k, line in enumerate(lines, 1))
    _, shown = run(capsys, "--power", "12", "--ratio", "1", "1.3", "--json")
    for way in json.loads(shown)["proposals"]:
        assert way["modules"] * 0.43 >= 12 and 1 <= way["dc_ac_ratio"] <= 1.3 and way["short"] <= 0


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--number", "36", "--module", "none"], "no 'none' among its modules"),
        (["--number", "36", "--surface", "none"], "no surface 'none'"),
        (["--number", "0"], "number"),
        (["--demand", "50"], "has no demand"),
        (["--number", "36", "--ratio", "1.4", "1.1"], "above the highest"),
        (["--number", "36", "--take", "99"], "choose 1 to"),
    ],
)
def test_what_cannot_be_looked_for_says_why(capsys, arguments, words):
    with pytest.raises(SystemExit):
        run(capsys, *arguments)
    assert words in capsys.readouterr().err


def test_the_finder_needs_no_server_and_changes_nothing(parts, hill_weather):
    design = Design.read(SOUTH_ROOF)
    before = design.as_kept()
    asked = FindRequest(surface="barn", module="veltrane-430", number=36, first=True)
    found = find_strings(design, asked, Libraries(parts, hill_weather))
    assert design.as_kept() == before and found.is_partial and found.proposals
    best = found.proposals[0]
    taken = Design.read(merge_patch(before, best.patch))
    assert simulate(taken, hill_weather, parts).annual.energy == pytest.approx(best.energy, rel=1e-9)
    with pytest.raises(CannotFind, match="no surface") as told:
        find_strings(design, asked.model_copy(update={"surface": "shed"}), Libraries(parts, hill_weather))
    assert (told.value.kind, told.value.pointer) == ("unknown-surface", "/surface")
