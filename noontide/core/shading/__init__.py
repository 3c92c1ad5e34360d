"""Shade: the horizon line, the terrain that makes one, parallel rows, and the bodies of a scene."""

from noontide.core.shading.near import shaded_fraction, sky_access
from noontide.core.shading.terrain import HeightGrid, horizon_from_grid, read_height_grid

__all__ = ["HeightGrid", "horizon_from_grid", "read_height_grid", "shaded_fraction", "sky_access"]
