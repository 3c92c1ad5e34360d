"""The scene in the year: no caster costs nothing, every obstacle costs, the books close, and a plan follows its face."""

import copy

import numpy as np
import pytest

from noontide.core.access.solar_access import accesses_of
from noontide.core.access.takers import takers_of
from noontide.core.checks import find_checks
from noontide.core.design import freeze
from noontide.core.design.document import Design
from noontide.core.electrical import Catalogue
from noontide.core.plan import FaceModules, groups_of, racks_beside
from noontide.core.plan.laying import behind, proposed
from noontide.core.plan.layouts import plans_of
from noontide.core.shading.horizon import Horizon
from noontide.core.simulation import StageCache, simulate
from noontide.core.simulation.chain import sky_over
from noontide.core.simulation.near_shade import NearInputs, cast_shadows
from noontide.core.simulation.plant import IncompleteDesign
from tests.conftest import by_hand, simulated_weather

MODULE = "veltrane-430"
BARN = {"length": 20, "width": 10, "eave": 4, "azimuth": 180, "gable": {"pitch": 25}}
PLAIN = {
    "format": "noontide-design/5",
    "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
    "inverters": {"one": {"model": "hexley-20"}},
    "subarrays": {"a": {"surface": "s", "module": MODULE, "modules_per_string": 16, "strings": 2, "inverter": "one"}},
}


def on_scene(parts, scene, most=32, **layout):
    document = copy.deepcopy(PLAIN) | {
        "scene": scene,
        "surfaces": {"s": {"face": "barn/roof-1", "layout": {"most": most, **layout}}},
    }
    (plan,) = plans_of(Design.read(document), parts).values()
    document["surfaces"]["s"]["layout"]["modules"] = by_hand(proposed(plan))
    return document


@pytest.fixture(scope="module")
def bare(parts):
    return on_scene(parts, {"buildings": {"barn": BARN}})


def test_a_roof_with_nothing_around_gives_what_a_plane_of_its_orientation_gives(parts, hill_weather, bare):
    results = simulate(Design.read(bare), hill_weather, parts)
    plane = copy.deepcopy(PLAIN) | {"surfaces": {"s": {"tilt": 25, "azimuth": 180}}}
    alone = simulate(Design.read(plane), hill_weather, parts)
    assert results.annual.energy == pytest.approx(alone.annual.energy, rel=1e-9)
    assert results.cascade["near_shade"].energy == pytest.approx(0, abs=1e-6)


def test_every_obstacle_costs_and_the_books_close(parts, hill_weather, bare):
    before = simulate(Design.read(bare), hill_weather, parts).annual.energy
    for kind, thing in (
        ("chimneys", {"on": "barn", "x": 2, "y": -4.2, "height": 2}),
        ("silos", {"x": 6, "y": -9, "height": 14}),
        ("trees", {"x": -4, "y": -11, "height": 12, "diameter": 7}),
        ("walls", {"x": 0, "y": -9, "length": 20, "height": 8, "light": 0.5}),
        ("buildings", {"y": -16, "length": 14, "width": 8, "eave": 7, "gable": {"pitch": 40}}),
    ):
        document = copy.deepcopy(bare)
        document["scene"].setdefault(kind, {})["thing"] = thing
        results = simulate(Design.read(document), hill_weather, parts)
        assert results.annual.energy < before * 0.9995, kind
        assert results.cascade["near_shade"].energy < 0, kind
        assert results.cascade.residual < 1e-9, kind


def test_the_electrical_part_is_booked_apart_and_optimisers_take_it_away(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["chimneys"] = {"c": {"on": "barn", "x": 0, "y": -2, "height": 3, "length": 0.8, "width": 0.8}}
    document["subarrays"]["a"]["cable"] = {"length": 10}
    with_strings = simulate(Design.read(document), hill_weather, parts)
    assert with_strings.cascade["partial_shade"].energy < -50
    document["subarrays"]["a"]["optimiser"] = next(iter(parts.optimisers))
    with_optimisers = simulate(Design.read(document), hill_weather, parts)
    assert with_optimisers.cascade["partial_shade"].energy > with_strings.cascade["partial_shade"].energy * 0.6
    assert with_optimisers.cascade.residual < 1e-9


def test_a_tree_without_leaves_takes_less_and_one_that_grows_takes_more(parts, hill_weather, bare):
    def energy(**tree):
        document = copy.deepcopy(bare)
        document["scene"] |= {"trees": {"t": {"x": 0, "y": -10, "height": 10, "diameter": 8, "growth": 0.3, **tree}}}
        return simulate(Design.read(document), hill_weather, parts).annual.energy

    assert energy(light_in_leaf=0.65) > energy()
    document = copy.deepcopy(bare)
    document["scene"] |= {"trees": {"t": {"x": 0, "y": -10, "height": 10, "diameter": 8, "growth": 0.3}}, "years_ahead": 10}
    assert simulate(Design.read(document), hill_weather, parts).annual.energy < energy()


def test_a_moved_chimney_gives_warm_what_it_gives_cold(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    cache = StageCache()
    for x in (-3, -2.5, 1):
        document["scene"]["chimneys"] = {"c": {"on": "barn", "x": x, "y": -2, "height": 2}}
        warm = simulate(Design.read(document), hill_weather, parts, cache)
        cold = simulate(Design.read(document), hill_weather, parts, StageCache())
        assert warm.annual.energy == cold.annual.energy


def test_a_coarse_look_is_near_the_exact_one(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"] |= {
        "trees": {"t": {"x": -4, "y": -11, "height": 12, "diameter": 7}},
        "chimneys": {"c": {"on": "barn", "x": 2, "y": -4.2, "height": 2}},
    }
    design, cache = Design.read(document), StageCache()
    sky = sky_over(design.site, hill_weather, cache)
    (exact,), (coarse,) = (accesses_of(design, parts, sky, cache, is_coarse=coarse) for coarse in (False, True))
    assert exact.access.annual.min() < 0.93
    assert not np.array_equal(coarse.access.annual, exact.access.annual)
    assert coarse.access.annual == pytest.approx(exact.access.annual, abs=0.02)
    assert coarse.mean == pytest.approx(exact.mean, abs=0.005)


def test_what_takes_light_from_a_module_is_said_with_months_and_hours(parts, hill_weather, bare):
    """A silo takes from the modules west of it in the morning, from those east of it in the afternoon; alone, it takes all that is missing."""
    document = copy.deepcopy(bare)
    document["scene"]["silos"] = {"s": {"x": 0, "y": -10, "height": 12, "diameter": 4}, "far": {"x": 0, "y": 300, "height": 5}}
    design, cache = Design.read(document), StageCache()
    sky, (plan,) = sky_over(design.site, hill_weather, cache), plans_of(design, parts).values()
    (access,) = accesses_of(design, parts, sky, cache)
    lowest = [i for i in plan.ids if plan.placed[i].v == min(m.v for m in plan.placed.values())]
    for module, is_morning in ((lowest[0], True), (lowest[-1], False)):
        (silo,) = takers_of(design, "s", {"s": plan}, module, sky, cache)
        assert silo.id == "s"
        missing = access.access.free - access.access.received[:, plan.ids.index(module)]
        assert silo.by_month == pytest.approx(missing, abs=0.02)
        morning, afternoon = silo.by_hour[:12].sum(), silo.by_hour[12:].sum()
        assert (morning > 3 * afternoon) if is_morning else (afternoon > 3 * morning)
        assert silo.by_hour.sum() <= silo.annual + 1e-6


def test_shade_measured_on_site_stands_in_place_of_the_scene(parts, hill_weather, bare):
    shaded = copy.deepcopy(bare)
    shaded["scene"]["silos"] = {"s": {"x": 0, "y": -10, "height": 14}}
    energy = {}
    for name, document in (("bare", bare), ("shaded", shaded)):
        for factor in (None, 0.9):
            one = copy.deepcopy(document)
            if factor:
                one["site"] = one["site"] | {"shade_factor": {"factor": factor}}
            energy[name, factor] = simulate(Design.read(one), hill_weather, parts).annual.energy
    assert energy["shaded", None] < 0.98 * energy["bare", None]
    assert energy["shaded", 0.9] == pytest.approx(energy["bare", 0.9], rel=1e-12)


def test_racks_in_the_scene_shade_as_endless_rows_do(parts, hill_weather):
    """A long field of racks on level ground against the closed form of parallel rows, with cell groups along the slope."""
    module = parts.modules[MODULE]
    document = copy.deepcopy(PLAIN)
    document["scene"] = {"grounds": {"field": {"length": 130, "width": 30}}}
    document["surfaces"] = {
        "s": {
            "face": "field/ground",
            "mounting": "open rack",
            "layout": {"racks": {"tilt": 25, "pitch": 2.2}, "orientation": "landscape", "setbacks": {"eave": 0.0}},
        }
    }
    document["subarrays"]["a"] |= {"modules_per_string": 20, "strings": 1}
    plan = plans_of(Design.read(document), parts)["s"]
    placed = proposed(plan)
    document["surfaces"]["s"]["layout"]["modules"] = by_hand(placed)
    rows = len({m.v for m in placed.values()})
    design = Design.read(document)
    cache = StageCache()
    access = accesses_of(design, parts, sky_over(design.site, hill_weather, cache), cache)[0].access
    v = np.array([design.surfaces["s"].layout.placed[i].v for i in plans_of(design, parts)["s"].ids])
    # A row in the middle, far from its ends.
    u = np.array([design.surfaces["s"].layout.placed[i].u for i in plans_of(design, parts)["s"].ids])
    inner = (v == np.unique(v)[rows // 2]) & (np.abs(u - 65) < 20)
    in_scene = access.received.sum(axis=0)[inner].mean() / access.free.sum()
    endless = copy.deepcopy(PLAIN) | {
        "surfaces": {"s": {"tilt": 25, "azimuth": 180, "rows": {"pitch": 2.2, "width": module.width, "count": 1000}}}
    }
    closed = simulate(Design.read(endless), hill_weather, parts)
    plane = closed.planes[0]
    assert in_scene == pytest.approx(float(plane.poa.sum() / plane.free.sum()), abs=0.01)


def test_minute_like_steps_share_directions_and_stay_near_the_hourly_year(parts):
    scene = {"buildings": {"barn": BARN}, "silos": {"s": {"x": 3, "y": -9, "height": 13}}}
    document = on_scene(parts, scene)
    hourly = simulate(Design.read(document), simulated_weather(43.62, 11.31, 412, 1), parts)
    fine = simulate(Design.read(document), simulated_weather(43.62, 11.31, 412, 1, step=15), parts)
    share = [r.cascade["near_shade"].share for r in (hourly, fine)]
    assert share[1] == pytest.approx(share[0], abs=0.004)


def test_polar_night_and_a_northern_roof_are_ordinary(parts):
    document = on_scene(parts, {"buildings": {"barn": BARN}, "silos": {"s": {"x": 3, "y": -9}}})
    document["site"] |= {"latitude": 78.2, "longitude": 15.6}
    results = simulate(Design.read(document), simulated_weather(78.2, 15.6, 0, 1), parts)
    assert results.cascade.residual < 1e-9 and results.annual.energy > 0


def test_a_face_that_is_gone_is_an_incomplete_design(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["buildings"]["barn"] = {**BARN, "gable": None, "flat": {}}
    with pytest.raises(IncompleteDesign, match="barn/roof-1, which the scene does not have"):
        simulate(Design.read(document), hill_weather, parts)


def test_modules_that_an_edit_pushes_out_are_kept_in_the_tray_and_said(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["buildings"]["barn"] = {**BARN, "length": 12}
    design = Design.read(document)
    plan = plans_of(design, parts)["s"]
    assert plan.tray and len(plan.ids) + len(plan.tray) == 32
    assert set(plan.tray.values()) == {"over the edge of the face"}
    checks = {check.rule: check for check in find_checks(simulate(design, hill_weather, parts))}
    assert checks["module-off-face"].actual == len(plan.tray)
    assert checks["strings-without-modules"].limit == len(plan.ids)
    assert design.as_kept()["surfaces"]["s"]["layout"]["modules"].keys() == bare["surfaces"]["s"]["layout"]["modules"].keys()


def test_a_chimney_and_a_module_beside_another_are_kept_clear(parts, bare):
    document = copy.deepcopy(bare)
    first = next(iter(document["surfaces"]["s"]["layout"]["modules"].values()))
    document["surfaces"]["s"]["layout"]["modules"]["extra"] = {**first, "u": first["u"] + 0.3}
    document["scene"]["chimneys"] = {"c": {"on": "barn", "x": 0, "y": -2.5}}
    reasons = set(plans_of(Design.read(document), parts)["s"].tray.values())
    assert "on a chimney" in reasons and any(reason.startswith("on module") for reason in reasons)


@pytest.mark.parametrize("rule_set", ["plain", "fire-lanes", "wind-zones"])
def test_setbacks_of_every_rule_set_are_kept(parts, rule_set):
    document = on_scene(parts, {"buildings": {"barn": BARN}}, most=None, rule_set=rule_set)
    plan: FaceModules = plans_of(Design.read(document), parts)["s"]
    kinds = [edge.kind for edge in plan.face.edges]
    for start, end, kind in zip(plan.outline, np.roll(plan.outline, -1, axis=0), kinds, strict=True):
        along = (end - start) / np.hypot(*(end - start))
        inward = np.array([-along[1], along[0]])
        corners = np.concatenate([plan.quads([i])[0] for i in plan.ids])
        assert np.min((corners - start) @ inward) >= plan.layout.distances[kind] - 1e-4


@pytest.mark.parametrize(("slope", "azimuth"), [(0, None), (4, None), (4, 150), (6, 200)])
def test_racks_have_their_tilt_and_direction_on_sloping_ground_too(parts, slope, azimuth):
    racks = {"tilt": 15} | ({"azimuth": azimuth} if azimuth else {})
    document = copy.deepcopy(PLAIN)
    document["scene"] = {"grounds": {"g": {"slope": slope, "length": 20, "width": 12}}}
    document["surfaces"] = {"s": {"face": "g/ground", "layout": {"racks": racks}}}
    plan = plans_of(Design.read(document), parts)["s"]
    document["surfaces"]["s"]["layout"]["modules"] = by_hand(proposed(plan))
    design = Design.read(document)
    plan, surface = plans_of(design, parts)["s"], design.surfaces["s"]
    assert plan.tray == {} and len(plan.ids) > 20
    assert (surface.tilt, surface.azimuth) == (15, azimuth or 180)
    for key in (plan.ids[0], plan.ids[-1]):
        corners = plan.corners(key)
        normal = np.cross(corners[1] - corners[0], corners[3] - corners[0])
        normal /= np.linalg.norm(normal)
        # Rows that run across a slope rise along their way by a degree or two, and take their modules with them.
        assert np.degrees(np.arccos(normal[2])) == pytest.approx(15, abs=0.2 if azimuth is None else 1.0)
        assert np.degrees(np.arctan2(normal[0], normal[1])) % 360 == pytest.approx(
            surface.azimuth, abs=0.2 if azimuth is None else 11
        )
        assert corners[0, 2] == pytest.approx(0.1 + (corners[0, 1] + 6) * np.tan(np.radians(slope)), abs=0.02)


def test_strings_drawn_on_the_plan_are_those_that_are_simulated(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["silos"] = {"s": {"x": -6, "y": -8, "height": 12}}
    names = list(document["surfaces"]["s"]["layout"]["modules"])
    shaded = sorted(names, key=lambda i: document["surfaces"]["s"]["layout"]["modules"][i]["u"])
    apart, mixed = copy.deepcopy(document), copy.deepcopy(document)
    apart["subarrays"]["a"]["string_plan"] = [shaded[:16], shaded[16:]]
    mixed["subarrays"]["a"]["string_plan"] = [shaded[::2], shaded[1::2]]
    one, other = (simulate(Design.read(d), hill_weather, parts) for d in (apart, mixed))
    assert one.cascade["near_shade"].energy == pytest.approx(other.cascade["near_shade"].energy)
    assert one.cascade["partial_shade"].energy != pytest.approx(other.cascade["partial_shade"].energy, rel=0.02)


def test_racks_of_one_surface_shade_the_modules_of_another(parts, hill_weather):
    document = copy.deepcopy(PLAIN) | {
        "scene": {"grounds": {"back": {"length": 14, "width": 3, "y": 4}, "front": {"length": 14, "width": 3, "y": 0}}},
        "surfaces": {
            "s": {"face": "back/ground", "layout": {"racks": {"tilt": 20, "height": 0.3}, "modules": {}}},
            "before": {"face": "front/ground", "layout": {"module": MODULE, "racks": {"tilt": 40, "height": 1.5}, "modules": {}}},
        },
    }
    for key, plan in plans_of(Design.read(document), parts).items():
        document["surfaces"][key]["layout"]["modules"] = by_hand(proposed(plan))
    design = freeze(document, parts)
    alone = copy.deepcopy(design)
    alone["surfaces"]["before"]["layout"]["modules"] = {}
    shaded, free = (simulate(Design.read(d), hill_weather, Catalogue()) for d in (design, alone))
    assert shaded.cascade["near_shade"].energy < free.cascade["near_shade"].energy - 1
    assert shaded.annual.energy < free.annual.energy


def test_fronts_and_backs_of_pairs_see_the_same_share_of_the_sky(parts, hill_weather):
    racks = {"tilt": 15, "is_paired": True}
    document = copy.deepcopy(PLAIN) | {
        "scene": {"buildings": {"barn": {"length": 22, "width": 12, "flat": {}}}},
        "surfaces": {
            "s": {"face": "barn/roof", "layout": {"module": MODULE, "most": 16, "racks": racks | {"azimuth": 90}}},
            "w": {"face": "barn/roof", "layout": {"module": MODULE, "racks": racks | {"azimuth": 270}}},
        },
    }
    plans = plans_of(Design.read(document), parts)
    fronts = proposed(plans["s"])
    for key, some in (("s", fronts), ("w", behind(plans["s"], plans["w"], fronts))):
        document["surfaces"][key]["layout"]["modules"] = by_hand(some)
    design = Design.read(document)
    plans = plans_of(design, parts)
    sky = sky_over(design.site, hill_weather, StageCache())
    lights = [
        cast_shadows(NearInputs(sky, groups_of(plan, racks_beside(plans, key)), design.built_scene.bodies, Horizon()))
        for key, plan in plans.items()
    ]
    east, west = (light.isotropic.mean() for light in lights)
    assert east == pytest.approx(west, rel=1e-3) and east < 1
    alone = cast_shadows(NearInputs(sky, groups_of(plans["s"]), design.built_scene.bodies, Horizon()))
    assert alone.isotropic.mean() > east, "the backs take some of the sky"


def test_the_energy_of_the_surfaces_is_all_of_the_energy(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["surfaces"]["plane"] = {"tilt": 60, "azimuth": 90}
    document["subarrays"]["a"]["strings"] = 1
    document["subarrays"]["b"] = document["subarrays"]["a"] | {"surface": "plane", "tracker": 2}
    results = simulate(Design.read(document), hill_weather, parts)
    shares = results.energy_by_surface
    assert set(shares) == {"s", "plane"} and sum(shares.values()) == pytest.approx(results.annual.energy, rel=1e-12)
    assert shares["plane"] < 0.8 * shares["s"], "steep and to the east"


def test_shade_measured_on_one_surface_stands_in_place_of_the_scene_there_alone(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["scene"]["silos"] = {"s": {"x": -4, "y": -8, "height": 14}}
    document["surfaces"]["plane"] = {"tilt": 30, "azimuth": 180}
    document["subarrays"]["a"]["strings"] = 1
    document["subarrays"]["b"] = document["subarrays"]["a"] | {"surface": "plane", "tracker": 2}
    free = copy.deepcopy(document)
    free["surfaces"]["s"]["shade_table"] = {"access": [[1.0] * 24] * 12, "is_measured": True, "points": 3}
    half = copy.deepcopy(free)
    half["surfaces"]["s"]["shade_table"]["access"] = [[0.5] * 24] * 12
    calculated, clear, measured = (
        simulate(Design.read(d), hill_weather, parts).energy_by_surface for d in (document, free, half)
    )
    assert calculated["s"] < clear["s"] and measured["s"] < 0.6 * clear["s"]
    assert measured["plane"] == pytest.approx(clear["plane"], rel=0.01), "the other surface keeps its light"
    checks = []
    for each in (document, half):
        cache, design = StageCache(), Design.read(each)
        (access,) = accesses_of(design, parts, sky_over(design.site, hill_weather, cache), cache)
        checks.append(access.mean)
    assert checks[0] == checks[1], "the scene's own shade stands beside it as a check"


def test_a_table_of_a_surface_that_was_not_measured_is_said(parts, hill_weather, bare):
    document = copy.deepcopy(bare)
    document["surfaces"]["s"]["shade_table"] = {"access": [[0.9] * 24] * 12}
    rules = {check.rule: check for check in find_checks(simulate(Design.read(document), hill_weather, parts))}
    assert rules["shade-estimated"].pointer == "/surfaces/s/shade_table"
    document["surfaces"]["s"]["shade_table"]["is_measured"] = True
    assert "shade-estimated" not in {c.rule for c in find_checks(simulate(Design.read(document), hill_weather, parts))}


@pytest.mark.parametrize("albedo", [0.2, 0.8])
def test_racks_on_a_scene_give_what_endless_rows_give_on_bright_ground_too(parts, hill_weather, albedo):
    """Irradiation of a long field with its ground in the shade of its racks, behind and before, within 1 % of the closed form."""
    module = parts.modules[MODULE]
    document = copy.deepcopy(PLAIN) | {"scene": {"grounds": {"field": {"length": 130, "width": 25}}}}
    document["site"] = document["site"] | {"albedo": albedo}
    racks = {"racks": {"tilt": 30, "pitch": 2.4, "height": 0.0}, "orientation": "landscape", "setbacks": {"eave": 0.0}}
    document["surfaces"] = {"s": {"face": "field/ground", "mounting": "open rack", "layout": racks}}
    document["subarrays"]["a"] |= {"modules_per_string": 20, "strings": 1}
    plan = plans_of(Design.read(document), parts)["s"]
    document["surfaces"]["s"]["layout"]["modules"] = by_hand(proposed(plan))
    design = Design.read(document)
    plan = plans_of(design, parts)["s"]
    rows = len({round(plan.placed[i].v, 2) for i in plan.ids})
    # Every module in one string, so that the mean is that of the whole field.
    document["subarrays"]["a"]["string_plan"] = [list(plan.ids)]
    in_scene = simulate(Design.read(document), hill_weather, parts).planes[0]
    endless = copy.deepcopy(PLAIN) | {
        "site": document["site"],
        "surfaces": {
            "s": {
                "tilt": 30,
                "azimuth": 180,
                "mounting": "open rack",
                "rows": {"pitch": 2.4, "width": module.width, "count": rows},
            }
        },
    }
    closed = simulate(Design.read(endless), hill_weather, parts).planes[0]
    assert in_scene.poa.sum() == pytest.approx(closed.poa.sum(), rel=0.01)
    assert in_scene.ground.sum() == pytest.approx(closed.ground.sum(), rel=0.15)
