"""A value that is let loose is tried about where it is, and the design takes every value that is proposed."""

import copy

import pytest

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.trials import Study, StudyError, inputs_of, plan_of, run
from noontide.core.trials.loosening import keys_of, let_loose, loose_of, without
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
            variant(roof.as_kept(), study, {"one": loose.value(number)}, Libraries(parts))


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
