"""The headings, units and samples of the columns of a table."""

import re

import numpy as np

from noontide.core.weather.reading.layout import Layout, fields_of, without_mark
from noontide.core.weather.reading.words import UNIT_WORDS, folded


def headings_of(lines: list[str], layout: Layout) -> tuple[list[str], list[str]]:
    """A heading and a unit for each column; of two lines of words, the one that holds units gives the units."""
    blank = [""] * layout.width
    if not layout.header:
        return blank, blank
    divider = layout.delimiter
    if not divider:
        return lines[layout.header[0]].split(), blank
    rows = [_padded(fields_of(without_mark(lines[i], divider), divider), layout) for i in layout.header]
    if len(rows) == 1:
        return rows[0], blank
    above, below = rows
    if _are_units(below):
        return above, below
    return below, above if _are_units(above) else blank


def _padded(fields: list[str], layout: Layout) -> list[str]:
    if layout.delimiter == " " and len(fields) == layout.width - 1:
        # A stamp with a blank inside has one heading over its two columns.
        fields = [fields[0], "", *fields[1:]]
    return [*fields, *[""] * layout.width][: layout.width]


def _are_units(fields: list[str]) -> bool:
    words = [folded(f) for f in fields if f.strip("[]() -")]
    patterns = [pattern for units in UNIT_WORDS.values() for _, pattern in units]
    units = sum(any(re.search(pattern, word) for pattern in patterns) and len(word) <= 14 for word in words)
    return bool(words) and units >= 0.5 * len(words)


def samples_of(lines: list[str], layout: Layout) -> list[list[str]]:
    count = layout.last - layout.first + 1
    places = sorted({*range(min(40, count)), *np.linspace(0, count - 1, 60).astype(int).tolist()})
    rows = [fields_of(lines[layout.first + i], layout.delimiter, layout.cuts) for i in places if lines[layout.first + i].strip()]
    return [[row[place] for row in rows if len(row) > place] for place in range(layout.width)]


def lines_around(lines: list[str], layout: Layout) -> list[tuple[int, str]]:
    above = [(i + 1, lines[i]) for i in range(min(layout.first, 400))]
    below = [(i + 1, lines[i]) for i in range(layout.last + 1, min(len(lines), layout.last + 101))]
    return [*above, *below]
