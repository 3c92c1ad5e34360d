"""The chain from sunlight to the meter, and what comes of it."""

from noontide.core.simulation.adjusted_weather import ImpossibleAdjustment
from noontide.core.simulation.annual import Annual
from noontide.core.simulation.cache import StageCache
from noontide.core.simulation.cascade import Cascade, CascadeEntry
from noontide.core.simulation.chain import simulate
from noontide.core.simulation.libraries import Libraries
from noontide.core.simulation.plant import IncompleteDesign, UnknownPart
from noontide.core.simulation.results import Results

__all__ = [
    "Annual",
    "Cascade",
    "CascadeEntry",
    "ImpossibleAdjustment",
    "IncompleteDesign",
    "Libraries",
    "Results",
    "StageCache",
    "UnknownPart",
    "simulate",
]
