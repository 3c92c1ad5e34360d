"""Where the table stands in a file: what separates its fields, its first and last row, its headings."""

import csv
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import zip_longest

import numpy as np

from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading.stamps import clock_of, layout_of

DELIMITERS = (";", "\t", ",", "|", " ")
SAMPLE = 400
LEAST_ROWS = 4
_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?", re.ASCII)
# Digits in threes, of which all groups have the same mark between them.
GROUP_MARKS = ",.'\u2019 \u00a0\u202f"
_GROUPED = re.compile(rf"[+-]?\d{{1,3}}([{GROUP_MARKS}])\d{{3}}(\1\d{{3}})*([.,]\d+)?", re.ASCII)
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
    cuts: tuple[int, ...] = ()  # where columns without dividers begin, from 0
    thousands: str = ""


def fields_of(line: str, delimiter: str, cuts: Sequence[int] = ()) -> list[str]:
    """Fields of a line as texts; without a delimiter those between the cuts."""
    if not delimiter:
        return [line[start:end].strip() for start, end in zip_longest(cuts, cuts[1:])]
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
    return is_number(text) or is_grouped(text) or text.casefold() in _NOTHING or bool(layout_of([text]) or clock_of([text]))


def is_number(text: str) -> bool:
    return _NUMBER.fullmatch(text) is not None


def is_grouped(text: str) -> bool:
    """Whether a field is a number with marks between its thousands."""
    return _GROUPED.fullmatch(text) is not None


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
    if (best_score < LEAST_ROWS or delimiter == " ") and (fixed := _without_dividers(lines, end, sample)) is not None:
        return fixed
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
    last = _without_sums(lines, first, last, delimiter)
    decimal, thousands = _marks(sample, delimiter, width)
    return Layout(delimiter, decimal, width, _header(lines, first, delimiter, width), first, last, thousands=thousands)


MOST_SUMS = 12  # rows of sums and means under a table
BULK = 40  # rows of the middle of a table that say what its columns hold


def _without_sums(lines: list[str], first: int, last: int, delimiter: str) -> int:
    """The last row that has times where all rows have them: sums, means and extremes may stand right under the data."""
    places = sorted({*np.linspace(first, max(first, last - MOST_SUMS), BULK).astype(int).tolist()})
    rows = [fields_of(lines[i], delimiter) for i in places if lines[i].strip()]
    width = min(map(len, rows))

    def is_time(text: str) -> bool:
        return bool(layout_of([text]) or clock_of([text])) and not is_number(text)

    timed = [place for place in range(width) if all(is_time(row[place]) for row in rows)]
    solid = [place for place in range(width) if all(is_number(row[place]) for row in rows)]

    def is_data(line: str) -> bool:
        fields = fields_of(line, delimiter)
        if not timed:
            return len(fields) >= width and not any(
                re.search(r"[^\W\d_]{3}", fields[place]) and not is_value(fields[place]) for place in solid
            )
        return len(fields) > max(timed) and all(is_time(fields[place]) for place in timed)

    end = last
    while end > first and last - end < MOST_SUMS and not is_data(lines[end]):
        end -= 1
    return end if last - end < MOST_SUMS else last


EVEN_ROWS = 0.97  # share of rows with the same number of fields, from which blanks are taken for dividers
SELDOM = 0.02


def _without_dividers(lines: list[str], end: int, sample: list[str]) -> Layout | None:
    """A table whose numbers stand in columns of characters and may touch one another; None where blanks divide it as well.

    A column ends where a digit stands in every row and begins where some row has a blank or a sign.
    """
    rows = [line.rstrip() for line in sample]
    rows = [row for row in rows if row and all(letter in "0123456789+-. " for letter in row)]
    if len(rows) < 50:
        return None
    length = Counter(map(len, rows)).most_common(1)[0][0]
    rows = [row for row in rows if len(row) == length]
    fields = Counter(len(row.split()) for row in rows)
    if len(rows) < 50 or fields.most_common(1)[0][1] >= EVEN_ROWS * len(rows):
        return None
    letters = np.array([list(row) for row in rows])
    is_open = np.isin(letters, [" ", "-", "+"]).mean(axis=0)
    cuts = [0, *(place for place in range(1, length) if is_open[place] > SELDOM / 4 and is_open[place - 1] < SELDOM / 4)]
    is_row = [len(lines[i].rstrip()) == length and all(is_value(f) for f in fields_of(lines[i], "", cuts)) for i in range(end)]
    if len(cuts) < 3 or sum(is_row) < 50:
        return None
    first, last = is_row.index(True), end - 1 - is_row[::-1].index(True)
    return Layout("", ".", len(cuts), _fixed_header(lines, first, cuts), first, last, tuple(cuts))


def _fixed_header(lines: list[str], first: int, cuts: Sequence[int]) -> tuple[int, ...]:
    """The line right above, where most of its words stand over columns of their own."""
    words = lines[first - 1].split() if first else []
    return (first - 1,) if len(words) == len(cuts) and not any(map(is_value, words)) else ()


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
    whole = sum(sum(is_number(f) or is_grouped(f) or bool(layout_of([f])) for f in fields) / width for fields in rows[:60]) / max(
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


def _marks(sample: list[str], delimiter: str, width: int) -> tuple[str, str]:
    """The marks of decimals and of thousands; the latter is empty where there are none."""
    rows = [fields for line in sample if len(fields := fields_of(line, delimiter)) == width]
    grouped = Counter(mark for place in range(width) if (mark := _group_mark([row[place] for row in rows])))
    thousands = grouped.most_common(1)[0][0] if grouped else ""
    if delimiter == "," or thousands == ",":
        return ".", thousands
    fields = [field.replace(thousands, "") if thousands else field for row in rows for field in row]
    commas = sum(bool(re.fullmatch(r"[+-]?\d+,\d+", field)) for field in fields)
    points = sum(bool(re.fullmatch(r"[+-]?\d+\.\d+", field)) for field in fields)
    decimal = "," if commas > points or thousands == "." else "."
    return decimal, thousands


def _group_mark(column: list[str]) -> str:
    """What stands between the thousands of a column, empty where nothing does.

    "1.234" alone may be a little more than one: it is a thousand where the column also has whole numbers beyond a hundred and no
    others with that mark; "1.234,5" says it by itself.
    """
    texts = [text for text in column if text and text.casefold() not in _NOTHING]
    found = [match for text in texts if (match := _GROUPED.fullmatch(text))]
    if not found:
        return ""
    mark = Counter(match[1] for match in found).most_common(1)[0][0]
    if mark not in ".,":
        return mark
    if any(match[1] == mark and match[3] and match[3][0] != mark for match in found):
        return mark
    plain = [text for text in texts if not _GROUPED.fullmatch(text)]
    others = [text for text in plain if mark in text]
    whole = [abs(int(text)) for text in plain if re.fullmatch(r"[+-]?\d{1,6}", text)]
    is_decimal = bool(others) or any(match[0].lstrip("+-").startswith("0") for match in found)
    return mark if not is_decimal and whole and 100 <= max(whole) < 1000 else ""


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
