"""The time axis of a weather year: equal intervals at a fixed offset from UTC."""

from calendar import isleap
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

STEPS = (60, 30, 15, 10, 5, 1)
# The second year after a leap year, whose calendar stands closest to the mean tropical year.
NOMINAL_YEAR = 2026
NOMINAL_LEAP_YEAR = 2028
MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


@dataclass(frozen=True)
class Calendar:
    """A year of intervals [start, start + step), from the first of January at local midnight.

    Parameters
    ----------
    year : int
        The year whose sun is used; a typical year takes `NOMINAL_YEAR`.
    step : int
        Length of an interval [min], one of `STEPS`.
    utc_offset : float
        Of the local clock [h], east positive; no daylight saving time.

    Raises
    ------
    ValueError
        If the step is not one of `STEPS` or the offset lies beyond -12 .. 14 h.
    """

    year: int = NOMINAL_YEAR
    step: int = 60
    utc_offset: float = 0.0

    def __post_init__(self) -> None:
        if self.step not in STEPS:
            raise ValueError(f"step must be one of {STEPS} min; it is {self.step}")
        if not -12 <= self.utc_offset <= 14:
            raise ValueError(f"utc_offset must lie between -12 and 14 h; it is {self.utc_offset:g}")

    @property
    def days(self) -> int:
        return 366 if isleap(self.year) else 365

    @property
    def intervals(self) -> int:
        return self.days * 1440 // self.step

    @property
    def hours_per_interval(self) -> float:
        return self.step / 60

    @cached_property
    def local_starts(self) -> NDArray[np.datetime64]:
        """Start of each interval on the local clock, (intervals,)."""
        first = np.datetime64(f"{self.year:04d}-01-01T00:00", "m")
        return first + np.arange(self.intervals) * np.timedelta64(self.step, "m")

    @cached_property
    def utc_midpoints(self) -> NDArray[np.datetime64]:
        """Middle of each interval in UTC, (intervals,), to the second."""
        seconds = round(self.step * 30 - self.utc_offset * 3600)
        return self.local_starts.astype("datetime64[s]") + np.timedelta64(seconds, "s")

    @cached_property
    def months(self) -> NDArray[np.int64]:
        """Month of each interval, 0 = January, (intervals,)."""
        return self.local_starts.astype("datetime64[M]").astype(np.int64) % 12

    def monthly_sums(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Sums over months of a quantity on the last axis: (..., intervals) to (..., 12)."""
        firsts = np.searchsorted(self.months, np.arange(12))
        return np.add.reduceat(values, firsts, axis=-1)
