"""Surfaces with modules: orientation, rows, and how they move."""

from typing import Any, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from noontide.core.design.layout import LEVEL, FaceId, Layout, Racks
from noontide.core.design.site import ShadeTable
from noontide.core.fields import Document, Id, Line, choice, quantity
from noontide.core.irradiance.tracking import angle_about
from noontide.core.scene import Face
from noontide.core.shading.rows import RowGeometry

Mounting = Literal["open rack", "roof, ventilated", "roof, flush", "integrated"]
Floats = NDArray[np.float64]
TURNING_COVER = 0.4  # width of a row that turns over its pitch: it backtracks in the morning and in the evening
DAYS_OF_MONTH = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)


class Rows(Document):
    """Parallel rows one behind another."""

    pitch: float = quantity(..., "Row pitch", "m", 0.2, 50, step=0.1)
    width: float = quantity(2.0, "Width of a row", "m", 0.2, 20, "One large module in portrait.", 0.1)
    count: int = quantity(6, "Rows", "", 1, 1000, "Most rows then stand behind another.")
    cell_groups: int = quantity(
        1, "Cell groups along the slope", "", 1, 12, "Portrait modules: shading the lowest cell row limits the whole string."
    )


class Tracking(Document):
    """A plane that turns about one axis after the sun."""

    axis_azimuth: float = quantity(180.0, "Axis azimuth", "°", 0, 360, "A north-south axis.", 5)
    axis_tilt: float = quantity(0.0, "Axis tilt", "°", 0, 60, "A level axis.")
    maximum: float = quantity(55.0, "Maximum rotation", "°", 1, 90, "Usual of level single-axis trackers.", 5)
    backtracking: bool = choice(True, "Backtracking", "Rows turn back from a low sun so that none shades another.")
    slope: float = quantity(0.0, "Ground slope across the axes", "°", -30, 30, "Level ground.")
    stow_wind: float | None = quantity(None, "Stow wind", "m/s", 3, 60, "The tracker is not stowed in wind.")
    stow_angle: float = quantity(0.0, "Stow angle", "°", -90, 90, "Level.", 5)


def axis_on(normal: Floats, axis_azimuth: float) -> tuple[float, float]:
    """Tilt of an axis that lies on sloping ground, down towards its azimuth, and the slope of the ground across it [°].

    Parameters
    ----------
    normal : (3,)
        Of the ground: east, north, up.

    Notes
    -----
    The slope across is the rotation at which a row lies along the ground.
    """
    east, north, up = normal
    turn = np.radians(axis_azimuth)
    axis_tilt = float(np.degrees(np.arctan((east * np.sin(turn) + north * np.cos(turn)) / up)))
    return axis_tilt, float(angle_about(east, north, up, axis_tilt, axis_azimuth))


class TwoAxisTracking(Document):
    """A plane that faces the sun."""

    maximum_tilt: float = quantity(80.0, "Maximum tilt", "°", 1, 90, "Usual of two-axis trackers.", 5)
    stow_wind: float | None = quantity(None, "Stow wind", "m/s", 3, 60, "The tracker is not stowed in wind.")


class TiltChange(Document):
    """A tilt that is set by hand on a day of the year."""

    month: int = quantity(..., "Month", "", 1, 12)
    day: int = quantity(1, "Day", "", 1, 31, "The first of the month.")
    tilt: float = quantity(..., "Tilt", "°", 0, 90)


class SeasonalTilt(Document):
    """Tilts that are set by hand; each holds until the next change."""

    changes: dict[Id, TiltChange] = Field(title="Changes of tilt", min_length=1, max_length=12)

    @model_validator(mode="after")
    def _dates_differ(self) -> Self:
        dates = [(change.month, change.day) for change in self.changes.values()]
        for month, day in dates:
            if day > DAYS_OF_MONTH[month - 1]:
                raise ValueError(f"Month {month} has {DAYS_OF_MONTH[month - 1]} days; the tilt changes on day {day}.")
            if dates.count((month, day)) > 1:
                raise ValueError(f"The tilt changes twice on day {day} of month {month}. Delete one of the changes.")
        return self


class Surface(Document):
    name: Line = Field("", max_length=80, title="Name")
    tilt: float = quantity(30.0, "Tilt", "°", 0, 90, "Close to the optimum at mid-latitudes.")
    azimuth: float = quantity(180.0, "Azimuth", "°", 0, 360, "Due south.", 5)
    mounting: Mounting = choice("roof, ventilated", "Mounting", "Rails on a roof, with air flow behind the modules.")
    area: float | None = quantity(None, "Area", "m²", 0.5, 1e6, "Not limited.", 1)
    rows: Rows | None = Field(None, title="Rows")
    tracking: Tracking | None = Field(None, title="Single-axis tracking")
    two_axis_tracking: TwoAxisTracking | None = Field(None, title="Two-axis tracking")
    seasonal_tilt: SeasonalTilt | None = Field(None, title="Seasonal tilt")
    albedo: float | None = quantity(None, "Albedo in front", "", 0, 1, "Albedo of the site.", 0.05)
    shade_table: ShadeTable | None = Field(None, title="Solar access by month and hour that was measured on the surface")
    face: FaceId | None = Field(None, title="Face of the scene")
    layout: Layout | None = Field(None, title="Modules on the plan")

    @model_validator(mode="after")
    def _lies_on_its_face(self) -> Self:
        if self.face is None:
            if self.layout is not None:
                raise ValueError("A layout needs a face of the scene. Set face, or set layout to null.")
            return self
        given = [k for k in ("tilt", "azimuth", "area") if k in self.model_fields_set and getattr(self, k) is not None]
        if given:
            raise ValueError(
                f"{' and '.join(given)} of a surface on a face of the scene {'follows' if len(given) == 1 else 'follow'} the face. "
                "Leave out what follows, or set face to null."
            )
        moving = [k for k in ("two_axis_tracking", "seasonal_tilt", "rows") if getattr(self, k) is not None]
        if moving:
            raise ValueError(
                f"A surface on a face of the scene is fixed or turns about one axis, and its rows are racks of its layout. Set {moving[0]} to null."
            )
        if self.tracking is not None:
            self._turns_on_its_face(self.tracking)
        return self

    def _turns_on_its_face(self, tracking: Tracking) -> None:
        follows = {"axis_tilt", "slope"} & tracking.model_fields_set
        if any(getattr(tracking, name) != 0 for name in follows):
            raise ValueError("Trackers on a face of the scene follow its ground. Leave out axis_tilt and slope.")
        if self.layout is not None and self.layout.racks is not None and self.layout.racks.is_paired:
            raise ValueError("Racks back to back do not turn. Set is_paired or tracking to null.")

    @model_validator(mode="after")
    def _moves_one_way(self) -> Self:
        if sum(kind is not None for kind in (self.tracking, self.two_axis_tracking, self.seasonal_tilt)) > 1:
            raise ValueError(
                "A surface moves in one way. Set the others of tracking, two_axis_tracking and seasonal_tilt to null."
            )
        return self

    @model_validator(mode="after")
    def _rows_fit(self) -> Self:
        if self.rows is None:
            return self
        if self.two_axis_tracking is not None:
            raise ValueError("Rows of two-axis trackers are not modelled. Remove the rows, or track about one axis.")
        changes = self.seasonal_tilt.changes.values() if self.seasonal_tilt else ()
        for tilt in [0.0] if self.tracking else [change.tilt for change in changes] or [self.tilt]:
            RowGeometry(tilt, self.azimuth, self.rows.width, self.rows.pitch, self.rows.count)
        return self

    @property
    def lies(self) -> Layout | None:
        """The layout with its racks as they stand, those that turn at rest: level, along their axis, and far enough apart to turn."""
        layout, tracking = self.layout, self.tracking
        if layout is None or tracking is None:
            return layout
        racks = layout.racks or Racks()
        apart = {} if racks.pitch is not None or racks.ground_cover is not None else {"ground_cover": 100 * TURNING_COVER}
        at_rest = {"tilt": 0.0, "azimuth": (tracking.axis_azimuth - 90) % 360, "is_paired": False, "clear_hour": None}
        return layout.model_copy(update={"racks": racks.model_copy(update=at_rest | apart)})

    def follow(self, face: Face) -> None:
        """Take tilt, azimuth, area and, where there is none, the name of a face, and let axes lie along its ground. Not set by anybody, they are not kept either.

        Raises
        ------
        ValueError
            If trackers stand on a face that is too steep.
        """
        layout = self.lies
        racks = layout.racks if layout and face.tilt <= LEVEL else None
        derived: dict[str, Any] = {
            "tilt": racks.tilt if racks else round(face.tilt, 6),
            "azimuth": (face.azimuth if racks.azimuth is None else racks.azimuth) if racks else round(face.azimuth, 6),
            "area": max(round(face.area, 4), 0.5),
        }
        if self.tracking is not None:
            if face.tilt > LEVEL:
                raise ValueError(f"Trackers stand on ground of {LEVEL:g}° or less; {face.name} has {face.tilt:.1f}°.")
            axis = axis_on(face.normal, self.tracking.axis_azimuth)
            self.tracking.__dict__.update(axis_tilt=round(axis[0], 9), slope=round(axis[1], 9))
        if "name" not in self.model_fields_set:
            derived["name"] = face.name
        self.__dict__.update(derived)
