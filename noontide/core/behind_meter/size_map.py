"""The map of sizes of a place without a grid: what is missing with every array and battery, and which of them costs least."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.off_grid import place_of, worksheet
from noontide.core.behind_meter.storage_sizes import bare_year, price_of_kwh
from noontide.core.money.figures import annuity
from noontide.core.simulation.results import Results
from noontide.core.simulation.storage_year import strategy_of
from noontide.core.storage import totals

Floats = NDArray[np.float64]
CELLS = 24  # of the map in each direction
REACH = 2.4  # of the arrays, over the design's or the worksheet's
LEVELS = (0.1, 0.03, 0.01, 0.003)  # of the lines of equal loss
MOST_COST_LINES = 5


@dataclass(frozen=True)
class Point:
    """A size on the map."""

    array: float  # [kW]
    battery: float  # usable [kWh]
    cost: float  # a year


@dataclass(frozen=True, eq=False)
class ReliabilityMap:
    """Share of the energy that is missing, (batteries, arrays), without a generator."""

    arrays: Floats  # [kW]
    batteries: Floats  # usable [kWh]
    loss: Floats

    def equal_loss(self, level: float) -> Floats:
        """The battery of each array with which a share of the energy is missing, linear between the sizes of the map, (arrays,) [kWh]; not a number where none on the map does."""
        enough = self.loss <= level
        first = enough.argmax(axis=0)
        columns = np.arange(self.arrays.size)
        below = np.maximum(first - 1, 0)
        high, low = self.loss[below, columns], self.loss[first, columns]
        share = np.divide(high - level, high - low, out=np.ones(columns.size), where=high > low)
        between = self.batteries[below] + np.clip(share, 0, 1) * (self.batteries[first] - self.batteries[below])
        found = np.where(first == 0, self.batteries[0], between)
        return np.where(enough.any(axis=0), found, np.nan)


@dataclass(frozen=True)
class YearlyCosts:
    """What sizes cost a year: the price of each over its life, with interest."""

    array: float  # of a kW
    battery: float  # of a kWh

    def of(self, array: float, battery: float) -> float:
        return self.array * array + self.battery * battery


def reliability_map(r: Results, cells: int = CELLS) -> ReliabilityMap:
    """Share of the energy that is missing for arrays and batteries around those of the design; the generator is left out.

    Raises
    ------
    ValueError
        As `place_of`.
    """
    setting, _ = place_of(r)
    hours, bare = r.calendar.hours_per_interval, bare_year(r)
    have, energy = float(r.annual.dc_power), float(np.asarray(setting.battery.energy))
    asked = float(bare.demand.sum()) / max(r.calendar.days, 1)
    sheet = {line.key: line.value for line in worksheet(r)}
    top = REACH * max(have, min(sheet["array"], 10 * have))
    arrays = np.linspace(top / cells, top, cells)
    deep = max(2 * energy, 1.3 * sheet["battery"], asked)
    batteries = np.linspace(deep / cells, deep, cells)
    rate = float(np.asarray(setting.battery.discharge_power)) / energy if energy > 0 else 1.0
    powers = np.maximum(batteries * rate, float(np.asarray(setting.battery.discharge_power)))[:, np.newaxis]
    one = r.after.coupled(replace(setting.battery, energy=batteries[:, np.newaxis], charge_power=powers, discharge_power=powers))
    strategy = replace(strategy_of(setting, r.calendar), generator=0.0)
    sun, bus = bare.produced / hours, r.after.bus
    if bus is None:
        wanted = (bare.demand + bare.own_use) / hours + setting.standby
        if r.after.side is not None:
            # A larger array meets the same inverter, which passes no more; a smaller one is held back no more.
            sun = sun + r.after.side.value.clipped
    else:
        wanted, sun = bus.asked(bare, setting.standby, hours), sun * bus.efficiency
    found = totals(wanted, (arrays / have)[:, np.newaxis] * sun, one, strategy, hours)
    if bus is None:
        return ReliabilityMap(arrays, batteries, found.unmet / max(float(wanted.sum()) * hours, 1e-12))
    # Of what is missing on the bus, the part of the use: the rest is what draws from the bus itself. What the inverter does not pass is missing with every size.
    passed = sum(float(part.sum()) for part in bus.carried(bare, hours)) * hours
    missing = found.unmet * passed / max(float(wanted.sum()) * hours, 1e-12) + float(bare.demand.sum()) - passed
    return ReliabilityMap(arrays, batteries, np.minimum(missing / max(float(bare.demand.sum()), 1e-12), 1.0))


def yearly_costs(r: Results) -> YearlyCosts | None:
    """Of a kW of the array, with all items of the purchase that grow with it, and of a kWh of the battery; None where a price is not known.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, eq. 2-10: the capital recovery factor over the years of each.
    """
    setting, _ = place_of(r)
    money, power = r.design.money, float(r.annual.dc_power)
    prices = [money.worth(module.price, module.currency) for module in r.plant.modules]
    each, battery = price_of_kwh(r, setting), battery_year(r)
    if each is None or battery is None or any(price is None for price in prices):
        return None
    modules = sum(float(n) * (price or 0.0) for n, price in zip(r.plant.module_counts, prices, strict=True))
    grows = {"kW": 1.0, "module": r.annual.modules / power, "m²": r.annual.area / power}
    items = sum(item.amount * grows[item.per] for item in money.costs.values() if item.is_on and item.per in grows)
    interest = money.interest / 100
    return YearlyCosts(
        (modules / power + items) * float(annuity(interest, money.years)), each * float(annuity(interest, battery.life))
    )


def cheapest(sizes: ReliabilityMap, costs: YearlyCosts | None, level: float) -> Point | None:
    """The size that costs least of those with which no more than a share of the energy is missing; None where the map has none, or no price is known."""
    needed = sizes.equal_loss(level)
    there = np.flatnonzero(np.isfinite(needed))
    if costs is None or not there.size:
        return None
    each = [costs.of(float(sizes.arrays[k]), float(needed[k])) for k in there]
    best = int(np.argmin(each))
    return Point(float(sizes.arrays[there[best]]), float(needed[there[best]]), each[best])


def cost_lines(sizes: ReliabilityMap, costs: YearlyCosts | None) -> tuple[float, ...]:
    """Costs a year of which lines of equal cost are drawn: round ones, evenly over the map."""
    if costs is None:
        return ()
    most = costs.of(float(sizes.arrays[-1]), float(sizes.batteries[-1]))
    if not most > 0:
        return ()
    rough = most / (MOST_COST_LINES + 1)
    unit = 10 ** np.floor(np.log10(rough))
    step = float(unit * next(round_one for round_one in (1, 2, 5, 10) if round_one * unit >= rough * (1 - 1e-9)))
    return tuple(step * n for n in range(1, int(most / step) + 1) if step * n < most)


@dataclass(frozen=True)
class Choice:
    """What the map says of the loss that a design accepts."""

    costs: YearlyCosts | None  # None where a price is not known
    point: Point | None  # the cheapest size
    words: str  # which size would do, and what it costs


def choose(r: Results, sizes: ReliabilityMap) -> Choice:
    """The cheapest size for the loss that the design accepts.

    Raises
    ------
    ValueError
        As `place_of`.
    """
    _, place = place_of(r)
    costs = yearly_costs(r)
    point = cheapest(sizes, costs, place.accepted_loss / 100)
    return Choice(costs, point, _words(r, sizes, costs, point))


def _words(r: Results, sizes: ReliabilityMap, costs: YearlyCosts | None, point: Point | None) -> str:
    setting, place = place_of(r)
    if costs is not None and point is not None:
        have = costs.of(float(r.annual.dc_power), float(np.asarray(setting.battery.energy)))
        edge = " That is the edge of the map: a larger array may cost less still." if point.array >= sizes.arrays[-1] else ""
        return (
            f"With {place.accepted_loss:g} % missing, {point.array:.3g} kW and {point.battery:.3g} kWh cost least: "
            f"{point.cost:,.0f} {r.design.money.currency} a year for array and battery; yours cost {have:,.0f}.{edge}"
        )
    if (sizes.loss > place.accepted_loss / 100).all():
        return f"No size on the map keeps what is missing to {place.accepted_loss:g} % of the energy."
    return "Give modules and battery a price, and the size that costs least is shown."
