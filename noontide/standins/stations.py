"""Made-up stations of the simulated weather service: one in most cells of a grid, the same for everybody who asks."""

import math
import random
from dataclasses import dataclass

from noontide.core.weather.climatology import elevation_at

CELL = 0.7  # [°]
FIRST, SECOND = ("Am", "Bel", "Cor", "Dun", "El", "Fen", "Gar", "Hol", "Is", "Kel", "Lun", "Mor", "Nor", "Os", "Pel", "Quar", "Ros", "Sel", "Tor", "Wen"), (
    "beck", "bury", "dale", "field", "ford", "garth", "ham", "holm", "hurst", "leigh", "mere", "moor", "ness", "stead", "thorp", "wick",
)  # fmt: skip
KINDS = ("airfield", "hill", "lake", "orchard", "school", "waterworks")


@dataclass(frozen=True)
class Station:
    """A place with years of hours."""

    id: str
    name: str
    latitude: float
    longitude: float
    elevation: float
    first: int  # year
    last: int
    quantities: tuple[str, ...]


def station_of(name: str) -> Station | None:
    """The station of an id; none where there is none."""
    row, _, column = name.partition("-")
    if not (row.isdigit() and column.isdigit() and len(name) < 12):
        return None
    return _station(int(row), int(column))


def stations_within(west: float, south: float, east: float, north: float) -> list[Station]:
    """The stations of a box [°]."""
    rows = range(_cell(south + 90), _cell(north + 90) + 1)
    columns = range(_cell(west + 180), _cell(east + 180) + 1)
    found = (_station(row, column) for row in rows for column in columns)
    return [s for s in found if s is not None and west <= s.longitude <= east and south <= s.latitude <= north]


def _cell(degrees: float) -> int:
    return math.floor(degrees / CELL)


def _station(row: int, column: int) -> Station | None:
    """Of a cell; a third of the cells have none."""
    draw = random.Random(row * 100_003 + column)
    if draw.random() < 1 / 3:
        return None
    latitude, longitude = round((row + draw.random()) * CELL - 90, 3), round((column + draw.random()) * CELL - 180, 3)
    if not (-89 < latitude < 89 and -180 <= longitude <= 180):
        return None
    quantities = ("ghi", "temperature", *(name for name in ("wind", "pressure") if draw.random() < 0.7))
    return Station(
        f"{row}-{column}",
        f"{draw.choice(FIRST)}{draw.choice(SECOND)} {draw.choice(KINDS)}",
        latitude,
        longitude,
        round(float(elevation_at(latitude, longitude))),
        draw.randint(2006, 2016),
        draw.randint(2021, 2025),
        quantities,
    )
