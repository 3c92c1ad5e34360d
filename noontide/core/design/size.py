"""How large a design document may be, checked before anything is made of it."""

from typing import Any

MOST_VALUES = 200_000  # a surface of as many modules as it may keep has 80,000
DEEPEST = 24


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
    level, values, depth = [document], 0, 0
    while level:
        depth += 1
        values += len(level)
        if depth > DEEPEST:
            raise DesignError(f"The document is nested more than {DEEPEST} levels deep.")
        if values > MOST_VALUES:
            raise DesignError(f"The document has more than {MOST_VALUES:,} values.")
        level = [
            inner
            for value in level
            if isinstance(value, dict | list | tuple)
            for inner in (value.values() if isinstance(value, dict) else value)
        ]
