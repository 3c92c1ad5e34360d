"""The Cascade: where the energy goes, from the horizontal irradiation to the energy delivered."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class CascadeEntry:
    """One line: what was left before it, what it changed (losses negative), and when."""

    key: str
    title: str
    group: str  # sunlight, modules, strings or grid
    hourly: Floats  # change of power, (intervals,) [W]
    energy: float  # change over the year [kWh]
    before: float  # energy left before this line [kWh]

    @property
    def share(self) -> float:
        """Of what was left before it, signed."""
        return self.energy / self.before if self.before else 0.0


# Every booked change in the order in which the sunlight meets it. A stage that books under a new name fails loudly
# in `build_cascade` until the name stands here.
LINES = (
    ("transposition", "Facing", "sunlight"),
    ("horizon", "Horizon", "sunlight"),
    ("rows", "Shade of rows", "sunlight"),
    ("soiling", "Soiling", "sunlight"),
    ("reflection", "Reflection at the glass", "sunlight"),
    ("partial_shade", "Partial shade in the strings", "sunlight"),
    ("conversion", "Not converted, at rated efficiency", "modules"),
    ("weak_light", "Weak light", "modules"),
    ("temperature", "Warmth", "modules"),
    ("quality", "Module quality", "modules"),
    ("light_induced", "First light", "modules"),
    ("mismatch", "Mismatch", "modules"),
    ("parallel", "Unlike strings on a tracker", "strings"),
    ("window", "Outside the voltage window", "strings"),
    ("current_limit", "Over the tracker's current", "strings"),
    ("dc_wiring", "DC wiring", "strings"),
    ("clipping", "Clipping", "grid"),
    ("inverter", "Inverter", "grid"),
    ("night_use", "Night use", "grid"),
    ("ac_wiring", "AC wiring", "grid"),
    ("availability", "Out of service", "grid"),
)


@dataclass(frozen=True)
class Cascade:
    """The account. `start` + the sum of all entries = `delivered`, in every interval and over the year."""

    start_hourly: Floats  # horizontal irradiance on the area of the modules [W]
    delivered_hourly: Floats  # [W]
    start: float  # [kWh]
    delivered: float  # [kWh]
    entries: tuple[CascadeEntry, ...]

    def __getitem__(self, key: str) -> CascadeEntry:
        return next(entry for entry in self.entries if entry.key == key)

    @property
    def residual(self) -> float:
        """What does not close, relative to what goes in: the largest of the year's and of any interval's."""
        left = self.start_hourly + sum(entry.hourly for entry in self.entries) - self.delivered_hourly
        scale = max(float(np.max(np.abs(self.start_hourly), initial=0)), 1e-9)
        yearly = abs(self.start + sum(e.energy for e in self.entries) - self.delivered) / max(abs(self.start), 1e-9)
        return max(float(np.max(np.abs(left), initial=0)) / scale, yearly)


def build_cascade(start: Floats, delivered: Floats, changes: dict[str, Floats], hours: float) -> Cascade:
    """Put the booked changes [W], (intervals,), into their order.

    Raises
    ------
    KeyError
        If a change is booked under a name that the Cascade does not know, or one is missing.
    """
    if unknown := changes.keys() ^ {key for key, _, _ in LINES}:
        raise KeyError(f"booked under names that do not match the Cascade: {sorted(unknown)}")
    kilowatt_hours = hours / 1000
    left = float(start.sum()) * kilowatt_hours
    first, entries = left, []
    for key, title, group in LINES:
        energy = float(changes[key].sum()) * kilowatt_hours
        entries.append(CascadeEntry(key, title, group, changes[key], energy, left))
        left += energy
    return Cascade(start, delivered, first, float(delivered.sum()) * kilowatt_hours, tuple(entries))
