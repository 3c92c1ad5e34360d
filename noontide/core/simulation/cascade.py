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
    power: Floats  # change in the intervals with light, (light,) [W]
    dark_power: float  # change in every other interval [W]
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

    start_power: Floats  # horizontal irradiance on the area of the modules, (light,) [W]
    delivered_power: Floats  # (light,) [W]
    start: float  # [kWh]
    delivered: float  # [kWh]
    entries: tuple[CascadeEntry, ...]

    def __getitem__(self, key: str) -> CascadeEntry:
        return next(entry for entry in self.entries if entry.key == key)

    @property
    def residual(self) -> float:
        """What does not close, relative to what goes in: the largest of the year's and of any interval's."""
        left = self.start_power + sum(entry.power for entry in self.entries) - self.delivered_power
        scale = max(float(np.max(np.abs(self.start_power), initial=0)), 1e-9)
        yearly = abs(self.start + sum(e.energy for e in self.entries) - self.delivered) / max(abs(self.start), 1e-9)
        return max(float(np.max(np.abs(left), initial=0)) / scale, yearly)


def build_cascade(
    start: Floats, delivered: Floats, delivered_energy: float, changes: dict[str, tuple[Floats, float]], hours: float, dark: int
) -> Cascade:
    """Put the booked changes into their order.

    Parameters
    ----------
    start, delivered : (light,)
        [W].
    delivered_energy : float
        Over the whole year, summed apart from the changes [kWh].
    changes : dict
        For each line its change in the light, (light,), and in each dark interval [W].
    hours, dark
        Length of an interval [h], number of dark intervals.

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
        power, dark_power = changes[key]
        energy = (float(power.sum()) + dark_power * dark) * kilowatt_hours
        entries.append(CascadeEntry(key, title, group, power, dark_power, energy, left))
        left += energy
    return Cascade(start, delivered, first, delivered_energy, tuple(entries))
