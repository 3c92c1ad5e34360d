"""Interval data read as the last file of the same make was: what was put right once holds for the next file of that meter."""

import hashlib
import json
from collections.abc import Mapping

from noontide.core.demand.reading import ReadUse, UseReading, read_use
from noontide.core.weather import WeatherFileError
from noontide.server.accounts.models import User
from noontide.server.demand_library.models import MeasuredUse

MOST_MAKES = 100  # readings that are looked through
KEPT = ("values", "stamps")  # what a make has in common; the rest belongs to the file itself


def readings_by_make(user: User) -> dict[str, dict]:
    """Readings of the user's interval data by their make, the newest of each."""
    rows = MeasuredUse.objects.visible_to(user).order_by("-created").values_list("reading", flat=True)[:MOST_MAKES]
    return {make_of(UseReading.model_validate(one)): one for one in reversed(rows) if one}


def make_of(reading: UseReading) -> str:
    """What files of one make have in common: what divides them, their step, and their headings."""
    headings = [*(column.heading for column in reading.table.columns), *(column.heading for column in reading.values)]
    text = json.dumps([reading.format, reading.table.source, reading.table.delimiter, reading.step, headings])
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()


def read_by_make(
    content: bytes, name: str, reading: UseReading | None, time_zone: str, makes: Mapping[str, dict]
) -> tuple[ReadUse, bool]:
    """A file as it is told, or else as the last one of its make; and whether that one was followed.

    Raises
    ------
    WeatherFileError
        If no series comes of it.
    """
    found = read_use(content, name, reading, time_zone)
    if reading is not None or not any(column.heading for column in found.reading.values):
        return found, False
    kept = makes.get(make_of(found.reading))
    if kept is None:
        return found, False
    before = UseReading.model_validate(kept)
    # A clock is held against the daylight saving time of its zone: in another one it is another question.
    kept_fields = (*KEPT, "clock") if before.time_zone == found.reading.time_zone else KEPT
    same = {key: getattr(before, key) for key in kept_fields}
    if same == {key: getattr(found.reading, key) for key in kept_fields}:
        return found, False
    try:
        return read_use(content, name, found.reading.model_copy(update=same), time_zone), True
    except WeatherFileError:
        return found, False  # of the same make, and yet not to be read like it
