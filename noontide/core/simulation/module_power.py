"""The stage from light on the cells to the maximum power of one module."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.losses import Models
from noontide.core.electrical.datasheets import Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.module_table import module_maximum, rated_power
from noontide.core.electrical.temperature import HEAT_LOSS, KING, NOCT_RISE, faiman, king, noct_model
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.effective_irradiance import EffectiveIrradiance
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.plane_irradiance import PlaneIrradiance
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]

SINGLE_DIODE = "De Soto, Klein and Beckman (2006), single-diode model"
_TEMPERATURE_SOURCES = {
    "faiman": "Faiman (2008), Progress in Photovoltaics 16, 307-315; De Soto et al. (2006)",
    "noct": "Duffie and Beckman (2013), eq. 23.3.3; De Soto et al. (2006)",
    "king": "King et al. (2004), SAND2004-3535; De Soto et al. (2006)",
}
TEMPERATURE_NAMES = {"faiman": "Faiman", "noct": "NOCT", "king": "King"}


def _temperature_source(models: Models) -> str:
    return _TEMPERATURE_SOURCES[models.temperature]


LOSSES = (
    Loss(
        "conversion", "Converted at rated efficiency", "modules", r"\Delta E = -\bigl(1-\eta_0\bigr)\,A\sum_t G_\mathrm{eff}\,\Delta t",
        "IEC 61724-1:2021, rated efficiency", also="STC efficiency, module efficiency", may_gain=True,
    ),
    Loss(
        "weak_light", "Low irradiance", "modules", r"\Delta E = \sum_t\bigl(P_\mathrm{mpp}(G_\mathrm{eff},25)-P_0\tfrac{G_\mathrm{eff}}{1000}\bigr)\Delta t",
        SINGLE_DIODE, also="low light, weak light, irradiance level", may_gain=True,
    ),
    Loss(
        "temperature", "Cell temperature", "modules", r"\Delta E = \sum_t\bigl(P_\mathrm{mpp}(G_\mathrm{eff},T_c)-P_\mathrm{mpp}(G_\mathrm{eff},25)\bigr)\Delta t",
        _temperature_source, (Setting("/models/temperature"), Setting("/models/wind_factor")), also="thermal loss, gamma, Pmax coefficient, NOCT", may_gain=True,
    ),
)  # fmt: skip


@dataclass(frozen=True)
class ModuleInputs:
    sky: Kept[SunAndWeather]
    plane: Kept[PlaneIrradiance]
    effective: Kept[EffectiveIrradiance]
    module: Module
    mounting: str
    temperature: str  # model
    wind_factor: float


@dataclass(frozen=True)
class ModulePower:
    """One module on a plane, (light,)."""

    cell_temperature: Floats  # [°C]
    power_at_25c: Floats  # maximum power at 25 °C [W]
    maximum: Floats  # maximum power [W]
    voltage: Floats  # at the maximum [V]
    current: Floats  # at the maximum [A]
    rating: float  # from the fitted to the rated power
    monthly_reference: Floats  # (12,) irradiation of a sensor in the plane [kWh/m2]
    monthly_corrected: Floats  # (12,) the same, weighted by what the cells' temperature leaves of the power
    mean_cell_temperature: float  # weighted by irradiance [°C]
    highest_cell_temperature: float  # with light [°C]; -273.15 in a year without any


def operate_module(row: ModuleInputs) -> ModulePower:
    """Cell temperature and maximum power of one module of a kind on a plane."""
    sky, plane, module = row.sky.value, row.plane.value, row.module
    poa = plane.poa
    temperature = _cell_temperature(row, poa, sky)
    parameters = fit_module(module).parameters
    found = module_maximum(parameters, row.effective.value.mean, temperature)
    kilowatt_hours = sky.hours_per_interval / 1000
    corrected = plane.sensor * (1 + module.power_coefficient / 100 * (temperature - 25))
    total = float(poa.sum())
    return ModulePower(
        cell_temperature=temperature,
        power_at_25c=found.power_at_25c,
        maximum=found.hot.power,
        voltage=found.hot.voltage,
        current=found.hot.current,
        rating=module.power / rated_power(parameters),
        monthly_reference=sky.monthly_sums(plane.sensor) * kilowatt_hours,
        monthly_corrected=sky.monthly_sums(corrected) * kilowatt_hours,
        mean_cell_temperature=float(poa @ temperature) / total if total > 0 else 0.0,
        highest_cell_temperature=float(np.max(temperature, initial=-273.15)),
    )


def _cell_temperature(row: ModuleInputs, poa: Floats, sky: SunAndWeather) -> Floats:
    match row.temperature:
        case "faiman":
            return faiman(poa, sky.air_temperature, sky.wind * row.wind_factor, *HEAT_LOSS[row.mounting])
        case "noct":
            return noct_model(poa, sky.air_temperature, row.module.noct + NOCT_RISE[row.mounting], row.module.efficiency)
        case "king":
            return king(poa, sky.air_temperature, sky.wind, *KING[row.mounting])
    raise ValueError(f"there is no temperature model '{row.temperature}'")
