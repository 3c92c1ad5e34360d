"""Shade: the horizon line, the terrain that makes one, parallel rows, and the bodies of a scene."""

from noontide.core.shading.near import shaded_fraction, sky_access
from noontide.core.shading.terrain import horizon_from_grid

__all__ = ["horizon_from_grid", "shaded_fraction", "sky_access"]
