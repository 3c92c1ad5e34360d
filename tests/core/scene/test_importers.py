"""Scenes from files, and files that are refused: with the place, the reason, and nothing changed."""

import gzip
import json

import laspy
import numpy as np
import pytest
import trimesh

from noontide.core.design.document import Design
from noontide.core.plan.exports import FORMATS, export
from noontide.core.scene import Scene, build_scene, faces
from noontide.core.scene.importers import UnreadableScene, read_scene
from noontide.core.shading import shaded_fraction

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
    large = sorted((f for f in faces(found) if f.area > 30), key=lambda f: f.azimuth % 360)
    assert len(large) == 2
    assert [f.tilt for f in large] == pytest.approx([pitch] * 2, abs=1.0)
    assert sum(f.area for f in large) == pytest.approx(160 / np.cos(np.radians(pitch)), rel=0.12)
    assert "mm off in the mean" in next(iter(found["meshes"].values()))["source"]


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
            "format": "noontide-design/3", "site": {"latitude": 44, "longitude": 11},
            "scene": {"buildings": {"b": {"gable": {"pitch": 30}}}, "chimneys": {"c": {"on": "b", "y": 1}}, "trees": {"t": {"x": 12}}},
            "surfaces": {"s": {"face": "b/roof-1", "layout": {"module": "veltrane-430", "modules": {"m1": {"u": 1, "v": 1}, "m2": {"u": 3, "v": 1}}}}},
        }
    )  # fmt: skip
    written = {kind: export(design, parts, kind) for kind in FORMATS}
    assert written["pdf"].startswith(b"%PDF") and b"<svg" in written["svg"][:200]
    model = trimesh.load(__import__("io").BytesIO(written["glb"]), file_type="glb")
    assert model.extents == pytest.approx([model.extents[0], 8 / 2 * np.tan(np.radians(30)) + 3 + 1.2, model.extents[2]], abs=4)
    back = read_scene(written["dxf"], "plan.dxf", 44, 11)
    assert {"ROOFS", "WALLS", "MODULES"} <= {mesh["name"] for mesh in back["meshes"].values()}
    outlines = read_scene(written["geojson"], "plan.geojson", 44, 11)
    assert Scene.model_validate(outlines).buildings
    lines = written["csv"].decode().splitlines()
    assert len(lines) == 3 and lines[1].startswith("1,m1,s,,,portrait,30,180,")


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
        assert pitch.area == pytest.approx(15.5 * 4.5 / np.cos(np.radians(30)), rel=0.05)  # between the middles of its cells


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
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin

    x = np.arange(-20, 20) * 0.0002
    heights = np.where(x > 0.0009, 250.0, 200.0) * np.ones((40, 1))
    with MemoryFile() as memory:
        with memory.open(
            driver="GTiff",
            dtype="float32",
            crs="EPSG:4326",
            transform=from_origin(11 + x[0], 44.004, 0.0002, 0.0002),
            height=40,
            width=40,
            count=1,
        ) as target:
            target.write(heights.astype("float32"), 1)
        content = memory.read()
    land = np.array(read_scene(content, "land.tif", 44.0, 11.0)["meshes"]["land"]["points"])
    step = land[land[:, 2] > 25][:, 0].min()
    assert step == pytest.approx(0.0011 * 111_195 * np.cos(np.radians(44)), abs=17)  # every second column is kept
    with pytest.raises(UnreadableScene):
        read_scene(content, "land.tif", 20.0, 11.0)
    with pytest.raises(UnreadableScene, match="no ncols"):
        read_scene(b"nrows 2\n1 2", "land.asc", 44.0, 11.0)
    with pytest.raises(UnreadableScene, match="too large for what is near"):
        read_scene(grid_text(np.ones((3, 3)), 1000), "land.asc", 44.0, 11.0)
