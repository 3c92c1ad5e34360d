"""The part of the command line that sets reports."""

import argparse
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.design_files import read_design
from noontide.weather_commands import add_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide report`."""
    report = commands.add_parser("report", help="set a design on paper, for one reader: PDF, or one HTML file")
    report.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    report.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(report)
    report.add_argument("--edition", default="customer", metavar="NAME", help="customer, engineer, shade, electrical or off-grid")
    report.add_argument("--pages", metavar="A,B,C", help="in place of an edition's: pages in their order; ? lists them")
    report.add_argument("--paper", default="a4", metavar="PAPER", help="a4 or letter")
    report.add_argument("--customer", default="", metavar="NAME", help="for whom it is")
    report.add_argument("--sender", default="", metavar="NAME", help="who it is from")
    report.add_argument("--contact", default="", metavar="WORDS", help="address, telephone, mail")
    report.add_argument("--closing", default="", metavar="WORDS", help="words under the figures of the first page")
    report.add_argument("--out", metavar="REPORT", required=True, help=".pdf or .html")
    report.set_defaults(run=_report)


def _report(given: argparse.Namespace) -> int:
    from noontide.core.report import PAGES, About, UnknownPage, as_html, pages_of, report_of
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    if given.pages == "?":
        for page in PAGES.values():
            print(f"{page.key:<12}{page.title}: {page.says}")
        return 0
    if not given.out.endswith((".pdf", ".html")):
        fail(f"{given.out}: the ending must be .pdf or .html.")
    try:
        pages = [key for key in given.pages.split(",") if key] if given.pages else pages_of(given.edition)
        design = read_design(given.scheme)
        results = simulate(design, read_weather(given.weather, given.reading), built_in_parts())
        about = About(
            design.name or design.site.name or Path(given.scheme).stem,
            given.customer,
            sender=given.sender,
            contact=given.contact,
            closing=given.closing,
        )
        report = report_of(results, about, pages, given.paper)
    except UnknownPage as error:
        fail(str(error))
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    content = report.as_pdf() if given.out.endswith(".pdf") else as_html(report).encode()
    try:
        Path(given.out).write_bytes(content)
    except OSError as error:
        fail(f"{given.out} cannot be written: {error}")
    for key, why in report.left_out:
        say(f"{PAGES[key].title} is left out: {why}")
    say(f"wrote {len(report.sheets)} page{'s' if len(report.sheets) != 1 else ''} to {given.out}")
    return 0
