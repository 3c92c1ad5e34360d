"""What a figure of the year is: title, unit, equation, inputs, source; and when it is there."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from noontide.core.simulation.results import Results
from noontide.core.working import Input

SIMULATED = "simulated, sum over the year"
IEC = "IEC 61724-1:2021"
Inputs = Callable[[Results], tuple[Input, ...]]


def none(_: Results) -> tuple[Input, ...]:
    return ()


def always(_: Results) -> bool:
    return True


def has_demand(r: Results) -> bool:
    return r.after.has_demand


def serves_alone(r: Results) -> bool:
    return r.after.serves_alone


def meets_a_grid(r: Results) -> bool:
    return r.after.has_demand and not r.after.is_off_grid


def has_bill(r: Results) -> bool:
    return r.after.bills is not None


def has_money(r: Results) -> bool:
    return r.design.money.is_counted


@dataclass(frozen=True)
class Figure:
    """A figure of the year."""

    key: str  # field of `Annual` where there is no `read`
    title: str  # the trade's name
    unit: str  # `{currency}` stands for the design's
    decimals: int  # as the Headline shows it; a percentage has them after the point
    equation: str  # TeX
    source: Callable[[Results], str]
    inputs: Inputs
    steps: Inputs = none  # intermediate values
    note: str = ""
    quantity: str = ""  # hourly quantity that shows the same over the year
    also: str = ""  # other words that a practitioner looks for
    better: Literal["more", "less", ""] = ""  # which change is a gain; none where it depends
    is_percentage: bool = False
    in_headline: bool = True
    read: Callable[[Results], float | None] | None = None
    is_there: Callable[[Results], bool] = always
    without: str = ""  # word where there is no value

    def value(self, results: Results) -> float | None:
        """None where there is none, though the figure is asked for: a payback that never comes."""
        return self.read(results) if self.read is not None else getattr(results.annual, self.key)

    def unit_of(self, results: Results) -> str:
        return self.unit.replace("{currency}", results.design.money.currency)


def said(text: str) -> Callable[[Results], str]:
    return lambda _: text


def all_of(*inputs: Callable[[Results], Input]) -> Inputs:
    return lambda r: tuple(one(r) for one in inputs)
