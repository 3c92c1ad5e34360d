"""Sources of demand as data: appliances, use by area, monthly bills, interval data, heating, cooling, hot water, vehicles, pumps; each is one of these."""

from typing import Annotated, Any, Literal, Self

from pydantic import Field, field_validator, model_validator

from noontide.core.demand.pumping import GRAVITY, WATER_DENSITY
from noontide.core.demand.shapes import ShapeName
from noontide.core.fields import (
    Document,
    Holidays,
    Id,
    Line,
    checked_day,
    choice,
    day_of_leap_year,
    months,
    quantity,
    words_of_day,
)
from noontide.core.fields import Monthly as ByMonth
from noontide.core.hours import DAY, read_hours

Days = Literal["every day", "weekdays", "weekends"]
Current = Literal["AC", "DC"]
Month = Annotated[int, Field(ge=1, le=12)]
Fractions = ByMonth[Annotated[float, Field(ge=0, le=1e6)]]
KnownMonth = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False, json_schema_extra={"x-step": 10})] | None


class Appliance(Document):
    """Identical appliances that run at the same hours."""

    name: Line = Field("", max_length=80, title="Name")
    number: float = quantity(1.0, "Number", "", 0, 1e6, "One.")
    places: float = quantity(1.0, "Places", "", 0, 1e6, "One.")
    power: float = quantity(..., "Rated power", "W", 0, 1e7, step=10)
    efficiency: float = quantity(1.0, "Efficiency", "", 0.01, 1, "The power is what it draws.", 0.05)
    duty: float = quantity(1.0, "Duty", "", 0, 1, "On all the time within its hours.", 0.05)
    surge: float = quantity(1.0, "Surge factor", "", 1, 20, "No inrush.", 0.5)
    current: Current = choice("AC", "Current", "From the inverter.")
    phase: Literal[1, 2, 3] | None = Field(None, title="Phase")
    category: Line = Field("", max_length=60, title="Category")
    hours: str = Field("0-24", max_length=200, title="Hours of the day")
    hours_a_day: float | None = quantity(None, "Hours a day within them", "h", 0, 24, "All of them.", 0.5)
    days: Days = choice("every day", "Days", "The same on weekends.")
    months: tuple[Month, ...] = Field(tuple(range(1, 13)), title="Months", min_length=1, max_length=12)

    @model_validator(mode="after")
    def _hours_hold(self) -> Self:
        window = self.window_hours
        if self.hours_a_day is not None and self.hours_a_day > window + 1e-9:
            raise ValueError(f"{self.hours_a_day:g} hours a day do not fit into the {window:g} hours of {self.hours!r}.")
        return self

    @property
    def window_hours(self) -> float:
        """Hours of the day that it may run, each once [h]."""
        minutes = {minute for start, end in read_hours(self.hours) for minute in range(start, end)}
        return len(minutes) / DAY * 24

    @property
    def running_power(self) -> float:
        """Drawn while it runs, all of them together [kW]."""
        return self.number * self.places * self.power / self.efficiency / 1000

    @property
    def use(self) -> float:
        """Share of its hours that it runs, 0..1."""
        window = self.window_hours
        spread = 1.0 if self.hours_a_day is None or window == 0 else self.hours_a_day / window
        return self.duty * spread


class Appliances(Document):
    items: dict[Id, Appliance] = Field({}, title="Appliances", max_length=400)
    margin: float = quantity(0.0, "Margin for what may be added", "%", 0, 500, "None.", 5)

    def of_current(self, current: Current) -> "Appliances":
        """Those of one kind of current alone."""
        return self.model_copy(update={"items": {key: item for key, item in self.items.items() if item.current == current}})


class PerArea(Document):
    """Use of a building by its floor area."""

    use: float = quantity(80.0, "Use of electricity a year by floor area", "kWh/m²", 0, 5000, "A dwelling with a heat pump.", 5)
    area: float = quantity(150.0, "Floor area", "m²", 0, 1_000_000, "A house.", 10)
    shape: ShapeName = choice("household", "Course over day, week and year", "A dwelling.")


class Yearly(Document):
    """Energy of a year, in the course of a kind of building."""

    energy: float = quantity(4000.0, "Energy a year", "kWh", 0, 1e9, "A household.", 100)
    shape: ShapeName = choice("household", "Course over day, week and year", "A dwelling.")


DATE = r"^(\d{4}-)?\d{2}-\d{2}$"


class BillPeriod(Document):
    """One bill: the days from one reading of the meter to the next, with the energy or the money of it."""

    first: str = Field(pattern=DATE, title="First day, MM-DD or YYYY-MM-DD")
    last: str = Field(pattern=DATE, title="Last day, MM-DD or YYYY-MM-DD")
    energy: float | None = quantity(None, "Energy", "kWh", 0, 1e9, "By the money and the price.", 10)
    money: float | None = quantity(None, "Money", "", 0, 1e9, "By the energy.", 10)

    @field_validator("first", "last")
    @classmethod
    def _is_a_day(cls, day: str) -> str:
        checked_day(day)
        return day

    @model_validator(mode="after")
    def _is_known(self) -> Self:
        if (self.energy is None) == (self.money is None):
            raise ValueError("A bill has its energy or its money: give one of them.")
        return self

    @property
    def days(self) -> tuple[int, ...]:
        """Days of a leap year from 0 that it holds, over the year's end where it ends before it begins."""
        first, last = (day_of_leap_year(day) for day in (self.first, self.last))
        return tuple(range(first, last + 1)) if first <= last else (*range(first, 366), *range(last + 1))


class Monthly(Document):
    """Energy by month or from one reading of the meter to the next, as bills have it; what is not known follows the weather."""

    energies: tuple[KnownMonth, ...] = Field((), title="Energy by month [kWh]; null where it is not known", max_length=12)
    bills: dict[Id, BillPeriod] = Field({}, title="Bills between readings of the meter", max_length=24)
    price: float = quantity(0.3, "Price of a kWh, of bills in money", "per kWh", 0.001, 100, "A made-up price.", 0.01)
    standing: float = quantity(0.0, "Standing charge a day, of bills in money", "per day", 0, 1000, "None.", 0.05)
    shape: ShapeName = choice("household", "Course over the day and the week", "A dwelling.")

    @model_validator(mode="after")
    def _some_are_known(self) -> Self:
        if self.energies and self.bills:
            raise ValueError("Energies are by month or by bill. Leave out the other of energies and bills.")
        if self.energies and len(self.energies) != 12:
            raise ValueError(f"A year has twelve months; there are {len(self.energies)}.")
        if not self.bills and all(energy is None for energy in self.energies):
            raise ValueError("No month is known. Give at least one.")
        seen: dict[int, str] = {}
        for key, one in self.bills.items():
            for day in one.days:
                if day in seen:
                    raise ValueError(
                        f"The bills '{seen[day]}' and '{key}' both hold {words_of_day(day)}. A day belongs to one bill."
                    )
                seen[day] = key
        return self

    def energy_of(self, one: BillPeriod) -> float:
        """Of a bill [kWh]; of money what is left of it without the standing charge, over the price."""
        if one.energy is not None:
            return one.energy
        assert one.money is not None
        return max(one.money - self.standing * len(one.days), 0.0) / self.price


class Interval(Document):
    """Use that was measured, interval by interval; the values are kept beside the design by their digest."""

    digest: str = Field(pattern=r"^[0-9a-f]{8,64}$")
    title: Line = Field("", max_length=200, title="File")
    energy: float | None = quantity(None, "Scaled to an energy a year of", "kWh", 0.001, 1e9, "As it was measured.", 100)
    peak: float | None = quantity(None, "Scaled to a highest power of", "kW", 0.001, 1e6, "As it was measured.", 1)


class Heating(Document):
    """Heat of a building from a heat pump, or from an element at an efficiency of 1."""

    heat_loss: float = quantity(150.0, "Heat loss", "W/K", 0, 1e6, "A house of medium insulation.", 10)
    base: float = quantity(15.0, "Outdoor temperature from which on it is heated", "°C", -10, 30, "A well insulated house.")
    cop: float = quantity(3.6, "Coefficient of performance at 7 °C", "", 0.2, 10, "An air-water heat pump, flow at 35 °C.", 0.1)
    cop_slope: float = quantity(0.08, "Its change by outdoor temperature", "1/K", 0, 0.5, "Usual of air-water heat pumps.", 0.01)
    largest: float | None = quantity(None, "Largest power", "kW", 0.1, 1e5, "Not limited.", 0.5)


class Cooling(Document):
    """Cold of a building from a machine whose efficiency falls as it gets hotter outside."""

    heat_gain: float = quantity(150.0, "Heat gain", "W/K", 0, 1e6, "A house of medium weight.", 10)
    base: float = quantity(22.0, "Outdoor temperature from which on it is cooled", "°C", 5, 45, "Base of cooling degree days.")
    cop: float = quantity(3.5, "Coefficient of performance at 35 °C", "", 0.2, 12, "A split unit.", 0.1)
    cop_slope: float = quantity(0.08, "Its fall by outdoor temperature", "1/K", 0, 0.5, "Usual of air-cooled machines.", 0.01)
    largest: float | None = quantity(None, "Largest power", "kW", 0.1, 1e5, "Not limited.", 0.5)


Timing = Literal["at once", "cheapest hours", "by the sun", "by the sun alone"]


class HotWater(Document):
    """Hot water from a store that is heated once water was drawn, until it is drawn again."""

    litres: float = quantity(120.0, "Drawn a day", "l", 0, 1e6, "Three persons.", 10)
    cold: float = quantity(10.0, "Cold water", "°C", 0, 40, "Of the mains.")
    hot: float = quantity(50.0, "Hot water", "°C", 20, 95, "At the store.")
    loss: float = quantity(1.5, "Loss of the store a day", "kWh", 0, 100, "A store of 200 l.", 0.1)
    hours: str = Field("6-8 18-21", max_length=200, title="Hours at which it is drawn")
    power: float = quantity(2.0, "Power of the element or the heat pump", "kW", 0.1, 1000, "A small element.", 0.5)
    cop: float = quantity(1.0, "Coefficient of performance", "", 0.5, 8, "An element.", 0.1)
    timing: Timing = choice("at once", "Heated", "As soon as water is drawn.")

    @model_validator(mode="after")
    def _warms(self) -> Self:
        if self.hot <= self.cold:
            raise ValueError(f"Hot water of {self.hot:g} °C is not warmer than the cold of {self.cold:g} °C.")
        if self.litres > 0 and not read_hours(self.hours):
            raise ValueError("Say at which hours water is drawn, such as 6-8 18-21.")
        return self


class Vehicle(Document):
    """A vehicle that is charged between coming home and leaving."""

    weekday_km: float = quantity(40.0, "Driven on a weekday", "km", 0, 2000, "To work and back.", 10)
    weekend_km: float = quantity(0.0, "Driven on a day of the weekend", "km", 0, 2000, "It stands.", 10)
    consumption: float = quantity(18.0, "Consumption", "kWh/100 km", 1, 300, "A small car, charging loss included.", 1)
    charger: float = quantity(3.7, "Charger", "kW", 0.5, 1000, "One phase, 16 A.", 0.5)
    arrival: float = quantity(18.0, "Comes home at", "h", 0, 23.99, "After work.", 0.5)
    leaving: float = quantity(7.5, "Leaves at", "h", 0, 23.99, "Before work.", 0.5)
    stays_on_weekends: bool = choice(False, "At home on days off", "It leaves every day.")
    timing: Timing = choice("at once", "Charged", "As soon as it comes home.")

    @model_validator(mode="after")
    def _stays(self) -> Self:
        if self.arrival == self.leaving:
            raise ValueError("It leaves when it comes. Give two different times.")
        return self


class Pump(Document):
    """Water lifted into a tank: energy by head and volume, with the friction of its pipe."""

    volume: float = quantity(10.0, "Volume a day", "m³", 0, 1e6, "A small village.", 1)
    volume_by_month: Fractions | None = months("Volume a day by month", "m³", 1)
    head: float = quantity(30.0, "Static head", "m", 0, 2000, "A shallow borehole and a tank.", 5)
    pipe: float = quantity(
        0.0, "Friction head at the rated flow", "m", 0, 500, "A short, wide pipe: head rises with the flow squared.", 1
    )
    efficiency: float = quantity(0.45, "Efficiency of pump and motor", "", 0.05, 0.95, "A small submersible pump.", 0.05)
    power: float = quantity(1.5, "Rated power", "kW", 0.05, 10_000, "A small submersible pump.", 0.1)
    hours: str = Field("8-17", max_length=200, title="Hours at which it may run")
    timing: Timing = choice("at once", "Pumps", "From the first of its hours on.")
    tank: float = quantity(1.0, "Tank, where it runs by the sun alone", "days of use", 0, 60, "A day of use.", 0.5)

    @model_validator(mode="after")
    def _may_run(self) -> Self:
        if not read_hours(self.hours):
            raise ValueError("Say at which hours the pump may run, such as 8-17.")
        return self

    @property
    def rated_flow(self) -> float:
        """At its rated power [m3/h]; none where nothing is to be lifted."""
        lifted = self.head + self.pipe
        return self.power * 3.6e6 * self.efficiency / (WATER_DENSITY * GRAVITY * lifted) if lifted else float("inf")

    def energy(self, month: int) -> float:
        """Of a day of a month from 0 [kWh]: hydraulic energy rho g V H over the efficiency, at the rated flow.

        References
        ----------
        Hydraulic power rho g Q H; a system curve of static head and k Q^2.
        """
        return self.volume_of(month) * self.per_volume

    def volume_of(self, month: int) -> float:
        """Of a day of a month from 0 [m3]."""
        return self.volume if self.volume_by_month is None else self.volume_by_month[month]

    @property
    def per_volume(self) -> float:
        """Energy of a cubic metre at the rated flow [kWh/m3]."""
        return WATER_DENSITY * GRAVITY * (self.head + self.pipe) / self.efficiency / 3.6e6


KINDS = (
    "appliances", "yearly", "per_area", "monthly", "interval", "heating", "cooling", "hot_water", "vehicle", "pump",
)  # fmt: skip
KIND_TITLES = {
    "appliances": "Appliances and places", "yearly": "Energy a year", "per_area": "Use by floor area", "monthly": "Bills by month", "interval": "Interval data", "heating": "Heating",
    "cooling": "Cooling", "hot_water": "Hot water", "vehicle": "Vehicle", "pump": "Water pump",
}  # fmt: skip


class Source(Document):
    """One source of demand: one of these kinds, times a factor."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    factor: float = quantity(1.0, "Times", "", 0, 1e6, "As it is.", 0.1)
    appliances: Appliances | None = Field(None, title="Appliances and places")
    yearly: Yearly | None = Field(None, title="Energy a year")
    per_area: PerArea | None = Field(None, title="Use by floor area")
    monthly: Monthly | None = Field(None, title="Bills by month")
    interval: Interval | None = Field(None, title="Interval data")
    heating: Heating | None = Field(None, title="Heating")
    cooling: Cooling | None = Field(None, title="Cooling")
    hot_water: HotWater | None = Field(None, title="Hot water")
    vehicle: Vehicle | None = Field(None, title="Vehicle")
    pump: Pump | None = Field(None, title="Water pump")

    @model_validator(mode="after")
    def _one_kind(self) -> Self:
        given = [kind for kind in KINDS if getattr(self, kind) is not None]
        if len(given) != 1:
            raise ValueError(
                f"A source is one of {', '.join(KINDS)}; {'there are ' + ' and '.join(given) if given else 'there is none'}."
            )
        return self

    @property
    def kind(self) -> str:
        return next(kind for kind in KINDS if getattr(self, kind) is not None)

    @property
    def can_wait(self) -> bool:
        """Whether it is in use and goes otherwise than at once."""
        return self.is_on and getattr(getattr(self, self.kind), "timing", "at once") != "at once"


class Demand(Document):
    """Sources that add up to the demand of a meter."""

    sources: dict[Id, Source] = Field({}, title="Sources", max_length=200)
    holidays: Holidays = Field((), title="Holidays, MM-DD or YYYY-MM-DD", max_length=400)

    @model_validator(mode="after")
    def _everything_has_a_name(self) -> Self:
        """A source that nobody named is called by its kind: derived at every reading, and never kept."""
        for source in self.sources.values():
            if not source.name:
                source.__dict__["name"] = KIND_TITLES[source.kind]
        return self


class Sources(Demand):
    """Demand as a file of its own."""

    format: Literal["noontide-demand/1"] = "noontide-demand/1"
    name: Line = Field("", max_length=120, title="Name")
    time_zone: str = Field("", max_length=60, title="Time zone, for daylight saving time")


def read_sources(document: Any) -> Sources:
    """Sources of demand from their JSON document.

    Raises
    ------
    pydantic.ValidationError
        With a location for each invalid value.
    """
    return Sources.model_validate(document)
