"""Roofs over any outline, every edge with its own pitch: the weighted straight skeleton, found by letting the eaves move inward.

All edges of the outline rise together. An edge of pitch p moves inward by 1 / tan p for each metre of height; an edge of 90 degrees
stands still and becomes a gable. What an edge passes over is its face. Where an edge shrinks to nothing it drops out, and where
a corner that points inward meets an edge the outline falls in two; between such events every corner moves in a straight line.
"""

from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

Floats = NDArray[np.float64]
VERTICAL = 89.9  # pitch from which an edge is a gable [°]
EVENT = 1e-9  # of the outline's size: events that are nearer than this are one
MOST_EVENTS = 4000


class ImpossibleRoof(ValueError):
    """An outline and pitches that make no roof."""


@dataclass(frozen=True)
class Stage:
    """Pitches of all edges [°], up to a height over the eave [m]."""

    pitches: tuple[float, ...]
    until: float = np.inf


@dataclass
class _Loop:
    """A part of the rising outline: its corners, and the edge of the original outline that leaves each of them."""

    corners: Floats
    edges: list[int]


@dataclass
class _Traces:
    """What every edge has passed over so far, as polygons; gables in length along the edge and height."""

    outline: Floats
    slopes: dict[tuple[int, int], list[Floats]] = field(default_factory=dict)
    gables: dict[int, list[Floats]] = field(default_factory=dict)


@dataclass(frozen=True)
class RoofPart:
    """A face of a roof: the edge that it rises from, and its outline with heights over the eave, (n, 3)."""

    edge: int
    stage: int
    outline: Floats
    is_gable: bool


def raise_roof(outline: Floats, stages: tuple[Stage, ...]) -> list[RoofPart]:
    """The faces of a roof over an outline.

    Parameters
    ----------
    outline : (n, 2)
        Corners counterclockwise [m], none twice, no edge crossing another.
    stages : tuple of Stage
        From the eave up; the last has no end. Two stages make a mansard or a half-hip.

    Raises
    ------
    ImpossibleRoof
        If no edge moves, or the faces do not cover the outline.

    References
    ----------
    Aichholzer et al. (1995), J. Universal Computer Science 1, 752-761 (straight skeleton); Eppstein and Erickson (1999),
    Discrete and Computational Geometry 22, 569-592 (weights, split events).
    """
    traces = _Traces(outline)
    loops = [_Loop(outline.astype(float), list(range(len(outline))))]
    height = 0.0
    for number, stage in enumerate(stages):
        if np.isinf(stage.until) and all(pitch >= VERTICAL for pitch in stage.pitches):
            raise ImpossibleRoof("every edge is a gable: give at least one edge a pitch below 90°")
        loops = _rise(loops, number, stage, height, traces)
        height = stage.until
        if not loops:
            break
    return _faces(traces, stages)


def _rise(loops: list[_Loop], number: int, stage: Stage, height: float, traces: _Traces) -> list[_Loop]:
    """Let the loops rise through one stage; what is left of them at its end."""
    speeds = np.array([0.0 if p >= VERTICAL else 1 / np.tan(np.radians(max(p, 0.01))) for p in stage.pitches])
    waiting = [(loop, height) for loop in loops]
    ended: list[_Loop] = []
    size = float(np.ptp(traces.outline, axis=0).max())
    for _ in range(MOST_EVENTS):
        if not waiting:
            return ended
        loop, at = waiting.pop()
        cleaned = _cleaned(loop, size)
        if cleaned is None:
            continue
        loop = cleaned
        velocity = _velocities(loop, speeds)
        step, split = _next_event(loop, velocity, speeds, size)
        if at + step >= stage.until:
            step, split = stage.until - at, None
        if not np.isfinite(step):
            raise ImpossibleRoof("these pitches never close the roof: give an edge opposite a steeper one a pitch below 90°")
        moved = loop.corners + velocity * step
        _trace(loop, moved, at, at + step, number, stage, traces)
        after = _Loop(moved, loop.edges)
        if at + step >= stage.until:
            if (left := _cleaned(after, size)) is not None:
                ended.append(left)
            continue
        waiting += [(part, at + step) for part in (_parts(after, *split) if split else [after])]
    raise ImpossibleRoof("the roof has too many corners")


def _cleaned(loop: _Loop, size: float) -> _Loop | None:
    """The loop without edges of no length and spikes; None where nothing is left."""
    corners, edges = loop.corners, list(loop.edges)
    near = 1e-7 * size
    changed = True
    while changed and len(edges) >= 3:
        changed = False
        for i in range(len(edges)):
            j = (i + 1) % len(edges)
            if (
                np.hypot(*(corners[j] - corners[i])) < near
            ):  # edge i has no length: its far corner goes, and takes the edge with it
                corners, edges = np.delete(corners, i, axis=0), edges[:i] + edges[i + 1 :]
                changed = True
                break
            before, after = corners[i] - corners[i - 1], corners[j] - corners[i]
            lengths = np.hypot(*before) * np.hypot(*after)
            if before @ after < 0 and abs(before[0] * after[1] - before[1] * after[0]) < 1e-9 * lengths:
                # The corner of a spike goes; the shorter arm with it.
                drop = i - 1 if np.hypot(*before) < np.hypot(*after) else i
                edges.pop(drop)
                corners = np.delete(corners, i, axis=0)
                changed = True
                break
    if len(edges) < 3 or _area(corners) < 1e-9 * size**2:
        return None
    return _Loop(corners, edges)


def _area(corners: Floats) -> float:
    x, y = corners.T
    return float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) / 2)


def _velocities(loop: _Loop, speeds: Floats) -> Floats:
    """Of every corner, for a metre of height, (corners, 2)."""
    along = np.roll(loop.corners, -1, axis=0) - loop.corners
    along /= np.hypot(*along.T)[:, np.newaxis]
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    pace = speeds[loop.edges]
    before, before_pace = np.roll(inward, 1, axis=0), np.roll(pace, 1)
    cross = before[:, 0] * inward[:, 1] - before[:, 1] * inward[:, 0]
    straight = np.abs(cross) < 1e-9
    safe = np.where(straight, 1.0, cross)
    x = (before_pace * inward[:, 1] - pace * before[:, 1]) / safe
    y = (pace * before[:, 0] - before_pace * inward[:, 0]) / safe
    mean = inward * ((pace + before_pace) / 2)[:, np.newaxis]
    return np.where(straight[:, np.newaxis], mean, np.stack([x, y], axis=1))


def _next_event(loop: _Loop, velocity: Floats, speeds: Floats, size: float) -> tuple[float, tuple[int, int] | None]:
    """How much higher an edge vanishes or a corner meets an edge; of a meeting, the corner and the edge."""
    corners, count = loop.corners, len(loop.edges)
    along = np.roll(corners, -1, axis=0) - corners
    length = np.hypot(*along.T)
    unit = along / length[:, np.newaxis]
    shrink = -np.einsum("ij,ij->i", np.roll(velocity, -1, axis=0) - velocity, unit)
    vanish = np.where(shrink > 1e-12, length / np.where(shrink > 1e-12, shrink, 1), np.inf)
    soonest, split = float(vanish.min()), None
    inward = np.stack([-unit[:, 1], unit[:, 0]], axis=1)
    before = np.roll(unit, 1, axis=0)
    reflex = np.flatnonzero(before[:, 0] * unit[:, 1] - before[:, 1] * unit[:, 0] < -1e-9)
    for corner in reflex.tolist():
        for edge in range(count):
            if edge in (corner, (corner - 1) % count):
                continue
            distance = (corners[corner] - corners[edge]) @ inward[edge]
            closing = speeds[loop.edges[edge]] - velocity[corner] @ inward[edge]
            if closing <= 1e-12 or distance < -EVENT * size:
                continue
            time = max(distance, 0.0) / closing
            if time > soonest - EVENT * size:
                continue
            start, end = (corners[k] + velocity[k] * time for k in (edge, (edge + 1) % count))
            place = corners[corner] + velocity[corner] * time
            part = (place - start) @ unit[edge]
            if -EVENT * size <= part <= (end - start) @ unit[edge] + EVENT * size:
                soonest, split = time, (corner, edge)
    return soonest, split


def _parts(loop: _Loop, corner: int, edge: int) -> list[_Loop]:
    """The two loops into which a corner that meets an edge cuts a loop."""
    count = len(loop.edges)
    first = [(corner + k) % count for k in range((edge - corner) % count + 1)]  # from the corner along to the edge's start
    second = [(edge + 1 + k) % count for k in range((corner - edge - 1) % count)]  # from the edge's end to before the corner
    one = _Loop(loop.corners[first], [loop.edges[k] for k in first])
    other = _Loop(np.vstack([loop.corners[[corner]], loop.corners[second]]), [loop.edges[edge], *(loop.edges[k] for k in second)])
    return [one, other]


def _trace(loop: _Loop, moved: Floats, low: float, high: float, number: int, stage: Stage, traces: _Traces) -> None:
    for k, edge in enumerate(loop.edges):
        j = (k + 1) % len(loop.edges)
        quad = np.array([loop.corners[k], loop.corners[j], moved[j], moved[k]])
        if stage.pitches[edge] >= VERTICAL:
            start = traces.outline[edge]
            along = traces.outline[(edge + 1) % len(traces.outline)] - start
            lengths = (quad - start) @ (along / np.hypot(*along))
            traces.gables.setdefault(edge, []).append(np.column_stack([lengths, [low, low, high, high]]))
        else:
            traces.slopes.setdefault((edge, number), []).append(quad)


def _faces(traces: _Traces, stages: tuple[Stage, ...]) -> list[RoofPart]:
    parts, covered = [], 0.0
    floors = [0.0, *(stage.until for stage in stages)]
    offsets = _offsets(traces.outline, stages)
    for (edge, number), quads in sorted(traces.slopes.items()):
        for ring in _joined(quads):
            covered += _area(ring)
            start = traces.outline[edge]
            along = traces.outline[(edge + 1) % len(traces.outline)] - start
            inward = np.array([-along[1], along[0]]) / np.hypot(*along)
            pitch = np.tan(np.radians(max(stages[number].pitches[edge], 0.01)))
            heights = floors[number] + ((ring - start) @ inward - offsets[number, edge]) * pitch
            parts.append(RoofPart(edge, number, np.column_stack([ring, heights]), False))
    for edge, quads in sorted(traces.gables.items()):
        for ring in _joined(quads):
            start = traces.outline[edge]
            along = traces.outline[(edge + 1) % len(traces.outline)] - start
            points = start + ring[:, :1] * (along / np.hypot(*along))
            parts.append(RoofPart(edge, 0, np.column_stack([points, ring[:, 1]]), True))
    whole = _area(traces.outline)
    if abs(covered - whole) > 1e-4 * whole:
        raise ImpossibleRoof(f"the faces cover {covered:.2f} m² of {whole:.2f} m²: these pitches make no roof on this outline")
    return parts


def _offsets(outline: Floats, stages: tuple[Stage, ...]) -> Floats:
    """How far every edge has moved inward at the foot of each stage, (stages, edges) [m]."""
    rows = [np.zeros(len(outline))]
    floor = 0.0
    for stage in stages[:-1]:
        pace = np.array([0.0 if p >= VERTICAL else 1 / np.tan(np.radians(max(p, 0.01))) for p in stage.pitches])
        rows.append(rows[-1] + pace * (stage.until - floor))
        floor = stage.until
    return np.array(rows)


def _joined(quads: list[Floats]) -> list[Floats]:
    """The outline of what quadrilaterals that share edges cover together; counterclockwise, without needless corners."""
    # Each is a trapezoid; one whose upper side has shrunk to a point may cross itself by a rounding.
    trapezoids = shapely.convex_hull([shapely.MultiPoint(q) for q in quads if abs(_area(q)) > 1e-10])
    whole = shapely.union_all(trapezoids, grid_size=1e-8)
    rings = []
    for polygon in shapely.get_parts(whole):
        if not isinstance(polygon, shapely.Polygon) or polygon.area < 1e-7:
            continue
        ring = np.array(polygon.exterior.coords)[:-1]
        ring = ring if _area(ring) > 0 else ring[::-1]
        rings.append(without_straight(ring))
    return rings


def without_straight(ring: Floats, near: float = 1e-6) -> Floats:
    """A ring without the corners that lie on the straight line between their neighbours, (n, 2) or (n, 3)."""
    kept = ring
    while len(kept) > 3:
        before, after = kept - np.roll(kept, 1, axis=0), np.roll(kept, -1, axis=0) - kept
        lengths = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
        if kept.shape[1] == 2:
            bend = np.abs(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0])
        else:
            bend = np.linalg.norm(np.cross(before, after), axis=1)
        straight = np.flatnonzero((bend < near * np.maximum(lengths, 1e-12)) | (lengths < 1e-14))
        if not straight.size:
            break
        kept = np.delete(kept, straight[0], axis=0)
    return kept
