"""Spreading modules over one or more inverters of a model, for every model that there is to choose from."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from math import ceil, floor

from noontide.core.electrical.datasheets import Inverter, Module
from noontide.core.electrical.finder import NEAREST, Explanation, Lengths, capacity, explain, totals_of, ways_of
from noontide.core.electrical.string_limits import SHORT_CIRCUIT_FACTOR, StringLimits, string_limits

LOWEST_RATIO, HIGHEST_RATIO = 0.8, 1.5  # of DC to AC power, where nothing else is wished
USUAL_RATIO = 1.2
EACH_MORE = 0.02  # of the ratio, that one inverter more counts against a proposal
MOST_COUNTS = 3  # numbers of inverters of one model, nearest to the usual ratio
MOST_WAYS = 4  # arrangements of each
MOST_FULL, MOST_LARGE = 3, 200  # numbers of modules that count as full, and inverters of the larger model, in a mixture
_ROUNDING = 1e-9


@dataclass(frozen=True)
class Share:
    """Identical inverters of a proposal."""

    count: int
    strings: Lengths  # of each, tracker by tracker


@dataclass(frozen=True)
class Proposal:
    """Inverters of one model with all their strings."""

    inverter: Inverter
    shares: tuple[Share, ...]
    left_over: int  # modules without a string
    limits: StringLimits

    @property
    def count(self) -> int:
        """Inverters in all."""
        return sum(share.count for share in self.shares)

    @property
    def modules(self) -> int:
        """Modules in strings."""
        return sum(share.count * sum(map(sum, share.strings)) for share in self.shares)

    @property
    def lengths(self) -> tuple[int, int]:
        """Shortest and longest string [modules]."""
        every = [length for share in self.shares for strings in share.strings for length in strings]
        return min(every), max(every)

    def ratio(self, module: Module) -> float:
        """DC to AC power."""
        return self.modules * module.power / (self.count * self.inverter.ac_power)


def ratio_of(parts: Sequence[Proposal], module: Module) -> float:
    """DC to AC power of inverters of several models together."""
    return sum(p.modules for p in parts) * module.power / sum(p.count * p.inverter.ac_power for p in parts)


@dataclass(frozen=True)
class Wish:
    """What is asked of the finder beyond the number of modules."""

    leave_over: int = 0
    lowest_ratio: float = LOWEST_RATIO
    highest_ratio: float = HIGHEST_RATIO
    phases: int | None = None
    array_current: float = SHORT_CIRCUIT_FACTOR  # factor on Isc of the rule set


def proposals(
    number: int, module: Module, inverters: Iterable[Inverter], lowest: float, highest: float, wish: Wish | None = None
) -> tuple[list[Proposal], dict[str, Explanation]]:
    """Ways to connect a number of modules to inverters of one model, and for each model that does not go why.

    Parameters
    ----------
    number, module, lowest, highest
        As for `arrangements`.
    inverters : iterable of Inverter
        Models to choose from.
    wish : Wish, optional
        Modules that may be left over, the lowest and the highest DC/AC ratio, phases, factor on Isc.

    Returns
    -------
    proposals, rejected
        Of each model the ways nearest to the usual ratio, with like loads; and the models that have none, by id.

    Raises
    ------
    ValueError
        If the number is below 1, or the ratios are not in order.
    """
    wish = wish or Wish()
    if not 0 < wish.lowest_ratio <= wish.highest_ratio:
        raise ValueError(f"The ratios must rise from above 0; they are {wish.lowest_ratio:g} and {wish.highest_ratio:g}.")
    found: list[Proposal] = []
    rejected: dict[str, Explanation] = {}
    for inverter in inverters:
        if wish.phases is not None and inverter.phases != wish.phases:
            phases = f"It has {inverter.phases} phase{'s' if inverter.phases > 1 else ''}; {wish.phases} were asked for."
            rejected[inverter.id] = Explanation(number, False, (phases,), ())
            continue
        mine = list(_of_model(number, module, inverter, lowest, highest, wish))
        found += mine
        if not mine:
            rejected[inverter.id] = _why_not(number, module, inverter, lowest, highest, wish)
    found.sort(key=lambda p: (p.left_over, p.lengths[1] - p.lengths[0], abs(p.ratio(module) - USUAL_RATIO) + EACH_MORE * p.count))
    return found, rejected


def mixtures(
    number: int, module: Module, inverters: Iterable[Inverter], lowest: float, highest: float, wish: Wish | None = None
) -> list[tuple[Proposal, Proposal]]:
    """Ways to connect a number of modules to inverters of two models: the larger ones full, the rest on the smaller.

    Parameters are those of `proposals`. No module is left over; both models have the same phases, and each part and the whole keep the wished
    ratios. Of each pair of models the ways with the fewest inverters, those nearest to the usual ratio first.
    """
    wish = wish or Wish()
    models = sorted((u for u in inverters if wish.phases in (None, u.phases)), key=lambda unit: (-unit.ac_power, unit.id))
    found: list[tuple[Proposal, Proposal]] = []
    exact = replace(wish, leave_over=0)
    for i, large in enumerate(models):
        limits = string_limits(module, large, lowest, highest, array_current=wish.array_current)
        totals = totals_of(limits, capacity(module, large, limits))
        usual = USUAL_RATIO * large.ac_power / module.power
        full = sorted((n for n in totals if _keeps(n, module, large, wish)), key=lambda n: abs(n - usual))[:MOST_FULL]
        for small in models[i + 1 :]:
            if small.ac_power >= large.ac_power or small.phases != large.phases:
                continue
            found += _pairs(number, module, (large, small), full, (lowest, highest), exact)
    found.sort(key=lambda parts: abs(ratio_of(parts, module) - USUAL_RATIO) + EACH_MORE * sum(p.count for p in parts))
    return found


def _keeps(modules: int, module: Module, inverter: Inverter, wish: Wish) -> bool:
    """Whether an inverter with so many modules keeps the wished ratios."""
    ratio = modules * module.power / inverter.ac_power
    return wish.lowest_ratio - _ROUNDING <= ratio <= wish.highest_ratio + _ROUNDING


def _pairs(
    number: int, module: Module, models: tuple[Inverter, Inverter], full: list[int], temperatures: tuple[float, float], wish: Wish
) -> list[tuple[Proposal, Proposal]]:
    large, small = models
    found: list[tuple[Proposal, Proposal]] = []
    for each in full:
        for count in range(min(number // each, MOST_LARGE), 0, -1):
            rest = number - count * each
            if rest == 0:
                continue
            # More than three of the small ones would be another large one.
            if rest * module.power > 3 * wish.highest_ratio * small.ac_power:
                break
            first = next(_of_model(count * each, module, large, *temperatures, wish), None)
            other = next(_of_model(rest, module, small, *temperatures, wish), None)
            if first is not None and other is not None:
                found.append((first, other))
                break
    return found


def _of_model(number: int, module: Module, inverter: Inverter, lowest: float, highest: float, wish: Wish) -> Iterator[Proposal]:
    limits = string_limits(module, inverter, lowest, highest, array_current=wish.array_current)
    ceiling = capacity(module, inverter, limits)
    totals = sorted(totals_of(limits, ceiling))
    for left in range(min(wish.leave_over, number - 1) + 1):
        placed = number - left
        some = False
        for count in _counts(placed, module, inverter, wish):
            for numbers in _splits(placed, count, totals):
                ways = [ways_of(n, limits, MOST_WAYS) for n, _ in numbers]
                for way in zip(*ways, strict=False):
                    shares = tuple(Share(times, strings) for (_, times), strings in zip(numbers, way, strict=True))
                    some = True
                    yield Proposal(inverter, shares, left, limits)
        if some:  # what leaves fewer over is better: more need not be looked at
            return


def _power_and_counts(number: int, module: Module, inverter: Inverter, wish: Wish) -> tuple[float, int, int]:
    """DC power in ratings of one inverter, and the fewest and the most inverters within the wished ratios."""
    power = number * module.power / inverter.ac_power
    return power, max(1, ceil(power / wish.highest_ratio - _ROUNDING)), floor(power / wish.lowest_ratio + _ROUNDING)


def _counts(number: int, module: Module, inverter: Inverter, wish: Wish) -> list[int]:
    """Numbers of inverters within the wished ratios, the one nearest to the usual ratio first."""
    power, fewest, most = _power_and_counts(number, module, inverter, wish)
    counts = range(fewest, min(most, number, fewest + 50) + 1)
    return sorted(counts, key=lambda count: (abs(power / count - USUAL_RATIO), count))[:MOST_COUNTS]


def _splits(number: int, count: int, totals: list[int]) -> Iterator[list[tuple[int, int]]]:
    """The most even way to make up a number by inverters that take one of the totals each: pairs of modules and inverters."""
    if number % count == 0 and number // count in totals:
        yield [(number // count, count)]
        return
    below = [n for n in totals if n * count < number]
    above = [n for n in totals if n * count > number]
    pairs = sorted((b - a, a, b) for a in below[-12:] for b in above[:12])
    for gap, a, b in pairs:
        more, rest = divmod(number - count * a, gap)
        if rest == 0 and 0 < more < count:
            yield [(b, more), (a, count - more)]
            return


def _why_not(number: int, module: Module, inverter: Inverter, lowest: float, highest: float, wish: Wish) -> Explanation:
    power, fewest, most = _power_and_counts(number, module, inverter, wish)
    alone = explain(max(1, round(number / max(1, fewest))), module, inverter, lowest, highest, array_current=wish.array_current)
    if most < fewest:
        ratios = (
            f"{f'{fewest} inverters have' if fewest > 1 else 'One inverter has'} a DC/AC ratio of {power / fewest:.2f}; "
            f"{wish.lowest_ratio:g} to {wish.highest_ratio:g} was asked for."
        )
        limits = string_limits(module, inverter, lowest, highest, array_current=wish.array_current)
        totals = totals_of(limits, capacity(module, inverter, limits))
        of_one = module.power / inverter.ac_power
        going = [n * fewest for n in totals if wish.lowest_ratio <= n * of_one <= wish.highest_ratio]
        return Explanation(number, False, (ratios,), tuple(sorted(going, key=lambda n: abs(n - number))[:NEAREST]))
    if not alone.fits:
        each = "" if fewest == 1 else f"On each of {fewest}: "
        nearest = tuple(dict.fromkeys(n * fewest for n in alone.nearest))
        return Explanation(number, False, tuple(each + reason for reason in alone.reasons), nearest)
    even = f"{number} modules do not go evenly on {fewest}{f' to {most}' if most > fewest else ''} inverters."
    return Explanation(number, False, (even,), tuple(n * fewest for n in alone.nearest))
