"""Modules on a plan are moved, taken out, strung and exchanged by verbs, and the rows that hold them say what lies there."""

import json

import pytest

from noontide.core.design import Design
from noontide.core.plan.layouts import plans_of, strings_of
from noontide.core.simulation import Libraries
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited
from tests.conftest import filled, lying
from tests.core.verbs.test_verbs import HOUSE

DEEP = HOUSE | {"scene": {"buildings": {"house": {"length": 14, "width": 12, "gable": {"pitch": 35}}}}}


@pytest.fixture(scope="module")
def on_plan(parts):
    return filled(DEEP, {"surface": "south"}, parts)


@pytest.fixture(scope="module")
def parts():
    from noontide.parts import built_in_parts

    return built_in_parts()


def act(document, verb, arguments, parts):
    patch, words = applied(Design.read(document), verb, arguments, Libraries(parts))
    return edited(document, patch, parts), words


def layout_of(document):
    return document["surfaces"]["south"]["layout"]


def at(document):
    return lying(layout_of(document))


def strings(document, parts):
    design = Design.read(document)
    return [string for _, string in strings_of(design, "south", plans_of(design, parts)["south"])]


def test_a_whole_row_moves_as_a_row_and_a_module_by_itself(on_plan, parts):
    row = layout_of(on_plan)["module_rows"]["r1"]
    mine = [f"m{row['first'] + k}" for k in range(row["count"])]
    moved, words = act(on_plan, "move-modules", {"surface": "south", "modules": mine, "along": 0.25, "up": -0.1}, parts)
    assert layout_of(moved).get("modules", {}) == {} and words == f"{len(mine)} modules moved."
    for key, (u, v, _) in at(on_plan).items():
        way = (0.25, -0.1) if key in mine else (0, 0)
        assert at(moved)[key][:2] == pytest.approx((u + way[0], v + way[1]), abs=1e-4)
    one, words = act(moved, "move-modules", {"surface": "south", "modules": ["m2"], "up": 0.05}, parts)
    assert set(layout_of(one)["modules"]) == {"m2"} and words == "Module moved."
    # The row goes on without the one that has left it.
    again, _ = act(one, "move-modules", {"surface": "south", "modules": [i for i in mine if i != "m2"], "along": 1}, parts)
    assert at(again)["m2"] == at(one)["m2"] and at(again)["m1"].u == pytest.approx(at(one)["m1"].u + 1)
    assert list(at(again)) == list(at(on_plan)) and len(layout_of(again)["modules"]) == 1


@pytest.mark.parametrize(
    "gone", [["m1"], ["m4"], ["m1", "m2", "m9"], [f"m{k}" for k in range(1, 11)], ["m3", "m12", "m13"]], ids=len
)
def test_what_is_taken_out_is_gone_and_all_else_stays_where_it_was(on_plan, parts, gone):
    whole = at(on_plan)
    gone = [key for key in gone if key in whole]
    moved, _ = act(on_plan, "move-modules", {"surface": "south", "modules": ["m4"], "up": 0.03}, parts)
    less, words = act(moved, "delete-modules", {"modules": {"south": gone}}, parts)
    assert at(less) == {key: place for key, place in at(moved).items() if key not in gone}
    assert words.startswith(f"{len(gone)} module")
    # Twice the same way, or all at once: the same modules lie there.
    one_by_one = moved
    for key in gone:
        one_by_one, _ = act(one_by_one, "delete-modules", {"modules": {"south": [key]}}, parts)
    assert at(one_by_one) == at(less)
    with pytest.raises(ImpossibleAct, match=f"No module {gone[0]} lies"):
        act(less, "delete-modules", {"modules": {"south": gone}}, parts)


def test_nothing_is_left_of_a_plan_that_is_cleared_and_it_is_filled_as_before(on_plan, parts):
    none, _ = act(on_plan, "delete-modules", {"modules": {"south": list(at(on_plan))}}, parts)
    assert at(none) == {} and not layout_of(none).get("module_rows")
    again = filled(none, {"surface": "south"}, parts)
    assert at(again) == at(on_plan)
    # Filling over rows that had lost modules leaves no hole.
    some, _ = act(on_plan, "delete-modules", {"modules": {"south": ["m2", "m3"]}}, parts)
    assert at(filled(some, {"surface": "south"}, parts)) == at(on_plan)


def test_patterns_go_through_the_plan_in_their_order(on_plan, parts):
    places = at(on_plan)
    by = {
        pattern: strings(act(on_plan, "string-modules", {"surface": "south", "pattern": pattern}, parts)[0], parts)
        for pattern in ("by row", "snake", "by column")
    }
    assert all([len(string) for string in some] == [8, 8] for some in by.values())
    first_row = [key for key in places if places[key].v == places["m1"].v]
    assert [key for string in by["by row"] for key in string][: len(first_row)] == first_row
    snake = [key for string in by["snake"] for key in string]
    turned = [key for key in snake[len(first_row) :] if places[key].v == places[snake[len(first_row)]].v]
    assert [places[key].u for key in turned] == sorted((places[key].u for key in turned), reverse=True)
    left = list(by["by column"][0])
    assert places[left[0]].u == min(place.u for place in places.values())
    shares = dict.fromkeys(places, 0.9) | {"m5": 0.4, "m6": 0.3}
    like = act(on_plan, "string-modules", {"surface": "south", "pattern": "like shade together", "access": shares}, parts)[0]
    strung = [key for string in strings(like, parts) for key in string]
    assert not {"m5", "m6"} & set(strung) or strung[-2:] == ["m5", "m6"]


def test_a_drawn_string_takes_its_modules_and_repair_fills_what_it_broke(on_plan, parts):
    rows, _ = act(on_plan, "string-modules", {"surface": "south", "pattern": "by row"}, parts)
    first, second = strings(rows, parts)
    path = [first[0], second[0], second[1]]
    drawn, _ = act(rows, "draw-string", {"surface": "south", "path": path}, parts)
    assert strings(drawn, parts) == [tuple(path), second[2:]]
    whole, words = act(drawn, "repair-strings", {"surface": "south"}, parts)
    now = strings(whole, parts)
    assert [len(string) for string in now] == [8, 8] and words == "Strings are whole again."
    assert now[0][:3] == tuple(path) and now[1][:6] == second[2:]
    assert len({key for string in now for key in string}) == 16
    loose = next(key for key in at(whole) if not any(key in string for string in now))
    with pytest.raises(ImpossibleAct, match="Every string is full"):
        act(whole, "draw-string", {"surface": "south", "path": [loose]}, parts)


def test_a_module_that_is_taken_out_leaves_its_string_short_and_repair_takes_the_nearest(on_plan, parts):
    rows, _ = act(on_plan, "string-modules", {"surface": "south", "pattern": "by row"}, parts)
    gone = strings(rows, parts)[0][-1]
    less, _ = act(rows, "delete-modules", {"modules": {"south": [gone]}}, parts)
    whole, _ = act(less, "repair-strings", {"surface": "south"}, parts)
    places, (first, _) = at(less), strings(whole, parts)
    free = [key for key in places if key not in {i for string in strings(less, parts) for i in string}]
    before = first[-2]
    assert first[-1] == min(free, key=lambda i: (places[i].u - places[before].u) ** 2 + (places[i].v - places[before].v) ** 2)


def test_the_remedy_for_modules_that_cannot_lie_there_takes_just_those(on_plan, parts):
    pushed = on_plan | {"scene": on_plan["scene"] | {"chimneys": {"flue": {"on": "house", "x": 2, "y": -3}}}}
    design = Design.read(pushed)
    tray = plans_of(design, parts)["south"].tray
    assert tray
    less = edited(pushed, {"surfaces": {"south": {"layout": design.surfaces["south"].layout.without(tray)}}}, parts)
    assert at(less) == {key: place for key, place in at(on_plan).items() if key not in tray}
    assert plans_of(Design.read(less), parts)["south"].tray == {}


def test_another_type_leaves_no_module_of_the_old_one(on_plan, parts):
    larger = max(parts.modules.values(), key=lambda module: module.area).id
    swapped, words = act(on_plan, "swap-modules", {"surface": "south", "module": larger}, parts)
    design = Design.read(swapped)
    plan = plans_of(design, parts)["south"]
    assert plan.module.id == larger and plan.tray == {} and set(at(swapped)) <= set(at(on_plan))
    assert f"{len(at(swapped))} of the {len(at(on_plan))} modules have a place" in words
    with pytest.raises(ImpossibleAct, match="no module 'none'"):
        act(on_plan, "swap-modules", {"surface": "south", "module": "none"}, parts)


def test_a_house_goes_with_all_that_stands_on_it(on_plan, parts):
    scene = {
        "buildings": on_plan["scene"]["buildings"] | {"barn": {"x": 40, "length": 9, "width": 7}},
        "chimneys": {"flue": {"on": "house"}, "other": {"on": "barn"}},
        "poles": {"mast": {"x": 20}},
    }
    document = on_plan | {"scene": scene}
    less, words = act(document, "delete-things", {"things": ["house"]}, parts)
    assert set(less["scene"]["buildings"]) == {"barn"} and set(less["scene"]["chimneys"]) == {"other"}
    assert less["surfaces"] == {} and less["subarrays"] == {} and set(less["scene"]["poles"]) == {"mast"}
    assert words == "Buildings deleted." or words.endswith("deleted.")
    both, words = act(document, "delete-things", {"things": ["mast", "other"]}, parts)
    assert words == "2 things deleted." and both["surfaces"] == document["surfaces"]
    with pytest.raises(ImpossibleAct, match="The scene has no 'shed'"):
        act(document, "delete-things", {"things": ["shed"]}, parts)


@pytest.mark.parametrize(
    ("verb", "arguments", "words"),
    [
        ("move-modules", {"surface": "north", "modules": ["m1"]}, "no surface 'north'"),
        ("move-modules", {"surface": "south", "modules": ["m999"]}, "No module m999"),
        ("draw-string", {"surface": "south", "path": ["m999"]}, "No module m999"),
        ("unpair-racks", {"surface": "south"}, "do not stand back to back"),
    ],
)
def test_what_cannot_be_done_says_why(on_plan, parts, verb, arguments, words):
    with pytest.raises(ImpossibleAct, match=words):
        act(on_plan, verb, arguments, parts)


@pytest.mark.parametrize("verb", ["string-modules", "draw-string", "repair-strings", "take-lengths"])
def test_without_modules_or_strings_there_is_nothing_to_string(parts, on_plan, verb):
    given = {"surface": "south"} | {"string-modules": {"pattern": "snake"}, "draw-string": {"path": ["m1"]}}.get(verb, {})
    with pytest.raises(ImpossibleAct):
        act(edited(DEEP, {}, parts), verb, given, parts)
    with pytest.raises(ImpossibleAct):
        act(on_plan | {"subarrays": {}}, verb, given, parts)


def test_the_command_line_does_the_same(on_plan, parts, tmp_path):
    from noontide.cli import main

    design, arguments, out = (tmp_path / name for name in ("design.json", "arguments.json", "out.json"))
    design.write_text(json.dumps(on_plan))
    for verb, given in (
        ("delete-modules", {"modules": {"south": ["m2", "m5"]}}),
        ("string-modules", {"surface": "south", "pattern": "by column"}),
        ("swap-modules", {"surface": "south", "module": "quillon-410"}),
        ("take-lengths", {"surface": "south"}),
    ):
        arguments.write_text(json.dumps(given))
        assert main(["edit", "--out", str(out), str(design), "act", verb, str(arguments)]) == 0
        assert json.loads(out.read_text()) == act(on_plan, verb, given, parts)[0], verb
