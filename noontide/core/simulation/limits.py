"""The limits of a plant's strings at the site's own extremes."""

from collections import defaultdict
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Inverter, Module
from noontide.core.electrical.string_limits import StringLimits, string_limits
from noontide.core.simulation.balance import MemberYear
from noontide.core.simulation.plant import Plant
from noontide.core.weather.year import Weather


def lowest_temperature_of(design: Design, weather: Weather) -> tuple[float, str]:
    """The air temperature that strings are checked at [°C], and where it comes from."""
    if design.site.lowest_temperature is not None:
        return design.site.lowest_temperature, "set for the site"
    return float(weather.temperature.min()), "lowest of the weather year"


def limits_of_plant(
    design: Design, weather: Weather, plant: Plant, members: Sequence[MemberYear], array_current: float
) -> list[StringLimits]:
    """Limits of the strings of each sub-array at the coldest and the hottest of the site.

    The cold open circuit is taken at full sun with the cells as cold as the air: the strictest usual rule.

    Parameters
    ----------
    members : sequence of MemberYear
        Of each sub-array; their highest cell temperatures count.
    array_current : float
        Factor on Isc of the rule set.
    """
    lowest, _ = lowest_temperature_of(design, weather)
    warmer = 0.0
    if design.site.highest_temperature is not None:
        warmer = design.site.highest_temperature - float(weather.temperature.max())
    # Trackers that are alike have the same limits.
    groups: dict[tuple[str, str, int], list[int]] = defaultdict(list)
    for k, module in enumerate(plant.modules):
        inverter = plant.inverters[plant.inverter_of[k]]
        tracker = plant.subarrays[k].tracker if inverter.tracker_inputs else 1
        groups[module.fingerprint, inverter.fingerprint, tracker].append(k)
    limits: dict[int, StringLimits] = {}
    for (_, _, tracker), alike in groups.items():
        hottest = [max(members[k].highest_cell_temperature, lowest) + warmer for k in alike]
        module, inverter = plant.modules[alike[0]], plant.inverters[plant.inverter_of[alike[0]]]
        each = _limits(module, inverter, lowest, tuple(hottest), tracker, design.losses.voltage_left, array_current)
        limits |= dict(zip(alike, each, strict=True))
    return [limits[k] for k in range(len(plant.modules))]


@lru_cache(maxsize=256)
def _limits(
    module: Module,
    inverter: Inverter,
    lowest: float,
    hottest: tuple[float, ...],
    tracker: int,
    voltage_left: float,
    array_current: float,
) -> tuple[StringLimits, ...]:
    """Remembered: what an edit of prices or of a battery leaves as it was is not found anew."""
    found = string_limits(
        module,
        inverter,
        np.full(len(hottest), lowest),
        np.array(hottest),
        tracker=tracker,
        voltage_left=voltage_left,
        array_current=array_current,
    )
    return tuple(found.each())
