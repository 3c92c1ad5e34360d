"""Appliances as rows of a spreadsheet: pasted in, and copied back."""

import csv
import io
import re
from typing import Any

from pydantic import ValidationError

from noontide.core.demand.sources import Appliance, Appliances
from noontide.core.fields import fault_in_words

MOST_ROWS = 400
# Columns in the order in which they are copied, with the words by which a heading is known.
COLUMNS: dict[str, tuple[str, ...]] = {
    "name": ("name", "appliance", "item", "load", "device", "description", "equipment"),
    "number": ("number", "qty", "quantity", "count", "pieces", "no", "units"),
    "places": ("places", "houses", "households", "rooms", "times"),
    "power": ("power", "rated power", "watts", "watt", "w", "rating", "wattage"),
    "hours": ("hours", "when", "time", "window", "from to", "schedule"),
    "hours_a_day": ("hours a day", "h/day", "hours per day", "hours/day", "h a day", "daily hours"),
    "duty": ("duty", "duty cycle", "use factor", "load factor"),
    "days": ("days", "weekdays"),
    "current": ("current", "ac/dc", "ac dc", "supply"),
    "efficiency": ("efficiency",),
    "surge": ("surge", "surge factor", "inrush"),
    "category": ("category", "group", "kind", "type"),
}
TITLES = {
    "name": "Name", "number": "Number", "places": "Places", "power": "Power [W]", "hours": "Hours", "hours_a_day": "Hours a day", "duty": "Duty",
    "days": "Days", "current": "AC/DC", "efficiency": "Efficiency", "surge": "Surge factor", "category": "Category",
}  # fmt: skip
BARE = ("name", "number", "power", "hours")  # of a table without headings
NUMBERS = frozenset({"number", "places", "power", "hours_a_day", "duty", "efficiency", "surge"})


def read_rows(text: str) -> list[dict[str, Any]]:
    """Appliances from pasted cells, as they are kept; headings in the first row say what a column is, else name, number, power and hours.

    Raises
    ------
    ValueError
        With the row and what is wrong with it.
    """
    rows = [row for row in _split(text) if any(cell.strip() for cell in row)]
    if not rows:
        raise ValueError("There are no rows. Copy a table with a row for each appliance: name, number, power in W, hours.")
    headings = [_column_of(cell) for cell in rows[0]]
    body, first = (rows[1:], 2) if sum(h is not None for h in headings) >= 2 else (rows, 1)
    if first == 1:
        headings = [*BARE, *[None] * len(rows[0])][: len(rows[0])]
    if "power" not in headings:
        raise ValueError("No column holds the power. Head one of them 'Power [W]'.")
    if not body:
        raise ValueError("There are headings and no rows below them.")
    if len(body) > MOST_ROWS:
        raise ValueError(f"A list has {MOST_ROWS} appliances at most; there are {len(body)} rows.")
    kilo = any("kw" in cell.lower() for cell in rows[0]) if first == 2 else False
    found = []
    for number, row in enumerate(body, start=first):
        item: dict[str, Any] = {}
        for heading, cell in zip(headings, row, strict=False):
            if heading is None or not (word := cell.strip()):
                continue
            item[heading] = _number(word, heading, number) if heading in NUMBERS else _word(word, heading)
        if "power" not in item:
            raise ValueError(f"Row {number}: the power is missing.")
        if kilo:
            item["power"] *= 1000
        for share in ("duty", "efficiency"):
            if item.get(share, 0) > 1:
                item[share] /= 100
        try:
            Appliance.model_validate(item)
        except ValidationError as error:
            one = error.errors()[0]
            place = TITLES.get(str(one["loc"][0]), "") if one["loc"] else ""
            raise ValueError(f"Row {number}{f', {place}' if place else ''}: {fault_in_words(one)}") from None
        found.append(item)
    return found


def rows_of(appliances: Appliances) -> list[list[Any]]:
    """The appliances as a table with headings, which `read_rows` reads again."""
    rows: list[list[Any]] = [[TITLES[key] for key in COLUMNS]]
    for item in appliances.items.values():
        rows.append([("" if (value := getattr(item, key)) is None else value) for key in COLUMNS])
    return rows


def _split(text: str) -> list[list[str]]:
    delimiter = "\t" if "\t" in text else ";" if text.count(";") >= text.count("\n") and ";" in text else ","
    return list(csv.reader(io.StringIO(text.strip("\n\r")), delimiter=delimiter))


def _column_of(cell: str) -> str | None:
    words = re.sub(r"\(.*?\)|\[.*?\]", " ", cell.lower()).strip(" :.")
    words = re.sub(r"\s+", " ", words)
    return next((key for key, names in COLUMNS.items() if words in names), None)


def _number(word: str, heading: str, row: int) -> float:
    plain = re.sub(r"\s*(%|w|kw|h|hrs?|hours)$", "", word.strip(), flags=re.IGNORECASE).replace("\u00a0", "").replace(" ", "")
    if "," in plain and "." not in plain:
        plain = plain.replace(",", "") if re.fullmatch(r"[1-9]\d{0,2}(,\d{3})+", plain) else plain.replace(",", ".")
    try:
        return float(plain.replace(",", ""))
    except ValueError:
        raise ValueError(f"Row {row}, {TITLES[heading]}: '{word[:20]}' is no number.") from None


def _word(word: str, heading: str) -> str:
    if heading == "current":
        return word.upper()
    if heading == "days":
        low = word.lower()
        return next((day for day in ("every day", "weekdays", "weekends") if low in (day, day.rstrip("s"))), low)
    return word
