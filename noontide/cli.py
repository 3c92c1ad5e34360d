"""The command line: what the browser does, for scripts. Each command imports only what it needs."""

import argparse
import json
import sys
from pathlib import Path
from typing import NoReturn

from noontide import __version__

USAGE_ERROR, INPUT_ERROR = 2, 3


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


def _fail(message: str) -> NoReturn:
    print(f"noontide: {message}", file=sys.stderr)
    raise SystemExit(INPUT_ERROR)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="noontide", description="Design solar power plants and answer for the numbers.")
    parser.add_argument("--version", action="version", version=f"noontide {__version__}")
    commands = parser.add_subparsers(metavar="COMMAND", required=True)

    simulate = commands.add_parser("simulate", help="simulate a design over a weather year")
    simulate.add_argument("scheme", metavar="DESIGN.json", help="the design document; - for standard input")
    simulate.add_argument(
        "--weather", metavar="FILE", required=True, help="EPW file, weather table, or any table that can be recognised"
    )
    _add_reading(simulate)
    simulate.add_argument(
        "--hourly", metavar="OUT", help="write every quantity of every interval; .csv or .parquet, - for CSV on standard output"
    )
    simulate.add_argument("--json", action="store_true", help="annual figures, Cascade and checks as JSON on standard output")
    simulate.set_defaults(run=_simulate)

    weather = commands.add_parser("weather", help="look at and convert weather files").add_subparsers(
        metavar="ACTION", required=True
    )
    show = weather.add_parser("show", help="the figures of a weather year")
    show.add_argument("file", metavar="FILE")
    show.add_argument("--json", action="store_true", help="as JSON")
    _add_reading(show)
    show.set_defaults(run=_weather_show)
    read = weather.add_parser(
        "read", help="how a table is understood, with reasons; as JSON to be changed and given with --reading"
    )
    read.add_argument("file", metavar="FILE", help="text, XLSX, Parquet or JSON; - for standard input")
    read.add_argument("--json", action="store_true", help="the whole reading as JSON")
    read.set_defaults(run=_weather_read)
    check = weather.add_parser("check", help="what is doubtful in a year; 1 where something is")
    check.add_argument("file", metavar="FILE")
    _add_reading(check)
    check.set_defaults(run=_weather_check)
    compare = weather.add_parser("compare", help="two years side by side, by month")
    compare.add_argument("first", metavar="FIRST")
    compare.add_argument("second", metavar="SECOND")
    compare.set_defaults(run=_weather_compare)
    typical = weather.add_parser("typical", help="a typical year out of several, each month with its source year")
    typical.add_argument("files", metavar="FILE", nargs="+", help="one file of several years, or one a year")
    typical.add_argument("--out", metavar="OUT", required=True, help=".epw or .csv; - for a weather table on standard output")
    _add_reading(typical)
    typical.set_defaults(run=_weather_typical)
    make = weather.add_parser("synthesise", help="an hourly year from twelve monthly values")
    make.add_argument("--ghi", required=True, metavar="JAN,...,DEC", help="monthly irradiation on the horizontal [kWh/m2]")
    make.add_argument("--temperature", metavar="JAN,...,DEC", help="monthly means [°C]")
    make.add_argument("--dhi", metavar="JAN,...,DEC", help="monthly diffuse irradiation [kWh/m2]")
    make.add_argument("--lat", type=float, required=True, help="latitude, north positive [°]")
    make.add_argument("--lon", type=float, required=True, help="longitude, east positive [°]")
    make.add_argument("--elevation", type=float, default=0.0, help="above sea level [m]")
    make.add_argument("--seed", type=int, default=0, help="another number, another year of the same months")
    make.add_argument("--out", metavar="OUT", default="-", help=".epw or .csv; - for a weather table on standard output")
    make.set_defaults(run=_weather_synthesise)
    convert = weather.add_parser("convert", help="from one format to another, by the ending: .epw or .csv")
    convert.add_argument("source", metavar="IN", help="- for standard input")
    convert.add_argument("target", metavar="OUT", help="- for a weather table on standard output")
    _add_reading(convert)
    convert.set_defaults(run=_weather_convert)

    horizon = commands.add_parser(
        "horizon", help="the visible line that a height grid makes at a point, as azimuth and elevation"
    )
    horizon.add_argument("--grid", required=True, metavar="FILE", help="ESRI ASCII grid, geographic or metric")
    horizon.add_argument("--lat", type=float, required=True, help="latitude [°], or metres to the north on a metric grid")
    horizon.add_argument("--lon", type=float, required=True, help="longitude [°], or metres to the east on a metric grid")
    horizon.add_argument("--eye", type=float, default=2.0, help="height over the ground [m]")
    horizon.add_argument("--step", type=float, default=5.0, help="between the azimuths [°]")
    horizon.set_defaults(run=_horizon)

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


def _simulate(given: argparse.Namespace) -> int:
    from pydantic import ValidationError

    from noontide.core.design import Design, DesignError
    from noontide.core.simulation import simulate
    from noontide.core.simulation.checks import find_checks
    from noontide.parts import built_in_parts

    try:
        text = sys.stdin.read() if given.scheme == "-" else Path(given.scheme).read_text(encoding="utf-8")
        design = Design.read(json.loads(text))
    except (OSError, UnicodeDecodeError) as error:
        _fail(f"the design cannot be read: {error}")
    except (json.JSONDecodeError, RecursionError, DesignError) as error:
        _fail(f"{given.scheme}: {error}")
    except ValidationError as error:
        for finding in error.errors()[:20]:
            place = "/" + "/".join(str(part) for part in finding["loc"])
            print(f"noontide: {given.scheme}: {place}: {finding['msg']}", file=sys.stderr)
        return INPUT_ERROR
    weather = _read_weather(given.weather, given.reading)
    _say("simulating...")
    try:
        results = simulate(design, weather, built_in_parts())
    except ValueError as error:
        _fail(f"{given.scheme}: {error}")
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
            }
            for c in checks
        ]
        json.dump(results.summary() | {"checks": found}, sys.stdout, indent=1)
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
        _fail(f"the hourly table cannot be written: {error}")
    _say(f"wrote {len(table)} rows to {target}")


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
    print()
    print(f"  {'Horizontal irradiation on module area':<38}{results.cascade.start:>12,.0f} kWh")
    for e in results.cascade.entries:
        if e.energy:
            print(f"  {e.title:<38}{e.energy:>+12,.0f} kWh  {e.share:>+8.2%}")
    print(f"  {'Energy delivered':<38}{results.cascade.delivered:>12,.0f} kWh   closure error {results.cascade.residual:.0e}")
    for check in checks:
        print(f"\n  {check.severity.upper()}: {check.title}\n    {check.detail}")


def _weather_show(given: argparse.Namespace) -> int:
    from dataclasses import asdict

    from noontide.core.calendar import MONTHS
    from noontide.core.weather import summarise

    weather = _read_weather(given.file, given.reading)
    s = summarise(weather)
    if given.json:
        json.dump({"title": weather.title, "source": weather.source, "notes": weather.notes} | asdict(s), sys.stdout, indent=1)
        print()
        return 0
    c, place = weather.calendar, weather.place
    print(f"{weather.title}  ({weather.source or 'no source given'})")
    print(
        f"  {place.latitude:g}, {place.longitude:g}, {place.elevation:g} m; {c.intervals} intervals of {c.step} min, UTC{c.utc_offset:+g}, {'typical year' if weather.is_typical else c.year}"
    )
    print(
        f"  GHI {s.annual_ghi:,.0f}, DNI {s.annual_dni:,.0f}, DHI {s.annual_dhi:,.0f} kWh/m² a year; closure error {round(s.closure, 3) + 0.0:+.1%}"
    )
    print(
        f"  temperature {s.lowest_temperature:.1f} to {s.highest_temperature:.1f} °C, mean {s.mean_temperature:.1f} °C; wind {s.mean_wind:.1f} m/s"
    )
    for note in weather.notes:
        print(f"  - {note}")
    for warning in (s.clock_warning, s.closure_warning):
        if warning:
            print(f"  ! {warning}")
    print(f"\n  {'':<10}{'GHI':>8}{'DHI':>8}  kWh/m²{'mean °C':>10}")
    for name, ghi, dhi, temperature in zip(MONTHS, s.monthly_ghi, s.monthly_dhi, s.monthly_temperature, strict=True):
        print(f"  {name:<10}{ghi:>8.1f}{dhi:>8.1f}{temperature:>18.1f}")
    return 0


def _weather_convert(given: argparse.Namespace) -> int:
    _write_weather(_read_weather(given.source, given.reading), given.target)
    return 0


def _write_weather(weather, target: str) -> None:
    from noontide.core.weather import as_text, write

    try:
        if target == "-":
            sys.stdout.write(as_text(weather, "csv"))
        else:
            write(weather, target)
    except OSError as error:
        _fail(f"{target} cannot be written: {error}")
    for note in weather.notes:
        _say(note)


def _weather_read(given: argparse.Namespace) -> int:
    from noontide.core.weather import WeatherFileError, reading_of, recognise

    try:
        reading = reading_of(sys.stdin.buffer.read(), "standard input") if given.file == "-" else recognise(given.file)
    except OSError as error:
        _fail(f"the weather file cannot be read: {error}")
    except WeatherFileError as error:
        _fail(f"{given.file}: {error}")
    if given.json:
        print(reading.model_dump_json(indent=1))
        return 0
    for finding in reading.findings:
        print(f"  {finding.subject:<16}{finding.value:<34}{finding.sureness:<9}{finding.reason}")
    for column in reading.columns:
        name = column.heading or f"column {column.place + 1}"
        held = f"{column.role or 'not used'}{f', {column.unit}' if column.unit else ''}"
        print(f"  {name[:15]:<16}{held:<34}{column.sureness:<9}{column.reason}")
    return 0


def _weather_check(given: argparse.Namespace) -> int:
    import numpy as np

    from noontide.core.weather import summarise

    weather = _read_weather(given.file, given.reading)
    s = summarise(weather)
    doubts = [warning for warning in (s.clock_warning, s.closure_warning) if warning]
    for doubt in doubts:
        print(f"  ! {doubt}")
    filled = int(np.count_nonzero(weather.flags))
    if filled:
        print(f"  - {filled:,} intervals hold values that were filled.")
    for note in weather.notes:
        print(f"  - {note}")
    print("Nothing is doubtful." if not doubts else f"{len(doubts)} finding{'s' if len(doubts) > 1 else ''}.")
    return 1 if doubts else 0


def _weather_compare(given: argparse.Namespace) -> int:
    from noontide.core.calendar import MONTHS
    from noontide.core.weather import summarise

    first, second = (summarise(_read_weather(path)) for path in (given.first, given.second))
    print(f"  {'':<10}{'GHI':>9}{'GHI':>9}{'change':>9}{'mean °C':>10}{'mean °C':>9}{'change':>8}")
    months = zip(
        MONTHS, first.monthly_ghi, second.monthly_ghi, first.monthly_temperature, second.monthly_temperature, strict=True
    )
    for name, g, h, t, u in months:
        print(f"  {name:<10}{g:>9.1f}{h:>9.1f}{(h / g - 1 if g else 0):>+9.1%}{t:>10.1f}{u:>9.1f}{u - t:>+8.1f}")
    g, h = first.annual_ghi, second.annual_ghi
    t, u = first.mean_temperature, second.mean_temperature
    print(f"  {'Year':<10}{g:>9.1f}{h:>9.1f}{(h / g - 1 if g else 0):>+9.1%}{t:>10.1f}{u:>9.1f}{u - t:>+8.1f}")
    return 0


def _weather_typical(given: argparse.Namespace) -> int:
    from noontide.core.weather import WeatherFileError, read_years, typical_year

    years = []
    for path in given.files:
        try:
            years += read_years(path, _load_reading(given.reading))
        except OSError as error:
            _fail(f"{path} cannot be read: {error}")
        except WeatherFileError as error:
            _fail(f"{path}: {error}")
        _say(f"{path}: {len(years)} years so far")
    try:
        made = typical_year(years)
    except ValueError as error:
        _fail(str(error))
    _write_weather(made, given.out)
    return 0


def _weather_synthesise(given: argparse.Namespace) -> int:
    from noontide.core.weather import synthesise

    def twelve(text: str | None, option: str) -> list[float] | None:
        if text is None:
            return None
        try:
            return [float(value) for value in text.replace(";", ",").split(",")]
        except ValueError:
            _fail(f"{option} must be twelve numbers with commas between them; it is '{text[:80]}'")

    try:
        made = synthesise(
            twelve(given.ghi, "--ghi") or [],
            given.lat,
            given.lon,
            given.elevation,
            twelve(given.temperature, "--temperature"),
            given.seed,
            monthly_dhi=twelve(given.dhi, "--dhi"),
        )
    except ValueError as error:
        _fail(str(error))
    _write_weather(made, given.out)
    return 0


def _horizon(given: argparse.Namespace) -> int:
    from noontide.core.shading import horizon_from_grid, read_height_grid

    try:
        grid = read_height_grid(Path(given.grid).read_text(encoding="utf-8", errors="replace"), Path(given.grid).name)
        line = horizon_from_grid(grid, given.lon, given.lat, given.eye, step=given.step)
    except OSError as error:
        _fail(f"the grid cannot be opened: {error}")
    except ValueError as error:
        _fail(str(error))
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
        _fail(f"--at must be a time such as 2026-06-21T12:00+02:00; it is '{given.at}'")
    try:
        at = at.replace(tzinfo=UTC) if at.tzinfo is None else at.astimezone(UTC)
        sun = solar_position(np.datetime64(at.replace(tzinfo=None)), given.lat, given.lon, given.elevation)
    except (ValueError, OverflowError) as error:
        _fail(str(error))
    print(f"{at:%Y-%m-%d %H:%M:%S} UTC at {given.lat:g}, {given.lon:g}")
    print(
        f"  elevation {90 - float(sun.apparent_zenith):8.4f}°  (zenith {float(sun.apparent_zenith):.4f}°, without refraction {float(sun.zenith):.4f}°)"
    )
    print(f"  azimuth   {float(sun.azimuth):8.4f}°")
    print(f"  distance  {float(sun.distance):8.5f} au")
    return 0


def _schema(given: argparse.Namespace) -> int:
    from noontide.core.design import Design

    schema = Design.model_json_schema()
    if given.openapi:
        schema = Design.model_json_schema(ref_template="#/components/schemas/{model}")
        parts = schema.pop("$defs")
        schema = {
            "openapi": "3.1.0",
            "info": {"title": "Design", "version": "2"},
            "paths": {},
            "components": {"schemas": parts | {"Design": schema}},
        }
    json.dump(schema, sys.stdout, indent=1)
    print()
    return 0


def _serve(given: argparse.Namespace, with_demo: bool) -> int:
    from noontide.server.serving import serve

    return serve(
        host=given.host, port=given.port, data=given.data, with_demo=with_demo, load_only=getattr(given, "load_only", False)
    )


def _stand_in(given: argparse.Namespace) -> int:
    from noontide.standins.edr import serve

    _say(f"weather stand-in at http://127.0.0.1:{given.port}/collections")
    try:
        serve(given.port)
    except OSError as error:
        _fail(f"port {given.port} cannot be used: {error.strerror or error}. Choose another with --port.")
    return 0


def _add_reading(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--reading", metavar="FILE.json", help="how a table is to be understood, as `noontide weather read --json` writes it"
    )


def _load_reading(path: str | None):
    if path is None:
        return None
    from pydantic import ValidationError

    from noontide.core.weather import Reading

    try:
        return Reading.model_validate_json(Path(path).read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        _fail(f"the reading cannot be opened: {error}")
    except ValidationError as error:
        first = error.errors()[0]
        _fail(f"{path}: /{'/'.join(map(str, first['loc']))}: {first['msg']}")


def _read_weather(path: str, reading: str | None = None):
    from noontide.core.weather import WeatherFileError, parse, read

    how = _load_reading(reading)
    try:
        return parse(sys.stdin.buffer.read(), "standard input", how) if path == "-" else read(path, how)
    except OSError as error:
        _fail(f"the weather file cannot be read: {error}")
    except WeatherFileError as error:
        _fail(f"{path}: {error}")


def _say(message: str) -> None:
    print(message, file=sys.stderr)


if __name__ == "__main__":
    raise SystemExit(main())
