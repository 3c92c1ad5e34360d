"""Studies: every run is its design by itself, the plan says everything before, and what is told of the runs is true of them."""

import contextlib
import copy
import dataclasses
import itertools
import json

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.cli import main
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import Libraries, chain, simulate
from noontide.core.trials import Aim, Run, Study, StudyError, as_good_as_best, best_of, plan_of, run, sensitivity, shared_by
from noontide.core.trials.planning import Plan
from noontide.core.trials.study import Loose
from noontide.core.verbs.catalogue import applied
from noontide.core.weather import as_text
from noontide.processes import Work
from noontide.tariffs import built_in_tariffs
from noontide.trying import tried
from tests.conftest import SOUTH_ROOF
from tests.core.trials.ending import end_with_three

TILT = {"pointers": ["/surfaces/barn/tilt"], "values": [10, 25, 40]}
MODULES = {"pointers": ["/subarrays/south/modules_per_string"], "low": 16, "high": 18, "step": 1, "is_whole": True}
BATTERY = {"values": [5, 10]}
SIZED = {
    "ties": {"/storage/bank/power": {"loose": "battery", "times": 0.5}},
    "acts": [{"verb": "size-battery", "arguments": {"energy": {"loose": "battery"}}}],
}


@pytest.fixture(scope="module")
def libraries(hill_weather, parts):
    return Libraries(parts, hill_weather)


@pytest.fixture(scope="module")
def roof():
    return Design.read(copy.deepcopy(SOUTH_ROOF))


@pytest.fixture(scope="module")
def house():
    tariff = next(iter(built_in_tariffs().values()))
    document = copy.deepcopy(SOUTH_ROOF) | {
        "demand": {"sources": {"house": {"name": "House", "per_area": {"use": 40, "area": 150}}}},
        "money": {"tariff": tariff.model_dump(mode="json", exclude_unset=True), "currency": tariff.currency},
    }
    design = Design.read(document)
    patch, _ = applied(design, "take-battery", {})
    return Design.read(merge_patch(design.as_kept(), patch))


def study_of(**given) -> Study:
    return Study.model_validate({"loose": {"tilt": TILT}} | given)


def runs_of(study, design, libraries) -> list[Run]:
    plan, _ = plan_of(study, design, libraries)
    return sorted(run(plan, libraries), key=lambda one: one.number)


def test_every_run_of_a_grid_is_its_design_alone(roof, libraries, hill_weather, parts):
    study = study_of(loose={"tilt": TILT, "modules": MODULES})
    runs = runs_of(study, roof, libraries)
    assert [(one.values["tilt"], one.values["modules"]) for one in runs] == list(itertools.product([10, 25, 40], [16, 17, 18]))
    for one in runs:
        patch = {
            "surfaces": {"barn": {"tilt": one.values["tilt"]}},
            "subarrays": {"south": {"modules_per_string": one.values["modules"]}},
        }
        alone = figures_of(simulate(Design.read(merge_patch(roof.as_kept(), patch)), hill_weather, parts))
        assert one.state == "done" and {key: one.figures[key] for key in alone} == alone


def test_verbs_and_ties_make_the_design_of_a_run(house, libraries, hill_weather, parts):
    study = study_of(loose={"battery": BATTERY, "tilt": TILT}, **SIZED)
    runs = runs_of(study, house, libraries)
    assert len(runs) == 6 and all(one.state == "done" for one in runs), [one.error for one in runs]
    one = runs[4]
    assert one.values == {"battery": 10, "tilt": 25}
    edit = {"surfaces": {"barn": {"tilt": 25}}, "storage": {"bank": {"power": 5.0}}}
    tilted = Design.read(merge_patch(house.as_kept(), edit))
    patch, _ = applied(tilted, "size-battery", {"energy": 10})
    alone = figures_of(simulate(Design.read(merge_patch(tilted.as_kept(), patch)), hill_weather, parts))
    assert {key: one.figures[key] for key in alone} == alone


STORAGES = {
    "own use": {},
    "least peaks": {"peak": {}},
    "dear hours": {"serves": "dear hours"},
    "on the DC side": {"bank": {"inverter": "main"}},
    "off the grid": {"off_grid": {"generator": {"power": 2.0}}},
    "an export limit": {"reserve": 20.0},
}


@pytest.mark.parametrize("storage", STORAGES)
def test_batteries_that_are_run_beside_one_another_are_each_as_alone(house, libraries, hill_weather, parts, storage):
    """Whatever the battery serves and wherever it stands; and what cannot be in their midst is a row of its own."""
    edit = {"storage": {"bank": {"model": None, "energy": 5}} | {k: v for k, v in STORAGES[storage].items() if k != "bank"}}
    edit["storage"]["bank"] |= STORAGES[storage].get("bank", {})
    edit |= {"connection": {"export_limit": 2.0}} if storage == "an export limit" else {}
    design = Design.read(merge_patch(house.as_kept(), edit))
    loose = {
        "battery": {"pointers": ["/storage/bank/energy"], "values": [2, 6, 15]},
        "inverter": {"pointers": ["/inverters/main/model"], "values": ["hexley-20", "no-such-part", "hexley-10"]},
    }
    runs = runs_of(study_of(loose=loose), design, libraries)
    for one in runs:
        patch = {"storage": {"bank": {"energy": one.values["battery"]}}, "inverters": {"main": {"model": one.values["inverter"]}}}
        if one.values["inverter"] == "no-such-part":
            assert one.state == "failed" and "no-such-part" in one.error
            continue
        alone = figures_of(simulate(Design.read(merge_patch(design.as_kept(), patch)), hill_weather, parts))
        assert one.state == "done" and {key: one.figures[key] for key in alone} == alone, one.error
    assert len({one.design for one in runs if one.state == "done"}) == 6


def test_runs_that_share_the_sun_stand_beside_one_another(house, libraries):
    study = study_of(loose={"battery": BATTERY, "tilt": TILT}, **SIZED)
    plan, _ = plan_of(study, house, libraries)
    assert plan.shares["tilt"][0] == "surfaces" and "storage" in plan.shares["battery"]
    order = list(plan.order())
    assert sorted(order) == list(range(plan.count)), "every run once"
    tilts = [plan.values(number)["tilt"] for number in order]
    assert len([key for key, _ in itertools.groupby(tilts)]) == 3, "a tilt is left once it is done"


def test_strings_and_inverters_need_no_solar_year_of_their_own(roof, libraries, monkeypatch):
    lit = []
    monkeypatch.setattr(chain, "light_plane", lambda inputs, light=chain.light_plane: lit.append(1) or light(inputs))
    inverters = [key for key, one in libraries.parts.inverters.items() if one.kind == "string"][:6]
    loose = {
        "inverter": {"pointers": ["/inverters/main/model"], "values": inverters},
        "strings": {"pointers": ["/subarrays/south/strings"], "values": [1, 2, 3]},
        "modules": MODULES,
    }
    runs = runs_of(study_of(loose=loose), roof, Libraries(libraries.parts, libraries.weather))
    assert sum(one.state == "done" for one in runs) == len(runs) == 54
    assert len(lit) <= 2, "the design's own, and that of the runs"


def test_one_at_a_time_holds_the_others_at_their_own(roof, libraries):
    study = study_of(loose={"tilt": TILT, "modules": MODULES}, way="one at a time")
    plan, _ = plan_of(study, roof, libraries)
    found = [tuple(plan.values(number).values()) for number in range(plan.count)]
    assert found == [(18, 18), (10, 18), (25, 18), (40, 18), (18, 16), (18, 17), (18, 18)]


@pytest.mark.parametrize("way", ["latin hypercube", "sobol"])
@given(runs=st.integers(1, 70), seed=st.integers(0, 2**31 - 1))
@settings(max_examples=15)
def test_a_sample_fills_the_ranges_and_comes_again_by_its_seed(way, runs, seed):
    loose = {"a": {"pointers": ["/x"], "low": -3.0, "high": 5.0}, "b": {"pointers": ["/y"], "values": ["p", "q"]}}
    study = study_of(loose=loose, way=way, runs=runs, seed=seed)
    plans = [Plan(study, {}, {}) for _ in range(2)]
    found = [[plan.values(number) for number in range(runs)] for plan in plans]
    assert found[0] == found[1]
    values = np.array([row["a"] for row in found[0]])
    assert np.all((values >= -3) & (values <= 5)) and {row["b"] for row in found[0]} <= {"p", "q"}
    if way == "latin hypercube":
        # One value in each of as many equal parts as there are runs.
        assert sorted(np.minimum((values + 3) / 8 * runs, runs - 1e-9).astype(int)) == list(range(runs))


@given(low=st.integers(-50, 50), more=st.integers(1, 60), step=st.sampled_from([0.1, 0.25, 1, 2.5, 7]))
def test_a_range_has_its_ends_and_even_steps(low, more, step):
    one = Loose(pointers=("/x",), low=low, high=low + more, step=step)
    values = [one.value(number) for number in range(one.count)]
    assert values[0] == low and values[-1] <= low + more + 1e-9 and values[-1] > low + more - step
    assert np.allclose(np.diff(values), step)
    assert all(one.at(0.0) <= one.at(share) <= one.at(1.0) for share in (0.1, 0.5, 0.999))


@pytest.mark.parametrize(
    "given, pointer, said",
    [
        ({"loose": {"tilt": TILT | {"values": [10, 120]}}}, "/loose/tilt", "120"),
        ({"loose": {"x": {"pointers": ["/surfaces/barn/colour"], "values": [1]}}}, "/loose/x", "colour"),
        ({"loose": {"x": {"pointers": ["/surfaces/barn/tilt"], "low": 0, "high": 90, "step": 0.00005}}, "way": "grid"}, "/loose", "runs"),
        ({"limits": [{"figure": "beauty", "at_least": 1}]}, "/limits", "no figure 'beauty'"),
        ({"aim": {"figure": "net_present_value", "better": "more"}}, "/aim", "has no"),
        ({"acts": [{"verb": "paint-it-blue", "arguments": {"surface": {"loose": "tilt"}}}]}, "/acts/0/verb", "no verb"),
    ],
)  # fmt: skip
def test_what_cannot_be_run_is_said_before_anything_is(roof, libraries, given, pointer, said):
    with pytest.raises(StudyError, match=said) as error:
        plan_of(study_of(**given), roof, libraries)
    assert error.value.pointer == pointer


def test_a_design_without_a_year_and_a_grid_without_end_are_refused(libraries, roof):
    with pytest.raises(StudyError, match="no year of its own"):
        plan_of(study_of(), Design.read({"site": SOUTH_ROOF["site"]}), libraries)
    many = {f"x{n}": {"pointers": ["/surfaces/barn/tilt"], "values": list(range(10))} for n in range(12)}
    with pytest.raises(StudyError, match="1,000,000,000,000 runs"):
        plan_of(study_of(loose=many), roof, libraries)


@pytest.mark.parametrize(
    "given, said",
    [
        ({"loose": {"tilt": {"pointers": ["/a"]}}}, "values, or a low"),
        ({"loose": {"tilt": {"pointers": ["/a"], "low": 3, "high": 3}}}, "not below"),
        ({"loose": {"tilt": {"values": [1]}}}, "changes nothing"),
        ({"loose": {"tilt": {"pointers": ["/a"], "low": 1, "high": 3}}}, "has no step"),
        ({"way": "sobol"}, "how many runs"),
        ({"ties": {"/a": {"loose": "pitch"}}}, "not loose"),
        ({"limits": [{"figure": "energy"}]}, "has an end"),
    ],
)
def test_a_study_that_makes_no_sense_is_refused_in_words(given, said):
    with pytest.raises(ValueError, match=said):
        study_of(**given)


def test_a_run_that_fails_is_a_row_with_words_and_the_others_go_on(roof, libraries):
    plan, _ = plan_of(study_of(loose={"tilt": TILT}), roof, libraries)
    failed = list(run(plan, Libraries(libraries.parts, None)))
    assert [one.state for one in failed] == ["failed"] * 3 and all(one.error for one in failed)
    assert [one.state for one in run(plan, libraries)] == ["done"] * 3


def made(number, npv, errors=0, **values):
    broken = ("errors 1 above 0",) if errors else ()
    return Run(number, values or {"battery": number}, "done", {"net_present_value": npv, "errors": errors}, broken=broken)


def test_the_best_keeps_the_limits_and_those_as_good_lie_within_the_share():
    aim = Aim(figure="net_present_value", better="more")
    runs = [made(0, 100.0), made(1, 120.0), made(2, 119.0), made(3, 500.0, errors=1), made(4, None), made(5, 107.9)]
    assert best_of(runs, aim).number == 1
    assert [one.number for one in as_good_as_best(runs, aim, 0.1)] == [1, 2]
    assert [one.number for one in as_good_as_best(runs, aim, 0.2)] == [1, 2, 5, 0]
    # Values that come to one design are one choice.
    twins = [dataclasses.replace(one, design="same") for one in runs[1:3]]
    assert [one.number for one in as_good_as_best([runs[0], *twins], aim, 0.2)] == [1, 0]
    less = Aim(figure="net_present_value", better="less")
    assert best_of(runs, less).number == 0
    assert best_of([made(3, 1.0, errors=1)], aim) is None and as_good_as_best([], aim, 0.1) == []


def test_what_good_runs_share_is_true_of_all_of_them():
    study = study_of(
        loose={
            "tilt": TILT,
            "kind": {"pointers": ["/a"], "values": ["x", "y", "z"]},
            "size": {"pointers": ["/b"], "low": 0, "high": 10, "step": 1},
        }
    )
    runs = [made(n, 1.0, tilt=25, kind=kind, size=size) for n, (kind, size) in enumerate([("x", 4.0), ("y", 7.0)])]
    assert shared_by(runs, study) == ["tilt is 25 in all of them.", "kind is x or y.", "size lies between 4 and 7."]
    every = [
        made(n, 1.0, tilt=t, kind=k, size=s) for n, (t, k, s) in enumerate([(10, "x", 0.0), (25, "y", 10.0), (40, "z", 5.0)])
    ]
    assert shared_by(every, study) == []


def test_limits_on_figures_are_told_run_by_run(roof, libraries):
    study = study_of(limits=[{"figure": "energy", "at_least": 1e9}, {"figure": "errors", "at_most": 0}])
    for one in runs_of(study, roof, libraries):
        assert not one.is_kept and any("energy" in words and "below 1e+09" in words for words in one.broken)


def test_processes_give_what_one_gives(roof, libraries):
    study = study_of(loose={"tilt": TILT, "modules": MODULES}, aim={"figure": "energy", "better": "more"})
    plan, _ = plan_of(study, roof, libraries)
    here = {one.number: one for one in tried(plan, libraries, 1)}
    told = []
    there = {one.number: one for one in tried(plan, libraries, 2, lambda done, of: told.append((done, of)))}
    assert sorted(here) == sorted(there) == list(range(9)) and told == [(n, 9) for n in range(1, 10)]
    assert all(there[n].figures == here[n].figures and there[n].values == here[n].values for n in here)


def test_work_that_ends_its_process_alone_is_lost():
    work = Work(end_with_three, lambda numbers: [-number for number in numbers])
    found = [number for numbers in work.results([(0, 1), (2, 3), (4,)], 2) for number in numbers]
    assert sorted(found) == [-3, -2, 0, 1, 4], "none twice, none lost but those of its chunk"


@pytest.fixture
def files(tmp_path, hill_weather):
    (tmp_path / "hill.csv").write_text(as_text(hill_weather, "csv"), encoding="utf-8")
    (tmp_path / "roof.json").write_text(json.dumps(SOUTH_ROOF), encoding="utf-8")
    study = {
        "format": "noontide-study/1", "loose": {"tilt": TILT, "modules": MODULES}, "aim": {"figure": "energy", "better": "more"},
        "limits": [{"figure": "errors", "at_most": 0}],
    }  # fmt: skip
    (tmp_path / "study.json").write_text(json.dumps(study), encoding="utf-8")
    return tmp_path


def command(files, *more) -> int:
    places = ["--design", str(files / "roof.json"), "--weather", str(files / "hill.csv")]
    return main(["trials", str(files / "study.json"), *places, *map(str, more)])


def test_the_command_line_says_the_best_and_writes_all_runs(files, capsys):
    assert command(files, "--out", files / "runs.csv", "--share", 100) == 0
    out = capsys.readouterr().out
    table = pd.read_csv(files / "runs.csv")
    assert list(table["run"]) == list(range(9)) and set(table["state"]) == {"done"}
    best = table[table["errors"] == 0].sort_values("energy", ascending=False).iloc[0]
    assert f"best: run {best['run']}, energy {best['energy']:,.6g}; tilt {best['tilt']}, modules {best['modules']}" in out
    assert command(files, "--out", files / "runs.parquet") == 0
    assert pd.read_parquet(files / "runs.parquet")["energy"].tolist() == pytest.approx(table["energy"].tolist(), rel=1e-12)


@pytest.mark.parametrize(
    "change, said",
    [
        ({"limits": [{"figure": "energy", "at_least": 1e9}]}, "no run keeps all limits"),
        ({"loose": {"tilt": {"pointers": ["/surfaces/barn/tilt"], "values": [95]}}}, "95"),
        ({"loose": {}}, "/loose"),
        ({"way": "guess"}, "/way"),
    ],
)
def test_the_command_line_says_what_cannot_be(files, capsys, change, said):
    study = json.loads((files / "study.json").read_text())
    (files / "study.json").write_text(json.dumps(study | change))
    with contextlib.suppress(SystemExit):
        assert command(files) != 0
    assert said in capsys.readouterr().err
    (files / "study.json").write_text("{")
    with pytest.raises(SystemExit):
        command(files)
    assert "is no JSON" in capsys.readouterr().err


def test_a_step_of_each_input_gives_the_figure_of_the_design_that_differs_in_it_alone(house, libraries, hill_weather, parts):
    own, effects = sensitivity(house, "energy", libraries)
    assert own == simulate(house, hill_weather, parts).annual.energy
    reaches = [effect.reach(own) for effect in effects]
    assert reaches == sorted(reaches, reverse=True) and reaches[0] > 0
    found = {effect.input.pointer: effect for effect in effects}
    assert len(found) == len(effects), "every input once"
    tilt = found["/surfaces/barn/tilt"]
    for by, value in ((-tilt.input.step, tilt.lower), (tilt.input.step, tilt.higher)):
        edited = Design.read(merge_patch(house.as_kept(), {"surfaces": {"barn": {"tilt": 18 + by}}}))
        assert value == simulate(edited, hill_weather, parts).annual.energy
    # More dirt, less energy; what only money knows moves no energy; a share of nothing cannot be a step less.
    soiling = found["/losses/soiling"]
    assert soiling.higher < own < soiling.lower
    assert found["/money/interest"].reach(own) == 0
    modules = found["/subarrays/south/modules_per_string"]
    assert modules.lower < own < modules.higher


@pytest.mark.parametrize("figure, said", [("beauty", "no figure"), ("lost_load", "has no")])
def test_a_figure_that_the_design_has_not_has_no_sensitivity(roof, libraries, figure, said):
    with pytest.raises(StudyError, match=said):
        sensitivity(roof, figure, libraries)


def test_the_command_line_says_which_inputs_matter(files, capsys):
    assert (
        main(["sensitivity", str(files / "roof.json"), "--weather", str(files / "hill.csv"), "--figure", "specific_yield"]) == 0
    )
    lines = capsys.readouterr().out.splitlines()
    assert lines[0].startswith("specific_yield 1,") and any("Tilt, " in line for line in lines)


def test_named_figures_are_the_same_as_among_all(roof, libraries):
    named = {
        "figures": ["specific_yield"],
        "aim": {"figure": "energy", "better": "more"},
        "limits": [{"figure": "cautions", "at_most": 0}],
    }
    few, every = (runs_of(study_of(**given), roof, libraries) for given in (named, {}))
    for one, whole in zip(few, every, strict=True):
        assert set(one.figures) == {"specific_yield", "energy", "errors", "cautions"}
        assert all(whole.figures[key] == value for key, value in one.figures.items())
