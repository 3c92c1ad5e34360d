"""A module in curves: what its datasheet becomes, by light and by temperature."""

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.electrical import Module, fit_module, max_power_point
from noontide.core.electrical.single_diode import ModuleParameters, circuit, current_at, open_circuit_voltage

LIGHTS = (1000.0, 800.0, 600.0, 400.0, 200.0)  # W/m2, at 25 °C
HEATS = (0.0, 25.0, 50.0, 75.0)  # °C, at 1000 W/m2
MAP_LIGHTS = (50.0, 100.0, 200.0, 300.0, 400.0, 500.0, 600.0, 700.0, 800.0, 900.0, 1000.0, 1100.0)
MAP_HEATS = (-10.0, 0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 70.0, 80.0)
POINTS = 61


class ModuleCurve(BaseModel):
    """Current over voltage under one light and one temperature."""

    irradiance: float
    cell_temperature: float
    voltage: list[float]
    current: list[float]
    maximum_voltage: float
    maximum_current: float


class ModulePage(BaseModel):
    """The fit of a module, how well it meets the datasheet, and what follows from it."""

    id: str
    title: str
    light_current: float
    saturation_current: float
    series_resistance: float
    shunt_resistance: float
    ideality: float = Field(description="of a cell")
    power_error: float = Field(description="of the maximum, relative to Vmp Imp")
    voc_coefficient: float
    power_coefficient: float
    findings: list[str]
    low_light: list[tuple[float, float, float]] = Field(
        description="irradiance, share of the rated efficiency by the datasheet and by the fit"
    )
    by_light: list[ModuleCurve]
    by_heat: list[ModuleCurve]
    moment: ModuleCurve | None = Field(None, description="under the light and temperature that were asked for")
    map_lights: list[float]
    map_heats: list[float]
    efficiency: list[list[float]] = Field(description="by temperature and light, of the module's area, 0..1")


def page_of(module: Module, moment: tuple[float, float] | None = None) -> ModulePage:
    """The curves of a module from its datasheet, and one under an irradiance [W/m2] and a cell temperature [°C] of a moment."""
    fit = fit_module(module)
    p = fit.parameters
    lights, heats = np.array(MAP_LIGHTS), np.array(MAP_HEATS)
    power = max_power_point(p, lights[np.newaxis, :], heats[:, np.newaxis]).power
    cell_volt = 8.617333262e-5 * 298.15
    return ModulePage(
        id=module.id,
        title=f"{module.maker} {module.name}",
        light_current=float(p.light_current),
        saturation_current=float(p.saturation_current),
        series_resistance=float(p.series_resistance),
        shunt_resistance=1 / float(p.shunt_conductance),
        ideality=float(p.modified_ideality) / (module.cells_in_series * cell_volt),
        power_error=fit.power_error,
        voc_coefficient=fit.voc_coefficient,
        power_coefficient=fit.power_coefficient,
        findings=list(fit.findings),
        low_light=[(light, share, share + off) for (light, share), off in zip(module.low_light, fit.low_light, strict=True)],
        by_light=[_curve(p, light, 25.0) for light in LIGHTS],
        by_heat=[_curve(p, 1000.0, heat) for heat in HEATS],
        moment=_curve(p, *moment) if moment is not None else None,
        map_lights=list(MAP_LIGHTS),
        map_heats=list(MAP_HEATS),
        efficiency=np.round(power / (lights * module.area), 5).tolist(),
    )


def _curve(parameters: ModuleParameters, irradiance: float, cell_temperature: float) -> ModuleCurve:
    cells = circuit(parameters, irradiance, cell_temperature)
    # Closer together towards the open circuit, where the curve bends.
    voltage = float(open_circuit_voltage(cells)) * (1 - np.linspace(1, 0, POINTS) ** 2)
    top = max_power_point(parameters, irradiance, cell_temperature)
    return ModuleCurve(
        irradiance=irradiance,
        cell_temperature=cell_temperature,
        voltage=np.round(voltage, 3).tolist(),
        current=np.round(np.maximum(current_at(cells, voltage), 0), 4).tolist(),
        maximum_voltage=float(top.voltage),
        maximum_current=float(top.current),
    )
