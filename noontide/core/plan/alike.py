"""Modules of a large field that see the same around them: one stands for all that are alike.

In long even rows nearly every module has the same rows before it, as far as it can see. What a module sees is written down as places along its
own row and the next ones where something stands or nothing does, finer near by and coarser far away, and as the direction and distance of
whatever else rises over it, in steps that are a share of the distance. Modules with the same description are alike.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.plan.cell_groups import GroupTargets
from noontide.core.scene.solids import Body
from noontide.core.shading.near import Targets

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MANY = 1500  # modules of a surface, from which on some stand for others
WORTH = 0.8  # share of the modules, above which it is not worth the while
BEFORE = 3  # rows to either side that are looked at: on even ground each hides what lies behind it
# Places along a row at which it is looked whether something stands there: every metre near by, then ever farther apart [m].
ALONG = np.concatenate([np.arange(0.5, 3, 1.0), 2.5 * 1.5 ** np.arange(1, 9)])
CLEAR = np.tan(np.radians(0.5))  # rise of a body over its distance, below which it takes nothing that counts
CELL = 1 / 3  # of the distance, to which the place of a body is known
FAR = 8.0  # heights of a body, from which on its place counts for less and less: it takes but the lowest sun
CLEAN = 100  # places are told apart to a centimetre


@dataclass(frozen=True, eq=False)
class Alike:
    """Some cell groups that stand for all."""

    targets: GroupTargets
    column: Ints  # of each cell group of the surface among them, (targets,)


def alike(targets: GroupTargets, bodies: Sequence[Body]) -> Alike | None:
    """The modules that stand for all of a surface; None where they are few, or hardly any two are alike.

    Parameters
    ----------
    bodies : sequence of Body
        What stands around, beside the rows of racks of the targets themselves.
    """
    count, parts = len(targets.ids), targets.groups * targets.halves
    if count < MANY or targets.module.size != count * parts:
        return None
    middles, sizes = _middles(targets, parts)
    rows, others = _rows_and_others(targets)
    words = [np.round(sizes * CLEAN)]
    words += [_along_rows(middles, rows, targets)] if rows else []
    words += _around(middles, [*bodies, *others])
    told = np.concatenate(words, axis=1).astype(np.int32)
    _, kind = np.unique(np.ascontiguousarray(told).view(f"V{told.shape[1] * 4}").ravel(), return_inverse=True)
    kinds = int(kind.max()) + 1
    if kinds > WORTH * count:
        return None
    stands = _in_the_middle(middles, kind, kinds)
    return _alone(targets, stands, kind, parts)


def _middles(targets: GroupTargets, parts: int) -> tuple[Floats, Floats]:
    """Middles of the modules in space, and their width and height, in the order of their ids."""
    middles, sizes = [], []
    for plane in targets.planes:
        pieces = plane.outlines.reshape(-1, parts * 4, 2)
        low, high = pieces.min(axis=1), pieces.max(axis=1)
        flat = np.column_stack([(low + high) / 2, np.zeros(len(low))])
        middles.append(plane.frame.out_of(flat))
        sizes.append(high - low)
    order = np.argsort(targets.module[::parts], kind="stable")
    return np.concatenate(middles)[order], np.concatenate(sizes)[order]


def _rows_and_others(targets: GroupTargets) -> tuple[list[Body], list[Body]]:
    """Rows of racks that run the way of the targets' own, and those that do not."""
    along = targets.planes[0].frame.axes[0]
    rows: list[Body] = []
    others: list[Body] = []
    for body in targets.rows:
        edge = body.points[1] - body.points[0]
        is_along = len(body.points) == 4 and np.linalg.norm(np.cross(edge, along)) < 1e-6 * max(np.linalg.norm(edge), 1.0)
        (rows if is_along else others).append(body)
    return rows, others


def _along_rows(middles: Floats, rows: Sequence[Body], targets: GroupTargets) -> Floats:
    """Of the rows next to each module: how far away and how high they are, and where along them something stands."""
    along = targets.planes[0].frame.axes[0]
    level = along[:2] / np.linalg.norm(along[:2])
    across = np.array([-level[1], level[0], 0.0])
    corners = np.array([body.points for body in rows])
    starts, ends = (corners @ along).min(axis=1), (corners @ along).max(axis=1)
    places = np.column_stack([(corners @ across).mean(axis=1), corners[..., 2].mean(axis=1)])
    # One line of the field is all that stands at one distance and one height.
    lines, line_of = np.unique(np.round(places * CLEAN), axis=0, return_inverse=True)
    line_of = line_of.ravel()
    own = np.column_stack([middles @ across, middles[:, 2]])
    stands, stand_of = np.unique(np.round(own * CLEAN), axis=0, return_inverse=True)
    stand_of = stand_of.ravel()
    offsets = np.concatenate([-ALONG[::-1], ALONG])
    found = np.zeros((len(middles), 2 * BEFORE * 2 + 2 * BEFORE * ((offsets.size + 30) // 31)), dtype=np.float64)
    for k, stand in enumerate(stands):
        mine = np.flatnonzero(stand_of == k)
        away = lines[:, 0] - stand[0]
        nearest: list[int] = []
        for side in (1, -1):
            some = np.flatnonzero(side * away > CLEAN * 0.2)
            nearest += some[np.argsort(side * away[some], kind="stable")][:BEFORE].tolist()
        x = (middles[mine] @ along)[:, np.newaxis] + offsets
        words = []
        for number in nearest:
            on_it = np.flatnonzero(line_of == number)
            on_it = on_it[np.argsort(starts[on_it])]
            at = np.searchsorted(starts[on_it], x, side="right") - 1
            is_there = (at >= 0) & (x <= ends[on_it][np.maximum(at, 0)])
            words.append(np.broadcast_to(lines[number] - stand, (mine.size, 2)))
            words.append(_as_numbers(is_there))
        if words:
            said = np.concatenate(words, axis=1)
            found[mine, : said.shape[1]] = said
    return found


def _as_numbers(bits: NDArray[np.bool_]) -> Floats:
    """Rows of bits as rows of numbers of 31 bits each."""
    padded = np.zeros((len(bits), (bits.shape[1] + 30) // 31 * 31), dtype=np.float64)
    padded[:, : bits.shape[1]] = bits
    return np.asarray(padded.reshape(len(bits), -1, 31) @ 2.0 ** np.arange(31))


def _around(middles: Floats, bodies: Sequence[Body]) -> list[Floats]:
    """Of every body that rises over some module: the cell, a share of the distance wide, in which it lies as seen from each."""
    found = []
    for body in bodies:
        low, high = body.points.min(axis=0), body.points.max(axis=0)
        if body.ellipsoid is not None:
            x, y, z, level, upright = body.ellipsoid
            low, high = np.array([x - level, y - level, z - upright]), np.array([x + level, y + level, z + upright])
        gap = np.maximum(np.maximum(low[:2] - middles[:, :2], middles[:, :2] - high[:2]), 0.0)
        distance = np.maximum(np.hypot(*gap.T), 0.25)
        rise = high[2] - middles[:, 2]
        rises = rise > CLEAR * distance
        if not rises.any():
            continue
        cell = distance * CELL * np.maximum(1.0, distance / (FAR * np.maximum(rise, 0.1)))
        cell = 2.0 ** np.round(np.log2(cell))
        away = (low + high)[:2] / 2 - middles[:, :2]
        told = np.column_stack([np.floor(away / cell[:, np.newaxis]), np.log2(cell), np.floor(rise / cell)])
        found.append(np.where(rises[:, np.newaxis], told, 0.0))
    return found


def _in_the_middle(middles: Floats, kind: Ints, kinds: int) -> Ints:
    """Of each kind the module that is nearest to the middle of all that are alike."""
    counts = np.bincount(kind, minlength=kinds)
    mean = np.stack([np.bincount(kind, middles[:, k], kinds) for k in range(3)], axis=1) / counts[:, np.newaxis]
    order = np.lexsort((np.linalg.norm(middles - mean[kind], axis=1), kind))
    return np.asarray(order[np.cumsum(counts) - counts])


def _alone(targets: GroupTargets, stands: Ints, kind: Ints, parts: int) -> Alike:
    """The targets of some modules alone, and the place of every target of all among theirs."""
    is_kept = np.zeros(len(targets.ids), dtype=np.bool_)
    is_kept[stands] = True
    planes, modules, at = [], [], 0
    for plane in targets.planes:
        mine = targets.module[at : at + len(plane.outlines)]
        at += len(plane.outlines)
        kept = is_kept[mine]
        if kept.any():
            planes.append(Targets(plane.frame, plane.outlines[kept]))
            modules.append(mine[kept])
    module = np.concatenate(modules)
    first_of = np.zeros(len(targets.ids), dtype=np.int64)
    first_of[module[::parts]] = np.arange(0, module.size, parts)
    group = targets.group[np.isin(targets.module, stands)]
    part = np.tile(np.arange(parts), len(targets.ids))
    column = first_of[stands[kind[targets.module]]] + part
    return Alike(replace(targets, planes=tuple(planes), module=module, group=group), column)
