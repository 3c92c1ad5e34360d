"""Shade: the horizon line, the terrain that makes one, and parallel rows."""

from noontide.core.shading.terrain import HeightGrid, horizon_from_grid, read_height_grid

__all__ = ["HeightGrid", "horizon_from_grid", "read_height_grid"]
