"""Dates and times in the notations that tables come in, a column at a time."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]
Minutes = NDArray[np.float64]  # since 1970-01-01T00:00 of whatever clock the file has; NaN where a text is no time

_MONTHS = {
    name: i % 12 + 1
    for names in (
        "jan feb mar apr may jun jul aug sep oct nov dec",
        "januar februar marz april mai juni juli august september oktober november dezember",
        "january february march april may june july august september october november december",
        "janvier fevrier mars avril mai juin juillet aout septembre octobre novembre decembre",
        "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
        "gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
        "janv fevr mars avr mai juin juil aout sept oct nov dec",
        "ene feb mar abr may jun jul ago sep oct nov dic",
        "gen feb mar apr mag giu lug ago set ott nov dic",
        "jan feb mrz apr mai jun jul aug sep okt nov dez",
    )
    for i, name in enumerate(names.split())
}
_CLOCK = r"(?P<h>\d{1,2})\s*[:.h]\s*(?P<mi>[0-5]\d)(?:[:.](?P<s>\d{2})(?:[.,]\d+)?)?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?"
_ZONE = r"\s*(?P<z>Z|UTC|GMT|[+-]\d{2}:?\d{2}|[+-]\d{1,2})?"
_TIME = rf"(?:[T ,;:_-]*\s*{_CLOCK}{_ZONE})?"
# Named groups: a and b are read as day and month by the order of the file.
LAYOUTS: dict[str, re.Pattern[str]] = {
    "ymd": re.compile(rf"(?P<y>\d{{4}})[-/.](?P<m>\d{{1,2}})[-/.](?P<d>\d{{1,2}}){_TIME}", re.ASCII),
    "ab": re.compile(rf"(?P<a>\d{{1,2}})[-/.](?P<b>\d{{1,2}})[-/.](?P<y>\d{{4}}|\d{{2}}){_TIME}", re.ASCII),
    "compact": re.compile(r"(?P<y>(?:19|20)\d{2})(?P<m>\d{2})(?P<d>\d{2})(?:[T:_ ]?(?P<h>\d{2}):?(?P<mi>\d{2})?(?P<s>\d{2})?)?(?P<z>Z)?", re.ASCII),
    "named": re.compile(rf"(?P<d>\d{{1,2}})[-/. ]+(?P<mon>[^\W\d_]{{3,10}})\.?[-/. ,]+(?P<y>\d{{4}}|\d{{2}}){_TIME}"),
    "named first": re.compile(rf"(?P<mon>[^\W\d_]{{3,10}})\.?[-/. ]+(?P<d>\d{{1,2}}),?[-/. ]+(?P<y>\d{{4}}){_TIME}"),
    "no year": re.compile(rf"(?P<a>\d{{1,2}})[-/.](?P<b>\d{{1,2}})\.?(?:[T ,;_]+\s*{_CLOCK})?", re.ASCII),
    "epoch": re.compile(r"(?P<epoch>\d{9,10}|\d{12,13})(?:\.\d+)?", re.ASCII),
}  # fmt: skip
CLOCKS: dict[str, re.Pattern[str]] = {
    "clock": re.compile(_CLOCK + _ZONE, re.ASCII),
    "hhmm": re.compile(r"(?P<h>\d{1,2})(?P<mi>[0-5]\d)", re.ASCII),
    "hours": re.compile(r"(?P<h>\d{1,2})\s*(?:h|hrs?|uhr|hours?|heures?|horas?|ore)\.?", re.ASCII | re.IGNORECASE),
}


@dataclass(frozen=True)
class Stamps:
    """Parts of a column of dates or times; what it has not is None."""

    minutes: Minutes  # since the epoch, of the date alone where there is no clock; with no year, since the year began at 1970
    has_clock: bool
    has_year: bool
    zones: Minutes | None  # offset from UTC in minutes, NaN where a row states none


def layout_of(samples: Sequence[str]) -> str:
    """The layout that all of some texts follow, or nothing."""
    texts = [text.strip() for text in samples if text.strip()]
    if not texts:
        return ""
    for name, pattern in LAYOUTS.items():
        if all(pattern.fullmatch(text) for text in texts):
            if name.startswith("named") and not all(_month(pattern.fullmatch(text)["mon"]) for text in texts):  # type: ignore[index]
                continue
            return name
    return ""


def clock_of(samples: Sequence[str]) -> str:
    """The notation of the clock that all of some texts follow, or nothing."""
    texts = [text.strip() for text in samples if text.strip()]
    return next((name for name, pattern in CLOCKS.items() if texts and all(pattern.fullmatch(text) for text in texts)), "")


def order_of(texts: Sequence[str], layout: str) -> str:
    """Whether the day or the month comes first in a whole column; by which of the two goes beyond 12."""
    if layout not in ("ab", "no year"):
        return "ymd" if layout != "named" else "dmy"
    pattern = LAYOUTS[layout]
    first, second = 0, 0
    for text in dict.fromkeys(text.strip()[:10] for text in texts):
        if (found := pattern.match(text)) is not None:
            first, second = max(first, int(found["a"])), max(second, int(found["b"]))
        if first > 12 or second > 12:
            break
    return "mdy" if second > 12 else "dmy" if first > 12 else ""


def parse_dates(texts: Sequence[str], layout: str, order: str) -> Stamps:
    """A column of dates, with or without a clock."""
    pattern, is_month_first = LAYOUTS[layout], order == "mdy"
    has_year = layout != "no year"
    minutes, zones = np.full(len(texts), np.nan), np.full(len(texts), np.nan)
    days: dict[tuple[str, str, str], float] = {}
    has_clock = has_zone = False
    groups = pattern.groupindex
    for i, text in enumerate(texts):
        found = pattern.fullmatch(text.strip())
        if found is None:
            continue
        if layout == "epoch":
            value = int(found["epoch"])
            minutes[i] = value / (60 if value < 10**11 else 60_000)
            has_clock, zones[i], has_zone = True, 0.0, True
            continue
        year = found["y"] if has_year else "1970"
        month = found["mon"] if "mon" in groups else found["m"] if "m" in groups else found["a" if is_month_first else "b"]
        day = found["d"] if "d" in groups else found["b" if is_month_first else "a"]
        key = (year, month, day)
        if key not in days:
            days[key] = _day(year, month, day)
        minutes[i] = days[key]
        if (hour := found["h"]) is not None:
            has_clock = True
            minutes[i] += _clock_minutes(
                hour, found["mi"], found["s"] if "s" in groups else None, found["ap"] if "ap" in groups else None
            )
        if "z" in groups and found["z"]:
            has_zone = True
            zones[i] = _zone_minutes(found["z"])
    return Stamps(minutes, has_clock, has_year, zones if has_zone else None)


def parse_clocks(texts: Sequence[str], notation: str) -> Minutes:
    """A column of times of the day, in minutes."""
    pattern = CLOCKS[notation]
    known: dict[str, float] = {}
    for text in dict.fromkeys(texts):
        found = pattern.fullmatch(text.strip())
        groups = pattern.groupindex
        known[text] = (
            np.nan
            if found is None
            else _clock_minutes(
                found["h"],
                found["mi"] if "mi" in groups else None,
                found["s"] if "s" in groups else None,
                found["ap"] if "ap" in groups else None,
            )
        )
    return np.array([known[text] for text in texts])


def minutes_of_date(year: Ints, month: Ints, day: Ints) -> Minutes:
    """Minutes since 1970 of dates; NaN where there is no such day."""
    first = (year - 1970) * 12 + month - 1
    months = first.astype("datetime64[M]")
    days = months.astype("datetime64[D]").astype(np.int64)
    length = (months + 1).astype("datetime64[D]").astype(np.int64) - days
    good = (month >= 1) & (month <= 12) & (day >= 1) & (day <= length) & (year > 1800) & (year < 2200)
    return np.where(good, (days + day - 1) * 1440.0, np.nan)


def _day(year: str, month: str, day: str) -> float:
    y = int(year) if len(year) > 2 else 1900 + int(year) + (100 if int(year) < 70 else 0)
    m = int(month) if month.isdigit() else _month(month)
    return float(minutes_of_date(np.array([y]), np.array([m]), np.array([int(day)]))[0])


def _month(name: str) -> int:
    from noontide.core.weather.reading.words import folded

    return _MONTHS.get(folded(name), 0)


def _clock_minutes(hour: str, minute: str | None, second: str | None, half: str | None) -> float:
    h = int(hour)
    if half:
        h = h % 12 + (12 if half[0] in "pP" else 0)
    total = h * 60 + int(minute or 0) + int(second or 0) / 60
    return total if total <= 1440 + 60 else np.nan


def _zone_minutes(zone: str) -> float:
    if zone[0] in "ZUG":
        return 0.0
    sign, digits = (-1 if zone[0] == "-" else 1), zone[1:].replace(":", "")
    return sign * (int(digits[:2]) * 60 + int(digits[2:] or 0))
