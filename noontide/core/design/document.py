"""The design: one alternative of a project, as a versioned JSON document.

Collections are objects by id rather than lists, so that a JSON Merge Patch can edit one value of one entry.
Percentages are numbers of percent, as in the interface. `Design.read` is the only way in.
"""

import itertools
from collections import Counter
from collections.abc import Iterable
from functools import cache
from typing import Annotated, Any, Literal, Self
from zoneinfo import available_timezones

from pydantic import FailFast, Field, PrivateAttr, field_validator, model_validator

from noontide.core.demand.sources import Demand
from noontide.core.design.circuits import AcceptedCheck, CheckKey, Connection, InverterSet, SubArray, Wiring
from noontide.core.design.layout import LEVEL, FaceId, Layout
from noontide.core.design.migrations import FORMAT, upgrade
from noontide.core.design.size import check_size
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.fields import Document, Id, Line, Monthly, choice, months, quantity
from noontide.core.money.terms import Money
from noontide.core.scene import BuiltScene, Face, ImpossibleScene, Scene, build_scene
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.rows import RowGeometry
from noontide.core.shading.surroundings import Obstacle
from noontide.core.storage.document import Storage
from noontide.core.weather.adjusting import FillMethod

Mounting = Literal["open rack", "roof, ventilated", "roof, flush", "integrated"]
Transposition = Literal["perez", "reindl", "hay-davies", "isotropic"]
Incidence = Literal["fresnel", "martin-ruiz", "ashrae", "datasheet", "none"]
Decomposition = Literal["erbs", "ridley"]
Thermal = Literal["faiman", "noct", "king"]
Laying = Literal["open air", "conduit", "buried"]
Conductor = Literal["copper", "aluminium"]
SMALL_ROOF = 6.0  # across, where no surface has an area [m]
DAYS_OF_MONTH = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
Share = Annotated[float, Field(ge=0, le=1)]
SnowCover = Annotated[float, Field(ge=0, le=100)]  # days of the month with snow on the ground [%]
SoilingShare = Annotated[float, Field(ge=0, le=50)]  # [%]


def is_time_zone(name: str) -> bool:
    """Whether a time zone of this name is known."""
    return name in _time_zones()


@cache
def _time_zones() -> frozenset[str]:
    return frozenset(available_timezones())


class HorizonPoint(Document):
    azimuth: float = quantity(..., "Azimuth", "°", 0, 360)
    elevation: float = quantity(..., "Elevation", "°", 0, 89)


class SkyObstacle(Document):
    """Something that hides a part of the sky: a rectangle by its width and height, or a measured outline."""

    name: Line = Field("", max_length=80, title="Name")
    azimuth: float | None = quantity(None, "Azimuth of its middle", "°", 0, 360, step=5)
    distance: float | None = quantity(None, "Distance", "m", 0.3, 50_000, "Far: the same from everywhere on the array.")
    width: float | None = quantity(None, "Width", "m", 0.02, 20_000, step=0.5)
    height: float | None = quantity(None, "Height over the array", "m", 0, 3000, step=0.5)
    outline: Annotated[tuple[HorizonPoint, ...], FailFast()] = Field((), title="Outline", max_length=360)
    light: float = quantity(0.0, "Light that it lets through", "", 0, 1, "Opaque.", 0.1)
    light_by_month: Monthly[Share] | None = months("Light that it lets through by month", "", 0.1)

    @model_validator(mode="after")
    def _has_a_shape(self) -> Self:
        if len(self.outline) == 1:
            raise ValueError("An outline needs two points or more.")
        if not self.outline and None in (self.azimuth, self.distance, self.width, self.height):
            raise ValueError("An obstacle needs azimuth, distance, width and height, or an outline.")
        return self

    @property
    def shape(self) -> Obstacle:
        return Obstacle(
            self.light_by_month or (self.light,) * 12,
            self.distance,
            self.azimuth or 0.0,
            self.width or 0.0,
            self.height or 0.0,
            tuple((p.azimuth, p.elevation) for p in self.outline),
        )


class ShadeByHand(Document):
    """Shade that is known otherwise than by what stands around."""

    is_measured: bool = choice(False, "Measured on site", "Estimated without a visit.")
    statement: Line = Field("", max_length=300, title="Statement")


class ShadeFactor(ShadeByHand):
    """One share of the light for the whole year, replacing horizon and obstacles."""

    factor: float = quantity(..., "Shade factor", "", 0, 1, step=0.05)


class ShadeTable(ShadeByHand):
    """Solar access by month and hour of the clock without daylight saving time, replacing horizon and obstacles."""

    access: Monthly[Annotated[tuple[Share, ...], Field(min_length=24, max_length=24)]] = Field(
        title="Solar access by month and hour"
    )
    points: int = quantity(1, "Points of the array that it is the mean of", "", 1, 1000, "Measured at one point.")
    source: Line = Field("", max_length=200, title="Source")


class RegionSite(Document):
    """Another site of the region, for the range of irradiation among them."""

    name: Line = Field("", max_length=120, title="Name")
    latitude: float = quantity(..., "Latitude", "°", -90, 90, step=0.01)
    longitude: float = quantity(..., "Longitude", "°", -180, 180, step=0.01)
    annual_ghi: float | None = quantity(None, "Irradiation", "kWh/m²", 0, 4000, "Not asked for yet.")


class PlanPicture(Document):
    """A plan, photograph or aerial picture on the map: two of its points, one's place, and the way from it to the other.

    The points are shares of the picture's width from the left and of its height from the top.
    """

    digest: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: Line = Field("", max_length=120, title="Name")
    width_to_height: float = quantity(..., "Width over height", "", 0.02, 50)
    first_x: Share = Field(title="First point, from the left")
    first_y: Share = Field(title="First point, from the top")
    second_x: Share = Field(title="Second point, from the left")
    second_y: Share = Field(title="Second point, from the top")
    latitude: float = quantity(..., "Latitude of the first point", "°", -90, 90, step=0.0001)
    longitude: float = quantity(..., "Longitude of the first point", "°", -180, 180, step=0.0001)
    distance: float = quantity(..., "Distance of the points", "m", 0.1, 100_000)
    azimuth: float = quantity(..., "Azimuth from the first point to the second", "°", 0, 360)

    @model_validator(mode="after")
    def _points_differ(self) -> Self:
        if abs(self.first_x - self.second_x) < 1e-4 and abs(self.first_y - self.second_y) < 1e-4:
            raise ValueError("The two points of a picture must lie apart.")
        return self


class Site(Document):
    name: Line = Field("", max_length=120, title="Name of the site")
    latitude: float = quantity(..., "Latitude", "°", -90, 90, step=0.01)
    longitude: float = quantity(..., "Longitude", "°", -180, 180, step=0.01)
    elevation: float = quantity(0.0, "Height", "m", -430, 6000, "Sea level until it is known.", 10)
    time_zone: str = Field("", max_length=60, title="Time zone")
    albedo: float = quantity(0.2, "Albedo", "", 0, 1, "Grass and mixed ground reflect about a fifth.", 0.05)
    albedo_by_month: Monthly[Share] | None = months("Albedo by month", "", 0.05)
    snow_by_month: Monthly[SnowCover] | None = months("Snow cover by month", "%", 10)
    snow_albedo: float = quantity(
        0.6, "Albedo of snow", "", 0.2, 0.95, "Snow of some days; fresh snow reflects 0.8 and more.", 0.05
    )
    horizon: Annotated[tuple[HorizonPoint, ...], FailFast()] = Field((), title="Horizon", max_length=720)
    obstacles: dict[Id, SkyObstacle] = Field({}, title="Obstacles", max_length=100)
    near_limit: float = quantity(
        10.0, "Near obstacles", "m", 0, 100, "Nearer ones look different from each end of a small array."
    )
    array_extent: float | None = quantity(None, "Array across", "m", 0, 2000, "The side of a square as large as the surfaces.")
    shade_factor: ShadeFactor | None = Field(None, title="Shade factor")
    shade_table: ShadeTable | None = Field(None, title="Solar access by month and hour")
    region: dict[Id, RegionSite] = Field({}, title="Sites of the region", max_length=200)
    plan: PlanPicture | None = Field(None, title="Picture on the map")
    lowest_temperature: float | None = quantity(
        None, "Lowest temperature", "°C", -90, 40, "Lowest temperature of the weather year; a record of many years is safer.", 1
    )
    highest_temperature: float | None = quantity(
        None, "Highest temperature", "°C", 0, 60, "Highest temperature of the weather year.", 1
    )

    _surfaces_across: float = PrivateAttr(default=SMALL_ROOF)

    @property
    def array_across(self) -> float:
        """Width of the array, over which a near obstacle looks different [m]: its own, or as its surfaces make it."""
        return self._surfaces_across if self.array_extent is None else self.array_extent

    def follow(self, areas: Iterable[float | None]) -> None:
        """Take the extent of the array from the areas of its surfaces [m2]; one of unknown area makes no difference."""
        total = sum(area for area in areas if area is not None)
        self._surfaces_across = total**0.5 if total > 0 else SMALL_ROOF

    @field_validator("time_zone")
    @classmethod
    def _zone_exists(cls, name: str) -> str:
        if name and not is_time_zone(name):
            raise ValueError(f"There is no time zone '{name}'. Choose one such as Europe/Rome, or leave it empty.")
        return name

    @model_validator(mode="after")
    def _horizon_rises(self) -> Self:
        azimuths = [point.azimuth for point in self.horizon]
        if any(b <= a for a, b in itertools.pairwise(azimuths)):
            raise ValueError("The azimuths of a horizon must rise from point to point.")
        return self

    @model_validator(mode="after")
    def _one_shade_by_hand(self) -> Self:
        if self.shade_factor is not None and self.shade_table is not None:
            raise ValueError("Shade is a factor or a table. Set the other of shade_factor and shade_table to null.")
        return self

    def albedo_before(self, own: float | None) -> float | tuple[float, ...]:
        """Of the ground in front of a surface, by month where it differs: its own or the site's, and snow for its share of the days."""
        bare = own if own is not None else self.albedo_by_month or self.albedo
        if self.snow_by_month is None:
            return bare
        by_month = bare if isinstance(bare, tuple) else (bare,) * 12
        covers = (percent / 100 for percent in self.snow_by_month)
        return tuple(b * (1 - cover) + self.snow_albedo * cover for b, cover in zip(by_month, covers, strict=True))

    @property
    def obstacle_shapes(self) -> tuple[Obstacle, ...]:
        return tuple(obstacle.shape for obstacle in self.obstacles.values())

    @property
    def horizon_line(self) -> Horizon:
        return Horizon(tuple(p.azimuth for p in self.horizon), tuple(p.elevation for p in self.horizon))


class Adjustment(Document):
    """A step between the weather year and the design, which can be switched off and keeps its values."""

    is_on: bool = choice(True, "In use", "An adjustment counts while it is in use.")


class GapFilling(Adjustment):
    method: FillMethod = choice("clearness", "Method", "Clear-sky index, linear between the hours around the gap.")
    includes_doubtful: bool = choice(
        False, "Doubtful values too", "Only what the reading of the file has filled is filled again."
    )


class HeightCorrection(Adjustment):
    lapse_rate: float = quantity(6.5, "Lapse rate", "K/km", 0, 15, "International standard atmosphere.", 0.5)


class MonthlyFactors(Adjustment):
    irradiance: Monthly[Annotated[float, Field(ge=0, le=3)]] = Field(
        title="Irradiance times", json_schema_extra={"x-unit": "", "x-step": 0.01}
    )


class Calibration(Adjustment):
    monthly_ghi: Monthly[Annotated[float, Field(ge=0, le=500)]] = Field(
        title="GHI by month", json_schema_extra={"x-unit": "kWh/m²", "x-step": 1}
    )
    source: Line = Field("", max_length=200, title="Source")


class WarmerClimate(Adjustment):
    temperature: Monthly[Annotated[float, Field(ge=-15, le=15)]] = Field(
        title="Temperature shift by month", json_schema_extra={"x-unit": "K", "x-step": 0.5}
    )


class WeatherReference(Document):
    """Which weather year the design uses, and how it is corrected; the year itself is kept in the weather library by its digest."""

    digest: str = Field(pattern=r"^[0-9a-f]{8,64}$")
    title: Line = Field("", max_length=200)
    clock_shift: float = quantity(0.0, "Clock shift", "h", -12, 12, "The timestamps of the file are used as they are.", 0.5)
    beam_is_horizontal: bool = choice(
        False, "DNI column holds the beam on the horizontal", "The column is read as direct normal irradiance."
    )
    decomposition: Decomposition = choice("erbs", "Decomposition", "By the clearness of the hour; for years that have GHI alone.")
    gap_filling: GapFilling | None = Field(None, title="Filling of marked values")
    height_correction: HeightCorrection | None = Field(None, title="Height correction")
    monthly_factors: MonthlyFactors | None = Field(None, title="Monthly factors")
    calibration: Calibration | None = Field(None, title="Calibration to monthly values")
    warmer_climate: WarmerClimate | None = Field(None, title="Warmer climate")

    @property
    def changes(self) -> bool:
        """Whether the year is read otherwise than it is kept."""
        steps = (self.gap_filling, self.height_correction, self.monthly_factors, self.calibration, self.warmer_climate)
        is_read_otherwise = self.beam_is_horizontal or self.clock_shift != 0 or self.decomposition != "erbs"
        return is_read_otherwise or any(step is not None and step.is_on for step in steps)


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
        moving = [k for k in ("tracking", "two_axis_tracking", "seasonal_tilt", "rows") if getattr(self, k) is not None]
        if moving:
            raise ValueError(
                f"A surface on a face of the scene is fixed, and its rows are racks of its layout. Set {moving[0]} to null."
            )
        return self

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

    def follow(self, face: Face) -> None:
        """Take tilt, azimuth, area and, where there is none, the name of a face. Not set by anybody, they are not kept either."""
        racks = self.layout.racks if self.layout and face.tilt <= LEVEL else None
        derived: dict[str, Any] = {
            "tilt": racks.tilt if racks else round(face.tilt, 6),
            "azimuth": (face.azimuth if racks.azimuth is None else racks.azimuth) if racks else round(face.azimuth, 6),
            "area": max(round(face.area, 4), 0.5),
        }
        if "name" not in self.model_fields_set:
            derived["name"] = face.name
        self.__dict__.update(derived)


class Losses(Document):
    soiling: float = quantity(2.0, "Soiling", "%", 0, 50, "Typical of tilted arrays that rain keeps clean.", 0.5)
    soiling_by_month: Monthly[SoilingShare] | None = months("Soiling by month", "%", 0.5)
    quality: float = quantity(
        0.0,
        "Loss by power tolerance (a positive tolerance of the datasheet is negative here)",
        "%",
        -5,
        20,
        "Manufacturers usually sort to a positive tolerance.",
        0.5,
    )
    light_induced: float = quantity(
        1.0, "Light-induced degradation", "%", 0, 10, "Typical of boron-doped silicon; less for other cells.", 0.5
    )
    degradation: float = quantity(
        0.5, "Degradation a year", "%", 0, 5, "Median of crystalline silicon in the field (Jordan et al. 2016).", 0.1
    )
    year_of_operation: int = quantity(1, "Year of operation", "", 1, 60, "The first, with new modules.")
    degradation_of_current: float = quantity(
        70.0,
        "Degradation that is lost current",
        "%",
        0,
        100,
        "Field studies find most of it in the current, the rest in the voltage.",
        5,
    )
    mismatch: float = quantity(1.0, "Mismatch", "%", 0, 10, "Typical of modules sorted by current.", 0.5)
    dc_wiring: float = quantity(1.5, "DC wiring at rated power", "%", 0, 10, "A common design limit.", 0.1)
    ac_wiring: float = quantity(1.0, "AC wiring at rated power", "%", 0, 10, "A common design limit.", 0.1)
    dc_laying: Laying = choice("open air", "DC cable laying", "Cables on a roof or a rack.")
    dc_conductor: Conductor = choice("copper", "DC conductor", "Usual for string cables.")
    unavailability: float = quantity(1.0, "Unavailability", "%", 0, 100, "Three to four days a year.", 0.5)

    @property
    def degraded(self) -> float:
        """Of the modules' power, after the years of operation, 0..1."""
        return min(self.degradation / 100 * (self.year_of_operation - 1), 0.95)

    @property
    def voltage_left(self) -> float:
        """Of the modules' voltage, after the years of operation, 0..1."""
        return (1 - self.degraded) ** (1 - self.degradation_of_current / 100)


class Models(Document):
    """Which model serves where several do."""

    transposition: Transposition = choice("perez", "Sky model", "The most accurate at most sites.")
    incidence: Incidence = choice(
        "fresnel", "Incidence angle modifier (IAM)", "Calculated from the refractive index of the glass."
    )
    temperature: Thermal = choice("faiman", "Cell temperature", "Accounts for wind; fitted to outdoor measurements.")
    wind_factor: float = quantity(
        0.7,
        "Wind at the array / wind at 10 m",
        "",
        0,
        2,
        "Logarithmic profile from 10 m down to 2 m over open farmland (roughness 0.03 m).",
        0.05,
    )


class Design(Document):
    """One alternative design, whole. What is not set takes its default, and is not kept."""

    format: Literal["noontide-design/4"] = "noontide-design/4"
    name: Line = Field("", max_length=120, title="Name")
    site: Site
    weather: WeatherReference | None = None
    scene: Scene = Scene()
    surfaces: dict[Id, Surface] = Field({}, max_length=200)
    inverters: dict[Id, InverterSet] = Field({}, max_length=200)
    subarrays: dict[Id, SubArray] = Field({}, max_length=400)
    connection: Connection = Connection()
    wiring: Wiring = Wiring()
    losses: Losses = Losses()
    models: Models = Models()
    demand: Demand = Demand()
    storage: Storage = Storage()
    money: Money = Money()
    accepted: dict[CheckKey, AcceptedCheck] = Field({}, max_length=200, title="Accepted checks")
    parts: Catalogue = Field(Catalogue(), title="Datasheets of the parts in use")

    @classmethod
    def read(cls, document: Any) -> "Design":
        """A design from a document of any format there ever was.

        Raises
        ------
        DesignError
            If it is no design document, is too large, or comes from a later version.
        pydantic.ValidationError
            With a location for each invalid value.
        """
        check_size(document)
        return cls.model_validate(upgrade(document))

    @model_validator(mode="after")
    def _surfaces_follow_their_faces(self) -> Self:
        """Tilt, azimuth, area and name of a surface on a face are the face's own: derived at every reading, and never kept."""
        placed = {key: surface for key, surface in self.surfaces.items() if surface.face is not None}
        if self.scene.is_empty and not placed:
            return self
        try:
            built = self.built_scene
        except ImpossibleScene as problem:
            raise ValueError(f"{problem.pointer}: {problem.reason}") from problem
        for surface in placed.values():
            face = built.face(surface.face or "")
            if face is not None:
                surface.follow(face)
        return self

    @model_validator(mode="after")
    def _array_is_as_wide_as_its_surfaces(self) -> Self:
        self.site.follow(surface.area for surface in self.surfaces.values())
        return self

    @property
    def built_scene(self) -> BuiltScene:
        """Faces and bodies of the scene."""
        return build_scene(self.scene, is_southern=self.site.latitude < 0)

    @model_validator(mode="after")
    def _references_exist(self) -> Self:
        for key, subarray in self.subarrays.items():
            if subarray.surface not in self.surfaces:
                raise ValueError(f"Sub-array '{key}' is on surface '{subarray.surface}', which does not exist.")
            if subarray.inverter not in self.inverters:
                raise ValueError(f"Sub-array '{key}' feeds inverter '{subarray.inverter}', which does not exist.")
        bank = self.storage.bank
        if bank is not None and bank.inverter is not None and bank.inverter not in self.inverters:
            raise ValueError(
                f"The battery stands on the DC side of inverter '{bank.inverter}', which does not exist. Choose another, or couple the battery to the AC side."
            )
        return self

    @model_validator(mode="after")
    def _everything_has_a_name(self) -> Self:
        """What nobody named is called by its place: derived at every reading, and never kept."""
        for number, surface in enumerate(self.surfaces.values(), start=1):
            if not surface.name:
                surface.__dict__["name"] = f"Surface {number}"
        for number, unit in enumerate(self.inverters.values(), start=1):
            if not unit.name:
                unit.__dict__["name"] = f"Inverter {number}" if len(self.inverters) > 1 else "Inverter"
        on = Counter(subarray.surface for subarray in self.subarrays.values())
        told: Counter[str] = Counter()
        for subarray in self.subarrays.values():
            told[subarray.surface] += 1
            if not subarray.name:
                surface_name = self.surfaces[subarray.surface].name[:70]
                numbered = f"{surface_name}, strings {told[subarray.surface]}"
                subarray.__dict__["name"] = numbered if on[subarray.surface] > 1 else surface_name
        return self

    def as_kept(self) -> dict:
        """The document with only what was set, as JSON values."""
        return {"format": FORMAT} | self.model_dump(mode="json", exclude_unset=True)
