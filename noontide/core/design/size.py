"""How large a design document may be, checked before anything is made of it."""

from typing import Any

MOST_VALUES = 200_000  # a surface of as many modules as it may keep has 80,000
DEEPEST = 24
_CONTAINERS = (dict, list, tuple)
_PLAIN = {str, int, float, bool, type(None)}


class DesignError(ValueError):
    """A document that cannot be taken as a design, with a pointer to the place."""

    def __init__(self, message: str, pointer: str = ""):
        self.pointer = pointer
        super().__init__(message)


def check_size(document: Any) -> None:
    """Refuse a document that is nested too deeply or has too many values.

    Raises
    ------
    DesignError
        With the limit.
    """
    level: list[Any] = [document]
    values, depth = 1, 0
    while level:
        depth += 1
        if depth > DEEPEST:
            raise DesignError(f"The document is nested more than {DEEPEST} levels deep.")
        inner: list[Any] = []
        for value in level:
            if isinstance(value, _CONTAINERS):
                items = value.values() if isinstance(value, dict) else value
                values += len(items)
                # The modules of a field are long lists of plain values: those are counted, not walked through.
                if not set(map(type, items)) <= _PLAIN:
                    inner += items
        if values > MOST_VALUES:
            raise DesignError(f"The document has more than {MOST_VALUES:,} values.")
        level = inner
