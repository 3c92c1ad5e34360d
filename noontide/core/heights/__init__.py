"""Height grids: what they are, and how they are read."""

from noontide.core.heights.grid import LARGEST, HeightGrid, read_height_grid

__all__ = ["LARGEST", "HeightGrid", "read_height_grid"]
