"""Heights of ground and roofs on a regular grid."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
LARGEST = 40_000_000  # cells


@dataclass(frozen=True)
class HeightGrid:
    """Heights above sea level on a regular grid, rows from north to south, values at the centres of the cells."""

    heights: Floats  # (rows, columns) [m]; NaN where there are none
    west: float  # of the western edge: longitude [°], or metres
    north: float  # of the northern edge: latitude [°], or metres
    cell: float  # [°] or [m]
    is_geographic: bool

    def at(self, east: ArrayLike, north: ArrayLike) -> Floats:
        """Heights between the four nearest cells; NaN outside of the grid."""
        rows, columns = self.heights.shape
        x = (np.asarray(east, dtype=float) - self.west) / self.cell - 0.5
        y = (self.north - np.asarray(north, dtype=float)) / self.cell - 0.5
        inside = (x >= -0.5) & (x <= columns - 0.5) & (y >= -0.5) & (y <= rows - 0.5)
        x, y = np.clip(x, 0, columns - 1), np.clip(y, 0, rows - 1)
        i, j = np.minimum(x.astype(np.int64), max(columns - 2, 0)), np.minimum(y.astype(np.int64), max(rows - 2, 0))
        u, v = x - i, y - j
        right, below = np.minimum(i + 1, columns - 1), np.minimum(j + 1, rows - 1)
        upper = self.heights[j, i] * (1 - u) + self.heights[j, right] * u
        lower = self.heights[below, i] * (1 - u) + self.heights[below, right] * u
        return np.where(inside, upper * (1 - v) + lower * v, np.nan)


def read_height_grid(text: str, name: str = "height grid") -> HeightGrid:
    """A grid in the ESRI ASCII notation: ncols, nrows, xllcorner or xllcenter, yllcorner or yllcenter, cellsize, NODATA_value.

    It is taken as geographic where it lies within ±180° and ±90° and its cells are smaller than a degree.

    Raises
    ------
    ValueError
        Naming the line and what was expected.
    """
    lines = text.splitlines()
    head: dict[str, float] = {}
    at = 0
    for at, line in enumerate(lines):
        fields = line.split()
        if not fields or not fields[0][0].isalpha():
            break
        try:
            head[fields[0].lower()] = float(fields[1])
        except (IndexError, ValueError):
            raise ValueError(
                f"{name}, line {at + 1}: a name and a number were expected, such as 'ncols 1201'; it is '{line[:60]}'."
            ) from None
    for wanted in ("ncols", "nrows", "cellsize"):
        if wanted not in head:
            raise ValueError(
                f"{name}: the header has no {wanted}; a height grid begins with ncols, nrows, xllcorner, yllcorner, cellsize."
            )
    if not all(np.isfinite(head[key]) and abs(head[key]) < 1e12 for key in ("ncols", "nrows", "cellsize")):
        raise ValueError(
            f"{name}: ncols, nrows and cellsize must be numbers of a grid; they are {head['ncols']:g}, {head['nrows']:g} and {head['cellsize']:g}."
        )
    columns, rows, cell = int(head["ncols"]), int(head["nrows"]), head["cellsize"]
    if not (0 < columns * rows <= LARGEST and cell > 0):
        raise ValueError(
            f"{name}: {columns} by {rows} cells of {cell:g}; at most {LARGEST:,} cells are read, each larger than 0."
        )
    west = head.get("xllcorner", head.get("xllcenter", np.nan) - cell / 2)
    south = head.get("yllcorner", head.get("yllcenter", np.nan) - cell / 2)
    if not np.isfinite(west + south):
        raise ValueError(f"{name}: the header has no xllcorner and yllcorner.")
    try:
        heights = np.array(" ".join(lines[at:]).split(), dtype=float)
    except ValueError as error:
        raise ValueError(f"{name}: a height is no number ({str(error)[-40:]}).") from None
    if heights.size != columns * rows:
        raise ValueError(f"{name}: {columns * rows:,} heights were expected; there are {heights.size:,}.")
    heights[heights == head.get("nodata_value", -9999.0)] = np.nan
    north = south + rows * cell
    is_geographic = -180.001 <= west <= 360 and south >= -90.001 and north <= 90.001 and cell < 1
    return HeightGrid(heights.reshape(rows, columns), west, north, cell, is_geographic)
