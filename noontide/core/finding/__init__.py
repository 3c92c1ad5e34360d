"""Proposals with their simulated years."""

from noontide.core.finding.batteries import YEARS_ON_SALE, battery_for
from noontide.core.finding.strings import (
    MOST_LEFT_OVER,
    MOST_NUMBER,
    CannotFind,
    FindRequest,
    FoundWays,
    ProposalLine,
    best_way,
    find_strings,
)

__all__ = [
    "MOST_LEFT_OVER", "MOST_NUMBER", "YEARS_ON_SALE", "CannotFind", "FindRequest", "FoundWays", "ProposalLine", "battery_for", "best_way", "find_strings",
]  # fmt: skip
