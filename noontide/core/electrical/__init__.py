"""From light on the module to power at the meter."""

from noontide.core.electrical.datasheets import Catalogue, Inverter, Module
from noontide.core.electrical.finder import Explanation, arrangements, explain
from noontide.core.electrical.fitting import ModuleFit, fit_module
from noontide.core.electrical.inverter import fit_inverter
from noontide.core.electrical.loss_polynomial import weighted_efficiency
from noontide.core.electrical.single_diode import MaximumPower, ModuleParameters, max_power_point
from noontide.core.electrical.string_limits import StringLimits, string_limits

__all__ = [
    "Catalogue",
    "Explanation",
    "Inverter",
    "MaximumPower",
    "Module",
    "ModuleFit",
    "ModuleParameters",
    "StringLimits",
    "arrangements",
    "explain",
    "fit_inverter",
    "fit_module",
    "max_power_point",
    "string_limits",
    "weighted_efficiency",
]
