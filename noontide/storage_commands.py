"""The part of the command line that tells what a battery does."""

import argparse
import json
import sys
from typing import Any

from noontide.circuit_commands import write_sheets
from noontide.command_errors import fail
from noontide.design_files import read_design
from noontide.money_commands import add_use, series_named
from noontide.weather_commands import add_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide storage` and `noontide offgrid`."""
    storage = commands.add_parser("storage", help="what the battery of a design does in a year, and one of any size would do")
    storage.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    storage.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(storage)
    add_use(storage)
    storage.add_argument("--largest", type=float, metavar="SIZE", help="of the sizes that are looked at, kWh or kW")
    storage.add_argument("--by-power", action="store_true", help="sizes by power, the energy as it is")
    storage.add_argument("--json", action="store_true", help="as JSON")
    storage.set_defaults(run=_storage)
    offgrid = commands.add_parser("offgrid", help="a place without a grid: the worksheet, its hourly proof, and the map of sizes")
    offgrid.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    offgrid.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(offgrid)
    add_use(offgrid)
    offgrid.add_argument("--map", action="store_true", help="the share of energy that is missing, by array and battery")
    offgrid.add_argument("--sheet", metavar="OUT", help="write the summary on one page; .svg, .pdf or .dxf")
    offgrid.add_argument("--json", action="store_true", help="as JSON")
    offgrid.set_defaults(run=_offgrid)


def _storage(given: argparse.Namespace) -> int:
    from noontide.core.behind_meter.battery_year import battery_year
    from noontide.core.behind_meter.storage_picture import year_flows
    from noontide.core.behind_meter.storage_sizes import energy_of, next_kwh, propose, size_curve

    if given.largest is not None and not 0 < given.largest <= 1e6:
        fail(f"--largest lies between 0 and 1,000,000; it is {given.largest:g}")
    r = _simulated(given)
    battery, flows, curve = battery_year(r), year_flows(r), size_curve(r, None if given.by_power else given.largest)
    proposal, more = propose(r, curve), next_kwh(curve, energy_of(r))
    if given.by_power:
        curve = size_curve(r, given.largest, by="power")
    if given.json:
        sizes = {name: None if values is None else values.tolist() for name, values in vars(curve).items()}
        if sizes["payback"] is not None:  # JSON has no infinity
            sizes["payback"] = [None if years == float("inf") else years for years in sizes["payback"]]
        document = {"battery": None if battery is None else vars(battery), "flows": flows, "sizes": sizes, "next_kwh": more,
                    "proposal": None if proposal is None else vars(proposal)}  # fmt: skip
        json.dump(document, sys.stdout, indent=1)
        print()
        return 0
    if battery is not None:
        at = "" if battery.charge is None else f", {battery.charge:,.0f} Ah at {battery.voltage:g} V"
        print(f"  {battery.energy:,.4g} kWh usable{at}, {battery.power:,.4g} kW")
        print(
            f"  {battery.cycles:,.0f} full cycles a year; life {battery.life:,.1f} years; highest import {battery.peak:,.2f} kW"
        )
    for key, energy in flows.items():
        if energy > 0.05:
            print(f"  {key.replace('_', ' to ') if '_' in key else key + ' in the battery':<24}{energy:>14,.0f} kWh")
    print(
        f"  {'kW' if given.by_power else 'kWh':>8}{'self-sufficiency':>18}{'from the grid':>16}{'peak kW':>10}{'cycles':>8}{'saving':>10}{'payback':>9}"
    )
    for k in range(0, curve.energies.size, 4):
        saving = "" if curve.savings is None else f"{curve.savings[k]:,.2f}"
        years = (
            "" if curve.payback is None or k == 0 else "never" if curve.payback[k] == float("inf") else f"{curve.payback[k]:.1f}"
        )
        print(
            f"  {(curve.powers if given.by_power else curve.energies)[k]:>8,.1f}{curve.self_sufficiency[k]:>18.1%}{curve.imported[k]:>16,.0f}{curve.peak[k]:>10,.2f}{curve.cycles[k]:>8,.0f}{saving:>10}{years:>9}"
        )
    if proposal is not None:
        print(f"  {proposal.words}")
    return 0


def _simulated(given: argparse.Namespace):
    """The year of a design with its demand."""
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    design, weather = read_design(given.scheme), read_weather(given.weather, given.reading)
    try:
        r = simulate(design, weather, built_in_parts(), series=series_named(given, design.site.time_zone))
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    if r.after.problem is not None:
        fail(f"{given.scheme}: {r.after.problem.pointer}: {r.after.problem}")
    return r


def _offgrid(given: argparse.Namespace) -> int:
    from noontide.core.behind_meter.off_grid import proof, worksheet
    from noontide.core.behind_meter.size_map import choose, reliability_map
    from noontide.core.costs.economics import cash_year_by_year
    from noontide.core.drawings.off_grid_sheet import off_grid_sheet

    r = _simulated(given)
    try:
        lines, found = worksheet(r), proof(r)
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    if given.sheet:
        write_sheets([off_grid_sheet(r, r.design.name or "Design", "Summary of a place without a grid")], given.sheet)
    sizes = reliability_map(r) if given.map else None
    served = cash_year_by_year(r).levelised_cost if r.design.money.is_counted else None
    if given.json:
        document: dict[str, Any] = {"worksheet": [vars(line) for line in lines], "proof": vars(found), "served_cost": served}
        if sizes is not None:
            point = choose(r, sizes).point
            document["map"] = {name: values.tolist() for name, values in vars(sizes).items()}
            document["cheapest"] = None if point is None else vars(point)
        json.dump(document, sys.stdout, indent=1)
        print()
        return 0
    for line in lines:
        chosen = "" if line.chosen is None else f"{line.chosen:,.4g}"
        print(
            f"  {line.title:<22}{line.value:>12,.4g} {line.unit:<5}{chosen:>10}  {line.rule}{'. ' + line.verdict if line.verdict else ''}"
        )
    print(
        f"  {found.loss_of_load:.2%} of the energy is missing: {found.dark_hours:,.0f} dark hours, {found.longest_gap:,.0f} h at a stretch; {found.unused:,.0f} kWh of the sun are not used"
    )
    if found.generator_hours:
        print(
            f"  the generator runs {found.generator_hours:,.0f} h in {found.generator_starts:,.0f} starts and takes {found.fuel:,.0f} l"
        )
    print(f"  {found.words}")
    if served is not None:
        print(f"  a kWh that is served costs {served:.3f} {r.design.money.currency}, all years together")
    if sizes is not None:
        print(f"  {'kWh / kW':>9}" + "".join(f"{kw:>7.1f}" for kw in sizes.arrays[::3]))
        for k in range(sizes.batteries.size - 1, -1, -3):
            print(f"  {sizes.batteries[k]:>9.1f}" + "".join(f"{share:>7.1%}" for share in sizes.loss[k, ::3]))
        print(f"  {choose(r, sizes).words}")
    return 0
