"""The stage from modules to the inverter's terminals: strings on their trackers and through their cables."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Module, Optimiser
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.optimisers import optimise
from noontide.core.electrical.shaded_strings import DIODE_DROP
from noontide.core.electrical.strings import (
    NOTHING,
    Banks,
    OperatingPoint,
    RowShade,
    SceneShade,
    Strings,
    TrackerLimits,
    find_operating_points,
)
from noontide.core.electrical.wiring import CableResistance, wire_through
from noontide.core.simulation.cache import Kept
from noontide.core.simulation.effective_irradiance import EffectiveIrradiance
from noontide.core.simulation.losses import Loss, Setting
from noontide.core.simulation.module_power import ModulePower
from noontide.core.simulation.near_shade import NearShade
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]

_SHARE = "Fraction of maximum power (user setting)"
LOSSES = (
    Loss(
        "quality", "Power tolerance", "modules", r"\Delta E = -q\sum_t P_\mathrm{mpp}\,\Delta t", _SHARE, (Setting("/losses/quality", "q"),),
        also="module quality, Pmax tolerance", may_gain=True,
    ),
    Loss(
        "light_induced", "Light-induced degradation", "modules", r"\Delta E = -\ell\,(1-q)\sum_t P_\mathrm{mpp}\,\Delta t", _SHARE,
        (Setting("/losses/light_induced", r"\ell"),), also="LID, LeTID",
    ),
    Loss(
        "degradation", "Degradation", "modules", r"\Delta E = -d\,(n-1)\,(1-q)(1-\ell)\sum_t P_\mathrm{mpp}\,\Delta t",
        "Linear in the years of operation; Jordan et al. (2016), Progress in Photovoltaics 24, 978-989",
        (Setting("/losses/degradation", "d"), Setting("/losses/year_of_operation", "n"), Setting("/losses/degradation_of_current")), also="ageing, aging, yearly degradation",
    ),
    Loss(
        "mismatch", "Mismatch", "modules", r"\Delta E = -m\,(1-q)(1-\ell)(1-d(n-1))\sum_t P_\mathrm{mpp}\,\Delta t", _SHARE,
        (Setting("/losses/mismatch", "m"),), also="module mismatch",
    ),
    Loss(
        "partial_shade", "Partial shade in strings", "strings", r"\Delta E = \sum_t\Bigl(\max_I I\sum_g \max\bigl(V_g(I),-V_D\bigr)-P_\mathrm{mpp}(\bar G)\Bigr)\Delta t",
        "I-V curves of lit and shaded cell groups in series, with bypass diodes; De Soto et al. (2006)", also="electrical shading, bypass diode, shading mismatch", may_gain=True,
    ),
    Loss(
        "optimisers", "Optimisers", "strings", r"\Delta E = -\sum_t n P_\mathrm{r}\,(k_0+k_1p+k_2p^2)\,\Delta t",
        "Loss polynomial through the weighted and the peak efficiency of the datasheet; limits of power and output current", also="module-level electronics, power optimizer, MLPE",
    ),
    Loss(
        "parallel", "Dissimilar strings in parallel", "strings", r"\Delta E = \sum_t\Bigl(\max_V\sum_k V I_k(V)-\sum_k P_{\mathrm{mpp},k}\Bigr)\Delta t",
        "Common voltage of the strings' I-V curves", also="polystring, mixed orientation",
    ),
    Loss(
        "window", "Outside the MPP window", "strings", r"\Delta E = \sum_t\bigl(P(V_\mathrm{window})-P_\mathrm{mpp}\bigr)\Delta t",
        "I-V curve at the best voltage of the window; inverter's datasheet", also="MPPT range, voltage window, start voltage",
    ),
    Loss(
        "current_limit", "Tracker current limit", "strings", r"\Delta E = \sum_t\bigl(P(I_\mathrm{max})-P\bigr)\Delta t",
        "I-V curve at the tracker's current limit; inverter's datasheet", also="MPPT current, input current",
    ),
    Loss(
        "dc_wiring", "DC wiring", "strings", r"\Delta E = -\sum_t I(t)^2 R\,\bigl(1+\alpha\,(T_c-20)\bigr)\Delta t,\quad T_c=T_a+\Delta T_r\,\frac{I^2}{I_r^2}",
        "Ohm's law at the hourly current; IEC 60028, IEC 60889", (Setting("/losses/dc_wiring"), Setting("/losses/dc_laying"), Setting("/losses/dc_conductor")), also="ohmic loss, cable loss",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class MemberInputs:
    """A sub-array on the tracker."""

    power: Kept[ModulePower]
    effective: Kept[EffectiveIrradiance]
    behind: float  # share of the rows that lie behind another
    module: Module
    series: int
    parallel: int
    cables: tuple[CableResistance, ...]  # from the strings to the inverter
    optimiser: Optimiser | None = None  # at each module
    near: Kept[NearShade] | None = None


@dataclass(frozen=True)
class TrackerInputs:
    sky: Kept[SunAndWeather]
    members: tuple[MemberInputs, ...]
    mppt_minimum: float  # voltage of the MPP window [V]
    mppt_maximum: float  # [V]
    start: float  # [V]
    current: float  # largest operating current [A]
    string_voltage: float  # of strings with optimisers [V]
    quality: float  # [%]
    light_induced: float  # [%]
    degradation: float  # of the power over the years of operation, 0..1
    degradation_of_current: float  # how much of it is current, 0..1; the rest is voltage
    mismatch: float  # [%]


@dataclass(frozen=True)
class SubarrayPower:
    """A sub-array at the terminals of one inverter, mean over those of its set, (light,)."""

    maximum: Floats  # of all its modules, each at its own maximum [W]
    point: OperatingPoint
    optimiser_loss: Floats  # [W]
    wiring_loss: Floats  # [W]
    power: Floats  # after the cables [W]
    of_banks: Floats | None  # the same of each inverter where those of a set differ, (inverters, some) [W]
    shares: tuple[
        float, float, float, float
    ]  # tolerance, light-induced, yearly degradation, mismatch, each of what the one before leaves
    area: float  # of the modules [m2]
    rated: float  # [W]
    count: int  # modules
    rating: float  # from the fitted to the rated power

    def changes(self, effective: EffectiveIrradiance, module: ModulePower) -> dict[str, Floats]:
        """What each line of the Cascade changes, (light,) [W]."""
        nominal = effective.mean * (self.rated / 1000)
        power_at_25c = module.power_at_25c * (self.rating * self.count)
        quality, light_induced, degradation, mismatch = self.shares
        new = (1 - quality) * (1 - light_induced)
        point = self.point
        return {
            "conversion": nominal - effective.mean * self.area,
            "weak_light": power_at_25c - nominal,
            "temperature": self.maximum - power_at_25c,
            "quality": self.maximum * -quality,
            "light_induced": self.maximum * (-light_induced * (1 - quality)),
            "degradation": self.maximum * (-degradation * new) if degradation else NOTHING,
            "mismatch": self.maximum * (-mismatch * new * (1 - degradation)),
            "partial_shade": -point.partial_shade_loss,
            "optimisers": -self.optimiser_loss,
            "parallel": -point.parallel_loss,
            "window": -point.window_loss,
            "current_limit": -point.current_loss,
            "dc_wiring": -self.wiring_loss,
        }


@dataclass(frozen=True)
class TrackerPower:
    """The sub-arrays on a tracker, in the order of the inputs."""

    members: tuple[SubarrayPower, ...]


def run_tracker(row: TrackerInputs) -> TrackerPower:
    """Strings on their trackers and through their cables, every loss booked where it happens."""
    together = [member for member in row.members if member.optimiser is None]
    limits = TrackerLimits(row.mppt_minimum, row.mppt_maximum, row.start, row.current)
    voltage_left = (1 - row.degradation) ** (1 - row.degradation_of_current)

    def keep(mismatch: float) -> float:
        left = (1 - row.quality / 100) * (1 - row.light_induced / 100) * (1 - mismatch)
        return left * (1 - row.degradation) ** row.degradation_of_current

    points = iter(
        find_operating_points([_strings(m, keep(row.mismatch / 100), voltage_left) for m in together], limits) if together else []
    )
    air = row.sky.value.air_temperature
    operated = []
    for member in row.members:
        if member.optimiser is None:
            operated.append((next(points), NOTHING))
        else:
            count = member.series * member.parallel
            found = optimise(_strings(member, keep(0.0), voltage_left), member.optimiser, row.string_voltage, count)
            operated.append((found.point, found.loss))
    limited = _throttled(row, [point for point, _ in operated])
    powers = []
    for member, point, (_, converted) in zip(row.members, limited, operated, strict=True):
        module, count = member.module, member.series * member.parallel
        # With an optimiser each module is at its own maximum: nothing is lost by their differences.
        mismatch = row.mismatch / 100 if member.optimiser is None else 0.0
        rated_current = module.imp * member.parallel if member.optimiser is None else module.power * count / row.string_voltage
        cable = wire_through(point.current, point.voltage, member.cables, rated_current, air)
        wiring_loss, delivered, of_banks = cable.loss, cable.power, None
        if (banks := point.banks) is not None:
            each = wire_through(banks.current, banks.voltage, member.cables, rated_current, air[banks.when])
            of_banks, wiring_loss, delivered = each.power, wiring_loss.copy(), delivered.copy()
            wiring_loss[banks.when], delivered[banks.when] = each.loss.mean(axis=0), each.power.mean(axis=0)
        power = member.power.value
        powers.append(
            SubarrayPower(
                maximum=power.maximum * (power.rating * count),
                point=point,
                optimiser_loss=converted,
                wiring_loss=wiring_loss,
                power=delivered,
                of_banks=of_banks,
                shares=(row.quality / 100, row.light_induced / 100, row.degradation, mismatch),
                area=module.area * count,
                rated=module.power * count,
                count=count,
                rating=power.rating,
            )
        )
    return TrackerPower(tuple(powers))


def _throttled(row: TrackerInputs, points: list[OperatingPoint]) -> list[OperatingPoint]:
    """The points with optimised strings held to what the tracker's current limit leaves beside the others: their voltage is held, their current gives way."""
    is_optimised = [member.optimiser is not None for member in row.members]
    if not any(is_optimised):
        return points
    when = np.unique(np.concatenate([np.zeros(0, np.int64), *(p.banks.when for p in points if p.banks is not None)]))

    def share_of(currents: list[Floats]) -> Floats:
        """What is left of the optimised currents, 0..1."""
        wanted = sum(c for c, is_one in zip(currents, is_optimised, strict=True) if is_one)
        left = np.maximum(row.current - sum(c for c, is_one in zip(currents, is_optimised, strict=True) if not is_one), 0.0)
        # One row where all inverters of the set are the same, of the ones or of the others.
        out = np.ones(np.broadcast(left, wanted).shape)
        return np.divide(left, wanted, out=out, where=wanted > left)

    whole, apart = share_of([p.current for p in points]), share_of([p.of_banks(when)[1] for p in points])
    if whole.min(initial=1.0) >= 1 and apart.min(initial=1.0) >= 1:
        return points

    def throttled(point: OperatingPoint) -> OperatingPoint:
        current, banks = point.current * whole, point.banks
        if when.size:
            volts, amperes = np.broadcast_arrays(*point.of_banks(when), apart)[:2]
            banks = Banks(when, volts, amperes * apart)
            given = (banks.voltage * banks.current).mean(axis=0)
            current[when] = np.divide(given, point.voltage[when], out=np.zeros_like(given), where=point.voltage[when] > 0)
        lost = point.voltage * (point.current - current)
        return replace(point, current=current, current_loss=point.current_loss + lost, banks=banks)

    return [throttled(point) if is_one else point for point, is_one in zip(points, is_optimised, strict=True)]


def _strings(member: MemberInputs, keep: float, voltage_left: float) -> Strings:
    power, effective, module = member.power.value, member.effective.value, member.module
    shade: RowShade | SceneShade | None = None
    if member.near is not None:
        near = member.near.value
        shade = SceneShade(effective.direct + effective.diffuse, effective.diffuse, near.when, near.kinds)
    elif member.behind:
        shade = RowShade(
            lit=effective.direct + effective.diffuse,
            shaded=effective.direct * effective.direct_in_shade + effective.diffuse,
            groups=effective.groups,
            behind=member.behind,
        )
    return Strings(
        parameters=fit_module(module).parameters,
        light=effective.mean,
        cell_temperature=power.cell_temperature,
        maximum_voltage=power.voltage,
        maximum_current=power.current,
        factor=power.rating * keep,
        # Aged modules give their current at a lower voltage: as so much less of a module.
        series=member.series * voltage_left,
        parallel=member.parallel,
        shade=shade,
        drop=module.bypass_diodes * DIODE_DROP,
    )
