"""Pieces of which the paragraphs of the Brief are made."""

from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from pydantic import BaseModel


class Run(BaseModel):
    """A piece of a paragraph."""

    kind: Literal["text", "value", "words", "choice", "part", "figure", "link"]
    text: str = ""  # as it reads; of a value the number as it stands in the design
    pointer: str = ""  # of a value, a choice or a part
    pointers: tuple[str, ...] = ()  # of a part that is used in several places
    label: str = ""  # for a screen reader
    part: Literal["", "module", "inverter"] = ""
    figure: str = ""  # key of the figure or working that it opens
    bench: str = ""
    surface: str = ""  # that a link picks
    thing: str = ""  # of the scene, that a link picks


def orientation_words(azimuth: float) -> str:
    """An azimuth in words: `S 12° W`, from the nearer of north and south."""
    a = azimuth % 360
    from_north = min(a, 360 - a) <= 90
    pole = "N" if from_north else "S"
    off = min(a, 360 - a) if from_north else abs(a - 180)
    if off < 0.05:
        return pole
    side = "E" if a < 180 else "W"
    return side if abs(off - 90) < 0.05 else f"{pole} {off:g}° {side}"


def fixed(value: float, digits: int) -> str:
    """A number with so many decimals, a half rounded up as it reads: the way that a browser writes it beside."""
    return f"{Decimal(repr(value)).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP):,}"


def text_run(text: str) -> Run:
    return Run(kind="text", text=text)


def value_run(pointer: str, value: float, label: str) -> Run:
    return Run(kind="value", text=f"{value:g}", pointer=pointer, label=label)


def link_run(text: str, bench: str, surface: str = "", thing: str = "") -> Run:
    return Run(kind="link", text=text, bench=bench, surface=surface, thing=thing)


def count_of(number: int, noun: str) -> str:
    return f"{number:,} {noun}{'' if number == 1 else 's'}"


def listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
