"""The part of the command line that sets reports."""

import argparse
import re
from pathlib import Path
from typing import TYPE_CHECKING

from noontide.command_errors import fail, say
from noontide.design_files import read_design, read_validated
from noontide.weather_commands import add_reading, read_weather

if TYPE_CHECKING:
    from noontide.core.design import Design
    from noontide.core.report import TrialsShown
    from noontide.core.simulation import Libraries


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide report`."""
    report = commands.add_parser("report", help="set a design on paper, for one reader: PDF, or one HTML file")
    report.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    report.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(report)
    report.add_argument("--edition", default="customer", metavar="NAME", help="customer, engineer, shade, electrical or off-grid")
    report.add_argument("--pages", metavar="A,B,C", help="in place of an edition's: pages in their order; ? lists them")
    report.add_argument("--study", metavar="STUDY.json", help="trials that are run for the page of them")
    report.add_argument("--paper", default="a4", metavar="PAPER", help="a4 or letter")
    report.add_argument("--customer", default="", metavar="NAME", help="for whom it is")
    report.add_argument("--sender", default="", metavar="NAME", help="who it is from")
    report.add_argument("--contact", default="", metavar="WORDS", help="address, telephone, mail")
    report.add_argument("--closing", default="", metavar="WORDS", help="words under the figures of the first page")
    report.add_argument("--language", default="en", metavar="LANGUAGE", help="en or de")
    report.add_argument(
        "--numbers",
        default="",
        metavar="1,234.5",
        help="how numbers are written: 1,234.5, 1.234,5, 1 234,5 or 1’234.5; as the language does otherwise",
    )
    report.add_argument("--units", default="metric", metavar="SYSTEM", help="metric, or imperial: feet and degrees Fahrenheit")
    report.add_argument("--logo", metavar="FILE", help="PNG, JPEG or WebP, for the first page")
    report.add_argument("--colour", default="", metavar="#RRGGBB", help="of the headings")
    report.add_argument("--out", metavar="REPORT", required=True, help=".pdf or .html")
    report.set_defaults(run=_report)


def _report(given: argparse.Namespace) -> int:
    from noontide.core.report import PAGES, About, UnknownPage, as_file, pages_of, report_of
    from noontide.core.report.wording import UnknownLanguage, wording
    from noontide.core.simulation import Libraries, simulate
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
        weather = read_weather(given.weather, given.reading)
        results = simulate(design, weather, built_in_parts())
        trials = _trials(given.study, design, Libraries(built_in_parts(), weather)) if given.study else []
        about = About(
            design.name or design.site.name or Path(given.scheme).stem,
            given.customer,
            sender=given.sender,
            contact=given.contact,
            closing=given.closing,
            **_looks(given),
        )
        words = wording(given.language, given.numbers, units=given.units)
        report = report_of(results, about, pages, given.paper, words=words, trials=trials)
    except (UnknownPage, UnknownLanguage) as error:
        fail(str(error))
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    content = as_file(report, Path(given.out).suffix.removeprefix("."))
    try:
        Path(given.out).write_bytes(content)
    except OSError as error:
        fail(f"{given.out} cannot be written: {error}")
    if report.untranslated:
        say(f"{len(report.untranslated)} texts stand in English, such as: {report.untranslated[0]}")
    for key, why in report.left_out:
        say(f"{PAGES[key].title} is left out: {why}")
    say(f"wrote {len(report.sheets)} page{'s' if len(report.sheets) != 1 else ''} to {given.out}")
    return 0


def _trials(path: str, design: "Design", libraries: "Libraries") -> "list[TrialsShown]":
    """A study that is run for its page."""
    from noontide.core.report import TrialsShown
    from noontide.core.trials import Study
    from noontide.core.trials.runs_table import RunsTable
    from noontide.trial_commands import planned
    from noontide.trying import tried

    study = read_validated(path, "study", Study.model_validate)
    plan = planned(path, study, design, libraries)
    return [TrialsShown(study.name, RunsTable.of(study, list(tried(plan, libraries))))]


def _looks(given: argparse.Namespace) -> dict:
    """Logo and colour; the command fails with words where they cannot be printed."""
    from noontide.core.report.logo import LEAST_CONTRAST, NoLogo, contrast_on_paper, read_logo

    looks: dict = {}
    if given.colour:
        if not re.fullmatch("#[0-9a-fA-F]{6}", given.colour):
            fail(f"--colour is #RRGGBB, such as #2F5D8C; it is '{given.colour}'")
        if contrast_on_paper(given.colour) < LEAST_CONTRAST:
            fail(f"--colour {given.colour} is too pale to be read on paper; choose a darker one")
        looks["accent"] = given.colour
    if given.logo:
        try:
            looks["logo"], looks["logo_shape"] = read_logo(Path(given.logo).read_bytes())
        except OSError as error:
            fail(f"{given.logo} cannot be read: {error}")
        except NoLogo as error:
            fail(f"{given.logo}: {error}")
    return looks
