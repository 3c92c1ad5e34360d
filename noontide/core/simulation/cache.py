"""Results of stages, kept by a key made of all that went into them; bounded in bytes, and the only state of the computation."""

import dataclasses
import hashlib
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np

from noontide.core.electrical.datasheets import Part
from noontide.core.weather.year import Weather

T = TypeVar("T")
I = TypeVar("I")  # noqa: E741
DEFAULT_LIMIT = 256 * 1024**2  # bytes


@dataclass(frozen=True, eq=False)
class Kept(Generic[T]):
    """The result of a stage with the key of what it was made from; as the input of a later stage it stands for that key."""

    key: str
    value: T


def key_of(inputs: object) -> str:
    """Key of a stage's inputs: a frozen dataclass of plain values, datasheets, weather years and results of earlier stages.

    Raises
    ------
    TypeError
        If the inputs hold anything that this function cannot tell apart by its content.
    """
    return hashlib.blake2b(_text(inputs).encode(), digest_size=16).hexdigest()


def _text(value: Any) -> str:
    match value:
        case Kept():
            return value.key
        case None | bool() | int() | float() | str():
            return repr(value)
        case tuple() | list():
            return f"({','.join(map(_text, value))})"
        case Part():
            return value.fingerprint
        case Weather():
            return value.digest
    if names := _field_names(type(value)):
        fields = ",".join([f"{name}={_text(getattr(value, name))}" for name in names])
        return f"{type(value).__qualname__}({fields})"
    raise TypeError(f"{type(value).__name__} cannot be an input of a stage: it has no content that a key could be made of")


@lru_cache(maxsize=256)
def _field_names(kind: type) -> tuple[str, ...]:
    """Of a dataclass; none for any other type. Remembered, since every look-up of a row asks for them."""
    return tuple(f.name for f in dataclasses.fields(kind)) if dataclasses.is_dataclass(kind) else ()


class StageCache:
    """The most recently used results, at most `limit` bytes of arrays. Safe to share between threads."""

    def __init__(self, limit: int = DEFAULT_LIMIT):
        self._limit = limit
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def bytes(self) -> int:
        """Size of all that is kept."""
        return self._bytes

    def keep(self, inputs: I, compute: Callable[[I], T]) -> Kept[T]:
        """The result of one stage, computed if it is not there."""
        return self.keep_rows([inputs], lambda missing: [compute(missing[0])])[0]

    def keep_rows(self, rows: Sequence[I], compute: Callable[[list[I]], list[T]]) -> list[Kept[T]]:
        """The results of a stage that runs over rows; those that are missing are computed together.

        Parameters
        ----------
        rows
            Inputs of each row; equal ones are computed once.
        compute
            From the inputs that are missing to their results, in the same order.
        """
        keys = [key_of(row) for row in rows]
        found: dict[str, Any] = {}
        missing: dict[str, I] = {}
        with self._lock:
            for key, row in zip(keys, rows, strict=True):
                if key in self._kept:
                    self._kept.move_to_end(key)
                    found[key] = self._kept[key][0]
                else:
                    missing[key] = row
        if missing:
            made = dict(zip(missing, compute(list(missing.values())), strict=True))
            found |= made
            self._add(made)
        return [Kept(key, found[key]) for key in keys]

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()
            self._bytes = 0

    def _add(self, made: dict[str, Any]) -> None:
        sizes = {key: _bytes_of(value) for key, value in made.items()}
        with self._lock:
            for key, value in made.items():
                # What alone is larger than the limit is handed out, and not kept.
                if key in self._kept or sizes[key] > self._limit:
                    continue
                self._kept[key] = value, sizes[key]
                self._bytes += sizes[key]
            while self._bytes > self._limit:
                _, (_, size) = self._kept.popitem(last=False)
                self._bytes -= size


def _bytes_of(value: object) -> int:
    """Memory that a result holds alive, with a little for the object itself."""
    bases: dict[int, int] = {}
    _find_bases(value, bases)
    return 512 + sum(bases.values())


def _find_bases(value: object, bases: dict[int, int]) -> None:
    """Add the arrays that own the memory of a value, by identity."""
    if isinstance(value, np.ndarray):
        while isinstance(value.base, np.ndarray):
            value = value.base
        bases[id(value)] = value.nbytes
    elif isinstance(value, tuple | list):
        for item in value:
            _find_bases(item, bases)
    elif not isinstance(value, Kept):
        for name in _field_names(type(value)):
            _find_bases(getattr(value, name), bases)
