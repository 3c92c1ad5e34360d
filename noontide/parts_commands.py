"""The part of the command line that looks at parts and finds strings for them."""

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from noontide.command_errors import INPUT_ERROR, fail, say

LISTED = 12


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide arrange` and `noontide parts`."""
    arrange = commands.add_parser("arrange", help="every way to connect modules to an inverter, and why a number is not possible")
    arrange.add_argument("--module", required=True, metavar="ID", help="of the library, or a datasheet as JSON")
    arrange.add_argument(
        "--inverter", metavar="ID", help="of the library, or a datasheet as JSON; every one of the library without it"
    )
    arrange.add_argument("--number", required=True, type=int, help="of modules")
    arrange.add_argument("--cold", required=True, type=float, help="lowest air temperature of the site [°C]")
    arrange.add_argument("--hot", required=True, type=float, help="highest cell temperature [°C]")
    arrange.add_argument("--leave-over", type=int, default=0, metavar="N", help="modules that may stay without a string")
    arrange.add_argument(
        "--ratio",
        nargs=2,
        type=float,
        default=[0.8, 1.5],
        metavar=("LOW", "HIGH"),
        help="DC/AC ratio, where no inverter is named",
    )
    arrange.add_argument(
        "--isc-factor", type=float, default=1.25, metavar="FACTOR", help="on Isc by the rules that hold, 1.25 without it"
    )
    arrange.add_argument("--json", action="store_true", help="as JSON")
    arrange.set_defaults(run=_arrange)

    parts = commands.add_parser("parts", help="look at parts; lists of them in and out").add_subparsers(
        metavar="ACTION", required=True
    )
    take = parts.add_parser("import", help="a list of parts, CSV or XLSX, to a file of datasheets that designs can carry")
    take.add_argument("table", metavar="TABLE")
    take.add_argument("--kind", type=_kind, required=True, help="of parts: modules, inverters, batteries and so on")
    take.add_argument(
        "--map", action="append", default=[], metavar="HEADING=FIELD", help="what a heading means; may stand several times"
    )
    take.add_argument("--out", metavar="PARTS.json", default="-", help="as JSON; standard output without it")
    take.add_argument("--skip", action="store_true", help="take the other rows where some are wrong")
    take.set_defaults(run=_import)
    give = parts.add_parser("export", help="the library, or a file of datasheets, as a list")
    give.add_argument("parts", metavar="PARTS.json", nargs="?", help="the library without it")
    give.add_argument("--kind", type=_kind, required=True, help="of parts: modules, inverters, batteries and so on")
    give.add_argument("--out", metavar="OUT.csv", default="-", help="standard output without it")
    give.set_defaults(run=_export)
    check = parts.add_parser("check", help="what in datasheets contradicts itself; 1 where something does")
    check.add_argument("parts", metavar="PARTS.json", nargs="?", help="the library without it")
    check.set_defaults(run=_check)
    fit = parts.add_parser("fit", help="the five parameters of a module, and how well they meet its datasheet")
    fit.add_argument("module", metavar="ID", help="of the library, or a datasheet as JSON")
    fit.add_argument(
        "--curve",
        metavar="CURVE.csv",
        help="fit to measured points of voltage and current instead; the module is what it is like",
    )
    fit.add_argument("--irradiance", type=float, metavar="W/m2", help="of the curve, where the table has no column for it")
    fit.add_argument("--temperature", type=float, metavar="C", help="of the cells, where the table has no column for it")
    fit.add_argument("--json", action="store_true", help="as JSON")
    fit.set_defaults(run=_fit)


def _arrange(given: argparse.Namespace) -> int:
    from noontide.core.electrical import arrangements, explain, string_limits

    module = part_of(given.module, "modules")
    if given.inverter is None:
        return _propose(given, module)
    inverter = part_of(given.inverter, "inverters")
    try:
        limits = string_limits(module, inverter, given.cold, given.hot, array_current=given.isc_factor)
        found = arrangements(
            given.number, module, inverter, given.cold, given.hot, given.leave_over, array_current=given.isc_factor
        )
        said = explain(given.number, module, inverter, given.cold, given.hot, given.leave_over, array_current=given.isc_factor)
    except ValueError as error:
        fail(str(error))
    if given.json:
        plain = {
            name: getattr(limits, name) for name in ("cold_voc", "cold_vmp", "hot_vmp", "hot_voc", "fewest", "most", "parallel")
        }
        _print_json(
            {"number": given.number, "fits": said.fits, "arrangements": found, "reasons": said.reasons, "nearest": said.nearest, "limits": plain}
        )  # fmt: skip
        return 0 if said.fits else 1
    print(f"{module.maker} {module.name} on {inverter.maker} {inverter.name}, {given.cold:g} °C air to {given.hot:g} °C cells")
    print(f"  Voc {limits.cold_voc:.1f} V cold, Vmp {limits.hot_vmp:.1f} V hot: strings of {limits.fewest} to {limits.most} modules, {limits.parallel} in parallel on a tracker")  # fmt: skip
    if not said.fits:
        for reason in said.reasons:
            print(f"  {given.number} do not meet these limits. {reason}")
        print(f"  What goes: {', '.join(map(str, said.nearest)) or 'nothing'}")
        return 1
    power = module.power / inverter.ac_power
    print(f"  {len(found):,} ways, the first {min(LISTED, len(found))}:")
    for strings in found[:LISTED]:
        modules = sum(map(sum, strings))
        left = given.number - modules
        print(f"  {words_of(strings):<44}DC/AC {modules * power:.2f}{f', {left} left over' if left else ''}")
    return 0


def _propose(given: argparse.Namespace, module: Any) -> int:
    from noontide.core.electrical.fleet import Wish, proposals
    from noontide.parts import built_in_parts

    library = built_in_parts().inverters
    lowest, highest = given.ratio
    wish = Wish(given.leave_over, lowest, highest, array_current=given.isc_factor)
    try:
        found, rejected = proposals(given.number, module, library.values(), given.cold, given.hot, wish)
    except ValueError as error:
        fail(str(error))
    if given.json:
        ways = [
            {"inverter": p.inverter.id, "count": p.count, "shares": [vars(s) for s in p.shares], "left_over": p.left_over, "dc_ac": p.ratio(module)}
            for p in found
        ]  # fmt: skip
        _print_json({"number": given.number, "proposals": ways, "rejected": {key: vars(said) for key, said in rejected.items()}})
        return 0 if found else 1
    for p in found[:LISTED]:
        shares = "; ".join(f"{s.count} × {words_of(s.strings)}" for s in p.shares)
        print(f"  {p.inverter.maker + ' ' + p.inverter.name:<16}{shares:<46}DC/AC {p.ratio(module):.2f}{f', {p.left_over} left over' if p.left_over else ''}")  # fmt: skip
    for key, said in rejected.items():
        print(f"  - {library[key].maker} {library[key].name}: {said.reasons[0]}")
    return 0 if found else 1


def _import(given: argparse.Namespace) -> int:
    from noontide.core.electrical.parts_table import read_parts

    pairs = [text.partition("=") for text in given.map]
    if wrong := next((text for text, (_, sign, _) in zip(given.map, pairs, strict=True) if not sign), None):
        fail(f"--map takes HEADING=FIELD; it is '{wrong}'")
    try:
        found = read_parts(Path(given.table).read_bytes(), given.kind, {heading: field for heading, _, field in pairs})
    except OSError as error:
        fail(f"the table cannot be opened: {error}")
    except ValueError as error:
        fail(f"{given.table}: {error}")
    for fault in found.faults:
        place = f"row {fault.row}{f', {fault.column}' if fault.column else ''}"
        print(f"noontide: {given.table}, {place}: {fault.reason}", file=sys.stderr)
    for doubt in found.doubts:
        print(f"noontide: {given.table}, row {doubt.row}, look again: {doubt.reason}", file=sys.stderr)
    if found.unused:
        say(f"not used: {', '.join(found.unused)}")
    if found.faults and not given.skip:
        fail(
            f"{len({fault.row for fault in found.faults})} rows are wrong; nothing was written. Correct them, or leave them out with --skip."
        )
    document = {given.kind: {key: part.model_dump(mode="json", exclude_defaults=True) for key, part in found.parts.items()}}
    _write(json.dumps(document, indent=1) + "\n", given.out)
    say(f"{len(found.parts)} {given.kind}")
    return 0


def _export(given: argparse.Namespace) -> int:
    from noontide.core.electrical.parts_table import write_parts

    _write(write_parts(_catalogue(given.parts).of(given.kind).values(), given.kind), given.out)
    return 0


def _check(given: argparse.Namespace) -> int:
    from noontide.core.electrical import fit_inverter, fit_module

    catalogue = _catalogue(given.parts)
    findings = [(m, finding) for m in catalogue.modules.values() for finding in fit_module(m).findings]
    for inverter in catalogue.inverters.values():
        fit_inverter(inverter)
    for module, finding in findings:
        print(f"{module.maker} {module.name}: {finding}")
    print(
        f"{len(catalogue.modules)} modules and {len(catalogue.inverters)} inverters, {len(findings)} finding{'' if len(findings) == 1 else 's'}"
    )
    return 1 if findings else 0


def _fit(given: argparse.Namespace) -> int:
    from noontide.core.electrical import fit_module, max_power_point

    module = part_of(given.module, "modules")
    if given.curve:
        return _fit_curve(module, given)
    found = fit_module(module)
    p = found.parameters
    if given.json:
        _print_json({"parameters": vars(p), "power_error": found.power_error, "findings": found.findings})
        return 0
    print(f"{module.maker} {module.name}, one diode at 1000 W/m² and 25 °C")
    for name, value, unit in (
        ("light current", p.light_current, "A"), ("saturation current", p.saturation_current, "A"), ("series resistance", p.series_resistance, "ohm"),
        ("shunt resistance", 1 / float(p.shunt_conductance), "ohm"), ("modified ideality", p.modified_ideality, "V"),
    ):  # fmt: skip
        print(f"  {name:<20}{float(value):>14.6g} {unit}")
    print(
        f"  maximum power differs from the datasheet by {found.power_error:+.4%}; Voc {found.voc_coefficient:+.3f} %/K, power {found.power_coefficient:+.3f} %/K"
    )
    print(f"  {'W/m²':>8}{'W':>10}{'of rated efficiency':>22}")
    for light in (1000, 800, 600, 400, 200, 100):
        power = float(max_power_point(p, light, 25.0).power)
        print(f"  {light:>8}{power:>10.2f}{power / module.power / light * 1000:>22.1%}")
    for finding in found.findings:
        print(f"  ! {finding}")
    return 0


def _fit_curve(module, given: argparse.Namespace) -> int:
    from noontide.core.electrical.curve_fit import fit_curves, read_curves

    try:
        found = fit_curves(read_curves(Path(given.curve).read_bytes(), given.irradiance, given.temperature), module)
    except (OSError, ValueError) as error:
        fail(f"{given.curve}: {error}")
    if given.json:
        _print_json({"parameters": vars(found.parameters)} | {k: v for k, v in vars(found).items() if k != "parameters"})
        return 0
    print(f"{given.curve}, fitted as one diode; the current is off by {found.deviation:.2%} of Isc in the mean")
    for name, value, rated, unit in (
        ("power", found.power, module.power, "W"), ("Isc", found.isc, module.isc, "A"), ("Voc", found.voc, module.voc, "V"),
        ("Imp", found.imp, module.imp, "A"), ("Vmp", found.vmp, module.vmp, "V"),
    ):  # fmt: skip
        print(f"  {name:<8}{value:>10.3f} {unit}  {value / rated - 1:>+8.2%} against {module.maker} {module.name}")
    return 0


def _catalogue(path: str | None) -> Any:
    """A file of datasheets, or the library."""
    from pydantic import ValidationError

    from noontide.core.electrical import Catalogue
    from noontide.core.electrical.part_slips import likely_slip
    from noontide.core.fields import placed_fault
    from noontide.parts import built_in_parts

    if path is None:
        return built_in_parts()
    try:
        document = json.loads(Path(path).read_text(encoding="utf-8"))
        return Catalogue.model_validate(document)
    except (OSError, UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        fail(f"{path} cannot be read: {error}")
    except ValidationError as error:
        for found in error.errors()[:20]:
            place, part = found["loc"], document
            for step in place[:2]:
                part = part.get(step, {}) if isinstance(part, dict) else {}
            slip = likely_slip(part, str(place[0])) if place and isinstance(part, dict) else ""
            print(f"noontide: {path}: {placed_fault(found)} {slip}".rstrip(), file=sys.stderr)
        raise SystemExit(INPUT_ERROR) from None


def _kind(text: str) -> str:
    from noontide.core.electrical.datasheets import KINDS

    if text not in KINDS:
        raise argparse.ArgumentTypeError(f"'{text}' is no kind of parts; choose among {', '.join(KINDS)}")
    return text


def _write(text: str, target: str) -> None:
    if target == "-":
        sys.stdout.write(text)
        return
    try:
        Path(target).write_text(text, encoding="utf-8")
    except OSError as error:
        fail(f"{target} cannot be written: {error}")


def words_of(strings: list[list[int]]) -> str:
    """An arrangement in words: 2 trackers of 2 × 18 and one of 17."""
    from noontide.core.electrical.finder import loads_of

    def load(trackers: int, parallel: int, length: int) -> str:
        each = f"{parallel} × {length}" if parallel > 1 else f"{length}"
        return f"{trackers} trackers of {each}" if trackers > 1 else f"a tracker of {each}"

    return ", ".join(load(*one) for one in loads_of(strings))


def part_of(name: str, kind: str) -> Any:
    """A part of the library by its id, or a datasheet from a JSON file."""
    from pydantic import ValidationError

    from noontide.core.electrical.datasheets import KINDS
    from noontide.core.fields import first_fault
    from noontide.parts import built_in_parts

    library = built_in_parts().of(kind)
    if name in library:
        return library[name]
    if not name.endswith(".json"):
        fail(
            f"the library has no '{name}' among its {kind}: {', '.join(library)}. A datasheet is named by a file ending in .json."
        )
    try:
        document = json.loads(Path(name).read_text(encoding="utf-8"))
        return KINDS[kind].model.model_validate(document)
    except (OSError, UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        fail(f"{name} cannot be read: {error}")
    except ValidationError as error:
        fail(f"{name}: {first_fault(error)}")


def _print_json(document: dict) -> None:
    json.dump(document, sys.stdout, indent=1)
    print()
