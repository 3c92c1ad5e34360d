"""Trials on paper: what the runs say, in both languages, and nothing where there are none."""

import copy
import json
import re

import pytest

from noontide.cli import main
from noontide.core.design import Design
from noontide.core.drawing import Text
from noontide.core.report import About, TrialsShown, UnknownPage, report_of
from noontide.core.report.trial_page import _even
from noontide.core.report.wording import wording
from noontide.core.simulation import Libraries
from noontide.core.trials import Study, plan_of, run
from noontide.core.trials.runs_table import RunsTable
from noontide.core.weather import as_text
from tests.conftest import SOUTH_ROOF

STUDY = {
    "name": "How steep?",
    "loose": {
        "tilt": {"title": "Tilt, South roof", "unit": "°", "pointers": ["/surfaces/barn/tilt"], "low": 10, "high": 50, "step": 10},
        "modules": {"title": "Modules per string", "pointers": ["/subarrays/south/modules_per_string"], "values": [16, 17]},
    },
    "aim": {"figure": "energy", "better": "more"},
}  # fmt: skip


@pytest.fixture(scope="module")
def shown(hill_weather, parts):
    libraries, design = Libraries(parts, hill_weather), Design.read(copy.deepcopy(SOUTH_ROOF))
    study = Study.model_validate(STUDY)
    runs = list(run(plan_of(study, design, libraries)[0], libraries))
    return libraries.year_of(design), TrialsShown(study.name, RunsTable.of(study, runs), ("losses",)), runs


def texts(report) -> list[str]:
    return [mark.text for sheet in report.sheets for mark in sheet.marks if isinstance(mark, Text)]


def test_the_page_says_what_the_runs_say(shown):
    results, trials, runs = shown
    report = report_of(results, About("Barn"), ["trials"], trials=[trials])
    said = " ".join(texts(report))
    best = max(runs, key=lambda one: one.figures["energy"])
    assert "10 designs; 10 keep every limit." in said and "10 to 50° by 10°" in said and "How steep?" in said
    assert f"run {best.number}" in said and f"{best.figures['energy']:,.0f} kWh" in said
    assert "Modules per string is 17 in all of them." in said and "changed since: losses" in said
    rows = [text for text in texts(report) if re.fullmatch(r"\d+,\d{3}", text)]
    for one in runs:
        is_good = one.figures["energy"] >= 0.98 * best.figures["energy"]
        assert (f"{one.figures['energy']:,.0f}" in rows) == is_good, "those as good as the best stand in the table, and no others"


def test_it_is_german_where_the_reader_is(shown):
    results, trials, _ = shown
    report = report_of(results, About("Barn"), ["trials"], trials=[trials], words=wording("de"))
    assert report.untranslated == () and "Versuche" in texts(report)


def test_without_trials_it_says_why(shown):
    with pytest.raises(UnknownPage, match="no trials that have been run"):
        report_of(shown[0], About("Barn"), ["trials"])


@pytest.mark.parametrize(
    ("low", "high", "ends"),
    [(0, 7, (0, 8, 2)), (-27_000, 13_000, (-30_000, 20_000, 10_000)), (0.31, 0.36, (0.3, 0.36, 0.02)), (5, 5, (4, 6, 2)), (0, 0, (0, 0.5, 0.5))],
)  # fmt: skip
def test_a_scale_has_even_steps_and_holds_its_values(low, high, ends):
    first, last, step = _even(low, high)
    assert first <= low + 1e-9 and last >= high - 1e-9 and last > first and step > 0
    assert (first, last, step) == pytest.approx(ends) or low == high


def test_the_command_line_runs_a_study_for_its_page(tmp_path, hill_weather, capsys):
    for name, text in (
        ("roof.json", json.dumps(SOUTH_ROOF)),
        ("study.json", json.dumps(STUDY)),
        ("hill.csv", as_text(hill_weather, "csv")),
    ):
        (tmp_path / name).write_text(text)
    paths = [str(tmp_path / name) for name in ("roof.json", "hill.csv", "study.json", "out.html")]
    design, weather, study, out = paths
    assert main(["report", design, "--weather", weather, "--study", study, "--pages", "trials", "--out", out]) == 0
    assert "10 runs" in capsys.readouterr().err and "How steep?" in (tmp_path / "out.html").read_text()
