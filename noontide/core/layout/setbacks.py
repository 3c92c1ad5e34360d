"""Distances that modules keep from edges and obstacles, as rule sets; all of them are made up."""

from dataclasses import dataclass
from typing import Literal

SetbackKind = Literal[
    "eave", "ridge", "hip", "valley", "rake", "step", "side",
    "chimneys", "pipes", "skylights", "dormers", "boxes", "silos", "walls", "poles",
]  # fmt: skip


@dataclass(frozen=True)
class SetbackSet:
    """A rule set: what it is for, and its distances [m]."""

    title: str
    reason: str
    distances: dict[str, float]


SETS = {
    "plain": SetbackSet(
        "Plain",
        "Room to fix an edge, no more.",
        {"eave": 0.2, "ridge": 0.2, "hip": 0.2, "valley": 0.3, "rake": 0.2, "step": 0.4, "side": 0.2,
         "chimneys": 0.2, "pipes": 0.1, "skylights": 0.15, "dormers": 0.2, "boxes": 0.3, "silos": 0.3, "walls": 0.2, "poles": 0.1},
    ),
    "fire-lanes": SetbackSet(
        "Fire lanes",
        "A lane along ridge, hips and rakes for the fire service.",
        {"eave": 0.3, "ridge": 0.9, "hip": 0.5, "valley": 0.5, "rake": 0.9, "step": 0.9, "side": 0.5,
         "chimneys": 0.5, "pipes": 0.2, "skylights": 0.9, "dormers": 0.5, "boxes": 0.6, "silos": 0.6, "walls": 0.3, "poles": 0.2},
    ),
    "wind-zones": SetbackSet(
        "Wind zones",
        "Out of the zones at edges and corners where wind lifts most.",
        {"eave": 0.6, "ridge": 0.3, "hip": 0.6, "valley": 0.3, "rake": 0.6, "step": 1.2, "side": 0.6,
         "chimneys": 0.3, "pipes": 0.1, "skylights": 0.2, "dormers": 0.3, "boxes": 0.5, "silos": 0.5, "walls": 0.3, "poles": 0.2},
    ),
}  # fmt: skip
