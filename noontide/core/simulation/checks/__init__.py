"""Checks of a design, by what they look at."""

from noontide.core.simulation.checks.finding import Check, Remedy, in_order
from noontide.core.simulation.checks.strings import check_strings, limits_of
from noontide.core.simulation.checks.surroundings import FAR_KM, HIGH_M, check_losses, check_sky, check_surfaces, check_weather
from noontide.core.simulation.results import Results

__all__ = ["FAR_KM", "HIGH_M", "Check", "Remedy", "find_checks", "limits_of"]


def find_checks(results: Results) -> list[Check]:
    """All findings of a simulated design, errors first."""
    found = [
        *check_strings(results),
        *check_sky(results),
        *check_surfaces(results),
        *check_weather(results),
        *check_losses(results),
    ]
    return in_order(found)
