"""Bodies from outlines: prisms, cones, crowns of trees."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.document import Tree
from noontide.core.scene.placing import circle
from noontide.core.scene.solids import OPAQUE, Body

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
CORNERS = 16  # of what is round
RINGS = 9  # of a crown, from its foot to its top


def prism(id: str, kind: str, name: str, outline: Floats, low: float, high: float, light: tuple[float, ...] = OPAQUE) -> Body:
    """The body over a convex outline (n, 2) between two heights."""
    return loft(id, kind, name, [(outline, low), (outline, high)], light)


def loft(id: str, kind: str, name: str, sections: list[tuple[Floats, float | Floats]], light: tuple[float, ...] = OPAQUE) -> Body:
    """The convex body through sections that have as many corners each, from below upward."""
    count = len(sections[0][0])
    points = np.concatenate([np.column_stack([outline, np.broadcast_to(height, count)]) for outline, height in sections])
    own, after = np.arange(count), np.roll(np.arange(count), -1)
    pairs = []
    for k in range(len(sections)):
        pairs.append(np.column_stack([own, after]) + k * count)
        if k:
            pairs.append(np.column_stack([own + (k - 1) * count, own + k * count]))
    return Body(id, kind, name, points, np.concatenate(pairs), (), light)


def crown(id: str, tree: Tree, name: str, x: float, y: float, foot: float, years: float) -> list[Body]:
    """Trunk and crown of a tree after some years of growth; it keeps its shape."""
    grown = (tree.height + tree.growth * years) / tree.height
    height, diameter = tree.height * grown, tree.diameter * grown
    bottom = min(tree.trunk * grown, height * 0.95)
    at = np.array([x, y])
    rim = circle(1.0, CORNERS)
    match tree.crown:
        case "cone":
            sections = [(rim * diameter, bottom), (rim * diameter * 1e-3, height)]
        case "cylinder":
            sections = [(rim * diameter, bottom), (rim * diameter, height)]
        case _:
            if tree.crown == "sphere":
                bottom = max(height - diameter, 0.0)
            # Rings at the middles of equal angles, so that the body is as wide as the crown on average.
            rise = np.radians(np.linspace(-90, 90, RINGS))
            scale = np.sqrt(np.pi / 4 / (0.25 * np.sin(np.pi / (RINGS - 1)) * (RINGS - 1)))
            middle, half = (bottom + height) / 2, (height - bottom) / 2
            sections = [
                (rim * diameter * max(np.cos(r), 1e-3) * scale, middle + half * np.sin(r) * min(scale, 1.02)) for r in rise
            ]
    bodies = [loft(id, "trees", name, [(at + ring, foot + float(z)) for ring, z in sections], tree.light)]
    if bottom > 0.05:
        stem = at + circle(tree.trunk_diameter * grown, 8)
        bodies.append(prism(id, "trees", name, stem, foot, foot + bottom))
    return bodies


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
