"""The cell groups of modules on a plan as targets of shade, and what casts on them."""

import itertools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
import shapely
from numpy.typing import NDArray

from noontide.core.plan.face_modules import FaceModules
from noontide.core.scene.frame import Frame
from noontide.core.scene.solids import Body, Face
from noontide.core.shading.near import Targets

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
NEAR = 0.12  # between modules of a row, up to which they cast as one [m]
MOST_SAMPLES = 3000
SAMPLES = 150  # pieces of a face on which no module lies yet


@dataclass(frozen=True)
class RackRows:
    """The rows of a plan's racks as a section across them."""

    slant: float  # height of a row along its slope [m]
    pitch: float  # from row to row, level [m]
    azimuth: float  # that they face [°]


@dataclass(frozen=True, eq=False)
class GroupTargets:
    """Cell groups plane by plane; `module` and `group` say to which module and which group each target belongs."""

    planes: tuple[Targets, ...]
    module: Ints  # index of the module, (targets,)
    group: Ints  # of the module, (targets,)
    ids: tuple[str, ...]  # of the modules
    rows: tuple[Body, ...]  # the rows of racks, which shade one another
    groups: int  # a module has
    halves: int
    cells: float  # of a half in series: shading the whole of one stops it
    racks: RackRows | None = None  # the rows in which they stand
    behind: NDArray[np.bool_] | None = None  # whether another row stands before each module, (modules,)

    @cached_property
    def fingerprint(self) -> str:
        """Hash of all that shade on them depends on."""
        mark = blake2b(digest_size=16)
        for plane in self.planes:
            for part in (plane.frame.origin, plane.frame.axes, plane.outlines):
                mark.update(np.ascontiguousarray(part).tobytes())
        for body in self.rows:
            mark.update(body.fingerprint.encode())
        mark.update(repr((self.ids, self.groups, self.halves, self.cells)).encode())
        mark.update(self.module.tobytes())
        mark.update(repr(self.racks).encode() + (b"" if self.behind is None else self.behind.tobytes()))
        return mark.hexdigest()


def groups_of(plan: FaceModules, racks: Iterable[Body] = ()) -> GroupTargets:
    """The cell groups of every module of a plan, in the shade of its own rows and of the racks of other plans.

    Groups lie side by side across a module's width; the halves of half-cut ones over its length.
    """
    module = plan.module
    groups, halves = module.bypass_diodes, 2 if module.half_cut else 1
    keys = list(plan.ids)
    index = {key: k for k, key in enumerate(keys)}
    g, h = (each.ravel() for each in np.meshgrid(np.arange(groups), np.arange(halves), indexing="ij"))
    across, along = np.stack([g, g + 1]) / groups, np.stack([h, h + 1]) / halves  # (2, parts)
    planes, owner = [], []
    for some, frame in plan.planes(keys):
        if not some:
            continue
        quads = plan.quads(some)
        low, size = quads[:, 0], quads[:, 2] - quads[:, 0]
        lies = np.array([plan.placed[key].is_landscape for key in some])[:, np.newaxis, np.newaxis]
        u = low[:, 0, np.newaxis, np.newaxis] + np.where(lies, along, across) * size[:, 0, np.newaxis, np.newaxis]
        v = low[:, 1, np.newaxis, np.newaxis] + np.where(lies, across, along) * size[:, 1, np.newaxis, np.newaxis]
        outlines = np.stack([u[:, [0, 1, 1, 0]], v[:, [0, 0, 1, 1]]], axis=-1)  # (modules, corners, parts, 2)
        planes.append(Targets(frame, np.ascontiguousarray(outlines.swapaxes(1, 2).reshape(-1, 4, 2))))
        owner.append(np.repeat([index[key] for key in some], groups * halves))
    rows = (*rows_of(plan), *racks)
    return GroupTargets(
        tuple(planes), np.concatenate([np.zeros(0, np.int64), *owner]), np.tile(g.astype(np.int64), len(keys)), tuple(keys), rows,
        groups, halves, max(module.cells_in_series / groups, 1.0), *_racks_of(plan, keys),
    )  # fmt: skip


def _racks_of(plan: FaceModules, keys: list[str]) -> tuple[RackRows | None, NDArray[np.bool_] | None]:
    """The rows of a plan's racks, and which modules stand behind another row; none where modules lie flush, stand in pairs, or in one row."""
    if plan.racks is None or plan.is_paired or not keys:
        return None, None
    boxes = plan.boxes(keys)
    depths = boxes[:, 1].round(2)
    rows = np.unique(depths)
    if rows.size < 2:
        return None, None
    pitch = float(np.median(np.diff(rows)))
    behind = np.zeros(len(keys), dtype=np.bool_)
    for before, row in itertools.pairwise(rows):
        if row - before > 2 * pitch:
            continue
        front, mine = boxes[depths == before], np.flatnonzero(depths == row)
        front = front[np.argsort(front[:, 0])]
        after = np.searchsorted(front[:, 0] + front[:, 2], boxes[mine, 0], side="right")
        left = np.append(front[:, 0], np.inf)[after]
        behind[mine] = left < boxes[mine, 0] + boxes[mine, 2]
    sizes = [plan.module.width if plan.placed[key].is_landscape else plan.module.length for key in keys]
    return RackRows(float(np.median(sizes)), pitch, plan.racks_azimuth), behind


def rows_of(plan: FaceModules) -> list[Body]:
    """The rows of a plan's racks as bodies that cast shade; none where modules lie flush."""
    if plan.racks is None:
        return []
    planes = plan.planes(list(plan.ids))
    return [body for number, (some, frame) in enumerate(planes) if some for body in _row_bodies(plan, some, frame, number)]


def racks_beside(plans: Mapping[str, FaceModules], key: str | None) -> list[Body]:
    """The rows of racks of all plans but one, which shade it."""
    return [body for other, plan in plans.items() if other != key for body in rows_of(plan)]


def _row_bodies(plan: FaceModules, keys: list[str], frame: Frame, number: int) -> list[Body]:
    """A row of racks as few flat bodies: neighbours cast as one."""
    quads = plan.quads(keys)
    quads = quads[np.argsort(quads[:, 0, 0])]
    before, after = quads[:-1], quads[1:]
    goes_on = (after[:, 0, 0] - before[:, 1, 0] <= NEAR) & np.isclose(after[:, [0, 3], 1], before[:, [0, 3], 1]).all(axis=1)
    firsts = np.flatnonzero(np.concatenate([[True], ~goes_on]))
    lasts = np.append(firsts[1:], len(quads)) - 1
    ring = np.arange(4, dtype=np.int64)
    runs = np.stack([quads[firsts, 0], quads[lasts, 1], quads[lasts, 2], quads[firsts, 3]], axis=1)
    return [
        Body(f"row-{number}-{k}", "rows", "Rows in front", points, np.zeros((0, 2), np.int64), (ring,))
        for k, points in enumerate(frame.out_of(runs))
    ]


def pieces_of(face: Face, spacing: float | None = None, racks: Iterable[Body] = ()) -> GroupTargets:
    """A face on which no module lies yet, as pieces all over it, each a module of one group.

    Parameters
    ----------
    spacing : float, optional
        Of the pieces [m]; by itself it makes some 150 of them. No face has more than a few thousand.
    racks : iterable of Body
        Rows of racks that shade them.
    """
    outline = face.frame.into(face.outline)[:, :2]
    low, high = outline.min(axis=0), outline.max(axis=0)
    box = float(np.prod(high - low))
    size = max(np.sqrt(box / SAMPLES) if spacing is None else max(spacing, np.sqrt(box / MOST_SAMPLES)), 0.05)
    pieces = grid_of(face, size)
    lifted = Frame(face.frame.out_of(np.array([0.0, 0.0, 0.02])), face.normal, face.level_azimuth)
    count = len(pieces)
    return GroupTargets(
        (Targets(lifted, pieces),), np.arange(count), np.zeros(count, np.int64),
        tuple(f"p{k + 1}" for k in range(count)), tuple(racks), 1, 1, 1.0,
    )  # fmt: skip


def grid_of(face: Face, spacing: float) -> Floats:
    """Squares of a grid whose middles lie on a face and on nothing that stands there, (squares, 4, 2) in the face's coordinates."""
    outline = face.frame.into(face.outline)[:, :2]
    low, high = outline.min(axis=0), outline.max(axis=0)
    us = np.arange(low[0] + spacing / 2, high[0], spacing)
    vs = np.arange(low[1] + spacing / 2, high[1], spacing)
    middles = np.stack(np.meshgrid(us, vs), axis=-1).reshape(-1, 2)
    if not len(middles):
        middles = ((low + high) / 2)[np.newaxis]
    polygon = shapely.Polygon(outline, [face.frame.into(hole.outline)[:, :2] for hole in face.holes] if face.holes else None)
    inside = shapely.contains_xy(polygon if polygon.is_valid else shapely.Polygon(outline), middles)
    kept = middles[inside] if inside.any() else outline.mean(axis=0)[np.newaxis]
    half = spacing / 2 * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
    return kept[:, np.newaxis, :] + half
