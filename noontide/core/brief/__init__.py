"""The Brief: the design as prose, in which every value keeps its pointer."""

from noontide.core.brief.paragraphs import Paragraph, Run, paragraphs

__all__ = ["Paragraph", "Run", "paragraphs"]
