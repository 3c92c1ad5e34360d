"""Figures of money: bills, purchase, cash of the years, and what a scheme of rules counts."""

from collections.abc import Callable

from noontide.core.costs import economics
from noontide.core.costs.rules_yield import rules_yield, rules_yields
from noontide.core.figures.figure import SIMULATED, Figure, all_of, has_bill, has_demand, has_money, said, serves_alone
from noontide.core.simulation.results import Results
from noontide.core.working import Input


def _of_bill(symbol: str, name: str, which: int) -> Callable[[Results], Input]:
    def read(r: Results) -> Input:
        assert r.after.bills is not None
        tariff = (r.design.money.tariff_before or r.design.money.tariff) if which == 0 else r.design.money.tariff
        return Input(
            symbol,
            name,
            r.after.bills[which].value.total,
            r.design.money.currency,
            tariff.name if tariff else "",
            "/money/tariff",
        )

    return read


_BEFORE, _AFTER = _of_bill(r"B_0", "bill without the plant", 0), _of_bill("B", "bill with the plant", 1)


def _saved(r: Results) -> float:
    return economics.savings_of(r)[0]


def _saving_inputs(r: Results) -> tuple[Input, ...]:
    if r.after.bills is not None:
        return _BEFORE(r), _AFTER(r)
    money = r.design.money
    value = Input(
        "v",
        "value of energy",
        money.energy_value,
        f"{money.currency}/kWh",
        "user setting or default; a tariff replaces it",
        "/money/energy_value",
    )
    if serves_alone(r):
        return Input(r"E_\mathrm{served}", "energy served", economics.served_energy(r), "kWh", SIMULATED), value
    return *_energy_given(r), value


def _energy_given(r: Results) -> tuple[Input, ...]:
    annual = Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED)
    if r.after.side is None:
        return (annual,)
    kept = Input(r"E_\mathrm{clipped}", "clipped energy stored", economics.energy_given(r) - r.annual.energy, "kWh", SIMULATED)
    return annual, kept


def _share_of_bill(r: Results) -> float | None:
    before = r.after.bill_before
    return _saved(r) / before.total if before is not None and before.total > 0 else None


def _cash_inputs(r: Results) -> tuple[Input, ...]:
    cash, currency = economics.cash_year_by_year(r), r.design.money.currency
    return (
        Input("i", "interest", r.design.money.interest, "%", "user setting or default", "/money/interest"),
        Input("N", "years counted", r.design.money.years, "", "user setting or default", "/money/years"),
        *(
            Input("F", title, float(flow.sum()), currency, "sum over the years, not discounted")
            for title, flow in cash.flows.items()
        ),
    )


def _cash_steps(r: Results) -> tuple[Input, ...]:
    cash, currency = economics.cash_year_by_year(r), r.design.money.currency
    return tuple(
        Input(
            rf"F_{{{year}}}",
            "at once" if year == 0 else f"year {year}",
            float(flow),
            currency,
            f"running sum {running:,.0f}".replace("-", "\u2212"),
        )
        for year, (flow, running) in enumerate(zip(cash.total, cash.running, strict=True))
    )


def _purchase_inputs(r: Results) -> tuple[Input, ...]:
    purchase, currency = economics.cash_year_by_year(r).purchase, r.design.money.currency
    lines = tuple(
        Input(
            "K",
            line.title,
            line.amount,
            currency,
            f"{line.quantity:,.4g} × {line.price:,.4g}" if line.unit else "list prices of the parts",
            f"/money/costs/{line.key}" if line.key else "",
        )
        for line in purchase.lines
    )
    own = (
        ()
        if purchase.own is None
        else (
            Input(r"K_\mathrm{own}", "own figure, which counts", purchase.own, currency, "user setting", "/money/own_purchase"),
        )
    )
    return lines + own


def _rates(r: Results) -> tuple[Input, ...]:
    roots = economics.cash_year_by_year(r).rates_of_return
    return _cash_inputs(r) + tuple(
        Input("r", "rate at which the net present value is zero", root * 100, "%", "all roots from -99 to 200 %")
        for root in roots
    )


def _rules_source(r: Results) -> str:
    table = r.design.money.yield_table
    return (table.name if table is not None else "") or "Yield table of a scheme of rules"


def _rules_inputs(r: Results) -> tuple[Input, ...]:
    table = r.design.money.yield_table
    assert table is not None
    at = "/money/yield_table"
    lines = tuple(
        item
        for n, one in enumerate(rules_yields(r), start=1)
        for item in (
            Input(rf"P_{{{n}}}", f"rated power of {one.name}", one.power, "kW", "modules' datasheets", f"/subarrays/{one.key}"),
            Input(
                rf"y_{{{n}}}",
                "by the table, at its tilt and azimuth",
                "outside the table" if one.yield_of_kw is None else one.yield_of_kw,
                "kWh/kW",
                f"{table.name or 'yield table'}{f', zone {table.zone}' if table.zone else ''}; linear between its values",
                at,
            ),
        )
    )
    shade = Input(
        "s", "shade factor", table.shade_factor, "", f"1 less {table.shaded_fields:g} fields of the sky of {table.share_of_field:g} % each", f"{at}/shaded_fields"
    )  # fmt: skip
    return (*lines, shade, Input("E", "annual energy", r.annual.energy, "kWh", "simulated, for comparison"))


SHORT = "Short, Packey and Holt 1995 (NREL/TP-462-5173)"
MONEY_FIGURES = (
    Figure(
        "rules_yield", "Yield by the rules' table", "kWh", 0, r"E_\mathrm{rules} = s \sum_k P_k\,y_k", _rules_source, _rules_inputs,
        note="What a scheme of rules counts, by zone, tilt and azimuth; it knows no hours, no cells and no inverter. The simulated year stands beside it.",
        also="yield table, kWh per kW, rules, scheme, shade factor", read=rules_yield, is_there=lambda r: r.design.money.yield_table is not None, without="outside the table", in_headline=False,
    ),
    Figure(
        "saving", "Saving of the first year", "{currency}", 0, r"S = B_0 - B", lambda r: "Bills of a year, by month, to the cent" if r.after.bills else "All energy at the value of energy",
        _saving_inputs, note="At the prices of the first year.", also="savings, bill saving, revenue, earnings", better="more", read=_saved, is_there=has_money,
    ),
    Figure(
        "bill_share", "Share of the bill saved", "", 1, r"\frac{S}{B_0}", said("Bills of a year, by month, to the cent"), all_of(_BEFORE, _AFTER), also="bill offset, bill covered",
        better="more", is_percentage=True, read=_share_of_bill, is_there=lambda r: has_bill(r) and has_demand(r), without="no bill",
    ),
    Figure(
        "purchase", "Purchase", "{currency}", 0, r"K = \sum_k K_k", said("Bill of materials and items of the purchase, or an own figure"), _purchase_inputs,
        also="cost, costs, investment, CAPEX, price of the plant", better="less", read=lambda r: economics.cash_year_by_year(r).purchase.total, is_there=has_money,
    ),
    Figure(
        "payback", "Payback", "years", 1, r"\sum_{t=0}^{n} F_t = 0", said(f"{SHORT}, section 3.6; linear within a year"), _cash_inputs, steps=_cash_steps,
        also="payback time, amortisation, break-even", better="less", read=lambda r: economics.cash_year_by_year(r).payback, is_there=has_money, without="never",
    ),
    Figure(
        "discounted_payback", "Payback, discounted", "years", 1, r"\sum_{t=0}^{n} \frac{F_t}{(1+i)^t} = 0", said(f"{SHORT}, section 3.6"), _cash_inputs, steps=_cash_steps,
        also="discounted payback", better="less", read=lambda r: economics.cash_year_by_year(r).discounted_payback, is_there=has_money, without="never", in_headline=False,
    ),
    Figure(
        "net_present_value", "Net present value", "{currency}", 0, r"\mathrm{NPV} = \sum_{t=0}^{N} \frac{F_t}{(1+i)^t}", said(f"{SHORT}, eq. 3-1"), _cash_inputs, steps=_cash_steps,
        also="NPV, present value", better="more", read=lambda r: economics.cash_year_by_year(r).net_present_value, is_there=has_money,
    ),
    Figure(
        "rate_of_return", "Internal rate of return", "", 1, r"\sum_{t=0}^{N} \frac{F_t}{(1+r)^t} = 0", said("Norstrom 1972: the root that counts where there are several"), _rates, steps=_cash_steps,
        also="IRR, return, yield of the money", better="more", is_percentage=True, read=lambda r: economics.cash_year_by_year(r).rate_of_return, is_there=has_money, without="none",
    ),
    Figure(
        "levelised_cost", "Levelised cost of energy", "{currency}/kWh", 3, r"\mathrm{LCOE} = \frac{\sum_t K_t (1+i)^{-t}}{\sum_t E_t (1+i)^{-t}}", said(f"{SHORT}, eq. 4-2"), _cash_inputs,
        note="Of the plant itself: without loans and tax relief. Without a grid, of each kWh that is served, with the fuel.", also="LCOE, cost of a kWh, cost of a served kWh", better="less", read=lambda r: economics.cash_year_by_year(r).levelised_cost, is_there=has_money,
        without="no energy",
    ),
    Figure(
        "value_of_more", "Value of a kWh more", "{currency}/kWh", 3, r"v = \frac{B(0.99\,E) - B(E)}{0.01\,E}", said("Bill of a yield one percent lower"), _saving_inputs, also="marginal value",
        better="more", read=economics.value_of_more, is_there=has_money, in_headline=False,
    ),
    Figure(
        "avoided_carbon", "CO₂ avoided a year", "kg", 0, r"m = \sum_t E(t)\,c(t)", lambda r: "CO₂ of grid energy by hour" if r.design.money.carbon_by_hour else "One factor for the year",
        lambda r: (
            *_energy_given(r),
            Input("c", "CO₂ of energy from the grid", "by hour" if r.design.money.carbon_by_hour else r.design.money.carbon, "g/kWh", "user setting or default", "/money/carbon"),
        ),
        note="Energy used in place of the grid's and energy given to it count alike; the making of the plant is not in it.", also="carbon, emissions, climate", better="more",
        read=lambda r: r.after.avoided_carbon, is_there=lambda r: has_money(r) and not r.after.is_off_grid, in_headline=False,
    ),
)  # fmt: skip
