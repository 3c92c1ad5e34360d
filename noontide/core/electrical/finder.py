"""Every way to spread modules over the trackers of an inverter, and why a number of modules does not go."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from noontide.core.electrical.datasheets import Inverter, Module
from noontide.core.electrical.string_limits import SHORT_CIRCUIT_FACTOR, StringLimits, string_limits

Lengths = list[list[int]]  # for each tracker the lengths of its strings; an unused tracker has none
MOST = 1000  # arrangements that are listed
NEAREST = 6
# How much counts against an arrangement that all its modules are out of the full-power window, and that one tracker has none of the
# load of another; strings that differ by their whole length count as 1.
OUTSIDE, LOADS = 0.5, 0.25
_ROUNDING = 1e-9


@dataclass(frozen=True)
class Explanation:
    """Whether a number of modules goes on an inverter, and if not, why and what does."""

    number: int
    fits: bool
    reasons: tuple[str, ...]  # in words and figures, empty where it fits
    nearest: tuple[int, ...]  # numbers that go, the nearest first


class _Load(NamedTuple):
    """Identical strings on one tracker."""

    modules: int
    length: int
    strings: int


class _Span(NamedTuple):
    """What the limits of strings leave: lengths, those within the full-power window, and strings in parallel."""

    fewest: int
    most: int
    full_power_fewest: int
    window_most: int
    parallel: int


def arrangements(
    number: int,
    module: Module,
    inverter: Inverter,
    lowest: float,
    highest: float,
    leave_over: int = 0,
    most: int = MOST,
    array_current: float = SHORT_CIRCUIT_FACTOR,
) -> list[Lengths]:
    """Every valid way to spread modules over the trackers of one inverter, best first.

    Parameters
    ----------
    number : int
        Modules, 1 or more.
    module, inverter
        Datasheets.
    lowest, highest : float
        Lowest air and highest cell temperature of the site [°C], as for `string_limits`.
    leave_over : int
        Modules that may stay without a string.
    most : int
        Arrangements that are listed; of more, those whose strings differ least in length.
    array_current : float
        Factor on Isc of the rule set.

    Returns
    -------
    list of arrangements
        Each has a list for each tracker with the lengths of its strings in parallel, such as [[18, 18], [17]]; trackers are
        interchangeable, and stand with most modules first. An unused tracker has an empty list.

    Raises
    ------
    ValueError
        If the number is below 1, or less than none may be left over.

    Notes
    -----
    Valid is what the limits of `string_limits` allow: Voc at the coldest under the maximum voltage, Vmp and Voc at the hottest in the
    tracker's window and over its start voltage, Isc with the factor of the rules and the operating current of parallel strings; strings of one length on a tracker; the inverter's DC power.

    Best is: no module left over, then strings of like length within the full-power window and trackers of like load, then no unused
    tracker and few strings.
    """
    _check(number, leave_over)
    limits = string_limits(module, inverter, lowest, highest, array_current=array_current)
    ceiling = capacity(module, inverter, limits)
    found: list[Lengths] = []
    for wanted in range(number, max(number - leave_over, 1) - 1, -1):
        if wanted > ceiling:
            continue
        found += ways_of(wanted, limits, most - len(found))
        if len(found) >= most:
            break
    return found


def explain(
    number: int,
    module: Module,
    inverter: Inverter,
    lowest: float,
    highest: float,
    leave_over: int = 0,
    array_current: float = SHORT_CIRCUIT_FACTOR,
) -> Explanation:
    """Why a number of modules does not go on one inverter, and the nearest numbers that do; parameters as for `arrangements`."""
    _check(number, leave_over)
    limits = string_limits(module, inverter, lowest, highest, array_current=array_current)
    ceiling = capacity(module, inverter, limits)
    totals = totals_of(limits, ceiling)
    nearest = tuple(sorted(totals, key=lambda n: (abs(n - number), -n))[:NEAREST])
    if totals.intersection(range(max(number - leave_over, 1), number + 1)):
        return Explanation(number, True, (), nearest)
    return Explanation(number, False, tuple(_reasons(number, module, inverter, limits, ceiling)), nearest)


def capacity(module: Module, inverter: Inverter, limits: StringLimits) -> int:
    """Most modules that an inverter takes, by its DC power and by its strings."""
    if not limits.is_possible:
        return 0
    return min(_by_power(module, inverter), sum(limits.parallel_of) * limits.most)


def _by_power(module: Module, inverter: Inverter) -> int:
    """Most modules by the inverter's DC power."""
    return int(inverter.maximum_dc_power / module.power * (1 + _ROUNDING))


def loads_of(arrangement: Lengths) -> list[tuple[int, int, int]]:
    """Like trackers folded: how many of them, strings on each, and modules in a string."""
    seen: dict[tuple[int, int], int] = {}
    for strings in arrangement:
        if strings:
            key = (len(strings), strings[0])
            seen[key] = seen.get(key, 0) + 1
    return [(trackers, strings, length) for (strings, length), trackers in seen.items()]


def _check(number: int, leave_over: int) -> None:
    if number < 1:
        raise ValueError(f"The number of modules must be 1 or more; it is {number}.")
    if leave_over < 0:
        raise ValueError(f"The number of modules left over must be 0 or more; it is {leave_over}.")


def ways_of(number: int, limits: StringLimits, most: int) -> list[Lengths]:
    """Arrangements of exactly a number on the inverter's trackers, best first; those with wider spreads of length only while there is room."""
    if not limits.is_possible or most <= 0:
        return []
    span = _Span(limits.fewest, limits.most, limits.full_power_fewest, limits.window_most, limits.parallel)
    strongest_first = _strongest_first(limits.parallel_of)
    found = _loads_of(number, span, limits.parallel_of, most)
    return [_on_trackers(chosen, limits.parallel_of, strongest_first) for chosen in found]


def _strongest_first(parallel_of: tuple[int, ...]) -> list[int]:
    return sorted(range(len(parallel_of)), key=lambda t: -parallel_of[t])


@lru_cache(maxsize=2048)
def _loads_of(number: int, limits: _Span, parallel_of: tuple[int, ...], most: int) -> tuple[tuple[_Load, ...], ...]:
    """The same as loads; models with the same limits, and searches that come again, share what was found."""
    trackers, strongest_first = len(parallel_of), _strongest_first(parallel_of)
    found: list[tuple[_Load, ...]] = []
    places = sum(parallel_of)
    of_length = {
        length: [_Load(n * length, length, n) for n in range(1, limits.parallel + 1)]
        for length in range(limits.fewest, limits.most + 1)
    }
    for spread in range(limits.most - limits.fewest + 1):
        for shortest in range(limits.fewest, limits.most - spread + 1):
            longest = shortest + spread
            fewest_strings = -(-number // longest)
            if fewest_strings * shortest > number or fewest_strings > places or (spread == 0 and number % shortest):
                continue
            loads = sorted((load for length in range(shortest, longest + 1) for load in of_length[length]), reverse=True)
            for chosen in _multisets(loads, number, trackers):
                used = {load.length for load in chosen}
                # Narrower spreads have been listed already.
                if min(used) == shortest and max(used) == longest and _takes(parallel_of, strongest_first, chosen):
                    found.append(chosen)
                    if len(found) > 4 * most:
                        break
        if len(found) >= most:
            break
    found.sort(key=lambda chosen: _merit(chosen, limits, trackers))
    return tuple(found[:most])


def forget() -> None:
    """Let go of the ways that are remembered for the next search."""
    _loads_of.cache_clear()


def _takes(parallel_of: tuple[int, ...], strongest_first: list[int], chosen: tuple[_Load, ...]) -> bool:
    """Whether each load finds a tracker: the one with most strings on the strongest."""
    strings = sorted((load.strings for load in chosen), reverse=True)
    return all(wanted <= parallel_of[t] for wanted, t in zip(strings, strongest_first, strict=False))


def _on_trackers(chosen: tuple[_Load, ...], parallel_of: tuple[int, ...], strongest_first: list[int]) -> Lengths:
    """Loads on trackers in their order: as they come where the trackers are alike, else most strings on the strongest."""
    loads = [[load.length] * load.strings for load in chosen]
    if len(set(parallel_of)) == 1:
        return loads + [[]] * (len(parallel_of) - len(loads))
    placed: Lengths = [[] for _ in parallel_of]
    for strings, tracker in zip(
        sorted(loads, key=lambda strings: (-len(strings), -len(strings) * strings[0])), strongest_first, strict=False
    ):
        placed[tracker] = strings
    return placed


def _multisets(loads: Sequence[_Load], number: int, trackers: int) -> Iterator[tuple[_Load, ...]]:
    """Loads of at most so many trackers that make up a number, each multiset once, with larger loads first."""
    # can[i][k]: sums that k or fewer trackers can make with the loads from i on, as the bits of a number.
    mask = (1 << (number + 1)) - 1
    after = [1] * (trackers + 1)
    can = [after]
    for load in reversed(loads):
        sums, row = 1, [1]
        for k in range(1, trackers + 1):
            sums = after[k] | ((sums << load.modules) & mask)
            row.append(sums)
        can.append(row)
        after = row
    if not after[trackers] >> number & 1:
        return
    can.reverse()

    def choose(i: int, left: int, free: int) -> Iterator[tuple[_Load, ...]]:
        if left == 0:
            yield ()
            return
        for j in range(i, len(loads)):
            if not can[j][free] >> left & 1:
                return
            load = loads[j]
            if load.modules <= left and free and can[j][free - 1] >> (left - load.modules) & 1:
                for rest in choose(j, left - load.modules, free - 1):
                    yield (load, *rest)

    yield from choose(0, number, trackers)


def _merit(chosen: tuple[_Load, ...], limits: _Span, trackers: int) -> tuple[float, int, int]:
    """Smaller is better: what is uneven or out of the full-power window, each as a share of its whole."""
    lengths, modules = [load.length for load in chosen], [load.modules for load in chosen]
    outside = sum(load.modules for load in chosen if not limits.full_power_fewest <= load.length <= limits.window_most)
    uneven_lengths = (max(lengths) - min(lengths)) / max(lengths)
    uneven_loads = (max(modules) - min(modules)) / max(modules)
    score = OUTSIDE * outside / sum(modules) + uneven_lengths + LOADS * uneven_loads
    return round(score, 9), trackers - len(chosen), sum(load.strings for load in chosen)


def totals_of(limits: StringLimits, ceiling: int) -> set[int]:
    """Every number of modules up to a ceiling that goes on the inverter's trackers."""
    if ceiling <= 0:
        return set()
    mask = (1 << (ceiling + 1)) - 1
    sums = 1
    for parallel in limits.parallel_of:
        one = {n * length for n in range(1, parallel + 1) for length in range(limits.fewest, limits.most + 1)}
        grown = sums
        for modules in one:
            grown |= (sums << modules) & mask
        sums = grown
    return {n for n in range(1, ceiling + 1) if sums >> n & 1}


def _reasons(number: int, module: Module, inverter: Inverter, limits: StringLimits, ceiling: int) -> Iterator[str]:
    cold, hot = (f"{value:.0f}".replace("-", "\u2212") for value in (limits.lowest, limits.highest_cell))
    n, unit = limits.most, inverter
    if limits.short_circuit_strings < 1:
        current, most = (
            limits.array_current * module.highest_isc,
            max(unit.tracker_input(t).short_circuit for t in range(1, unit.trackers + 1)),
        )
        yield f"{limits.array_current:g} × Isc of one string is {current:.1f} A; the tracker's maximum is {most:g} A."
        return
    if not limits.is_possible:
        yield (
            f"No length fits: {limits.fewest} modules reach {_lowest_in_words(unit, limits)} when hot ({_hot_in_words(limits)} at {hot} °C), "
            f"and {n} stay under {limits.maximum_voltage:g} V when cold (Voc {limits.cold_voc:.1f} V at {cold} °C, limit of the {limits.maximum_of})."
        )
        return
    if number < limits.fewest:
        voltage = number * (limits.hot_voc if limits.is_by_start else limits.hot_vmp)
        lowest = (
            f"inverter starts at {unit.start_voltage:g} V"
            if limits.is_by_start
            else f"MPP window starts at {unit.mppt_minimum:g} V"
        )
        yield f"{number} in one string have {voltage:.0f} V at {hot} °C cell temperature; the {lowest}, which takes {limits.fewest}."
        return
    by_power = _by_power(module, unit)
    if number > by_power:
        yield f"{number} modules are {number * module.power / 1000:.2f} kW; the inverter's maximum is {unit.maximum_dc_power / 1000:g} kW DC, which is {by_power} modules."
    by_strings = sum(limits.parallel_of) * n
    if number > by_strings:
        trackers = f"{unit.trackers} tracker{'s' if unit.trackers > 1 else ''}"
        yield (
            f"{trackers} with {_parallel_in_words(limits)} of at most {n} modules take {by_strings}: "
            f"{n + 1} in a string have {(n + 1) * limits.cold_voc:.0f} V at {cold} °C, over {limits.maximum_voltage:g} V of the {limits.maximum_of}."
        )
    if number <= ceiling:
        yield from _between(number, unit, limits, sum(limits.parallel_of))


def _lowest_in_words(unit: Inverter, limits: StringLimits) -> str:
    """The voltage that the shortest string must reach."""
    if limits.is_by_start:
        return f"the start voltage of {unit.start_voltage:g} V"
    return f"the MPP window of {unit.mppt_minimum:g} V"


def _hot_in_words(limits: StringLimits) -> str:
    if limits.is_by_start:
        return f"Voc {limits.hot_voc:.1f} V"
    return f"Vmp {limits.hot_vmp:.1f} V"


def _parallel_in_words(limits: StringLimits) -> str:
    """Strings in parallel on the trackers: 6 parallel strings, or 6 and 5 (twice)."""
    many = Counter(limits.parallel_of)
    if len(many) == 1:
        return f"{limits.parallel_of[0]} parallel string{'s' if limits.parallel_of[0] > 1 else ''}"
    each = [f"{strings}{f' (on {times} of them)' if times > 1 else ''}" for strings, times in sorted(many.items(), reverse=True)]
    return f"{', '.join(each[:-1])} and {each[-1]} parallel strings"


def _between(number: int, unit: Inverter, limits: StringLimits, places: int) -> Iterator[str]:
    """A number that no strings of possible lengths add up to."""
    fewest, most = limits.fewest, limits.most
    strings = range(1, places + 1)
    below = [s for s in strings if s * most < number]
    above = [s for s in strings if s * fewest > number]
    inside = [s for s in strings if s * fewest <= number <= s * most]
    if not inside:
        parts = []
        if below:
            parts.append(f"{below[-1]} string{'s' if below[-1] > 1 else ''} take at most {below[-1] * most}")
        if above:
            parts.append(f"{above[0]} strings at least {above[0] * fewest}")
        yield f"Strings have {fewest} to {most} modules: {', '.join(parts)}; {number} lies between."
        return
    yield (
        f"{number} would take {inside[0]}{f' to {inside[-1]}' if len(inside) > 1 else ''} strings of {fewest} to {most} modules on {unit.trackers} "
        f"tracker{'s' if unit.trackers > 1 else ''}; strings on one tracker must have one length, and no such lengths add up to {number} (places for {places} strings)."
    )
