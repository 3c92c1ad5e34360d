"""Demand in every interval of a weather year: each source by itself, and their sum."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from noontide.core.calendar import MONTHS, Calendar
from noontide.core.civil_time import CivilTime, civil_time
from noontide.core.demand.shapes import SHAPES, ShapeName
from noontide.core.demand.sources import Appliances, Heating, HotWater, Monthly, PerArea, Source, Sources, Vehicle
from noontide.core.hours import DAY, read_hours, share_of
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

    @property
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
        return share_of(read_hours(hours), self.time.minute, self.calendar.step)


def hourly(sources: Sources | Mapping[str, Source], calendar: Calendar, weather: Weather) -> HourlyDemand:
    """The demand of each source in each interval.

    Parameters
    ----------
    sources : Sources or mapping of Source
        Those that are not in use are left out.
    weather : Weather
        Of the same calendar; its temperature drives heating, its place says which half of the year is winter.

    Raises
    ------
    ValueError
        If the weather has another calendar.
    """
    whole = sources if isinstance(sources, Sources) else Sources(sources=dict(sources))
    if weather.calendar != calendar:
        raise ValueError(
            f"The weather has steps of {weather.calendar.step} min and the year {weather.calendar.year}; {calendar.step} min and {calendar.year} are asked for."
        )
    time = civil_time(calendar, whole.time_zone, whole.holidays)
    year = _Year(calendar, time, np.asarray(weather.temperature, dtype=float), weather.place.latitude < 0)
    found: dict[str, Floats] = {}
    unserved: dict[str, float] = {}
    notes: dict[str, tuple[str, ...]] = {}
    for key, source in whole.sources.items():
        if not source.is_on:
            continue
        power, missed, said = _READERS[source.kind](getattr(source, source.kind), year)
        found[key] = source.factor * power
        if source.appliances is not None and source.appliances.margin:
            found[f"{key}/margin"] = found[key] * (source.appliances.margin / 100)
        if missed:
            unserved[key] = source.factor * missed
        if said:
            notes[key] = said
    if not found:
        found[""] = np.zeros(calendar.intervals)
    return HourlyDemand(found, unserved, notes)


Read = tuple[Floats, float, tuple[str, ...]]


def _appliances(one: Appliances, year: _Year) -> Read:
    power = np.zeros(year.calendar.intervals)
    for item in one.items.values():
        runs = {"every day": True, "weekdays": ~year.is_off, "weekends": year.is_off}[item.days]
        in_months = np.isin(year.time.month + 1, item.months)
        power += item.running_power * item.use * year.within(item.hours) * runs * in_months
    return power, 0.0, ()


def _per_area(one: PerArea, year: _Year) -> Read:
    shape = _course(one.shape, year) * SHAPES[one.shape].month(year.is_southern)[year.time.month]
    return _with_energy(shape, one.use * one.area, year.calendar), 0.0, ()


def _monthly(one: Monthly, year: _Year) -> Read:
    energies, said = _filled(one, year)
    course = _course(one.shape, year)
    sums = np.bincount(year.time.month, weights=course, minlength=12) * year.calendar.hours_per_interval
    return course * (energies / sums)[year.time.month], 0.0, said


def _filled(one: Monthly, year: _Year) -> tuple[Floats, tuple[str, ...]]:
    """All twelve months: those that are known as they are, others by degree days of the weather, or by the shape's months where few are known."""
    known = np.array([energy is not None for energy in one.energies])
    energies = np.array([energy or 0.0 for energy in one.energies])
    if known.all():
        return energies, ()
    month, hours = year.time.month, year.calendar.hours_per_interval
    days = np.bincount(month, minlength=12) * hours / 24
    heating = np.bincount(month, weights=np.clip(HEATING_BASE - year.temperature, 0, None), minlength=12) * hours / 24
    cooling = np.bincount(month, weights=np.clip(year.temperature - COOLING_BASE, 0, None), minlength=12) * hours / 24
    names = ", ".join(MONTHS[m] for m in np.flatnonzero(~known))
    if known.sum() >= FEWEST_FOR_WEATHER:
        terms = np.column_stack([days, heating, cooling])
        scale = np.maximum(np.abs(terms[known]).max(axis=0), 1e-12)
        weights = nnls(terms[known] / scale, energies[known])[0] / scale
        filled = terms @ weights
        why = f"{names}: by days and degree days of the weather ({weights[0]:.1f} kWh a day, {weights[1]:.2f} kWh per kelvin and day under {HEATING_BASE:g} °C, {weights[2]:.2f} over {COOLING_BASE:g} °C)."
    else:
        season = SHAPES[one.shape].month(year.is_southern) * days
        filled = season * energies[known].sum() / season[known].sum()
        why = f"{names}: in proportion to the months of the shape '{one.shape}', since fewer than {FEWEST_FOR_WEATHER} months are known."
    return np.where(known, energies, filled), (why,)


def _heating(one: Heating, year: _Year) -> Read:
    heat = one.heat_loss / 1000 * np.clip(one.base - year.temperature, 0, None)
    cop = np.maximum(one.cop + one.cop_slope * (year.temperature - 7), min(LOWEST_COP, one.cop))
    power = heat / cop
    if one.largest is None:
        return power, 0.0, ()
    missed = np.clip(power - one.largest, 0, None)
    return power - missed, float(missed.sum() * year.calendar.hours_per_interval), ()


def _hot_water(one: HotWater, year: _Year) -> Read:
    hours = year.calendar.hours_per_interval
    drawn = year.within(one.hours)
    a_day = max(float(share_of(read_hours(one.hours), np.arange(0, DAY, year.calendar.step), year.calendar.step).sum()), 1e-12)
    heat = one.litres * WATER * (one.hot - one.cold) * drawn / a_day + one.loss * hours / 24
    return _as_power_allows(heat / one.cop, one.power * hours, hours)


def _vehicle(one: Vehicle, year: _Year) -> Read:
    hours = year.calendar.hours_per_interval
    home = share_of(_at_home(one), year.time.minute, year.calendar.step)
    arrives = (year.time.minute <= one.arrival * 60) & (year.time.minute + year.calendar.step > one.arrival * 60)
    needed = np.where(year.is_off, one.weekend_km, one.weekday_km) * one.consumption / 100 * arrives
    return _as_power_allows(needed, one.charger * hours * home, hours)


def _at_home(one: Vehicle) -> tuple[tuple[int, int], ...]:
    start, end = round(one.arrival * 60), round(one.leaving * 60)
    return ((start, end),) if start < end else tuple(span for span in ((start, DAY), (0, end)) if span[1] > span[0])


def _as_power_allows(needed: Floats, most: Floats | float, hours: float) -> Read:
    """Energy as soon as it is needed, as fast as the power allows, the rest afterwards; what waits at the year's end goes on at its beginning."""
    limit = np.broadcast_to(np.asarray(most, dtype=float), needed.shape)
    taken = np.empty(needed.shape)
    waiting = 0.0
    for _ in range(2):
        for k in range(needed.size):
            waiting += needed[k]
            taken[k] = min(waiting, limit[k])
            waiting -= taken[k]
        if needed.sum() - taken.sum() <= 1e-9 * max(needed.sum(), 1.0):
            break
    missed = max(float(needed.sum() - taken.sum()), 0.0)
    return taken / hours, missed if missed > 1e-9 * max(float(needed.sum()), 1.0) else 0.0, ()


def _course(shape: ShapeName, year: _Year) -> Floats:
    """Relative use by hour of the civil day."""
    one = SHAPES[shape]
    hour = year.time.minute // 60
    return np.where(year.is_off, np.array(one.day_off)[hour], np.array(one.weekday)[hour])


def _with_energy(shape: Floats, energy: float, calendar: Calendar) -> Floats:
    return np.asarray(shape * (energy / (shape.sum() * calendar.hours_per_interval)))


_READERS: dict[str, Callable[..., Read]] = {
    "appliances": _appliances, "per_area": _per_area, "monthly": _monthly, "heating": _heating, "hot_water": _hot_water, "vehicle": _vehicle,
}  # fmt: skip
