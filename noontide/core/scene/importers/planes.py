"""Planes found among points made roofs: edges straightened, ridges where planes meet, and walls down to the ground."""

import itertools
from typing import Any

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray
from scipy.spatial import Delaunay

Floats = NDArray[np.float64]
MEET = 0.7  # m in plan, within which an edge belongs to the line where two planes cross
SAME_CORNER = 0.5  # m in plan, within which corners of planes that meet are one
PARALLEL = 0.02  # difference of slope, below which two planes do not cross near
RECTANGULAR = 0.93  # of a rectangle that a hull fills, from which its corners are the rectangle's
STRAIGHT = 0.3  # m, that an outline may lose of its bends
BRIDGED = 3.0  # spacings of points, over which a gap between them is closed
HOLLOW = 0.1  # of the convex hull without points, from which the outline is not convex
RAGGED = 0.25  # spacings along the hull's edge, that are without points anyway
MOST_CORNERS = 60


def outline_of(piece: Floats, centre: Floats, normal: Floats, smallest: float) -> Floats | None:
    """Corners (n, 3) of the points on their plane, as few as keep its shape, counterclockwise from above; None where they have no area.

    Points lie up to their spacing inside the edge of what was measured, half of it in the mean: the outline is that much wider.
    """
    axes = _level_axes(normal)
    flat = (piece - centre) @ axes.T
    hull = shapely.MultiPoint(flat).convex_hull
    if not isinstance(hull, shapely.Polygon) or hull.area < smallest:
        return None
    spacing = float(np.sqrt(hull.area / len(piece)))
    filled = _filled(flat, BRIDGED * spacing)
    if filled is None or filled.area < smallest:
        return None
    is_hollow = hull.area - filled.area > HOLLOW * hull.area + RAGGED * spacing * hull.length
    outline = shapely.Polygon(filled.exterior) if is_hollow else hull
    outline = outline.simplify(spacing / 4).buffer(spacing / 2, join_style="mitre")
    box = outline.minimum_rotated_rectangle
    if outline.area >= RECTANGULAR * box.area:
        # The hull of noisy points touches the rectangle in its farthest ones only: as large as the hull, at the same place.
        share = float(np.sqrt(outline.area / box.area))
        outline = shapely.affinity.scale(box, share, share, origin="centroid")
    else:
        outline = outline.simplify(max(STRAIGHT, spacing))
    corners = np.array(outline.exterior.coords)[:-1] if isinstance(outline, shapely.Polygon) else np.zeros((0, 2))
    if not 3 <= len(corners) <= MOST_CORNERS:
        corners = np.array(box.exterior.coords)[:-1]
    found = centre + corners @ axes
    return found if shapely.is_ccw(shapely.LinearRing(found[:, :2])) else found[::-1]


def _filled(flat: Floats, bridged: float) -> shapely.Polygon | None:
    """What lies between points that are near one another: the triangles among them with a circumradius below `bridged`.

    References
    ----------
    Edelsbrunner, Kirkpatrick and Seidel (1983), IEEE Trans. Information Theory 29, 551-559 (alpha shapes).
    """
    corners = flat[Delaunay(flat).simplices]
    a, b, c = (np.linalg.norm(corners[:, i] - corners[:, j], axis=1) for i, j in ((0, 1), (1, 2), (2, 0)))
    one, other = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    area = np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]) / 2
    radius = a * b * c / np.maximum(4 * area, 1e-12)
    shape = shapely.union_all(shapely.polygons(corners[radius < bridged]))
    polygons = [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon) and not part.is_empty]
    return max(polygons, key=lambda part: part.area, default=None)


def _level_axes(normal: Floats) -> Floats:
    """Two directions on a plane, the first level, (2, 3)."""
    level = np.array([-normal[1], normal[0], 0.0])
    level = level / np.linalg.norm(level) if np.linalg.norm(level) > 1e-9 else np.array([1.0, 0.0, 0.0])
    return np.stack([level, np.cross(normal, level)])


def meeting(outlines: list[Floats]) -> tuple[list[Floats], list[int]]:
    """Outlines whose edges near the crossing of two planes lie on it, and the group of planes that each belongs to."""
    slopes = [_slope(outline) for outline in outlines]
    plans = [shapely.Polygon(outline[:, :2]).buffer(0) for outline in outlines]
    lines: list[list[list[tuple[Floats, float, int]]]] = [[[] for _ in outline] for outline in outlines]
    group = list(range(len(outlines)))
    for i in range(len(outlines)):
        for j in range(len(outlines)):
            if i == j or shapely.distance(plans[i], plans[j]) > 2 * MEET:
                continue
            way = slopes[i][:2] - slopes[j][:2]
            steep = float(np.hypot(*way))
            if steep < PARALLEL:
                continue
            way, at = way / steep, float(slopes[j][2] - slopes[i][2]) / steep
            for k, corner in enumerate(outlines[i][:, :2]):
                foot = corner + (at - float(way @ corner)) * way
                if np.hypot(*(foot - corner)) <= MEET and shapely.distance(plans[j], shapely.Point(foot)) <= MEET:
                    lines[i][k].append((way, at, j))
    placed = [
        np.array([_on_lines(c, found) for c, found in zip(o[:, :2], lines[i], strict=True)]) for i, o in enumerate(outlines)
    ]
    for i, some in enumerate(lines):
        for k, found in enumerate(some):
            for _, _, j in found:
                gaps = np.hypot(*(placed[j] - placed[i][k]).T)
                near = int(gaps.argmin())
                if gaps[near] <= SAME_CORNER and any(other == i for _, _, other in lines[j][near]):
                    placed[i][k] = placed[j][near] = (placed[i][k] + placed[j][near]) / 2
                    low, high = sorted((group[i], group[j]))
                    group = [low if g == high else g for g in group]
    return [np.column_stack([plan, plan @ s[:2] + s[2]]) for plan, s in zip(placed, slopes, strict=True)], group


def _slope(outline: Floats) -> Floats:
    """z = a x + b y + c through the corners of an outline: a, b, c."""
    return np.linalg.lstsq(np.column_stack([outline[:, :2], np.ones(len(outline))]), outline[:, 2], rcond=None)[0]


def _on_lines(corner: Floats, lines: list[tuple[Floats, float, int]]) -> Floats:
    """A corner put on the line it is near, or on the crossing of two."""
    if not lines:
        return corner
    feet = [corner + (at - float(way @ corner)) * way for way, at, _ in lines]
    for (one, a, _), (other, b, _) in itertools.pairwise(lines):
        if abs(one[0] * other[1] - one[1] * other[0]) > 0.1:
            crossing = np.linalg.solve(np.array([one, other]), np.array([a, b]))
            if np.hypot(*(crossing - corner)) <= 2 * MEET:
                return crossing
    return min(feet, key=lambda foot: float(np.hypot(*(foot - corner))))


def scene_of(planes: list[dict[str, Any]]) -> dict[str, Any]:
    """Planes that meet as one body with walls down to the ground at 0; every plane is a face that can carry modules."""
    outlines, group = meeting([plane["outline"] for plane in planes])
    meshes = {}
    for number, name in enumerate(dict.fromkeys(group), start=1):
        members = [k for k, one in enumerate(group) if one == name]
        points, faces = _body([outlines[k] for k in members])
        count = sum(planes[k]["points"] for k in members)
        off = np.average([planes[k]["residual"] for k in members], weights=[planes[k]["points"] for k in members])
        meshes[f"roof-{number}"] = {
            "name": f"Roof {number}", "source": f"{count} points, {off * 1000:.0f} mm from the planes on average",
            "points": points.round(3).tolist(), "faces": faces,
        }  # fmt: skip
    return {"meshes": meshes}


def _body(outlines: list[Floats]) -> tuple[Floats, list[list[int]]]:
    """Points and faces of roofs, their walls and their floor."""
    place: dict[tuple[float, float, float], int] = {}

    def index(point: Floats) -> int:
        return place.setdefault(tuple(np.round(point, 3).tolist()), len(place))

    rings = [[index(corner) for corner in outline] for outline in outlines]
    rings = [ring for ring in ([i for n, i in enumerate(ring) if i != ring[n - 1]] for ring in rings) if len(set(ring)) >= 3]
    points = list(place)
    edges = {edge for ring in rings for edge in zip(ring, ring[1:] + ring[:1], strict=True)}
    foot = {i: index(np.array([points[i][0], points[i][1], 0.0])) for ring in rings for i in ring}
    walls = [[foot[a], foot[b], b, a] for a, b in sorted(edges) if (b, a) not in edges and foot[a] != a and foot[b] != b]
    floors = [[foot[i] for i in reversed(ring)] for ring in rings]
    return np.array(list(place)), rings + walls + floors
