"""Directions of planes, and a plane's own coordinates."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import chain

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
NO_AREA = 5e-13  # of a face whose corners lie on one line [m2]
LEVEL = 0.01  # tilt below which a plane has no azimuth of its own [°]


def normal_of(outline: Floats) -> Floats:
    """Unit normal of a planar polygon (n, 3), counterclockwise as seen from its tip; the length before is twice the area (Newell).

    Raises
    ------
    ValueError
        If the polygon has no area.
    """
    vector = area_vector(outline)
    area = float(np.linalg.norm(vector))
    if not area > NO_AREA:
        raise ValueError("a face needs an area: its corners lie on one line")
    return vector / area


def area_of(outline: Floats) -> float:
    """Of a planar polygon (n, 3) [m2]."""
    return float(np.linalg.norm(area_vector(outline)))


def area_vector(outline: Floats) -> Floats:
    """The normal of a polygon (n, 3), as long as its area [m2] (Newell); zero where its corners lie on one line."""
    centred = outline - outline.mean(axis=0)
    return np.asarray(np.sum(np.cross(centred, np.roll(centred, -1, axis=0)), axis=0) / 2)


def area_vectors(points: Floats, rings: Sequence[Sequence[int]]) -> Floats:
    """`area_vector` of many polygons, each a ring of places in `points` (n, 3), (rings, 3)."""
    if not rings:
        return np.zeros((0, 3))
    sizes = np.array([len(ring) for ring in rings])
    starts = np.cumsum(sizes) - sizes
    at = np.fromiter(chain.from_iterable(rings), dtype=np.int64, count=int(sizes.sum()))
    following = np.arange(1, at.size + 1)
    following[starts + sizes - 1] = starts
    own = points[at]
    own = own - np.repeat(np.add.reduceat(own, starts) / sizes[:, np.newaxis], sizes, axis=0)
    return np.asarray(np.add.reduceat(np.cross(own, own[following]), starts) / 2)


def tilt_of(normal: Floats) -> float:
    """Of a plane from the horizontal [°], 0 to 180."""
    return float(np.degrees(np.arctan2(np.hypot(normal[0], normal[1]), normal[2])))


def azimuth_of(normal: Floats) -> float:
    """Direction that a plane faces, clockwise from north [°]; 180 where it is level."""
    if tilt_of(normal) < LEVEL:
        return 180.0
    azimuth = float(np.degrees(np.arctan2(normal[0], normal[1])) % 360)
    return 0.0 if azimuth > 360 - 1e-9 else azimuth


@dataclass(frozen=True, eq=False)
class Frame:
    """A plane's own coordinates: u along its level lines, to the right for someone who looks up the slope; v up the slope; w out of it."""

    origin: Floats  # (3,)
    normal: Floats  # (3,)
    level_azimuth: float = 180.0  # that u and v follow where the plane is level [°]
    is_turned: bool = False  # whether they follow it on a sloping plane too

    @cached_property
    def axes(self) -> Floats:
        """u, v and w as rows, (3, 3)."""
        if self.is_turned or np.hypot(self.normal[0], self.normal[1]) < 1e-4:
            turn = np.radians(self.level_azimuth)
            up = np.array([-np.sin(turn), -np.cos(turn), 0.0])
        else:
            up = np.array([0.0, 0.0, 1.0]) - self.normal * self.normal[2]
        v = up - self.normal * (up @ self.normal)
        v /= np.linalg.norm(v)
        return np.stack([np.cross(v, self.normal), v, self.normal])

    def into(self, points: Floats) -> Floats:
        """Points of space in the plane's coordinates, (..., 3)."""
        return (points - self.origin) @ self.axes.T

    def out_of(self, points: Floats) -> Floats:
        """Points (..., 2) or (..., 3) of the plane's coordinates in space."""
        return self.origin + points @ self.axes[: points.shape[-1]]
