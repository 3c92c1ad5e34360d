"""Ids of what is new."""

from collections.abc import Collection


def fresh(stem: str, taken: Collection[str]) -> str:
    """An id that nothing has."""
    return next(name for number in range(1, len(taken) + 2) if (name := f"{stem}-{number}") not in taken)
