"""The horizon that terrain makes: the highest line of sight in every direction, over a curved Earth and through bending air."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.earth import EARTH_RADIUS
from noontide.core.heights import HeightGrid
from noontide.core.shading.horizon import Horizon

Floats = NDArray[np.float64]
REFRACTION = 0.13  # of the Earth's curvature that the air bends light by
FARTHEST = 150_000.0  # m; a mountain of 1.5 km stands half a degree high there
SHORT = 0.05  # m between bends, below which a parabola cannot be told from its ends
NEAREST_CELLS = 1.0  # within which the grid says nothing of the ground


def horizon_from_grid(
    grid: HeightGrid, east: float, north: float, eye: float = 2.0, elevation: float | None = None, step: float = 1.0
) -> Horizon:
    """The visible line that the terrain of a grid makes at a point.

    Parameters
    ----------
    grid : HeightGrid
    east, north : float
        Longitude and latitude of the point [°], or its metres on a metric grid.
    eye : float
        Height over the ground [m].
    elevation : float, optional
        Of the ground above sea level [m]; the grid's own where it is not given.
    step : float
        Between the azimuths [°].

    Returns
    -------
    Horizon
        Elevations at every `step` degrees, 0 where the terrain stays below the level line.

    Raises
    ------
    ValueError
        If the point lies outside of the grid, or where it has no height.

    Notes
    -----
    A point at the distance d lies d² (1 - k) / 2R below the level plane, k = 0.13 of the curvature being undone by refraction.
    Each direction is walked from one line between the middles of cells to the next, where the ground of the grid bends: between them it is a
    parabola at most, whose highest slope is a closed form.
    """
    if not 0 < step <= 90:
        raise ValueError(f"The step must lie above 0 and up to 90°; it is {step:g}.")
    ground = float(grid.at(east, north)) if elevation is None else elevation
    if not np.isfinite(float(grid.at(east, north))):
        raise ValueError(f"The grid has no height at {north:g}, {east:g}.")
    metres = np.radians(1.0) * EARTH_RADIUS if grid.is_geographic else 1.0
    size = grid.cell * metres * (np.cos(np.radians(north)) if grid.is_geographic else 1.0)
    azimuths = np.arange(0.0, 360.0, step)
    # Metres of a degree to the east and to the north.
    scale = (metres * max(np.cos(np.radians(north)), 1e-6), metres) if grid.is_geographic else (1.0, 1.0)
    reach = min(FARTHEST, float(np.hypot(*grid.heights.shape)) * grid.cell * metres)
    highest = []
    for turn in np.radians(azimuths):
        across, along = np.sin(turn) / scale[0], np.cos(turn) / scale[1]
        distances = _bends(grid, east, north, across, along, NEAREST_CELLS * size, reach)
        ends, middles = (grid.at(east + d * across, north + d * along) for d in (distances, (distances[1:] + distances[:-1]) / 2))
        highest.append(np.degrees(np.arctan(_highest_on(distances, ends, middles, ground + eye))))
    return Horizon(tuple(azimuths.tolist()), tuple(np.round(highest, 3).tolist()))


def _bends(grid: HeightGrid, east: float, north: float, across: float, along: float, nearest: float, reach: float) -> Floats:
    """Distances at which a ray crosses the lines between the middles of cells [m]."""
    found = [np.array([nearest])]
    for at, way, first in ((east, across, grid.west), (north, along, grid.north)):
        if abs(way) * reach < grid.cell / 2:
            continue
        # Lines stand half a cell off the edge, a cell apart.
        start, end = (at + way * d - first for d in (nearest, reach))
        low, high = sorted((start / grid.cell - 0.5, end / grid.cell - 0.5))
        lines = np.arange(np.ceil(low), np.floor(high) + 1)
        found.append(((lines + 0.5) * grid.cell + first - at) / way)
    bends = np.unique(np.concatenate(found))
    return bends[(bends >= nearest) & (bends <= reach)]


def _highest_on(bends: Floats, ends: Floats, middles: Floats, eye: float) -> float:
    """The largest slope from an eye [m] to a ground that is a parabola between bends, by its heights at them and half way between.

    Over a parabola a d² + b d + c the slope (a d² + b d + c - eye) / d is highest at d² = (c - eye) / a, where that lies in it.
    """
    fall = (1 - REFRACTION) / (2 * EARTH_RADIUS)
    slopes = [(ends - fall * bends**2 - eye) / bends]
    first, length = bends[:-1], np.diff(bends)
    a = 2 * (ends[:-1] - 2 * middles + ends[1:]) / length**2
    b = (4 * middles - 3 * ends[:-1] - ends[1:]) / length - 2 * a * first
    c = ends[:-1] - b * first - a * first**2 - eye
    a = a - fall
    with np.errstate(invalid="ignore", divide="ignore"):
        at = np.sqrt(c / a)
        slopes.append(np.where((length > SHORT) & (a < 0) & (at > first) & (at < first + length), a * at + b + c / at, -np.inf))
    every = np.concatenate(slopes)
    return float(np.max(every[np.isfinite(every)], initial=0.0))
