"""The power of one string whose cell groups are lit unequally: its global maximum inside a tracker's window."""

import numpy as np
from numba import njit
from numpy.typing import ArrayLike, NDArray

from noontide.core.electrical.datasheets import Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.shaded_strings import DIODE_DROP
from noontide.core.electrical.single_diode import circuit

Floats = NDArray[np.float64]
SAME = 1e-9  # of the light current: groups that differ by less are one
GOLDEN_STEPS = 22
HALVINGS = 50


@njit(cache=True, nogil=True)
def voltage_of(current, light, saturation, resistance, conductance, ideality):  # type: ignore[no-untyped-def]
    """Of a whole module at a current, negative beyond what its light makes."""
    missing = light - current
    if missing <= 0:
        if conductance <= 0:
            return -np.inf
        return missing / conductance - current * resistance
    u = ideality * np.log1p(missing / saturation)
    for _ in range(30):
        rush = saturation * np.expm1(u / ideality)
        step = (missing - rush - u * conductance) / ((rush + saturation) / ideality + conductance)
        u += step
        if abs(step) < 1e-7 * ideality:
            break
    return u - current * resistance


@njit(cache=True, nogil=True)
def _string_voltage(current, levels, counts, number, drop):  # type: ignore[no-untyped-def]
    total = 0.0
    for k in range(number):
        v = voltage_of(current, levels[k, 0], levels[k, 1], levels[k, 2], levels[k, 3], levels[k, 4])
        total += counts[k] * max(v, -drop)
    return total


@njit(cache=True, nogil=True)
def _current_at(voltage, levels, counts, number, drop, high):  # type: ignore[no-untyped-def]
    """The current at which a string has a voltage, up to `high`."""
    if _string_voltage(high, levels, counts, number, drop) >= voltage:
        return high
    low = 0.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if _string_voltage(middle, levels, counts, number, drop) >= voltage:
            low = middle
        else:
            high = middle
    return low


@njit(cache=True, nogil=True)
def _maximum(levels, counts, number, drop, lowest, highest):  # type: ignore[no-untyped-def]
    """Highest power of a string between two voltages; levels by falling light."""
    most = levels[0, 0]
    if most <= 1e-9 or _string_voltage(0.0, levels, counts, number, drop) < lowest:
        return 0.0
    end = _current_at(max(lowest, 0.0), levels, counts, number, drop, most)
    start = 0.0
    if _string_voltage(0.0, levels, counts, number, drop) > highest:
        start = _current_at(highest, levels, counts, number, drop, most)
    best = 0.0
    golden = 0.6180339887498949
    for k in range(number - 1, -1, -1):
        low = start if k == number - 1 else max(levels[k + 1, 0] + levels[k + 1, 3] * drop, start)
        high = min(levels[k, 0] + levels[k, 3] * drop if k else most, end)
        if high <= low:
            continue
        if high * _string_voltage(low, levels, counts, number, drop) <= best:
            continue
        a, b = low, high
        c, d = b - golden * (b - a), a + golden * (b - a)
        pc, pd = c * _string_voltage(c, levels, counts, number, drop), d * _string_voltage(d, levels, counts, number, drop)
        for _ in range(GOLDEN_STEPS):
            if pc > pd:
                b, d, pd = d, c, pc
                c = b - golden * (b - a)
                pc = c * _string_voltage(c, levels, counts, number, drop)
            else:
                a, c, pc = c, d, pd
                d = a + golden * (b - a)
                pd = d * _string_voltage(d, levels, counts, number, drop)
        best = max(
            best,
            pc,
            pd,
            low * _string_voltage(low, levels, counts, number, drop),
            high * _string_voltage(high, levels, counts, number, drop),
        )
    return best


@njit(cache=True, nogil=True)
def _run(light, saturation, resistance, conductance, ideality, drop, share, lowest, highest, out):  # type: ignore[no-untyped-def]
    groups, intervals = light.shape
    levels, counts = np.empty((groups, 5)), np.empty(groups)
    for t in range(intervals):
        order = np.argsort(-light[:, t])
        number = 0
        for i in range(groups):
            g = order[i]
            if number:
                k = number - 1
                if (
                    abs(levels[k, 0] - light[g, t]) <= SAME * levels[0, 0]
                    and levels[k, 1] == saturation[g, t]
                    and levels[k, 4] == ideality[g, t]
                ):
                    counts[k] += share
                    continue
            levels[number, 0], levels[number, 1], levels[number, 2] = light[g, t], saturation[g, t], resistance[g, t]
            levels[number, 3], levels[number, 4] = conductance[g, t], ideality[g, t]
            counts[number] = share
            number += 1
        out[t] = _maximum(levels, counts, number, drop, lowest[t], highest[t])


def string_power(
    irradiances: ArrayLike,
    module: Module,
    cell_temperature: ArrayLike,
    window: tuple[ArrayLike, ArrayLike] = (0.0, np.inf),
) -> Floats | float:
    """Power of one string at its global maximum inside a tracker's window.

    Parameters
    ----------
    irradiances : (groups, intervals), (groups, halves, intervals) or (groups,)
        Effective irradiance on every cell group in series, one bypass diode each, module after module [W/m2]; the groups of half-cut
        modules have their halves in parallel.
    module : Module
        Of which the string is made; its bypass diodes say how many groups a module has.
    cell_temperature : broadcasts to (groups, intervals)
        [°C]
    window : (lowest, highest)
        Voltage that the tracker can hold [V], numbers or (intervals,).

    Returns
    -------
    (intervals,), or a number
        [W]; 0 where the string cannot reach the window.

    Raises
    ------
    ValueError
        If an irradiance is negative or not a number, or the groups are no whole number of modules.

    Notes
    -----
    The single-diode curve of every group (De Soto et al. 2006) in series, none below the drop of its diode (0.5 V). Between the currents
    at which one more group is bypassed the power has one maximum; each is searched by golden section. Halves in parallel count with
    their mean irradiance.
    """
    light = np.asarray(irradiances, dtype=float)
    is_scalar = light.ndim == 1
    if is_scalar:
        light = light[:, np.newaxis]
    if light.ndim == 3:
        light = light.mean(axis=1)
    if light.ndim != 2 or not len(light):
        raise ValueError(f"irradiances are (groups, intervals) or (groups, halves, intervals), not {np.shape(irradiances)}")
    if not np.isfinite(light).all() or (light < 0).any():
        raise ValueError("an irradiance is negative or not a number")
    diodes = module.bypass_diodes
    if len(light) % diodes:
        raise ValueError(f"{len(light)} cell groups are no whole number of modules: each has {diodes}")
    temperature = np.broadcast_to(np.asarray(cell_temperature, dtype=float), light.shape)
    cells = circuit(fit_module(module).parameters, light, temperature)
    fields = [np.ascontiguousarray(np.broadcast_to(v, light.shape), dtype=float) for v in vars(cells).values()]
    lowest, highest = (np.ascontiguousarray(np.broadcast_to(np.asarray(w, dtype=float), light.shape[1:])) for w in window)
    out = np.zeros(light.shape[1])
    _run(*fields, diodes * DIODE_DROP, 1 / diodes, lowest, highest, out)
    return float(out[0]) if is_scalar else out
