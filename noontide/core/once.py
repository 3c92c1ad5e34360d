"""What is found once for each object and kept as long as that object lives."""

from collections.abc import Callable
from functools import wraps
from typing import TypeVar
from weakref import WeakKeyDictionary

Of = TypeVar("Of")
Found = TypeVar("Found")


def once_for_each(find: Callable[[Of], Found]) -> Callable[[Of], Found]:
    """Keep what `find` gives for an object, which is hashed by identity and never changes; errors are not kept."""
    kept: WeakKeyDictionary[Of, Found] = WeakKeyDictionary()

    @wraps(find)
    def found(one: Of) -> Found:
        if one not in kept:
            kept[one] = find(one)
        return kept[one]

    return found
