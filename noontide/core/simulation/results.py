"""The results of a simulation: the stages of a year, and what can be asked of them by name."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from functools import cached_property
from weakref import WeakKeyDictionary

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.electrical.string_limits import StringLimits
from noontide.core.simulation.after_meter import AfterMeter, delivered_of
from noontide.core.simulation.annual import Annual, annual_of
from noontide.core.simulation.balance import Balance, BalanceInputs, Books, MemberYear, book
from noontide.core.simulation.cables_in_use import SizedCables
from noontide.core.simulation.cache import CachedRows, Kept
from noontide.core.simulation.cascade import Cascade, build_cascade
from noontide.core.simulation.connection import LINE_OF, ConnectionInputs, ConnectionYear
from noontide.core.simulation.effective_irradiance import EffectiveIrradiance
from noontide.core.simulation.grid_power import InverterOutput
from noontide.core.simulation.limits import limits_of_plant
from noontide.core.simulation.module_power import ModulePower
from noontide.core.simulation.plane_irradiance import Attitude, PlaneIrradiance
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.simulation.tracker_power import SubarrayPower, TrackerPower
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class BookedInputs:
    balances: tuple[BalanceInputs, ...]
    counts: tuple[float, ...]


@dataclass(frozen=True)
class Booked:
    """What each line of the Cascade changes over all inverters, (light,) or one zero [W]."""

    changes: dict[str, Floats]


def book_all(inputs: BookedInputs) -> Booked:
    """The changes of all inverter sets together."""
    total: dict[str, Floats] = {}
    for count, balance in zip(inputs.counts, inputs.balances, strict=True):
        for key, change in book(balance).items():
            total[key] = total.get(key, 0.0) + count * change
    return Booked(total)


@dataclass(frozen=True, eq=False)
class FirstChain:
    """The stages from the sun to the inverters, each found when it is asked for; designs that differ after the meter alone have the same one."""

    plant: Plant  # without its battery
    weather: Weather  # as the design corrects it
    sky: Kept[SunAndWeather]
    attitudes: Sequence[Kept[Attitude]]  # of each sub-array's plane
    planes: Sequence[Kept[PlaneIrradiance]]  # of each sub-array
    effective: Sequence[Kept[EffectiveIrradiance]]
    powers: Sequence[Kept[ModulePower]]
    trackers: Sequence[Kept[TrackerPower]]
    places: Sequence[int]  # of each sub-array among those on its tracker
    grid: Sequence[Kept[InverterOutput]]  # of each inverter set, one inverter
    balance_inputs: tuple[BalanceInputs, ...]
    balances: list[Kept[Balance]]  # of each inverter set, one inverter
    books: list[Kept[Books]]  # likewise
    cables: SizedCables
    connection: ConnectionInputs
    connected: Kept[ConnectionYear]
    unlimited: Kept[ConnectionYear]  # before an export limit
    booked: Kept[Booked]


_ANNUALS: WeakKeyDictionary[FirstChain, dict[str, Annual]] = WeakKeyDictionary()


@dataclass(frozen=True, eq=False)
class Results:
    """A simulated year. Arrays of the stages run over the intervals with light; the methods here over the whole year.

    Sums and figures are there; the hours of a stage are found when they are asked for.
    """

    design: Design
    weather: Weather  # as the design corrects it
    plant: Plant
    joined: Kept[SunAndWeather]
    attitudes: CachedRows[Attitude]  # of each sub-array's plane
    planes: CachedRows[PlaneIrradiance]  # of each sub-array
    effective: CachedRows[EffectiveIrradiance]  # of each sub-array
    modules: CachedRows[ModulePower]  # of each sub-array
    trackers: CachedRows[TrackerPower]  # of each sub-array
    places: tuple[int, ...]  # of each sub-array among those on its tracker
    grid: CachedRows[InverterOutput]  # of each inverter set, one inverter
    balances: tuple[Balance, ...]  # of each inverter set, one inverter
    books: tuple[Books, ...]  # likewise; found when they are asked for where there are none
    members: tuple[MemberYear, ...]  # of each sub-array
    balance_inputs: tuple[BalanceInputs, ...]
    cables: SizedCables
    connected: Kept[ConnectionYear]
    booked: Kept[Booked]
    after: AfterMeter
    library: Catalogue  # for what the design does not name: cables, devices
    first: FirstChain

    @property
    def sky(self) -> SunAndWeather:
        return self.joined.value

    def subarray(self, k: int) -> SubarrayPower:
        """The power of a sub-array by its place in the plant."""
        return self.trackers[k].members[self.places[k]]

    @property
    def calendar(self) -> Calendar:
        return self.weather.calendar

    @cached_property
    def string_limits(self) -> list[StringLimits]:
        """Limits of the strings of each sub-array at the site's extremes."""
        return limits_of_plant(self.design, self.weather, self.plant, self.members, self.cables.rules.array_current)

    @cached_property
    def annual(self) -> Annual:
        """Sums, yields and ratios of the year; those of one plant at one meter are found once."""
        known = _ANNUALS.setdefault(self.first, {})
        if self.connected.key not in known:
            known[self.connected.key] = annual_of(self.plant, self.sky, self.balances, self.members, self.connected.value)
        return known[self.connected.key]

    @cached_property
    def energy_by_surface(self) -> dict[str, float]:
        """Energy at the meter of each surface [kWh]: the year's, shared as its sub-arrays give to their inverters; together all of it."""
        given: dict[str, float] = {}
        for member, s, i in zip(self.members, self.plant.surface_of, self.plant.inverter_of, strict=True):
            key = self.plant.surface_ids[s]
            given[key] = given.get(key, 0.0) + member.dc * float(self.plant.counts[i])
        total = sum(given.values())
        return {key: self.annual.energy * (dc / total if total else 0.0) for key, dc in given.items()}

    @cached_property
    def cascade(self) -> Cascade:
        """Where the energy goes."""
        return build_cascade(
            self.books or [kept.value for kept in self.first.books],
            self.plant.counts.tolist(),
            self.connected.value,
            float(self.delivered.sum()) * self.sky.hours_per_interval / 1000,
        )

    @property
    def delivered(self) -> Floats:
        """AC power at the meter, negative while inverters draw at night, (intervals,) [W]."""
        return delivered_of(self.sky, self.connected.value, self.calendar)

    def whole_year(self, values: Floats, dark: float = 0.0) -> Floats:
        """Spread values over the light, (light,), over the year, (intervals,)."""
        year = np.full(self.calendar.intervals, dark)
        year[self.sky.interval_index] = values
        return year

    def of_inverters(self, field: str) -> Floats:
        """A field of `InverterOutput` summed over all inverters, (light,)."""
        return sum(count * getattr(unit, field) for count, unit in zip(self.plant.counts, self.grid, strict=True))

    def line_power(self, key: str) -> Floats:
        """What a line of the Cascade changes in each interval of the year, losses negative, (intervals,) [W].

        Raises
        ------
        KeyError
            If there is no such line.
        """
        if key not in LINE_OF:
            raise KeyError(key)
        year = self.connected.value
        if key in year.changes:
            return self.whole_year(year.changes[key], year.dark_changes[key])
        lit = self.booked.value.changes[key]
        dark = sum(count * unit.dark_changes().get(key, 0.0) for count, unit in zip(self.plant.counts, self.grid, strict=True))
        return self.whole_year(lit, dark)

    def quantity(self, key: str, subarray: str | None = None) -> Floats:
        """Values of an hourly quantity over the year, (intervals,).

        Parameters
        ----------
        key : str
            One of `quantities_of`.
        subarray : str, optional
            For a quantity of sub-arrays: whose; the first if none is named.

        Raises
        ------
        KeyError
            If there is no such quantity or sub-array.
        """
        from noontide.core.simulation.quantities import quantities_of

        quantity = quantities_of(self)[key]
        if quantity.scope == "plant":
            return quantity.read(self, 0)
        if subarray is not None and subarray not in self.plant.subarray_ids:
            raise KeyError(subarray)
        return quantity.read(self, self.plant.subarray_ids.index(subarray) if subarray else 0)

    def hourly(self) -> pd.DataFrame:
        """Every quantity of every interval; columns are `key [unit]`, and `name: key [unit]` for sub-arrays.

        The index is the start of the interval on the local clock.
        """
        from noontide.core.simulation.quantities import column_title, quantities_of, told_apart

        names = told_apart([subarray.name for subarray in self.plant.subarrays])
        columns: dict[str, Floats] = {}
        for key, quantity in quantities_of(self).items():
            for k, name in enumerate(names if quantity.scope == "subarray" else ("",)):
                columns[column_title(name, key, quantity)] = quantity.read(self, k)
        return pd.DataFrame(columns, index=pd.DatetimeIndex(self.calendar.local_starts.astype("datetime64[s]"), name="start"))

    def summary(self) -> dict:
        """Annual figures and the Cascade as plain values, for JSON."""
        return {
            "annual": asdict(self.annual),
            "cascade": {
                "start": self.cascade.start,
                "delivered": self.cascade.delivered,
                "residual": self.cascade.residual,
                "entries": [
                    {"key": e.key, "title": e.title, "group": e.group, "energy": e.energy, "before": e.before, "share": e.share}
                    for e in self.cascade.entries
                ],
            },
        }
