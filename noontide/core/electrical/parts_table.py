"""Parts as tables: CSV and XLSX in and out, with the place and the likely slip of what is wrong."""

import io
import json
import math
import re
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

from pydantic import ValidationError

from noontide.core.cells import FORMULA, XLSX, as_csv, as_xlsx, rows_of, rows_of_sheet
from noontide.core.electrical.datasheets import KINDS, Part
from noontide.core.electrical.part_slips import likely_slip

MOST_ROWS = 5_000
LARGEST = 32 * 1024 * 1024  # bytes
MOST_UNPACKED = 200 * 1024 * 1024  # bytes of a workbook
MOST_CELL = 300  # characters
MOST_JSON = 20_000  # characters of a table within a cell
# Other words in which headings say it; the field's own name always serves.
WORDS: dict[str, tuple[str, ...]] = {
    "maker": ("manufacturer", "brand"),
    "name": ("model", "type", "product"),
    "cells_in_series": ("cells", "number of cells"),
    "power": ("pmax", "maximum power", "max power", "pmpp", "rated power", "nominal power", "pstc"),
    "isc": ("short circuit current", "i sc"),
    "voc": ("open circuit voltage", "v oc", "uoc"),
    "imp": ("impp", "imax", "i mpp", "current at maximum power"),
    "vmp": ("vmpp", "umpp", "v mpp", "voltage at maximum power"),
    "isc_coefficient": ("alpha", "tk isc", "temperature coefficient isc", "temperature coefficient of isc"),
    "voc_coefficient": ("beta", "tk voc", "temperature coefficient voc", "temperature coefficient of voc"),
    "power_coefficient": (
        "gamma",
        "tk pmax",
        "temperature coefficient pmax",
        "temperature coefficient of pmax",
        "temperature coefficient of power",
    ),
    "maximum_system_voltage": ("system voltage", "max system voltage"),
    "maximum_series_fuse": ("series fuse", "max series fuse"),
    "noct": ("nmot",),
    "mass": ("weight",),
    "price": ("list price",),
    "warranty": ("product warranty",),
    "apparent_power": ("rated apparent power", "smax"),
    "night_power": ("night consumption", "standby consumption"),
    "mppt_minimum": ("mpp voltage min", "min mpp voltage"),
    "mppt_maximum": ("mpp voltage max", "max mpp voltage"),
    "full_power_minimum": ("full power from", "min voltage at rated power"),
    "phases": ("number of phases",),
    "ac_power": ("rated ac power", "pac"),
    "maximum_dc_power": ("max dc power",),
    "maximum_dc_voltage": ("max dc voltage", "max input voltage"),
    "start_voltage": ("start up voltage",),
    "maximum_tracker_current": ("max input current", "max current per tracker"),
    "maximum_short_circuit_current": ("max short circuit current",),
    "trackers": ("mppt", "mpp trackers", "number of trackers"),
    "peak_efficiency": ("max efficiency",),
    "european_efficiency": ("euro efficiency", "european weighted efficiency"),
}


@dataclass(frozen=True)
class Fault:
    """What is wrong in a row, and where."""

    row: int  # of the file, from 1
    column: str  # heading, or field where there is none; empty where it is the row as a whole
    reason: str


@dataclass(frozen=True)
class ReadParts:
    """Parts of a table; rows with faults give none."""

    parts: dict[str, Part]
    faults: tuple[Fault, ...]
    doubts: tuple[Fault, ...]  # rows that can be read and look as if something had slipped
    mapping: dict[str, str]  # heading: field
    unused: tuple[str, ...]  # headings that mean nothing here


def read_parts(content: bytes, kind: str, mapping: Mapping[str, str] | None = None) -> ReadParts:
    """Read parts from CSV (with commas, semicolons or tabs) or XLSX.

    Parameters
    ----------
    content : bytes
    kind : str
    mapping : mapping, optional
        Headings and the fields that they mean, where the words do not say it.

    Raises
    ------
    ValueError
        If it is no table, larger than any list of parts, or has no column that is known.
    """
    if len(content) > LARGEST:
        raise ValueError(f"The file has {len(content) / 1e6:.0f} MB; at most {LARGEST / 1e6:.0f} MB are read.")
    if content.lstrip()[:1] in (b"{", b"["):
        return _from_json(content, kind)
    rows = _workbook(content) if content[:4] == b"PK\x03\x04" else _text(content)
    headings = next(rows, None)
    if headings is None or not any(headings):
        raise ValueError("The table is empty. Its first row holds the headings, such as maker, name, power, voc, isc, vmp, imp.")
    fields = _fields(headings, KINDS[kind].model, mapping or {})
    if not any(fields):
        raise ValueError(
            f"No heading is known: {', '.join(h for h in headings if h)[:120]}. Name them as the fields, such as power, voc, isc."
        )
    parts: dict[str, Part] = {}
    faults: list[Fault] = []
    doubts: list[Fault] = []
    for number, cells in enumerate(rows, 2):
        if number > 10 * MOST_ROWS:
            raise ValueError(f"The table has more than {10 * MOST_ROWS:,} rows, the empty ones among them. Delete those.")
        if not any(cells):
            continue
        if number > MOST_ROWS + 1:
            raise ValueError(f"The table has more than {MOST_ROWS:,} rows. Divide it.")
        part, wrong = _part(number, cells, headings, fields, kind)
        if part is not None and part.id in parts:
            wrong = [Fault(number, "id", f"'{part.id}' stands in an earlier row too. Give one of them another id.")]
            part = None
        faults += wrong
        if part is not None:
            parts[part.id] = part
            if slip := likely_slip(part.model_dump(), kind):
                doubts.append(Fault(number, "", slip))
    known = {heading: field for heading, field in zip(headings, fields, strict=True) if field}
    return ReadParts(
        parts, tuple(faults), tuple(doubts), known, tuple(h for h, f in zip(headings, fields, strict=True) if h and not f)
    )


def write_parts(parts: Iterable[Part], kind: str) -> str:
    """Parts as CSV, which `read_parts` gives back; a text that a spreadsheet would take for a formula is quoted with an apostrophe."""
    return as_csv(_rows(parts, kind))


def _rows(parts: Iterable[Part], kind: str) -> list[list[Any]]:
    """Headings, and a row for each part."""
    names = [name for name in KINDS[kind].model.model_fields if name != "digest"]
    values = [part.model_dump(mode="json") for part in parts]
    return [names, *([_out(one[name]) for name in names] for one in values)]


def exported(parts: Iterable[Part], kind: str, ending: Literal["csv", "xlsx", "json"]) -> tuple[str | bytes, str]:
    """Parts as a file that `read_parts` gives back, and its media type."""
    if ending == "json":
        entries = {part.id: part.model_dump(mode="json", exclude_defaults=True) for part in parts}
        return json.dumps({kind: entries}, indent=1, ensure_ascii=False), "application/json"
    if ending == "csv":
        return write_parts(parts, kind), "text/csv; charset=utf-8"
    return as_xlsx(_rows(parts, kind), kind), XLSX


def _out(value: Any) -> Any:
    if value is None or value == []:
        return None
    if isinstance(value, list | dict):
        return json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return ("yes" if value else "no") if isinstance(value, bool) else value


def field_words(model: type[Part]) -> dict[str, str]:
    """Every word that is known for a field, folded, with the field."""
    known = {_folded(name): name for name in model.model_fields}
    for name, words in WORDS.items():
        if name in model.model_fields:
            known |= {_folded(word): name for word in words if _folded(word) not in known}
    titles = {_folded(info.title): name for name, info in model.model_fields.items() if info.title}
    return titles | known


def _fields(headings: list[str], model: type[Part], mapping: Mapping[str, str]) -> list[str]:
    known = field_words(model)
    unknown = {field for field in mapping.values() if field not in model.model_fields}
    if unknown:
        raise ValueError(f"There is no field {', '.join(sorted(unknown))}. Choose among {', '.join(model.model_fields)}.")
    given = {_folded(heading): field for heading, field in mapping.items()}
    found = [given.get(_folded(h)) or known.get(_folded(h), "") for h in headings]
    for field in found:
        if field and found.count(field) > 1:
            twice = [h for h, f in zip(headings, found, strict=True) if f == field]
            raise ValueError(f"The headings {' and '.join(twice)} both mean {field}. Remove or map one of them.")
    return found


COMMON = frozenset({"maker", "name", "price", "mass", "warranty", "size", "year", "date", "source", "id", "digest"})


def known_headings(headings: Sequence[str], kind: str) -> int:
    """How many headings name what only a datasheet of a kind has."""
    known = field_words(KINDS[kind].model)
    return len({known.get(_folded(heading), "") for heading in headings} - COMMON - {""})


def _folded(text: str) -> str:
    """A heading without its unit, signs and case."""
    text = re.sub(r"[\[(].*?[\])]", " ", text.casefold())
    words = re.sub(r"[^a-z0-9]+", " ", text).split()
    return " ".join(words[:-1] if len(words) > 1 and words[-1] in UNITS else words)


# Words of a heading that are units, and what turns a value in them into the unit of the field; those of power are W, those of length m.
UNITS = {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "w": 1.0, "kw": 1e3, "wp": 1.0, "va": 1.0, "kva": 1e3, "v": 1.0, "a": 1.0, "kg": 1.0}
LENGTHS = frozenset({"length", "width"})
POWERS = frozenset({"power", "ac_power", "maximum_dc_power", "apparent_power", "string_power"})


def _factor(heading: str, field: str) -> float:
    """What turns the numbers under a heading into the unit of the field, by the unit that the heading states."""
    stated = re.findall(r"[a-z]+", heading.casefold())
    unit = stated[-1] if stated else ""
    if (field in LENGTHS and unit in ("mm", "cm")) or (field in POWERS and unit in ("kw", "kva")):
        return UNITS[unit]
    return 1.0


def _part(number: int, cells: list[str], headings: list[str], fields: list[str], kind: str) -> tuple[Part | None, list[Fault]]:
    heading_of = {field: heading for heading, field in zip(headings, fields, strict=True) if field}
    values: dict[str, Any] = {}
    faults: list[Fault] = []
    for heading, field, cell in zip(headings, fields, cells, strict=False):
        if not field or cell == "":
            continue
        try:
            value = _value(cell, field, KINDS[kind].model)
            values[field] = (
                round(value * factor, 9)
                if (factor := _factor(heading, field)) != 1.0 and isinstance(value, int | float)
                else value
            )
        except ValueError as error:
            faults.append(Fault(number, heading, str(error)))
    if faults:
        return None, faults
    # A list that says nothing of the year is one of today's.
    values.setdefault("year", _year_in(str(values.get("date", ""))) or date.today().year)
    part, wrong = checked_part(values, kind)
    return part, [Fault(number, heading_of.get(field, field), reason) for field, reason in wrong]


def _year_in(text: str) -> int | None:
    found = re.search(r"\b(19[89]\d|20[0-5]\d)\b", text)
    return int(found[1]) if found else None


def _words(found: Any) -> str:
    message = str(found["msg"]).removeprefix("Value error, ")
    if found["type"] == "missing":
        return "The value is missing."
    given = found.get("input")
    shown = f" It is {given!r}." if isinstance(given, (int, float, str)) else ""
    return message.rstrip(".") + "." + shown


def _value(cell: str, field: str, model: type[Part]) -> Any:
    """A cell as the field takes it."""
    annotation = str(model.model_fields[field].annotation)
    is_nested = "tuple[" in annotation or "Derating" in annotation
    most = MOST_JSON if is_nested else MOST_CELL
    if len(cell) > most:
        raise ValueError(f"The cell has {len(cell):,} characters; at most {most:,} are read.")
    if cell.startswith("="):
        raise ValueError("The cell holds a formula; a value was expected.")
    if is_nested:
        try:
            return json.loads(cell)
        except (ValueError, RecursionError):
            raise ValueError(f"A table in JSON was expected, such as [[0, 1], [60, 0.97]]; it is '{cell[:40]}'.") from None
    if "str" in annotation or re.search(r"Literal\['", annotation):
        return cell.removeprefix("'") if cell[1:2] and cell[1:].startswith(FORMULA) else cell
    if "bool" in annotation:
        word = cell.casefold()
        if word in ("yes", "true", "1", "y"):
            return True
        if word in ("no", "false", "0", "n"):
            return False
        raise ValueError(f"yes or no was expected; it is '{cell[:40]}'.")
    text = cell.replace("\u2212", "-").replace("\u00a0", "").replace(" ", "")
    if re.fullmatch(r"[+-]?\d+,\d+", text):
        text = text.replace(",", ".")
    try:
        number = float(text)
    except ValueError:
        raise ValueError(f"A number was expected; it is '{cell[:40]}'.") from None
    if not math.isfinite(number) or abs(number) > 1e9:
        raise ValueError(f"A number of some size was expected; it is {cell[:40]}.")
    return int(number) if number == int(number) else number


def _text(content: bytes) -> Iterator[list[str]]:
    if b"\0" in content[:4096]:
        raise ValueError("This is no table of text, nor XLSX. Save the list as CSV.")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            text = content.decode(encoding)
            break
        except UnicodeDecodeError:
            continue
    else:
        raise ValueError("The text is in no known encoding. Save it as UTF-8.")
    yield from rows_of(text)


def _workbook(content: bytes) -> Iterator[list[str]]:
    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            size = sum(info.file_size for info in archive.infolist())
        if size > MOST_UNPACKED:
            raise ValueError(f"The workbook unpacks to {size / 1e6:,.0f} MB; at most {MOST_UNPACKED / 1e6:,.0f} MB are read.")
        # Formulas are seen as such, and refused: a value that was computed elsewhere cannot be checked here.
        sheet = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=False).worksheets[0]
        for row in rows_of_sheet(sheet):
            yield ["" if value is None else str(value).strip() for value in row]
    except ValueError:
        raise
    except Exception as error:  # the package raises whatever its XML parser meets
        raise ValueError(f"The workbook cannot be opened: {type(error).__name__}. Save it as CSV.") from error


def _from_json(content: bytes, kind: str) -> ReadParts:
    """A list of datasheets, or a catalogue with them by kind and id, after the published JSON Schema."""
    try:
        document = json.loads(content)
    except (ValueError, RecursionError) as error:
        raise ValueError(f"The file looks like JSON and cannot be read: {error}.") from None
    given = document.get(kind, {}) if isinstance(document, dict) else document
    entries = list(given.values()) if isinstance(given, dict) else given
    if not isinstance(entries, list) or not entries:
        raise ValueError(f'The file holds no {kind}. It is {{"{kind}": {{"an-id": {{...}}}}}}, or a list of datasheets.')
    if len(entries) > MOST_ROWS:
        raise ValueError(f"The file has {len(entries):,} parts; at most {MOST_ROWS:,} are read. Divide it.")
    parts: dict[str, Part] = {}
    faults: list[Fault] = []
    doubts: list[Fault] = []
    for number, entry in enumerate(entries, 1):
        if not isinstance(entry, dict):
            faults.append(Fault(number, "", "A datasheet is a JSON object."))
            continue
        values = dict(entry)
        values.pop("digest", None)
        part, wrong = checked_part(values, kind)
        if part is not None and part.id in parts:
            wrong = [("id", f"'{part.id}' stands earlier too. Give one of them another id.")]
            part = None
        faults += [Fault(number, field, reason) for field, reason in wrong]
        if part is not None:
            parts[part.id] = part
            if slip := likely_slip(part.model_dump(), kind):
                doubts.append(Fault(number, "", slip))
    return ReadParts(parts, tuple(faults), tuple(doubts), {}, ())


def checked_part(values: dict[str, Any], kind: str) -> tuple[Part | None, list[tuple[str, str]]]:
    """The datasheet of some values, its id made from maker and name where it has none; or field and reason of what is wrong."""
    if not values.get("id"):
        name = f"{values.get('maker', '')} {values.get('name', '')}".casefold()
        values = values | {"id": re.sub(r"[^a-z0-9]+", "-", name).strip("-")[:64]}
    try:
        return KINDS[kind].model.model_validate(values), []
    except ValidationError as error:
        slip = likely_slip(values, kind)
        faults = [(str(found["loc"][0]) if found["loc"] else "", f"{_words(found)} {slip}".strip()) for found in error.errors()]
        return None, faults
