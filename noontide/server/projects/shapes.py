"""What the API answers, as models: the OpenAPI schema and the types of the front end come from here."""

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

BenchName = Literal["site", "weather", "surfaces", "circuits", "losses"]


class Shape(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class Headline(Shape):
    """The year in figures; units as in the working of each."""

    energy: float
    monthly_energy: list[float]
    dc_power: float
    ac_power: float
    dc_ac_ratio: float
    modules: int
    area: float
    specific_yield: float
    reference_yield: float
    performance_ratio: float
    monthly_performance_ratio: list[float]
    temperature_corrected_performance_ratio: float
    capacity_factor: float
    horizontal_irradiation: float
    plane_irradiation: float
    clipped_share: float
    clipped_hours: float
    hours_outside_window: float
    peak_power: float


class CascadeLine(Shape):
    key: str
    title: str
    group: str
    energy: float
    before: float
    share: float
    monthly: list[float]


class CascadeAnswer(Shape):
    start: float
    delivered: float
    residual: float
    area: float
    lines: list[CascadeLine]


class RemedyAnswer(Shape):
    label: str
    patch: dict[str, Any]


class CheckAnswer(Shape):
    rule: str
    severity: Literal["error", "caution"]
    title: str
    detail: str
    bench: str
    pointer: str
    actual: float
    limit: float
    margin: float
    unit: str
    source: str
    remedies: list[RemedyAnswer]


class Bench(Shape):
    name: BenchName
    state: Literal["open", "fine", "caution", "error"]
    errors: int
    cautions: int
    say: str


class WeatherBrief(Shape):
    digest: str
    title: str
    source: str
    annual_ghi: float
    lowest: float
    highest: float
    distance: float
    is_far: bool = Field(description="farther from the site than the check allows")
    is_high: bool = Field(description="farther from the site's height than the check allows")
    elevation: float
    step: int
    utc_offset: float
    year: int


class Evaluation(Shape):
    headline: Headline | None
    cascade: CascadeAnswer | None
    checks: list[CheckAnswer]
    benches: list[Bench]
    weather: WeatherBrief | None


class SchemeAnswer(Shape):
    """A scheme as it stands, simulated. `changed` names the benches that the last edit touched."""

    id: int
    project: int
    letter: str
    revision: int
    can_undo: bool
    can_redo: bool
    document: dict[str, Any]
    evaluation: Evaluation
    changed: list[str] = []


class SchemeLine(Shape):
    id: int
    letter: str
    name: str
    pinned: bool


class ProjectAnswer(Shape):
    id: int
    name: str
    customer: str
    note: str
    changed: datetime
    pinned: int | None
    schemes: list[SchemeLine]


class ProjectCard(ProjectAnswer):
    """A project on the first page, with what its pinned scheme gives."""

    latitude: float | None
    longitude: float | None
    place: str
    energy: float | None
    dc_power: float | None
    specific_yield: float | None
    monthly_energy: list[float]
    planes: list[tuple[float, float, int]] = Field(
        description="tilt [°], azimuth [°] and modules of each surface of the pinned scheme"
    )
    errors: int
    cautions: int


class ProjectRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=120)
    customer: str = Field("", max_length=120)
    note: str = Field("", max_length=300)
    document: dict[str, Any]


class ProjectEdit(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str | None = Field(None, min_length=1, max_length=120)
    customer: str | None = Field(None, max_length=120)
    note: str | None = Field(None, max_length=300)


class ForkRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str = Field("", max_length=120)


class RevisionLine(Shape):
    number: int
    parent: int | None
    patch: dict[str, Any]
    created: datetime
    is_head: bool


class InputAnswer(Shape):
    symbol: str
    name: str
    value: float | str
    unit: str
    origin: str
    pointer: str


class WorkingAnswer(Shape):
    key: str
    title: str
    value: float
    unit: str
    equation: str
    inputs: list[InputAnswer]
    steps: list[InputAnswer]
    source: str
    note: str
    quantity: str


class MomentValue(Shape):
    key: str
    title: str
    unit: str
    scope: str
    subarray: str
    value: float


class MomentAnswer(Shape):
    interval: int
    start: str
    values: list[MomentValue]


class QuantityLine(Shape):
    key: str
    title: str
    unit: str
    scope: str
    colour: str


class OrientationAnswer(Shape):
    """Unshaded irradiation of every facing, rows by tilt and columns by azimuth [kWh/m2]."""

    tilts: list[float]
    azimuths: list[float]
    irradiation: list[list[float]]
    best_tilt: float
    best_azimuth: float
    best: float
    surfaces: dict[str, float] = Field(description="irradiation of each surface of the scheme, counted as in the map")


class VoltageRow(Shape):
    """A string length against the inverter: hours of the year by voltage, and the design points [V]."""

    length: int
    working: list[float]
    open_circuit: list[float]
    cold_open_circuit: float
    hot_working: float
    fits: bool
    why: str


class VoltageAnswer(Shape):
    subarray: str
    edges: list[float]
    rows: list[VoltageRow]
    start: float
    lowest: float
    full_power: float
    highest: float
    limit: float
    limit_of: str
    coldest: float
    coldest_origin: str
    hottest_cell: float


class EstimateRequest(BaseModel):
    """The shortest Brief: what to start from, where, and which way it faces."""

    model_config = ConfigDict(extra="forbid")

    start: Literal["power", "modules", "area", "demand"] = "power"
    amount: float = Field(gt=0, le=1e7, allow_inf_nan=False, description="kW, modules, m2 or kWh a year")
    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    elevation: float = Field(0, ge=-430, le=6000, allow_inf_nan=False)
    place: str = Field("", max_length=120)
    tilt: float = Field(35, ge=0, le=90, allow_inf_nan=False)
    azimuth: float = Field(180, ge=0, le=360, allow_inf_nan=False)
    mounting: Literal["open rack", "roof, ventilated", "roof, flush", "integrated"] = "roof, ventilated"
    module: str = Field("veltrane-430", max_length=64)
    inverter: str = Field("", max_length=64, description="the best fit where it is left empty")


class EstimateAnswer(Shape):
    document: dict[str, Any]
    evaluation: Evaluation
    modules: int
    power: float
    area: float
    inverter: str
    inverters: int
    leftover: int
    limited_by: str
    best_tilt: float
    best_azimuth: float
    against_best: float
    year: list[int] = Field(description="delivered power over its highest, 0..255, day by day, 24 hours each")


class PlaceAnswer(Shape):
    name: str
    country: str
    latitude: float
    longitude: float
    population: int
    time_zone: str
    utc_offset: float
