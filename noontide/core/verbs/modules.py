"""Modules on the plan: moved, taken out, put into strings, laid in another type; the rows that hold them stay as few as they can."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.layout import Layout
from noontide.core.design.module_rows import MOST_MODULES, PLACE
from noontide.core.design.surface import Surface
from noontide.core.electrical import Catalogue
from noontide.core.fields import Document, Id, ModuleId
from noontide.core.plan import FaceModules
from noontide.core.plan.filling import in_place_of
from noontide.core.plan.laying import swapped
from noontide.core.plan.layouts import module_named, plans_of
from noontide.core.plan.stringing import (
    Pattern,
    Strings,
    by_block,
    cut,
    inverters_of_slots,
    ordered,
    repaired,
    slots_on,
    strings_now,
    with_drawn,
)
from noontide.core.simulation import Libraries
from noontide.core.verbs.shared import ImpossibleAct, OnSurface, must_be_there
from noontide.core.verbs.strings import without_strings

Ids = Annotated[tuple[ModuleId, ...], Field(max_length=MOST_MODULES)]


class MoveModules(OnSurface):
    """Modules and the way that they go on their face."""

    modules: Ids = Field(title="Modules", min_length=1)
    along: float = Field(0.0, ge=-5000, le=5000, title="Along the face [m]")
    up: float = Field(0.0, ge=-5000, le=5000, title="Up the slope [m]")


class DeleteModules(Document):
    modules: dict[Id, Ids] = Field(title="Modules by the surface that they lie on")


class StringModules(OnSurface):
    """A pattern, and for that of like shade how much of the sun each module gets."""

    pattern: Pattern = Field(title="Pattern")
    access: dict[ModuleId, Annotated[float, Field(ge=0, le=10)]] = Field(
        {}, title="Solar access by module", max_length=MOST_MODULES
    )


class DrawString(OnSurface):
    path: Ids = Field(title="Modules in their order", min_length=1)


class SwapModules(OnSurface):
    module: str = Field(min_length=1, max_length=80, title="Module that is to lie there")


class UnpairRacks(Document):
    surface: Id = Field(title="Surface that stays")


def move_modules(design: Design, given: MoveModules) -> tuple[dict[str, Any], str]:
    """Move modules on their face; where a whole row goes, the row does.

    Raises
    ------
    ImpossibleAct
        If there is no such surface or module.
    """
    layout = _layout_of(design, given.surface)
    places = {key: layout.place_of(key) for key in given.modules}
    _must_lie(given.modules, {key for key, place in places.items() if place is not None}, design.surfaces[given.surface])
    moving = set(given.modules)
    rows: dict[str, Any] = {}
    hand: dict[str, Any] = {}
    for name, row in layout.module_rows.items():
        by_hand = sum(row.place_of(key) is not None for key in layout.modules)
        mine = {key for key in moving if key not in layout.modules and row.place_of(key) is not None}
        if mine and len(mine) == row.size - by_hand:
            rows[name] = {"u": _rounded(row.u + given.along), "v": _rounded(row.v + given.up)}
            moving -= mine
    for key, place in places.items():
        if key in moving and place is not None:
            u, v, is_landscape = place
            hand[key] = {"u": _rounded(u + given.along), "v": _rounded(v + given.up), "is_landscape": is_landscape or None}
    words = "Module moved." if len(given.modules) == 1 else f"{len(given.modules):,} modules moved."
    return _layout_patch(given.surface, rows, hand), words


def delete_modules(design: Design, given: DeleteModules) -> tuple[dict[str, Any], str]:
    """Take modules from the plan; a row of which none stays goes with them.

    Raises
    ------
    ImpossibleAct
        If there is no such surface or module.
    """
    surfaces: dict[str, Any] = {}
    for surface, ids in given.modules.items():
        layout = _layout_of(design, surface)
        lying = {key for key in ids if layout.place_of(key) is not None}
        _must_lie(ids, lying, design.surfaces[surface])
        surfaces[surface] = {"layout": layout.without(ids)}
    count = sum(map(len, given.modules.values()))
    return {"surfaces": surfaces}, f"{count:,} module{'s' * (count != 1)} deleted from the plan."


def string_modules(design: Design, given: StringModules) -> tuple[dict[str, Any], str]:
    """Put the modules of a surface into its strings by a pattern.

    Raises
    ------
    ImpossibleAct
        If no modules lie there, or the surface has no strings.
    """
    plan, slots = _strung(design, given.surface)
    sizes = [size for _, size in slots]
    if given.pattern == "by block":
        strings = by_block(plan, sizes, inverters_of_slots(design, given.surface))
    else:
        strings = cut(ordered(plan, given.pattern, given.access), sizes)
    return _kept(slots, strings), f"Strings {given.pattern}."


def draw_string(design: Design, given: DrawString) -> tuple[dict[str, Any], str]:
    """A string through modules in the order in which they were drawn.

    Raises
    ------
    ImpossibleAct
        If no modules lie there, the surface has no strings, or all of them are full and the first module is in none.
    """
    plan, slots = _strung(design, given.surface)
    _must_lie(given.path, plan.ids, design.surfaces[given.surface])
    now = strings_now(design, given.surface, plan)
    strings = with_drawn(now, given.path, [size for _, size in slots])
    if strings is now:
        raise ImpossibleAct("Every string is full. Begin in a module of the string that is to change, or find strings anew.")
    return _kept(slots, strings), "String drawn."


def repair_strings(design: Design, given: OnSurface) -> tuple[dict[str, Any], str]:
    """Fill up strings that lost modules, from the nearest that are in none.

    Raises
    ------
    ImpossibleAct
        If no modules lie there, or the surface has no strings.
    """
    plan, slots = _strung(design, given.surface)
    strings = repaired(strings_now(design, given.surface, plan), plan, [size for _, size in slots])
    short = sum(len(string) < size for string, (_, size) in zip(strings, slots, strict=True))
    words = (
        "Strings are whole again." if not short else f"Strings repaired; {short} lack{'s' * (short == 1)} modules on the plan."
    )
    return _kept(slots, strings), words


def unpair_racks(design: Design, given: UnpairRacks) -> tuple[dict[str, Any], str]:
    """All rows of a face one way again: the surface of the backs goes, with its strings.

    Raises
    ------
    ImpossibleAct
        If the surface has no racks in pairs.
    """
    layout = _layout_of(design, given.surface)
    if layout.racks is None or not layout.racks.is_paired:
        raise ImpossibleAct(f"The racks of {_title(design, given.surface)} do not stand back to back.")
    face = design.surfaces[given.surface].face
    others = [key for key, one in design.surfaces.items() if one.face == face and key != given.surface]
    strings = [key for key, one in design.subarrays.items() if one.surface in others]
    surfaces = {given.surface: {"layout": {"racks": {"is_paired": None}}}} | dict.fromkeys(others)
    return {"surfaces": surfaces} | without_strings(strings), "All rows face one way; fill the face anew."


def swap_modules(design: Design, given: SwapModules, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """Another type of module, of the design or of a library, on a surface and in its strings; what fits keeps its place.

    Raises
    ------
    ImpossibleAct
        If there is no such surface or module.
    """
    surface, module, parts = given.surface, given.module, libraries.parts
    must_be_there("surface", surface, design.surfaces)
    new = module_named(design, module, parts)
    if new is None:
        raise ImpossibleAct(f"There is no module '{module[:64]}' in the library or among the parts of the scheme.")
    members = [key for key, one in design.subarrays.items() if one.surface == surface]
    patch: dict[str, Any] = {"subarrays": {key: {"module": module} for key in members}} if members else {}
    plan = plans_of(design, parts).get(surface)
    if plan is None or not plan.placed:
        if not members:
            patch["surfaces"] = {surface: {"layout": {"module": module}}}
        return patch, "Module changed."
    found, left = swapped(plan, new)
    patch["surfaces"] = {surface: {"layout": {"module": module} | in_place_of(design, surface, found)}}
    if not left:
        return patch, f"All {len(found):,} modules keep a place."
    words = f"{len(found):,} of the {len(found) + len(left):,} modules have a place, {len(left):,} {'was' if len(left) == 1 else 'were'} taken from the plan."
    return patch, words


def _layout_of(design: Design, key: str) -> Layout:
    must_be_there("surface", key, design.surfaces)
    layout = design.surfaces[key].layout
    if layout is None:
        raise ImpossibleAct(f"No modules lie on {_title(design, key)}.")
    return layout


def _title(design: Design, key: str) -> str:
    return design.surfaces[key].name or key


def _must_lie(ids: Iterable[str], lying: Iterable[str], surface: Surface) -> None:
    there = set(lying)
    if missing := [key for key in ids if key not in there]:
        raise ImpossibleAct(f"No module {missing[0]} lies on {surface.name or 'the surface'}.")


def _strung(design: Design, key: str) -> tuple[FaceModules, list[tuple[str, int]]]:
    """The plan of a surface, and its strings to be."""
    must_be_there("surface", key, design.surfaces)
    plan, slots = plans_of(design, Catalogue()).get(key), slots_on(design, key)
    if plan is None or not plan.ids:
        raise ImpossibleAct(f"No modules lie on {_title(design, key)}. Fill its face first.")
    if not slots:
        raise ImpossibleAct(f"{_title(design, key)} has no strings yet. Find strings first.")
    return plan, slots


def _kept(slots: list[tuple[str, int]], strings: Strings) -> dict[str, Any]:
    """Strings as the sub-arrays keep them."""
    found: dict[str, list[list[str]]] = {}
    for (name, _), string in zip(slots, strings, strict=True):
        found.setdefault(name, []).append(list(string))
    for some in found.values():
        while some and not some[-1]:
            some.pop()
    return {"subarrays": {name: {"string_plan": some} for name, some in found.items()}}


def _layout_patch(surface: str, rows: Mapping[str, Any], hand: Mapping[str, Any]) -> dict[str, Any]:
    layout = ({"module_rows": dict(rows)} if rows else {}) | ({"modules": dict(hand)} if hand else {})
    return {"surfaces": {surface: {"layout": layout}}}


def _rounded(value: float) -> float:
    return round(value, PLACE)
