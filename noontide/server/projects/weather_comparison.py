"""Weather years side by side: by hour, by duration, day by day, and by what this scheme makes of each."""

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.design import Design
from noontide.core.design.merge_patch import merge_patch
from noontide.core.weather import Weather
from noontide.server.accounts.models import User
from noontide.server.problems import Problem
from noontide.server.projects.evaluator import results_for
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load

MOST = 5
QUANTILES = 101


class ComparedYear(BaseModel):
    """One of the years."""

    digest: str
    energy: float | None = Field(description="delivered by this scheme in that weather, its adjustments included [kWh]")
    specific_yield: float | None = Field(description="[kWh/kW]")
    hour_of_day: list[float] = Field(description="mean GHI of each hour of the local clock [W/m2]")
    duration: list[float] = Field(description="GHI that is exceeded for 0, 1, ... 100 % of the hours with light [W/m2]")
    daily: list[float] = Field(description="GHI of each day of a common year [kWh/m2]")


class WeatherComparison(BaseModel):
    revision: int
    years: list[ComparedYear]


def compare_weather(document: dict, digests: list[str], owner: User, revision: int) -> WeatherComparison:
    """Compare years of the library for a scheme.

    Raises
    ------
    Problem
        If there are none or too many, or one is not in the library.
    """
    wanted = list(dict.fromkeys(digests))
    if not 1 <= len(wanted) <= MOST:
        raise Problem(422, "bad-query", "Name one to five years", "digests is a list of weather years with commas.")
    known = set(WeatherYear.objects.visible_to(owner).filter(pk__in=wanted).values_list("pk", flat=True))
    if missing := [digest for digest in wanted if digest not in known]:
        raise Problem(404, "not-found", "Unknown weather year", f"The library has no year {missing[0][:64]}.")
    return WeatherComparison(revision=revision, years=[_compared(document, digest) for digest in wanted])


def _compared(document: dict, digest: str) -> ComparedYear:
    weather = load(digest)
    energy = specific_yield = None
    try:
        design = Design.read(merge_patch(document, {"weather": {"digest": digest, "title": weather.title}}))
        annual = results_for(design.as_kept()).annual
        energy, specific_yield = annual.energy, annual.specific_yield
    except (Problem, ValueError):
        pass  # a scheme that is not complete has no yield, and its years can be compared all the same
    return ComparedYear(
        digest=digest, energy=energy, specific_yield=specific_yield, hour_of_day=_rounded(_by_hour(weather)),
        duration=_rounded(_duration(weather)), daily=_rounded(_daily(weather), 3),
    )  # fmt: skip


def _by_hour(weather: Weather) -> np.ndarray:
    return weather.ghi.reshape(weather.calendar.days, 24, -1).mean(axis=(0, 2))


def _duration(weather: Weather) -> np.ndarray:
    lit = weather.ghi[weather.ghi > 0]
    return np.quantile(lit, np.linspace(1, 0, QUANTILES)) if lit.size else np.zeros(QUANTILES)


def _daily(weather: Weather) -> np.ndarray:
    """Of the days without 29 February."""
    days = weather.ghi.reshape(weather.calendar.days, -1).sum(axis=1) * weather.calendar.hours_per_interval / 1000
    return np.delete(days, 59) if days.size == 366 else days


def _rounded(values: np.ndarray, digits: int = 1) -> list[float]:
    return np.round(values, digits).tolist()
