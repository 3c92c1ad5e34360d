"""What a battery does in every interval of a year, and how often use is not met."""

from noontide.core.storage.battery import Battery
from noontide.core.storage.dispatch import Dispatch, Totals, dispatch, least_import_limits, totals
from noontide.core.storage.reliability import LossOfLoad, loss_of_load
from noontide.core.storage.strategy import (
    Strategy,
    clipped_energy,
    least_peak,
    off_grid,
    own_use,
    peak_shaving,
    time_of_use,
)

__all__ = [
    "Battery", "Dispatch", "LossOfLoad", "Strategy", "Totals", "clipped_energy", "dispatch", "least_import_limits", "least_peak", "loss_of_load", "off_grid",
    "own_use", "peak_shaving", "time_of_use", "totals",
]  # fmt: skip
