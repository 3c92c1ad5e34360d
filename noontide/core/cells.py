"""Tables as cells: what a spreadsheet reads, and what it must not take for a formula."""

import csv
import io
import math
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
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


@dataclass(frozen=True)
class Formula:
    """A cell that a spreadsheet counts itself, and what it comes to, for readers that do not count."""

    text: str
    value: float


SheetCell = Cell | Formula


@dataclass(frozen=True)
class Table:
    """A sheet of a workbook: rows of cells, of which some stand in bold."""

    title: str
    rows: Sequence[Sequence[SheetCell]]
    bold: frozenset[int] = frozenset({0})  # rows, from 0
    decimals: int | None = None  # with which its numbers are shown; as they are without


def column_name(number: int) -> str:
    """The letters of a column, from 0."""
    letters = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def as_workbook(tables: Sequence[Table]) -> bytes:
    """A workbook of several sheets; the same tables make the same bytes, and no text is taken for a formula."""
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(
        out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    )
    book.set_properties({"created": datetime(2000, 1, 1)})
    titles: set[str] = set()
    for table in tables:
        sheet = book.add_worksheet(_sheet_title(table.title, titles))
        shown = {} if table.decimals is None else {"num_format": "#,##0" + ("." + "0" * table.decimals if table.decimals else "")}
        plain, bold = book.add_format(shown), book.add_format({**shown, "bold": True})
        for i, row in enumerate(table.rows):
            for j, cell in enumerate(row):
                _write_cell(sheet, i, j, cell, bold if i in table.bold else plain)
        for j in range(max(map(len, table.rows), default=0)):
            sheet.set_column(j, j, min(max((_width(row[j]) for row in table.rows if j < len(row)), default=0) + 2, WIDEST))
        sheet.freeze_panes(1, 0)
    book.close()
    return out.getvalue()


def _write_cell(sheet: Any, i: int, j: int, cell: SheetCell, shown: Any) -> None:
    if isinstance(cell, Formula):
        sheet.write_formula(i, j, cell.text, shown, cell.value)
    elif isinstance(cell, str):
        sheet.write_string(i, j, str(quoted(cell)), shown)
    elif cell is not None and math.isfinite(cell):
        sheet.write_number(i, j, cell, shown)


def _width(cell: SheetCell) -> int:
    if isinstance(cell, Formula):
        return len(f"{cell.value:,.2f}")
    return 6 if cell is None else max(len(str(cell)) if isinstance(cell, str) else len(f"{cell:,.6g}"), 6)


def _sheet_title(title: str, taken: set[str]) -> str:
    """A title that a workbook may have, once."""
    plain = re.sub(r"[\[\]:*?/\\]", " ", printable(title)).strip("' ")[:28] or "Sheet"
    free = (
        plain
        if plain.lower() not in taken
        else next(f"{plain} {n}" for n in range(2, 100) if f"{plain} {n}".lower() not in taken)
    )
    taken.add(free.lower())
    return free


def as_xlsx(rows: Sequence[Sequence[SheetCell]], title: str, has_sums: bool = False) -> bytes:
    """Rows as a workbook of one sheet; the first row, and with sums the last one, in bold."""
    return as_workbook([Table(title, rows, frozenset({0, len(rows) - 1} if has_sums else {0}))])


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
