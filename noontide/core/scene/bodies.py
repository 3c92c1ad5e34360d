"""Bodies from outlines: prisms, cones, crowns of trees."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.document import Tree
from noontide.core.scene.solids import OPAQUE, Body, circle, lofted

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
CORNERS = 16  # of what is round
RINGS = 9  # of a crown, from its foot to its top


def prism(id: str, kind: str, name: str, outline: Floats, low: float, high: float, light: tuple[float, ...] = OPAQUE) -> Body:
    """The body over a convex outline (n, 2) between two heights."""
    return loft(id, kind, name, [(outline, low), (outline, high)], light)


def loft(id: str, kind: str, name: str, sections: list[tuple[Floats, float | Floats]], light: tuple[float, ...] = OPAQUE) -> Body:
    """The convex body through sections that have as many corners each, from below upward."""
    points, edges = lofted(sections)
    return Body(id, kind, name, points, edges, (), light)


def turned(
    id: str, kind: str, name: str, at: Floats, rings: list[tuple[float, float]], light: tuple[float, ...] = OPAQUE
) -> Body:
    """The convex body of revolution through level circles over a point (2,), each with its diameter and height, from below upward."""
    points, edges = lofted([(circle(diameter, CORNERS) + at, height) for diameter, height in rings])
    discs = np.array([[at[0], at[1], height, diameter / 2] for diameter, height in rings])
    return Body(id, kind, name, points, edges, (), light, discs=discs)


def crown(id: str, tree: Tree, name: str, x: float, y: float, foot: float, years: float, is_southern: bool = False) -> list[Body]:
    """Trunk and crown of a tree after some years of growth; it keeps its shape."""
    grown = (tree.height + tree.growth * years) / tree.height
    height, diameter = tree.height * grown, tree.diameter * grown
    bottom = min(tree.trunk * grown, height * 0.95)
    at, light = np.array([x, y]), tree.light(is_southern)
    match tree.crown:
        case "cone":
            whole = turned(id, "trees", name, at, [(diameter, foot + bottom), (diameter * 1e-3, foot + height)], light)
        case "cylinder":
            whole = turned(id, "trees", name, at, [(diameter, foot + bottom), (diameter, foot + height)], light)
        case _:
            if tree.crown == "sphere":
                bottom = max(height - diameter, 0.0)
            middle, half = foot + (bottom + height) / 2, (height - bottom) / 2
            rise = np.radians(np.linspace(-90, 90, RINGS))
            rings = [(circle(diameter * max(np.cos(r), 1e-3), CORNERS) + at, middle + half * np.sin(r)) for r in rise.tolist()]
            points, edges = lofted(rings)
            round_one = np.array([x, y, middle, diameter / 2, half])
            whole = Body(id, "trees", name, points, edges, (), light, ellipsoid=round_one)
    if bottom <= 0.05:
        return [whole]
    stem = tree.trunk_diameter * grown
    return [whole, turned(id, "trees", name, at, [(stem, foot), (stem, foot + bottom)])]


def is_convex(points: Floats, rings: list[Ints]) -> bool:
    """Whether a closed body lies behind every one of its faces."""
    size = float(np.ptp(points, axis=0).max())
    for ring in rings:
        corners = points[ring]
        centred = corners - corners.mean(axis=0)
        normal = np.sum(np.cross(centred, np.roll(centred, -1, axis=0)), axis=0)
        length = np.linalg.norm(normal)
        if length > 1e-12 and np.max((points - corners[0]) @ normal) > 1e-6 * size * length:
            return False
    return True


def pairs_of(rings: list[Ints]) -> Ints:
    """Every edge of some faces once, (m, 2)."""
    return np.unique(np.sort(np.concatenate([np.column_stack([r, np.roll(r, -1)]) for r in rings]), axis=1), axis=0)
