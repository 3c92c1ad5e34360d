"""Letting a value of a design loose: which values are tried where one only says which it is."""

from collections.abc import Mapping, Sequence
from math import floor, isfinite, log10
from typing import Any, Literal

from noontide.core.design import Design
from noontide.core.electrical import Catalogue
from noontide.core.fields import Document
from noontide.core.trials.planning import StudyError, pointer_steps, value_at
from noontide.core.trials.sensitivity import InputStep, inputs_of
from noontide.core.trials.study import Loose, Scalar, Study, Tie

REACH = 3  # steps to both sides of the value there is
STEP = 0.2  # of the value: the largest round step within it is taken
OF_RANGE = 0.06  # of its range, where it has one: the same
MOST_PARTS = 40
USUAL_BATTERY = 10.0  # kWh, where there is none yet
Size = Literal["array", "battery", "ratio"]
ARRAY_ACTS = ("design-to", "size-system")  # that give the array its size
RATIOS = (0.9, 1.5, 0.1)  # of DC to AC power that are tried: from, to, by
FORMAT = "noontide-study/1"
SHELVES = {"module": "modules", "inverter": "inverters", "battery": "batteries"}


def let_loose(study: Study | None, design: Design, pointers: Sequence[str], parts: Catalogue) -> Study:
    """The study with one more loose value; it begins with one where there is none.

    A value that is loose already is left as it is.

    Raises
    ------
    StudyError
        If there is no such value, or it is neither a number nor a choice.
    """
    known = study.loose if study is not None else {}
    if any(set(pointers) & set(one.pointers) for one in known.values()):
        assert study is not None
        return study
    loose = loose_of(design, pointers, parts)
    key = _key(pointers[0], known)
    begun: dict[str, Any] = study.model_dump(mode="json", exclude_unset=True) if study is not None else {"format": FORMAT}
    return Study.model_validate(
        begun | {"loose": {**begun.get("loose", {}), key: loose.model_dump(mode="json", exclude_unset=True)}}
    )


def keys_of(study: Study, pointers: Sequence[str]) -> set[str]:
    """The loose values that stand at some pointers."""
    return {key for key, one in study.loose.items() if set(pointers) & set(one.pointers)}


def let_size_loose(study: Study | None, design: Design, size: Size, parts: Catalogue) -> Study:
    """The study with the size of the array, of the battery, or of the inverters beside the array let loose: modules go on the sunniest places, strings are found anew.

    Raises
    ------
    StudyError
        If the design has no modules whose number could be changed.
    """
    begun: dict[str, Any] = study.model_dump(mode="json", exclude_unset=True) if study is not None else {"format": FORMAT}
    if size in begun.get("loose", {}):
        return Study.model_validate(begun)
    acts = begun.get("acts", [])
    if size == "array":
        own = _rated(design, parts)
        if not own:
            raise StudyError("The design has no modules yet.", "/loose/array")
        loose = _sizes("Array", "kW", own, 1.5, 0.1)
        # Before all else: a battery that is sized is sized beside the array that there is then.
        acts = [{"verb": "design-to", "arguments": {"of": "power", "amount": {"loose": size}}}, *acts]
    elif size == "ratio":
        if not _rated(design, parts):
            raise StudyError("The design has no modules yet, that inverters could be found for.", "/loose/ratio")
        low, high, step = RATIOS
        loose = {"title": "DC/AC ratio", "low": low, "high": high, "step": step}
        found = {"verb": "find-strings", "arguments": {"ratio": {"loose": size}}}
        # In place of strings that would be found at any ratio; before a battery, after the modules are laid.
        acts = [act for act in acts if act["verb"] != "find-strings"]
        laid = max((k + 1 for k, act in enumerate(acts) if act["verb"] in ARRAY_ACTS), default=0)
        acts = [*acts[:laid], found, *acts[laid:]]
    else:
        loose = _sizes("Battery", "kWh", energy_of_bank(design) or USUAL_BATTERY, 2.0, 0.5) | {"low": 0}
        acts = [*acts, {"verb": "size-battery", "arguments": {"energy": {"loose": size}}}]
    return Study.model_validate(begun | {"loose": {**begun.get("loose", {}), size: loose}, "acts": acts})


def _sizes(title: str, unit: str, own: float, most: float, least_step: float) -> dict[str, Any]:
    """Sizes from a step up to some times the own one, in steps of about a quarter of it."""
    step = max(least_step, _round_step(own / 4))
    return {"title": title, "unit": unit, "low": step, "high": round(step * max(2, round(most * own / step)), 9), "step": step}


def let_follow(study: Study, design: Design, pointer: str, key: str) -> Study:
    """The study with a value of the design that follows a loose one: in the proportion in which both stand in the design.

    Raises
    ------
    StudyError
        If there is no such loose value, or no such number in the design.
    """
    if key not in study.loose:
        raise StudyError(f"'{key}' is not loose. Loose are {', '.join(study.loose)}.", f"/loose/{key}")
    if keys_of(study, [pointer]):
        raise StudyError("This value is loose by itself. Hold it again first.", pointer)
    field, _ = _field(design, pointer)
    own = None if field is None else value_at(design.as_kept(), pointer)
    own = field["default"] if field is not None and own is None else own
    if isinstance(own, bool) or not isinstance(own, int | float):
        raise StudyError("Only a number can follow another.", pointer)
    leads = _own_of(study.loose[key], design, key)
    times = float(f"{own / leads:.4g}") if leads and own else 1.0
    tie = {"loose": key} | ({} if times == 1.0 else {"times": times})
    if field is not None and field["is_whole"]:
        tie["is_whole"] = True
    return Study.model_validate(_with_ties(study, {**study.ties, pointer: Tie.model_validate(tie)}))


def without_tie(study: Study, pointer: str) -> Study:
    """The study in which a value follows nothing any more."""
    return Study.model_validate(_with_ties(study, {at: tie for at, tie in study.ties.items() if at != pointer}))


def followers_of(study: Study, design: Design) -> list[InputStep]:
    """Numbers of the design that may follow a loose one: neither loose themselves nor following."""
    taken = {pointer for one in study.loose.values() for pointer in one.pointers} | set(study.ties)
    return [one for one in inputs_of(design) if one.pointer not in taken]


def _with_ties(study: Study, ties: Mapping[str, Tie]) -> dict[str, Any]:
    document = study.model_dump(mode="json", exclude_unset=True)
    return document | {"ties": {at: tie.model_dump(mode="json", exclude_unset=True) for at, tie in ties.items()}}


def _own_of(one: Loose, design: Design, key: str) -> float | None:
    """The number at which a loose value stands in the design; None where it is none."""
    if one.pointers:
        own = one.own if one.own is not None else value_at(design.as_kept(), one.pointers[0])
    else:
        own = energy_of_bank(design) if key == "battery" else None
    return float(own) if isinstance(own, int | float) and not isinstance(own, bool) else None


def energy_of_bank(design: Design) -> float:
    """Usable energy of the battery of a design [kWh]; 0 where it has none."""
    bank = design.storage.bank
    if bank is None:
        return 0.0
    sheet = design.parts.batteries.get(bank.model or "")
    return bank.energy if sheet is None else sheet.capacity * bank.series * bank.parallel / 1000


def _rated(design: Design, parts: Catalogue) -> float:
    """Rated power of the modules [kW]."""
    found = 0.0
    for one in design.subarrays.values():
        module = design.parts.modules.get(one.module) or parts.modules.get(one.module)
        unit = design.inverters.get(one.inverter)
        if module is not None:
            found += module.power / 1000 * one.strings * one.modules_per_string * (unit.count if unit is not None else 1)
    return found


def without(study: Study, keys: set[str]) -> Study | None:
    """The study without some loose values, and without what follows them; None where nothing would be loose any more."""
    document = study.model_dump(mode="json", exclude_unset=True)
    document["loose"] = {key: one for key, one in document["loose"].items() if key not in keys}
    document["ties"] = {pointer: tie for pointer, tie in document.get("ties", {}).items() if tie["loose"] not in keys}
    document["acts"] = [
        act for act in document.get("acts", [])
        if not any(isinstance(given, dict) and given.get("loose") in keys for given in act.get("arguments", {}).values())
    ]  # fmt: skip
    return Study.model_validate(document) if document["loose"] else None


def loose_of(design: Design, pointers: Sequence[str], parts: Catalogue) -> Loose:
    """A value of the design let loose: about the one there is, within its range, in round steps; all of its choices; all parts of its kind.

    Raises
    ------
    StudyError
        If there is no such value, or it is neither a number nor a choice.
    """
    pointer = pointers[0]
    field, owner = _field(design, pointer)
    if field is None:
        raise StudyError(f"The design has no value {pointer}.", pointer)
    extra = field.get("extra", {})
    title = ", ".join(text for text in (str(field["title"]), owner) if text)
    value = value_at(design.as_kept(), pointer)
    own: Scalar = field["default"] if value is None else value
    base: dict[str, Any] = {"title": title[:120], "unit": str(extra.get("x-unit", "")), "pointers": tuple(pointers)}
    if value is None and own is not None:
        base["own"] = own  # what is not set stands at its default while others are tried
    if (kind := extra.get("x-part")) is not None:
        keys = list(parts.of(SHELVES.get(str(kind), str(kind))))[:MOST_PARTS]
        return Loose(**base, values=tuple(dict.fromkeys(([own] if own else []) + keys)))
    if field["choices"]:
        return Loose(**base, values=tuple(field["choices"]))
    if isinstance(own, bool):
        return Loose(**base, values=(False, True))
    if isinstance(own, int | float):
        low, high, step = _around(float(own), field["low"], field["high"], float(extra.get("x-step", 1.0)), field["is_whole"])
        if low < high:
            return Loose(**base, low=low, high=high, step=step, is_whole=field["is_whole"])
    raise StudyError(f"{title} is neither a number nor a choice that could be let loose.", pointer)


def _around(value: float, low: float, high: float, step: float, is_whole: bool) -> tuple[float, float, float]:
    """A range of round steps about a value, within its ends."""
    about = min(STEP * abs(value) or high - low, OF_RANGE * (high - low))
    wide = max(step, _round_step(about) if isfinite(about) and about > 0 else step)
    if is_whole:
        wide = max(1.0, float(round(wide)))
    first = value - REACH * wide
    last = value + REACH * wide
    if first < low:
        first = value - floor((value - low) / wide + 1e-9) * wide
        last = first + 2 * REACH * wide
    if last > high:
        last = value + floor((high - value) / wide + 1e-9) * wide if isfinite(high) else last
    return round(first, 9), round(last, 9), wide


def _round_step(step: float) -> float:
    """The largest of 1, 2 and 5 times a power of ten that is no more."""
    power = 10.0 ** floor(log10(step) + 1e-9)
    return next(round(times * power, 12) for times in (5, 2, 1) if times * power <= step * (1 + 1e-9))


def _field(design: Design, pointer: str) -> tuple[dict[str, Any] | None, str]:
    """What the schema says of the value at a pointer, and the name of the thing that it belongs to."""
    at: Any = design
    owner, info, default = "", None, None
    for step in pointer_steps(pointer):
        if isinstance(at, Mapping):
            if step not in at:
                return None, ""
            at, info = at[step], None
            owner = getattr(at, "name", "") or step
        elif isinstance(at, Document) and step in type(at).model_fields:
            info = type(at).model_fields[step]
            default = at.__dict__[step]
            parent, at = at, at.__dict__[step]
        else:
            return None, ""
    if info is None:
        return None, ""
    name = pointer_steps(pointer)[-1]
    schema = type(parent).model_json_schema()["properties"][name]
    limits = {**schema, **next((one for one in schema.get("anyOf", ()) if one.get("type") in ("number", "integer")), {})}
    choices: list[Any] = schema.get("enum") or next((one["enum"] for one in schema.get("anyOf", ()) if "enum" in one), [])
    if isinstance(default, Document | Mapping | tuple):
        return None, ""
    return {
        "title": info.title or name.replace("_", " ").capitalize(), "default": default, "choices": choices,
        "extra": info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {},
        "low": float(limits.get("minimum", limits.get("exclusiveMinimum", float("-inf")))),
        "high": float(limits.get("maximum", limits.get("exclusiveMaximum", float("inf")))),
        "is_whole": limits.get("type") == "integer",
    }, owner  # fmt: skip


def _key(pointer: str, known: Mapping[str, Loose]) -> str:
    """A short name for a loose value: the field, and a number where there is one of it already."""
    name = (
        "".join(c if c.isalnum() and c.isascii() else "-" for c in pointer_steps(pointer)[-1].lower()).strip("-")[:30] or "value"
    )
    name = name if name[0].isalpha() else f"v{name}"
    found, number = name, 2
    while found in known:
        found, number = f"{name}-{number}", number + 1
    return found
