"""The part of the command line that tells use, bills and tariffs."""

import argparse
import json
import sys
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.design_files import read_design, read_validated
from noontide.weather_commands import add_reading, read_weather


def add(commands) -> None:
    """Add `noontide demand`, `noontide tariff` and `noontide bill`."""
    demand = commands.add_parser(
        "demand", help="use of electricity from its sources, and interval data of meters"
    ).add_subparsers(required=True, metavar="show | read | scale")
    show = demand.add_parser("show", help="energy by month of each source, peak, what is not served")
    show.add_argument("sources", metavar="SOURCES.json", help="sources of demand, or a design; - for standard input")
    show.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(show)
    add_use(show)
    show.add_argument("--json", action="store_true", help="as JSON")
    show.set_defaults(run=_demand_show)
    read = demand.add_parser("read", help="how a file of a meter is understood, and the source that names it")
    _add_meter(read)
    read.add_argument("--json", action="store_true", help="reading, notes and source as JSON")
    read.set_defaults(run=_demand_read)
    scale = demand.add_parser("scale", help="a file of a meter laid on a weather year and scaled, as CSV")
    _add_meter(scale)
    scale.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(scale, name="weather-reading")
    scale.add_argument("--energy", type=float, metavar="KWH", help="energy a year")
    scale.add_argument("--peak", type=float, metavar="KW", help="highest power")
    scale.set_defaults(run=_demand_scale)
    tariff = commands.add_parser("tariff", help="tariffs as data").add_subparsers(required=True, metavar="check | list")
    check = tariff.add_parser("check", help="whether a tariff is complete: every hour with one price, tiers that rise")
    check.add_argument("file", metavar="TARIFF.json")
    check.set_defaults(run=_tariff_check)
    tariff.add_parser("list", help="the tariffs that ship").set_defaults(run=_tariff_list)
    bill = commands.add_parser("bill", help="the bill of a year by month, with the plant and without it")
    bill.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    bill.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(bill)
    bill.add_argument("--demand", metavar="SOURCES.json", help="who uses the energy, and when, in place of the design's demand")
    bill.add_argument("--tariff", metavar="FILE|ID", help="in place of the design's: a file, or one of `noontide tariff list`")
    bill.add_argument("--before", metavar="FILE|ID", help="the tariff without the plant, where it is another")
    add_use(bill)
    bill.add_argument("--lines", action="store_true", help="every line of every month")
    bill.add_argument("--json", action="store_true", help="as JSON")
    bill.set_defaults(run=_bill)
    cash = commands.add_parser("cash", help="purchase, cash by year, net present value, rate of return, payback")
    cash.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    cash.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(cash)
    add_use(cash)
    cash.add_argument("--json", action="store_true", help="as JSON")
    cash.set_defaults(run=_cash, demand=None, tariff=None, before=None)


def add_use(parser: argparse.ArgumentParser) -> None:
    """The option that names files of interval data."""
    parser.add_argument(
        "--use",
        metavar="FILE",
        action="append",
        default=[],
        help="interval data that a source names by their digest; may be repeated",
    )


def _add_meter(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", metavar="FILE", help="CSV, XLSX, Parquet, JSON, or ESPI (XML)")
    parser.add_argument("--reading", metavar="READING.json", help="how it is understood, as `demand read --json` gives it")
    parser.add_argument(
        "--time-zone", metavar="ZONE", default="", help="of the meter, such as Europe/Rome, where the file states none"
    )


def _meter(path: str, reading_path: str | None = None, time_zone: str = ""):
    """A file of a meter, read."""
    from noontide.core.demand.reading import UseReading, read_use
    from noontide.core.design.site import is_time_zone
    from noontide.core.weather import WeatherFileError

    if time_zone and not is_time_zone(time_zone):
        fail(f"there is no time zone '{time_zone[:60]}'; name one such as Europe/Rome")
    reading = (
        read_validated(reading_path, "reading", lambda d: UseReading.model_validate(d.get("reading", d)))
        if reading_path
        else None
    )
    try:
        return read_use(Path(path).read_bytes(), Path(path).stem, reading, time_zone)
    except OSError as error:
        fail(f"{path}: {error.strerror or error}")
    except WeatherFileError as error:
        fail(f"{path}: {error}")


def series_named(given: argparse.Namespace, time_zone: str) -> dict:
    """Interval data of the files that were named, by digest."""
    series = [_meter(path, None, time_zone).series for path in given.use]
    return {one.digest: one for one in series}


def _sources(path: str):
    from noontide.core.demand import read_sources

    return read_validated(path, "demand", read_sources)


def _demand_read(given: argparse.Namespace) -> int:
    found = _meter(given.file, given.reading, given.time_zone)
    one = found.series
    source = {"name": one.title[:80], "interval": {"digest": one.digest, "title": one.title[:200]}}
    if given.json:
        json.dump(
            {"reading": found.reading.model_dump(mode="json"), "notes": list(found.notes), "first_day": one.first_day, "step": one.step, "days": one.power.shape[0],
             "energy": one.energy, "peak": one.peak, "source": source},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    print(
        f"  {one.energy:,.1f} kWh in {one.power.shape[0]} days from {one.first_day}, every {one.step} min, at most {one.peak:,.3f} kW"
    )
    for finding in found.reading.findings:
        print(f"  {finding.subject}: {finding.value}. {finding.reason} ({finding.sureness})")
    for note in found.notes:
        print(f"  ! {note}")
    print(f"  as a source of demand: {json.dumps(source, ensure_ascii=False)}")
    return 0


def _demand_scale(given: argparse.Namespace) -> int:
    from noontide.core.civil_time import civil_time
    from noontide.core.demand.series import DemandError, lay, scale

    for name, value in (("--energy", given.energy), ("--peak", given.peak)):
        if value is not None and not value > 0:
            fail(f"{name} must be above 0")
    found = _meter(given.file, given.reading, given.time_zone)
    weather = read_weather(given.weather, given.weather_reading)
    calendar = weather.calendar
    try:
        laid, notes = lay(found.series, calendar, civil_time(calendar, given.time_zone))
        power, words = scale(laid, calendar.hours_per_interval, given.energy, given.peak)
    except DemandError as error:
        fail(f"{given.file}: {error}")
    print("start,power [kW]")
    for start, value in zip(calendar.local_starts, power, strict=True):
        print(f"{str(start).replace('T', ' ')},{value:.6f}")
    for note in (*notes, *words):
        say(note)
    return 0


def _demand_of(path: str):
    """Sources from a file of their own or from a design, with their time zone."""
    from noontide.core.demand import read_sources
    from noontide.core.design import Design

    def either(document):
        if isinstance(document, dict) and "site" in document:
            design = Design.read(document)
            return design.demand, design.site.time_zone
        sources = read_sources(document)
        return sources, sources.time_zone

    return read_validated(path, "demand", either)


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

    weather, (sources, zone) = read_weather(given.weather, given.reading), _demand_of(given.sources)
    try:
        found = hourly(sources, weather.calendar, weather, zone, series_named(given, zone))
    except ValueError as error:
        fail(f"{given.sources}: {getattr(error, 'pointer', '')} {error}")
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
    from noontide.core.calendar import MONTHS
    from noontide.core.figures.catalogue import figures_of

    results = _with_money(given)
    after = results.after
    if after.problem is not None:
        fail(f"{given.scheme}: {after.problem.pointer}: {after.problem}")
    if after.is_off_grid:
        fail(f"{given.scheme}: there is no grid, and so no bill; see noontide offgrid")
    before_bill, now = after.bill_before, after.bill
    assert before_bill is not None and now is not None
    metered, saving = after.metered, round(before_bill.total - now.total, 2)
    if given.json:
        lines = [
            {
                name: getattr(line, name)
                for name in ("month", "kind", "key", "title", "quantity", "unit", "price", "amount", "interval")
            }
            for line in now.lines
        ]
        json.dump(
            {"currency": now.currency, "before": before_bill.total, "after": now.total, "saving": saving, "before_by_month": before_bill.by_month,
             "after_by_month": now.by_month, "produced": float(metered.produced.sum()), "demand": float(metered.demand.sum()), "imported": float(metered.imported.sum()),
             "exported": float(metered.exported.sum()), "self_consumption": metered.self_consumption, "self_sufficiency": metered.self_sufficiency,
             "figures": figures_of(results), "lines": lines},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    print(
        f"  {metered.produced.sum():,.0f} kWh made, {metered.demand.sum():,.0f} kWh used: {metered.direct.sum():,.0f} kWh at once, {metered.imported.sum():,.0f} kWh from the grid, {metered.exported.sum():,.0f} kWh to it"
    )
    print(f"  self-consumption {metered.self_consumption:.1%}, self-sufficiency {metered.self_sufficiency:.1%}")
    print(f"  {now.currency:<12}{'before':>12}{'after':>12}{'saving':>12}")
    for month, (was, paid) in enumerate(zip(before_bill.by_month, now.by_month, strict=True)):
        print(f"  {MONTHS[month]:<12}{was:>12,.2f}{paid:>12,.2f}{was - paid:>12,.2f}")
        if given.lines:
            for line in now.lines:
                if line.month == month:
                    print(
                        f"    {line.title[:44]:<46}{line.quantity:>12,.2f} {line.unit:<7} × {line.price:<9g}{line.amount:>12,.2f}"
                    )
    print(f"  {'Year':<12}{before_bill.total:>12,.2f}{now.total:>12,.2f}{saving:>12,.2f}")
    return 0


def _cash(given: argparse.Namespace) -> int:
    from noontide.core.brief.inputs import statement_of
    from noontide.core.costs.economics import cash_year_by_year, sensitivities
    from noontide.core.costs.rules_yield import rules_yield

    results = _with_money(given, needs_tariff=False)
    cash, currency = cash_year_by_year(results), results.design.money.currency
    if given.json:
        json.dump(
            {"currency": currency, "purchase": [vars(line) for line in cash.purchase.lines], "flows": {title: flow.tolist() for title, flow in cash.flows.items()},
             "total": cash.total.tolist(), "npv": cash.net_present_value, "irr": cash.rates_of_return, "payback": cash.payback,
             "discounted_payback": cash.discounted_payback, "lcoe": cash.levelised_cost, "sensitivities": [vars(one) for one in sensitivities(results)], "statement": statement_of(results.design), "rules_yield": rules_yield(results)},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    for line in cash.purchase.lines:
        print(f"  {line.title[:40]:<42}{line.amount:>14,.2f} {currency}")
    if cash.purchase.own is not None:
        print(f"  {'Own figure, which counts':<42}{cash.purchase.own:>14,.2f} {currency}")
    print(f"  {'year':<6}{'flow':>14}{'sum':>14}")
    for year, (flow, running) in enumerate(zip(cash.total, cash.running, strict=True)):
        print(f"  {year:<6}{flow:>14,.2f}{running:>14,.2f}")
    rate = "none" if cash.rate_of_return is None else f"{cash.rate_of_return:.2%}"
    paid = "never" if cash.payback is None else f"{cash.payback:.1f} years"
    cost = "no energy" if cash.levelised_cost is None else f"{cash.levelised_cost:.4f} {currency}/kWh"
    print(
        f"  net present value {cash.net_present_value:,.2f} {currency}, internal rate of return {rate}, payback {paid}, levelised cost {cost}"
    )
    if len(cash.rates_of_return) > 1:
        print(f"  several rates of return: {', '.join(f'{root:.2%}' for root in cash.rates_of_return)}")
    if (table := results.design.money.yield_table) is not None:
        counted = rules_yield(results)
        by_rules = "outside the table" if counted is None else f"{counted:,.0f} kWh"
        print(f"  yield by {table.name or 'the table of rules'}: {by_rules}; {results.annual.energy:,.0f} kWh simulated")
    print(f"  {statement_of(results.design)}")
    return 0


def _with_money(given: argparse.Namespace, needs_tariff: bool = True):
    """The simulated year of a design, with the demand and the tariffs that were named in place of its own."""
    from pydantic import ValidationError

    from noontide.core.design import Design
    from noontide.core.fields import fault_in_words
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    document = read_design(given.scheme).as_kept()
    money = dict(document.get("money", {}))
    if given.demand:
        sources = _sources(given.demand).model_dump(mode="json", exclude_unset=True)
        if zone := sources.get("time_zone"):
            document["site"] = document["site"] | {"time_zone": zone}
        document["demand"] = {key: sources[key] for key in ("sources", "holidays") if key in sources}
    for name, which in (("tariff", given.tariff), ("tariff_before", given.before)):
        if which:
            tariff = _tariff(which)
            other = money.get("tariff" if name == "tariff_before" else "tariff_before", {}).get("currency", "EUR")
            if name == "tariff_before" and other != tariff.currency:
                fail(f"the tariffs are in {tariff.currency} and {other}; give two of one currency")
            money |= {name: tariff.model_dump(mode="json", exclude_unset=True), "currency": tariff.currency}
    if needs_tariff and "tariff" not in money:
        fail(f"{given.scheme}: the design has no tariff; name one with --tariff")
    document["money"] = money
    weather = read_weather(given.weather, given.reading)
    try:
        design = Design.read(document)
        return simulate(design, weather, built_in_parts(), series=series_named(given, design.site.time_zone))
    except ValidationError as error:
        fail(f"{given.scheme}: {fault_in_words(error.errors()[0])}")
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
