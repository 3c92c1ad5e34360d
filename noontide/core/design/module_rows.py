"""Where modules lie: those of a row by a rule, others one by one."""

import re
from collections.abc import Container, Mapping
from itertools import count
from typing import Any, NamedTuple

import numpy as np
from pydantic import Field

from noontide.core.fields import Document, choice

MOST_MODULES = 40_000  # that a surface keeps
PLACE = 4  # digits of a place in metres
LEAST_ROW = 2  # modules, from which they are kept as a row
EVEN = (
    2.01 * 10**-PLACE
)  # that a module of a row may lie beside its place: the ends of a row are rounded, and so is each place [m]
_NUMBERED = re.compile(r"m[1-9][0-9]{0,6}")  # what may begin a row
_IN_A_ROW = re.compile(r"m[1-9][0-9]{0,8}")  # what a row may come to


class Place(NamedTuple):
    """Of a module: its lower left corner in the face's own coordinates [m], and which way it lies."""

    u: float
    v: float
    is_landscape: bool = False


class ModuleRow(Document):
    """Modules side by side at even steps; they are called m and a number, which goes on from the first to the right."""

    first: int = Field(ge=1, le=10_000_000, title="Number of the first module")
    count: int = Field(ge=1, le=MOST_MODULES, title="Modules in the row")
    u: float = Field(ge=-5000, le=5000, title="Along the face")
    v: float = Field(ge=-5000, le=5000, title="Up the slope")
    step: float = Field(ge=0, le=100, title="From one module to the next")
    is_landscape: bool = choice(False, "Landscape", "Portrait.")
    missing: tuple[int, ...] = Field((), title="Numbers of modules that were taken out", max_length=MOST_MODULES)

    @property
    def size(self) -> int:
        """Modules that are there."""
        return self.count - sum(0 <= number - self.first < self.count for number in set(self.missing))

    @property
    def places(self) -> dict[str, Place]:
        """Of its modules, by their ids."""
        steps = np.arange(self.count)
        if self.missing:
            steps = steps[~np.isin(steps + self.first, self.missing)]
        v, lies = self.v, self.is_landscape
        along = np.round(self.u + steps * self.step, PLACE).tolist()
        return {f"m{number}": Place(u, v, lies) for number, u in zip((steps + self.first).tolist(), along, strict=True)}

    def place_of(self, key: str) -> Place | None:
        """Of one of its modules; None for any other."""
        number = int(key[1:]) if _IN_A_ROW.fullmatch(key) else 0
        if not self.first <= number < self.first + self.count or number in self.missing:
            return None
        return Place(float(np.round(self.u + (number - self.first) * self.step, PLACE)), self.v, self.is_landscape)

    def without(self, gone: Container[str]) -> dict[str, Any] | None:
        """A patch of the row that takes modules out: shorter where they were at an end, and nothing where none stays."""
        kept = [int(key[1:]) for key in self.places if key not in gone]
        if not kept:
            return None
        first, last = min(kept), max(kept)
        missing = sorted(set(range(first, last + 1)).difference(kept))
        begins = {"first": first, "u": round(self.u + (first - self.first) * self.step, PLACE)} if first != self.first else {}
        return {**begins, "count": last - first + 1, "missing": missing or None}


class PlacedModule(Document):
    """A module by its lower left corner in the face's own coordinates, u along its level lines and v up its slope."""

    u: float = Field(ge=-5000, le=5000, title="Along the face")
    v: float = Field(ge=-5000, le=5000, title="Up the slope")
    is_landscape: bool = choice(False, "Landscape", "Portrait.")


def in_rows(placed: Mapping[str, Place], taken: Container[str] = ()) -> tuple[dict[str, ModuleRow], dict[str, PlacedModule]]:
    """Modules as rows of consecutive numbers at even steps, and the others one by one.

    Parameters
    ----------
    placed : dict
        Places by id; what is m and a number can be in a row.
    taken : container of str
        Ids of rows that there are already.
    """
    rows: dict[str, ModuleRow] = {}
    hand: dict[str, PlacedModule] = {}
    names = (name for k in count(1) if (name := f"r{k}") not in taken)
    run: list[tuple[str, Place]] = []
    first = 0

    def close() -> None:
        row = _row(first, [place for _, place in run])
        if row is not None:
            rows[next(names)] = row
        else:
            for key, one in run:
                hand[key] = PlacedModule(u=one.u, v=one.v, is_landscape=one.is_landscape)

    for key, place in placed.items():
        number = int(key[1:]) if _NUMBERED.fullmatch(key) else 0
        if not (run and 0 < number == first + len(run) and _goes_on(run[0][1], run[-1][1], len(run), place)):
            close()
            run, first = [], number
        run.append((key, place))
    close()
    return rows, hand


def _goes_on(start: Place, last: Place, many: int, place: Place) -> bool:
    """Whether a module lies where the next of a row would, of which the first, the last and the number are known."""
    if place.v != start.v or place.is_landscape != start.is_landscape:
        return False
    return (many == 1 and place.u > start.u) or (
        many > 1 and abs(start.u + (last.u - start.u) / (many - 1) * many - place.u) < 3 * EVEN
    )


def _row(first: int, places: list[Place]) -> ModuleRow | None:
    """A row of places one after another; None where they are too few, too far along, or not even."""
    if len(places) < LEAST_ROW or first < 1:
        return None
    start, step = places[0], round((places[-1].u - places[0].u) / (len(places) - 1), 8)
    if step > 100 or any(abs(start.u + k * step - place.u) > EVEN for k, place in enumerate(places)):
        return None
    return ModuleRow(first=first, count=len(places), u=start.u, v=start.v, step=step, is_landscape=start.is_landscape)
