"""Ohmic loss of cables, DC and AC."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# Change of resistance with temperature at 20 °C [1/K]: IEC 60028 for copper, IEC 60889 for aluminium.
COEFFICIENTS = {"copper": 0.00393, "aluminium": 0.00403}
# Rise of the conductor over the air at rated current, by laying method [K]: assumptions of ours for cables sized near their
# voltage-drop limit, well below the 60 K at which a cable is used up.
RISES = {"open air": 15.0, "conduit": 25.0, "buried": 10.0}


@dataclass(frozen=True)
class WiredPower:
    """Power at the far end and what the cable kept, both (intervals,) [W]."""

    power: Floats
    loss: Floats


def conductor_temperature(current: Floats, rated_current: float, air_temperature: Floats, rise: float) -> Floats:
    """Of a cable [°C]: the air and a rise with the square of the load, `rise` [K] at the rated current [A]."""
    return air_temperature + rise * np.square(current / rated_current)


def wire(
    current: Floats, voltage: Floats, resistance: float, core_temperature: Floats, coefficient: float = COEFFICIENTS["copper"]
) -> WiredPower:
    """Carry string power through cables.

    Parameters
    ----------
    current, voltage : any shape
        At the strings' end [A], [V].
    resistance : float or array that broadcasts
        Of the run, there and back, at 20 °C [ohm]; 0 or more.
    core_temperature : any shape
        Of the conductor [°C].
    coefficient : float
        Of the resistance with temperature [1/K].

    Raises
    ------
    ValueError
        If the resistance is negative.

    Notes
    -----
    No more is lost than the string gives: a string whose whole voltage drops in the cable delivers nothing.

    References
    ----------
    IEC 60028, resistance of copper and its linear change with temperature; IEC 60889 for aluminium.
    """
    if np.any(np.asarray(resistance) < 0):
        raise ValueError(f"resistance must be 0 ohm or more; it is {np.min(resistance):g}")
    given = current * voltage
    loss = np.minimum(current**2 * resistance * (1 + coefficient * (core_temperature - 20)), given)
    return WiredPower(power=given - loss, loss=loss)


def wire_ac(power: Floats, rated_power: float, share_at_rated: float) -> WiredPower:
    """Carry AC power at constant voltage: a loss with the square of the power, `share_at_rated` of it at `rated_power`.

    Parameters
    ----------
    power : (intervals,)
        [W]; power drawn at night passes the same way.
    rated_power : float
        [W].
    share_at_rated : float
        0..1.
    """
    loss = power**2 * (share_at_rated / rated_power)
    return WiredPower(power=power - loss, loss=loss)
