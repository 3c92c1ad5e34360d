"""Shadows of bodies on a plane: projected along the sun's rays, clipped to each target, and measured exactly.

Everything here is in the plane's own coordinates: u and v in it, w out of it. A convex body's shadow is the hull of its projected
corners, cut off where the body dips under the plane; of other bodies every face casts. One shadow on a target is measured by its own
area; several are cut out of the target one after another, which leaves convex pieces. Only where a face is not convex is the union
integrated line by line between the corners of the clipped shadows.

The loops are compiled; the first call of a process takes them from the disk, or compiles them. They stand in one file, since what is kept
compiled goes by the file that a function stands in: a change of one that it calls in another file would go unseen.
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ABOVE = 1e-4  # over the plane, from which something casts on it [m]
GRAZING = 1e-5  # sine of the sun over the plane, below which there is no beam
FEW = 1e-9  # of a target's area
SHORT = 1e-8  # side of a shadow that has no direction worth cutting along [m]
MOST_PIECES = 96  # of a target that shadows leave, before they are measured along lines
MOST_SIDES = 24  # of such a piece
AROUND = 64  # corners around the shadow of an ellipsoid
PIECES = 6  # lines between two corners, for shadows that cross there


class Shapes(NamedTuple):
    """The targets in their plane."""

    outlines: Floats  # (targets, most corners, 2) [m]
    corners: Ints  # of each outline
    areas: Floats  # [m2]
    are_boxes: bool  # whether all of them are rectangles along the axes
    boxes: Floats  # lowest and highest u, lowest and highest v, (targets, 4)


class Lines(NamedTuple):
    """The targets in rows of one height."""

    order: Ints  # targets row by row, from the left
    row_of: Ints  # where each row begins in that order, (rows + 1,)
    row_ends: Floats  # lowest and highest v, (rows, 2)


class Solids(NamedTuple):
    """Bodies one after another, in the coordinates of the plane."""

    points: Floats  # (points, 3)
    point_of: Ints  # where the points of each body begin, (bodies + 1,)
    edges: Ints  # by their two points, (edges, 2)
    edge_of: Ints
    rings: Ints  # points of faces, one face after another; none of a convex body
    ring_of: Ints
    ring_of_body: Ints
    rounds: Floats  # ellipsoids, NaN of other bodies, (bodies, 12)
    extents: Floats  # lowest and highest u, lowest and highest v, highest w, (bodies, 5)
    light: Floats  # that each lets through by month, (bodies, 12)


class Cast(NamedTuple):
    """The shadows of one direction, as polygons one after another."""

    px: Floats
    py: Floats
    starts: Ints
    boxes: Floats
    lights: Floats
    hulls: NDArray[np.bool_]  # which of them are convex


class Room(NamedTuple):
    """Room to work in, kept from target to target."""

    cx: Floats  # clipped shadows
    cy: Floats
    ax: Floats  # a polygon that is being cut, and what is left of it
    ay: Floats
    bx: Floats
    by: Floats
    clips: Ints
    clip_lights: Floats
    vs: Floats  # lines across, and what lies on one of them
    us: Floats
    ls: Floats
    pieces: Floats  # of a target that are still in light
    sides: Ints
    shares: Floats


_compiled = njit(cache=True, nogil=True, error_model="numpy")


@_compiled
def _sort_points(x, y, count):  # type: ignore[no-untyped-def]
    """By x, then by y: steps that shrink, so that many corners of what is round cost little (Shell 1959, with the gaps of Ciura 2001)."""
    for gap in (57, 23, 10, 4, 1):
        if gap > 1 and count < 24:
            continue
        for i in range(gap, count):
            a, b = x[i], y[i]
            j = i - gap
            while j >= 0 and (x[j] > a or (x[j] == a and y[j] > b)):
                x[j + gap], y[j + gap] = x[j], y[j]
                j -= gap
            x[j + gap], y[j + gap] = a, b


@_compiled
def _hull(x, y, count, hx, hy):  # type: ignore[no-untyped-def]
    """Convex hull of points, counterclockwise; how many corners it has (Andrew's monotone chain)."""
    _sort_points(x, y, count)
    k = 0
    for i in range(count):
        while k >= 2 and (hx[k - 1] - hx[k - 2]) * (y[i] - hy[k - 2]) - (hy[k - 1] - hy[k - 2]) * (x[i] - hx[k - 2]) <= 0:
            k -= 1
        hx[k], hy[k] = x[i], y[i]
        k += 1
    # The upper half must not take corners away from the lower one, so its turns are looked at from here on only.
    lower = k + 1
    for i in range(count - 2, -1, -1):
        while k >= lower and (hx[k - 1] - hx[k - 2]) * (y[i] - hy[k - 2]) - (hy[k - 1] - hy[k - 2]) * (x[i] - hx[k - 2]) <= 0:
            k -= 1
        hx[k], hy[k] = x[i], y[i]
        k += 1
    return k - 1


@_compiled
def _clip(px, py, start, count, target, which, corners, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    """A polygon inside a convex target, into ax and ay; how many corners are left (Sutherland and Hodgman)."""
    for i in range(count):
        ax[i], ay[i] = px[start + i], py[start + i]
    n = count
    for e in range(corners):
        x0, y0 = target[which, e, 0], target[which, e, 1]
        f = e + 1 if e + 1 < corners else 0
        dx, dy = target[which, f, 0] - x0, target[which, f, 1] - y0
        # Cross products: a point on the left of the directed side, or on it, is inside, since targets run counterclockwise.
        inside = 0
        for i in range(n):
            inside += dx * (ay[i] - y0) - dy * (ax[i] - x0) >= 0
        if inside == n:
            continue
        if inside == 0:
            return 0
        # Some corners are on either side: walk round once, and put a corner in wherever the side is crossed.
        m = 0
        sx, sy = ax[n - 1], ay[n - 1]
        s = dx * (sy - y0) - dy * (sx - x0)
        for i in range(n):
            tx, ty = ax[i], ay[i]
            t = dx * (ty - y0) - dy * (tx - x0)
            if (s >= 0) != (t >= 0):
                # s and t have different signs here, so that the divisor is never zero.
                part = s / (s - t)
                bx[m], by[m] = sx + part * (tx - sx), sy + part * (ty - sy)
                m += 1
            if t >= 0:
                bx[m], by[m] = tx, ty
                m += 1
            sx, sy, s = tx, ty, t
        n = m
        if n < 3:
            return 0
        for i in range(n):
            ax[i], ay[i] = bx[i], by[i]
    return n


@_compiled
def _area(x, y, start, count):  # type: ignore[no-untyped-def]
    total = 0.0
    for i in range(count):
        j = i + 1 if i + 1 < count else 0
        total += x[start + i] * y[start + j] - x[start + j] * y[start + i]
    return total / 2


@_compiled
def _line_light(v, x, y, starts, lights, number, us, ls):  # type: ignore[no-untyped-def]
    """Light that is missing along one line across several clipped shadows, as a length."""
    spans = 0
    for p in range(number):
        first = spans
        lo, hi = starts[p], starts[p + 1]
        j = hi - 1
        for i in range(lo, hi):
            # Strict on one side only: a line through a corner counts it once, and level sides never.
            if (y[i] > v) != (y[j] > v):
                us[spans] = x[i] + (v - y[i]) / (y[j] - y[i]) * (x[j] - x[i])
                ls[spans] = lights[p]
                spans += 1
            j = i
        for a in range(first + 1, spans):  # pairs of crossings in order are the inside
            key = us[a]
            b = a - 1
            while b >= first and us[b] > key:
                us[b + 1] = us[b]
                b -= 1
            us[b + 1] = key
    # Every crossing is the end of a piece on which the light is one number.
    missing = 0.0
    for a in range(0, spans):
        at = us[a]
        after = np.inf
        for b in range(spans):
            if us[b] > at and us[b] < after:
                after = us[b]
        is_first = True
        for b in range(a):
            if us[b] == at:
                is_first = False
                break
        if not is_first or after == np.inf:
            continue
        # No crossing lies between the two, so what holds in the middle holds for the whole piece; shadows over one another multiply.
        middle = (at + after) / 2
        light = 1.0
        for b in range(0, spans - 1, 2):
            if us[b] < middle and us[b + 1] > middle:
                light *= ls[b]
        missing += (after - at) * (1 - light)
    return missing


@_compiled
def _cast(points, p0, p1, edges, e0, e1, su, sv, wx, wy):  # type: ignore[no-untyped-def]
    """Projected corners of a convex body over the plane; how many."""
    n = 0
    for i in range(p0, p1):
        w = points[i, 2]
        if w > ABOVE:
            wx[n], wy[n] = points[i, 0] - su * w, points[i, 1] - sv * w
            n += 1
    if n < p1 - p0:
        for e in range(e0, e1):
            a, b = p0 + edges[e, 0], p0 + edges[e, 1]
            wa, wb = points[a, 2] - ABOVE, points[b, 2] - ABOVE
            if (wa > 0) != (wb > 0):
                part = wa / (wa - wb)
                wx[n] = points[a, 0] + part * (points[b, 0] - points[a, 0])
                wy[n] = points[a, 1] + part * (points[b, 1] - points[a, 1])
                n += 1
    return n


@_compiled
def _cast_ellipsoid(rounds, b, su, sv, wx, wy):  # type: ignore[no-untyped-def]
    """Corners around the shadow of an ellipsoid, as far as it stands over the plane, counterclockwise; how many.

    Each is the shadow of the point that lies furthest in a direction of the plane: of the ellipsoid, or of its section with the plane.
    """
    a = rounds[b]
    m0, m1, m2 = a[9], a[10], a[11]
    mm = m0 * m0 + m1 * m1 + m2 * m2
    k = ABOVE - a[2]
    if k * k >= mm and k > 0:
        return 0
    rho = np.sqrt(max(1 - k * k / mm, 0.0))
    # Directions by even steps of the shadow's own angle, however long the sun draws it: those of a circle through its Cholesky factor.
    u0, u1, u2, v0, v1, v2 = a[3] - su * m0, a[4] - su * m1, a[5] - su * m2, a[6] - sv * m0, a[7] - sv * m1, a[8] - sv * m2
    l00 = np.sqrt(u0 * u0 + u1 * u1 + u2 * u2)
    l10 = (u0 * v0 + u1 * v1 + u2 * v2) / l00
    l11 = np.sqrt(max(v0 * v0 + v1 * v1 + v2 * v2 - l10 * l10, 1e-18))
    for i in range(AROUND):
        turn = 2 * np.pi * i / AROUND
        q1 = np.sin(turn) / l11
        q0 = (np.cos(turn) - l10 * q1) / l00
        q2 = -(su * q0 + sv * q1)
        p0, p1, p2 = a[3] * q0 + a[6] * q1 + m0 * q2, a[4] * q0 + a[7] * q1 + m1 * q2, a[5] * q0 + a[8] * q1 + m2 * q2
        size = max(np.sqrt(p0 * p0 + p1 * p1 + p2 * p2), 1e-12)
        y0, y1, y2 = p0 / size, p1 / size, p2 / size
        w = a[2] + m0 * y0 + m1 * y1 + m2 * y2
        if w < ABOVE:
            along = (p0 * m0 + p1 * m1 + p2 * m2) / mm
            z0, z1, z2 = p0 - along * m0, p1 - along * m1, p2 - along * m2
            size = max(np.sqrt(z0 * z0 + z1 * z1 + z2 * z2), 1e-12) / rho if rho > 0 else 1.0
            y0, y1, y2 = k * m0 / mm + z0 / size, k * m1 / mm + z1 / size, k * m2 / mm + z2 / size
            w = ABOVE
        wx[i] = a[0] + a[3] * y0 + a[4] * y1 + a[5] * y2 - su * w
        wy[i] = a[1] + a[6] * y0 + a[7] * y1 + a[8] * y2 - sv * w
    return AROUND


@_compiled
def _cast_ring(points, p0, ring, r0, r1, su, sv, wx, wy):  # type: ignore[no-untyped-def]
    """The part of a face over the plane, projected; how many corners."""
    n = 0
    j = p0 + ring[r1 - 1]
    for r in range(r0, r1):
        i = p0 + ring[r]
        wi, wj = points[i, 2] - ABOVE, points[j, 2] - ABOVE
        if (wi > 0) != (wj > 0):
            part = wj / (wj - wi)
            wx[n] = points[j, 0] + part * (points[i, 0] - points[j, 0])
            wy[n] = points[j, 1] + part * (points[i, 1] - points[j, 1])
            n += 1
        if wi > 0:
            w = points[i, 2]
            wx[n], wy[n] = points[i, 0] - su * w, points[i, 1] - sv * w
            n += 1
        j = i
    return n


@_compiled
def _made_convex(x, y, count):  # type: ignore[no-untyped-def]
    """Whether a ring is convex; if so, it runs counterclockwise afterwards."""
    turn, swings, way = 0.0, 0, 0.0
    for i in range(count):
        j, k = (i + 1) % count, (i + 2) % count
        dx, dy = x[j] - x[i], y[j] - y[i]
        bend = dx * (y[k] - y[j]) - dy * (x[k] - x[j])
        if bend * turn < 0:
            return False
        if bend != 0:
            turn = bend
        if dx * way < 0:
            swings += 1
        if dx != 0:
            way = dx
    if swings > 2:  # round its middle more than once
        return False
    if turn < 0:
        for i in range(count // 2):
            j = count - 1 - i
            x[i], x[j] = x[j], x[i]
            y[i], y[j] = y[j], y[i]
    return True


@_compiled
def _most_corners(point_of, edge_of, ring_of):  # type: ignore[no-untyped-def]
    """More corners than the shadows of all bodies have together, a face that names a point several times included."""
    return 64 + 2 * point_of[-1] + edge_of[-1] + 2 * ring_of[-1]


@_compiled
def _may_reach(extents, b, su, sv, whole):  # type: ignore[no-untyped-def]
    """Whether a body's shadow may touch a box: it reaches no further than the foot and the top of the body's own box, each moved along."""
    tall = extents[b, 4]
    if tall <= ABOVE:
        return False
    if extents[b, 0] - max(su * tall, 0.0) >= whole[1] or extents[b, 1] - min(su * tall, 0.0) <= whole[0]:
        return False
    return not (extents[b, 2] - max(sv * tall, 0.0) >= whole[3] or extents[b, 3] - min(sv * tall, 0.0) <= whole[2])


@_compiled
def _shadows(bodies, state, su, sv, whole, wx, wy, cast):  # type: ignore[no-untyped-def]
    """The shadows of all bodies that reach the targets' common box; how many."""
    points, point_of, edges, edge_of, rings, ring_of, ring_of_body, rounds, extents, light = bodies
    px, py, starts, boxes, lights, hulls = cast
    number, used = 0, 0
    for b in range(point_of.size - 1):
        through = light[b, state]
        if through >= 1:
            continue
        if not _may_reach(extents, b, su, sv, whole):
            continue
        first, last = ring_of_body[b], ring_of_body[b + 1]
        is_convex = first == last
        for k in range(first, max(last, first + 1)):
            is_round = not np.isnan(rounds[b, 0])
            if is_round:
                n = _cast_ellipsoid(rounds, b, su, sv, wx, wy)
            elif is_convex:
                n = _cast(points, point_of[b], point_of[b + 1], edges, edge_of[b], edge_of[b + 1], su, sv, wx, wy)
            else:
                n = _cast_ring(points, point_of[b], rings, ring_of[k], ring_of[k + 1], su, sv, wx, wy)
            if n < 3:
                continue
            x0, x1, y0, y1 = np.inf, -np.inf, np.inf, -np.inf
            for i in range(n):
                x0, x1 = min(x0, wx[i]), max(x1, wx[i])
                y0, y1 = min(y0, wy[i]), max(y1, wy[i])
            if x0 >= whole[1] or x1 <= whole[0] or y0 >= whole[3] or y1 <= whole[2]:
                continue
            if is_convex and not is_round:
                n = _hull(wx, wy, n, px[used:], py[used:])
                if n < 3:
                    continue
                hulls[number] = True
            else:
                hulls[number] = is_round or _made_convex(wx, wy, n)
                for i in range(n):
                    px[used + i], py[used + i] = wx[i], wy[i]
            used += n
            boxes[number, 0], boxes[number, 1], boxes[number, 2], boxes[number, 3] = x0, x1, y0, y1
            lights[number] = through
            number += 1
            starts[number] = used
    return number


@_compiled
def _split(ax, ay, n, x0, y0, dx, dy, inx, iny, outx, outy):  # type: ignore[no-untyped-def]
    """Both parts of a convex polygon beside a line: how many corners are to its left, and how many to its right."""
    m, k = 0, 0
    sx, sy = ax[n - 1], ay[n - 1]
    s = dx * (sy - y0) - dy * (sx - x0)
    for i in range(n):
        tx, ty = ax[i], ay[i]
        t = dx * (ty - y0) - dy * (tx - x0)
        # The point on the line belongs to both parts: their areas add up to that of the whole.
        if (s >= 0) != (t >= 0):
            part = s / (s - t)
            cut_x, cut_y = sx + part * (tx - sx), sy + part * (ty - sy)
            inx[m], iny[m] = cut_x, cut_y
            outx[k], outy[k] = cut_x, cut_y
            m, k = m + 1, k + 1
        if t >= 0:
            inx[m], iny[m] = tx, ty
            m += 1
        else:
            outx[k], outy[k] = tx, ty
            k += 1
        sx, sy, s = tx, ty, t
    return m, k


@_compiled
def _lit(targets, t, corners, area, x, y, starts, lights, number, pieces, sides, shares, ax, ay, bx, by):  # type: ignore[no-untyped-def]
    """Area in light beside convex shadows, each weighed by what it lets through; -1 where the pieces are too many.

    `pieces` (2, pieces, sides, 2), `sides` and `shares` (2, pieces) are room to work in: before a shadow and after it.
    """
    # Convex pieces stay convex when a line cuts them. Each shadow cuts every piece along its own sides, one side after another: what falls to the
    # right of a side is outside the shadow and done with; what is left after the last side lies in it. No inclusion and exclusion over pairs of shadows is needed.
    tiny = FEW * area
    now, count = 0, 1
    sides[0, 0], shares[0, 0] = corners, 1.0
    for i in range(corners):
        pieces[0, 0, i, 0], pieces[0, 0, i, 1] = targets[t, i, 0], targets[t, i, 1]
    for p in range(number):
        # The pieces before this shadow and those after it lie in two halves of the same room, which change places.
        after, found = 1 - now, 0
        for q in range(count):
            if found + starts[p + 1] - starts[p] + 1 >= pieces.shape[1]:
                return -1.0
            n = sides[now, q]
            for i in range(n):
                ax[i], ay[i] = pieces[now, q, i, 0], pieces[now, q, i, 1]
            first = found
            j = starts[p + 1] - 1
            for i in range(starts[p], starts[p + 1]):
                dx, dy = x[i] - x[j], y[i] - y[j]
                # A side of no length has no direction, and would send the whole piece to one part by chance.
                if abs(dx) + abs(dy) < SHORT:
                    continue
                n, k = _split(ax, ay, n, x[j], y[j], dx, dy, bx, by, pieces[after, found, :, 0], pieces[after, found, :, 1])
                if k >= 3:
                    sides[after, found], shares[after, found] = k, shares[now, q]
                    if k + 2 >= pieces.shape[2]:
                        return -1.0
                    found += 1
                if n < 3:
                    break
                if n + 2 >= pieces.shape[2]:
                    return -1.0
                for a in range(n):
                    ax[a], ay[a] = bx[a], by[a]
                j = i
            covered = _area(ax, ay, 0, n) if n >= 3 else 0.0
            if covered <= tiny:  # the shadow misses the piece, which stays whole
                found = first
                sides[after, found], shares[after, found] = sides[now, q], shares[now, q]
                for i in range(sides[now, q]):
                    pieces[after, found, i, 0], pieces[after, found, i, 1] = pieces[now, q, i, 0], pieces[now, q, i, 1]
                found += 1
            elif lights[p] > 0:
                sides[after, found], shares[after, found] = n, shares[now, q] * lights[p]
                for i in range(n):
                    pieces[after, found, i, 0], pieces[after, found, i, 1] = ax[i], ay[i]
                found += 1
        now, count = after, found
        if count == 0:
            return 0.0
    total = 0.0
    for q in range(count):
        total += _area(pieces[now, q, :, 0], pieces[now, q, :, 1], 0, sides[now, q]) * shares[now, q]
    return total


@_compiled
def _reach(px, py, start, end, low, high):  # type: ignore[no-untyped-def]
    """How far a polygon reaches from left to right between two heights."""
    u0, u1 = np.inf, -np.inf
    j = end - 1
    for i in range(start, end):
        # Of each side only what lies in the strip counts: a long slanting side reaches less far there than its ends do.
        ya, yb = py[j], py[i]
        if min(ya, yb) < high and max(ya, yb) > low:
            xa, xb = px[j], px[i]
            if ya != yb:
                slope = (xb - xa) / (yb - ya)
                if ya < low:
                    xa, ya = xa + slope * (low - ya), low
                elif ya > high:
                    xa, ya = xa + slope * (high - ya), high
                if yb < low:
                    xb = xa + slope * (low - ya)
                elif yb > high:
                    xb = xa + slope * (high - ya)
            u0, u1 = min(u0, xa, xb), max(u1, xa, xb)
        j = i
    return u0, u1


@_compiled
def _inside(px, py, start, end, low, high):  # type: ignore[no-untyped-def]
    """From where to where a convex polygon covers every height between two that both cross it."""
    u0, u1 = -np.inf, np.inf
    for k in range(2):
        # A convex polygon that spans two levels between the same ends at both covers all in between.
        v = low if k == 0 else high
        a, b = np.inf, -np.inf
        j = end - 1
        for i in range(start, end):
            if (py[i] > v) != (py[j] > v):
                u = px[i] + (v - py[i]) / (py[j] - py[i]) * (px[j] - px[i])
                a, b = min(a, u), max(b, u)
            j = i
        u0, u1 = max(u0, a), min(u1, b)
    return u0, u1


@_compiled
def _in_box(px, py, start, end, box):  # type: ignore[no-untyped-def]
    """Area of a polygon inside a box: along its sides, the integral over v of how far right in the box it lies (Green)."""
    u0, wide, low, high = box[0], box[1] - box[0], box[2], box[3]
    total = 0.0
    j = end - 1
    for i in range(start, end):
        # Measured from the left side of the box, so that what lies to the left of it counts as nothing and what lies to the right as the full width.
        xa, ya, xb, yb = px[j] - u0, py[j], px[i] - u0, py[i]
        j = i
        if (ya <= low and yb <= low) or (ya >= high and yb >= high) or ya == yb or (xa <= 0 and xb <= 0):
            continue
        slope = (xb - xa) / (yb - ya)
        if ya < low:
            xa, ya = xa + slope * (low - ya), low
        elif ya > high:
            xa, ya = xa + slope * (high - ya), high
        if yb < low:
            xb, yb = xb + slope * (low - yb), low
        elif yb > high:
            xb, yb = xb + slope * (high - yb), high
        if xa <= 0 and xb <= 0:
            continue
        if xa >= wide and xb >= wide:
            total += (yb - ya) * wide
        elif abs(xb - xa) < SHORT or (xa >= 0 and xb >= 0 and xa <= wide and xb <= wide):
            total += (yb - ya) * min(max((xa + xb) / 2, 0.0), wide)
        else:
            # The side enters or leaves the box on its way: the integral of min(max(x, 0), wide) over it, in closed form.
            a, b = min(max(xa, 0.0), wide), min(max(xb, 0.0), wide)
            total += (yb - ya) * ((b * b - a * a) / 2 + wide * (max(xb - wide, 0.0) - max(xa - wide, 0.0))) / (xb - xa)
    return abs(total)


@_compiled
def _through(shapes, t, cast, near, some, room):  # type: ignore[no-untyped-def]
    """Share of the light that reaches a target, 0..1."""
    targets, corners, area = shapes.outlines, shapes.corners[t], shapes.areas[t]
    px, py, starts, _, lights, hulls = cast
    cx, cy, ax, ay, bx, by, clips, clip_lights, vs, us, ls, pieces, sides, shares = room
    # First what is cheap: shadows that miss the target go, one that covers all of it ends the search, and one alone needs no more than its area.
    kept, used = 0, 0
    alone = 0.0
    are_hulls = True
    for q in range(some):
        p = near[q]
        n = _clip(px, py, starts[p], starts[p + 1] - starts[p], targets, t, corners, ax, ay, bx, by)
        if n < 3:
            continue
        covered = abs(_area(ax, ay, 0, n))
        if covered <= FEW * area:
            continue
        if lights[p] <= 0 and covered >= (1 - FEW) * area:
            return 0.0
        for i in range(n):
            cx[used + i], cy[used + i] = ax[i], ay[i]
        used += n
        clip_lights[kept] = lights[p]
        are_hulls = are_hulls and hulls[p]
        kept += 1
        clips[kept] = used
        alone = covered * (1 - lights[p])
    if kept == 0:
        return 1.0
    if kept == 1:
        return max(1 - alone / area, 0.0)
    if are_hulls:
        lit = _lit(targets, t, corners, area, cx, cy, clips, clip_lights, kept, pieces, sides, shares, ax, ay, bx, by)
        if lit >= 0:
            return min(lit / area, 1.0)
    # Shadows that are not convex: between two corners in height the width in shadow is a straight function, which the middle of each strip
    # measures exactly; where shadows cross in a strip it is a small error, made smaller by cutting each strip in pieces.
    lines = min(used, vs.size)
    for i in range(lines):
        at = cy[i]
        j = i - 1
        while j >= 0 and vs[j] > at:
            vs[j + 1] = vs[j]
            j -= 1
        vs[j + 1] = at
    missing = 0.0
    for i in range(lines - 1):
        gap = vs[i + 1] - vs[i]
        if gap <= 1e-12:
            continue
        for k in range(PIECES):
            v = vs[i] + gap * (k + 0.5) / PIECES
            missing += _line_light(v, cx, cy, clips, clip_lights, kept, us, ls) * gap / PIECES
    return min(max(1 - missing / area, 0.0), 1.0)


@_compiled
def light_through(shapes, lines, bodies, states, sun, wanted, out, first_direction, last_direction):  # type: ignore[no-untyped-def]
    """Share of the light from each direction that reaches each target, into `out` (directions, targets).

    `wanted` (directions, rows, 2) says from where to where in each row they are asked for; empty, all are. One call does some of the
    directions.
    """
    targets, _, areas, are_boxes, boxes_of = shapes
    order, row_of, row_ends = lines
    point_of, ring_of = bodies.point_of, bodies.ring_of
    largest = _most_corners(point_of, bodies.edge_of, ring_of)
    most = point_of.size + ring_of.size + 2
    everything = np.empty(4)
    everything[0], everything[1] = boxes_of[:, 0].min(), boxes_of[:, 1].max()
    everything[2], everything[3] = boxes_of[:, 2].min(), boxes_of[:, 3].max()
    whole = everything.copy()
    is_part = wanted.shape[0] > 0
    wx, wy, px, py = np.empty(largest), np.empty(largest), np.empty(largest), np.empty(largest)
    starts = np.zeros(most, dtype=np.int64)
    boxes, lights, hulls = np.empty((most, 4)), np.empty(most), np.empty(most, dtype=np.bool_)
    near, left, right, some_near = np.empty(most, np.int64), np.empty(most), np.empty(most), np.empty(most, np.int64)
    dark, clips, clip_lights = np.empty((most, 2)), np.zeros(most + 1, dtype=np.int64), np.empty(most + 1)
    pieces, sides = np.empty((2, MOST_PIECES, MOST_SIDES + targets.shape[1], 2)), np.empty((2, MOST_PIECES), np.int64)
    shares = np.empty((2, MOST_PIECES))
    size, space = 0, 0
    ax, ay, bx, by = np.empty(0), np.empty(0), np.empty(0), np.empty(0)
    cx, cy, vs, us, ls = np.empty(0), np.empty(0), np.empty(0), np.empty(0), np.empty(0)
    # A zigzag gains corners at every side of a target that cuts it, and may run round its corners again and again.
    growth = 3 + targets.shape[1]
    for d in range(first_direction, last_direction):
        # The sun is in the plane or behind it: nothing is taken of a beam that is not there, and no shadow has an end.
        if sun[d, 2] <= GRAZING:
            continue
        if is_part:
            whole[0], whole[1], whole[2], whole[3] = np.inf, -np.inf, np.inf, -np.inf
            for r in range(row_of.size - 1):
                for k in range(wanted[d, r, 0], wanted[d, r, 1]):
                    t = order[k]
                    whole[0], whole[1] = min(whole[0], boxes_of[t, 0]), max(whole[1], boxes_of[t, 1])
                    whole[2], whole[3] = min(whole[2], boxes_of[t, 2]), max(whole[3], boxes_of[t, 3])
            if whole[0] > whole[1]:
                continue
        cast = Cast(px, py, starts, boxes, lights, hulls)
        number = _shadows(bodies, states[d], sun[d, 0] / sun[d, 2], sun[d, 1] / sun[d, 2], whole, wx, wy, cast)
        biggest = 0
        for p in range(number):
            biggest = max(biggest, starts[p + 1] - starts[p])
        # Room to work in grows with the largest shadow so far and is kept: allocating it for each direction would take longer than the casting.
        if growth * biggest + 4 * targets.shape[1] + MOST_SIDES + 16 > size:
            size = growth * biggest + 4 * targets.shape[1] + MOST_SIDES + 16
            ax, ay, bx, by = np.empty(size), np.empty(size), np.empty(size), np.empty(size)
        if growth * starts[number] + 8 * number + 64 > space:
            space = growth * starts[number] + 8 * number + 64
            cx, cy, vs, us, ls = np.empty(space), np.empty(space), np.empty(space), np.empty(space + 2), np.empty(space + 2)
        room = Room(cx, cy, ax, ay, bx, by, clips, clip_lights, vs, us, ls, pieces, sides, shares)
        for r in range(row_of.size - 1):
            first, last = row_of[r], row_of[r + 1]
            if is_part:
                first, last = wanted[d, r, 0], wanted[d, r, 1]
                if first >= last:
                    continue
            # Targets stand in rows of one height. What a shadow reaches in that strip is found once for the row, not for every target in it.
            low, high = row_ends[r, 0], row_ends[r, 1]
            some = 0
            for p in range(number):
                if boxes[p, 2] >= high or boxes[p, 3] <= low:
                    continue
                u0, u1 = _reach(px, py, starts[p], starts[p + 1], low, high)
                if u0 < u1:
                    near[some], left[some], right[some] = p, u0, u1
                    dark[some, 0], dark[some, 1] = np.inf, -np.inf
                    # An opaque convex shadow over the whole strip: whatever stands between the ends of its dark part is dark without any clipping.
                    if hulls[p] and lights[p] <= 0 and boxes[p, 2] < low and boxes[p, 3] > high:
                        dark[some, 0], dark[some, 1] = _inside(px, py, starts[p], starts[p + 1], low, high)
                    some += 1
            for k in range(first, last):
                t = order[k]
                few, is_dark, missing = 0, False, 0.0
                for q in range(some):
                    if left[q] < boxes_of[t, 1] and right[q] > boxes_of[t, 0]:
                        p = near[q]
                        if dark[q, 0] <= boxes_of[t, 0] and dark[q, 1] >= boxes_of[t, 1]:
                            is_dark = True
                            break
                        if are_boxes:
                            covered = _in_box(px, py, starts[p], starts[p + 1], boxes_of[t])
                            if covered <= FEW * areas[t]:
                                continue
                            if lights[p] <= 0 and covered >= (1 - FEW) * areas[t]:
                                is_dark = True
                                break
                            missing = covered * (1 - lights[p])
                        some_near[few] = p
                        few += 1
                if is_dark:
                    out[d, t] = 0.0
                    continue
                if few == 0 or (few == 1 and are_boxes):
                    out[d, t] = max(1 - missing / areas[t], 0.0)
                    continue
                out[d, t] = _through(shapes, t, cast, some_near, few, room)


@_compiled
def reached(boxes_of, lines, bodies, sun, out, first_direction, last_direction):  # type: ignore[no-untyped-def]
    """From where to where in each row of targets the shadows of the bodies may reach, into `out` (directions, rows, 2)."""
    order, row_of, row_ends = lines
    points, point_of, edges, edge_of, rings, ring_of, ring_of_body, rounds, extents, _ = bodies
    largest = _most_corners(point_of, edge_of, ring_of)
    wx, wy, hx, hy = np.empty(largest), np.empty(largest), np.empty(largest), np.empty(largest)
    whole = np.empty(4)
    whole[0], whole[1], whole[2], whole[3] = (
        boxes_of[:, 0].min(),
        boxes_of[:, 1].max(),
        boxes_of[:, 2].min(),
        boxes_of[:, 3].max(),
    )
    widest = np.zeros(row_of.size - 1)
    for r in range(row_of.size - 1):
        for j in range(row_of[r], row_of[r + 1]):
            widest[r] = max(widest[r], boxes_of[order[j], 1] - boxes_of[order[j], 0])
    for d in range(first_direction, last_direction):
        if sun[d, 2] <= GRAZING:
            continue
        su, sv = sun[d, 0] / sun[d, 2], sun[d, 1] / sun[d, 2]
        for b in range(point_of.size - 1):
            if not _may_reach(extents, b, su, sv, whole):
                continue
            first, last = ring_of_body[b], ring_of_body[b + 1]
            for k in range(first, max(last, first + 1)):
                if not np.isnan(rounds[b, 0]):
                    n = _cast_ellipsoid(rounds, b, su, sv, hx, hy)
                elif first == last:
                    n = _cast(points, point_of[b], point_of[b + 1], edges, edge_of[b], edge_of[b + 1], su, sv, wx, wy)
                    if n < 3:
                        continue
                    n = _hull(wx, wy, n, hx, hy)
                else:
                    n = _cast_ring(points, point_of[b], rings, ring_of[k], ring_of[k + 1], su, sv, hx, hy)
                if n < 3:
                    continue
                low, high = np.inf, -np.inf
                for i in range(n):
                    low, high = min(low, hy[i]), max(high, hy[i])
                for r in range(row_of.size - 1):
                    if low >= row_ends[r, 1] or high <= row_ends[r, 0]:
                        continue
                    u0, u1 = _reach(hx, hy, 0, n, row_ends[r, 0], row_ends[r, 1])
                    if u0 >= u1:
                        continue
                    # Targets stand in the order of their left ends.
                    a, z = row_of[r], row_of[r + 1]
                    while a < z:
                        middle = (a + z) // 2
                        if boxes_of[order[middle], 0] + widest[r] > u0:
                            z = middle
                        else:
                            a = middle + 1
                    z = a
                    while z < row_of[r + 1] and boxes_of[order[z], 0] < u1:
                        z += 1
                    if a < z:
                        if out[d, r, 0] >= out[d, r, 1]:
                            out[d, r, 0], out[d, r, 1] = a, z
                        else:
                            out[d, r, 0], out[d, r, 1] = min(out[d, r, 0], a), max(out[d, r, 1], z)
