"""Which modules of a surface make which string: by a pattern, drawn through modules, or made whole again."""

from collections.abc import Mapping, Sequence
from itertools import islice, pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.document import Design
from noontide.core.plan.face_modules import FaceModules
from noontide.core.plan.layouts import deal, strings_in_all

Pattern = Literal["by row", "snake", "by column", "by block", "like shade together"]
Floats = NDArray[np.float64]
Places = NDArray[np.intp]  # of modules among those of a plan
LINE = 0.05  # within which modules lie in one line [m]
Strings = list[tuple[str, ...]]


def slots_on(design: Design, key: str) -> list[tuple[str, int]]:
    """The strings that a surface has, one after another: the sub-array and the modules of each."""
    return [
        (name, one.modules_per_string)
        for name, one in design.subarrays.items()
        if one.surface == key
        for _ in range(strings_in_all(design, one))
    ]


def inverters_of_slots(design: Design, key: str) -> list[tuple[str, int]]:
    """The inverter of each of these strings, and which one of its set it is."""
    mine = [one for one in design.subarrays.values() if one.surface == key]
    return [
        (one.inverter, unit) for one in mine for unit in range(design.inverters[one.inverter].count) for _ in range(one.strings)
    ]


def strings_now(design: Design, key: str, plan: FaceModules) -> Strings:
    """The modules of each of these strings as they are dealt now; none for a string of which nothing was drawn."""
    mine = [(one, strings_in_all(design, one)) for one in design.subarrays.values() if one.surface == key]
    dealt = deal(plan.ids, mine)
    return [string for (_, many), some in zip(mine, dealt, strict=True) for string in [*some, *[()] * (many - len(some))][:many]]


def ordered(plan: FaceModules, pattern: Pattern, access: Mapping[str, float] | None = None) -> tuple[str, ...]:
    """The modules that count in the order in which strings take them.

    Parameters
    ----------
    pattern : str
        By row from below; a snake turns at each end, so do columns from the left; or those of like shade together.
    access : mapping, optional
        Solar access of modules by id, for the last; one that is not named counts as free.
    """
    ids = np.array(plan.ids, dtype=object)
    if not len(ids):
        return ()
    places = np.array([plan.placed[key][:2] for key in plan.ids])
    if pattern == "like shade together":
        return tuple(sorted(plan.ids, key=lambda key: -(access or {}).get(key, 1.0)))
    everyone = np.arange(len(ids))
    if pattern == "by row":
        return tuple(ids[_in_lines(everyone, places, across=1)[0]])
    return tuple(ids[_turning(everyone, places, across=0 if pattern == "by column" else 1)])


def by_block(plan: FaceModules, sizes: Sequence[int], units: Sequence[tuple[str, int]]) -> Strings:
    """Strings of a field in which those of one inverter lie together, so that its cables are short.

    Parameters
    ----------
    sizes : (strings,)
        Modules of each string.
    units : (strings,)
        The inverter of each string.

    Notes
    -----
    The field is halved again and again, across its longer side, in proportion to the modules of the inverters on either side; inside
    a block strings follow the rows, turning at their ends. A block has whole rows of its part of the field but for its first and last.
    """
    needs: dict[tuple[str, int], int] = {}
    for unit, size in zip(units, sizes, strict=True):
        needs[unit] = needs.get(unit, 0) + size
    ids, rectangles = np.array(plan.ids, dtype=object), plan.boxes(plan.ids)
    middles = rectangles[:, :2] + rectangles[:, 2:] / 2
    blocks = _halved(np.arange(len(ids)), middles, list(needs.values()))
    paths = {unit: iter(ids[_turning(block, middles, across=1)]) for unit, block in zip(needs, blocks, strict=True)}
    return [tuple(islice(paths[unit], size)) for unit, size in zip(units, sizes, strict=True)]


def _halved(members: Places, middles: Floats, needs: Sequence[int]) -> list[Places]:
    """Members (modules,) of a field parted into compact blocks of as many as are needed, in order; who is not needed is in none."""
    if len(needs) == 1:
        return [members[: needs[0]]]
    ends = np.cumsum(needs)
    half = int(np.argmin(np.abs(ends[:-1] - ends[-1] / 2))) + 1
    wide = int(np.ptp(middles[members, 0]) < np.ptp(middles[members, 1])) if len(members) else 0
    order, _ = _in_lines(members, middles, across=wide)
    split = int(ends[half - 1])
    return _halved(order[:split], middles, needs[:half]) + _halved(order[split:], middles, needs[half:])


def _in_lines(members: Places, places: Floats, across: int) -> tuple[Places, Floats]:
    """Members line by line, with the line of each; lines lie one behind another along x (0) or y (1)."""
    lines = np.floor(places[members, across] / LINE + 0.5)
    order = np.lexsort((places[members, 1 - across], lines))
    return members[order], lines[order]


def _turning(members: Places, places: Floats, across: int) -> Places:
    """Members line by line, every second line backwards."""
    order, lines = _in_lines(members, places, across)
    ends = [0, *(np.flatnonzero(np.diff(lines)) + 1).tolist(), len(order)]
    return np.concatenate([order[a:b][:: 1 if number % 2 == 0 else -1] for number, (a, b) in enumerate(pairwise(ends))])


def cut(order: Sequence[str], sizes: Sequence[int]) -> Strings:
    """An order cut into strings, one after another; what is left over is in none."""
    ends = np.cumsum([0, *sizes]).tolist()
    return [tuple(order[a:b]) for a, b in pairwise(ends)]


def with_drawn(current: Strings, path: Sequence[str], sizes: Sequence[int]) -> Strings:
    """A string drawn through modules, in place of the one that its first module is in, or of the first that is short of modules."""
    path = list(dict.fromkeys(path))
    if not path:
        return current
    own = next((k for k, string in enumerate(current) if path[0] in string), None)
    short = next((k for k, string in enumerate(current) if len(string) < sizes[k]), None)
    slot = own if own is not None else short
    if slot is None:
        return current
    taken = tuple(path[: sizes[slot]])
    gone = set(taken)
    return [taken if k == slot else tuple(i for i in string if i not in gone) for k, string in enumerate(current)]


def repaired(current: Strings, plan: FaceModules, sizes: Sequence[int]) -> Strings:
    """Strings whose modules are gone or moved apart, made whole again: each takes the nearest of the modules that are in none."""
    lying = set(plan.ids)
    kept = [[i for i in string if i in lying] for string in current]
    strung = {i for string in kept for i in string}
    loose = [i for i in plan.ids if i not in strung]
    places = np.array([plan.placed[i][:2] for i in loose]).reshape(-1, 2)
    free = np.ones(len(loose), dtype=bool)
    for string, size in zip(kept, sizes, strict=True):
        while len(string) < size and free.any():
            # A string that has lost all begins with the first that is free.
            at = np.array(plan.placed[string[-1]][:2]) if string else places[np.argmax(free)]
            nearest = int(np.argmin(np.where(free, np.hypot(*(places - at).T), np.inf)))
            free[nearest] = False
            string.append(loose[nearest])
    return [tuple(string) for string in kept]
