"""Energy of every interval between sun, use, battery, grid and generator, for many candidates beside one another."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.storage.battery import Battery
from noontide.core.storage.loops import least_limits, limits_by_yesterday, run_intervals
from noontide.core.storage.strategy import Strategy
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
ENOUGH = 4000  # intervals, from which on a candidate is worth a thread of its own
# What is written of an interval, in the order of `Dispatch`.
FLOWS = 9


@dataclass(frozen=True, eq=False)
class Dispatch:
    """Powers of each interval at the AC side [kW] and what is stored at its end [kWh], (…, intervals).

    sun + clipped + imported + discharge + generator = demand - unmet + charge + exported + curtailed
    """

    charge: Floats
    discharge: Floats
    stored: Floats
    imported: Floats
    exported: Floats
    curtailed: Floats  # of sun and generator, where export is limited, there is no grid, or an inverter passes no more
    unmet: Floats  # of the demand
    generator: Floats
    brought: Floats  # of the charge: by the grid or a generator


@dataclass(frozen=True, eq=False)
class Totals:
    """A year of each candidate in sums, (…): for maps of hundreds of them."""

    charge: Floats  # [kWh]
    discharge: Floats
    imported: Floats
    exported: Floats
    curtailed: Floats
    unmet: Floats
    generator: Floats
    unmet_hours: Floats  # [h]
    longest_gap: Floats  # [h]
    generator_hours: Floats
    generator_starts: Floats
    lowest: Floats  # stored [kWh]
    mean_stored: Floats
    peak: Floats  # highest import [kW]


def dispatch(
    demand: ArrayLike,
    solar: ArrayLike,
    battery: Battery,
    strategy: Strategy,
    step: float = 1.0,
    clipped: ArrayLike = 0.0,
) -> Dispatch:
    """What a battery does in every interval.

    Parameters
    ----------
    demand, solar : (…, intervals)
        [kW], 0 or more; they broadcast with each other and with the battery's values.
    battery : Battery
    strategy : Strategy
    step : float
        Length of an interval [h].
    clipped : number or (…, intervals)
        Power that a battery on the DC side can store and the inverter passes to nobody, at the AC side [kW].

    Raises
    ------
    ValueError
        If shapes do not go together, a power is negative or no number, or the step is not above 0.
    """
    case = _Case(demand, solar, battery, strategy, step, clipped)
    found = np.empty((FLOWS, case.count, case.intervals))

    def work(start: int, end: int) -> None:
        run_intervals(*case.arguments, start, end, found, np.empty((0, 0)))

    in_chunks(work, case.count, case.small)
    return Dispatch(*(found[k].reshape(*case.shape, case.intervals) for k in range(FLOWS)))


def totals(
    demand: ArrayLike,
    solar: ArrayLike,
    battery: Battery,
    strategy: Strategy,
    step: float = 1.0,
    clipped: ArrayLike = 0.0,
) -> Totals:
    """The same in sums of the whole time."""
    case = _Case(demand, solar, battery, strategy, step, clipped)
    found = np.zeros((14, case.count))

    def work(start: int, end: int) -> None:
        run_intervals(*case.arguments, start, end, np.empty((0, 0, 0)), found)

    in_chunks(work, case.count, case.small)
    return Totals(*(found[k].reshape(case.shape) for k in range(found.shape[0])))


def least_import_limits(demand: ArrayLike, solar: ArrayLike, battery: Battery, strategy: Strategy, step: float = 1.0) -> Floats:
    """The least import of each interval's period that the battery can hold, (…, intervals) [kW]."""
    case = _Case(demand, solar, battery, strategy, step)
    return case.import_limit[case.limit_rows].reshape(*case.shape, case.intervals)


class _Case:
    """Candidates as rows, checked; what is alike for many of them stands once."""

    def __init__(
        self,
        demand: ArrayLike,
        solar: ArrayLike,
        battery: Battery,
        strategy: Strategy,
        step: float,
        clipped: ArrayLike = 0.0,
    ):
        if not (np.isfinite(step) and step > 0):
            raise ValueError(f"The length of an interval is above 0 h; it is {step:g}.")
        used, sun = _powers("demand", demand), _powers("solar", solar)
        self.intervals = max(used.shape[-1], sun.shape[-1])
        self.step = float(step)
        self.small = max(1, ENOUGH // self.intervals)  # candidates that are not worth a second thread
        prices = read_only(np.zeros(0)) if strategy.prices is None else self._over("prices", strategy.prices)
        limit, cut = self._rows("import limit", strategy.import_limit), self._rows("export limit", strategy.export_limit)
        reserve, clip = self._rows("reserve", strategy.reserve), self._rows("clipped", clipped)
        generator = np.asarray(strategy.generator, dtype=float)
        shapes = (
            used.shape[:-1],
            sun.shape[:-1],
            battery.shape,
            limit.shape[:-1],
            cut.shape[:-1],
            reserve.shape[:-1],
            clip.shape[:-1],
            generator.shape,
        )
        try:
            self.shape = np.broadcast_shapes(*shapes)
            used, sun = (np.broadcast_to(values, (*values.shape[:-1], self.intervals)) for values in (used, sun))
        except ValueError:
            raise ValueError(
                f"Demand {used.shape}, sun {sun.shape} and the battery's values {battery.shape} do not broadcast: the last axis is that of the intervals."
            ) from None
        self.count = int(np.prod(self.shape))
        self.table = battery.table(self.shape)
        (
            (used, used_rows),
            (sun, sun_rows),
            (limit, self.limit_rows),
            (cut, cut_rows),
            (reserve, reserve_rows),
            (clip, clip_rows),
        ) = (self._once(values) for values in (used, sun, limit, cut, reserve, clip))
        self.import_limit = limit
        rows = np.stack([used_rows, sun_rows, self.limit_rows, cut_rows, reserve_rows, clip_rows])
        flags = np.array(
            [
                strategy.serves_use,
                strategy.charges_from_grid,
                strategy.keeps_for_peaks,
                strategy.stores_only_clipped,
                strategy.knows_yesterday_alone,
            ],
            dtype=np.bool_,
        )
        power = read_only(np.ascontiguousarray(np.broadcast_to(generator, self.shape).reshape(-1)))
        machine = np.array([strategy.generator_start, strategy.generator_stop, strategy.generator_least])
        there = self._over("has_grid", strategy.has_grid, bool)
        allowed = self._over("generator_allowed", strategy.generator_allowed, bool)
        ahead = max(round(strategy.horizon / self.step), 1)
        day = max(round(24 / self.step), 1)
        if strategy.knows_yesterday_alone and abs(day * self.step - 24) > 1e-9:
            raise ValueError(f"A day is no whole number of intervals of {self.step:g} h: yesterday cannot be looked at.")
        later = np.empty((0, 0))
        if strategy.least_peak_periods is not None:
            periods = strategy.least_peak_periods
            periods = np.zeros(self.intervals, dtype=np.int64) if periods.size == 0 else periods
            if periods.shape != (self.intervals,) or (np.diff(periods) < 0).any():
                raise ValueError(f"periods: a rising number for each of the {self.intervals:,} intervals is needed.")
            self.import_limit = np.empty((self.count, self.intervals))
            self.limit_rows = np.arange(self.count)
            rows[2] = self.limit_rows
            if strategy.knows_yesterday_alone:
                later = np.empty((self.count, self.intervals))
            starts = np.append(np.flatnonzero(np.diff(periods, prepend=periods[0] - 1)), self.intervals)

            def work(start: int, end: int) -> None:
                case = (
                    used,
                    sun,
                    clip,
                    rows,
                    self.table,
                    starts,
                    strategy.charges_from_grid,
                    self.step,
                    start,
                    end,
                    self.import_limit,
                )
                if strategy.knows_yesterday_alone:
                    limits_by_yesterday(*case, day, strategy.serves_use, later)
                else:
                    least_limits(*case)

            in_chunks(work, self.count, self.small)
            self.import_limit = read_only(self.import_limit)
        self.arguments = (
            used, sun, clip, self.import_limit, cut, reserve, rows, self.table, flags, prices, ahead, later, there, allowed, power, machine, self.step,
        )  # fmt: skip

    def _over(self, name: str, values: ArrayLike, kind: type = float) -> NDArray:
        """One value, or one of each interval, as one of each interval."""
        found: NDArray = np.asarray(values, dtype=kind)
        if found.shape not in ((), (1,), (self.intervals,)):
            raise ValueError(
                f"{name}: one value, or one for each of the {self.intervals:,} intervals is needed; there are {found.size:,}."
            )
        return read_only(np.ascontiguousarray(np.broadcast_to(found, (self.intervals,))))

    def _rows(self, name: str, values: ArrayLike) -> Floats:
        found = np.asarray(values, dtype=float)
        if np.isnan(found).any() or (found < 0).any():
            raise ValueError(f"{name}: values of 0 or more are needed.")
        found = found.reshape(1) if found.ndim == 0 else found
        if found.shape[-1] not in (1, self.intervals):
            raise ValueError(
                f"{name}: its last axis has {found.shape[-1]:,} values; one, or one for each of the {self.intervals:,} intervals is needed."
            )
        return np.broadcast_to(found, (*found.shape[:-1], self.intervals))

    def _once(self, values: Floats) -> tuple[Floats, Ints]:
        """Different rows, and which of them each candidate has."""
        rows = read_only(np.ascontiguousarray(values.reshape(-1, self.intervals)))
        places = np.arange(len(rows)).reshape(values.shape[:-1])
        return rows, np.ascontiguousarray(np.broadcast_to(places, self.shape).reshape(-1))


def read_only(values: NDArray) -> NDArray:
    """The same, so that a compiled loop has one version: some inputs are views that nobody may write to, and others are copies."""
    seen = values.view()
    seen.flags.writeable = False
    return seen


def _powers(name: str, values: ArrayLike) -> Floats:
    found = np.asarray(values, dtype=float)
    if found.ndim == 0 or found.shape[-1] == 0:
        raise ValueError(f"{name}: a power for each interval is needed.")
    if found.size and not 0 <= found.min() <= found.max() < np.inf:  # no number is in no order
        place = tuple(np.argwhere(~((found >= 0) & np.isfinite(found)))[0])
        raise ValueError(f"{name}: powers are 0 kW or more; interval {place[-1]} has {found[place]:g}.")
    return found
