"""Tariff, bills, purchase and cash of a scheme as an answer."""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.behind_meter.price_week import price_weeks
from noontide.core.brief.inputs import statement_of
from noontide.core.costs.economics import cash_year_by_year, sensitivities
from noontide.core.figures.catalogue import FIGURES
from noontide.core.money.billing import Bill
from noontide.core.money.tariff import EnergyPrice, Tariff
from noontide.core.simulation import Results


class Answer(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class BillLineAnswer(Answer):
    month: int = Field(description="from 0")
    kind: str
    key: str
    title: str
    quantity: float
    unit: str
    price: float
    amount: float
    interval: int | None = Field(description="of a demand charge: the first of its highest window")


class BillYear(Answer):
    """A year's bill."""

    tariff: str
    total: float
    by_month: list[float]
    energy_by_month: list[float] = Field(description="energy, settlement and export")
    demand_by_month: list[float] = Field(description="demand charges")
    lines: list[BillLineAnswer]


class WeekAnswer(Answer):
    key: str
    title: str
    months: list[int]
    periods: list[list[str]] = Field(description="of weekday, Saturday, Sunday and holiday, by half hour")
    prices: list[list[float]]
    imported: list[list[float]] = Field(description="of an average day, by half hour [kWh]")
    exported: list[list[float]]


class PeriodAnswer(Answer):
    name: str
    price: float
    pointer: str


class PriceAnswer(Answer):
    """One side of a tariff."""

    form: str = Field(description="flat, tiers, periods or table")
    can_be_painted: bool
    periods: dict[str, PeriodAnswer]
    weeks: list[WeekAnswer]


class PurchaseLineAnswer(Answer):
    key: str
    title: str
    quantity: float
    unit: str
    price: float
    amount: float


class FlowLine(Answer):
    title: str
    amounts: list[float] = Field(description="at once, then at the end of each year; received is positive")


class SensitivityLine(Answer):
    key: str
    title: str
    less: float
    more: float


class FigureText(Answer):
    key: str
    title: str
    value: float | None
    unit: str
    without: str
    decimals: int
    is_percentage: bool


class MoneyAnswer(Answer):
    """All that the Money bench draws."""

    revision: int
    currency: str
    is_counted: bool
    energy: PriceAnswer | None
    export: PriceAnswer | None
    before: BillYear | None
    after: BillYear | None
    purchase: list[PurchaseLineAnswer]
    purchase_estimated: float
    purchase_own: float | None
    without_price: int = Field(description="lines of the bill of materials whose price is not known")
    foreign: list[str] = Field(description="other currencies in which its parts are priced")
    flows: list[FlowLine]
    total: list[float]
    running: list[float]
    rates_of_return: list[float] = Field(description="every root")
    figures: list[FigureText]
    sensitivities: list[SensitivityLine]
    statement: str = Field(description="what the inputs rest on: one's own words, or what the design says of itself")


def money_answer(r: Results, revision: int) -> MoneyAnswer:
    """The money of a simulated scheme."""
    from noontide.core.costs.bill import materials_of

    money, cash = r.design.money, cash_year_by_year(r)
    tariff, materials = money.tariff, materials_of(r)
    before = money.tariff_before or tariff
    return MoneyAnswer(
        revision=revision,
        currency=money.currency,
        is_counted=money.is_counted,
        energy=_price(r, tariff, tariff.energy, "energy") if tariff else None,
        export=_price(r, tariff, tariff.export, "export") if tariff and tariff.export else None,
        before=_bill(r.after.bill_before, before.name) if r.after.bill_before and before else None,
        after=_bill(r.after.bill, tariff.name) if r.after.bill and tariff else None,
        purchase=[PurchaseLineAnswer.model_validate(line) for line in cash.purchase.lines],
        purchase_estimated=cash.purchase.estimated,
        purchase_own=cash.purchase.own,
        without_price=materials.without_price,
        foreign=list(materials.foreign),
        flows=[FlowLine(title=title, amounts=flow.tolist()) for title, flow in cash.flows.items()],
        total=cash.total.tolist(),
        running=cash.running.tolist(),
        rates_of_return=list(cash.rates_of_return),
        figures=figure_texts(r),
        sensitivities=[SensitivityLine.model_validate(one) for one in sensitivities(r)],
        statement=statement_of(r.design),
    )


def figure_texts(r: Results, headline_only: bool = False) -> list[FigureText]:
    """Figures that a design has, with their values and units."""
    return [
        FigureText(
            key=f.key, title=f.title, value=f.value(r), unit=f.unit_of(r), without=f.without, decimals=f.decimals, is_percentage=f.is_percentage
        )
        for f in FIGURES
        if f.is_there(r) and (f.in_headline or not headline_only)
    ]  # fmt: skip


def _bill(bill: Bill, name: str) -> BillYear:
    def of(*kinds: str) -> list[float]:
        return [round(sum(line.amount for line in bill.lines if line.month == m and line.kind in kinds), 2) for m in range(12)]

    return BillYear(
        tariff=name, total=bill.total, by_month=list(bill.by_month), energy_by_month=of("energy", "settlement", "export"), demand_by_month=of("demand"),
        lines=[BillLineAnswer.model_validate(line, from_attributes=True) for line in bill.lines],
    )  # fmt: skip


def _price(r: Results, tariff: Tariff, energy: EnergyPrice, side: str) -> PriceAnswer:
    form = "flat" if energy.price is not None else "tiers" if energy.tiers else "table" if energy.table else "periods"
    at = f"/money/tariff/{side}"
    if form == "flat":
        periods = {"": PeriodAnswer(name="all hours", price=energy.price or 0.0, pointer=f"{at}/price")}
    elif form == "tiers":
        periods = {}
    else:
        periods = {
            key: PeriodAnswer(name=p.name, price=p.price, pointer=f"{at}/periods/{key}/price") for key, p in energy.periods.items()
        }  # fmt: skip
    weeks = [
        WeekAnswer(
            key=w.key, title=w.title, months=list(w.months), periods=[list(row) for row in w.periods], prices=np.round(w.prices, 6).tolist(),
            imported=np.round(w.imported, 4).tolist(), exported=np.round(w.exported, 4).tolist(),
        )
        for w in price_weeks(r, tariff, energy)
    ]  # fmt: skip
    return PriceAnswer(form=form, can_be_painted=form in ("flat", "periods"), periods=periods, weeks=weeks)
