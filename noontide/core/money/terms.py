"""Money in the design: what energy costs and earns, what the plant costs, who pays for it, and over how many years it is counted."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from noontide.core.fields import Currency, Document, Id, Line, choice, quantity
from noontide.core.money.tariff import Tariff
from noontide.core.money.yield_table import YieldTable

Amount = Annotated[float, Field(ge=-1e9, le=1e9)]
Basis = Literal["plant", "kW", "module", "inverter", "m²", "% of purchase"]
Rate = Annotated[float, Field(ge=1e-6, le=1e6, json_schema_extra={"x-step": 0.01})]
Grams = Annotated[float, Field(ge=0, le=2000)]


class Cost(Document):
    """An item that is paid once, when the plant is built."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    amount: float = quantity(..., "Amount", "", -1e9, 1e9, step=10)
    per: Literal["plant", "kW", "module", "inverter", "m²"] = choice("plant", "Per", "A fixed amount.")


class Upkeep(Document):
    """An item that is paid at the end of every year: operation, insurance, rent."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    amount: float = quantity(..., "Amount a year", "", -1e9, 1e9, step=10)
    per: Basis = choice("plant", "Per", "A fixed amount.")


class Replacement(Document):
    """An item that is paid every so many years."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    amount: float = quantity(..., "Amount", "", -1e9, 1e9, step=10)
    per: Basis = choice("plant", "Per", "A fixed amount.")
    every: int = quantity(12, "Every", "years", 1, 60, "Usual life of an inverter.")


class Grant(Document):
    """What somebody else pays towards the purchase."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    amount: float = quantity(0.0, "Amount", "", 0, 1e9, "None.", 100)
    share: float = quantity(0.0, "Share of the purchase", "%", 0, 100, "None.", 5)


class Loan(Document):
    """A part of the purchase that is borrowed."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    share: float = quantity(50.0, "Share of the purchase", "%", 0, 100, "Half of it.", 5)
    interest: float = quantity(4.0, "Interest", "%", 0, 30, "A made-up rate.", 0.1)
    years: int = quantity(10, "Years", "", 1, 60, "Usual of loans for equipment.")
    repayment: Literal["annuity", "bullet"] = choice("annuity", "Repayment", "The same payment every year, interest included.")


class TaxRelief(Document):
    """Purchase written off in equal parts, which saves tax at a rate."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    share: float = quantity(100.0, "Share of the purchase that is written off", "%", 0, 100, "All of it.", 5)
    years: int = quantity(20, "Over", "years", 1, 60, "Usual life of a plant.", 5)
    rate: float = quantity(25.0, "Tax rate", "%", 0, 100, "A made-up rate.", 1)


class Money(Document):
    """Prices, costs and the years over which they are counted."""

    currency: Currency = Field("EUR", title="Currency of prices (ISO 4217)")
    exchange: dict[Currency, Rate] = Field({}, max_length=20, title="What one of another currency is worth in the design's")
    tariff: Tariff | None = Field(None, title="Tariff")
    tariff_before: Tariff | None = Field(None, title="Tariff without the plant")
    energy_value: float = quantity(
        0.08, "Value of energy", "per kWh", 0, 10, "A made-up feed-in price; a tariff replaces it.", 0.01
    )
    years: int = quantity(20, "Years counted", "", 1, 60, "Usual length of a contract.", 5)
    interest: float = quantity(3.0, "Interest", "%", 0, 30, "A made-up rate.", 0.5)
    price_change: float | None = quantity(
        None, "Change of energy prices a year", "%", -20, 50, "As the tariff says; constant without one.", 0.5
    )
    cost_change: float = quantity(0.0, "Change of costs a year", "%", -20, 50, "Constant prices.", 0.5)
    own_purchase: float | None = quantity(
        None, "Own figure of the purchase", "", 0, 1e9, "The bill of materials and the items below.", 100
    )
    contingency: float = quantity(0.0, "Contingency", "%", 0, 100, "None.", 1)
    purchase_tax: float = quantity(0.0, "Tax on the purchase", "%", 0, 100, "Prices without tax.", 1)
    costs: dict[Id, Cost] = Field({}, max_length=100, title="Items of the purchase")
    upkeep: dict[Id, Upkeep] = Field({}, max_length=100, title="Yearly costs")
    replacements: dict[Id, Replacement] = Field({}, max_length=40, title="Replacements")
    grants: dict[Id, Grant] = Field({}, max_length=20, title="Grants")
    loans: dict[Id, Loan] = Field({}, max_length=20, title="Loans")
    tax_relief: dict[Id, TaxRelief] = Field({}, max_length=20, title="Tax relief")
    rest_value: float = quantity(0.0, "Rest value after the years", "%", 0, 100, "Nothing is left.", 5)
    carbon: float = quantity(300.0, "CO₂ of energy from the grid", "g/kWh", 0, 2000, "A made-up mix of gas and renewables.", 10)
    carbon_by_hour: Annotated[tuple[Grams, ...], Field(max_length=8784)] = Field(
        (), title="CO₂ by hour of the day, of the day by month, or of the year [g/kWh]"
    )
    yield_table: YieldTable | None = Field(None, title="Yield table of a scheme of rules")
    step_of_prices: float = quantity(1.0, "Step of the price change", "% a year", 0.1, 10, "A percentage point a year.", 0.5)
    step_of_yield: float = quantity(5.0, "Step of the yield", "%", 0.1, 50, "About what weather of a single year may differ.", 1)
    step_of_costs: float = quantity(10.0, "Step of the purchase", "%", 0.1, 90, "About what offers differ by.", 1)
    statement: Line = Field(
        "",
        max_length=400,
        title="Statement on the inputs",
        json_schema_extra={"x-reason": "What the design itself says of them."},
    )

    @model_validator(mode="after")
    def _one_currency(self) -> Self:
        for name in ("tariff", "tariff_before"):
            tariff: Tariff | None = getattr(self, name)
            if tariff is not None and tariff.currency != self.currency:
                raise ValueError(
                    f"The tariff '{tariff.name}' is in {tariff.currency} and the design in {self.currency}. Set currency to {tariff.currency}, or choose another tariff."
                )
        if self.tariff is None and self.tariff_before is not None:
            raise ValueError("A tariff without the plant needs one with it. Set tariff, or set tariff_before to null.")
        if self.carbon_by_hour and len(self.carbon_by_hour) not in (24, 288, 8760, 8784):
            raise ValueError(
                f"CO₂ by hour has 24, 288 (24 for each month), 8760 or 8784 values; there are {len(self.carbon_by_hour)}."
            )
        return self

    def worth(self, price: float | None, currency: str | None) -> float | None:
        """A price in the design's currency; None where there is no price, or no rate for the currency that it was given in."""
        if price is None or currency is None or currency == self.currency:
            return price
        rate = self.exchange.get(currency)
        return None if rate is None else price * rate

    @property
    def is_counted(self) -> bool:
        """Whether anything was said of what the plant costs or saves; the value of energy alone serves the choice of cables."""
        return (
            self.tariff is not None
            or self.own_purchase is not None
            or bool(self.costs or self.upkeep or self.grants or self.loans)
        )

    @property
    def energy_price_change(self) -> float:
        """Of energy prices a year, as a share."""
        if self.price_change is not None:
            return self.price_change / 100
        return self.tariff.yearly_change / 100 if self.tariff is not None else 0.0
