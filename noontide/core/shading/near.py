"""Near shading: what the bodies of a scene take from targets that lie in one plane, of the beam and of every part of the diffuse light."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

from noontide.core.lately import Lately
from noontide.core.scene.frame import Frame, normal_of
from noontide.core.scene.solids import OPAQUE, Body, Face
from noontide.core.shading.horizon import BAND_HEIGHT, Horizon
from noontide.core.shading.projection import AROUND, Lines, Shapes, Solids, light_through, reached
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
SKY_DIRECTIONS = 2048  # over the dome of a plane, each with the same part of its isotropic irradiance
FINE_SKY_DIRECTIONS = 65_536
BAND_AZIMUTHS = 180
EVERYWHERE = np.zeros((0, 0, 2), dtype=np.int32)
MOST_PLANES = 64  # of which the directions over them are remembered
BAND_LEVELS = (0.25, 0.75)  # of the band's height


@dataclass(frozen=True, eq=False)
class Targets:
    """Convex polygons with as many corners each in one plane, in its own coordinates, counterclockwise (targets, corners, 2) [m]."""

    frame: Frame
    outlines: Floats

    @cached_property
    def areas(self) -> Floats:
        x, y = self.outlines[..., 0], self.outlines[..., 1]
        turning = x[:, :-1] * y[:, 1:] - x[:, 1:] * y[:, :-1]
        return (turning.sum(axis=1) + x[:, -1] * y[:, 0] - x[:, 0] * y[:, -1]) / 2

    @cached_property
    def boxes(self) -> Floats:
        """Lowest and highest u, lowest and highest v, (targets, 4)."""
        low, high = self.outlines.min(axis=1), self.outlines.max(axis=1)
        return np.ascontiguousarray(np.column_stack([low[:, 0], high[:, 0], low[:, 1], high[:, 1]]))

    @cached_property
    def are_boxes(self) -> bool:
        """Whether all are rectangles along u and v."""
        if self.outlines.shape[1] != 4:
            return False
        low_u, high_u, low_v, high_v = self.boxes.T
        of_boxes = (high_u - low_u) * (high_v - low_v)
        return bool((abs(of_boxes - self.areas) <= 1e-9 * abs(self.areas)).all())

    @cached_property
    def rows(self) -> tuple[Ints, Ints, Floats]:
        """Targets in rows of the same height, from left to right: their order, where each row begins, and its lowest and highest v."""
        low, high = self.boxes[:, 2:].round(6).T
        order = np.lexsort((self.boxes[:, 0], high, low))
        low, high = low[order], high[order]
        first = np.flatnonzero(np.concatenate([[True], (np.diff(low) != 0) | (np.diff(high) != 0)]))
        starts = np.append(first, len(order)).astype(np.int64)
        return order.astype(np.int64), starts, np.ascontiguousarray(np.column_stack([low[first] - 1e-6, high[first] + 1e-6]))

    @cached_property
    def corners(self) -> Ints:
        return np.full(len(self.outlines), self.outlines.shape[1], dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Joined:
    """Bodies one after another in arrays, as they stand in space."""

    points: Floats
    point_of: Ints
    edges: Ints
    edge_of: Ints
    rings: Ints
    ring_of: Ints
    ring_of_body: Ints
    light: Floats  # (bodies, 12)
    boxes: Floats  # lowest and highest x, lowest and highest y, highest z, (bodies, 5)
    ellipsoids: Floats  # x, y, z, level and upright semi-axis, NaN of other bodies, (bodies, 5)


@lru_cache(maxsize=48)
def _joined(bodies: tuple[Body, ...]) -> Joined:
    """Of a scene once, for all the planes that it casts on."""
    rings = [ring for body in bodies for ring in body.rings]
    casting = [body.casting for body in bodies]
    points, point_of = np.concatenate([p for p, _ in casting]), _ends([len(p) for p, _ in casting])
    return Joined(
        points=points,
        point_of=point_of,
        edges=np.ascontiguousarray(np.concatenate([e for _, e in casting])).astype(np.int64).reshape(-1, 2),
        edge_of=_ends([len(e) for _, e in casting]),
        rings=np.concatenate(rings).astype(np.int64) if rings else np.zeros(0, np.int64),
        ring_of=_ends([len(ring) for ring in rings]),
        ring_of_body=_ends([len(body.rings) for body in bodies]),
        light=np.array([body.light for body in bodies], dtype=float).reshape(-1, 12),
        boxes=_extents(points, point_of),
        ellipsoids=np.array([np.full(5, np.nan) if body.ellipsoid is None else body.ellipsoid for body in bodies]),
    )


def _rounds(ellipsoids: Floats, frame: Frame) -> Floats:
    """Middles of ellipsoids and the rows of their semi-axes in the coordinates of a plane, NaN of other bodies, (bodies, 12)."""
    found = np.full((len(ellipsoids), 12), np.nan)
    some = np.flatnonzero(np.isfinite(ellipsoids[:, 0]))
    if some.size:
        # As polygons of so many corners cast with the area of the whole shadow.
        wider = np.sqrt(2 * np.pi / AROUND / np.sin(2 * np.pi / AROUND))
        found[some, :3] = frame.into(ellipsoids[some, :3])
        found[some, 3:] = (frame.axes * (wider * ellipsoids[some][:, [3, 3, 4]])[:, np.newaxis, :]).reshape(-1, 9)
    return found


def _extents(points: Floats, point_of: Ints) -> Floats:
    """Lowest and highest of the first two coordinates, and highest of the third, of each body."""
    low, high = np.minimum.reduceat(points, point_of[:-1], axis=0), np.maximum.reduceat(points, point_of[:-1], axis=0)
    return np.ascontiguousarray(np.column_stack([low[:, 0], high[:, 0], low[:, 1], high[:, 1], high[:, 2]]))


def is_veiled(bodies: tuple[Body, ...]) -> bool:
    """Whether some of the bodies let light through in some month."""
    return bool(bodies) and bool(_joined(bodies).light.any())


def those_that_rise(bodies: tuple[Body, ...], targets: Targets, elevation: float) -> NDArray[np.bool_]:
    """Which bodies rise over an elevation [°] as seen from anywhere on the targets; for a first look."""
    if not bodies:
        return np.zeros(0, dtype=np.bool_)
    boxes = _joined(bodies).boxes
    corners = targets.frame.out_of(np.column_stack([targets.outlines.reshape(-1, 2), np.zeros(targets.outlines.size // 2)]))
    low, high = corners.min(axis=0), corners.max(axis=0)
    gap = [np.maximum(np.maximum(boxes[:, 2 * k] - high[k], low[k] - boxes[:, 2 * k + 1]), 0.0) for k in (0, 1)]
    return boxes[:, 4] - low[2] > np.tan(np.radians(elevation)) * np.hypot(*gap)


@dataclass(frozen=True, eq=False)
class Casters:
    """Bodies in the coordinates of a plane; those that lie wholly under it let all light through."""

    joined: Joined
    points: Floats
    extents: Floats  # lowest and highest u, lowest and highest v, highest w, (bodies, 5)
    light: Floats  # (bodies, 12)
    rounds: Floats  # ellipsoids in the coordinates of the plane, (bodies, 12)

    @property
    def solids(self) -> Solids:
        j, light = self.joined, np.ascontiguousarray(self.light)
        return Solids(
            self.points, j.point_of, j.edges, j.edge_of, j.rings, j.ring_of, j.ring_of_body, self.rounds, self.extents, light
        )


def casters_of(
    bodies: Sequence[Body], frame: Frame, lowest: float = 1e-3, only: NDArray[np.bool_] | None = None
) -> Casters | None:
    """The bodies as they stand over a plane; None where none rises over it.

    Parameters
    ----------
    lowest : float
        Height over the plane that a body must reach to cast on it [m].
    only : (bodies,), optional
        Which of them count.
    """
    if not bodies:
        return None
    joined = _joined(tuple(bodies))
    points = np.ascontiguousarray(frame.into(joined.points))
    extents, rounds = _extents(points, joined.point_of), _rounds(joined.ellipsoids, frame)
    if (some := np.flatnonzero(np.isfinite(rounds[:, 0]))).size:
        reach = np.linalg.norm(rounds[some, 3:].reshape(-1, 3, 3), axis=2)
        middle = rounds[some, :3]
        ends = [middle[:, 0] - reach[:, 0], middle[:, 0] + reach[:, 0], middle[:, 1] - reach[:, 1], middle[:, 1] + reach[:, 1]]
        extents[some] = np.column_stack([*ends, middle[:, 2] + reach[:, 2]])
    is_over = extents[:, 4] > lowest
    if only is not None:
        is_over &= only
    if not is_over.any():
        return None
    return Casters(joined, points, extents, np.where(is_over[:, np.newaxis], joined.light, 1.0), rounds)


def _ends(counts: list[int]) -> Ints:
    return np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)


def beam_light(targets: Targets, casters: Casters | None, directions: Floats, months: Ints) -> Singles:
    """Share of the beam from each direction that reaches each target past the bodies, 0..1.

    Parameters
    ----------
    directions : (directions, 3)
        Unit vectors toward the sun, in space.
    months : (directions,)
        0 to 11, for what lets light through by month.

    Returns
    -------
    (directions, targets)
        1 where the sun is behind the plane: bodies take nothing of a beam that is not there.
    """
    out = np.ones((len(directions), len(targets.outlines)), dtype=np.float32)
    if casters is not None:
        sun = np.ascontiguousarray(directions @ targets.frame.axes.T)
        _run(targets, casters, months, sun, EVERYWHERE, out)
    return out


def beam_light_again(
    targets: Targets, bodies: Sequence[Body], directions: Floats, months: Ints, before: Singles, changed: Sequence[Body]
) -> Singles:
    """Like `beam_light` of all bodies, from its result for others: only what those that differ shade is found again, and the same array is given back where they shade nothing.

    Parameters
    ----------
    before : (directions, targets)
        Of the same targets and directions.
    changed : sequence of Body
        Every body that is in one of the two scenes only.
    """
    moved = casters_of(changed, targets.frame)
    if moved is None:
        return before
    sun = np.ascontiguousarray(directions @ targets.frame.axes.T)
    some = _may_be_reached(targets, moved, sun)
    if not some.size:
        return before
    near = np.ascontiguousarray(sun[some])
    lines, solids = Lines(*targets.rows), moved.solids
    wanted = np.zeros((some.size, len(targets.rows[1]) - 1, 2), dtype=np.int32)
    in_chunks(
        lambda start, end: reached(targets.boxes, lines, solids, near, wanted, start, end),
        some.size,
    )
    hit = np.flatnonzero((wanted[..., 0] < wanted[..., 1]).any(axis=1))
    if not hit.size:
        return before
    out, casters, rows = before.copy(), casters_of(bodies, targets.frame), some[hit]
    if casters is None:
        out[rows] = 1.0
    elif hit.size > len(sun) // 8:
        every = np.zeros((len(sun), *wanted.shape[1:]), dtype=np.int32)
        every[some] = wanted
        _run(targets, casters, months, sun, every, out)
    else:
        again = before[rows]
        _run(targets, casters, months[rows], np.ascontiguousarray(near[hit]), np.ascontiguousarray(wanted[hit]), again)
        out[rows] = again
    return out


def _may_be_reached(targets: Targets, casters: Casters, sun: Floats) -> Ints:
    """Directions in which the box of some body, moved along the rays, touches that of the targets."""
    above = np.maximum(sun[:, 2:], 1e-9)
    along = sun[:, :2] / above
    low, high = targets.boxes.min(axis=0), targets.boxes.max(axis=0)
    touched = np.zeros(len(sun), dtype=np.bool_)
    for extent in casters.extents:
        moved = along * extent[4]
        is_here = sun[:, 2] > 0
        for k in (0, 1):
            is_here &= extent[2 * k] - np.maximum(moved[:, k], 0) < high[2 * k + 1]
            is_here &= extent[2 * k + 1] - np.minimum(moved[:, k], 0) > low[2 * k]
        touched |= is_here
    return np.flatnonzero(touched)


def _run(targets: Targets, casters: Casters, states: Ints, sun: Floats, wanted: NDArray[np.int32], out: Singles) -> None:
    shapes = Shapes(np.ascontiguousarray(targets.outlines), targets.corners, targets.areas, targets.are_boxes, targets.boxes)
    lines, solids = Lines(*targets.rows), casters.solids
    states = np.array(states, dtype=np.int64)  # a copy: what may not be written to would be another type for the compiler
    in_chunks(lambda start, end: light_through(shapes, lines, solids, states, sun, wanted, out, start, end), len(sun))


@dataclass(frozen=True, eq=False)
class DiffuseLight:
    """What bodies leave of the diffuse light by month, over what would be there without them, 0..1; each (12, targets)."""

    isotropic: Floats
    band: Floats
    ground: Floats


Finder = Callable[[Targets, Sequence[Body], Floats, Ints], Singles]


def past_bodies(targets: Targets, bodies: Sequence[Body], directions: Floats, months: Ints) -> Singles:
    """`beam_light` of bodies that are not cast yet."""
    return beam_light(targets, casters_of(bodies, targets.frame), directions, months)


def diffuse_light(
    targets: Targets,
    bodies: Sequence[Body],
    horizon: Horizon | None = None,
    count: int = SKY_DIRECTIONS,
    find: Finder = past_bodies,
) -> DiffuseLight:
    """Integrate the dome, the band along the horizon and the ground, as targets see them past bodies.

    Parameters
    ----------
    horizon : Horizon, optional
        What it hides is not there to be taken.
    count : int
        Directions over the plane's hemisphere, each with the same share of an isotropic irradiance.
    find : function
        Share of the light from directions that reaches the targets, as `past_bodies`; one that remembers may stand in its place.

    Notes
    -----
    Of the ground only the view is taken: a body in front of it reflects nothing, and the ground's own light is that of an open field.
    """
    first, state_of = _seasons(tuple({body.light for body in bodies}))
    everything, weights, ends = _diffuse_directions(targets.frame, horizon, count)
    found = []
    for month in first:
        light = find(targets, bodies, everything, np.full(len(everything), month, dtype=np.int64))
        parts = zip(np.split(weights, ends), np.split(light, ends), strict=True)
        found.append([w @ some / w.sum() if w.size else np.ones(light.shape[1]) for w, some in parts])
    by_month = np.array([found[int(s)] for s in state_of])
    return DiffuseLight(isotropic=by_month[:, 0], ground=by_month[:, 1], band=by_month[:, 2])


@lru_cache(maxsize=64)
def _seasons(lights: tuple[tuple[float, ...], ...]) -> tuple[Ints, Ints]:
    """One month of each kind, in which bodies let different light through, and the kind of each month."""
    if not lights:
        return np.zeros(1, np.int64), np.zeros(12, np.int64)
    _, first, state_of = np.unique(np.array(lights), axis=1, return_index=True, return_inverse=True)
    return first, np.ravel(state_of)


_directions: Lately[tuple[Floats, Floats, list[int]]] = Lately(MOST_PLANES)


def _diffuse_directions(frame: Frame, horizon: Horizon | None, count: int) -> tuple[Floats, Floats, list[int]]:
    """Directions to the sky, the ground and the band, their weights, and where the ground's and the band's begin; those of the last planes are remembered."""
    key = frame.axes.tobytes(), None if horizon is None else horizon.fingerprint, count
    return _directions.find(key, lambda: _find_directions(frame, horizon, count))


def _find_directions(frame: Frame, horizon: Horizon | None, count: int) -> tuple[Floats, Floats, list[int]]:
    line = horizon if horizon is not None and not horizon.is_flat else Horizon()
    world = _cosine_directions(count) @ frame.axes
    elevation = np.degrees(np.arcsin(np.clip(world[:, 2], -1, 1)))
    is_sky = elevation > line.elevation_at(np.degrees(np.arctan2(world[:, 0], world[:, 1])) % 360)
    is_ground = elevation < 0
    around = BAND_AZIMUTHS if count >= SKY_DIRECTIONS else BAND_AZIMUTHS // 6
    turns = np.tile((np.arange(around) + 0.5) * 360 / around, len(BAND_LEVELS))
    rises = np.repeat(BAND_HEIGHT * np.array(BAND_LEVELS), around)
    turn, rise = np.radians(turns), np.radians(rises)
    band = np.column_stack([np.cos(rise) * np.sin(turn), np.cos(rise) * np.cos(turn), np.sin(rise)])
    toward = np.maximum(band @ frame.normal, 0) * (rises > line.elevation_at(turns))
    skies, grounds, bands = world[is_sky], world[is_ground], band[toward > 0]
    weights = np.concatenate([np.ones(len(skies) + len(grounds)), toward[toward > 0]])
    directions = np.concatenate([skies, grounds, bands])
    directions.flags.writeable = False
    return directions, weights, [len(skies), len(skies) + len(grounds)]


@lru_cache(maxsize=8)
def _cosine_directions(count: int) -> Floats:
    """Directions over a hemisphere around +w, each with the same share of the irradiance of an even sky (Fibonacci's spiral on the disc)."""
    i = np.arange(count)
    radius = np.sqrt((i + 0.5) / count)
    turn = i * np.pi * (3 - np.sqrt(5))
    return np.column_stack([radius * np.cos(turn), radius * np.sin(turn), np.sqrt(1 - radius**2)])


def _target(target: Face | ArrayLike) -> Targets:
    """Triangles or one convex polygon of a planar polygon (n, 3), its normal to the sky."""
    outline = np.asarray(target.outline if isinstance(target, Face) else target, dtype=float)
    if outline.ndim != 2 or outline.shape[1] != 3 or len(outline) < 3:
        raise ValueError(f"a target is a polygon of shape (n, 3) with n of 3 or more, not {outline.shape}")
    if not np.isfinite(outline).all():
        raise ValueError("the target has a corner that is not a number")
    normal = normal_of(outline)
    if normal[2] < -1e-9:
        outline, normal = outline[::-1], -normal
    frame = Frame(outline.mean(axis=0), normal)
    local = frame.into(outline)
    size = float(np.ptp(local[:, :2], axis=0).max())
    if np.abs(local[:, 2]).max() > 1e-3 * max(size, 1.0):
        raise ValueError(f"the target is not planar: a corner lies {np.abs(local[:, 2]).max():.3f} m out of its plane")
    polygon = shapely.Polygon(local[:, :2])
    if not polygon.is_valid:
        raise ValueError(f"the target crosses itself ({shapely.is_valid_reason(polygon)})")
    if polygon.convex_hull.area - polygon.area < 1e-9 * polygon.area:
        return Targets(frame, local[np.newaxis, :, :2])
    triangles = [np.array(t.exterior.coords)[:3] for t in shapely.get_parts(shapely.constrained_delaunay_triangles(polygon))]
    return Targets(frame, np.array([t if _turns_left(t) else t[::-1] for t in triangles]))


def _turns_left(t: Floats) -> bool:
    return bool((t[1, 0] - t[0, 0]) * (t[2, 1] - t[0, 1]) - (t[1, 1] - t[0, 1]) * (t[2, 0] - t[0, 0]) > 0)


def _bodies(faces: Sequence[Face | Body | ArrayLike]) -> list[Body]:
    bodies = []
    for number, face in enumerate(faces):
        if isinstance(face, Body):
            bodies.append(face)
            continue
        outline = face.outline if isinstance(face, Face) else np.asarray(face, dtype=float)
        if outline.ndim != 2 or outline.shape[1] != 3 or len(outline) < 3 or not np.isfinite(outline).all():
            raise ValueError(f"face {number} is no polygon of shape (n, 3) with n of 3 or more")
        ring = np.arange(len(outline), dtype=np.int64)
        bodies.append(Body(f"face-{number}", "meshes", "", outline, np.zeros((0, 2), np.int64), (ring,), OPAQUE))
    return bodies


def shaded_fraction(
    target: Face | ArrayLike, faces: Sequence[Face | Body | ArrayLike], azimuth: ArrayLike, elevation: ArrayLike
) -> Floats | float:
    """Share of a planar polygon in the shade of faces, for directions of the sun.

    Parameters
    ----------
    target : Face or (n, 3)
        Corners of a planar polygon, east, north and up [m]. Its normal is the one that points to the sky; of a vertical one, the
        side from which its corners run counterclockwise.
    faces : sequence of Face, Body or (n, 3)
        What casts: planar polygons, seen from either side, or bodies of a scene.
    azimuth, elevation : any shapes that broadcast
        Of the sun [°], clockwise from north, and over the horizontal.

    Returns
    -------
    float or ndarray
        0..1 in the shape of azimuth and elevation; 0 where the sun is behind the target or below the horizontal, NaN where it has no
        azimuth or no elevation.

    Raises
    ------
    ValueError
        If the target or a face is no planar polygon.

    Notes
    -----
    Projection along the rays, clipped to the target (Sutherland and Hodgman 1974, Comm. ACM 17, 32-42); the area of several shadows
    together by lines between their corners. What is within 0.1 mm of the target's plane casts nothing on it.
    """
    targets = _target(target)
    casters = casters_of(_bodies(faces), targets.frame)
    turn, rise = np.broadcast_arrays(np.radians(np.asarray(azimuth, dtype=float)), np.radians(np.asarray(elevation, dtype=float)))
    directions = np.column_stack(
        [np.cos(rise.ravel()) * np.sin(turn.ravel()), np.cos(rise.ravel()) * np.cos(turn.ravel()), np.sin(rise.ravel())]
    )
    light = beam_light(targets, casters, directions, np.zeros(len(directions), np.int64))
    share = 1 - light @ (targets.areas / targets.areas.sum())
    share = np.where(np.sin(rise.ravel()) > 0, np.clip(share, 0, 1), 0.0)
    share[~np.isfinite(directions).all(axis=1)] = np.nan
    share = share.reshape(turn.shape)
    return float(share) if share.ndim == 0 else share


def sky_access(target: Face | ArrayLike, faces: Sequence[Face | Body | ArrayLike]) -> float:
    """Share of the isotropic sky irradiance of a planar polygon that faces leave, 0..1; the mean over the polygon.

    Parameters
    ----------
    target, faces
        As for `shaded_fraction`.

    Raises
    ------
    ValueError
        If the target or a face is no planar polygon.
    """
    targets = _target(target)
    found = diffuse_light(targets, _bodies(faces), count=FINE_SKY_DIRECTIONS)
    return float(found.isotropic[0] @ targets.areas / targets.areas.sum())
