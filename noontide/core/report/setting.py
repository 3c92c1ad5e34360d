"""Setting a report: headings, prose, tables and pictures one after another on as many sheets as they take.

A sheet is what is printed and what is shown: the preview in the browser and the PDF are made of the same marks.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any, Literal

from noontide.core.drawing import Bookmark, Sheet, Text
from noontide.core.drawing.sheet import COLOURS, Tone
from noontide.core.drawing.typeface import lines_of, printable, width_of
from noontide.core.report.wording import Wording, wording

PAPERS: dict[str, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}  # upright [mm]
MARGIN, TOP, FOOT = 20.0, 24.0, 18.0  # mm
SIZE, LEADING = 3.2, 1.5  # of prose [mm]; distance of lines in sizes
SMALL = 2.6
CELL = 4.9  # least height of a row of a table
GAP = 2.5  # between columns

_UNIT_OF_COLUMN = re.compile(r"\[([^\]]+)\]$")
_WRITTEN = re.compile(r"[−+-]?\d+(?:,\d{3})*(?:\.\d+)?")

Align = Literal["start", "end"]
Words = Sequence[tuple[str, bool]]  # pieces of a sentence, and which of them stand out
Draw = Callable[[Sheet, float, float, float, float], None]  # sheet, left, top, width, height


@dataclass(frozen=True)
class Column:
    """One column of a table."""

    title: str
    share: float  # of the width
    align: Align = "end"


@dataclass
class Flow:
    """Where a report stands while it is set."""

    paper: str
    sheets: list[Sheet] = field(default_factory=list)
    outline: list[Bookmark] = field(default_factory=list)
    pages: list[str] = field(default_factory=list)  # by sheet the key of the page that it belongs to
    framed: set[int] = field(default_factory=set)  # sheets that have a frame and a foot of their own
    key: str = ""
    y: float = 0.0
    wording: Wording = field(default_factory=wording)
    accent: str = COLOURS["accent"]

    @property
    def width(self) -> float:
        return PAPERS[self.paper][0] - 2 * MARGIN

    @property
    def room(self) -> float:
        """Left on the sheet [mm]."""
        return PAPERS[self.paper][1] - FOOT - self.y

    @property
    def sheet(self) -> Sheet:
        return self.sheets[-1]

    def begin(self, key: str, title: str) -> None:
        """A page of the report, on a sheet of its own."""
        self.key = key
        self.turn()
        title = self.wording.say(title)
        self.outline.append(Bookmark(title, len(self.sheets) - 1))
        self.sheet.text(MARGIN, self.y + 5, title, 7.0, is_bold=True, tone="accent", most=self.width)
        self.y += 13

    def turn(self) -> None:
        """A new sheet."""
        self.sheets.append(Sheet(*PAPERS[self.paper], accent=self.accent))
        self.pages.append(self.key)
        self.y = TOP

    def put(self, key: str, title: str, sheets: Sequence[Sheet]) -> None:
        """Sheets that are set already, such as a drawing of its own paper."""
        self.outline.append(Bookmark(self.wording.say(title), len(self.sheets)))
        self.framed |= set(range(len(self.sheets), len(self.sheets) + len(sheets)))
        self.sheets += [self._worded(sheet) for sheet in sheets]
        self.pages += [key] * len(sheets)
        self.key = key

    def _worded(self, sheet: Sheet) -> Sheet:
        """A drawing with its texts as the reader has them."""
        if self.wording.is_plain:
            return sheet
        marks = [replace(mark, text=self.wording.say(mark.text)) if isinstance(mark, Text) else mark for mark in sheet.marks]
        return replace(sheet, marks=marks)

    def need(self, height: float) -> None:
        """A new sheet where a height is not left on this one."""
        if self.room < height:
            self.turn()

    def heading(self, text: str, beside: float = 14.0) -> None:
        """A heading, on the sheet on which what follows begins; `beside` is the height of that [mm]."""
        self.need(9 + beside)
        text = self.wording.say(text)
        self.outline.append(Bookmark(text, len(self.sheets) - 1, 1))
        self.sheet.text(MARGIN, self.y + 6, text, 4.2, is_bold=True, tone="accent", most=self.width)
        self.y += 10

    def prose(self, words: Words | str, size: float = SIZE, tone: Tone = "ink", after: float = 3.0) -> None:
        """A paragraph; pieces that stand out are bold."""
        pieces = [
            (self.wording.say(text), stands_out) for text, stands_out in ([(words, False)] if isinstance(words, str) else words)
        ]
        for line in _broken(pieces, size, self.width):
            self.need(size * LEADING)
            x = MARGIN
            for text, is_bold in line:
                self.sheet.text(x, self.y + size, text, size, is_bold=is_bold, tone=tone)
                x += width_of(printable(text), size, is_bold)
            self.y += size * LEADING
        self.y += after

    def table(
        self, columns: Sequence[Column], rows: Sequence[Sequence[str]], last_is_sum: bool = False, size: float = SMALL
    ) -> None:
        """Rows under their headings, which stand again on every further sheet; texts that are longer than their column take more lines."""
        edges = [MARGIN]
        for column in columns:
            edges.append(edges[-1] + column.share * self.width)
        widths = [b - a - GAP for a, b in pairwise(edges)]
        say = self.wording.say
        columns, rows = self._in_units(columns, rows)
        head = [lines_of(printable(say(c.title)), size, w) for c, w in zip(columns, widths, strict=True)]
        has_head = any(column.title for column in columns)
        deep = size * 1.35 * max(map(len, head)) + 2.2 if has_head else 1.0

        def write(texts: list[list[str]], height: float, is_bold: bool, tone: Tone) -> None:
            for column, left, wide, lines in zip(columns, edges, widths, texts, strict=False):
                for k, text in enumerate(lines):
                    # Numbers of the last column stand at the edge of the page.
                    end = left + wide + (GAP if column is columns[-1] else 0.0)
                    x = left if column.align == "start" else end
                    self.sheet.text(
                        x, self.y + size + 0.6 + k * size * 1.35, text, size, column.align, is_bold=is_bold, tone=tone, most=wide
                    )
            self.y += height

        def begin() -> None:
            if has_head:
                write(head, deep, True, "soft")
                self.sheet.line((MARGIN, self.y), (MARGIN + self.width, self.y), weight=0.3)
            self.y += 0.8

        self.need(deep + 2 * CELL)
        begin()
        for number, row in enumerate(rows):
            is_sum = last_is_sum and number == len(rows) - 1
            texts = [lines_of(printable(say(t)), size, w, is_sum) if t else [] for t, w in zip(row, widths, strict=True)]
            height = max(CELL * size / SMALL, size * 1.35 * max(map(len, texts), default=1) + 1.4)
            if self.room < height:
                self.turn()
                begin()
            if is_sum:
                self.sheet.line((MARGIN, self.y), (MARGIN + self.width, self.y), weight=0.3)
            write(texts, height, is_sum, "ink")
            if not is_sum:
                self.sheet.line((MARGIN, self.y - 0.3), (MARGIN + self.width, self.y - 0.3), weight=0.08, tone="soft")
        self.y += 4

    def _in_units(
        self, columns: Sequence[Column], rows: Sequence[Sequence[str]]
    ) -> tuple[Sequence[Column], Sequence[Sequence[str]]]:
        """Columns whose headings name a unit, in the reader's."""
        units = [found[1] if (found := _UNIT_OF_COLUMN.search(column.title)) else "" for column in columns]
        if not any(unit in self.wording.units for unit in units):
            return columns, rows
        columns = [
            replace(column, title=column.title.replace(f"[{unit}]", f"[{self.wording.converted('0', unit)[1]}]"))
            if unit
            else column
            for column, unit in zip(columns, units, strict=True)
        ]
        return columns, [
            [
                self.wording.converted(cell, unit)[0] if unit and _WRITTEN.fullmatch(cell) else cell
                for cell, unit in zip(row, units, strict=False)
            ]
            for row in rows
        ]

    def picture(self, height: float, draw: Draw, caption: str = "") -> None:
        """A picture as wide as the page, with its caption under it."""
        self.need(height + (6 if caption else 2))
        draw(_Worded(self.sheet, self.wording), MARGIN, self.y, self.width, height)
        self.y += height + 1
        if caption:
            self.y = self.sheet.paragraph(MARGIN, self.y + SMALL, self.wording.say(caption), self.width, SMALL, 1.4, tone="soft")
        self.y += 3


class _Worded(Sheet):
    """A sheet for pictures, whose texts are put into the reader's words as they are written."""

    def __init__(self, sheet: Sheet, words: Wording):
        super().__init__(sheet.width, sheet.height, sheet.title, sheet.marks, sheet.accent)
        self._words = words

    def text(self, x: float, y: float, text: str, *how: Any, **and_how: Any) -> None:
        super().text(x, y, self._words.say(text), *how, **and_how)


def _broken(pieces: Words, size: float, most: float) -> list[list[tuple[str, bool]]]:
    """Lines of at most a width; each is made of pieces that stand out or do not, with the blanks at the ends of the pieces before them."""
    units: list[list[tuple[str, bool]]] = []  # what stands together without a blank
    goes_on = False
    for text, is_bold in pieces:
        for k, part in enumerate(re.split(r"\s+", printable(text))):
            goes_on = goes_on and k == 0
            if part:
                if goes_on:
                    units[-1].append((part, is_bold))
                else:
                    units.append([(part, is_bold)])
                goes_on = True
    lines: list[list[tuple[str, bool]]] = [[]]
    wide, blank = 0.0, width_of(" ", size, True)
    for unit in units:
        each = sum(width_of(text, size, is_bold) for text, is_bold in unit)
        if each > most:  # a word that is wider than the page is broken inside
            unit = [(part, is_bold) for text, is_bold in unit for part in lines_of(text, size, most, is_bold)]
            lines += [[part] for part in unit[:-1]] + [[]]
            unit, each, wide = unit[-1:], width_of(unit[-1][0], size, unit[-1][1]), 0.0
        if lines[-1] and wide + blank + each > most:
            lines.append([])
            wide = 0.0
        if lines[-1]:
            text, is_bold = lines[-1][-1]
            lines[-1][-1] = (text + " ", is_bold)
            wide += blank
        for text, is_bold in unit:
            if lines[-1] and lines[-1][-1][1] == is_bold:
                lines[-1][-1] = (lines[-1][-1][0] + text, is_bold)
            else:
                lines[-1].append((text, is_bold))
        wide += each
    return [line for line in lines if line]
