"""From light on the module to power at the meter."""

from noontide.core.electrical.cables import CableChoice, cable_section
from noontide.core.electrical.combined_curve import CombinedCurve, SeriesString, combined_curve
from noontide.core.electrical.datasheets import Catalogue, Inverter, Module
from noontide.core.electrical.finder import Explanation, arrangements, explain
from noontide.core.electrical.fitting import ModuleFit, fit_module
from noontide.core.electrical.inverter import fit_inverter
from noontide.core.electrical.loss_polynomial import weighted_efficiency
from noontide.core.electrical.protection import FuseSizes, fuse_sizes
from noontide.core.electrical.single_diode import MaximumPower, ModuleParameters, max_power_point
from noontide.core.electrical.string_limits import StringLimits, string_limits
from noontide.core.electrical.string_power import string_power

__all__ = [
    "CableChoice",
    "Catalogue",
    "CombinedCurve",
    "Explanation",
    "FuseSizes",
    "Inverter",
    "MaximumPower",
    "Module",
    "ModuleFit",
    "ModuleParameters",
    "SeriesString",
    "StringLimits",
    "arrangements",
    "cable_section",
    "combined_curve",
    "explain",
    "fit_inverter",
    "fit_module",
    "fuse_sizes",
    "max_power_point",
    "string_limits",
    "string_power",
    "weighted_efficiency",
]
