"""What the libraries of a user hold for a design, with the stages that all requests share."""

from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.server.accounts.models import User
from noontide.server.demand_library.storing import series_of
from noontide.server.parts_library.library import library_of
from noontide.server.projects.stages import STAGES
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load


def libraries_of(design: Design, user: User) -> Libraries:
    """Parts, weather year and meter readings of a design; no weather where it names none, or one that is not there.

    Raises
    ------
    Problem
        If the file of its weather year cannot be read.
    """
    try:
        weather = load(design.weather.digest) if design.weather is not None else None
    except WeatherYear.DoesNotExist:
        weather = None
    return Libraries(library_of(user), weather, series_of(design.demand), STAGES)
