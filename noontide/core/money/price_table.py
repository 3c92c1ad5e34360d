"""Prices and other values by hour from pasted cells: of a day, of a day by month, or of a year."""

import re
from itertools import pairwise
from typing import Literal

from noontide.core.cells import number_in

PerUnit = Literal["kWh", "MWh"]
Cells = list[list[str]]
DAYS_OF_A_YEAR = (365, 366)
HOURS_OF_A_YEAR = (8760, 8784)


def read_price_table(text: str, per: PerUnit = "kWh") -> tuple[float, ...]:
    """Prices of a kWh as a tariff keeps them, by hour; cells as `read_hour_table` takes them.

    Raises
    ------
    ValueError
        With the row that holds no number, or the shape of what there is.
    """
    found = read_hour_table(text, "price")
    return tuple(value / 1000 for value in found) if per == "MWh" else found


def read_hour_table(text: str, one: str) -> tuple[float, ...]:
    """Values by hour: 24 of a day, 288 (24 for each month), or 8760 or 8784 of a year.

    A row an hour with the value in its last column; 24 rows of twelve months or twelve of 24 hours; a row a day of 24 hours.
    Headings and a column of hours, months or dates may stand in front.

    Parameters
    ----------
    one : str
        What a value is called in messages.

    Raises
    ------
    ValueError
        With the row that holds no number, or the shape of what there is.
    """
    rows = _cells(text)
    if rows and _is_heading(rows[0]):
        rows = rows[1:]
        first = 2
    else:
        first = 1
    if not rows:
        raise ValueError(f"There is no {one}. Paste a column with a {one} for each hour.")
    wide = min(len(row) for row in rows)
    columns = next((n for n in (24, 12) if n <= wide <= n + 1 and len(rows) in _rows_of(n)), 1)
    values = [
        [_number(cell, number, one) for cell in (row[-columns:] if columns > 1 else row[-1:])]
        for number, row in enumerate(rows, start=first)
    ]
    if columns == 12:  # a column a month
        values = [list(month) for month in zip(*values, strict=True)]
    found = [value for row in values for value in row]
    if len(found) not in (24, 288, *HOURS_OF_A_YEAR):
        raise ValueError(
            f"There are {len(found):,} {one}s. A table has 24 (a day), 24 by 12 (a day of each month), or 8,760 or 8,784 (a year)."
        )
    return tuple(found)


def _rows_of(columns: int) -> tuple[int, ...]:
    """Numbers of rows that a table of so many columns has."""
    return (12, *DAYS_OF_A_YEAR) if columns == 24 else (24,)


def _cells(text: str) -> Cells:
    lines = [line for line in text.replace("\u00a0", " ").splitlines() if line.strip()]
    if any("\t" in line for line in lines):
        return [[cell.strip() for cell in line.split("\t")] for line in lines]
    if any(";" in line for line in lines):
        return [[cell.strip() for cell in line.split(";")] for line in lines]
    if _comma_divides(lines):
        return [[cell.strip() for cell in line.split(",")] for line in lines]
    return [line.split() for line in lines]


def _comma_divides(lines: list[str]) -> bool:
    """Whether a comma stands between cells; else it is a decimal comma."""
    if any(line.count(",") > 1 or ("," in line and re.search(r"[.:]", line)) for line in lines):
        return True
    heads = [line.split(",")[0].strip() for line in lines if "," in line][-24:]
    # Hours in order before each comma: nobody's prices.
    return len(heads) == 24 and heads in ([str(h) for h in range(24)], [str(h) for h in range(1, 25)])


def _is_heading(row: list[str]) -> bool:
    if not row or number_in(row[-1]) is None:
        return True
    numbers = [value for cell in row[-12:] if (value := number_in(cell)) is not None]
    # The hours or months of a wide table, counted.
    return len(numbers) == 12 and all(b - a == 1 for a, b in pairwise(numbers))


def _number(cell: str, row: int, one: str) -> float:
    if (value := number_in(cell)) is None:
        raise ValueError(f"Row {row}: '{cell[:20]}' is no {one}." if cell else f"Row {row}: the {one} is missing.")
    return value
