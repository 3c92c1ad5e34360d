"""A tariff as data: what energy, power and being connected cost, and what exported energy earns."""

from functools import cached_property
from itertools import pairwise
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from noontide.core.calendar import MONTHS
from noontide.core.fields import Currency, Document, Holidays, Id, Line, choice, quantity
from noontide.core.hours import DAY, Ranges, clock, read_hours

Month = Annotated[int, Field(ge=1, le=12)]
Price = Annotated[float, Field(ge=-10, le=100, allow_inf_nan=False)]
Hours = dict[Id, str]  # of each period, on one kind of day
DayKind = Literal["weekday", "saturday", "sunday", "holiday"]
ALL_MONTHS = tuple(range(1, 13))
TABLES = (24, 288, 8760, 8784)  # hours of a day, of a day by month, of a year


class Period(Document):
    """Hours of one price."""

    name: Line = Field("", max_length=60, title="Name")
    price: Price = Field(title="Price of a kWh")


class Season(Document):
    """Months whose days have the same hours."""

    name: Line = Field("", max_length=60, title="Name")
    months: tuple[Month, ...] = Field(ALL_MONTHS, title="Months", min_length=1, max_length=12)
    weekday: Hours = Field(title="Hours of each period on weekdays", min_length=1)
    saturday: Hours | None = Field(None, title="On Saturdays, where they differ")
    sunday: Hours | None = Field(None, title="On Sundays, where they differ from Saturdays")
    holiday: Hours | None = Field(None, title="On holidays, where they differ from Sundays")

    def on(self, kind: DayKind) -> Hours:
        """The hours of a kind of day: what is not said is as the kind before it."""
        return {
            "weekday": self.weekday,
            "saturday": self.saturday or self.weekday,
            "sunday": self.sunday or self.saturday or self.weekday,
            "holiday": self.holiday or self.sunday or self.saturday or self.weekday,
        }[kind]


class Tier(Document):
    """Price up to an amount of energy a month."""

    up_to: float | None = quantity(None, "Up to", "kWh a month", 0.001, 1e9, "All that is over the tier before.")
    price: Price = Field(title="Price of a kWh")


class EnergyPrice(Document):
    """The price of energy: one price, tiers, periods by season, or a table by hour; one of them."""

    price: Price | None = Field(None, title="Price of a kWh")
    tiers: tuple[Tier, ...] = Field((), title="Tiers", max_length=12)
    periods: dict[Id, Period] = Field({}, title="Periods", max_length=24)
    seasons: dict[Id, Season] = Field({}, title="Seasons", max_length=12)
    table: tuple[Price, ...] = Field((), title="Prices by hour of the day, of the day by month, or of the year")

    @model_validator(mode="after")
    def _one_way(self) -> Self:
        ways = [
            name
            for name, given in (
                ("price", self.price is not None),
                ("tiers", self.tiers),
                ("seasons", self.seasons),
                ("table", self.table),
            )
            if given
        ]
        if len(ways) != 1:
            raise ValueError(
                f"Give one of price, tiers, seasons and table; there {'are ' + ' and '.join(ways) if ways else 'is none'}."
            )
        if self.tiers:
            _check_tiers(self.tiers)
        if self.table and len(self.table) not in TABLES:
            raise ValueError(
                f"A table of prices has 24, 288 (24 for each month), 8760 or 8784 values; there are {len(self.table)}."
            )
        if self.seasons:
            _check_seasons(self.seasons, self.periods)
        return self

    @model_validator(mode="after")
    def _everything_has_a_name(self) -> Self:
        """Periods and seasons that nobody named are called by their place: derived at every reading, and never kept."""
        for number, period in enumerate(self.periods.values(), start=1):
            if not period.name:
                period.__dict__["name"] = f"period {number}"
        for number, season in enumerate(self.seasons.values(), start=1):
            if not season.name:
                season.__dict__["name"] = "all year" if len(self.seasons) == 1 else f"season {number}"
        return self


class NetMetering(Document):
    """Exported energy takes the same energy off the bill, in its month and carried over to later ones."""

    settled_after: Month = Field(12, title="Month after which what is left is settled")
    settlement: Price = Field(0.0, title="Paid for a kWh that is left then")


class DemandCharge(Document):
    """A price of power: of the highest mean of a month within some hours."""

    name: Line = Field("Demand charge", max_length=60, title="Name")
    price: float = quantity(..., "Price of a kW a month", "", 0, 10_000, step=0.1)
    months: tuple[Month, ...] = Field(ALL_MONTHS, title="Months", min_length=1, max_length=12)
    weekday: str = Field("0-24", max_length=200, title="Hours on weekdays")
    saturday: str | None = Field(None, max_length=200, title="Hours on Saturdays; empty for none")
    sunday: str | None = Field(None, max_length=200, title="Hours on Sundays; empty for none")
    holiday: str | None = Field(None, max_length=200, title="Hours on holidays; empty for none")
    averaging: Literal[15, 30, 60] = choice(15, "Averaged over", "Usual of meters of load profiles.")
    ratchet: float = quantity(0.0, "At least this share of the highest of the months before", "%", 0, 100, "No ratchet.", 5)
    ratchet_months: int = quantity(11, "Months before that count", "", 1, 11, "The year before.")
    contracted: float | None = quantity(None, "Contracted power", "kW", 0, 1e6, "What is measured is paid.")
    excess_price: float | None = quantity(None, "Price of a kW over the contracted power", "", 0, 10_000, "The same price.")

    def hours_on(self, kind: DayKind) -> str:
        """The hours of a kind of day, as people write them: what is not said is as the kind before it."""
        return {
            "weekday": self.weekday,
            "saturday": _first_given(self.saturday, self.weekday),
            "sunday": _first_given(self.sunday, self.saturday, self.weekday),
            "holiday": _first_given(self.holiday, self.sunday, self.saturday, self.weekday),
        }[kind]

    @model_validator(mode="after")
    def _hours_read(self) -> Self:
        for kind in ("weekday", "saturday", "sunday", "holiday"):
            read_hours(self.hours_on(kind))
        if self.excess_price is not None and self.contracted is None:
            raise ValueError("A price of excess power needs a contracted power.")
        return self


class FixedCharge(Document):
    name: Line = Field("Standing charge", max_length=60, title="Name")
    amount: float = quantity(..., "Amount", "", -1e6, 1e6)
    per: Literal["day", "month", "year"] = choice("month", "Per", "Usual of bills by month.")


class Tax(Document):
    """A share of other lines, as a line of its own."""

    name: Line = Field("Tax", max_length=60, title="Name")
    share: float = quantity(..., "Share", "%", 0, 200, step=0.5)
    of: tuple[Literal["energy", "demand", "fixed"], ...] = Field(
        ("energy", "demand", "fixed"), title="Of these lines", min_length=1
    )


class Tariff(Document):
    """What a meter's energy costs and earns, as data."""

    format: Literal["noontide-tariff/1"] = "noontide-tariff/1"
    name: Line = Field("Tariff", max_length=120, title="Name")
    source: Line = Field("", max_length=300, title="Source")
    currency: Currency = Field("EUR", title="Currency (ISO 4217)")
    energy: EnergyPrice = Field(title="Energy from the grid")
    export: EnergyPrice | None = Field(None, title="Energy to the grid")
    net_metering: NetMetering | None = Field(None, title="Net metering")
    demand: dict[Id, DemandCharge] = Field({}, title="Demand charges", max_length=12)
    fixed: dict[Id, FixedCharge] = Field({}, title="Fixed charges", max_length=12)
    taxes: dict[Id, Tax] = Field({}, title="Taxes", max_length=12)
    holidays: Holidays = Field((), title="Holidays, MM-DD every year or YYYY-MM-DD", max_length=400)
    yearly_change: float = quantity(0.0, "Change of all prices a year", "%", -20, 50, "Constant prices.", 0.5)

    @model_validator(mode="after")
    def _export_is_one_way(self) -> Self:
        if self.net_metering is not None and self.export is not None:
            raise ValueError("Net metering takes exported energy off the bill: leave export out, or net_metering.")
        if self.net_metering is not None and self.energy.table:
            raise ValueError(
                "Net metering needs prices by period; a table of hourly prices pays each hour by itself: use export."
            )
        if self.export is not None and self.export.tiers:
            raise ValueError("Exported energy is paid by one price, by periods or by a table; not by tiers.")
        return self

    @cached_property
    def of_use_alone(self) -> "Tariff":
        """The same for a meter behind which nothing is made: nothing is exported then, whatever it would earn."""
        return self if self.net_metering is not None else self.model_copy(update={"export": None})


def read_tariff(document: Any) -> Tariff:
    """A tariff from its JSON document.

    Raises
    ------
    pydantic.ValidationError
        With a location for each invalid value.
    """
    return Tariff.model_validate(document)


def _first_given(*texts: str | None) -> str:
    return next(text for text in texts if text is not None)


def _check_tiers(tiers: tuple[Tier, ...]) -> None:
    if tiers[-1].up_to is not None:
        raise ValueError("The last tier has no end: leave its up_to out.")
    ends = [tier.up_to for tier in tiers[:-1]]
    for number, end in enumerate(ends, start=1):
        if end is None:
            raise ValueError(f"Tier {number} has no end, and there is one after it.")
    if any(b <= a for a, b in pairwise([end for end in ends if end is not None])):
        raise ValueError("The ends of the tiers must rise.")


def _check_seasons(seasons: dict[str, Season], periods: dict[str, Period]) -> None:
    """Refuse a week with a hole, or an hour with two prices; the words name the first place."""
    for month, title in enumerate(MONTHS, start=1):
        within = [key for key, season in seasons.items() if month in season.months]
        if len(within) != 1:
            raise ValueError(
                f"{title} is in {'no season' if not within else ' and '.join(within)}. Every month belongs to one season."
            )
    for key, season in seasons.items():
        for kind in ("weekday", "saturday", "sunday", "holiday"):
            hours = season.on(kind)
            place = f"{season.name or key}, {kind}"
            if unknown := [name for name in hours if name not in periods]:
                raise ValueError(f"{place}: there is no period '{unknown[0]}'. There are {', '.join(periods) or 'none'}.")
            _check_day(place, {name: read_hours(text) for name, text in hours.items()})


def _check_day(place: str, hours: dict[str, Ranges]) -> None:
    parts = sorted((start, end, name) for name, ranges in hours.items() for start, end in ranges)
    at = 0
    before = ""
    for start, end, name in parts:
        if start > at:
            raise ValueError(f"{place}: no price from {clock(at)} to {clock(start)}.")
        if start < at:
            raise ValueError(f"{place}: two prices, '{before}' and '{name}', from {clock(start)} to {clock(min(at, end))}.")
        at, before = end, name
    if at < DAY:
        raise ValueError(f"{place}: no price from {clock(at)} to 24:00.")
