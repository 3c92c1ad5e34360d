"""The bill of a year by month: energy, demand charges, fixed charges and taxes, each line to the cent."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar
from noontide.core.civil_time import civil_time
from noontide.core.money.bill_blocks import Blocks, Kind, blocks_of, period_shares, table_of
from noontide.core.money.tariff import EnergyPrice, Tariff

Floats = NDArray[np.float64]


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


@dataclass(frozen=True, eq=False)
class Bill:
    """A year's bill."""

    currency: str
    blocks: Blocks  # of this year alone

    @cached_property
    def lines(self) -> tuple[BillLine, ...]:
        """Month by month."""
        at = self.blocks
        columns = (values.tolist() for values in (at.quantity, at.price, at.amount, at.is_shown, at.interval))
        rows = list(zip(at.heads, *columns, strict=True))
        return tuple(
            BillLine(
                m, head.kind, head.key, head.title, quantity[m], head.unit, price[m], amount[m], None if interval[m] < 0 else interval[m]
            )
            for m in range(12)
            for head, quantity, price, amount, is_shown, interval in rows
            if is_shown[m]
        )  # fmt: skip

    def total_of(self, month: int | None = None, kind: Kind | None = None) -> float:
        """Of a month from 0, a kind of line, or all."""
        found = (self.blocks if kind is None else self.blocks.of_kind([kind])).sums()
        return float(found.sum() if month is None else found[month]) / 100

    @cached_property
    def total(self) -> float:
        return self.total_of()

    @property
    def by_month(self) -> tuple[float, ...]:
        """Of each month, (12,)."""
        return tuple((self.blocks.sums() / 100).tolist())


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
    return bills(tariff, [imported], [exported], calendar, time_zone)[0]


def bills(
    tariff: Tariff, imported: Sequence[ArrayLike], exported: Sequence[ArrayLike], calendar: Calendar, time_zone: str = ""
) -> list[Bill]:
    """The bills of several years by one tariff, each as `bill` gives it alone."""
    taken = [_checked(values, calendar, "imported") for values in imported]
    given = [_checked(values, calendar, "exported") for values in exported]
    blocks = blocks_of(tariff, taken, given, civil_time(calendar, time_zone, tariff.holidays), calendar)
    return [Bill(tariff.currency, blocks.of(year)) for year in range(len(taken))]


def prices_of(energy: EnergyPrice, calendar: Calendar, time_zone: str = "", holidays: tuple[str, ...] = ()) -> Floats:
    """The price of a kWh in each interval, (intervals,); of tiers the first one's."""
    time = civil_time(calendar, time_zone, holidays)
    if energy.price is not None:
        return np.full(calendar.intervals, energy.price)
    if energy.tiers:
        return np.full(calendar.intervals, energy.tiers[0].price)
    if energy.table:
        return table_of(energy.table, time, calendar)
    shares = period_shares(energy, time)
    prices = np.asarray(sum(energy.periods[key].price * share for key, share in shares.items()))
    return np.asarray(prices.reshape(-1)[time.cell])


def carbon_of(table: tuple[float, ...], calendar: Calendar, time_zone: str = "") -> Floats:
    """CO2 of each interval from a table by hour of the day, of the day by month, or of the year, (intervals,) [g/kWh]."""
    return table_of(table, civil_time(calendar, time_zone), calendar)


def _checked(values: ArrayLike, calendar: Calendar, name: str) -> Floats:
    found = np.asarray(values, dtype=float)
    if found.shape != (calendar.intervals,):
        raise ValueError(
            f"{name}: {calendar.intervals:,} intervals are needed, one for each of the year; there are {found.size:,}."
        )
    if (wrong := np.flatnonzero(~(found >= 0) | ~np.isfinite(found))).size:
        raise ValueError(f"{name}: energies are 0 kWh or more; interval {wrong[0]} has {found[wrong[0]]:g}.")
    return found
