"""The bill of a year by month: energy, demand charges, fixed charges and taxes, each line to the cent."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from functools import cached_property, lru_cache
from itertools import pairwise
from math import gcd
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar
from noontide.core.civil_time import DAY_KINDS, CivilTime, civil_time
from noontide.core.hours import shares_of_day
from noontide.core.money.tariff import DemandCharge, EnergyPrice, Tariff

Floats = NDArray[np.float64]
Kind = Literal["energy", "export", "demand", "fixed", "tax", "settlement"]
CENT = Decimal("0.01")
EXACT = 1e5  # of the currency, below which billionths are whole numbers that a float tells apart well


@dataclass(frozen=True, slots=True)
class BillLine:
    """One line of a month's bill."""

    month: int  # from 0
    kind: Kind
    key: str  # of the period, charge or tax in the tariff; empty where there is one
    title: str
    quantity: float  # [unit]
    unit: str  # kWh, kW, days, months or the currency
    price: float  # of one unit
    amount: float  # to the cent; what is earned is negative
    interval: int | None = None  # of a demand charge: the first of the window that was highest


@dataclass(frozen=True)
class Bill:
    """A year's bill."""

    currency: str
    lines: tuple[BillLine, ...]

    def total_of(self, month: int | None = None, kind: Kind | None = None) -> float:
        """Of a month from 0, a kind of line, or all."""
        return _sum(line.amount for line in self.lines if month in (None, line.month) and kind in (None, line.kind))

    @cached_property
    def total(self) -> float:
        return self.total_of()

    @property
    def by_month(self) -> tuple[float, ...]:
        """Of each month, (12,)."""
        return tuple(self.total_of(month) for month in range(12))


def bill(tariff: Tariff, imported: ArrayLike, exported: ArrayLike, calendar: Calendar, time_zone: str = "") -> Bill:
    """The bill of a year's energy by a tariff.

    Parameters
    ----------
    imported, exported : (intervals,)
        From and to the grid in each interval [kWh], 0 or more.
    time_zone : str
        Whose daylight saving time the tariff's hours follow; the calendar's own clock without it.

    Raises
    ------
    ValueError
        If there are not as many values as intervals, or one is negative or not a number; the message names the first.

    Notes
    -----
    An interval across the border of two periods is shared between them by its minutes. A demand charge is taken over its own
    averaging window, from midnight on; where the intervals are longer, over one interval. The ratchet looks back through the year
    as if the year before had been the same.
    """
    taken, given = (_checked(values, calendar, name) for values, name in ((imported, "imported"), (exported, "exported")))
    time = civil_time(calendar, time_zone, tariff.holidays)
    lines: list[BillLine] = []
    if tariff.net_metering is not None:
        lines += _net_lines(tariff, time.sums(taken), time.sums(given), time)
    else:
        lines += _energy_lines(tariff.energy, taken, time, calendar, "energy", "Energy from the grid", 1)
        if tariff.export is not None:
            lines += _energy_lines(tariff.export, given, time, calendar, "export", "Energy to the grid", -1)
    for key, charge in tariff.demand.items():
        lines += _demand_lines(key, charge, taken, time, calendar)
    lines += _fixed_lines(tariff, calendar)
    lines += _tax_lines(tariff, lines)
    order = {"energy": 0, "settlement": 1, "export": 2, "demand": 3, "fixed": 4, "tax": 5}
    return Bill(tariff.currency, tuple(sorted(lines, key=lambda line: (line.month, order[line.kind]))))


def prices_of(energy: EnergyPrice, calendar: Calendar, time_zone: str = "", holidays: tuple[str, ...] = ()) -> Floats:
    """The price of a kWh in each interval, (intervals,); of tiers the first one's."""
    time = civil_time(calendar, time_zone, holidays)
    if energy.price is not None:
        return np.full(calendar.intervals, energy.price)
    if energy.tiers:
        return np.full(calendar.intervals, energy.tiers[0].price)
    if energy.table:
        return _table(energy.table, time, calendar)
    shares = _period_shares(energy, time)
    prices = np.asarray(sum(energy.periods[key].price * share for key, share in shares.items()))
    return np.asarray(prices.reshape(-1)[time.cell])


def carbon_of(table: tuple[float, ...], calendar: Calendar, time_zone: str = "") -> Floats:
    """CO2 of each interval from a table by hour of the day, of the day by month, or of the year, (intervals,) [g/kWh]."""
    return _table(table, civil_time(calendar, time_zone), calendar)


def _checked(values: ArrayLike, calendar: Calendar, name: str) -> Floats:
    found = np.asarray(values, dtype=float)
    if found.shape != (calendar.intervals,):
        raise ValueError(
            f"{name}: {calendar.intervals:,} intervals are needed, one for each of the year; there are {found.size:,}."
        )
    if (wrong := np.flatnonzero(~(found >= 0) | ~np.isfinite(found))).size:
        raise ValueError(f"{name}: energies are 0 kWh or more; interval {wrong[0]} has {found[wrong[0]]:g}.")
    return found


def cents(amount: float) -> float:
    """An amount to the cent, a half away from zero; what is a rounding error of a float under a half is a half."""
    if abs(amount) < EXACT:
        # In whole billionths, which a float still tells apart: a fifth of the time of decimals.
        size = (abs(round(amount * 1e9)) + 5_000_000) // 10_000_000
        return (size if amount > 0 else -size) / 100 + 0.0
    return float(Decimal(repr(round(float(amount), 9))).quantize(CENT, ROUND_HALF_UP)) + 0.0


def _sum(amounts: Iterable[float]) -> float:
    """Of amounts to the cent, which whole cents add up without a rounding error."""
    return sum(round(amount * 100) for amount in amounts) / 100


def _period_shares(energy: EnergyPrice, time: CivilTime) -> dict[str, Floats]:
    """Share of the intervals of each month, kind of day and slot in each period, (12, 4, slots); they sum to 1."""
    shares = {key: np.zeros((12, len(DAY_KINDS), time.slot_starts.size)) for key in energy.periods}
    for season in energy.seasons.values():
        months = np.array(season.months) - 1
        for index, kind in enumerate(DAY_KINDS):
            for key, text in season.on(kind).items():  # type: ignore[arg-type]
                shares[key][months, index] += shares_of_day(text, time.slot, time.step)
    return shares


def _table(table: tuple[float, ...], time: CivilTime, calendar: Calendar) -> Floats:
    """Prices by hour of the civil day, the same by month, or by hour of the year on the calendar's own clock."""
    values, hour = np.array(table), time.minute // 60
    if values.size == 24:
        return np.asarray(values[hour])
    if values.size == 288:
        return np.asarray(values[time.month * 24 + hour])
    if values.size != calendar.days * 24:
        values = _with_leap_day(values)
    return np.asarray(values[np.arange(calendar.intervals) * calendar.step // 60])


def _with_leap_day(values: Floats) -> Floats:
    """A year of hours for a calendar of the other length: 29 February is left out, or priced as the day before it, so that no later day moves."""
    if values.size == 8784:
        return np.delete(values, slice(59 * 24, 60 * 24))
    return np.insert(values, 59 * 24, values[58 * 24 : 59 * 24])


def _line(month: int, kind: Kind, key: str, title: str, quantity: float, unit: str, price: float, sign: int = 1) -> BillLine:
    return BillLine(month, kind, key, title, quantity, unit, price, sign * cents(quantity * price) + 0.0)


def _energy_lines(
    energy: EnergyPrice, values: Floats, time: CivilTime, calendar: Calendar, kind: Kind, title: str, sign: int
) -> list[BillLine]:
    cells = time.sums(values)
    if energy.price is not None:
        return [_line(m, kind, "", title, float(q), "kWh", energy.price, sign) for m, q in enumerate(_by_month(cells))]
    if energy.tiers:
        return [line for m, q in enumerate(_by_month(cells)) for line in _tier_lines(energy, m, float(q), kind, title, sign)]
    if energy.table:
        energies, amounts = _by_month(cells), _by_month(time.sums(values * _table(energy.table, time, calendar)))
        return [
            BillLine(m, kind, "", title, float(q), "kWh", float(a / q) if q > 0 else 0.0, sign * cents(float(a)))
            for m, (q, a) in enumerate(zip(energies, amounts, strict=True))
        ]
    found = []
    for key, share in _period_shares(energy, time).items():
        period = energy.periods[key]
        for m, q in enumerate(_by_month(cells * share)):
            if q > 0 or _is_in_month(energy, key, m):
                found.append(_line(m, kind, key, f"{title}, {period.name}", float(q), "kWh", period.price, sign))
    return found


def _by_month(cells: Floats) -> Floats:
    return np.asarray(cells.sum(axis=(1, 2)))


def _is_in_month(energy: EnergyPrice, key: str, month: int) -> bool:
    return any(key in season.on(kind) for season in energy.seasons.values() if month + 1 in season.months for kind in DAY_KINDS)  # type: ignore[arg-type]


def _tier_lines(energy: EnergyPrice, month: int, used: float, kind: Kind, title: str, sign: int) -> list[BillLine]:
    found, start = [], 0.0
    for number, tier in enumerate(energy.tiers, start=1):
        end = np.inf if tier.up_to is None else tier.up_to
        part = min(used, end) - start
        if part > 0 or number == 1:
            words = (
                f"{title}, over {start:g} kWh" if number > 1 else title if tier.up_to is None else f"{title}, up to {end:g} kWh"
            )
            found.append(_line(month, kind, f"tier-{number}", words, max(part, 0.0), "kWh", tier.price, sign))
        start = end
    return found


def _net_lines(tariff: Tariff, taken: Floats, given: Floats, time: CivilTime) -> list[BillLine]:
    """Exported energy off the imported of the same period, what is left carried over; settled once a year. Energies by month, kind of day and slot."""
    assert tariff.net_metering is not None
    energy, settled = tariff.energy, tariff.net_metering
    shares = _period_shares(energy, time) if energy.seasons else {"": np.ones(1)}
    found: list[BillLine] = []
    left_of: dict[int, float] = defaultdict(float)
    for key, share in shares.items():
        imported, exported = _by_month(taken * share), _by_month(given * share)
        credit = 0.0  # the year is walked from the month after the settlement on
        for m in ((settled.settled_after + step) % 12 for step in range(12)):
            net = float(imported[m] - exported[m]) - credit
            credit = max(-net, 0.0)
            title = f"Net energy, {energy.periods[key].name}" if key else "Net energy"
            if energy.tiers:
                found += _tier_lines(energy, m, max(net, 0.0), "energy", title, 1)
            else:
                price = energy.periods[key].price if key else (energy.price or 0.0)
                found.append(_line(m, "energy", key, title, max(net, 0.0), "kWh", price))
        left_of[settled.settled_after - 1] += credit
    for m, left in left_of.items():
        if left > 0 and settled.settlement:
            found.append(_line(m, "settlement", "", "Energy left over, settled", left, "kWh", settled.settlement, -1))
    return found


@dataclass(frozen=True, eq=False)
class _Windows:
    """Over which a demand charge averages; windows within one interval are one."""

    parts: int  # of an interval
    width: int  # of a window, in such parts; 1 where it lies within an interval
    starts: NDArray[np.int64]  # interval in which each begins
    within: NDArray[np.bool_]  # whether each counts
    months: list[int]  # the first of each month, and the end, (13,)


@lru_cache(maxsize=16)
def _windows(hours_on: tuple[str, ...], averaging: int, time: CivilTime, calendar: Calendar) -> _Windows:
    """The windows of a year; they are the same for every bill by one charge."""
    # Windows that no whole number of intervals fills, such as 15 min of 10, take parts of intervals.
    part = gcd(calendar.step, averaging) if averaging > calendar.step else calendar.step
    parts, width = calendar.step // part, max(averaging // part, 1)
    begins = np.arange(calendar.intervals * parts // width) * width
    starts = begins // parts
    minute = time.minute[starts] + begins % parts * part
    # A window counts where it lies within the hours as a whole.
    slot = gcd(time.slot, part)
    within = np.array([shares_of_day(hours, slot, width * part) > 1 - 1e-9 for hours in hours_on])
    counted = within[time.kind[starts], minute // slot]
    return _Windows(parts, width, starts, counted, np.searchsorted(time.month[starts], np.arange(13)).tolist())


def _demand_lines(key: str, charge: DemandCharge, taken: Floats, time: CivilTime, calendar: Calendar) -> list[BillLine]:
    hours_on = tuple(charge.hours_on(name) for name in DAY_KINDS)  # type: ignore[arg-type]
    windows = _windows(hours_on, charge.averaging, time, calendar)
    power = taken / calendar.hours_per_interval
    if windows.width > 1:
        power = np.repeat(power, windows.parts).reshape(-1, windows.width).mean(axis=1)
    counted = np.where(windows.within, power, -1.0)
    peaks = np.zeros(12)
    at: dict[int, int] = {}
    for m, (first, last) in enumerate(pairwise(windows.months)):
        if last > first and counted[best := first + int(counted[first:last].argmax())] >= 0:
            peaks[m], at[m] = counted[best], int(windows.starts[best])
    found = []
    for m in range(12):
        if m + 1 not in charge.months:
            continue
        before = max(peaks[(m - back) % 12] for back in range(1, charge.ratchet_months + 1))
        measured = max(float(peaks[m]), charge.ratchet / 100 * float(before))
        title = charge.name if measured == peaks[m] else f"{charge.name}, {charge.ratchet:g} % of the highest before"
        if charge.contracted is None:
            found.append(
                BillLine(m, "demand", key, title, measured, "kW", charge.price, cents(measured * charge.price), at.get(m))
            )
            continue
        found.append(
            BillLine(
                m,
                "demand",
                key,
                f"{charge.name}, contracted",
                charge.contracted,
                "kW",
                charge.price,
                cents(charge.contracted * charge.price),
            )
        )
        over = measured - charge.contracted
        if over > 0:
            price = charge.price if charge.excess_price is None else charge.excess_price
            found.append(
                BillLine(
                    m,
                    "demand",
                    key,
                    f"{charge.name}, over the contracted power",
                    over,
                    "kW",
                    price,
                    cents(over * price),
                    at.get(m),
                )
            )
    return found


def _fixed_lines(tariff: Tariff, calendar: Calendar) -> list[BillLine]:
    days = np.bincount(calendar.months, minlength=12) * calendar.step / 1440
    found = []
    for key, charge in tariff.fixed.items():
        spent = Decimal(0)
        for m in range(12):
            if charge.per == "year":
                # Twelfths to the cent, whose sum is the year's amount.
                amount = Decimal(repr(cents(charge.amount * (m + 1) / 12))) - spent
                spent += amount
                found.append(BillLine(m, "fixed", key, charge.name, 1 / 12, "years", charge.amount, float(amount)))
            else:
                quantity, unit = (1.0, "months") if charge.per == "month" else (float(days[m]), "days")
                found.append(_line(m, "fixed", key, charge.name, quantity, unit, charge.amount))
    return found


def _tax_lines(tariff: Tariff, lines: list[BillLine]) -> list[BillLine]:
    found = []
    for key, tax in tariff.taxes.items():
        for m in range(12):
            base = _sum(line.amount for line in lines if line.month == m and line.kind in tax.of)
            found.append(BillLine(m, "tax", key, tax.name, base, tariff.currency, tax.share / 100, cents(base * tax.share / 100)))
    return found
