"""Rows of trackers on a ground of the scene: laid, turned and simulated as rows of trackers are anywhere."""

import copy

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from noontide.core.checks import find_checks
from noontide.core.design import Design, merge_patch
from noontide.core.design.surface import axis_on
from noontide.core.irradiance.tracking import plane_at
from noontide.core.plan.layouts import plans_of
from noontide.core.simulation import Libraries
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited
from tests.conftest import filled

FIELD = {
    "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412, "time_zone": "Europe/Rome"},
    "scene": {"grounds": {"field": {"name": "Meadow", "length": 60, "width": 50}}},
    "surfaces": {
        "s": {
            "face": "field/ground",
            "mounting": "open rack",
            "tracking": {},
            "layout": {"module": "veltrane-430", "orientation": "portrait", "racks": {"height": 1.5}},
        }
    },
    "inverters": {"one": {"model": "corvane-75t"}},
    "subarrays": {"a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 18, "strings": 3, "inverter": "one"}},
}


@pytest.fixture(scope="module")
def libraries(hill_weather):
    from noontide.parts import built_in_parts

    return Libraries(built_in_parts(), hill_weather)


@pytest.fixture(scope="module")
def field(libraries):
    return filled(FIELD, {"surface": "s"}, libraries.parts)


def plan_of(document, libraries):
    return plans_of(Design.read(document), libraries.parts)["s"]


def test_rows_run_along_the_axis_and_cover_two_fifths_of_the_ground(field, libraries):
    plan = plan_of(field, libraries)
    corners = np.array(plan.all_corners)
    assert np.ptp(corners[..., 2]) < 1e-9, "at rest they lie level"
    east = np.unique((corners[:, :, 0].min(axis=1)).round(3))
    assert np.diff(east) == pytest.approx(np.full(east.size - 1, 1.722 / 0.4), abs=1e-3)
    assert corners[:, :, 1].max() - corners[:, :, 1].min() > 45, "from the south to the north"
    about = merge_patch(field, {"surfaces": {"s": {"tracking": {"axis_azimuth": 90}, "layout": {"module_rows": None}}}})
    turned = np.array(plan_of(filled(about, {"surface": "s"}, libraries.parts), libraries).all_corners)
    assert np.unique(turned[:, :, 0].min(axis=1).round(2)).size > 30, "about an east-west axis rows run east"


def test_the_year_is_that_of_the_same_rows_of_trackers_without_a_scene(field, libraries):
    results = libraries.year_of(Design.read(field))
    rows = results.plant.surfaces[0].rows
    plain = {key: value for key, value in copy.deepcopy(field).items() if key != "scene"}
    plain["surfaces"] = {
        "s": {
            "mounting": "open rack",
            "tracking": {},
            "rows": {"pitch": rows.pitch, "width": rows.width, "count": rows.count},
        }
    }
    other = libraries.year_of(Design.read(plain))
    assert results.annual.energy == pytest.approx(other.annual.energy, rel=1e-12)
    assert rows.pitch == pytest.approx(1.722 / 0.4) and rows.count == len(
        {p.v for p in plan_of(field, libraries).placed.values()}
    )
    fixed = libraries.year_of(Design.read(merge_patch(plain, {"surfaces": {"s": {"tracking": None, "tilt": 30}}})))
    assert results.annual.energy > 1.03 * fixed.annual.energy and results.cascade.residual < 1e-9


@given(st.floats(0, 60), st.floats(0, 359), st.floats(0, 359))
def test_an_axis_on_sloping_ground_carries_rows_that_lie_along_it(slope, toward, axis):
    """Turned by the slope across, a row has the tilt and azimuth of the ground."""
    down, turn = np.radians(slope), np.radians(toward)
    normal = np.array([np.sin(down) * np.sin(turn), np.sin(down) * np.cos(turn), np.cos(down)])
    axis_tilt, across = axis_on(normal, axis)
    tilt, azimuth = plane_at(across, axis_tilt, axis)
    found = [np.sin(np.radians(tilt)) * f(np.radians(azimuth)) for f in (np.sin, np.cos)]
    assert [*found, np.cos(np.radians(tilt))] == pytest.approx(normal.tolist(), abs=1e-9)


@pytest.mark.parametrize(
    ("toward", "axis_tilt", "across"),
    [
        pytest.param(180, 6, 0, id="down along the axis"),
        pytest.param(270, 0, 6, id="down to the west, where afternoons turn"),
        pytest.param(90, 0, -6, id="down to the east"),
    ],
)
def test_axes_follow_the_ground_and_are_not_kept(toward, axis_tilt, across):
    sloping = merge_patch(FIELD, {"scene": {"grounds": {"field": {"slope": 6, "azimuth": toward}}}})
    design = Design.read(sloping)
    tracking = design.surfaces["s"].tracking
    assert (tracking.axis_tilt, tracking.slope) == pytest.approx((axis_tilt, across), abs=1e-6)
    assert design.as_kept()["surfaces"]["s"]["tracking"] == {}


@pytest.mark.parametrize(
    ("patch", "words"),
    [
        ({"scene": {"grounds": {"field": {"slope": 20}}}}, "8° or less"),
        ({"surfaces": {"s": {"tracking": {"slope": 4}}}}, "follow its ground"),
        ({"surfaces": {"s": {"layout": {"racks": {"is_paired": True}}}}}, "do not turn"),
        ({"surfaces": {"s": {"tracking": None, "two_axis_tracking": {}}}}, "turns about one axis"),
    ],
)
def test_what_cannot_turn_is_refused_in_words(patch, words):
    with pytest.raises(ValidationError, match=words):
        Design.read(merge_patch(FIELD, patch))


def test_rows_turn_and_stand_again_by_a_verb(field, libraries):
    def act(document, **arguments):
        patch, words = applied(Design.read(document), "turn-rows", {"surface": "s", **arguments}, libraries)
        return edited(document, patch, libraries.parts), words

    standing, words = act(field, turns=False)
    assert "stand on racks" in words and "tracking" not in standing["surfaces"]["s"]
    again, _ = act(standing)
    assert again["surfaces"] == field["surfaces"]
    about, _ = act(field, axis_azimuth=90)
    assert about["surfaces"]["s"]["tracking"] == {"axis_azimuth": 90}
    steep = merge_patch(standing, {"scene": {"grounds": {"field": {"slope": 20}}}})
    with pytest.raises(ImpossibleAct, match="8° or less"):
        act(steep)


def test_objects_that_trackers_do_not_count_are_noted(field, libraries):
    assert not [c for c in find_checks(libraries.year_of(Design.read(field))) if c.rule == "objects-beside-trackers"]
    tree = merge_patch(field, {"scene": {"trees": {"oak": {"x": 40, "y": 0, "height": 15}}}})
    (found,) = [c for c in find_checks(libraries.year_of(Design.read(tree))) if c.rule == "objects-beside-trackers"]
    assert found.actual == 1 and "1 object of the scene stands there" in found.detail


@pytest.mark.parametrize(
    ("patch", "changes"),
    [
        pytest.param({"surfaces": {"s": {"layout": {"racks": {"pitch": 6}}}}}, False, id="rows stay until they are laid anew"),
        pytest.param({"surfaces": {"s": {"tracking": {"axis_azimuth": 150}}}}, True, id="another axis"),
        pytest.param({"surfaces": {"s": {"tracking": {"backtracking": False}}}}, True, id="no backtracking"),
        pytest.param({"scene": {"grounds": {"field": {"slope": 5, "azimuth": 250}}}}, True, id="sloping ground"),
        pytest.param(
            {"surfaces": {"s": {"layout": {"modules": {"m3": {"u": 9, "v": 9}}}}}},
            True,
            id="a module by hand, in a row of its own",
        ),
    ],
)
def test_a_change_gives_the_same_with_a_warm_cache_as_cold(field, libraries, patch, changes):
    before = libraries.year_of(Design.read(field)).annual.energy
    changed = Design.read(merge_patch(field, patch))
    warm = libraries.year_of(changed).annual.energy
    assert warm == Libraries(libraries.parts, libraries.weather).year_of(changed).annual.energy
    assert (warm != before) == changes


@pytest.mark.parametrize(
    ("orientation", "width", "groups"), [("portrait", 1.722, 1), ("landscape", 1.134, 3), ("best", 1.134, 3)]
)
@pytest.mark.parametrize("is_laid", [True, False])
def test_rows_are_as_wide_and_as_far_apart_as_they_lie_or_would(libraries, orientation, width, groups, is_laid):
    layout = {"orientation": orientation, "racks": {"ground_cover": 50}}
    document = merge_patch(FIELD, {"surfaces": {"s": {"layout": layout}}})
    if is_laid:
        document = filled(document, {"surface": "s"}, libraries.parts)
    rows = libraries.year_of(Design.read(document)).plant.surfaces[0].rows
    assert (rows.width, rows.cell_groups) == (width, groups)
    assert rows.pitch == pytest.approx(width / 0.5, abs=2e-3)
