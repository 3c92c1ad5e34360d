"""Weather files of any format, by path or by their bytes."""

from dataclasses import replace
from pathlib import Path

from noontide.core.weather.coverage_json import PASSPORT, read_coverage, write_coverage
from noontide.core.weather.epw import read_epw, write_epw
from noontide.core.weather.parquet import has_passport, read_parquet, write_parquet
from noontide.core.weather.plain_csv import MAGIC, read_plain, write_plain
from noontide.core.weather.reading import Finding, Reading, apply_reading, examine, recognise_content, years_of
from noontide.core.weather.reading.text import open_sheet
from noontide.core.weather.year import Step, Weather

FORMAT_NAMES = {
    "epw": "an EPW file",
    "csv": "a weather table of ours",
    "covjson": "a year of ours as CoverageJSON",
    "parquet": "a year of ours as Parquet",
}
KINDS = {".epw": "epw", ".covjson": "covjson", ".json": "covjson", ".parquet": "parquet"}  # by the ending of a file's name


def recognise(path: str | Path) -> Reading:
    """How a file of weather is understood, each thing with its reason and how sure it is.

    Raises
    ------
    WeatherFileError
        If there is no table of weather in it.
    OSError
        If there is no such file.
    """
    path = Path(path)
    return reading_of(path.read_bytes(), path.stem)


def reading_of(content: bytes, name: str = "weather file", place: tuple[float, float, float] | None = None) -> Reading:
    """The same for the bytes of a file; `place` is latitude, longitude and elevation where the file states none."""
    kind = format_of(content)
    if kind:
        weather = parse(content, name)
        c, at = weather.calendar, weather.place
        first = Finding(subject="format", value=FORMAT_NAMES[kind], reason="Its first line says so.", sureness="certain")
        return Reading(
            format="epw" if kind == "epw" else "noontide", step=c.step, utc_offset=c.utc_offset, year=c.year, years=[c.year], is_typical=weather.is_typical,
            latitude=at.latitude, longitude=at.longitude, elevation=at.elevation, title=weather.title[:200],
            findings=[first, *(Finding(subject="note", value="", reason=note[:300], sureness="certain") for note in weather.notes[:50])],
        )  # fmt: skip
    return recognise_content(content, name, place).reading


def read(path: str | Path, reading: Reading | None = None) -> Weather:
    """Read a weather year: an EPW file, a weather table of ours, or any other table that can be recognised.

    Parameters
    ----------
    path
        Of the file: text, XLSX, Parquet, or JSON records.
    reading : Reading, optional
        How the file is to be understood; recognised where none is given.

    Raises
    ------
    WeatherFileError
        If the content makes no whole year; it says where, and what was expected.
    OSError
        If there is no such file.
    """
    path = Path(path)
    # A table is called by its name alone; an EPW file says its own, and is called by all of it where it does not.
    return parse(path.read_bytes(), path.name if path.suffix.lower() == ".epw" else path.stem, reading)


def read_years(path: str | Path, reading: Reading | None = None) -> list[Weather]:
    """Every year of a file, in order; a file of one year gives one."""
    path = Path(path)
    return years_in(path.read_bytes(), path.stem, reading)


def years_in(content: bytes, name: str, reading: Reading | None = None) -> list[Weather]:
    """The same from the bytes of a file."""
    if format_of(content):
        return [parse(content, name)]
    if reading is None:
        found = recognise_content(content, name)
        return years_of(found.sheet, found.reading, name)
    return years_of(open_sheet(content, reading.sheet, reading.encoding), reading, name)


def parse(content: bytes, name: str = "weather file", reading: Reading | None = None) -> Weather:
    """Read a weather year from the bytes of a file; what format it has is recognised from its first line."""
    return parse_by(content, name, reading)[0]


def parse_by(content: bytes, name: str, reading: Reading | None = None) -> tuple[Weather, Reading | None]:
    """The same, with the reading that a table was understood by; None for a file of a known format."""
    kind = format_of(content)
    if kind:
        return _read_by(kind, content, name), None
    found = examine(content, reading) if reading is not None else recognise_content(content, name)
    return apply_reading(found.sheet, found.reading, name, found.frame, found.wall), found.reading


def _read_by(kind: str, content: bytes, name: str) -> Weather:
    match kind:
        case "epw":
            weather = read_epw(_decoded(content).lstrip(), name)
        case "covjson":
            weather = read_coverage(_decoded(content))
        case "parquet":
            weather = read_parquet(content)
        case _:
            weather = read_plain(_decoded(content).lstrip(), name)
    c = weather.calendar
    return replace(weather, steps=(*weather.steps, Step("read", f"Read from {name}, {c.intervals:,} rows of {c.step} min.")))


def format_of(content: bytes) -> str:
    """`epw`, `csv`, `covjson` or `parquet` where the file says by its beginning that it is one or a year of ours; else nothing."""
    if content[:4] == b"PAR1":
        return "parquet" if has_passport(content) else ""
    start = content[:4096].removeprefix(b"\xef\xbb\xbf").lstrip()
    if start[:1] == b"{":
        return "covjson" if f'"{PASSPORT}"'.encode() in start else ""
    first = start.partition(b"\n")[0].strip()
    if first.upper().startswith(b"LOCATION,"):
        return "epw"
    return "csv" if first == MAGIC.encode() else ""


def _decoded(content: bytes) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("latin-1")


def write(weather: Weather, path: str | Path) -> None:
    """Write a year by the ending of the path: EPW, CoverageJSON (.covjson, .json), Parquet, else a plain weather table."""
    path = Path(path)
    path.write_bytes(as_bytes(weather, KINDS.get(path.suffix.lower(), "csv")))


def as_bytes(weather: Weather, kind: str) -> bytes:
    """The weather as a file of the kind `epw`, `csv`, `covjson` or `parquet`."""
    return write_parquet(weather) if kind == "parquet" else as_text(weather, kind).encode()


def as_text(weather: Weather, kind: str) -> str:
    """Text of the weather as `epw`, `csv` or `covjson`."""
    if kind == "covjson":
        return write_coverage(weather)
    return write_epw(weather) if kind == "epw" else write_plain(weather)
