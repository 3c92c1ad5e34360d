"""What a battery can do: its energy, the part of it that is used, powers at the AC side, and one-way efficiencies."""

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
# Lowest and highest value that each may have; shares, efficiencies and the rest as `Battery` has them.
RANGES: dict[str, tuple[float, float]] = {
    "energy": (0.0, np.inf), "minimum": (0.0, 1.0), "maximum": (0.0, 1.0), "initial": (0.0, 1.0), "charge_power": (0.0, np.inf), "discharge_power": (0.0, np.inf),
    "charge_efficiency": (1e-6, 1.0), "discharge_efficiency": (1e-6, 1.0), "self_discharge": (0.0, 1.0),
    "inverter_efficiency": (1e-6, 1.0), "inverter_power": (0.0, np.inf),
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class Battery:
    """One battery, or candidates beside one another: every value may be an array, and they broadcast."""

    energy: ArrayLike  # [kWh]
    minimum: ArrayLike = 0.0  # share of the energy that stays
    maximum: ArrayLike = 1.0  # share up to which it is charged
    initial: ArrayLike = 0.5  # share at the beginning
    charge_power: ArrayLike = np.inf  # at the AC side [kW]
    discharge_power: ArrayLike = np.inf  # at the AC side [kW]
    charge_efficiency: ArrayLike = 1.0  # one way
    discharge_efficiency: ArrayLike = 1.0
    self_discharge: ArrayLike = 0.0  # share of what is stored, an hour
    # On the DC side of the array's own inverter; powers and efficiencies above are the battery's own then.
    inverter_efficiency: ArrayLike = 1.0  # one way; 1 where the battery has an inverter of its own, within the efficiencies above
    inverter_power: ArrayLike = np.inf  # that array and battery give together at most [kW]

    def __post_init__(self) -> None:
        for field in fields(self):
            given, (low, high) = getattr(self, field.name), RANGES[field.name]
            if isinstance(given, float) and low <= given <= high and given < np.inf:
                continue  # one number, as most are: the same without arrays
            values = np.asarray(given, dtype=float)
            fine = (values >= low) & (values <= high) & (np.isfinite(values) | (field.name != "energy"))
            if not fine.all():
                raise ValueError(
                    f"{field.name.replace('_', ' ')} of a battery lies between {low:g} and {high:g}; it is {values[~fine].flat[0]:g}."
                )
        least, first, most = self.minimum, self.initial, self.maximum
        if np.any(np.greater(least, most)):
            raise ValueError("A battery's minimum lies above its maximum.")
        if np.any(np.less(first, np.subtract(least, 1e-12)) | np.greater(first, np.add(most, 1e-12))):
            raise ValueError("A battery begins between its minimum and its maximum.")

    @property
    def shape(self) -> tuple[int, ...]:
        """Of the candidates; empty for one battery."""
        return np.broadcast_shapes(*(np.shape(getattr(self, field.name)) for field in fields(self)))

    def table(self, shape: tuple[int, ...]) -> Floats:
        """All candidates as rows: the fields to self-discharge, seen from the AC side, the one-way efficiency of what the grid charges, and the inverter's power, (candidates, 11)."""
        own = {
            field.name: np.broadcast_to(np.asarray(getattr(self, field.name), dtype=float), shape).reshape(-1)
            for field in fields(self)
        }
        passes, most, from_grid = own.pop("inverter_efficiency"), own.pop("inverter_power"), own["charge_efficiency"]
        # Sun goes to the battery without the inverter, which a kWh at the AC side would have passed; the grid's energy passes it.
        own["charge_efficiency"] = from_grid / passes
        for name in ("charge_power", "discharge_power", "discharge_efficiency"):
            own[name] = own[name] * passes
        return np.ascontiguousarray(np.stack([*own.values(), from_grid * passes, most], axis=-1))
