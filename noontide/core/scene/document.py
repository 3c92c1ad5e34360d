"""The scene in the design document: what stands on and around the site, as exact numbers by id.

x points east and y north from the scene's origin, in metres; what stands on a building counts from the middle of its outline, x along
its front (from left to right for someone who looks at it) and y toward its back. Faces and edges are derived, never kept.
"""

import math
from typing import Annotated, Any, Literal, Self

import shapely
from pydantic import FailFast, Field, PrivateAttr, model_validator

from noontide.core.fields import Document, Id, Line, Monthly, choice, months, quantity

Share = Annotated[float, Field(ge=0, le=1)]
Metres = Annotated[float, Field(ge=-5000, le=5000)]
Corner = tuple[Metres, Metres]
Pitch = Annotated[float, Field(ge=0, le=90)]
Crown = Literal["ellipsoid", "sphere", "cone", "cylinder"]
LEAF_OUT, LEAF_FALL = 4, 11  # of deciduous trees in the north: first month with leaves, first without
SMALLEST_AREA = 0.01  # of an outline [m2]
MOST_CORNERS = 1200  # of all buildings together


class Standing(Document):
    """Something that stands somewhere."""

    name: Line = Field("", max_length=80, title="Name")
    x: float = quantity(0.0, "East of the origin", "m", -5000, 5000, "At the origin.", 0.1)
    y: float = quantity(0.0, "North of the origin", "m", -5000, 5000, "At the origin.", 0.1)
    on: Id | None = Field(None, title="Stands on building")
    base: float | None = quantity(None, "Height of its foot", "m", -500, 1000, "On what is under it.", 0.1)
    is_hidden: bool = choice(False, "Hidden in the drawing", "Drawn. What is hidden casts its shade all the same.")
    is_locked: bool = choice(False, "Locked", "Free to be moved.")
    group: Id | None = Field(None, title="Group")


class Turned(Standing):
    """Something with a front."""

    azimuth: float = quantity(180.0, "Azimuth of the front", "°", 0, 360, "South.", 5)


class Rectangular(Turned):
    length: float = quantity(1.0, "Length along the front", "m", 0.01, 2000, step=0.1)
    width: float = quantity(1.0, "Width", "m", 0.01, 2000, step=0.1)


class FlatRoof(Document):
    parapet: float = quantity(0.0, "Parapet", "m", 0, 5, "No parapet.", 0.1)
    thickness: float = quantity(0.25, "Thickness of the parapet", "m", 0.02, 2, "Masonry.", 0.05)


class ShedRoof(Document):
    pitch: float = quantity(10.0, "Pitch", "°", 0, 80, "A low shed roof, rising from the front.")


class GableRoof(Document):
    pitch: float = quantity(30.0, "Pitch", "°", 1, 85, "Usual of tiled roofs.")
    back_pitch: float | None = quantity(None, "Pitch of the back", "°", 1, 85, "The same as the front.")


class HipRoof(Document):
    pitch: float = quantity(30.0, "Pitch", "°", 1, 85, "Usual of tiled roofs.")
    end_pitch: float | None = quantity(None, "Pitch of the ends", "°", 1, 85, "The same as the sides.")


class HalfHipRoof(Document):
    pitch: float = quantity(35.0, "Pitch", "°", 1, 85, "Usual of tiled roofs.")
    gable: float = quantity(1.0, "Height of the gable under the hip", "m", 0.01, 50, step=0.1)
    end_pitch: float | None = quantity(None, "Pitch of the ends", "°", 1, 85, "The same as the sides.")


class BrokenRoof(Document):
    """A roof of two pitches, one over the other."""

    lower_pitch: float = quantity(65.0, "Lower pitch", "°", 1, 88, "A steep lower part.")
    upper_pitch: float = quantity(25.0, "Upper pitch", "°", 1, 85, "A gentle upper part.")
    break_height: float = quantity(2.0, "Break over the eave", "m", 0.05, 50, step=0.1)


class OwnPitches(Document):
    """Every edge of the outline with its own pitch; 90° makes a gable."""

    pitches: Annotated[tuple[Pitch, ...], FailFast()] = Field(title="Pitch by edge", min_length=3, max_length=60)


class Dormer(Document):
    """A dormer with a gable; it looks down the slope it stands on."""

    x: float = quantity(0.0, "Along the front of the building", "m", -2000, 2000, step=0.1)
    y: float = quantity(0.0, "Its front, toward the back of the building", "m", -2000, 2000, step=0.1)
    width: float = quantity(1.6, "Width", "m", 0.2, 30, "A window and its cheeks.", 0.1)
    height: float = quantity(1.4, "Height of its front wall", "m", 0.1, 10, "A window.", 0.1)
    pitch: float = quantity(30.0, "Pitch", "°", 0, 75, "Usual of tiled roofs.")


class Building(Rectangular):
    """A building: an outline, the height of its eave, and one roof; without one it is flat."""

    length: float = quantity(10.0, "Length along the front", "m", 0.5, 2000, step=0.5)
    width: float = quantity(8.0, "Width", "m", 0.5, 2000, step=0.5)
    outline: tuple[Corner, ...] | None = Field(None, title="Outline, in place of length and width", min_length=3, max_length=60)
    eave: float = quantity(3.0, "Height of the eave", "m", 0.05, 500, "One storey.", 0.1)
    is_neighbour: bool = choice(False, "Neighbour", "A building of the project's own.")
    flat: FlatRoof | None = Field(None, title="Flat roof")
    shed: ShedRoof | None = Field(None, title="Shed roof")
    gable: GableRoof | None = Field(None, title="Gable roof")
    hip: HipRoof | None = Field(None, title="Hip roof")
    half_hip: HalfHipRoof | None = Field(None, title="Half-hip roof")
    gambrel: BrokenRoof | None = Field(None, title="Gambrel roof")
    mansard: BrokenRoof | None = Field(None, title="Mansard roof")
    own_pitches: OwnPitches | None = Field(None, title="Pitch by edge")
    dormers: dict[Id, Dormer] = Field({}, title="Dormers", max_length=40)

    @model_validator(mode="after")
    def _one_roof(self) -> Self:
        given = [name for name in ROOFS if getattr(self, name) is not None]
        if len(given) > 1:
            raise ValueError(f"A building has one roof. Set all but one of {', '.join(given)} to null.")
        return self

    @model_validator(mode="after")
    def _outline_is_simple(self) -> Self:
        if self.outline is not None:
            check_outline(self.outline)
        edges = len(self.outline) if self.outline else 4
        if self.own_pitches is not None:
            pitches = self.own_pitches.pitches
            if len(pitches) != edges:
                raise ValueError(f"The outline has {edges} edges and there are {len(pitches)} pitches. Give one pitch each edge.")
            if all(pitch >= 89.9 for pitch in pitches):
                raise ValueError("Every edge is a gable. Give at least one edge a pitch below 90°.")
        return self

    @property
    def corners(self) -> tuple[Corner, ...]:
        """Of the outline in the building's own frame, counterclockwise, the front edge of a rectangle first."""
        if self.outline is None:
            half, deep = self.length / 2, self.width / 2
            return (-half, -deep), (half, -deep), (half, deep), (-half, deep)
        area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(self.outline, self.outline[1:] + self.outline[:1], strict=True))
        return self.outline if area > 0 else self.outline[::-1]


ROOFS = ("flat", "shed", "gable", "hip", "half_hip", "gambrel", "mansard", "own_pitches")


def check_outline(outline: tuple[Corner, ...]) -> None:
    """Refuse an outline that crosses itself, has no area, or has a corner twice.

    Raises
    ------
    ValueError
        The message names the place.
    """
    for number, (one, other) in enumerate(zip(outline, outline[1:] + outline[:1], strict=True), start=1):
        if math.dist(one, other) < 1e-6:
            raise ValueError(
                f"Corners {number} and {number % len(outline) + 1} of the outline are one point. Delete one of them."
            )
    polygon = shapely.Polygon(outline)
    if not polygon.is_valid:
        raise ValueError(
            f"The outline crosses or touches itself ({shapely.is_valid_reason(polygon)}). Draw it without a crossing."
        )
    if polygon.area < SMALLEST_AREA:
        raise ValueError(f"The outline has an area of {polygon.area:.4f} m². Draw one of {SMALLEST_AREA} m² or more.")


class Chimney(Rectangular):
    length: float = quantity(0.6, "Length", "m", 0.01, 50, "A chimney of one flue.", 0.1)
    width: float = quantity(0.6, "Width", "m", 0.01, 50, "A chimney of one flue.", 0.1)
    height: float = quantity(1.2, "Height over what it stands on", "m", 0.01, 300, "As far over the roof as a flue needs.", 0.1)


class Box(Rectangular):
    length: float = quantity(2.0, "Length", "m", 0.01, 2000, step=0.1)
    width: float = quantity(2.0, "Width", "m", 0.01, 2000, step=0.1)
    height: float = quantity(2.0, "Height", "m", 0.01, 500, step=0.1)


class Skylight(Rectangular):
    """Not to be covered; casts no shade."""

    length: float = quantity(0.8, "Width along the eave", "m", 0.05, 50, "A roof window.", 0.1)
    width: float = quantity(1.2, "Height along the slope", "m", 0.05, 50, "A roof window.", 0.1)


class Wall(Turned):
    """A wall, fence or railing along its front."""

    length: float = quantity(10.0, "Length", "m", 0.01, 5000, step=0.5)
    height: float = quantity(2.0, "Height", "m", 0.01, 200, step=0.1)
    thickness: float = quantity(0.2, "Thickness", "m", 0.001, 20, "Masonry.", 0.05)
    light: float = quantity(0.0, "Light that it lets through", "", 0, 0.99, "Opaque.", 0.1)


class Round(Standing):
    diameter: float = quantity(1.0, "Diameter", "m", 0.01, 500, step=0.1)
    height: float = quantity(1.0, "Height", "m", 0.01, 500, step=0.1)


class Pipe(Round):
    diameter: float = quantity(0.12, "Diameter", "m", 0.01, 20, "A vent pipe.", 0.01)
    height: float = quantity(0.5, "Height over what it stands on", "m", 0.01, 300, "A vent pipe.", 0.1)


class Silo(Round):
    """A silo or a tank: a cylinder, with a cone on it where it has one."""

    diameter: float = quantity(4.0, "Diameter", "m", 0.1, 500, "A feed silo.", 0.1)
    height: float = quantity(10.0, "Height", "m", 0.1, 500, "A feed silo.", 0.1)
    cone: float = quantity(0.0, "Height of the cone on it", "m", 0, 100, "A flat lid.", 0.1)


class Pole(Round):
    diameter: float = quantity(0.2, "Diameter", "m", 0.01, 20, "A flag pole.", 0.05)
    height: float = quantity(8.0, "Height", "m", 0.1, 500, "A flag pole.", 0.5)


class Carport(Rectangular):
    """A roof on posts, rising from its front."""

    length: float = quantity(6.0, "Length along the front", "m", 0.5, 500, "Two cars.", 0.5)
    width: float = quantity(5.5, "Width", "m", 0.5, 500, "The length of a car.", 0.5)
    height: float = quantity(2.4, "Clear height at the front", "m", 0.5, 50, "A van passes.", 0.1)
    pitch: float = quantity(5.0, "Pitch", "°", 0, 60, "Drains.")
    thickness: float = quantity(0.15, "Thickness of the roof", "m", 0.01, 5, "Sheet on purlins.", 0.05)


class Ground(Rectangular):
    """Ground that can carry an array, level or falling toward its front."""

    length: float = quantity(20.0, "Length along the front", "m", 0.5, 5000, step=1)
    width: float = quantity(10.0, "Width", "m", 0.5, 5000, step=1)
    outline: tuple[Corner, ...] | None = Field(None, title="Outline, in place of length and width", min_length=3, max_length=200)
    slope: float = quantity(0.0, "Slope toward the front", "°", 0, 45, "Level.")

    @model_validator(mode="after")
    def _outline_is_simple(self) -> Self:
        if self.outline is not None:
            check_outline(self.outline)
        return self


class Tree(Standing):
    height: float = quantity(8.0, "Height", "m", 0.2, 120, "A grown garden tree.", 0.5)
    crown: Crown = choice("ellipsoid", "Crown", "Most broadleaved trees.")
    diameter: float = quantity(5.0, "Diameter of the crown", "m", 0.1, 60, "A grown garden tree.", 0.5)
    trunk: float = quantity(2.0, "Height of the trunk under the crown", "m", 0, 60, "As high as a person reaches.", 0.5)
    trunk_diameter: float = quantity(0.3, "Diameter of the trunk", "m", 0.01, 10, "A grown garden tree.", 0.1)
    is_evergreen: bool = choice(False, "Evergreen", "Bare in winter.")
    light_in_leaf: float = quantity(0.2, "Light through the crown in leaf", "", 0, 1, "Broadleaved trees in summer.", 0.05)
    light_bare: float = quantity(0.65, "Light through the bare crown", "", 0, 1, "Broadleaved trees in winter.", 0.05)
    leaf_out: int = quantity(LEAF_OUT, "First month in leaf", "", 1, 12, "April; October in the south.")
    leaf_fall: int = quantity(LEAF_FALL, "First month without leaves", "", 1, 12, "November; May in the south.")
    light_by_month: Monthly[Share] | None = months("Light through the crown by month", "", 0.05)
    growth: float = quantity(0.0, "Growth a year", "m", 0, 5, "Grown.", 0.1)

    def light(self, is_southern: bool = False) -> tuple[float, ...]:
        """Share of the light that the crown lets through by month, (12,); in the south months that were not set are half a year later."""
        if self.light_by_month is not None:
            return self.light_by_month
        if self.is_evergreen:
            return (self.light_in_leaf,) * 12
        out, fall = (
            getattr(self, name) + (6 if is_southern and name not in self.model_fields_set else 0)
            for name in ("leaf_out", "leaf_fall")
        )
        length = (fall - out) % 12
        return tuple(self.light_in_leaf if (m + 1 - out) % 12 < length else self.light_bare for m in range(12))


class Mesh(Standing):
    """A body from a file: points and the faces between them."""

    points: Annotated[tuple[tuple[Metres, Metres, Metres], ...], FailFast()] = Field(
        title="Points", min_length=3, max_length=20_000
    )
    faces: Annotated[
        tuple[Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(min_length=3, max_length=100)], ...], FailFast()
    ] = Field(title="Faces, by the numbers of their points", min_length=1, max_length=20_000)
    source: Line = Field("", max_length=200, title="Source")

    @model_validator(mode="after")
    def _points_exist(self) -> Self:
        for number, face in enumerate(self.faces, start=1):
            if max(face) >= len(self.points):
                raise ValueError(f"Face {number} has point {max(face)}; there are {len(self.points)}, counted from 0.")
        return self


class Scene(Document):
    """What stands on and around the site."""

    buildings: dict[Id, Building] = Field({}, title="Buildings", max_length=200)
    chimneys: dict[Id, Chimney] = Field({}, title="Chimneys", max_length=200)
    pipes: dict[Id, Pipe] = Field({}, title="Pipes", max_length=300)
    skylights: dict[Id, Skylight] = Field({}, title="Skylights", max_length=300)
    boxes: dict[Id, Box] = Field({}, title="Boxes", max_length=300)
    silos: dict[Id, Silo] = Field({}, title="Silos and tanks", max_length=100)
    walls: dict[Id, Wall] = Field({}, title="Walls, fences and railings", max_length=300)
    poles: dict[Id, Pole] = Field({}, title="Poles and masts", max_length=300)
    carports: dict[Id, Carport] = Field({}, title="Carports", max_length=100)
    grounds: dict[Id, Ground] = Field({}, title="Ground for arrays", max_length=100)
    trees: dict[Id, Tree] = Field({}, title="Trees", max_length=300)
    meshes: dict[Id, Mesh] = Field({}, title="Bodies from files", max_length=50)
    _built: dict[bool, Any] = PrivateAttr(default_factory=dict)  # faces and bodies, once they have been asked for
    years_ahead: float = quantity(0.0, "Years of growth", "years", 0, 60, "Trees as they are today.")

    @model_validator(mode="after")
    def _ids_differ(self) -> Self:
        seen: dict[str, str] = {}
        for kind in KINDS:
            for key in getattr(self, kind):
                if key in seen:
                    raise ValueError(f"'{key}' is in {seen[key]} and in {kind}. Give one of the two another id.")
                seen[key] = kind
        return self

    @model_validator(mode="after")
    def _corners_are_bounded(self) -> Self:
        count = sum(len(building.corners) for building in self.buildings.values())
        if count > MOST_CORNERS:
            raise ValueError(
                f"The buildings have {count} corners together; {MOST_CORNERS} are the most. Simplify the outlines of the neighbours."
            )
        return self

    @model_validator(mode="after")
    def _ground_exists(self) -> Self:
        for kind in KINDS:
            for key, thing in getattr(self, kind).items():
                if thing.on is not None and (thing.on not in self.buildings or kind == "buildings"):
                    what = "buildings stand on the ground" if kind == "buildings" else "there is no such building"
                    raise ValueError(f"'{key}' of {kind} stands on '{thing.on}'; {what}. Set 'on' to a building, or to null.")
        return self

    @property
    def ids(self) -> set[str]:
        """Of everything that stands in it."""
        return {key for kind in KINDS for key in getattr(self, kind)}

    @property
    def is_empty(self) -> bool:
        return not any(getattr(self, kind) for kind in KINDS)


KINDS = (
    "buildings", "chimneys", "pipes", "skylights", "boxes", "silos", "walls", "poles", "carports", "grounds", "trees", "meshes",
)  # fmt: skip
