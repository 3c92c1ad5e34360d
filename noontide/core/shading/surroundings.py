"""What stands around a plane: the horizon, obstacles that may let light through, and shade that is known as a table."""

import itertools
from dataclasses import dataclass
from functools import lru_cache, reduce

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.incidence import Modifier
from noontide.core.shading.horizon import DomeView, Horizon, dome_view
from noontide.core.shading.views import dome_views

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Points = tuple[tuple[float, float], ...]
EDGE = 0.01  # of azimuth, over which the line falls from an obstacle to what is behind it [°]
FINEST = 1.0  # of azimuth, between the points of an edge that is seen [°]
MOST_PLACES = 41  # across the view, from which a near obstacle is looked at
NEAREST = 0.3  # that an obstacle comes to any part of the array [m]


@dataclass(frozen=True)
class Obstacle:
    """Something that hides a part of the sky: a rectangle, or an outline that was measured."""

    light: tuple[float, ...]  # share of the light that it lets through by month, (12,); 0 is opaque
    distance: float | None  # of its middle [m]; None where it is far
    azimuth: float = 0.0  # of the middle of a rectangle [°]
    width: float = 0.0  # [m]
    height: float = 0.0  # over the array [m]
    outline: Points = ()  # azimuth and elevation [°], in place of the rectangle

    @property
    def is_opaque(self) -> bool:
        return not any(self.light)


@dataclass(frozen=True)
class Veil:
    """An obstacle that lets some of the light through in some month."""

    line: Horizon
    light: tuple[float, ...]  # (12,)


@dataclass(frozen=True)
class Surroundings:
    """All that hides a part of the sky from the planes of a site."""

    horizon: Horizon  # with every opaque obstacle
    veils: tuple[Veil, ...] = ()
    access: tuple[tuple[float, ...], ...] | None = None  # share of all light by month and hour (12, 24), in place of the rest

    def access_at(self, months: Ints, hours: Ints) -> Floats | None:
        """Solar access in intervals by their month, 0 = January, and hour of the local clock."""
        return None if self.access is None else np.array(self.access)[months, hours]

    def beam_seen(self, sun_zenith: Floats, sun_azimuth: Floats, months: Ints) -> Floats:
        """Share of the beam that gets past the horizon and the obstacles, 0..1."""
        seen = self.horizon.beam_seen(sun_zenith, sun_azimuth)
        for veil in self.veils:
            hidden = 1 - veil.line.beam_seen(sun_zenith, sun_azimuth)
            seen = seen * (1 - hidden * (1 - np.array(veil.light)[months]))
        return seen

    def view(self, tilt: Floats, azimuth: Floats, modifier: Modifier, months: Ints) -> DomeView:
        """What planes see of the dome, (1,) or in the shape of `months`.

        What obstacles that let light through take is summed; where two of them overlap, that is a little too much.
        """
        whole = _view(self.horizon, tilt, azimuth, modifier)
        if not self.veils:
            return whole
        left, band, weighted = whole.isotropic, whole.band, whole.isotropic * whole.isotropic_iam
        for veil in self.veils:
            behind = _view(highest(self.horizon, veil.line), tilt, azimuth, modifier)
            opacity = 1 - np.array(veil.light)[months]
            left = left - opacity * (whole.isotropic - behind.isotropic)
            band = band - opacity * (whole.band - behind.band)
            weighted = weighted - opacity * (whole.isotropic * whole.isotropic_iam - behind.isotropic * behind.isotropic_iam)
        left = np.maximum(left, 0)
        return DomeView(left, np.maximum(band, 0), np.divide(weighted, left, out=np.ones_like(left), where=left > 1e-12))


def _view(horizon: Horizon, tilt: Floats, azimuth: Floats, modifier: Modifier) -> DomeView:
    if tilt.size == 1 and azimuth.size == 1:
        return dome_view(horizon, float(tilt[0]), float(azimuth[0]), modifier)
    return dome_views(horizon, tilt, azimuth, modifier)


@lru_cache(maxsize=64)
def surroundings_of(horizon: Horizon, obstacles: tuple[Obstacle, ...], near: float, extent: float) -> Surroundings:
    """The horizon and obstacles of a site together.

    Parameters
    ----------
    near : float
        Distance below which an obstacle differs over the array [m]; it then counts on the cautious side, as seen from the nearest part.
    extent : float
        Of the array across [m].
    """
    lines = [(obstacle, counted_line(obstacle, near, extent)) for obstacle in obstacles]
    opaque = [line for obstacle, line in lines if obstacle.is_opaque]
    veils = tuple(Veil(line, obstacle.light) for obstacle, line in lines if not obstacle.is_opaque)
    return Surroundings(reduce(highest, opaque, horizon), veils)


def counted_line(obstacle: Obstacle, near: float, extent: float) -> Horizon:
    """The line that an obstacle counts with: seen from the middle of the array or, where it is near, from the part nearest to it.

    Raises
    ------
    ValueError
        If it has neither an outline nor a distance.
    """
    if obstacle.distance is None:
        if not obstacle.outline:
            raise ValueError("an obstacle needs an outline, or a distance with width and height")
        return _closed(*np.array(obstacle.outline, dtype=float).T)
    edge = _upper_edge(obstacle)
    return _seen(edge, *(_toward(edge) * extent / 2 if obstacle.distance < near else (0.0, 0.0)))


@lru_cache(maxsize=256)
def obstacle_band(obstacle: Obstacle, near: float, extent: float) -> tuple[Horizon, Horizon]:
    """An obstacle as the lowest and the highest line that it makes over the array; both are one where it is not near."""
    if obstacle.distance is None or obstacle.distance >= near:
        line = counted_line(obstacle, near, extent)
        return line, line
    edge = _upper_edge(obstacle)
    seen = [_seen(edge, *place) for place in _places(edge, extent)]
    return reduce(lowest, seen), reduce(highest, seen)


def _toward(edge: Floats) -> Floats:
    """The level direction from the middle of the array to an edge, a unit vector."""
    middle = edge[:, :2].mean(axis=0)
    return middle / max(float(np.hypot(*middle)), 1e-9)


def _places(edge: Floats, extent: float) -> list[tuple[float, float]]:
    """Places on the array, so close to one another across the view that what is seen from each overlaps."""
    toward = _toward(edge)
    across = np.array([toward[1], -toward[0]])
    width = max(float(np.ptp(edge[:, :2] @ across)), 1e-3)
    number = int(min(MOST_PLACES, np.ceil(extent / width) + 1))
    sides = np.linspace(-0.5, 0.5, max(number, 3)) * extent
    return [tuple(s * across + d * toward) for s in sides for d in (-extent / 2, 0.0, extent / 2)]


def _upper_edge(obstacle: Obstacle) -> Floats:
    """Its upper edge as points east, north and up of the middle of the array [m], (points, 3)."""
    distance = float(obstacle.distance or 0.0)
    if obstacle.outline:
        turn, rise = np.radians(np.array(obstacle.outline, dtype=float)).T
        return distance * np.stack([np.sin(turn), np.cos(turn), np.tan(rise)], axis=1)
    turn = np.radians(obstacle.azimuth)
    along = np.array([-0.5, 0.5]) * obstacle.width
    east = distance * np.sin(turn) + along * np.cos(turn)
    north = distance * np.cos(turn) - along * np.sin(turn)
    return np.stack([east, north, np.full(2, obstacle.height)], axis=1)


def _seen(edge: Floats, east: float, north: float) -> Horizon:
    """The line that an edge makes, seen from a point of the array; a straight edge is walked in steps of a degree."""
    azimuths, elevations = [], []
    for start, end in itertools.pairwise(edge):
        first, last = (np.degrees(np.arctan2(p[0] - east, p[1] - north)) for p in (start, end))
        steps = max(2, int(np.ceil(abs((last - first + 180) % 360 - 180) / FINEST)) + 1)
        points = start + np.linspace(0, 1, steps)[:, np.newaxis] * (end - start)
        x, y = points[:, 0] - east, points[:, 1] - north
        azimuths.append(np.degrees(np.arctan2(x, y)))
        elevations.append(np.degrees(np.arctan2(points[:, 2], np.maximum(np.hypot(x, y), NEAREST))))
    return _closed(np.concatenate(azimuths), np.concatenate(elevations))


def _closed(azimuths: Floats, elevations: Floats) -> Horizon:
    """A line of its own that falls to zero at both ends."""
    turns = np.unwrap(azimuths, period=360)
    order = np.argsort(turns, kind="stable")
    turns, heights = turns[order], np.clip(elevations[order], 0, 90)
    if turns[-1] - turns[0] >= 360 - 2 * EDGE:  # all round: what is measured twice counts once
        kept = turns < turns[0] + 360
        turns, heights = turns[kept], heights[kept]
    else:
        turns = np.concatenate([[turns[0] - EDGE], turns, [turns[-1] + EDGE]])
        heights = np.concatenate([[0.0], heights, [0.0]])
    return _line(turns % 360, heights)


def _line(azimuths: Floats, elevations: Floats) -> Horizon:
    """A horizon from points in any order; of points at one azimuth the highest counts."""
    turns = np.round(azimuths % 360, 6) % 360
    known, place = np.unique(turns, return_inverse=True)
    heights = np.zeros(known.size)
    np.maximum.at(heights, place.ravel(), elevations)
    return Horizon(tuple(known.tolist()), tuple(heights.tolist()))


def highest(one: Horizon, other: Horizon) -> Horizon:
    """The line over both of two."""
    return _joined(one, other, np.maximum)


def lowest(one: Horizon, other: Horizon) -> Horizon:
    """The line under both of two."""
    return _joined(one, other, np.minimum)


def _joined(one: Horizon, other: Horizon, choose: np.ufunc) -> Horizon:
    turns = np.unique(np.concatenate([np.array(one.azimuths) % 360, np.array(other.azimuths) % 360, [0.0]]))
    a, b = one.elevation_at(turns), other.elevation_at(turns)
    # Between two points both are straight, and cross once at most.
    ends, next_gap = np.append(turns[1:], 360.0), np.roll(a - b, -1)
    gap = a - b
    cross = gap * next_gap < 0
    at = turns[cross] + (ends - turns)[cross] * gap[cross] / (gap - next_gap)[cross]
    every = np.unique(np.concatenate([turns, np.round(at, 6) % 360]))
    return Horizon(tuple(every.tolist()), tuple(choose(one.elevation_at(every), other.elevation_at(every)).tolist()))
