"""The part of the command line that looks at parts and finds strings for them."""

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from noontide.command_errors import fail

LISTED = 12


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide arrange` and `noontide parts`."""
    arrange = commands.add_parser("arrange", help="every way to connect modules to an inverter, and why a number does not go")
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
    arrange.add_argument("--json", action="store_true", help="as JSON")
    arrange.set_defaults(run=_arrange)


def _arrange(given: argparse.Namespace) -> int:
    from noontide.core.electrical import arrangements, explain, string_limits

    module = part_of(given.module, "modules")
    if given.inverter is None:
        return _propose(given, module)
    inverter = part_of(given.inverter, "inverters")
    try:
        limits = string_limits(module, inverter, given.cold, given.hot)
        found = arrangements(given.number, module, inverter, given.cold, given.hot, given.leave_over)
        said = explain(given.number, module, inverter, given.cold, given.hot, given.leave_over)
    except ValueError as error:
        fail(str(error))
    if given.json:
        plain = {name: getattr(limits, name) for name in ("cold_voc", "cold_vmp", "hot_vmp", "fewest", "most", "parallel")}
        _print_json(
            {"number": given.number, "fits": said.fits, "arrangements": found, "reasons": said.reasons, "nearest": said.nearest, "limits": plain}
        )  # fmt: skip
        return 0 if said.fits else 1
    print(f"{module.maker} {module.name} on {inverter.maker} {inverter.name}, {given.cold:g} °C air to {given.hot:g} °C cells")
    print(f"  Voc {limits.cold_voc:.1f} V cold, Vmp {limits.hot_vmp:.1f} V hot: strings of {limits.fewest} to {limits.most} modules, {limits.parallel} in parallel on a tracker")  # fmt: skip
    if not said.fits:
        for reason in said.reasons:
            print(f"  {given.number} do not go. {reason}")
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
    wish = Wish(given.leave_over, *given.ratio)
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

    from noontide.core.electrical import Inverter, Module
    from noontide.parts import built_in_parts

    library = getattr(built_in_parts(), kind)
    if name in library:
        return library[name]
    if not name.endswith(".json"):
        fail(
            f"the library has no '{name}' among its {kind}: {', '.join(library)}. A datasheet is named by a file ending in .json."
        )
    try:
        document = json.loads(Path(name).read_text(encoding="utf-8"))
        return (Module if kind == "modules" else Inverter).model_validate(document)
    except (OSError, UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        fail(f"{name} cannot be read: {error}")
    except ValidationError as error:
        first = error.errors()[0]
        fail(f"{name}: /{'/'.join(map(str, first['loc']))}: {first['msg']}")


def _print_json(document: dict) -> None:
    json.dump(document, sys.stdout, indent=1)
    print()
