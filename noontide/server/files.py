"""Files of the data folder: written whole or not at all, readable for their owner alone, and deleted with their row."""

import os
import tempfile
from collections.abc import Iterable
from pathlib import Path

from django.db.models import Model


def write_whole(path: Path, content: bytes) -> None:
    """Write a file under its name only once it is complete and on the disk; what is left of a failure is deleted."""
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=".new-")
    try:
        with os.fdopen(handle, "wb") as new:
            new.write(content)
            new.flush()
            os.fsync(new.fileno())
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def delete_with_files(row: Model, paths: Iterable[Path]) -> int:
    """Delete a row and then the files that belong to it alone; the bytes that are free then."""
    files = [path for path in paths if path.is_file()]
    size = sum(path.stat().st_size for path in files)
    row.delete()
    for path in files:
        path.unlink(missing_ok=True)
    return size
