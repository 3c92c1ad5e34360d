"""Ids and names of what is new."""

from collections.abc import Collection


def fresh(stem: str, taken: Collection[str]) -> str:
    """An id that nothing has."""
    return next(name for number in range(1, len(taken) + 2) if (name := f"{stem}-{number}") not in taken)


def unlike(name: str, others: Collection[str]) -> str:
    """A name that nothing has: itself, or with a number after it."""
    return next(own for number in range(1, len(others) + 2) if (own := name if number == 1 else f"{name} {number}") not in others)
