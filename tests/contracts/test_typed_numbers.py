"""The browser holds no default, range or step of a value of the design: they come from the schema, or from an answer."""

import re
from pathlib import Path

import pytest

SOURCES = Path("web/src")
# A number beside `??` stands in for a value that was not set; 0 and 1 are the neutral ones of sums, counts and shares.
DEFAULT = re.compile(r"\?\?\s*(?!0\b(?!\.)|1\b(?!\.))\d[\d_.]*")
STEP = re.compile(r':step="[\d.]+"')
RANGE = re.compile(r"\bm(?:in|ax):\s*[\d.]+(?:e\d+)?\b")
# What is no value of the design: measures of a drawing, steps of an axis, values of a sheet that is not kept, and what a picture
# needs while its answer is on the way. A line here says which, and why it is none.
FREE = {
    "benches/circuits/OneLine.vue": "width of the paper, before the diagram is there",
    "benches/circuits/StringFinder.vue": "steps of a question to the finder, which keeps nothing of it; its ranges are the server's",
    "benches/circuits/TrackerCurve.vue": "steps of an axis, and its reach before the answer",
    "benches/demand/UseSheet.vue": "hours of a week, before the file is read",
    "benches/scene/AccessTable.vue": "a threshold of the page alone [%]",
    "benches/scene/SceneBench.vue": "azimuth of a host before the scene is there",
    "benches/scene/SceneFoot.vue": "the grid that objects snap to, of the page alone",
    "benches/scene/ThingLine.vue": "how many copies one click makes",
    "benches/scene/ThingNames.vue": "spacing of an export, of the page alone",
    "benches/scene/dimensions.ts": "where a dimension is drawn before the scene is there",
    "benches/scene/useSelection.ts": "azimuth of a host before the scene is there",
    "benches/scene/useThings.ts": "where a new object is put beside its host",
    "benches/sky/PhotoPlace.vue": "places in a photograph, which is not kept",
    "benches/sky/SkyBench.vue": "azimuth of the sun before its path is there",
    "benches/sky/accessTable.ts": "a pasted table is in percent, whatever its decimal marks are",
    "benches/sky/azimuths.ts": "angles, by which pasted text is told from other numbers",
    "benches/sky/useObstacles.ts": "the drag of an obstacle that is equally far from everywhere",
    "benches/trials/BestRuns.vue": "a threshold of the page alone [%]",
    "benches/weather/TwelveNumbers.vue": "physical bounds, by which pasted text is told from other numbers",
    "brief/BriefRuns.vue": "south in words, before a document is there",
    "first/QuickEstimate.vue": "steps of a question to the estimate, which keeps nothing of it; its ranges are the server's",
    "places/PlaceCodes.vue": "latitude and longitude, by which pasted text is told from other numbers",
    "parts/InverterCurves.vue": "reach of an axis before the answer",
    "target/DesignTo.vue": "steps of a question, which keeps nothing of it; its ranges are the server's",
    "tideline/useMoment.ts": "a year for the axis before the weather is there",
}


def typed() -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for path in sorted([*SOURCES.rglob("*.vue"), *SOURCES.rglob("*.ts")]):
        if path.name.endswith(".d.ts"):
            continue
        lines = [
            f"{number}: {line.strip()[:100]}"
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
            if not line.strip().startswith(("//", "*", "/*")) and any(rule.search(line) for rule in (DEFAULT, STEP, RANGE))
        ]
        if lines:
            found[str(path.relative_to(SOURCES))] = lines
    return found


def test_no_default_range_or_step_of_the_design_is_typed_in_the_browser():
    new = {path: lines for path, lines in typed().items() if path not in FREE}
    assert new == {}, "Take them from the schema (`library.field(pointer)`) or from an answer."


def test_no_exception_outlives_its_reason():
    assert set(FREE) - set(typed()) == set()


@pytest.mark.parametrize(
    "line", ["const a = b ?? 30", "x ?? 0.7)", ':step="0.5"', "{ min: 0, max: 90 }", "limits = { min: 0.01 }", "v ?? 10_000"]
)
def test_the_rule_sees_what_it_is_for(line):
    assert any(rule.search(line) for rule in (DEFAULT, STEP, RANGE))


@pytest.mark.parametrize("line", ["n ?? 0", "n ?? 1)", "max: field.max", "min: -Infinity", "Math.max(0, x)", ":step=step"])
def test_and_leaves_alone_what_is_none(line):
    assert not any(rule.search(line) for rule in (DEFAULT, STEP, RANGE))
