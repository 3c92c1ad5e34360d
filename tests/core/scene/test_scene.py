"""Scenes built from the document: faces outward, edges by their kinds, things on what is under them."""

import numpy as np
import pytest
import shapely
from pydantic import ValidationError

from noontide.core.design.document import Design
from noontide.core.scene import ImpossibleScene, Scene, build_scene, faces

BARN = {"length": 24, "width": 11, "eave": 4.6, "azimuth": 192, "gable": {"pitch": 18}}
ROOFS = {
    "flat": {"flat": {"parapet": 0.4}}, "shed": {"shed": {"pitch": 12}}, "gable": {"gable": {"pitch": 35}},
    "hip": {"hip": {"pitch": 35}}, "half-hip": {"half_hip": {"pitch": 40, "gable": 1.2}},
    "gambrel": {"gambrel": {"lower_pitch": 65, "upper_pitch": 20, "break_height": 2}},
    "mansard": {"mansard": {"lower_pitch": 70, "upper_pitch": 15, "break_height": 2}},
    "own": {"own_pitches": {"pitches": [30, 90, 50, 60]}},
}  # fmt: skip


def volume(all_faces):
    """Of a closed body by the divergence theorem."""
    total = 0.0
    for face in all_faces:
        a = face.outline[0]
        for b, c in zip(face.outline[1:-1], face.outline[2:], strict=True):
            total += float(a @ np.cross(b, c)) / 6
    return total


def test_roof_faces_have_the_orientation_of_their_building():
    south, north = [f for f in faces({"buildings": {"barn": BARN}}) if f.kind == "roof"]
    assert (south.id, south.tilt, south.azimuth) == ("barn/roof-1", pytest.approx(18), pytest.approx(192))
    assert north.azimuth == pytest.approx(12)
    assert south.area == pytest.approx(24 * 5.5 / np.cos(np.radians(18)))
    assert [e.kind for e in south.edges].count("rake") == 2 and {"eave", "ridge"} < {e.kind for e in south.edges}


@pytest.mark.parametrize("roof", ROOFS, ids=str)
@pytest.mark.parametrize(
    "outline", [None, [[0, 0], [10, 0], [10, 5], [4, 5], [4, 12], [0, 12]]], ids=["rectangle", "with a wing"]
)
def test_every_normal_points_outward(roof, outline):
    if roof == "own" and outline:
        pytest.skip("the pitches are those of a rectangle")
    made = faces({"buildings": {"b": {"outline": outline, "eave": 3, **ROOFS[roof]}}})
    shape = [f for f in made if f.solid == "b"]
    floor = volume(shape)  # the base lies at height 0 and adds nothing
    assert floor > 0
    plan = shapely.Polygon(outline) if outline else shapely.box(0, 0, 10, 8)
    assert floor >= plan.area * 2.99 if roof != "flat" else floor > 0
    assert all(f.normal[2] > 0 for f in shape if f.kind == "roof")
    assert all(abs(f.normal[2]) < 1e-9 for f in shape if f.kind == "wall")


def test_edges_of_a_wing_are_hips_ridges_and_a_valley():
    made = faces({"buildings": {"b": {"outline": [[0, 0], [10, 0], [10, 5], [4, 5], [4, 12], [0, 12]], "hip": {"pitch": 35}}}})
    kinds = [e.kind for f in made if f.kind == "roof" for e in f.edges]
    assert kinds.count("valley") == 2  # one line, an edge of either face
    assert kinds.count("eave") == 6


def test_a_chimney_stands_on_the_roof_moves_with_its_building_and_makes_a_hole():
    scene = {
        "buildings": {"h": {"azimuth": 90, "x": 30, "gable": {"pitch": 45}}},
        "chimneys": {"c": {"on": "h", "x": 1, "y": -1, "height": 2}},
    }
    built = build_scene(Scene.model_validate(scene))
    chimney = next(b for b in built.bodies if b.kind == "chimneys")
    # 1 m from the ridge toward the front, which faces east: 3 m up to the eave and 3 m of roof.
    assert chimney.points[:, 2].max() == pytest.approx(3 + 3 + 2)
    assert chimney.points[:, :2].mean(axis=0) == pytest.approx([31, 1])
    front = built.face("h/roof-1")
    assert front.azimuth == pytest.approx(90)
    assert [hole.kind for hole in front.holes] == ["chimneys"]
    assert front.area == pytest.approx((40 - 0.36) * np.sqrt(2))


def test_a_skylight_is_not_to_be_covered_and_casts_nothing():
    built = build_scene(
        Scene.model_validate({"buildings": {"h": {"gable": {"pitch": 30}}}, "skylights": {"s": {"on": "h", "y": -2}}})
    )
    assert [body.kind for body in built.bodies] == ["buildings"]
    assert [hole.kind for hole in built.face("h/roof-1").holes] == ["skylights"]


def test_a_tree_keeps_its_shape_while_it_grows():
    oak = {"height": 10, "diameter": 6, "trunk": 2, "growth": 0.5}
    today, later = (
        build_scene(Scene.model_validate({"trees": {"t": oak}, "years_ahead": years})).bodies[0].points for years in (0, 10)
    )
    assert later[:, 2].max() / today[:, 2].max() == pytest.approx(1.5)
    assert np.ptp(later[:, 0]) / np.ptp(today[:, 0]) == pytest.approx(1.5)


@pytest.mark.parametrize(
    ("scene", "words"),
    [
        ({"buildings": {"b": {"outline": [[0, 0], [5, 5], [5, 0], [0, 5]]}}}, "crosses or touches itself"),
        ({"buildings": {"b": {"outline": [[0, 0], [5, 0], [5, 0]]}}}, "are one point"),
        ({"buildings": {"b": {"outline": [[0, 0], [1e-3, 0], [0, 1e-3]]}}}, "has an area of"),
        ({"buildings": {"b": {"hip": {}, "gable": {}}}}, "has one roof"),
        ({"buildings": {"b": {"own_pitches": {"pitches": [30, 30, 30]}}}}, "4 edges and there are 3 pitches"),
        ({"chimneys": {"c": {"on": "nowhere"}}}, "there is no such building"),
        ({"buildings": {"b": {}}, "trees": {"b": {}}}, "another id"),
        ({"buildings": {"b": {"eave": float("nan")}}}, "finite"),
        ({"meshes": {"m": {"points": [[0, 0, 0], [1, 0, 0], [0, 1, 0]], "faces": [[0, 1, 3]]}}}, "point 3; there are 3"),
    ],
)  # fmt: skip
def test_a_broken_scene_is_refused_with_the_reason(scene, words):
    with pytest.raises(ValidationError, match=words):
        Scene.model_validate(scene)


def test_an_outline_without_a_side_for_the_eaves_names_the_building():
    narrow = {"outline": [[0, 0], [1, 5], [0, 10], [-1, 5]], "gable": {"pitch": 30}}
    with pytest.raises(ImpossibleScene, match="/scene/buildings/odd"):
        faces({"buildings": {"odd": narrow}})


SITE = {"format": "noontide-design/5", "site": {"latitude": 44, "longitude": 11}}


def test_a_surface_on_a_face_follows_it_and_keeps_nothing_of_it():
    design = Design.read({**SITE, "scene": {"buildings": {"barn": BARN}}, "surfaces": {"s": {"face": "barn/roof-1"}}})
    surface = design.surfaces["s"]
    assert (surface.tilt, surface.azimuth, surface.name) == (pytest.approx(18), pytest.approx(192), "Building, south pitch")
    assert design.as_kept()["surfaces"] == {"s": {"face": "barn/roof-1"}}
    steeper = Design.read(
        {**SITE, "scene": {"buildings": {"barn": {**BARN, "gable": {"pitch": 25}}}}, "surfaces": {"s": {"face": "barn/roof-1"}}}
    )
    assert steeper.surfaces["s"].tilt == pytest.approx(25)


def test_a_tilt_beside_a_face_is_refused():
    with pytest.raises(ValidationError, match="tilt of a surface on a face of the scene follows the face"):
        Design.read({**SITE, "scene": {"buildings": {"barn": BARN}}, "surfaces": {"s": {"face": "barn/roof-1", "tilt": 30}}})


def test_a_design_without_a_scene_is_what_it_was():
    document = {**SITE, "surfaces": {"s": {"tilt": 33, "azimuth": 170}}}
    design = Design.read(document)
    assert design.scene.is_empty and design.as_kept() == document


def test_too_many_corners_are_refused_before_anything_is_built():
    star = [[float(8 * np.cos(a)), float(8 * np.sin(a))] for a in np.linspace(0, 2 * np.pi, 61)[:-1]]
    with pytest.raises(ValidationError, match="corners together; 1200 are the most"):
        Scene.model_validate({"buildings": {f"b{k}": {"outline": star} for k in range(21)}})


def test_a_building_moved_alone_leaves_the_faces_of_the_others():
    scene = {"buildings": {"one": {"hip": {}}, "two": {"x": 30, "hip": {}}}}
    before = build_scene(Scene.model_validate(scene))
    scene["buildings"]["two"]["x"] = 40
    after = build_scene(Scene.model_validate(scene))
    assert after.face("one/roof-1") is before.face("one/roof-1")
    assert after.face("two/roof-1").outline[:, 0] == pytest.approx(before.face("two/roof-1").outline[:, 0] + 10)


def test_trees_of_the_south_are_in_leaf_in_their_summer():
    scene = {
        "trees": {"oak": {"x": 0, "y": 0, "height": 8}, "own": {"x": 9, "y": 0, "height": 8, "leaf_out": 4, "leaf_fall": 11}}
    }

    def light(latitude, key):
        design = Design.read({"site": {"latitude": latitude, "longitude": 10}, "scene": scene})
        return next(body.light for body in design.built_scene.bodies if body.id == key and any(body.light))

    north, south = light(45, "oak"), light(-35, "oak")
    assert north[6] < north[0] and south[0] < south[6]
    assert south == north[6:] + north[:6]
    # Months that somebody has set stay theirs.
    assert light(-35, "own") == light(45, "own")
