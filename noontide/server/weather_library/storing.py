"""Weather years in and out of the library."""

import hashlib
import os
import tempfile
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path

from django.conf import settings

from noontide.core.weather import Weather, parse, summarise
from noontide.server.weather_library.models import WeatherYear


def store(content: bytes, file_name: str, origin: str = "file") -> WeatherYear:
    """Keep a weather file and its year; a file that is there already is not kept twice.

    Raises
    ------
    WeatherFileError
        If it cannot be read; nothing is kept then.
    """
    weather = parse(content, Path(file_name).stem[:200])
    content_hash = hashlib.sha256(content).hexdigest()
    _write_once(_file(content_hash), content)
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
            "notes": list(weather.notes),
            "summary": asdict(summarise(weather)),
        },
    )
    return year


@lru_cache(maxsize=16)
def load(digest: str) -> Weather:
    """The weather year of a digest.

    Raises
    ------
    WeatherYear.DoesNotExist
        If the library has none.
    """
    year = WeatherYear.objects.get(pk=digest)
    return parse(_file(year.content_hash).read_bytes(), year.title)


def _file(content_hash: str) -> Path:
    return settings.DATA / "weather" / content_hash[:2] / content_hash


def _write_once(path: Path, content: bytes) -> None:
    if path.exists():
        return
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=path.parent, delete=False) as new:
        new.write(content)
    os.replace(new.name, path)
