"""Sources of demand as data: appliances, use by area, monthly bills, heating, hot water, vehicles; each is one of these."""

from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from noontide.core.demand.shapes import ShapeName
from noontide.core.fields import Document, Id, Line, choice, quantity
from noontide.core.hours import DAY, read_hours

Days = Literal["every day", "weekdays", "weekends"]
Month = Annotated[int, Field(ge=1, le=12)]
KnownMonth = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)] | None


class Appliance(Document):
    """Identical appliances that run at the same hours."""

    name: Line = Field("", max_length=80, title="Name")
    number: float = quantity(1.0, "Number", "", 0, 1e6, "One.")
    places: float = quantity(1.0, "Places", "", 0, 1e6, "One.")
    power: float = quantity(..., "Rated power", "W", 0, 1e7, step=10)
    efficiency: float = quantity(1.0, "Efficiency", "", 0.01, 1, "The power is what it draws.", 0.05)
    duty: float = quantity(1.0, "Duty", "", 0, 1, "On all the time within its hours.", 0.05)
    surge: float = quantity(1.0, "Surge factor", "", 1, 20, "No inrush.", 0.5)
    current: Literal["AC", "DC"] = choice("AC", "Current", "From the inverter.")
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


class PerArea(Document):
    """Use of a building by its floor area."""

    use: float = quantity(..., "Use of electricity a year by floor area", "kWh/m²", 0, 5000, step=5)
    area: float = quantity(..., "Floor area", "m²", 0, 1_000_000, step=10)
    shape: ShapeName = choice("household", "Course over day, week and year", "A dwelling.")


class Monthly(Document):
    """Energy by month, as bills have it; months that are not known follow the weather."""

    energies: tuple[KnownMonth, ...] = Field(
        title="Energy by month [kWh]; null where it is not known", min_length=12, max_length=12
    )
    shape: ShapeName = choice("household", "Course over the day and the week", "A dwelling.")

    @model_validator(mode="after")
    def _some_are_known(self) -> Self:
        if all(energy is None for energy in self.energies):
            raise ValueError("No month is known. Give at least one.")
        return self


class Heating(Document):
    """Heat of a building from a heat pump, or from an element at an efficiency of 1."""

    heat_loss: float = quantity(..., "Heat loss", "W/K", 0, 1e6, step=10)
    base: float = quantity(15.0, "Outdoor temperature from which on it is heated", "°C", -10, 30, "A well insulated house.")
    cop: float = quantity(3.6, "Coefficient of performance at 7 °C", "", 0.2, 10, "An air-water heat pump, flow at 35 °C.", 0.1)
    cop_slope: float = quantity(0.08, "Its change by outdoor temperature", "1/K", 0, 0.5, "Usual of air-water heat pumps.", 0.01)
    largest: float | None = quantity(None, "Largest power", "kW", 0.1, 1e5, "Not limited.", 0.5)


class HotWater(Document):
    """Hot water from a store that is heated as it is drawn."""

    litres: float = quantity(..., "Drawn a day", "l", 0, 1e6, step=10)
    cold: float = quantity(10.0, "Cold water", "°C", 0, 40, "Of the mains.")
    hot: float = quantity(50.0, "Hot water", "°C", 20, 95, "At the store.")
    loss: float = quantity(1.5, "Loss of the store a day", "kWh", 0, 100, "A store of 200 l.", 0.1)
    hours: str = Field("6-8 18-21", max_length=200, title="Hours at which it is drawn")
    power: float = quantity(2.0, "Power of the element or the heat pump", "kW", 0.1, 1000, "A small element.", 0.5)
    cop: float = quantity(1.0, "Coefficient of performance", "", 0.5, 8, "An element.", 0.1)

    @model_validator(mode="after")
    def _warms(self) -> Self:
        if self.hot <= self.cold:
            raise ValueError(f"Hot water of {self.hot:g} °C is not warmer than the cold of {self.cold:g} °C.")
        if self.litres > 0 and not read_hours(self.hours):
            raise ValueError("Say at which hours water is drawn, such as 6-8 18-21.")
        return self


class Vehicle(Document):
    """A vehicle that is charged at once when it comes home."""

    weekday_km: float = quantity(..., "Driven on a weekday", "km", 0, 2000, step=10)
    weekend_km: float = quantity(0.0, "Driven on a day of the weekend", "km", 0, 2000, "It stands.", 10)
    consumption: float = quantity(18.0, "Consumption", "kWh/100 km", 1, 300, "A small car, charging loss included.", 1)
    charger: float = quantity(3.7, "Charger", "kW", 0.5, 1000, "One phase, 16 A.", 0.5)
    arrival: float = quantity(18.0, "Comes home at", "h", 0, 23.99, "After work.", 0.5)
    leaving: float = quantity(7.5, "Leaves at", "h", 0, 23.99, "Before work.", 0.5)

    @model_validator(mode="after")
    def _stays(self) -> Self:
        if self.arrival == self.leaving:
            raise ValueError("It leaves when it comes. Give two different times.")
        return self


KINDS = ("appliances", "per_area", "monthly", "heating", "hot_water", "vehicle")


class Source(Document):
    """One source of demand: one of these kinds, times a factor."""

    name: Line = Field("", max_length=80, title="Name")
    is_on: bool = choice(True, "In use", "It counts while it is in use.")
    factor: float = quantity(1.0, "Times", "", 0, 1e6, "As it is.", 0.1)
    appliances: Appliances | None = Field(None, title="Appliances and places")
    per_area: PerArea | None = Field(None, title="Use by floor area")
    monthly: Monthly | None = Field(None, title="Bills by month")
    heating: Heating | None = Field(None, title="Heating")
    hot_water: HotWater | None = Field(None, title="Hot water")
    vehicle: Vehicle | None = Field(None, title="Vehicle")

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


class Sources(Document):
    """Sources that add up to the demand of a meter."""

    format: Literal["noontide-demand/1"] = "noontide-demand/1"
    name: Line = Field("", max_length=120, title="Name")
    sources: dict[Id, Source] = Field({}, title="Sources", max_length=200)
    time_zone: str = Field("", max_length=60, title="Time zone, for daylight saving time")
    holidays: tuple[str, ...] = Field((), title="Holidays, MM-DD or YYYY-MM-DD", max_length=400)


def read_sources(document: Any) -> Sources:
    """Sources of demand from their JSON document.

    Raises
    ------
    pydantic.ValidationError
        With a location for each invalid value.
    """
    return Sources.model_validate(document)
