"""The modules of a layout on their face: their corners in space, what setbacks leave, and which of them lie where they may."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from noontide.core.design.layout import LEVEL, Layout, Racks
from noontide.core.design.module_rows import Place
from noontide.core.electrical.datasheets import Module
from noontide.core.layout.filling import usable_area
from noontide.core.scene.frame import Frame
from noontide.core.scene.solids import Face

Floats = NDArray[np.float64]
PITCH_SUN = 15.0  # elevation of the sun from which no row shades another, where no pitch is given [°]
LOWEST_SUN = 2.0  # that a wished hour may ask for [°]
DECLINATION = 23.44  # of the sun on the shortest day, to either side [°]
TOUCH = 2e-3  # that modules may reach over a line or over one another [m]
LIFT = 0.1  # of modules over a sloping face [m]


@dataclass(frozen=True, eq=False)
class FaceModules:
    """The modules of one surface, in reading order: row by row from below, from left to right."""

    face: Face
    layout: Layout
    module: Module
    latitude: float = 45.0  # of the site, for the pitch of rows [°]
    others: tuple[Floats, ...] = ()  # corners in space of modules of other surfaces on the face, (4, 3) each

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
        return found + [("road", strip) for strip in self.roads]

    @cached_property
    def roads(self) -> list[Floats]:
        """The roads through the face, in its own coordinates, counted from its lower left, (4, 2) each."""
        roads = self.layout.roads
        if roads is None:
            return []
        (left, low), (right, high) = self.outline.min(axis=0), self.outline.max(axis=0)
        along = [(left - 1, at, right + 1, at + roads.width) for at in _stops(low, high, roads.every, roads.width)]
        across = [(at, low - 1, at + roads.width, high + 1) for at in _stops(left, right, roads.across_every, roads.width)]
        return [np.array([[a, b], [c, b], [c, d], [a, d]]) for a, b, c, d in (*along, *across)]

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
        return [distances.get(kind, 0.0) for kind, _ in self.holes]

    @cached_property
    def usable(self) -> shapely.MultiPolygon | shapely.Polygon:
        """What setbacks leave of the face."""
        return usable_area(self.outline, [ring for _, ring in self.holes], [d for _, d in self.setbacks], self.clearances)

    @cached_property
    def free(self) -> shapely.MultiPolygon | shapely.Polygon:
        """What setbacks and the modules of other surfaces leave of the face."""
        if not self.others:
            return self.usable
        return self.usable.difference(shapely.union_all(self._footprints).buffer(self.layout.gap, join_style="mitre"))

    @cached_property
    def _footprints(self) -> NDArray[np.object_]:
        """Modules of other surfaces, as seen square to the face."""
        return shapely.polygons([self.frame.into(corners)[:, :2] for corners in self.others])

    @property
    def is_paired(self) -> bool:
        """Whether each row stands back to back with one of another surface that faces the other way."""
        return self.racks is not None and self.racks.is_paired

    def unit(self, is_landscape: bool) -> tuple[float, float]:
        """Width and depth of what is laid at once, seen square to the face: a module, or two back to back [m]."""
        width, depth = self.size(is_landscape)
        return width, 2 * depth + self.layout.gap if self.is_paired else depth

    @property
    def _rack_way(self) -> bool:
        """Whether racks take modules in landscape."""
        return self.layout.orientation != "portrait"

    @property
    def row_gap(self) -> float | None:
        """Between the rows of racks, or their pairs, seen from above [m]; None where modules lie flush."""
        racks = self.racks
        if racks is None:
            return None
        gap = self._pitch(racks, self.slant_on(self._rack_way)) - self.unit(self._rack_way)[1]
        return max(gap, self.layout.gap if self.is_paired else 0.0)

    @property
    def row_pitch(self) -> float | None:
        """Of the rows of racks, or of their pairs, along the ground [m]; None where modules lie flush."""
        gap = self.row_gap
        return None if gap is None else gap + self.unit(self._rack_way)[1]

    @property
    def ground_cover(self) -> float | None:
        """Share of the ground that modules would cover lying level, 0..1; None where they lie flush."""
        pitch = self.row_pitch
        return None if pitch is None else self.slant_on(self._rack_way) * (2 if self.is_paired else 1) / pitch

    def slant_on(self, is_landscape: bool) -> float:
        """Of a module up its slope [m]."""
        return self.module.width if is_landscape else self.module.length

    def _pitch(self, racks: Racks, slant: float) -> float:
        """Of rows of modules of a slant height, or of their pairs [m]: by hand, by ground cover, or so that none shades another from an hour or a height of the sun on."""
        if racks.pitch is not None:
            return racks.pitch
        if racks.ground_cover is not None:
            return slant * (2 if self.is_paired else 1) / (racks.ground_cover / 100)
        profile = PITCH_SUN
        if racks.clear_hour is not None:
            fronts = [self.racks_azimuth, self.racks_azimuth + 180] if self.is_paired else [self.racks_azimuth]
            profile = max(min(_profile_on_shortest_day(self.latitude, racks.clear_hour, front) for front in fronts), LOWEST_SUN)
        tilt = np.radians(racks.tilt)
        clear = slant * float(np.cos(tilt) + np.sin(tilt) / np.tan(np.radians(profile)))
        # The ridge of a pair throws its shadow over its own back before it reaches the low edge of the next pair.
        return clear + self.layout.gap if self.is_paired else clear

    @cached_property
    def placed(self) -> dict[str, Place]:
        """Where every module of the layout lies, by its id."""
        return self.layout.placed

    def boxes(self, keys: Sequence[str]) -> Floats:
        """Left, lower, width and height of some modules, as seen square to the face, (modules, 4)."""
        return self.rectangles[[self._index[key] for key in keys]]

    @cached_property
    def _index(self) -> dict[str, int]:
        """Of every module among the rectangles."""
        return {key: k for k, key in enumerate(self.placed)}

    @cached_property
    def rectangles(self) -> Floats:
        """Left, lower, width and height of every module of the layout, as seen square to the face, (modules, 4)."""
        if not self.placed:
            return np.zeros((0, 4))
        places = np.array(list(self.placed.values()), dtype=np.float64)
        sizes = np.array([self.size(False), self.size(True)])
        return np.concatenate([places[:, :2], sizes[places[:, 2].astype(int)]], axis=1)

    @cached_property
    def tray(self) -> dict[str, str]:
        """The modules that cannot lie where they are, and why; they count for nothing until they are moved or deleted."""
        rectangles, names = self.rectangles, list(self.placed)
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
        if self.others:
            for k in np.unique(shapely.STRtree(self._footprints).query(boxes, predicate="intersects")[0]).tolist():
                found.setdefault(names[k], "on a module of another surface")
        tree = shapely.STRtree(boxes)
        one, other = tree.query(boxes, predicate="intersects")
        for a, b in sorted(zip(one.tolist(), other.tolist(), strict=True)):
            if b < a and names[b] not in found:
                found.setdefault(names[a], f"on module {names[b]}")
        return found

    @cached_property
    def ids(self) -> tuple[str, ...]:
        """The modules that count, in reading order."""
        names, tray = list(self.placed), self.tray
        if not names:
            return ()
        order = np.lexsort((self.rectangles[:, 0], self.rectangles[:, 1].round(2))).tolist()
        return tuple(names[k] for k in order if names[k] not in tray)

    def corners(self, key: str) -> Floats:
        """Of a module in space, counterclockwise from its lower left, (4, 3)."""
        return self.planes([key])[0][1].out_of(self.quads([key])[0])

    @property
    def all_corners(self) -> list[Floats]:
        """Of every module that counts, (4, 3) each."""
        return [quad for some, frame in self.planes(list(self.ids)) for quad in frame.out_of(self.quads(some))]

    def planes(self, keys: list[str]) -> list[tuple[list[str], Frame]]:
        """The modules by the plane they lie in: one for all that lie flush, one for each row of racks."""
        if self.racks is None:
            lifted = self.frame.out_of(np.array([0.0, 0.0, LIFT]))
            return [(keys, Frame(lifted, self.frame.normal, self.frame.level_azimuth))]
        rows: dict[float, list[str]] = {}
        for key in keys:
            rows.setdefault(round(self.placed[key].v, 3), []).append(key)
        return [
            (some, Frame(self.frame.out_of(np.array([0.0, at, self.racks.height])), self.normal, self.racks_azimuth, True))
            for at, some in sorted(rows.items())
        ]

    def quads(self, keys: list[str]) -> Floats:
        """Corners of modules in the coordinates of their plane, (modules, 4, 2)."""
        if not keys:
            return np.zeros((0, 4, 2))
        u, v, is_landscape = np.array([self.placed[key] for key in keys], dtype=np.float64).T
        if self.racks:
            v = np.zeros_like(v)
        lies = is_landscape > 0
        width = np.where(lies, self.module.length, self.module.width)
        height = np.where(lies, self.module.width, self.module.length)
        return np.stack([np.stack([u, u + width, u + width, u], 1), np.stack([v, v, v + height, v + height], 1)], 2)


def _stops(low: float, high: float, every: float | None, width: float) -> list[float]:
    """Where roads begin from one end of a face to the other; none where nothing would be left behind it [m]."""
    if every is None:
        return []
    count = int((high - low) / (every + width))
    return [at for k in range(count) if (at := low + every + k * (every + width)) + width < high - TOUCH]


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
    "walls": "a wall", "poles": "a pole", "keep-out": "a part that is kept free", "road": "a road",
}  # fmt: skip
