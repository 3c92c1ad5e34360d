"""The battery behind the meter: what of the year goes through it, by the strategy of the design."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar
from noontide.core.civil_time import civil_time
from noontide.core.demand.meter import Metered
from noontide.core.electrical.datasheets import Battery as Datasheet
from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.inverter import fit_inverter
from noontide.core.electrical.loss_polynomial import loss_at
from noontide.core.fields import Document
from noontide.core.hours import shares_of_day
from noontide.core.money.billing import prices_of
from noontide.core.money.tariff import EnergyPrice
from noontide.core.simulation.cache import SharedInputs
from noontide.core.simulation.dc_side import DcSide
from noontide.core.storage import (
    Battery,
    Dispatch,
    Strategy,
    clipped_energy,
    dispatch,
    least_peak,
    off_grid,
    own_use,
    peak_shaving,
    time_of_use,
)
from noontide.core.storage.dispatch import read_only
from noontide.core.storage.document import OffGrid, Storage, ac_power, battery_of
from noontide.core.storage.loops import balance_years
from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
ROUNDS = 6  # of dispatches, after which a generator's hours hardly move any more
NOTHING = 1e-9  # kW


@dataclass(frozen=True)
class StorageSetting(SharedInputs):
    """The battery of a design with all that its strategy reads."""

    storage: Storage
    datasheet: Datasheet | None
    prices: EnergyPrice | None  # of energy from the grid, which it follows
    holidays: tuple[str, ...]
    time_zone: str
    export_limit: float | None  # [kW]
    is_on_bus: bool = False  # which charge controllers feed
    inverter: Inverter | None = None  # between the bus and the use

    @property
    def is_on_dc(self) -> bool:
        """Whether the battery has no inverter of its own before it."""
        return self.is_on_bus or (self.storage.bank is not None and self.storage.bank.inverter is not None)

    @property
    def is_off_grid(self) -> bool:
        """Whether there is no grid."""
        return self.storage.off_grid is not None

    @cached_property
    def rules(self) -> Hashable:
        """All that its strategy is made of: batteries of other sizes with the same rules follow one strategy."""
        settings = (getattr(self.storage, name) for name in type(self.storage).model_fields if name != "bank")
        own = (one.fingerprint if isinstance(one, Document) else one for one in (*settings, self.prices))
        return *own, self.holidays, self.time_zone, self.export_limit

    @cached_property
    def battery(self) -> Battery:
        """What it can do; on the DC side by itself."""
        assert self.storage.bank is not None
        found = battery_of(self.storage.bank, self.datasheet, self.is_on_dc)
        # A place without a grid is put into service full.
        return replace(found, initial=1.0) if self.is_off_grid else found

    @property
    def has_efficiency_by_power(self) -> bool:
        """Whether its efficiency follows from the powers of the year: by the datasheet, and nobody has set one."""
        bank, sheet = self.storage.bank, self.datasheet
        return bank is not None and bank.efficiency is None and sheet is not None and bool(sheet.efficiency_by_power)

    def of_efficiency(self, round_trip: float) -> "StorageSetting":
        """With a round-trip efficiency of the battery [%]."""
        assert self.storage.bank is not None
        bank = self.storage.bank.model_copy(update={"efficiency": round_trip})
        return replace(self, storage=self.storage.model_copy(update={"bank": bank}))

    @property
    def standby(self) -> float:
        """Power that battery and inverter draw always [kW]."""
        bank, sheet = self.storage.bank, self.datasheet
        assert bank is not None
        own = sheet.standby * bank.series * bank.parallel if sheet is not None and sheet.standby is not None else bank.standby
        return own / 1000


@dataclass(frozen=True, eq=False)
class Bus:
    """The inverter between a battery bus and the use, and what hangs on the bus itself."""

    efficiency: float  # the year's mean, weighted by the use
    power: float  # [kW]
    direct: ArrayLike = 0.0  # use on direct current, which does not pass the inverter, (intervals,) [kW]

    def coupled(self, battery: Battery) -> Battery:
        """A battery on the bus: the sun reaches it without the inverter, a generator through its charger."""
        return replace(battery, inverter_efficiency=self.efficiency)

    def carried(self, bare: Metered, hours: float) -> tuple[Floats, Floats]:
        """Of the use what passes the inverter, no more than it can, and what takes direct current, (…, intervals) [kW]."""
        used = bare.demand / hours
        direct = np.minimum(np.asarray(self.direct), used)
        return np.minimum(used - direct, self.power), direct

    def asked(self, bare: Metered, standby: ArrayLike, hours: float) -> Floats:
        """What the bus must carry, as it would arrive behind the inverter, (…, intervals) [kW]: the use, and what draws from the bus itself."""
        passed, direct = self.carried(bare, hours)
        drawn = bare.own_use / hours + np.asarray(standby)
        return np.asarray(passed + (direct + drawn) * self.efficiency)


def bus_of(setting: StorageSetting, bare: Metered, direct: ArrayLike, hours: float) -> Bus:
    """The inverter of a bus with what it loses in the hours of the use: by its own datasheet where there is one."""
    bank, unit = setting.storage.bank, setting.inverter
    assert bank is not None
    if unit is None:
        return Bus(bank.converter / 100, ac_power(bank, setting.datasheet), direct)
    rated = unit.ac_power / 1000
    used = np.minimum(np.maximum(bare.demand / hours - np.asarray(direct), 0.0), rated)
    curve = fit_inverter(unit).coefficients_at(unit.full_power_minimum)
    lost = np.where(used > 0, rated * loss_at(curve, used / rated), unit.night_power / 1000)
    total = float(used.sum() + lost.sum())
    return Bus(float(used.sum()) / total if used.sum() > 0 else bank.converter / 100, rated, direct)


def on_bus(bare: Metered, battery: Battery, strategy: Strategy, bus: Bus, standby: ArrayLike, hours: float) -> Metered:
    """The year of a place without a grid whose sun, battery and inverter meet on one bus; of candidates, with their axis in front.

    What is made and stored is counted on the bus, what is used and what a generator gives at the use; what lies between is the plant's own use.
    """
    passes, wanted = bus.efficiency, bus.asked(bare, standby, hours)
    passed, on_direct = bus.carried(bare, hours)
    carried = passed + on_direct
    sun = bare.produced / hours * passes
    flows, more, short = _beside_a_generator(wanted, sun, passed, bus.coupled(battery), strategy, passes, hours)
    charge, brought = flows.charge * hours, flows.brought * hours
    lost = flows.curtailed * hours
    of_sun = charge - brought
    cut = np.minimum(lost, sun * hours - of_sun)
    made, from_generator = bare.produced - cut / passes, flows.generator * hours - (lost - cut)
    # What is missing on the bus is missing to all that hangs on it alike; what the inverter does not pass comes to that.
    missing = (flows.unmet + short) * hours * np.divide(carried, wanted, out=np.ones_like(wanted), where=wanted > 0)
    from_generator = from_generator + more * hours
    unmet = np.clip(missing + bare.demand - carried * hours, 0.0, bare.demand)
    stored, given = of_sun / passes, flows.discharge * hours / passes
    direct = np.maximum(made - stored, 0.0)
    own = np.maximum(made + given + from_generator - (bare.demand - unmet) - stored - brought * passes, 0.0)
    nothing = np.zeros_like(charge)
    return Metered(
        made, bare.demand, own, direct, nothing, nothing, stored, brought * passes, given, flows.stored, cut / passes, unmet, from_generator, nothing
    )  # fmt: skip


def _beside_a_generator(
    wanted: Floats, sun: Floats, passed: Floats, battery: Battery, strategy: Strategy, passes: float, hours: float
) -> tuple[Dispatch, Floats | float, Floats | float]:
    """The dispatch of a bus, what a generator gives more, and what is missing all the same [kW].

    The dispatch counts all that is wanted behind the inverter. A generator stands there too: it serves what passes the inverter first, and
    reaches the bus through the charger, whose loss is wanted of it besides: known from one dispatch, and served in the next.
    """
    flows = dispatch(wanted, sun, battery, strategy, hours)
    if not np.asarray(strategy.generator).any():
        return flows, 0.0, 0.0
    to_bus, loss = _to_the_bus(flows, passed), np.zeros(())
    lacking = to_bus * (1 / passes - passes)
    for _ in range(ROUNDS):
        if not (lacking > NOTHING).any():
            break
        # Of what it gives to the bus, loss included, a part stays in the charger; where it gives none, none is wanted.
        loss = (1 - passes**2) * np.where(loss > 0, to_bus, to_bus / passes**2)
        flows = dispatch(wanted + loss, sun, battery, strategy, hours)
        to_bus = _to_the_bus(flows, passed)
        lacking = np.maximum((to_bus - loss) / passes - to_bus * passes, 0.0)
    room = np.where(flows.generator > 0, np.asarray(strategy.generator) - flows.generator, 0.0)
    more = np.minimum(lacking / passes, np.maximum(room, 0.0))
    return flows, more, (lacking - more * passes) * passes


def _to_the_bus(flows: Dispatch, passed: Floats) -> Floats:
    """Of a generator, beyond what passes the inverter, what charges and what nobody takes [kW]."""
    return np.asarray(np.maximum(flows.generator - flows.brought - flows.curtailed - passed, 0.0))


def efficiency_of_year(setting: StorageSetting, year: Metered, passed: float, hours: float) -> float:
    """Round-trip efficiency of a battery at the powers at which a year charges and discharges it, weighted by their energy [%].

    Parameters
    ----------
    year : Metered
        With the battery at the efficiency of its datasheet.
    passed : float
        Efficiency between the balance and the battery on the DC side of an inverter; 1 elsewhere.

    Notes
    -----
    Both ways are alike: each takes the root of the round trip at its power.
    """
    bank, sheet = setting.storage.bank, setting.datasheet
    assert bank is not None and sheet is not None
    power = ac_power(bank, sheet) * hours * passed
    charge, discharge = year.sun_stored + year.grid_stored, year.discharge
    if not power > 0 or not charge.sum() > 0 or not discharge.sum() > 0:
        return sheet.efficiency
    into, out = (np.sqrt(sheet.efficiency_at(flow / power) / 100) for flow in (charge, discharge))
    return 100 * float((charge * into).sum() / charge.sum() * discharge.sum() / (discharge / out).sum())


def strategy_of(setting: StorageSetting, calendar: Calendar) -> Strategy:
    """The strategy as the loop over intervals follows it."""
    if setting.storage.off_grid is not None:
        return _without_grid(setting.storage.off_grid, calendar, setting.time_zone)
    storage, limit = setting.storage, np.inf if setting.export_limit is None else setting.export_limit
    serves_use = storage.serves != "peaks alone"
    found = own_use()
    if storage.peak is not None:
        if storage.peak.limit is None:
            found = least_peak(
                calendar.months, storage.from_grid, own_use=serves_use, yesterday=storage.peak.known == "yesterday"
            )
        else:
            found = peak_shaving(storage.peak.limit, storage.from_grid, own_use=serves_use)
    elif storage.only_clipped:
        found = clipped_energy(limit)
    if storage.serves == "dear hours" and setting.prices is not None:
        prices = prices_of(setting.prices, calendar, setting.time_zone, setting.holidays)
        priced = time_of_use(prices, storage.from_grid, storage.horizon)
        found = replace(
            found, prices=priced.prices, horizon=priced.horizon, charges_from_grid=priced.charges_from_grid, serves_use=True
        )
    kept = np.array(storage.reserve_by_month or (storage.reserve,) * 12) / 100
    if kept.any():
        found = found.with_reserve(kept[calendar.months])
    return replace(found, export_limit=limit, stores_only_clipped=storage.only_clipped)


def _without_grid(place: OffGrid, calendar: Calendar, time_zone: str) -> Strategy:
    one = place.generator
    if one is None:
        return off_grid()
    allowed: ArrayLike = True
    if one.quiet:
        time = civil_time(calendar, time_zone)
        allowed = shares_of_day(one.quiet, time.slot, time.step)[time.minute // time.slot] < 0.5
    return off_grid(one.power, one.start / 100, one.stop / 100, one.least / 100, allowed)


@dataclass(frozen=True, eq=False)
class BesideBattery:
    """A year at the meter that a battery is put beside."""

    bare: Metered
    setting: StorageSetting
    calendar: Calendar
    capacity: float  # share of it that is left
    side: DcSide | None  # on which it stands
    direct: ArrayLike  # use on direct current [kW]


def through_the_batteries(years: Sequence[BesideBattery]) -> list[Metered]:
    """Years at the meter with their batteries; those that follow one strategy go through the loop beside one another."""
    found: dict[int, Metered] = {}
    alike: dict[Hashable, list[int]] = {}
    for k, one in enumerate(years):
        if one.setting.is_on_dc:
            # Each by itself: what passes the inverter beside the battery differs from one to the next.
            found[k] = _on_the_dc_side(one)
        else:
            alike.setdefault((one.setting.rules, one.calendar), []).append(k)
    for members in alike.values():
        found |= zip(members, _beside_one_another([years[k] for k in members]), strict=True)
    return [found[k] for k in range(len(years))]


def _on_the_dc_side(one: BesideBattery) -> Metered:
    setting, hours = one.setting, one.calendar.hours_per_interval
    battery = replace(setting.battery, energy=np.asarray(setting.battery.energy) * one.capacity)
    bus = bus_of(setting, one.bare, one.direct, hours) if setting.is_on_bus else None
    return metered_behind(one.bare, battery, strategy_of(setting, one.calendar), one.side, bus, setting.standby, hours)


def _beside_one_another(years: Sequence[BesideBattery]) -> list[Metered]:
    calendar, hours = years[0].calendar, years[0].calendar.hours_per_interval
    settings = {id(one.setting): one.setting for one in years}
    batteries = {key: setting.battery for key, setting in settings.items()}
    values = {
        field.name: np.array([getattr(batteries[id(one.setting)], field.name) for one in years], dtype=float)
        for field in fields(Battery)
    }
    values["energy"] *= np.array([one.capacity for one in years])
    bare = {id(one.bare): one.bare for one in years}
    powers = {key: ((year.demand + year.own_use) / hours, year.produced / hours) for key, year in bare.items()}
    wanted, produced = (np.stack([powers[id(one.bare)][k] for one in years]) for k in (0, 1))
    if any(standby := [one.setting.standby for one in years]):
        wanted += np.array(standby)[:, np.newaxis]
    flows = dispatch(wanted, produced, Battery(**values), strategy_of(years[0].setting, calendar), hours)
    found: dict[int, Metered] = {}

    def balance(start: int, end: int) -> None:
        for k in range(start, end):
            its = {name: of_all[k] for name, of_all in vars(flows).items()}
            # A copy is kept of what is stored alone: a part of all flows would keep all of them.
            its["stored"] = its["stored"].copy()
            one = years[k]
            found[k] = metered_with(one.bare, Dispatch(**its), one.setting.standby, hours, one.setting.is_off_grid)

    in_chunks(balance, len(years), 1)
    return [found[k] for k in range(len(years))]


def metered_with(bare: Metered, flows: Dispatch, standby: ArrayLike, hours: float, is_off_grid: bool) -> Metered:
    """The balance of a year with what a battery did; of candidates, with their axis in front."""
    own = bare.own_use + np.asarray(standby) * hours if np.any(standby) else bare.own_use
    shape = flows.charge.shape
    before, used, own_rows, charged, given_again, curtailed, missing = (
        read_only(np.ascontiguousarray(np.broadcast_to(values, shape)).reshape(-1, shape[-1]))
        for values in (bare.produced, bare.demand, own, flows.charge, flows.discharge, flows.curtailed, flows.unmet)
    )
    found = np.empty((9, *before.shape))
    balance_years(before, used, own_rows, charged, given_again, curtailed, missing, hours, found)
    produced, direct, of_sun, of_others, discharge, brought, given, cut, unmet = found.reshape(9, *shape)
    nothing, stored = np.broadcast_to(0.0, shape), (of_sun, of_others, discharge, flows.stored)
    if is_off_grid:
        return Metered(produced, bare.demand, own, direct, nothing, nothing, *stored, cut, unmet, brought, nothing)
    return Metered(produced, bare.demand, own, direct, brought, given, *stored, nothing, nothing, nothing, nothing)


def metered_behind(
    bare: Metered,
    battery: Battery,
    strategy: Strategy,
    side: DcSide | None,
    bus: Bus | None,
    standby: ArrayLike,
    hours: float,
) -> Metered:
    """The balance of a year with the battery on the side on which it stands; of candidates, with their axis in front."""
    if bus is not None:
        return on_bus(bare, battery, strategy, bus, standby, hours)
    if side is not None:
        return on_dc_side(bare, battery, strategy, side, standby, hours)
    wanted = (bare.demand + bare.own_use) / hours + np.asarray(standby)
    flows = dispatch(wanted, bare.produced / hours, battery, strategy, hours)
    return metered_with(bare, flows, standby, hours, not np.asarray(strategy.has_grid).any())


def on_dc_side(bare: Metered, battery: Battery, strategy: Strategy, side: DcSide, standby: ArrayLike, hours: float) -> Metered:
    """The year with a battery on the DC side; of candidates, with their axis in front.

    Other inverters serve the use first; what is left of them goes to the grid, since an inverter with a battery stores its own sun alone.
    """
    is_off_grid = not np.asarray(strategy.has_grid).any()
    own = bare.own_use + np.asarray(standby) * hours
    wanted, limit = bare.demand + own, np.asarray(strategy.export_limit) * hours
    # What nobody uses beyond an export limit the others do not give.
    beside = np.minimum(np.minimum(side.beside * hours, wanted + limit), bare.produced)
    excess = np.maximum(beside - wanted, 0.0)
    strategy = replace(strategy, export_limit=np.maximum(limit - excess, 0.0) / hours)
    sun = np.minimum(bare.produced - beside, side.own * hours) / hours
    flows = dispatch(np.maximum(wanted - beside, 0.0) / hours, sun, side.coupled(battery), strategy, hours, side.clipped)
    charge, discharge, brought = flows.charge * hours, flows.discharge * hours, flows.brought * hours
    offered, nothing = (sun + side.clipped) * hours, np.zeros_like(charge)
    # Of what is lost the sun's part is the sun's; the rest ran through a generator at its least load.
    lost = np.clip(offered - (charge - brought), 0.0, flows.curtailed * hours)
    # What rounding leaves of nothing is nothing: a bill takes no energy below zero.
    elsewhere = np.maximum(flows.imported * hours + flows.generator * hours - (flows.curtailed * hours - lost), 0.0)
    unmet, of_sun = flows.unmet * hours, charge - brought
    made = beside + offered - lost
    direct = np.maximum(wanted - unmet - discharge - (elsewhere - brought), 0.0)
    stored = (of_sun, brought, discharge, flows.stored)
    of_clipped = np.minimum(of_sun, side.clipped * hours)
    if is_off_grid:
        made, lost = made - excess, lost + excess
        return Metered(made, bare.demand, own, direct, nothing, nothing, *stored, lost, unmet, elsewhere, of_clipped)
    given = flows.exported * hours + excess
    return Metered(made, bare.demand, own, direct, elsewhere, given, *stored, nothing, nothing, nothing, of_clipped)
