"""The stage from the inverter's terminals to the meter: inverters, AC cables, unavailability."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Inverter
from noontide.core.electrical.inverter import convert, fit_inverter
from noontide.core.electrical.wiring import wire_ac
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.tracker_power import TrackerPower

Floats = NDArray[np.float64]

LOSSES = (
    Loss(
        "clipping", "Clipping", "grid", r"\Delta E = -\sum_t\max\bigl(0,\,P_\mathrm{DC}-P_\mathrm{DC,max}\bigr)\Delta t",
        "Power limits of the inverter's datasheet", also="power limit, overload, DC/AC ratio, derate",
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
        "ac_wiring", "AC wiring", "grid", r"\Delta E = -\sum_t w\,\frac{P_\mathrm{AC}^2}{P_\mathrm{r}}\,\Delta t", "Ohm's law at constant voltage",
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
    ac_wiring: float  # at rated power [%]
    unavailability: float  # [%]


@dataclass(frozen=True)
class InverterOutput:
    """One inverter of a set at the meter, (light,) [W]."""

    dc: Floats
    clipping: Floats
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
            "inverter": -self.conversion,
            "night_use": -self.night_use,
            "ac_wiring": -self.wiring_loss,
            "availability": -self.availability_loss,
        }

    def dark_changes(self) -> dict[str, float]:
        """The same in each dark interval [W]."""
        return {"night_use": -self.dark_use, "ac_wiring": -self.dark_wiring}


def run_inverter(row: GridInputs) -> InverterOutput:
    """An inverter, its AC cable and the time out of service."""
    members = [member for tracker in row.trackers for member in tracker.value.members]
    dc = sum(member.power for member in members)
    weighted = sum(member.power * member.point.voltage for member in members)
    voltage = np.divide(weighted, dc, out=np.zeros_like(dc), where=dc > 0)
    unit = row.inverter
    out = convert(dc, voltage, fit_inverter(unit), unit.ac_power, unit.maximum_dc_power, unit.night_power)
    cable = wire_ac(out.ac - out.night_use, unit.ac_power, row.ac_wiring / 100)
    idle = np.maximum(cable.power, 0) * (row.unavailability / 100)
    dark = wire_ac(np.array([-unit.night_power]), unit.ac_power, row.ac_wiring / 100)
    return InverterOutput(
        dc=dc,
        clipping=out.clipping,
        conversion=out.conversion,
        ac=out.ac,
        night_use=out.night_use,
        wiring_loss=cable.loss,
        availability_loss=idle,
        delivered=cable.power - idle,
        dark_use=unit.night_power,
        dark_wiring=float(dark.loss[0]),
    )
