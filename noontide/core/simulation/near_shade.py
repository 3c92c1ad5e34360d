"""The stages of near shading: the light that the scene leaves of the beam and the diffuse parts, and how it falls on the strings."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import blake2b
from threading import Lock

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.electrical.mixed_strings import LEVELS
from noontide.core.plan.cell_groups import GroupTargets
from noontide.core.scene.solids import Body
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.near import Targets, beam_light, beam_light_again, casters_of, diffuse_light, past_bodies
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Ints = NDArray[np.int64]
MOST_DIRECTIONS = 9000  # of the sun, each on its own; of shorter steps those within a degree share one
SNAP = 1.0  # [°]
COARSE_SNAP = 5.0  # [°]
COARSE_SKY_DIRECTIONS = 256
SHADED = 1e-3  # share of the light, from which on a group counts as shaded
REMEMBERED = 192 * 1024**2  # bytes of beams for the next edit

LOSSES = (
    Loss(
        "near_shade", "Near shading", "sunlight",
        r"\Delta E = -A\sum_t\bigl[(1-\ell_t)\,G_\mathrm{direct}+(1-s)\,G_\mathrm{sky}+(1-b)\,G_\mathrm{band}+(1-g)\,G_\mathrm{ground}\bigr]\Delta t",
        "Bodies of the scene projected along the rays onto every cell group; dome integrated", also="near shading, scene, obstacles, trees, chimney, irradiance loss",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class NearInputs:
    sky: Kept[SunAndWeather]
    targets: GroupTargets
    bodies: tuple[Body, ...]
    horizon: Horizon
    is_coarse: bool = False  # whole modules under suns some degrees apart, for a first look


@dataclass(frozen=True, eq=False)
class NearLight:
    """What the scene leaves of the light on every target, 0..1."""

    beam: Singles  # by direction of the sun, (directions, targets)
    opaque: Singles  # past the bodies that let nothing through; the same array where there are no others
    place: Ints | None  # of each interval among the directions, (light,); None where each has its own
    isotropic: Floats  # (12, targets)
    band: Floats
    ground: Floats


def cast_shadows(row: NearInputs) -> NearLight:
    """Shade of the scene on the cell groups of one surface."""
    sky = row.sky.value
    sun = np.column_stack([sky.east, sky.north, sky.cos_zenith])
    solid = tuple(body for body in row.bodies if not any(body.light))
    has_veils = len(solid) < len(row.bodies)
    directions, months, place = _directions(sun, sky.months, has_veils, COARSE_SNAP if row.is_coarse else 0.0)
    parts = row.targets.groups * row.targets.halves
    beams, opaques, diffuse = [], [], []
    for plane in row.targets.planes:
        others, whole = row.bodies + row.targets.rows, _coarser(plane, row.targets)
        if row.is_coarse:
            beams.append(np.repeat(past_bodies(whole, others, directions, months), parts, axis=1))
            opaques.append(beams[-1])
            diffuse.append(diffuse_light(whole, others, row.horizon, COARSE_SKY_DIRECTIONS))
            continue
        beams.append(_beams.find(plane, others, directions, months))
        opaques.append(_beams.find(plane, solid + row.targets.rows, directions, months) if has_veils else beams[-1])
        diffuse.append(diffuse_light(whole, others, row.horizon, find=_beams.find))
    beam = _side_by_side(beams)
    return NearLight(
        beam=beam,
        opaque=_side_by_side(opaques) if has_veils else beam,
        place=place,
        isotropic=np.repeat(np.concatenate([d.isotropic for d in diffuse], axis=1), parts, axis=1),
        band=np.repeat(np.concatenate([d.band for d in diffuse], axis=1), parts, axis=1),
        ground=np.repeat(np.concatenate([d.ground for d in diffuse], axis=1), parts, axis=1),
    )


def _side_by_side(some: list[Singles]) -> Singles:
    return some[0] if len(some) == 1 else np.concatenate(some, axis=1)


def _coarser(plane: Targets, targets: GroupTargets) -> Targets:
    """Whole modules: the diffuse light differs little over one."""
    parts = targets.groups * targets.halves
    if parts == 1:
        return plane
    pieces = plane.outlines.reshape(-1, parts, 4, 2)
    low, high = pieces.min(axis=(1, 2)), pieces.max(axis=(1, 2))
    return Targets(
        plane.frame,
        np.stack([low, np.column_stack([high[:, 0], low[:, 1]]), high, np.column_stack([low[:, 0], high[:, 1]])], axis=1),
    )


def _directions(sun: Floats, months: Ints, has_veils: bool, snap: float = 0.0) -> tuple[Floats, Ints, Ints | None]:
    """Directions of the sun that stand for all intervals, their months, and the place of each interval among them.

    A snap [°] lets suns share one that are as near; without it they do only where they are very many.
    """
    if len(sun) <= MOST_DIRECTIONS and not snap:
        return sun, months, None
    snap = snap or SNAP
    rise = np.degrees(np.arcsin(np.clip(sun[:, 2], -1, 1)))
    turn = np.degrees(np.arctan2(sun[:, 0], sun[:, 1])) % 360
    cells = np.column_stack(
        [
            np.round(rise / snap),
            np.round(turn * np.cos(np.radians(np.round(rise / snap) * snap)) / snap),
            months if has_veils else months * 0,
        ]
    )
    _, first, place = np.unique(cells.astype(np.int64), axis=0, return_index=True, return_inverse=True)
    place = place.ravel()
    mean = np.stack([np.bincount(place, sun[:, k]) for k in range(3)], axis=1)
    return mean / np.linalg.norm(mean, axis=1, keepdims=True), months[first], place


class _Beams:
    """The last beams of every plane, so that an edit of one body finds again only what that body shades.

    What is answered never depends on what is remembered: each share is computed from all bodies alike.
    """

    def __init__(self) -> None:
        self._kept: OrderedDict[str, tuple[tuple[Body, ...], Singles]] = OrderedDict()
        self._lock = Lock()

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()

    def find(self, plane: Targets, bodies: Sequence[Body], directions: Floats, months: Ints) -> Singles:
        casters = casters_of(bodies, plane.frame)
        mark = blake2b(digest_size=16)
        for part in (plane.frame.origin, plane.frame.axes, plane.outlines, directions, months):
            mark.update(np.ascontiguousarray(part).tobytes())
        mark.update(b"veiled" if any(any(body.light) for body in bodies) else b"solid")
        key = mark.hexdigest()
        with self._lock:
            known = self._kept.get(key)
        if known is None:
            found = beam_light(plane, casters, directions, months)
        else:
            before = {body.fingerprint: body for body in known[0]}
            now = {body.fingerprint: body for body in bodies}
            changed = [before[f] for f in before.keys() - now.keys()] + [now[f] for f in now.keys() - before.keys()]
            found = beam_light_again(plane, casters, directions, months, known[1], changed) if changed else known[1]
        found.flags.writeable = False
        with self._lock:
            self._kept[key] = tuple(bodies), found
            self._kept.move_to_end(key)
            while len(self._kept) > 1 and sum(beam.nbytes for _, beam in self._kept.values()) > REMEMBERED:
                self._kept.popitem(last=False)
        return found


_beams = _Beams()


def forget() -> None:
    """Let go of the beams that are remembered for the next edit."""
    _beams.clear()


@dataclass(frozen=True)
class StringsInShadeInputs:
    near: Kept[NearLight]
    targets: GroupTargets
    strings: tuple[tuple[int, ...], ...]  # indices of the modules of every string


@dataclass(frozen=True, eq=False)
class NearShade:
    """What the scene leaves of the light on the modules of one sub-array."""

    light: Floats  # of the beam, mean over the modules, (light,)
    isotropic: Floats  # of each part of the diffuse light by month, (12,)
    band: Floats
    ground: Floats
    when: Ints  # intervals in which groups differ, (shaded,)
    shares: Singles  # of a string's groups at each level of light from full shade to none, (strings, levels, shaded)


@njit(cache=True, nogil=True)
def count_levels(beam, opaque, when, columns, string_of, sizes, halves, cells, shares, first, last):  # type: ignore[no-untyped-def]
    """Share of every string's groups at each level of light, into `shares` (strings, levels, shaded)."""
    levels = shares.shape[1]
    for n in range(first, last):
        t = when[n]
        for g in range(columns.shape[0]):
            light = 0.0
            for h in range(halves):
                c = columns[g, h]
                clear = opaque[t, c]
                # A shadow over a part of a group covers the same part of a cell's width: the darkest cell bounds the group.
                worst = max(1 - (1 - clear) * cells, 0.0)
                light += worst * (beam[t, c] / clear if clear > 0 else 0.0)
            level = int(np.floor(light / halves * (levels - 1) + 0.5))
            shares[string_of[g], level, n] += 1.0 / sizes[string_of[g]]


def shade_strings(row: StringsInShadeInputs) -> NearShade:
    """The shade of one sub-array: its mean, and the levels of light on the groups of each string."""
    near, targets = row.near.value, row.targets
    columns_of: dict[tuple[int, int], list[int]] = {}
    for column, (module, group) in enumerate(zip(targets.module.tolist(), targets.group.tolist(), strict=True)):
        columns_of.setdefault((module, group), []).append(column)
    groups = [(s, columns_of[m, g]) for s, string in enumerate(row.strings) for m in string for g in range(targets.groups)]
    columns = np.array([c for _, c in groups], dtype=np.int64)
    string_of = np.array([s for s, _ in groups], dtype=np.int64)
    sizes = np.bincount(string_of, minlength=len(row.strings)).astype(float)
    flat = columns.ravel()
    beam = near.beam[:, flat]
    light = beam.mean(axis=1, dtype=float)
    is_mixed = (beam.min(axis=1, initial=1.0) < 1 - SHADED) & (light > 0) & (beam.max(axis=1, initial=0.0) > SHADED)
    if near.place is not None:
        light, is_mixed = light[near.place], is_mixed[near.place]
    when = np.flatnonzero(is_mixed)
    at = when if near.place is None else near.place[when]
    shares = np.zeros((len(row.strings), LEVELS, when.size), dtype=np.float32)
    if when.size:
        inputs = (near.beam, near.opaque, at, columns, string_of, sizes, targets.halves, targets.cells, shares)
        in_chunks(lambda first, last: count_levels(*inputs, first, last), when.size)
    return NearShade(
        light=light,
        isotropic=near.isotropic[:, flat].mean(axis=1),
        band=near.band[:, flat].mean(axis=1),
        ground=near.ground[:, flat].mean(axis=1),
        when=when,
        shares=shares,
    )
