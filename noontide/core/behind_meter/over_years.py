"""A design over many years: a map over the years, each a run of its own."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from noontide.core.behind_meter.off_grid import proof
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
    # Where there is no grid.
    dark_hours: float | None = None
    loss_of_load: float | None = None  # share of the energy that is asked for
    fuel: float | None = None  # [l]


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

    @property
    def darkest(self) -> YearRun | None:
        """The year in which most of the energy was missing; None where there is a grid."""
        dark = [run for run in self.runs if run.loss_of_load is not None]
        return max(dark, key=lambda run: run.loss_of_load or 0.0) if dark else None

    def dark_words(self) -> str:
        """How often the lights go out over the record; empty where there is a grid."""
        worst = self.darkest
        if worst is None:
            return ""
        hours = [run.dark_hours or 0.0 for run in self.runs]
        if not max(hours):
            return f"No hour of the {len(hours)} years stays dark."
        without = sum(not h for h in hours)
        return (
            f"Over {len(hours)} years {np.mean(hours):,.0f} hours a year stay dark in the mean, {max(hours):,.0f} in the worst, {worst.year}, "
            f"with {worst.loss_of_load:.2%} of the energy missing; {without} of the years have none."
        )

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
        found = simulate(design, weather, parts, series=series)
        annual = found.annual
        dark = proof(found) if found.after.serves_alone else None
        runs.append(
            YearRun(
                weather.calendar.year,
                annual.energy,
                tuple(annual.monthly_energy),
                annual.specific_yield,
                annual.performance_ratio,
                annual.horizontal_irradiation,
                annual.plane_irradiation,
                *(() if dark is None else (dark.dark_hours, dark.loss_of_load, dark.fuel)),
            )
        )
    report(len(years), len(years))
    return OverYears(tuple(runs))
