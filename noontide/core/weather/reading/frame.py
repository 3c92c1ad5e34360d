"""The columns of a table as arrays: numbers where they are numbers, texts where they are times."""

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import zip_longest

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from noontide.core.weather.problems import WeatherFileError

Floats = NDArray[np.float64]
NOTHING = [
    "",
    "-",
    "--",
    "---",
    "NA",
    "N/A",
    "n/a",
    "na",
    "NaN",
    "nan",
    "NULL",
    "null",
    "None",
    "nd",
    "*",
    "?",
    "missing",
    "#N/A",
    "#NV",
]


@dataclass(frozen=True)
class Frame:
    """Columns by their place; row numbers are those of the file, from 1."""

    table: pd.DataFrame
    first_row: int
    decimal: str = "."
    thousands: str = ""

    def __len__(self) -> int:
        return len(self.table)

    def texts(self, place: int) -> list[str]:
        """A column as texts; an integer column without its decimals."""
        column = self.table[place]
        return column.fillna("").astype(str).tolist()

    def numbers(self, place: int, heading: str = "") -> Floats:
        """A column as numbers, NaN where it is empty.

        Raises
        ------
        WeatherFileError
            At the first field that is no number.
        """
        column = self.table[place]
        if self.is_numeric(place):
            return column.to_numpy(dtype=float)
        found = self._as_numbers(column)
        wrong = np.flatnonzero((found.isna() & column.notna()).to_numpy())
        if wrong.size:
            i = int(wrong[0])
            raise WeatherFileError("a number was expected", row=self.row_of(i), column=heading, value=str(column.iloc[i])[:60])
        return found.to_numpy(dtype=float)

    def is_numeric(self, place: int) -> bool:
        """Whether a column is one of numbers throughout."""
        column = self.table[place]
        return column.dtype != object and not isinstance(column.dtype, pd.StringDtype)

    def coerced(self, place: int) -> Floats:
        """A column as numbers, NaN where it is none."""
        return self._as_numbers(self.table[place]).to_numpy(dtype=float)

    def _as_numbers(self, column: pd.Series) -> pd.Series:
        """Numbers of a column in which something else stands too: the package has left their marks in them."""
        if column.dtype == object or isinstance(column.dtype, pd.StringDtype):
            column = column.astype("string")
            if self.thousands:
                column = column.str.replace(self.thousands, "", regex=False)
            if self.decimal != ".":
                column = column.str.replace(self.decimal, ".", regex=False)
        return pd.to_numeric(column, errors="coerce")

    def row_of(self, index: int) -> int:
        """Line of the file of a row of the table."""
        return self.first_row + index


def frame_of(
    lines: list[str],
    first: int,
    last: int,
    delimiter: str,
    decimal: str,
    width: int,
    as_text: set[int],
    cuts: Sequence[int] = (),
    thousands: str = "",
) -> Frame:
    """Split the rows of a table; `first` and `last` are indices from 0, the last one included.

    Without a delimiter the columns begin at `cuts`.

    Raises
    ------
    WeatherFileError
        At the first row that has too many fields.
    """
    rows = lines[first : last + 1]
    if not delimiter:
        spans = list(zip_longest(cuts, cuts[1:]))
        rows, delimiter = ["\t".join([line[start:end] for start, end in spans]) for line in rows], "\t"
    try:
        table = pd.read_csv(
            io.StringIO("\n".join(rows)),
            header=None,
            names=list(range(width)),
            index_col=False,
            sep=r"\s+" if delimiter == " " else delimiter,
            decimal=decimal,
            thousands=thousands or None,
            na_values=NOTHING,
            keep_default_na=False,
            skipinitialspace=True,
            skip_blank_lines=False,
            dtype=dict.fromkeys(as_text, str),  # type: ignore[arg-type]
            low_memory=False,
            on_bad_lines="error",
        )
    except (pd.errors.ParserError, ValueError, OverflowError) as error:
        found = re.search(r"Expected (\d+) fields in line (\d+), saw (\d+)", str(error))
        if found:
            row = first + int(found[2])
            raise WeatherFileError(
                f"a row has {found[1]} fields; this one has {found[3]}", row=row, value=lines[row - 1][:60]
            ) from error
        raise WeatherFileError(f"the rows cannot be split into fields: {str(error)[:120]}", row=first + 1) from error
    return Frame(table, first + 1, decimal, thousands)
