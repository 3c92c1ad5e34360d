"""A horizon line: what it takes of the beam, of the dome and of the band along the horizon."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.irradiance.incidence import Modifier

Floats = NDArray[np.float64]
# The bright band is thin in the transposition models; hills hide it as if it were as high as in Perez et al. (1987).
BAND_HEIGHT = 6.5  # [°]
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(32)
_TURNS = np.arange(1.0, 360.0, 2.0)


@dataclass(frozen=True)
class Horizon:
    """Elevation of the skyline by azimuth, linear between its points and wrapped at 360°."""

    azimuths: tuple[float, ...] = ()  # [°], rising within 0..360
    elevations: tuple[float, ...] = ()  # [°], 0 or more

    def __post_init__(self) -> None:
        if len(self.azimuths) != len(self.elevations):
            raise ValueError("a horizon needs as many elevations as azimuths")
        if any(b <= a for a, b in zip(self.azimuths, self.azimuths[1:], strict=False)):
            raise ValueError("azimuths of a horizon must rise without repeating")

    @property
    def is_flat(self) -> bool:
        return not any(self.elevations)

    def elevation_at(self, azimuth: ArrayLike) -> Floats:
        """Of the skyline [°] in the directions asked for [°]."""
        if self.is_flat:
            return np.zeros(np.shape(azimuth))
        return np.interp(azimuth, self.azimuths, self.elevations, period=360)

    def beam_seen(self, sun_zenith: Floats, sun_azimuth: Floats) -> Floats:
        """1 where the sun's centre stands above the skyline, else 0; the shape of the arguments."""
        return (90 - sun_zenith > self.elevation_at(sun_azimuth)).astype(float)


@dataclass(frozen=True)
class DomeView:
    """What a plane sees of the dome above a horizon, relative to what it would see without."""

    isotropic: float  # share of the isotropic irradiance that is left
    band: float  # share of the horizon band's irradiance that is left
    isotropic_iam: float  # mean modifier of the light left


def dome_view(horizon: Horizon, tilt: float, azimuth: float, modifier: Modifier) -> DomeView:
    """Integrate the dome over a horizon, as a plane sees it.

    Parameters
    ----------
    tilt, azimuth : float
        Of the plane [°].
    modifier : function
        Incidence angle modifier by cosine.

    Notes
    -----
    The dome is summed in strips of 2° of azimuth; each strip runs from the skyline to the zenith on 32 Gauss points.
    """
    skyline = np.radians(horizon.elevation_at(_TURNS))[:, np.newaxis]
    beta, turn = np.radians(tilt), np.radians(_TURNS - azimuth)[:, np.newaxis]

    def strips(low: Floats) -> tuple[Floats, Floats]:
        half = (np.pi / 2 - low) / 2
        elevation = low + half * (1 + _NODES)
        cosine = np.maximum(np.cos(beta) * np.sin(elevation) + np.sin(beta) * np.cos(elevation) * np.cos(turn), 0)
        return _WEIGHTS * half * np.cos(elevation) * cosine, cosine

    left, cosine = strips(skyline)
    whole = strips(np.zeros_like(skyline))[0].sum()
    facing = np.maximum(np.cos(np.radians(_TURNS - azimuth)), 0)
    open_band = np.clip(1 - horizon.elevation_at(_TURNS) / BAND_HEIGHT, 0, 1)
    return DomeView(
        isotropic=float(left.sum() / whole) if whole > 0 else 1.0,
        band=float(np.sum(facing * open_band) / np.sum(facing)),
        isotropic_iam=float(np.sum(left * modifier(cosine)) / left.sum()) if left.sum() > 0 else 1.0,
    )
