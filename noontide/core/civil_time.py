"""The clock that tariffs go by: civil time with its daylight saving, weekdays and holidays, of the intervals of a year."""

import datetime
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
DAY_KINDS = ("weekday", "saturday", "sunday", "holiday")


@dataclass(frozen=True, eq=False)
class CivilTime:
    """Of each interval's start, (intervals,): minute of the civil day, month from 0, kind of day as an index of `DAY_KINDS`, and weekday from 0 for Monday."""

    minute: Ints
    month: Ints
    kind: Ints
    weekday: Ints
    step: int  # [min]

    @cached_property
    def slot(self) -> int:
        """Minutes from one possible start of an interval to the next: the step, or less where daylight saving shifts by half an hour."""
        return int(np.gcd.reduce(self.minute, initial=self.step))

    @cached_property
    def slot_starts(self) -> Ints:
        """Minutes of the day at which intervals can start, (slots,)."""
        return np.arange(0, 1440, self.slot)

    @cached_property
    def cell(self) -> Ints:
        """Of each interval, its place in a table of months, kinds of day and slots, (intervals,)."""
        return (self.month * len(DAY_KINDS) + self.kind) * self.slot_starts.size + self.minute // self.slot

    def sums(self, values: Floats) -> Floats:
        """Sums of the values of intervals by month, kind of day and slot: (intervals,) to (12, 4, slots)."""
        shape = (12, len(DAY_KINDS), self.slot_starts.size)
        return np.bincount(self.cell, weights=values, minlength=int(np.prod(shape))).reshape(shape)


def civil_time(calendar: Calendar, time_zone: str = "", holidays: Iterable[str] = ()) -> CivilTime:
    """The civil clock of a calendar.

    Parameters
    ----------
    time_zone : str
        Whose daylight saving time is kept; the calendar's own clock without it.
    holidays : iterable of str
        MM-DD of every year, or YYYY-MM-DD.
    """
    return _civil_time(calendar, time_zone, tuple(holidays))


@lru_cache(maxsize=4)
def _civil_time(calendar: Calendar, time_zone: str, holidays: tuple[str, ...]) -> CivilTime:
    starts = calendar.local_starts
    if time_zone:
        starts = starts + _saving(calendar, time_zone)
    days = starts.astype("datetime64[D]")
    minute = (starts - days).astype("timedelta64[m]").astype(np.int64)
    weekday = (days.astype(np.int64) + 3) % 7  # 0 = Monday; the first day of 1970 was a Thursday
    kind = np.select([weekday == 5, weekday == 6], [1, 2], 0)
    year = str(calendar.year)
    named = [day if len(day) > 5 else f"{year}-{day}" for day in holidays if len(day) == 5 or day.startswith(year)]
    known = np.array([day for day in named if not (day.endswith("02-29") and calendar.days == 365)], dtype="datetime64[D]")
    if known.size:
        kind = np.where(np.isin(days, known), 3, kind)
    # The last hours of a year that daylight saving would carry into the next stay in December.
    month = np.where(
        days.astype("datetime64[Y]") == starts[0].astype("datetime64[Y]"),
        starts.astype("datetime64[M]").astype(np.int64) % 12,
        calendar.months,
    )
    time = CivilTime(minute, month, kind.astype(np.int64), weekday, calendar.step)
    for values in (time.minute, time.month, time.kind, time.weekday):
        values.flags.writeable = False
    return time


def _saving(calendar: Calendar, time_zone: str) -> NDArray[np.timedelta64]:
    """How far the civil clock is ahead of the calendar's, (intervals,) [min]; zones change on whole hours, which are sought on days that end otherwise than they begin."""
    zone = ZoneInfo(time_zone)
    first = calendar.local_starts[0].astype("datetime64[s]").astype(datetime.datetime)
    utc = first - datetime.timedelta(hours=calendar.utc_offset)

    def at(hour: int) -> int:
        offset = (utc + datetime.timedelta(hours=hour)).replace(tzinfo=datetime.UTC).astimezone(zone).utcoffset()
        assert offset is not None
        return round(offset.total_seconds() / 60 - calendar.utc_offset * 60)

    midnights = [at(24 * day) for day in range(calendar.days + 1)]
    ahead = np.repeat(np.array(midnights[:-1], dtype=np.int64), 24)
    for day in range(calendar.days):
        if midnights[day] != midnights[day + 1]:
            ahead[24 * day : 24 * day + 24] = [at(24 * day + hour) for hour in range(24)]
    return np.repeat(ahead, 60 // calendar.step).astype("timedelta64[m]")
