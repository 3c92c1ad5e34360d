"""A zip of our own: the same files make the same bytes, and a file from elsewhere is believed in nothing before it is checked."""

import hashlib
import io
import json
import re
import stat
import zipfile
import zlib
from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

FORMAT = "noontide-project/1"
MANIFEST = "project.json"
PROJECT_ENDING = ".noontide"
MOST_FILES = 5_000
MOST_BYTES = 320_000_000  # of all files, unpacked
MOST_MANIFEST = 8_000_000  # bytes
# A year without sun shrinks to a two-hundredth; a file that grows a thousandfold was made to.
MOST_GROWTH = 1_000
CHUNK = 1 << 20
# Lower case throughout, so that no two names are one on any disk.
PATH = re.compile(r"[a-z0-9][a-z0-9._-]{0,127}(/[a-z0-9][a-z0-9._-]{0,127}){0,3}")
_EPOCH = (1980, 1, 1, 0, 0, 0)


class ArchiveError(ValueError):
    """A file that is no project, or not one that can be trusted."""


class FileMark(BaseModel):
    """How long a file of the archive is, and its SHA-256."""

    model_config = ConfigDict(extra="forbid")

    bytes: int = Field(ge=0, le=MOST_BYTES)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


def zipped(manifest: dict[str, Any], files: Mapping[str, bytes]) -> bytes:
    """An archive of a manifest, which gets the mark of every file, and the files."""
    marks = {
        path: {"bytes": len(content), "sha256": hashlib.sha256(content).hexdigest()} for path, content in sorted(files.items())
    }
    whole = json.dumps({**manifest, "files": marks}, ensure_ascii=False, indent=1).encode()
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for path, content in ((MANIFEST, whole), *sorted(files.items())):
            entry = zipfile.ZipInfo(path, _EPOCH)
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o600 << 16
            archive.writestr(entry, content)
    return buffer.getvalue()


def unzipped(content: bytes) -> tuple[dict[str, Any], dict[str, bytes]]:
    """Manifest and files of an archive, every file as its mark says it is.

    Raises
    ------
    ArchiveError
        If it is damaged, too large, holds anything that the manifest does not name, or a file that is not what its mark says.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(content))
        entries = _entries(archive)
        manifest = _manifest(archive, entries)
        marks = _marks(manifest)
        if strangers := sorted(entries.keys() - marks.keys() - {MANIFEST}):
            raise ArchiveError(f"It holds {strangers[0]!r}, which its list does not name. It was changed since it was written.")
        files = {path: _checked(archive, entries, path, mark) for path, mark in marks.items()}
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError) as error:
        raise ArchiveError(f"The archive is damaged or cut off ({str(error)[:120]}). Take the project away again.") from None
    return manifest, files


def _entries(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    listed = archive.infolist()
    if len(listed) > MOST_FILES:
        raise ArchiveError(f"It holds {len(listed):,} files; a project has {MOST_FILES:,} at most.")
    entries: dict[str, zipfile.ZipInfo] = {}
    for entry in listed:
        name = entry.filename
        if not PATH.fullmatch(name):
            raise ArchiveError(f"It holds a file named {name[:80]!r}; names there are plain and below the archive.")
        if name in entries:
            raise ArchiveError(f"It holds {name!r} twice.")
        mode = entry.external_attr >> 16
        if entry.flag_bits & 1 or (mode and stat.S_IFMT(mode) not in (0, stat.S_IFREG)):
            raise ArchiveError(f"{name!r} is encrypted, or a link; a project holds plain files.")
        if entry.file_size > MOST_GROWTH * max(entry.compress_size, 1) + CHUNK:
            raise ArchiveError(f"{name!r} would grow more than {MOST_GROWTH:,} times when it is unpacked.")
        entries[name] = entry
    if (size := sum(entry.file_size for entry in listed)) > MOST_BYTES:
        raise ArchiveError(f"Unpacked it would be {size / 1e6:,.0f} MB; the limit is {MOST_BYTES / 1e6:,.0f} MB.")
    return entries


def _manifest(archive: zipfile.ZipFile, entries: Mapping[str, zipfile.ZipInfo]) -> dict[str, Any]:
    if MANIFEST not in entries:
        raise ArchiveError(f"It has no {MANIFEST}: this is another kind of archive.")
    content = _read(archive, entries[MANIFEST], MOST_MANIFEST)
    try:
        manifest = json.loads(content)
    except (ValueError, RecursionError):
        raise ArchiveError(f"{MANIFEST} is no JSON. Take the project away again.") from None
    if not isinstance(manifest, dict):
        raise ArchiveError(f"{MANIFEST} is no object.")
    if manifest.get("format") != FORMAT:
        name = str(manifest.get("format"))[:60]
        raise ArchiveError(f"Its format is {name!r}; known is {FORMAT}. It may come from a later version.")
    return manifest


def _marks(manifest: Mapping[str, Any]) -> dict[str, FileMark]:
    given = manifest.get("files")
    if not isinstance(given, dict) or len(given) > MOST_FILES:
        raise ArchiveError(f"{MANIFEST} has no list of its files.")
    try:
        return {str(path): FileMark.model_validate(mark) for path, mark in given.items()}
    except ValidationError as error:
        raise ArchiveError(f"{MANIFEST}: a mark of a file is no mark ({error.errors()[0]['msg']}).") from None


def _checked(archive: zipfile.ZipFile, entries: Mapping[str, zipfile.ZipInfo], path: str, mark: FileMark) -> bytes:
    if path not in entries:
        raise ArchiveError(f"{path!r} is missing. The archive was changed or cut off; take the project away again.")
    content = _read(archive, entries[path], mark.bytes)
    if len(content) != mark.bytes or hashlib.sha256(content).hexdigest() != mark.sha256:
        raise ArchiveError(f"{path!r} is not what it was when the project was written. Take the project away again.")
    return content


def _read(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int) -> bytes:
    """A file of the archive, whatever it says of its own length."""
    with archive.open(entry) as file:
        content = file.read(most + 1)
    if len(content) > most:
        raise ArchiveError(f"{entry.filename!r} is longer than it should be ({most:,} bytes).")
    return content
