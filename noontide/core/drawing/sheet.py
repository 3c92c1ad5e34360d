"""A sheet: what is drawn on paper, in millimetres from its upper left corner."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from typing import Literal

from noontide.core.drawing.typeface import lines_of, printable, width_of

Tone = Literal["ink", "soft", "current", "sun", "yield", "loss", "accent"]
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
    "accent": "#1B2A3A",  # of headings; a sheet may have its own
}
SMALLEST = 0.72  # of its size, to which a text is set smaller before it is cut


@dataclass(frozen=True)
class Polyline:
    points: tuple[Point, ...]
    weight: float = 0.25
    is_closed: bool = False
    is_filled: bool = False
    tone: Tone = "ink"
    fill: str = ""  # a colour of its own, as #rrggbb, in place of the tone's


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


@dataclass(frozen=True)
class Cells:
    """A grid of coloured cells, such as the hours of a year: each is as wide and high as the others."""

    x: float
    y: float
    width: float  # of a cell
    height: float
    colours: tuple[tuple[str, ...], ...]  # row by row from above; none where a text is empty


@dataclass(frozen=True)
class Picture:
    """A photograph or a logo, as PNG."""

    x: float
    y: float  # of its upper edge
    width: float
    height: float
    png: bytes


Mark = Polyline | Circle | Text | Cells | Picture


def runs_of(cells: Cells) -> Iterator[tuple[float, float, float, str]]:
    """Left, top and width of cells of one colour beside one another, and the colour: a year has fewer of them than hours."""
    for row, colours in enumerate(cells.colours):
        at = 0
        for colour, some in groupby(colours):
            count = sum(1 for _ in some)
            if colour:
                yield cells.x + at * cells.width, cells.y + row * cells.height, count * cells.width, colour
            at += count


@dataclass
class Sheet:
    """One sheet of paper."""

    width: float
    height: float
    title: str = ""
    marks: list[Mark] = field(default_factory=list)
    accent: str = COLOURS["accent"]  # the colour of its headings

    def colour(self, tone: Tone) -> str:
        """The ink of a tone on this sheet."""
        return self.accent if tone == "accent" else COLOURS[tone]

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
        text = printable(text)
        if most is not None and text and (wide := width_of(text, size, is_bold)) > most:
            size = max(size * most / wide, SMALLEST * size)
            if width_of(text, size, is_bold) > most * (1 + 1e-6):
                text = cut_to(text, size, most, is_bold)
        self.marks.append(Text(x, y, text, size, anchor, is_bold, tone))

    def paragraph(
        self,
        x: float,
        y: float,
        text: str,
        most: float,
        size: float = 2.6,
        line: float = 1.5,
        is_bold: bool = False,
        tone: Tone = "ink",
    ) -> float:
        """A text in as many lines of at most a width [mm] as it takes; `line` is their distance in sizes. Returns the base line after it."""
        for part in lines_of(printable(text), size, most, is_bold):
            self.text(x, y, part, size, is_bold=is_bold, tone=tone)
            y += line * size
        return y


def fits(text: str, size: float, most: float, is_bold: bool = False) -> bool:
    """Whether a text is written whole in a width [mm], be it smaller."""
    return width_of(printable(text), SMALLEST * size, is_bold) <= most * (1 + 1e-6)


def cut_to(text: str, size: float, most: float, is_bold: bool = False, end: str = "…") -> str:
    """As much of a text as stands in a width [mm] before an end."""
    count = len(text)
    while count > 1 and width_of(text[:count].rstrip() + end, size, is_bold) > most:
        count -= 1
    return text[:count].rstrip() + end
