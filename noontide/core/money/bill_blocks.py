"""The lines of bills as blocks of twelve months, of several years by one tariff beside one another."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache
from itertools import pairwise
from math import gcd
from typing import Literal
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.civil_time import DAY_KINDS, CivilTime
from noontide.core.hours import shares_of_day
from noontide.core.money.tariff import DemandCharge, EnergyPrice, Tariff

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Kind = Literal["energy", "settlement", "export", "demand", "fixed", "tax"]
ORDER: tuple[Kind, ...] = ("energy", "settlement", "export", "demand", "fixed", "tax")  # within a month
CENT = Decimal("0.01")
MOST_SHARES = 64  # tables of periods that are kept for a clock
EXACT = 1e5  # of the currency, below which billionths are whole numbers that a float tells apart well


@dataclass(frozen=True)
class Head:
    """What a line says in every month."""

    kind: Kind
    key: str  # of the period, charge or tax in the tariff; empty where there is one
    title: str
    unit: str


@dataclass(frozen=True, eq=False)
class Block:
    """One line of each month, of several years; arrays are (years, 12), or what is the same for all of them."""

    head: Head
    quantity: Floats  # [unit]
    price: float | Floats  # of one unit
    amount: Floats  # to the cent; what is earned is negative
    is_shown: bool | Bools = True  # whether the month has the line
    interval: int | Ints = -1  # of a demand charge: the first of the window that was highest; -1 where there is none


@dataclass(frozen=True, eq=False)
class Blocks:
    """The lines of a year in the order in which they stand in a month; arrays are (…, lines, 12), of several years with their axis in front."""

    heads: tuple[Head, ...]
    quantity: Floats
    price: Floats
    amount: Floats
    is_shown: Bools
    interval: Ints

    def of(self, year: int) -> "Blocks":
        """Of one of the years."""
        arrays = (self.quantity, self.price, self.amount, self.is_shown, self.interval)
        return Blocks(self.heads, *(values[year].copy() for values in arrays))

    def sums(self) -> Floats:
        """Of the lines of each month, (…, 12) [hundredths of the currency]: whole cents add up without a rounding error."""
        return np.asarray((np.rint(self.amount * 100) * self.is_shown).sum(axis=-2))

    def of_kind(self, kinds: Collection[Kind]) -> "Blocks":
        """Lines of some kinds alone."""
        rows = [k for k, head in enumerate(self.heads) if head.kind in kinds]
        arrays = (self.quantity, self.price, self.amount, self.is_shown, self.interval)
        return Blocks(tuple(self.heads[k] for k in rows), *(values[..., rows, :] for values in arrays))


def blocks_of(tariff: Tariff, taken: Sequence[Floats], given: Sequence[Floats], time: CivilTime, calendar: Calendar) -> Blocks:
    """The bills of several years.

    Parameters
    ----------
    taken, given : (intervals,) each
        From and to the grid [kWh], of each year.
    """
    found: list[Block] = []
    if tariff.net_metering is not None:
        found += _net(tariff, [time.sums(one) for one in taken], [time.sums(one) for one in given], time)
    else:
        found += _energy(tariff.energy, taken, time, calendar, "energy", "Energy from the grid", 1)
        if tariff.export is not None:
            found += _energy(tariff.export, given, time, calendar, "export", "Energy to the grid", -1)
    for key, charge in tariff.demand.items():
        found += _demand(key, charge, taken, time, calendar)
    found += _fixed(tariff, calendar)
    untaxed = _stacked(found, len(taken))
    if not tariff.taxes:
        return untaxed
    return _stacked([*found, *_taxes(tariff, untaxed)], len(taken))


def _stacked(blocks: list[Block], years: int) -> Blocks:
    blocks = sorted(blocks, key=lambda block: ORDER.index(block.head.kind))
    shape = (years, len(blocks), 12)
    quantity, price, amount = np.empty(shape), np.empty(shape), np.empty(shape)
    shown, interval = np.empty(shape, dtype=bool), np.empty(shape, dtype=np.int64)
    for k, block in enumerate(blocks):
        quantity[:, k], price[:, k], amount[:, k] = block.quantity, block.price, block.amount
        shown[:, k], interval[:, k] = block.is_shown, block.interval
    return Blocks(tuple(block.head for block in blocks), quantity, price, amount, shown, interval)


def cents(amounts: Floats) -> Floats:
    """Amounts to the cent, a half away from zero; what is a rounding error of a float under a half is a half."""
    large = np.abs(amounts) >= EXACT
    has_large = large.any()
    # In whole billionths, which a float still tells apart.
    billionths = np.rint((np.where(large, 0.0, amounts) if has_large else amounts) * 1e9)
    size = (np.abs(billionths).astype(np.int64) + 5_000_000) // 10_000_000
    found = np.copysign(size, billionths) / 100 + 0.0
    if has_large:
        for place in map(tuple, np.argwhere(large)):
            found[place] = float(Decimal(repr(round(float(amounts[place]), 9))).quantize(CENT, ROUND_HALF_UP)) + 0.0
    return np.asarray(found)


def _priced(
    kind: Kind,
    key: str,
    title: str,
    quantity: Floats,
    unit: str,
    price: float,
    sign: int = 1,
    is_shown: bool | Bools = True,
    interval: int | Ints = -1,
) -> Block:
    """Lines of so much at one price."""
    return Block(Head(kind, key, title, unit), quantity, price, sign * cents(quantity * price) + 0.0, is_shown, interval)


_SHARES: WeakKeyDictionary[CivilTime, dict[str, dict[str, Floats]]] = WeakKeyDictionary()


def period_shares(energy: EnergyPrice, time: CivilTime) -> dict[str, Floats]:
    """Share of the intervals of each month, kind of day and slot in each period, (12, 4, slots); they sum to 1. Found once for a clock: every bill asks for them."""
    known = _SHARES.setdefault(time, {})
    if energy.fingerprint not in known:
        if len(known) >= MOST_SHARES:
            known.clear()
        known[energy.fingerprint] = _shares_by_period(energy, time)
    return known[energy.fingerprint]


def _shares_by_period(energy: EnergyPrice, time: CivilTime) -> dict[str, Floats]:
    shares = {key: np.zeros((12, len(DAY_KINDS), time.slot_starts.size)) for key in energy.periods}
    for season in energy.seasons.values():
        months = np.array(season.months) - 1
        for index, kind in enumerate(DAY_KINDS):
            for key, text in season.on(kind).items():  # type: ignore[arg-type]
                shares[key][months, index] += shares_of_day(text, time.slot, time.step)
    return shares


def table_of(table: tuple[float, ...], time: CivilTime, calendar: Calendar) -> Floats:
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


def _energy(
    energy: EnergyPrice, values: Sequence[Floats], time: CivilTime, calendar: Calendar, kind: Kind, title: str, sign: int
) -> Iterator[Block]:
    cells = [time.sums(one) for one in values]
    if energy.price is not None:
        yield _priced(kind, "", title, _by_month(cells), "kWh", energy.price, sign)
    elif energy.tiers:
        yield from _tiers(energy, _by_month(cells), kind, title, sign)
    elif energy.table:
        prices = table_of(energy.table, time, calendar)
        energies, amounts = _by_month(cells), _by_month([time.sums(one * prices) for one in values])
        mean = np.divide(amounts, energies, out=np.zeros_like(amounts), where=energies > 0)
        yield Block(Head(kind, "", title, "kWh"), energies, mean, sign * cents(amounts) + 0.0)
    else:
        for key, share in period_shares(energy, time).items():
            period = energy.periods[key]
            quantity = _by_month([cell * share for cell in cells])
            yield _priced(
                kind,
                key,
                f"{title}, {period.name}",
                quantity,
                "kWh",
                period.price,
                sign,
                (quantity > 0) | (share > 0).any(axis=(1, 2)),
            )


def _by_month(cells: Sequence[Floats]) -> Floats:
    return np.array([cell.sum(axis=(1, 2)) for cell in cells])


def _tiers(energy: EnergyPrice, used: Floats, kind: Kind, title: str, sign: int) -> Iterator[Block]:
    start = 0.0
    for number, tier in enumerate(energy.tiers, start=1):
        end = np.inf if tier.up_to is None else tier.up_to
        part = np.minimum(used, end) - start
        words = f"{title}, over {start:g} kWh" if number > 1 else title if tier.up_to is None else f"{title}, up to {end:g} kWh"
        yield _priced(kind, f"tier-{number}", words, np.maximum(part, 0.0), "kWh", tier.price, sign, number == 1 or part > 0)
        start = end


def _net(tariff: Tariff, taken: Sequence[Floats], given: Sequence[Floats], time: CivilTime) -> Iterator[Block]:
    """Exported energy off the imported of the same period, what is left carried over; settled once a year. Energies by month, kind of day and slot."""
    assert tariff.net_metering is not None
    energy, settled = tariff.energy, tariff.net_metering
    shares = period_shares(energy, time) if energy.seasons else {"": np.ones(1)}
    left = np.zeros(len(taken))
    for key, share in shares.items():
        imported, exported = (_by_month([one * share for one in cells]) for cells in (taken, given))
        net, credit = np.zeros(imported.shape), np.zeros(len(taken))  # the year is walked from the month after the settlement on
        for m in ((settled.settled_after + step) % 12 for step in range(12)):
            of_month = imported[:, m] - exported[:, m] - credit
            credit = np.maximum(-of_month, 0.0)
            net[:, m] = np.maximum(of_month, 0.0)
        left += credit
        title = f"Net energy, {energy.periods[key].name}" if key else "Net energy"
        if energy.tiers:
            yield from _tiers(energy, net, "energy", title, 1)
        else:
            yield _priced("energy", key, title, net, "kWh", energy.periods[key].price if key else (energy.price or 0.0))
    if settled.settlement:
        over = np.zeros((len(taken), 12))
        over[:, settled.settled_after - 1] = left
        yield _priced("settlement", "", "Energy left over, settled", over, "kWh", settled.settlement, -1, over > 0)


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


def _peaks(windows: _Windows, taken: Floats, calendar: Calendar) -> tuple[Floats, Ints]:
    """The highest mean power of each month that counts [kW], (12,), and the interval in which its window begins, -1 where none counts."""
    power = taken / calendar.hours_per_interval
    if windows.width > 1:
        power = np.repeat(power, windows.parts).reshape(-1, windows.width).mean(axis=1)
    counted = np.where(windows.within, power, -1.0)
    peaks, at = np.zeros(12), np.full(12, -1)
    for m, (first, last) in enumerate(pairwise(windows.months)):
        if last > first and counted[best := first + int(counted[first:last].argmax())] >= 0:
            peaks[m], at[m] = counted[best], windows.starts[best]
    return peaks, at


def _demand(key: str, charge: DemandCharge, taken: Sequence[Floats], time: CivilTime, calendar: Calendar) -> Iterator[Block]:
    hours_on = tuple(charge.hours_on(name) for name in DAY_KINDS)  # type: ignore[arg-type]
    windows = _windows(hours_on, charge.averaging, time, calendar)
    peaks, at = (np.array(values) for values in zip(*(_peaks(windows, one, calendar) for one in taken), strict=True))
    two_years = np.concatenate([peaks, peaks], axis=1)
    before = np.array([two_years[:, 12 + m - charge.ratchet_months : 12 + m].max(axis=1) for m in range(12)]).T
    measured = np.maximum(peaks, charge.ratchet / 100 * before)
    counts = np.zeros(peaks.shape, dtype=bool)
    counts[:, np.array(charge.months) - 1] = True
    if charge.contracted is None:
        is_own = measured == peaks
        by_ratchet = f"{charge.name}, {charge.ratchet:g} % of the highest before"
        yield _priced("demand", key, charge.name, measured, "kW", charge.price, 1, counts & is_own, at)
        yield _priced("demand", key, by_ratchet, measured, "kW", charge.price, 1, counts & ~is_own, at)
        return
    agreed, over = np.full(peaks.shape, charge.contracted), measured - charge.contracted
    price = charge.price if charge.excess_price is None else charge.excess_price
    yield _priced("demand", key, f"{charge.name}, contracted", agreed, "kW", charge.price, 1, counts)
    yield _priced("demand", key, f"{charge.name}, over the contracted power", over, "kW", price, 1, counts & (over > 0), at)


def _fixed(tariff: Tariff, calendar: Calendar) -> Iterator[Block]:
    for key, charge in tariff.fixed.items():
        quantity, unit = {
            "year": (np.full(12, 1 / 12), "years"),
            "month": (np.ones(12), "months"),
            "day": (_days(calendar), "days"),
        }[charge.per]
        if charge.per == "year":
            # Twelfths to the cent, whose sum is the year's amount.
            whole = np.rint(cents(charge.amount * np.arange(1, 13) / 12) * 100)
            amount = np.diff(whole, prepend=0.0) / 100
        else:
            amount = cents(quantity * charge.amount)
        yield Block(Head("fixed", key, charge.name, unit), quantity, charge.amount, amount)


@lru_cache(maxsize=16)
def _days(calendar: Calendar) -> Floats:
    """Of each month, (12,)."""
    return np.bincount(calendar.months, minlength=12) * calendar.step / 1440


def _taxes(tariff: Tariff, blocks: Blocks) -> Iterator[Block]:
    for key, tax in tariff.taxes.items():
        base = blocks.of_kind(tax.of).sums() / 100
        yield Block(Head("tax", key, tax.name, tariff.currency), base, tax.share / 100, cents(base * tax.share / 100))
