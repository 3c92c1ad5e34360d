"""The kinds of long work that there are. A kind is a named function of JSON parameters, so that a job can be stored, resumed, and sent elsewhere."""

from collections.abc import Callable
from dataclasses import dataclass

Report = Callable[[float, str], None]
Work = Callable[[dict, Report], dict]


@dataclass(frozen=True)
class Kind:
    """A registered kind of job."""

    name: str
    work: Work
    is_heavy: bool  # computes rather than waits: it gets a process of its own
    gather: Callable[[dict], dict] | None = (
        None  # all that its work needs, by content; the work then sees no disk and no database
    )


_KINDS: dict[str, Kind] = {}


def job_kind(name: str, is_heavy: bool = False, gather: Callable[[dict], dict] | None = None) -> Callable[[Work], Work]:
    """Register a function as a kind of job."""

    def register(work: Work) -> Work:
        _KINDS[name] = Kind(name, work, is_heavy, gather)
        return work

    return register


def kind_named(name: str) -> Kind:
    """The kind of a name.

    Raises
    ------
    KeyError
        If there is none.
    """
    return _KINDS[name]
