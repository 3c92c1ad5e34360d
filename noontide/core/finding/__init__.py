"""Proposals with their simulated years."""

from noontide.core.finding.strings import CannotFind, FindRequest, FoundWays, ProposalLine, find_strings

__all__ = ["CannotFind", "FindRequest", "FoundWays", "ProposalLine", "find_strings"]
