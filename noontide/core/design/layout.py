"""Where modules lie on a surface of the scene."""

from collections.abc import Iterable, Mapping
from itertools import pairwise
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from noontide.core.design.module_rows import MOST_MODULES, ModuleRow, Place, PlacedModule, in_rows
from noontide.core.fields import Document, Id, Line, ModuleId, choice, part, quantity
from noontide.core.layout.setbacks import SETS, SetbackKind

FaceId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}/[a-z0-9-]{1,40}$")]


LEVEL = 8.0  # tilt of a face up to which it can carry racks [°]

MOST_ROWS = 4000


class OwnSetbacks(Document):
    """A rule set of one's own, in place of those that ship; what it leaves out is as in the plain one."""

    title: Line = Field("Own setbacks", min_length=1, max_length=80, title="Name")
    source: Line = Field("", max_length=200, title="Source")
    distances: dict[SetbackKind, Annotated[float, Field(ge=0, le=20)]] = Field({}, title="Distance by kind of edge or obstacle")


class KeepOut(Document):
    """A part of a face to be kept free, such as a walkway; a rectangle in the face's own coordinates."""

    name: Line = Field("", max_length=80, title="Name")
    u: float = quantity(0.0, "Along the face", "m", -5000, 5000, step=0.1)
    v: float = quantity(0.0, "Up the slope", "m", -5000, 5000, step=0.1)
    length: float = quantity(1.0, "Length", "m", 0.05, 5000, step=0.1)
    width: float = quantity(1.0, "Width", "m", 0.05, 5000, step=0.1)


class Racks(Document):
    """Rows of modules on a level face, tilted by racks."""

    tilt: float = quantity(10.0, "Tilt of the racks, from the horizontal", "°", 1, 60, "Low racks, little wind.")
    azimuth: float | None = quantity(None, "Direction of the racks", "°", 0, 360, "As the front of the building.", 5)
    pitch: float | None = quantity(None, "Row pitch", "m", 0.2, 50, "No row shades another when the sun is 15° up.", 0.1)
    ground_cover: float | None = quantity(None, "Ground cover ratio: modules over pitch", "%", 5, 98, "By the row pitch.", 1)
    clear_hour: float | None = quantity(
        None, "Hour of the shortest day, in solar time, without shade of rows", "h", 4, 20, "By the row pitch.", 0.5
    )
    is_paired: bool = choice(
        False, "Back to back, in pairs with the surface on the face that faces the other way", "All rows face one way."
    )
    height: float = quantity(0.1, "Lower edge over the face", "m", 0, 10, "Low racks on ballast.", 0.05)


class Roads(Document):
    """Ways through a field, as wide as a vehicle needs, that part it into blocks."""

    width: float = quantity(4.0, "Width of a road", "m", 0.5, 50, "A small lorry, with room beside it.", 0.5)
    every: float | None = quantity(None, "Depth of the blocks between roads along the rows", "m", 3, 5000, "No road.", 5)
    across_every: float | None = quantity(None, "Length of the blocks between roads across the rows", "m", 3, 5000, "No road.", 5)


class Layout(Document):
    """How a surface is filled, and every module that lies on it, kept as rows."""

    module: str | None = part("modules", "Module that is laid; that of the strings where there are any", None)
    orientation: Literal["portrait", "landscape", "best"] = choice("best", "Orientation", "The one of which more fit.")
    gap: float = quantity(0.02, "Gap between modules", "m", 0, 5, "Room for the clamps.", 0.01)
    is_staggered: bool = choice(False, "Every second row moved by half a module", "Modules one over another.")
    rule_set: Literal["plain", "fire-lanes", "wind-zones"] = choice("plain", "Setbacks", "Room to fix an edge, no more.")
    own_set: OwnSetbacks | None = Field(None, title="Rule set of one's own")
    setbacks: dict[SetbackKind, Annotated[float, Field(ge=0, le=20)]] = Field(
        {}, title="Own setbacks by kind of edge or obstacle"
    )
    edges: dict[str, Annotated[float, Field(ge=0, le=20)]] = Field({}, title="Own setbacks by number of the edge", max_length=60)
    keep_outs: dict[Id, KeepOut] = Field({}, title="Parts to be kept free", max_length=100)
    most: int | None = quantity(None, "At most", "modules", 0, MOST_MODULES, "As many as fit.")
    exit_u: float | None = quantity(
        None, "Where cables leave, along the face", "m", -5000, 5000, "At the lower left corner.", 0.5
    )
    exit_v: float | None = quantity(None, "Where cables leave, up the slope", "m", -5000, 5000, "At the lower left corner.", 0.5)
    racks: Racks | None = Field(None, title="Racks")
    roads: Roads | None = Field(None, title="Roads")
    module_rows: dict[Id, ModuleRow] = Field({}, title="Rows of modules", max_length=MOST_ROWS)
    modules: dict[ModuleId, PlacedModule] = Field(
        {}, title="Modules that were laid or moved by hand; they go before those of rows", max_length=MOST_MODULES
    )

    @property
    def placed(self) -> dict[str, Place]:
        """Every module of the layout by its id: those of rows, and those that were laid or moved by hand."""
        found: dict[str, Place] = {}
        for row in self.module_rows.values():
            found |= row.places
        for key, one in self.modules.items():
            found[key] = Place(one.u, one.v, one.is_landscape)
        return found

    @property
    def size(self) -> int:
        """How many modules it has, without looking where each of them lies."""
        rows = sorted(self.module_rows.values(), key=lambda row: row.first)
        if any(one.first + one.count > other.first for one, other in pairwise(rows)):
            return len(self.placed)  # numbers that two rows have count once
        return sum(row.size for row in rows) + sum(all(row.place_of(key) is None for row in rows) for key in self.modules)

    def place_of(self, key: str) -> Place | None:
        """Of a module; None where it has none of that id."""
        if (one := self.modules.get(key)) is not None:
            return Place(one.u, one.v, one.is_landscape)
        # Of rows whose numbers overlap the last one counts, as in `placed`.
        found = (place for row in reversed(self.module_rows.values()) if (place := row.place_of(key)) is not None)
        return next(found, None)

    def holding(self, placed: Mapping[str, Place]) -> Self:
        """The same layout with other modules."""
        rows, hand = in_rows(placed)
        return self.model_copy(update={"module_rows": rows, "modules": hand})

    def without(self, ids: Iterable[str]) -> dict[str, Any]:
        """A patch of the layout that takes modules out; a row of which none stays goes with them."""
        gone = set(ids)
        rows = {
            name: row.without(gone)
            for name, row in self.module_rows.items()
            if any(row.place_of(key) is not None for key in gone)
        }
        hand = {key: None for key in self.modules if key in gone}
        return ({"module_rows": rows} if rows else {}) | ({"modules": hand} if hand else {})

    @model_validator(mode="after")
    def _not_too_many(self) -> Self:
        if (laid := sum(row.count for row in self.module_rows.values())) > MOST_MODULES:
            raise ValueError(f"The rows hold {laid:,} modules; a surface keeps {MOST_MODULES:,} or less.")
        return self

    @property
    def distances(self) -> dict[str, float]:
        """Setback by kind of edge or obstacle [m]."""
        own: dict[str, float] = dict(self.setbacks.items())
        if self.own_set is not None:
            return SETS["plain"].distances | dict(self.own_set.distances.items()) | own
        return SETS[self.rule_set].distances | own
