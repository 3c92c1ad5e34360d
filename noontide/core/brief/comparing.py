"""In what two designs differ, in words: value by value, by the titles that the document gives them."""

from typing import Any

from pydantic import BaseModel

from noontide.core.brief.runs import fixed
from noontide.core.design import Design
from noontide.core.fields import Document

MOST = 40  # lines, beyond which the rest is counted
_SILENT = {"digest", "id", "format", "parts", "file_name", "points", "corners"}


def differences(one: Design, other: Design) -> tuple[tuple[str, str, str], ...]:
    """What differs, how it is in one and how in the other; names and units as on the screen. Long lists are counted."""
    found: list[tuple[str, str, str]] = []
    _compare([], one, other, found)
    more = len(found) - MOST
    return tuple(found) if more <= 0 else (*found[:MOST], (f"and {more} more", "", ""))


def _compare(place: list[str], one: Any, other: Any, found: list[tuple[str, str, str]]) -> None:
    if isinstance(one, BaseModel) and isinstance(other, BaseModel):
        for key, info in type(one).model_fields.items():
            a, b = getattr(one, key), getattr(other, key, None)
            if key in _SILENT or a == b:
                continue
            title = info.title or key.replace("_", " ").capitalize()
            unit = str((info.json_schema_extra or {}).get("x-unit", "")) if isinstance(info.json_schema_extra, dict) else ""
            if isinstance(a, dict) or isinstance(b, dict):
                _compare_things([*place, title], a or {}, b or {}, found)
            elif isinstance(a, BaseModel) and isinstance(b, BaseModel):
                _compare([*place, title], a, b, found)
            else:
                found.append((_place([*place, title]), _said(a, unit), _said(b, unit)))


def _compare_things(place: list[str], one: dict, other: dict, found: list[tuple[str, str, str]]) -> None:
    for key in (*one, *(key for key in other if key not in one)):
        a, b = one.get(key), other.get(key)
        if a == b:
            continue
        name = getattr(a, "name", "") or getattr(b, "name", "") or str(key)
        if a is None or b is None:
            found.append((_place([*place, name]), "none" if a is None else _kind(a), "none" if b is None else _kind(b)))
        elif isinstance(a, BaseModel):
            _compare([*place, name], a, b, found)
        else:
            found.append((_place([*place, name]), _said(a, ""), _said(b, "")))


def _place(place: list[str]) -> str:
    """The last three steps to a value: what stands before them is known."""
    return ", ".join(dict.fromkeys(place[-3:]))


def _kind(value: Any) -> str:
    return "there" if isinstance(value, Document) else _said(value, "")


def _said(value: Any, unit: str) -> str:
    match value:
        case None:
            return "none"
        case bool():
            return "yes" if value else "no"
        case int() | float():
            digits = 0 if float(value).is_integer() else min(3, len(f"{value:.3f}".rstrip("0").partition(".")[2]))
            return f"{fixed(float(value), digits)} {unit}".strip().replace("-", "−")
        case str():
            return value or "none"
        case list() | tuple():
            return f"{len(value)} values"
        case _:
            return "there"
