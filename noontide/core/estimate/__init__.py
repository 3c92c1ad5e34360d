"""The Quick estimate: one sentence in, a whole design and its year out."""

from noontide.core.estimate.asked import EstimateRequest
from noontide.core.estimate.estimating import CannotEstimate, Estimate, estimate

__all__ = ["CannotEstimate", "Estimate", "EstimateRequest", "estimate"]
