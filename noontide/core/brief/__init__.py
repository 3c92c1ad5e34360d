"""The Brief: the design as prose, in which every value keeps its pointer."""

from noontide.core.brief.paragraphs import Paragraph, paragraphs
from noontide.core.brief.runs import Run

__all__ = ["Paragraph", "Run", "paragraphs"]
