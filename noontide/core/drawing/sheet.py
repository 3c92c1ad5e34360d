"""A sheet: what is drawn on paper, in millimetres from its upper left corner."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

Tone = Literal["ink", "soft", "current", "sun", "yield", "loss"]
Anchor = Literal["start", "middle", "end"]
Point = tuple[float, float]
PAPERS: dict[str, Point] = {"a4": (297.0, 210.0), "a3": (420.0, 297.0)}  # landscape [mm]
# The inks of the house on paper.
COLOURS: dict[Tone, str] = {
    "ink": "#1B2A3A",
    "soft": "#5B6570",
    "current": "#2F5D8C",
    "sun": "#8A5E08",
    "yield": "#2F6144",
    "loss": "#9A3A24",
}
WIDTH_OF_LETTER = 0.52  # of the size, of a text of letters and figures in the mean


@dataclass(frozen=True)
class Polyline:
    points: tuple[Point, ...]
    weight: float = 0.25
    is_closed: bool = False
    is_filled: bool = False
    tone: Tone = "ink"


@dataclass(frozen=True)
class Circle:
    x: float
    y: float
    radius: float
    weight: float = 0.25
    is_filled: bool = False
    tone: Tone = "ink"


@dataclass(frozen=True)
class Text:
    x: float
    y: float  # of the base line
    text: str
    size: float = 2.6
    anchor: Anchor = "start"
    is_bold: bool = False
    tone: Tone = "ink"


Mark = Polyline | Circle | Text


@dataclass
class Sheet:
    """One sheet of paper."""

    width: float
    height: float
    title: str = ""
    marks: list[Mark] = field(default_factory=list)

    def line(self, *points: Point, weight: float = 0.25, tone: Tone = "ink") -> None:
        self.marks.append(Polyline(points, weight, tone=tone))

    def box(self, x: float, y: float, width: float, height: float, weight: float = 0.25, is_filled: bool = False) -> None:
        """A rectangle by its upper left corner."""
        corners = ((x, y), (x + width, y), (x + width, y + height), (x, y + height))
        self.marks.append(Polyline(corners, weight, True, is_filled))

    def shape(self, points: Sequence[Point], is_filled: bool = False, weight: float = 0.25) -> None:
        self.marks.append(Polyline(tuple(points), weight, True, is_filled))

    def circle(self, x: float, y: float, radius: float, weight: float = 0.25, is_filled: bool = False) -> None:
        self.marks.append(Circle(x, y, radius, weight, is_filled))

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 2.6,
        anchor: Anchor = "start",
        is_bold: bool = False,
        tone: Tone = "ink",
        most: float | None = None,
    ) -> None:
        """A text; with `most` [mm] it is set smaller, and cut at last, rather than run into its neighbour."""
        if most is not None and text:
            wide = len(text) * size * WIDTH_OF_LETTER
            if wide > most:
                size = max(size * most / wide, 0.72 * size)
                fits = int(most / (size * WIDTH_OF_LETTER))
                text = text if len(text) <= fits else text[: max(fits - 1, 1)].rstrip() + "…"
        self.marks.append(Text(x, y, text, size, anchor, is_bold, tone))
