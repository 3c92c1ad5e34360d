"""The results of a simulation: a simulated year that can be asked for any hourly quantity by its name."""

from dataclasses import asdict, dataclass

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from noontide.core.simulation.quantities import QUANTITIES, Quantity
from noontide.core.simulation.simulated_year import SimulatedYear

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Results(SimulatedYear):
    """A simulated year with its quantities, tables and sums."""

    def quantity(self, key: str, subarray: str | None = None) -> Floats:
        """Values of an hourly quantity over the year, (intervals,).

        Parameters
        ----------
        key : str
            One of `QUANTITIES`.
        subarray : str, optional
            For a quantity of sub-arrays: whose; the first if none is named.

        Raises
        ------
        KeyError
            If there is no such quantity or sub-array.
        """
        quantity = QUANTITIES[key]
        if quantity.scope == "plant":
            return quantity.read(self, 0)
        if subarray is not None and subarray not in self.plant.subarray_ids:
            raise KeyError(subarray)
        return quantity.read(self, self.plant.subarray_ids.index(subarray) if subarray else 0)

    def hourly(self) -> pd.DataFrame:
        """Every quantity of every interval; columns are `key [unit]`, and `subarray: key [unit]` for sub-arrays.

        The index is the start of the interval on the local clock.
        """
        columns: dict[str, Floats] = {}
        for key, quantity in QUANTITIES.items():
            for k, name in enumerate(self.plant.subarray_ids if quantity.scope == "subarray" else ("",)):
                columns[_column(name, key, quantity)] = quantity.read(self, k)
        return pd.DataFrame(columns, index=pd.DatetimeIndex(self.calendar.local_starts.astype("datetime64[s]"), name="start"))

    def summary(self) -> dict:
        """Annual figures and the Cascade as plain values, for JSON."""
        return {
            "annual": asdict(self.annual),
            "cascade": {
                "start": self.cascade.start,
                "delivered": self.cascade.delivered,
                "residual": self.cascade.residual,
                "entries": [
                    {"key": e.key, "title": e.title, "group": e.group, "energy": e.energy, "before": e.before, "share": e.share}
                    for e in self.cascade.entries
                ],
            },
        }


def _column(subarray: str, key: str, quantity: Quantity) -> str:
    unit = f" [{quantity.unit}]" if quantity.unit else ""
    return f"{subarray}: {key}{unit}" if subarray else f"{key}{unit}"
