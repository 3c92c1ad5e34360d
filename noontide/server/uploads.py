"""A file that comes with a form: the one place that asks for it, holds it to its size, and has it read apart from the server."""

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from rest_framework.request import Request

from noontide.server.apart import NotFinished, run_apart
from noontide.server.problems import Problem

logger = logging.getLogger(__name__)
READING_SECONDS = 15.0  # that any file may take
SECONDS_PER_MEGABYTE = 1.0  # and so much more by its size
READING_MEGABYTES = 180  # that any file may need beyond the libraries
MEGABYTES_PER_MEGABYTE = 5  # and so much more by its size
MOST_MEGABYTES = 420
ALL_MEGABYTES = 420  # of all files that are read at the same time: with the server they stay below a gigabyte
PATIENCE = 120.0  # s that a file waits for others to be read


def file_form(**fields: dict) -> dict:
    """The schema of a form with a file and other fields."""
    properties = {"file": {"type": "string", "format": "binary"}, **fields}
    return {"multipart/form-data": {"type": "object", "properties": properties, "required": ["file"]}}


FILE_FORM = file_form()


def uploaded(request: Request, largest: int, title: str = "The file is too large") -> UploadedFile:
    """The form's file.

    Raises
    ------
    Problem
        If there is none, or it has more bytes than `largest`.
    """
    given = request.FILES.get("file")
    if given is None:
        raise Problem(422, "no-file", "A file is needed", "Send it as the field 'file' of a form.")
    if given.size > largest:
        raise Problem(413, "too-large", title, f"The limit is {largest / 1e6:.0f} MB.")
    return given


class _Memory:
    """What may be used by all at once: who finds too little left waits for the others."""

    def __init__(self, megabytes: int):
        self._left, self._changed = megabytes, threading.Condition()

    @contextmanager
    def taken(self, megabytes: int) -> Iterator[None]:
        with self._changed:
            if not self._changed.wait_for(lambda: self._left >= megabytes, timeout=PATIENCE):
                raise Problem(503, "busy", "Other files are being read", "Send it again in a minute. Nothing was changed.")
            self._left -= megabytes
        try:
            yield
        finally:
            with self._changed:
                self._left += megabytes
                self._changed.notify_all()


_memory = _Memory(ALL_MEGABYTES)


def read_apart(reader: Callable[..., Any], content: bytes, *arguments: Any) -> Any:
    """What a reader of the core makes of a file, found in a process of its own within limits of time and memory.

    Raises
    ------
    Problem
        If the file costs more than a file of its size may, or others are being read all the time.
    Exception
        Whatever the reader raises.
    """
    size = len(content) / 1e6
    seconds = READING_SECONDS + SECONDS_PER_MEGABYTE * size
    megabytes = min(int(READING_MEGABYTES + MEGABYTES_PER_MEGABYTE * size), MOST_MEGABYTES)
    try:
        with _memory.taken(megabytes):
            return run_apart(reader, content, *arguments, seconds=seconds, megabytes=megabytes)
    except NotFinished as error:
        detail = f"{error} Such a file is not read here: divide it, or save it in another format. Nothing was changed."
        raise Problem(422, "costly-file", "The file cannot be read within the limits", detail) from None
    except (ValueError, Problem):
        raise
    except Exception as error:  # of a damaged file a package raises whatever it stumbles over
        logger.exception("a file made %s fail", reader.__name__)
        detail = f"It is damaged, or made in a way that is not known here ({type(error).__name__}). Export it again, or in another format. Nothing was changed."
        raise Problem(422, "unreadable-file", "The file cannot be read", detail) from None
