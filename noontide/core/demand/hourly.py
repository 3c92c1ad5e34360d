"""Demand in every interval of a weather year: each source by itself, and their sum."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from noontide.core.calendar import MONTHS, Calendar
from noontide.core.civil_time import CivilTime, civil_time
from noontide.core.demand.deferrable import Deferrable
from noontide.core.demand.pumping import DirectPump
from noontide.core.demand.series import DemandError, MissingSeries, UseSeries, lay, scale
from noontide.core.demand.shapes import SHAPES, ShapeName
from noontide.core.demand.sources import (
    Appliances,
    Cooling,
    Demand,
    Heating,
    HotWater,
    Interval,
    Monthly,
    PerArea,
    Pump,
    Source,
    Sources,
    Vehicle,
    Yearly,
)
from noontide.core.fields import day_of_leap_year
from noontide.core.hours import DAY, read_hours, share_of, shares_of_day
from noontide.core.weather import Weather

Floats = NDArray[np.float64]
WATER = 4.186 / 3600  # kWh to warm a litre by a kelvin
LOWEST_COP = 1.0  # of a heat pump in the cold
HEATING_BASE, COOLING_BASE = 15.0, 22.0  # of degree days [°C]
FEWEST_FOR_WEATHER = 3  # known months, from which the others follow degree days


@dataclass(frozen=True, eq=False)
class HourlyDemand:
    """Demand of a year."""

    by_source: dict[str, Floats]  # kW in each interval, (intervals,), by id; a margin has `id/margin`
    unserved: dict[str, float] = field(default_factory=dict)  # kWh a year that a source asks for and does not get, by id
    notes: dict[str, tuple[str, ...]] = field(default_factory=dict)  # what was filled, and why, by id
    waiting: dict[str, Deferrable | DirectPump] = field(default_factory=dict)  # what can wait and is here put at once, by id
    direct: Floats | None = None  # of all that, what runs on direct current [kW], (intervals,); None where nothing does

    def placed(self, produced: Floats, prices: Floats | None, hours: float) -> "HourlyDemand":
        """With what can wait in its own time, one source after another.

        Parameters
        ----------
        produced : (intervals,)
            Power of the plant [kW].
        prices : (intervals,), optional
            Of energy from the grid.
        hours : float
            Length of an interval [h].
        """
        by_source, unserved, notes = dict(self.by_source), dict(self.unserved), dict(self.notes)
        others = np.array(self.total)
        for key in self.waiting:
            others -= by_source[key]
        for key, one in self.waiting.items():
            surplus = (produced - others) * hours
            taken, missed = one.place(surplus, prices)
            if isinstance(one, DirectPump) and missed:
                notes[key] = one.told(surplus)
            by_source[key] = taken / hours
            others += by_source[key]
            unserved.pop(key, None)
            if missed:
                unserved[key] = missed
        return HourlyDemand(by_source, unserved, notes, direct=self.direct)

    @cached_property
    def total(self) -> Floats:
        """Sum of all sources [kW], (intervals,)."""
        return np.asarray(sum(self.by_source.values()))


@dataclass(frozen=True, eq=False)
class _Year:
    """What every source reads."""

    calendar: Calendar
    time: CivilTime
    temperature: Floats
    is_southern: bool

    @property
    def is_off(self) -> NDArray[np.bool_]:
        return self.time.kind > 0

    def within(self, hours: str) -> Floats:
        by_slot = shares_of_day(hours, self.time.slot, self.calendar.step)
        return np.asarray(by_slot[self.time.minute // self.time.slot])


def hourly(
    sources: Demand | Mapping[str, Source],
    calendar: Calendar,
    weather: Weather,
    time_zone: str = "",
    series: Mapping[str, UseSeries] | None = None,
) -> HourlyDemand:
    """The demand of each source in each interval.

    Parameters
    ----------
    sources : Sources or mapping of Source
        Those that are not in use are left out.
    weather : Weather
        Of the same calendar; its temperature drives heating, its place says which half of the year is winter.
    time_zone : str
        Whose daylight saving time the hours follow; that of the sources' own file before it.
    series : mapping of UseSeries, optional
        Interval data by digest.

    Raises
    ------
    ValueError
        If the weather has another calendar.
    DemandError
        If the interval data of a source are not there, are too few for a year, or cannot be scaled as asked; with its pointer.

    Notes
    -----
    What can wait is put at once here; `HourlyDemand.placed` puts it into its own time, once the sun's power is known.
    """
    whole = sources if isinstance(sources, Demand) else Demand(sources=dict(sources))
    zone = (whole.time_zone if isinstance(whole, Sources) else "") or time_zone
    if weather.calendar != calendar:
        raise ValueError(
            f"The weather has steps of {weather.calendar.step} min and the year {weather.calendar.year}; {calendar.step} min and {calendar.year} are asked for."
        )
    time = civil_time(calendar, zone, whole.holidays)
    year = _Year(calendar, time, np.asarray(weather.temperature, dtype=float), weather.place.latitude < 0)
    found: dict[str, Floats] = {}
    unserved: dict[str, float] = {}
    notes: dict[str, tuple[str, ...]] = {}
    waiting: dict[str, Deferrable | DirectPump] = {}
    direct: Floats | None = None
    for key, source in whole.sources.items():
        if not source.is_on:
            continue
        if source.interval is not None:
            try:
                power, missed, said = _measured(source.interval, year, series)
            except DemandError as error:
                error.pointer = f"/demand/sources/{key}"
                raise
        else:
            power, missed, said = _READERS[source.kind](getattr(source, source.kind), year)
        if isinstance(power, DirectPump):
            pumps = replace(power, count=source.factor)
            taken, missed = pumps.place()
            waiting[key], found[key] = pumps, taken / calendar.hours_per_interval
        elif isinstance(power, Deferrable):
            one = replace(power, energy=source.factor * power.energy, limit=source.factor * power.limit)
            taken, missed = one.place()
            if one.timing != "at once":
                waiting[key] = one
            found[key] = taken / calendar.hours_per_interval
        else:
            found[key], missed = source.factor * power, source.factor * missed
        if source.appliances is not None and source.appliances.margin:
            found[f"{key}/margin"] = found[key] * (source.appliances.margin / 100)
        if source.appliances is not None and (on_dc := source.appliances.of_current("DC")).items:
            more = source.factor * (1 + source.appliances.margin / 100) * _appliances(on_dc, year)[0]
            direct = more if direct is None else direct + more
        if missed:
            unserved[key] = missed
        if said:
            notes[key] = said
    if not found:
        found[""] = np.zeros(calendar.intervals)
    return HourlyDemand(found, unserved, notes, waiting, direct)


Read = tuple[Floats | Deferrable | DirectPump, float, tuple[str, ...]]


def _appliances(one: Appliances, year: _Year) -> tuple[Floats, float, tuple[str, ...]]:
    power = np.zeros(year.calendar.intervals)
    for item in one.items.values():
        runs = {"every day": True, "weekdays": ~year.is_off, "weekends": year.is_off}[item.days]
        in_months = np.isin(year.time.month + 1, item.months)
        power += item.running_power * item.use * year.within(item.hours) * runs * in_months
    return power, 0.0, ()


def _per_area(one: PerArea, year: _Year) -> Read:
    shape = _course(one.shape, year) * SHAPES[one.shape].month(year.is_southern)[year.time.month]
    return _with_energy(shape, one.use * one.area, year.calendar), 0.0, ()


def _yearly(one: Yearly, year: _Year) -> Read:
    shape = _course(one.shape, year) * SHAPES[one.shape].month(year.is_southern)[year.time.month]
    return _with_energy(shape, one.energy, year.calendar), 0.0, ()


def _monthly(one: Monthly, year: _Year) -> Read:
    """Each month, or each bill, has its energy in the course of the shape; what is not known follows the weather."""
    if one.bills:
        part, energies, names = _parts_of_bills(one, year)
    else:
        part, energies = year.time.month, np.array([np.nan if e is None else e for e in one.energies])
        names = list(MONTHS)
    energies, said = _filled(part, energies, names, one, year)
    course = _course(one.shape, year)
    sums = np.bincount(part, weights=course, minlength=energies.size) * year.calendar.hours_per_interval
    return course * np.divide(energies, sums, out=np.zeros_like(energies), where=sums > 0)[part], 0.0, said


def _parts_of_bills(one: Monthly, year: _Year) -> tuple[NDArray[np.int64], Floats, list[str]]:
    """The bill of each interval, or the month of what no bill holds; the energy of each, and how it is called."""
    starts = year.calendar.local_starts.astype("datetime64[D]")
    leap = np.array([day_of_leap_year(str(day)[5:]) for day in np.unique(starts)])
    of_day = leap[(starts - starts[0]).astype(np.int64)]
    part = 24 + year.time.month
    energies = np.full(36, np.nan)
    names = ["" for _ in range(24)] + list(MONTHS)
    for k, bill in enumerate(one.bills.values()):
        part = np.where(np.isin(of_day, bill.days), k, part)
        energies[k], names[k] = one.energy_of(bill), f"{bill.first} to {bill.last}"
    return part, energies, names


def _filled(
    part: NDArray[np.int64], energies: Floats, names: list[str], one: Monthly, year: _Year
) -> tuple[Floats, tuple[str, ...]]:
    """All parts of the year: those that are known as they are, others by degree days of the weather, or by the shape's months where few are known."""
    hours = year.calendar.hours_per_interval
    days = np.bincount(part, minlength=energies.size) * hours / 24
    known, missing = np.isfinite(energies), ~np.isfinite(energies) & (days > 0)
    if not missing.any():
        return np.nan_to_num(energies), ()
    heating = np.bincount(part, np.clip(HEATING_BASE - year.temperature, 0, None), energies.size) * hours / 24
    cooling = np.bincount(part, np.clip(year.temperature - COOLING_BASE, 0, None), energies.size) * hours / 24
    called = ", ".join(names[k] for k in np.flatnonzero(missing))
    if known.sum() >= FEWEST_FOR_WEATHER:
        terms = np.column_stack([days, heating, cooling])
        scale = np.maximum(np.abs(terms[known]).max(axis=0), 1e-12)
        weights = nnls(terms[known] / scale, energies[known])[0] / scale
        filled = terms @ weights
        why = f"{called}: by days and degree days of the weather ({weights[0]:.1f} kWh a day, {weights[1]:.2f} kWh per kelvin and day under {HEATING_BASE:g} °C, {weights[2]:.2f} over {COOLING_BASE:g} °C)."
    else:
        course = SHAPES[one.shape].month(year.is_southern)[year.time.month]
        season = np.bincount(part, course, energies.size)
        filled = season * energies[known].sum() / season[known].sum()
        why = f"{called}: in proportion to the months of the shape '{one.shape}', since fewer than {FEWEST_FOR_WEATHER} {'bills' if one.bills else 'months'} are known."
    return np.where(known, np.nan_to_num(energies), np.where(missing, filled, 0.0)), (why,)


def _heating(one: Heating, year: _Year) -> Read:
    heat = one.heat_loss / 1000 * np.clip(one.base - year.temperature, 0, None)
    cop = np.maximum(one.cop + one.cop_slope * (year.temperature - 7), min(LOWEST_COP, one.cop))
    return _limited(heat / cop, one.largest, year)


def _cooling(one: Cooling, year: _Year) -> Read:
    cold = one.heat_gain / 1000 * np.clip(year.temperature - one.base, 0, None)
    cop = np.maximum(one.cop - one.cop_slope * (year.temperature - 35), min(LOWEST_COP, one.cop))
    return _limited(cold / cop, one.largest, year)


def _limited(power: Floats, largest: float | None, year: _Year) -> Read:
    if largest is None:
        return power, 0.0, ()
    missed = np.clip(power - largest, 0, None)
    return power - missed, float(missed.sum() * year.calendar.hours_per_interval), ()


def _hot_water(one: HotWater, year: _Year) -> Read:
    """As it is drawn, or once a draw is over until the next begins."""
    hours = year.calendar.hours_per_interval
    drawn = year.within(one.hours)
    a_day = max(float(share_of(read_hours(one.hours), np.arange(0, DAY, year.calendar.step), year.calendar.step).sum()), 1e-12)
    heat = (one.litres * WATER * (one.hot - one.cold) * drawn / a_day + one.loss * hours / 24) / one.cop
    limit = np.full(heat.size, one.power * hours)
    over = np.flatnonzero((np.roll(drawn, 1) > 0) & (drawn == 0))
    if one.timing == "at once" or not over.size:
        return Deferrable("at once", np.arange(heat.size), heat, limit), 0.0, ()
    # Each request holds all since the one before; what the year's end owes comes with the first.
    sums = np.concatenate([[0.0], np.cumsum(heat)])[over]
    since = np.diff(sums, prepend=sums[-1] - heat.sum())
    return Deferrable(one.timing, over, since, limit * (drawn == 0)), 0.0, ()


def _vehicle(one: Vehicle, year: _Year) -> Read:
    hours = year.calendar.hours_per_interval
    home = share_of(_at_home(one), year.time.minute, year.calendar.step)
    if one.stays_on_weekends:
        home = np.where(year.is_off, 1.0, home)
    arrives = (year.time.minute <= one.arrival * 60) & (year.time.minute + year.calendar.step > one.arrival * 60)
    at = np.flatnonzero(arrives)
    needed = np.where(year.is_off[at], one.weekend_km, one.weekday_km) * one.consumption / 100
    return Deferrable(one.timing, at, needed, one.charger * hours * home), 0.0, ()


def _at_home(one: Vehicle) -> tuple[tuple[int, int], ...]:
    start, end = round(one.arrival * 60), round(one.leaving * 60)
    return ((start, end),) if start < end else tuple(span for span in ((start, DAY), (0, end)) if span[1] > span[0])


def _pump(one: Pump, year: _Year) -> Read:
    """The water of each day within its hours; by the sun alone as the sun lets it."""
    if one.timing == "by the sun alone":
        per_day = 1440 // year.calendar.step
        volumes = np.array([one.volume_of(month) for month in range(12)])[year.time.month]
        friction = one.pipe / one.rated_flow**2 if one.pipe and np.isfinite(one.rated_flow) else 0.0
        return DirectPump(
            one.power, year.within(one.hours), volumes / per_day, one.tank * volumes, one.head, friction, one.efficiency, one.per_volume,
            year.calendar.hours_per_interval, year.time.month,
        ), 0.0, ()  # fmt: skip
    begins = np.flatnonzero(np.diff(year.time.minute, prepend=DAY) < 0)
    energy = np.array([one.energy(month) for month in range(12)])[year.time.month[begins]]
    limit = one.power * year.calendar.hours_per_interval * year.within(one.hours)
    return Deferrable(one.timing, begins, energy, limit), 0.0, ()


def _measured(one: Interval, year: _Year, series: Mapping[str, UseSeries] | None) -> Read:
    kept = (series or {}).get(one.digest)
    if kept is None:
        raise MissingSeries(one.digest, one.title)
    laid, said = lay(kept, year.calendar, year.time)
    scaled, more = scale(laid, year.calendar.hours_per_interval, one.energy, one.peak)
    return scaled, 0.0, (*said, *more)


def _course(shape: ShapeName, year: _Year) -> Floats:
    """Relative use by hour of the civil day."""
    one = SHAPES[shape]
    hour = year.time.minute // 60
    return np.where(year.is_off, np.array(one.day_off)[hour], np.array(one.weekday)[hour])


def _with_energy(shape: Floats, energy: float, calendar: Calendar) -> Floats:
    return np.asarray(shape * (energy / (shape.sum() * calendar.hours_per_interval)))


_READERS: dict[str, Callable[..., Read]] = {
    "yearly": _yearly,
    "appliances": _appliances, "per_area": _per_area, "monthly": _monthly, "heating": _heating, "cooling": _cooling, "hot_water": _hot_water, "vehicle": _vehicle, "pump": _pump,
}  # fmt: skip
