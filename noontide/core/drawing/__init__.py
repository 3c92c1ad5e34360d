"""Sheets of lines and text in millimetres, and the formats that they are written in."""

from noontide.core.drawing.dxf import as_dxf
from noontide.core.drawing.pdf import Bookmark, as_pdf
from noontide.core.drawing.sheet import PAPERS, Cells, Circle, Mark, Picture, Polyline, Sheet, Text
from noontide.core.drawing.svg import as_svg

__all__ = ["PAPERS", "Bookmark", "Cells", "Circle", "Mark", "Picture", "Polyline", "Sheet", "Text", "as_dxf", "as_pdf", "as_svg"]
