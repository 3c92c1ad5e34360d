"""Use that was measured: kept as it was read, laid onto a weather year by weekday and season, scaled to an energy and a peak."""

from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from noontide.core.calendar import Calendar
from noontide.core.civil_time import CivilTime

Floats = NDArray[np.float64]
DAY = 1440
FEWEST_DAYS = 7  # each weekday once


class DemandError(ValueError):
    """A source of demand that gives no demand of this year; with its pointer in the design."""

    pointer = "/demand"


class MissingSeries(DemandError):
    """Interval data that a source names and that are not there."""

    def __init__(self, digest: str, title: str):
        self.digest = digest
        super().__init__(
            f"The interval data '{title or digest[:12]}' are not there. Read the file again, or choose another source of demand."
        )


class ImpossibleScale(DemandError):
    """An energy and a peak that no monotone transformation of the values meets together."""


@dataclass(frozen=True, eq=False)
class UseSeries:
    """Mean power of whole days, on the civil clock: an hour that daylight saving skips is the mean of its neighbours, one that comes twice their mean."""

    title: str
    first_day: str  # YYYY-MM-DD
    step: int  # [min], divides a day
    power: Floats  # (days, steps of a day) [kW]; not a number where nothing is known

    def __post_init__(self) -> None:
        if DAY % self.step or self.power.ndim != 2 or self.power.shape[1] != DAY // self.step:
            raise ValueError(
                f"A series of {self.step} min has {DAY // max(self.step, 1)} values a day; it has {self.power.shape}."
            )

    @cached_property
    def digest(self) -> str:
        """Of the values and their place in time."""
        whole = blake2b(f"{self.first_day} {self.step}".encode(), digest_size=16)
        whole.update(np.ascontiguousarray(self.power, dtype="<f8").tobytes())
        return whole.hexdigest()

    @cached_property
    def dates(self) -> NDArray[np.datetime64]:
        return np.datetime64(self.first_day, "D") + np.arange(self.power.shape[0])

    @property
    def is_whole(self) -> NDArray[np.bool_]:
        """Days without a gap, (days,)."""
        return np.isfinite(self.power).all(axis=1)

    @property
    def energy(self) -> float:
        """Of all that is known [kWh]."""
        return float(np.nansum(self.power)) * self.step / 60

    @property
    def peak(self) -> float:
        """Highest mean of a step [kW]."""
        return float(np.nanmax(self.power, initial=0.0)) if np.isfinite(self.power).any() else 0.0


def lay(series: UseSeries, calendar: Calendar, time: CivilTime) -> tuple[Floats, tuple[str, ...]]:
    """The series on a weather year: each date from the same date where that was measured, else from the day of the same weekday nearest in the season.

    Returns
    -------
    power : (intervals,)
        [kW]
    notes : tuple of str
        What was done, in sentences.

    Raises
    ------
    DemandError
        If fewer than seven days are whole, or one weekday never is.
    """
    whole = np.flatnonzero(series.is_whole)
    if whole.size < FEWEST_DAYS:
        raise DemandError(
            f"'{series.title}' has {whole.size} whole days; a week of them is needed to lay it onto a year. Read a file with more days."
        )
    targets = np.datetime64(f"{calendar.year:04d}-01-01", "D") + np.arange(calendar.days)
    first_of_day = np.searchsorted(np.arange(calendar.intervals) * calendar.step // DAY, np.arange(calendar.days))
    off = time.kind[np.minimum(first_of_day + (DAY // 2) // calendar.step, calendar.intervals - 1)]
    weekday = np.where(off == 3, 6, (targets.astype(np.int64) + 3) % 7)  # a holiday is a Sunday
    sources = series.dates[whole]
    source_weekday = (sources.astype(np.int64) + 3) % 7
    if missing := sorted(set(weekday.tolist()) - set(source_weekday.tolist())):
        names = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
        raise DemandError(
            f"'{series.title}' has no whole {names[missing[0]]}: each day of the week is needed to lay it onto a year. Read a file with more days."
        )
    away = np.abs(_day_of_year(sources)[np.newaxis, :] - _day_of_year(targets)[:, np.newaxis])
    away = np.minimum(away, 365 - np.minimum(away, 365)).astype(float)
    away[weekday[:, np.newaxis] != source_weekday[np.newaxis, :]] = np.inf
    same = sources[np.newaxis, :] == targets[:, np.newaxis]
    away[same] = -1
    nearest = away.argmin(axis=1)
    chosen = whole[nearest]
    distance = away[np.arange(calendar.days), nearest]
    power = series.power[chosen]  # (days, steps of the series)
    # On the clock of the year, by the civil minute at which each interval begins.
    civil_day = _civil_day(calendar, time)
    if series.step <= calendar.step and calendar.step % series.step == 0:
        width = calendar.step // series.step
        flat = np.concatenate([power.reshape(-1), power[:1].reshape(-1)])
        begin = civil_day * power.shape[1] + time.minute // series.step
        values = np.mean([flat[(begin + k) % flat.size] for k in range(width)], axis=0)
    else:
        values = _by_minutes(power, series.step, civil_day, time, calendar)
    return np.asarray(values), _notes(series, whole.size, distance, calendar, float(values.max()))


def _civil_day(calendar: Calendar, time: CivilTime) -> NDArray[np.int64]:
    """Day of the year from 0 on which each interval begins by the civil clock; the last hours that daylight saving carries over stay in the last day."""
    own = np.arange(calendar.intervals) * calendar.step
    ahead = (time.minute - own % DAY + DAY // 2) % DAY - DAY // 2
    return np.clip((own + ahead) // DAY, 0, calendar.days - 1)


def _by_minutes(power: Floats, step: int, day: NDArray[np.int64], time: CivilTime, calendar: Calendar) -> Floats:
    """Means over intervals that no whole number of steps fills."""
    values = np.zeros(calendar.intervals)
    for minute in range(calendar.step):
        at = time.minute + minute
        values += power[np.minimum(day + at // DAY, power.shape[0] - 1), at % DAY // step]
    return values / calendar.step


def _day_of_year(dates: NDArray[np.datetime64]) -> NDArray[np.int64]:
    return np.asarray((dates - dates.astype("datetime64[Y]").astype("datetime64[D]")).astype(np.int64))


def _notes(series: UseSeries, whole: int, distance: Floats, calendar: Calendar, highest: float) -> tuple[str, ...]:
    days = series.power.shape[0]
    notes = []
    moved = int((distance >= 0).sum())
    if moved == calendar.days:
        notes.append(f"Measured from {series.first_day} on, {days} days; laid onto the weather year by weekday and season.")
    elif moved:
        notes.append(
            f"{moved} days of the year come from the same weekday nearest in the season, the others from their own date."
        )
    if whole < days:
        notes.append(f"{days - whole} measured days have gaps and are not used.")
    far = int((distance > 31).sum())
    if far:
        notes.append(
            f"{far} days of the year have no measurement within a month of their season: other seasons stand in for them."
        )
    if series.step < calendar.step and series.peak > 1.02 * highest:
        notes.append(
            f"The highest value of {series.step} min is {series.peak:,.1f} kW, {highest:,.1f} kW as a mean of {calendar.step} min: charges for power over shorter times are larger than these steps show."
        )
    if series.step > calendar.step:
        notes.append(f"Values of {series.step} min are held over the steps of {calendar.step} min; shorter peaks are not known.")
    return tuple(notes)


def scale(power: Floats, hours: float, energy: float | None = None, peak: float | None = None) -> tuple[Floats, tuple[str, ...]]:
    """Values brought to an energy, a peak, or both.

    One of them alone is a factor. Both are met by a power law y = peak (x / max x)^g, which keeps the order of the values.

    Parameters
    ----------
    power : (intervals,)
        [kW], 0 or more.
    hours : float
        Length of an interval [h].
    energy, peak : float, optional
        To be met [kWh], [kW].

    Raises
    ------
    ImpossibleScale
        If the values are all zero, or no power law meets both.
    """
    if energy is None and peak is None:
        return power, ()
    highest, sum_now = float(power.max(initial=0.0)), float(power.sum()) * hours
    if highest <= 0:
        raise ImpossibleScale("The values are all zero and cannot be scaled.")
    if peak is None:
        assert energy is not None
        return power * (energy / sum_now), (f"Times {energy / sum_now:.4g}, to {energy:,.0f} kWh a year.",)
    if energy is None:
        return power * (peak / highest), (f"Times {peak / highest:.4g}, to a highest power of {peak:,.4g} kW.",)
    share = power / highest
    target = energy / (peak * hours)

    def excess(log_exponent: float) -> float:
        return float((share ** np.exp(log_exponent)).sum()) - target

    low, high = -8.0, 8.0
    if excess(low) < 0 or excess(high) > 0:
        least, most = (float((share ** np.exp(x)).sum()) * peak * hours for x in (high, low))
        raise ImpossibleScale(
            f"{energy:,.0f} kWh and a highest power of {peak:,.4g} kW do not go together: with this peak the values reach {least:,.0f} to {most:,.0f} kWh."
        )
    exponent = float(np.exp(brentq(excess, low, high, xtol=1e-14, rtol=8.9e-16)))
    scaled = peak * share**exponent
    # The last digits that the exponent leaves open, off all but the peak.
    below = scaled < peak
    if below.any() and scaled[below].sum() > 0:
        scaled[below] *= (energy / hours - scaled[~below].sum()) / scaled[below].sum()
    words = f"To {energy:,.0f} kWh a year and a highest power of {peak:,.4g} kW: {peak:,.4g} kW × (P / {highest:,.4g} kW)^{exponent:.3f}."
    return scaled, (words,)
