"""Cash of an investment year by year: purchase, grants, loans, savings, upkeep, replacements, tax relief, rest value; and what comes of it."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.money.figures import annuity, counting_rate, irr, lcoe, npv, payback, running_sum
from noontide.core.money.terms import Loan, Money

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Sizes:
    """Of a plant, by which costs are counted."""

    dc_power: float  # [kW]
    modules: float
    inverters: float
    area: float  # of the modules [m2]

    def of(self, basis: str) -> float:
        return {"plant": 1.0, "kW": self.dc_power, "module": self.modules, "inverter": self.inverters, "m²": self.area}[basis]


@dataclass(frozen=True)
class PurchaseLine:
    """One line of the purchase."""

    key: str  # of the item; empty for what follows from others
    title: str
    quantity: float
    unit: str
    price: float
    amount: float


@dataclass(frozen=True)
class Purchase:
    """What the plant costs, estimated item by item, and the user's own figure beside it."""

    lines: tuple[PurchaseLine, ...]
    own: float | None

    @property
    def estimated(self) -> float:
        return sum(line.amount for line in self.lines)

    @property
    def total(self) -> float:
        """What counts: the own figure where there is one."""
        return self.estimated if self.own is None else self.own


def purchase_of(money: Money, sizes: Sizes, materials: float) -> Purchase:
    """The purchase of a plant.

    Parameters
    ----------
    materials : float
        The bill of materials, of all whose price is known, without tax.
    """
    lines = [PurchaseLine("", "Bill of materials", 1.0, "", materials, materials)]
    for key, item in money.costs.items():
        if item.is_on:
            count = sizes.of(item.per)
            lines.append(PurchaseLine(key, item.name or "Item", count, item.per, item.amount, item.amount * count))
    net = sum(line.amount for line in lines)
    if money.contingency:
        share = money.contingency / 100
        lines.append(PurchaseLine("", "Contingency", net, "", share, share * net))
        net *= 1 + share
    if money.purchase_tax:
        share = money.purchase_tax / 100
        lines.append(PurchaseLine("", "Tax on the purchase", net, "", share, share * net))
    return Purchase(tuple(lines), money.own_purchase)


@dataclass(frozen=True, eq=False)
class Cash:
    """Flows of each year, (years + 1,); at once, then at the end of every year. Received is positive."""

    money: Money
    purchase: Purchase
    flows: dict[str, Floats]  # by title
    energies: Floats  # delivered [kWh], 0 at once

    @cached_property
    def total(self) -> Floats:
        return np.asarray(sum(self.flows.values()))

    @property
    def rate(self) -> float:
        return self.money.interest / 100

    @cached_property
    def running(self) -> Floats:
        """Sum of the flows to each year, not discounted."""
        return running_sum(self.total)

    @cached_property
    def net_present_value(self) -> float:
        return float(npv(self.rate, self.total))

    @cached_property
    def rates_of_return(self) -> tuple[float, ...]:
        """Every root."""
        return irr(self.total)

    @cached_property
    def rate_of_return(self) -> float | None:
        """The root that counts; None where there is none, or several of which none does."""
        return counting_rate(self.total)

    @cached_property
    def payback(self) -> float | None:
        return payback(self.total)

    @cached_property
    def discounted_payback(self) -> float | None:
        return payback(self.total, self.rate)

    @cached_property
    def levelised_cost(self) -> float | None:
        """Of a kWh delivered: what the plant itself costs, whoever lends the money; None without energy."""
        if not self.energies.sum() > 0:
            return None
        costs = -sum(
            self.flows[title] for title in (PURCHASE, GRANTS, UPKEEP, FUEL, REPLACED, RENEWED, REST) if title in self.flows
        )
        return float(lcoe(costs, self.energies, self.rate))


PURCHASE, SAVING, GRANTS, UPKEEP, REPLACED = "Purchase", "Energy saved and sold", "Grants", "Upkeep", "Replacements"
RENEWED, FUEL, WORN = "Battery renewed", "Fuel", "Capacity that the battery has lost"
LOANS, RELIEF, REST = "Loans", "Tax relief", "Rest value"


@dataclass(frozen=True)
class BatteryCosts:
    """What a battery costs besides its purchase."""

    price: float  # of another one at the end of its life
    life: float  # [years]
    wear: float  # what a year costs more with it at the end of its life than new


def cash_of(
    money: Money,
    sizes: Sizes,
    materials: float,
    energy: float,
    degradation: float,
    first_saving: float,
    last_saving: float,
    battery: BatteryCosts | None = None,
    fuel: float = 0.0,
) -> Cash:
    """Cash year by year.

    Parameters
    ----------
    energy : float
        Delivered in the first year [kWh].
    degradation : float
        Of the yield a year, of its first year's, 0..1.
    first_saving, last_saving : float
        What energy saves and earns in a year at today's prices, with the yield of the first year and of the last; the
        years between lie on a straight line, as the yield does.
    battery : BatteryCosts, optional
        It loses capacity evenly over its life, and is then bought again.
    fuel : float
        Of a generator in a year, at today's prices.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, chapter 3: flows at the end of each year.
    """
    years = np.arange(money.years + 1)
    after = np.maximum(years - 1, 0)
    running = years > 0
    left = np.maximum(1 - degradation * after, 0.0) * running
    purchase = purchase_of(money, sizes, materials)
    spent = purchase.total
    share = after / max(money.years - 1, 1)
    dearer, energy_dearer = (1 + money.cost_change / 100) ** after, (1 + money.energy_price_change) ** after
    savings = running * (first_saving + (last_saving - first_saving) * share) * energy_dearer

    def amount(item_amount: float, per: str) -> float:
        return item_amount / 100 * spent if per == "% of purchase" else item_amount * sizes.of(per)

    flows = {PURCHASE: np.where(years == 0, -spent, 0.0), SAVING: savings}
    granted = sum(g.amount + g.share / 100 * spent for g in money.grants.values() if g.is_on)
    if granted:
        flows[GRANTS] = np.where(years == 0, min(granted, spent), 0.0)
    if any(one.is_on for one in money.upkeep.values()):
        flows[UPKEEP] = -(running * dearer) * sum(amount(u.amount, u.per) for u in money.upkeep.values() if u.is_on)
    if battery is not None and battery.wear:
        flows[WORN] = -battery.wear * (after % battery.life) / battery.life * running * energy_dearer
    if fuel > 0:
        flows[FUEL] = -fuel * running * energy_dearer
    if any(one.is_on for one in money.replacements.values()):
        # In the last year nothing is replaced any more.
        flows[REPLACED] = -np.asarray(
            sum(
                amount(r.amount, r.per) * dearer * (running & (years % r.every == 0) & (years < money.years))
                for r in money.replacements.values()
                if r.is_on
            )
        )
    if battery is not None and battery.price > 0:
        # In the last year nothing is replaced any more.
        due = np.floor(years / battery.life + 1e-9) > np.floor((years - 1) / battery.life + 1e-9)
        flows[RENEWED] = -battery.price * dearer * (running & due & (years < money.years))
    if any(one.is_on for one in money.loans.values()):
        flows[LOANS] = np.asarray(sum(_loan(one, spent, years) for one in money.loans.values() if one.is_on))
    if any(one.is_on for one in money.tax_relief.values()):
        flows[RELIEF] = np.asarray(
            sum(
                one.rate / 100 * one.share / 100 * spent / one.years * (running & (years <= one.years))
                for one in money.tax_relief.values()
                if one.is_on
            )
        )
    if money.rest_value:
        flows[REST] = np.where(years == money.years, money.rest_value / 100 * spent, 0.0)
    return Cash(money, purchase, flows, energy * left)


def _loan(loan: Loan, spent: float, years: NDArray[np.int64]) -> Floats:
    """What is borrowed at once, and paid back; what is owed after the years that are counted is paid in the last of them."""
    borrowed, rate, last = loan.share / 100 * spent, loan.interest / 100, int(years[-1])
    paying = (years > 0) & (years <= loan.years)
    if loan.repayment == "annuity":
        payment = borrowed * float(annuity(rate, loan.years))
        payments = payment * paying
        owed = payment * float(np.sum((1 + rate) ** -np.arange(1.0, loan.years - last + 1)))
    else:
        payments = borrowed * (rate * paying + (years == loan.years))
        owed = borrowed if loan.years > last else 0.0
    return np.where(years == 0, borrowed, 0.0) - payments - np.where(years == last, owed, 0.0)
