"""Scenes from files, and files that are refused: with the place, the reason, and nothing changed."""

import gzip
import io
import json
import random
import re
import struct

import laspy
import numpy as np
import pytest
import rasterio
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from rasterio import warp
from rasterio.transform import from_origin

from noontide.core.design import merge_patch
from noontide.core.design.document import Design
from noontide.core.electrical import Catalogue
from noontide.core.heights.geotiff import read_geotiff
from noontide.core.plan.exports import FORMATS, export
from noontide.core.plan.laying import proposed
from noontide.core.plan.layouts import plans_of
from noontide.core.scene import Scene, build_scene, faces
from noontide.core.scene.frame import area_vector, area_vectors
from noontide.core.scene.importers import UnreadableScene, read_part, read_scene
from noontide.core.scene.importers.planes import scene_of
from noontide.core.scene.importers.points import planes_in, read_points
from noontide.core.scene.importers.polygons import joined, welded
from noontide.core.scene.own_files import with_free_ids
from noontide.core.shading import shaded_fraction
from tests.core.geotiffs import geotiff

SQUARE = [[11.0, 44.0], [11.0002, 44.0], [11.0002, 44.0001], [11.0, 44.0001], [11.0, 44.0]]


def geojson(*rings, **properties):
    features = [
        {"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [ring]}, "properties": properties} for ring in rings
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()


def cloud(pitch, noise=0.02, seed=0):
    """Points of a gable roof 16 x 10 m and of the ground around it."""
    rng = np.random.default_rng(seed)
    x, y = rng.uniform(-8, 8, 6000), rng.uniform(-5, 5, 6000)
    roof = np.column_stack([x, y, 4 + (5 - np.abs(y)) * np.tan(np.radians(pitch)) + rng.normal(0, noise, 6000)])
    ground = np.column_stack([rng.uniform(-20, 20, (4000, 2)), rng.normal(0, noise, 4000)])
    return np.vstack([roof, ground])


def test_outlines_become_buildings_of_their_height():
    found = read_scene(geojson(SQUARE, height="6.5 m", name="Mill"), "a.geojson", 44.0, 11.0)
    (mill,) = found["buildings"].values()
    assert (mill["name"], mill["eave"]) == ("Mill", 6.5)
    (roof,) = [f for f in faces(found) if f.kind == "roof"]
    assert roof.area == pytest.approx(111_195 * 0.0002 * np.cos(np.radians(44)) * 111_195 * 0.0001, rel=2e-3)


def test_a_city_model_becomes_bodies():
    cube = trimesh.creation.box((4, 6, 5))
    model = {
        "type": "CityJSON", "version": "1.1", "transform": {"scale": [0.001] * 3, "translate": [500_000, 4_800_000, 100]},
        "vertices": (cube.vertices * 1000).round().astype(int).tolist(),
        "CityObjects": {"b1": {"type": "Building", "geometry": [{"type": "Solid", "lod": "2.2", "boundaries": [[[face.tolist()] for face in cube.faces]]}]}},
    }  # fmt: skip
    found = read_scene(json.dumps(model).encode(), "city.json", 44, 11)
    assert sum(f.area for f in faces(found)) == pytest.approx(cube.area)


@pytest.mark.parametrize("kind", ["obj", "glb"])
def test_meshes_that_another_library_wrote_keep_their_size_and_stand_upright(kind):
    box = trimesh.creation.box((4, 6, 5))
    if kind == "glb":
        box.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, [1, 0, 0]))  # y up, as the format has it
    found = read_scene(
        trimesh.Scene(box).export(file_type=kind) if kind == "glb" else box.export(file_type="obj").encode(),
        f"box.{kind}",
        44,
        11,
    )
    points = np.concatenate([np.array(mesh["points"]) for mesh in found["meshes"].values()])
    assert np.ptp(points, axis=0) == pytest.approx([4, 6, 5], abs=1e-3)


@pytest.mark.parametrize("pitch", [15, 30, 42])
@pytest.mark.parametrize("kind", ["laz", "xyz"])
def test_planes_are_found_among_points_with_their_residual(tmp_path, pitch, kind):
    points = cloud(pitch)
    if kind == "laz":
        data = laspy.LasData(laspy.LasHeader(point_format=3, version="1.2"))
        data.header.scales = np.array([0.001] * 3)
        data.x, data.y, data.z = points.T
        data.write(str(tmp_path / "roof.laz"))
        content = (tmp_path / "roof.laz").read_bytes()
    else:
        content = "\n".join(f"{x:.3f} {y:.3f} {z:.3f}" for x, y, z in points).encode()
    found = read_scene(content, f"roof.{kind}", 44, 11)
    (house,) = found["meshes"].values()
    large = sorted((f for f in faces(found) if f.normal[2] > 0.1), key=lambda f: f.azimuth % 360)
    assert len(large) == 2
    assert [f.tilt for f in large] == pytest.approx([pitch] * 2, abs=0.3)
    assert sum(f.area for f in large) == pytest.approx(160 / np.cos(np.radians(pitch)), rel=0.02)
    assert "mm from the planes" in house["source"]


@pytest.mark.parametrize(
    ("spacing", "is_hipped", "within"),
    [
        pytest.param(0.2, False, 0.03, id="dense"),
        pytest.param(0.5, False, 0.06, id="four points a square metre"),
        pytest.param(0.3, True, 0.04, id="hipped"),
    ],
)
def test_roofs_among_points_meet_at_their_ridges_and_stand_on_walls(spacing, is_hipped, within):
    rng = np.random.default_rng(4)
    x, y = (grid.ravel() for grid in np.meshgrid(np.arange(-12, 12, spacing), np.arange(-10, 10, spacing)))
    x, y = x + rng.uniform(-0.5, 0.5, x.size) * spacing, y + rng.uniform(-0.5, 0.5, x.size) * spacing
    rise = np.minimum(4 - np.abs(y), 6 - np.abs(x)) if is_hipped else 4 - np.abs(y)
    z = np.where((np.abs(x) < 6) & (np.abs(y) < 4), 3 + rise * np.tan(np.radians(35)), 0) + rng.normal(0, 0.02, x.size)
    turn = np.array([[0.9, 0.436], [-0.436, 0.9]])
    points = np.column_stack([np.column_stack([x, y]) @ turn, z])
    found = scene_of(planes_in(points))
    (house,) = found["meshes"].values()
    corners, rings = np.array(house["points"]), house["faces"]
    roofs = [ring for ring, face in zip(rings, faces(found), strict=True) if face.normal[2] > 0.1]
    assert len(roofs) == (4 if is_hipped else 2)
    area = sum(face.area for face in faces(found) if face.normal[2] > 0.1)
    assert area == pytest.approx(96 / np.cos(np.radians(35)), rel=within)
    ridge = max(corners[ring][:, 2].max() for ring in roofs)
    assert ridge == pytest.approx(3 + 4 * np.tan(np.radians(35)), abs=0.1)
    for ring in roofs:
        others = {i for other in roofs if other is not ring for i in other}
        assert len(others & set(ring)) >= 2, "every roof has an edge in common with another"
    assert sum(1 for ring in rings if np.ptp(corners[ring][:, 2]) > 2.5 and corners[ring][:, 2].min() == 0) >= 4, "walls"


def obj(points, rings):
    return "\n".join(
        [*(f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in points), *("f " + " ".join(str(i + 1) for i in ring) for ring in rings)]
    ).encode()


def solid(found):
    """Corners, each once, and rings of all faces of a scene."""
    loose = [face.outline for face in faces(found)]
    starts = np.cumsum([0, *map(len, loose)])
    return welded(np.concatenate(loose), [list(range(a, a + len(ring))) for a, ring in zip(starts, loose, strict=False)])


@given(
    st.integers(0, 2**32 - 1), st.sampled_from(["gable", "shed", "hip", "flat"]), st.sampled_from(["y", "z"]), st.floats(20, 50)
)
def test_a_house_stands_and_looks_outward_however_its_file_has_it(seed, roof, axis, pitch):
    """Faces wound at random, cut into triangles or not, with y or z up."""
    rng = np.random.default_rng(seed)
    pitched = {} if roof == "flat" else {"pitch": pitch}
    house = {"buildings": {"h": {"length": 12, "width": 8, "eave": 4, "azimuth": float(rng.uniform(0, 360)), roof: pitched}}}
    before = faces(house)
    points, rings = solid(house)
    if rng.random() < 0.5:  # with a floor it is closed
        feet = np.flatnonzero(points[:, 2] < 1e-6)
        around = points[feet, :2] - points[feet, :2].mean(axis=0)
        rings.append(feet[np.argsort(np.arctan2(*around.T))].tolist())
    rings = [ring if rng.random() < 0.5 else ring[::-1] for ring in rings]
    given_points = points if axis == "z" else points[:, [0, 2, 1]] * [1, 1, -1]
    part = read_part(obj(given_points, rings), "my_house.obj", 44, 11)
    assert part["up"] == axis
    after = faces(part["scene"])
    assert {mesh["name"] for mesh in part["scene"]["meshes"].values()} == {"My house"}
    assert len(after) >= len(before)
    for face in before:
        (twin,) = [
            f
            for f in after
            if f.normal @ face.normal > 1 - 1e-5
            and f.area == pytest.approx(face.area, rel=1e-3)
            and abs((f.outline[0] - face.outline[0]) @ face.normal) < 0.01
        ]
        assert (twin.tilt, twin.area) == pytest.approx((face.tilt, face.area), abs=0.05)
    # Asked for, the other axis is taken.
    other = "y" if axis == "z" else "z"
    assert read_part(obj(given_points, rings), "my_house.obj", 44, 11, other)["up"] == other


def test_a_single_sheet_wound_downward_looks_up():
    ring = [[0, 0, 3], [0, 4, 5], [6, 4, 5], [6, 0, 3]]  # clockwise as seen from above
    (face,) = faces(read_part(obj(ring, [[0, 1, 2, 3]]), "a.obj", 44, 11, "z")["scene"])
    assert (face.tilt, face.azimuth % 360) == pytest.approx((np.degrees(np.arctan(0.5)), 180), abs=0.01)


def bomb():
    return gzip.compress(b'{"type":"FeatureCollection","features":[' + b" " * 80_000_000 + b"]}")


GLTF_WITH_LINK = json.dumps(
    {
        "asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}], "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}], "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"uri": "/etc/hostname", "byteLength": 36}],
    }
).encode()  # fmt: skip


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("a.geojson", geojson([[0, 0], [5, 5], [5, 0], [0, 5], [0, 0]]), "crosses itself"),
        ("a.geojson", geojson([[0, 0], ["x", 5], [5, 0], [0, 0]]), "no pair of numbers"),
        ("a.geojson", geojson(SQUARE, height="tall"), "must be a height in metres"),
        ("a.geojson", geojson([[20.0, 44], [20.1, 44], [20.1, 44.1], [20, 44]]), "there is no polygon|from the site"),
        ("a.geojson", b'{"type": "FeatureCollection", "features": []}', "no polygon"),
        ("a.json", b"not json", "this is no JSON"),
        ("a.json", b'{"type": "CityJSON", "vertices": [[0,0,0]], "CityObjects": {"b": {"geometry": [{"type": "MultiSurface", "boundaries": [[[0, 1, 9]]]}]}}}', "vertex 9; there are 1"),
        ("a.json.gz", bomb(), "unpacks to more than"),
        ("a.obj", b"f 1 2 3\n", "OBJ"),
        ("a.gltf", GLTF_WITH_LINK, "must be inside it"),
        ("a.laz", b"LASF" + b"\0" * 400, "LAS"),
        ("a.xyz", b"1 2 3\n4 5 six\n", "line 2"),
        ("a.xyz", b"1 2 3\n", "1 points"),
        ("a.dxf", b"0\nSECTION\n", "DXF"),
        ("a.bmp", b"", "no reader"),
    ],
)  # fmt: skip
def test_a_broken_or_hostile_file_is_refused_with_a_reason(name, content, words):
    with pytest.raises(UnreadableScene, match=words):
        read_scene(content, name, 44.0, 11.0)


def test_every_format_that_is_written_can_be_read_again(parts):
    design = Design.read(
        {
            "format": "noontide-design/5", "site": {"latitude": 44, "longitude": 11},
            "scene": {"buildings": {"b": {"gable": {"pitch": 30}}}, "chimneys": {"c": {"on": "b", "y": 1}}, "trees": {"t": {"x": 12}}},
            "surfaces": {"s": {"face": "b/roof-1", "layout": {"modules": {"m1": {"u": 1, "v": 1}, "m2": {"u": 3, "v": 1}}}}},
            "inverters": {"i": {"model": "hexley-3"}},
            "subarrays": {"a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 2, "inverter": "i"}},
        }
    )  # fmt: skip
    written = {kind: export(design, parts, kind) for kind in FORMATS}
    assert written["pdf"].startswith(b"%PDF") and b"<svg" in written["svg"][:200]
    model = trimesh.load(__import__("io").BytesIO(written["glb"]), file_type="glb")
    assert model.extents == pytest.approx([model.extents[0], 8 / 2 * np.tan(np.radians(30)) + 3 + 1.2, model.extents[2]], abs=4)
    elsewhere = read_scene(written["dxf"], "plan.dxf", 45, 12)  # without the scene that it carries: its origin is another place
    assert {"ROOFS", "WALLS", "MODULES"} <= {mesh["name"] for mesh in elsewhere["meshes"].values()}
    for kind in ("glb", "geojson", "dxf"):
        part = read_part(written[kind], f"plan.{kind}", 44, 11)
        back = Design.read(
            {"site": design.as_kept()["site"], "scene": part["scene"], "surfaces": part["surfaces"]}
        )  # without the strings, which name the module on a surface
        assert [(f.id, f.outline.tolist()) for f in back.built_scene.faces] == [
            (f.id, f.outline.tolist()) for f in design.built_scene.faces
        ]
        plans, before = (plans_of(d, parts) for d in (back, design))
        assert plans.keys() == before.keys()
        for key, plan in plans.items():
            assert plan.ids == before[key].ids and np.array_equal(plan.all_corners, before[key].all_corners)
    lines = written["csv"].decode().splitlines()
    assert len(lines) == 3 and lines[1].startswith('1,m1,"Building, south pitch","Building, south pitch",1,portrait,30,180,')


def grid_text(heights, cell, west=0.0, south=0.0):
    rows, columns = heights.shape
    head = f"ncols {columns}\nnrows {rows}\nxllcorner {west}\nyllcorner {south}\ncellsize {cell}\nNODATA_value -9999\n"
    return (head + "\n".join(" ".join(f"{h:.3f}" for h in row) for row in heights)).encode()


def test_a_fine_height_grid_gives_the_planes_of_a_roof():
    y, x = np.meshgrid(np.arange(30, -30, -0.5) - 0.25, np.arange(-30, 30, 0.5) + 0.25, indexing="ij")
    on_roof = (np.abs(x) < 8) & (np.abs(y) < 5)
    heights = 120 + np.where(on_roof, 4 + (5 - np.abs(y)) * np.tan(np.radians(30)), 0.0)
    found = read_scene(grid_text(heights, 0.5), "roof.asc", 44.0, 11.0)
    pitches = [f for f in faces(found) if 25 < f.tilt < 35]
    assert sorted(round(f.azimuth, -1) % 360 for f in pitches) == [0, 180]
    for pitch in pitches:
        assert pitch.tilt == pytest.approx(30, abs=0.5)
        assert pitch.area == pytest.approx(16 * 5 / np.cos(np.radians(30)), rel=0.03)


def test_a_coarse_height_grid_gives_the_land_which_shades_what_lies_below_it():
    _y, x = np.meshgrid(np.arange(400, -400, -20) - 10, np.arange(-400, 400, 20) + 10, indexing="ij")
    heights = 300 + np.where(x > 60, (x - 60) * 0.5, 0.0)  # a slope to the east
    found = read_scene(grid_text(heights, 20), "land.asc", 44.0, 11.0)
    assert list(found["meshes"]) == ["land"]
    land = np.array(found["meshes"]["land"]["points"])
    assert np.abs(land[:, :2]).max() <= 250 and land[np.argmin(np.hypot(*land[:, :2].T)), 2] == 0
    spot = np.array([[-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1.0]])
    bodies = build_scene(Scene.model_validate(found)).bodies
    top = np.degrees(np.arctan2(land[:, 2] - 1, np.maximum(land[:, 0], 1e-9))[np.abs(land[:, 1]) < 15].max())
    assert shaded_fraction(spot, bodies, 90, top - 1) == 1
    assert shaded_fraction(spot, bodies, 90, top + 1) == 0
    assert shaded_fraction(spot, bodies, 270, 5) == 0


def test_a_geotiff_lies_where_it_says_and_one_from_elsewhere_is_refused():
    """Written by GDAL."""
    x = np.arange(-20, 20) * 0.0002
    heights = np.where(x > 0.0009, 250.0, 200.0) * np.ones((40, 1))
    content = geotiff(heights, from_origin(11 + x[0], 44.004, 0.0002, 0.0002), "EPSG:4326")
    land = np.array(read_scene(content, "land.tif", 44.0, 11.0)["meshes"]["land"]["points"])
    step = land[land[:, 2] > 25][:, 0].min()
    assert step == pytest.approx(0.0011 * 111_195 * np.cos(np.radians(44)), abs=17)  # every second column is kept
    with pytest.raises(UnreadableScene):
        read_scene(content, "land.tif", 20.0, 11.0)
    with pytest.raises(UnreadableScene, match="no ncols"):
        read_scene(b"nrows 2\n1 2", "land.asc", 44.0, 11.0)
    with pytest.raises(UnreadableScene, match="too large for what is near"):
        read_scene(grid_text(np.ones((3, 3)), 1000), "land.asc", 44.0, 11.0)


HOUSE = {"buildings": {"b": {"azimuth": 160, "x": 3, "y": 2, "gable": {"pitch": 30, "back_pitch": 45}}}}


def scene_file(*meshes):
    """A binary glTF of named meshes with their transforms, y up as the format has it."""
    scene = trimesh.Scene()
    for name, mesh, transform in meshes:
        scene.add_geometry(mesh, geom_name=f"shape of {name}", node_name=name, transform=transform)
    upright = trimesh.transformations.rotation_matrix(-np.pi / 2, [1, 0, 0])
    scene.apply_transform(upright)
    return scene.export(file_type="glb")


def test_bodies_of_a_gltf_keep_their_own_names_and_places():
    rng = np.random.default_rng(2)
    boxes = []
    for k in range(12):
        transform = trimesh.transformations.euler_matrix(0, 0, rng.uniform(0, 6))
        transform[:3, 3] = rng.uniform(-20, 20, 3) + [0, 0, 25]
        boxes.append((f"box {k}", trimesh.creation.box((1 + k, 2, 1)), transform))
    found = read_scene(scene_file(*boxes), "boxes.glb", 44.0, 11.0)
    by_name = {mesh["name"]: np.array(mesh["points"]) for mesh in found["meshes"].values()}
    for name, mesh, transform in boxes:
        expected = trimesh.transform_points(mesh.vertices, transform)
        assert by_name[name].mean(axis=0) == pytest.approx(expected.mean(axis=0), abs=0.01)
        assert np.ptp(by_name[name], axis=0) == pytest.approx(np.ptp(expected, axis=0), abs=0.01)


def test_the_triangles_of_a_house_become_its_faces_and_its_roof_takes_modules(parts):
    """Every face of a house cut into triangles with corners of their own, as modelling programs write them."""
    before = faces(HOUSE)
    soup = trimesh.util.concatenate(
        [trimesh.Trimesh(f.outline, [(0, k, k + 1) for k in range(1, len(f.outline) - 1)], process=False) for f in before]
    )
    found = read_scene(scene_file(("House", soup, np.eye(4))), "house.glb", 44.0, 11.0)
    after = faces(found)
    assert len(after) == len(before)
    for face in before:
        (twin,) = [
            f for f in after if f.normal @ face.normal > 1 - 1e-6 and abs((f.outline[0] - face.outline[0]) @ face.normal) < 0.01
        ]
        assert (twin.area, twin.tilt, twin.azimuth) == pytest.approx((face.area, face.tilt, face.azimuth), abs=0.02)
    roof = next(f for f in after if 29 < f.tilt < 31)
    design = Design.read(
        {
            "site": {"latitude": 44, "longitude": 11},
            "scene": found,
            "surfaces": {"s": {"face": roof.id, "layout": {"module": "veltrane-430"}}},
        }
    )
    (plan,) = plans_of(design, parts).values()
    assert len(proposed(plan)) >= 8


def test_faces_with_a_hole_between_them_are_left_as_they_are():
    ring = [[0, 0, 0], [4, 0, 0], [4, 4, 0], [0, 4, 0], [1, 1, 0], [3, 1, 0], [3, 3, 0], [1, 3, 0]]
    around = [[0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]]
    points, rings = joined(np.array(ring, float), around)
    assert len(rings) == 4 and len(points) == 8


def test_a_file_of_ours_read_twice_stands_beside_itself():
    design = Design.read(
        {
            "site": {"latitude": 44, "longitude": 11},
            "scene": HOUSE | {"chimneys": {"c": {"on": "b"}}},
            "surfaces": {"s": {"face": "b/roof-1"}},
        }
    )
    part = read_part(export(design, Catalogue(), "geojson"), "a.geojson", 44, 11)
    free = with_free_ids(part, design.scene.ids, set(design.surfaces))
    assert free["scene"]["chimneys"]["c-2"]["on"] == "b-2" and free["surfaces"]["s-2"]["face"] == "b-2/roof-1"
    whole = Design.read(merge_patch(design.as_kept(), free))
    assert len(whole.built_scene.faces) == 2 * len(design.built_scene.faces)


def test_sloping_outlines_of_another_make_keep_their_slope():
    metre = 1 / 111_195
    ring = [
        [11, 44, 3],
        [11 + 10 * metre / np.cos(np.radians(44)), 44, 3],
        [11 + 10 * metre / np.cos(np.radians(44)), 44 + 6 * metre, 6],
        [11, 44 + 6 * metre, 6],
    ]
    found = read_scene(geojson([*ring, ring[0]]), "roof.geojson", 44.0, 11.0)
    (face,) = faces(found)
    assert face.tilt == pytest.approx(np.degrees(np.arctan2(3, 6)), abs=0.05) and face.azimuth == pytest.approx(180, abs=0.1)
    flat = [[x, y, 4.2] for x, y, _ in ring]
    (building,) = read_scene(geojson([*flat, flat[0]]), "flat.geojson", 44.0, 11.0)["buildings"].values()
    assert building["eave"] == 4.2


@pytest.mark.parametrize(
    ("factor", "tags"),
    [(1, {}), (10, {"units": "dm"}), (1 / 0.3048, {"units": "ft"}), (100, {"scale": 0.01}), (1, {"offset": 50.0}), (3937 / 1200, {"crs": "EPSG:6360"})],
    ids=["metres", "decimetres", "feet", "scaled", "offset", "datum in feet"],
)  # fmt: skip
def test_heights_of_a_geotiff_come_in_metres(factor, tags):
    """The same hill in every notation."""
    hill = 300 + 100 * np.exp(-np.square(np.linspace(-2, 2, 80))[:, np.newaxis] - np.square(np.linspace(-2, 2, 80)))
    stored = (hill - tags.get("offset", 0.0)) * factor
    crs = rasterio.crs.CRS.from_string(f"EPSG:32632+{tags['crs'].split(':')[1]}" if "crs" in tags else "EPSG:32632")
    (x,), (y,) = warp.transform("EPSG:4326", "EPSG:32632", [11.0], [44.0])
    band = {f"{name}s": [value] for name, value in tags.items() if name in ("scale", "offset")}
    band |= {"units": [tags["units"]]} if "units" in tags else {}
    grid = read_geotiff(geotiff(stored, from_origin(x - 400, y + 400, 10, 10), crs, dtype="float64", **band), 11.0, 44.0)
    assert float(grid.at(11.0, 44.0)) == pytest.approx(400, abs=0.5)
    # Ten metres of the file are ten metres or less from north to south and from west to east.
    assert grid.cell * 111_195 <= 10 * 1.001


def test_a_geotiff_in_an_unknown_unit_is_refused_with_those_that_are_known():
    content = geotiff(np.ones((4, 4)), from_origin(10.9, 44.1, 0.05, 0.05), "EPSG:4326", units=["fathom"])
    with pytest.raises(ValueError, match="heights in 'fathom'; known are"):
        read_geotiff(content, 11.0, 44.0)


@pytest.mark.parametrize(("longitude", "latitude", "km"), [(24.31, 43.62, 1046), (11.31, 56.62, 1446), (-178.0, -70.0, 17_035)])
def test_outlines_of_another_place_say_how_far_they_lie(longitude, latitude, km):
    """Thirty polygons 13 degrees off were taken for metres, and said to be none."""
    rings = [[[longitude + dx + k * 1e-3, latitude + dy] for dx, dy in ((0, 0), (2e-4, 0), (2e-4, 1e-4), (0, 1e-4), (0, 0))] for k in range(30)]  # fmt: skip
    features = [{"type": "Feature", "properties": {}, "geometry": {"type": "Polygon", "coordinates": [ring]}} for ring in rings]
    layer = json.dumps({"type": "FeatureCollection", "features": features}).encode()
    with pytest.raises(UnreadableScene, match=r"lies ([\d,]+) km from the site") as raised:
        read_scene(layer, "far.geojson", 43.62, 11.31)
    said = int(re.search(r"lies ([\d,]+) km", str(raised.value))[1].replace(",", ""))
    assert said == pytest.approx(km, rel=0.02)


WRONG_NUMBERS = [b"nan", b"inf", b"1e308", b"-1e308", b"1e-300", b"999999999999999999999", b"", b"9" * 400]


@pytest.mark.parametrize("kind", ["obj", "asc", "xyz", "geojson", "dxf"])
def test_damaged_scenes_are_read_or_refused_in_words(kind):
    """Numbers replaced, parts repeated or left out: never another error than the one with words."""
    whole = {
        "obj": obj(*solid(HOUSE)),
        "asc": grid_text(100 + np.arange(1200.0).reshape(30, 40) % 7, 1.0),
        "xyz": "\n".join(f"{x:.3f} {y:.3f} {z:.3f}" for x, y, z in cloud(30)[::8]).encode(),
        "geojson": geojson(SQUARE, height=5),
        "dxf": export(Design.read({"site": {"latitude": 44, "longitude": 11}, "scene": HOUSE}), Catalogue(), "dxf").replace(b"noontide-part", b"other"),
    }[kind]  # fmt: skip
    rng = random.Random(kind)
    numbers = list(re.finditer(rb"-?\d+\.?\d*", whole[:20_000]))
    words: list[str] = []
    for _ in range(60):
        damaged = whole
        match rng.randrange(4):
            case 0:
                for found in sorted(rng.sample(numbers, 3), key=lambda m: -m.start()):
                    damaged = damaged[: found.start()] + rng.choice(WRONG_NUMBERS) + damaged[found.end() :]
            case 1:
                damaged = damaged[: rng.randrange(len(damaged))]
            case 2:
                at = rng.randrange(len(damaged))
                damaged = damaged[:at] + damaged[at : at + 300] * 5 + damaged[at:]
            case 3:
                damaged = bytearray(damaged)
                for _ in range(5):
                    damaged[rng.randrange(len(damaged))] = rng.randrange(256)
        try:
            Scene.model_validate(read_scene(bytes(damaged), f"damaged.{kind}", 44, 11))
        except UnreadableScene as refused:
            words.append(str(refused))
    assert all(len(one) > 20 for one in words)


def test_area_vectors_are_those_of_each_ring():
    rng = np.random.default_rng(3)
    points = rng.uniform(-9, 9, (40, 3))
    rings = [list(rng.permutation(40)[: rng.integers(3, 9)]) for _ in range(25)]
    assert_allclose(area_vectors(points, rings), [area_vector(points[ring]) for ring in rings], rtol=0, atol=1e-9)
    assert area_vectors(points, []).shape == (0, 3)


def test_thousands_of_loose_faces_are_read():
    corners = "".join(f"v {x} {y} 0\nv {x + 0.6} {y} 0\nv {x} {y + 0.6} 1\n" for x in range(60) for y in range(40))
    loose = "".join(f"f {3 * k + 1} {3 * k + 2} {3 * k + 3}\n" for k in range(2400))
    part = read_part((corners + loose).encode(), "many.obj", 43.6, 11.3)
    assert sum(len(mesh["faces"]) for mesh in part["scene"]["meshes"].values()) == 2400


@pytest.mark.parametrize(("at", "kind"), [(100, "<I"), (243, "<I")])
def test_a_cloud_that_promises_more_records_than_it_has_bytes_is_refused(at, kind):
    cloud, out = laspy.create(point_format=6, file_version="1.4"), io.BytesIO()
    cloud.x = cloud.y = cloud.z = np.linspace(0, 9, 60)
    cloud.write(out)
    content = bytearray(out.getvalue())
    struct.pack_into(kind, content, at, 50_000_000)
    with pytest.raises(UnreadableScene, match="variable length records"):
        read_points(bytes(content), "las")


@pytest.mark.parametrize("ending", ["0\nSECTION\n2\nTABLES\n0\nTABLE\n", "0\nSECTION\n2\nTABLES\n", "0\nSECTION\n", ""])
def test_a_drawing_that_ends_in_the_middle_of_its_tables_is_refused(ending):
    with pytest.raises(UnreadableScene):
        read_scene(f"0\nSECTION\n2\nHEADER\n0\nENDSEC\n{ending}".encode(), "cut.dxf", 44, 11)
