"""Proposals with their simulated years."""

from noontide.core.finding.batteries import battery_for
from noontide.core.finding.on_sale import on_sale
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
    "MOST_LEFT_OVER", "MOST_NUMBER", "CannotFind", "FindRequest", "FoundWays", "ProposalLine", "battery_for", "best_way", "find_strings", "on_sale",
]  # fmt: skip
