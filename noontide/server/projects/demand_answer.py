"""The demand of a scheme as an answer: sources, average days, duration curve, lists of appliances."""

from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.behind_meter.demand_picture import GROUPS, DayGroup, DemandPicture, demand_picture, totals_of_appliances
from noontide.core.demand.appliance_rows import rows_of
from noontide.core.demand.shapes import SHAPES
from noontide.core.demand.sources import KIND_TITLES, Appliances, Source
from noontide.core.hours import read_hours
from noontide.core.simulation import Results
from noontide.demand_templates import built_in_templates


class Answer(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class DemandSourceLine(Answer):
    """A source of demand, or its margin."""

    key: str
    title: str
    energy: float = Field(description="a year [kWh]")
    peak: float = Field(description="highest mean of an interval [kW]")
    monthly: list[float] = Field(description="[kWh]")
    days: list[list[list[float]]] = Field(description="average power by month, group of days, and time [kW]")
    is_deferrable: bool


class AppliancesLine(Answer):
    """What a list of appliances comes to at once."""

    connected: float = Field(description="[W]")
    peak: float = Field(description="of those whose hours meet [W]")
    surge: float = Field(description="with the largest inrush [W]")
    energy_a_day: list[float] = Field(description="mean of a week of each month [kWh]")
    energy_ac: float
    energy_dc: float
    charge_a_day: dict[str, float] = Field(description="of the month that asks for most, by system voltage [Ah]")
    hours: dict[str, list[tuple[int, int]]] = Field(description="of each appliance, in minutes of the day")
    rows: list[list[Any]] = Field(description="as cells of a spreadsheet, with headings")


class DemandAnswer(Answer):
    """All that the Demand bench draws; without sources in use only the lists are there."""

    revision: int
    problem: str = Field("", description="why the demand is not known")
    slot: int = Field(60, description="of an average day [min]")
    groups: list[str] = Field([], description="of days: working days and days off, or the seven weekdays")
    sources: list[DemandSourceLine] = []
    appliances: dict[str, AppliancesLine] = {}
    hours: dict[str, list[tuple[int, int]]] = Field({}, description="of sources that run at hours of the day, in minutes")
    produced: list[list[list[float]]] = Field([], description="average power of the plant, as `days` of a source [kW]")
    direct: list[list[list[float]]] = []
    energy: float = 0.0
    peak: float = 0.0
    peak_at: int = Field(0, description="interval")
    base: float = Field(0.0, description="exceeded 95 % of the time [kW]")
    duration: list[float] = Field([], description="power of the demand in falling order, at even shares of the year [kW]")
    import_duration: list[float] = []
    produced_energy: float = 0.0
    direct_energy: float = 0.0
    imported: float = 0.0
    exported: float = 0.0
    own_use: float = 0.0
    self_consumption: float = 0.0
    self_sufficiency: float = 0.0
    hours_met: float = 0.0
    has_battery: bool = False
    monthly_demand: list[float] = []
    monthly_produced: list[float] = []
    monthly_direct: list[float] = []
    unserved: dict[str, float] = {}
    notes: dict[str, list[str]] = {}


SYSTEM_VOLTAGES = (12, 24, 48)


def demand_answer(r: Results, revision: int, by: DayGroup = "kind") -> DemandAnswer:
    """The demand of a simulated scheme."""
    appliances = {
        key: AppliancesLine(
            connected=t.connected,
            peak=t.peak,
            surge=t.surge,
            energy_a_day=list(t.energy_a_day),
            energy_ac=t.energy_ac,
            energy_dc=t.energy_dc,
            charge_a_day={str(v): t.charge_a_day(v) for v in SYSTEM_VOLTAGES},
            hours={i: list(read_hours(one.hours)) for i, one in _appliances(r, key).items.items()},
            rows=rows_of(_appliances(r, key)),
        )
        for key, t in totals_of_appliances(r).items()
    }
    picture = demand_picture(r, by)
    problem = str(r.after.problem) if r.after.problem is not None else ""
    hours = {
        key: list(read_hours(text))
        for key, one in r.design.demand.sources.items()
        if (text := getattr(getattr(one, one.kind), "hours", None)) is not None
    }
    if picture is None:
        return DemandAnswer(revision=revision, problem=problem, appliances=appliances, hours=hours)
    return DemandAnswer.model_validate(
        {"revision": revision, "problem": problem, "appliances": appliances, "hours": hours, "sources": [_plain(vars(s)) for s in picture.sources]} | _rest(picture)
    )  # fmt: skip


def _appliances(r: Results, key: str) -> Appliances:
    one = r.design.demand.sources[key].appliances
    assert one is not None
    return one


def _rest(picture: DemandPicture) -> dict[str, Any]:
    return _plain({key: value for key, value in vars(picture).items() if key != "sources"})


def _plain(values: dict[str, Any]) -> dict[str, Any]:
    """Arrays as lists, to six digits after the point: a watt of a megawatt."""
    return {key: np.round(v, 6).tolist() if isinstance(v, np.ndarray) else v for key, v in values.items()}


class ShapeLine(Answer):
    weekday: list[float]
    day_off: list[float]
    months: list[float]


class TemplateLine(Answer):
    key: str
    title: str
    note: str
    source: dict[str, Any]


class DemandKinds(Answer):
    """What a source of demand can be: kinds with their titles, shapes, and templates to begin with."""

    kinds: dict[str, str]
    shapes: dict[str, ShapeLine]
    templates: list[TemplateLine]
    groups: dict[str, list[str]] = Field(description="of days, of which averages are made")


def demand_kinds() -> DemandKinds:
    """Kinds, shapes and templates."""
    return DemandKinds(
        kinds=KIND_TITLES,
        shapes={
            name: ShapeLine(weekday=list(s.weekday), day_off=list(s.day_off), months=list(s.months)) for name, s in SHAPES.items()
        },
        templates=[
            TemplateLine(key=key, title=t.title, note=t.note, source=_kept(t.source)) for key, t in built_in_templates().items()
        ],
        groups={key: list(names) for key, names in GROUPS.items()},
    )


def _kept(source: Source) -> dict[str, Any]:
    return source.model_dump(mode="json", exclude_unset=True)
