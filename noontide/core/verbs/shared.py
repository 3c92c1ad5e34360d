"""What the verbs share: their refusal, and how much pasted text they take."""

from collections.abc import Container

from pydantic import Field

from noontide.core.fields import Document, Id

MOST_TEXT = 2_000_000  # characters, of a year of hours with dates beside them


class OnSurface(Document):
    """The arguments of an act on one surface."""

    surface: Id = Field(title="Surface")


class ImpossibleAct(ValueError):
    """What was asked for cannot be done to this design; the words say why."""


def must_be_there(kind: str, key: str, among: Container[str]) -> None:
    """Refuse what names something that the scheme has not."""
    if key not in among:
        raise ImpossibleAct(f"The scheme has no {kind} '{key}'.")
