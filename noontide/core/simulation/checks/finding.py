"""A check: a finding about the design, with its rule, limit, actual value, margin and remedies."""

from dataclasses import dataclass, field, replace
from typing import Literal

from noontide.core.design.merge_patch import merge_patch

Severity = Literal["error", "caution"]
BenchName = Literal["site", "weather", "surfaces", "circuits", "losses"]


@dataclass(frozen=True)
class Remedy:
    """An edit that fixes the finding, as a JSON Merge Patch."""

    label: str
    patch: dict


@dataclass(frozen=True)
class Check:
    """A finding. `margin` is how far the actual value is on the wrong side, in the unit of both."""

    rule: str
    severity: Severity
    title: str  # the finding
    detail: str  # figure, limit and cure
    bench: BenchName
    pointer: str
    actual: float
    limit: float
    unit: str
    source: str
    remedies: tuple[Remedy, ...] = field(default=())

    @property
    def margin(self) -> float:
        return abs(self.actual - self.limit)


def in_order(found: list[Check]) -> list[Check]:
    """Findings of the same words, as for identical strings on several trackers, made one; errors first."""
    kept: dict[tuple[str, str, str], Check] = {}
    for check in found:
        words = (check.rule, check.title, check.detail)
        if words not in kept:
            kept[words] = check
            continue
        both = zip(kept[words].remedies, check.remedies, strict=True)
        together = tuple(Remedy(one.label, merge_patch(one.patch, other.patch)) for one, other in both)
        kept[words] = replace(kept[words], remedies=together)
    return sorted(kept.values(), key=lambda check: check.severity != "error")


def signed(value: float) -> str:
    """A whole number with a proper minus."""
    return f"{value:.0f}".replace("-", "\u2212")
