"""Spreading modules over inverters: how many inverters, which strings on which tracker."""

from dataclasses import dataclass
from math import ceil

from noontide.core.electrical.datasheets import Inverter, Module
from noontide.core.electrical.string_limits import string_limits

TYPICAL_RATIO = 1.2  # of DC to AC power, for a first choice
LARGEST_RATIO = 1.35


@dataclass(frozen=True)
class Arrangement:
    """Identical inverters; `strings` holds modules in a string and strings, tracker by tracker."""

    inverter: Inverter
    count: int
    strings: tuple[tuple[int, int], ...]

    @property
    def modules(self) -> int:
        """Modules in all."""
        return self.count * sum(length * strings for length, strings in self.strings)


def arrange(modules: int, module: Module, inverter: Inverter, lowest: float, highest: float) -> Arrangement | None:
    """Strings for a number of modules on inverters of one model, as many modules as possible; None if no string fits.

    One string a tracker, as even in length as can be, is tried first; then strings of one length. `lowest` and `highest`
    are temperatures as for `string_limits`.
    """
    limits = string_limits(module, inverter, lowest, highest)
    if not limits.is_possible or modules < limits.fewest:
        return None
    power = modules * module.power
    count = max(1, ceil(power / (LARGEST_RATIO * inverter.ac_power)), ceil(power / inverter.maximum_dc_power))
    each = modules // count
    best: tuple[int, tuple[tuple[int, int], ...]] = (-1, ())
    for used in range(1, inverter.trackers + 1):
        short, more = divmod(each, used)
        if limits.fewest <= short and short + bool(more) <= limits.most:
            lengths = [short + 1] * more + [short] * (used - more)
            best = (each, tuple((length, 1) for length in lengths))
            break
    if best[0] < each:
        for length in range(limits.most, limits.fewest - 1, -1):
            strings = min(each // length, min(limits.parallel_of) * inverter.trackers)
            if strings and strings * length > best[0]:
                base, more = divmod(strings, inverter.trackers)
                spread = [base + (t < more) for t in range(inverter.trackers)]
                best = (strings * length, tuple((length, n) for n in spread if n))
    return Arrangement(inverter, count, best[1]) if best[1] else None


def choose_inverter(modules: int, module: Module, inverters: list[Inverter], lowest: float, highest: float) -> Arrangement | None:
    """The arrangement that takes most modules with the fewest inverters, near the usual ratio of DC to AC power."""

    def merit(a: Arrangement) -> tuple[float, ...]:
        ratio = a.modules * module.power / (a.count * a.inverter.ac_power)
        return (-(modules - a.modules) / modules - 0.5 * abs(ratio - TYPICAL_RATIO) - 0.02 * a.count,)

    options = [a for a in (arrange(modules, module, i, lowest, highest) for i in inverters if i.kind == "string") if a]
    return max(options, key=merit, default=None)
