"""Proposals with their simulated years."""

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

__all__ = ["MOST_LEFT_OVER", "MOST_NUMBER", "CannotFind", "FindRequest", "FoundWays", "ProposalLine", "best_way", "find_strings"]
