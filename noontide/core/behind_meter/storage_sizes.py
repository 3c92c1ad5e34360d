"""What a battery of any size would do in the year of a design: the neighbourhood of its size, and a proposal with its reason."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.demand.meter import Metered, at_the_meter
from noontide.core.money.billing import bill
from noontide.core.money.figures import annuity
from noontide.core.simulation.after_meter import delivered_of
from noontide.core.simulation.results import Results
from noontide.core.simulation.storage_year import StorageSetting, metered_behind, strategy_of
from noontide.core.storage.document import USUAL_HOURS, Bank, Storage, ac_power, life_of, usable_energy

Floats = NDArray[np.float64]
SIZES = 33
FEWEST_CYCLES = 150.0  # full ones a year, below which one more kWh of a battery lies idle for most of it


@dataclass(frozen=True, eq=False)
class SizeCurve:
    """Of each size, (sizes,); the first is no battery."""

    energies: Floats  # usable [kWh]
    powers: Floats  # [kW]
    self_sufficiency: Floats
    self_consumption: Floats
    imported: Floats  # [kWh]; where there is no grid what is missing or comes from a generator
    exported: Floats
    peak: Floats  # highest import [kW]
    cycles: Floats  # full ones a year
    savings: Floats | None  # of the bill of a year against that without a battery; None without a tariff
    prices: Floats | None  # of the battery; None where no price is known
    payback: Floats | None  # of the battery alone [years]; infinite where it does not pay


@dataclass(frozen=True)
class Proposal:
    """A size with its reason."""

    energy: float  # usable [kWh]
    words: str


def size_curve(
    r: Results, largest: float | None = None, with_bills: bool = True, by: Literal["energy", "power"] = "energy"
) -> SizeCurve:
    """Sizes from none to the largest, with the strategy and the hours of the design's own battery, or of a usual one where it has none.

    Parameters
    ----------
    largest : float, optional
        [kWh], or [kW] of sizes by power.
    with_bills : bool
        Whether each size gets its bill, where there is a tariff; the rest takes a tenth of the time.
    by : "energy" or "power"
        Which of the two grows: energy with power in proportion, or power alone, of the energy that the design has.
    """
    setting = r.after.storage or _usual(r)
    assert setting.storage.bank is not None
    calendar, hours = r.calendar, r.calendar.hours_per_interval
    bank, sheet = setting.storage.bank, setting.datasheet
    own, power = usable_energy(bank, sheet), ac_power(bank, sheet)
    rate = power / own if own > 0 else 1 / USUAL_HOURS
    if by == "energy":
        energies = np.linspace(0, largest or _reach(r, own), SIZES)
        powers = energies * rate
    else:
        powers = np.linspace(0, largest or max(2 * power, own), SIZES)
        energies = np.where(powers > 0, own, 0.0)
    bare = bare_year(r)
    # Where there is no battery nothing stands by.
    standby = np.where(energies > 0, setting.standby, 0.0)[:, np.newaxis]
    battery = replace(setting.battery, energy=energies, charge_power=powers, discharge_power=powers)
    side = None if r.after.side is None else r.after.side.value
    years = metered_behind(bare, battery, strategy_of(setting, calendar), side, r.after.bus, standby, hours)
    savings = _savings(r, years.imported, years.exported) if with_bills and not setting.is_off_grid else None
    each = price_of_kwh(r, setting)
    prices = None if each is None else energies * each
    payback = None
    if savings is not None and prices is not None:
        payback = np.divide(prices, savings, out=np.full(SIZES, np.inf), where=savings > 0)
    usable = energies * (1 - bank.least / 100)
    return SizeCurve(
        energies=energies,
        powers=powers,
        self_sufficiency=years.self_sufficiencies,
        self_consumption=years.self_consumptions,
        imported=years.elsewhere.sum(axis=-1),
        exported=years.exported.sum(axis=-1),
        peak=years.elsewhere.max(axis=-1) / hours,
        cycles=np.divide(
            years.discharge.sum(axis=-1) / (np.asarray(battery.discharge_efficiency) * r.after.passed),
            usable,
            out=np.zeros(SIZES),
            where=usable > 0,
        ),
        savings=savings,
        prices=prices,
        payback=payback,
    )


def propose(r: Results, curve: SizeCurve) -> Proposal | None:
    """The size that is worth most over its life where prices are known, or else the last one whose next kWh is still filled often enough; None without a demand."""
    if not r.after.has_demand:
        return None
    setting = r.after.storage or _usual(r)
    assert setting.storage.bank is not None
    if curve.savings is not None and curve.prices is not None:
        money = r.design.money
        years = life_of(setting.storage.bank, setting.datasheet)
        worth = curve.savings / annuity(money.interest / 100, years) - curve.prices
        best = int(worth.argmax())
        if worth[best] <= 0 or best == 0:
            dear = curve.savings[1] / annuity(money.interest / 100, years) / curve.energies[1]
            return Proposal(
                0.0,
                f"No battery pays back in the {years:g} years of its life at these prices; it would at {max(dear, 0):,.0f} {money.currency} a kWh or less.",
            )
        return Proposal(
            float(curve.energies[best]),
            f"About {curve.energies[best]:,.0f} kWh, since it is worth most over {years:g} years: {worth[best]:,.0f} {money.currency} more than it costs, at {money.interest:g} % interest.",
        )
    gained = -np.diff(curve.imported) / np.diff(curve.energies)
    enough = np.flatnonzero(gained >= FEWEST_CYCLES)
    if not enough.size:
        return Proposal(0.0, f"None: even the first kWh would be used less than {FEWEST_CYCLES:g} times a year.")
    size = float(curve.energies[enough[-1] + 1])
    return Proposal(
        size, f"About {size:,.0f} kWh, since each further kWh would be used less than {FEWEST_CYCLES:g} times a year."
    )


def proposed_by_use(r: Results) -> Proposal | None:
    """A size by what is stored and used alone, whatever a battery costs; None without a demand."""
    return propose(r, size_curve(r, with_bills=False)) if r.after.has_demand else None


def next_kwh(curve: SizeCurve, energy: float) -> dict[str, float]:
    """What one kWh more than a size would bring a year: of import [kWh], of the peak [kW], and of the bill where it is known."""

    def slope(values: Floats) -> float:
        inside = min(energy, float(curve.energies[-1]) - 1e-9)
        k = min(int(np.searchsorted(curve.energies, inside, side="right")), curve.energies.size - 1)
        return float((values[k] - values[k - 1]) / (curve.energies[k] - curve.energies[k - 1]))

    found = {"imported": slope(curve.imported), "peak": slope(curve.peak)}
    if curve.savings is not None:
        found["saving"] = slope(curve.savings)
    return found


def bare_year(r: Results) -> Metered:
    """The year at the meter without a battery, before the export limit cuts it."""
    delivered = delivered_of(r.sky, r.after.unlimited.value, r.calendar) / 1000
    used = np.zeros(r.calendar.intervals) if r.after.demand is None else r.after.demand.total
    return at_the_meter(delivered, used, r.calendar)


def _usual(r: Results) -> StorageSetting:
    storage = Storage(bank=Bank())
    return StorageSetting(storage, None, None, (), r.design.site.time_zone, r.design.connection.export_limit)


def _reach(r: Results, own: float) -> float:
    """The largest size that is looked at: a day of use, or twice the present one, whichever is more."""
    days = max(r.calendar.intervals * r.calendar.hours_per_interval / 24, 1)
    daily = float(r.after.metered.demand.sum()) / days
    return float(max(2 * own, daily, 2.0))


def _savings(r: Results, imported: Floats, exported: Floats) -> Floats | None:
    tariff = r.design.money.tariff
    if tariff is None:
        return None
    totals = np.array([bill(tariff, i, e, r.calendar, r.after.time_zone).total for i, e in zip(imported, exported, strict=True)])
    return np.asarray(totals[0] - totals)


def price_of_kwh(r: Results, setting: StorageSetting) -> float | None:
    """Of a battery's usable energy; None where it is not known."""
    bank, sheet = setting.storage.bank, setting.datasheet
    assert bank is not None
    if sheet is None:
        return bank.price
    price = r.design.money.worth(sheet.price, sheet.currency)
    return None if price is None else price / (sheet.capacity / 1000)


def energy_of(r: Results) -> float:
    """Usable energy of the design's battery [kWh]; 0 without one."""
    year = battery_year(r)
    return 0.0 if year is None else year.energy
