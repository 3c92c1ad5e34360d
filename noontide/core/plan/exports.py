"""The scene and its plan as files: drawings, solid models, coordinates."""

import io
import json
from collections.abc import Callable
from typing import Any

import ezdxf
import numpy as np
import trimesh
from numpy.typing import NDArray

from noontide.core.cells import Cell, as_csv
from noontide.core.design.document import Design
from noontide.core.drawing import as_pdf, as_svg
from noontide.core.drawing.sheet import PAPERS, Point, Sheet
from noontide.core.earth import METRES_A_DEGREE
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.plan.face_modules import FaceModules
from noontide.core.plan.layouts import module_on, plans_of, strings_of
from noontide.core.scene.importers.meshes import PROPERTY
from noontide.core.scene.own_files import MEMBER, carried
from noontide.core.scene.solids import Face
from noontide.core.units import METRE, Conversion

Floats = NDArray[np.float64]
# Media type and ending by the name under which a format is asked for.
FORMATS = {
    "svg": ("image/svg+xml", "svg"),
    "pdf": ("application/pdf", "pdf"),
    "dxf": ("image/vnd.dxf", "dxf"),
    "glb": ("model/gltf-binary", "glb"),
    "geojson": ("application/geo+json", "geojson"),
    "csv": ("text/csv; charset=utf-8", "csv"),
}
MARGIN = 14.0  # [mm]
PROPERTY_LENGTH = 2000  # characters of a drawing's custom property
SCALES = (20, 25, 50, 100, 200, 250, 500, 1000, 2000, 5000)


def export(design: Design, parts: Catalogue, kind: str) -> bytes:
    """A file of the scene.

    Raises
    ------
    KeyError
        If there is no such format.
    """
    plans = plans_of(design, parts)
    match kind:
        case "svg":
            return as_svg(plan_sheet(design, plans)).encode()
        case "pdf":
            return as_pdf([plan_sheet(design, plans)])
        case "dxf":
            return _dxf(design, plans)
        case "glb":
            return _glb(design, plans)
        case "geojson":
            return json.dumps(_geojson(design, plans), indent=1).encode()
        case "csv":
            return _csv(design, plans).encode()
    raise KeyError(kind)


def _drawn(design: Design) -> list[Face]:
    """Faces that are seen from above, the lower ones first."""
    faces = [face for face in design.built_scene.faces if face.normal[2] > 0.02]
    return sorted(faces, key=lambda face: float(face.outline[:, 2].mean()))


def _corners(plans: dict[str, FaceModules]) -> list[tuple[str, FaceModules, str, Floats]]:
    """Every module with its surface, plan, id and corners in space."""
    return [(key, plan, i, plan.corners(i)) for key, plan in plans.items() for i in plan.ids]


UNITS = {"m": "metres", "ft": "feet"}
BARS = (1, 2, 5, 10, 20, 50, 100, 200, 500)  # of the scale, in the unit of length
LEAST_BAR = 18.0  # mm on paper


def plan_sheet(design: Design, plans: dict[str, FaceModules], paper: str = "a3", length: Conversion = METRE) -> Sheet:
    """The plan to scale: roofs with their dimensions in a unit of length, modules with their numbers, trees, north and a scale."""
    width, height = PAPERS[paper]
    sheet = Sheet(width, height, design.name or design.site.name or "Plan")
    faces, modules = _drawn(design), _corners(plans)
    trees = [body for body in design.built_scene.bodies if body.kind == "trees"]
    points = (
        np.concatenate([f.outline[:, :2] for f in faces] + [b.points[:, :2] for b in trees])
        if faces or trees
        else np.zeros((1, 2))
    )
    low, high = points.min(axis=0), points.max(axis=0)
    room = np.array([width - 2 * MARGIN, height - 2 * MARGIN - 18])
    need = 1000 * float(np.max((high - low + 2) / room))
    scale = next((s for s in SCALES if s >= need), SCALES[-1])
    middle, centre = (low + high) / 2, np.array([width / 2, MARGIN + room[1] / 2])

    def at(point: Floats) -> tuple[float, float]:
        x, y = (point[:2] - middle) * 1000 / scale
        return float(centre[0] + x), float(centre[1] - y)

    for face in faces:
        sheet.shape([at(p) for p in face.outline], weight=0.35 if face.kind == "roof" else 0.2)
        for hole in face.holes:
            sheet.shape([at(p) for p in hole.outline], weight=0.18)
    for body in trees:
        low_xy, high_xy = body.points[:, :2].min(axis=0), body.points[:, :2].max(axis=0)
        sheet.circle(*at((low_xy + high_xy) / 2), float((high_xy - low_xy).max()) / 2 * 1000 / scale, 0.15)
    taken: list[Point] = []
    for number, (_, _, _, corners) in enumerate(modules, start=1):
        sheet.shape([at(p) for p in corners], weight=0.12)
        taken.append(at(corners.mean(axis=0)))
        size = min(1.8, float(np.ptp([at(p)[1] for p in corners])) * 0.45)
        x, y = at(corners.mean(axis=0))
        sheet.text(x, y + size * 0.35, str(number), size, "middle", tone="soft")
    for face in faces:
        if face.kind == "roof":
            _dimensions(sheet, face, at, taken, length.factor)
    y = height - MARGIN - 4
    sheet.line((MARGIN, y - 8), (width - MARGIN, y - 8), weight=0.2)
    sheet.text(MARGIN, y - 1, design.site.name or "Site", 4, is_bold=True)
    count = f"{len(modules)} modules" if modules else "no modules yet"
    sheet.text(
        MARGIN, y + 4, f"Plan 1:{scale}, {count}. Lengths in {UNITS[length.unit]}, measured along the roof.", 2.8, tone="soft"
    )
    one = 1000 / scale / length.factor  # mm on paper
    bar = next((many for many in BARS if many * one > LEAST_BAR), BARS[-1])
    x0 = width - MARGIN - bar * one - 20
    sheet.line((x0, y + 1), (x0 + bar * one, y + 1), weight=0.5)
    sheet.text(x0, y - 1, "0", 2.4, "middle")
    sheet.text(x0 + bar * one, y - 1, f"{bar} {length.unit}", 2.4, "middle")
    north = width - MARGIN - 5
    sheet.line((north, y + 3), (north, y - 6), weight=0.35)
    sheet.line((north - 1.6, y - 2.5), (north, y - 6), (north + 1.6, y - 2.5), weight=0.35)
    sheet.text(north + 2.2, y - 3, "N", 3)
    return sheet


DIMENSION = 2.2  # mm, height of its figures


def _dimensions(sheet: Sheet, face: Face, at: Callable[[Floats], Point], taken: list[Point], factor: float) -> None:
    """The length of every edge beside it, inside the face; outside where a module's number stands there, and nowhere if both are taken."""
    middle = face.outline.mean(axis=0)
    for start, end, edge in zip(face.outline, np.roll(face.outline, -1, axis=0), face.edges, strict=False):
        if edge.length < 0.3:
            continue
        place = (start + end) / 2
        inward = (middle - place) * min(0.5 / max(float(np.linalg.norm(middle - place)), 1e-6), 0.3)
        for side in (1, -1, -2):
            x, y = at(place + side * inward)
            if all(abs(x - u) > 1.6 * DIMENSION or abs(y - v) > 1.1 * DIMENSION for u, v in taken):
                sheet.text(x, y, f"{edge.length * factor:.2f}", DIMENSION, "middle", tone="current")
                taken.append((x, y))
                break


def _dxf(design: Design, plans: dict[str, FaceModules]) -> bytes:
    """Lines in metres and in space, on layers by what they are."""
    drawing = ezdxf.new("R2010", setup=True)
    drawing.units = ezdxf.units.M
    space = drawing.modelspace()
    for layer, colour in (("ROOFS", 7), ("WALLS", 8), ("OBSTACLES", 1), ("MODULES", 5), ("NUMBERS", 9), ("TREES", 3)):
        drawing.layers.add(layer, color=colour)
    for face in design.built_scene.faces:
        layer = {"roof": "ROOFS", "ground": "ROOFS", "wall": "WALLS"}.get(face.kind, "OBSTACLES")
        space.add_polyline3d([tuple(p) for p in face.outline.tolist()], close=True, dxfattribs={"layer": layer})
    for body in design.built_scene.bodies:
        if body.kind == "trees":
            for a, b in body.edges.tolist():
                space.add_line(body.points[a].tolist(), body.points[b].tolist(), dxfattribs={"layer": "TREES"})
    for number, (_, _, _, corners) in enumerate(_corners(plans), start=1):
        space.add_polyline3d([tuple(p) for p in corners.tolist()], close=True, dxfattribs={"layer": "MODULES"})
        space.add_text(str(number), height=0.2, dxfattribs={"layer": "NUMBERS", "insert": tuple(corners.mean(axis=0).tolist())})
    carrying = json.dumps(_own(design))
    for number, start in enumerate(range(0, len(carrying), PROPERTY_LENGTH), start=1):
        drawing.header.custom_vars.append(f"{PROPERTY}{number:05}", carrying[start : start + PROPERTY_LENGTH])
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def _glb(design: Design, plans: dict[str, FaceModules]) -> bytes:
    """A binary glTF: y up, as the format has it."""
    scene = trimesh.Scene()

    def add(name: str, outlines: list[Floats], colour: tuple[int, int, int, int]) -> None:
        points, triangles, start = [], [], 0
        for outline in outlines:
            points.append(outline[:, [0, 2, 1]] * [1, 1, -1])
            triangles += [(start + a, start + b, start + c) for a, b, c in _triangles(outline)]
            start += len(outline)
        if triangles:
            mesh = trimesh.Trimesh(np.concatenate(points), np.array(triangles), process=False)
            mesh.visual = trimesh.visual.ColorVisuals(mesh, face_colors=np.tile(colour, (len(triangles), 1)))
            scene.add_geometry(mesh, geom_name=name, node_name=name)

    for solid in dict.fromkeys(face.solid for face in design.built_scene.faces):
        add(solid, [f.outline for f in design.built_scene.faces if f.solid == solid], (246, 240, 226, 255))
    for body in design.built_scene.bodies:
        if body.kind == "trees":
            hull = trimesh.convex.convex_hull(body.points[:, [0, 2, 1]] * [1, 1, -1])
            scene.add_geometry(hull, geom_name=f"{body.id}-{len(scene.geometry)}")
    for key in plans:
        add(f"{key}-modules", [corners for k, _, _, corners in _corners(plans) if k == key], (47, 93, 140, 255))
    if not scene.geometry:
        scene.add_geometry(trimesh.PointCloud([[0, 0, 0]]))

    def with_own(tree: dict[str, Any]) -> None:
        tree["asset"] |= {"generator": "Noontide", "extras": {MEMBER: _own(design)}}

    return scene.export(file_type="glb", tree_postprocessor=with_own)


def _triangles(outline: Floats) -> list[tuple[int, int, int]]:
    """Of a planar polygon, by the numbers of its corners (ears cut off one by one)."""
    from noontide.core.scene.frame import Frame, normal_of

    flat = Frame(outline[0], normal_of(outline)).into(outline)[:, :2]
    left, found = list(range(len(flat))), []

    def turn(a: int, b: int, c: int) -> float:
        return float(
            (flat[b, 0] - flat[a, 0]) * (flat[c, 1] - flat[a, 1]) - (flat[b, 1] - flat[a, 1]) * (flat[c, 0] - flat[a, 0])
        )

    while len(left) > 3:
        for k in range(len(left)):
            a, b, c = left[k - 1], left[k], left[(k + 1) % len(left)]
            others = [i for i in left if i not in (a, b, c)]
            if turn(a, b, c) > 0 and not any(turn(a, b, i) >= 0 and turn(b, c, i) >= 0 and turn(c, a, i) >= 0 for i in others):
                found.append((a, b, c))
                left.pop(k)
                break
        else:
            break
    return [*found, (left[0], left[1], left[2])] if len(left) >= 3 else found


def _geojson(design: Design, plans: dict[str, FaceModules]) -> dict[str, Any]:
    """Outlines on the globe, the scene's origin at the site; heights over its ground in the third coordinate."""
    lat, lon = design.site.latitude, design.site.longitude

    def ring(outline: Floats) -> list[list[float]]:
        east = lon + outline[:, 0] / (METRES_A_DEGREE * max(np.cos(np.radians(lat)), 1e-9))
        north = lat + outline[:, 1] / METRES_A_DEGREE
        points = np.column_stack([east.round(9), north.round(9), outline[:, 2].round(4)]).tolist()
        return [*points, points[0]]

    def feature(outline: Floats, **properties: object) -> dict[str, Any]:
        return {"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [ring(outline)]}, "properties": properties}

    features = [
        feature(
            f.outline,
            id=f.id,
            kind=f.kind,
            name=f.name,
            tilt=round(f.tilt, 3),
            azimuth=round(f.azimuth, 3),
            area=round(f.area, 3),
        )
        for f in design.built_scene.faces
        if f.normal[2] > 0.02 and f.kind in ("roof", "ground", "top") and f.area > 0.01
    ]
    features += [
        feature(corners, id=i, kind="module", surface=key, number=number)
        for number, (key, _, i, corners) in enumerate(_corners(plans), start=1)
    ]
    return {"type": "FeatureCollection", MEMBER: _own(design), "features": features}


def _own(design: Design) -> dict[str, Any]:
    """What a file of ours carries beside its shapes."""
    named = {key: module_on(design, key, Catalogue())[0] for key in design.surfaces}
    return carried(design.as_kept(), {key: module for key, module in named.items() if module})


def _csv(design: Design, plans: dict[str, FaceModules]) -> str:
    """Every module with its number, string and corners in metres from the scene's origin."""
    rows: list[list[Cell]] = [
        ["number", "id", "surface", "sub-array", "string", "orientation", "tilt [deg]", "azimuth [deg]",
         *(f"{axis}{k} [m]" for k in range(1, 5) for axis in ("east ", "north ", "up "))]
    ]  # fmt: skip
    string_of: dict[tuple[str, str], tuple[str, int]] = {}
    for key, plan in plans.items():
        for number, (subarray, string) in enumerate(strings_of(design, key, plan), start=1):
            string_of |= {(key, i): (subarray, number) for i in string}
    for number, (key, plan, i, corners) in enumerate(_corners(plans), start=1):
        subarray, string_number = string_of.get((key, i), ("", 0))
        surface = design.surfaces[key]
        way = "landscape" if plan.placed[i].is_landscape else "portrait"
        rows.append(
            [
                number,
                i,
                surface.name,
                design.subarrays[subarray].name if subarray else "",
                string_number or "",
                way,
                f"{surface.tilt:g}",
                f"{surface.azimuth:g}",
                *(f"{v:.3f}" for v in corners.ravel()),
            ]
        )
    return as_csv(rows)
