"""The kinds of long work that there are: each is one function, whose annotations say what it is asked and what it finds.

A job is stored as the name of its kind and what it was asked, so that it can be run anew, and sent to another machine.
"""

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any, get_type_hints

from django.conf import settings
from pydantic import TypeAdapter

Report = Callable[[float, str], None]


@dataclass(frozen=True)
class Kind:
    """A registered kind of job."""

    name: str
    work: Callable[[Any, Report], Any]
    is_heavy: bool  # computes rather than waits: it gets a process of its own
    gather: Callable[[Any], Any] | None  # all that its work needs, by content; the work then sees no disk and no database
    asked: TypeAdapter  # what it is asked, as it is stored
    found: TypeAdapter  # its result, as it is stored


_KINDS: dict[str, Kind] = {}


def job_kind(
    name: str, is_heavy: bool = False, gather: Callable[[Any], Any] | None = None, asked: Any = None
) -> Callable[[Callable[[Any, Report], Any]], Callable[[Any, Report], Any]]:
    """Register a function `(given, report) -> found` as a kind of job.

    Parameters
    ----------
    gather : function, optional
        From what the job is asked to what its function is given; without it they are the same.
    asked : type, optional
        Of what it is asked, where the first annotation of `gather`, or of the function, does not say it.
    """

    def register(work: Callable[[Any, Report], Any]) -> Callable[[Any, Report], Any]:
        first = next(iter(get_type_hints(gather or work).values()))
        found = get_type_hints(work)["return"]
        _KINDS[name] = Kind(name, work, is_heavy, gather, TypeAdapter(asked or first), TypeAdapter(found))
        return work

    return register


def kind_named(name: str) -> Kind:
    """The kind of a name.

    Raises
    ------
    KeyError
        If there is none.
    """
    for module in settings.JOB_MODULES:
        import_module(module)
    return _KINDS[name]
