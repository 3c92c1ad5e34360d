"""Checks of a design, by what they look at."""

from noontide.core.simulation.checks.finding import Check, Remedy, in_order, with_acceptance
from noontide.core.simulation.checks.protection import check_wiring
from noontide.core.simulation.checks.scene import check_layout
from noontide.core.simulation.checks.strings import check_strings, limits_of
from noontide.core.simulation.checks.surroundings import FAR_KM, HIGH_M, check_losses, check_sky, check_surfaces, check_weather
from noontide.core.simulation.results import Results

__all__ = ["FAR_KM", "HIGH_M", "Check", "Remedy", "find_checks", "limits_of"]


def find_checks(results: Results) -> list[Check]:
    """All findings of a simulated design, errors first, accepted ones last."""
    found = [
        *check_strings(results),
        *check_wiring(results),
        *check_sky(results),
        *check_surfaces(results),
        *check_layout(results),
        *check_weather(results),
        *check_losses(results),
    ]
    checks = [with_acceptance(check, results.design.accepted) for check in in_order(found)]
    return sorted(checks, key=lambda check: check.accepted != "")
