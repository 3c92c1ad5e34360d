"""The flows between sun, battery, grid and use as pictures: average days, one day, the year as a river, and an outage."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.demand_picture import average_days
from noontide.core.civil_time import civil_time
from noontide.core.simulation.results import Results
from noontide.core.storage import dispatch, off_grid

Floats = NDArray[np.float64]
LONGEST_OUTAGE = 14 * 24.0  # h that are looked at


@dataclass(frozen=True)
class Outage:
    """What a failure of the grid would be survived by, from the end of an interval on."""

    hours: float  # until something is not met
    is_longer: bool  # than was looked at


def flows_of(r: Results) -> dict[str, Floats]:
    """Energy of each interval along each arm, (intervals,) [kWh]."""
    year = r.after.metered
    to_use = year.demand + year.own_use - year.direct - year.discharge - year.unmet
    return {
        "sun_use": year.direct,
        "sun_battery": year.sun_stored,
        "sun_grid": year.exported,
        "battery_use": year.discharge,
        "grid_use": np.maximum(to_use, 0.0),
        "grid_battery": year.grid_stored,  # of a generator, where there is no grid
    }


def average_flows(r: Results) -> tuple[dict[str, Floats], Floats]:
    """Mean power along each arm by month and time of the day, (12, slots) [kW], and what is stored [kWh]."""
    time, hours = civil_time(r.calendar, r.after.time_zone, r.design.demand.holidays), r.calendar.hours_per_interval
    means = {key: average_days(flow / hours, time, "all")[:, 0] for key, flow in flows_of(r).items()}
    return means, average_days(r.after.metered.stored, time, "all")[:, 0]


def day_flows(r: Results, day: int) -> tuple[dict[str, Floats], Floats]:
    """The same of one day of the calendar, (intervals of a day,)."""
    per_day = r.calendar.intervals // r.calendar.days
    part = slice(day * per_day, (day + 1) * per_day)
    return {key: flow[part] / r.calendar.hours_per_interval for key, flow in flows_of(r).items()}, r.after.metered.stored[part]


def year_flows(r: Results) -> dict[str, float]:
    """The year's sums along each arm, and what the battery loses [kWh]."""
    battery = battery_year(r)
    return {key: float(flow.sum()) for key, flow in flows_of(r).items()} | {"lost": 0.0 if battery is None else battery.lost}


def outage_after(r: Results, interval: int) -> Outage | None:
    """How long sun and battery would carry the use if the grid failed after an interval; None without a battery."""
    setting, hours = r.after.storage, r.calendar.hours_per_interval
    if setting is None:
        return None
    year, battery = r.after.metered, r.after.coupled(setting.battery)
    stored, energy = float(year.stored[interval]), float(np.asarray(battery.energy))
    ahead = np.arange(interval + 1, interval + 1 + round(LONGEST_OUTAGE / hours)) % r.calendar.intervals
    least = float(np.asarray(battery.minimum))
    begun = replace(battery, initial=min(max(stored / energy, least), 1.0) if energy > 0 else least)
    use = (year.demand[ahead] + year.own_use[ahead]) / hours
    found = dispatch(use, year.produced[ahead] / hours, begun, off_grid(), hours)
    short = np.flatnonzero(found.unmet > 1e-9)
    if not short.size:
        return Outage(LONGEST_OUTAGE, True)
    first = int(short[0])
    # Within the interval in which it ends, as long as what is left of it lasts.
    part = 1 - float(found.unmet[first] / use[first]) if use[first] > 0 else 0.0
    return Outage((first + part) * hours, False)
