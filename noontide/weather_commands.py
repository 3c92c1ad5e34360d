"""The part of the command line that looks at weather files, makes and changes them."""

import argparse
import json
import sys
from pathlib import Path

from noontide.command_errors import fail, say


def add(commands: argparse._SubParsersAction) -> None:
    """Add `noontide weather` and its actions."""
    weather = commands.add_parser("weather", help="look at and convert weather files").add_subparsers(
        metavar="ACTION", required=True
    )
    show = weather.add_parser("show", help="the figures of a weather year")
    show.add_argument("file", metavar="FILE")
    show.add_argument("--json", action="store_true", help="as JSON")
    add_reading(show)
    show.set_defaults(run=_weather_show)
    read = weather.add_parser(
        "read", help="how a table is understood, with reasons; as JSON to be changed and given with --reading"
    )
    read.add_argument("file", metavar="FILE", help="text, XLSX, Parquet or JSON; - for standard input")
    read.add_argument("--json", action="store_true", help="the whole reading as JSON")
    read.set_defaults(run=_weather_read)
    check = weather.add_parser("check", help="questionable values of a year; exit code 1 where there are some")
    check.add_argument("file", metavar="FILE")
    add_reading(check)
    check.set_defaults(run=_weather_check)
    check.add_argument("--json", action="store_true", help="as JSON")
    adjust = weather.add_parser("adjust", help="a year with gaps filled, another elevation, monthly factors or a warmer climate")
    adjust.add_argument("source", metavar="IN", help="- for standard input")
    adjust.add_argument("target", metavar="OUT", help=".epw or .csv; - for a weather table on standard output")
    adjust.add_argument(
        "--fill", choices=["clearness", "neighbouring days", "synthetic"], help="fill marked values again, by this method"
    )
    adjust.add_argument(
        "--decomposition", choices=["erbs", "ridley"], help="how DNI and DHI are derived where the year has GHI alone"
    )
    adjust.add_argument("--elevation", type=float, metavar="M", help="temperature and pressure as at this elevation [m]")
    adjust.add_argument("--factors", metavar="JAN,...,DEC", help="irradiance times these")
    adjust.add_argument("--ghi", metavar="JAN,...,DEC", help="calibrate to these months [kWh/m2]")
    adjust.add_argument("--warm", metavar="JAN,...,DEC", help="add these to the temperature [K]")
    add_reading(adjust)
    adjust.set_defaults(run=_weather_adjust)
    record = weather.add_parser("years", help="a record of several years: months, spread, P50 and P90, extremes, drift")
    record.add_argument("files", metavar="FILE", nargs="+", help="one file of several years, or one a year")
    record.add_argument("--json", action="store_true", help="as JSON")
    add_reading(record)
    record.set_defaults(run=_weather_years)
    compare = weather.add_parser("compare", help="two years side by side, by month")
    compare.add_argument("first", metavar="FIRST")
    compare.add_argument("second", metavar="SECOND")
    compare.set_defaults(run=_weather_compare)
    typical = weather.add_parser("typical", help="a typical year out of several, each month with its source year")
    typical.add_argument("files", metavar="FILE", nargs="+", help="one file of several years, or one a year")
    typical.add_argument("--out", metavar="OUT", required=True, help=".epw or .csv; - for a weather table on standard output")
    add_reading(typical)
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
    add_reading(convert)
    convert.set_defaults(run=_weather_convert)


def _weather_show(given: argparse.Namespace) -> int:
    from dataclasses import asdict

    from noontide.core.calendar import MONTHS
    from noontide.core.weather import summarise

    weather = read_weather(given.file, given.reading)
    s = summarise(weather)
    if given.json:
        json.dump({"title": weather.title, "source": weather.source, "notes": weather.notes} | asdict(s), sys.stdout, indent=1)
        print()
        return 0
    c, place = weather.calendar, weather.place
    print(f"{weather.title}  ({weather.source or 'no source given'})")
    print(
        f"  {'about ' if weather.is_place_guessed else ''}{place.latitude:g}, {place.longitude:g}, {place.elevation:g} m{' (a guess)' if weather.is_place_guessed else ''}; {c.intervals} intervals of {c.step} min, UTC{c.utc_offset:+g}, {'typical year' if weather.is_typical else c.year}"
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
    _write_weather(read_weather(given.source, given.reading), given.target)
    return 0


def _write_weather(weather, target: str) -> None:
    from noontide.core.weather import as_text, write

    try:
        if target == "-":
            sys.stdout.write(as_text(weather, "csv"))
        else:
            write(weather, target)
    except OSError as error:
        fail(f"{target} cannot be written: {error}")
    for note in weather.notes:
        say(note)


def _weather_read(given: argparse.Namespace) -> int:
    from noontide.core.weather import WeatherFileError, reading_of, recognise

    try:
        reading = reading_of(sys.stdin.buffer.read(), "standard input") if given.file == "-" else recognise(given.file)
    except OSError as error:
        fail(f"the weather file cannot be read: {error}")
    except WeatherFileError as error:
        fail(f"{given.file}: {error}")
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
    from noontide.core.weather import summarise
    from noontide.core.weather.quality import examine_quality

    weather = read_weather(given.file, given.reading)
    s = summarise(weather)
    doubts = examine_quality(weather)
    if given.json:
        lines = [{"rule": d.rule, "title": d.title, "detail": d.detail, "source": d.source, "hours": d.hours} for d in doubts]
        json.dump({"clock": s.clock_warning, "closure": s.closure_warning, "doubts": lines}, sys.stdout, indent=1)
        print()
    else:
        for doubt in doubts:
            print(f"  ! {doubt.title}: {doubt.detail}")
        for warning in (s.clock_warning, s.closure_warning):
            if warning:
                print(f"  ! {warning}")
        for note in weather.notes:
            print(f"  - {note}")
    count = sum(d.rule != "filled" for d in doubts) + bool(s.clock_warning) + bool(s.closure_warning)
    if not given.json:
        print("No questionable values." if not count else f"{count} finding{'s' if count > 1 else ''}.")
    return 1 if count else 0


def _weather_adjust(given: argparse.Namespace) -> int:
    from noontide.core.weather import adjusting

    weather = read_weather(given.source, given.reading)
    try:
        if given.fill:
            weather = adjusting.fill_marked(weather, given.fill)
        if given.decomposition == "ridley":
            weather = adjusting.split_by_course(weather)
        if given.elevation is not None:
            weather = adjusting.correct_height(weather, given.elevation)
        if given.factors:
            weather = adjusting.scale_months(weather, _twelve(given.factors, "--factors"))
        if given.ghi:
            weather = adjusting.calibrate(weather, _twelve(given.ghi, "--ghi"))
        if given.warm:
            weather = adjusting.warm(weather, _twelve(given.warm, "--warm"))
    except ValueError as error:
        fail(str(error))
    _write_weather(weather, given.target)
    return 0


def _weather_years(given: argparse.Namespace) -> int:
    from noontide.core.calendar import MONTHS
    from noontide.core.weather.many_years import many_years

    record = many_years(read_all(given.files, given.reading))
    t = record.temperature
    if given.json:
        json.dump(
            {"years": record.years, "annual_ghi": record.annual_ghi.tolist(), "monthly_ghi": record.monthly_ghi.tolist(), "spread": record.spread,
             "p50": record.exceeded(0.5), "p90": record.exceeded(0.9), "temperature": vars(t), "drift_per_year": record.drift.per_year if record.drift else None},
            sys.stdout, indent=1,
        )  # fmt: skip
        print()
        return 0
    print(f"  {'GHI kWh/m²':<12}" + "".join(f"{month[:3]:>7}" for month in MONTHS) + f"{'Year':>8}")
    for year, months, annual in zip(record.years, record.monthly_ghi, record.annual_ghi, strict=True):
        print(f"  {year:<12}" + "".join(f"{value:>7.1f}" for value in months) + f"{annual:>8.0f}")
    print(f"  {'mean':<12}" + "".join(f"{value:>7.1f}" for value in record.mean_months) + f"{record.mean:>8.0f}")
    print(
        f"  spread between years {record.spread:.1%}; P50 {record.exceeded(0.5):,.0f}, P90 {record.exceeded(0.9):,.0f} kWh/m² (closest: {record.closest(0.5)}, {record.closest(0.9)}); least light in {MONTHS[record.worst_month]}"
    )
    print(
        f"  temperature: record {t.record_low:.1f} to {t.record_high:.1f} °C, mean of the yearly extremes {t.mean_low:.1f} to {t.mean_high:.1f} °C, 2 % choice {t.low_2_percent:.1f} to {t.high_2_percent:.1f} °C"
    )
    if record.drift is not None:
        found = "! the sensor seems to drift" if record.drift.is_found else "no drift of the sensor is found"
        print(f"  {found}: clearest light {record.drift.per_year:+.2%} a year, standard error {record.drift.standard_error:.2%}")
    return 0


def read_all(paths: list[str], reading: str | None):
    """All years of all files, in order of the years."""
    from noontide.core.weather import WeatherFileError, read_years

    years = []
    for path in paths:
        try:
            years += read_years(path, load_reading(reading))
        except OSError as error:
            fail(f"{path} cannot be read: {error}")
        except WeatherFileError as error:
            fail(f"{path}: {error}")
        say(f"{path}: {len(years)} years so far")
    typical = [year for year in years if year.is_typical]
    for year in typical:
        say(f"{year.title} is a typical year, or one without a date: it is left out.")
    years = [year for year in years if not year.is_typical]
    if typical and not years:
        fail("no year of a record is left; give files of measured years")
    return sorted(years, key=lambda year: year.calendar.year)


def _twelve(text: str, option: str) -> list[float]:
    try:
        return [float(value) for value in text.replace(";", ",").split(",")]
    except ValueError:
        fail(f"{option} must be twelve numbers with commas between them; it is '{text[:80]}'")


def _weather_compare(given: argparse.Namespace) -> int:
    from noontide.core.calendar import MONTHS
    from noontide.core.weather import summarise

    first, second = (summarise(read_weather(path)) for path in (given.first, given.second))
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
    from noontide.core.weather import typical_year

    try:
        made = typical_year(read_all(given.files, given.reading))
    except ValueError as error:
        fail(str(error))
    _write_weather(made, given.out)
    return 0


def _weather_synthesise(given: argparse.Namespace) -> int:
    from noontide.core.weather import synthesise

    try:
        made = synthesise(
            _twelve(given.ghi, "--ghi"),
            given.lat,
            given.lon,
            given.elevation,
            _twelve(given.temperature, "--temperature") if given.temperature else None,
            given.seed,
            monthly_dhi=_twelve(given.dhi, "--dhi") if given.dhi else None,
        )
    except ValueError as error:
        fail(str(error))
    _write_weather(made, given.out)
    return 0


def add_reading(parser: argparse.ArgumentParser, name: str = "reading") -> None:
    parser.add_argument(
        f"--{name}", metavar="FILE.json", help="how a table is to be understood, as `noontide weather read --json` writes it"
    )


def load_reading(path: str | None):
    if path is None:
        return None
    from pydantic import ValidationError

    from noontide.core.fields import first_fault
    from noontide.core.weather import Reading

    try:
        return Reading.model_validate_json(Path(path).read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        fail(f"the reading cannot be opened: {error}")
    except ValidationError as error:
        fail(f"{path}: {first_fault(error)}")


def read_weather(path: str, reading: str | None = None):
    from noontide.core.weather import WeatherFileError, parse, read

    how = load_reading(reading)
    try:
        return parse(sys.stdin.buffer.read(), "standard input", how) if path == "-" else read(path, how)
    except OSError as error:
        fail(f"the weather file cannot be read: {error}")
    except WeatherFileError as error:
        fail(f"{path}: {error}")
