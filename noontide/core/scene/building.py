"""Faces and bodies of a building: walls, roof, parapet, dormers."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from noontide.core.angles import wind
from noontide.core.scene.bodies import is_convex, loft, pairs_of
from noontide.core.scene.document import Building, Dormer
from noontide.core.scene.frame import azimuth_of, normal_of
from noontide.core.scene.placing import Place
from noontide.core.scene.roofs import RoofPart, Stage, raise_roof
from noontide.core.scene.solids import Body, Edge, Face, Hole

Floats = NDArray[np.float64]
SLOPING = 0.02  # rise over length from which an edge slopes


def stages_of(building: Building) -> tuple[Stage, ...]:
    """The pitches of all edges of the outline, from the eave up."""
    corners = np.array(building.corners)
    along = np.roll(corners, -1, axis=0) - corners
    unit = along / np.hypot(*along.T)[:, np.newaxis]
    # Ends are the edges that run across the front; the ridge runs along it.
    is_end = np.abs(unit[:, 1]) > np.sqrt(0.5)
    is_back = unit[:, 0] < 0

    def by_edge(side: float, back: float, end: float) -> tuple[float, ...]:
        return tuple(np.where(is_end, end, np.where(is_back, back, side)).tolist())

    if (gable := building.gable) is not None:
        return (Stage(by_edge(gable.pitch, gable.back_pitch or gable.pitch, 90.0)),)
    if (hip := building.hip) is not None:
        return (Stage(by_edge(hip.pitch, hip.pitch, hip.end_pitch or hip.pitch)),)
    if (half := building.half_hip) is not None:
        upper = Stage(by_edge(half.pitch, half.pitch, half.end_pitch or half.pitch))
        return Stage(by_edge(half.pitch, half.pitch, 90.0), half.gable), upper
    if (broken := building.gambrel) is not None:
        lower = Stage(by_edge(broken.lower_pitch, broken.lower_pitch, 90.0), broken.break_height)
        return lower, Stage(by_edge(broken.upper_pitch, broken.upper_pitch, 90.0))
    if (broken := building.mansard) is not None:
        count = len(corners)
        return Stage((broken.lower_pitch,) * count, broken.break_height), Stage((broken.upper_pitch,) * count)
    if (own := building.own_pitches) is not None:
        pitches = own.pitches
        if building.outline is not None and building.corners != building.outline:  # it was clockwise: so were its pitches
            pitches = pitches[:-1][::-1] + pitches[-1:]
        return (Stage(pitches),)
    return ()


def roof_of(building: Building) -> list[RoofPart]:
    """The faces of the roof in the building's own frame, heights over the eave; a flat one has one face, a shed one and its gables.

    Raises
    ------
    ImpossibleRoof
        If the outline and the pitches make no roof.
    """
    corners = np.array(building.corners)
    if building.shed is not None:
        rise = (corners[:, 1] - corners[:, 1].min()) * np.tan(np.radians(building.shed.pitch))
        parts = [RoofPart(0, 0, np.column_stack([corners, rise]), False)]
        for k in range(len(corners)):
            j = (k + 1) % len(corners)
            if max(rise[k], rise[j]) > 1e-9:
                wall = [[*corners[k], 0.0], [*corners[j], 0.0], [*corners[j], rise[j]], [*corners[k], rise[k]]]
                kept = [p for i, p in enumerate(wall) if i < 2 or p[2] > 1e-9]
                parts.append(RoofPart(k, 0, np.array(kept), True))
        return parts
    stages = stages_of(building)
    if not stages:
        return [RoofPart(0, 0, np.column_stack([corners, np.zeros(len(corners))]), False)]
    return list(_raised(tuple(map(tuple, corners.tolist())), stages))


@lru_cache(maxsize=256)
def _raised(corners: tuple[tuple[float, float], ...], stages: tuple[Stage, ...]) -> tuple[RoofPart, ...]:
    """Roofs of outlines that were asked for lately: an edit of one building leaves those of the others as they are."""
    return tuple(raise_roof(np.array(corners), stages))


def build(key: str, building: Building, place: Place, base: float) -> tuple[list[Face], list[Body]]:
    """Faces and bodies of a building that stands at a place with its foot at a height.

    Raises
    ------
    ImpossibleRoof
        If the outline and the pitches make no roof.
    """
    title = building.name or "Building"
    corners = np.array(building.corners)
    eave = base + building.eave
    parts = roof_of(building)

    def in_site(local: Floats) -> Floats:
        return np.column_stack([place.out_of(local[:, :2]), local[:, 2]])

    roofs = [p for p in parts if not p.is_gable]
    walls: list[Floats] = []
    for k in range(len(corners)):
        j = (k + 1) % len(corners)
        gables = [p for p in parts if p.is_gable and p.edge == k]
        walls.append(_wall(corners[k], corners[j], gables, base, eave))
    parapet = building.flat.parapet if building.flat else 0.0
    faces = []
    many = len(roofs) > 1
    for number, part in enumerate(roofs):
        ring = part.outline + [0, 0, eave]
        if parapet > 0:
            ring = np.column_stack([_inset(corners, building.flat.thickness), np.full(len(corners), eave)])  # type: ignore[union-attr]
        outline = in_site(ring)
        twin = sum(1 for p in roofs[:number] if p.edge == part.edge and p.stage == part.stage)
        suffix = f"-{part.edge + 1}" if many else ""
        suffix += ("-upper" if part.stage else "") + (f"-{twin + 1}" if twin else "")
        faces.append(Face(f"{key}/roof{suffix}", key, "roof", title, outline, level_azimuth=place.azimuth))
    faces = named_roofs(faces, title)
    wall_faces = [
        Face(f"{key}/wall-{k + 1}", key, "wall", f"{title}, {wind(azimuth_of(normal_of(in_site(w))))} wall", in_site(w))
        for k, w in enumerate(walls)
    ]
    faces = [with_edges(face, [*faces, *wall_faces], parapet > 0) for face in faces]
    rings_3d = [*(f.outline for f in faces if parapet <= 0), *(w.outline for w in wall_faces)]
    if parapet > 0:
        rings_3d.append(in_site(np.column_stack([corners, np.full(len(corners), eave)])))
    rings_3d.append(in_site(np.column_stack([corners, np.full(len(corners), base)]))[::-1])
    bodies = [_body(key, title, rings_3d)]
    if parapet > 0:
        bodies += _parapet(key, title, corners, building.flat.thickness, eave, parapet, place)  # type: ignore[union-attr]
    for dormer in building.dormers.values():
        faces, body = _with_dormer(key, title, dormer, faces, place)
        bodies += [body] if body is not None else []
    return faces + wall_faces, bodies


def _wall(start: Floats, end: Floats, gables: list[RoofPart], base: float, eave: float) -> Floats:
    """A wall with the gable over it, in the building's own frame, (n, 3)."""
    along = end - start
    length = float(np.hypot(*along))
    pieces = [shapely.box(0, base, length, eave)]
    for gable in gables:
        lengths = (gable.outline[:, :2] - start) @ (along / length)
        pieces.append(shapely.Polygon(np.column_stack([lengths, gable.outline[:, 2] + eave])))
    whole = shapely.union_all(pieces, grid_size=1e-8)
    whole = max(shapely.get_parts(whole), key=lambda p: p.area)
    ring = np.array(shapely.orient_polygons(whole).exterior.coords)[:-1]
    ring = ring if shapely.is_ccw(shapely.LinearRing(ring)) else ring[::-1]
    return np.column_stack([start + ring[:, :1] * (along / length), ring[:, 1]])


def _inset(corners: Floats, distance: float) -> Floats:
    """The outline moved inward, corner by corner, (n, 2)."""
    along = np.roll(corners, -1, axis=0) - corners
    unit = along / np.hypot(*along.T)[:, np.newaxis]
    inward = np.stack([-unit[:, 1], unit[:, 0]], axis=1)
    before = np.roll(inward, 1, axis=0)
    bisector = before + inward
    scale = distance / np.maximum(1 + np.einsum("ij,ij->i", before, inward), 0.05)
    return corners + bisector * scale[:, np.newaxis]


def _parapet(key: str, title: str, corners: Floats, thickness: float, eave: float, height: float, place: Place) -> list[Body]:
    inner = _inset(corners, thickness)
    bodies = []
    for k in range(len(corners)):
        j = (k + 1) % len(corners)
        ring = place.out_of(np.array([corners[k], corners[j], inner[j], inner[k]]))
        bodies.append(loft(key, "buildings", f"{title}, parapet", [(ring, eave), (ring, eave + height)]))
    return bodies


def _body(key: str, title: str, rings: list[Floats]) -> Body:
    points, place = np.unique(np.concatenate(rings).round(7), axis=0, return_inverse=True)
    ends = np.cumsum([len(ring) for ring in rings])[:-1]
    numbered = [np.asarray(ring, dtype=np.int64) for ring in np.split(place.ravel(), ends)]
    if is_convex(points, numbered):
        return Body(key, "buildings", title, points, pairs_of(numbered), ())
    return Body(key, "buildings", title, points, np.zeros((0, 2), dtype=np.int64), tuple(numbered))


def named_roofs(faces: list[Face], title: str) -> list[Face]:
    """Roof faces with names that tell them apart: by direction, then by number."""
    if len(faces) == 1:
        kind = "flat roof" if faces[0].tilt < 0.01 else "roof"
        return [replace(faces[0], name=f"{title}, {kind}")]
    words = [f"{wind(f.azimuth)} pitch{', upper' if f.id.endswith('upper') or '-upper-' in f.id else ''}" for f in faces]
    return [
        replace(face, name=f"{title}, {word}" + (f" {words[:k].count(word) + 1}" if words.count(word) > 1 else ""))
        for k, (face, word) in enumerate(zip(faces, words, strict=True))
    ]


def with_edges(face: Face, all_faces: list[Face], has_parapet: bool) -> Face:
    """A roof face with the kinds of its edges; at a parapet it meets a step."""
    ends = np.roll(face.outline, -1, axis=0)
    lengths = np.linalg.norm(ends - face.outline, axis=1)
    if has_parapet:
        edges = [Edge("step", float(length)) for length in lengths]
    else:
        others = [f for f in all_faces if f.id != face.id]
        normals, origins = (
            np.array(rows).reshape(-1, 3) for rows in ([f.normal for f in others], [f.outline[0] for f in others])
        )
        lowest = face.outline[:, 2].min() + 0.01
        edges = []
        for start, end, length in zip(face.outline, ends, lengths, strict=True):
            middle = (start + end) / 2
            near = [
                [others[k] for k in np.flatnonzero(np.abs(np.einsum("ij,ij->i", point - origins, normals)) < 1e-3)]
                for point in (middle, middle + [0, 0, 0.05])
            ]
            slopes = abs(end[2] - start[2]) > SLOPING * length
            edges.append(
                Edge(_edge_kind(face, near[0], near[1], middle, end - start, slopes, bool(middle[2] <= lowest)), float(length))
            )
    return replace(face, edges=tuple(edges))


def _edge_kind(
    face: Face, at_it: list[Face], over_it: list[Face], middle: Floats, along: Floats, slopes: bool, is_lowest: bool
) -> str:
    """Of an edge, by the faces whose planes pass through its middle and just over it."""
    for other in at_it:
        if other.kind == "roof" and _touches(other, middle):
            if np.cross(face.normal, other.normal) @ along < 0:
                return "valley"
            return "hip" if slopes else "ridge"
    if any(other.kind == "wall" and _touches(other, middle + [0, 0, 0.05]) for other in over_it):
        return "step"
    if face.tilt < 0.01:
        return "eave"
    return "rake" if slopes else "eave" if is_lowest else "ridge"


def _touches(face: Face, point: Floats) -> bool:
    u, v, w = face.frame.into(point)
    if abs(w) > 1e-3:
        return False
    return bool(shapely.Polygon(face.frame.into(face.outline)[:, :2]).distance(shapely.Point(u, v)) < 1e-3)


def face_under(faces: list[Face], x: float, y: float) -> tuple[Face, float] | None:
    """The highest face that looks up at a level position, and its height there."""
    best: tuple[Face, float] | None = None
    for face in faces:
        normal = face.normal
        if normal[2] < 0.02:
            continue
        if shapely.Polygon(face.outline[:, :2]).covers(shapely.Point(x, y)):
            height = face.outline[0, 2] - ((np.array([x, y]) - face.outline[0, :2]) @ normal[:2]) / normal[2]
            if best is None or height > best[1]:
                best = face, float(height)
    return best


def with_hole(face: Face, solid: str, kind: str, footprint: Floats) -> Face:
    """A face with the hole that a level footprint (n, 2) makes in it; as it is where they do not meet."""
    if face.normal[2] < 0.02:
        return face
    meeting = shapely.intersection(shapely.Polygon(face.outline[:, :2]), shapely.Polygon(footprint))
    holes = list(face.holes)
    for part in shapely.get_parts(meeting):
        if isinstance(part, shapely.Polygon) and part.area > 1e-6:
            ring = np.array(part.exterior.coords)[:-1]
            heights = face.outline[0, 2] - ((ring - face.outline[0, :2]) @ face.normal[:2]) / face.normal[2]
            holes.append(Hole(solid, kind, np.column_stack([ring, heights])))
    if len(holes) == len(face.holes):
        return face
    return replace(face, holes=tuple(holes))


def _with_dormer(key: str, title: str, dormer: Dormer, faces: list[Face], place: Place) -> tuple[list[Face], Body | None]:
    x, y = place.out_of(np.array([[dormer.x, dormer.y]]))[0]
    found = face_under(faces, x, y)
    if found is None or found[0].tilt < 3:
        return faces, None
    face, height = found
    out = face.normal[:2] / np.hypot(*face.normal[:2])
    across = np.array([-out[1], out[0]])
    rise = dormer.width / 2 * np.tan(np.radians(dormer.pitch))
    slope = np.tan(np.radians(face.tilt))
    half = dormer.width / 2
    front = np.array([x, y])
    top = height + dormer.height

    def at(side: float, back: float, z: float) -> list[float]:
        level = front + across * side - out * back
        return [level[0], level[1], z]

    eave_back, ridge_back = dormer.height / slope, (dormer.height + rise) / slope
    points = np.array(
        [
            at(-half, 0, height), at(half, 0, height), at(half, 0, top), at(-half, 0, top), at(0, 0, top + rise),
            at(half, eave_back, top), at(-half, eave_back, top), at(0, ridge_back, top + rise),
        ]
    )  # fmt: skip
    pairs = [(0, 1), (1, 2), (2, 4), (4, 3), (3, 0), (2, 5), (3, 6), (4, 7), (5, 7), (6, 7), (1, 5), (0, 6), (5, 6)]
    if rise < 1e-9:
        points[7] = (points[5] + points[6]) / 2
    body = Body(key, "dormers", f"{title}, dormer", points, np.array(pairs, dtype=np.int64), ())
    footprint = shapely.MultiPoint(points[:, :2]).convex_hull
    ring = np.array(footprint.exterior.coords)[:-1]
    return [with_hole(f, key, "dormers", ring) for f in faces], body
