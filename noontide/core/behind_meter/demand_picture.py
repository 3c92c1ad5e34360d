"""The demand of a year as pictures: the average day of each month by source beside the sun, and the duration curve."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.civil_time import CivilTime, civil_time
from noontide.core.demand.totals import ApplianceTotals, appliance_totals
from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
DayGroup = Literal["kind", "weekday", "all"]
GROUPS: dict[DayGroup, tuple[str, ...]] = {
    "kind": ("working day", "day off"),
    "weekday": ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"),
    "all": ("day",),
}
FINEST = 15  # min, of an average day
CURVE = 200  # points of the duration curve


@dataclass(frozen=True)
class SourceYear:
    """One source, or its margin."""

    key: str
    title: str
    energy: float  # [kWh]
    peak: float  # highest mean of an interval [kW]
    monthly: Floats  # (12,) [kWh]
    days: Floats  # (12, groups, slots): mean power by month, group of days, and time of the day [kW]
    is_deferrable: bool


@dataclass(frozen=True)
class DemandPicture:
    """Of all sources together, with what the sun makes of it."""

    slot: int  # of an average day [min]
    groups: tuple[str, ...]  # of days: working days and days off, or the seven weekdays
    sources: tuple[SourceYear, ...]
    produced: Floats  # (12, groups, slots) [kW]
    direct: Floats
    energy: float  # [kWh]
    peak: float  # [kW]
    peak_at: int  # interval
    base: float  # power that is exceeded 95 % of the time [kW]
    duration: Floats  # (CURVE,): power of the demand, falling, over shares of the year [kW]
    import_duration: Floats
    produced_energy: float  # [kWh]
    direct_energy: float
    imported: float
    exported: float
    own_use: float
    self_consumption: float
    self_sufficiency: float
    hours_met: float
    has_battery: bool
    monthly_demand: Floats  # (12,) [kWh]
    monthly_produced: Floats
    monthly_direct: Floats
    unserved: dict[str, float]
    notes: dict[str, tuple[str, ...]]


def demand_picture(r: Results, by: DayGroup = "kind") -> DemandPicture | None:
    """The demand of a simulated design; None where it has none.

    Parameters
    ----------
    by : str
        Whether average days are those of working days and days off, or of the seven weekdays.
    """
    used = r.after.demand
    if used is None:
        return None
    time = civil_time(r.calendar, r.after.time_zone, r.design.demand.holidays)
    metered, hours = r.after.metered, r.calendar.hours_per_interval
    total = used.total
    names = r.design.demand.sources
    waiting = {key for key, source in names.items() if source.can_wait}
    sources = []
    for key, power in used.by_source.items():
        source, _, part = key.partition("/")
        title = names[source].name
        sources.append(
            SourceYear(
                key, f"{title}, {part}" if part else title, float(power.sum()) * hours, float(power.max()), r.calendar.monthly_sums(power) * hours,
                average_days(power, time, by), source in waiting,
            )
        )  # fmt: skip
    return DemandPicture(
        slot=_width(time),
        groups=GROUPS[by],
        sources=tuple(sources),
        produced=average_days(metered.produced / hours, time, by),
        direct=average_days(metered.direct / hours, time, by),
        energy=float(total.sum()) * hours,
        peak=float(total.max()),
        peak_at=int(total.argmax()),
        base=float(np.quantile(total, 0.05)),
        duration=_duration(total),
        import_duration=_duration(metered.imported / hours),
        produced_energy=float(metered.produced.sum()),
        direct_energy=float(metered.direct.sum()),
        imported=float(metered.imported.sum()),
        exported=float(metered.exported.sum()),
        own_use=float(metered.own_use.sum()),
        self_consumption=metered.self_consumption,
        self_sufficiency=metered.self_sufficiency,
        hours_met=metered.hours_met,
        has_battery=r.after.storage is not None,
        monthly_demand=r.calendar.monthly_sums(metered.demand),
        monthly_produced=r.calendar.monthly_sums(metered.produced),
        monthly_direct=r.calendar.monthly_sums(metered.direct),
        unserved=used.unserved,
        notes=used.notes,
    )


def totals_of_appliances(r: Results) -> dict[str, ApplianceTotals]:
    """What each list of appliances comes to, by the id of its source."""
    return {key: appliance_totals(s.appliances) for key, s in r.design.demand.sources.items() if s.appliances is not None}


def _width(time: CivilTime) -> int:
    return max(time.slot, FINEST)


def average_days(values: Floats, time: CivilTime, by: DayGroup = "kind") -> Floats:
    """Means by month, group of days, and time of the civil day: (intervals,) to (12, groups, slots)."""
    width, groups = _width(time), len(GROUPS[by])
    slots = 1440 // width
    by_group = {"kind": (time.kind > 0).astype(np.int64), "weekday": time.weekday, "all": np.zeros_like(time.kind)}
    group = by_group[by]
    cell, cells = (time.month * groups + group) * slots + time.minute // width, 12 * groups * slots
    sums = np.bincount(cell, weights=values, minlength=cells)
    counts = np.bincount(cell, minlength=cells)
    return np.divide(sums, counts, out=np.zeros(cells), where=counts > 0).reshape(12, groups, slots)


def _duration(power: Floats) -> Floats:
    """Powers in falling order, at even shares of the year."""
    falling = np.sort(power)[::-1]
    return falling[np.linspace(0, falling.size - 1, CURVE).round().astype(int)]
