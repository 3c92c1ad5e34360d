"""What the plant is worth: the purchase by its bill of materials, the cash of the years, and how sensitive it is."""

from dataclasses import dataclass
from typing import Literal

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.off_grid import proof
from noontide.core.costs.bill import materials_of
from noontide.core.money.cash import BatteryCosts, Cash, Sizes, cash_of
from noontide.core.once import once_for_each
from noontide.core.simulation.after_meter import LITTLE
from noontide.core.simulation.results import Results

Effect = Literal["prices", "yield", "costs"]
TITLES: dict[Effect, str] = {"prices": "Change of energy prices", "yield": "Yield", "costs": "Purchase"}


@once_for_each
def cash_year_by_year(r: Results) -> Cash:
    """The cash of a simulated design."""
    return _cash(r)


def sizes_of(r: Results) -> Sizes:
    """By which costs are counted."""
    return Sizes(r.annual.dc_power, float(r.annual.modules), float(r.plant.counts.sum()), r.annual.area)


def savings_of(r: Results) -> tuple[float, float]:
    """What energy saves and earns in a year at today's prices, with the yield of the first year and of the last: by the bill, or all of it at the value of energy; where there is no grid, what is served."""
    if (savings := r.after.savings) is not None:
        return savings
    money, energy = r.design.money, energy_given(r)
    if r.after.serves_alone:
        return (money.energy_value * served_energy(r),) * 2
    left = max(1 - r.design.losses.degradation / 100 * (money.years - 1), 0.0)
    return money.energy_value * energy, money.energy_value * energy * left


def energy_given(r: Results) -> float:
    """By the plant in a year: what its inverters deliver, with what a battery on their DC side keeps of what they would hold back [kWh]."""
    return r.annual.energy + float(r.after.metered.of_clipped.sum())


def served_energy(r: Results) -> float:
    """Of the demand, by sun, battery and generator together [kWh]."""
    metered = r.after.metered
    return max(float(metered.demand.sum() - metered.unmet.sum()), 0.0)


def _cash(r: Results, more_yield: float = 0.0, dearer: float = 0.0, price_points: float = 0.0) -> Cash:
    first, last = savings_of(r)
    if more_yield:
        # One share more of the yield saves as the share that ageing takes away: by its own slope.
        worth = value_of_more(r) * energy_given(r)
        first, last = first + more_yield * worth, last + more_yield * worth * (last / first if first else 1.0)
    money = r.design.money
    if dearer:
        total = purchase_total(r) * (1 + dearer)
        money = money.model_copy(update={"own_purchase": total})
    if price_points:
        money = money.model_copy(update={"price_change": money.energy_price_change * 100 + price_points})
    bill = materials_of(r)
    battery = battery_year(r)
    kept = None
    if battery is not None:
        price = sum(line.price or 0.0 for line in bill.lines if line.kind == "battery")
        kept = BatteryCosts(price, battery.life, r.after.cost_of_wear)
    # Without a grid the years are alike: what ages is made up for by energy that was not used.
    alone = r.after.serves_alone
    return cash_of(
        money,
        sizes_of(r),
        bill.price,
        served_energy(r) if alone else energy_given(r) * (1 + more_yield),
        0.0 if alone else r.design.losses.degradation / 100,
        first,
        last,
        kept,
        proof(r).fuel_cost if alone else 0.0,
    )


def purchase_total(r: Results) -> float:
    """What the plant costs."""
    return cash_year_by_year(r).purchase.total


def value_of_more(r: Results) -> float:
    """What one more kWh of yield would save or earn, at the hours at which the plant gives: by the bill of a yield one percent lower; the value of energy without a tariff."""
    if r.after.bills is None:
        return r.design.money.energy_value
    less = float(r.after.metered.produced.sum()) * LITTLE
    return (r.after.bills[3].value.total - r.after.bills[1].value.total) / less if less > 0 else 0.0


@dataclass(frozen=True)
class Sensitivity:
    """The net present value one step down and up."""

    key: Effect
    title: str
    step: float  # of a change of prices in percentage points a year, of yield and purchase in percent
    less: float
    more: float


def sensitivities(r: Results) -> list[Sensitivity]:
    """What the net present value is most sensitive to, the largest first."""
    money = r.design.money
    yields, costs, points = money.step_of_yield / 100, money.step_of_costs / 100, money.step_of_prices
    pairs: dict[Effect, tuple[float, list[Cash]]] = {
        "prices": (points, [_cash(r, price_points=sign * points) for sign in (-1, 1)]),
        "yield": (money.step_of_yield, [_cash(r, more_yield=sign * yields) for sign in (-1, 1)]),
        "costs": (money.step_of_costs, [_cash(r, dearer=sign * costs) for sign in (-1, 1)]),
    }
    found = [
        Sensitivity(key, TITLES[key], step, less.net_present_value, more.net_present_value)
        for key, (step, (less, more)) in pairs.items()
    ]
    return sorted(found, key=lambda one: -abs(one.more - one.less))
