"""A typical year out of many: for each month the year that lies closest to all of them, by the Finkelstein-Schafer statistic."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import MONTHS, NOMINAL_YEAR, Calendar
from noontide.core.weather.year import TYPICAL, Step, Weather, fill_missing_columns

Floats = NDArray[np.float64]
LEAST_YEARS = 3
# Weights of the daily indices: the mean, highest and lowest temperature, the mean and highest wind, global and direct irradiation.
WEIGHTS = {"temperature mean": 2 / 20, "temperature highest": 1 / 20, "temperature lowest": 1 / 20, "wind mean": 1 / 20, "wind highest": 1 / 20, "ghi": 7 / 20, "dni": 7 / 20}  # fmt: skip
COLUMNS = ("ghi", "dni", "dhi", "temperature", "wind", "pressure")
JOINT_HOURS = 6  # on either side of a month's end, over which temperature, wind and pressure pass from one year to the other


@dataclass(frozen=True)
class MonthChoice:
    """The year taken for a month, and how far each year lies from all of them."""

    month: int  # from 0
    year: int
    distances: dict[int, float]  # weighted Finkelstein-Schafer statistic


def finkelstein_schafer(short: Floats, long: Floats) -> float:
    """Mean distance between the cumulative distribution of some days and that of all days.

    Parameters
    ----------
    short, long : (days,)
        Daily values of one month of one year, and of that month in all years.

    References
    ----------
    Finkelstein, J. M. and Schafer, R. E. (1971), Biometrika 58, 641-645.
    """
    ordered = np.sort(long)
    of_long = np.searchsorted(ordered, short, side="right") / long.size
    of_short = np.searchsorted(np.sort(short), short, side="right") / short.size
    return float(np.mean(np.abs(of_long - of_short)))


def choose_months(years: Sequence[Weather]) -> list[MonthChoice]:
    """For each month the year with the smallest weighted statistic.

    Raises
    ------
    ValueError
        If there are fewer than three years, or they differ in step or place.
    """
    _check(years)
    indices = [_daily(year) for year in years]
    choices = []
    for month in range(12):
        distances = {}
        for k, year in enumerate(years):
            total = 0.0
            for name, weight in WEIGHTS.items():
                long = np.concatenate([own[name][months == month] for own, months in indices])
                own, months = indices[k]
                total += weight * finkelstein_schafer(own[name][months == month], long)
            distances[year.calendar.year] = total
        best = min(distances, key=lambda y: (distances[y], -y))
        choices.append(MonthChoice(month, best, distances))
    return choices


def typical_year(years: Sequence[Weather]) -> Weather:
    """A year put together from the most usual months of several.

    29 February is left out. At the end of a month that goes from one year to another, temperature, wind and pressure pass over in
    twelve hours; irradiance stays as it was measured.

    Raises
    ------
    ValueError
        If there are fewer than three years, or they differ in step or place.

    References
    ----------
    Hall, I. J., Prairie, R. R., Anderson, H. E. and Boes, E. C. (1978), SAND78-1601; weights after Wilcox, S. and Marion, W.
    (2008), NREL/TP-581-43156.
    """
    choices = choose_months(years)
    by_number = {year.calendar.year: year for year in years}
    first = years[0]
    calendar = Calendar(NOMINAL_YEAR, first.calendar.step, first.calendar.utc_offset)
    pieces = {name: [_month_of(by_number[c.year], c.month, name) for c in choices] for name in COLUMNS}
    columns = {name: np.concatenate(parts) for name, parts in pieces.items()}
    _pass_over(columns, choices, calendar, by_number)
    said = ", ".join(f"{MONTHS[c.month][:3]} {c.year}" for c in choices)
    numbers = sorted(by_number)
    made = fill_missing_columns(
        calendar, first.place, columns, title=f"{first.title}, typical", source=f"typical year of {numbers[0]} to {numbers[-1]}",
        notes=(f"Months of {len(years)} years, chosen after Finkelstein and Schafer: {said}.",),
    )  # fmt: skip
    return replace(made, steps=(*first.steps, Step(TYPICAL, said)))


def _check(years: Sequence[Weather]) -> None:
    if len(years) < LEAST_YEARS:
        raise ValueError(f"A typical year needs at least {LEAST_YEARS} years; there are {len(years)}.")
    first = years[0]
    for year in years:
        if year.is_typical:
            raise ValueError(f"{year.title} is a typical year already: choose among years that were measured.")
        if (year.calendar.step, year.calendar.utc_offset) != (first.calendar.step, first.calendar.utc_offset):
            raise ValueError(
                f"The years must have one step and one clock; {year.calendar.year} has {year.calendar.step} min, UTC{year.calendar.utc_offset:+g}."
            )
        if abs(year.place.latitude - first.place.latitude) + abs(year.place.longitude - first.place.longitude) > 0.1:
            raise ValueError(
                f"The years must be of one place; {year.calendar.year} lies at {year.place.latitude:g}, {year.place.longitude:g}."
            )
    numbers = [year.calendar.year for year in years]
    if len(set(numbers)) < len(numbers):
        raise ValueError("Each year may be given only once.")


def _daily(weather: Weather) -> tuple[dict[str, Floats], NDArray[np.int64]]:
    """Daily indices, and the month of each day."""
    calendar = weather.calendar
    temperature, wind, ghi, dni = (getattr(weather, n).reshape(calendar.days, -1) for n in ("temperature", "wind", "ghi", "dni"))
    values = {
        "temperature mean": temperature.mean(axis=1), "temperature highest": temperature.max(axis=1), "temperature lowest": temperature.min(axis=1),
        "wind mean": wind.mean(axis=1), "wind highest": wind.max(axis=1), "ghi": ghi.mean(axis=1), "dni": dni.mean(axis=1),
    }  # fmt: skip
    return values, calendar.months.reshape(calendar.days, -1)[:, 0]


def _month_of(weather: Weather, month: int, name: str) -> Floats:
    """A column over a month, without 29 February."""
    calendar = weather.calendar
    dates = calendar.local_starts.astype("datetime64[D]")
    day = (dates - dates.astype("datetime64[M]").astype("datetime64[D]")).astype(int)
    return getattr(weather, name)[(calendar.months == month) & ~((month == 1) & (day == 28))]


def _pass_over(columns: dict[str, Floats], choices: list[MonthChoice], calendar: Calendar, years: dict[int, Weather]) -> None:
    reach = JOINT_HOURS * 60 // calendar.step
    starts = np.searchsorted(calendar.months, np.arange(1, 12))
    ramp = (np.arange(2 * reach) + 0.5) / (2 * reach)
    for month, at in enumerate(starts):
        before, after = years[choices[month].year], years[choices[month + 1].year]
        if before is after:
            continue
        for name in ("temperature", "wind", "pressure"):
            values = columns[name]
            # What each of the two years had on the other side of the joint is blended in.
            following, preceding = _month_of(before, month + 1, name)[:reach], _month_of(after, month, name)[-reach:]
            old = np.concatenate([values[at - reach : at], following])
            new = np.concatenate([preceding, values[at : at + reach]])
            values[at - reach : at + reach] = (1 - ramp) * old + ramp * new
