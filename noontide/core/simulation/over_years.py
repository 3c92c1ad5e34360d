"""A design over many years: a map over the years, each a run of its own."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from noontide.core.demand.series import UseSeries
from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.simulation.chain import simulate
from noontide.core.weather.many_years import exceedance, variation
from noontide.core.weather.year import Weather


@dataclass(frozen=True)
class YearRun:
    """The figures of one year."""

    year: int
    energy: float  # delivered [kWh]
    monthly_energy: tuple[float, ...]  # [kWh]
    specific_yield: float  # [kWh/kW]
    performance_ratio: float
    horizontal_irradiation: float  # [kWh/m2]
    plane_irradiation: float  # [kWh/m2]


@dataclass(frozen=True)
class OverYears:
    """A design over all the years of a record."""

    runs: tuple[YearRun, ...]

    @property
    def energies(self) -> np.ndarray:
        return np.array([run.energy for run in self.runs])

    @property
    def mean(self) -> float:
        return float(self.energies.mean())

    @property
    def spread(self) -> float:
        return variation(self.energies)

    def exceeded(self, probability: float) -> float:
        """Annual energy that is exceeded with a probability, from the spread between the years alone [kWh]."""
        return exceedance(self.energies, probability)


def simulate_years(
    design: Design,
    years: Sequence[Weather],
    parts: Catalogue,
    report: Callable[[int, int], None] = lambda done, of: None,
    series: Mapping[str, UseSeries] | None = None,
) -> OverYears:
    """Simulate a design over each year of a record; `report` is told how many years are done, and may raise to stop.

    Raises
    ------
    ValueError
        If there is no year.
    """
    if not years:
        raise ValueError("A record needs one year or more.")
    runs = []
    for done, weather in enumerate(years):
        report(done, len(years))
        annual = simulate(design, weather, parts, series=series).annual
        runs.append(
            YearRun(
                weather.calendar.year,
                annual.energy,
                tuple(annual.monthly_energy),
                annual.specific_yield,
                annual.performance_ratio,
                annual.horizontal_irradiation,
                annual.plane_irradiation,
            )
        )
    report(len(years), len(years))
    return OverYears(tuple(runs))
