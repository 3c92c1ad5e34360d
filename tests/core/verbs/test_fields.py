"""A field: traced on the ground, parted by roads, following the land, filled as one, and strung in blocks by inverter."""

import itertools

import numpy as np
import pytest
import shapely

from noontide.core.design import Design
from noontide.core.plan.layouts import plans_of, strings_of
from noontide.core.plan.stringing import inverters_of_slots
from noontide.core.scene.importers.heights import read_heights
from noontide.core.simulation import Libraries, simulate
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.editing import edited

CORNERS = [[-60, -45], [60, -45], [70, 40], [-55, 50]]
BARE = {"name": "Hill field", "site": {"latitude": 43.62, "longitude": 11.31}}


def act(document, verb, arguments, parts):
    patch, words = applied(Design.read(document), verb, arguments, Libraries(parts))
    return edited(document, patch, parts), words


@pytest.fixture(scope="module")
def traced(parts):
    document, words = act(BARE, "trace-outline", {"kind": "field", "corners": CORNERS}, parts)
    assert words == "Field added."
    return document


def rolling(x, y):
    return 3 * np.sin(x / 40) + 2 * np.cos(y / 30) + 0.02 * x


def land_of(height, across=80, cell=5.0) -> dict:
    """The scene that a grid of heights around the site becomes."""
    middles = (np.arange(across) + 0.5) * cell - across * cell / 2
    rows = "\n".join(" ".join(f"{100 + height(x, y):.3f}" for x in middles) for y in -middles)
    head = f"ncols {across}\nnrows {across}\nxllcorner 500000\nyllcorner 4800000\ncellsize {cell}\nNODATA_value -9999\n"
    return read_heights((head + rows).encode(), ".asc", "hill.asc", 43.62, 11.31)


def on_land(height) -> dict:
    return {"grounds": {"field": {"name": "Field", "length": 160, "width": 120}}} | land_of(height)


def grounds_of(document):
    return [face for face in Design.read(document).built_scene.faces if face.kind == "ground"]


def area_of(faces) -> float:
    """Seen from above [m2]."""
    return sum(shapely.Polygon(face.outline[:, :2]).area for face in faces)


def test_a_traced_outline_lies_where_it_was_traced(traced):
    (face,) = grounds_of(traced)
    assert shapely.Polygon(face.outline[:, :2]).symmetric_difference(shapely.Polygon(CORNERS)).area < 0.2
    assert face.outline[:, 2] == pytest.approx(0)


@pytest.mark.parametrize("turned", [0.0, 0.4, 2.1])
@pytest.mark.parametrize("is_reversed", [False, True])
def test_the_front_of_a_traced_building_is_its_first_edge_on_the_outside(parts, turned, is_reversed):
    c, s = np.cos(turned), np.sin(turned)
    corners = np.array([[10, 20], [22, 20], [22, 28], [10, 28]]) @ np.array([[c, s], [-s, c]])
    if is_reversed:
        corners = np.roll(corners[::-1], 2, axis=0)  # the same first edge, run through the other way
    document, _ = act(BARE, "trace-outline", {"corners": corners.tolist()}, parts)
    (house,) = document["scene"]["buildings"].values()
    assert house["azimuth"] == pytest.approx((180 - np.degrees(turned)) % 360, abs=0.01)
    assert sorted(map(tuple, np.abs(house["outline"]).round(2))) == [(6, 4)] * 4
    assert {face.kind for face in Design.read(document).built_scene.faces} >= {"roof", "wall"}


def test_an_outline_that_crosses_itself_is_refused_in_words(parts):
    with pytest.raises(ImpossibleAct, match="crosses"):
        act(BARE, "trace-outline", {"corners": [[0, 0], [10, 10], [10, 0], [0, 10]]}, parts)


def test_no_module_lies_on_a_road_and_one_that_comes_to_lie_there_is_said(traced, parts):
    whole, _ = act(traced, "fill", {"face": "field-1/ground"}, parts)
    (key,) = whole["surfaces"]
    roads = {"roads": {"every": 30, "across_every": 40, "width": 5}}
    parted, _ = act(whole, "fill", {"surface": key, "layout": roads}, parts)
    plan = plans_of(Design.read(parted), parts)[key]
    strips = shapely.union_all([shapely.Polygon(strip) for strip in plan.roads])
    boxes = shapely.box(*plan.rectangles[:, :2].T, *(plan.rectangles[:, :2] + plan.rectangles[:, 2:]).T)
    assert len(plan.roads) == 2 + 2 or len(plan.roads) == 3 + 2
    assert shapely.area(shapely.intersection(boxes, strips)).max() < 1e-6
    before = Design.read(whole).surfaces[key].layout.size
    assert 0.6 * before < len(plan.ids) < before
    # Roads that are drawn through rows that lie there put them on the tray, with the reason.
    crossed = edited(whole, {"surfaces": {key: {"layout": roads}}}, parts)
    tray = plans_of(Design.read(crossed), parts)[key].tray
    assert tray and set(tray.values()) == {"on a road"}


@pytest.mark.parametrize(
    ("every", "width", "count"), [(20.0, 4.0, 4), (96.0, 4.0, 0), (95.0, 4.0, 1), (None, 4.0, 0), (500.0, 4.0, 0)]
)
def test_blocks_are_as_deep_as_was_asked_for_and_no_road_runs_along_the_edge(parts, every, width, count):
    square = {"grounds": {"field": {"length": 100, "width": 100}}}
    document, _ = act(
        BARE | {"scene": square}, "fill", {"face": "field/ground", "layout": {"roads": {"every": every, "width": width}}}, parts
    )
    plan = next(iter(plans_of(Design.read(document), parts).values()))
    lows = sorted(strip[:, 1].min() for strip in plan.roads)
    assert len(lows) == count
    assert lows == pytest.approx([every + k * (every + width) for k in range(count)] if every else [])


def strung(document, parts, inverters):
    (key,) = document["surfaces"]
    layout = Design.read(document).surfaces[key].layout
    subarrays = {
        f"s{k}": {"surface": key, "module": layout.module, "modules_per_string": 10, "strings": strings, "inverter": f"i{k}", "tracker": tracker}
        for k, (_, strings, tracker) in enumerate(inverters)
    }  # fmt: skip
    return edited(
        document,
        {"inverters": {f"i{k}": {"model": "corvane-250t", "count": count} for k, (count, _, _) in enumerate(inverters)}, "subarrays": subarrays},
        parts,
    ), key  # fmt: skip


def spread_of(strings, units, plan) -> float:
    """Mean distance of modules from the middle of those of their inverter [m]."""
    found = []
    for unit in dict.fromkeys(units):
        ids = [i for string, mine in zip(strings, units, strict=True) if mine == unit for i in string]
        places = plan.boxes(ids)[:, :2]
        found.append(np.linalg.norm(places - places.mean(axis=0), axis=1).mean())
    return float(np.mean(found))


@pytest.mark.parametrize("inverters", [[(4, 12, 1)], [(1, 7, 1)], [(3, 5, 1), (2, 11, 1), (1, 3, 1)]])
def test_strings_by_block_use_each_module_once_and_keep_those_of_an_inverter_together(traced, parts, inverters):
    filled, _ = act(traced, "fill", {"face": "field-1/ground"}, parts)
    document, key = strung(filled, parts, inverters)
    spreads = {}
    for pattern in ("by row", "snake", "by block"):
        done, _ = act(document, "string-modules", {"surface": key, "pattern": pattern}, parts)
        design = Design.read(done)
        plan = plans_of(design, parts)[key]
        strings = [ids for _, ids in strings_of(design, key, plan)]
        used = list(itertools.chain(*strings))
        assert len(used) == len(set(used)) == 10 * sum(count * strings for count, strings, _ in inverters)
        assert set(used) <= set(plan.ids)
        spreads[pattern] = spread_of(strings, inverters_of_slots(design, key), plan)
    if sum(count for count, _, _ in inverters) > 1:
        assert spreads["by block"] < 0.8 * min(spreads["by row"], spreads["snake"])


def test_a_field_with_fewer_modules_than_its_strings_need_is_strung_as_far_as_they_go(traced, parts):
    filled, _ = act(traced, "fill", {"face": "field-1/ground", "limit": {"of": "modules", "value": 25}}, parts)
    document, key = strung(filled, parts, [(2, 3, 1)])
    done, _ = act(document, "string-modules", {"surface": key, "pattern": "by block"}, parts)
    kept = [i for string in done["subarrays"]["s0"]["string_plan"] for i in string]
    assert len(kept) == len(set(kept)) == 25


def test_planes_follow_the_land_as_near_as_asked_for_and_cover_the_field_once(parts):
    document = BARE | {"scene": on_land(rolling)}
    before = area_of(grounds_of(document))
    counts = []
    for within in (2.0, 0.4):
        done, words = act(document, "follow-land", {"ground": "field", "within": within}, parts)
        faces = grounds_of(done)
        counts.append(len(faces))
        assert f"in {len(faces)} plane" in words
        assert area_of(faces) == pytest.approx(before, rel=1e-4)
        seen = [shapely.Polygon(face.outline[:, :2]).buffer(-0.05) for face in faces]
        assert not any(a.intersects(b) for a, b in itertools.combinations(seen, 2))
        # Of many places, the planes are as far from the land itself as was asked for.
        for face in faces:
            middle = np.array(shapely.Polygon(face.outline[:, :2]).representative_point().coords[0])
            plane = face.outline[0, 2] - (middle - face.outline[0, :2]) @ face.normal[:2] / face.normal[2]
            assert abs(plane - (rolling(*middle) - rolling(2.5, 2.5))) < 3 * within + 0.3
    assert counts[0] < counts[1]


def test_land_that_is_a_plane_is_followed_exactly_in_one(parts):
    done, words = act(BARE | {"scene": on_land(lambda x, y: 0.05 * x - 0.02 * y)}, "follow-land", {"ground": "field"}, parts)
    (face,) = grounds_of(done)
    assert "in 1 plane, 0.00 m" in words
    assert face.tilt == pytest.approx(np.degrees(np.arctan(np.hypot(0.05, 0.02))), abs=0.01)
    assert face.azimuth == pytest.approx(np.degrees(np.arctan2(-0.05, 0.02)) % 360, abs=0.1)


def test_the_land_is_cut_out_under_a_field_and_shades_no_module_on_it(parts, hill_weather):
    done, _ = act(BARE | {"scene": on_land(rolling)}, "follow-land", {"ground": "field", "within": 0.5}, parts)
    field = shapely.union_all([shapely.Polygon(face.outline[:, :2]) for face in grounds_of(done)]).buffer(-0.5)
    land = done["scene"]["meshes"]["land"]
    points = np.array(land["points"])
    assert not any(shapely.Polygon(points[face, :2]).intersects(field) for face in map(list, land["faces"]))
    whole = sum(shapely.Polygon(points[face, :2]).area for face in map(list, land["faces"]))
    across = np.ptp(np.array(on_land(rolling)["meshes"]["land"]["points"])[:, 0])
    assert whole == pytest.approx(across**2 - 160 * 120, rel=1e-3)
    faces = [face.id for face in grounds_of(done)]
    filled, words = act(
        done,
        "fill-faces",
        {"faces": faces, "layout": {"racks": {"tilt": 5, "ground_cover": 12, "azimuth": 180, "height": 0.5}}},
        parts,
    )
    design = Design.read(filled)
    assert sum(one.layout.size for one in design.surfaces.values()) == int(words.split(" modules")[0].replace(",", ""))
    assert {one.azimuth for one in design.surfaces.values()} == {180}
    subarrays = {
        f"s{k}": {"surface": key, "module": one.layout.module, "modules_per_string": 10, "strings": 4, "inverter": "main"}
        for k, (key, one) in enumerate(design.surfaces.items())
        if one.layout.size >= 40
    }
    wired = edited(
        filled, {"inverters": {"main": {"model": "corvane-250t"}}, "subarrays": dict(list(subarrays.items())[:2])}, parts
    )
    year = simulate(Design.read(wired), hill_weather, parts)
    shade = next(entry for entry in year.cascade.entries if entry.line.key == "near_shade")
    light = next(entry for entry in year.cascade.entries if entry.line.key == "conversion")
    # Low rows far apart on rolling ground: the hill itself takes a little, and far less than land that stood over them would.
    assert 0 <= -shade.monthly.sum() < 0.03 * -light.monthly.sum()


@pytest.mark.parametrize(
    ("scene", "said"),
    [
        pytest.param({"grounds": {"field": {}}}, "no land under it", id="no land"),
        pytest.param(on_land(rolling) | {"grounds": {"field": {"x": 200, "length": 300}}}, "does not reach", id="beyond its edge"),
        pytest.param(on_land(lambda x, y: 1.5 * x), "rises by 56°", id="a cliff"),
    ],
)  # fmt: skip
def test_land_that_cannot_be_followed_is_refused_in_words(parts, scene, said):
    with pytest.raises(ImpossibleAct, match=said):
        act(BARE | {"scene": scene}, "follow-land", {"ground": "field"}, parts)


def test_a_ground_with_modules_is_not_parted(traced, parts):
    filled, _ = act(traced, "fill", {"face": "field-1/ground"}, parts)
    with pytest.raises(ImpossibleAct, match="Modules lie on Field"):
        act(filled, "follow-land", {"ground": "field-1"}, parts)


def test_faces_are_filled_together_as_one_by_one(parts):
    scene = {
        "grounds": {
            "a": {"name": "A"},
            "b": {"name": "B", "x": 40},
            "tiny": {"name": "Tiny", "x": 80, "length": 0.6, "width": 0.6},
        }
    }
    together, words = act(BARE | {"scene": scene}, "fill-faces", {"faces": ["a/ground", "tiny/ground", "b/ground"]}, parts)
    one, _ = act(BARE | {"scene": scene}, "fill", {"face": "a/ground"}, parts)
    two, _ = act(one, "fill", {"face": "b/ground"}, parts)
    assert {s["layout"]["racks"]["azimuth"] for s in together["surfaces"].values()} == {180}
    laid = {one.face: one.layout.placed for one in Design.read(together).surfaces.values() if one.layout.size}
    assert laid == {one.face: one.layout.placed for one in Design.read(two).surfaces.values()}
    assert words.startswith(f"{sum(map(len, laid.values()))} modules laid on 2 faces. None fits on Tiny")
    with pytest.raises(ImpossibleAct, match="No module fits on any"):
        act(BARE | {"scene": scene}, "fill-faces", {"faces": ["tiny/ground"]}, parts)
