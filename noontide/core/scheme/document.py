"""A scheme: one alternative design of a project, as a versioned JSON document.

Collections are objects by id rather than lists, so that a JSON Merge Patch can edit one value of one entry.
Percentages are numbers of percent, as in the interface.
"""

import itertools
from functools import cache
from typing import Annotated, Literal, Self
from zoneinfo import available_timezones

from pydantic import Field, field_validator, model_validator

from noontide.core.electrical.datasheets import Catalogue
from noontide.core.scheme.fields import Document, Monthly, choice, months, quantity
from noontide.core.shading.horizon import Horizon
from noontide.core.shading.rows import RowGeometry

FORMAT = "noontide-scheme/1"
Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
Mounting = Literal["open rack", "roof, ventilated", "roof, flush", "integrated"]
Transposition = Literal["perez", "reindl", "hay-davies", "isotropic"]
Incidence = Literal["fresnel", "martin-ruiz", "ashrae", "datasheet", "none"]
Thermal = Literal["faiman", "noct", "king"]
Share = Annotated[float, Field(ge=0, le=1)]
SoilingShare = Annotated[float, Field(ge=0, le=50)]  # [%]

# Heat loss coefficients U0 [W/(m2 K)] and U1 [W s/(m3 K)]: the open rack as measured by Faiman (2008); the others are
# assumptions of ours, between it and a module that can only lose heat at its front.
HEAT_LOSS: dict[str, tuple[float, float]] = {
    "open rack": (25.0, 6.84),
    "roof, ventilated": (22.0, 4.5),
    "roof, flush": (18.0, 2.5),
    "integrated": (15.0, 0.0),
}


@cache
def _time_zones() -> frozenset[str]:
    return frozenset(available_timezones())


class HorizonPoint(Document):
    azimuth: float = quantity(..., "Direction", "°", 0, 360)
    elevation: float = quantity(..., "Height of the skyline", "°", 0, 89)


class Site(Document):
    name: str = Field("", max_length=120, title="Name of the site")
    latitude: float = quantity(..., "Latitude", "°", -90, 90, step=0.01)
    longitude: float = quantity(..., "Longitude", "°", -180, 180, step=0.01)
    elevation: float = quantity(0.0, "Height", "m", -430, 6000, "Sea level, until it is known.", 10)
    time_zone: str = Field("", max_length=60, title="Time zone")
    albedo: float = quantity(0.2, "Albedo", "", 0, 1, "Grass and mixed ground reflect about a fifth.", 0.05)
    albedo_by_month: Monthly[Share] | None = months("Albedo by month", "", 0.05)
    horizon: tuple[HorizonPoint, ...] = Field((), title="Horizon", max_length=720)
    lowest_temperature: float | None = quantity(
        None, "Lowest temperature", "°C", -90, 40, "The lowest of the weather year; a record of many years is safer.", 1
    )
    highest_temperature: float | None = quantity(None, "Highest temperature", "°C", 0, 60, "The highest of the weather year.", 1)

    @field_validator("time_zone")
    @classmethod
    def _zone_exists(cls, name: str) -> str:
        if name and name not in _time_zones():
            raise ValueError(f"There is no time zone '{name}'. Choose one such as Europe/Rome, or leave it empty.")
        return name

    @model_validator(mode="after")
    def _horizon_rises(self) -> Self:
        azimuths = [point.azimuth for point in self.horizon]
        if any(b <= a for a, b in itertools.pairwise(azimuths)):
            raise ValueError("the directions of a horizon must rise from point to point")
        return self

    @property
    def skyline(self) -> Horizon:
        return Horizon(tuple(p.azimuth for p in self.horizon), tuple(p.elevation for p in self.horizon))


class WeatherReference(Document):
    """Which weather year the scheme stands on; the year itself is kept in the weather library by its digest."""

    digest: str = Field(pattern=r"^[0-9a-f]{8,64}$")
    title: str = Field("", max_length=200)


class Rows(Document):
    """Parallel rows one behind another."""

    pitch: float = quantity(..., "Row pitch", "m", 0.2, 50, step=0.1)
    width: float = quantity(2.0, "Width of a row", "m", 0.2, 20, "One large module upright.", 0.1)
    count: int = quantity(6, "Rows", "", 1, 1000, "Enough that most rows stand behind another.")
    steps: int = quantity(
        1, "Groups of cells up the row", "", 1, 12, "Upright modules: the lowest row of cells decides for the string."
    )


class Surface(Document):
    name: str = Field("", max_length=80, title="Name")
    tilt: float = quantity(30.0, "Tilt", "°", 0, 90, "Near the best of middle latitudes.")
    azimuth: float = quantity(180.0, "Facing", "°", 0, 360, "Due south.", 5)
    mounting: Mounting = choice("roof, ventilated", "Mounting", "Rails on a roof, with air behind the modules.")
    area: float | None = quantity(None, "Area", "m²", 0.5, 1e6, "Not limited.", 1)
    rows: Rows | None = Field(None, title="Rows")
    albedo: float | None = quantity(None, "Albedo before it", "", 0, 1, "That of the site.", 0.05)

    @model_validator(mode="after")
    def _rows_fit(self) -> Self:
        if self.rows is not None:
            RowGeometry(self.tilt, self.azimuth, self.rows.width, self.rows.pitch, self.rows.count)
        return self


class InverterSet(Document):
    """Inverters of one model, each wired alike."""

    model: str = Field(max_length=64, title="Inverter")
    count: int = quantity(1, "Inverters", "", 1, 1000, "One.")


class SubArray(Document):
    """Strings alike, on one tracker of each inverter of a set."""

    surface: Id = Field(title="Surface")
    module: str = Field(max_length=64, title="Module")
    modules_per_string: int = quantity(..., "Modules in a string", "", 1, 60)
    strings: int = quantity(1, "Strings on the tracker", "", 1, 400, "One.")
    inverter: Id = Field(title="Inverter")
    tracker: int = quantity(1, "Tracker", "", 1, 24, "The first.")


class Losses(Document):
    soiling: float = quantity(2.0, "Soiling", "%", 0, 50, "Rain keeps a tilted array to about this in a temperate climate.", 0.5)
    soiling_by_month: Monthly[SoilingShare] | None = months("Soiling by month", "%", 0.5)
    quality: float = quantity(0.0, "Module quality", "%", -5, 20, "Makers sort to a plus tolerance.", 0.5)
    light_induced: float = quantity(
        1.0, "Light-induced degradation", "%", 0, 10, "First sun on boron-doped silicon; less for other cells.", 0.5
    )
    mismatch: float = quantity(1.0, "Mismatch", "%", 0, 10, "Modules sorted by current into strings.", 0.5)
    dc_wiring: float = quantity(1.5, "DC wiring at rated power", "%", 0, 10, "A usual limit of design.", 0.1)
    ac_wiring: float = quantity(1.0, "AC wiring at rated power", "%", 0, 10, "A usual limit of design.", 0.1)
    unavailability: float = quantity(1.0, "Out of service", "%", 0, 100, "Three to four days a year.", 0.5)


class Models(Document):
    """Which model serves where several do."""

    transposition: Transposition = choice("perez", "Sky model", "The most exact at most sites.")
    incidence: Incidence = choice("fresnel", "Reflection at the glass", "Follows from the glass itself.")
    temperature: Thermal = choice("faiman", "Cell temperature", "Knows the wind, and was measured in the open.")
    wind_factor: float = quantity(
        0.7,
        "Wind at the array over wind at 10 m",
        "",
        0,
        2,
        "A logarithmic profile from 10 m down to 2 m over open farmland (roughness 0.03 m).",
        0.05,
    )


class Scheme(Document):
    """One alternative design, whole. What is not set takes its default, and is not kept."""

    format: Literal["noontide-scheme/1"] = "noontide-scheme/1"
    name: str = Field("", max_length=120, title="Name")
    site: Site
    weather: WeatherReference | None = None
    surfaces: dict[Id, Surface] = Field({}, max_length=200)
    inverters: dict[Id, InverterSet] = Field({}, max_length=200)
    subarrays: dict[Id, SubArray] = Field({}, max_length=400)
    losses: Losses = Losses()
    models: Models = Models()
    parts: Catalogue = Field(Catalogue(), title="Datasheets that travel with the scheme")

    @model_validator(mode="after")
    def _references_exist(self) -> Self:
        for key, subarray in self.subarrays.items():
            if subarray.surface not in self.surfaces:
                raise ValueError(f"sub-array '{key}' lies on surface '{subarray.surface}', which is not there")
            if subarray.inverter not in self.inverters:
                raise ValueError(f"sub-array '{key}' feeds inverter '{subarray.inverter}', which is not there")
        return self

    def as_kept(self) -> dict:
        """The document with only what was set, as JSON values."""
        return {"format": FORMAT} | self.model_dump(mode="json", exclude_unset=True)
