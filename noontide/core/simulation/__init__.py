"""The chain from sunlight to the meter, and what comes of it."""

from noontide.core.simulation.cache import StageCache
from noontide.core.simulation.cascade import Cascade, CascadeEntry
from noontide.core.simulation.chain import simulate
from noontide.core.simulation.plant import UnknownPart
from noontide.core.simulation.results import Results
from noontide.core.simulation.simulated_year import Annual

__all__ = ["Annual", "Cascade", "CascadeEntry", "Results", "StageCache", "UnknownPart", "simulate"]
