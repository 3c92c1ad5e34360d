"""Fuses, breakers and residual-current devices, by a rule set."""

from dataclasses import dataclass
from math import inf
from typing import Literal

# Rated currents of gPV fuse-links that are made [A].
FUSES = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 16.0, 20.0, 25.0, 30.0, 32.0, 40.0, 50.0, 63.0)
# Rated currents of circuit-breakers [A]: IEC 60898-1, and beyond 125 A those of IEC 60947-2 in the same steps.
BREAKERS = (
    6,
    10,
    13,
    16,
    20,
    25,
    32,
    40,
    50,
    63,
    80,
    100,
    125,
    160,
    200,
    250,
    315,
    400,
    500,
    630,
    800,
    1000,
    1250,
    1600,
    2000,
    2500,
    3200,
    4000,
    5000,
    6300,
)


@dataclass(frozen=True)
class RuleSet:
    """Factors by which currents are raised before parts are chosen by them. A set of one's own is made like these."""

    key: str
    title: str
    source: str
    array_current: float  # of Isc, for what the array may give
    conductor: float  # of Isc, that a string's cable must carry
    fuse_from: float  # of Isc, lowest rating of a string fuse
    fuse_to: float  # of Isc, highest rating
    continuous: float  # of the AC current, for breaker and cable


RULE_SETS: dict[str, RuleSet] = {
    "iec": RuleSet("iec", "IEC", "IEC 62548-1, IEC 60364-7-712", 1.25, 1.25, 1.5, 2.4, 1.0),
    # 125 % for the irradiance and 125 % for what is continuous.
    "nec": RuleSet("nec", "125 % rules of NFPA 70", "NFPA 70, articles 690.8 and 690.9", 1.25, 1.5625, 1.5625, inf, 1.25),
}


@dataclass(frozen=True)
class FuseSizes:
    """Whether strings in parallel need fuses, and which ratings serve."""

    is_needed: bool
    reverse_current: float  # that the other strings can drive through one [A]
    lowest: float  # rating by the rule set [A]
    highest: float  # by the rule set and by the module's series fuse, the lower [A]
    sizes: tuple[float, ...]  # ratings that are made and serve; without need too, for who wants fuses all the same
    reason: str  # in words and figures


def fuse_sizes(isc: float, strings_in_parallel: int, series_fuse: float, rules: RuleSet = RULE_SETS["iec"]) -> FuseSizes:
    """String fuses of strings in parallel.

    Parameters
    ----------
    isc : float
        Of a string at standard test conditions [A].
    strings_in_parallel : int
        On one tracker, or on all that are joined.
    series_fuse : float
        Largest fuse that the module allows, also the reverse current that it bears without one [A].

    Raises
    ------
    ValueError
        If a current is not above 0, or there is no string.

    Notes
    -----
    Fuses are needed where the other strings can drive more through a faulty one than its modules allow: (n - 1) Isc beyond the series fuse,
    with the array's factor of the rule set for irradiance over 1,000 W/m2.

    References
    ----------
    IEC 62548-1, overcurrent protection of strings: 1.5 Isc <= In <= 2.4 Isc, and no more than the module's series fuse.
    """
    if isc <= 0 or series_fuse <= 0:
        raise ValueError(f"Isc and the series fuse must be above 0 A; they are {isc:g} and {series_fuse:g} A.")
    if strings_in_parallel < 1:
        raise ValueError(f"There must be one string or more; there are {strings_in_parallel}.")
    reverse = (strings_in_parallel - 1) * rules.array_current * isc
    lowest, highest = rules.fuse_from * isc, min(rules.fuse_to * isc, series_fuse)
    sizes = tuple(size for size in FUSES if lowest * (1 - 1e-9) <= size <= highest * (1 + 1e-9))
    is_needed = reverse > series_fuse * (1 + 1e-9)
    others = strings_in_parallel - 1
    if not is_needed:
        reason = f"No string fuses are needed: {others} other string{'' if others == 1 else 's'} can drive {reverse:.1f} A back, the module allows {series_fuse:g} A."
    elif sizes:
        reason = f"{others} other strings can drive {reverse:.1f} A back, the module allows {series_fuse:g} A: fuses of {lowest:.1f} to {highest:.1f} A."
    else:
        reason = (
            f"{others} other strings can drive {reverse:.1f} A back, the module allows {series_fuse:g} A, and no fuse is made between {lowest:.1f} and {highest:.1f} A. "
            "Use fewer strings in parallel, or a module with a larger series fuse."
        )
    return FuseSizes(is_needed, reverse, lowest, highest, sizes, reason)


def breaker_size(current: float, cable_ampacity: float, rules: RuleSet = RULE_SETS["iec"]) -> int | None:
    """The AC breaker for an inverter's current [A]: IB <= In <= Iz (IEC 60364-4-43, 433.1); None where none lies between."""
    return next(
        (size for size in BREAKERS if rules.continuous * current <= size * (1 + 1e-9) and size <= cable_ampacity * (1 + 1e-9)),
        None,
    )


@dataclass(frozen=True)
class ResidualCurrentDevice:
    """Which type of residual-current device an inverter's circuit takes, and why."""

    type: Literal["A", "B"]
    sensitivity: float  # lowest rated residual current that does not trip by leakage [mA]
    reason: str


def residual_current_device(is_separated: bool, leakage: float, no_dc_fault: bool = False) -> ResidualCurrentDevice:
    """Type by the inverter's separation, sensitivity by its leakage current [mA].

    References
    ----------
    IEC 60364-7-712, 712.531.3.5.1: type B, unless the inverter has at least simple separation between AC and DC, or its maker declares
    that it feeds no DC fault current. IEC 61008-1: a device may trip from half of its rated residual current on.
    """
    if leakage < 0:
        raise ValueError(f"The leakage current must be 0 mA or more; it is {leakage:g} mA.")
    sensitivity = next((float(rated) for rated in (30, 100, 300, 500) if leakage <= rated / 2), 1000.0)
    if is_separated:
        return ResidualCurrentDevice("A", sensitivity, "The inverter separates AC from DC.")
    if no_dc_fault:
        return ResidualCurrentDevice("A", sensitivity, "The maker declares that no DC fault current is fed.")
    return ResidualCurrentDevice("B", sensitivity, "Without simple separation a DC fault current may flow.")


def voltage_rise(
    power: float, resistance: float, reactance: float, voltage: float, phases: Literal[1, 3], reactive_power: float = 0.0
) -> float:
    """Rise at the point of connection [%], (P R + Q X) / U2, for both conductors where there is one phase.

    Parameters
    ----------
    power, reactive_power : float
        Fed in [W], [var]; reactive power that is drawn is negative.
    resistance, reactance : float
        Of the grid at the point, a conductor [ohm].
    voltage : float
        Between the conductors: phase to neutral for one phase, phase to phase for three [V].
    """
    ways = 2 if phases == 1 else 1
    return ways * (power * resistance + reactive_power * reactance) / voltage**2 * 100
