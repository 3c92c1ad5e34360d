"""The medium-voltage cable that goes from station to station, and from the last one to the grid."""

from dataclasses import dataclass
from math import sqrt

from noontide.core.electrical.cables import RESISTANCES, Conductor
from noontide.core.electrical.wiring import COEFFICIENTS, AcCableLoss

# Ampacity of three single-core cables with XLPE in trefoil, in the ground, by section [mm2] and conductor [A]: IEC 60502-2, annex B, at 20 °C of
# the ground, 0.8 m deep, 1.5 K m/W.
AMPACITIES: dict[str, dict[float, float]] = {
    "copper": {25: 140, 35: 166, 50: 196, 70: 239, 95: 285, 120: 323, 150: 361, 185: 406, 240: 469, 300: 526},
    "aluminium": {25: 108, 35: 129, 50: 152, 70: 186, 95: 221, 120: 252, 150: 281, 185: 317, 240: 367, 300: 414},
}
SECTIONS = tuple(AMPACITIES["copper"])
LARGEST = {"copper": 0.0601, "aluminium": 0.100}  # resistance of 300 mm2 at 20 °C, IEC 60228 [ohm/km]
GROUND = 20.0  # [°C]
HOTTEST = 90.0  # of the conductor, at its ampacity [°C]


@dataclass(frozen=True)
class CollectorCable:
    """A cable with its section, and what it carries between the last station and the grid."""

    section: float  # [mm2]
    material: Conductor
    ampacity: float  # [A]
    current: float  # [A]
    loss: AcCableLoss  # by the power of all stations

    @property
    def serves(self) -> bool:
        return self.current <= self.ampacity * (1 + 1e-9)


def squares_along(stations: int) -> float:
    """Square of the currents along a line of stations over the square of their sum: each piece carries what the stations before it give.

    Pieces of one length, the last of which goes to the grid: the sum of k² / n² over k = 1 to n is (n + 1)(2n + 1) / 6n.
    """
    return (stations + 1) * (2 * stations + 1) / (6 * stations)


def collector_cable(
    power: float, voltage: float, power_factor: float, stations: int, length: float, material: Conductor, section: float | None
) -> CollectorCable:
    """The section that carries all stations, or the one that is set, with what it loses.

    Parameters
    ----------
    power : float
        Of all stations at their largest [W].
    voltage : float
        Phase to phase [V].
    length : float
        From one station to the next, and from the last to the grid [m].
    section : float, optional
        [mm2]; one that is not made counts as the next smaller one.

    References
    ----------
    IEC 60228 (resistance), IEC 60502-2, annex B (ampacity).
    """
    current = power / (sqrt(3) * voltage * power_factor)
    made = AMPACITIES[material]
    if section is None:
        chosen = next((size for size in SECTIONS if made[size] >= current * (1 - 1e-9)), SECTIONS[-1])
    else:
        chosen = max((size for size in SECTIONS if size <= section), default=SECTIONS[0])
    resistance = RESISTANCES[material].get(chosen, LARGEST[material]) * length / 1000 * squares_along(stations)
    rise = (HOTTEST - GROUND) * (current / made[chosen]) ** 2
    loss = AcCableLoss(resistance / (voltage * power_factor) ** 2, max(power, 1.0), COEFFICIENTS[material], rise, GROUND)
    return CollectorCable(chosen, material, made[chosen], current, loss)
