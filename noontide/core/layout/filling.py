"""Filling a face with modules: as many as fit, row by row."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numba import njit
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Orientation = Literal["portrait", "landscape", "best"]
GRID = 0.01  # of the places that are tried [m]
LOOSE = 1e-9  # by which a module may reach over a line [m]
QUARTER = 512  # corners of a quarter circle round what is kept clear: it misses the circle by a millionth of its radius
BUNCH = 32  # edges, such as those of an arc, that are passed over together
MOST_PLACES = 40_000  # heights that are tried on one face; larger faces take a coarser grid


class ImpossibleFace(ValueError):
    """An outline that cannot be filled; says why."""


@dataclass(frozen=True)
class _Row:
    low: float
    starts: tuple[float, ...]  # left ends of the modules


def usable_area(
    outline: ArrayLike,
    holes: Sequence[ArrayLike] = (),
    setback: float | Sequence[float] = 0.0,
    clearance: float | Sequence[float] = 0.0,
) -> shapely.Polygon | shapely.MultiPolygon:
    """What setbacks from the outline and clearances round the holes leave of a face.

    Parameters
    ----------
    setback : float or sequence
        One for the whole outline, or one each edge, the first from the first corner to the second [m].
    clearance : float or sequence
        One for all holes, or one each [m].

    Raises
    ------
    ImpossibleFace
        If an outline crosses itself or has no area.
    """
    usable = face = _polygon(outline, "the outline")
    if isinstance(setback, float | int):
        # Where the outline turns inward the distance is kept in an arc round the corner; elsewhere corners stay sharp.
        usable = face.buffer(-float(setback), quad_segs=QUARTER) if setback else face
    else:
        points = np.asarray(outline, dtype=float)
        for start, end, distance in zip(points, np.roll(points, -1, axis=0), setback, strict=True):
            if distance > 0:
                usable = usable.difference(shapely.LineString([start, end]).buffer(distance, quad_segs=QUARTER))
    distances = [float(clearance)] * len(holes) if isinstance(clearance, float | int) else clearance
    for number, (hole, distance) in enumerate(zip(holes, distances, strict=True), start=1):
        kept = _polygon(hole, f"hole {number}")
        usable = usable.difference(kept.buffer(distance, quad_segs=QUARTER) if distance else kept)
    return shapely.MultiPolygon(
        [part for part in shapely.get_parts(usable) if isinstance(part, shapely.Polygon) and part.area > 0]
    )


def _polygon(ring: ArrayLike, what: str) -> shapely.Polygon:
    points = np.asarray(ring, dtype=float)
    if points.ndim != 2 or points.shape[1] != 2 or len(points) < 3:
        raise ImpossibleFace(f"{what} needs three corners or more, as x and y")
    if not np.isfinite(points).all():
        raise ImpossibleFace(f"{what} has a corner that is not a number")
    polygon = shapely.Polygon(points)
    if not polygon.is_valid:
        raise ImpossibleFace(f"{what} crosses itself ({shapely.is_valid_reason(polygon)})")
    if not polygon.area > 0:
        raise ImpossibleFace(f"{what} has no area")
    return polygon


def fill(
    outline: ArrayLike,
    holes: Sequence[ArrayLike],
    width: float,
    height: float,
    gap: float = 0.0,
    setback: float = 0.0,
    clearance: float = 0.0,
    orientation: Orientation = "best",
) -> Floats:
    """Modules on a face, as many as rows of them hold.

    Parameters
    ----------
    outline : (n, 2)
        Of the face in its own coordinates, x along its rows and y up its slope [m].
    holes : sequence of (m, 2)
        What must not be covered.
    width, height : float
        Of a module in portrait [m].
    gap : float
        Between modules in both directions [m].
    setback, clearance : float
        From the outline and from the holes [m].
    orientation : {"best", "portrait", "landscape"}
        Of all modules; the best is the one of which more fit.

    Returns
    -------
    (modules, 4)
        Left, lower, width and height of every module [m], row by row from below.

    Raises
    ------
    ImpossibleFace
        If an outline crosses itself, or a size is not above 0.

    Notes
    -----
    Every height on a centimetre grid, and from it every further row at the distance of rows, is tried; each row is filled from
    every left end of its free pieces, which is the most that it holds, and the best set of rows that do not overlap is found by
    dynamic programming. It holds as many as the best regular lattice at any offset of the grid, since each of its rows is among those
    that are tried. The same is done with columns. Where a regular pattern holds as many, it is taken.
    """
    if not (width > 0 and height > 0 and np.isfinite(width) and np.isfinite(height)):
        raise ImpossibleFace(f"a module needs a width and a height above 0, not {width:g} x {height:g} m")
    if not (gap >= 0 and setback >= 0 and clearance >= 0 and np.isfinite(gap + setback + clearance)):
        raise ImpossibleFace("gap, setback and clearance must be 0 or more")
    if orientation not in ("best", "portrait", "landscape"):
        raise ImpossibleFace(f"the orientation is best, portrait or landscape, not {orientation!r}")
    face = usable_area(outline, holes, setback, clearance)
    ways = {"portrait": [(width, height)], "landscape": [(height, width)], "best": [(width, height), (height, width)]}[
        orientation
    ]
    found = [fill_area(face, *size, gap) for size in ways]
    return max(found, key=len)


def fill_area(
    face: shapely.Polygon | shapely.MultiPolygon,
    width: float,
    height: float,
    gap: float,
    row_gap: float | None = None,
    is_staggered: bool = False,
) -> Floats:
    """Modules of one orientation on what is usable of a face, (modules, 4); with a gap of their own between rows, in rows alone.

    Staggered, every second row is moved by half a module, at the phase of which most fit.
    """
    if face.is_empty or face.area < width * height * (1 - 1e-9):
        return np.zeros((0, 4))
    segments = _segments(face)
    rows = _best_rows(segments, width, height, gap, gap if row_gap is None else row_gap)
    if is_staggered:
        moved = _staggered(segments, rows, width, height, gap)
        return np.array([[x, row.low, width, height] for row in moved for x in row.starts]).reshape(-1, 4)
    by_rows = sum(len(row.starts) for row in rows)
    flipped = np.ascontiguousarray(segments[:, [1, 0, 3, 2]])
    columns = _best_rows(flipped, height, width, gap, gap) if row_gap is None else []
    by_columns = sum(len(row.starts) for row in columns)
    if by_rows >= by_columns:
        aligned = _aligned(segments, rows, width, height, gap)
        return np.array([[x, row.low, width, height] for row in aligned for x in row.starts]).reshape(-1, 4)
    aligned = _aligned(flipped, columns, height, width, gap)
    placed = np.array([[column.low, y, width, height] for column in aligned for y in column.starts]).reshape(-1, 4)
    return placed[np.lexsort((placed[:, 0], placed[:, 1].round(6)))]


def _segments(face: shapely.Polygon | shapely.MultiPolygon) -> Floats:
    """Every edge of a face and its holes, (edges, 4)."""
    edges = []
    for part in shapely.get_parts(face):
        for ring in (part.exterior, *part.interiors):
            points = np.array(ring.coords)
            edges.append(np.column_stack([points[:-1], points[1:]]))
    return np.ascontiguousarray(np.concatenate(edges))


def _extents(segments: Floats) -> Floats:
    """Lowest and highest place of every bunch of edges, by which a strip passes over most of them, (bunches, 2)."""
    starts = np.arange(0, len(segments), BUNCH)
    low = np.minimum.reduceat(segments[:, [1, 3]].min(axis=1), starts)
    high = np.maximum.reduceat(segments[:, [1, 3]].max(axis=1), starts)
    return np.column_stack([low, high])


def _best_rows(segments: Floats, width: float, height: float, gap: float, row_gap: float) -> list[_Row]:
    """Rows that do not overlap and hold most modules together."""
    low, high = float(segments[:, [1, 3]].min()), float(segments[:, [1, 3]].max())
    room = high - low - height
    if room < -LOOSE:
        return []
    pitch = height + row_gap
    step = max(GRID, (room + pitch) / MOST_PLACES)
    # Whole rows from every offset, and from every corner of the outline up and down.
    corners = np.unique(segments[:, [1, 3]].round(9))
    corners = corners[:: max(1, len(corners) // 200)]
    firsts = [
        np.arange(0, min(pitch, room + step), step) + low,
        *((c - low) % pitch + low + s for c in corners for s in (0.0, -height)),
    ]
    offsets = np.unique(((np.concatenate([np.ravel(f) for f in firsts]) - low) % pitch).round(9))
    places = (offsets[:, np.newaxis] + np.arange(0, int(max(room, 0) / pitch) + 2) * pitch).ravel()
    places = np.unique(places[(places <= room + LOOSE)].round(9)) + low
    counts = _row_counts(segments, _extents(segments), places, width, height, gap)
    kept = counts > 0
    places, counts = places[kept], counts[kept]
    if not places.size:
        return []
    after = np.searchsorted(places, places + pitch - 1e-7)
    best = np.zeros(places.size + 1, dtype=np.int64)
    for i in range(places.size - 1, -1, -1):
        best[i] = max(best[i + 1], counts[i] + best[after[i]])
    rows, i = [], 0
    while i < places.size:
        if best[i] == best[i + 1]:
            i += 1
            continue
        starts = _row_starts(segments, float(places[i]), width, height, gap)
        rows.append(_Row(float(places[i]), tuple(starts)))
        i = int(after[i])
    return rows


@njit(cache=True, nogil=True)
def _put(left, right, lefts, rights, n):  # type: ignore[no-untyped-def]
    """Put a piece among others that are in order from the left."""
    i = n - 1
    while i >= 0 and lefts[i] > left:
        lefts[i + 1], rights[i + 1] = lefts[i], rights[i]
        i -= 1
    lefts[i + 1], rights[i + 1] = left, right


@njit(cache=True, nogil=True)
def _blocked(segments, extents, low, high, lefts, rights):  # type: ignore[no-untyped-def]
    """Pieces of a strip that an edge passes through, in order from the left; how many."""
    n = 0
    is_open, left, right, last_x, last_y = False, 0.0, 0.0, 0.0, 0.0
    for bunch in range(extents.shape[0]):
        if extents[bunch, 1] <= low or extents[bunch, 0] >= high:
            continue
        for s in range(bunch * BUNCH, min((bunch + 1) * BUNCH, segments.shape[0])):
            x0, y0, x1, y1 = segments[s, 0], segments[s, 1], segments[s, 2], segments[s, 3]
            # Edges that go on from one another inside the strip, such as those of an arc, are one piece.
            goes_on = is_open and x0 == last_x and y0 == last_y and low < y0 < high
            if y0 > y1:
                x0, y0, x1, y1 = x1, y1, x0, y0
            if y1 <= low or y0 >= high:
                continue
            a, b = x0, x1
            if y1 > y0:
                slope = (x1 - x0) / (y1 - y0)
                if y0 < low:
                    a = x0 + slope * (low - y0)
                if y1 > high:
                    b = x0 + slope * (high - y0)
            if a > b:
                a, b = b, a
            if goes_on:
                left, right = min(left, a), max(right, b)
            else:
                if is_open:
                    _put(left, right, lefts, rights, n)
                    n += 1
                is_open, left, right = True, a, b
            last_x, last_y = segments[s, 2], segments[s, 3]
    if is_open:
        _put(left, right, lefts, rights, n)
        n += 1
    return n


@njit(cache=True, nogil=True)
def _is_in(segments, extents, x, y):  # type: ignore[no-untyped-def]
    inside = False
    for bunch in range(extents.shape[0]):
        if extents[bunch, 1] <= y or extents[bunch, 0] > y:
            continue
        for s in range(bunch * BUNCH, min((bunch + 1) * BUNCH, segments.shape[0])):
            y0, y1 = segments[s, 1], segments[s, 3]
            if (y0 > y) != (y1 > y) and x < segments[s, 0] + (y - y0) / (y1 - y0) * (segments[s, 2] - segments[s, 0]):
                inside = not inside
    return inside


@njit(cache=True, nogil=True)
def _free(segments, extents, low, height, lefts, rights, starts, ends):  # type: ignore[no-untyped-def]
    """Pieces of a strip that lie wholly in the face, from the left; how many."""
    n = _blocked(segments, extents, low + 1e-8, low + height - 1e-8, lefts, rights)
    free = 0
    reach = -np.inf
    for i in range(n):
        if lefts[i] > reach and i > 0:
            middle = (reach + lefts[i]) / 2
            if _is_in(segments, extents, middle, low + height / 2):
                starts[free], ends[free] = reach, lefts[i]
                free += 1
        reach = max(reach, rights[i])
    return free


@njit(cache=True, nogil=True)
def _row_counts(segments, extents, places, width, height, gap):  # type: ignore[no-untyped-def]
    """Modules in a row at every height, (places,)."""
    size = segments.shape[0] + 1
    lefts, rights, starts, ends = np.empty(size), np.empty(size), np.empty(size), np.empty(size)
    counts = np.zeros(places.size, dtype=np.int64)
    for p in range(places.size):
        free = _free(segments, extents, places[p], height, lefts, rights, starts, ends)
        at = -np.inf
        for i in range(free):
            at = max(at, starts[i])
            if ends[i] - at >= width - LOOSE:
                fits = int((ends[i] - at + gap + LOOSE) / (width + gap))
                counts[p] += fits
                at += fits * (width + gap)
    return counts


def _pieces(segments: Floats, low: float, height: float) -> list[tuple[float, float]]:
    size = len(segments) + 1
    lefts, rights, starts, ends = (np.empty(size) for _ in range(4))
    free = _free(segments, _extents(segments), low, height, lefts, rights, starts, ends)
    return [(float(starts[i]), float(ends[i])) for i in range(free)]


def _row_starts(segments: Floats, low: float, width: float, height: float, gap: float) -> list[float]:
    """Left ends of the modules of a row, each piece filled from its left."""
    at, found = -np.inf, []
    for start, end in _pieces(segments, low, height):
        at = max(at, start)
        while at + width <= end + LOOSE:
            found.append(at)
            at += width + gap
    return found


def _aligned(segments: Floats, rows: list[_Row], width: float, height: float, gap: float) -> list[_Row]:
    """The same rows with their modules one over another, where that loses none; else each centred in its pieces where it can be."""
    if not rows:
        return rows
    pitch = width + gap
    pieces = [_pieces(segments, row.low, height) for row in rows]
    phases = np.unique(
        np.concatenate([np.arange(0, pitch, GRID), [r.starts[0] % pitch for r in rows], _middles(pieces, rows, pitch, gap)])
    )
    want = [len(row.starts) for row in rows]
    best: tuple[float, float] | None = None
    for phase in phases.tolist():
        if all(_on_phase(some, phase, width, pitch) == count for some, count in zip(pieces, want, strict=True)):
            # Of those that hold all, the one that lies most in the middle.
            first = _lattice(pieces[0], phase, width, pitch)
            outer = (pieces[0][0][0] + pieces[0][-1][1]) / 2
            off = abs((first[0] + first[-1] + width) / 2 - outer)
            if best is None or off < best[1] - 1e-9:
                best = phase, off
    if best is None:
        return rows
    return [_Row(row.low, tuple(_lattice(some, best[0], width, pitch))) for row, some in zip(rows, pieces, strict=True)]


def _staggered(segments: Floats, rows: list[_Row], width: float, height: float, gap: float) -> list[_Row]:
    """The same rows, every second moved by half a module; the phase is the one of which most fit, near the middle of the lowest row."""
    if not rows:
        return rows
    pitch = width + gap
    pieces = [_pieces(segments, row.low, height) for row in rows]
    shifts = [k % 2 * pitch / 2 for k in range(len(rows))]
    centre = (pieces[0][0][0] + pieces[0][-1][1]) / 2
    phases = np.unique(np.concatenate([np.arange(0, pitch, GRID), _middles(pieces, rows, pitch, gap)])).tolist()

    def merit(phase: float) -> tuple[int, float]:
        fits = sum(_on_phase(some, phase + shift, width, pitch) for some, shift in zip(pieces, shifts, strict=True))
        first = _lattice(pieces[0], phase, width, pitch)
        return fits, -abs((first[0] + first[-1] + width) / 2 - centre) if first else -np.inf

    best = max(phases, key=merit)
    return [
        _Row(row.low, tuple(_lattice(some, best + shift, width, pitch)))
        for row, some, shift in zip(rows, pieces, shifts, strict=True)
    ]


def _middles(pieces: list[list[tuple[float, float]]], rows: list[_Row], pitch: float, gap: float) -> list[float]:
    """Phases that put a row of one piece into its middle."""
    found = []
    for some, row in zip(pieces, rows, strict=True):
        if len(some) == 1:
            start, end = some[0]
            found.append(((start + end - (len(row.starts) * pitch - gap)) / 2) % pitch)
    return found


def _on_phase(pieces: list[tuple[float, float]], phase: float, width: float, pitch: float) -> int:
    count = 0
    for start, end in pieces:
        first = np.ceil((start - phase - LOOSE) / pitch)
        last = np.floor((end - width - phase + LOOSE) / pitch)
        count += max(int(last - first) + 1, 0)
    return count


def _lattice(pieces: list[tuple[float, float]], phase: float, width: float, pitch: float) -> list[float]:
    places = []
    for start, end in pieces:
        first = int(np.ceil((start - phase - LOOSE) / pitch))
        last = int(np.floor((end - width - phase + LOOSE) / pitch))
        places += [phase + k * pitch for k in range(first, last + 1)]
    return places
