"""Whether the three irradiances of a year agree: GHI = DNI cos(zenith) + DHI."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.sun import IntervalSun
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
BRIGHT = 50.0  # W/m2 of GHI from which an interval counts
LEAST_COSINE = 0.1  # about 84 degrees: lower suns move too much within an interval
TOLERANCE = 0.15  # of GHI; BSRN allows 8 % for well-kept instruments, hourly means of a moving sun somewhat more
HORIZONTAL = 0.25  # of the residual may be left for the DNI column to be taken for the beam on the horizontal


@dataclass(frozen=True)
class Closure:
    """How well the irradiances close over the bright intervals of a year."""

    yearly: float  # GHI less its parts, relative to GHI over the bright intervals
    absolute: float  # mean of the sizes of the residuals, relative to mean GHI
    hours_off: float  # bright hours in which the residual exceeds the tolerance [h]
    bright_hours: float  # [h]
    worst: float  # largest residual, signed [W/m2]
    worst_interval: int
    is_beam_horizontal: bool  # whether the DNI column is the beam on the horizontal


def closure(weather: Weather, sun: IntervalSun) -> Closure | None:
    """Residuals of GHI = DNI cos(zenith) + DHI; None where one of the three was derived from the others, or nothing is bright.

    References
    ----------
    Long, C. N. and Dutton, E. G. (2002), BSRN Global Network recommended QC tests V2.0: comparison of the three components.
    """
    if not {"ghi", "dni", "dhi"} <= set(weather.given):
        return None
    index = sun.interval_index
    ghi, dni, dhi, cosine = weather.ghi[index], weather.dni[index], weather.dhi[index], sun.cos_zenith
    bright = (ghi > BRIGHT) & (cosine > LEAST_COSINE) & (sun.lit_fraction > 0.99)
    if not bright.any():
        return None
    residual = (ghi - dhi - dni * cosine)[bright]
    as_horizontal = (ghi - dhi - dni)[bright]
    total = float(ghi[bright].sum())
    worst = int(np.argmax(np.abs(residual)))
    off, off_as_horizontal = float(np.abs(residual).sum()), float(np.abs(as_horizontal).sum())
    hours = weather.calendar.hours_per_interval
    return Closure(
        yearly=float(residual.sum()) / total,
        absolute=off / total,
        hours_off=float(np.count_nonzero(np.abs(residual) > TOLERANCE * ghi[bright])) * hours,
        bright_hours=float(np.count_nonzero(bright)) * hours,
        worst=float(residual[worst]),
        worst_interval=int(index[bright][worst]),
        is_beam_horizontal=off > 0.02 * total and off_as_horizontal < HORIZONTAL * off,
    )


def is_off(found: Closure) -> bool:
    """Whether the year needs a finding: the sums differ by 3 %, or a tenth of the bright hours do not close."""
    return abs(found.yearly) > 0.03 or found.hours_off > 0.1 * found.bright_hours


def closure_words(found: Closure) -> str:
    """What does not agree, with figures, and what to check."""
    if found.is_beam_horizontal:
        return (
            f"The DNI column holds the beam on the horizontal: GHI − DNI − DHI nearly vanishes, while GHI − DNI·cos(zenith) − DHI is "
            f"{found.yearly:.1%} of GHI over the year. Read the column as beam on the horizontal."
        ).replace("-", "−")
    return (
        f"GHI − DNI·cos(zenith) − DHI is {found.yearly:+.1%} of GHI over the year, more than {TOLERANCE:.0%} in {found.hours_off:,.0f} of "
        f"{found.bright_hours:,.0f} bright hours, at worst {found.worst:+,.0f} W/m². Check which column is which, and the clock."
    ).replace("-", "−")
