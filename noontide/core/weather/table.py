"""The lines of a weather file, read a few thousand at a time into columns of numbers."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from operator import itemgetter

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import STEPS
from noontide.core.weather.problems import WeatherFileError

Floats = NDArray[np.float64]
MOST_ROWS = 366 * 24 * 60 // min(STEPS)
MOST_HEADER_LINES = 1000
LONGEST_LINE = 10_000
ROWS_AT_ONCE = 4096


def lines_of(text: str) -> list[str]:
    """Lines of a file, however they end; refused before they are split where they are more than any year has.

    Raises
    ------
    WeatherFileError
        If there are more lines than a leap year of minutes and its header take, or one is absurdly long.
    """
    ends = text.count("\n") + text.count("\r") - text.count("\r\n")
    if ends > MOST_ROWS + MOST_HEADER_LINES:
        raise WeatherFileError(
            f"a year has at most {MOST_ROWS:,} rows, one a minute; the file has {ends:,} lines. Take out the empty ones, or save a single year"
        )
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    for i, line in enumerate(lines):
        if len(line) > LONGEST_LINE:
            raise WeatherFileError(f"a line has at most {LONGEST_LINE:,} characters; this one has {len(line):,}", row=i + 1)
    return lines


@dataclass(frozen=True)
class Table:
    """Rows of fields between commas.

    Split plainly: these tables quote nothing, and a stray quotation mark must not swallow the lines after it.

    Attributes
    ----------
    lines : list of str
        Without the empty lines at the end.
    first_row : int
        Line number of the first of them in the file, from 1.
    """

    lines: list[str]
    first_row: int

    @classmethod
    def below(cls, lines: list[str], header: int) -> "Table":
        """The table that begins after so many lines of header."""
        end = len(lines)
        while end > header and not lines[end - 1].replace(",", "").strip():
            end -= 1
        return cls(lines[header:end], header + 1)

    def __len__(self) -> int:
        return len(self.lines)

    @cached_property
    def _has_underscores(self) -> bool:
        return "_" in "\n".join(self.lines)

    @cached_property
    def _widths(self) -> NDArray[np.int64]:
        """Fields of each row, (rows,)."""
        return np.array([line.count(",") for line in self.lines], dtype=np.int64) + 1

    def check_widths(self, fields: int, least: int | None = None) -> None:
        """Makes sure that every row has as many fields as it should, or at least `least`.

        Raises
        ------
        WeatherFileError
            At the first row that has not.
        """
        wrong = self._widths != fields if least is None else self._widths < least
        if wrong.any():
            i = int(wrong.argmax())
            raise WeatherFileError(
                f"a row has {fields} fields; this one has {self._widths[i]}", row=self.first_row + i, value=self.lines[i][:60]
            )

    def columns(self, places: Sequence[int]) -> Iterator[tuple[int, list[tuple[str, ...]]]]:
        """Texts of some columns, a few thousand rows at a time, with the index of the first of them."""
        pick = itemgetter(*places) if len(places) > 1 else lambda fields: (fields[places[0]],)
        splits = max(places) + 1
        for start in range(0, len(self.lines), ROWS_AT_ONCE):
            lines, widths = self.lines[start : start + ROWS_AT_ONCE], self._widths[start : start + ROWS_AT_ONCE]
            width = int(widths[0])
            if (widths == width).all() and max(places) < width:
                # All of one width: split in one go, in a third of the time.
                fields = ",".join(lines).split(",")
                yield start, [tuple(fields[place::width]) for place in places]
                continue
            rows = [pick(line.split(",", splits)) for line in lines]
            yield start, list(zip(*rows, strict=True))

    def numbers(self, columns: dict[str, int], units: dict[str, str]) -> dict[str, Floats]:
        """Columns as numbers, NaN where a field is empty.

        Parameters
        ----------
        columns : dict of str to int
            Place of each in a row, from 0.
        units : dict of str to str
            Of each, for the words of an error.

        Raises
        ------
        WeatherFileError
            Naming line, column and value of a field that is no number.
        """
        if (plain := self._plain_numbers(list(columns.values()))) is not None:
            return dict(zip(columns, plain, strict=True))
        found = {name: np.empty(len(self.lines)) for name in columns}
        for start, texts in self.columns(list(columns.values())):
            for (name, values), column in zip(found.items(), texts, strict=True):
                values[start : start + len(column)] = self._read(column, name, units[name], start)
        return found

    def _plain_numbers(self, places: list[int]) -> Floats | None:
        """Columns whose every field is a finite number, (columns, rows), in a sixth of the time of field by field; None where one is not."""
        if self._has_underscores or not self.lines:
            return None
        try:
            found = np.loadtxt(self.lines, delimiter=",", comments=None, usecols=places, unpack=True, ndmin=2)
        except ValueError:
            return None
        # Empty lines are skipped there, and count here.
        return found if found.shape[1] == len(self.lines) and np.isfinite(found).all() else None

    def _read(self, texts: Sequence[str], name: str, unit: str, start: int) -> Floats:
        try:
            if self._has_underscores:  # Python's own way to write a number, and nobody else's.
                raise ValueError(name)
            return np.fromiter(map(float, texts), dtype=np.float64, count=len(texts))
        except ValueError:
            return np.array([self._read_one(text, name, unit, start + i) for i, text in enumerate(texts)])

    def _read_one(self, text: str, name: str, unit: str, index: int) -> float:
        try:
            if not text.strip():
                return np.nan
            if "_" in text:
                raise ValueError(text)
            return float(text)
        except ValueError:
            raise WeatherFileError(
                f"a number in {unit} was expected" if unit else "a whole number was expected",
                row=self.first_row + index,
                column=name,
                value=text,
            ) from None

    def text_at(self, index: int, place: int) -> str:
        """One field, for the words of an error."""
        return self.lines[index].split(",")[place]
