"""The part of the command line that looks for designs: ways to connect modules, and a whole design from one sentence."""

import argparse
from typing import Any

from noontide.command_errors import fail, say
from noontide.design_files import read_design, write_design
from noontide.money_commands import add_use, series_named
from noontide.weather_commands import add_reading, read_weather

STARTS = {
    "power": "kW",
    "modules": "a number",
    "area": "m2",
    "demand": "kWh a year",
    "use-share": "%% of --yearly-use",
    "bill-share": "%% of the bill",
    "value-on": "m2 that the best net present value may take",
}
NEEDS = {"power": "kW", "area": "m2", "energy": "kWh a year", "demand": "%% of the demand"}


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide find-strings` and `noontide estimate`."""
    _add_estimate(commands)
    find = commands.add_parser("find-strings", help="ways to connect the modules of a surface to inverters, each with its year")
    find.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    find.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(find)
    add_use(find)
    find.add_argument("--surface", metavar="SURFACE", required=True)
    find.add_argument("--module", metavar="MODULE", required=True, help="of the library or the design")
    need = find.add_mutually_exclusive_group(required=True)
    need.add_argument("--number", type=int, metavar="N", help="modules")
    for name, unit in NEEDS.items():
        need.add_argument(f"--{name}", type=float, metavar="X", help=f"what they must reach [{unit}]")
    find.add_argument("--inverter", metavar="INVERTER", help="one model; without it every one of the library")
    find.add_argument("--leave-over", type=int, metavar="N", help="modules that may stay without a string")
    find.add_argument("--ratio", type=float, nargs=2, metavar=("LOWEST", "HIGHEST"), help="DC/AC")
    find.add_argument("--phases", type=int, choices=[1, 3])
    find.add_argument("--mix", action="store_true", help="two models together too")
    find.add_argument("--json", action="store_true", help="all that was found as JSON on standard output")
    find.add_argument("--take", type=int, metavar="N", help="write the design with the N-th way, from 1")
    find.add_argument("--out", metavar="OUT.json", default="-", help="that design; - for standard output")
    find.set_defaults(run=_find)


def _add_estimate(commands: argparse._SubParsersAction) -> None:
    one = commands.add_parser("estimate", help="a whole design and its year from one sentence")
    one.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(one)
    one.add_argument("--latitude", type=float, metavar="DEG", required=True)
    one.add_argument("--longitude", type=float, metavar="DEG", required=True)
    one.add_argument("--elevation", type=float, metavar="M", default=0.0)
    one.add_argument("--place", metavar="NAME", default="")
    one.add_argument(
        "--time-zone", metavar="NAME", help="without it, that of the weather file, which knows no daylight saving time"
    )
    start = one.add_mutually_exclusive_group(required=True)
    for name, unit in STARTS.items():
        start.add_argument(f"--{name}", type=float, metavar="X", help=f"what it starts from [{unit}]")
    for name in ("tilt", "azimuth"):
        one.add_argument(f"--{name}", type=float, metavar="DEG")
    one.add_argument("--mounting", metavar="WORDS")
    one.add_argument("--module", metavar="MODULE")
    one.add_argument("--inverter", metavar="INVERTER", help="one model; without it the best of those on sale")
    one.add_argument("--yearly-use", type=float, metavar="KWH", dest="use", help="of electricity, for the money")
    for name in ("use-shape", "price", "export-price", "work"):
        one.add_argument(f"--{name}", metavar="X")
    one.add_argument("--battery", action="store_true", default=None, help="with the battery that is proposed for the use")
    one.add_argument("--out", metavar="OUT.json", help="the design; - for standard output")
    one.set_defaults(run=_estimate)


def _estimate(given: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from noontide.core.estimate import CannotEstimate, EstimateRequest, estimate
    from noontide.core.fields import fault_in_words
    from noontide.core.simulation import Libraries
    from noontide.parts import built_in_parts

    weather = read_weather(given.weather, given.reading)
    start = next(name for name in STARTS if getattr(given, name.replace("-", "_")) is not None)
    asked = {name: value for name in EstimateRequest.model_fields if (value := getattr(given, name, None)) is not None}
    asked |= {"start": start.split("-")[0], "amount": getattr(given, start.replace("-", "_"))}
    try:
        request = EstimateRequest.model_validate(asked)
        found = estimate(request, given.time_zone or _zone(weather.calendar.utc_offset), Libraries(built_in_parts(), weather))
    except ValidationError as error:
        first = error.errors()[0]
        fail(f"--{'-'.join(map(str, first['loc'])).replace('_', '-')}: {fault_in_words(first)}")
    except CannotEstimate as error:
        fail(str(error))
    way, annual, best = found.way, found.results.annual, found.orientations
    if given.out:
        write_design(found.document, given.out)
    if given.out != "-":
        unit = built_in_parts().inverters[way.inverter]
        print(
            f"{way.modules} × {found.module.maker} {found.module.name}, {way.modules * found.module.power / 1000:.2f} kW, by {found.limited_by}"
        )
        print(f"{way.count} × {unit.maker} {unit.name}, DC/AC {way.dc_ac_ratio:.2f}, {way.left_over} modules left over")
        print(
            f"{annual.energy:,.0f} kWh a year, {annual.specific_yield:,.0f} kWh/kW, {round(100 * found.against_best, 1) or 0.0:+.1f} % against {best.best_tilt:.0f}° tilt and azimuth {best.best_azimuth:.0f}°"
        )
        if found.battery:
            print(found.battery)
        if found.battery_taken:
            met = found.results.after.metered.self_sufficiency
            print(f"With {found.battery_taken}: sun and battery meet {100 * met:.0f} % of the use")
    return 0


def _zone(utc_offset: float) -> str:
    """The zone of whole hours that has an offset all year; its names count the other way."""
    hours = round(utc_offset)
    return f"Etc/GMT{-hours:+d}" if hours else "Etc/GMT"


def _find(given: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from noontide.core.fields import first_fault
    from noontide.core.finding import CannotFind, FindRequest, find_strings
    from noontide.core.simulation import Libraries
    from noontide.core.verbs.editing import edited
    from noontide.parts import built_in_parts

    design, parts = read_design(given.scheme), built_in_parts()
    weather = read_weather(given.weather, given.reading)
    try:
        asked = FindRequest.model_validate(_asked(given))
        found = find_strings(design, asked, Libraries(parts, weather, series_named(given, design.site.time_zone)))
    except ValidationError as error:
        fail(first_fault(error).removeprefix("/: "))
    except CannotFind as error:
        fail(str(error))
    if given.take is not None:
        if not 1 <= given.take <= len(found.proposals):
            fail(f"--take: {len(found.proposals)} ways were found; choose 1 to {len(found.proposals)}.")
        document = edited(design.as_kept(), found.proposals[given.take - 1].patch, parts)
        write_design(document, given.out)
        say(f"Way {given.take} is in the design.")
    elif given.json:
        print(found.model_dump_json(indent=1))
    else:
        _print(found, parts.inverters)
    return 0


def _asked(given: argparse.Namespace) -> dict[str, Any]:
    asked: dict[str, Any] = {"surface": given.surface, "module": given.module, "mix": given.mix}
    for name in NEEDS:
        if (amount := getattr(given, name)) is not None:
            asked |= {"need": name, "amount": amount}
    optional = {"number": given.number, "inverter": given.inverter, "leave_over": given.leave_over, "phases": given.phases}
    if given.ratio:
        optional |= {"lowest_ratio": given.ratio[0], "highest_ratio": given.ratio[1]}
    return asked | {name: value for name, value in optional.items() if value is not None}


def _print(found: Any, inverters: Any) -> None:
    if not found.proposals:
        print(f"No way was found for {found.number} modules.")
        for one in found.rejected:
            print(f"{one.inverter}: {' '.join(one.reasons)}")
        return
    print(
        f"{'':>3} {'inverters':<34} {'modules':>7} {'DC/AC':>6} {'coldest Voc [V]':>16} {'clipped [%]':>12} {'energy [kWh]':>13}"
    )
    for number, way in enumerate(found.proposals, 1):
        words = " + ".join(
            f"{share.count} × {inverters[share.inverter].name if share.inverter in inverters else share.inverter}"
            for share in way.shares
        )
        print(
            f"{number:>3} {words[:34]:<34} {way.modules:>7} {way.dc_ac_ratio:>6.2f} {way.cold_voc:>7.0f} of {way.maximum_voltage:>5.0f} {100 * way.clipped_share:>12.2f} {way.energy:>13,.0f}"
        )
    if found.more:
        print(f"{found.more} more ways were not simulated.")
    if found.battery:
        print(found.battery)
