"""What a scene is made of once it is built: faces and bodies, with every normal outward."""

from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.frame import Frame, area_of, azimuth_of, normal_of, tilt_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ROUND = 1.5e-3  # that a polygon may lie beside the circle that it stands for [m]
FEWEST_CORNERS, MOST_CORNERS = 16, 128
OPAQUE = (0.0,) * 12


@dataclass(frozen=True)
class Edge:
    """An edge of a face, from corner to corner in the face's own order."""

    kind: str  # eave, ridge, hip, valley, rake, step, side
    length: float  # [m]


@dataclass(frozen=True, eq=False)
class Hole:
    """What stands on a face, and must not be covered."""

    solid: str
    kind: str  # of the thing: chimneys, pipes, skylights, dormers, ...
    outline: Floats  # on the face (n, 3)


@dataclass(frozen=True, eq=False)
class Face:
    """A planar face, counterclockwise as seen from outside."""

    id: str
    solid: str  # id of what it belongs to
    kind: str  # roof, wall, top, side, ground, mesh
    name: str
    outline: Floats  # (n, 3) [m]
    holes: tuple[Hole, ...] = ()
    edges: tuple[Edge, ...] = ()
    level_azimuth: float = 180.0  # that its rows follow where it is level [°]

    @cached_property
    def normal(self) -> Floats:
        return normal_of(self.outline)

    @property
    def tilt(self) -> float:
        """From the horizontal [°]."""
        return tilt_of(self.normal)

    @property
    def azimuth(self) -> float:
        """Direction that it faces, clockwise from north [°]."""
        return self.level_azimuth if self.tilt < 0.01 else azimuth_of(self.normal)

    @property
    def area(self) -> float:
        """Without what stands on it [m2]."""
        return area_of(self.outline) - sum(area_of(hole.outline) for hole in self.holes)

    @cached_property
    def frame(self) -> Frame:
        """Its own coordinates, from the lowest corner on the left."""
        loose = Frame(self.outline[0], self.normal, self.level_azimuth)
        low = loose.into(self.outline).min(axis=0)
        return Frame(loose.out_of(np.array([low[0], low[1], 0.0])), self.normal, self.level_azimuth)


def circle(diameter: float, corners: int) -> Floats:
    """A regular polygon of a circle's area, (corners, 2)."""
    turn = 2 * np.pi * (np.arange(corners) + 0.5) / corners
    radius = diameter / 2 * np.sqrt(2 * np.pi / corners / np.sin(2 * np.pi / corners))
    return radius * np.column_stack([np.cos(turn), np.sin(turn)])


def corners_of(radius: float) -> int:
    """Corners that a circle of a radius [m] needs: its polygon of the same area lies up to radius π² / 3n² beside it."""
    return int(np.clip(4 * np.ceil(np.pi * np.sqrt(radius / (3 * ROUND)) / 4), FEWEST_CORNERS, MOST_CORNERS))


def lofted(sections: list[tuple[Floats, float | Floats]]) -> tuple[Floats, Ints]:
    """Points and edges of the convex body through sections that have as many corners each, from below upward."""
    count = len(sections[0][0])
    points = np.concatenate([np.column_stack([outline, np.broadcast_to(height, count)]) for outline, height in sections])
    own, after = np.arange(count), np.roll(np.arange(count), -1)
    pairs = []
    for k in range(len(sections)):
        pairs.append(np.column_stack([own, after]) + k * count)
        if k:
            pairs.append(np.column_stack([own + (k - 1) * count, own + k * count]))
    return points, np.concatenate(pairs)


@dataclass(frozen=True, eq=False)
class Body:
    """What casts shade: the hull of some points, or faces of its own."""

    id: str
    kind: str
    name: str
    points: Floats  # (n, 3)
    edges: Ints  # of the hull, pairs of points (m, 2); empty where the body is not convex
    rings: tuple[Ints, ...]  # faces of a body that is not convex, by the numbers of its points
    light: tuple[float, ...] = OPAQUE  # share of the light that gets through by month, (12,)
    # What is round casts as it is, whatever polygons it is drawn with:
    discs: Floats | None = None  # level circles whose hull it is, from below upward: x, y, z, radius (discs, 4)
    ellipsoid: Floats | None = None  # x, y, z of its middle, level and upright semi-axis (5,)

    @cached_property
    def casting(self) -> tuple[Floats, Ints]:
        """Points and edges of what casts: the body's own, or those of its discs with as many corners as they need."""
        if self.discs is None:
            return self.points, self.edges
        corners = corners_of(float(self.discs[:, 3].max()))
        rings = [circle(2 * radius, corners) + [x, y] for x, y, _, radius in self.discs.tolist()]
        return lofted([(ring, z) for ring, z in zip(rings, self.discs[:, 2].tolist(), strict=True)])

    @property
    def is_convex(self) -> bool:
        return self.edges.size > 0

    @cached_property
    def fingerprint(self) -> str:
        """Hash of its shape and of the light that it lets through."""
        mark = blake2b(np.ascontiguousarray(self.points).tobytes(), digest_size=16)
        mark.update(self.edges.tobytes())
        for ring in self.rings:
            mark.update(ring.tobytes() + b"|")
        for round_one in (self.discs, self.ellipsoid):
            if round_one is not None:
                mark.update(round_one.tobytes())
        mark.update(repr(self.light).encode())
        return mark.hexdigest()
