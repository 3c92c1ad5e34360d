"""The part of the command line that shows, reads, writes and shades scenes."""

import argparse
import json
import sys
from contextlib import suppress
from pathlib import Path

from noontide.command_errors import fail, say
from noontide.core.cells import as_csv
from noontide.design_files import read_design
from noontide.weather_commands import add_reading, read_weather


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide scene`."""
    scene = commands.add_parser("scene", help="the building as it stands: faces, imports, exports, solar access").add_subparsers(
        required=True, metavar="show | import | export | shade"
    )
    show = scene.add_parser("show", help="faces of the scene with tilt, azimuth and area")
    show.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    show.add_argument("--json", action="store_true", help="with corners and edges, as JSON")
    show.set_defaults(run=_show)
    bring = scene.add_parser("import", help="read outlines, a model or points into the scene of a design")
    bring.add_argument("scheme", metavar="DESIGN.json")
    bring.add_argument(
        "file",
        metavar="FILE",
        help="GeoJSON, CityJSON, OBJ, glTF, DXF, LAS, LAZ, text of x y z, or a height grid (ESRI ASCII, GeoTIFF)",
    )
    bring.add_argument(
        "--up", choices=("y", "z"), help="axis of a model that points up; without it as the format says or the model stands"
    )
    bring.add_argument("--out", metavar="OUT.json", default="-", help="the design with what was read; - for standard output")
    bring.set_defaults(run=_import)
    export = scene.add_parser("export", help="write the plan or the scene")
    export.add_argument("scheme", metavar="DESIGN.json")
    export.add_argument("out", metavar="OUT", help=".svg, .pdf, .dxf, .glb, .geojson or .csv (coordinates of the modules)")
    export.set_defaults(run=_export)
    shade = scene.add_parser("shade", help="solar access of every surface by month, as CSV")
    shade.add_argument("scheme", metavar="DESIGN.json")
    shade.add_argument("--weather", metavar="FILE", required=True, help="as for simulate")
    add_reading(shade)
    shade.add_argument("--everything", action="store_true", help="every roof, not only those that carry a surface")
    shade.add_argument("--modules", action="store_true", help="a line for each module")
    shade.set_defaults(run=_shade)


def _show(given: argparse.Namespace) -> int:

    faces = read_design(given.scheme).built_scene.faces
    if given.json:
        found = [
            {
                "id": f.id, "kind": f.kind, "name": f.name, "tilt": round(f.tilt, 4), "azimuth": round(f.azimuth, 4), "area": round(f.area, 4),
                "outline": f.outline.round(4).tolist(), "holes": [{"of": h.solid, "outline": h.outline.round(4).tolist()} for h in f.holes],
                "edges": [{"kind": e.kind, "length": round(e.length, 4)} for e in f.edges],
            }
            for f in faces
        ]  # fmt: skip
        print(json.dumps(found, indent=1))
        return 0
    if not faces:
        print("The scene is empty.")
    for f in faces:
        print(f"{f.id:<24} {f.kind:<7} {f.tilt:5.1f}°  {f.azimuth:5.1f}°  {f.area:9.2f} m²  {f.name}")
    return 0


def _import(given: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from noontide.core.design import merge_patch
    from noontide.core.design.document import Design
    from noontide.core.fields import fault_in_words
    from noontide.core.scene.importers import UnreadableScene, read_part
    from noontide.core.scene.own_files import with_free_ids

    design = read_design(given.scheme)
    try:
        part = read_part(Path(given.file).read_bytes(), given.file, design.site.latitude, design.site.longitude, given.up)
        found = with_free_ids(part, design.scene.ids, set(design.surfaces))
        whole = Design.read(merge_patch(design.as_kept(), found)).as_kept()
    except OSError as error:
        fail(f"{given.file}: {error.strerror}.")
    except UnreadableScene as error:
        fail(str(error))
    except ValidationError as error:
        fail(f"{given.file}: {fault_in_words(error.errors()[0])}")
    text = json.dumps(whole, indent=1)
    if given.out == "-":
        print(text)
    else:
        Path(given.out).write_text(text + "\n")
    things = {**found["scene"], **({"surfaces": found["surfaces"]} if found["surfaces"] else {})}
    counts = ", ".join(f"{len(some)} {kind}" for kind, some in things.items())
    standing = f" Its {part['up']} axis points up; --up changes that." if part["up"] else ""
    say(f"{given.file}: {counts} read.{standing}")
    return 0


def _export(given: argparse.Namespace) -> int:
    from noontide.core.plan.exports import FORMATS, export
    from noontide.parts import built_in_parts

    kind = given.out.rsplit(".", 1)[-1].lower()
    if kind not in FORMATS:
        fail(f"{given.out}: the ending must be one of {', '.join('.' + ending for ending in FORMATS)}.")
    Path(given.out).write_bytes(export(read_design(given.scheme), built_in_parts(), kind))
    say(f"{given.out} written.")
    return 0


def _shade(given: argparse.Namespace) -> int:
    from noontide.core.access.shade_table import shade_table
    from noontide.core.access.solar_access import accesses_of, mean_access
    from noontide.core.simulation import StageCache, simulate
    from noontide.core.simulation.chain import corrected, sky_over
    from noontide.core.simulation.plant import IncompleteDesign
    from noontide.parts import built_in_parts

    design, cache = read_design(given.scheme), StageCache()
    weather = read_weather(given.weather, given.reading)
    sky = sky_over(design.site, corrected(weather, design, cache), cache)
    found = accesses_of(design, built_in_parts(), sky, cache, given.everything)
    energy: dict[str, float] = {}
    if not given.modules:
        with suppress(IncompleteDesign):
            energy = simulate(design, weather, built_in_parts(), cache).energy_by_surface
    sys.stdout.write(as_csv(shade_table(found, given.modules, energy)))
    say(f"Solar access of all modules: {100 * mean_access(found):.2f} %.")
    return 0
