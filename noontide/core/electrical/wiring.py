"""Ohmic loss of cables, DC and AC."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
COPPER_COEFFICIENT = 0.00393  # 1/K at 20 °C, IEC 60028


@dataclass(frozen=True)
class WiredPower:
    """Power at the far end and what the cable kept, both (subarrays, intervals) [W]."""

    power: Floats
    loss: Floats


def wire(current: Floats, voltage: Floats, resistance: Floats, core_temperature: Floats) -> WiredPower:
    """Carry string power through copper cables.

    Parameters
    ----------
    current, voltage : (subarrays, intervals)
        At the strings' end [A], [V].
    resistance : (subarrays,)
        Of each run, there and back, at 20 °C [ohm]; 0 or more.
    core_temperature : (intervals,)
        Of the conductor [°C].

    Raises
    ------
    ValueError
        If a resistance is negative; the message names the sub-array.

    References
    ----------
    IEC 60028, resistance of copper and its linear change with temperature.
    """
    if (negative := np.flatnonzero(resistance < 0)).size:
        first = negative[0]
        raise ValueError(f"resistance must be 0 ohm or more; sub-array {first} has {resistance[first]:g}")
    warm = resistance[:, np.newaxis] * (1 + COPPER_COEFFICIENT * (core_temperature - 20))
    loss = current**2 * warm
    return WiredPower(power=current * voltage - loss, loss=loss)


def wire_ac(power: Floats, rated_power: Floats, share_at_rated: float) -> WiredPower:
    """Carry AC power at constant voltage: a loss with the square of the power, `share_at_rated` of it at `rated_power`.

    Parameters
    ----------
    power : (inverters, intervals)
        [W]; power drawn at night passes the same way.
    rated_power : (inverters,)
        [W].
    share_at_rated : float
        0..1.
    """
    loss = power**2 * (share_at_rated / rated_power[:, np.newaxis])
    return WiredPower(power=power - loss, loss=loss)
