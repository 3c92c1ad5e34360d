"""The last results of pure functions, remembered."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Result = TypeVar("Result")


class Lately(Generic[Result]):
    """So many of the last results, by what they follow from. Safe to share between threads, of which two may find the same at once."""

    def __init__(self, most: int):
        self.most = most
        self._kept: OrderedDict[Hashable, Result] = OrderedDict()
        self._lock = Lock()

    def find(self, key: Hashable, make: Callable[[], Result]) -> Result:
        """What is remembered under a key, or else made now."""
        with self._lock:
            if key in self._kept:
                return self._kept[key]
        made = make()
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)
        return made

    def clear(self) -> None:
        """Let go of all."""
        with self._lock:
            self._kept.clear()
