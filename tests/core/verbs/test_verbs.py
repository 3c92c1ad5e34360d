"""What is done to a design by name: the patch does what it says, and both ways of editing give the same document."""

import copy
import json

import pytest

from noontide.cli import main
from noontide.core.design import Design, merge_patch
from noontide.core.plan.filling import room_on, stand_in, strings_taken_over
from noontide.core.plan.layouts import plans_of, string_runs
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited
from noontide.core.verbs.planned_lengths import taken_from_plan
from tests.conftest import filled, lying

HOUSE = {
    "site": {"latitude": 44, "longitude": 11},
    "scene": {"buildings": {"house": {"length": 14, "width": 9, "gable": {"pitch": 35}}}},
    "surfaces": {"south": {"face": "house/roof-1", "layout": {"module": "veltrane-430"}}},
    "inverters": {"one": {"model": "hexley-8"}},
    "subarrays": {"a": {"surface": "south", "module": "veltrane-430", "modules_per_string": 8, "strings": 2, "inverter": "one"}},
}


@pytest.fixture
def on_plan(parts):
    return filled(HOUSE, {"surface": "south"}, parts)


def longest(document, parts):
    design = Design.read(document)
    (plan,) = plans_of(design, parts).values()
    lengths = [run.length for run in string_runs(design, "south", plan)]
    return max(lengths), sum(lengths) / len(lengths)


def test_cable_lengths_follow_the_plan_until_one_is_typed_over(parts, on_plan):
    wired = edited(on_plan, taken_from_plan(Design.read(on_plan), "south", parts), parts)
    cable = wired["subarrays"]["a"]["cable"]
    assert (cable["length"], cable["planned"]["mean"]) == pytest.approx(longest(wired, parts), abs=0.051)
    # The cables leave the face at its other end: no word about cables is in the edit.
    moved = edited(wired, {"surfaces": {"south": {"layout": {"exit_u": 14, "exit_v": 4}}}}, parts)
    assert moved["subarrays"]["a"]["cable"]["length"] == pytest.approx(longest(moved, parts)[0], abs=0.051) != cable["length"]
    typed = edited(moved, {"subarrays": {"a": {"cable": {"length": 40}}}}, parts)
    again = edited(typed, {"surfaces": {"south": {"layout": {"exit_u": 0, "exit_v": 0}}}}, parts)
    assert again["subarrays"]["a"]["cable"]["length"] == 40
    # Without modules nothing is known of lengths; what was taken stays.
    none = edited(moved, {"surfaces": {"south": {"layout": {"module_rows": None, "modules": None}}}}, parts)
    assert none["subarrays"]["a"]["cable"] == moved["subarrays"]["a"]["cable"]


def test_a_design_without_planned_cables_is_left_alone(parts, on_plan):
    assert edited(on_plan, {}, parts) == on_plan
    with pytest.raises(ValueError, match="no surface 'roof'"):
        taken_from_plan(Design.read(on_plan), "roof", parts)
    with pytest.raises(ValueError, match="lies on the plan"):
        taken_from_plan(Design.read(HOUSE), "south", parts)


def test_room_is_what_lies_there_what_fits_or_what_the_area_holds(parts, on_plan):
    module = parts.modules["veltrane-430"]
    laid = len(lying(on_plan["surfaces"]["south"]["layout"]))
    assert room_on(Design.read(on_plan), "south", module, parts) == laid == room_on(Design.read(HOUSE), "south", module, parts)
    few = merge_patch(HOUSE, {"surfaces": {"south": {"layout": {"most": 5}}}})
    assert room_on(Design.read(filled(few, {"surface": "south"}, parts)), "south", module, parts) == 5
    plane = merge_patch(HOUSE, {"surfaces": {"south": {"face": None, "layout": None, "area": 10 * module.area}}})
    assert room_on(Design.read(plane), "south", module, parts) == 10
    assert room_on(Design.read(merge_patch(plane, {"surfaces": {"south": {"area": None}}})), "south", module, parts) is None
    gone = merge_patch(HOUSE, {"surfaces": {"south": {"face": "house/roof-9"}}})
    assert room_on(Design.read(gone), "south", module, parts) is None


def test_a_face_gets_a_surface_of_its_own_and_a_level_one_racks(parts):
    document = copy.deepcopy(HOUSE) | {"surfaces": {}, "subarrays": {}}
    (surface,) = filled(document, {"face": "house/roof-1"}, parts)["surfaces"].values()
    assert len(lying(surface["layout"])) > 10 and surface["face"] == "house/roof-1"
    document["scene"]["buildings"]["house"] = {"length": 14, "width": 9, "flat": {}}
    (surface,) = Design.read(filled(document, {"face": "house/roof"}, parts)).surfaces.values()
    assert len(surface.layout.placed) > 4 and surface.mounting == "open rack" and surface.tilt == 10
    with pytest.raises(ImpossibleAct, match="It has house/roof"):
        filled(document, {"face": "house/roof-7"}, parts)


def test_only_a_single_loose_plane_stands_in_for_a_roof():
    document = copy.deepcopy(HOUSE)
    document["surfaces"]["plane"] = {"tilt": 30}
    assert stand_in(Design.read(document), "south") is None, "the face has strings already"
    document["subarrays"]["a"]["surface"] = "plane"
    assert stand_in(Design.read(document), "south") == "plane"
    moved = Design.read(merge_patch(document, strings_taken_over(Design.read(document), "plane", "south")))
    assert set(moved.surfaces) == {"south"} and moved.subarrays["a"].surface == "south"
    document["surfaces"]["other"] = {"tilt": 30}
    document["subarrays"]["b"] = document["subarrays"]["a"] | {"surface": "other", "tracker": 2}
    assert stand_in(Design.read(document), "south") is None, "nobody can tell which of two"


def test_the_command_line_edits_as_the_server_does(tmp_path, capsys, parts, on_plan):
    file, out, patch = tmp_path / "house.json", tmp_path / "out.json", tmp_path / "patch.json"
    file.write_text(json.dumps(HOUSE))
    assert main(["edit", str(file), "--out", str(out), "fill", "south"]) == 0
    assert json.loads(out.read_text()) == on_plan
    assert main(["edit", str(out), "--out", str(file), "lengths", "south"]) == 0
    patch.write_text(json.dumps({"surfaces": {"south": {"layout": {"exit_u": 14}}}}))
    assert main(["edit", str(file), "--out", str(out), "patch", str(patch)]) == 0
    wired = edited(on_plan, taken_from_plan(Design.read(on_plan), "south", parts), parts)
    assert json.loads(out.read_text()) == edited(wired, json.loads(patch.read_text()), parts)
    capsys.readouterr()
    for wrong in (
        ["fill", "attic"],
        ["lengths", "attic"],
        ["patch", str(tmp_path / "none.json")],
        ["fill", "south", "--most", "-1"],
    ):
        with pytest.raises(SystemExit) as stopped:
            main(["edit", str(file), *wrong])
        assert stopped.value.code != 0 and "Traceback" not in capsys.readouterr().err


def _loose(**subarrays):
    ground = {"site": {"latitude": 44, "longitude": 11}, "surfaces": {"yard": {}}, "inverters": {"one": {"model": "hexley-8"}}}
    arrays = {key: {"surface": "yard", "module": "veltrane-430", "inverter": "one"} | one for key, one in subarrays.items()}
    return ground | {"subarrays": arrays}


@pytest.mark.parametrize(
    ("wanted", "length", "strings"),
    [
        pytest.param(3.44, 8, 1, id="as it is"),
        pytest.param(2.0, 5, 1, id="a shorter string: 4.65 modules"),
        pytest.param(10.0, 8, 3, id="three strings"),
        pytest.param(0.1, 1, 1, id="one module at least"),
    ],
)
def test_array_and_battery_take_a_size_in_whole_modules(parts, wanted, length, strings):
    design = Design.read(edited(_loose(a={"modules_per_string": 8}), {}, parts))
    patch, words = applied(design, "size-system", {"array": wanted, "energy": 12})
    after = Design.read(edited(design.as_kept(), patch, parts))
    one = after.subarrays["a"]
    assert (one.modules_per_string, one.strings) == (length, strings)
    assert after.storage.bank.energy == 12 and f"{length * strings * 0.43:.3g} kW of the {wanted:.3g} kW" in words


def test_modules_with_places_on_the_scene_are_not_sized_by_a_number(on_plan):
    with pytest.raises(ImpossibleAct, match="places on the scene"):
        applied(Design.read(on_plan), "size-system", {"array": 5, "energy": 10})


def test_the_changed_design_is_written_wherever_the_option_stands(tmp_path):
    file, given = tmp_path / "design.json", tmp_path / "outline.json"
    file.write_text(json.dumps(HOUSE))
    given.write_text(json.dumps({"kind": "field", "corners": [[0, 0], [30, 0], [30, 20], [0, 20]]}))
    before, behind = tmp_path / "before.json", tmp_path / "behind.json"
    assert main(["edit", "--out", str(before), str(file), "act", "trace-outline", str(given)]) == 0
    assert main(["edit", str(file), "act", "trace-outline", str(given), "--out", str(behind)]) == 0
    assert before.read_bytes() == behind.read_bytes() and "field-1" in before.read_text()
