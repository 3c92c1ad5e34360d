"""Where the table stands in a file: what separates its fields, its first and last row, its headings."""

import csv
import re
from collections import Counter
from dataclasses import dataclass

from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.stamps import clock_of, layout_of

DELIMITERS = (";", "\t", ",", "|", " ")
SAMPLE = 400
LEAST_ROWS = 4
_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?", re.ASCII)
_NOTHING = {"", "-", "--", "---", "na", "n/a", "nan", "null", "none", "nd", "*", "?", "missing", "#n/a", "#nv"}


@dataclass(frozen=True)
class Layout:
    """The table within its lines; rows are indices from 0, the last one included."""

    delimiter: str
    decimal: str
    width: int
    header: tuple[int, ...]
    first: int
    last: int


def fields_of(line: str, delimiter: str) -> list[str]:
    """Fields of a line as texts."""
    if delimiter == " ":
        return line.split()
    if '"' in line:
        return [field.strip() for field in next(csv.reader([line], delimiter=delimiter), [])]
    return [field.strip().strip("'") for field in line.split(delimiter)]


def without_mark(line: str, delimiter: str) -> str:
    """A line of headings without the sign of a comment before it; a divider at its beginning stays, as that of an empty heading."""
    return line.lstrip("".join(mark for mark in "#%/!; \t" if mark != delimiter))


def is_value(text: str) -> bool:
    """Whether a field is one of data: a number, a date, a time, or a word for nothing."""
    return is_number(text) or text.casefold() in _NOTHING or bool(layout_of([text]) or clock_of([text]))


def is_number(text: str) -> bool:
    return _NUMBER.fullmatch(text) is not None


def layout_of_lines(lines: list[str]) -> Layout:
    """Find the table in the lines of a file.

    Raises
    ------
    WeatherFileError
        If no rows of numbers follow each other anywhere.
    """
    end = len(lines)
    while end and not lines[end - 1].strip(" ,;\t|"):
        end -= 1
    if not end:
        raise WeatherFileError("The file is empty.")
    sample = _sample(lines, end)
    best, best_score = (",", 0), 0.0
    for delimiter in DELIMITERS:
        width, score = _score(sample, delimiter)
        if score > best_score * 1.02:
            best, best_score = (delimiter, width), score
    delimiter, width = best
    first = next(
        (i for i in range(end) if _is_row(lines[i], delimiter, width) and _goes_on(lines, i, end, delimiter, width)), None
    )
    if best_score < LEAST_ROWS or first is None:
        raise WeatherFileError(
            "no table was found: rows of numbers with a date or an hour, divided by commas, semicolons, tabs or blanks",
            row=1,
            value=lines[0][:60],
        )
    last = next(i for i in range(end - 1, first - 1, -1) if _is_row(lines[i], delimiter, width))
    return Layout(delimiter, _decimal(sample, delimiter), width, _header(lines, first, delimiter, width), first, last)


def _sample(lines: list[str], end: int) -> list[str]:
    if end <= 2 * SAMPLE:
        return lines[:end]
    places = [*range(SAMPLE), *range(end // 2, end // 2 + SAMPLE // 2), *range(end - SAMPLE // 2, end)]
    return [lines[i] for i in places]


def _score(sample: list[str], delimiter: str) -> tuple[int, float]:
    """The usual number of fields, and how many lines of the sample have it and are mostly values."""
    split = [fields_of(line, delimiter) for line in sample if line.strip()]
    widths = Counter(len(fields) for fields in split if len(fields) > 1)
    if not widths:
        return 1, 0.0
    width = max(widths, key=lambda w: (widths[w], w))
    rows = [fields for fields in split if len(fields) == width]
    values = sum(sum(map(is_value, fields)) / width for fields in rows)
    # Blanks divide a date from its time and a comma a number from its decimals: what leaves whole values wins.
    whole = sum(sum(is_number(f) or bool(layout_of([f])) for f in fields) / width for fields in rows[:60]) / max(
        len(rows[:60]), 1
    )
    return width, values * (0.5 + 0.5 * whole) * (1.0 if delimiter != " " else 0.9)


def _is_row(line: str, delimiter: str, width: int) -> bool:
    fields = fields_of(line, delimiter)
    if abs(len(fields) - width) > 1 or not any(fields):
        return False
    data = sum(map(is_value, fields))
    return data >= 0.5 * len(fields) and any(is_number(f) or layout_of([f]) for f in fields) and (data > 1 or width == 1)


def _goes_on(lines: list[str], start: int, end: int, delimiter: str, width: int) -> bool:
    """Whether the lines after a row are rows too: a preamble may hold a line of numbers, but not several."""
    following = [line for line in lines[start : min(start + 12, end)] if line.strip()][:LEAST_ROWS]
    return (
        len(following) == LEAST_ROWS
        and all(_is_row(line, delimiter, width) for line in following)
        and (len({len(fields_of(line, delimiter)) for line in following}) == 1)
    )


def _decimal(sample: list[str], delimiter: str) -> str:
    if delimiter == ",":
        return "."
    fields = [field for line in sample for field in fields_of(line, delimiter)]
    commas = sum(bool(re.fullmatch(r"[+-]?\d+,\d+", field)) for field in fields)
    points = sum(bool(re.fullmatch(r"[+-]?\d+\.\d+", field)) for field in fields)
    return "," if commas > points else "."


def _header(lines: list[str], first: int, delimiter: str, width: int) -> tuple[int, ...]:
    """Up to two lines of words right above the table: names, and units."""
    found: list[int] = []
    for i in range(first - 1, max(first - 4, -1), -1):
        fields = fields_of(without_mark(lines[i], delimiter), delimiter)
        if not any(fields):
            if found:
                break
            continue
        words = sum(bool(re.search(r"[^\W\d_]", f)) and not is_value(f) for f in fields)
        # A line of statements, as "lat: 51.52, lon: -0.12", is no line of headings.
        if sum(bool(re.search(r"[:=]\s*[+-]?\d", f)) for f in fields) >= 0.5 * len(fields):
            break
        if abs(len(fields) - width) > (1 if delimiter != " " else 4) or words < max(1, 0.5 * width):
            break
        found.insert(0, i)
        if len(found) == 2:
            break
    return tuple(found)
