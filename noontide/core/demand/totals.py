"""What a list of appliances comes to at once: coincident peak, surge, energy a day and a month, charge at a system voltage."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.demand.sources import Appliances
from noontide.core.hours import DAY, read_hours, share_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class ApplianceTotals:
    """Of the month that asks for most, on the days that ask for most; the margin included."""

    connected: float  # of all appliances at once [W]
    peak: float  # of those whose hours meet [W]
    surge: float  # the peak, and the largest inrush over it [W]
    energy_a_day: tuple[float, ...]  # mean of a week of each month [kWh], (12,)
    energy_ac: float  # of the day, by AC [kWh]
    energy_dc: float
    profile: Floats  # power by minute of the day that asks for most [W], (1440,)

    def charge_a_day(self, voltage: float) -> float:
        """At a system voltage [Ah], of the month that asks for most.

        Raises
        ------
        ValueError
            If the voltage is not above 0.
        """
        if not voltage > 0:
            raise ValueError(f"The system voltage must be above 0 V; it is {voltage:g} V.")
        return max(self.energy_a_day) * 1000 / voltage


def appliance_totals(appliances: Appliances) -> ApplianceTotals:
    """What the rows of a list come to, without a weather year."""
    more = 1 + appliances.margin / 100
    minutes = np.arange(DAY)
    powers = np.zeros((12, 2, DAY))  # by month and kind of day: running [W]
    energies = np.zeros((12, 2, 2))  # by month, kind of day, AC or DC [kWh a day]
    surge = 0.0
    connected = 0.0
    for item in appliances.items.values():
        watts = item.running_power * 1000
        within = share_of(read_hours(item.hours), minutes, 1)
        on = {"every day": (1, 1), "weekdays": (1, 0), "weekends": (0, 1)}[item.days]
        months = [m - 1 for m in item.months]
        for kind, is_on in enumerate(on):
            powers[months, kind] += is_on * watts * (item.use > 0) * within
            energies[months, kind, int(item.current == "DC")] += is_on * watts * item.use * within.sum() / 60 / 1000
        connected += watts
        surge = max(surge, watts * (item.surge - 1))
    means = (5 * energies[:, 0] + 2 * energies[:, 1]) / 7
    worst = np.unravel_index(powers.max(axis=2).argmax(), (12, 2))
    peak = float(powers.max()) * more
    most = int(means.sum(axis=1).argmax())
    return ApplianceTotals(
        connected * more, peak, peak + surge * more, tuple((means.sum(axis=1) * more).tolist()), float(means[most, 0] * more), float(means[most, 1] * more),
        powers[worst] * more,
    )  # fmt: skip
