"""The hourly quantities that a year can be asked for: their names, units, and how they are read from the stages."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.simulation.cascade import LINES
from noontide.core.simulation.simulated_year import SimulatedYear

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Quantity:
    title: str
    unit: str
    scope: Literal["plant", "subarray"]
    colour: Literal["sun", "current", "yield", "loss", "haze"]
    read: Callable[[SimulatedYear, int], Floats]  # of a year and the index of a sub-array


def _of_sky(field: str) -> Callable[[SimulatedYear, int], Floats]:
    return lambda year, _: year.whole_year(getattr(year.sky, field))


def _of_weather(field: str) -> Callable[[SimulatedYear, int], Floats]:
    return lambda year, _: getattr(year.weather, field)


def _of_plane(field: str) -> Callable[[SimulatedYear, int], Floats]:
    return lambda year, k: year.whole_year(getattr(year.light, field)[year.plane_of[k]])


def _of_strings(field: str) -> Callable[[SimulatedYear, int], Floats]:
    return lambda year, k: year.whole_year(getattr(year.strings, field)[k])


def _of_inverters(field: str) -> Callable[[SimulatedYear, int], Floats]:
    return lambda year, _: year.whole_year(year.plant.counts @ getattr(year.grid, field))


def _loss(key: str) -> Callable[[SimulatedYear, int], Floats]:

    def read(year: SimulatedYear, _: int) -> Floats:
        entry = year.cascade[key]
        return year.whole_year(-entry.power, -entry.dark_power)

    return read


QUANTITIES: dict[str, Quantity] = {
    "delivered": Quantity("AC power delivered", "W", "plant", "yield", lambda r, _: r.delivered),
    "dc_power": Quantity("DC power at the inverters", "W", "plant", "current", _of_inverters("dc")),
    "ac_power": Quantity("AC power of the inverters", "W", "plant", "current", _of_inverters("ac")),
    "sun_elevation": Quantity("Sun's elevation", "°", "plant", "sun", lambda r, _: r.whole_year(90 - r.sky.zenith)),
    "sun_azimuth": Quantity("Sun's azimuth", "°", "plant", "sun", _of_sky("azimuth")),
    "daylight": Quantity("Share of the hour with the sun up", "", "plant", "sun", _of_sky("lit_fraction")),
    "ghi": Quantity("Global horizontal irradiance", "W/m²", "plant", "sun", _of_weather("ghi")),
    "dni": Quantity("Direct normal irradiance", "W/m²", "plant", "sun", _of_weather("dni")),
    "dhi": Quantity("Diffuse horizontal irradiance", "W/m²", "plant", "sun", _of_weather("dhi")),
    "air_temperature": Quantity("Air temperature", "°C", "plant", "haze", _of_weather("temperature")),
    "wind": Quantity("Wind at 10 m", "m/s", "plant", "haze", _of_weather("wind")),
    "incidence": Quantity("Incidence angle", "°", "subarray", "sun", lambda r, k: r.whole_year(_degrees(r.light.cos_incidence[r.plane_of[k]]))),
    "poa": Quantity("Plane-of-array irradiance", "W/m²", "subarray", "sun", _of_plane("poa")),
    "poa_beam": Quantity("Beam on the plane", "W/m²", "subarray", "sun", _of_plane("beam")),
    "poa_sky": Quantity("Sky light on the plane", "W/m²", "subarray", "sun", _of_plane("sky")),
    "poa_ground": Quantity("Ground light on the plane", "W/m²", "subarray", "sun", _of_plane("ground")),
    "shaded_fraction": Quantity("Share of the row in shade", "", "subarray", "haze", _of_plane("shaded_fraction")),
    "effective": Quantity("Effective irradiance", "W/m²", "subarray", "sun", _of_plane("effective")),
    "cell_temperature": Quantity(
        "Cell temperature", "°C", "subarray", "loss",
        lambda r, k: _night_as_air(r, r.modules.cell_temperature[r.pair_of[k]]),
    ),
    "string_voltage": Quantity("String voltage", "V", "subarray", "current", _of_strings("voltage")),
    "subarray_current": Quantity("Current of the strings, one inverter", "A", "subarray", "current", _of_strings("current")),
    "subarray_power": Quantity("DC power after the cables, one inverter", "W", "subarray", "current", _of_strings("power")),
    **{f"loss_{key}": Quantity(title, "W", "plant", "loss", _loss(key)) for key, title, _ in LINES if key not in ("transposition", "conversion")},
}  # fmt: skip


def _degrees(cosine: Floats) -> Floats:
    return np.degrees(np.arccos(np.clip(cosine, -1, 1)))


def _night_as_air(year: SimulatedYear, lit: Floats) -> Floats:
    """With no light the cells are as warm as the air."""
    warmth = year.weather.temperature.copy()
    warmth[year.sky.light] = lit
    return warmth
