"""From the figures of a datasheet to the five parameters of the single-diode circuit."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import least_squares

from noontide.core.electrical.datasheets import Module
from noontide.core.electrical.single_diode import (
    BOLTZMANN,
    REFERENCE_TEMPERATURE,
    ModuleParameters,
    circuit,
    max_power_point,
    open_circuit_voltage,
)

# Band gap at 25 °C [eV] and its relative temperature coefficient [1/K]: silicon after De Soto et al. (2006), Table 2
# of the same for the thin films.
BANDGAPS = {
    "mono": (1.121, -0.0002677),
    "poly": (1.121, -0.0002677),
    "CdTe": (1.475, -0.0003),
    "CIGS": (1.15, -0.0003),
    "a-Si": (1.7, -0.0003),
}
IDEALITIES = (0.6, 3.0)  # of a cell
HOPELESS = 1e6
SOLVED = 1e-14  # half the squared misfit at which no further start is tried
LOW_LIGHT = 20.0  # half a per cent at low light counts as much as 0.1 %/K of the Voc coefficient
COLD, WARM = -10.0, 10.0  # K from 25 °C, where the coefficients are taken


@dataclass(frozen=True)
class ModuleFit:
    """Parameters and how well they give the datasheet back."""

    parameters: ModuleParameters
    power_error: float  # of the maximum power, relative
    voc_coefficient: float  # of the fitted module [%/K]
    power_coefficient: float  # of the fitted module [%/K]
    findings: tuple[str, ...]  # what in the datasheet does not agree with itself
    low_light: tuple[float, ...] = ()  # how far each low-light point is off, relative to rated efficiency


@lru_cache(maxsize=512)
def fit_module(datasheet: Module) -> ModuleFit:
    """Parameters that pass through the datasheet's three points, with its maximum where it says.

    Parameters
    ----------
    datasheet : Module

    Returns
    -------
    ModuleFit
        With findings in words where no set of parameters does all that the datasheet says; the three points are
        then kept and the temperature coefficient is given up.

    Notes
    -----
    For a trial of ideality and series resistance, the three points Isc, Voc and MPP are linear equations in IL, I0
    and 1 / Rsh. Left are two conditions, dP/dV = 0 at the MPP and the coefficient of Voc, and two unknowns; they are
    solved within bounds from several starts. Where the datasheet has low-light points, the two unknowns meet them as well as can be,
    the coefficient of Voc giving way first.

    References
    ----------
    De Soto, W., Klein, S. A. and Beckman, W. A. (2006), Solar Energy 80, 78-88, eqs. 18 to 23.
    """
    best = (np.inf, (1.0, 0.0))
    for start in _starts(datasheet):
        best = min(best, _solve(datasheet, start), key=lambda result: result[0])
        if best[0] < SOLVED:
            break
    parameters, findings = _parameters(datasheet, best[1]), []
    if not all(np.isfinite(value) for value in vars(parameters).values()) or parameters.light_current <= 0:
        parameters = _ideal(datasheet)
        findings.append(
            "No single-diode curve passes through the five values; an ideal diode through Isc and Voc is used. Check the datasheet."
        )
    top = max_power_point(parameters, 1000, 25)
    power_error = float(top.power) / (datasheet.vmp * datasheet.imp) - 1
    voc_coefficient, power_coefficient = _coefficients(parameters)
    if abs(power_error) > 0.001 or abs(float(top.voltage) / datasheet.vmp - 1) > 0.005:
        findings.append(
            f"No single-diode curve through Isc {datasheet.isc:g} A and Voc {datasheet.voc:g} V has its maximum at "
            f"{datasheet.vmp:g} V and {datasheet.imp:g} A; the nearest has {float(top.voltage):.2f} V and {float(top.current):.2f} A. "
            "Check the five values against the datasheet."
        )
    if abs(voc_coefficient - datasheet.voc_coefficient) > 0.02:
        findings.append(
            f"The points give a Voc coefficient of {voc_coefficient:.3f} %/K; the datasheet states {datasheet.voc_coefficient:g} %/K."
        )
    if abs(power_coefficient - datasheet.power_coefficient) > 0.04:
        findings.append(
            f"The curve gives a power coefficient of {power_coefficient:.3f} %/K; the datasheet states {datasheet.power_coefficient:g} %/K."
        )
    if abs(datasheet.vmp * datasheet.imp / datasheet.power - 1) > 0.005:
        findings.append(f"Vmp × Imp is {datasheet.vmp * datasheet.imp:.1f} W beside a rated {datasheet.power:g} W.")
    low_light = tuple(_low_light(datasheet, parameters))
    if low_light and max(map(abs, low_light)) > 0.02:
        worst = max(range(len(low_light)), key=lambda i: abs(low_light[i]))
        findings.append(
            f"At {datasheet.low_light[worst][0]:g} W/m² the curve gives {datasheet.low_light[worst][1] + low_light[worst]:.1%} of the rated efficiency; the datasheet states {datasheet.low_light[worst][1]:.1%}."
        )
    return ModuleFit(parameters, power_error, voc_coefficient, power_coefficient, tuple(findings), low_light)


def _low_light(m: Module, parameters: ModuleParameters) -> list[float]:
    """How far the efficiency at each low-light point of a datasheet is off, relative to that at standard test conditions."""
    if not m.low_light:
        return []
    lights = np.array([light for light, _ in m.low_light])
    power = np.asarray(max_power_point(parameters, lights, 25.0).power)
    shares = power / (m.vmp * m.imp) * 1000 / lights
    return (shares - np.array([share for _, share in m.low_light])).tolist()


def _thermal_voltage(m: Module) -> float:
    """Of all cells in series at 25 °C [V]."""
    return m.cells_in_series * BOLTZMANN * REFERENCE_TEMPERATURE


def _starts(m: Module) -> list[tuple[float, float]]:
    largest = _largest_resistance(m)
    return [(ideality, share * largest) for ideality in (0.9, 1.1, 1.4, 1.9) for share in (0.05, 0.3, 0.6)]


def _largest_resistance(m: Module) -> float:
    """Series resistance that would take up all of the voltage between MPP and open circuit [ohm]."""
    return (m.voc - m.vmp) / m.imp


def _linear_part(m: Module, ideality: float, resistance: float) -> tuple[float, float, float, float]:
    """a, IL, I0 and 1 / Rsh through the three points."""
    a = ideality * _thermal_voltage(m)
    inner = np.array([m.isc * resistance, m.voc, m.vmp + m.imp * resistance])
    # I0 is scaled by exp(Voc / a), or the system could not be solved in double precision.
    rush = np.exp(np.minimum((inner - m.voc) / a, 500)) - np.exp(-m.voc / a)
    try:
        light, saturation, conductance = np.linalg.solve(np.stack([np.ones(3), -rush, -inner], axis=1), [m.isc, 0.0, m.imp])
    except np.linalg.LinAlgError:
        return a, np.nan, np.nan, np.nan
    return a, light, saturation * np.exp(-m.voc / a), conductance


def _slope(a: float, i0: float, conductance: float, resistance: float, m: Module) -> float:
    """dP/dV at the datasheet's MPP, over Imp."""
    g = i0 / a * np.exp((m.vmp + m.imp * resistance) / a) + conductance
    return 1 - m.vmp / m.imp * g / (1 + g * resistance)


def _solve(m: Module, start: tuple[float, float]) -> tuple[float, tuple[float, float]]:
    largest = _largest_resistance(m)

    def misfit(x: np.ndarray) -> np.ndarray:
        a, _, i0, conductance = _linear_part(m, x[0], x[1] * largest)
        # A negative shunt conductance is no physical module: it counts against a trial and is taken as none.
        below = min(conductance, 0.0) * m.voc / m.isc
        coefficient = _coefficients(_parameters(m, (x[0], x[1] * largest)))[0]
        trial = np.array(
            [
                10 * _slope(a, i0, conductance, x[1] * largest, m),
                100 * below,
                coefficient - m.voc_coefficient,
                *(LOW_LIGHT * off for off in _low_light(m, _parameters(m, (x[0], x[1] * largest)))),
            ]
        )
        # A trial beyond the numbers of the machine counts as a very bad one.
        return np.nan_to_num(trial, nan=HOPELESS, posinf=HOPELESS, neginf=-HOPELESS)

    found = least_squares(
        misfit,
        (start[0], start[1] / largest),
        bounds=([IDEALITIES[0], 0.0], [IDEALITIES[1], 0.98]),
        xtol=1e-12,
        ftol=1e-12,
        gtol=1e-12,
        x_scale=(0.1, 0.1),
    )
    return float(found.cost), (float(found.x[0]), float(found.x[1]) * largest)


def _parameters(m: Module, trial: tuple[float, float]) -> ModuleParameters:
    a, light, i0, conductance = _linear_part(m, *trial)
    gap, gap_coefficient = BANDGAPS[m.technology]
    return ModuleParameters(
        light_current=light,
        saturation_current=max(i0, 1e-30),
        series_resistance=trial[1],
        shunt_conductance=max(conductance, 1e-7),
        modified_ideality=a,
        isc_coefficient=m.isc_coefficient / 100 * m.isc,
        bandgap=gap,
        bandgap_coefficient=gap_coefficient,
    )


def _ideal(m: Module) -> ModuleParameters:
    """A diode without resistances through Isc and Voc, where nothing better can be had."""
    a = 1.2 * _thermal_voltage(m)
    gap, gap_coefficient = BANDGAPS[m.technology]
    saturation = max(m.isc * np.exp(-min(m.voc / a, 600)), 1e-300)
    return ModuleParameters(m.isc, saturation, 0.0, 1e-7, a, m.isc_coefficient / 100 * m.isc, gap, gap_coefficient)


def _coefficients(parameters: ModuleParameters) -> tuple[float, float]:
    """Relative change of Voc and of the maximum power around 25 °C [%/K]."""
    temperatures = 25 + np.array([COLD, 0.0, WARM])
    voltage = open_circuit_voltage(circuit(parameters, 1000, temperatures))
    power = max_power_point(parameters, 1000, temperatures).power
    # A trial of the fit may give no power at all; it then changes by nothing.
    return tuple(float((v[2] - v[0]) / (WARM - COLD) / max(v[1], 1e-9) * 100) for v in (voltage, power))
