"""The part of the command line that draws and lists what is to be built."""

import argparse
import json
import sys
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.design_files import read_design
from noontide.weather_commands import add_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide circuits`."""
    circuits = commands.add_parser("circuits", help="cables, protection, one-line diagram and bill of materials of a design")
    circuits.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    circuits.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(circuits)
    circuits.add_argument("--diagram", metavar="OUT", help="write the one-line diagram; .svg, .pdf or .dxf")
    circuits.add_argument("--paper", choices=["a4", "a3"], default="a4", help="of the diagram, landscape")
    circuits.add_argument(
        "--bill", metavar="OUT", help="write the bill of materials; .csv or .xlsx, - for CSV on standard output"
    )
    circuits.add_argument("--json", action="store_true", help="cables and protection as JSON on standard output")
    circuits.set_defaults(run=_circuits)


def _circuits(given: argparse.Namespace) -> int:
    from noontide.core.checks.protection import protection_of
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    for name, endings in ((given.diagram, (".svg", ".pdf", ".dxf")), (given.bill, (".csv", ".xlsx", "-"))):
        if name and not name.endswith(endings):
            fail(f"{name}: the ending must be {' or '.join(e for e in endings if e != '-')}.")
    design = read_design(given.scheme)
    weather = read_weather(given.weather, given.reading)
    parts = built_in_parts()
    try:
        results = simulate(design, weather, parts)
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    items = protection_of(results)
    if given.diagram:
        _write_diagram(results, given.diagram, given.paper)
    if given.bill:
        _write_bill(results, parts, given.bill)
    if given.json:
        runs = [
            {
                "kind": run.kind, "pointer": run.pointer, "count": run.count, "length": run.route.length, "section": run.choice.section, "proposed": run.proposed,
                "current": run.route.current, "ampacity": run.choice.ampacity, "drop": run.choice.drop, "drop_limit": run.run.drop_limit, "source": run.choice.source,
                "problem": run.problem,
            }
            for run in results.cables.runs
        ]  # fmt: skip
        protection = [
            {
                "key": item.key, "place": item.place, "title": item.title, "chosen": item.chosen, "detail": item.detail, "source": item.source,
                "actual": item.actual, "limit": item.limit, "unit": item.unit, "margin": item.margin, "state": item.state, "count": item.count,
            }
            for item in items
        ]  # fmt: skip
        json.dump({"rules": results.cables.rules.title, "cables": runs, "protection": protection}, sys.stdout, indent=1)
        print()
    elif given.bill != "-":
        _print(results, items)
    return 0


def _print(results, items) -> None:
    print(f"Rules: {results.cables.rules.title} ({results.cables.rules.source})")
    for run in results.cables.runs:
        many = f" x {run.count}" if run.count > 1 else ""
        print(
            f"  {run.kind + ' cable ' + run.serves + many:<44}{run.route.length:>7g} m {run.choice.section:>5g} mm² {run.route.material:<10}"
            f"{run.route.current:>7.1f} of {run.choice.ampacity:>5.0f} A {run.choice.drop:>6.2f} % of {run.run.drop_limit:g} %"
        )
        if run.problem:
            print(f"    {run.problem}")
    marks = {"fine": "ok", "caution": "!", "error": "X", "not needed": "-"}
    for item in items:
        count = f" x {item.count}" if item.count > 1 else ""
        print(f"  {marks[item.state]:<3}{item.title + ', ' + item.place:<46}{item.chosen}{count}")
        print(f"     {item.detail} {item.source}.")


def _write_diagram(results, target: str, paper: str) -> None:
    from noontide.core.drawings.one_line import one_line

    write_sheets(one_line(results, paper, results.design.name or "Design", results.weather.title), target)


def write_sheets(sheets, target: str) -> None:
    """Sheets of paper as .pdf, .dxf, or an SVG for each."""
    from noontide.core.drawing import as_dxf, as_pdf, as_svg

    path = Path(target)
    try:
        if target.endswith(".pdf"):
            path.write_bytes(as_pdf(sheets))
        elif target.endswith(".dxf"):
            path.write_text(as_dxf(sheets), encoding="utf-8")
        else:  # a file for each sheet
            for number, sheet in enumerate(sheets, 1):
                name = path if number == 1 else path.with_stem(f"{path.stem}-{number}")
                name.write_text(as_svg(sheet), encoding="utf-8")
    except OSError as error:
        fail(f"{target} cannot be written: {error}")
    say(f"wrote {len(sheets)} sheet{'s' if len(sheets) > 1 else ''} to {target}")


def _write_bill(results, parts, target: str) -> None:
    from noontide.core.costs.bill import bill_as_csv, bill_of
    from noontide.core.costs.workbook import bill_as_xlsx

    bill = bill_of(results, parts)
    try:
        if target == "-":
            sys.stdout.write(bill_as_csv(bill))
        elif target.endswith(".xlsx"):
            Path(target).write_bytes(bill_as_xlsx(bill))
        else:
            Path(target).write_text(bill_as_csv(bill), encoding="utf-8")
    except OSError as error:
        fail(f"the bill cannot be written: {error}")
    say(f"{len(bill.lines)} lines, {bill.price:,.0f} {bill.currency}")
