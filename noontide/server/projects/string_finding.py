"""The string finder over HTTP: it looks on the weather of the scheme, and for the figures of its stages."""

from noontide.core import finding
from noontide.core.design import Design
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.finding import CannotFind, FindRequest, FoundWays
from noontide.core.weather import Weather
from noontide.server.demand_library.storing import series_of
from noontide.server.problems import Problem
from noontide.server.projects.evaluator import STAGES
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load

CONFLICTS = ("not-complete", "no-demand")  # with the scheme as it is, not with what was asked


class FoundStrings(FoundWays):
    """What the finder found for a revision, best yield first."""

    revision: int


def find_strings(document: dict, asked: FindRequest, revision: int, shelf: Catalogue) -> FoundStrings:
    """Look for strings on a surface of a design, among its own parts and those of a library.

    Raises
    ------
    Problem
        If the surface or a part is unknown, or the design has no weather yet.
    """
    design = Design.read(document)
    if asked.surface not in design.surfaces:
        raise Problem(422, "unknown-surface", "Unknown surface", f"The scheme has no surface '{asked.surface}'.", "/surface")
    try:
        found = finding.find_strings(design, asked, _weather(design), shelf, series_of(design.demand), STAGES)
    except CannotFind as error:
        raise Problem(409 if error.kind in CONFLICTS else 422, error.kind, error.title, str(error), error.pointer) from None
    return FoundStrings(revision=revision, **found.__dict__)


def _weather(design: Design) -> Weather:
    try:
        if design.weather is None:
            raise WeatherYear.DoesNotExist
        return load(design.weather.digest)
    except WeatherYear.DoesNotExist:
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Strings are found for the weather of the site; add it first."
        ) from None
