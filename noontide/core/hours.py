"""Hours of the day as people write them: `18-23`, `6-8 17-22`, `6:30-8`, `22-6` over midnight."""

import re
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Ranges = tuple[tuple[int, int], ...]  # minutes of the day, [from, to)
DAY = 1440
_RANGE = re.compile(r"^(\d{1,2})(?::(\d{2}))?\s*[-\u2013]\s*(\d{1,2})(?::(\d{2}))?$")


def read_hours(text: str) -> Ranges:
    """Ranges of minutes from a text; one that ends before it begins goes on over midnight.

    Raises
    ------
    ValueError
        With the part that is no range of hours, and what is wrong with it.
    """
    found: list[tuple[int, int]] = []
    for part in re.split(r"[,;\s]+(?=\d)", text.strip().strip(",;")) if text.strip() else []:
        match = _RANGE.match(part.strip())
        if match is None:
            raise ValueError(f"'{part[:20]}' is no range of hours. Write such as 18-23, or 6:30-8.")
        start, end = (60 * int(match[k]) + int(match[k + 1] or 0) for k in (1, 3))
        if max(start, end) > DAY or int(match[2] or 0) > 59 or int(match[4] or 0) > 59:
            raise ValueError(f"'{part}' lies outside the day: hours go from 0 to 24.")
        if start % DAY == end % DAY and (start, end) != (0, DAY):
            raise ValueError(f"'{part}' begins and ends at once. All day is 0-24.")
        found += [(start, end)] if start < end else [(start, DAY), (0, end)]
    return tuple((a, b) for a, b in found if b > a)


def share_of(ranges: Ranges, minute: Ints, step: int) -> Floats:
    """Share of intervals that lies within ranges, by the minute of the day that each begins at; 0..1, in the shape of `minute`."""
    inside = np.zeros(minute.shape)
    for low, high in ranges:
        # An interval that goes over midnight has a part at the start of the next day.
        for shift in (0, DAY):
            inside += np.clip(np.minimum(minute + step, high + shift) - np.maximum(minute, low + shift), 0, None)
    return np.minimum(inside / step, 1.0)


@lru_cache(maxsize=512)
def shares_of_day(text: str, slot: int, step: int) -> Floats:
    """Share of intervals of a step within hours as people write them, by the slot of the day that each begins at, (1440 / slot,); 0..1."""
    shares = share_of(read_hours(text), np.arange(0, DAY, slot), step)
    shares.flags.writeable = False
    return shares


def clock(minute: int) -> str:
    """A minute of the day as hours and minutes."""
    return f"{minute // 60:02d}:{minute % 60:02d}"
