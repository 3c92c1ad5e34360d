"""What a loss is to the Cascade, to a working and to a reader; each stage says its own beside the code that books them."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from noontide.core.design.losses import Models

Group = Literal["sunlight", "modules", "strings", "grid"]


@dataclass(frozen=True)
class Setting:
    """A value of the design that a loss depends on; its name and unit stand in the design's schema."""

    pointer: str
    symbol: str = ""  # TeX


@dataclass(frozen=True)
class Loss:
    """A line of the Cascade."""

    key: str
    title: str  # the trade's name
    group: Group
    equation: str  # TeX
    source: str | Callable[[Models], str]  # paper or standard, where the chosen model decides
    settings: tuple[Setting, ...] = ()
    also: str = ""  # other words that a practitioner looks for
    may_gain: bool = False  # a change that is no loss alone

    def source_with(self, models: Models) -> str:
        """The source under the models of a design."""
        return self.source if isinstance(self.source, str) else self.source(models)
