"""What a scene is made of once it is built: faces and bodies, with every normal outward."""

from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.frame import Frame, area_of, azimuth_of, normal_of, tilt_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
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
        mark.update(repr(self.light).encode())
        return mark.hexdigest()
