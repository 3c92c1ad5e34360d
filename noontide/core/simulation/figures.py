"""Every figure of the Headline and its working, said once: title, unit, equation, inputs, source."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from noontide.core.simulation import economics, off_grid
from noontide.core.simulation.module_power import TEMPERATURE_NAMES
from noontide.core.simulation.plane_irradiance import sky_source
from noontide.core.simulation.results import Results
from noontide.core.simulation.rules_yield import rules_yield, rules_yields
from noontide.core.simulation.storage_figures import battery_year, of_battery
from noontide.core.working import Input

SIMULATED = "simulated, sum over the year"
IEC = "IEC 61724-1:2021"
Inputs = Callable[[Results], tuple[Input, ...]]


def _none(_: Results) -> tuple[Input, ...]:
    return ()


def _always(_: Results) -> bool:
    return True


def _has_demand(r: Results) -> bool:
    return r.after.has_demand


def _is_off_grid(r: Results) -> bool:
    return r.after.is_off_grid and r.after.has_demand


def _meets_a_grid(r: Results) -> bool:
    return r.after.has_demand and not _is_off_grid(r)


def _has_bill(r: Results) -> bool:
    return r.after.bills is not None


def _has_money(r: Results) -> bool:
    return r.design.money.is_counted


@dataclass(frozen=True)
class Figure:
    """A figure of the year."""

    key: str  # field of `Annual` where there is no `read`
    title: str  # the trade's name
    unit: str  # `{currency}` stands for the design's
    decimals: int  # as the Headline shows it; a percentage has them after the point
    equation: str  # TeX
    source: Callable[[Results], str]
    inputs: Inputs
    steps: Inputs = _none  # intermediate values
    note: str = ""
    quantity: str = ""  # hourly quantity that shows the same over the year
    also: str = ""  # other words that a practitioner looks for
    better: Literal["more", "less", ""] = ""  # which change is a gain; none where it depends
    is_percentage: bool = False
    in_headline: bool = True
    read: Callable[[Results], float | None] | None = None
    is_there: Callable[[Results], bool] = _always
    without: str = ""  # word where there is no value

    def value(self, results: Results) -> float | None:
        """None where there is none, though the figure is asked for: a payback that never comes."""
        return self.read(results) if self.read is not None else getattr(results.annual, self.key)

    def unit_of(self, results: Results) -> str:
        return self.unit.replace("{currency}", results.design.money.currency)


def _said(text: str) -> Callable[[Results], str]:
    return lambda _: text


def _rated(r: Results) -> Input:
    return Input("P_0", "rated DC power", r.annual.dc_power, "kW", "modules' datasheets, in all")


def _rated_ac(r: Results) -> Input:
    return Input(r"P_\mathrm{AC}", "rated AC power", r.annual.ac_power, "kW", "inverters' datasheets, in all")


def mean_cell_temperature(r: Results) -> Input:
    """Irradiance-weighted, over all sub-arrays by their irradiation and power."""
    weights = r.plant.module_counts * r.plant.module_powers * [m.reference.sum() for m in r.members]
    means = np.array([m.mean_cell_temperature for m in r.members])
    mean = float(np.average(means, weights=weights)) if weights.sum() > 0 else 0.0
    model = TEMPERATURE_NAMES[r.design.models.temperature]
    return Input("T_c", "irradiance-weighted mean cell temperature", mean, "°C", f"simulated, {model} model")


def _energy_inputs(r: Results) -> tuple[Input, ...]:
    return (
        Input(r"\Delta t", "length of an interval", r.calendar.hours_per_interval, "h", "weather data"),
        Input("N", "intervals", r.calendar.intervals, "", "weather data"),
        Input(
            r"E_\mathrm{start}",
            "horizontal irradiation on the module area",
            r.cascade.start,
            "kWh",
            "weather data and module area",
        ),
        Input(r"\sum_k \Delta E_k", "all lines of the Cascade", sum(e.energy for e in r.cascade.entries), "kWh", "the Cascade"),
    )


def _power_inputs(r: Results) -> tuple[Input, ...]:
    return tuple(
        Input(
            rf"n_{{{k + 1}}} P_{{{k + 1}}}", f"{r.plant.subarrays[k].name}: {int(r.plant.module_counts[k])} × {module.maker} {module.name}",
            float(r.plant.module_counts[k] * module.power / 1000), "kW", "strings × modules × inverters, datasheet", f"/subarrays/{name}",
        )
        for k, (name, module) in enumerate(zip(r.plant.subarray_ids, r.plant.modules, strict=True))
    )  # fmt: skip


def _plane_inputs(r: Results) -> tuple[Input, ...]:
    return tuple(
        Input(
            rf"H_{{{k + 1}}}", f"in the plane of {subarray.name}",
            float(r.members[k].reference.sum()), "kWh/m²", "an unshaded sensor in the plane: behind the horizon; the shade of a scene, of rows, or given by hand is a loss", f"/surfaces/{subarray.surface}",
        )
        for k, subarray in enumerate(r.plant.subarrays)
    )  # fmt: skip


def _corrected_inputs(r: Results) -> tuple[Input, ...]:
    gamma = float(np.average([m.power_coefficient for m in r.plant.modules], weights=r.plant.module_counts))
    return (
        Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
        Input(r"\gamma", "temperature coefficient of power", gamma, "%/K", "module's datasheet"),
        mean_cell_temperature(r),
    )


def _sum(r: Results, field: str) -> float:
    return float(getattr(r.after.metered, field).sum())


def _input(symbol: str, name: str, field: str, origin: str = SIMULATED) -> Callable[[Results], Input]:
    return lambda r: Input(symbol, name, _sum(r, field), "kWh", origin)


def _all(*inputs: Callable[[Results], Input]) -> Inputs:
    return lambda r: tuple(one(r) for one in inputs)


def _source_inputs(r: Results) -> tuple[Input, ...]:
    """Energy of each source of demand."""
    used = r.after.demand
    if used is None:
        return ()
    found = []
    for key, power in used.by_source.items():
        source, _, part = key.partition("/")
        name = r.design.demand.sources[source].name
        energy = float(power.sum()) * r.calendar.hours_per_interval
        found.append(
            Input("E", f"{name}, {part}" if part else name, energy, "kWh", "a source of demand", f"/demand/sources/{source}")
        )
    return tuple(found)


def _has_storage(r: Results) -> bool:
    return r.after.storage is not None


def _of_battery(symbol: str, name: str, field: str, unit: str, origin: str, pointer: str = "") -> Callable[[Results], Input]:
    return lambda r: Input(symbol, name, of_battery(r, field), unit, origin, pointer)


METER = "Energy balance at the meter, interval by interval"
_PRODUCED, _DIRECT = _input("E", "energy produced", "produced"), _input(r"E_\mathrm{direct}", "used as it is produced", "direct")
_STORED = _input(r"E_\mathrm{stored}", "put into a battery", "sun_stored")
_UNUSED = _input(r"E_\mathrm{unused}", "made, and neither used nor stored, where there is no grid", "unused")
_DEMAND = _input(r"E_\mathrm{demand}", "demand", "demand", "sum of its sources")
DEMAND_FIGURES = (
    Figure(
        "demand_energy", "Demand", "kWh", 0, r"E_\mathrm{demand} = \sum_k \sum_t P_k(t)\,\Delta t", _said("Sum of the sources of demand"), _source_inputs,
        steps=lambda r: () if r.after.demand is None else (Input(r"\max P", "highest mean power of an interval", float(r.after.demand.total.max()), "kW", "sum of the sources"),),
        quantity="demand", also="consumption, load, use, kWh a year", read=lambda r: _sum(r, "demand"), is_there=_has_demand,
    ),
    Figure(
        "self_consumption", "Self-consumption", "", 1, r"s = \frac{E_\mathrm{direct}+E_\mathrm{stored}}{E+E_\mathrm{unused}}", _said(METER), _all(_PRODUCED, _DIRECT, _STORED, _UNUSED),
        note="Share of what is produced that is used as it is produced, or put into a battery.", quantity="direct_use", also="own consumption, direct use", better="more", is_percentage=True,
        read=lambda r: r.after.metered.self_consumption, is_there=_has_demand,
    ),
    Figure(
        "self_sufficiency", "Self-sufficiency", "", 1, r"a = 1 - \frac{E_\mathrm{else}}{E_\mathrm{demand}+E_\mathrm{night}}", _said(METER),
        _all(_input(r"E_\mathrm{else}", "from the grid, from a generator, or not met", "elsewhere"), _DEMAND, _input(r"E_\mathrm{night}", "drawn by the plant itself", "own_use")),
        note="Share of the demand that sun and battery meet.", quantity="import", also="autarky, solar fraction, share of consumption covered", better="more", is_percentage=True,
        read=lambda r: r.after.metered.self_sufficiency, is_there=_has_demand,
    ),
    Figure(
        "imported", "From the grid", "kWh", 0, r"E_\mathrm{import} = E_\mathrm{demand}+E_\mathrm{night}-E_\mathrm{direct}-E_\mathrm{discharge}+E_\mathrm{charge}", _said(METER),
        _all(_DEMAND, _input(r"E_\mathrm{night}", "drawn by the plant itself", "own_use"), _DIRECT, _input(r"E_\mathrm{discharge}", "from the battery", "discharge"), _input(r"E_\mathrm{charge}", "from the grid into the battery", "grid_stored")), quantity="import", also="import, purchased energy, grid supply", better="less",
        read=lambda r: _sum(r, "imported"), is_there=_meets_a_grid, in_headline=False,
    ),
    Figure(
        "exported", "To the grid", "kWh", 0, r"E_\mathrm{export} = E-E_\mathrm{direct}-E_\mathrm{stored}", _said(METER), _all(_PRODUCED, _DIRECT, _STORED), quantity="export",
        also="export, feed-in, surplus", read=lambda r: _sum(r, "exported"), is_there=_meets_a_grid, in_headline=False,
    ),
)  # fmt: skip


def _capacities(r: Results) -> tuple[Input, ...]:
    year = battery_year(r)
    if year is None:
        return ()
    years = range(1, r.design.money.years + 1)
    return tuple(
        Input(rf"C_{{{n}}}", f"usable at the begin of year {n}", year.capacity(n), "kWh", "linear over its life") for n in years
    )


STORAGE_FIGURES = (
    Figure(
        "battery_energy", "Battery, usable", "kWh", 1, r"C = n_\mathrm{s}\,n_\mathrm{p}\,C_1", _said("Datasheet, or the size that was typed"),
        lambda r: (
            _of_battery("P", "power at the AC side", "power", "kW", "datasheet or user setting", "/storage/bank/power")(r),
            _of_battery(r"\eta", "efficiency of one way, with its inverter", "one_way", "", "square root of the round trip, times the inverter's"  , "/storage/bank/efficiency")(r),
        ),
        quantity="stored", also="battery size, capacity, storage", read=lambda r: of_battery(r, "energy"), is_there=_has_storage,
    ),
    Figure(
        "battery_cycles", "Full cycles a year", "", 0, r"n = \frac{E_\mathrm{discharge}}{\eta\,C}", _said("Energy balance of the battery"),
        _all(
            _input(r"E_\mathrm{discharge}", "from the battery", "discharge"),
            _of_battery(r"\eta", "efficiency of one way, with its inverter", "one_way", "", "datasheet or user setting"),
            _of_battery("C", "usable energy", "energy", "kWh", "datasheet or user setting", "/storage/bank/energy"),
        ),
        quantity="discharge", also="battery cycles, throughput", read=lambda r: of_battery(r, "cycles"), is_there=_has_storage,
    ),
    Figure(
        "battery_lost", "Lost in the battery", "kWh", 0, r"E_\mathrm{lost} = E_\mathrm{charge}-E_\mathrm{discharge}-\Delta C", _said("Energy balance of the battery"),
        _all(_STORED, _input(r"E_\mathrm{grid}", "from the grid into the battery", "grid_stored"), _input(r"E_\mathrm{discharge}", "from the battery", "discharge")),
        note="In its cells, its inverter and by itself; its standby counts as the plant's own use.", also="battery losses, round trip", better="less",
        read=lambda r: of_battery(r, "lost"), is_there=_has_storage, in_headline=False,
    ),
    Figure(
        "battery_life", "Life of the battery", "years", 1, r"L = \frac{1}{\sum_i n_i/N(d_i) + 1/L_\mathrm{cal}}", _said("ASTM E1049-85, rainflow; Palmgren-Miner"),
        lambda r: (
            Input(r"\sum n_i/N(d_i)", "wear of a year by its cycles", _wear_of(r), "", "cycles of each depth over those that the datasheet allows"),
        ),
        steps=_capacities, note="Until cycles and years together have taken it; then it is bought again in the cash of the years. Its capacity falls evenly to what is left at the end.", also="battery ageing, lifetime, wear", better="more",
        read=lambda r: of_battery(r, "life"), is_there=_has_storage, in_headline=False,
    ),
    Figure(
        "peak_import", "Highest import", "kW", 1, r"\hat P = \max_t P_\mathrm{import}(t)", _said("Mean of an interval"), _none, quantity="import", also="peak, demand peak", better="less",
        read=lambda r: of_battery(r, "peak"), is_there=lambda r: _has_storage(r) and not _is_off_grid(r), in_headline=False,
    ),
)  # fmt: skip


_UNMET = _input(r"E_\mathrm{unmet}", "asked for and not served", "unmet")
OFF_GRID_FIGURES = (
    Figure(
        "lost_load", "Loss of load", "", 2, r"\ell = \frac{E_\mathrm{unmet}}{E_\mathrm{demand}+E_\mathrm{night}}", _said("Energy balance of every interval, without a grid"),
        _all(_UNMET, _DEMAND, _input(r"E_\mathrm{night}", "drawn by plant and battery", "own_use")), note="Share of the energy that is asked for and not served.",
        also="LOLP, dark, outage, unmet load, energy not served", better="less", is_percentage=True, read=lambda r: off_grid.proof(r).loss_of_load, is_there=_is_off_grid,
    ),
    Figure(
        "dark_hours", "Dark hours", "h", 0, r"t = \sum_{P_\mathrm{unmet}(t)>0} \Delta t", _said("Energy balance of every interval, without a grid"), _all(_UNMET),
        steps=lambda r: (Input(r"t_\mathrm{max}", "longest of them in one piece", off_grid.proof(r).longest_gap, "h", SIMULATED),),
        also="outage, lights out, longest gap", better="less", read=lambda r: off_grid.proof(r).dark_hours, is_there=_is_off_grid,
    ),
    Figure(
        "unused_energy", "Unused energy of the sun", "kWh", 0, r"E_\mathrm{unused} = E-E_\mathrm{direct}-E_\mathrm{stored}", _said("Energy balance of every interval, without a grid"),
        _all(_UNUSED), also="curtailed, dumped, surplus", better="less", read=lambda r: off_grid.proof(r).unused,
        is_there=_is_off_grid, in_headline=False,
    ),
    Figure(
        "fuel", "Fuel of the generator", "l", 0, r"V = a\,E_\mathrm{gen} + b\,P_\mathrm{r}\,t", _said("Linear curve of fuel"),
        lambda r: (
            Input(r"E_\mathrm{gen}", "energy of the generator", off_grid.proof(r).generated, "kWh", SIMULATED), Input("t", "hours that it runs", off_grid.proof(r).generator_hours, "h", SIMULATED),
        ),
        also="diesel, petrol, generator", better="less", read=lambda r: off_grid.proof(r).fuel, is_there=lambda r: _is_off_grid(r) and r.design.storage.off_grid is not None and r.design.storage.off_grid.generator is not None,
        in_headline=False,
    ),
)  # fmt: skip


def _wear_of(r: Results) -> float | str:
    year = battery_year(r)
    return "not known: the datasheet states no cycles" if year is None or year.wear is None else year.wear


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
    if _is_off_grid(r):
        return Input(r"E_\mathrm{served}", "energy served", economics.served_energy(r), "kWh", SIMULATED), value
    return Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED), value


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
        _saving_inputs, note="At the prices of the first year.", also="savings, bill saving, revenue, earnings", better="more", read=_saved, is_there=_has_money,
    ),
    Figure(
        "bill_share", "Share of the bill saved", "", 1, r"\frac{S}{B_0}", _said("Bills of a year, by month, to the cent"), _all(_BEFORE, _AFTER), also="bill offset, bill covered",
        better="more", is_percentage=True, read=_share_of_bill, is_there=lambda r: _has_bill(r) and _has_demand(r), without="no bill",
    ),
    Figure(
        "purchase", "Purchase", "{currency}", 0, r"K = \sum_k K_k", _said("Bill of materials and items of the purchase, or an own figure"), _purchase_inputs,
        also="cost, costs, investment, CAPEX, price of the plant", better="less", read=lambda r: economics.cash_year_by_year(r).purchase.total, is_there=_has_money,
    ),
    Figure(
        "payback", "Payback", "years", 1, r"\sum_{t=0}^{n} F_t = 0", _said(f"{SHORT}, section 3.6; linear within a year"), _cash_inputs, steps=_cash_steps,
        also="payback time, amortisation, break-even", better="less", read=lambda r: economics.cash_year_by_year(r).payback, is_there=_has_money, without="never",
    ),
    Figure(
        "discounted_payback", "Payback, discounted", "years", 1, r"\sum_{t=0}^{n} \frac{F_t}{(1+i)^t} = 0", _said(f"{SHORT}, section 3.6"), _cash_inputs, steps=_cash_steps,
        also="discounted payback", better="less", read=lambda r: economics.cash_year_by_year(r).discounted_payback, is_there=_has_money, without="never", in_headline=False,
    ),
    Figure(
        "net_present_value", "Net present value", "{currency}", 0, r"\mathrm{NPV} = \sum_{t=0}^{N} \frac{F_t}{(1+i)^t}", _said(f"{SHORT}, eq. 3-1"), _cash_inputs, steps=_cash_steps,
        also="NPV, present value", better="more", read=lambda r: economics.cash_year_by_year(r).net_present_value, is_there=_has_money,
    ),
    Figure(
        "rate_of_return", "Internal rate of return", "", 1, r"\sum_{t=0}^{N} \frac{F_t}{(1+r)^t} = 0", _said("Norstrom 1972: the root that counts where there are several"), _rates, steps=_cash_steps,
        also="IRR, return, yield of the money", better="more", is_percentage=True, read=lambda r: economics.cash_year_by_year(r).rate_of_return, is_there=_has_money, without="none",
    ),
    Figure(
        "levelised_cost", "Levelised cost of energy", "{currency}/kWh", 3, r"\mathrm{LCOE} = \frac{\sum_t K_t (1+i)^{-t}}{\sum_t E_t (1+i)^{-t}}", _said(f"{SHORT}, eq. 4-2"), _cash_inputs,
        note="Of the plant itself: without loans and tax relief. Without a grid, of each kWh that is served, with the fuel.", also="LCOE, cost of a kWh, cost of a served kWh", better="less", read=lambda r: economics.cash_year_by_year(r).levelised_cost, is_there=_has_money,
        without="no energy",
    ),
    Figure(
        "value_of_more", "Value of a kWh more", "{currency}/kWh", 3, r"v = \frac{B(0.99\,E) - B(E)}{0.01\,E}", _said("Bill of a yield one percent lower"), _saving_inputs, also="marginal value",
        better="more", read=economics.value_of_more, is_there=_has_money, in_headline=False,
    ),
    Figure(
        "avoided_carbon", "CO₂ avoided a year", "kg", 0, r"m = \sum_t E(t)\,c(t)", lambda r: "CO₂ of grid energy by hour" if r.design.money.carbon_by_hour else "One factor for the year",
        lambda r: (
            Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED),
            Input("c", "CO₂ of energy from the grid", "by hour" if r.design.money.carbon_by_hour else r.design.money.carbon, "g/kWh", "user setting or default", "/money/carbon"),
        ),
        note="Energy used in place of the grid's and energy given to it count alike; the making of the plant is not in it.", also="carbon, emissions, climate", better="more",
        read=lambda r: r.after.avoided_carbon, is_there=lambda r: _has_money(r) and not r.after.is_off_grid, in_headline=False,
    ),
)  # fmt: skip


FIGURES: tuple[Figure, ...] = (
    Figure(
        "energy", "Annual energy", "kWh", 0, r"E = \sum_t P_\mathrm{delivered}(t)\,\Delta t = E_\mathrm{start} + \sum_k \Delta E_k",
        lambda r: f"{IEC}, output energy; the energy balance closes to {r.cascade.residual:.0e}", _energy_inputs,
        steps=lambda r: (Input(r"\max P", "highest power", r.annual.peak_power, "kW", SIMULATED),),
        note="Night consumption of the inverters is subtracted.", quantity="delivered", also="yield, kWh, production, generation", better="more",
    ),
    Figure(
        "specific_yield", "Specific yield", "kWh/kW", 0, r"Y_f = \frac{E}{P_0}", _said(f"{IEC}, final yield"),
        lambda r: (Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED), _rated(r)), also="final yield, Yf, kWh/kWp", better="more",
    ),
    Figure(
        "performance_ratio", "Performance ratio", "", 1, r"PR = \frac{Y_f}{Y_r},\quad Y_r = \frac{H_i}{1\,\mathrm{kW/m^2}}", _said(f"{IEC}, performance ratio"),
        lambda r: (
            Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
            Input("H_i", "plane irradiation", r.annual.plane_irradiation, "kWh/m²", "an unshaded sensor in the plane: behind the horizon; the shade of a scene, of rows, or given by hand is a loss"),
        ),
        note="Planes are weighted by rated power.", also="PR", better="more", is_percentage=True,
    ),
    Figure(
        "temperature_corrected_performance_ratio", "PR at 25 °C", "", 1,
        r"PR_{25} = \frac{Y_f}{\sum_t \frac{G_i(t)}{1\,\mathrm{kW/m^2}}\bigl(1+\gamma\,(T_c(t)-25)\bigr)\Delta t}",
        _said(f"{IEC}, 25 °C temperature-corrected performance ratio"), _corrected_inputs, also="temperature-corrected performance ratio", better="more", is_percentage=True,
    ),
    Figure(
        "dc_power", "DC power", "kW", 2, r"P_0 = \sum_k n_k P_k", _said(f"{IEC}, array power rating at standard test conditions"), _power_inputs,
        also="kWp, peak power, Pmax, array size, STC",
    ),
    Figure(
        "dc_ac_ratio", "DC/AC ratio", "", 2, r"r = \frac{P_0}{P_\mathrm{AC}}", _said("Ratio of the ratings"), lambda r: (_rated(r), _rated_ac(r)),
        steps=lambda r: (
            Input(r"E_\mathrm{clip}", "clipping", -r.cascade["clipping"].energy, "kWh", SIMULATED),
            Input(r"t_\mathrm{clip}", "hours with clipping", r.annual.clipped_hours, "h", SIMULATED),
        ),
        also="inverter loading ratio, ILR, oversizing, sizing ratio",
    ),
    Figure(
        "capacity_factor", "Capacity factor", "", 1, r"CF = \frac{E}{P_\mathrm{AC}\,T}", _said("IEC TS 61724-3:2016, capacity factor on the AC rating"),
        lambda r: (
            Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED), _rated_ac(r),
            Input("T", "hours of the year", r.calendar.intervals * r.calendar.hours_per_interval, "h", "weather data"),
        ),
        also="CF, load factor", better="more", is_percentage=True,
    ),
    Figure(
        "plane_irradiation", "Plane irradiation", "kWh/m²", 0,
        r"H_i = \frac{\sum_k P_k H_k}{\sum_k P_k},\quad H_k=\sum_t (G_\mathrm{beam}+G_\mathrm{sky}+G_\mathrm{ground})\,\Delta t",
        lambda r: sky_source(r.design.models), _plane_inputs, quantity="poa", also="POA, insolation, GTI", better="more",
    ),
    Figure(
        "start", "Horizontal irradiation on the module area", "kWh", 0, r"E_\mathrm{start} = A \sum_t \mathrm{GHI}(t)\,\Delta t", _said(f"{IEC}, horizontal irradiation"),
        lambda r: (
            Input("A", "area of the modules", r.annual.area, "m²", "datasheets, number of modules"),
            Input(r"\sum \mathrm{GHI}\,\Delta t", "horizontal irradiation", r.annual.horizontal_irradiation, "kWh/m²", r.weather.title),
        ),
        quantity="ghi", also="GHI", in_headline=False, read=lambda r: r.cascade.start,
    ),
    *DEMAND_FIGURES,
    *STORAGE_FIGURES,
    *OFF_GRID_FIGURES,
    *MONEY_FIGURES,
)  # fmt: skip
FIGURE_OF = {figure.key: figure for figure in FIGURES}


def figures_of(results: Results) -> dict[str, float | None]:
    """Every figure of the Headline that a design has, by key, in the order in which they are shown."""
    return {figure.key: figure.value(results) for figure in FIGURES if figure.in_headline and figure.is_there(results)}
