"""The scene as the bench draws it: faces, bodies, the modules on their surfaces."""

from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.spatial import ConvexHull

from noontide.core.design.circuits import PlannedLengths
from noontide.core.design.document import Design
from noontide.core.design.layout import LEVEL, Layout
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.plan import FaceModules
from noontide.core.plan.layouts import module_on, plans_of, string_runs, strings_in_all
from noontide.core.scene import Body, Face, build_scene
from noontide.core.scene.document import KINDS, Scene
from noontide.core.scene.placing import place_of
from noontide.core.verbs.planned_lengths import planned_lengths
from noontide.server.projects.drawn_rows import DrawnRow, Point, drawn_rows, spans_of

Floats = NDArray[np.float64]
HATCH = 0.25  # between strokes [m]
OVER = 0.03  # of strokes over the face, so that it does not hide them [m]
MOST_STROKES = 400  # on one face


class DrawnEdge(BaseModel):
    kind: str = Field(description="eave, ridge, hip, valley, rake, step or side")
    length: float = Field(description="[m]")


class DrawnHole(BaseModel):
    solid: str
    kind: str
    outline: list[Point]


class DrawnFace(BaseModel):
    id: str
    solid: str
    kind: str
    name: str
    outline: list[Point] = Field(description="east, north, up [m], counterclockwise as seen from outside")
    holes: list[DrawnHole]
    edges: list[DrawnEdge]
    tilt: float = Field(description="[°]")
    azimuth: float = Field(description="[°]")
    area: float = Field(description="[m2]")
    is_level: bool = Field(description="whether it takes racks and trackers")
    surfaces: list[str] = Field(
        description="ids of the design's surfaces that lie on it; more than one where racks stand back to back"
    )


class DrawnBody(BaseModel):
    """A body that has no faces of its own: a tree, a dormer, a parapet."""

    id: str
    kind: str
    name: str
    light: list[float] = Field(description="share of the light that gets through by month, (12,)")
    points: list[Point]
    triangles: list[tuple[int, int, int]]
    edges: list[tuple[int, int]]


class Standpoint(BaseModel):
    """Where a thing stands in the site's frame; what stands on a building is kept in the building's own."""

    kind: str
    x: float
    y: float
    azimuth: float


class DrawnString(BaseModel):
    """A string on its modules, the first with the positive end."""

    number: int
    subarray: str
    spans: list[tuple[str, str]] = Field(
        description="its modules in order: first and last of those whose ids count up or down by one"
    )
    length: float = Field(description="of its cable beside the modules' own, one way [m]")


class SetbackText(BaseModel):
    at: Point
    edge: int | None = Field(description="number of the face's edge, from 1; null for what stands on the face")
    kind: str
    distance: float = Field(description="[m]")


class DrawnLayout(BaseModel):
    """The modules of one surface."""

    surface: str
    face: str
    module: str | None = Field(description="of the library, that gives the size; null where no string says it")
    wired: int = Field(description="modules of the strings on the surface")
    rows: list[DrawnRow] = Field(description="the modules, in reading order")
    tray: dict[str, str] = Field(description="modules that have no place, and why")
    axes: tuple[Point, Point] = Field(description="along the rows and up the slope")
    usable: list[list[list[Point]]] = Field(description="what setbacks leave: polygons, each an outline and its holes")
    strings: list[DrawnString] = Field(description="in the order of their numbers")
    lengths: dict[str, PlannedLengths] = Field(description="of the string cables by sub-array, from the plan")
    exit: Point = Field(description="where the cables leave the face")
    hatching: list[tuple[Point, Point]] = Field(description="strokes over what setbacks and keep-outs leave free")
    distances: list[SetbackText] = Field(description="width of each setback, where it stands")
    rules: dict[str, float] = Field(description="setback by kind of edge or obstacle in use [m]")
    usable_area: float = Field(description="[m2]")
    mass: float | None = Field(description="of the modules [kg]")
    row_pitch: float | None = Field(description="of racks, along the ground [m]; null where modules lie flush")
    ground_cover: float | None = Field(description="of racks: modules over pitch [%]")


class SceneAnswer(BaseModel):
    revision: int
    faces: list[DrawnFace]
    bodies: list[DrawnBody]
    places: dict[str, Standpoint]
    layouts: list[DrawnLayout]


def scene_answer(design: Design, parts: Catalogue, revision: int) -> SceneAnswer:
    """Everything that the drawing of a design's scene needs."""
    built = design.built_scene
    surfaces: dict[str, list[str]] = {}
    for key, surface in design.surfaces.items():
        surfaces.setdefault(surface.face or "", []).append(key)
    plans = plans_of(design, parts)
    layouts = [
        _layout(design, key, face, parts, plans.get(key))
        for key, surface in design.surfaces.items()
        if surface.face and (face := built.face(surface.face)) is not None
    ]
    with_faces = {face.solid for face in built.faces}
    return SceneAnswer(
        revision=revision,
        faces=[_face(face, surfaces.get(face.id, [])) for face in built.faces],
        bodies=[_body(body) for body in built.bodies if body.is_convex and _is_drawn_by_itself(body, with_faces)],
        places=_places(design.scene),
        layouts=layouts,
    )


class ReadThing(BaseModel):
    """A thing that a file would add."""

    kind: str
    id: str = Field(description="free in the scheme")
    name: str
    words: str = Field(description="its size, and how well it was found")
    values: dict = Field(description="as it is kept in the scene")


class SceneReading(BaseModel):
    revision: int
    things: list[ReadThing]
    up: Literal["", "y", "z"] = Field(
        description="axis of the file's model that points up, y or z, as it was read; empty where the file holds no model"
    )
    file: str = Field(description="its name")


def reading_of(found: dict, revision: int, up: Literal["", "y", "z"], file: str) -> SceneReading:
    """A part of a design, scene and surfaces, as a list of things to be accepted one by one."""
    built = build_scene(Scene.model_validate(found["scene"]))
    roofs: dict[str, list[float]] = {}
    for face in built.faces:
        if face.kind == "roof":
            roofs.setdefault(face.solid, []).append(face.area)
    return SceneReading(
        revision=revision, up=up, file=file,
        things=[
            ReadThing(
                kind=kind, id=key, name=values.get("name") or key, values=values,
                words=", ".join(w for w in (_roofs_in_words(roofs.get(key, [])), f"eave {values['eave']:g} m" if "eave" in values else "", values.get("source", "")) if w),
            )
            for kind, things in found["scene"].items()
            for key, values in things.items()
        ] + [
            ReadThing(kind="surfaces", id=key, name=values.get("name") or key, values=values, words=_modules_in_words(values))
            for key, values in found["surfaces"].items()
        ],
    )  # fmt: skip


def _roofs_in_words(areas: list[float]) -> str:
    if not areas:
        return ""
    return f"roof {sum(areas):.1f} m²" if len(areas) == 1 else f"{len(areas)} roof faces, {sum(areas):.1f} m²"


def _modules_in_words(surface: dict) -> str:
    many = Layout.model_validate(surface.get("layout") or {}).size
    return f"{many} module{'' if many == 1 else 's'}"


def _is_drawn_by_itself(body: Body, with_faces: set[str]) -> bool:
    return body.kind in ("trees", "dormers", "carports") or body.id not in with_faces or body.name.endswith("parapet")


def _places(scene: Scene) -> dict[str, Standpoint]:
    found = {}
    for kind in KINDS:
        for key, thing in getattr(scene, kind).items():
            place = place_of(thing, scene)
            found[key] = Standpoint(kind=kind, x=place.x, y=place.y, azimuth=place.azimuth)
    return found


def _face(face: Face, surfaces: list[str]) -> DrawnFace:
    return DrawnFace(
        id=face.id, solid=face.solid, kind=face.kind, name=face.name, outline=_points(face.outline),
        holes=[DrawnHole(solid=h.solid, kind=h.kind, outline=_points(h.outline)) for h in face.holes],
        edges=[DrawnEdge(kind=e.kind, length=round(e.length, 3)) for e in face.edges],
        tilt=round(face.tilt, 3), azimuth=round(face.azimuth, 3), area=round(face.area, 3), is_level=face.tilt <= LEVEL, surfaces=surfaces,
    )  # fmt: skip


def _points(outline: Floats) -> list[Point]:
    return [tuple(point) for point in outline.round(4).tolist()]


def _body(body: Body) -> DrawnBody:
    hull = ConvexHull(body.points)
    triangles = []
    middle = body.points.mean(axis=0)
    for a, b, c in hull.simplices.tolist():
        normal = np.cross(body.points[b] - body.points[a], body.points[c] - body.points[a])
        triangles.append((a, b, c) if normal @ (body.points[a] - middle) > 0 else (a, c, b))
    return DrawnBody(
        id=body.id, kind=body.kind, name=body.name, light=[round(share, 3) for share in body.light], points=_points(body.points), triangles=triangles,
        edges=[(a, b) for a, b in body.edges.tolist()],
    )  # fmt: skip


def _layout(design: Design, key: str, face: Face, parts: Catalogue, plan: FaceModules | None) -> DrawnLayout:
    model, _ = module_on(design, key, parts)
    mine = [s for s in design.subarrays.values() if s.surface == key]
    wired = sum(s.modules_per_string * strings_in_all(design, s) for s in mine)
    along, up = (tuple(axis.tolist()) for axis in face.frame.axes[:2])
    empty = DrawnLayout(
        surface=key, face=face.id, module=model, wired=wired, rows=[], tray={}, axes=(along, up), usable=[], usable_area=0.0, mass=None, row_pitch=None, ground_cover=None,
        strings=[], lengths={}, exit=_points(face.outline[:1])[0], hatching=[], distances=[], rules={},
    )  # fmt: skip
    if plan is None:
        return empty
    runs = string_runs(design, key, plan)
    ids: list[str] = []
    corners: list[Floats] = [np.zeros((0, 4, 3))]
    for some, frame in plan.planes(list(plan.ids)):
        ids += some
        corners.append(frame.out_of(plan.quads(some)))
    usable = [
        [_points(plan.frame.out_of(_ring(ring))) for ring in (part.exterior, *part.interiors)]
        for part in shapely.get_parts(plan.usable.simplify(0.004))
    ]
    mass = plan.module.mass * len(ids) if plan.module.mass else None
    return DrawnLayout.model_validate(
        empty.__dict__
        | {
            "axes": tuple(tuple(axis.tolist()) for axis in plan.frame.axes[:2]),
            "rows": drawn_rows(ids, np.concatenate(corners)),
            "tray": plan.tray,
            "usable": usable,
            "strings": [
                {
                    "number": r.number,
                    "subarray": r.subarray,
                    "spans": spans_of(r.modules),
                    "length": round(r.length, 2),
                }
                for r in runs
            ],
            "lengths": planned_lengths(runs),
            "exit": _points(plan.exit[np.newaxis])[0],
            "hatching": _hatching(plan),
            "distances": _distances(plan),
            "rules": plan.layout.distances,
            "usable_area": round(plan.usable.area, 2),
            "mass": mass,
            "row_pitch": round(plan.row_pitch, 3) if plan.row_pitch is not None else None,
            "ground_cover": round(100 * plan.ground_cover, 1) if plan.ground_cover is not None else None,
        }
    )


def _hatching(plan: FaceModules) -> list[tuple[Point, Point]]:
    """Slanting strokes over the part of a face that is kept free."""
    face = shapely.Polygon(plan.outline)
    kept = face.difference(plan.usable).buffer(-0.01)
    if kept.is_empty:
        return []
    x0, y0, x1, y1 = kept.bounds
    step = max(HATCH, (x1 - x0 + y1 - y0) / MOST_STROKES)
    starts = np.arange(x0 - (y1 - y0), x1, step)
    lines = shapely.linestrings([[(x, y0), (x + y1 - y0, y1)] for x in starts])
    found = shapely.get_parts(shapely.intersection(lines, kept))
    strokes = [_ring(line, closed=False) for line in found if isinstance(line, shapely.LineString) and line.length > HATCH / 4]
    return [
        (a, b) for a, b in (_points(plan.frame.out_of(np.column_stack([stroke[[0, -1]], [OVER, OVER]]))) for stroke in strokes)
    ]


def _distances(plan: FaceModules) -> list[SetbackText]:
    """How wide each setback is, inside the middle of its edge or beside what it keeps clear of."""
    outline = plan.outline
    found = []
    for k, (kind, distance) in enumerate(plan.setbacks):
        if distance <= 0:
            continue
        start, end = outline[k], outline[(k + 1) % len(outline)]
        along = (end - start) / max(float(np.linalg.norm(end - start)), 1e-9)
        at = (start + end) / 2 + np.array([-along[1], along[0]]) * distance / 2
        found.append(SetbackText(at=_points(plan.frame.out_of(at[np.newaxis]))[0], edge=k + 1, kind=kind, distance=distance))
    for (kind, ring), distance in zip(plan.holes, plan.clearances, strict=True):
        if distance > 0:
            at = np.array([ring[:, 0].mean(), ring[:, 1].max() + distance / 2])
            found.append(SetbackText(at=_points(plan.frame.out_of(at[np.newaxis]))[0], edge=None, kind=kind, distance=distance))
    return found


def _ring(ring: shapely.LineString, closed: bool = True) -> Floats:
    points = np.array(ring.coords)
    return points[:-1] if closed else points
