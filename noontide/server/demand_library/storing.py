"""Series of measured use in and out of the library."""

import hashlib
import io
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path

import numpy as np
from django.conf import settings

from noontide.core.demand.reading import UseReading
from noontide.core.demand.series import UseSeries
from noontide.core.demand.sources import Demand
from noontide.server.accounts.models import User, local_user
from noontide.server.demand_library.models import MeasuredUse
from noontide.server.demand_library.remembering import read_by_make, readings_by_make
from noontide.server.files import delete_with_files, write_whole
from noontide.server.problems import Problem
from noontide.server.uploads import read_apart

MOST_NOTES = 20
KEPT_SERIES = 32


def store(content: bytes, file_name: str, reading: UseReading | None, time_zone: str, owner: User | None = None) -> MeasuredUse:
    """Keep a file of interval data and its series; a file that is there already is not kept twice.

    Raises
    ------
    WeatherFileError
        If it cannot be read; nothing is kept then.
    """
    makes = {} if reading is not None else readings_by_make(owner or local_user())
    found, _ = read_apart(read_by_make, content, Path(file_name).stem[:200], reading, time_zone, makes)
    return keep(found.series, content, file_name, found.reading.model_dump(mode="json"), found.notes, owner)


def keep(
    series: UseSeries, content: bytes, file_name: str, reading: dict, notes: Iterable[str], owner: User | None = None
) -> MeasuredUse:
    """Keep a series that has been read, with the file that it came from."""
    content_hash = hashlib.sha256(content).hexdigest()
    if not (source := _source(content_hash)).exists():
        write_whole(source, content)
    if not (values := _values(series.digest)).exists():
        buffer = io.BytesIO()
        np.save(buffer, series.power, allow_pickle=False)
        write_whole(values, buffer.getvalue())
    row, _ = MeasuredUse.objects.get_or_create(
        digest=series.digest,
        defaults={
            "content_hash": content_hash,
            "file_name": Path(file_name).name[:200],
            "title": series.title[:200],
            "first_day": series.first_day,
            "step": series.step,
            "days": series.power.shape[0],
            "energy": series.energy,
            "peak": series.peak,
            "reading": reading,
            "notes": list(notes)[:MOST_NOTES],
            "owner": owner or local_user(),
        },
    )
    return row


def series_of(demand: Demand) -> dict[str, UseSeries]:
    """The series that the sources of a demand name, by digest; what is not in the library is left out."""
    digests = {source.interval.digest for source in demand.sources.values() if source.is_on and source.interval is not None}
    return {digest: one for digest in digests if (one := _load(digest)) is not None}


@lru_cache(maxsize=KEPT_SERIES)
def _opened(digest: str, title: str, first_day: str, step: int) -> UseSeries:
    return UseSeries(title, first_day, step, np.load(_values(digest), allow_pickle=False))


def _load(digest: str) -> UseSeries | None:
    row = MeasuredUse.objects.filter(pk=digest).values_list("digest", "title", "first_day", "step").first()
    if row is None:
        return None
    try:
        found = _opened(*row)
    except (OSError, ValueError, EOFError):
        return None
    return found if found.digest == digest else None


def kept_use(row: MeasuredUse) -> tuple[UseSeries, bytes]:
    """The series of a row and the file that it came from.

    Raises
    ------
    Problem
        If they are not what they were when they were stored.
    """
    series = _load(row.digest)
    try:
        content = _source(row.content_hash).read_bytes()
    except OSError:
        series = None
    if series is None:
        raise Problem(409, "use-damaged", "Measured use cannot be read", f"{row.title}: load its file again.", "/demand")
    return series, content


def files_of(row: MeasuredUse) -> list[Path]:
    """What of the data folder belongs to a series alone."""
    shared = MeasuredUse.objects.filter(content_hash=row.content_hash).exclude(pk=row.pk).exists()
    return [_values(row.digest), *([] if shared else [_source(row.content_hash)])]


def delete_use(row: MeasuredUse) -> int:
    """Delete a series with its files; the bytes that are free then."""
    size = delete_with_files(row, files_of(row))
    _opened.cache_clear()
    return size


def _source(content_hash: str) -> Path:
    return Path(settings.DATA) / "use" / content_hash[:2] / content_hash


def _values(digest: str) -> Path:
    return Path(settings.DATA) / "use" / "values" / f"{digest}.npy"
