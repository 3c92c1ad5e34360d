"""Checks of a design, by what they look at."""

import logging
from collections.abc import Callable, Iterable, Iterator

from noontide.core.checks.after_meter import check_demand, check_money, check_storage
from noontide.core.checks.finding import Check, Remedy, in_order, with_acceptance
from noontide.core.checks.obstacles import check_obstacles
from noontide.core.checks.protection import check_wiring
from noontide.core.checks.scene import check_layout
from noontide.core.checks.strings import check_strings, limits_of
from noontide.core.checks.surroundings import FAR_KM, HIGH_M, check_losses, check_sky, check_surfaces, check_weather
from noontide.core.simulation.results import Results

logger = logging.getLogger(__name__)
__all__ = ["FAR_KM", "HIGH_M", "Check", "Remedy", "find_checks", "limits_of"]


def find_checks(results: Results) -> list[Check]:
    """All findings of a simulated design, errors first, accepted ones last."""
    found = [check for check_these, subject, bench in CHECKERS for check in _found(check_these, subject, bench, results)]
    checks = [with_acceptance(check, results.design.accepted) for check in in_order(found)]
    return sorted(checks, key=lambda check: check.accepted != "")


CHECKERS: tuple[tuple[Callable[[Results], Iterable[Check]], str, str], ...] = (
    (check_strings, "strings", "circuits"),
    (check_wiring, "cables and protection", "circuits"),
    (check_sky, "the sky", "sky"),
    (check_obstacles, "obstacles", "sky"),
    (check_surfaces, "surfaces", "surfaces"),
    (check_layout, "modules on the scene", "scene"),
    (check_weather, "the weather", "weather"),
    (check_losses, "losses", "losses"),
    (check_demand, "demand", "demand"),
    (check_storage, "storage", "storage"),
    (check_money, "tariff and costs", "money"),
)


def _found(check_these: Callable[[Results], Iterable[Check]], subject: str, bench: str, results: Results) -> Iterator[Check]:
    """Findings of one kind. A check that fails never takes the figures, or other findings, with it: that it failed is a finding."""
    try:
        yield from check_these(results)
    except Exception:
        logger.exception("the checks of %s failed", subject)
        yield Check(
            "not-checked", "caution", f"Not everything about {subject} was checked", "A check failed on these values; the figures do not depend on it.",
            bench, "", 0, 0, "", "Noontide",
        )  # fmt: skip
