"""The year in figures; yields and ratios after IEC 61724-1:2021."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from noontide.core.simulation.balance import Balance, MemberYear
from noontide.core.simulation.connection import ConnectionYear
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Annual:
    """Sums, yields and ratios of a simulated year."""

    energy: float  # delivered [kWh]
    monthly_energy: list[float]  # [kWh]
    dc_power: float  # rated, in all [kW]
    ac_power: float  # rated, in all [kW]
    dc_ac_ratio: float
    modules: int
    area: float  # of the modules [m2]
    specific_yield: float  # final yield Yf [kWh/kW]
    reference_yield: float  # Yr [kWh/kW, or hours at 1 kW/m2]
    performance_ratio: float  # Yf / Yr
    monthly_performance_ratio: list[float]
    temperature_corrected_performance_ratio: float
    capacity_factor: float  # of the rated AC power
    horizontal_irradiation: float  # [kWh/m2]
    plane_irradiation: float  # weighted by rated power, horizon included, rows not [kWh/m2]
    clipped_share: float  # of the DC energy
    clipped_hours: float  # with any clipping [h]
    hours_outside_window: float  # of light in which a string's own maximum lies outside [h]
    peak_power: float  # highest AC power delivered [kW]


def annual_of(
    plant: Plant, sky: SunAndWeather, balances: Sequence[Balance], members: Sequence[MemberYear], connection: ConnectionYear
) -> Annual:
    """The figures of a year from the balances of its inverter sets, the years of its sub-arrays and what reaches the meter."""
    hours = sky.hours_per_interval
    dc_power, ac_power = plant.dc_power / 1000, plant.ac_power / 1000
    rated = plant.module_counts * plant.module_powers
    weight = rated / rated.sum()
    plane = sum(w * m.reference for w, m in zip(weight, members, strict=True))
    corrected = float(sum(w * m.corrected.sum() for w, m in zip(weight, members, strict=True)))
    sets = list(zip(plant.counts, balances, strict=True))
    monthly = connection.monthly_delivered
    total, reference = float(monthly.sum()), float(plane.sum())
    specific_yield = total / dc_power
    dc_energy = float(sum(count * balance.dc for count, balance in sets))
    clipping = float(sum(count * balance.clipping for count, balance in sets))
    clips, outside = (reduce(np.logical_or, (getattr(a, field) for a in balances)) for field in ("clips", "outside"))
    return Annual(
        energy=total,
        monthly_energy=monthly.tolist(),
        dc_power=dc_power,
        ac_power=ac_power,
        dc_ac_ratio=dc_power / ac_power,
        modules=round(plant.module_counts.sum()),
        area=plant.area,
        specific_yield=specific_yield,
        reference_yield=reference,
        performance_ratio=specific_yield / reference if reference else 0.0,
        monthly_performance_ratio=np.divide(monthly / dc_power, plane, out=np.zeros(12), where=plane > 0).tolist(),
        temperature_corrected_performance_ratio=specific_yield / corrected if corrected else 0.0,
        capacity_factor=total / (ac_power * sky.intervals * hours),
        horizontal_irradiation=float(sky.ghi.sum() * hours / 1000),
        plane_irradiation=reference,
        clipped_share=clipping / dc_energy if dc_energy else 0.0,
        clipped_hours=float(np.count_nonzero(clips) * hours),
        hours_outside_window=float(np.count_nonzero(outside) * hours),
        peak_power=float(np.max(connection.delivered, initial=0)) / 1000,
    )
