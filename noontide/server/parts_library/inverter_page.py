"""An inverter in curves: efficiency by load and voltage, its window, and what heat and height leave of its power."""

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.electrical import Inverter, fit_inverter, weighted_efficiency
from noontide.core.electrical.loss_polynomial import CALIFORNIAN, efficiency_at

LOADS = (0.02, 0.03, 0.05, 0.075, 0.1, 0.15, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
HEATS = tuple(range(20, 81, 2))  # °C
HEIGHTS = tuple(range(0, 5001, 250))  # m


class EfficiencyLine(BaseModel):
    """Efficiency at one input voltage."""

    voltage: float
    efficiency: list[float] = Field(description="at each load [%]")
    european: float
    californian: float
    points: list[tuple[float, float]] = Field(description="of the datasheet: share of rated power and efficiency [%]")
    worst: float = Field(description="largest difference of a point from the curve [percentage points]")


class InverterPage(BaseModel):
    id: str
    title: str
    kind: str
    loads: list[float]
    lines: list[EfficiencyLine]
    is_from_points: bool = Field(description="fitted to efficiency points; else to the peak and the European value")
    no_load: float = Field(description="loss without output [W]")
    start: float
    lowest: float
    full_power: float
    highest: float
    maximum: float
    heats: list[float]
    by_heat: list[float] = Field(description="of rated power at sea level, 0..1")
    heights: list[float]
    by_height: list[float] = Field(description="of rated power in cool air, 0..1")
    has_derating: bool


def page_of(inverter: Inverter) -> InverterPage:
    """The curves of an inverter from its datasheet."""
    polynomial = fit_inverter(inverter)
    loads = np.array(LOADS)
    curves = sorted(inverter.efficiency, key=lambda curve: curve.voltage)
    lines = []
    for n, (voltage, k) in enumerate(zip(polynomial.voltages, polynomial.coefficients, strict=True)):
        points = list(curves[n].points) if curves else []
        worst = max((abs(efficiency_at(k, np.array([load]))[0] - efficiency) for load, efficiency in points), default=0.0)
        lines.append(
            EfficiencyLine(
                voltage=voltage if curves else (inverter.full_power_minimum + inverter.mppt_maximum) / 2,
                efficiency=np.round(efficiency_at(k, loads), 3).tolist(),
                european=weighted_efficiency(k),
                californian=weighted_efficiency(k, CALIFORNIAN),
                points=points,
                worst=float(worst),
            )
        )
    derating = inverter.derating
    ones = [1.0] * len(HEATS)
    return InverterPage(
        id=inverter.id,
        title=f"{inverter.maker} {inverter.name}",
        kind=inverter.kind,
        loads=list(LOADS),
        lines=lines,
        is_from_points=bool(curves),
        no_load=polynomial.coefficients[0][0] * inverter.ac_power,
        start=inverter.start_voltage,
        lowest=inverter.mppt_minimum,
        full_power=inverter.full_power_minimum,
        highest=inverter.mppt_maximum,
        maximum=inverter.maximum_dc_voltage,
        heats=[float(heat) for heat in HEATS],
        by_heat=derating.share(np.array(HEATS), 0.0).tolist() if derating else ones,
        heights=[float(height) for height in HEIGHTS],
        by_height=[float(derating.share(-20.0, height)) if derating else 1.0 for height in HEIGHTS],
        has_derating=derating is not None,
    )
