"""Obstacles of the sky beside the scene: what stands on both is found, and what is too near for one horizon goes into the scene."""

import copy

import pytest

from noontide.core.checks import find_checks
from noontide.core.design import Design
from noontide.core.design.merge_patch import merge_patch
from noontide.core.simulation import simulate
from tests.conftest import SOUTH_ROOF
from tests.core.simulation.test_near_shade import BARN, on_scene

RULES = {"obstacle-twice", "obstacle-within", "obstacle-near"}
TREE = {"name": "Lime", "azimuth": 180, "distance": 9, "width": 6, "height": 4, "light": 0.3}


@pytest.fixture(scope="module")
def bare(parts):
    return on_scene(parts, {"buildings": {"barn": BARN}})


def findings(document, weather, parts):
    results = simulate(Design.read(document), weather, parts)
    return results.annual.energy, [check for check in find_checks(results) if check.rule in RULES]


@pytest.mark.parametrize(
    "obstacle",
    [
        pytest.param(TREE, id="a tree"),
        pytest.param(TREE | {"light": 0.0}, id="opaque"),
        pytest.param(TREE | {"azimuth": 100, "light_by_month": [0.7] * 4 + [0.2] * 6 + [0.7] * 2}, id="leaves, in the east"),
        pytest.param(
            {"name": "Hedge", "distance": 9, "outline": [{"azimuth": 350, "elevation": 20}, {"azimuth": 10, "elevation": 24}]},
            id="an outline over north",
        ),
    ],
)
def test_a_near_obstacle_goes_into_the_scene_and_entered_again_is_counted_twice(parts, hill_weather, bare, obstacle):
    document = copy.deepcopy(bare)
    free, none = findings(document, hill_weather, parts)
    document["site"]["obstacles"] = {"lime": obstacle}
    _, (near,) = findings(document, hill_weather, parts)
    assert near.rule in {"obstacle-near", "obstacle-within"}
    moved = merge_patch(document, near.remedies[0].patch)
    energy, left = findings(moved, hill_weather, parts)
    assert none == left == []
    assert "lime" not in Design.read(moved).site.obstacles
    assert energy <= free
    twice, (found,) = findings(merge_patch(moved, {"site": {"obstacles": {"lime": obstacle}}}), hill_weather, parts)
    assert found.rule == "obstacle-twice"
    assert twice <= energy
    assert findings(
        merge_patch(merge_patch(moved, {"site": {"obstacles": {"lime": obstacle}}}), found.remedies[0].patch), hill_weather, parts
    ) == (
        energy,
        [],
    )


def test_another_object_in_the_same_direction_is_not_the_same(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["trees"] = {"far": {"x": 0, "y": -60, "height": 12}}
    document["site"]["obstacles"] = {"lime": TREE | {"distance": 14}}
    assert "obstacle-twice" not in {check.rule for check in findings(document, hill_weather, parts)[1]}


def test_the_array_is_as_wide_as_its_surfaces_until_somebody_says_otherwise(parts, hill_weather):
    document = copy.deepcopy(SOUTH_ROOF)
    assert Design.read(document).site.array_across == 6
    document["surfaces"]["barn"]["area"] = 45_000
    document["site"]["obstacles"] = {"lime": TREE | {"distance": 12}}
    assert Design.read(document).site.array_across == pytest.approx(45_000**0.5)
    _, (found,) = findings(document, hill_weather, parts)
    assert (found.rule, found.remedies) == ("obstacle-within", ())
    document["site"]["array_extent"] = 10
    assert findings(document, hill_weather, parts)[1] == []
    document["site"]["shade_factor"] = {"factor": 0.9}
    del document["site"]["array_extent"]
    assert findings(document, hill_weather, parts)[1] == [], "obstacles do not count beside a shade factor"
