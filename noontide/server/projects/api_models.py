"""What the API answers and is asked, as models: the OpenAPI schema and the types of the front end come from here."""

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.design.site import HorizonPoint
from noontide.core.fields import Line
from noontide.server.projects.evaluation_answer import Evaluation, Shape
from noontide.server.working_answers import FactWorking


class SchemeAnswer(Shape):
    """A scheme at a revision, with what is known of it. `changed` names the benches that the last edit touched."""

    id: int
    project: int
    letter: str
    revision: int
    can_undo: bool
    can_redo: bool
    document: dict[str, Any]
    evaluation: Evaluation
    changed: list[str] = []
    words: str = Field("", description="of an act: what was done")


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
    is_copy: bool = Field(description="whether it was brought in beside the project that it was taken from")
    changed: datetime
    pinned: int | None
    schemes: list[SchemeLine]


class ProjectCard(ProjectAnswer):
    """A project on the first page, with what its pinned scheme gives."""

    latitude: float | None
    longitude: float | None
    place: str
    state: Literal["exact", "pending", "failed", "open"]
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

    name: Line = Field(min_length=1, max_length=120)
    customer: Line = Field("", max_length=120)
    note: Line = Field("", max_length=300)
    document: dict[str, Any]


class ProjectEdit(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: Line | None = Field(None, min_length=1, max_length=120)
    customer: Line | None = Field(None, max_length=120)
    note: Line | None = Field(None, max_length=300)


class ForkRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: Line = Field("", max_length=120)


class RevisionLine(Shape):
    number: int
    parent: int | None
    patch: dict[str, Any]
    created: datetime
    author: str
    is_head: bool


class WorkingAnswer(FactWorking):
    revision: int


class MomentValue(Shape):
    key: str
    title: str
    unit: str
    scope: str
    subarray: str
    value: float


class MomentAnswer(Shape):
    revision: int
    interval: int
    start: str
    values: list[MomentValue]


class QuantityLine(Shape):
    key: str
    title: str
    unit: str
    scope: str
    colour: str
    also: str = Field(description="other words that it is looked for by")
    is_all_day: bool = Field(description="whether it says something at night")


class OrientationPrice(Shape):
    """Share of the best orientation's irradiation that is lost some degrees off it."""

    degrees: float
    steeper: float
    flatter: float
    clockwise: float
    counter_clockwise: float


class OrientationAnswer(Shape):
    """Unshaded irradiation of every orientation, rows by tilt and columns by azimuth [kWh/m2]."""

    revision: int
    tilts: list[float]
    azimuths: list[float]
    irradiation: list[list[float]]
    best_tilt: float
    best_azimuth: float
    best: float
    prices: list[OrientationPrice]
    surfaces: dict[str, float] = Field(description="irradiation of each surface of the scheme, counted as in the map")


class PlaneDay(Shape):
    """How a moving surface stands over a day, every ten minutes; one value of what does not change."""

    tilt: list[float]
    azimuth: list[float]
    rotation: list[float] | None = Field(description="about its one axis, where it has one [°]")


class PlanesAnswer(Shape):
    """A day of the sun and of the surfaces that move, every ten minutes of the local clock [°]."""

    revision: int
    day: int
    elevation: list[float]
    azimuth: list[float]
    surfaces: dict[str, PlaneDay]


class SunPathsAnswer(Shape):
    """The sun of every day: its place every ten minutes of the clock without daylight saving time, from 1 January 0:00."""

    revision: int
    year: int
    utc_offset: float
    elevation: list[float] = Field(description="apparent, (days * 144) [°]")
    azimuth: list[float] = Field(description="(days * 144) [°]")
    noon: list[float] = Field(description="solar noon of each day on that clock [h]")
    day_length: list[float] = Field(description="from sunrise to sunset on a level horizon [h]")


class SkyLine(Shape):
    """The line that an obstacle makes, from its first to its last point [°]."""

    azimuths: list[float]
    elevations: list[float]


class ObstacleLines(Shape):
    """An obstacle as seen from where on the array it hides most and least; one line where it is not near."""

    is_near: bool
    highest: SkyLine
    lowest: SkyLine


class ObstaclesAnswer(Shape):
    revision: int
    across: float = Field(description="of the array, as it counts: entered, or from the areas of the surfaces [m]")
    obstacles: dict[str, ObstacleLines]


class ObstacleCost(Shape):
    irradiation: float = Field(description="what the plane would gain without it [kWh/m2 a year]")
    share: float = Field(description="of the plane irradiation with nothing around")
    energy: float | None = Field(description="at the scheme's performance ratio, on the modules of this surface [kWh a year]")


class HorizonEffectAnswer(Shape):
    """What horizon and obstacles cost a surface, by month and hour of the clock without daylight saving time [kWh/m2]."""

    revision: int
    surface: str
    is_by_hand: bool = Field(description="a shade factor or a table of solar access replaces horizon and obstacles")
    free: list[list[float]] = Field(description="plane irradiation with nothing around, (12, 24)")
    direct_lost: list[list[float]]
    diffuse_lost: list[list[float]]
    access: list[list[float]] = Field(description="solar access, 0..1")
    obstacles: dict[str, ObstacleCost]
    horizon: ObstacleCost


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
    revision: int
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
    fuses: str
    needs_fuses: bool


class MonthLine(Shape):
    """One month, or the year: irradiation a day [kWh/m2], temperature [°C], energy [kWh], yield a day [kWh/kW]."""

    days: int
    horizontal: float
    plane: float
    temperature: float
    energy: float
    specific_yield: float


class MonthsAnswer(Shape):
    """The table of months; `worst` and `best` are months from 0 by the light on the planes."""

    revision: int
    months: list[MonthLine]
    year: MonthLine
    worst: int
    best: int


class EstimateMonth(Shape):
    """One month of an estimate."""

    irradiation: float = Field(description="on the plane a day [kWh/m2]")
    energy: float = Field(description="[kWh]")
    value: float | None = Field(description="what the bill saves; none without a use")


class EstimateAnswer(Shape):
    elevation: float
    weather_error: float | None = Field(
        description="expected error of the simulated weather, a share of a year; none where it was measured"
    )
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
    months: list[EstimateMonth]
    currency: str
    battery: str = Field(description="a size of battery with its reason; empty without a use")
    battery_taken: str = Field(description="the battery in the document; empty where there is none")
    year: list[int] = Field(description="delivered power over its highest, 0..255, day by day, 24 hours each")


class FigureLine(Shape):
    """A figure of the Headline, or a line of the Cascade: how it is titled and shown."""

    key: str
    title: str
    unit: str
    decimals: int
    is_percentage: bool
    better: Literal["more", "less", ""]
    in_headline: bool
    also: str = Field(description="other words that it is looked for by")


class FiguresAnswer(Shape):
    figures: list[FigureLine]
    lines: list[FigureLine]


class SeenOutline(BaseModel):
    """An outline of azimuth and elevation that was measured at a point of a surface."""

    model_config = ConfigDict(extra="forbid")

    surface: str = Field(max_length=40)
    outline: list[HorizonPoint] = Field(min_length=2, max_length=720)


class AccessTable(BaseModel):
    access: list[list[float]] = Field(description="solar access by month and hour of the clock, 12 x 24")
