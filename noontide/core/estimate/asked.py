"""The sentence of an estimate: what to start from, where, and its orientation."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.demand.shapes import ShapeName
from noontide.core.fields import Currency, Line


class EstimateRequest(BaseModel):
    """The shortest Brief: what to start from, where, and its orientation."""

    model_config = ConfigDict(extra="forbid")

    start: Literal["power", "modules", "area", "demand", "use", "bill", "value"] = "power"
    amount: float = Field(
        gt=0,
        le=1e7,
        allow_inf_nan=False,
        description="kW, modules, m2, kWh a year, percent of the use or of the bill to cover, or m2 that the best net present value may take",
    )
    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    elevation: float | None = Field(
        None, ge=-430, le=6000, allow_inf_nan=False, description="m; from the map where it is left out"
    )
    place: Line = Field("", max_length=120)
    tilt: float = Field(35, ge=0, le=90, allow_inf_nan=False)
    azimuth: float = Field(180, ge=0, le=360, allow_inf_nan=False)
    mounting: Literal["open rack", "roof, ventilated", "roof, flush", "integrated", "tracker"] = Field(
        "roof, ventilated",
        description="of the modules; a tracker turns about a level north-south axis, whatever tilt and azimuth",
    )
    module: str = Field("veltrane-430", max_length=64)
    inverter: str = Field("", max_length=64, description="the best fit where it is left empty")
    use: float = Field(
        0, ge=0, le=1e9, allow_inf_nan=False, description="of electricity a year [kWh]; 0 where money is not asked for"
    )
    use_shape: ShapeName = "household"
    currency: Currency | None = Field(None, description="of all prices, ISO 4217; EUR, or one's own, where it is left out")
    price: float = Field(0.3, ge=0, le=10, allow_inf_nan=False, description="of a kWh from the grid")
    export_price: float = Field(0.08, ge=0, le=10, allow_inf_nan=False, description="of a kWh to the grid")
    battery: bool = Field(False, description="with the battery that is proposed for the use")
    work: float = Field(600, ge=0, le=1e6, allow_inf_nan=False, description="mounting and work, for each kW")
