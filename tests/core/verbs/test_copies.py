"""Objects of the scene are copied, mirrored and put down, with what stands on them, under ids that nothing has."""

import pytest
from pydantic import ValidationError

from noontide.core.design import Design, DesignError
from noontide.core.design.standing import kinds_of_objects
from noontide.core.simulation import Libraries
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited

SCENE = {
    "buildings": {"barn": {"name": "Barn", "length": 20, "width": 10, "gable": {"pitch": 20}, "group": "yard"}},
    "chimneys": {"flue-1": {"name": "Flue", "on": "barn", "x": 4, "y": -2, "azimuth": 160, "height": 2}},
    "silos": {"silo-3": {"name": "Silo", "x": 30, "y": 5, "diameter": 4, "height": 9, "group": "yard"}},
}
YARD = {"name": "Yard", "site": {"latitude": 43.62, "longitude": 11.31}, "scene": SCENE}


def act(document, verb, arguments, parts):
    patch, words = applied(Design.read(document), verb, arguments, Libraries(parts))
    return edited(document, patch, parts), words


def fresh_in(document) -> dict:
    before = kinds_of_objects(Design.read(YARD))
    return {
        key: document["scene"][kind][key] for key, kind in kinds_of_objects(Design.read(document)).items() if key not in before
    }


def test_copies_stand_in_a_line_each_half_a_metre_from_the_next(parts):
    done, words = act(YARD, "copy-objects", {"objects": ["silo-3"], "times": 3}, parts)
    copies = fresh_in(done)
    assert words == "3 copies." and sorted(copies) == ["silo-1", "silo-2", "silo-4"]
    assert sorted(one["x"] for one in copies.values()) == pytest.approx([34.5, 39, 43.5])
    assert all(one["height"] == 9 and one["y"] == 5 for one in copies.values())
    done, _ = act(YARD, "copy-objects", {"objects": ["silo-3"], "apart": -12}, parts)
    assert next(iter(fresh_in(done).values()))["x"] == 18


def test_what_stands_on_a_copied_building_stands_on_its_copy_and_a_group_is_a_new_one(parts):
    done, _ = act(YARD, "copy-objects", {"objects": ["barn", "flue-1", "silo-3"], "times": 2}, parts)
    scene = Design.read(done).scene
    assert {one.on for key, one in scene.chimneys.items()} == set(scene.buildings)
    assert {(one.x, one.y) for one in scene.chimneys.values()} == {(4, -2)}
    groups = [
        {key for kind in (scene.buildings, scene.silos) for key, one in kind.items() if one.group == group}
        for group in {one.group for one in scene.buildings.values()}
    ]
    assert len(groups) == 3 and all(len(group) == 2 for group in groups)


def test_a_copy_alone_stays_on_its_building(parts):
    done, _ = act(YARD, "copy-objects", {"objects": ["flue-1"]}, parts)
    (copy,) = fresh_in(done).values()
    assert (copy["on"], copy["y"]) == ("barn", -2) and copy["x"] > 4


def test_mirrored_twice_lies_where_it_was(parts):
    once, _ = act(YARD, "mirror-objects", {"objects": ["flue-1"]}, parts)
    ((key, copy),) = fresh_in(once).items()
    assert (copy["x"], copy["y"], copy["azimuth"]) == (-4, -2, 200)
    twice, _ = act(once, "mirror-objects", {"objects": [key]}, parts)
    (again,) = (one for name, one in fresh_in(twice).items() if name != key)
    assert again == SCENE["chimneys"]["flue-1"]


def test_what_stands_free_has_no_middle_to_be_mirrored_over(parts):
    with pytest.raises(ImpossibleAct, match="Silo stands on no building"):
        act(YARD, "mirror-objects", {"objects": ["flue-1", "silo-3"]}, parts)


def test_objects_of_another_scene_are_put_down_and_lose_a_building_that_is_not_there(parts):
    empty = YARD | {"scene": {}}
    piece = {kind: dict(SCENE[kind]) for kind in ("chimneys", "silos")}
    done, words = act(empty, "put-objects", {"objects": piece, "east": 1.5, "north": -1}, parts)
    scene = Design.read(done).scene
    assert words == "2 objects added." and [one.on for one in scene.chimneys.values()] == [None]
    assert [(one.x, one.y) for one in scene.silos.values()] == [(31.5, 4)]
    # Put down where they came from, they are copies beside the ones that are there.
    both, _ = act(YARD, "put-objects", {"objects": piece}, parts)
    assert {one.on for one in Design.read(both).scene.chimneys.values()} == {"barn"} and len(fresh_in(both)) == 2


@pytest.mark.parametrize(
    ("verb", "arguments", "said"),
    [
        ("copy-objects", {"objects": ["ghost"]}, "no 'ghost'"),
        ("mirror-objects", {"objects": ["ghost"]}, "no 'ghost'"),
        ("put-objects", {"objects": {"castles": {"one": {}}}}, "no 'castles'"),
        ("put-objects", {"objects": {"silos": {"one": {"height": -1}}}}, "height"),
        ("put-objects", {"objects": {"silos": {"one": {"x": "far"}}}}, "x"),
        ("copy-objects", {"objects": ["silo-3"], "times": 101}, "times"),
    ],
)
def test_what_cannot_be_is_refused_with_its_place(parts, verb, arguments, said):
    with pytest.raises((ImpossibleAct, ValidationError, DesignError), match=said):
        act(YARD, verb, arguments, parts)


def test_strings_of_the_plane_that_stood_for_a_roof_are_taken_and_it_goes(parts, roof_document):
    document = roof_document | {"scene": {"buildings": {"barn": SCENE["buildings"]["barn"]}}}
    document["surfaces"] = document["surfaces"] | {"pitch": {"face": "barn/roof-1"}}
    done, words = act(document, "take-strings", {"surface": "pitch"}, parts)
    assert set(done["surfaces"]) == {"pitch"} and {one["surface"] for one in done["subarrays"].values()} == {"pitch"}
    assert words.startswith("The strings of")
    with pytest.raises(ImpossibleAct, match="to take"):
        act(done, "take-strings", {"surface": "pitch"}, parts)
