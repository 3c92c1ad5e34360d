"""The limits of strings on an inverter: one set of rules for checks, pictures, arrangements and estimates."""

from dataclasses import dataclass, fields
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from noontide.core.electrical.datasheets import Inverter, Module, TrackerInput
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, max_power_point, open_circuit_voltage

SHORT_CIRCUIT_FACTOR = 1.25  # IEC 62548-1
LONGEST = 60  # modules in a string that a design can hold
MOST_PARALLEL = 400
_ROUNDING = 1e-9


@dataclass(frozen=True)
class StringLimits:
    """Voltages and currents of one module at a site's extremes, and what an inverter makes of them.

    Fields that follow from temperatures have the shape of the temperatures; with single temperatures they are numbers.
    """

    lowest: Any  # air temperature [°C]
    highest_cell: Any  # cell temperature [°C]
    cold_voc: Any  # at 1000 W/m2 and the lowest temperature [V]
    cold_vmp: Any  # [V]
    hot_vmp: Any  # at 1000 W/m2 and the highest cell temperature [V]
    hot_voc: Any  # likewise [V]
    maximum_voltage: float  # of inverter or module, the lower [V]
    maximum_of: str  # whose: inverter or module
    fewest: Any  # modules in a string by the MPP window and the start voltage when hot
    window_fewest: Any  # by the MPP window alone
    start_fewest: Any  # by the start voltage alone
    full_power_fewest: Any  # by the full-power voltage when hot
    most: Any  # by the highest DC voltage when cold; under `fewest` where no length fits
    window_most: Any  # by the MPP window when cold
    short_circuit_strings: int  # in parallel, by Isc with the factor of the rule set
    current_strings: int  # in parallel, by Imp
    array_current: float  # factor on Isc of the rule set
    parallel_of: tuple[int, ...]  # strings in parallel that each tracker of the inverter takes

    def each(self) -> list["StringLimits"]:
        """The limits at each of several pairs of temperatures, as plain numbers."""
        columns = [getattr(self, f.name) for f in fields(self)]
        count = np.size(self.lowest)
        plain = [np.ravel(c).tolist() if isinstance(c, np.ndarray | np.generic) else [c] * count for c in columns]
        return [StringLimits(*row) for row in zip(*plain, strict=True)]

    @property
    def is_possible(self) -> Any:
        """Whether any string fits."""
        return (self.most >= self.fewest) & (self.parallel >= 1)

    @property
    def is_by_start(self) -> Any:
        """Whether it is the start voltage, not the MPP window, that asks for the fewest modules."""
        return self.start_fewest > self.window_fewest

    @property
    def parallel(self) -> int:
        """Strings in parallel by both currents."""
        return _by_both(self.short_circuit_strings, self.current_strings)


def string_limits(
    module: Module,
    inverter: Inverter,
    lowest: ArrayLike,
    highest: ArrayLike,
    *,
    tracker: int | None = None,
    voltage_left: float = 1.0,
    array_current: float = SHORT_CIRCUIT_FACTOR,
) -> StringLimits:
    """Limits of strings of a module on an inverter's tracker.

    Parameters
    ----------
    module, inverter
        Datasheets.
    lowest : number or array
        Lowest temperature of the air [°C]; the cells are as cold at sunrise.
    highest : number or array
        Highest temperature of the cells [°C]; broadcast against `lowest`.
    tracker : int, optional
        Whose currents count, from 1; that of the strongest tracker where they differ and none is named.
    voltage_left : float
        Of Vmp after the years of operation; Voc is that of a new module.
    array_current : float
        Factor on Isc of the rule set.

    References
    ----------
    IEC 62548-1: maximum array voltage at the lowest temperature; 1.25 x Isc.

    Notes
    -----
    An inverter starts on the open-circuit voltage of its strings: they must reach its start voltage at the hottest too, or it does not come back
    after an interruption at noon.
    """
    cold, hot = np.broadcast_arrays(np.asarray(lowest, dtype=float), np.asarray(highest, dtype=float))
    parameters = fit_module(module).parameters
    top = max_power_point(parameters, 1000.0, np.stack([cold, hot]).reshape(2, -1)).voltage.reshape(2, *cold.shape)
    voc = cold_open_circuit(module, cold)
    hot_voc = open_circuit_voltage(circuit(parameters, 1000.0, hot)) * voltage_left
    limit, whose = min((inverter.maximum_dc_voltage, "inverter"), (module.maximum_system_voltage, "module"))
    top = np.stack([top[0], top[1] * voltage_left])
    inputs = [inverter.tracker_input(n) for n in ([tracker] if tracker else range(1, inverter.trackers + 1))]
    strongest = max(inputs, key=lambda one: (_by_both(*_by_currents(one, module, array_current)), one.current))
    short_circuit_strings, current_strings = _by_currents(strongest, module, array_current)
    each = [_by_currents(inverter.tracker_input(n), module, array_current) for n in range(1, inverter.trackers + 1)]
    window_fewest, start_fewest = _at_least(inverter.mppt_minimum, top[1]), _at_least(inverter.start_voltage, hot_voc)
    limits = StringLimits(
        lowest=cold,
        highest_cell=hot,
        cold_voc=voc,
        cold_vmp=top[0],
        hot_vmp=top[1],
        hot_voc=hot_voc,
        maximum_voltage=limit,
        maximum_of=whose,
        fewest=np.maximum(window_fewest, start_fewest),
        window_fewest=window_fewest,
        start_fewest=start_fewest,
        full_power_fewest=_at_least(inverter.full_power_minimum, top[1]),
        most=_at_most(limit, voc, LONGEST),
        window_most=_at_most(inverter.mppt_maximum, top[0], LONGEST),
        short_circuit_strings=short_circuit_strings,
        current_strings=current_strings,
        array_current=array_current,
        parallel_of=tuple(_by_both(*strings) for strings in each),
    )
    return limits.each()[0] if cold.ndim == 0 else limits


def cold_open_circuit(module: Module, temperature: ArrayLike) -> Any:
    """Voc of a module at 1000 W/m2 and cell temperatures, for limits [V]: the higher of the single diode and the datasheet's coefficient.

    The fitted curve bends a little below the straight line of the coefficient, which standards prescribe.

    References
    ----------
    IEC 62548-1, maximum PV array voltage: Voc corrected to the lowest temperature by the maker's coefficient.
    """
    cold = np.asarray(temperature, dtype=float)
    single = open_circuit_voltage(circuit(fit_module(module).parameters, 1000.0, cold))
    return np.maximum(single, module.voc * (1 + module.voc_coefficient / 100 * (cold - 25)))


def _by_currents(input: TrackerInput, module: Module, array_current: float) -> tuple[int, int]:
    """Strings in parallel by Isc with the factor of the rule set, and by Imp."""
    short = int(_at_most(input.short_circuit, array_current * module.highest_isc, MOST_PARALLEL))
    return short, int(_at_most(input.current, module.imp, MOST_PARALLEL))


def _by_both(short_circuit_strings: int, current_strings: int) -> int:
    """One string over the operating current is limited by the tracker, not refused."""
    return min(short_circuit_strings, max(current_strings, 1))


def _at_most(limit: float, each: ArrayLike, most: int) -> Any:
    return np.minimum(np.floor(limit / np.maximum(each, 1e-9) + _ROUNDING), most).astype(np.int64)


def _at_least(limit: float, each: ArrayLike) -> Any:
    return np.clip(np.ceil(limit / np.maximum(each, 1e-9) - _ROUNDING), 1, 10 * LONGEST).astype(np.int64)
