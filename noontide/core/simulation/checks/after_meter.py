"""Checks of demand, tariff and money."""

from collections.abc import Iterator

from noontide.core.simulation.checks.finding import Check, Remedy
from noontide.core.simulation.results import Results

LEAST_UNSERVED = 0.005  # of a source's energy


def check_demand(r: Results) -> Iterator[Check]:
    """Sources that give no demand, and demand that is not served."""
    if (problem := r.after.problem) is not None:
        key = problem.pointer.removeprefix("/demand/sources/")
        remedies = (
            (Remedy("Leave this source out", {"demand": {"sources": {key: {"is_on": False}}}}),)
            if key in r.design.demand.sources
            else ()
        )
        yield Check("demand-source", "error", "The demand is not known", str(problem), "demand", problem.pointer, 0, 0, "", "Interval data", remedies)  # fmt: skip
        return
    used = r.after.demand
    if used is None:
        return
    hours = r.calendar.hours_per_interval
    for key, missed in used.unserved.items():
        served = float(used.by_source[key].sum()) * hours
        if missed <= LEAST_UNSERVED * (served + missed):
            continue
        source = r.design.demand.sources[key]
        cure = {
            "vehicle": "A stronger charger, or more hours at home, would serve it.",
            "hot_water": "A stronger element, or less water, would serve it.",
            "pump": "A stronger pump, or more hours, would serve it.",
        }.get(source.kind, "A higher limit of its power would serve it.")
        yield Check(
            "unserved-demand", "caution", f"{source.name}: {missed:,.0f} kWh a year cannot be served",
            f"Of {served + missed:,.0f} kWh that it asks for, {served:,.0f} kWh fit into its power and hours. {cure}",
            "demand", f"/demand/sources/{key}", missed, 0, "kWh", "Energy balance of the source",
        )  # fmt: skip


def check_money(r: Results) -> Iterator[Check]:
    """What does not go together in tariff and costs."""
    money, demand = r.design.money, r.after.has_demand
    if money.tariff is not None and not demand and r.design.demand.sources == {}:
        yield Check(
            "bill-without-demand", "caution", "A tariff without a demand", "The bill then holds the sale of all energy and the standing charges only. Add who uses the energy on the Demand bench.",
            "money", "/money/tariff", 0, 0, "", "Tariff",
        )  # fmt: skip
    bill = r.after.bill
    if bill is None:
        return
    over = [line for line in bill.lines if line.kind == "demand" and line.title.endswith("over the contracted power")]
    if over:
        worst = max(over, key=lambda line: line.quantity)
        key = worst.key
        assert money.tariff is not None
        contracted = money.tariff.demand[key].contracted or 0.0
        wanted = round(contracted + worst.quantity + 0.5)
        yield Check(
            "contracted-power", "caution", f"Contracted power exceeded in {len({line.month for line in over})} months",
            f"The highest mean is {contracted + worst.quantity:,.1f} kW, {contracted:g} kW are contracted; the excess costs {sum(line.amount for line in over):,.2f} {bill.currency} a year.",
            "money", f"/money/tariff/demand/{key}/contracted", contracted + worst.quantity, contracted, "kW", money.tariff.name,
            (Remedy(f"Contract {wanted} kW", {"money": {"tariff": {"demand": {key: {"contracted": wanted}}}}}),),
        )  # fmt: skip
