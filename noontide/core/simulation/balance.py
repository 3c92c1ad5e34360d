"""The balance of one inverter set: every change from the horizontal irradiance on its modules to the meter, by month."""

from dataclasses import dataclass
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from noontide.core.simulation import effective_irradiance, grid_power, module_power, plane_irradiance, tracker_power
from noontide.core.simulation.cache import Kept, SharedInputs
from noontide.core.simulation.effective_irradiance import EffectiveIrradiance
from noontide.core.simulation.grid_power import InverterOutput
from noontide.core.simulation.losses import Loss
from noontide.core.simulation.module_power import ModulePower
from noontide.core.simulation.plane_irradiance import PlaneIrradiance
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.simulation.tracker_power import SubarrayPower, TrackerPower

Floats = NDArray[np.float64]

# Every line that is booked for an inverter set, in the order in which the sunlight meets it.
SET_LINES: tuple[Loss, ...] = (
    *plane_irradiance.LOSSES,
    *effective_irradiance.LOSSES,
    *module_power.LOSSES,
    *tracker_power.LOSSES,
    *grid_power.LOSSES,
)


@dataclass(frozen=True)
class BalanceMember:
    """A sub-array with the stages it went through."""

    plane: Kept[PlaneIrradiance]
    effective: Kept[EffectiveIrradiance]
    power: Kept[ModulePower]
    tracker: Kept[TrackerPower]
    place: int  # among the members of its tracker

    @property
    def subarray(self) -> SubarrayPower:
        return self.tracker.value.members[self.place]


@dataclass(frozen=True)
class BalanceInputs(SharedInputs):
    sky: Kept[SunAndWeather]
    members: tuple[BalanceMember, ...]
    grid: Kept[InverterOutput]


@dataclass(frozen=True)
class MemberYear:
    """What the figures of the year ask of a sub-array."""

    reference: Floats  # (12,) irradiation of a sensor in the plane [kWh/m2]
    corrected: Floats  # (12,) the same, weighted by what the cells' temperature leaves of the power
    mean_cell_temperature: float  # weighted by irradiance [°C]
    highest_cell_temperature: float  # with light [°C]
    brightest: float  # highest irradiance on the plane with nothing in front [W/m2]
    dc: float  # energy at the terminals of one inverter [kWh]


@dataclass(frozen=True)
class Balance:
    """One inverter of a set: what reaches the board, and what the figures of the year ask of its hours."""

    members: tuple[MemberYear, ...]  # in the order of the inputs
    output: Floats  # delivered, (light,) [W]
    dark_output: float  # in each interval without light [W]
    dc: float  # sum over the intervals [W]
    clipping: float  # sum over the intervals [W]
    clips: NDArray[np.bool_]  # (light,)
    outside: NDArray[np.bool_]  # whether a string's own maximum lies outside the window, (light,)


@dataclass(frozen=True)
class BookInputs:
    of_set: BalanceInputs


@dataclass(frozen=True)
class Books:
    """The same inverter by the lines of the Cascade, and by month [kWh]."""

    start: Floats  # (12,) horizontal irradiation on the area of the modules
    changes: Floats  # (lines of a set, 12)
    imbalance: float  # largest of any interval [W]
    largest_start: float  # [W]


def book(inputs: BalanceInputs) -> dict[str, Floats]:
    """What each line changes for one inverter, (light,) [W]; a change that does not occur is one zero.

    Raises
    ------
    KeyError
        If a stage books under a key that no line has, or a line is missing.
    """
    sky = inputs.sky.value
    booked: dict[str, Floats] = {}
    for member in inputs.members:
        plane, effective, subarray = member.plane.value, member.effective.value, member.subarray
        for changes, size in (
            (plane.changes(sky), subarray.area),
            (effective.changes(plane), subarray.area),
            (subarray.changes(effective, member.power.value), 1.0),
        ):
            while changes:  # each is let go of once it is booked
                key, change = changes.popitem()
                if size != 1.0:
                    change = change * size
                booked[key] = booked[key] + change if key in booked else change
    booked |= inputs.grid.value.changes()
    if unknown := booked.keys() ^ {line.key for line in SET_LINES}:
        raise KeyError(f"booked under keys that do not match the lines of the Cascade: {sorted(unknown)}")
    return booked


def settle(inputs: BalanceInputs) -> Balance:
    """What an inverter set delivers."""
    sky, grid = inputs.sky.value, inputs.grid.value
    kilowatt_hours = sky.hours_per_interval / 1000
    return Balance(
        members=tuple(_member_year(member, kilowatt_hours) for member in inputs.members),
        output=grid.delivered,
        dark_output=-(grid.dark_use + grid.dark_wiring),
        dc=float(grid.dc.sum()),
        clipping=float(grid.clipping.sum()),
        clips=grid.clipping > 0,
        outside=reduce(np.logical_or, (member.subarray.point.outside for member in inputs.members)),
    )


def keep_books(inputs: BookInputs) -> Books:
    """Where the energy of an inverter set goes, month by month; a study that asks for none of it keeps no books."""
    sky, grid = inputs.of_set.sky.value, inputs.of_set.grid.value
    kilowatt_hours = sky.hours_per_interval / 1000
    start = sky.ghi * sum(member.subarray.area for member in inputs.of_set.members)
    booked, dark = book(inputs.of_set), grid.dark_changes()
    left, changes = start - grid.delivered, np.zeros((len(SET_LINES), 12))
    for i, line in enumerate(SET_LINES):
        # Many a line does not occur; taken out of the books one by one, those that do are never all there twice.
        if (change := booked.pop(line.key)).size > 1:
            changes[i] = sky.monthly_sums(change)
            left += change
        if line.key in dark:
            changes[i] += dark[line.key] * sky.dark_by_month
    return Books(
        start=sky.monthly_sums(start) * kilowatt_hours,
        changes=changes * kilowatt_hours,
        imbalance=float(np.abs(left).max(initial=0)),
        largest_start=float(start.max(initial=0)),
    )


def _member_year(member: BalanceMember, kilowatt_hours: float) -> MemberYear:
    module, plane = member.power.value, member.plane.value
    return MemberYear(
        module.monthly_reference,
        module.monthly_corrected,
        module.mean_cell_temperature,
        module.highest_cell_temperature,
        float(plane.free.max(initial=0)),
        float(member.subarray.power.sum()) * kilowatt_hours,
    )
