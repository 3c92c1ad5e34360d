"""Weather years in and out of the library."""

import hashlib
from collections import OrderedDict
from dataclasses import asdict, dataclass
from pathlib import Path
from threading import Lock

from django.conf import settings

from noontide.core.calendar import Calendar
from noontide.core.weather import Place, Reading, Step, Weather, parse, summarise
from noontide.core.weather.files import format_of, parse_by, years_in
from noontide.core.weather.year import flags_of, runs_of
from noontide.server.accounts.models import User, local_user
from noontide.server.files import delete_with_files, write_whole
from noontide.server.problems import Problem
from noontide.server.uploads import read_apart
from noontide.server.weather_library.arrays import read_arrays, write_arrays
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.reading import make_of

CACHE_BYTES = 96 * 1024**2
MOST_NOTES = 50


class DamagedYear(Problem):
    """A weather year of the library that is not what it was when it was stored."""

    def __init__(self, title: str, why: str):
        super().__init__(
            409, "weather-damaged", "A weather year cannot be read", f"{title}: {why} Load its file again.", "/weather"
        )


def store(
    content: bytes, file_name: str, origin: str = "file", owner: User | None = None, reading: Reading | None = None
) -> WeatherYear:
    """Keep a weather file and its year; a file that is there already is not kept twice.

    `reading` says how a table is to be understood; it is recognised where none is given.

    Raises
    ------
    WeatherFileError
        If it cannot be read; nothing is kept then.
    """
    weather, read_by = read_apart(parse_by, content, Path(file_name).stem[:200], reading)
    return keep(weather, content, file_name, format_of(content) or "table", origin, owner, read_by)


def keep(
    weather: Weather,
    content: bytes,
    file_name: str,
    kind: str,
    origin: str,
    owner: User | None = None,
    reading: Reading | None = None,
) -> WeatherYear:
    """Keep a year that has been read, with the source that it came from."""
    content_hash = hashlib.sha256(content).hexdigest()
    if not (source := _source(content_hash)).exists():
        write_whole(source, content)
    if not (arrays := _arrays(weather.digest)).exists():
        write_arrays(arrays, weather)
    place, calendar = weather.place, weather.calendar
    year, _ = WeatherYear.objects.get_or_create(
        digest=weather.digest,
        defaults={
            "content_hash": content_hash,
            "file_name": Path(file_name).name[:200],
            "title": weather.title[:200],
            "source": weather.source[:300],
            "origin": origin,
            "latitude": place.latitude,
            "longitude": place.longitude,
            "elevation": place.elevation,
            "step": calendar.step,
            "utc_offset": calendar.utc_offset,
            "year": calendar.year,
            "is_typical": weather.is_typical,
            "notes": list(weather.notes[:MOST_NOTES]),
            "summary": asdict(summarise(weather)),
            "reading": _kept_reading(weather, kind, reading),
            "steps": [asdict(step) for step in weather.steps],
            "owner": owner or local_user(),
        },
    )
    return year


def _kept_reading(weather: Weather, kind: str, reading: Reading | None) -> dict:
    """How the file was understood, as it is kept: with the marks of the intervals, and what other files of its make share."""
    kept: dict = {"format": kind, "given": list(weather.given), "flags": runs_of(weather.flags)}
    return kept | ({"make": make_of(reading), "reading": reading.model_dump(mode="json")} if reading else {})


class _Opened:
    """The years that were opened last, within a limit of bytes."""

    def __init__(self, limit: int):
        self._limit, self._years, self._lock = limit, OrderedDict[str, Weather](), Lock()

    def get(self, digest: str) -> Weather:
        with self._lock:
            if digest in self._years:
                self._years.move_to_end(digest)
                return self._years[digest]
        weather = _open(digest)
        with self._lock:
            self._years[digest] = weather
            while len(self._years) > 1 and sum(6 * w.ghi.nbytes for w in self._years.values()) > self._limit:
                self._years.popitem(last=False)
        return weather

    def cache_clear(self) -> None:
        with self._lock:
            self._years.clear()


opened = _Opened(CACHE_BYTES)


def load(digest: str) -> Weather:
    """The weather year of a digest.

    Raises
    ------
    WeatherYear.DoesNotExist
        If the library has none.
    DamagedYear
        If its values are no longer those that were stored.
    """
    return opened.get(digest)


def _open(digest: str) -> Weather:
    row = WeatherYear.objects.get(pk=digest)
    calendar, place = Calendar(row.year, row.step, row.utc_offset), Place(row.latitude, row.longitude, row.elevation)
    path = _arrays(digest)
    if not path.exists():
        return _read_again(row, path)
    try:
        weather = read_arrays(
            path,
            calendar,
            place,
            title=row.title,
            source=row.source,
            is_typical=row.is_typical,
            notes=tuple(row.notes),
            given=tuple(row.reading.get("given") or ("ghi", "dni", "dhi", "temperature", "wind", "pressure")),
            flags=flags_of(row.reading.get("flags", []), calendar.intervals),
            steps=tuple(Step(**step) for step in row.steps),
        )
    except (ValueError, OSError, EOFError) as error:
        raise DamagedYear(row.title, f"its values cannot be opened ({error}).") from error
    if weather.digest != digest:
        raise DamagedYear(row.title, "its values have changed since they were stored.")
    return weather


def _read_again(row: WeatherYear, path: Path) -> Weather:
    """A year that was stored before values were kept: its file is read once more, and must give the same year."""
    try:
        kept = row.reading.get("reading")
        content, under = _source(row.content_hash).read_bytes(), Reading.model_validate(kept) if kept else None
        weather = read_apart(parse, content, row.title, under)
    except (OSError, ValueError) as error:
        raise DamagedYear(row.title, f"its file cannot be read ({error}).") from error
    if weather.digest != row.digest:
        raise DamagedYear(row.title, "its file is understood differently now.")
    write_arrays(path, weather)
    return weather


@dataclass(frozen=True)
class Source:
    """The file that a year of the library came from, with what is needed to read it elsewhere."""

    title: str
    content: bytes
    reading: dict | None


def source_of(row: WeatherYear) -> Source:
    """The file of a year.

    Raises
    ------
    DamagedYear
        If it is not there any more.
    """
    try:
        return Source(row.title, _source(row.content_hash).read_bytes(), row.reading.get("reading"))
    except OSError as error:
        raise DamagedYear(row.title, f"its file cannot be read ({error}).") from error


def years_of_source(source: Source) -> list[Weather]:
    """Every year of a file, in order.

    Raises
    ------
    DamagedYear
        If it cannot be read.
    """
    reading = Reading.model_validate(source.reading) if source.reading else None
    try:
        return years_in(source.content, source.title, reading)
    except (OSError, ValueError) as error:
        raise DamagedYear(source.title, f"its file cannot be read ({error}).") from error


def files_of(year: WeatherYear) -> list[Path]:
    """What of the data folder belongs to a year alone: its arrays, and its file where no other year was read from it."""
    shared = WeatherYear.objects.filter(content_hash=year.content_hash).exclude(pk=year.pk).exists()
    return [_arrays(year.digest), *([] if shared else [_source(year.content_hash)])]


def delete_year(year: WeatherYear) -> int:
    """Delete a year with its files; the bytes that are free then."""
    size = delete_with_files(year, files_of(year))
    opened.cache_clear()
    return size


def _source(content_hash: str) -> Path:
    return settings.DATA / "weather" / content_hash[:2] / content_hash


def _arrays(digest: str) -> Path:
    return settings.DATA / "weather" / "arrays" / f"{digest}.npy"
