"""The stage from the inverter's terminals to the board: inverters, their AC cables, unavailability."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.inverter import convert, fit_inverter
from noontide.core.electrical.strings import NOTHING
from noontide.core.electrical.wiring import AcCableLoss, wire_ac
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.simulation.tracker_power import SubarrayPower, TrackerPower

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

LOSSES = (
    Loss(
        "clipping", "Clipping", "grid", r"\Delta E = -\sum_t\max\bigl(0,\,P_\mathrm{DC}-P_\mathrm{DC,max}\bigr)\Delta t",
        "Power limits of the inverter's datasheet", also="power limit, overload, DC/AC ratio, derate",
    ),
    Loss(
        "power_factor", "Power factor", "grid", r"\Delta E = -\sum_t\max\bigl(0,\,P_\mathrm{DC}(P_\mathrm{max})-P_\mathrm{DC}(S_\mathrm{r}\cos\varphi)\bigr)\Delta t",
        "Apparent power of the inverter's datasheet", (Setting("/connection/power_factor", r"\cos\varphi"),), also="reactive power, cos phi, VAR",
    ),
    Loss(
        "derating", "Derating of inverters", "grid", r"\Delta E = -\sum_t\max\bigl(0,\,P_\mathrm{DC}-P_\mathrm{DC}(d(T_a,h)\,P_\mathrm{max})\bigr)\Delta t",
        "Derating by temperature and height of the inverter's datasheet", also="temperature derating, altitude, thermal limit",
    ),
    Loss(
        "inverter", "Inverter", "grid", r"\Delta E = -\sum_t P_\mathrm{r}\,(k_0+k_1p+k_2p^2)\,\Delta t,\quad p=P_\mathrm{AC}/P_\mathrm{r}",
        "Schmidt and Sauer (1996), Sonnenenergie 4, 43-47, fitted to the datasheet", also="inverter efficiency, conversion",
    ),
    Loss(
        "night_use", "Night consumption", "grid", r"\Delta E = -\sum_{t:\,P_\mathrm{AC}=0} P_\mathrm{night}\,\Delta t",
        "Inverter's datasheet, in intervals without output", also="night use, standby, tare",
    ),
    Loss(
        "ac_wiring", "AC wiring", "grid", r"\Delta E = -\sum_t w\,\frac{P_\mathrm{AC}^2}{P_\mathrm{r}}\,\Delta t", "Ohm's law at constant voltage; of a cable by its section at the conductor's temperature",
        (Setting("/losses/ac_wiring", "w"),), also="ohmic loss, cable loss",
    ),
    Loss(
        "availability", "Unavailability", "grid", r"\Delta E = -u\sum_t P_\mathrm{AC}\,\Delta t", "Fraction of energy (user setting)",
        (Setting("/losses/unavailability", "u"),), also="availability, downtime, outage",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class GridInputs:
    trackers: tuple[Kept[TrackerPower], ...]
    inverter: Inverter
    sky: Kept[SunAndWeather]
    height: float  # above sea level [m]
    warmer: float  # the air around the inverter than the weather's [K]
    power_factor: float
    cable: AcCableLoss
    unavailability: float  # [%]


@dataclass(frozen=True)
class InverterOutput:
    """One inverter of a set at the meter, mean where they differ, (light,) [W]."""

    dc: Floats
    clipping: Floats
    power_factor_loss: Floats
    derating: Floats
    conversion: Floats
    ac: Floats
    night_use: Floats
    wiring_loss: Floats
    availability_loss: Floats
    delivered: Floats
    dark_use: float  # drawn in each dark interval [W]
    dark_wiring: float

    def changes(self) -> dict[str, Floats]:
        """What each line of the Cascade changes, (light,) [W]."""
        return {
            "clipping": -self.clipping,
            "power_factor": -self.power_factor_loss,
            "derating": -self.derating,
            "inverter": -self.conversion,
            "night_use": -self.night_use,
            "ac_wiring": -self.wiring_loss,
            "availability": -self.availability_loss,
        }

    def dark_changes(self) -> dict[str, float]:
        """The same in each dark interval [W]."""
        return {"night_use": -self.dark_use, "ac_wiring": -self.dark_wiring}


def run_inverter(row: GridInputs) -> InverterOutput:
    """An inverter, its AC cable and the time out of service; the mean of a set whose inverters differ."""
    members = [member for tracker in row.trackers for member in tracker.value.members]
    unit, air = row.inverter, row.sky.value.air_temperature
    caps = _caps(row, air)
    dc: Floats = np.asarray(sum(member.power for member in members))
    weighted = sum(member.power * member.point.voltage for member in members)
    found = _converted(row, dc, weighted, caps, air)
    apart = [member.point.banks.when for member in members if member.point.banks is not None]
    if apart:
        when = np.unique(np.concatenate(apart))
        some = {key: cap[when] for key, cap in caps.items()}
        each_dc, each_weighted = _of_banks(members, when)
        each = _converted(row, each_dc, each_weighted, some, air[when])
        for key, values in each.items():
            found[key] = np.broadcast_to(found[key], dc.shape).copy()
            found[key][when] = np.broadcast_to(values, each_dc.shape).mean(axis=0)
    dark = wire_ac(np.array([-unit.night_power]), row.cable)
    return InverterOutput(**found, dark_use=unit.night_power, dark_wiring=float(dark.loss[0]))


def _of_banks(members: list[SubarrayPower], when: Ints) -> tuple[Floats, Floats]:
    """DC power of each inverter of a set, and that power times its voltage, (inverters, some)."""
    dc: Floats = np.zeros((1, when.size))
    weighted = dc
    for member in members:
        banks = member.point.banks
        power = member.power[np.newaxis, when] if banks is None else banks.spread(member.power, member.of_banks, when)
        dc = dc + power
        weighted = weighted + power * member.point.of_banks(when)[0]
    return dc, weighted


def _converted(row: GridInputs, dc: Floats, weighted: Floats, caps: dict[str, Floats], air: Floats) -> dict[str, Floats]:
    """The fields of `InverterOutput` for DC powers and their products with the voltage, (..., intervals)."""
    unit = row.inverter
    voltage = np.divide(weighted, dc, out=np.zeros_like(dc), where=dc > 0)
    out = convert(dc, voltage, fit_inverter(unit), unit.ac_power, unit.maximum_dc_power, unit.night_power, tuple(caps.values()))
    held_back = dict(zip(caps, out.held_back, strict=True))
    cable = wire_ac(out.ac - out.night_use, row.cable, air)
    idle = np.maximum(cable.power, 0) * (row.unavailability / 100)
    return {
        "dc": dc,
        "clipping": out.clipping,
        "power_factor_loss": held_back.get("power_factor", NOTHING),
        "derating": held_back.get("derating", NOTHING),
        "conversion": out.conversion,
        "ac": out.ac,
        "night_use": out.night_use,
        "wiring_loss": cable.loss,
        "availability_loss": idle,
        "delivered": cable.power - idle,
    }


def _caps(row: GridInputs, air: Floats) -> dict[str, Floats]:
    """What limits the AC power below its rating, each within the one before [W]; none that never does."""
    unit, caps = row.inverter, {}
    most = unit.power_at(row.power_factor)
    if most < unit.ac_power:
        caps["power_factor"] = np.full_like(air, most)
    if unit.derating is not None and air.size and unit.derating.begins_within(float(air.max()) + row.warmer, row.height):
        left = unit.derating.share(air + row.warmer, row.height)
        if left.min() < 1:
            caps["derating"] = np.minimum(left * unit.ac_power, most)
    return caps
