"""Which way a model stands, and which side of its faces is outside."""

from collections import defaultdict
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.frame import area_vectors

Floats = NDArray[np.float64]
Rings = list[list[int]]
Axis = Literal["y", "z"]
TORN = 0.01  # of the area, that the normals of a body may sum to which is closed but for its seams
AT_THE_FOOT = 0.02  # of the height: a face that reaches lower is a floor, no overhang
OVERHANGING = -0.05  # of a normal's upward part
AS_MUCH = 0.01  # of all the area, under which overhangs do not tell one axis from the other
FLATTER = 0.9  # of two extents; a model is wider than it is high, where nothing else tells


def turned_up(points: Floats) -> Floats:
    """Points (n, 3) of a model whose y axis points up, with z up."""
    return points[:, [0, 2, 1]] * [1, -1, 1]


def up_axis(points: Floats, rings: Rings) -> Axis:
    """The axis that points up, y or z, of a file whose format does not say.

    A building overhangs nowhere; laid on its side, half of its roof does. Where neither way overhangs, what starts at 0 stands there,
    and where both do or none, the flatter one.
    """
    standing: dict[Axis, Floats] = {"z": points, "y": turned_up(points)}
    over = {axis: _overhang(some, oriented(some, rings)) for axis, some in standing.items()}
    total = float(np.linalg.norm(area_vectors(points, rings), axis=1).sum())
    if abs(over["z"] - over["y"]) > AS_MUCH * total:
        return min(over, key=lambda axis: over[axis])
    height = {axis: float(np.ptp(some[:, 2])) for axis, some in standing.items()}
    on_ground = [axis for axis, some in standing.items() if abs(some[:, 2].min()) <= AT_THE_FOOT * height[axis]]
    if len(on_ground) == 1:
        return on_ground[0]
    return "y" if height["y"] < FLATTER * height["z"] else "z"


def oriented(points: Floats, rings: Rings) -> Rings:
    """Faces wound counterclockwise as seen from outside.

    Faces that share an edge are made to run along it in opposite directions; what is closed has a positive volume then, and what is open
    looks up rather than down. An open sheet that stands upright keeps the side it has.
    """
    beside: dict[tuple[int, int], list[tuple[int, bool]]] = defaultdict(list)
    for k, ring in enumerate(rings):
        for a, b in zip(ring, ring[1:] + ring[:1], strict=True):
            beside[min(a, b), max(a, b)].append((k, a < b))
    links: dict[int, list[tuple[int, bool]]] = defaultdict(list)
    is_open: dict[int, bool] = defaultdict(bool)
    for sides in beside.values():
        if len(sides) == 2:
            (one, way), (other, back) = sides
            links[one].append((other, way == back))
            links[other].append((one, way == back))
        else:
            for k, _ in sides:
                is_open[k] = True
    found = [list(ring) for ring in rings]
    vectors, middles = area_vectors(points, rings), np.array([points[ring].mean(axis=0) for ring in rings])
    seen: set[int] = set()
    for first in range(len(rings)):
        if first in seen:
            continue
        members, left = [first], [first]
        seen.add(first)
        turned = {first: False}
        while left:
            k = left.pop()
            for other, is_against in links[k]:
                if other in seen:
                    continue
                seen.add(other)
                turned[other] = turned[k] != is_against
                members.append(other)
                left.append(other)
        for k in members:
            if turned[k]:
                found[k] = found[k][::-1]
        signs = np.array([-1.0 if turned[k] else 1.0 for k in members])[:, np.newaxis]
        centre = points[[i for k in members for i in found[k]]].mean(axis=0)
        if _looks_inward(signs * vectors[members], middles[members] - centre, any(is_open[k] for k in members)):
            for k in members:
                found[k] = found[k][::-1]
    return found


def _looks_inward(vectors: Floats, middles: Floats, is_open: bool) -> bool:
    """Of a body with the area vectors of its faces, and where they lie about its centre, both (faces, 3)."""
    # The normals of a closed body sum to nothing, also where its seams are torn by rounding.
    if not is_open or float(np.linalg.norm(vectors.sum(axis=0))) < TORN * float(np.abs(vectors).sum()):
        return float((vectors * middles).sum()) < 0
    return float(vectors[:, 2].sum()) < -1e-6 * float(np.abs(vectors).sum())


def _overhang(points: Floats, rings: Rings) -> float:
    """Area of the faces that look down and are no floor [m2]."""
    low, high = float(points[:, 2].min()), float(points[:, 2].max())
    vectors = area_vectors(points, rings)
    sizes = np.linalg.norm(vectors, axis=1)
    down = np.divide(vectors[:, 2], sizes, out=np.zeros(sizes.size), where=sizes > 0) < OVERHANGING
    highest = np.array([points[ring, 2].max() for ring in rings])
    return float(sizes[down & (highest > low + AT_THE_FOOT * (high - low))].sum())
