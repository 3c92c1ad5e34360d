"""The storage of a scheme as an answer: flows of average days and of the year, the curve of sizes, a proposal."""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.off_grid import proof, worksheet
from noontide.core.behind_meter.size_map import LEVELS, choose, cost_lines, reliability_map
from noontide.core.behind_meter.storage_picture import average_flows, day_flows, outage_after, year_flows
from noontide.core.behind_meter.storage_sizes import SizeCurve, energy_of, next_kwh, propose, size_curve
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.simulation import Results
from noontide.core.verbs.batteries import is_laid
from noontide.server.problems import Problem


class SizeLine(BaseModel):
    """The year of a battery of one size."""

    energy: float = Field(description="usable [kWh]")
    power: float = Field(description="[kW]")
    self_sufficiency: float
    self_consumption: float
    imported: float = Field(description="[kWh]")
    peak: float = Field(description="highest import [kW]")
    cycles: float = Field(description="full ones a year")
    saving: float | None = Field(description="of the bill against no battery")
    price: float | None
    payback: float | None = Field(description="of the battery alone [years]; null where it does not pay or no price is known")


class ProposalAnswer(BaseModel):
    energy: float = Field(description="usable [kWh]; 0 for none")
    words: str


class DayFlows(BaseModel):
    """Power along each arm [kW], and what is stored [kWh]."""

    sun_use: list[float]
    sun_battery: list[float]
    sun_grid: list[float]
    battery_use: list[float]
    grid_use: list[float]
    grid_battery: list[float]
    stored: list[float]


class YearFlows(BaseModel):
    """Energy along each arm in the year [kWh]."""

    sun_use: float
    sun_battery: float
    sun_grid: float
    battery_use: float
    grid_use: float
    grid_battery: float
    lost: float


class BatteryAnswer(BaseModel):
    energy: float = Field(description="usable [kWh]")
    power: float = Field(description="at the AC side [kW]")
    charge: float | None = Field(description="nominal, at the voltage of the bank [Ah]; null without a datasheet")
    voltage: float | None = Field(description="of the bank [V]")
    cycles: float
    life: float = Field(description="[years]")
    wear: float | None = Field(description="share of the cycle life that a year takes")
    peak: float = Field(description="highest import [kW]")
    of_clipped: float | None = Field(
        description="stored a year of what the inverter would have held back [kWh]; null on the AC side"
    )


class StorageAnswer(BaseModel):
    """All that the Storage bench draws."""

    revision: int
    currency: str
    has_demand: bool
    battery: BatteryAnswer | None
    months: list[DayFlows] = Field(description="average day of each month")
    year: YearFlows
    sizes: list[SizeLine]
    next_kwh: dict[str, float] = Field(description="what one kWh more brings a year: imported [kWh], peak [kW], saving")
    proposal: ProposalAnswer | None


class WorksheetAnswer(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    key: str
    title: str
    value: float | None = Field(description="null where no size is enough")
    unit: str
    rule: str
    chosen: float | None
    verdict: str
    is_short: bool


class ProofAnswer(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    loss_of_load: float = Field(description="share of the energy asked for")
    dark_hours: float
    longest_gap: float = Field(description="[h]")
    unmet: float
    unused: float = Field(description="of the sun [kWh]")
    dark_by_month: list[float] = Field(description="hours")
    lowest: float
    mean_charge: float
    generator_hours: float
    generator_starts: float
    generated: float
    fuel: float = Field(description="[l]")
    fuel_cost: float
    words: str


class MapLine(BaseModel):
    """A line of equal loss."""

    level: float = Field(description="share of the energy that is missing")
    batteries: list[float | None] = Field(description="that each array needs [kWh]; null where none on the map does")


class CostLine(BaseModel):
    """A line of equal cost, straight from the array without a battery to the battery without an array."""

    cost: float = Field(description="of array and battery a year")
    array: float = Field(description="[kW]")
    battery: float = Field(description="[kWh]")


class MapPoint(BaseModel):
    array: float = Field(description="[kW]")
    battery: float = Field(description="[kWh]")


class OffGridAnswer(BaseModel):
    """A place without a grid: worksheet, proof, and the map of sizes around it."""

    revision: int
    worksheet: list[WorksheetAnswer]
    proof: ProofAnswer
    arrays: list[float] = Field(description="of the map [kW]")
    batteries: list[float] = Field(description="[kWh]")
    loss: list[list[float]] = Field(
        description="share of the energy that is missing, by battery and array, without the generator"
    )
    lines: list[MapLine]
    cost_lines: list[CostLine] = Field(description="none where a price is not known")
    cheapest: MapPoint | None
    words: str = Field(description="which size would do, and what it costs")
    currency: str
    served_cost: float | None = Field(description="of a kWh that is served, over all years; null without costs")
    is_laid: bool = Field(description="whether the modules have places on the scene: then a size of the array is not taken")
    array: float = Field(description="of the design [kW]")
    battery: float = Field(description="[kWh]")


class StorageDay(BaseModel):
    """One day of the year."""

    revision: int
    flows: DayFlows
    outage_hours: float | None = Field(description="for which a failure of the grid after the interval would be survived [h]")
    outage_is_longer: bool


def storage_answer(r: Results, revision: int) -> StorageAnswer:
    """The storage of a simulated scheme."""
    curve, battery = size_curve(r), battery_year(r)
    proposal = propose(r, curve)
    means, stored = average_flows(r)
    return StorageAnswer(
        revision=revision,
        currency=r.design.money.currency,
        has_demand=r.after.has_demand,
        battery=None
        if battery is None
        else BatteryAnswer(**{name: getattr(battery, name) for name in BatteryAnswer.model_fields}),
        months=[_day({key: flow[m] for key, flow in means.items()}, stored[m]) for m in range(12)],
        year=YearFlows(**year_flows(r)),
        sizes=[_size(curve, k) for k in range(curve.energies.size)],
        next_kwh=next_kwh(curve, energy_of(r)),
        proposal=None if proposal is None else ProposalAnswer(energy=proposal.energy, words=proposal.words),
    )


def power_lines(r: Results) -> list[SizeLine]:
    """What the battery would do in the year with any power, its energy as it is."""
    curve = size_curve(r, by="power")
    return [_size(curve, k) for k in range(curve.energies.size)]


def off_grid_answer(r: Results, revision: int) -> OffGridAnswer:
    """The place without a grid of a simulated scheme.

    Raises
    ------
    Problem
        If the scheme has a grid, no battery or no demand.
    """
    try:
        lines, found, sizes = worksheet(r), proof(r), reliability_map(r)
    except ValueError as error:
        raise Problem(409, "not-off-grid", "There is no worksheet", str(error)) from None
    choice = choose(r, sizes)
    costs, best = choice.costs, choice.point
    return OffGridAnswer(
        revision=revision,
        worksheet=[
            WorksheetAnswer.model_validate(vars(line) | {"value": line.value if np.isfinite(line.value) else None})
            for line in lines
        ],
        proof=ProofAnswer.model_validate(found),
        arrays=sizes.arrays.tolist(),
        batteries=sizes.batteries.tolist(),
        loss=np.round(sizes.loss, 6).tolist(),
        lines=[
            MapLine(level=level, batteries=[float(b) if np.isfinite(b) else None for b in sizes.equal_loss(level)])
            for level in LEVELS
        ],
        cost_lines=[
            CostLine(cost=cost, array=cost / costs.array, battery=cost / costs.battery)
            for cost in cost_lines(sizes, costs)
            if costs is not None and costs.array > 0 and costs.battery > 0
        ],
        cheapest=None if best is None else MapPoint(array=best.array, battery=best.battery),
        words=choice.words,
        currency=r.design.money.currency,
        served_cost=cash_year_by_year(r).levelised_cost if r.design.money.is_counted else None,
        is_laid=is_laid(r.design),
        array=r.annual.dc_power,
        battery=energy_of(r),
    )


def storage_day(r: Results, revision: int, interval: int) -> StorageDay:
    """The day of an interval, and an outage after it."""
    flows, stored = day_flows(r, interval * r.calendar.days // r.calendar.intervals)
    outage = outage_after(r, interval)
    return StorageDay(
        revision=revision,
        flows=_day(flows, stored),
        outage_hours=None if outage is None else outage.hours,
        outage_is_longer=outage is not None and outage.is_longer,
    )


def _day(flows: dict[str, np.ndarray], stored: np.ndarray) -> DayFlows:
    return DayFlows(**{key: np.round(flow, 5).tolist() for key, flow in flows.items()}, stored=np.round(stored, 4).tolist())


def _size(curve: SizeCurve, k: int) -> SizeLine:
    def of(values: np.ndarray | None) -> float | None:
        return None if values is None or not np.isfinite(values[k]) else float(values[k])

    return SizeLine(
        energy=float(curve.energies[k]),
        power=float(curve.powers[k]),
        self_sufficiency=float(curve.self_sufficiency[k]),
        self_consumption=float(curve.self_consumption[k]),
        imported=float(curve.imported[k]),
        peak=float(curve.peak[k]),
        cycles=float(curve.cycles[k]),
        saving=of(curve.savings),
        price=of(curve.prices),
        payback=of(curve.payback),
    )
