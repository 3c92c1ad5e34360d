"""Columns of text to columns of numbers, with the place of the first fault."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.problems import WeatherFileError

Floats = NDArray[np.float64]
LONGEST_GAP_HOURS = 6


@dataclass(frozen=True)
class Range:
    """What a quantity can be, and at and above what a file's codes say that it is missing."""

    unit: str
    low: float
    high: float
    missing: float = np.inf


RANGES = {
    "ghi": Range("W/m²", 0, 1800, 9999),
    "dni": Range("W/m²", 0, 1500, 9999),
    "dhi": Range("W/m²", 0, 1200, 9999),
    "temperature": Range("°C", -90, 70, 99.9),
    "wind": Range("m/s", 0, 100, 999),
    "pressure": Range("hPa", 300, 1100, 9999.99),
}


def rows_of(lines: Sequence[str]) -> list[list[str]]:
    """Fields of each line, without the empty lines at the end.

    Split plainly: these tables quote nothing, and a stray quotation mark must not swallow the lines after it.
    """
    rows = [line.split(",") for line in lines]
    while rows and not any(field.strip() for field in rows[-1]):
        rows.pop()
    return rows


def column_of(texts: Sequence[str], name: str, first_row: int) -> Floats:
    """Numbers of a column, NaN where they are missing (an empty field or the missing code).

    Raises
    ------
    WeatherFileError
        Naming line, column and value of the first field that is no number or out of range.
    """
    bounds = RANGES[name]
    values = np.empty(len(texts))
    for i, text in enumerate(texts):
        try:
            values[i] = float(text) if text.strip() else np.nan
        except ValueError:
            raise WeatherFileError(
                f"a number in {bounds.unit} was expected", row=first_row + i, column=name, value=text
            ) from None
    values[values >= bounds.missing] = np.nan
    wrong = np.flatnonzero((values < bounds.low) | (values > bounds.high))
    if wrong.size:
        i = wrong[0]
        raise WeatherFileError(
            f"{bounds.low:g} to {bounds.high:g} {bounds.unit} was expected; correct it, or leave the field empty if it is missing",
            row=first_row + int(i),
            column=name,
            value=texts[i],
        )
    return values


def fill_gaps(values: Floats, name: str, first_row: int, hours_per_interval: float) -> tuple[Floats, str | None]:
    """Short gaps filled in a straight line; what was done in words, or None.

    Raises
    ------
    WeatherFileError
        If a gap is longer than six hours, at its first line.
    """
    gaps = np.isnan(values)
    if not gaps.any():
        return values, None
    edges = np.flatnonzero(np.diff(np.concatenate([[False], gaps, [False]]).astype(int)))
    starts, ends = edges[::2], edges[1::2]
    longest = int(np.argmax(ends - starts))
    hours = (ends - starts)[longest] * hours_per_interval
    if hours > LONGEST_GAP_HOURS:
        raise WeatherFileError(
            f"{hours:g} hours in a row are missing; gaps up to {LONGEST_GAP_HOURS} hours are filled, longer ones must be filled at the source",
            row=first_row + int(starts[longest]),
            column=name,
        )
    known = np.flatnonzero(~gaps)
    filled = np.interp(np.arange(values.size), known, values[known])
    return filled, f"{int(gaps.sum())} missing values of {name} were filled in a straight line."
