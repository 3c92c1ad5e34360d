"""The horizon that terrain makes: the highest line of sight in every direction, over a curved Earth and through bending air."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.heights import HeightGrid
from noontide.core.shading.horizon import Horizon

Floats = NDArray[np.float64]
EARTH_RADIUS = 6_371_000.0  # m
REFRACTION = 0.13  # of the Earth's curvature that the air bends light by
FARTHEST = 150_000.0  # m; a mountain of 1.5 km stands half a degree high there
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
    Each direction is walked in steps of half a cell near by, longer far away.
    """
    if not 0 < step <= 90:
        raise ValueError(f"The step must lie above 0 and up to 90°; it is {step:g}.")
    ground = float(grid.at(east, north)) if elevation is None else elevation
    if not np.isfinite(float(grid.at(east, north))):
        raise ValueError(f"The grid has no height at {north:g}, {east:g}.")
    metres = np.radians(1.0) * EARTH_RADIUS if grid.is_geographic else 1.0
    size = grid.cell * metres * (np.cos(np.radians(north)) if grid.is_geographic else 1.0)
    distances = _distances(size, grid, metres)
    azimuths = np.arange(0.0, 360.0, step)
    turn = np.radians(azimuths)[:, np.newaxis]
    eastward, northward = distances * np.sin(turn), distances * np.cos(turn)
    if grid.is_geographic:
        points_east = east + eastward / (metres * max(np.cos(np.radians(north)), 1e-6))
        points_north = north + northward / metres
    else:
        points_east, points_north = east + eastward, north + northward
    heights = grid.at(points_east, points_north)
    drop = distances**2 * (1 - REFRACTION) / (2 * EARTH_RADIUS)
    angle = np.degrees(np.arctan2(heights - drop - (ground + eye), distances))
    highest = np.maximum(np.nanmax(np.where(np.isfinite(angle), angle, -90.0), axis=1), 0.0)
    return Horizon(tuple(azimuths.tolist()), tuple(np.round(highest, 3).tolist()))


def _distances(size: float, grid: HeightGrid, metres: float) -> Floats:
    reach = min(FARTHEST, float(np.hypot(*grid.heights.shape)) * grid.cell * metres)
    found, at = [], NEAREST_CELLS * size
    while at <= reach:
        found.append(at)
        at += max(0.5 * size, 0.002 * at)  # far away a step of a fifth of a per cent is finer than the eye
    return np.array(found or [size])
