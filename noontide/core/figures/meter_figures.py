"""Figures after the meter: demand, battery, and a place without a grid."""

from collections.abc import Callable

from noontide.core.behind_meter import off_grid
from noontide.core.behind_meter.battery_year import battery_year, of_battery
from noontide.core.figures.figure import SIMULATED, Figure, all_of, has_demand, meets_a_grid, none, said, serves_alone
from noontide.core.simulation.dc_side import DcSide
from noontide.core.simulation.results import Results
from noontide.core.working import Input


def _sum(r: Results, field: str) -> float:
    return float(getattr(r.after.metered, field).sum())


def _of_meter(symbol: str, name: str, field: str, origin: str = SIMULATED) -> Callable[[Results], Input]:
    return lambda r: Input(symbol, name, _sum(r, field), "kWh", origin)


def _of_side(symbol: str, name: str, read: Callable[[Results, DcSide], float], unit: str) -> Callable[[Results], Input]:
    """Of the DC side on which the battery stands."""

    def found(r: Results) -> Input:
        assert r.after.side is not None
        return Input(symbol, name, read(r, r.after.side.value), unit, SIMULATED)

    return found


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
_PRODUCED, _DIRECT = (
    _of_meter("E", "energy produced", "produced"),
    _of_meter(r"E_\mathrm{direct}", "used as it is produced", "direct"),
)
_STORED = _of_meter(r"E_\mathrm{stored}", "put into a battery", "sun_stored")
_UNUSED = _of_meter(r"E_\mathrm{unused}", "made, and neither used nor stored, where there is no grid", "unused")
_DEMAND = _of_meter(r"E_\mathrm{demand}", "demand", "demand", "sum of its sources")
DEMAND_FIGURES = (
    Figure(
        "demand_energy", "Demand", "kWh", 0, r"E_\mathrm{demand} = \sum_k \sum_t P_k(t)\,\Delta t", said("Sum of the sources of demand"), _source_inputs,
        steps=lambda r: () if r.after.demand is None else (Input(r"\max P", "highest mean power of an interval", float(r.after.demand.total.max()), "kW", "sum of the sources"),),
        quantity="demand", also="consumption, load, use, kWh a year", read=lambda r: _sum(r, "demand"), is_there=has_demand,
    ),
    Figure(
        "self_consumption", "Self-consumption", "", 1, r"s = \frac{E_\mathrm{direct}+E_\mathrm{stored}}{E+E_\mathrm{unused}}", said(METER), all_of(_PRODUCED, _DIRECT, _STORED, _UNUSED),
        note="Share of what is produced that is used as it is produced, or put into a battery.", quantity="direct_use", also="own consumption, direct use", better="more", is_percentage=True,
        read=lambda r: r.after.metered.self_consumption, is_there=has_demand,
    ),
    Figure(
        "self_sufficiency", "Self-sufficiency", "", 1, r"a = 1 - \frac{E_\mathrm{else}}{E_\mathrm{demand}+E_\mathrm{night}}", said(METER),
        all_of(_of_meter(r"E_\mathrm{else}", "from the grid, from a generator, or not met", "elsewhere"), _DEMAND, _of_meter(r"E_\mathrm{night}", "drawn by the plant itself", "own_use")),
        note="Share of the demand that sun and battery meet.", quantity="import", also="autarky, solar fraction, share of consumption covered", better="more", is_percentage=True,
        read=lambda r: r.after.metered.self_sufficiency, is_there=has_demand,
    ),
    Figure(
        "imported", "From the grid", "kWh", 0, r"E_\mathrm{import} = E_\mathrm{demand}+E_\mathrm{night}-E_\mathrm{direct}-E_\mathrm{discharge}+E_\mathrm{charge}", said(METER),
        all_of(_DEMAND, _of_meter(r"E_\mathrm{night}", "drawn by the plant itself", "own_use"), _DIRECT, _of_meter(r"E_\mathrm{discharge}", "from the battery", "discharge"), _of_meter(r"E_\mathrm{charge}", "from the grid into the battery", "grid_stored")), quantity="import", also="import, purchased energy, grid supply", better="less",
        read=lambda r: _sum(r, "imported"), is_there=meets_a_grid, in_headline=False,
    ),
    Figure(
        "exported", "To the grid", "kWh", 0, r"E_\mathrm{export} = E-E_\mathrm{direct}-E_\mathrm{stored}", said(METER), all_of(_PRODUCED, _DIRECT, _STORED), quantity="export",
        also="export, feed-in, surplus", read=lambda r: _sum(r, "exported"), is_there=meets_a_grid, in_headline=False,
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
        "battery_energy", "Battery, usable", "kWh", 1, r"C = n_\mathrm{s}\,n_\mathrm{p}\,C_1", said("Datasheet, or the size that was typed"),
        lambda r: (
            _of_battery("P", "power at the AC side", "power", "kW", "datasheet or user setting", "/storage/bank/power")(r),
            _of_battery(r"\eta", "efficiency of one way, with its inverter", "one_way", "", "square root of the round trip, times the inverter's"  , "/storage/bank/efficiency")(r),
        ),
        quantity="stored", also="battery size, capacity, storage", read=lambda r: of_battery(r, "energy"), is_there=_has_storage,
    ),
    Figure(
        "battery_cycles", "Full cycles a year", "", 0, r"n = \frac{E_\mathrm{discharge}}{\eta\,C}", said("Energy balance of the battery"),
        all_of(
            _of_meter(r"E_\mathrm{discharge}", "from the battery", "discharge"),
            _of_battery(r"\eta", "efficiency of one way, with its inverter", "one_way", "", "datasheet or user setting"),
            _of_battery("C", "usable energy", "energy", "kWh", "datasheet or user setting", "/storage/bank/energy"),
        ),
        quantity="discharge", also="battery cycles, throughput", read=lambda r: of_battery(r, "cycles"), is_there=_has_storage,
    ),
    Figure(
        "battery_lost", "Lost in the battery", "kWh", 0, r"E_\mathrm{lost} = E_\mathrm{charge}-E_\mathrm{discharge}-\Delta C", said("Energy balance of the battery"),
        all_of(_STORED, _of_meter(r"E_\mathrm{grid}", "from the grid into the battery", "grid_stored"), _of_meter(r"E_\mathrm{discharge}", "from the battery", "discharge")),
        note="In its cells, its inverter and by itself; its standby counts as the plant's own use.", also="battery losses, round trip", better="less",
        read=lambda r: of_battery(r, "lost"), is_there=_has_storage, in_headline=False,
    ),
    Figure(
        "clipped_stored", "Clipped energy stored", "kWh", 0, r"E = \sum_t \min\bigl(E_\mathrm{stored},\,E_\mathrm{held\,back}\bigr)", said("Energy balance of the battery"),
        all_of(_STORED, _of_side(r"E_\mathrm{held\,back}", "held back by the inverter, as it would arrive at the meter", lambda r, side: float(side.clipped.sum()) * r.calendar.hours_per_interval, "kWh"),
               _of_side(r"\eta", "from the DC terminals to the meter", lambda r, side: side.efficiency, ""), _of_side("P", "that the inverter passes at most", lambda r, side: side.power, "kW")),
        note="What the inverter would have held back and the battery on its DC side takes. Own use leaves room for what will be held back on the same day.",
        quantity="stored", also="DC coupling, hybrid inverter, clipping recovered", better="more", read=lambda r: _sum(r, "of_clipped"), is_there=lambda r: r.after.side is not None, in_headline=False,
    ),
    Figure(
        "battery_life", "Life of the battery", "years", 1, r"L = \frac{1}{\sum_i n_i/N(d_i) + 1/L_\mathrm{cal}}", said("ASTM E1049-85, rainflow; Palmgren-Miner"),
        lambda r: (
            Input(r"\sum n_i/N(d_i)", "wear of a year by its cycles", _wear_of(r), "", "cycles of each depth over those that the datasheet allows"),
        ),
        steps=_capacities, note="Until cycles and years together have taken it; then it is bought again in the cash of the years. Its capacity falls evenly to what is left at the end.", also="battery ageing, lifetime, wear", better="more",
        read=lambda r: of_battery(r, "life"), is_there=_has_storage, in_headline=False,
    ),
    Figure(
        "peak_import", "Highest import", "kW", 1, r"\hat P = \max_t P_\mathrm{import}(t)", said("Mean of an interval"), none, quantity="import", also="peak, demand peak", better="less",
        read=lambda r: of_battery(r, "peak"), is_there=lambda r: _has_storage(r) and not serves_alone(r), in_headline=False,
    ),
)  # fmt: skip


_UNMET = _of_meter(r"E_\mathrm{unmet}", "asked for and not served", "unmet")
OFF_GRID_FIGURES = (
    Figure(
        "lost_load", "Loss of load", "", 2, r"\ell = \frac{E_\mathrm{unmet}}{E_\mathrm{demand}+E_\mathrm{night}}", said("Energy balance of every interval, without a grid"),
        all_of(_UNMET, _DEMAND, _of_meter(r"E_\mathrm{night}", "drawn by plant and battery", "own_use")), note="Share of the energy that is asked for and not served.",
        also="LOLP, dark, outage, unmet load, energy not served", better="less", is_percentage=True, read=lambda r: off_grid.proof(r).loss_of_load, is_there=serves_alone,
    ),
    Figure(
        "dark_hours", "Dark hours", "h", 0, r"t = \sum_{P_\mathrm{unmet}(t)>0} \Delta t", said("Energy balance of every interval, without a grid"), all_of(_UNMET),
        steps=lambda r: (Input(r"t_\mathrm{max}", "longest of them in one piece", off_grid.proof(r).longest_gap, "h", SIMULATED),),
        also="outage, lights out, longest gap", better="less", read=lambda r: off_grid.proof(r).dark_hours, is_there=serves_alone,
    ),
    Figure(
        "unused_energy", "Unused energy of the sun", "kWh", 0, r"E_\mathrm{unused} = E-E_\mathrm{direct}-E_\mathrm{stored}", said("Energy balance of every interval, without a grid"),
        all_of(_UNUSED), also="curtailed, dumped, surplus", better="less", read=lambda r: off_grid.proof(r).unused,
        is_there=serves_alone, in_headline=False,
    ),
    Figure(
        "fuel", "Fuel of the generator", "l", 0, r"V = a\,E_\mathrm{gen} + b\,P_\mathrm{r}\,t", said("Linear curve of fuel"),
        lambda r: (
            Input(r"E_\mathrm{gen}", "energy of the generator", off_grid.proof(r).generated, "kWh", SIMULATED), Input("t", "hours that it runs", off_grid.proof(r).generator_hours, "h", SIMULATED),
        ),
        also="diesel, petrol, generator", better="less", read=lambda r: off_grid.proof(r).fuel, is_there=lambda r: serves_alone(r) and off_grid.place_of(r)[1].generator is not None,
        in_headline=False,
    ),
)  # fmt: skip


def _wear_of(r: Results) -> float | str:
    year = battery_year(r)
    return "not known: the datasheet states no cycles" if year is None or year.wear is None else year.wear
