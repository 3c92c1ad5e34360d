"""Ground for arrays that follows the land: planes of it, as few as stay near to what was measured."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.layout import LEVEL
from noontide.core.design.naming import fresh
from noontide.core.design.standing import kinds_of_objects
from noontide.core.fields import Document, Id
from noontide.core.scene.document import Mesh
from noontide.core.scene.placing import place_of, rectangle
from noontide.core.verbs.outlines import CLEAN, outlined
from noontide.core.verbs.shared import ImpossibleAct

Floats = NDArray[np.float64]
MOST_PARTS = 40  # of a field; a scene keeps a hundred grounds
SMALLEST = 150.0  # m2 of a part that is not parted further
POINTS = 24  # of the land each way over a part, at which its plane is compared
STEEPEST = 45.0  # that a ground may be [°]
LEAST = 0.5  # m2 of a piece that is kept


class FollowLand(Document):
    """A ground, the land that it lies on, and how far its planes may be from it."""

    ground: Id = Field(title="Ground")
    land: Id | None = Field(None, title="Land; the only body from a file that lies under it, where it is left out")
    within: float = Field(0.3, ge=0.02, le=20, title="Distance of its planes from the land, as root mean square [m]")


@dataclass(frozen=True)
class _Part:
    """A piece of a field, and the plane z = a + b x + c y nearest to the land under it."""

    area: shapely.Polygon
    plane: Floats
    off: float  # root mean square [m]


def follow_land(design: Design, given: FollowLand) -> tuple[dict[str, Any], str]:
    """Part a ground into planes that follow the land under it; the land is cut out where they lie.

    The field is halved across its longer side wherever its plane is farther from the land than asked for, until forty planes are reached or
    a piece is small.

    Raises
    ------
    ImpossibleAct
        If there is no such ground or land, modules lie on the ground, the land does not reach under all of it, or is steeper than a ground can be.
    """
    scene = design.scene
    if given.ground not in scene.grounds:
        raise ImpossibleAct(f"The scene has no ground '{given.ground}'.")
    ground = scene.grounds[given.ground]
    title = ground.name or "The ground"
    if any((one.face or "").split("/")[0] == given.ground for one in design.surfaces.values()):
        raise ImpossibleAct(f"Modules lie on {title}. Delete its surface first, and fill it again afterwards.")
    place = place_of(ground, scene)
    area = shapely.Polygon(place.out_of(np.array(ground.outline) if ground.outline else rectangle(ground.length, ground.width)))
    key, land = _land_under(design, area, given.land)
    heights = _Heights(land)
    parts = [_fitted(area, heights, title)]
    while len(parts) < MOST_PARTS:
        rough = [p for p in parts if p.off > given.within and p.area.area > 2 * SMALLEST]
        if not rough:
            break
        worst = max(rough, key=lambda p: p.off**2 * p.area.area)
        parts.remove(worst)
        parts += [_fitted(piece, heights, title) for piece in _halves(worst.area, place.axes)]
    taken = set(kinds_of_objects(design))
    grounds: dict[str, Any] = {given.ground: None}
    like = ground.model_dump(mode="json", exclude_unset=True)
    kept = {name: like[name] for name in ("is_hidden", "is_locked") if name in like}
    for number, part in enumerate(sorted(parts, key=lambda p: (round(-p.area.centroid.y, 1), p.area.centroid.x)), start=1):
        name = fresh(given.ground.rstrip("0123456789").rstrip("-") or "field", taken)
        taken.add(name)
        numbered = f"{title} {number}" if len(parts) > 1 else title
        grounds[name] = kept | {"name": numbered[:80], "group": f"group-{given.ground}"[:40].rstrip("-")} | _as_ground(part)
    if sum(value is not None for value in grounds.values()) + len(scene.grounds) - 1 > 100:
        raise ImpossibleAct("The scene would have more than 100 grounds. Let the planes be farther from the land.")
    left = _cut_out(land, area)
    patch = {"scene": {"grounds": grounds, "meshes": {key: left}}}
    off = float(np.sqrt(sum(p.off**2 * p.area.area for p in parts) / sum(p.area.area for p in parts)))
    steep = sum(bool(np.hypot(*p.plane[1:]) > np.tan(np.radians(LEVEL))) for p in parts)
    hint = f" {steep} of them {'is' if steep == 1 else 'are'} steeper than {LEVEL:g}°, where no racks stand." if steep else ""
    return (
        patch,
        f"{title} follows the land in {len(parts)} plane{'s' * (len(parts) != 1)}, {off:.2f} m from it as root mean square.{hint}",
    )


class _Heights:
    """The land from above: its triangles, found by place."""

    def __init__(self, land: Mesh):
        base = land.base or 0.0
        points = np.array(land.points, dtype=float) + [land.x, land.y, base]
        self.triangles = points[np.array(_triangles_of(land))]
        flat = shapely.polygons(self.triangles[:, :, :2])
        self.tree = shapely.STRtree(flat)

    def at(self, places: Floats) -> Floats:
        """Height of the uppermost triangle over each place (n, 2); NaN where there is none [m]."""
        found = np.full(len(places), -np.inf)
        index, triangle = self.tree.query(shapely.points(places), predicate="intersects")
        corners = self.triangles[triangle]
        normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        is_level = np.abs(normal[:, 2]) > 1e-9
        off = places[index] - corners[:, 0, :2]
        slope = np.divide((normal[:, :2] * off).sum(axis=1), normal[:, 2], out=np.zeros(len(off)), where=is_level)
        height = np.where(is_level, corners[:, 0, 2] - slope, corners[:, :, 2].max(axis=1))
        np.maximum.at(found, index, height)
        return np.where(np.isfinite(found), found, np.nan)


def _land_under(design: Design, area: shapely.Polygon, key: str | None) -> tuple[str, Mesh]:
    meshes = design.scene.meshes
    if key is not None:
        if key not in meshes:
            raise ImpossibleAct(f"The scene has no body '{key}'.")
        return key, meshes[key]
    under = [name for name, mesh in meshes.items() if not shapely.disjoint(_box(mesh), area)]
    if not under:
        raise ImpossibleAct("There is no land under it. Drop a grid of heights of the place onto the Scene first.")
    return (name := max(under, key=lambda name: _box(meshes[name]).area)), meshes[name]


def _box(mesh: Mesh) -> shapely.Polygon:
    points = np.array(mesh.points, dtype=float)[:, :2] + [mesh.x, mesh.y]
    return shapely.box(*points.min(axis=0), *points.max(axis=0))


def _fitted(area: shapely.Polygon, heights: _Heights, title: str) -> _Part:
    """The plane nearest to the land under a piece, by least squares over an even grid."""
    west, south, east, north = area.bounds
    steps = (np.arange(POINTS) + 0.5) / POINTS
    x, y = np.meshgrid(west + steps * (east - west), south + steps * (north - south))
    places = np.column_stack([x.ravel(), y.ravel()])
    places = np.concatenate([places[shapely.contains_xy(area, places)], np.array(area.exterior.coords)[:-1]])
    z = heights.at(places)
    if np.isnan(z).any():
        raise ImpossibleAct(
            f"The land does not reach under all of {title}. Make the ground smaller, or take a larger grid of heights."
        )
    terms = np.column_stack([np.ones(len(places)), places - places.mean(axis=0)])
    found, *_ = np.linalg.lstsq(terms, z, rcond=None)
    steep = float(np.degrees(np.arctan(np.hypot(*found[1:]))))
    if steep > STEEPEST:
        raise ImpossibleAct(f"The land under {title} rises by {steep:.0f}°; a ground for arrays may have {STEEPEST:g}°.")
    plane = np.array([found[0] - found[1:] @ places.mean(axis=0), *found[1:]])
    return _Part(area, plane, float(np.sqrt(np.mean((z - terms @ found) ** 2))))


def _halves(area: shapely.Polygon, axes: Floats) -> list[shapely.Polygon]:
    """The two halves across the longer side in the field's own directions; an outline that turns inward may give more pieces."""
    corners = np.array(area.exterior.coords) @ axes.T
    low, high = corners.min(axis=0), corners.max(axis=0)
    across = int(np.argmax(high - low))
    middle = (low[across] + high[across]) / 2
    pieces = []
    for one, other in ((low[across] - 1, middle), (middle, high[across] + 1)):
        bounds = np.array([low - 1, high + 1])
        bounds[:, across] = one, other
        (a, b), (c, d) = bounds
        cut = shapely.Polygon(np.array([[a, b], [c, b], [c, d], [a, d]]) @ axes)
        pieces += [p for p in shapely.get_parts(area.intersection(cut)) if isinstance(p, shapely.Polygon) and p.area > LEAST]
    return pieces


def _as_ground(part: _Part) -> dict[str, Any]:
    """A piece as the document keeps it: its front looks down its slope, its foot is its lowest place."""
    _, b, c = part.plane
    azimuth = float(np.degrees(np.arctan2(-b, -c)) % 360) if np.hypot(b, c) > 1e-6 else 180.0
    corners = np.array(shapely.remove_repeated_points(part.area, 2 * 10.0**-CLEAN).exterior.coords)[:-1]
    if not shapely.LinearRing(corners).is_ccw:
        corners = corners[::-1]
    lowest = float((part.plane[0] + corners @ part.plane[1:]).min())
    slope = float(np.degrees(np.arctan(np.hypot(b, c))))
    return outlined(corners, azimuth) | {"slope": round(slope, 4), "base": round(lowest, CLEAN)}


def _triangles_of(land: Mesh) -> list[tuple[int, int, int]]:
    """Its faces as triangles, by the numbers of their points."""
    return [(face[0], face[k], face[k + 1]) for face in land.faces for k in range(1, len(face) - 1)]


def _cut_out(land: Mesh, area: shapely.Polygon) -> dict[str, Any] | None:
    """The land without what lies under an area, as values of its mesh; None where nothing of it is left."""
    points = [tuple(p) for p in land.points]
    index = {point: k for k, point in enumerate(points)}
    hole = shapely.affinity.translate(area, -land.x, -land.y)
    shapely.prepare(hole)
    faces: list[tuple[int, ...]] = []
    for ring in _triangles_of(land):
        flat = shapely.Polygon([points[i][:2] for i in ring])
        if flat.area < 1e-9 or hole.disjoint(flat):
            faces.append(ring)
            continue
        for piece in shapely.get_parts(shapely.constrained_delaunay_triangles(flat.difference(hole))):
            if piece.area > 1e-4:
                corners = np.array(piece.exterior.coords)[:-1]
                faces.append(tuple(_numbered(corners, [points[i] for i in ring], points, index)))
    if not faces:
        return None
    used = sorted({i for face in faces for i in face})
    number = {i: k for k, i in enumerate(used)}
    return {
        "points": [list(points[i]) for i in used],
        "faces": [[number[i] for i in face] for face in faces],
    }


def _numbered(corners: Floats, triangle: list[tuple[float, ...]], points: list[tuple[float, ...]], index: dict) -> list[int]:
    """Numbers of corners that lie in the plane of a triangle, added to the points where they are new."""
    a, b, c = np.array(triangle, dtype=float)
    inverse = np.linalg.inv(np.column_stack([b[:2] - a[:2], c[:2] - a[:2]]))
    found = []
    for corner in corners:
        s, t = inverse @ (corner - a[:2])
        point = tuple((a + s * (b - a) + t * (c - a)).round(CLEAN).tolist())
        if point not in index:
            index[point] = len(points)
            points.append(point)
        found.append(index[point])
    return list(dict.fromkeys(found)) if len(set(found)) == 3 else found
