"""The hourly quantities that a year can be asked for: their names, units, and how they are read from the stages."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.simulation.connection import LINES

if TYPE_CHECKING:
    from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
Read = Callable[["Results", int], Floats]


@dataclass(frozen=True)
class Quantity:
    title: str
    unit: str
    scope: Literal["plant", "subarray"]
    colour: Literal["sun", "current", "yield", "loss", "haze"]
    read: Read  # of results and the index of a sub-array
    also: str = ""  # other words that a practitioner looks for
    is_all_day: bool = False  # whether it says something at night


def _of_sky(field: str) -> Read:
    return lambda r, _: r.whole_year(getattr(r.sky, field))


def _of_weather(field: str) -> Read:
    return lambda r, _: getattr(r.weather, field)


def _of_plane(read: Callable[..., Floats]) -> Read:
    return lambda r, k: r.whole_year(read(r.planes[k]))


def _of_inverters(field: str) -> Read:
    return lambda r, _: r.whole_year(r.of_inverters(field))


def _of_meter(field: str) -> Read:
    return lambda r, _: r.after.power(field)


def _loss(key: str) -> Read:
    return lambda r, _: -r.line_power(key)


def _at_night_as_air(r: Results, k: int) -> Floats:
    """With no light the cells have the temperature of the air."""
    temperature = r.weather.temperature.copy()
    temperature[r.sky.interval_index] = r.modules[k].cell_temperature
    return temperature


def _degrees(cosine: Floats) -> Floats:
    return np.degrees(np.arccos(np.clip(cosine, -1, 1)))


def _clearness(r: Results) -> Floats:
    """GHI over the extraterrestrial irradiance on the horizontal; 0 where the sun is down."""
    outside = r.sky.extraterrestrial * np.maximum(r.sky.cos_zenith, 0) * r.sky.lit_fraction
    return np.divide(r.sky.ghi, outside, out=np.zeros_like(outside), where=outside > 0)


QUANTITIES: dict[str, Quantity] = {
    "delivered": Quantity("AC power delivered", "W", "plant", "yield", lambda r, _: r.delivered),
    "demand": Quantity("Demand", "W", "plant", "current", _of_meter("demand"), "load, consumption, use", is_all_day=True),
    "direct_use": Quantity("Used as it is produced", "W", "plant", "yield", _of_meter("direct"), "self-consumption"),
    "import": Quantity("From the grid", "W", "plant", "loss", _of_meter("imported"), "import, purchase", is_all_day=True),
    "export": Quantity("To the grid", "W", "plant", "sun", _of_meter("exported"), "export, feed-in, surplus"),
    "dc_power": Quantity("DC power at the inverters", "W", "plant", "current", _of_inverters("dc")),
    "ac_power": Quantity("AC power of the inverters", "W", "plant", "current", _of_inverters("ac")),
    "sun_elevation": Quantity("Sun elevation", "°", "plant", "sun", lambda r, _: r.whole_year(90 - r.sky.zenith), "solar altitude, zenith"),
    "sun_azimuth": Quantity("Sun azimuth", "°", "plant", "sun", _of_sky("azimuth")),
    "daylight": Quantity("Share of the interval with the sun up", "", "plant", "sun", _of_sky("lit_fraction")),
    "ghi": Quantity("Global horizontal irradiance", "W/m²", "plant", "sun", _of_weather("ghi"), "GHI"),
    "dni": Quantity("Direct normal irradiance", "W/m²", "plant", "sun", _of_weather("dni"), "DNI beam"),
    "dhi": Quantity("Diffuse horizontal irradiance", "W/m²", "plant", "sun", _of_weather("dhi"), "DHI DIF"),
    "clearness": Quantity("Clearness index", "", "plant", "sun", lambda r, _: r.whole_year(_clearness(r)), "kt, cloudiness"),
    "air_temperature": Quantity("Air temperature", "°C", "plant", "haze", _of_weather("temperature"), "ambient temperature, dry bulb", is_all_day=True),
    "wind": Quantity("Wind speed at 10 m", "m/s", "plant", "haze", _of_weather("wind"), is_all_day=True),
    "incidence": Quantity("Incidence angle", "°", "subarray", "sun", lambda r, k: r.whole_year(_degrees(r.attitudes[k].cos_incidence)), "AOI"),
    "plane_tilt": Quantity("Tilt of the plane", "°", "subarray", "haze", lambda r, k: r.whole_year(r.attitudes[k].tilt), "tracker angle, inclination"),
    "plane_azimuth": Quantity("Azimuth of the plane", "°", "subarray", "haze", lambda r, k: r.whole_year(r.attitudes[k].azimuth), "tracker azimuth"),
    "poa": Quantity("Plane-of-array irradiance", "W/m²", "subarray", "sun", _of_plane(lambda p: p.poa), "POA GTI"),
    "poa_beam": Quantity("Beam irradiance on the plane", "W/m²", "subarray", "sun", _of_plane(lambda p: p.beam * p.lit)),
    "poa_sky": Quantity(
        "Sky diffuse irradiance on the plane", "W/m²", "subarray", "sun", _of_plane(lambda p: p.circumsolar * p.lit + p.dome + p.band)
    ),
    "poa_ground": Quantity("Ground-reflected irradiance on the plane", "W/m²", "subarray", "sun", _of_plane(lambda p: p.ground), "albedo"),
    "shaded_fraction": Quantity("Shaded share of the rows", "", "subarray", "haze", _of_plane(lambda p: p.behind * p.shaded)),
    "effective": Quantity("Effective irradiance", "W/m²", "subarray", "sun", lambda r, k: r.whole_year(r.effective[k].mean)),
    "cell_temperature": Quantity("Cell temperature", "°C", "subarray", "loss", _at_night_as_air),
    "string_voltage": Quantity("String voltage", "V", "subarray", "current", lambda r, k: r.whole_year(r.subarray(k).point.voltage), "Vmp"),
    "subarray_current": Quantity(
        "Current of the strings, one inverter", "A", "subarray", "current", lambda r, k: r.whole_year(r.subarray(k).point.current), "Imp"
    ),
    "subarray_power": Quantity(
        "DC power after the cables, one inverter", "W", "subarray", "current", lambda r, k: r.whole_year(r.subarray(k).power)
    ),
    **{
        f"loss_{line.key}": Quantity(line.title, "W", "plant", "loss", _loss(line.key), line.also, is_all_day=line.key == "night_use")
        for line in LINES
        if line.key not in ("transposition", "conversion")
    },
}  # fmt: skip


OF_STORAGE: dict[str, Quantity] = {
    "stored": Quantity("Stored in the battery", "kWh", "plant", "yield", lambda r, _: np.array(r.after.metered.stored), "state of charge, SoC, battery level", is_all_day=True),
    "charge": Quantity("Into the battery", "W", "plant", "sun", lambda r, _: r.after.power("sun_stored") + r.after.power("grid_stored"), "charging power", is_all_day=True),
    "discharge": Quantity("From the battery", "W", "plant", "current", _of_meter("discharge"), "discharging power", is_all_day=True),
}  # fmt: skip


def own_quantities(r: Results) -> dict[str, Quantity]:
    """Quantities of this design's own, by key: its battery, and the demand of each source."""
    found = {} if r.after.storage is None else dict(OF_STORAGE)
    used = r.after.demand
    if used is None:
        return found
    for key in used.by_source:
        source, _, part = key.partition("/")
        title = r.design.demand.sources[source].name
        name = f"demand_{source}" + (f"_{part}" if part else "")
        found[name] = Quantity(
            f"Demand: {title}{f', {part}' if part else ''}", "W", "plant", "current", _of_source(key), "load", is_all_day=True
        )
    return found


def _of_source(key: str) -> Read:
    def read(r: Results, _: int) -> Floats:
        used = r.after.demand
        assert used is not None
        return np.asarray(used.by_source[key] * 1000)

    return read


def quantities_of(r: Results) -> dict[str, Quantity]:
    """Every quantity that a year can be asked for."""
    return QUANTITIES | own_quantities(r)


def told_apart(names: list[str]) -> list[str]:
    """Names of which no two are the same: a repeated one has its number behind it."""
    return [f"{name} ({names[:k].count(name) + 1})" if names.count(name) > 1 else name for k, name in enumerate(names)]


def column_title(subarray: str, key: str, quantity: Quantity) -> str:
    """Title of a quantity's column in a table."""
    unit = f" [{quantity.unit}]" if quantity.unit else ""
    return f"{subarray}: {key}{unit}" if subarray else f"{key}{unit}"
