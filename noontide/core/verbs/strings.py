"""Inverters and strings that are added and deleted."""

from typing import Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.circuits import SubArray
from noontide.core.design.naming import fresh
from noontide.core.fields import Document, Id
from noontide.core.verbs.shared import ImpossibleAct, must_be_there

USUAL_STRING = 12  # modules, about the middle of the window of a string inverter


class AddStrings(Document):
    """Where a string goes."""

    inverter: Id = Field(title="Inverter")
    tracker: int = Field(1, ge=1, le=24, title="Tracker")
    module: str | None = Field(None, max_length=80, title="Module, where no string beside it says which")


class AddInverter(Document):
    """An inverter, with a string on its first tracker where there is a surface."""

    model: str = Field(min_length=1, max_length=80, title="Inverter")
    module: str | None = Field(None, max_length=80, title="Module, where no string beside it says which")


class DeleteInverter(Document):
    inverter: Id = Field(title="Inverter")


def add_strings(design: Design, given: AddStrings) -> tuple[dict[str, Any], str]:
    """A string like the last one of the inverter, or the first of the design.

    Raises
    ------
    ImpossibleAct
        If there is no such inverter, no surface, or no module to take.
    """
    must_be_there("inverter", given.inverter, design.inverters)
    if not design.surfaces:
        raise ImpossibleAct("Add a surface first.")
    return {"subarrays": _string(design, given.inverter, given.tracker, given.module)}, "String added."


def add_inverter(design: Design, given: AddInverter) -> tuple[dict[str, Any], str]:
    """A further inverter of a model.

    Raises
    ------
    ImpossibleAct
        If there is a surface, and no module to put on it.
    """
    key = fresh("inverter", design.inverters)
    patch: dict[str, Any] = {"inverters": {key: {"model": given.model}}}
    if design.surfaces:
        patch["subarrays"] = _string(design, key, 1, given.module)
    return patch, "Inverter added."


def delete_inverter(design: Design, given: DeleteInverter) -> tuple[dict[str, Any], str]:
    """An inverter with its strings; a battery on its DC side goes to the AC side.

    Raises
    ------
    ImpossibleAct
        If there is no such inverter.
    """
    must_be_there("inverter", given.inverter, design.inverters)
    on_it = [key for key, one in design.subarrays.items() if one.inverter == given.inverter]
    patch: dict[str, Any] = {"inverters": {given.inverter: None}} | without_strings(on_it)
    bank = design.storage.bank
    if bank is not None and bank.inverter == given.inverter:
        patch["storage"] = {"bank": {"inverter": None}}
    return patch, "Inverter and its strings deleted."


def without_strings(strings: list[str]) -> dict[str, Any]:
    """A patch that deletes strings."""
    return {"subarrays": dict.fromkeys(strings)} if strings else {}


def _string(design: Design, inverter: str, tracker: int, module: str | None) -> dict[str, Any]:
    beside = [one for one in design.subarrays.values() if one.inverter == inverter][-1:] or list(design.subarrays.values())[:1]
    like: SubArray | None = beside[0] if beside else None
    chosen = module if like is None else like.module
    if chosen is None:
        raise ImpossibleAct("Choose a module for the string.")
    return {
        fresh("strings", design.subarrays): {
            "surface": next(iter(design.surfaces)) if like is None else like.surface,
            "module": chosen,
            "modules_per_string": USUAL_STRING if like is None else like.modules_per_string,
            "strings": 1,
            "inverter": inverter,
            "tracker": tracker,
        }
    }
