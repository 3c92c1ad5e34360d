"""Workings: the derivation that a figure carries with it, from the equation to the value."""

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Input:
    """One symbol of the equation."""

    symbol: str  # TeX
    name: str
    value: float | str
    unit: str
    origin: str  # where it comes from, in words
    pointer: str = ""  # JSON pointer into the scheme, where it is a value of the design


@dataclass(frozen=True)
class Working:
    """How a figure came about."""

    key: str
    title: str
    value: float | str  # a word where there is none
    unit: str
    equation: str  # TeX
    inputs: tuple[Input, ...]
    source: str  # paper or standard
    steps: tuple[Input, ...] = field(default=())  # intermediate values
    note: str = ""
    quantity: str = ""  # hourly quantity that shows the same over the year
