"""Cables and protection of a scheme as an answer."""

from typing import Literal

from pydantic import BaseModel, Field

from noontide.core.checks.protection import Protection, protection_of
from noontide.core.costs.wiring_costs import costs_of
from noontide.core.electrical import Catalogue
from noontide.core.simulation import Results


class SectionLine(BaseModel):
    """A section that serves, and what it costs over the years."""

    section: float = Field(description="[mm2]")
    purchase: float
    annual_loss: float = Field(description="of one run [kWh]")
    total: float = Field(description="purchase and present value of the loss")


class RunLine(BaseModel):
    """A run of cable with the section in use."""

    kind: Literal["string", "DC main", "AC", "AC main"]
    owner: str = Field(description="id of the sub-array or inverter set; empty for the AC main cable")
    serves: str = Field(description="its name")
    pointer: str
    count: int
    section: float = Field(description="in use [mm2]")
    is_proposed: bool = Field(description="the section follows the design; else it is set")
    proposed: float | None = Field(description="smallest section that serves [mm2]")
    economic: float | None = Field(description="section of the smallest cost over the years [mm2]")
    current: float = Field(description="that the cable must carry [A]")
    asks: str = Field(description="what makes that current")
    working_current: float = Field(description="at rated power [A]")
    ampacity: float = Field(description="corrected for ambient and grouping [A]")
    ambient: float = Field(description="[°C]")
    temperature: float = Field(description="of the conductor at rated power [°C]")
    drop: float = Field(description="at rated power [%]")
    drop_limit: float = Field(description="[%]")
    limited_by: str
    source: str
    problem: str
    sections: list[SectionLine]


class ProtectionLine(BaseModel):
    """A device or a figure of the connection, held against its rule."""

    key: str
    places: list[str] = Field(description="where it is alike")
    title: str
    chosen: str
    detail: str
    source: str
    actual: float
    limit: float
    unit: str
    margin: float = Field(description="how far on the right side, negative on the wrong one")
    state: Literal["fine", "caution", "error", "not needed"]
    pointer: str
    count: int


class WiringAnswer(BaseModel):
    revision: int
    rules: str = Field(description="title of the rule set")
    rules_source: str
    runs: list[RunLine]
    protection: list[ProtectionLine]
    phases: tuple[float, float, float] = Field(description="apparent power by phase [VA]")
    dc_loss: float = Field(description="of the year, as a share of the energy before it")
    ac_loss: float = Field(description="of the year, as a share of the energy before it")
    currency: str


def wiring_of(results: Results, library: Catalogue, revision: int) -> WiringAnswer:
    """All cables and all protection of a simulated design."""
    runs = []
    for run in results.cables.runs:
        sections = costs_of(results, run, library.cables.values())
        cheapest = min(sections, key=lambda one: one.total, default=None)
        runs.append(
            RunLine(
                kind=run.kind,
                owner=run.owner,
                serves=run.serves,
                pointer=run.pointer,
                count=run.count,
                section=run.choice.section,
                is_proposed=run.run.section is None,
                proposed=run.proposed,
                economic=cheapest.section if cheapest else None,
                current=run.route.current,
                asks=run.asks,
                working_current=run.route.working_current,
                ampacity=run.choice.ampacity,
                ambient=run.choice.ambient,
                temperature=run.choice.temperature,
                drop=run.choice.drop,
                drop_limit=run.run.drop_limit,
                limited_by=run.choice.limited_by,
                source=run.choice.source,
                problem=run.problem,
                sections=[SectionLine(**vars(one)) for one in sections],
            )
        )
    rules = results.cables.rules
    return WiringAnswer(
        revision=revision,
        rules=rules.title,
        rules_source=rules.source,
        runs=runs,
        protection=_folded(protection_of(results)),
        phases=results.cables.phases.apparent,
        dc_loss=results.cascade.lost_share("dc_wiring"),
        ac_loss=results.cascade.lost_share("ac_wiring", "ac_main"),
        currency=results.design.money.currency,
    )


def _folded(items: list[Protection]) -> list[ProtectionLine]:
    """Alike ones as one line with all their places."""
    found: dict[tuple, ProtectionLine] = {}
    for item in items:
        key = (item.title, item.chosen, item.detail, item.state)
        if key in found:
            found[key].places.append(item.place)
            found[key].count += item.count
            continue
        found[key] = ProtectionLine(
            key=item.key, places=[item.place], title=item.title, chosen=item.chosen, detail=item.detail, source=item.source, actual=item.actual,
            limit=item.limit, unit=item.unit, margin=item.margin, state=item.state, pointer=item.pointer, count=item.count,
        )  # fmt: skip
    return list(found.values())
