"""The maximum power of a module over irradiance at 25 °C, tabulated once; a year of any plane starts from it."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.single_diode import (
    MaximumPower,
    ModuleParameters,
    circuit,
    first_guess,
    max_power_of,
)

Floats = NDArray[np.float64]
HIGHEST = 2000.0  # W/m2; light beyond it is solved directly
PIECE = 2**16  # intervals that are worked on at once, to keep the interim values of a year of minutes small
POINTS = 8001
WARMER = 25.0  # K, over which the start is taken to change evenly


@dataclass(frozen=True)
class ModuleTable:
    """Over even steps of the square root of the irradiance, where power is nearly a parabola; (points,)."""

    power: Floats  # at 25 °C [W]
    above_guess: Floats  # of the diode's voltage at the maximum over its first guess, in units of the ideality
    warming: Floats  # how much that grows with the temperature [1/K]
    power_rises: Floats  # from each point to the next
    guess_rises: Floats
    warming_rises: Floats


@dataclass(frozen=True)
class ModuleMaximum:
    """Maximum power of a module, in the shape of the irradiance."""

    power_at_25c: Floats  # at 25 °C [W]
    hot: MaximumPower  # at the cells' own temperature


def module_maximum(parameters: ModuleParameters, irradiance: Floats, cell_temperature: Floats) -> ModuleMaximum:
    """Maximum power at 25 °C and at the cells' temperature.

    Parameters
    ----------
    parameters : ModuleParameters
        Of one module.
    irradiance, cell_temperature : (intervals,)
        Effective irradiance [W/m2], cell temperature [°C].

    Notes
    -----
    Power at 25 °C is read from a table to 1e-5 W; the other is solved, from a start that the table puts so close to the root that one
    step of Newton's method is enough.
    """
    if irradiance.size > PIECE:
        pieces = [slice(start, start + PIECE) for start in range(0, irradiance.size, PIECE)]
        found = [module_maximum(parameters, irradiance[piece], cell_temperature[piece]) for piece in pieces]
        hot = zip(*((one.hot.power, one.hot.voltage, one.hot.current) for one in found), strict=True)
        return ModuleMaximum(
            np.concatenate([one.power_at_25c for one in found]), MaximumPower(*(np.concatenate(parts) for parts in hot))
        )
    table = _table(parameters)
    place = np.sqrt(np.minimum(np.maximum(irradiance, 0), HIGHEST)) * ((POINTS - 1) / np.sqrt(HIGHEST))
    low = np.minimum(place.astype(np.int64), POINTS - 2)
    part = place - low

    def read(values: Floats, rises: Floats) -> Floats:
        return values[low] + part * rises[low]

    power_at_25c = read(table.power, table.power_rises)
    beyond = irradiance > HIGHEST
    if beyond.any():
        power_at_25c[beyond] = max_power_of(circuit(parameters, irradiance[beyond], 25.0)).power
    above_guess = read(table.above_guess, table.guess_rises) + read(table.warming, table.warming_rises) * (cell_temperature - 25)
    return ModuleMaximum(power_at_25c, max_power_of(circuit(parameters, irradiance, cell_temperature), above_guess))


@lru_cache(maxsize=256)
def rated_power(parameters: ModuleParameters) -> float:
    """Maximum power at standard test conditions [W]."""
    return float(max_power_of(circuit(parameters, 1000.0, 25.0)).power)


@lru_cache(maxsize=64)
def _table(parameters: ModuleParameters) -> ModuleTable:
    irradiance = np.linspace(0, np.sqrt(HIGHEST), POINTS) ** 2
    power, above = _start_at(parameters, irradiance, 25.0)
    warming = (_start_at(parameters, irradiance, 25.0 + WARMER)[1] - above) / WARMER
    return ModuleTable(power, above, warming, np.diff(power), np.diff(above), np.diff(warming))


def _start_at(parameters: ModuleParameters, irradiance: Floats, cell_temperature: float) -> tuple[Floats, Floats]:
    """Maximum power [W], and how far the diode's voltage at it lies above the first guess."""
    cells = circuit(parameters, irradiance, cell_temperature)
    found = max_power_of(cells)
    diode = found.voltage + found.current * parameters.series_resistance
    above = (diode - first_guess(cells)[0]) / cells.ideality
    above[0] = above[1]
    return found.power, above
