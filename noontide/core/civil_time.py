"""The clock that tariffs go by: civil time with its daylight saving, weekdays and holidays, of the intervals of a year."""

from collections.abc import Iterable
from dataclasses import dataclass
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar

Ints = NDArray[np.int64]
DAY_KINDS = ("weekday", "saturday", "sunday", "holiday")


@dataclass(frozen=True, eq=False)
class CivilTime:
    """Of each interval's start, (intervals,): minute of the civil day, month from 0, and kind of day as an index of `DAY_KINDS`."""

    minute: Ints
    month: Ints
    kind: Ints


def civil_time(calendar: Calendar, time_zone: str = "", holidays: Iterable[str] = ()) -> CivilTime:
    """The civil clock of a calendar.

    Parameters
    ----------
    time_zone : str
        Whose daylight saving time is kept; the calendar's own clock without it.
    holidays : iterable of str
        MM-DD of every year, or YYYY-MM-DD.
    """
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
    kind = np.where(np.isin(days, known), 3, kind)
    # The last hours of a year that daylight saving would carry into the next stay in December.
    month = np.where(
        days.astype("datetime64[Y]") == starts[0].astype("datetime64[Y]"),
        starts.astype("datetime64[M]").astype(np.int64) % 12,
        calendar.months,
    )
    return CivilTime(minute, month, kind.astype(np.int64))


def _saving(calendar: Calendar, time_zone: str) -> NDArray[np.timedelta64]:
    """How far the civil clock is ahead of the calendar's, (intervals,) [min]; zones change on whole hours, each hour is asked once."""
    import datetime

    zone = ZoneInfo(time_zone)
    first = calendar.local_starts[0].astype("datetime64[s]").astype(datetime.datetime)
    utc = first - datetime.timedelta(hours=calendar.utc_offset)
    per_hour = 60 // calendar.step
    ahead = np.empty(calendar.days * 24, dtype=np.int64)
    for hour in range(ahead.size):
        at = (utc + datetime.timedelta(hours=hour)).replace(tzinfo=datetime.UTC).astimezone(zone)
        offset = at.utcoffset()
        assert offset is not None
        ahead[hour] = round(offset.total_seconds() / 60 - calendar.utc_offset * 60)
    return np.repeat(ahead, per_hour).astype("timedelta64[m]")
