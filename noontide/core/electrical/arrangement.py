"""Spreading modules over inverters: how many inverters, which strings on which tracker."""

from dataclasses import dataclass
from math import ceil, floor

from noontide.core.electrical.datasheets import Inverter, Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, max_power_point, open_circuit_voltage

TYPICAL_RATIO = 1.2  # of DC to AC power, for a first choice


@dataclass(frozen=True)
class Arrangement:
    """Inverters wired alike; `strings` holds modules in a string and strings, tracker by tracker."""

    inverter: Inverter
    count: int
    strings: tuple[tuple[int, int], ...]

    @property
    def modules(self) -> int:
        """Modules in all."""
        return self.count * sum(length * strings for length, strings in self.strings)


def string_lengths(module: Module, inverter: Inverter, coldest: float, hottest_cell: float) -> tuple[int, int]:
    """Fewest and most modules in a string, by the hot working and the cold open-circuit voltage; (1, 0) if none fits."""
    parameters = fit_module(module).parameters
    hot = float(max_power_point(parameters, 1000.0, hottest_cell).voltage)
    cold = float(open_circuit_voltage(circuit(parameters, 1000.0, coldest)))
    fewest = max(ceil(inverter.tracking_minimum / hot), 1)
    most = floor(min(inverter.maximum_dc_voltage, module.maximum_system_voltage) / cold)
    return (fewest, min(most, 60)) if most >= fewest else (1, 0)


def arrange(modules: int, module: Module, inverter: Inverter, coldest: float, hottest_cell: float) -> Arrangement | None:
    """Strings for a number of modules on inverters of one model, as many modules as can be; None if no string fits.

    One string a tracker, as even in length as can be, is tried first; then strings of one length.
    """
    fewest, most = string_lengths(module, inverter, coldest, hottest_cell)
    if most < fewest or modules < fewest:
        return None
    parallel = min(
        floor(inverter.maximum_short_circuit_current / (1.25 * module.isc)),
        max(floor(inverter.maximum_tracker_current / module.imp), 1),
    )
    if parallel < 1:
        return None
    count = max(
        1, ceil(modules * module.power / (1.35 * inverter.ac_power)), ceil(modules * module.power / inverter.maximum_dc_power)
    )
    each = modules // count
    best: tuple[int, tuple[tuple[int, int], ...]] = (-1, ())
    for used in range(1, inverter.trackers + 1):
        short, more = divmod(each, used)
        if fewest <= short and short + bool(more) <= most:
            lengths = [short + 1] * more + [short] * (used - more)
            best = max(best, (each, tuple((length, 1) for length in lengths)), key=lambda option: option[0])
            break
    if best[0] < each:
        for length in range(most, fewest - 1, -1):
            strings = min(each // length, parallel * inverter.trackers)
            if strings and strings * length > best[0]:
                base, more = divmod(strings, inverter.trackers)
                spread = [base + (t < more) for t in range(inverter.trackers)]
                best = (strings * length, tuple((length, n) for n in spread if n))
    return Arrangement(inverter, count, best[1]) if best[1] else None


def choose_inverter(
    modules: int, module: Module, inverters: list[Inverter], coldest: float, hottest_cell: float
) -> Arrangement | None:
    """The arrangement that takes most modules with the fewest inverters, near the usual ratio of DC to AC power."""

    def worth(a: Arrangement) -> tuple[float, ...]:
        ratio = a.modules * module.power / (a.count * a.inverter.ac_power)
        return (-(modules - a.modules) / modules - 0.5 * abs(ratio - TYPICAL_RATIO) - 0.02 * a.count,)

    options = [a for a in (arrange(modules, module, i, coldest, hottest_cell) for i in inverters) if a]
    return max(options, key=worth, default=None)
