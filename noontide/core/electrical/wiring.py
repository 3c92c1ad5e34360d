"""Ohmic loss of cables, DC and AC."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

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


@dataclass(frozen=True)
class CableResistance:
    """A run of cable as a current meets it."""

    at_20: float  # of the whole way at 20 °C, strings in parallel joined [ohm]
    coefficient: float  # of the resistance with temperature [1/K]
    rise: float  # of the conductor at the rated current [K]
    ground: float | None = None  # temperature around a buried cable [°C]; the air's where there is none

    def during(self, load: Floats, air_temperature: ArrayLike) -> Floats:
        """At a share of the rated current and a temperature of the air [°C]: [ohm]."""
        around = air_temperature if self.ground is None else self.ground
        return self.at_20 * (1 + self.coefficient * (around + self.rise * np.square(load) - 20))


def wire_through(
    current: Floats, voltage: Floats, runs: Sequence[CableResistance], rated_current: float, air_temperature: ArrayLike
) -> WiredPower:
    """Carry string power through cables one after another.

    Parameters
    ----------
    current, voltage : (intervals,)
        At the strings' end [A], [V].
    runs
        Each of them.
    rated_current : float
        [A].
    air_temperature : (intervals,) or number
        [°C].

    Notes
    -----
    No more is lost than the strings give.

    References
    ----------
    IEC 60028, IEC 60889: linear change of the resistance with temperature.
    """
    given, load = current * voltage, current / rated_current
    resistance = sum((run.during(load, air_temperature) for run in runs), np.zeros_like(current))
    loss = np.minimum(current**2 * resistance, given)
    return WiredPower(power=given - loss, loss=loss)


@dataclass(frozen=True)
class AcCableLoss:
    """What an AC cable loses, by the square of the active power that it carries."""

    per_square: float  # at 20 °C [1/W]
    rated_power: float  # [W]
    coefficient: float = 0.0  # of the resistance with temperature [1/K]; none where only a share is known
    rise: float = 0.0  # of the conductor at rated power [K]
    ground: float | None = None  # temperature around a buried cable [°C]; the air's where there is none

    @classmethod
    def of_share(cls, share: float, rated_power: float) -> "AcCableLoss":
        """That loses a share (0..1) of the power at rated power [W]."""
        return cls(share / rated_power, rated_power)

    def during(self, power: Floats, air_temperature: ArrayLike) -> Floats:
        """Loss at powers [W] and temperatures of the air [°C]; never more than is carried."""
        around = air_temperature if self.ground is None else self.ground
        warm = 1 + self.coefficient * (around + self.rise * np.square(power / self.rated_power) - 20) if self.coefficient else 1.0
        return np.minimum(power**2 * self.per_square * warm, np.maximum(np.abs(power), 0))


@dataclass(frozen=True)
class FourWireLoss:
    """What a cable with three phases and neutral loses, by the power on each phase."""

    conductor: CableResistance  # of one along the run, the neutral like the others
    voltage: float  # phase to neutral, times the power factor [V]
    rated_current: float  # of the phase that carries most [A]

    def during(self, powers: Floats, air_temperature: ArrayLike) -> Floats:
        """Loss at the powers of the phases, (3, intervals) [W], and temperatures of the air [°C]; never more than is carried."""
        current = powers / self.voltage
        resistance = self.conductor.during(np.abs(current).max(axis=0) / self.rated_current, air_temperature)
        return np.minimum(resistance * squares_with_neutral(current), np.abs(powers).sum(axis=0))


def squares_with_neutral(currents: Floats) -> Floats:
    """Squares of the currents of three phases, (3, ...), and of the neutral between them, added up.

    Notes
    -----
    Currents of one power factor, a third of a turn apart: the square of the neutral's is the sum of the squares less that of the products of
    each two. A plant on one phase has the same current in two conductors, a balanced one none in the neutral.
    """
    squares, total = np.square(currents).sum(axis=0), currents.sum(axis=0)
    return squares + np.maximum(1.5 * squares - 0.5 * np.square(total), 0.0)


def wire_ac(power: Floats, cable: AcCableLoss, air_temperature: ArrayLike = 20.0) -> WiredPower:
    """Carry AC power at constant voltage; power drawn at night passes the same way.

    Parameters
    ----------
    power : (intervals,)
        [W].
    cable : AcCableLoss
    air_temperature : (intervals,) or number
        [°C].
    """
    loss = cable.during(power, air_temperature)
    return WiredPower(power=power - loss, loss=loss)
