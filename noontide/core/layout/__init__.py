"""The layout of modules on a face: usable area, setbacks, filling."""

from noontide.core.layout.filling import ImpossibleFace, fill, usable_area

__all__ = ["ImpossibleFace", "fill", "usable_area"]
