"""Datasheets in the design: choosing a part copies it, so that an edited library never changes an old design."""

from collections.abc import Iterator
from functools import cache
from typing import Any, get_args

from pydantic import BaseModel

from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import KINDS, Catalogue


def freeze(document: dict, library: Catalogue) -> dict:
    """The document with the datasheet of every part in use, copied from the library where it has none of its own yet.

    Copies that nothing uses any more are left out; a datasheet that differs from the library's stays.
    A part that is in neither place is left to the simulation to report.
    """
    design = Design.read(document)
    kept = {}
    for kind, used in parts_used(design).items():
        own, shelf = design.parts.of(kind), library.of(kind)
        parts = {
            key: part.model_dump(mode="json", exclude_unset=True)
            for key, part in own.items()
            if key in used or key not in shelf or part.fingerprint != shelf[key].fingerprint
        }
        for key in sorted(used - own.keys()):
            if key in shelf:
                parts[key] = shelf[key].model_dump(mode="json", exclude_unset=True) | {"digest": shelf[key].fingerprint}
        if parts:
            kept[kind] = parts
    return {key: value for key, value in design.as_kept().items() if key != "parts"} | ({"parts": kept} if kept else {})


def parts_used(design: Design) -> dict[str, set[str]]:
    """Ids of the parts that a design names, by kind: every field that the document declares as a part, wherever it stands."""
    used: dict[str, set[str]] = {kind: set() for kind in KINDS}
    for kind, name in _named(design):
        used[kind].add(name)
    return used


def _named(value: Any) -> Iterator[tuple[str, str]]:
    if isinstance(value, dict):
        for inner in value.values():
            yield from _named(inner)
    elif isinstance(value, tuple):
        for inner in value:
            yield from _named(inner)
    elif isinstance(value, BaseModel):
        names, below = _fields_with_parts(type(value))
        for field, kind in names:
            if name := getattr(value, field):
                yield kind, name
        for field in below:
            yield from _named(getattr(value, field))


@cache
def _fields_with_parts(model: type[BaseModel]) -> tuple[tuple[tuple[str, str], ...], tuple[str, ...]]:
    """Fields that name a part, with its kind, and fields below which there are such: thousands of placed modules are not looked through."""
    names, below = [], []
    for field, info in model.model_fields.items():
        extra = info.json_schema_extra
        if isinstance(extra, dict) and "x-part" in extra:
            names.append((field, str(extra["x-part"])))
        elif any(any(_fields_with_parts(inner)) for inner in _documents_in(info.annotation)):
            below.append(field)
    return tuple(names), tuple(below)


def _documents_in(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from _documents_in(inner)
