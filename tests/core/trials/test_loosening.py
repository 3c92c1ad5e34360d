"""A value that is let loose is tried about where it is, and the design takes every value that is proposed."""

import copy

import pytest

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.trials import Study, StudyError, inputs_of, plan_of, run
from noontide.core.trials.loosening import (
    followers_of,
    keys_of,
    let_follow,
    let_loose,
    let_size_loose,
    loose_of,
    without,
    without_tie,
)
from noontide.core.trials.planning import variant
from tests.conftest import SOUTH_ROOF


@pytest.fixture(scope="module")
def roof():
    return Design.read(copy.deepcopy(SOUTH_ROOF))


def test_every_number_of_a_design_can_be_let_loose_and_no_value_of_it_is_refused(roof, parts):
    inputs = inputs_of(roof)
    assert len(inputs) > 30
    for one in inputs:
        loose = loose_of(roof, [one.pointer], parts)
        assert loose.low is not None and loose.low <= one.value <= loose.high, one.pointer
        assert loose.unit == one.unit and 2 <= loose.count <= 9, one.pointer
        study = Study(loose={"one": loose})
        for number in range(loose.count):
            variant(roof, study, {"one": loose.value(number)}, Libraries(parts))


@pytest.mark.parametrize(
    ("pointer", "values"),
    [
        ("/surfaces/barn/tilt", [12, 14, 16, 18, 20, 22, 24]),
        ("/models/transposition", ["perez", "reindl", "hay-davies", "isotropic"]),
        ("/subarrays/south/strings", [1, 2, 3, 4, 5, 6, 7]),
    ],
)
def test_what_is_proposed(roof, parts, pointer, values):
    loose = loose_of(roof, [pointer], parts)
    assert [loose.value(k) for k in range(loose.count)] == values


def test_a_part_is_tried_against_all_of_its_kind_beginning_with_its_own(roof, parts):
    loose = loose_of(roof, ["/subarrays/south/module"], parts)
    assert loose.values[0] == "veltrane-430" and set(loose.values) == set(parts.modules)


@pytest.mark.parametrize("pointer", ["/surfaces/barn", "/surfaces/attic/tilt", "/beauty", "/surfaces/barn/shine", "/name"])
def test_what_cannot_be_let_loose_is_said(roof, parts, pointer):
    with pytest.raises(StudyError):
        loose_of(roof, [pointer], parts)


def test_values_are_let_loose_one_after_the_other_and_held_again(roof, parts, hill_weather):
    study = let_loose(None, roof, ["/surfaces/barn/tilt"], parts)
    study = let_loose(study, roof, ["/subarrays/south/modules_per_string"], parts)
    assert let_loose(study, roof, ["/surfaces/barn/tilt"], parts) == study, "once is enough"
    assert list(study.loose) == ["tilt", "modules-per-string"]
    study = without(study, keys_of(study, ["/subarrays/south/modules_per_string"]))
    plan, _ = plan_of(study, roof, Libraries(parts, hill_weather))
    assert [one.state for one in run(plan, Libraries(parts, hill_weather))] == ["done"] * 7
    assert without(study, keys_of(study, ["/surfaces/barn/tilt"])) is None


def test_a_value_follows_another_in_the_proportion_in_which_both_stand(roof, parts, hill_weather):
    libraries, follower = Libraries(parts, hill_weather), "/losses/soiling"
    study = let_loose(None, roof.edited({"losses": {"soiling": 4.5}}), ["/surfaces/barn/tilt"], parts)
    dirty = roof.edited({"losses": {"soiling": 4.5}})
    assert follower in {one.pointer for one in followers_of(study, dirty)}
    tied = let_follow(study, dirty, follower, "tilt")
    assert tied.ties[follower].times == 0.25, "4.5 % at 18°"
    assert follower not in {one.pointer for one in followers_of(tied, dirty)}
    runs = list(run(plan_of(tied, dirty, libraries)[0], libraries))
    for one in runs:
        alone = dirty.edited({"surfaces": {"barn": {"tilt": one.values["tilt"]}}, "losses": {"soiling": one.values["tilt"] / 4}})
        assert one.figures["energy"] == libraries.year_of(alone).annual.energy
    assert without_tie(tied, follower) == study == without_tie(study, follower)
    assert without(tied, {"tilt"}) is None


def test_what_is_counted_follows_in_whole_numbers(roof, parts, hill_weather):
    libraries, strings = Libraries(parts, hill_weather), "/subarrays/south/strings"
    tied = let_follow(let_loose(None, roof, ["/surfaces/barn/tilt"], parts), roof, strings, "tilt")
    assert tied.ties[strings].is_whole and tied.ties[strings].times == pytest.approx(2 / 18, rel=1e-3)
    plan, _ = plan_of(tied, roof, libraries)
    made = [variant(roof, tied, plan.values(number), libraries) for number in range(plan.count)]
    assert [one.subarrays["south"].strings for one in made] == [round(one.surfaces["barn"].tilt / 9) for one in made]


@pytest.mark.parametrize(
    ("pointer", "key", "words"),
    [
        ("/losses/soiling", "beauty", "not loose"),
        ("/surfaces/barn/tilt", "tilt", "loose by itself"),
        ("/surfaces/barn/mounting", "tilt", "Only a number"),
        ("/surfaces/attic/tilt", "tilt", "Only a number"),
    ],
)
def test_what_cannot_follow_is_said(roof, parts, pointer, key, words):
    study = let_loose(None, roof, ["/surfaces/barn/tilt"], parts)
    with pytest.raises(StudyError, match=words):
        let_follow(study, roof, pointer, key)


def test_inverters_follow_the_ratio(roof, parts, hill_weather):
    """Of every ratio an array of the same modules, the nearest that the library's inverters make of it."""
    libraries = Libraries(parts, hill_weather)
    study = let_size_loose(None, roof, "ratio", parts)
    study = Study.model_validate(study.model_dump(exclude_unset=True) | {"figures": ["energy", "dc_ac_ratio"]})
    runs = sorted(run(plan_of(study, roof, libraries)[0], libraries), key=lambda one: one.values["ratio"])
    assert [one.values["ratio"] for one in runs] == [0.9, 1.0, 1.1, 1.2, 1.3, 1.4, 1.5]
    ratios = [one.figures["dc_ac_ratio"] for one in runs]
    # 36 modules of 430 W: inverters of 18, 15 and 12 kW; none of 10 kW takes their strings.
    assert ratios == sorted(ratios) and sorted({round(ratio, 2) for ratio in ratios}) == [0.86, 1.03, 1.29]
    for one, found in zip(runs, ratios, strict=True):
        assert all(abs(found - one.values["ratio"]) <= abs(other - one.values["ratio"]) + 1e-9 for other in ratios)
