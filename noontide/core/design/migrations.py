"""Formats of the design document, and the step from each to the next."""

from collections.abc import Callable
from typing import Any

from noontide.core.design.size import DesignError

FORMAT = "noontide-design/5"


def _from_scheme_1(document: dict) -> dict:
    """The first format, then called a scheme: parts were named but their datasheets did not have to be in the document."""
    return document | {"format": "noontide-design/2"}


def _from_design_2(document: dict) -> dict:
    """The window of an inverter is the MPP tracker's, since a surface may track too; a row has cell groups, not steps."""
    window = {"tracking_minimum": "mppt_minimum", "tracking_maximum": "mppt_maximum"}
    document = _renamed(document, ("surfaces", "*", "rows"), {"steps": "cell_groups"})
    document = _renamed(document, ("parts", "inverters", "*"), window)
    return document | {"format": "noontide-design/3"}


def _from_design_3(document: dict) -> dict:
    """What is counted in money has a part of its own; use by floor area is one source of demand among others."""
    document = dict(document)
    money: dict[str, Any] = {}
    if isinstance(wiring := document.get("wiring"), dict):
        money = {key: wiring[key] for key in ("energy_value", "years", "interest") if key in wiring}
        document["wiring"] = {key: value for key, value in wiring.items() if key not in money}
    if "currency" in document:
        money["currency"] = document.pop("currency")
    if money:
        document["money"] = money
    if isinstance(use := document.pop("demand", None), dict):
        document["demand"] = {"sources": {"building": {"name": "Building", "per_area": use}}}
    return document | {"format": "noontide-design/4"}


def _from_design_4(document: dict) -> dict:
    """The picture on the map and the modules of strings were both called plan."""
    document = _renamed(document, ("site",), {"plan": "map_picture"})
    document = _renamed(document, ("subarrays", "*"), {"plan": "string_plan"})
    return document | {"format": FORMAT}


def _renamed(value: Any, path: tuple[str, ...], old_to_new: dict[str, str]) -> Any:
    """A copy with fields renamed at the end of a path, of which `*` is every entry; what is not there or no object stays."""
    if not isinstance(value, dict):
        return value
    if not path:
        return {old_to_new.get(key, key): inner for key, inner in value.items()}
    here = path[0]
    return {key: _renamed(inner, path[1:], old_to_new) if here in ("*", key) else inner for key, inner in value.items()}


# For each old format the step that leads to the next one.
STEPS: dict[str, Callable[[dict], dict]] = {
    "noontide-scheme/1": _from_scheme_1,
    "noontide-design/2": _from_design_2,
    "noontide-design/3": _from_design_3,
    "noontide-design/4": _from_design_4,
}


def upgrade(document: Any) -> dict:
    """The document in today's format, one step at a time; one without a format is taken as today's.

    Raises
    ------
    DesignError
        If it is no object or its format is unknown.
    """
    if not isinstance(document, dict):
        raise DesignError("A design is a JSON object.")
    while (name := document.get("format", FORMAT)) != FORMAT:
        if not isinstance(name, str) or name not in STEPS:
            known = ", ".join((*STEPS, FORMAT))
            raise DesignError(
                f"The format {str(name)[:60]!r} is unknown; known are {known}. It may come from a later version.", "/format"
            )
        document = STEPS[name](document)
    return document
