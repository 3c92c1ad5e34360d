"""The modules of a layout on their face: their corners in space, which of them lie where they may, and how many more would fit."""

from dataclasses import dataclass
from functools import cached_property
from itertools import count

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

from noontide.core.design.layout import LEVEL, Layout, PlacedModule, Racks
from noontide.core.electrical.datasheets import Module
from noontide.core.layout.filling import fill_area, usable_area
from noontide.core.scene.frame import Frame
from noontide.core.scene.solids import Face

Floats = NDArray[np.float64]
PITCH_SUN = 15.0  # elevation of the sun from which no row shades another, where no pitch is given [°]
LOWEST_SUN = 2.0  # that a wished hour may ask for [°]
DECLINATION = 23.44  # of the sun on the shortest day, to either side [°]
SLIDE = 0.04  # step by which one slides to where it fits [m]
NEARBY = 0.6  # of a module, within which one that is laid by hand takes the rows and columns of others
TOUCH = 2e-3  # that modules may reach over a line or over one another [m]
LIFT = 0.1  # of modules over a sloping face [m]


@dataclass(frozen=True, eq=False)
class FaceModules:
    """The modules of one surface, in reading order: row by row from below, from left to right."""

    face: Face
    layout: Layout
    module: Module
    latitude: float = 45.0  # of the site, for the pitch of rows [°]

    @cached_property
    def racks(self) -> Racks | None:
        """The racks of a level or gently sloping face; None where modules lie flush."""
        return self.layout.racks if self.face.tilt <= LEVEL else None

    @cached_property
    def racks_azimuth(self) -> float:
        """That racks face [°]."""
        return self.face.azimuth if self.racks is None or self.racks.azimuth is None else self.racks.azimuth

    @cached_property
    def frame(self) -> Frame:
        """The face's own coordinates; those of racks follow their direction."""
        if self.racks is None:
            return self.face.frame
        loose = Frame(self.face.outline[0], self.face.normal, self.racks_azimuth, True)
        low = loose.into(self.face.outline).min(axis=0)
        return Frame(loose.out_of(np.array([low[0], low[1], 0.0])), self.face.normal, self.racks_azimuth, True)

    @cached_property
    def normal(self) -> Floats:
        """Of the modules: the face's own, or that of the racks with their tilt from the horizontal."""
        if self.racks is None:
            return self.face.normal
        tilt, turn = np.radians(self.racks.tilt), np.radians(self.racks_azimuth)
        normal = np.array([np.sin(tilt) * np.sin(turn), np.sin(tilt) * np.cos(turn), np.cos(tilt)])
        along = self.frame.axes[0]  # on sloping ground rows may rise along their way
        normal = normal - along * (normal @ along)
        return normal / np.linalg.norm(normal)

    @cached_property
    def outline(self) -> Floats:
        """Of the face in its own coordinates, (n, 2)."""
        return self.frame.into(self.face.outline)[:, :2]

    @cached_property
    def holes(self) -> list[tuple[str, Floats]]:
        """What must not be covered: its kind and its outline in the face's coordinates."""
        found = [(hole.kind, self.frame.into(hole.outline)[:, :2]) for hole in self.face.holes]
        for keep in self.layout.keep_outs.values():
            found.append(
                (
                    "keep-out",
                    np.array(shapely.box(keep.u, keep.v, keep.u + keep.length, keep.v + keep.width).exterior.coords)[:-1],
                )
            )
        return found

    def size(self, is_landscape: bool) -> tuple[float, float]:
        """Width and height of a module on the face, seen square to it [m]."""
        width, height = self.module.width, self.module.length
        if is_landscape:
            width, height = height, width
        return width, height * float(self.normal @ self.face.normal)

    @cached_property
    def exit(self) -> Floats:
        """Where the cables leave the face: as set, or its lower left corner, (3,)."""
        low = self.outline[np.lexsort((self.outline[:, 0], self.outline[:, 1].round(3)))[0]]
        u = low[0] if self.layout.exit_u is None else self.layout.exit_u
        v = low[1] if self.layout.exit_v is None else self.layout.exit_v
        return self.frame.out_of(np.array([u, v, 0.0]))

    @property
    def setbacks(self) -> list[tuple[str, float]]:
        """Kind of each edge of the face and the distance kept from it [m]."""
        distances = self.layout.distances
        kinds = [edge.kind for edge in self.face.edges] or ["side"] * len(self.face.outline)
        return [(kind, self.layout.edges.get(str(k + 1), distances.get(kind, 0.0))) for k, kind in enumerate(kinds)]

    @property
    def clearances(self) -> list[float]:
        """Distance kept from each of the holes [m]; parts that are kept free are as large as they are to be."""
        distances = self.layout.distances
        return [0.0 if kind == "keep-out" else distances.get(kind, 0.0) for kind, _ in self.holes]

    @cached_property
    def usable(self) -> shapely.MultiPolygon | shapely.Polygon:
        """What setbacks leave of the face."""
        return usable_area(self.outline, [ring for _, ring in self.holes], [d for _, d in self.setbacks], self.clearances)

    @property
    def row_gap(self) -> float | None:
        """Between the rows of racks, seen from above [m]; None where modules lie flush."""
        racks = self.racks
        if racks is None:
            return None
        is_landscape = self.layout.orientation != "portrait"
        slant = self.module.width if is_landscape else self.module.length
        depth = self.size(is_landscape)[1]
        return max(self._pitch(racks, slant) - depth, 0.0)

    def _pitch(self, racks: Racks, slant: float) -> float:
        """Of rows of modules of a slant height [m]: by hand, by ground cover, or so that none shades another from an hour or a height of the sun on."""
        if racks.pitch is not None:
            return racks.pitch
        if racks.ground_cover is not None:
            return slant / (racks.ground_cover / 100)
        profile = PITCH_SUN
        if racks.clear_hour is not None:
            profile = max(_profile_on_shortest_day(self.latitude, racks.clear_hour, self.racks_azimuth), LOWEST_SUN)
        tilt = np.radians(racks.tilt)
        return slant * float(np.cos(tilt) + np.sin(tilt) / np.tan(np.radians(profile)))

    def proposed(self) -> dict[str, PlacedModule]:
        """As many modules as the usable area holds, up to the layout's own limit, numbered in reading order."""
        # On racks landscape rows are lower, throw shorter shadows, and are the usual ones.
        ways = {"portrait": [False], "landscape": [True], "best": [True] if self.racks else [False, True]}[
            self.layout.orientation
        ]
        best: tuple[int, bool, Floats] | None = None
        for is_landscape in ways:
            found = fill_area(self.usable, *self.size(is_landscape), self.layout.gap, self.row_gap, self.layout.is_staggered)
            if best is None or len(found) > best[0]:
                best = len(found), is_landscape, found
        assert best is not None
        _, is_landscape, rectangles = best
        if self.layout.most is not None:
            rectangles = rectangles[: self.layout.most]
        return {
            f"m{k + 1}": PlacedModule(u=round(float(u), 4), v=round(float(v), 4), is_landscape=is_landscape)
            for k, (u, v) in enumerate(rectangles[:, :2])
        }

    def more(self, start: ArrayLike, end: ArrayLike) -> dict[str, PlacedModule]:
        """Modules beside those that lie there: one at a place, a row, or as many as an area holds.

        Parameters
        ----------
        start, end : (2,)
            Corners of the area in the face's own coordinates [m]. One lower than a module asks for a row, a place alone for one module.
        """
        low, high = np.minimum(start, end), np.maximum(start, end)
        is_landscape = self._usual_way()
        width, height = self.size(is_landscape)
        gap, row_gap = self.layout.gap, self.layout.gap if self.row_gap is None else self.row_gap
        free = self.usable
        if self.ids:
            lying = shapely.union_all([self._kept_clear(key, gap - TOUCH / 2, row_gap - TOUCH / 2) for key in self.ids])
            free = free.difference(lying)
        if high[0] - low[0] < width / 2 and high[1] - low[1] < height / 2:
            places = np.array(self._places_near((low + high) / 2, width, height, gap, row_gap))
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
            at = self._places_near(np.array([low[0] + width / 2, (low[1] + high[1]) / 2]), width, height, gap, row_gap)[0]
            strip = shapely.box(low[0], at[1] - TOUCH / 4, high[0], at[1] + height + TOUCH / 4)
            found = [(u, at[1]) for u, _, _, _ in fill_area(free.intersection(strip), width, height, gap, row_gap)]
            if self.ids:
                steps = np.arange(np.floor((low[0] - at[0]) / (width + gap)), (high[0] - at[0]) / (width + gap))
                lefts = at[0] + steps * (width + gap)
                fits = shapely.contains(free.buffer(TOUCH), shapely.box(lefts, at[1], lefts + width, at[1] + height))
                found = [(float(u), at[1]) for u in lefts[fits]] or found
        else:
            area = free.intersection(shapely.box(*low, *high))
            found = [(u, v) for u, v, _, _ in fill_area(area, width, height, gap, self.row_gap, self.layout.is_staggered)]
        names = (name for k in count(1) if (name := f"m{k}") not in self.layout.modules)
        return {
            next(names): PlacedModule(u=round(float(u), 4), v=round(float(v), 4), is_landscape=is_landscape) for u, v in found
        }

    def _usual_way(self) -> bool:
        """Whether modules are laid in landscape: as asked for, as those that lie there, or as racks have them."""
        if self.layout.orientation != "best":
            return self.layout.orientation == "landscape"
        ways = [placed.is_landscape for placed in self.layout.modules.values()]
        return sum(ways) * 2 > len(ways) if ways else self.racks is not None

    def _kept_clear(self, key: str, gap: float, row_gap: float) -> shapely.Polygon:
        placed = self.layout.modules[key]
        width, height = self.size(placed.is_landscape)
        gap, row_gap = max(gap, 0.0), max(row_gap, 0.0)
        return shapely.box(placed.u - gap, placed.v - row_gap, placed.u + width + gap, placed.v + height + row_gap)

    def _places_near(self, middle: Floats, width: float, height: float, gap: float, row_gap: float) -> list[tuple[float, float]]:
        """Places for a module round a point, the best first: in line with the nearest that lies there both ways, one way, or free."""
        own = (float(middle[0] - width / 2), float(middle[1] - height / 2))
        if not self.ids:
            return [own]
        lying = np.array([(self.layout.modules[key].u, self.layout.modules[key].v) for key in self.ids])
        near = lying[np.argmin(np.hypot(*(lying - own).T))]
        step_u, step_v = width + gap, height + row_gap
        u = float(near[0] + round((own[0] - near[0]) / step_u) * step_u)
        v = float(near[1] + round((own[1] - near[1]) / step_v) * step_v)
        lines = [(u, v)] if abs(u - own[0]) < NEARBY * width and abs(v - own[1]) < NEARBY * height else []
        return [*lines, (own[0], v), own]

    @cached_property
    def rectangles(self) -> Floats:
        """Left, lower, width and height of every module of the layout, as seen square to the face, (modules, 4)."""
        rows = [(m.u, m.v, *self.size(m.is_landscape)) for m in self.layout.modules.values()]
        return np.array(rows).reshape(-1, 4)

    @cached_property
    def tray(self) -> dict[str, str]:
        """The modules that cannot lie where they are, and why; they count for nothing until they are moved or deleted."""
        rectangles, names = self.rectangles, list(self.layout.modules)
        if not names:
            return {}
        boxes = shapely.box(
            rectangles[:, 0] + TOUCH, rectangles[:, 1] + TOUCH,
            rectangles[:, 0] + rectangles[:, 2] - TOUCH, rectangles[:, 1] + rectangles[:, 3] - TOUCH,
        )  # fmt: skip
        found: dict[str, str] = {}
        face = shapely.Polygon(self.outline)
        for k in np.flatnonzero(~shapely.contains(face, boxes)).tolist():
            found[names[k]] = "over the edge of the face"
        for kind, ring in self.holes:
            for k in np.flatnonzero(shapely.intersects(shapely.Polygon(ring), boxes)).tolist():
                found.setdefault(names[k], f"on {_THINGS.get(kind, 'something')}")
        tree = shapely.STRtree(boxes)
        one, other = tree.query(boxes, predicate="intersects")
        for a, b in sorted(zip(one.tolist(), other.tolist(), strict=True)):
            if b < a and names[b] not in found:
                found.setdefault(names[a], f"on module {names[b]}")
        return found

    @cached_property
    def ids(self) -> tuple[str, ...]:
        """The modules that count, in reading order."""
        kept = [k for k, name in enumerate(self.layout.modules) if name not in self.tray]
        names = list(self.layout.modules)
        order = sorted(kept, key=lambda k: (round(self.rectangles[k, 1], 2), self.rectangles[k, 0]))
        return tuple(names[k] for k in order)

    def corners(self, key: str) -> Floats:
        """Of a module in space, counterclockwise from its lower left, (4, 3)."""
        return self.planes([key])[0][1].out_of(self._local(key))

    def _local(self, key: str) -> Floats:
        placed = self.layout.modules[key]
        width, height = self.module.width, self.module.length
        if placed.is_landscape:
            width, height = height, width
        v = 0.0 if self.racks else placed.v
        return np.array([[placed.u, v], [placed.u + width, v], [placed.u + width, v + height], [placed.u, v + height]])

    def planes(self, keys: list[str]) -> list[tuple[list[str], Frame]]:
        """The modules by the plane they lie in: one for all that lie flush, one for each row of racks."""
        if self.racks is None:
            lifted = self.frame.out_of(np.array([0.0, 0.0, LIFT]))
            return [(keys, Frame(lifted, self.frame.normal, self.frame.level_azimuth))]
        rows: dict[float, list[str]] = {}
        for key in keys:
            rows.setdefault(round(self.layout.modules[key].v, 3), []).append(key)
        return [
            (some, Frame(self.frame.out_of(np.array([0.0, at, self.racks.height])), self.normal, self.racks_azimuth, True))
            for at, some in sorted(rows.items())
        ]

    def quads(self, keys: list[str]) -> Floats:
        """Corners of modules in the coordinates of their plane, (modules, 4, 2)."""
        return np.array([self._local(key) for key in keys]).reshape(-1, 4, 2)


def _profile_on_shortest_day(latitude: float, hour: float, azimuth: float) -> float:
    """Elevation of the sun in the plane across rows that face an azimuth, on the shortest day at an hour of solar time [°]."""
    place, turn, front = np.radians(latitude), np.radians(15 * (hour - 12)), np.radians(azimuth)
    sun = np.radians(-DECLINATION if latitude >= 0 else DECLINATION)
    up = np.sin(place) * np.sin(sun) + np.cos(place) * np.cos(sun) * np.cos(turn)
    north = np.cos(place) * np.sin(sun) - np.sin(place) * np.cos(sun) * np.cos(turn)
    east = -np.cos(sun) * np.sin(turn)
    ahead = north * np.cos(front) + east * np.sin(front)
    return float(np.degrees(np.arctan2(up, ahead))) if ahead > 0 or up <= 0 else 90.0


_THINGS = {
    "chimneys": "a chimney", "pipes": "a pipe", "skylights": "a skylight", "dormers": "a dormer", "boxes": "a box", "silos": "a silo",
    "walls": "a wall", "poles": "a pole", "keep-out": "a part that is kept free",
}  # fmt: skip
