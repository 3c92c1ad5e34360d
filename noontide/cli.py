"""The command line: what the browser does, for scripts. Each command imports only what it needs."""

import argparse
import json
import sys
from pathlib import Path

from noontide import (
    __version__,
    circuit_commands,
    edit_commands,
    exchange_commands,
    finding_commands,
    money_commands,
    parts_commands,
    report_commands,
    scene_commands,
    storage_commands,
    trial_commands,
    weather_commands,
)
from noontide.command_errors import fail, say
from noontide.design_files import read_design
from noontide.weather_commands import add_reading, read_all, read_weather


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it went well, 2 for a wrong call, 3 for input that cannot be used."""
    parser = _parser()
    given = parser.parse_args(arguments)
    try:
        return given.run(given) or 0
    except BrokenPipeError:
        return 0
    except KeyboardInterrupt:
        return 130


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="noontide", description="Design solar power plants and answer for the numbers.")
    parser.add_argument("--version", action="version", version=f"noontide {__version__}")
    commands = parser.add_subparsers(metavar="COMMAND", required=True)

    simulate = commands.add_parser("simulate", help="simulate a design over a weather year")
    simulate.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    simulate.add_argument(
        "--weather", metavar="FILE", required=True, help="EPW file, weather table, or any table that can be recognised"
    )
    add_reading(simulate)
    money_commands.add_use(simulate)
    simulate.add_argument(
        "--hourly", metavar="OUT", help="write every quantity of every interval; .csv or .parquet, - for CSV on standard output"
    )
    simulate.add_argument("--json", action="store_true", help="annual figures, Cascade and checks as JSON on standard output")
    simulate.set_defaults(run=_simulate)

    weather_commands.add(commands)

    years = commands.add_parser("years", help="simulate a design over many years: each year's energy, spread, P50 and P90")
    years.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    years.add_argument("files", metavar="FILE", nargs="+", help="one weather file of several years, or one a year")
    years.add_argument("--json", action="store_true", help="as JSON")
    add_reading(years)
    money_commands.add_use(years)
    years.set_defaults(run=_years)

    circuit_commands.add(commands)
    report_commands.add(commands)
    exchange_commands.add(commands)
    trial_commands.add(commands)
    scene_commands.add(commands)
    edit_commands.add(commands)
    money_commands.add(commands)
    storage_commands.add(commands)
    finding_commands.add(commands)
    parts_commands.add(commands)

    horizon = commands.add_parser(
        "horizon", help="the visible line that a height grid makes at a point, as azimuth and elevation"
    )
    horizon.add_argument("--grid", required=True, metavar="FILE", help="GeoTIFF, or ESRI ASCII grid, geographic or metric")
    horizon.add_argument("--lat", type=float, required=True, help="latitude [°], or metres to the north on a metric grid")
    horizon.add_argument("--lon", type=float, required=True, help="longitude [°], or metres to the east on a metric grid")
    horizon.add_argument("--eye", type=float, default=2.0, help="height over the ground [m]")
    horizon.add_argument("--step", type=float, default=5.0, help="between the azimuths [°]")
    horizon.set_defaults(run=_horizon)

    what = commands.add_parser("recognise", help="what a file is by its content, and where it would go")
    what.add_argument("file", metavar="FILE")
    what.set_defaults(run=_recognise)

    sun = commands.add_parser("sun", help="where the sun stands")
    sun.add_argument("--lat", type=float, required=True, help="latitude, north positive [°]")
    sun.add_argument("--lon", type=float, required=True, help="longitude, east positive [°]")
    sun.add_argument("--at", required=True, metavar="TIME", help="such as 2026-06-21T12:00+02:00; UTC where no offset stands")
    sun.add_argument("--elevation", type=float, default=0.0, help="height above sea level [m]")
    sun.set_defaults(run=_sun)

    schema = commands.add_parser("schema", help="JSON Schema of the design document")
    schema.add_argument(
        "--openapi", action="store_true", help="the same as components of an OpenAPI document, for generators of types"
    )
    schema.add_argument("--parts", action="store_true", help="JSON Schema of a file of parts instead")
    schema.add_argument("--study", action="store_true", help="JSON Schema of a study instead")
    schema.add_argument("--tariff", action="store_true", help="JSON Schema of a tariff instead")
    schema.add_argument("--demand", action="store_true", help="JSON Schema of sources of demand instead")
    schema.set_defaults(run=_schema)

    serve = commands.add_parser("serve", help="start the application")
    demo = commands.add_parser("demo", help="load the demo projects if there are none, then start the application")
    for command in (serve, demo):
        command.add_argument("--port", type=_port, default=8017)
        command.add_argument("--host", default="127.0.0.1", help="address to listen on; this machine alone by default")
        command.add_argument(
            "--data",
            metavar="DIR",
            help="where projects and weather are kept (default: NOONTIDE_DATA, or noontide in the user's data folder)",
        )
    serve.set_defaults(run=lambda given: _serve(given, with_demo=False))
    demo.set_defaults(run=lambda given: _serve(given, with_demo=True))
    demo.add_argument("--load-only", action="store_true", help="load the demo projects and stop")

    stand_in = commands.add_parser("stand-in", help="run a simulated outside service")
    stand_in.add_argument("service", choices=["weather"])
    stand_in.add_argument("--port", type=_port, default=8018)
    stand_in.set_defaults(run=_stand_in)
    return parser


def _port(text: str) -> int:
    value = int(text) if text.isascii() and text.isdigit() else 0
    if not 1 <= value <= 65535:
        raise argparse.ArgumentTypeError(f"a port is a whole number from 1 to 65535; it is '{text}'")
    return value


def _years(given: argparse.Namespace) -> int:
    from noontide.core.behind_meter.over_years import simulate_years
    from noontide.parts import built_in_parts

    design = read_design(given.scheme)
    years = read_all(given.files, given.reading)
    series = money_commands.series_named(given, design.site.time_zone)
    try:
        found = simulate_years(design, years, built_in_parts(), lambda done, of: say(f"{done} of {of} years"), series)
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    if given.json:
        runs = [vars(run) for run in found.runs]
        json.dump({"years": runs, "mean": found.mean, "spread": found.spread, "p50": found.exceeded(0.5), "p90": found.exceeded(0.9), "dark": found.dark_words()}, sys.stdout, indent=1)  # fmt: skip
        print()
        return 0
    print(f"  {'':<8}{'energy kWh':>12}{'kWh/kW':>9}{'PR':>8}{'GHI':>8}{'plane':>8}  kWh/m²")
    for run in found.runs:
        print(
            f"  {run.year:<8}{run.energy:>12,.0f}{run.specific_yield:>9,.0f}{run.performance_ratio:>8.1%}{run.horizontal_irradiation:>8,.0f}{run.plane_irradiation:>8,.0f}"
        )
    print(
        f"  mean {found.mean:,.0f} kWh, spread between years {found.spread:.1%}; P50 {found.exceeded(0.5):,.0f}, P90 {found.exceeded(0.9):,.0f} kWh"
    )
    if words := found.dark_words():
        print(f"  {words}")
    return 0


def _simulate(given: argparse.Namespace) -> int:
    from noontide.core.checks import find_checks
    from noontide.core.figures.catalogue import figures_of
    from noontide.core.simulation import simulate
    from noontide.parts import built_in_parts

    design = read_design(given.scheme)
    weather = read_weather(given.weather, given.reading)
    say("simulating...")
    try:
        series = money_commands.series_named(given, design.site.time_zone)
        results = simulate(design, weather, built_in_parts(), series=series)
    except ValueError as error:
        fail(f"{given.scheme}: {error}")
    if given.hourly:
        _write_hourly(results, given.hourly)
    checks = find_checks(results)
    if given.json:
        found = [
            {
                "rule": c.rule,
                "severity": c.severity,
                "title": c.title,
                "detail": c.detail,
                "pointer": c.pointer,
                "actual": c.actual,
                "limit": c.limit,
                "unit": c.unit,
                "accepted": c.accepted,
            }
            for c in checks
        ]
        json.dump(results.summary() | {"figures": figures_of(results), "checks": found}, sys.stdout, indent=1)
        print()
    elif given.hourly != "-":
        _print_report(design, results, checks)
    return 0


def _write_hourly(results, target: str) -> None:
    table = results.hourly()
    try:
        if target == "-":
            table.to_csv(sys.stdout)
        elif target.endswith(".parquet"):
            table.to_parquet(target)
        else:
            table.to_csv(target)
    except OSError as error:
        fail(f"the hourly table cannot be written: {error}")
    say(f"wrote {len(table)} rows to {target}")


def after_the_meter(results) -> list[tuple[str, str]]:
    """Figures of demand and money that the design has, as they are shown."""
    from noontide.core.figures.meter_figures import DEMAND_FIGURES
    from noontide.core.figures.money_figures import MONEY_FIGURES

    found = []
    for figure in (*DEMAND_FIGURES, *MONEY_FIGURES):
        if figure.in_headline and figure.is_there(results):
            value = figure.value(results)
            shown = (
                figure.without
                if value is None
                else f"{value:.1%}"
                if figure.is_percentage
                else f"{value:,.{figure.decimals}f} {figure.unit_of(results)}"
            )
            found.append((figure.title, shown))
    return found


def _print_report(design, results, checks) -> None:
    a = results.annual
    print(f"{design.name or 'Design'} at {design.site.latitude:g}, {design.site.longitude:g}, with {results.weather.title}")
    print()
    for label, value, unit in (
        ("Annual energy", f"{a.energy:,.0f}", "kWh"),
        ("Specific yield", f"{a.specific_yield:,.0f}", "kWh/kW"),
        ("Performance ratio", f"{a.performance_ratio:.1%}", ""),
        ("DC power", f"{a.dc_power:,.2f}", "kW"),
        ("DC/AC ratio", f"{a.dc_ac_ratio:.2f}", ""),
        ("Plane irradiation", f"{a.plane_irradiation:,.0f}", "kWh/m²"),
    ):
        print(f"  {label:<22}{value:>12} {unit}")
    for title, text in after_the_meter(results):
        print(f"  {title:<34}{text}")
    print()
    print(f"  {'Horizontal irradiation on module area':<38}{results.cascade.start:>12,.0f} kWh")
    for e in results.cascade.entries:
        if e.energy:
            print(f"  {e.title:<38}{e.energy:>+12,.0f} kWh  {e.share:>+8.2%}")
    print(f"  {'Energy delivered':<38}{results.cascade.delivered:>12,.0f} kWh   closure error {results.cascade.residual:.0e}")
    for check in checks:
        state = f"ACCEPTED ({check.accepted})" if check.accepted else check.severity.upper()
        print(f"\n  {state}: {check.title}\n    {check.detail}")


def _horizon(given: argparse.Namespace) -> int:
    from noontide.core.heights import read_height_grid
    from noontide.core.heights.geotiff import read_geotiff
    from noontide.core.shading import horizon_from_grid

    try:
        content, name = Path(given.grid).read_bytes(), Path(given.grid).name
        is_tiff = content[:2] in (b"II", b"MM")
        grid = (
            read_geotiff(content, given.lon, given.lat, name)
            if is_tiff
            else read_height_grid(content.decode("utf-8", "replace"), name)
        )
        line = horizon_from_grid(grid, given.lon, given.lat, given.eye, step=given.step)
    except OSError as error:
        fail(f"the grid cannot be opened: {error}")
    except ValueError as error:
        fail(str(error))
    for azimuth, elevation in zip(line.azimuths, line.elevations, strict=True):
        print(f"{azimuth:g}\t{elevation:g}")
    return 0


def _sun(given: argparse.Namespace) -> int:
    from datetime import UTC, datetime

    import numpy as np

    from noontide.core.sun import solar_position

    try:
        at = datetime.fromisoformat(given.at)
    except ValueError:
        fail(f"--at must be a time such as 2026-06-21T12:00+02:00; it is '{given.at}'")
    try:
        at = at.replace(tzinfo=UTC) if at.tzinfo is None else at.astimezone(UTC)
        sun = solar_position(np.datetime64(at.replace(tzinfo=None)), given.lat, given.lon, given.elevation)
    except (ValueError, OverflowError) as error:
        fail(str(error))
    print(f"{at:%Y-%m-%d %H:%M:%S} UTC at {given.lat:g}, {given.lon:g}")
    print(
        f"  elevation {90 - float(sun.apparent_zenith):8.4f}°  (zenith {float(sun.apparent_zenith):.4f}°, without refraction {float(sun.zenith):.4f}°)"
    )
    print(f"  azimuth   {float(sun.azimuth):8.4f}°")
    print(f"  distance  {float(sun.distance):8.5f} au")
    return 0


def _recognise(given: argparse.Namespace) -> int:
    from noontide.core.recognising import recognise_file

    path = Path(given.file)
    try:
        found = recognise_file(path.read_bytes(), path.name)
    except OSError as error:
        return fail(f"{given.file}: {error.strerror or error}")
    print(found.words)
    return 0 if found.kind != "unknown" else 1


def _schema(given: argparse.Namespace) -> int:
    from pydantic import BaseModel

    from noontide.core.demand import Sources
    from noontide.core.design import Design
    from noontide.core.electrical import Catalogue
    from noontide.core.money import Tariff
    from noontide.core.trials import Study

    model: type[BaseModel] = Design
    for is_asked, other in ((given.parts, Catalogue), (given.tariff, Tariff), (given.demand, Sources), (given.study, Study)):
        model = other if is_asked else model
    schema = model.model_json_schema()
    if given.openapi:
        schema = _design_and_acts()
    json.dump(schema, sys.stdout, indent=1)
    print()
    return 0


def _design_and_acts() -> dict:
    """The design document, and by the name of each act its arguments, as the schemas of an API without addresses."""
    from pydantic import BaseModel
    from pydantic.json_schema import models_json_schema

    from noontide.core.design import Design
    from noontide.core.verbs.catalogue import VERBS

    models: list[type[BaseModel]] = list(dict.fromkeys([Design, *(verb.arguments for verb in VERBS.values())]))
    refs, found = models_json_schema([(m, "validation") for m in models], ref_template="#/components/schemas/{model}")
    acts = {name: refs[verb.arguments, "validation"] for name, verb in VERBS.items()}
    schemas = found["$defs"] | {"Acts": {"type": "object", "properties": acts, "required": list(acts)}}
    return {"openapi": "3.1.0", "info": {"title": "Design", "version": "2"}, "paths": {}, "components": {"schemas": schemas}}


def _serve(given: argparse.Namespace, with_demo: bool) -> int:
    from noontide.server.serving import serve

    return serve(
        host=given.host, port=given.port, data=given.data, with_demo=with_demo, load_only=getattr(given, "load_only", False)
    )


def _stand_in(given: argparse.Namespace) -> int:
    from noontide.standins.edr import serve

    say(f"weather stand-in at http://127.0.0.1:{given.port}/collections")
    try:
        serve(given.port)
    except OSError as error:
        fail(f"port {given.port} cannot be used: {error.strerror or error}. Choose another with --port.")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
