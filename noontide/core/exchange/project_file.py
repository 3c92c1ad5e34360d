"""A project as one file: its schemes with or without their history, and all that they are computed with.

The layout stands in docs/formats/project-file.md. A file is read as a whole or not at all.
"""

import hashlib
import io
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from noontide.core.demand.reading import UseReading
from noontide.core.demand.series import UseSeries
from noontide.core.design import Design, DesignError, difference, merge_patch
from noontide.core.design.migrations import upgrade
from noontide.core.electrical import Catalogue
from noontide.core.exchange.archive import FORMAT, ArchiveError, unzipped, zipped
from noontide.core.exchange.kept_trials import KeptTrials, TrialsEntry, pack_trials, unpack_trials
from noontide.core.fields import first_fault
from noontide.core.picture_types import picture_type
from noontide.core.weather import Reading, Weather, WeatherFileError
from noontide.core.weather.passport import COLUMNS, passport_of, year_of

Read = TypeVar("Read")
MOST_SCHEMES = 200
MOST_REVISIONS = 5_000  # of a scheme
MOST_YEARS = 200
MOST_TRIALS = 1_000


@dataclass(frozen=True)
class KeptRevision:
    """A state of a scheme: `parent` is the number of the one that it was made from."""

    number: int
    document: dict
    parent: int | None = None
    first_number: int = 0  # of the edits of one gesture; 0 where it is `number`
    gesture: str = ""
    created: str = ""  # ISO 8601
    author: str = ""


@dataclass(frozen=True)
class KeptScheme:
    """A scheme: its revisions from the first on, each after its parent, and the number of the one that counts."""

    letter: str
    head: int
    revisions: tuple[KeptRevision, ...]

    @property
    def document(self) -> dict:
        return next(revision.document for revision in self.revisions if revision.number == self.head)


@dataclass(frozen=True)
class KeptWeather:
    """A weather year, the file that it came from, and how that was understood."""

    weather: Weather
    content: bytes
    file_name: str = "weather"
    kind: str = "table"
    origin: str = "file"
    reading: Reading | None = None


@dataclass(frozen=True)
class KeptUse:
    """Measured use, the file that it came from, and how that was understood."""

    series: UseSeries
    content: bytes
    file_name: str = "use"
    reading: UseReading | None = None
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class KeptPicture:
    """A picture that a design names by the hash of its content."""

    digest: str
    content: bytes


@dataclass(frozen=True)
class ProjectFile:
    """A project with all that it is computed with."""

    uid: str  # 32 hexadecimal digits, by which a copy is told from the original
    name: str
    schemes: tuple[KeptScheme, ...]
    customer: str = ""
    note: str = ""
    pinned: str = ""
    weather: tuple[KeptWeather, ...] = ()
    use: tuple[KeptUse, ...] = ()
    pictures: tuple[KeptPicture, ...] = ()
    parts: Catalogue | None = None
    trials: tuple[KeptTrials, ...] = ()

    @property
    def has_history(self) -> bool:
        return any(len(scheme.revisions) > 1 for scheme in self.schemes)


class _Entry(BaseModel):
    model_config = ConfigDict(extra="forbid")


class _SchemeEntry(_Entry):
    letter: str = Field(pattern="^[A-Z]{1,3}$")
    revision: int = Field(ge=1)
    file: str
    history: str = ""


class _WeatherEntry(_Entry):
    digest: str = Field(pattern="^[0-9a-f]{32,64}$")
    passport: str
    values: str
    source: str
    file_name: str = Field(max_length=200)
    kind: str = Field(max_length=40)
    origin: str = Field(max_length=20)
    reading: dict[str, Any] | None = None


class _UseEntry(_Entry):
    digest: str = Field(pattern="^[0-9a-f]{32,64}$")
    values: str
    source: str
    title: str = Field(max_length=200)
    first_day: str = Field(pattern=r"^\d{4}-\d\d-\d\d$")
    step: int = Field(ge=1, le=1440)
    file_name: str = Field(max_length=200)
    reading: dict[str, Any] | None = None
    notes: list[str] = Field([], max_length=50)


class _PictureEntry(_Entry):
    digest: str = Field(pattern="^[0-9a-f]{64}$")
    file: str


class _ProjectEntry(_Entry):
    uid: str = Field(pattern="^[0-9a-f]{32}$")
    name: str = Field(min_length=1, max_length=120)
    customer: str = Field("", max_length=120)
    note: str = Field("", max_length=300)
    pinned: str = ""


class _Manifest(BaseModel):
    """What the list of an archive says; what a later version adds to it is passed over."""

    project: _ProjectEntry
    schemes: list[_SchemeEntry] = Field(min_length=1, max_length=MOST_SCHEMES)
    weather: list[_WeatherEntry] = Field([], max_length=MOST_YEARS)
    use: list[_UseEntry] = Field([], max_length=MOST_YEARS)
    pictures: list[_PictureEntry] = Field([], max_length=MOST_YEARS)
    parts: str = ""
    trials: list[TrialsEntry] = Field([], max_length=MOST_TRIALS)


class _RevisionEntry(_Entry):
    number: int = Field(ge=1)
    first_number: int = Field(ge=0)
    parent: int | None = None
    document: dict[str, Any] | None = None
    patch: dict[str, Any] | None = None
    gesture: str = Field("", max_length=36)
    created: str = Field("", max_length=40)
    author: str = Field("", max_length=200)


def pack(project: ProjectFile) -> bytes:
    """The file of a project; the same project makes the same bytes."""
    files: dict[str, bytes] = {}
    manifest: dict[str, Any] = {
        "format": FORMAT,
        "project": _ProjectEntry(
            uid=project.uid, name=project.name, customer=project.customer, note=project.note, pinned=project.pinned
        ).model_dump(),
    }
    manifest["schemes"] = [_pack_scheme(scheme, files) for scheme in project.schemes]
    manifest["weather"] = [_pack_weather(year, files) for year in project.weather]
    manifest["use"] = [_pack_use(one, files) for one in project.use]
    manifest["pictures"] = []
    for picture in project.pictures:
        files[path := f"pictures/{picture.digest}"] = picture.content
        manifest["pictures"].append({"digest": picture.digest, "file": path})
    if project.parts is not None:
        files["parts.json"] = _json(project.parts.model_dump(mode="json", exclude_defaults=True))
        manifest["parts"] = "parts.json"
    if project.trials:

        def write(path: str, content: object) -> None:
            files[path] = _npy(content) if isinstance(content, np.ndarray) else _json(content)

        manifest["trials"] = [pack_trials(number, one, write) for number, one in enumerate(project.trials, 1)]
    return zipped(manifest, files)


def unpack(content: bytes) -> ProjectFile:
    """The project of a file, with every design brought to today's format and validated.

    Raises
    ------
    ArchiveError
        If anything of it is damaged, missing, unknown or not valid: what it is, and where.
    """
    raw, files = unzipped(content)
    manifest = _valid("project.json", lambda: _Manifest.model_validate(raw))
    found = _Files(files)
    schemes = tuple(_unpack_scheme(entry, found) for entry in manifest.schemes)
    letters = [scheme.letter for scheme in schemes]
    if len(set(letters)) < len(letters):
        raise ArchiveError("project.json names one letter for two schemes.")
    given = manifest.project
    parts = _valid(manifest.parts, lambda: Catalogue.model_validate(found.document(manifest.parts))) if manifest.parts else None
    return ProjectFile(
        given.uid,
        given.name,
        schemes,
        given.customer,
        given.note,
        given.pinned if given.pinned in letters else letters[0],
        tuple(_unpack_weather(entry, found) for entry in manifest.weather),
        tuple(_unpack_use(entry, found) for entry in manifest.use),
        tuple(_unpack_picture(entry, found) for entry in manifest.pictures),
        parts,
        tuple(
            unpack_trials(entry, letters, lambda path: _design(found.document(path), path), found.table)
            for entry in manifest.trials
        ),
    )


class _Files:
    """Files of an archive by their names."""

    def __init__(self, files: Mapping[str, bytes]):
        self._files = files

    def __call__(self, path: str) -> bytes:
        if path not in self._files:
            raise ArchiveError(f"project.json names {path[:120]!r}, which the archive does not hold.")
        return self._files[path]

    def document(self, path: str) -> Any:
        try:
            return json.loads(self(path))
        except (ValueError, RecursionError):
            raise ArchiveError(f"{path} is no JSON.") from None

    def table(self, path: str) -> NDArray[np.float64]:
        try:
            table = np.load(io.BytesIO(self(path)), allow_pickle=False)
        except (ValueError, OSError, EOFError) as error:
            raise ArchiveError(f"{path} is no table of numbers ({str(error)[:80]}).") from None
        if not isinstance(table, np.ndarray) or table.dtype != np.float64:
            raise ArchiveError(f"{path} is no table of numbers of 64 bits.")
        return table


def _pack_scheme(scheme: KeptScheme, files: dict[str, bytes]) -> dict[str, Any]:
    name = scheme.letter.lower()
    files[path := f"schemes/{name}.json"] = _json(scheme.document)
    entry = {"letter": scheme.letter, "revision": scheme.head, "file": path}
    if len(scheme.revisions) > 1:
        files[history := f"history/{name}.json"] = _json(_history(scheme.revisions))
        entry["history"] = history
    return entry


def _history(revisions: Sequence[KeptRevision]) -> list[dict[str, Any]]:
    """Every revision as what changed of its parent, or whole where a patch cannot say it."""
    documents: dict[int, dict] = {}
    entries = []
    for revision in revisions:
        entry = _RevisionEntry(
            number=revision.number, first_number=revision.first_number, parent=revision.parent, gesture=revision.gesture,
            created=revision.created, author=revision.author,
        )  # fmt: skip
        if revision.parent is not None:
            patch = difference(documents[revision.parent], revision.document)
            if merge_patch(documents[revision.parent], patch) == revision.document:
                entry.patch = patch
        if entry.patch is None:
            entry.document = revision.document
        documents[revision.number] = revision.document
        # A patch says by null what is gone: only what no revision has is left out of it.
        entries.append({key: value for key, value in entry.model_dump().items() if value is not None})
    return entries


def _unpack_scheme(entry: _SchemeEntry, files: _Files) -> KeptScheme:
    document = _design(files.document(entry.file), entry.file)
    if not entry.history:
        return KeptScheme(entry.letter, entry.revision, (KeptRevision(entry.revision, document),))
    scheme = KeptScheme(entry.letter, entry.revision, _unpack_history(files.document(entry.history), entry.history))
    if all(revision.number != entry.revision for revision in scheme.revisions):
        raise ArchiveError(f"{entry.history} has no revision {entry.revision}, at which scheme {entry.letter} stands.")
    if scheme.document != document:
        raise ArchiveError(f"{entry.file} is not revision {entry.revision} of {entry.history}.")
    return scheme


def _unpack_history(given: Any, path: str) -> tuple[KeptRevision, ...]:
    if not isinstance(given, list) or not 1 <= len(given) <= MOST_REVISIONS:
        raise ArchiveError(f"{path} is no list of 1 to {MOST_REVISIONS:,} revisions.")
    raw: dict[int, dict] = {}
    revisions: list[KeptRevision] = []
    reached = 0
    for i, one in enumerate(given):
        entry = _valid(f"{path}/{i}", partial(_RevisionEntry.model_validate, one))
        where = f"{path}: revision {entry.number}"
        first = entry.first_number or entry.number
        if not reached < first <= entry.number:
            raise ArchiveError(f"{where} does not follow the one before it.")
        if (entry.parent is None) != (i == 0) or (entry.parent is not None and entry.parent not in raw):
            raise ArchiveError(f"{where} has no parent before it.")
        if entry.document is not None:
            document = entry.document
        elif entry.patch is not None and entry.parent is not None:
            document = merge_patch(raw[entry.parent], entry.patch)
        else:
            raise ArchiveError(f"{where} has neither a document nor a patch.")
        raw[entry.number], reached = document, entry.number
        revisions.append(
            KeptRevision(entry.number, _design(document, where), entry.parent, first, entry.gesture, entry.created, entry.author)
        )
    return tuple(revisions)


def _design(document: Any, where: str) -> dict:
    try:
        upgraded = upgrade(document)
        Design.read(upgraded)
    except DesignError as error:
        raise ArchiveError(f"{where}: {error}") from None
    except ValidationError as error:
        raise ArchiveError(f"{where}: {first_fault(error)}") from None
    return upgraded


def _pack_weather(year: KeptWeather, files: dict[str, bytes]) -> dict[str, Any]:
    weather = year.weather
    base = f"weather/{weather.digest}"
    files[f"{base}.json"] = _json(passport_of(weather))
    files[f"{base}.npy"] = _npy(np.stack([getattr(weather, name) for name in COLUMNS]))
    files[f"{base}.source"] = year.content
    return _WeatherEntry(
        digest=weather.digest, passport=f"{base}.json", values=f"{base}.npy", source=f"{base}.source", file_name=year.file_name[:200],
        kind=year.kind, origin=year.origin, reading=year.reading.model_dump(mode="json") if year.reading else None,
    ).model_dump()  # fmt: skip


def _unpack_weather(entry: _WeatherEntry, files: _Files) -> KeptWeather:
    table = files.table(entry.values)
    if table.ndim != 2 or table.shape[0] != len(COLUMNS):
        raise ArchiveError(f"{entry.values} has not the {len(COLUMNS)} columns of a weather year.")
    try:
        weather = year_of(files.document(entry.passport), dict(zip(COLUMNS, table, strict=True)))
    except WeatherFileError as error:
        raise ArchiveError(f"{entry.values}: {error}") from None
    if weather.digest != entry.digest:
        raise ArchiveError(f"{entry.values} is not the year {entry.digest} that project.json names.")
    reading = entry.reading
    understood = _valid(entry.passport, lambda: Reading.model_validate(reading)) if reading is not None else None
    return KeptWeather(weather, files(entry.source), entry.file_name, entry.kind, entry.origin, understood)


def _pack_use(one: KeptUse, files: dict[str, bytes]) -> dict[str, Any]:
    series = one.series
    base = f"use/{series.digest}"
    files[f"{base}.npy"] = _npy(series.power)
    files[f"{base}.source"] = one.content
    return _UseEntry(
        digest=series.digest, values=f"{base}.npy", source=f"{base}.source", title=series.title[:200], first_day=series.first_day, step=series.step,
        file_name=one.file_name[:200], reading=one.reading.model_dump(mode="json") if one.reading else None, notes=list(one.notes),
    ).model_dump()  # fmt: skip


def _unpack_use(entry: _UseEntry, files: _Files) -> KeptUse:
    try:
        np.datetime64(entry.first_day, "D")
        series = UseSeries(entry.title, entry.first_day, entry.step, files.table(entry.values))
    except ArchiveError:
        raise
    except ValueError as error:
        raise ArchiveError(f"{entry.values}: {error}") from None
    if series.digest != entry.digest:
        raise ArchiveError(f"{entry.values} is not the series {entry.digest} that project.json names.")
    reading = entry.reading
    understood = _valid(entry.values, lambda: UseReading.model_validate(reading)) if reading is not None else None
    return KeptUse(series, files(entry.source), entry.file_name, understood, tuple(entry.notes))


def _unpack_picture(entry: _PictureEntry, files: _Files) -> KeptPicture:
    content = files(entry.file)
    if hashlib.sha256(content).hexdigest() != entry.digest or picture_type(content) is None:
        raise ArchiveError(f"{entry.file} is not the picture that project.json names.")
    return KeptPicture(entry.digest, content)


def _valid(where: str, read: Callable[[], Read]) -> Read:
    try:
        return read()
    except ValidationError as error:
        raise ArchiveError(f"{where}: {first_fault(error)}") from None


def _json(value: Any) -> bytes:
    return json.dumps(value, ensure_ascii=False, indent=1).encode()


def _npy(table: NDArray[np.float64]) -> bytes:
    buffer = io.BytesIO()
    np.save(buffer, np.ascontiguousarray(table, dtype=np.float64), allow_pickle=False)
    return buffer.getvalue()
