"""A study: which values of a design are let loose, how they are tried, what is aimed at and what is held to."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from noontide.core.fields import Document, Id, Line

Scalar = bool | int | float | str | None
Pointer = Annotated[str, Field(pattern=r"^(/[^/]+)+$", max_length=300)]
FigureKey = Annotated[str, Field(max_length=60)]
Way = Literal["grid", "one at a time", "latin hypercube", "sobol", "search"]
COUNTED_WAYS = ("latin hypercube", "sobol", "search")  # of which one says how many runs they have
MOST_SEARCHED = 20_000  # runs
MOST_RUNS = 1_000_000
MOST_SEED = 2**31 - 1
USUAL_RUNS = 100  # of a sample or a search, where nobody has said how many
WAY_TITLES: dict[str, str] = {
    "grid": "Every combination",
    "one at a time": "One at a time, the others as they are",
    "latin hypercube": "A Latin hypercube sample",
    "sobol": "A Sobol sample",
    "search": "A search",
}
MOST_VALUES = 10_000  # of one loose value


class Loose(Document):
    """A value that is let loose: a list, or a range with or without a step."""

    title: Line = Field("", max_length=120, title="What it is called")
    unit: Line = Field("", max_length=20)
    pointers: tuple[Pointer, ...] = Field((), max_length=200, title="Places of the design that take the value")
    values: tuple[Scalar, ...] | None = Field(None, min_length=1, max_length=MOST_VALUES)
    low: float | None = Field(None, title="Lower end")
    high: float | None = Field(None, title="Upper end")
    step: float | None = Field(None, gt=0)
    is_whole: bool = Field(False, title="Whole numbers alone")
    own: Scalar = Field(None, title="Value while others are tried one at a time; the design's own where it is left out")

    @model_validator(mode="after")
    def _is_list_or_range(self) -> Self:
        ends = (self.low, self.high)
        if (None in ends and ends != (None, None)) or (self.values is None) == (ends == (None, None)):
            raise ValueError("A loose value has a list of values, or a low and a high end.")
        if self.low is not None and self.high is not None and not self.low < self.high:
            raise ValueError(f"The low end {self.low:g} is not below the high end {self.high:g}.")
        return self

    @property
    def count(self) -> int | None:
        """How many values there are; None of a range without steps."""
        if self.values is not None:
            return len(self.values)
        assert self.low is not None and self.high is not None
        step = self.step or (1.0 if self.is_whole else None)
        return None if step is None else int((self.high - self.low) / step + 1e-9) + 1

    def value(self, number: int) -> Scalar:
        """The value of a number, from 0."""
        if self.values is not None:
            return self.values[number]
        assert self.low is not None
        found = round(self.low + number * (self.step or 1.0), 12)
        return int(found) if self.is_whole else found

    def at(self, share: float) -> Scalar:
        """The value at a share 0..1 of the way from the first to the last; every value of a list has an equal part of the way."""
        if (count := self.count) is not None:
            return self.value(min(int(share * count), count - 1))
        assert self.low is not None and self.high is not None
        return self.low + share * (self.high - self.low)


class Tie(Document):
    """A value that follows a loose one: so many times as much, and so much more."""

    loose: Id
    times: float = 1.0
    plus: float = 0.0
    is_whole: bool = Field(False, title="Rounded to whole numbers")


class Act(Document):
    """A verb that is applied to the design of each run; an argument of the form of a tie stands for the value it gives."""

    verb: str = Field(max_length=40)
    arguments: dict[str, Any] = Field({}, max_length=40)


class Aim(Document):
    """A figure of which more or less is better."""

    figure: FigureKey
    better: Literal["more", "less"]

    @property
    def sign(self) -> int:
        """By which a value is multiplied so that less is better."""
        return 1 if self.better == "less" else -1


class Limit(Document):
    """What a run is held to: a figure, or the number of open errors or cautions."""

    figure: FigureKey
    at_least: float | None = None
    at_most: float | None = None

    @model_validator(mode="after")
    def _has_an_end(self) -> Self:
        if self.at_least is None and self.at_most is None:
            raise ValueError("A limit has an end: at_least, at_most, or both.")
        return self


class Study(Document):
    """Values that are let loose, and what is looked for among them."""

    format: Literal["noontide-study/1"] = "noontide-study/1"
    name: Line = Field("", max_length=120)
    loose: dict[Id, Loose] = Field(min_length=1, max_length=12)
    ties: dict[Pointer, Tie] = Field({}, max_length=200, title="Places of the design that follow a loose value")
    acts: tuple[Act, ...] = Field((), max_length=12, title="Verbs that are applied to each design, in this order")
    way: Way = "grid"
    runs: int | None = Field(None, ge=1, le=MOST_RUNS, title="Runs of a sample or a search")
    seed: int = Field(1, ge=0, le=MOST_SEED, title="Of a sample or a search: the same seed gives the same runs")
    aim: Aim | None = None
    also: tuple[Aim, ...] = Field((), max_length=2, title="Further aims: what cannot be had together is a front")
    limits: tuple[Limit, ...] = Field((), max_length=40)
    figures: tuple[FigureKey, ...] = Field(
        (), max_length=100, title="Figures of each run; all of the Headline where none is named"
    )

    @model_validator(mode="after")
    def _names_are_known(self) -> Self:
        for place, key in self._named():
            if key not in self.loose:
                raise ValueError(f"{place} follows '{key}', which is not loose. Loose are {', '.join(self.loose)}.")
        if self.way in COUNTED_WAYS and self.runs is None:
            raise ValueError(f"Say how many runs the {'search' if self.way == 'search' else 'sample'} has: runs.")
        if self.aim is None and (self.also or self.way == "search"):
            raise ValueError("Say what is aimed at: aim.")
        if self.way == "search" and (self.runs or 0) > MOST_SEARCHED:
            raise ValueError(f"A search has at most {MOST_SEARCHED:,} runs.")
        if self.way in ("grid", "one at a time"):
            endless = [key for key, one in self.loose.items() if one.count is None]
            if endless:
                raise ValueError(f"'{endless[0]}' has no step. Give it one, or take a sample or a search.")
        both = {pointer for one in self.loose.values() for pointer in one.pointers} & set(self.ties)
        if both:
            raise ValueError(f"{min(both)} is loose, and follows another value too. Take one of both away.")
        used = {key for _, key in self._named()} | {key for key, one in self.loose.items() if one.pointers}
        if idle := [key for key in self.loose if key not in used]:
            raise ValueError(f"'{idle[0]}' changes nothing: give it pointers, or use it in a tie or an act.")
        return self

    @property
    def aims(self) -> tuple[Aim, ...]:
        """All that is aimed at, the first aim first."""
        return (self.aim, *self.also) if self.aim is not None else ()

    def _named(self) -> Iterator[tuple[str, str]]:
        for pointer, tie in self.ties.items():
            yield pointer, tie.loose
        for act in self.acts:
            for name, argument in act.arguments.items():
                if is_tie(argument):
                    yield f"{act.verb}, {name}", str(argument["loose"])


def is_tie(argument: Any) -> bool:
    """Whether an argument stands for a loose value."""
    return isinstance(argument, dict) and "loose" in argument and set(argument) <= Tie.model_fields.keys()
