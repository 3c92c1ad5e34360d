"""Results of stages, kept by a hash of all that went into them; bounded, and the only state of the computation."""

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

T = TypeVar("T")


def key_of(*inputs: object) -> str:
    """Hash of a stage's inputs: plain values, frozen dataclasses and the keys of earlier stages."""
    return hashlib.blake2b(repr(inputs).encode(), digest_size=16).hexdigest()


class StageCache:
    """The most recently used results, at most `size` of them. Safe to share between threads."""

    def __init__(self, size: int = 160):
        self._size = size
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._lock = Lock()

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, key: str, compute: Callable[[], T]) -> T:
        """The result under a key, computed if it is not there."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        result = compute()
        with self._lock:
            self._kept[key] = result
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
        return result
