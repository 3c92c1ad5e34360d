"""How a file is understood, shown beside its lines before it is taken into the library."""

import hashlib
import json

from pydantic import BaseModel

from noontide.core.weather import Reading, WeatherFileError, WeatherSummary, summarise
from noontide.core.weather.reading import Recognised, apply_reading, examine, recognise_content
from noontide.core.weather.reading.layout import fields_of
from noontide.core.weather.reading.text import Sheet
from noontide.server.accounts.models import User
from noontide.server.uploads import read_apart
from noontide.server.weather_library.models import WeatherYear

ABOVE, ROWS, BELOW = 6, 12, 5  # lines that are shown of each part
WIDEST = 60  # characters of a field
MOST_MAKES = 200  # readings that are looked through


class RawLine(BaseModel):
    """A line of the file; with the kind `gap` it stands for `number` lines that are not shown."""

    number: int
    kind: str  # preamble, header, row, legend or gap
    fields: list[str]


class SunFitAnswer(BaseModel):
    """The clearest days against the sun."""

    shifts: list[float]  # [min]
    misfit: list[float]
    best: float  # [min]
    days: int
    hours: list[float]
    light: list[float]
    sky: list[float]


class ReadingAnswer(BaseModel):
    """A file as it is understood: the lines, the reading, the sun's word on it, and the year that comes of it."""

    reading: Reading
    lines: list[RawLine]
    line_count: int
    sheets: list[str]
    is_remembered: bool
    fit: SunFitAnswer | None
    year: WeatherSummary | None
    intervals: int
    calendar_year: int
    notes: list[str]
    problem: str  # why no year comes of it; empty where one does


def understand(
    content: bytes, name: str, place: tuple[float, float, float] | None, given: Reading | None, user: User
) -> ReadingAnswer:
    """Recognise a file, or read it as told, beside the readings of files of the same make.

    Raises
    ------
    WeatherFileError
        If there is no table in it.
    """
    newest = WeatherYear.objects.visible_to(user).filter(reading__has_key="make").order_by("-created")[:MOST_MAKES]
    makes = {row.reading["make"]: row.reading["reading"] for row in reversed(newest) if row.reading.get("reading")}
    return read_apart(understand_by, content, name, place, given, makes)


def understand_by(
    content: bytes, name: str, place: tuple[float, float, float] | None, given: Reading | None, makes: dict[str, dict]
) -> ReadingAnswer:
    """The same by the readings that are kept, by their make.

    Raises
    ------
    WeatherFileError
        If there is no table in it.
    """
    is_remembered = False
    if given is not None:
        found = examine(content, given)
    else:
        found = recognise_content(content, name, place)
        if (kept := _remembered(found, makes)) is not None:
            try:
                found, is_remembered = examine(content, kept), True
            except WeatherFileError:
                is_remembered = False  # of the same make, and yet not to be read like it
    year, notes, problem, intervals, number = None, [], "", 0, 0
    try:
        weather = apply_reading(found.sheet, found.reading, name, found.frame, found.wall)
        year, notes = summarise(weather), list(weather.notes)
        intervals, number = weather.calendar.intervals, weather.calendar.year
    except (WeatherFileError, ValueError) as error:
        problem = str(error)
    return ReadingAnswer(
        reading=found.reading,
        lines=_shown(found.sheet, found.reading),
        line_count=len(found.sheet.lines),
        sheets=list(found.sheet.sheets),
        is_remembered=is_remembered,
        fit=_fit_answer(found),
        year=year,
        intervals=intervals,
        calendar_year=number,
        notes=notes,
        problem=problem,
    )


def make_of(reading: Reading) -> str:
    """What files of one make have in common: what divides them, and their headings."""
    text = json.dumps(
        [reading.source, reading.delimiter, *([reading.cuts] if reading.cuts else []), [c.heading for c in reading.columns]]
    )
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()


def _remembered(found: Recognised, makes: dict[str, dict]) -> Reading | None:
    """The reading of the last file of this make, with what belongs to the file itself from the new one."""
    reading = found.reading
    if not any(c.heading for c in reading.columns):
        return None
    if (kept := makes.get(make_of(reading))) is None:
        return None
    before = Reading.model_validate(kept)
    same: dict = {name: getattr(before, name) for name in ("columns", "missing", "stamps", "daylight_saving", "shift")}
    if not any(f.subject == "clock" and f.sureness == "certain" for f in reading.findings):
        same["utc_offset"] = before.utc_offset
    if same == {key: getattr(reading, key) for key in same}:
        return None
    return reading.model_copy(update=same)


def _shown(sheet: Sheet, reading: Reading) -> list[RawLine]:
    """The lines that tell how the file is made: some from above the table, its first, middle and last rows, some from below."""
    first, last = reading.first_row - 1, min(reading.last_row, len(sheet.lines)) - 1
    count = len(sheet.lines)
    header = [row - 1 for row in reading.header_rows]
    middle = (first + last) // 2
    parts: list[tuple[str, list[int]]] = [
        ("preamble", list(range(min(first, *header, ABOVE) if header else min(first, ABOVE)))),
        ("header", header),
        ("row", list(range(first, min(first + ROWS, last + 1)))),
        ("row", list(range(middle, min(middle + 4, last + 1)))),
        ("row", list(range(max(last - 1, first + ROWS), last + 1))),
        ("legend", [i for i in range(last + 1, min(count, last + 1 + BELOW)) if sheet.lines[i].strip()]),
    ]
    lines: list[RawLine] = []
    after = 0
    for kind, indices in parts:
        for i in indices:
            if i < after:
                continue
            if any(line.strip() for line in sheet.lines[after:i]):
                lines.append(RawLine(number=i - after, kind="gap", fields=[]))
            text = sheet.lines[i]
            fields = fields_of(text, reading.delimiter, reading.cuts) if kind in ("row", "header") else [text[:200]]
            cut = WIDEST if kind in ("row", "header") else 200
            lines.append(RawLine(number=i + 1, kind=kind, fields=[f[:cut] for f in fields[:40]]))
            after = i + 1
    return lines


def _fit_answer(found: Recognised) -> SunFitAnswer | None:
    fit = found.fit
    if fit is None:
        return None
    near = abs(fit.shifts) <= (180 if abs(fit.best) <= 120 else 720)
    hours, light, sky = ([round(float(v), 4) for v in values] for values in fit.profile)
    misfit = [round(float(v), 5) for v in fit.misfit[near]]
    return SunFitAnswer(
        shifts=fit.shifts[near].tolist(), misfit=misfit, best=fit.best, days=fit.days, hours=hours, light=light, sky=sky
    )
