"""Height grids near by: roofs where the cells are fine, the lie of the land where they are coarse."""

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noontide.core.earth import METRES_A_DEGREE
from noontide.core.heights import HeightGrid, read_height_grid
from noontide.core.heights.geotiff import read_geotiff
from noontide.core.scene.importers.planes import scene_of
from noontide.core.scene.importers.points import planes_in
from noontide.core.scene.importers.problem import UnreadableScene

Floats = NDArray[np.float64]
LEAST_METRES = 0.05  # from which a cell is no part of a degree
FINE = 1.2  # cells up to which roofs can be told [m]
REACH_FINE = 60.0  # from the site, within which roofs are sought [m]
REACH_COARSE = 250.0  # within which the land is kept; what lies farther is the horizon [m]
HIGHEST = 12_000.0  # m; what says more is no height
MOST_ACROSS = 24  # pieces of the land each way


def read_heights(content: bytes, ending: str, name: str, latitude: float, longitude: float) -> dict[str, Any]:
    """A part of a scene from a grid of heights: planes of roofs, or the ground around the site.

    A grid in metres has its middle at the site; one in degrees, and every GeoTIFF, lies where it says.

    Raises
    ------
    UnreadableScene
        If it is no height grid, or does not hold the site.
    """
    try:
        if ending == ".asc":
            grid = read_height_grid(content.decode("utf-8", errors="replace"), name)
        else:
            grid = read_geotiff(content, longitude, latitude, name)
    except ValueError as error:
        raise UnreadableScene(str(error)) from error
    if grid.is_geographic and grid.cell >= LEAST_METRES:
        grid = replace(grid, is_geographic=False)  # read as degrees, a cell would be kilometres wide
    x, y, cell = _places(grid, latitude, longitude)
    if not (x[0] - cell < 0 < x[-1] + cell and y[-1] - cell < 0 < y[0] + cell):
        raise UnreadableScene(f"{name}: the site at {latitude:g}, {longitude:g} lies outside of the grid.")
    if cell <= FINE:
        planes = planes_in(_around(grid, x, y, REACH_FINE))
        if planes:
            return scene_of(planes)
    return _land(grid, x, y, name)


def _places(grid: HeightGrid, latitude: float, longitude: float) -> tuple[Floats, Floats, float]:
    """Middles of the columns, east of the site, and of the rows, north of it, with the size of a cell [m]."""
    rows, columns = grid.heights.shape
    x, y = (np.arange(columns) + 0.5) * grid.cell, -(np.arange(rows) + 0.5) * grid.cell
    if not grid.is_geographic:
        return x - columns * grid.cell / 2, y + rows * grid.cell / 2, grid.cell
    across = METRES_A_DEGREE * max(float(np.cos(np.radians(latitude))), 1e-6)
    return (x + grid.west - longitude) * across, (y + grid.north - latitude) * METRES_A_DEGREE, grid.cell * METRES_A_DEGREE


def _around(grid: HeightGrid, x: Floats, y: Floats, reach: float) -> Floats:
    columns, rows = np.flatnonzero(np.abs(x) <= reach), np.flatnonzero(np.abs(y) <= reach)
    heights = grid.heights[np.ix_(rows, columns)]
    east, north = np.meshgrid(x[columns], y[rows])
    points = np.column_stack([east.ravel(), north.ravel(), heights.ravel()])
    points = points[np.isfinite(points).all(axis=1) & (np.abs(points[:, 2]) < HIGHEST)]
    return points - [0, 0, points[:, 2].min()] if len(points) else points


def _land(grid: HeightGrid, x: Floats, y: Floats, name: str) -> dict[str, Any]:
    """The ground as a mesh of triangles, its height 0 at the site."""
    columns, rows = (_thinned(np.flatnonzero(np.abs(along) <= REACH_COARSE)) for along in (x, y))
    if len(columns) < 2 or len(rows) < 2:
        raise UnreadableScene(
            f"{name}: its cells are too large for what is near; fewer than two lie within {REACH_COARSE:g} m of the site. Use it for the horizon."
        )
    heights = grid.heights[np.ix_(rows, columns)]
    near = heights[np.argmin(np.abs(y[rows])), np.argmin(np.abs(x[columns]))]
    if not np.isfinite(near):
        raise UnreadableScene(f"{name}: there is no height at the site.")
    heights = np.where(np.isfinite(heights), heights, near) - near
    east, north = np.meshgrid(x[columns], y[rows])
    points = np.column_stack([east.ravel(), north.ravel(), heights.ravel()])
    corner = np.arange(len(rows) * len(columns)).reshape(len(rows), len(columns))
    a, b, c, d = (some.ravel() for some in (corner[1:, :-1], corner[1:, 1:], corner[:-1, 1:], corner[:-1, :-1]))
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    low, high = points[:, 2].min(), points[:, 2].max()
    return {
        "meshes": {
            "land": {
                "name": "Land", "source": f"{name}: {low:+.1f} to {high:+.1f} m beside the site",
                "points": points.round(3).tolist(), "faces": faces.tolist(),
            }
        }
    }  # fmt: skip


def _thinned(kept: NDArray[np.int64]) -> NDArray[np.int64]:
    step = max(1, int(np.ceil(len(kept) / MOST_ACROSS)))
    return kept[::step]
