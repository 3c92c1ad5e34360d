"""The part of the command line that tells what a battery does."""

import argparse
import json
import sys

from noontide.command_errors import fail
from noontide.design_files import read_design
from noontide.money_commands import add_use, series_named
from noontide.weather_commands import add_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide storage`."""
    storage = commands.add_parser("storage", help="what the battery of a design does in a year, and one of any size would do")
    storage.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    storage.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(storage)
    add_use(storage)
    storage.add_argument("--largest", type=float, metavar="KWH", help="of the sizes that are looked at")
    storage.add_argument("--json", action="store_true", help="as JSON")
    storage.set_defaults(run=_storage)


def _storage(given: argparse.Namespace) -> int:
    from noontide.core.simulation import simulate
    from noontide.core.simulation.storage_figures import battery_year
    from noontide.core.simulation.storage_picture import year_flows
    from noontide.core.simulation.storage_sizes import energy_of, next_kwh, propose, size_curve
    from noontide.parts import built_in_parts

    if given.largest is not None and not 0 < given.largest <= 1e6:
        fail(f"--largest lies between 0 and 1,000,000 kWh; it is {given.largest:g}")
    design, weather = read_design(given.scheme), read_weather(given.weather, given.reading)
    try:
        r = simulate(design, weather, built_in_parts(), series=series_named(given, design.site.time_zone))
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    if r.after.problem is not None:
        fail(f"{given.scheme}: {r.after.problem.pointer}: {r.after.problem}")
    battery, flows, curve = battery_year(r), year_flows(r), size_curve(r, given.largest)
    proposal, more = propose(r, curve), next_kwh(curve, energy_of(r))
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
    print(f"  {'kWh':>8}{'self-sufficiency':>18}{'from the grid':>16}{'peak kW':>10}{'cycles':>8}{'saving':>10}{'payback':>9}")
    for k in range(0, curve.energies.size, 4):
        saving = "" if curve.savings is None else f"{curve.savings[k]:,.2f}"
        years = (
            "" if curve.payback is None or k == 0 else "never" if curve.payback[k] == float("inf") else f"{curve.payback[k]:.1f}"
        )
        print(
            f"  {curve.energies[k]:>8,.1f}{curve.self_sufficiency[k]:>18.1%}{curve.imported[k]:>16,.0f}{curve.peak[k]:>10,.2f}{curve.cycles[k]:>8,.0f}{saving:>10}{years:>9}"
        )
    if proposal is not None:
        print(f"  {proposal.words}")
    return 0
