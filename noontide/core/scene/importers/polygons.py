"""Triangles of a mesh joined to the planar faces that they make up."""

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.frame import NO_AREA, area_vectors
from noontide.core.scene.importers.standing import oriented

Floats = NDArray[np.float64]
Rings = list[list[int]]
SAME_PLACE = 1e-4  # m, within which two points are one
SAME_PLANE = 2e-3  # m, that the corners of joined faces may lie off
SAME_WAY = 1 - 1e-6  # cosine between normals of joined faces


def joined(points: Floats, rings: Rings) -> tuple[Floats, Rings]:
    """Points that are one made one, and faces that touch along an edge and lie in one plane made one.

    Their outer side is found first (`oriented`). Faces that would have a hole, or touch themselves in a corner, are left as they are.
    """
    points, rings = welded(points, rings)
    rings = oriented(points, rings)
    vectors = area_vectors(points, rings)
    sizes = np.linalg.norm(vectors, axis=1)
    # Slivers without an area are left out.
    normals = {int(k): vectors[k] / sizes[k] for k in np.flatnonzero(sizes > NO_AREA)}
    owner: dict[tuple[int, int], int] = {}
    for k in normals:
        for a, b in _edges(rings[k]):
            owner.setdefault((a, b), k)
    group = {k: k for k in normals}

    def root(k: int) -> int:
        while group[k] != k:
            group[k] = group[group[k]]
            k = group[k]
        return k

    for (a, b), k in owner.items():
        other = owner.get((b, a))
        if other is None or root(other) == root(k):
            continue
        if normals[k] @ normals[other] < SAME_WAY:
            continue
        if np.abs((points[rings[other]] - points[a]) @ normals[k]).max() <= SAME_PLANE:
            group[root(other)] = root(k)
    members: dict[int, list[int]] = defaultdict(list)
    for k in normals:
        members[root(k)].append(k)
    found: Rings = []
    for some in members.values():
        outline = _outline(points, [rings[k] for k in some]) if len(some) > 1 else None
        found += [outline] if outline is not None else [rings[k] for k in some]
    used = sorted({i for ring in found for i in ring})
    place = {i: n for n, i in enumerate(used)}
    return points[used], [[place[i] for i in ring] for ring in found]


def welded(points: Floats, rings: Rings) -> tuple[Floats, Rings]:
    """Points that are one made one; faces that have less than three are gone."""
    _, first, index = np.unique(np.round(points / SAME_PLACE).astype(np.int64), axis=0, return_index=True, return_inverse=True)
    index = index.ravel()
    found = []
    for ring in rings:
        new = [int(index[i]) for i in ring]
        new = [i for n, i in enumerate(new) if i != new[n - 1]]
        if len(set(new)) >= 3:
            found.append(new)
    return points[first], found


def _edges(ring: list[int]) -> list[tuple[int, int]]:
    return [(ring[k - 1], ring[k]) for k in range(len(ring))]


def _outline(points: Floats, rings: Rings) -> list[int] | None:
    """The one ring around some faces, without corners on straight lines; None where there are several, or one touches itself."""
    inner = {edge for ring in rings for edge in _edges(ring)}
    after: dict[int, int] = {}
    for a, b in inner:
        if (b, a) not in inner:
            if a in after:
                return None
            after[a] = b
    if not after:
        return None
    start = min(after)
    ring, at = [start], after[start]
    while at != start:
        if at not in after or len(ring) > len(after):
            return None
        ring.append(at)
        at = after[at]
    if len(ring) != len(after):
        return None
    corners = points[ring]
    along = np.roll(corners, -1, axis=0) - corners
    along = along / np.linalg.norm(along, axis=1, keepdims=True)
    bends = np.einsum("ij,ij->i", along, np.roll(along, 1, axis=0)) < 1 - 1e-9
    return [i for i, is_corner in zip(ring, bends, strict=True) if is_corner]
