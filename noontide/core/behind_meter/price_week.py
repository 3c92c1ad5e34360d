"""The prices of a tariff as weeks: each season by kind of day and half hour, with what the plant takes and gives in it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.civil_time import DAY_KINDS, civil_time
from noontide.core.hours import shares_of_day
from noontide.core.money.tariff import EnergyPrice, Season, Tariff
from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
HALF_HOUR = 30


@dataclass(frozen=True)
class SeasonWeek:
    """One season; of a tariff without seasons the whole year."""

    key: str
    title: str
    months: tuple[int, ...]
    periods: tuple[tuple[str, ...], ...]  # (4, 48): of each kind of day and half hour, empty where prices have none
    prices: Floats  # (4, 48), of a kWh; of hourly prices the means
    imported: Floats  # (4, 48) [kWh] of an average day
    exported: Floats


def price_weeks(r: Results, tariff: Tariff, energy: EnergyPrice) -> list[SeasonWeek]:
    """The weeks of a price, with the year's energies at the meter."""
    from noontide.core.money.billing import prices_of

    time = civil_time(r.calendar, r.after.time_zone, tariff.holidays)
    days = np.bincount((time.month * 4 + time.kind), minlength=48).reshape(12, 4) * r.calendar.step / 1440
    # An interval longer than half an hour lies in several of them alike.
    parts = max(r.calendar.step // HALF_HOUR, 1)
    half = (time.minute[:, np.newaxis] + HALF_HOUR * np.arange(parts)) % 1440 // HALF_HOUR
    cell = ((time.month * 4 + time.kind)[:, np.newaxis] * 48 + half).reshape(-1)

    def spread(values: Floats) -> Floats:
        sums = np.bincount(cell, weights=np.repeat(values / parts, parts), minlength=12 * 4 * 48)
        return sums.reshape(12, 4, 48)

    taken, given = spread(r.after.metered.imported), spread(r.after.metered.exported)
    prices = spread(prices_of(energy, r.calendar, r.after.time_zone, tariff.holidays))
    counts = spread(np.ones(r.calendar.intervals))
    seasons = energy.seasons or {"year": Season(name="all year", weekday={"standard": "0-24"})}
    found = []
    for key, season in seasons.items():
        at = np.array(season.months) - 1
        number = np.maximum(days[at].sum(axis=0), 1e-12)[:, np.newaxis]
        mean = np.divide(prices[at].sum(axis=0), counts[at].sum(axis=0), out=np.zeros((4, 48)), where=counts[at].sum(axis=0) > 0)
        named = _periods(season) if energy.seasons else (("",) * 48,) * 4
        if energy.seasons:
            own = np.array([[energy.periods[p].price for p in row] for row in named])
            mean = own
        found.append(
            SeasonWeek(
                key,
                season.name,
                tuple(season.months),
                named,
                mean,
                taken[at].sum(axis=0) / number,
                given[at].sum(axis=0) / number,
            )
        )
    return found


def _periods(season: Season) -> tuple[tuple[str, ...], ...]:
    """The period that most of each half hour is in."""
    rows = []
    for kind in DAY_KINDS:
        hours = season.on(kind)  # type: ignore[arg-type]
        keys = list(hours)
        shares = np.array([shares_of_day(hours[key], HALF_HOUR, HALF_HOUR) for key in keys])
        rows.append(tuple(keys[k] for k in shares.argmax(axis=0)))
    return tuple(rows)
