"""The stages of near shading: the light that the scene leaves of the beam and the diffuse parts, and how it falls on the strings."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from hashlib import blake2b
from threading import Lock
from weakref import ref

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.electrical.string_curves import StringKinds
from noontide.core.lately import Lately
from noontide.core.plan.alike import alike
from noontide.core.plan.cell_groups import GroupTargets, RackRows
from noontide.core.scene.solids import Body
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.near import (
    Casters,
    Targets,
    beam_light,
    beam_light_again,
    casters_of,
    diffuse_light,
    is_veiled,
    those_that_rise,
)
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
COARSE_SKY_DIRECTIONS = 192
COARSE_RISE = 5.0  # elevation over the targets that a body must reach to count in a first look [°]
SHADED = 1e-3  # share of the light, from which on a group counts as shaded
SAME = 5e-4  # of the light: groups that differ by less are one level
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
    column: Ints | None = None  # of each target among these, where one stands for all that are alike; None where each has its own

    def of(self, targets: Ints) -> Ints:
        """Columns of some targets."""
        return targets if self.column is None else self.column[targets]


def cast_shadows(row: NearInputs) -> NearLight:
    """Shade of the scene on the cell groups of one surface."""
    column = None
    if (some := alike(row.targets, row.bodies)) is not None:
        row, column = replace(row, targets=some.targets), some.column
    has_veils = is_veiled(row.bodies)
    solid = tuple(body for body in row.bodies if not any(body.light)) if has_veils else row.bodies
    directions, months, place = _directions_of(row.sky, has_veils, COARSE_SNAP if row.is_coarse else 0.0)
    parts = row.targets.groups * row.targets.halves
    beams, opaques, diffuse = [], [], []
    for plane in row.targets.planes:
        others, whole = row.bodies + row.targets.rows, _coarser(plane, row.targets)
        if row.is_coarse:
            casters = casters_of(others, plane.frame, only=those_that_rise(others, whole, COARSE_RISE))
            beams.append(np.repeat(beam_light(whole, casters, directions, months), parts, axis=1))
            opaques.append(beams[-1])
            look = partial(_light_past, casters)
            diffuse.append(diffuse_light(whole, others, row.horizon, COARSE_SKY_DIRECTIONS, look))
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
        column=column,
    )


def _light_past(casters: Casters | None, targets: Targets, _: Sequence[Body], directions: Floats, months: Ints) -> Singles:
    return beam_light(targets, casters, directions, months)


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


_remembered: Lately[tuple[Floats, Ints, Ints | None]] = Lately(8)


def _directions_of(kept: Kept[SunAndWeather], has_veils: bool, snap: float) -> tuple[Floats, Ints, Ints | None]:
    """`_directions` of a sky, found once for all the surfaces under it."""

    def make() -> tuple[Floats, Ints, Ints | None]:
        sky = kept.value
        found = _directions(np.column_stack([sky.east, sky.north, sky.cos_zenith]), sky.months.copy(), has_veils, snap)
        for array in found[:2]:
            array.flags.writeable = False
        return found

    return _remembered.find((kept.key, has_veils, snap), make)


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


_digests: dict[int, tuple[ref, bytes]] = {}


def _digest_of(array: NDArray) -> bytes:
    """Hash of an array, found once as long as it is the same one: those of the sun and the dome come again and again."""
    known = _digests.get(id(array))
    if known is not None and known[0]() is array:
        return known[1]
    digest = blake2b(np.ascontiguousarray(array).tobytes(), digest_size=16).digest()
    if not array.flags.writeable:
        if len(_digests) > 256:
            _digests.clear()
        _digests[id(array)] = ref(array), digest
    return digest


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
        mark = blake2b(digest_size=16)
        for part in (plane.frame.origin, plane.frame.axes, plane.outlines):
            mark.update(np.ascontiguousarray(part).tobytes())
        mark.update(_digest_of(directions) + _digest_of(months))
        mark.update(b"veiled" if is_veiled(tuple(bodies)) else b"solid")
        key = mark.hexdigest()
        with self._lock:
            known = self._kept.get(key)
        if known is None:
            found = beam_light(plane, casters_of(bodies, plane.frame), directions, months)
        else:
            before = {body.fingerprint: body for body in known[0]}
            now = {body.fingerprint: body for body in bodies}
            changed = [before[f] for f in before.keys() - now.keys()] + [now[f] for f in now.keys() - before.keys()]
            found = beam_light_again(plane, bodies, directions, months, known[1], changed) if changed else known[1]
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
    banks: tuple[
        tuple[tuple[int, ...], ...], ...
    ]  # what works together, mostly the strings on a tracker: of each the indices of its modules
    weight: float  # of a bank, shared by its strings


@dataclass(frozen=True, eq=False)
class NearShade:
    """What the scene leaves of the light on the modules of one sub-array."""

    light: Floats  # of the beam, mean over the modules, (light,)
    isotropic: Floats  # of each part of the diffuse light by month, (12,)
    band: Floats
    ground: Floats
    ground_between: Floats  # what of the ground's part is seen between rows of racks, whose ground lies in their shade, (12,)
    racks: RackRows | None  # those rows
    when: Ints  # intervals in which groups differ, (shaded,)
    kinds: StringKinds  # of strings in every bank in them


@njit(cache=True, nogil=True)
def sort_groups(beam, opaque, when, columns, string_first, bank_first, many, halves, cells, is_filling, kinds, levels, first_kind, first_level, weight, level, light, share, start, end):  # type: ignore[no-untyped-def]  # fmt: skip
    """The kinds of strings by the light on their groups: counted into `kinds` and `levels`, (shaded, banks), or filled in at `first_kind` and `first_level`."""
    banks = bank_first.size - 1
    most_groups, most_strings = 0, 0
    for b in range(banks):
        most_strings = max(most_strings, bank_first[b + 1] - bank_first[b])
    for s in range(string_first.size - 1):
        most_groups = max(most_groups, string_first[s + 1] - string_first[s])
    of_groups = np.empty(most_groups)
    known = np.empty((most_strings, most_groups, 2))  # light and share of the levels of each kind
    size, count = np.empty(most_strings, np.int64), np.empty(most_strings)
    for n in range(start, end):
        t = when[n]
        for b in range(banks):
            number = 0
            for s in range(bank_first[b], bank_first[b + 1]):
                groups = string_first[s + 1] - string_first[s]
                for g in range(groups):
                    found = 0.0
                    for h in range(halves):
                        c = columns[string_first[s] + g, h]
                        clear = opaque[t, c]
                        # A shadow over a part of a group covers the same part of a cell's width: the darkest cell bounds the group.
                        worst = max(1 - (1 - clear) * cells, 0.0)
                        found += worst * (beam[t, c] / clear if clear > 0 else 0.0)
                    found /= halves
                    k = g
                    while k > 0 and of_groups[k - 1] < found:
                        of_groups[k] = of_groups[k - 1]
                        k -= 1
                    of_groups[k] = found
                # Groups within a hair of one another are one level, with their mean.
                here, g = 0, 0
                while g < groups:
                    last, total = g, 0.0
                    while last < groups and of_groups[last] > of_groups[g] - SAME:
                        total += of_groups[last]
                        last += 1
                    known[number, here, 0], known[number, here, 1] = total / (last - g), (last - g) / groups
                    here += 1
                    g = last
                size[number], count[number] = here, many[s]
                for other in range(number):
                    if size[other] != here:
                        continue
                    is_same = True
                    for k in range(here):
                        if known[other, k, 1] != known[number, k, 1] or abs(known[other, k, 0] - known[number, k, 0]) > SAME / 4:
                            is_same = False
                            break
                    if is_same:
                        count[other] += many[s]
                        number -= 1
                        break
                number += 1
            if not is_filling:
                kinds[n, b] = number
                for i in range(number):
                    levels[n, b] += size[i]
                continue
            at = first_level[n, b]
            of_bank = 0.0
            for s in range(bank_first[b], bank_first[b + 1]):
                of_bank += many[s]
            for i in range(number):
                weight[first_kind[n, b] + i] = count[i] / of_bank
                level[first_kind[n, b] + i] = at
                for k in range(size[i]):
                    light[at], share[at] = known[i, k, 0], known[i, k, 1]
                    at += 1


def shade_strings(row: StringsInShadeInputs) -> NearShade:
    """The shade of one sub-array: its mean, and how light falls on the groups of each string."""
    near, targets = row.near.value, row.targets
    strings = [string for bank in row.banks for string in bank]
    of_modules = np.lexsort((targets.group, targets.module)).reshape(-1, targets.groups, targets.halves)
    own = of_modules[np.array([m for string in strings for m in string], dtype=np.int64)]
    columns = near.of(own).reshape(-1, targets.halves)
    # Where modules stand for others, the same columns come again and again.
    flat, counts = np.unique(columns, return_counts=True)
    parts = counts / counts.sum()
    beam, opaque = near.beam[:, flat], near.opaque[:, flat] if near.opaque is not near.beam else None
    light, darkest, brightest = beam @ parts, beam.min(axis=1, initial=1.0), beam.max(axis=1, initial=0.0)
    # Under an even veil all groups have the mean light; where an edge of shade lies over them, the darkest cell counts.
    has_edges = (darkest if opaque is None else opaque.min(axis=1, initial=1.0)) < 1 - SHADED
    is_mixed = (light > 0) & (brightest > SHADED) & (has_edges | (brightest - darkest > SHADED))
    if near.place is not None:
        light, is_mixed = light[near.place], is_mixed[near.place]
    when = np.flatnonzero(is_mixed)
    at = when if near.place is None else near.place[when]
    return NearShade(
        light=light,
        isotropic=near.isotropic[:, flat] @ parts,
        band=near.band[:, flat] @ parts,
        ground=near.ground[:, flat] @ parts,
        ground_between=_between(near, targets, own.ravel()),
        racks=targets.racks,
        when=when,
        kinds=_kinds(row, near, at, columns),
    )


def _between(near: NearLight, targets: GroupTargets, columns: Ints) -> Floats:
    if targets.behind is None:
        return np.zeros(12)
    return (near.ground[:, near.of(columns)] * targets.behind[targets.module[columns]]).mean(axis=1)


def _read_only(array: Singles) -> Singles:
    """A view that may not be written to, as which remembered beams come: to the compiler others would be of another type."""
    view = array.view()
    view.flags.writeable = False
    return view


def _kinds(row: StringsInShadeInputs, near: NearLight, at: Ints, columns: Ints) -> StringKinds:
    """The kinds of strings in every bank for directions of the sun: counted, then filled in. Strings of the same light are looked at once."""
    sizes = iter(len(string) * row.targets.groups for bank in row.banks for string in bank)
    strings: list[dict[bytes, tuple[Ints, int]]] = []
    end = 0
    for bank in row.banks:
        strings.append({})
        for _ in bank:
            start, end = end, end + next(sizes)
            own = columns[start:end]
            _, before = strings[-1].get(own.tobytes(), (own, 0))
            strings[-1][own.tobytes()] = own, before + 1
    some = [string for bank in strings for string in bank.values()]
    columns = np.concatenate([own for own, _ in some])
    string_first = np.cumsum([0, *(len(own) for own, _ in some)])
    bank_first = np.cumsum([0, *map(len, strings)])
    shape = at.size, len(row.banks)
    kinds, levels, none = np.zeros(shape, np.int64), np.zeros(shape, np.int64), np.zeros((0, 0), np.int64)
    inputs = (
        _read_only(near.beam),
        _read_only(near.opaque),
        at,
        columns,
        string_first,
        bank_first,
        np.array([count for _, count in some], dtype=np.float64),
        row.targets.halves,
        row.targets.cells,
    )
    empty = np.zeros(0)
    in_chunks(
        lambda a, b: sort_groups(*inputs, False, kinds, levels, none, none, empty, none.ravel(), empty, empty, a, b), at.size
    )
    last_kind, last_level = np.cumsum(kinds).reshape(shape), np.cumsum(levels).reshape(shape)
    first_kind, first_level = last_kind - kinds, last_level - levels
    number, size = int(kinds.sum()), int(levels.sum())
    weight, level, light, share = np.empty(number), np.empty(number + 1, np.int64), np.empty(size), np.empty(size)
    level[-1] = size
    in_chunks(
        lambda a, b: sort_groups(*inputs, True, kinds, levels, first_kind, first_level, weight, level, light, share, a, b),
        at.size,
    )
    return StringKinds(first_kind, last_kind, weight * row.weight, level, light, share)
