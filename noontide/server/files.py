"""Writing files whole or not at all, readable for their owner alone."""

import os
import tempfile
from pathlib import Path


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
