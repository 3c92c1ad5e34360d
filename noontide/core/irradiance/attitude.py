"""How a plane stands in each interval: fixed, tilted by hand with the seasons, or following the sun about one axis or two."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.tracking import plane_at, rotation

Floats = NDArray[np.float64]
Times = NDArray[np.datetime64]


@dataclass(frozen=True)
class Fixed:
    """A plane that stands still."""

    tilt: float  # [°]
    azimuth: float  # [°]


@dataclass(frozen=True)
class Seasonal:
    """A plane that is tilted by hand: each tilt holds from its day to the next change, also over the turn of the year."""

    azimuth: float  # [°]
    changes: tuple[tuple[int, int, float], ...]  # month 1 to 12, day 1 to 31, tilt [°]; rising


@dataclass(frozen=True)
class SingleAxis:
    """A plane that turns about one axis."""

    axis_tilt: float  # down towards `axis_azimuth` [°]
    axis_azimuth: float  # [°]
    maximum: float  # rotation to either side [°]
    ground_cover_ratio: float | None  # row width over level pitch; None where the plane stands alone and need not turn back
    slope: float  # of the ground across the axes [°], right-handed about the axis
    stow_wind: float | None  # at 10 m, from which on it is stowed [m/s]
    stow_angle: float  # [°]


@dataclass(frozen=True)
class TwoAxis:
    """A plane that faces the sun."""

    maximum_tilt: float  # [°]
    stow_wind: float | None  # at 10 m, from which on it lies level [m/s]


Motion = Fixed | Seasonal | SingleAxis | TwoAxis


@dataclass(frozen=True)
class Stance:
    """Tilt and azimuth of a plane, (1,) where it does not move, else (intervals,) [°]."""

    tilt: Floats
    azimuth: Floats
    rotation: Floats | None = None  # about its one axis, where it has one (intervals,) [°]


def stance(motion: Motion, zenith: Floats, azimuth: Floats, wind: Floats, starts: Times) -> Stance:
    """How a plane stands.

    Parameters
    ----------
    motion : Motion
    zenith, azimuth : (intervals,)
        Of the sun, apparent [°].
    wind : (intervals,)
        At 10 m [m/s].
    starts : (intervals,)
        Of the intervals, on the local clock.
    """
    match motion:
        case Fixed():
            return Stance(np.array([motion.tilt]), np.array([motion.azimuth]))
        case Seasonal():
            return Stance(_tilt_by_hand(motion, starts), np.array([motion.azimuth]))
        case SingleAxis():
            turned = rotation(
                zenith,
                azimuth,
                motion.axis_tilt,
                motion.axis_azimuth,
                motion.ground_cover_ratio or 1.0,
                motion.slope,
                motion.maximum,
                backtrack=motion.ground_cover_ratio is not None,
            )
            if motion.stow_wind is not None:
                turned = np.where(wind >= motion.stow_wind, motion.stow_angle, turned)
            return Stance(*plane_at(turned, motion.axis_tilt, motion.axis_azimuth), turned)
        case TwoAxis():
            follows = zenith < 90
            if motion.stow_wind is not None:
                follows = follows & (wind < motion.stow_wind)
            return Stance(np.where(follows, np.minimum(zenith, motion.maximum_tilt), 0.0), np.where(follows, azimuth, 180.0))


def _tilt_by_hand(motion: Seasonal, starts: Times) -> Floats:
    """The tilt that the last change before each day has left; before the first of the year, the last one's."""
    months = starts.astype("datetime64[M]")
    dates = (months.astype(np.int64) % 12 + 1) * 32 + (starts.astype("datetime64[D]") - months).astype(np.int64) + 1
    changes = np.array([month * 32 + day for month, day, _ in motion.changes])
    tilts = np.array([tilt for _, _, tilt in motion.changes])
    return tilts[np.searchsorted(changes, dates, side="right") - 1]
