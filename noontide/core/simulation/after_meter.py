"""After the meter: demand, what of it the sun meets, what the grid takes and gives, and the bill. A second balance, which closes on its own."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.demand.hourly import HourlyDemand, hourly
from noontide.core.demand.meter import Metered, at_the_meter
from noontide.core.demand.series import DemandError, UseSeries
from noontide.core.demand.sources import Demand
from noontide.core.money.billing import Bill, bill, bills, carbon_of, prices_of
from noontide.core.money.tariff import Tariff
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.connection import ConnectionYear
from noontide.core.simulation.dc_side import DcSide
from noontide.core.simulation.storage_year import (
    BesideBattery,
    Bus,
    StorageSetting,
    bus_of,
    efficiency_of_year,
    through_the_batteries,
)
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.storage import Battery
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
LITTLE = 0.01  # of the yield, by which the value of a kWh more is found


@dataclass(frozen=True)
class DemandInputs:
    demand: Demand
    weather: Weather
    time_zone: str
    series: tuple[UseSeries, ...]  # that the sources name


def find_demand(inputs: DemandInputs) -> HourlyDemand:
    """Demand of every source, with what can wait put at once."""
    weather = inputs.weather
    series = {one.digest: one for one in inputs.series}
    return hourly(inputs.demand, weather.calendar, weather, inputs.time_zone, series)


@dataclass(frozen=True)
class PlacingInputs:
    demand: Kept[HourlyDemand]
    sky: Kept[SunAndWeather]
    connected: Kept[ConnectionYear]  # before the export limit
    tariff: Tariff | None
    calendar: Calendar
    time_zone: str


def place_demand(inputs: PlacingInputs) -> HourlyDemand:
    """What can wait in its own time: under the sun, or in the cheapest hours of the tariff."""
    calendar, tariff = inputs.calendar, inputs.tariff
    produced = delivered_of(inputs.sky.value, inputs.connected.value, calendar) / 1000
    prices = None if tariff is None else prices_of(tariff.energy, calendar, inputs.time_zone, tariff.holidays)
    return inputs.demand.value.placed(produced, prices, calendar.hours_per_interval)


@dataclass(frozen=True)
class MeterInputs:
    sky: Kept[SunAndWeather]
    connected: Kept[ConnectionYear]
    demand: Kept[HourlyDemand] | None
    calendar: Calendar
    left: float = 1.0  # of the yield, after years of operation
    storage: StorageSetting | None = None
    capacity: float = 1.0  # of the battery, that is left
    side: Kept[DcSide] | None = None  # on which the battery stands


def meter(inputs: MeterInputs) -> Metered:
    """Plant and demand behind one meter."""
    return meter_together([inputs])[0]


@dataclass(frozen=True)
class EfficiencyInputs:
    metered: MeterInputs  # with the battery at the efficiency of its datasheet


@dataclass(frozen=True)
class YearEfficiency:
    round_trip: float  # of the battery, at the powers of the year [%]


def find_efficiency(inputs: EfficiencyInputs) -> YearEfficiency:
    """What the battery keeps of what goes through it in a year."""
    row = inputs.metered
    assert row.storage is not None
    passed = 1.0 if row.side is None else row.side.value.efficiency
    return YearEfficiency(efficiency_of_year(row.storage, meter(row), passed, row.calendar.hours_per_interval))


def meter_together(rows: list[MeterInputs]) -> list[Metered]:
    """Several years side by side: of one plant with its battery in several states of wear, and of other sizes of it."""
    bare: dict[tuple, Metered] = {}
    for row in rows:
        at = _of_the_plant(row)
        if at not in bare:
            bare[at] = _without_battery(row)
    found = [bare[_of_the_plant(row)] for row in rows]
    stored = {k: row.storage for k, row in enumerate(rows) if row.storage is not None}
    beside = through_the_batteries(
        [
            BesideBattery(
                found[k],
                setting,
                rows[k].calendar,
                rows[k].capacity,
                None if (side := rows[k].side) is None else side.value.aged(rows[k].left),
                direct_use(rows[k].demand),
            )
            for k, setting in stored.items()
        ]
    )
    for k, year in zip(stored, beside, strict=True):
        found[k] = year
    return found


def _of_the_plant(row: MeterInputs) -> tuple:
    """What a year without its battery is made of."""
    return row.sky.key, row.connected.key, None if row.demand is None else row.demand.key, row.calendar, row.left


def direct_use(demand: Kept[HourlyDemand] | None) -> Floats:
    """What runs on direct current, (intervals,) or () [kW]."""
    found = None if demand is None else demand.value.direct
    return np.zeros(()) if found is None else found


def _without_battery(inputs: MeterInputs) -> Metered:
    calendar = inputs.calendar
    delivered = delivered_of(inputs.sky.value, inputs.connected.value, calendar) / 1000
    if inputs.left != 1:
        delivered = np.where(delivered > 0, delivered * inputs.left, delivered)
    used = np.zeros(calendar.intervals) if inputs.demand is None else inputs.demand.value.total
    return at_the_meter(delivered, used, calendar)


def delivered_of(sky: SunAndWeather, connected: ConnectionYear, calendar: Calendar) -> Floats:
    """AC power at the meter over all intervals, dark ones too, negative while the plant draws, (intervals,) [W]."""
    year = np.full(calendar.intervals, connected.dark_delivered)
    year[sky.interval_index] = connected.delivered
    return year


@dataclass(frozen=True)
class BillInputs:
    metered: Kept[Metered]
    tariff: Tariff
    calendar: Calendar
    time_zone: str


def bill_together(rows: list[BillInputs]) -> list[Bill]:
    """The bills of several years with the plant, those by one tariff side by side."""
    alike: dict[tuple, list[int]] = {}
    for k, row in enumerate(rows):
        alike.setdefault((row.tariff.fingerprint, row.calendar, row.time_zone), []).append(k)
    found: dict[int, Bill] = {}
    for members in alike.values():
        years, first = [rows[k].metered.value for k in members], rows[members[0]]
        of_years = bills(
            first.tariff, [one.imported for one in years], [one.exported for one in years], first.calendar, first.time_zone
        )
        found |= zip(members, of_years, strict=True)
    return [found[k] for k in range(len(rows))]


@dataclass(frozen=True)
class BillWithoutPlantInputs:
    demand: Kept[HourlyDemand] | None
    tariff: Tariff
    calendar: Calendar
    time_zone: str


def bill_without_plant(inputs: BillWithoutPlantInputs) -> Bill:
    """The bill of the demand alone: no edit of the plant touches it."""
    nothing = np.zeros(inputs.calendar.intervals)
    used = nothing if inputs.demand is None else inputs.demand.value.total * inputs.calendar.hours_per_interval
    return bill(inputs.tariff, used, nothing, inputs.calendar, inputs.time_zone)


@dataclass(frozen=True, eq=False)
class AfterMeter:
    """Energy and bills behind the meter."""

    calendar: Calendar
    time_zone: str
    has_demand: bool
    used: Kept[HourlyDemand] | None
    year: Kept[Metered]
    bills: tuple[Kept[Bill], ...] | None  # without the plant, with it, with it in the last year, with a little less yield
    carbon: float  # of energy from the grid [g/kWh]
    carbon_by_hour: tuple[float, ...]
    unlimited: Kept[ConnectionYear]  # the plant before an export limit
    storage: StorageSetting | None = None
    side: Kept[DcSide] | None = None  # of the battery, where it stands on the DC side
    worn: Kept[Bill] | None = None  # of the first year with a battery at the end of its life
    problem: DemandError | None = None  # why there is no demand, though there are sources of it

    @property
    def is_off_grid(self) -> bool:
        """Whether there is no grid behind the meter."""
        return self.storage is not None and self.storage.is_off_grid

    @property
    def serves_alone(self) -> bool:
        """Whether there is a demand, and no grid behind the meter: then what is served counts, and not all that the sun would give."""
        return self.has_demand and self.is_off_grid

    @cached_property
    def bus(self) -> Bus | None:
        """The inverter of a battery bus; None where there is none."""
        if self.storage is None or not self.storage.is_on_bus:
            return None
        return bus_of(self.storage, self.metered, direct_use(self.used), self.calendar.hours_per_interval)

    def coupled(self, battery: Battery) -> Battery:
        """A battery as it is reached from the AC side: through its own inverter, that of the array, or that of the bus."""
        if self.bus is not None:
            return self.bus.coupled(battery)
        return battery if self.side is None else self.side.value.coupled(battery)

    @property
    def passed(self) -> float:
        """Efficiency between the balance and a battery on the DC side; 1 where the balance counts it at its own terminals."""
        return 1.0 if self.side is None else self.side.value.efficiency

    @property
    def demand(self) -> HourlyDemand | None:
        return None if self.used is None else self.used.value

    @property
    def metered(self) -> Metered:
        return self.year.value

    @property
    def bill_before(self) -> Bill | None:
        return None if self.bills is None else self.bills[0].value

    @property
    def bill(self) -> Bill | None:
        return None if self.bills is None else self.bills[1].value

    @property
    def savings(self) -> tuple[float, float] | None:
        """Of a year by the bill, with the yield of the first year and of the last."""
        if self.bills is None:
            return None
        before, now, last = (kept.value.total for kept in self.bills[:3])
        return before - now, before - last

    @property
    def cost_of_wear(self) -> float:
        """By how much the bill of a year rises with a battery at the end of its life."""
        if self.worn is None or self.bill is None:
            return 0.0
        return self.worn.value.total - self.bill.total

    @cached_property
    def avoided_carbon(self) -> float:
        """CO2 of the energy that the grid need not deliver, and of what goes to it [kg]."""
        metered = self.metered
        # What sun and battery meet in place of the grid, and what it is given.
        given = metered.demand - metered.elsewhere + metered.exported
        if self.carbon_by_hour:
            factors = carbon_of(self.carbon_by_hour, self.calendar, self.time_zone)
            return float(np.sum(given * factors)) / 1000
        return float(given.sum()) * self.carbon / 1000

    def power(self, name: str) -> Floats:
        """A field of `Metered` as mean power of each interval, (intervals,) [W]."""
        return np.asarray(getattr(self.metered, name) * (1000 / self.calendar.hours_per_interval))
