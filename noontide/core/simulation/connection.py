"""The stage from the board to the meter, all inverters together: AC main cable, transformer, auxiliaries, export limit."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.demand.hourly import HourlyDemand
from noontide.core.demand.meter import Metered
from noontide.core.electrical.strings import NOTHING
from noontide.core.electrical.wiring import AcCableLoss, FourWireLoss
from noontide.core.simulation.balance import SET_LINES, Balance
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.phases import power_on_phases
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]

LOSSES = (
    Loss(
        "ac_main", "AC main cable", "grid", r"\Delta E = -\sum_t R\,\bigl(1+\alpha\,(T_c-20)\bigr)\bigl(I_1^2+I_2^2+I_3^2+I_\mathrm{N}^2\bigr)\Delta t,\quad I_k=\frac{P_k}{U_\mathrm{LN}\cos\varphi}",
        "Ohm's law at constant voltage in each phase and the neutral; IEC 60228, IEC 60028", (Setting("/connection/cable"),), also="main cable, feeder",
    ),
    Loss(
        "transformer_iron", "Transformer, iron", "grid", r"\Delta E = -P_\mathrm{Fe}\,T", "Transformer's datasheet; IEC 60076-1, no-load loss, all year round",
        (Setting("/connection/transformer"),), also="no-load loss, core loss",
    ),
    Loss(
        "transformer_copper", "Transformer, copper", "grid", r"\Delta E = -\sum_t P_\mathrm{Cu}\Bigl(\frac{P(t)}{S_\mathrm{r}\cos\varphi}\Bigr)^2\Delta t",
        "Transformer's datasheet; IEC 60076-1, load loss", (Setting("/connection/transformer"),), also="load loss",
    ),
    Loss(
        "collector", "Medium-voltage cable", "grid", r"\Delta E = -\sum_t R\,\frac{(n+1)(2n+1)}{6n}\Bigl(\frac{P(t)}{U\cos\varphi}\Bigr)^2\Delta t",
        "Ohm's law along a line of n stations with pieces of one length; IEC 60228, IEC 60502-2", (Setting("/connection/collector"), Setting("/connection/stations", "n")),
        also="collector, ring, MV cable, feeder",
    ),
    Loss(
        "auxiliaries", "Auxiliaries", "grid", r"\Delta E = -P_\mathrm{aux}\,T", "Constant power (user setting)", (Setting("/connection/auxiliaries", r"P_\mathrm{aux}"),),
        also="own consumption, monitoring, ventilation",
    ),
    Loss(
        "export_limit", "Export limit", "grid", r"\Delta E = -\sum_t\max\bigl(0,\,P(t)-P_\mathrm{demand}(t)-P_\mathrm{limit}\bigr)\Delta t", "Limit at the point of connection (user setting); what is used behind the meter is not exported",
        (Setting("/connection/export_limit", r"P_\mathrm{limit}"),), also="feed-in limit, curtailment, zero export",
    ),
)  # fmt: skip
# Every line of the Cascade in the order in which the sunlight meets it.
LINES: tuple[Loss, ...] = (*SET_LINES, *LOSSES)
LINE_OF = {line.key: line for line in LINES}


@dataclass(frozen=True)
class ConnectionInputs:
    sky: Kept[SunAndWeather]
    balances: tuple[Kept[Balance], ...]
    counts: tuple[float, ...]
    on_phase: tuple[tuple[float, float, float], ...]  # inverters of each balance by phase
    cable: FourWireLoss | None  # of a station
    stations: int  # that share all power evenly
    iron_loss: float  # of all transformers [W]
    copper_loss: float  # at rated power [W]
    rated_power: float  # of all transformers [VA]
    collector: AcCableLoss | None  # from station to station
    power_factor: float
    auxiliaries: float  # [W]
    export_limit: float | None  # [W]
    demand: Kept[HourlyDemand] | None = None  # behind the meter; only where an export is limited
    stored: Kept[Metered] | None = None  # what a battery takes, likewise


@dataclass(frozen=True)
class ConnectionYear:
    """All inverters at the meter."""

    delivered: Floats  # (light,) [W]
    dark_delivered: float  # in each interval without light [W]
    changes: dict[str, Floats]  # of each line, (light,) or one zero [W]
    dark_changes: dict[str, float]
    monthly_delivered: Floats  # (12,) [kWh]
    monthly_changes: Floats  # (lines, 12) [kWh]
    imbalance: float  # largest of any interval [W]


def connect(inputs: ConnectionInputs) -> ConnectionYear:
    """Carry the power of all inverters to the meter; what is drawn at night passes the same way."""
    sky = inputs.sky.value
    balances = [balance.value for balance in inputs.balances]
    lit = np.asarray(sum(count * one.output for count, one in zip(inputs.counts, balances, strict=True)), dtype=float)
    dark = np.array([sum(count * one.dark_output for count, one in zip(inputs.counts, balances, strict=True))])
    used = 0.0 if inputs.demand is None else inputs.demand.value.total[sky.interval_index] * 1000
    if inputs.stored is not None:
        year = inputs.stored.value
        taken = year.sun_stored - year.of_clipped + np.where(year.produced > 0, year.own_use, 0.0)
        used = used + (taken * (1000 / sky.hours_per_interval))[sky.interval_index]
    changes, delivered = _pass(inputs, lit, _by_phase(inputs, [one.output for one in balances]), sky.air_temperature, used)
    by_phase = _by_phase(inputs, [np.array([one.dark_output]) for one in balances])
    dark_steps, dark_delivered = _pass(inputs, dark, by_phase, 20.0)
    dark_changes = {key: float(change[0]) for key, change in dark_steps.items()}
    kilowatt_hours, dark_months = sky.hours_per_interval / 1000, sky.dark_by_month
    monthly = np.zeros((len(LOSSES), 12))
    left = lit - delivered
    for i, line in enumerate(LOSSES):
        if (change := changes[line.key]) is not NOTHING:
            monthly[i] = sky.monthly_sums(change)
            left = left + change
        if dark_changes[line.key]:
            monthly[i] += dark_changes[line.key] * dark_months
    return ConnectionYear(
        delivered=delivered,
        dark_delivered=float(dark_delivered[0]),
        changes=changes,
        dark_changes=dark_changes,
        monthly_delivered=(sky.monthly_sums(delivered) + float(dark_delivered[0]) * dark_months) * kilowatt_hours,
        monthly_changes=monthly * kilowatt_hours,
        imbalance=float(np.abs(left).max(initial=0)),
    )


def _by_phase(inputs: ConnectionInputs, outputs: list[Floats]) -> Floats | None:
    """Power on each phase, (3, intervals) [W]; none where no cable asks for it."""
    return None if inputs.cable is None else power_on_phases(inputs.on_phase, outputs)


def _pass(
    inputs: ConnectionInputs, power: Floats, by_phase: Floats | None, air: Floats | float, used: Floats | float = 0.0
) -> tuple[dict[str, Floats], Floats]:
    """What each line changes, and what is left."""
    changes = dict.fromkeys((line.key for line in LOSSES), NOTHING)
    left = power
    if inputs.cable is not None and by_phase is not None:
        changes["ac_main"] = -inputs.stations * inputs.cable.during(by_phase / inputs.stations, air)
        left = left + changes["ac_main"]
    if inputs.rated_power:
        load = left / (inputs.rated_power * inputs.power_factor)
        changes["transformer_iron"] = np.full_like(power, -inputs.iron_loss)
        changes["transformer_copper"] = -inputs.copper_loss * load**2
        left = left + changes["transformer_iron"] + changes["transformer_copper"]
    if inputs.collector is not None:
        changes["collector"] = -inputs.collector.during(left, air)
        left = left + changes["collector"]
    if inputs.auxiliaries:
        changes["auxiliaries"] = np.full_like(power, -inputs.auxiliaries)
        left = left + changes["auxiliaries"]
    if inputs.export_limit is not None:
        changes["export_limit"] = -np.maximum(left - used - inputs.export_limit, 0)
        left = left + changes["export_limit"]
    return changes, left
