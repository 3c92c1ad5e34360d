"""Where a plant stands: place, horizon and obstacles, shade given by hand, ground, the region's sites and the picture under the plan."""

import itertools
from collections.abc import Iterable
from functools import cache
from typing import Annotated, Self
from zoneinfo import available_timezones

from pydantic import FailFast, Field, PrivateAttr, field_validator, model_validator

from noontide.core.fields import Document, Id, Line, Monthly, choice, months, quantity
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.surroundings import Obstacle

SMALL_ROOF = 6.0  # across, where no surface has an area [m]
Share = Annotated[float, Field(ge=0, le=1)]
SnowCover = Annotated[float, Field(ge=0, le=100)]  # days of the month with snow on the ground [%]


def is_time_zone(name: str) -> bool:
    """Whether a time zone of this name is known."""
    return name in _time_zones()


def known_zone(name: str) -> str:
    """A name of a time zone, or none.

    Raises
    ------
    ValueError
        If there is no such zone.
    """
    if name and not is_time_zone(name):
        raise ValueError(f"There is no time zone '{name}'. Choose one such as Europe/Rome, or leave it empty.")
    return name


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


class MapPicture(Document):
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
    map_picture: MapPicture | None = Field(None, title="Picture on the map")
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
        return known_zone(name)

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
