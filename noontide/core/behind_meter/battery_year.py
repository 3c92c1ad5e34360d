"""What a year does with a battery, in numbers: energy through it, cycles, wear and life."""

from dataclasses import dataclass

import numpy as np

from noontide.core.once import once_for_each
from noontide.core.simulation.results import Results
from noontide.core.storage.ageing import life, wear
from noontide.core.storage.document import ac_power, life_of, one_way, usable_energy


@dataclass(frozen=True)
class BatteryYear:
    """A battery over the year."""

    energy: float  # usable [kWh]
    power: float  # at the AC side [kW]
    one_way: float  # efficiency
    charge: float | None  # nominal, at its voltage [Ah]
    voltage: float | None  # of the bank [V]
    sun_stored: float  # [kWh]
    grid_stored: float
    discharge: float
    lost: float  # between charge and discharge, and by itself
    cycles: float  # full ones
    wear: float | None  # share of the cycle life; None where it is not known
    life: float  # [years]
    peak: float  # highest import [kW]
    worn: float  # share of the capacity that is left at the end of its life
    of_clipped: float | None  # stored of what the inverter would have held back [kWh]; None on the AC side

    def capacity(self, year: int) -> float:
        """Usable, at the begin of a year of operation from 1: it falls evenly, and is whole again with a new battery [kWh]."""
        return self.energy * (1 - (1 - self.worn) * ((year - 1) % self.life) / self.life)


@once_for_each
def battery_year(r: Results) -> BatteryYear | None:
    """The battery of a simulated design; None where it has none."""
    setting, year = r.after.storage, r.after.metered
    if setting is None:
        return None
    assert setting.storage.bank is not None
    bank, sheet = setting.storage.bank, setting.datasheet
    energy, each = usable_energy(bank, sheet), one_way(bank, sheet, setting.is_on_dc) * r.after.passed
    sun, grid, out = (float(flow.sum()) for flow in (year.sun_stored, year.grid_stored, year.discharge))
    first = energy * float(np.asarray(setting.battery.initial))
    taken = None if sheet is None or not sheet.lives else wear(year.stored, energy, sheet.lives)
    return BatteryYear(
        energy=energy,
        power=ac_power(bank, sheet) if r.after.bus is None else r.after.bus.power,
        one_way=each,
        charge=None if sheet is None else sheet.charge * bank.parallel,
        voltage=None if sheet is None else sheet.voltage * bank.series,
        sun_stored=sun,
        grid_stored=grid,
        discharge=out,
        # What is left in it counts as what would arrive.
        lost=sun + grid - out - (float(year.stored[-1]) - first) * r.after.passed,
        cycles=out / each / energy if energy > 0 else 0.0,
        wear=taken,
        life=life(taken or 0.0, life_of(bank, sheet)),
        peak=float(year.imported.max()) / r.calendar.hours_per_interval,
        worn=bank.worn / 100,
        of_clipped=None if r.after.side is None else float(year.of_clipped.sum()),
    )


def of_battery(r: Results, field: str) -> float:
    """A value of the battery's year."""
    year = battery_year(r)
    assert year is not None
    return float(getattr(year, field))
