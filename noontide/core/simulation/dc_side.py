"""The DC side of an inverter with a battery on it: what the inverter holds back, what it has left to pass, and what others give beside it."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.inverter import fit_inverter
from noontide.core.electrical.loss_polynomial import efficiency_at
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.connection import ConnectionYear
from noontide.core.simulation.grid_power import InverterOutput
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.storage import Battery

Floats = NDArray[np.float64]
USUAL_LOAD = 0.5  # of the rated power, at which an inverter that never runs counts


@dataclass(frozen=True)
class Hybrid:
    """The inverters on whose DC side the battery stands."""

    output: Kept[InverterOutput]  # of one of them
    inverter: Inverter
    count: float


@dataclass(frozen=True)
class DcSideInputs:
    sky: Kept[SunAndWeather]
    hybrid: Hybrid
    connected: Kept[ConnectionYear]  # of all inverters, before an export limit
    power_factor: float
    calendar: Calendar


@dataclass(frozen=True, eq=False)
class DcSide:
    """Powers of all inverters of the set as they would arrive at the meter, (intervals,) [kW]."""

    own: Floats  # delivered
    clipped: Floats  # held back, since the inverter passes no more
    beside: Floats  # delivered by other inverters
    efficiency: float  # from the DC terminals to the meter, the year's mean
    power: float  # that the inverters pass at most [kW]

    def coupled(self, battery: Battery) -> Battery:
        """A battery on this side."""
        return replace(battery, inverter_efficiency=self.efficiency, inverter_power=self.power)

    def aged(self, left: float) -> "DcSide":
        """With a share of the yield that is left: less of it, and of what was held back first."""
        if left == 1:
            return self
        held_back = np.maximum(left * (self.own + self.clipped) - self.own, 0.0)
        clipped = np.where(self.clipped > 0, held_back, 0.0)
        return replace(self, own=left * self.own, clipped=clipped, beside=left * self.beside)


def find_dc_side(inputs: DcSideInputs) -> DcSide:
    """What a battery on the DC side can take, and what of the inverter it can use.

    Notes
    -----
    A kWh that is stored instead of passed is taken at the year's mean efficiency of the inverter and of all that lies between it and the meter;
    what is delivered without the battery stays the chain's own, interval by interval.
    """
    unit, count = inputs.hybrid.inverter, inputs.hybrid.count
    output, year, sky = inputs.hybrid.output.value, inputs.connected.value, inputs.sky.value
    ac = float(output.ac.sum())
    usual = efficiency_at(fit_inverter(unit).coefficients_at(unit.full_power_minimum), USUAL_LOAD)
    converted = ac / (ac + float(output.conversion.sum())) if ac > 0 else float(usual) / 100
    given = np.maximum(output.delivered, 0.0)
    behind = float(given.sum()) / ac if ac > 0 else 1.0
    delivered = np.maximum(year.delivered, 0.0)
    # What came to the board is what is delivered less every change behind it.
    boards = np.maximum(year.delivered - np.asarray(sum(year.changes.values())), 0.0)
    to_meter = float(delivered.sum() / boards.sum()) if boards.sum() > 0 else 1.0
    held_back = output.clipping + output.power_factor_loss + output.derating
    own = np.minimum(given * count * to_meter, delivered)

    def spread(lit: Floats) -> Floats:
        values = np.zeros(inputs.calendar.intervals)
        values[sky.interval_index] = lit / 1000
        return values

    efficiency = min(converted * behind * to_meter, 1.0)
    rated = unit.power_at(inputs.power_factor) * count * behind * to_meter / 1000
    passed = spread(own)
    return DcSide(
        own=passed,
        clipped=spread(np.broadcast_to(held_back * count * efficiency, given.shape)),
        beside=spread(delivered - own),
        efficiency=efficiency,
        power=max(rated, float(passed.max(initial=0.0))),
    )
