"""Laying modules on a face: by hand, staggered, in rows at a spacing that is asked for."""

import copy
import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.design.document import Design
from noontide.core.design.layout import Layout, OwnSetbacks, PlacedModule
from noontide.core.plan import FaceModules
from noontide.core.plan.laying import behind, laid_by_hand, proposed, swapped
from noontide.core.plan.layouts import LEAD, partner_of, plans_of, string_runs
from noontide.core.scene import faces
from noontide.core.scene.document import Scene
from noontide.core.sun import solar_position
from tests.conftest import by_hand

HOUSE = Scene.model_validate({"buildings": {"h": {"length": 12, "width": 8, "gable": {"pitch": 35}}}})
FIELD = Scene.model_validate({"grounds": {"g": {"length": 40, "width": 30}}})


@pytest.fixture
def roof(parts):
    face = next(f for f in faces(HOUSE) if f.kind == "roof")
    return FaceModules(face, Layout(orientation="portrait"), parts.modules["veltrane-430"])


def lying(plan, **modules):
    return replace(plan, layout=plan.layout.holding(plan.placed | modules))


def test_a_click_lays_one_module_in_line_with_its_neighbour(roof):
    width, gap = roof.module.width, roof.layout.gap
    (alone,) = laid_by_hand(roof, (5, 2), (5, 2)).values()
    assert alone.u + width / 2 == pytest.approx(5, abs=1e-3)
    beside = lying(roof, m1=PlacedModule(u=4, v=1))
    (second,) = laid_by_hand(beside, (4 + 1.6 * width, 2.1), (4 + 1.6 * width, 2.1)).values()
    assert (second.u, second.v) == (pytest.approx(4 + width + gap, abs=1e-4), 1.0)
    assert laid_by_hand(beside, (4.57, 1.9), (4.57, 1.9)) == {}, "a module lies there already"
    assert laid_by_hand(roof, (50, 2), (50, 2)) == {}, "off the face"


def test_a_click_at_the_edge_slides_the_module_to_where_it_fits(roof):
    (low,) = laid_by_hand(roof, (5, 0.3), (5, 0.3)).values()
    assert low.v == pytest.approx(roof.setbacks[0][1], abs=0.05)
    assert low.u + roof.module.width / 2 == pytest.approx(5, abs=0.05)


def test_a_low_drag_lays_a_row_at_the_height_of_the_row_beside(roof):
    beside = lying(roof, m1=PlacedModule(u=5, v=1))
    row = laid_by_hand(beside, (0.5, 1.2), (11.5, 1.7))
    assert {placed.v for placed in row.values()} == {1.0} and len(row) >= 7
    assert lying(beside, **row).tray == {}


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(*[st.floats(-1, 13), st.floats(-1, 6)] * 2), min_size=1, max_size=4))
def test_whatever_is_laid_by_hand_overlaps_nothing_and_keeps_its_distances(parts, drags):
    face = next(f for f in faces(HOUSE) if f.kind == "roof")
    plan = FaceModules(face, Layout(), parts.modules["veltrane-430"])
    for u0, v0, u1, v1 in drags:
        plan = lying(plan, **laid_by_hand(plan, (u0, v0), (u1, v1)))
    assert plan.tray == {}
    assert all(plan.usable.buffer(5e-3).contains(shapely.box(u, v, u + w, v + h)) for u, v, w, h in plan.rectangles)


def test_an_area_holds_as_many_as_a_fill_of_it(roof):
    whole = laid_by_hand(roof, (-1, -1), (13, 9))
    assert len(whole) == len(proposed(roof))


def test_staggered_rows_are_half_a_module_apart_and_overlap_nothing(roof):
    plan = replace(roof, layout=roof.layout.model_copy(update={"is_staggered": True}))
    placed = proposed(plan)
    rows = {}
    for one in placed.values():
        rows.setdefault(one.v, []).append(one.u)
    step = roof.module.width + roof.layout.gap
    phases = [min(us) % step for _, us in sorted(rows.items())]
    assert len(rows) > 1
    for low, high in itertools.pairwise(phases):
        assert (high - low) % step == pytest.approx(step / 2, abs=1e-3)
    assert lying(plan, **placed).tray == {}
    assert len(placed) >= len(proposed(roof)) - len(rows)


@pytest.mark.parametrize(("racks", "pitch"), [({"pitch": 2.5}, 2.5), ({"ground_cover": 50}, 1.134 / 0.5)])
def test_rows_stand_at_the_spacing_that_is_asked_for(parts, racks, pitch):
    (face,) = (f for f in faces(FIELD) if f.kind == "ground")
    module = parts.modules["veltrane-430"]
    plan = FaceModules(face, Layout(orientation="landscape", racks={"tilt": 20, **racks}), module)
    assert module.width == pytest.approx(1.134)
    heights = sorted({placed.v for placed in proposed(plan).values()})
    assert np.diff(heights) == pytest.approx(pitch, abs=0.011)


@pytest.mark.parametrize("latitude", [50.0, 38.0, -33.0])
@pytest.mark.parametrize("hour", [9.0, 12.0, 14.0])
def test_rows_clear_of_shade_from_an_hour_are_so_at_the_sun_of_that_hour(parts, latitude, hour):
    """Against the sun's own position on the shortest day, at the longitude where clock and sun agree."""
    (face,) = (f for f in faces(FIELD) if f.kind == "ground")
    front = 180.0 if latitude > 0 else 0.0
    racks = {"tilt": 20, "azimuth": front, "clear_hour": hour}
    plan = FaceModules(face, Layout(orientation="landscape", racks=racks), parts.modules["veltrane-430"], latitude)
    day = "2023-12-21" if latitude > 0 else "2023-06-21"
    minutes = np.datetime64(f"{day}T04:00") + np.arange(0, 16 * 60) * np.timedelta64(1, "m")
    sun = solar_position(minutes, latitude, 0.0)
    noon = minutes[np.argmin(sun.zenith)]
    at = int((noon - minutes[0]) / np.timedelta64(1, "m") + (hour - 12) * 60)
    profile = np.arctan2(
        np.cos(np.radians(sun.zenith[at])), np.sin(np.radians(sun.zenith[at])) * np.cos(np.radians(sun.azimuth[at] - front))
    )
    slant, tilt = plan.module.width, np.radians(20)
    heights = sorted({placed.v for placed in proposed(plan).values()})
    pitch = float(np.diff(heights).max())
    # The shadow of a row ends where the next begins: height of the row over the tangent of the profile angle.
    assert pitch == pytest.approx(slant * (np.cos(tilt) + np.sin(tilt) / np.tan(profile)), rel=0.01)


def test_a_string_has_the_cable_of_its_two_ends_and_of_the_gaps_that_its_own_leads_do_not_bridge(parts):
    modules = {"m1": {"u": 1, "v": 1}, "m2": {"u": 2.154, "v": 1}, "m3": {"u": 8, "v": 1}}
    design = Design.read(
        {
            "site": {"latitude": 50, "longitude": 5},
            "scene": {"grounds": {"g": {"length": 20, "width": 10}}},
            "surfaces": {"s": {"face": "g/ground", "layout": {"modules": modules, "exit_u": 1, "exit_v": 1}}},
            "inverters": {"i": {"model": "hexley-5"}},
            "subarrays": {"a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 3, "inverter": "i", "string_plan": [["m2", "m1", "m3"]]}},
        }
    )  # fmt: skip
    plan = plans_of(design, parts)["s"]
    (run,) = string_runs(design, "s", plan)
    assert run.modules == ("m2", "m1", "m3") and run.number == 1
    width, height = plan.module.width, plan.module.length
    middle = lambda u: np.array([u + width / 2, 1 + height / 2, 0.1])  # noqa: E731  modules lie a little over the ground
    exit_at = np.array([1, 1, 0])
    ends = sum(max(np.linalg.norm(middle(u) - exit_at) - LEAD, 0) for u in (2.154, 8))
    gaps = max(1.154 - 2 * LEAD, 0) + (7 - 2 * LEAD)
    assert run.length == pytest.approx((ends + gaps) / 2, abs=1e-6)


PAIRS = {
    "site": {"latitude": 47, "longitude": 8},
    "scene": {"buildings": {"hall": {"length": 24, "width": 14, "azimuth": 200, "flat": {}}}},
    "surfaces": {
        "one": {"face": "hall/roof", "layout": {"module": "veltrane-430", "racks": {"tilt": 12, "azimuth": 95, "is_paired": True}}},
        "two": {"face": "hall/roof", "layout": {"module": "veltrane-430", "racks": {"tilt": 12, "azimuth": 275, "is_paired": True}}},
    },
}  # fmt: skip


def with_layouts(document, **modules):
    found = copy.deepcopy(document)
    for key, some in modules.items():
        found["surfaces"][key]["layout"]["modules"] = by_hand(some)
    return Design.read(found)


def test_racks_back_to_back_share_a_ridge_and_overlap_nothing(parts):
    design = Design.read(PAIRS)
    plans = plans_of(design, parts)
    fronts = proposed(plans["one"])
    backs = behind(plans["one"], plans["two"], fronts)
    assert len(fronts) == len(backs) > 30
    laid = plans_of(with_layouts(PAIRS, one=fronts, two=backs), parts)
    assert laid["one"].tray == laid["two"].tray == {}
    first, second = (np.array(laid[key].all_corners) for key in ("one", "two"))
    order = [laid["two"].ids.index(key) for key in laid["one"].ids]
    # Upper edges are as high as one another, and the gap between modules apart.
    tops = first[:, 2:].mean(axis=1), second[order][:, 2:].mean(axis=1)
    assert tops[0] == pytest.approx(tops[1] * [0, 0, 1] + tops[0] * [1, 1, 0])
    assert np.linalg.norm(tops[0] - tops[1], axis=1) == pytest.approx(laid["one"].layout.gap, abs=1e-3)
    lows = first[:, :2].mean(axis=1)[:, 2], second[:, :2].mean(axis=1)[:, 2]
    assert lows[0].max() < tops[0][:, 2].min() and lows[1].max() < tops[0][:, 2].min()
    assert partner_of(design, "one") == "two" and partner_of(design, "two") == "one"


@pytest.mark.parametrize("tilt", [5, 10, 20, 35])
def test_a_ridge_shades_no_other_pair_from_a_sun_of_fifteen_degrees_on(parts, tilt):
    document = copy.deepcopy(PAIRS)
    for surface in document["surfaces"].values():
        surface["layout"]["racks"]["tilt"] = tilt
    plan = plans_of(Design.read(document), parts)["one"]
    height = plan.module.width * np.sin(np.radians(tilt))
    depth = plan.module.width * np.cos(np.radians(tilt))
    assert plan.row_gap >= height / np.tan(np.radians(15)) - depth - 1e-9
    assert plan.row_gap == pytest.approx(max(plan.layout.gap, height / np.tan(np.radians(15)) - depth))


def test_a_pitch_by_hand_is_that_of_pairs(parts):
    document = copy.deepcopy(PAIRS)
    document["surfaces"]["one"]["layout"]["racks"]["pitch"] = 3.1
    plan = plans_of(Design.read(document), parts)["one"]
    lows = sorted({placed.v for placed in proposed(plan).values()})
    assert np.diff(lows) == pytest.approx(3.1, abs=0.011)


def test_a_surface_gives_way_to_the_one_before_it_on_the_face(parts):
    flat = {"site": {"latitude": 47, "longitude": 8}, "scene": PAIRS["scene"],
            "surfaces": {key: {"face": "hall/roof", "layout": {"module": "veltrane-430", "orientation": "portrait"}} for key in ("one", "two")}}  # fmt: skip
    every = proposed(plans_of(Design.read(flat), parts)["one"])
    half = dict(list(every.items())[: len(every) // 2])
    plans = plans_of(with_layouts(flat, one=half), parts)
    rest = proposed(plans["two"])
    assert 0 < len(rest) <= len(every) - len(half)
    assert plans_of(with_layouts(flat, one=half, two=rest), parts)["two"].tray == {}
    on_top = plans_of(with_layouts(flat, one=half, two=half), parts)
    assert on_top["one"].tray == {} and set(on_top["two"].tray.values()) == {"on a module of another surface"}


def test_a_type_a_little_larger_keeps_every_middle(roof):
    laid = lying(roof, **dict(list(proposed(roof).items())[:6]))
    larger = roof.module.model_copy(update={"width": roof.module.width + 0.01, "length": roof.module.length + 0.01})
    found, left = swapped(laid, larger)
    assert left == [] and list(found) == list(laid.ids)
    for key, placed in found.items():
        before = laid.placed[key]
        assert placed.u + larger.width / 2 == pytest.approx(before.u + roof.module.width / 2, abs=1e-3)


def test_a_larger_type_is_stretched_and_what_has_no_place_is_told(roof):
    laid = lying(roof, **proposed(roof))
    larger = roof.module.model_copy(update={"width": roof.module.width * 1.15, "length": roof.module.length * 1.1})
    found, left = swapped(laid, larger)
    assert set(found) | set(left) == set(laid.ids) and left
    after = replace(laid, module=larger, layout=laid.layout.holding(found))
    assert after.tray == {}
    # Kept in place, every second would lie on its neighbour.
    assert len(found) > 0.7 * len(proposed(replace(roof, module=larger)))


@settings(max_examples=25, deadline=None)
@given(st.floats(0.3, 2.2), st.floats(0.3, 2.2), st.booleans())
def test_whatever_type_is_swapped_in_nothing_overlaps_and_nothing_is_lost(parts, wide, long, staggered):
    face = next(f for f in faces(HOUSE) if f.kind == "roof")
    roof = FaceModules(face, Layout(is_staggered=staggered), parts.modules["veltrane-430"])
    laid = lying(roof, **proposed(roof))
    module = roof.module.model_copy(update={"width": roof.module.width * wide, "length": roof.module.length * long})
    found, left = swapped(laid, module)
    assert sorted([*found, *left]) == sorted(laid.ids)
    assert replace(laid, module=module, layout=laid.layout.holding(found)).tray == {}
    if wide <= 1 and long <= 1:
        assert left == []


def test_a_rule_set_of_ones_own_stands_in_place_of_those_that_ship_and_an_edge_still_has_its_own(roof):
    own = roof.layout.model_copy(update={"own_set": OwnSetbacks(title="Ours", distances={"eave": 1.9}), "rule_set": "fire-lanes"})
    plan = replace(roof, layout=own)
    eave = next(k for k, (kind, _) in enumerate(plan.setbacks) if kind == "eave")
    assert plan.setbacks[eave] == ("eave", 1.9)
    assert {d for kind, d in plan.setbacks if kind == "ridge"} == {0.2}, "what it leaves out is as in the plain one"
    typed = replace(plan, layout=own.model_copy(update={"setbacks": {"eave": 0.7}, "edges": {str(eave + 1): 0.4}}))
    assert typed.setbacks[eave] == ("eave", 0.4)
    lows = [placed.v for placed in proposed(plan).values()]
    assert min(lows) >= 1.9 - 1e-6 and min(placed.v for placed in proposed(roof).values()) < 1.9
