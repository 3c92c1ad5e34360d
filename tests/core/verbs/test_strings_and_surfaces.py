"""Inverters, strings and surfaces that are added, arranged and deleted by name."""

from math import asin, cos, degrees, radians, sin

import pytest

from noontide.core.design import Design, merge_patch
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from tests.conftest import SOUTH_ROOF


def done(document, verb, **arguments):
    patch, words = applied(Design.read(document), verb, arguments)
    assert words.endswith(".")
    return merge_patch(document, patch), patch


def test_a_string_is_like_the_last_one_of_its_inverter():
    document, patch = done(SOUTH_ROOF, "add-strings", inverter="main", tracker=2, module="thornby-250")
    (added,) = patch["subarrays"].values()
    last = list(SOUTH_ROOF["subarrays"].values())[-1]
    assert added["module"] == last["module"] and added["modules_per_string"] == last["modules_per_string"]
    assert (added["inverter"], added["tracker"], added["strings"]) == ("main", 2, 1)
    assert len(Design.read(document).subarrays) == len(SOUTH_ROOF["subarrays"]) + 1


def test_the_first_string_takes_the_module_that_is_named_or_asks_for_one():
    bare = SOUTH_ROOF | {"subarrays": {}}
    document, _ = done(bare, "add-strings", inverter="main", module="thornby-250")
    (added,) = Design.read(document).subarrays.values()
    assert added.module == "thornby-250" and added.surface == next(iter(SOUTH_ROOF["surfaces"]))
    with pytest.raises(ImpossibleAct, match="Choose a module"):
        done(bare, "add-strings", inverter="main")
    with pytest.raises(ImpossibleAct, match="surface first"):
        done(bare | {"surfaces": {}}, "add-strings", inverter="main", module="thornby-250")
    with pytest.raises(ImpossibleAct, match="no inverter"):
        done(bare, "add-strings", inverter="nobody", module="thornby-250")


def test_an_inverter_comes_with_a_string_and_goes_with_all_of_its_own():
    document, patch = done(SOUTH_ROOF, "add-inverter", model="hexley-5")
    (key,) = patch["inverters"]
    assert len(patch["subarrays"]) == 1 and Design.read(document).inverters[key].model == "hexley-5"
    back, _ = done(document, "delete-inverter", inverter=key)
    assert Design.read(back).as_kept() == Design.read(SOUTH_ROOF).as_kept()
    alone, patch = done(SOUTH_ROOF | {"surfaces": {}, "subarrays": {}}, "add-inverter", model="hexley-5")
    assert "subarrays" not in patch and Design.read(alone)
    with pytest.raises(ImpossibleAct):
        done(SOUTH_ROOF, "delete-inverter", inverter="nobody")


def test_a_battery_on_the_dc_side_outlives_its_inverter():
    document = merge_patch(SOUTH_ROOF, {"storage": {"bank": {"energy": 5, "inverter": "main"}}})
    left, _ = done(document, "delete-inverter", inverter="main")
    assert Design.read(left).storage.bank.inverter is None


def test_a_surface_goes_with_the_strings_on_it():
    surface = next(iter(SOUTH_ROOF["surfaces"]))
    left, _ = done(SOUTH_ROOF, "delete-surface", surface=surface)
    design = Design.read(left)
    assert surface not in design.surfaces and not [s for s in design.subarrays.values() if s.surface == surface]
    with pytest.raises(ImpossibleAct, match="no surface"):
        done(SOUTH_ROOF, "delete-surface", surface="nowhere")


@pytest.mark.parametrize(("latitude", "azimuth"), [(43.6, 180), (-43.2, 0)])
def test_a_new_surface_looks_towards_the_equator(latitude, azimuth):
    document = merge_patch(SOUTH_ROOF, {"site": {"latitude": latitude}})
    for asked, expected in (({}, azimuth), ({"azimuth": 90.0, "tilt": 12.0}, 90)):
        changed, patch = done(document, "add-surface", **asked)
        (key,) = patch["surfaces"]
        assert Design.read(changed).surfaces[key].azimuth == expected


@pytest.mark.parametrize("tilt", [0, 5, 20, 35, 60, 90])
def test_rows_clear_one_another_above_the_sun_that_was_asked_for(tilt):
    document = merge_patch(SOUTH_ROOF, {"surfaces": {"barn": {"tilt": tilt}}})
    arranged, _ = done(document, "arrange-rows", surface="barn")
    rows = Design.read(arranged).surfaces["barn"].rows
    assert rows.pitch >= rows.width + 0.2 - 1e-9
    # The lowest sun that passes over one row's upper edge to the next one's lower edge.
    high, free = rows.width * sin(radians(tilt)), rows.pitch - rows.width * cos(radians(tilt))
    assert degrees(asin(high / (high**2 + free**2) ** 0.5)) <= 18 + 1e-6


def test_rows_that_turn_cover_two_fifths_of_the_ground():
    document = merge_patch(SOUTH_ROOF, {"surfaces": {"barn": {"tracking": {}}}})
    arranged, _ = done(document, "arrange-rows", surface="barn")
    rows = Design.read(arranged).surfaces["barn"].rows
    assert rows.width / rows.pitch == pytest.approx(0.4)
