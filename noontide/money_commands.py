"""The part of the command line that tells use, bills and tariffs."""

import argparse
import json
import sys
from pathlib import Path

from noontide.command_errors import fail
from noontide.design_files import read_design, read_validated
from noontide.weather_commands import add_reading, read_weather


def add(commands) -> None:
    """Add `noontide demand`, `noontide tariff` and `noontide bill`."""
    demand = commands.add_parser("demand", help="use of electricity from its sources").add_subparsers(
        required=True, metavar="show"
    )
    show = demand.add_parser("show", help="energy by month of each source, peak, what is not served")
    show.add_argument("sources", metavar="SOURCES.json", help="sources of demand; - for standard input")
    show.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(show)
    show.add_argument("--json", action="store_true", help="as JSON")
    show.set_defaults(run=_demand_show)
    tariff = commands.add_parser("tariff", help="tariffs as data").add_subparsers(required=True, metavar="check | list")
    check = tariff.add_parser("check", help="whether a tariff is complete: every hour with one price, tiers that rise")
    check.add_argument("file", metavar="TARIFF.json")
    check.set_defaults(run=_tariff_check)
    tariff.add_parser("list", help="the tariffs that ship").set_defaults(run=_tariff_list)
    bill = commands.add_parser("bill", help="the bill of a year by month, with the plant and without it")
    bill.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    bill.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(bill)
    bill.add_argument("--demand", metavar="SOURCES.json", required=True, help="who uses the energy, and when")
    bill.add_argument("--tariff", metavar="FILE|ID", required=True, help="a tariff, or one of `noontide tariff list`")
    bill.add_argument("--before", metavar="FILE|ID", help="the tariff without the plant, where it is another")
    bill.add_argument("--lines", action="store_true", help="every line of every month")
    bill.add_argument("--json", action="store_true", help="as JSON")
    bill.set_defaults(run=_bill)


def _sources(path: str):
    from noontide.core.demand import read_sources

    return read_validated(path, "demand", read_sources)


def _tariff(name: str):
    from noontide.core.money import read_tariff
    from noontide.tariffs import built_in_tariffs

    shipped = built_in_tariffs()
    if name in shipped:
        return shipped[name]
    if not Path(name).exists() and not name.endswith(".json"):
        fail(f"there is no tariff '{name}' and no such file; the tariffs that ship are {', '.join(shipped)}")
    return read_validated(name, "tariff", read_tariff)


def _demand_show(given: argparse.Namespace) -> int:
    import numpy as np

    from noontide.core.calendar import MONTHS
    from noontide.core.demand import hourly

    weather, sources = read_weather(given.weather, given.reading), _sources(given.sources)
    found = hourly(sources, weather.calendar, weather)
    hours = weather.calendar.hours_per_interval
    months = {key: weather.calendar.monthly_sums(power) * hours for key, power in found.by_source.items() if key}
    total = found.total
    peak = int(np.argmax(total))
    when = str(weather.calendar.local_starts[peak]).replace("T", " ")
    if given.json:
        json.dump(
            {"by_month": {key: np.round(values, 6).tolist() for key, values in months.items()}, "energy": float(total.sum()) * hours, "peak": float(total[peak]),
             "peak_at": when, "unserved": found.unserved, "notes": found.notes},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    print(f"  {'kWh':<24}" + "".join(f"{month[:3]:>8}" for month in MONTHS) + f"{'Year':>10}")
    for key, values in months.items():
        source, _, part = key.partition("/")
        name = sources.sources[source].name or source
        print(
            f"  {(f'{name}, {part}' if part else name)[:23]:<24}"
            + "".join(f"{value:>8,.0f}" for value in values)
            + f"{values.sum():>10,.0f}"
        )
    sums = weather.calendar.monthly_sums(total) * hours
    print(f"  {'total':<24}" + "".join(f"{value:>8,.0f}" for value in sums) + f"{sums.sum():>10,.0f}")
    print(f"  peak {total[peak]:,.2f} kW, {when}")
    for key, energy in found.unserved.items():
        print(f"  ! {sources.sources[key].name or key}: {energy:,.0f} kWh a year are asked for and not served")
    for key, notes in found.notes.items():
        for note in notes:
            print(f"  {sources.sources[key].name or key}: {note}")
    return 0


def _tariff_check(given: argparse.Namespace) -> int:
    from noontide.core.money import read_tariff

    tariff = read_validated(given.file, "tariff", read_tariff)
    print(f"{tariff.name}: complete; every hour of the year has one price.")
    return 0


def _tariff_list(given: argparse.Namespace) -> int:
    from noontide.tariffs import built_in_tariffs

    for key, tariff in built_in_tariffs().items():
        print(f"  {key:<20}{tariff.name}. {tariff.source}")
    return 0


def _bill(given: argparse.Namespace) -> int:
    import numpy as np

    from noontide.core.calendar import MONTHS
    from noontide.core.demand import hourly
    from noontide.core.demand.meter import at_the_meter
    from noontide.core.money import bill
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    design, sources = read_design(given.scheme), _sources(given.demand)
    after_tariff = _tariff(given.tariff)
    before_tariff = _tariff(given.before) if given.before else after_tariff
    if before_tariff.currency != after_tariff.currency:
        fail(f"the tariffs are in {before_tariff.currency} and {after_tariff.currency}; give two of one currency")
    weather = read_weather(given.weather, given.reading)
    try:
        results = simulate(design, weather, built_in_parts())
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    calendar, zone = results.calendar, sources.time_zone or design.site.time_zone
    use = hourly(sources.model_copy(update={"time_zone": zone}), calendar, results.weather).total
    metered = at_the_meter(results.delivered / 1000, use, calendar)
    after = bill(after_tariff, metered.imported, metered.exported, calendar, zone)
    before = bill(before_tariff, metered.demand, np.zeros(calendar.intervals), calendar, zone)
    saving = round(before.total - after.total, 2)
    if given.json:
        lines = [
            {
                name: getattr(line, name)
                for name in ("month", "kind", "key", "title", "quantity", "unit", "price", "amount", "interval")
            }
            for line in after.lines
        ]
        json.dump(
            {"currency": after.currency, "before": before.total, "after": after.total, "saving": saving, "before_by_month": before.by_month,
             "after_by_month": after.by_month, "produced": float(metered.produced.sum()), "demand": float(metered.demand.sum()), "imported": float(metered.imported.sum()),
             "exported": float(metered.exported.sum()), "self_consumption": metered.self_consumption, "self_sufficiency": metered.self_sufficiency, "lines": lines},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    print(
        f"  {metered.produced.sum():,.0f} kWh made, {metered.demand.sum():,.0f} kWh used: {metered.direct.sum():,.0f} kWh at once, {metered.imported.sum():,.0f} kWh from the grid, {metered.exported.sum():,.0f} kWh to it"
    )
    print(f"  self-consumption {metered.self_consumption:.1%}, self-sufficiency {metered.self_sufficiency:.1%}")
    print(f"  {after.currency:<12}{'before':>12}{'after':>12}{'saving':>12}")
    for month, (was, now) in enumerate(zip(before.by_month, after.by_month, strict=True)):
        print(f"  {MONTHS[month]:<12}{was:>12,.2f}{now:>12,.2f}{was - now:>12,.2f}")
        if given.lines:
            for line in after.lines:
                if line.month == month:
                    print(
                        f"    {line.title[:44]:<46}{line.quantity:>12,.2f} {line.unit:<7} × {line.price:<9g}{line.amount:>12,.2f}"
                    )
    print(f"  {'Year':<12}{before.total:>12,.2f}{after.total:>12,.2f}{saving:>12,.2f}")
    return 0
