"""A small climatology of the whole globe: monthly clearness and temperature, daily range, extremes, wind and height.

The maps are interpolated bilinearly. How they were made and how exact they are is written in docs/method/climatology.md.
"""

from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# Whole numbers of these units are stored, each as the difference from its western neighbour.
UNITS = {"clearness": 0.005, "temperature": 0.2, "day_range": 0.1, "below": 0.2, "above": 0.2, "wind": 0.05}
LAPSE = 5.5  # K per km of height
HEIGHT_STEP = 1 / 12  # [°]
EXPECTED_ERROR = 0.07  # of a year's GHI: half of the worst where it was checked


@dataclass(frozen=True)
class Climate:
    """Long-term means of a point at a height; by month, January first, where there are twelve."""

    clearness: Floats  # (12,) GHI over extraterrestrial
    temperature: Floats  # (12,) mean of the air [°C]
    day_range: Floats  # (12,) mean daily highest less lowest [K]
    lowest: float  # mean of the yearly lowest temperatures [°C]
    highest: float  # mean of the yearly highest [°C]
    wind: float  # mean at 10 m [m/s]


def climate_at(latitude: float, longitude: float, elevation: float) -> Climate:
    """Climate of a point [°] at a height above sea level [m]."""
    values = {name: _between(_maps()[name], latitude, longitude, -90.0, -180.0) * unit for name, unit in UNITS.items()}
    temperature = values["temperature"] - LAPSE * elevation / 1000
    return Climate(
        clearness=np.clip(values["clearness"], 0.05, 0.8),
        temperature=temperature,
        day_range=np.maximum(values["day_range"], 0.5),
        lowest=float(temperature.min() - values["below"]),
        highest=float(temperature.max() + values["above"]),
        wind=float(max(values["wind"], 0.2)),
    )


def elevation_at(latitude: float, longitude: float) -> float:
    """Height above sea level [m]; towns lie low, so it is halfway between the map and the lowest node that is not sea."""
    maps = _maps()
    steps, weights = _nodes(maps["height"], latitude, longitude, -90 + HEIGHT_STEP / 2, -180 + HEIGHT_STEP / 2)
    nodes = maps["height_table"][steps.astype(np.int64)].astype(np.int16).astype(float)
    land = nodes[nodes != 0]
    return 0.5 * (float(nodes @ weights) + float(land.min())) if land.size else 0.0


@cache
def _maps() -> dict[str, NDArray]:
    """The maps in the small whole numbers that they are stored in; floats would take four times the memory."""
    with (files(__package__) / "climatology.npz").open("rb") as file, np.load(file, allow_pickle=False) as stored:
        # The sums wrap around, by design of the format.
        maps = {name: np.cumsum(stored[name], axis=-1, dtype=stored[name].dtype) for name in (*UNITS, "height")}
        return maps | {"height_table": stored["height_table"]}


def _between(grid: NDArray, latitude: float, longitude: float, south: float, west: float) -> Floats:
    nodes, weights = _nodes(grid, latitude, longitude, south, west)
    return nodes @ weights


def _nodes(grid: NDArray, latitude: float, longitude: float, south: float, west: float) -> tuple[Floats, Floats]:
    """The four nodes around a point, on the last axis, and their weights."""
    rows, columns = grid.shape[-2:]
    step = 360 / columns
    y = min(max((latitude - south) / step, 0.0), rows - 1.0)
    x = ((longitude - west) % 360) / step
    j, i = int(min(y, rows - 2)), int(x)
    v, u = y - j, x - i
    nodes = np.stack([grid[..., j + a, (i + b) % columns] for a in (0, 1) for b in (0, 1)], axis=-1).astype(float)
    return nodes, np.array([(1 - v) * (1 - u), (1 - v) * u, v * (1 - u), v * u])
