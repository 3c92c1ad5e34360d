"""The Brief tells all of a design, however large, and every value in it can be edited where it stands."""

import re

import pytest

from noontide.core.brief.paragraphs import MOST_GROUPS, paragraphs
from noontide.core.design import Design
from tests.conftest import filled

ROOF = {"name": "Roof", "tilt": 20, "azimuth": 180}
STRINGS = {"module": "veltrane-430", "modules_per_string": 16, "strings": 2, "inverter": "one", "tracker": 1}


def brief(surfaces: dict, subarrays: dict | None = None, inverters: dict | None = None) -> dict[str, list]:
    design = Design.read(
        {
            "site": {"latitude": 45, "longitude": 9},
            "surfaces": surfaces,
            "inverters": inverters or {"one": {"model": "hexley-20"}},
            "subarrays": subarrays or {},
        }
    )
    return {p.bench: p.runs for p in paragraphs(design, None, None)}


def text(runs) -> str:
    return "".join(run.text for run in runs)


def test_every_value_points_to_its_place_in_the_document():
    told = brief({"roof": ROOF}, {"a": STRINGS | {"surface": "roof"}})
    pointers = {run.pointer: run.text for run in told["surfaces"] + told["circuits"] if run.kind == "value"}
    assert pointers["/surfaces/roof/tilt"] == "20"
    assert pointers["/subarrays/a/modules_per_string"] == "16"


def test_inverters_are_numbered_in_the_order_of_the_design():
    told = brief(
        {"roof": ROOF},
        {"a": STRINGS | {"surface": "roof"}, "b": STRINGS | {"surface": "roof", "inverter": "zeta"}},
        {"zeta": {"model": "hexley-20"}, "one": {"model": "hexley-20", "count": 3}},
    )
    labels = {run.pointer: run.label for run in told["circuits"]}
    assert labels["/inverters/zeta/model"] == "Inverter 1"
    assert labels["/inverters/one/count"] == "Number of inverters 2"


@pytest.mark.parametrize("count", [5, 40, 200])
def test_many_surfaces_are_few_sentences_that_leave_no_module_and_no_surface_out(count):
    surfaces = {f"s{i}": {"name": f"Shed {i}", "tilt": 5 + i % 40, "azimuth": (i * 37) % 360} for i in range(count)}
    subarrays = {f"a{i}": STRINGS | {"surface": f"s{i}"} for i in range(count)}
    runs = brief(surfaces, subarrays)["surfaces"]
    words = text(runs)
    assert words.count(". ") <= MOST_GROUPS
    told = sum(int(n.replace(",", "")) for n in re.findall(r"([\d,]+) modules", words))
    assert told == count * 32
    named = sum(1 for run in runs if run.surface)
    rest = sum(map(int, re.findall(r"and (\d+) more,", words))) + sum(map(int, re.findall(r"(\d+) more surfaces", words)))
    assert named + rest == count


def test_what_is_missing_is_an_invitation():
    told = brief({}, inverters={})
    assert text(told["surfaces"]) == "Add a surface…"
    assert "weather" in text(told["weather"])


def test_cables_connection_and_rules_are_told_and_shares_only_for_what_has_none():
    strings = {k: STRINGS | {"surface": "roof", "tracker": n} for n, k in enumerate("ab", 1)}
    bare = brief({"roof": ROOF}, strings)
    assert "cable" not in text(bare["circuits"]) and "DC wiring at rated power 1.5" in text(bare["losses"])
    design = Design.read(
        {
            "site": {"latitude": 45, "longitude": 9},
            "surfaces": {"roof": ROOF},
            "inverters": {"one": {"model": "hexley-20", "cable": {"length": 12}}},
            "subarrays": {
                k: s | {"cable": {"length": 20 + 5 * s["tracker"]}, "optimiser": "hexley-op450"} for k, s in strings.items()
            },
            "connection": {"cable": {"length": 45}, "power_factor": 0.95, "export_limit": 12, "transformer": "brackwell-50"},
            "wiring": {"own_rules": {"title": "House"}},
        }
    )
    told = {p.bench: p.runs for p in paragraphs(design, None, None)}
    words = text(told["circuits"])
    for said in (
        "String cables of 25 to 30\u00a0m",
        "AC cables of 12\u00a0m",
        "AC main of 45",
        "Each module has an optimiser",
        "Power factor 0.95",
        "limited to 12",
        "House",
    ):
        assert said in words, said
    assert "wiring" not in text(told["losses"]) and "in year 1" in text(told["losses"])


def test_modules_that_lie_on_a_plan_without_strings_are_said(parts):
    grounds = {"a": {"name": "Near field"}, "b": {"name": "Far field", "x": 60}}
    document = {"name": "Fields", "site": {"latitude": 43.62, "longitude": 11.31}, "scene": {"grounds": grounds}}
    document = filled(document, {"face": "a/ground"}, parts)
    document["surfaces"]["bare"] = {"face": "b/ground"}
    laid = Design.read(document).surfaces["surface-1"].layout.size
    words = "".join(
        run.text for run in next(p for p in paragraphs(Design.read(document), None, None) if p.bench == "surfaces").runs
    )
    assert f"has {laid:,} modules on the plan, in no strings yet." in words
    assert "has no modules yet." in words
