"""Laying modules on a face: by hand, staggered, in rows at a spacing that is asked for."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.design.document import Design
from noontide.core.design.layout import Layout, PlacedModule
from noontide.core.plan import FaceModules
from noontide.core.plan.layouts import LEAD, plans_of, string_runs
from noontide.core.scene import faces
from noontide.core.scene.document import Scene
from noontide.core.sun import solar_position

HOUSE = Scene.model_validate({"buildings": {"h": {"length": 12, "width": 8, "gable": {"pitch": 35}}}})
FIELD = Scene.model_validate({"grounds": {"g": {"length": 40, "width": 30}}})


@pytest.fixture
def roof(parts):
    face = next(f for f in faces(HOUSE) if f.kind == "roof")
    return FaceModules(face, Layout(orientation="portrait"), parts.modules["veltrane-430"])


def lying(plan, **modules):
    return replace(plan, layout=plan.layout.model_copy(update={"modules": plan.layout.modules | modules}))


def test_a_click_lays_one_module_in_line_with_its_neighbour(roof):
    width, gap = roof.module.width, roof.layout.gap
    (alone,) = roof.more((5, 2), (5, 2)).values()
    assert alone.u + width / 2 == pytest.approx(5, abs=1e-3)
    beside = lying(roof, m1=PlacedModule(u=4, v=1))
    (second,) = beside.more((4 + 1.6 * width, 2.1), (4 + 1.6 * width, 2.1)).values()
    assert (second.u, second.v) == (pytest.approx(4 + width + gap, abs=1e-4), 1.0)
    assert beside.more((4.57, 1.9), (4.57, 1.9)) == {}, "a module lies there already"
    assert roof.more((50, 2), (50, 2)) == {}, "off the face"


def test_a_click_at_the_edge_slides_the_module_to_where_it_fits(roof):
    (low,) = roof.more((5, 0.3), (5, 0.3)).values()
    assert low.v == pytest.approx(roof.setbacks[0][1], abs=0.05)
    assert low.u + roof.module.width / 2 == pytest.approx(5, abs=0.05)


def test_a_low_drag_lays_a_row_at_the_height_of_the_row_beside(roof):
    beside = lying(roof, m1=PlacedModule(u=5, v=1))
    row = beside.more((0.5, 1.2), (11.5, 1.7))
    assert {placed.v for placed in row.values()} == {1.0} and len(row) >= 7
    assert lying(beside, **row).tray == {}


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(*[st.floats(-1, 13), st.floats(-1, 6)] * 2), min_size=1, max_size=4))
def test_whatever_is_laid_by_hand_overlaps_nothing_and_keeps_its_distances(parts, drags):
    face = next(f for f in faces(HOUSE) if f.kind == "roof")
    plan = FaceModules(face, Layout(), parts.modules["veltrane-430"])
    for u0, v0, u1, v1 in drags:
        plan = lying(plan, **plan.more((u0, v0), (u1, v1)))
    assert plan.tray == {}
    assert all(plan.usable.buffer(5e-3).contains(shapely.box(u, v, u + w, v + h)) for u, v, w, h in plan.rectangles)


def test_an_area_holds_as_many_as_a_fill_of_it(roof):
    whole = roof.more((-1, -1), (13, 9))
    assert len(whole) == len(roof.proposed())


def test_staggered_rows_are_half_a_module_apart_and_overlap_nothing(roof):
    plan = replace(roof, layout=roof.layout.model_copy(update={"is_staggered": True}))
    placed = plan.proposed()
    rows = {}
    for one in placed.values():
        rows.setdefault(one.v, []).append(one.u)
    step = roof.module.width + roof.layout.gap
    phases = [min(us) % step for _, us in sorted(rows.items())]
    assert len(rows) > 1
    for low, high in itertools.pairwise(phases):
        assert (high - low) % step == pytest.approx(step / 2, abs=1e-3)
    assert lying(plan, **placed).tray == {}
    assert len(placed) >= len(roof.proposed()) - len(rows)


@pytest.mark.parametrize(("racks", "pitch"), [({"pitch": 2.5}, 2.5), ({"ground_cover": 50}, 1.134 / 0.5)])
def test_rows_stand_at_the_spacing_that_is_asked_for(parts, racks, pitch):
    (face,) = (f for f in faces(FIELD) if f.kind == "ground")
    module = parts.modules["veltrane-430"]
    plan = FaceModules(face, Layout(orientation="landscape", racks={"tilt": 20, **racks}), module)
    assert module.width == pytest.approx(1.134)
    heights = sorted({placed.v for placed in plan.proposed().values()})
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
    heights = sorted({placed.v for placed in plan.proposed().values()})
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
            "subarrays": {"a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 3, "inverter": "i", "plan": [["m2", "m1", "m3"]]}},
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
