"""Lengths of string cables from the plan: taken once, they follow it until one is typed over."""

from typing import Any

from noontide.core.design import Design, merge_patch
from noontide.core.design.circuits import PlannedLengths, SubArray
from noontide.core.electrical import Catalogue
from noontide.core.plan.layouts import StringRun, plans_of, string_runs
from noontide.core.verbs.shared import ImpossibleAct, OnSurface, must_be_there

SHORTEST = 0.1  # [m]


def take_lengths(design: Design, given: OnSurface) -> tuple[dict[str, Any], str]:
    """String cables as long as the plan asks for; they follow it from then on.

    Raises
    ------
    ImpossibleAct
        If there is no such surface, no modules lie on it, or no strings are on it.
    """
    patch = taken_from_plan(design, given.surface, Catalogue())
    lengths = ", ".join(
        f"{design.subarrays[key].name or key} {one['cable']['length']:g} m" for key, one in patch["subarrays"].items()
    )
    return patch, f"The string cables follow the plan, sized by the longest, with losses by the mean: {lengths}."


def planned_lengths(runs: list[StringRun]) -> dict[str, PlannedLengths]:
    """By sub-array the longest of its strings' cables, by which they are sized, and their mean, by which they lose [m]."""
    of: dict[str, list[float]] = {}
    for run in runs:
        of.setdefault(run.subarray, []).append(run.length)
    found = {}
    for key, lengths in of.items():
        longest = max(SHORTEST, round(max(lengths), 1))
        mean = min(longest, max(SHORTEST, round(sum(lengths) / len(lengths), 1)))
        found[key] = PlannedLengths(longest=longest, mean=mean)
    return found


def taken_from_plan(design: Design, surface: str, parts: Catalogue) -> dict[str, Any]:
    """A patch that gives the string cables of a surface the lengths of the plan.

    Raises
    ------
    ImpossibleAct
        If there is no such surface, no modules lie on it, or no strings are on it.
    """
    must_be_there("surface", surface, design.surfaces)
    plan = plans_of(design, parts).get(surface)
    lengths = {} if plan is None else planned_lengths(string_runs(design, surface, plan))
    if not lengths:
        raise ImpossibleAct(f"No string of {design.surfaces[surface].name} lies on the plan. Lay modules and find strings first.")
    return {"subarrays": {key: {"cable": _as_cable(one)} for key, one in lengths.items()}}


def with_planned_lengths(document: dict[str, Any], parts: Catalogue) -> dict[str, Any]:
    """A document whose string cables follow the plan where they did: a length that was typed over it stays, and one without modules too."""
    following = {
        key for key, values in (document.get("subarrays") or {}).items() if ((values or {}).get("cable") or {}).get("planned")
    }
    if not following:
        return document
    design = Design.read(document)
    wanted = {design.subarrays[key].surface for key in following if _follows(design.subarrays[key])}
    plans = {key: plan for key, plan in plans_of(design, parts).items() if key in wanted}
    patch: dict[str, Any] = {}
    for surface, plan in plans.items():
        for key, one in planned_lengths(string_runs(design, surface, plan)).items():
            cable = design.subarrays[key].cable
            if key in following and _follows(design.subarrays[key]) and cable is not None and cable.planned != one:
                patch[key] = {"cable": _as_cable(one)}
    return merge_patch(document, {"subarrays": patch}) if patch else document


def _follows(subarray: SubArray) -> bool:
    cable = subarray.cable
    return cable is not None and cable.planned is not None and cable.planned.longest == cable.length


def _as_cable(one: PlannedLengths) -> dict[str, Any]:
    return {"length": one.longest, "planned": {"longest": one.longest, "mean": one.mean}}
