"""Weather years side by side: by hour, by duration, day by day, and by what this scheme makes of each."""

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.core.simulation.compared_weather import compared_weather
from noontide.server.accounts.models import User
from noontide.server.problems import Problem
from noontide.server.projects.libraries import libraries_of
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load

MOST = 5


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
    design = Design.read(document)
    libraries = libraries_of(design, owner)
    return WeatherComparison(revision=revision, years=[_compared(design, digest, libraries) for digest in wanted])


def _compared(design: Design, digest: str, libraries: Libraries) -> ComparedYear:
    found = compared_weather(design, load(digest), libraries)
    return ComparedYear(
        digest=digest, energy=found.energy, specific_yield=found.specific_yield, hour_of_day=_rounded(found.hour_of_day),
        duration=_rounded(found.duration), daily=_rounded(found.daily, 3),
    )  # fmt: skip


def _rounded(values: np.ndarray, digits: int = 1) -> list[float]:
    return np.round(values, digits).tolist()
