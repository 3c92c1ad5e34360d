"""Tables as cells: what a spreadsheet reads, and what it must not take for a formula."""

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from noontide.core.drawing.typeface import printable

FORMULA = ("=", "+", "-", "@", "\t", "\r")
NUMBER = re.compile(r"[-+]?\d+(\.\d+)?([eE][-+]?\d+)?")
WRITTEN = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d{1,2})?", re.IGNORECASE | re.ASCII)  # a number as people write one
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"  # media type
WIDEST = 50  # characters of a column
Cell = str | float | None


def quoted(value: Cell) -> Cell:
    """A text that a spreadsheet would take for a formula stands behind an apostrophe; a number is no formula, also where it is written out."""
    if not isinstance(value, str):
        return value
    text = printable(value)
    return f"'{text}" if text.startswith(FORMULA) and not NUMBER.fullmatch(text) else text


def as_csv(rows: Iterable[Sequence[Cell]]) -> str:
    """Rows as CSV; None is an empty cell."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in rows:
        writer.writerow(["" if cell is None else cell for cell in map(quoted, row)])
    return out.getvalue()


def as_xlsx(rows: Sequence[Sequence[Cell]], title: str, has_sums: bool = False) -> bytes:
    """Rows as a workbook of one sheet; the first row, and with sums the last one, in bold."""
    import openpyxl
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None  # a new workbook has one
    sheet.title = printable(title)
    for row in rows:
        sheet.append([quoted(cell) for cell in row])
    for cell in (*sheet[1], *(sheet[len(rows)] if has_sums else ())):
        cell.font = Font(bold=True)
    for i in range(len(rows[0])):
        widest = max(len(str(row[i] or "")) for row in rows)
        sheet.column_dimensions[get_column_letter(i + 1)].width = min(max(widest + 2, 8), WIDEST)
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


LONGEST_GAP = 2000  # empty rows of a sheet, below which nothing belongs to a table
WIDEST_ROW = 400  # cells of a row that are looked at


def rows_of_sheet(sheet: Any) -> Iterator[tuple]:
    """The values of a worksheet row by row, however large it says that it is.

    Raises
    ------
    ValueError
        If something stands far below the rest.
    """
    # What a file states of its size is not believed: one cell in the last corner would make sixteen thousand million.
    sheet.reset_dimensions()
    gap = 0
    for number, row in enumerate(sheet.iter_rows(values_only=True), 1):
        if not row or all(value is None for value in row):
            gap += 1
            if gap <= LONGEST_GAP:
                yield ()
            continue
        if gap > LONGEST_GAP:
            raise ValueError(f"The sheet has {gap:,} empty rows above row {number:,}. Delete them, or what stands below them.")
        gap = 0
        yield row[:WIDEST_ROW]


def rows_of(text: str) -> Iterator[list[str]]:
    """The cells of a text, divided by what its first line has most of.

    Raises
    ------
    ValueError
        If it cannot be divided.
    """
    first = text.split("\n", 1)[0]
    divider = max(";\t,", key=first.count)
    try:
        for row in csv.reader(io.StringIO(text), delimiter=divider):
            yield [cell.strip() for cell in row]
    except csv.Error as error:
        raise ValueError(f"The table cannot be divided into cells: {error}.") from None


def number_in(cell: str) -> float | None:
    """The number that a cell holds, with a decimal point or comma, spaces between thousands and either minus; None where it holds none."""
    plain = cell.strip().replace(" ", "").replace("\u2212", "-")
    if "," in plain and "." not in plain:
        plain = plain.replace(",", ".")
    return float(plain) if WRITTEN.fullmatch(plain) else None
