"""The demand of a year as pictures: the average day of each month by source beside the sun, and the duration curve."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.civil_time import CivilTime, civil_time
from noontide.core.demand.totals import ApplianceTotals, appliance_totals
from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
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
    days: Floats  # (12, 2, slots): mean power by month, working day or day off, and time of the day [kW]
    is_deferrable: bool


@dataclass(frozen=True)
class DemandPicture:
    """Of all sources together, with what the sun makes of it."""

    slot: int  # of an average day [min]
    sources: tuple[SourceYear, ...]
    produced: Floats  # (12, 2, slots) [kW]
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
    monthly_demand: Floats  # (12,) [kWh]
    monthly_produced: Floats
    monthly_direct: Floats
    unserved: dict[str, float]
    notes: dict[str, tuple[str, ...]]


def demand_picture(r: Results) -> DemandPicture | None:
    """The demand of a simulated design; None where it has none."""
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
                average_days(power, time), source in waiting,
            )
        )  # fmt: skip
    return DemandPicture(
        slot=_width(time),
        sources=tuple(sources),
        produced=average_days(metered.produced / hours, time),
        direct=average_days(metered.direct / hours, time),
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


def average_days(values: Floats, time: CivilTime) -> Floats:
    """Means by month, working day or day off, and time of the civil day: (intervals,) to (12, 2, slots)."""
    width = _width(time)
    slots = 1440 // width
    is_off = (time.kind > 0).astype(np.int64)
    cell = (time.month * 2 + is_off) * slots + time.minute // width
    sums = np.bincount(cell, weights=values, minlength=24 * slots)
    counts = np.bincount(cell, minlength=24 * slots)
    return np.divide(sums, counts, out=np.zeros(24 * slots), where=counts > 0).reshape(12, 2, slots)


def _duration(power: Floats) -> Floats:
    """Powers in falling order, at even shares of the year."""
    falling = np.sort(power)[::-1]
    return falling[np.linspace(0, falling.size - 1, CURVE).round().astype(int)]
