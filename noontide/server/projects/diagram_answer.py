"""The one-line diagram as marks that the browser draws in its own colours."""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, Field

from noontide.core.drawing import Cells, Circle, Mark, Picture, Polyline, Sheet


class DrawnMark(BaseModel):
    """A line, a circle or a text, in millimetres from the sheet's upper left corner."""

    kind: Literal["line", "circle", "text"]
    points: list[tuple[float, float]] = Field(description="of a line; the middle of a circle; the base point of a text")
    weight: float = 0.0
    radius: float = 0.0
    size: float = 0.0
    text: str = ""
    anchor: Literal["start", "middle", "end"] = "start"
    is_bold: bool = False
    is_closed: bool = False
    is_filled: bool = False
    tone: str


class DrawnSheet(BaseModel):
    width: float
    height: float
    title: str
    marks: list[DrawnMark]


class DiagramAnswer(BaseModel):
    revision: int
    sheets: list[DrawnSheet]


def diagram_answer(sheets: Sequence[Sheet], revision: int) -> DiagramAnswer:
    """The sheets as an answer."""
    return DiagramAnswer(
        revision=revision,
        sheets=[
            DrawnSheet(width=sheet.width, height=sheet.height, title=sheet.title, marks=[_drawn(mark) for mark in sheet.marks])
            for sheet in sheets
        ],
    )


def _drawn(mark: Mark) -> DrawnMark:
    if isinstance(mark, Polyline):
        points = [(round(x, 3), round(y, 3)) for x, y in mark.points]
        return DrawnMark(
            kind="line", points=points, weight=mark.weight, is_closed=mark.is_closed, is_filled=mark.is_filled, tone=mark.tone
        )
    if isinstance(mark, Cells | Picture):
        raise TypeError("a diagram has no pictures")
    at = [(round(mark.x, 3), round(mark.y, 3))]
    if isinstance(mark, Circle):
        return DrawnMark(
            kind="circle", points=at, weight=mark.weight, radius=mark.radius, is_filled=mark.is_filled, tone=mark.tone
        )
    return DrawnMark(
        kind="text", points=at, size=mark.size, text=mark.text, anchor=mark.anchor, is_bold=mark.is_bold, tone=mark.tone
    )
