"""A horizon line: what it takes of the beam, of the dome and of the band along the horizon."""

from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.irradiance.incidence import Modifier

Floats = NDArray[np.float64]
# The bright band is thin in the transposition models; hills hide it as if it were as high as in Perez et al. (1987).
BAND_HEIGHT = 6.5  # [°]
_HEIGHT_NODES, _HEIGHT_WEIGHTS = np.polynomial.legendre.leggauss(24)
_TURN_NODES, _TURN_WEIGHTS = np.polynomial.legendre.leggauss(4)
WIDEST_STRIP = 5.0  # of azimuth [°]


@dataclass(frozen=True)
class Horizon:
    """Elevation of the horizon by azimuth, linear between its points and wrapped at 360°."""

    azimuths: tuple[float, ...] = ()  # [°], rising within 0..360
    elevations: tuple[float, ...] = ()  # [°], 0 or more

    def __post_init__(self) -> None:
        if len(self.azimuths) != len(self.elevations):
            raise ValueError("a horizon needs as many elevations as azimuths")
        if any(b <= a for a, b in zip(self.azimuths, self.azimuths[1:], strict=False)):
            raise ValueError("azimuths of a horizon must rise without repeating")

    @cached_property
    def fingerprint(self) -> str:
        """Hash of its points."""
        return blake2b(repr((self.azimuths, self.elevations)).encode(), digest_size=16).hexdigest()

    @property
    def is_flat(self) -> bool:
        return not any(self.elevations)

    def elevation_at(self, azimuth: ArrayLike) -> Floats:
        """Of the horizon [°] at azimuths [°]."""
        if self.is_flat:
            return np.zeros(np.shape(azimuth))
        return np.interp(azimuth, self.azimuths, self.elevations, period=360)

    def beam_seen(self, sun_zenith: Floats, sun_azimuth: Floats) -> Floats:
        """1 where the sun's centre stands above the horizon, else 0; the shape of the arguments."""
        return (90 - sun_zenith > self.elevation_at(sun_azimuth)).astype(float)


@dataclass(frozen=True)
class DomeView:
    """What a plane sees of the dome above a horizon, relative to what it would see without."""

    isotropic: float | Floats  # share of the isotropic irradiance that is left
    band: float | Floats  # share of the horizon band's irradiance that is left
    isotropic_iam: float | Floats  # mean modifier of the light left


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
    The dome is summed in strips of azimuth that end at every point of the horizon, so that a mast or a tooth keeps its share of
    the sky however narrow it is; each strip runs from the horizon, or from where the plane itself begins to see, to the zenith.
    """
    turns, widths = _strips(horizon)
    line = np.radians(horizon.elevation_at(turns))
    beta, turn = np.radians(tilt), np.radians(turns - azimuth)
    # Behind a tilted plane the sky is seen only above the plane's own edge.
    own_edge = np.arctan2(np.maximum(-np.sin(beta) * np.cos(turn), 0), np.cos(beta))

    def seen_from(low: Floats) -> tuple[Floats, Floats]:
        half = (np.pi / 2 - low[:, np.newaxis]) / 2
        elevation = low[:, np.newaxis] + half * (1 + _HEIGHT_NODES)
        cosine = np.cos(beta) * np.sin(elevation) + np.sin(beta) * np.cos(elevation) * np.cos(turn)[:, np.newaxis]
        cosine = np.maximum(cosine, 0)
        return widths[:, np.newaxis] * _HEIGHT_WEIGHTS * half * np.cos(elevation) * cosine, cosine

    left, cosine = seen_from(np.maximum(line, own_edge))
    whole = np.pi * (1 + np.cos(beta)) / 2
    facing = widths * np.maximum(np.cos(turn), 0)
    open_band = np.clip(1 - np.degrees(line) / BAND_HEIGHT, 0, 1)
    remaining = float(left.sum())
    return DomeView(
        isotropic=min(float(remaining / whole), 1.0),
        band=float(np.sum(facing * open_band) / np.sum(facing)),
        isotropic_iam=float(np.sum(left * modifier(cosine)) / remaining) if remaining > 1e-12 else 1.0,
    )


def _strips(horizon: Horizon) -> tuple[Floats, Floats]:
    """Azimuths [°] and widths [rad] that sum a function of the azimuth which is smooth between the horizon's points."""
    ends = np.unique(
        np.concatenate([np.asarray(horizon.azimuths, dtype=float) % 360, np.arange(0, 360, WIDEST_STRIP), [0.0, 360.0]])
    )
    half = np.diff(ends) / 2
    turns = (ends[:-1] + half)[:, np.newaxis] + half[:, np.newaxis] * _TURN_NODES
    return turns.ravel(), np.radians(half[:, np.newaxis] * _TURN_WEIGHTS).ravel()
