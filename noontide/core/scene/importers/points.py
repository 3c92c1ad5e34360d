"""Roof planes in point clouds: LAS and LAZ, and plain text of x, y and z."""

import io
import struct
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from noontide.core.scene.importers.planes import outline_of
from noontide.core.scene.importers.problem import UnreadableScene

Floats = NDArray[np.float64]
MOST_READ = 2_000_000
MOST_USED = 60_000  # points that planes are sought among; more are thinned evenly
CLOSEST = 0.05  # side of a cube in which one point is used [m]
NEAR = 0.12  # of a plane, within which a point counts as on it [m]
BESIDE = 1.5  # m, within which a point may belong to a piece of a plane
# Bytes of a LAS header, of one of version 1.4, and the least of a record before and after the points.
LAS_HEADER, LAS_HEADER_14, LAS_RECORD, LAS_LATER_RECORD = 227, 375, 54, 60
SHARINGS = 3  # rounds of sharing the points out and fitting the planes anew
TRIALS = 300
MOST_PLANES = 24
FEWEST = 40  # points of a plane
SMALLEST = 2.0  # area of a plane [m2]
FURTHEST = 5000.0
SEED = 20260101  # the same points give the same planes


def read_points(content: bytes, kind: str) -> Floats:
    """Points (n, 3), their middle at the origin and the lowest at 0.

    Raises
    ------
    UnreadableScene
        If the file is broken or too large.
    """
    points = _text(content) if kind == "xyz" else _las(content)
    if len(points) < FEWEST:
        raise UnreadableScene(f"{kind.upper()}: {len(points)} points; {FEWEST} or more are needed to find a plane.")
    if not np.isfinite(points).all():
        raise UnreadableScene(f"{kind.upper()}: a coordinate is not a number.")
    low, high = points.min(axis=0), points.max(axis=0)
    if np.max(high - low) > 2 * FURTHEST:
        raise UnreadableScene(
            f"{kind.upper()}: the points are {np.max(high - low) / 1000:.0f} km across. Cut out the surroundings of the site; lengths are metres."
        )
    return points - [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]]


def _text(content: bytes) -> Floats:
    rows = []
    for number, line in enumerate(content.decode("utf-8", errors="replace").splitlines(), start=1):
        text = line.replace(",", " ").replace(";", " ").split()
        if not text or text[0].startswith("#") or (number == 1 and not _is_number(text[0])):
            continue
        if len(text) < 3 or not all(map(_is_number, text[:3])):
            raise UnreadableScene(f"XYZ: line {number} has no three numbers: {line[:60]!r}.")
        rows.append((float(text[0]), float(text[1]), float(text[2])))
        if len(rows) > MOST_READ:
            raise UnreadableScene(f"XYZ: more than {MOST_READ:,} points. Thin the file first.")
    return np.array(rows, dtype=float).reshape(-1, 3)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _las(content: bytes) -> Floats:
    import laspy

    _count_records(content)
    try:
        with laspy.open(io.BytesIO(content)) as file:
            if file.header.point_count > 200 * MOST_READ:
                raise UnreadableScene(
                    f"LAS: the header says {file.header.point_count:,} points. Cut out the surroundings of the site."
                )
            parts, step = [], max(1, file.header.point_count // MOST_READ)
            for chunk in file.chunk_iterator(500_000):
                parts.append(np.column_stack([chunk.x, chunk.y, chunk.z])[::step])
    except UnreadableScene:
        raise
    except Exception as error:  # the reader raises whatever it stumbles over
        raise UnreadableScene(f"LAS: the file cannot be read ({type(error).__name__}: {str(error)[:120]}).") from error
    return np.concatenate(parts).astype(float) if parts else np.zeros((0, 3))


def _count_records(content: bytes) -> None:
    """Refuse a header that promises more records than the file can hold: its reader would go on to the last of them.

    References
    ----------
    LAS specification 1.4 R15, tables 3 and 13: places and sizes of the fields.
    """
    if len(content) < LAS_HEADER:
        return
    own, records = struct.unpack_from("<H", content, 94)[0], struct.unpack_from("<I", content, 100)[0]
    later = struct.unpack_from("<I", content, 243)[0] if own >= LAS_HEADER_14 and len(content) >= LAS_HEADER_14 else 0
    if records * LAS_RECORD > len(content) or later * LAS_LATER_RECORD > len(content):
        raise UnreadableScene(
            f"LAS: the header says {max(records, later):,} variable length records, more than {len(content):,} bytes hold. Export the file again."
        )


def planes_in(points: Floats) -> list[dict[str, Any]]:
    """Planes among points, the largest first: `outline` (n, 3), `residual` (root mean square off the plane [m]), `points`.

    Random sample consensus with three neighbouring points at a time; what lies on a plane and hangs together is one face. Points near
    the ground, level and lowest, are left out.

    References
    ----------
    Fischler and Bolles (1981), Comm. ACM 24, 381-395; Schnabel, Wahl and Klein (2007), Computer Graphics Forum 26, 214-226.
    """
    rng = np.random.default_rng(SEED)
    # Of points that lie closer than a plane is sharp, one is as good as many.
    _, first = np.unique(np.floor(points / CLOSEST).astype(np.int64), axis=0, return_index=True)
    points = points[np.sort(first)]
    used = points if len(points) <= MOST_USED else points[rng.choice(len(points), MOST_USED, replace=False)]
    used = used[used[:, 2] > used[:, 2].min() + 0.6]
    pieces: list[Floats] = []
    left = used
    while len(left) >= FEWEST and len(pieces) < MOST_PLANES:
        best = _best_plane(left, rng)
        if best is None:
            break
        normal, offset = best
        on = np.abs(left @ normal - offset) < NEAR
        piece = _largest_piece(left[on])
        if len(piece) < FEWEST:
            break
        pieces.append(piece)
        taken = cKDTree(piece).query(left, distance_upper_bound=1e-6)[0] < 1e-6
        left = left[~taken]
    for _ in range(SHARINGS):
        pieces = _shared_out(pieces)
    found = []
    for piece in pieces:
        centre, normal = _fitted(piece)
        outline = outline_of(piece, centre, normal, SMALLEST)
        if outline is not None:
            off = (piece - centre) @ normal
            found.append({"outline": outline, "residual": float(np.sqrt(np.mean(off**2))), "points": len(piece)})
    return sorted(found, key=lambda plane: -shapely.Polygon(plane["outline"][:, :2]).area)


def _fitted(piece: Floats) -> tuple[Floats, Floats]:
    """Middle and upward normal of the plane through points."""
    centre = piece.mean(axis=0)
    normal = np.linalg.svd(piece - centre, full_matrices=False)[2][2]
    return centre, normal if normal[2] >= 0 else -normal


def _shared_out(pieces: list[Floats]) -> list[Floats]:
    """Every point given to the plane that it is nearest to, of those that it lies beside: the first one found takes some beyond the ridge."""
    if not pieces:
        return []
    every = np.concatenate(pieces)
    planes = [_fitted(piece) for piece in pieces]
    off = np.stack([np.abs((every - centre) @ normal) for centre, normal in planes])
    for k, piece in enumerate(pieces):
        reach = cKDTree(piece).query(every, distance_upper_bound=BESIDE)[0]
        off[k, ~np.isfinite(reach)] = np.inf
    nearest = off.argmin(axis=0)
    shared = (every[(nearest == k) & (off[k] < NEAR)] for k in range(len(pieces)))
    return [piece for some in shared if len(piece := _largest_piece(some)) >= FEWEST]


def _best_plane(points: Floats, rng: np.random.Generator) -> tuple[Floats, float] | None:
    tree = cKDTree(points)
    best, most = None, FEWEST - 1
    spacing = float(np.sqrt(np.prod(np.ptp(points[:, :2], axis=0) + 0.1) / len(points)))
    for seed in rng.integers(len(points), size=TRIALS):
        near = tree.query_ball_point(points[seed], max(6 * spacing, 0.8))
        if len(near) < 3:
            continue
        a, b, c = points[rng.choice(near, 3, replace=False)]
        normal = np.cross(b - a, c - a)
        length = np.linalg.norm(normal)
        if length < 1e-6 or abs(normal[2]) < 0.15 * length:
            continue
        normal = normal / length
        count = int(np.count_nonzero(np.abs(points @ normal - a @ normal) < NEAR))
        if count > most:
            best, most = (normal, float(a @ normal)), count
    return best


def _largest_piece(points: Floats) -> Floats:
    """The largest set of points that hang together."""
    if len(points) < 3:
        return points
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    tree = cKDTree(points)
    gap = 3 * float(np.median(tree.query(points, k=2)[0][:, 1])) + 0.25
    pairs = tree.query_pairs(gap, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points)))
    _, label = connected_components(graph, directed=False)
    return points[label == np.bincount(label).argmax()]
