"""Choosing places for modules on a face: all that fit, some by hand, the backs of pairs, and modules of another size."""

from collections.abc import Mapping
from dataclasses import replace
from itertools import count

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

from noontide.core.design.module_rows import MOST_MODULES, PLACE, Place
from noontide.core.electrical.datasheets import Module
from noontide.core.layout.filling import fill_area
from noontide.core.plan.face_modules import TOUCH, FaceModules

Floats = NDArray[np.float64]
SLIDE = 0.04  # step by which a module that is laid by hand slides to where it fits [m]
NEARBY = 0.6  # of a module, within which one that is laid by hand takes the rows and columns of others
STRETCHED_FROM = (0.0, 0.5, 1.0)  # places of a layout, along it and up it, about which its pattern is stretched to another size


def proposed(plan: FaceModules) -> dict[str, Place]:
    """As many modules as the usable area holds, up to the layout's own limit, numbered in reading order."""
    # On racks landscape rows are lower, throw shorter shadows, and are the usual ones.
    ways = {"portrait": [False], "landscape": [True], "best": [True] if plan.racks else [False, True]}[plan.layout.orientation]
    best: tuple[int, bool, Floats] | None = None
    for is_landscape in ways:
        found = fill_area(plan.free, *plan.unit(is_landscape), plan.layout.gap, plan.row_gap, plan.layout.is_staggered)
        if best is None or len(found) > best[0]:
            best = len(found), is_landscape, found
    assert best is not None
    _, is_landscape, rectangles = best
    rectangles = rectangles[: MOST_MODULES if plan.layout.most is None else plan.layout.most]
    return {f"m{k + 1}": _at(u, v, is_landscape) for k, (u, v) in enumerate(rectangles[:, :2])}


def laid_by_hand(plan: FaceModules, start: ArrayLike, end: ArrayLike) -> dict[str, Place]:
    """Modules beside those that lie there: one at a place, a row, or as many as an area holds.

    Parameters
    ----------
    start, end : (2,)
        Corners of the area in the face's own coordinates [m]. One lower than a module asks for a row, a place alone for one module.
    """
    low, high = np.minimum(start, end), np.maximum(start, end)
    is_landscape = _usual_way(plan)
    width, height = plan.unit(is_landscape)
    gap, row_gap = plan.layout.gap, plan.layout.gap if plan.row_gap is None else plan.row_gap
    free = plan.free
    if plan.ids:
        lying = shapely.union_all([_kept_clear(plan, key, gap - TOUCH / 2, row_gap - TOUCH / 2) for key in plan.ids])
        free = free.difference(lying)
    if high[0] - low[0] < width / 2 and high[1] - low[1] < height / 2:
        places = np.array(_places_near(plan, (low + high) / 2, width, height, gap, row_gap))
        # At an edge it slides to where it fits, as far as the place that was pointed at stays under it.
        slides = np.stack(np.meshgrid(*(np.arange(-side / 2, side / 2, SLIDE) for side in (width, height))), axis=-1).reshape(
            -1, 2
        )
        slides = slides[np.argsort(np.hypot(*slides.T), kind="stable")]
        places = np.concatenate([places, places[-1] + slides])
        fits = shapely.contains(free.buffer(TOUCH), shapely.box(*places.T, *(places + [width, height]).T))
        found = [(float(u), float(v)) for u, v in places[fits][:1]]
    elif high[1] - low[1] < height:
        # A row takes the height of a row that is near, and its columns.
        at = _places_near(plan, np.array([low[0] + width / 2, (low[1] + high[1]) / 2]), width, height, gap, row_gap)[0]
        strip = shapely.box(low[0], at[1] - TOUCH / 4, high[0], at[1] + height + TOUCH / 4)
        found = [(u, at[1]) for u, _, _, _ in fill_area(free.intersection(strip), width, height, gap, row_gap)]
        if plan.ids:
            steps = np.arange(np.floor((low[0] - at[0]) / (width + gap)), (high[0] - at[0]) / (width + gap))
            lefts = at[0] + steps * (width + gap)
            fits = shapely.contains(free.buffer(TOUCH), shapely.box(lefts, at[1], lefts + width, at[1] + height))
            found = [(float(u), at[1]) for u in lefts[fits]] or found
    else:
        area = free.intersection(shapely.box(*low, *high))
        found = [(u, v) for u, v, _, _ in fill_area(area, width, height, gap, plan.row_gap, plan.layout.is_staggered)]
    names = (name for k in count(1) if (name := f"m{k}") not in plan.placed)
    return {next(names): _at(u, v, is_landscape) for u, v in found}


def behind(plan: FaceModules, back: FaceModules, modules: Mapping[str, Place]) -> dict[str, Place]:
    """The modules that stand back to back with others, on the surface of the same face that looks the other way.

    Parameters
    ----------
    plan, back : FaceModules
        Of the two surfaces; their racks face opposite directions.
    modules : dict
        Of the first surface, by id; their partners have the same ids.
    """
    found = {}
    for key, placed in modules.items():
        width, depth = plan.size(placed.is_landscape)
        low = placed.v + depth + plan.layout.gap
        corners = plan.frame.out_of(np.array([[placed.u, low, 0.0], [placed.u + width, low + depth, 0.0]]))
        u, v = back.frame.into(corners)[:, :2].min(axis=0)
        found[key] = _at(u, v, placed.is_landscape)
    return found


def swapped(plan: FaceModules, module: Module) -> tuple[dict[str, Place], list[str]]:
    """The same layout with modules of another size: where each comes to lie, and which have no place any more.

    Every module keeps its middle where that loses none; else the pattern is stretched to the new size, about the corner, side or middle of
    the layout from which most of them fit. Ids stay, so that strings do.
    """
    new = replace(plan, module=module)
    ids = list(plan.ids)
    if not ids:
        return {}, []
    placed = [plan.placed[key] for key in ids]
    sizes = np.array([plan.size(p.is_landscape) for p in placed])
    sizes_new = np.array([new.size(p.is_landscape) for p in placed])
    lefts = np.array([(p.u, p.v) for p in placed])
    middles = lefts + sizes / 2
    ways = [middles]
    gaps = np.array([plan.layout.gap, plan.layout.gap if plan.row_gap is None else plan.row_gap])
    usual, usual_new = (np.median(each, axis=0) for each in (sizes, sizes_new))
    stretch = (usual_new + gaps) / (usual + gaps)
    low, high = lefts.min(axis=0), (lefts + sizes).max(axis=0)
    for along in STRETCHED_FROM:
        for up in STRETCHED_FROM:
            share = np.array([along, up])
            # The outer edge of the layout stays where it is: from it on, pitches are those of the new size.
            at, at_new = low + share * (high - low) - share * usual + usual / 2, low + share * (high - low) - share * usual_new
            ways.append(at_new + usual_new / 2 + (middles - at) * stretch)
    free = new.free.buffer(TOUCH)
    kept = [_that_fit(free, way - sizes_new / 2, sizes_new) for way in ways]
    best = max(range(len(ways)), key=lambda k: (len(kept[k]), -k))
    places = ways[best] - sizes_new / 2
    found = {ids[k]: _at(places[k, 0], places[k, 1], placed[k].is_landscape) for k in kept[best]}
    return found, [key for key in plan.placed if key not in found]


def _that_fit(free: shapely.Geometry, lefts: Floats, sizes: Floats) -> list[int]:
    """Of modules in reading order those that lie in an area and not on one before them."""
    boxes = shapely.box(*lefts.T, *(lefts + sizes).T)
    smaller = shapely.box(*(lefts + TOUCH).T, *(lefts + sizes - TOUCH).T)
    inside = shapely.contains(free, boxes)
    one, other = shapely.STRtree(smaller).query(smaller, predicate="intersects")
    before: dict[int, list[int]] = {}
    for a, b in zip(one.tolist(), other.tolist(), strict=True):
        if b < a:
            before.setdefault(a, []).append(b)
    kept: list[int] = []
    taken = set()
    for k in np.flatnonzero(inside).tolist():
        if not any(b in taken for b in before.get(k, ())):
            kept.append(k)
            taken.add(k)
    return kept


def _at(u: float, v: float, is_landscape: bool) -> Place:
    return Place(round(float(u), PLACE), round(float(v), PLACE), is_landscape)


def _usual_way(plan: FaceModules) -> bool:
    """Whether modules are laid in landscape: as asked for, as those that lie there, or as racks have them."""
    if plan.layout.orientation != "best":
        return plan.layout.orientation == "landscape"
    ways = [placed.is_landscape for placed in plan.placed.values()]
    return sum(ways) * 2 > len(ways) if ways else plan.racks is not None


def _kept_clear(plan: FaceModules, key: str, gap: float, row_gap: float) -> shapely.Polygon:
    placed = plan.placed[key]
    width, height = plan.unit(placed.is_landscape)
    gap, row_gap = max(gap, 0.0), max(row_gap, 0.0)
    return shapely.box(placed.u - gap, placed.v - row_gap, placed.u + width + gap, placed.v + height + row_gap)


def _places_near(
    plan: FaceModules, middle: Floats, width: float, height: float, gap: float, row_gap: float
) -> list[tuple[float, float]]:
    """Places for a module round a point, the best first: in line with the nearest that lies there both ways, one way, or free."""
    own = (float(middle[0] - width / 2), float(middle[1] - height / 2))
    if not plan.ids:
        return [own]
    lying = np.array([(plan.placed[key].u, plan.placed[key].v) for key in plan.ids])
    near = lying[np.argmin(np.hypot(*(lying - own).T))]
    step_u, step_v = width + gap, height + row_gap
    u = float(near[0] + round((own[0] - near[0]) / step_u) * step_u)
    v = float(near[1] + round((own[1] - near[1]) / step_v) * step_v)
    lines = [(u, v)] if abs(u - own[0]) < NEARBY * width and abs(v - own[1]) < NEARBY * height else []
    return [*lines, (own[0], v), own]
