"""The table of months: irradiation a day, temperature and energy, with the year and the worst month."""

from dataclasses import dataclass

import numpy as np

from noontide.core.simulation.results import Results


@dataclass(frozen=True)
class MonthRow:
    """One month, or the year."""

    days: int
    horizontal: float  # irradiation a day [kWh/m2], which is hours of full sun
    plane: float  # on the planes a day, weighted by rated power, with the horizon and without the shade of rows [kWh/m2]
    temperature: float  # mean of the air [°C]
    energy: float  # delivered [kWh]
    specific_yield: float  # a day [kWh/kW]


@dataclass(frozen=True)
class MonthTable:
    """Twelve months and the year; the worst month is the one with the least light on the planes."""

    months: tuple[MonthRow, ...]
    year: MonthRow
    worst: int  # from 0
    best: int


def table_of_months(results: Results) -> MonthTable:
    """The figures that are copied most, by month."""
    calendar, weather, annual = results.calendar, results.weather, results.annual
    days = np.bincount(calendar.months, minlength=12) * calendar.step / 1440
    ghi = calendar.monthly_sums(weather.ghi) * calendar.hours_per_interval / 1000
    temperature = calendar.monthly_sums(weather.temperature) / np.bincount(calendar.months, minlength=12)
    rated = results.plant.module_counts * results.plant.module_powers
    plane = sum(w * m.reference for w, m in zip(rated / rated.sum(), results.members, strict=True))
    energy = np.array(annual.monthly_energy)

    def row(days: float, ghi: float, plane: float, temperature: float, energy: float) -> MonthRow:
        return MonthRow(round(days), ghi / days, plane / days, temperature, energy, energy / annual.dc_power / days)

    months = tuple(row(*map(float, values)) for values in zip(days, ghi, plane, temperature, energy, strict=True))
    year = row(float(days.sum()), float(ghi.sum()), float(plane.sum()), float(weather.temperature.mean()), float(energy.sum()))
    by_day = [month.plane for month in months]
    return MonthTable(months, year, int(np.argmin(by_day)), int(np.argmax(by_day)))
