"""What a worker of a scheduler runs: it has this package, and neither the server's disk nor its database."""

import importlib
import os
import pickle
import tempfile
from functools import cache
from typing import Any


def carry_out(module: str, name: str, given: bytes) -> Any:
    """The result of a job's function, found by its name; it and what it is given are opened only once the worker is ready for them."""
    _make_ready()
    work = getattr(importlib.import_module(module), name)
    return work(pickle.loads(given), _unheard)


def _unheard(share: float, words: str) -> None:
    """Progress stays with the worker."""


@cache
def _make_ready() -> None:
    """Settings of the server with a folder of the worker's own, in which nothing is kept."""
    from django.conf import settings

    if settings.configured:
        return
    os.environ["NOONTIDE_DATA"] = tempfile.mkdtemp(prefix="noontide-worker-")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")
    import django

    django.setup()
