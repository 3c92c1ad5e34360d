"""A check: a finding about the design, with its rule, limit, actual value, margin and remedies."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import reduce
from typing import Literal

from noontide.core.benches import BenchName
from noontide.core.design.circuits import AcceptedCheck
from noontide.core.design.merge_patch import join_patches

WORSE = 1.01  # of the margin at which a check was accepted
Severity = Literal["error", "caution"]


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
    accepted: str = ""  # the reason, where somebody has accepted it

    @property
    def key(self) -> str:
        """By which it is accepted in the design."""
        return f"{self.rule}:{self.pointer}"

    @property
    def margin(self) -> float:
        return abs(self.actual - self.limit)


def with_acceptance(check: Check, accepted: Mapping[str, AcceptedCheck]) -> Check:
    """The check with the reason for which it is accepted; one that has got worse since is open again."""
    entry = accepted.get(check.key)
    if entry is None or check.margin > abs(entry.actual - check.limit) * WORSE + 1e-9:
        return check
    return replace(check, accepted=entry.reason)


def in_order(found: list[Check]) -> list[Check]:
    """Findings of the same words, as for identical strings on several trackers, made one; errors first."""
    alike: dict[tuple[str, str, str], list[Check]] = defaultdict(list)
    for check in found:
        alike[check.rule, check.title, check.detail].append(check)
    kept = [checks[0] if len(checks) == 1 else _made_one(checks) for checks in alike.values()]
    return sorted(kept, key=lambda check: check.severity != "error")


def _made_one(checks: list[Check]) -> Check:
    """The first of several alike, with the remedies that all of them have, each for all of them; identical findings can have different ones."""
    by_label = [{remedy.label: remedy.patch for remedy in check.remedies} for check in checks]
    together = tuple(
        Remedy(label, reduce(join_patches, (patches[label] for patches in by_label), {}))
        for label in by_label[0]
        if all(label in patches for patches in by_label)
    )
    return replace(checks[0], remedies=together)


def signed(value: float) -> str:
    """A whole number with a proper minus."""
    return f"{value:.0f}".replace("-", "\u2212")
