"""A pump that runs by the sun alone: its flow follows the power of each interval along the system curve, and a tank carries the water to its use."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import MONTHS

Floats = NDArray[np.float64]
WATER_DENSITY, GRAVITY = 1000.0, 9.80665  # [kg/m3], [m/s2]
NEWTON_STEPS = 40
LITTLE = 1e-9  # m of head, under which friction alone counts


def flow_of(power: ArrayLike, head: float, friction: float, efficiency: float) -> Floats:
    """The flow that a power lifts against a system curve.

    Parameters
    ----------
    power : array
        Of the motor [kW], 0 or more.
    head : float
        Static [m].
    friction : float
        Of the friction head, H_f = friction Q^2 [m/(m3/h)^2].
    efficiency : float
        Of pump and motor, 0..1.

    Returns
    -------
    array
        [m3/h]; infinite where there is nothing to lift.

    References
    ----------
    Hydraulic power rho g Q H over the efficiency, with H = H_0 + k Q^2: the one real root of a cubic, by Newton's step.
    """
    lifts = np.asarray(power, dtype=float) * 3.6e6 * efficiency / (WATER_DENSITY * GRAVITY)  # m3/h times m
    if friction <= 0:
        return np.where(lifts > 0, np.divide(lifts, head, out=np.full(lifts.shape, np.inf), where=head > 0), 0.0)
    # From above, where the cubic is convex, Newton's steps fall onto the root.
    flow = np.minimum(np.cbrt(lifts / friction), lifts / max(head, LITTLE))
    for _ in range(NEWTON_STEPS):
        step = (head * flow + friction * flow**3 - lifts) / np.maximum(head + 3 * friction * flow**2, 1e-12)
        flow = np.maximum(flow - step, 0.0)
        if np.max(np.abs(step), initial=0.0) < 1e-13 * max(float(flow.max(initial=0.0)), 1e-12):
            break
    return np.asarray(flow)


@dataclass(frozen=True, eq=False)
class DirectPump:
    """What is lifted while the sun shines, into a tank from which each day's water is drawn evenly."""

    power: float  # of the motor [kW]
    allowed: Floats  # share of each interval in which it may run, (intervals,)
    asked: Floats  # water drawn in each interval, (intervals,) [m3]
    tank: Floats  # that it holds, (intervals,) [m3]
    head: float  # [m]
    friction: float  # [m/(m3/h)^2]
    efficiency: float
    per_volume: float  # energy of a cubic metre at the rated flow [kWh/m3]
    hours: float  # length of an interval
    month: NDArray[np.int64]  # of each interval, from 0
    count: float = 1.0  # pumps beside one another, each with its own pipe and tank

    def place(self, surplus: Floats | None = None, prices: Floats | None = None) -> tuple[Floats, float]:
        """Energy that it takes in each interval [kWh], of a surplus of the sun [kWh], and what of its water is missing a year, in energy at the rated flow [kWh]."""
        taken, _, served = self.run(np.zeros(self.asked.size) if surplus is None else np.maximum(surplus, 0.0))
        missing = float(self.asked.sum() - served.sum()) * self.count
        return taken, missing * self.per_volume if missing > 1e-9 * max(float(self.asked.sum()), 1.0) else 0.0

    def told(self, surplus: Floats) -> tuple[str, ...]:
        """In words, what of the water is missing, and in which month most."""
        _, _, served = self.run(np.maximum(surplus, 0.0))
        asked, given = (np.bincount(self.month, weights=values, minlength=12) for values in (self.asked, served))
        missing = np.maximum(asked - given, 0.0)
        if missing.sum() <= 1e-9 * max(float(asked.sum()), 1.0):
            return ()
        worst = int(np.argmax(np.divide(missing, asked, out=np.zeros(12), where=asked > 0)))
        whole, lost = float(asked.sum()) * self.count, float(missing.sum()) * self.count
        return (
            f"{lost:,.0f} of {whole:,.0f} m³ a year cannot be lifted; {MONTHS[worst]} lacks most, {missing[worst] / asked[worst]:.0%} of its water.",
        )

    def run(self, surplus: Floats) -> tuple[Floats, Floats, Floats]:
        """Energy taken [kWh], water lifted and water served [m3], (intervals,) each; the tank of the year's end stands at its beginning."""
        if self.count <= 0:
            nothing = np.zeros(self.asked.size)
            return nothing, nothing, self.asked
        power = np.minimum(surplus / (self.hours * self.count), self.power) * self.allowed
        able = np.minimum(flow_of(power, self.head, self.friction, self.efficiency) * self.hours, 1e12)
        lifted, served = _through_the_tank(able, self.asked, self.tank)
        share = np.divide(lifted, able, out=np.zeros(able.size), where=able > 0)
        return power * share * self.hours * self.count, lifted, served


@njit(cache=True)
def _through_the_tank(able: Floats, asked: Floats, tank: Floats) -> tuple[Floats, Floats]:
    size = able.size
    lifted, served = np.zeros(size), np.zeros(size)
    level = 0.0
    for _ in range(2):  # once more with what the year's end leaves
        for t in range(size):
            # What is drawn in the interval makes room in it.
            lifted[t] = min(able[t], max(tank[t] - level, 0.0) + asked[t])
            level += lifted[t]
            served[t] = min(level, asked[t])
            level -= served[t]
    return lifted, served
