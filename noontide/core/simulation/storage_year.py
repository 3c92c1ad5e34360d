"""The battery behind the meter: what of the year goes through it, by the strategy of the design."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.calendar import Calendar
from noontide.core.civil_time import civil_time
from noontide.core.demand.meter import Metered
from noontide.core.electrical.datasheets import Battery as Datasheet
from noontide.core.hours import shares_of_day
from noontide.core.money.billing import prices_of
from noontide.core.money.tariff import EnergyPrice
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
from noontide.core.storage.document import OffGrid, Storage, battery_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class StorageSetting:
    """The battery of a design with all that its strategy reads."""

    storage: Storage
    datasheet: Datasheet | None
    prices: EnergyPrice | None  # of energy from the grid, which it follows
    holidays: tuple[str, ...]
    time_zone: str
    export_limit: float | None  # [kW]

    @property
    def is_off_grid(self) -> bool:
        """Whether there is no grid."""
        return self.storage.off_grid is not None

    @property
    def battery(self) -> Battery:
        """What it can do."""
        assert self.storage.bank is not None
        found = battery_of(self.storage.bank, self.datasheet)
        # A place without a grid is put into service full.
        return replace(found, initial=1.0) if self.is_off_grid else found

    @property
    def standby(self) -> float:
        """Power that battery and inverter draw always [kW]."""
        bank, sheet = self.storage.bank, self.datasheet
        assert bank is not None
        own = sheet.standby * bank.series * bank.parallel if sheet is not None and sheet.standby is not None else bank.standby
        return own / 1000


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


def through_the_battery(bare: Metered, setting: StorageSetting, calendar: Calendar, capacity: float = 1.0) -> Metered:
    """A year at the meter with a battery beside it, of which a share of the capacity is left."""
    battery = replace(setting.battery, energy=np.asarray(setting.battery.energy) * capacity)
    hours = calendar.hours_per_interval
    wanted, produced = (bare.demand + bare.own_use) / hours + setting.standby, bare.produced / hours
    return metered_with(
        bare,
        dispatch(wanted, produced, battery, strategy_of(setting, calendar), hours),
        setting.standby,
        hours,
        setting.is_off_grid,
    )


def metered_with(bare: Metered, flows: Dispatch, standby: ArrayLike, hours: float, is_off_grid: bool) -> Metered:
    """The account of a year with what a battery did; of candidates, with their axis in front."""
    own = bare.own_use + np.asarray(standby) * hours
    # Of what is lost the sun's part is the sun's; the rest ran through a generator at its least load.
    cut, unmet = np.minimum(flows.curtailed * hours, bare.produced), flows.unmet * hours
    wanted, produced = bare.demand + own - unmet, bare.produced - cut
    direct = np.minimum(produced, wanted)
    charge, discharge = flows.charge * hours, flows.discharge * hours
    of_sun = np.minimum(charge, produced - direct)
    # What is left of nothing by rounding is nothing.
    brought = np.maximum(wanted - direct - discharge + charge - of_sun, 0.0)
    given, nothing = np.maximum(produced - direct - of_sun, 0.0), np.zeros_like(direct)
    stored = (of_sun, charge - of_sun, discharge, flows.stored)
    if is_off_grid:
        return Metered(produced, bare.demand, own, direct, nothing, nothing, *stored, cut, unmet, brought)
    return Metered(produced, bare.demand, own, direct, brought, given, *stored, nothing, nothing, nothing)
