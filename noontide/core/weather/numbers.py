"""What the quantities of a weather file can be, and how short gaps in them are filled."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.table import Floats, Table

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


UNITS = {name: bounds.unit for name, bounds in RANGES.items()}


def check_range(values: Floats, name: str, table: Table, place: int, scale: float = 1.0) -> Floats:
    """Values of a column as they are used, NaN where they are missing (an empty field or the missing code).

    Parameters
    ----------
    values : ndarray, shape (N,)
        As they stand in the file.
    scale : float
        From the unit of the file to that of the quantity.

    Raises
    ------
    WeatherFileError
        Naming line, column and value of the first that is out of range.
    """
    bounds = RANGES[name]
    values = values * scale
    values[values >= bounds.missing] = np.nan
    wrong = np.flatnonzero((values < bounds.low) | (values > bounds.high))
    if wrong.size:
        i = int(wrong[0])
        raise WeatherFileError(
            f"{bounds.low:g} to {bounds.high:g} {bounds.unit} was expected; correct it, or leave the field empty if it is missing",
            row=table.first_row + i,
            column=name,
            value=table.text_at(i, place),
        )
    return values


def gaps_in(missing: NDArray[np.bool_]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """First index of each run of missing values, and the one after its last."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], missing, [False]]).astype(np.int8)))
    return edges[::2], edges[1::2]


def fill_gaps(values: Floats, name: str, first_row: int, hours_per_interval: float) -> tuple[Floats, str | None]:
    """Short gaps linearly interpolated; what was done in words, or None.

    Raises
    ------
    WeatherFileError
        If a gap is longer than six hours, at its first line.
    """
    gaps = np.isnan(values)
    if not gaps.any():
        return values, None
    starts, ends = gaps_in(gaps)
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
    return filled, f"{int(gaps.sum())} missing values of {name} were linearly interpolated."
