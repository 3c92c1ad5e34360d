"""Weather years side by side: by hour, by duration, day by day, and by what a design makes of each."""

from dataclasses import dataclass, replace

import numpy as np

from noontide.core.design import Design, merge_patch
from noontide.core.simulation.adjusted_weather import ImpossibleAdjustment
from noontide.core.simulation.libraries import Libraries
from noontide.core.simulation.plant import IncompleteDesign, UnknownPart
from noontide.core.weather import Weather

QUANTILES = 101


@dataclass(frozen=True)
class ComparedWeather:
    """A weather year, and the design in it; None where the design is not complete."""

    digest: str
    energy: float | None  # delivered, the adjustments of the design included [kWh]
    specific_yield: float | None  # [kWh/kW]
    hour_of_day: np.ndarray  # mean GHI of each hour of the clock, (24,) [W/m2]
    duration: np.ndarray  # GHI that is exceeded for 0, 1, ... 100 % of the intervals with light, (101,) [W/m2]
    daily: np.ndarray  # GHI of each day of a common year, (365,) [kWh/m2]


def compared_weather(design: Design, weather: Weather, libraries: Libraries) -> ComparedWeather:
    """A year by itself, and what a design makes of it."""
    energy = specific_yield = None
    other = Design.read(merge_patch(design.as_kept(), {"weather": {"digest": weather.digest, "title": weather.title}}))
    try:
        annual = replace(libraries, weather=weather).year_of(other).annual
        energy, specific_yield = annual.energy, annual.specific_yield
    except (IncompleteDesign, UnknownPart, ImpossibleAdjustment):
        pass  # years can be compared all the same
    return ComparedWeather(weather.digest, energy, specific_yield, _by_hour(weather), _duration(weather), _daily(weather))


def _by_hour(weather: Weather) -> np.ndarray:
    return weather.ghi.reshape(weather.calendar.days, 24, -1).mean(axis=(0, 2))


def _duration(weather: Weather) -> np.ndarray:
    lit = weather.ghi[weather.ghi > 0]
    return np.quantile(lit, np.linspace(1, 0, QUANTILES)) if lit.size else np.zeros(QUANTILES)


def _daily(weather: Weather) -> np.ndarray:
    """Of the days without 29 February."""
    days = weather.ghi.reshape(weather.calendar.days, -1).sum(axis=1) * weather.calendar.hours_per_interval / 1000
    return np.delete(days, 59) if days.size == 366 else days
