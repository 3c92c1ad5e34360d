"""Weather files of any known format, by path or by text."""

from pathlib import Path

from noontide.core.weather.epw import read_epw, write_epw
from noontide.core.weather.plain_csv import MAGIC, read_plain, write_plain
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.year import Weather


def read(path: str | Path) -> Weather:
    """Read a weather year from an EPW file or a plain weather table.

    Raises
    ------
    WeatherFileError
        If the content is not a whole, regular year of a known format; it says where and what was expected.
    OSError
        If there is no such file.
    """
    path = Path(path)
    return parse(path.read_bytes(), path.name)


def parse(content: bytes, name: str = "weather file") -> Weather:
    """Read a weather year from the bytes of a file; the format is recognised from its first line."""
    kind, text = format_of(content), _decoded(content).lstrip()
    if kind == "epw":
        return read_epw(text, name)
    if kind == "csv":
        return read_plain(text, name)
    first = text.partition("\n")[0].strip()
    raise WeatherFileError(
        f"neither an EPW file (first line LOCATION,...) nor a weather table (first line '{MAGIC}')", row=1, value=first[:60]
    )


def format_of(content: bytes) -> str:
    """`epw`, `csv`, or nothing where the first line is that of neither.

    Raises
    ------
    WeatherFileError
        If it is no text at all.
    """
    if b"\0" in content[:4096]:
        raise WeatherFileError("This is not a text file; a weather year comes as an EPW file or as a plain table (CSV).")
    first = content[:4096].removeprefix(b"\xef\xbb\xbf").lstrip().partition(b"\n")[0].strip()
    if first.upper().startswith(b"LOCATION"):
        return "epw"
    return "csv" if first == MAGIC.encode() else ""


def _decoded(content: bytes) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("latin-1")


def write(weather: Weather, path: str | Path) -> None:
    """Write an EPW file where the path ends in .epw, else a plain weather table."""
    path = Path(path)
    path.write_text(as_text(weather, "epw" if path.suffix.lower() == ".epw" else "csv"), encoding="utf-8")


def as_text(weather: Weather, kind: str) -> str:
    """Text of the weather as `epw` or `csv`."""
    return write_epw(weather) if kind == "epw" else write_plain(weather)
