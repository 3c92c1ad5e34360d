"""The single-diode equivalent circuit and its maximum power point.

The curve is walked by the voltage over the diode, u = V + I Rs, in which current, voltage and power are explicit:
I(u) = IL - I0 (exp(u / a) - 1) - u / Rsh and V(u) = u - I(u) Rs.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
REFERENCE_TEMPERATURE = 298.15  # K
BOLTZMANN = 8.617333262e-5  # eV/K
LONG_ROW = 1000  # values; what is shorter is walked at once
ITERATIONS = 50
CLOSE = 0.02  # of the ideality
NEAR = 1e-6  # of the ideality: Newton's method squares it, so that the step after it is at rounding
DARK = 1e-9  # A of light current, below which a module gives nothing


@dataclass(frozen=True)
class ModuleParameters:
    """Five parameters at standard test conditions, and how they change; floats, or arrays (subarrays, 1)."""

    light_current: ArrayLike  # IL [A]
    saturation_current: ArrayLike  # I0 [A]
    series_resistance: ArrayLike  # Rs [ohm]
    shunt_conductance: ArrayLike  # 1 / Rsh [S]
    modified_ideality: ArrayLike  # a = n Ns k T / q [V]
    isc_coefficient: ArrayLike  # of the light current [A/K]
    bandgap: ArrayLike = 1.121  # at 25 °C [eV]
    bandgap_coefficient: ArrayLike = -0.0002677  # relative [1/K]


@dataclass(frozen=True)
class Circuit:
    """The five parameters at given irradiance and temperature, broadcast."""

    light_current: Floats
    saturation_current: Floats
    series_resistance: Floats
    shunt_conductance: Floats
    ideality: Floats


@dataclass(frozen=True)
class MaximumPower:
    """The maximum power point [W], [V], [A], in the shape of irradiance and temperature."""

    power: Floats
    voltage: Floats
    current: Floats


def circuit(parameters: ModuleParameters, irradiance: ArrayLike, cell_temperature: ArrayLike) -> Circuit:
    """Parameters at an effective irradiance [W/m2] and a cell temperature [°C].

    References
    ----------
    De Soto, W., Klein, S. A. and Beckman, W. A. (2006), Solar Energy 80, 78-88, eqs. 5, 7 to 12; their air mass
    modifier is taken as 1.
    """
    p = parameters
    suns = np.maximum(np.asarray(irradiance, dtype=float), 0) / 1000
    kelvin = np.asarray(cell_temperature, dtype=float) + 273.15
    warmer = kelvin - REFERENCE_TEMPERATURE
    ratio = kelvin / REFERENCE_TEMPERATURE
    gap = p.bandgap * (1 + p.bandgap_coefficient * warmer)
    growth = ratio * ratio * ratio * np.exp((p.bandgap / REFERENCE_TEMPERATURE - gap / kelvin) / BOLTZMANN)
    return Circuit(
        light_current=suns * (p.light_current + np.asarray(p.isc_coefficient) * warmer),
        saturation_current=p.saturation_current * growth,
        series_resistance=np.asarray(p.series_resistance, dtype=float),
        shunt_conductance=np.asarray(p.shunt_conductance) * suns,
        ideality=np.asarray(p.modified_ideality) * ratio,
    )


def max_power_point(parameters: ModuleParameters, irradiance: ArrayLike, cell_temperature: ArrayLike) -> MaximumPower:
    """Where a module gives most.

    Parameters
    ----------
    parameters : ModuleParameters
    irradiance, cell_temperature : any shapes that broadcast
        Effective irradiance [W/m2], cell temperature [°C]. No light gives zeros.

    Notes
    -----
    dP/du = 0 by Newton's method from the ideal diode's own maximum; the power is concave in u there, and the
    residual after convergence is at rounding. The circuit is that of De Soto et al. (2006).
    """
    return max_power_of(circuit(parameters, irradiance, cell_temperature))


def max_power_of(c: Circuit, above_guess: Floats | None = None) -> MaximumPower:
    """The maximum power point of circuits.

    `above_guess` is a better start: the diode's voltage over `first_guess`, in units of the ideality, (intervals,).

    dP/du = 0 is (I0/a exp(u/a) + 1/Rsh) (u - 2 I Rs) = I; its logarithm is nearly straight in u, so that Newton's
    method has one to three steps to go. Each long row is walked on its own, to stay in the processor's cache.
    """
    shape = np.broadcast_shapes(*(np.shape(value) for value in vars(c).values()))
    if len(shape) == 1 or above_guess is not None:
        return MaximumPower(*_walk(c, above_guess))
    power, voltage, current = (np.empty(shape) for _ in range(3))
    rows = shape[0] if len(shape) > 1 and power.size > LONG_ROW else 1
    fields = {
        name: np.broadcast_to(value, shape).reshape(rows, -1) if shape else np.reshape(value, (1, 1))
        for name, value in vars(c).items()
    }
    out = [a.reshape(rows, -1) if shape else a.reshape(1, 1) for a in (power, voltage, current)]
    for row in range(rows):
        # Resistance and ideality are mostly one number in a row; as such they cost nothing to carry.
        one = {name: value[row, :1] if value.strides[1] == 0 else value[row] for name, value in fields.items()}
        out[0][row], out[1][row], out[2][row] = _walk(Circuit(**one))
    return MaximumPower(power, voltage, current)


def first_guess(c: Circuit) -> tuple[Floats, Floats]:
    """Voltage over the diode at the maximum of the ideal diode, and the highest that it can be [V]."""
    dark = c.light_current <= DARK
    light = np.where(dark, 1.0, c.light_current) if dark.any() else c.light_current
    # u / a = W(e (IL / I0 + 1)) - 1, W by its expansion for large arguments.
    x = 1 + np.log(light / c.saturation_current + 1)
    top = c.ideality * (x - 1)
    return top - c.ideality * x * np.log(x) / (1 + x), top


def _walk(c: Circuit, above_guess: Floats | None = None) -> tuple[Floats, Floats, Floats]:
    """Power, voltage and current at the maximum of circuits in a row, (intervals,)."""
    dark = c.light_current <= DARK
    light = np.where(dark, 1.0, c.light_current) if dark.any() else c.light_current
    a, rs, g, i0 = c.ideality, c.series_resistance, c.shunt_conductance, c.saturation_current
    guess, top = first_guess(c)
    each, most = 1 / a, light + i0
    u = np.minimum(np.maximum(guess if above_guess is None else guess + a * above_guess, 0.3 * top), top)
    for _ in range(ITERATIONS):
        share = u * each
        rush = i0 * np.exp(share)
        current = most - rush - u * g
        slope = -rush * each - g
        reach = np.maximum(u - current * (2 * rs), 1e-3 * top)
        pull = current / reach
        ratio = np.maximum(pull - g, 1e-9 * light / top)
        bend = (slope - pull * (1 - slope * (2 * rs))) / (reach * ratio)
        step = (share - np.log(a * ratio / i0)) / (each - bend)
        u = np.minimum(np.maximum(u - step, 0.2 * u), top)
        # Newton's method squares the error: after a step of 0.02 it is 1e-5, and the power's is the square of that.
        if np.abs(step * each).max(initial=0) < CLOSE:
            break
    current = most - i0 * np.exp(u * each) - u * g
    voltage = u - current * rs
    for values in (current, voltage):
        np.copyto(values, 0.0, where=dark)
    return voltage * current, voltage, current


def open_circuit_voltage(c: Circuit) -> Floats:
    """Voltage without current [V]; 0 in the dark."""
    light = np.maximum(c.light_current, 0)
    u = c.ideality * np.log1p(light / c.saturation_current)
    for _ in range(ITERATIONS):
        rush = c.saturation_current * np.exp(u / c.ideality)
        step = (light - rush + c.saturation_current - u * c.shunt_conductance) / (rush / c.ideality + c.shunt_conductance)
        u = np.maximum(u + step, 0)
        if np.max(np.abs(step) / c.ideality, initial=0) < NEAR:
            break
    return np.where(light > 0, u, 0.0)


def short_circuit_current(c: Circuit) -> Floats:
    """Current without voltage [A]."""
    return current_at(c, np.zeros_like(c.light_current))


def current_at(c: Circuit, voltage: ArrayLike) -> Floats:
    """Current at a voltage over the terminals [A]; negative beyond the open-circuit voltage.

    Newton's method on V(u) - V = 0, which rises and is convex in u, from a start to the right of the root.
    """
    voltage = np.asarray(voltage, dtype=float)
    u = np.maximum(voltage + c.series_resistance * np.maximum(c.light_current, 0), 0)
    # Far to the right the exponential would overflow: no solution lies beyond the larger of Voc and V, by Rs IL.
    for _ in range(ITERATIONS):
        rush = c.saturation_current * np.exp(np.minimum(u / c.ideality, 500))
        current = c.light_current - rush + c.saturation_current - u * c.shunt_conductance
        step = (u - current * c.series_resistance - voltage) / (
            1 + c.series_resistance * (rush / c.ideality + c.shunt_conductance)
        )
        u = u - step
        if np.max(np.abs(step) / c.ideality, initial=0) < NEAR:
            break
    return _current(c, u)


def voltage_at(c: Circuit, current: ArrayLike) -> Floats:
    """Voltage over the terminals at a current [A]; negative beyond the short-circuit current, where the shunt alone conducts.

    Newton's method on I(u) - I = 0, which falls and is concave in u, from a start to the right of the root.
    """
    current = np.asarray(current, dtype=float)
    return _diode_voltage_at(c, current) - current * c.series_resistance


def voltage_and_slope(c: Circuit, current: Floats) -> tuple[Floats, Floats]:
    """Voltage over the terminals at a current, and how it changes with the current [V], [ohm]."""
    u = _diode_voltage_at(c, current)
    conductance = c.saturation_current * np.exp(u / c.ideality) / c.ideality + c.shunt_conductance
    return u - current * c.series_resistance, -1 / conductance - c.series_resistance


def slope_at(c: Circuit, voltage: Floats, current: Floats) -> Floats:
    """How the current changes with the voltage over the terminals at a point of the curve [S]."""
    u = voltage + current * c.series_resistance
    conductance = c.saturation_current * np.exp(np.minimum(u / c.ideality, 500)) / c.ideality + c.shunt_conductance
    return -conductance / (1 + c.series_resistance * conductance)


def _diode_voltage_at(c: Circuit, current: Floats) -> Floats:
    missing = c.light_current - current
    u = c.ideality * np.log1p(np.maximum(missing, 0) / c.saturation_current)
    for _ in range(ITERATIONS):
        rush = c.saturation_current * np.expm1(u / c.ideality)
        step = (missing - rush - u * c.shunt_conductance) / ((rush + c.saturation_current) / c.ideality + c.shunt_conductance)
        u = u + step
        if np.max(np.abs(step) / c.ideality, initial=0) < NEAR:
            break
    return u


def during(c: Circuit, when: NDArray[np.int64]) -> Circuit:
    """The circuits of some intervals, where fields are (intervals,) or one number."""
    return Circuit(**{name: value[when] if np.size(value) > 1 else value for name, value in vars(c).items()})


def _current(c: Circuit, u: Floats) -> Floats:
    return c.light_current - c.saturation_current * np.expm1(np.minimum(u / c.ideality, 500)) - u * c.shunt_conductance
