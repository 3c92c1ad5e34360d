"""A scene in words, for the Brief."""

from noontide.core.scene.document import ROOFS, Building

ROOF_WORDS = {
    "flat": "flat roof", "shed": "shed roof", "gable": "gable roof", "hip": "hipped roof", "half_hip": "half-hipped roof",
    "gambrel": "gambrel roof", "mansard": "mansard roof", "own_pitches": "roof of its own pitches",
}  # fmt: skip


def roof_of_building(building: Building) -> str:
    """The kind of its roof, by its name in the document; a flat one where none is given."""
    return next((name for name in ROOFS if getattr(building, name) is not None), "flat")
