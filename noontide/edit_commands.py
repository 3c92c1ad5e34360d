"""The part of the command line that edits a design: a merge patch, and what is done to it by name."""

import argparse
import json
import sys
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.design_files import read_design, write_design
from noontide.money_commands import add_use, series_named
from noontide.weather_commands import add_reading, read_weather


def add(commands) -> None:
    """Add `noontide edit`."""
    edit = commands.add_parser("edit", help="change a design: a merge patch, modules on a face, cable lengths from the plan")
    edit.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    edit.add_argument("--out", metavar="OUT.json", default="-", help="the changed design; - for standard output")
    acts = edit.add_subparsers(required=True, metavar="patch | fill | lengths | act")
    patch = acts.add_parser("patch", help="apply a JSON Merge Patch (RFC 7396)")
    patch.add_argument("patch", metavar="PATCH.json")
    patch.set_defaults(run=_edit, act=_patched)
    fill = acts.add_parser("fill", help="lay modules on a surface, or on a face that has none yet")
    fill.add_argument("place", metavar="SURFACE|FACE", help="as scene show lists the faces")
    fill.add_argument(
        "--most", type=int, metavar="N", help="at most so many, on the sunniest places, or in reading order without weather"
    )
    fill.add_argument("--module", metavar="MODULE", default="", help="where no string says which")
    fill.set_defaults(run=_edit, act=_filled)
    lengths = acts.add_parser("lengths", help="string cables as long as the plan asks for; they follow it from then on")
    lengths.add_argument("surface", metavar="SURFACE")
    lengths.set_defaults(run=_edit, act=_with_lengths)
    act = acts.add_parser("act", help="any verb by its name, with its arguments as JSON; without a name the verbs are listed")
    act.add_argument("verb", metavar="VERB", nargs="?", default="")
    act.add_argument("arguments", metavar="ARGUMENTS.json", nargs="?", default="-", help="a file; - for standard input")
    act.set_defaults(run=_edit, act=_acted)
    for one in (patch, fill, lengths, act):
        # Before the act or behind it: where it is given twice, what stands behind counts.
        one.add_argument("--out", metavar="OUT.json", default=argparse.SUPPRESS, help="the changed design; - for standard output")
    for one in (fill, act):
        one.add_argument("--weather", metavar="FILE", help="for what is chosen by the light; as for simulate")
        add_reading(one)
        add_use(one)


def _edit(given: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from noontide.core.design import DesignError
    from noontide.core.fields import first_fault
    from noontide.core.verbs.editing import edited
    from noontide.parts import built_in_parts

    design, parts = read_design(given.scheme), built_in_parts()
    try:
        patch, words = given.act(given, design, parts)
        document = edited(design.as_kept(), patch, parts)
    except ValidationError as error:
        fail(first_fault(error))
    except (DesignError, ValueError) as error:
        fail(str(error))
    write_design(document, given.out)
    say(words)
    return 0


def _patched(given: argparse.Namespace, design, parts) -> tuple[dict, str]:
    return _json_of(given.patch), "Edited."


def _json_of(path: str) -> dict:
    try:
        found = json.loads(sys.stdin.read() if path == "-" else Path(path).read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        fail(f"{path}: {error}")
    if not isinstance(found, dict):
        fail(f"{path}: a JSON object is needed.")
    return found


def _acted(given: argparse.Namespace, design, parts) -> tuple[dict, str]:
    from noontide.core.verbs.catalogue import VERBS, applied

    if given.verb not in VERBS:
        fail(
            f"there is no verb '{given.verb}'; the verbs are "
            + ", ".join(f"{name} ({v.title.lower()})" for name, v in VERBS.items())
        )
    return applied(design, given.verb, _json_of(given.arguments), _libraries(given, design, parts))


def _filled(given: argparse.Namespace, design, parts) -> tuple[dict, str]:
    from noontide.core.verbs.catalogue import applied

    if given.most is not None and given.most < 0:
        fail("--most is 0 or more.")
    place = "surface" if given.place in design.surfaces else "face"
    limit = {} if given.most is None else {"limit": {"of": "modules", "value": given.most}}
    asked = {place: given.place, "module": given.module} | limit
    return applied(design, "fill", asked, _libraries(given, design, parts))


def _libraries(given: argparse.Namespace, design, parts):
    """What the command line has beside the design: the parts that ship, and the files that were named."""
    from noontide.core.simulation import Libraries

    weather = read_weather(given.weather, given.reading) if given.weather else None
    return Libraries(parts, weather, series_named(given, design.site.time_zone))


def _with_lengths(given: argparse.Namespace, design, parts) -> tuple[dict, str]:
    from noontide.core.verbs.planned_lengths import taken_from_plan

    patch = taken_from_plan(design, given.surface, parts)
    lengths = ", ".join(f"{key} {values['cable']['length']:g} m" for key, values in patch["subarrays"].items())
    return patch, f"String cables from the plan: {lengths}."
