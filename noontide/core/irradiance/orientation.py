"""A year's irradiation on a plane of every orientation, over all tilts and azimuths."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.transposition import COS_85, PerezBrightness

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class OrientationMap:
    """Unshaded plane irradiation by orientation; the best one is among the points of the grid."""

    tilts: Floats  # (tilts,) [°]
    azimuths: Floats  # (azimuths,) [°]
    irradiation: Floats  # (tilts, azimuths) [kWh/m2]

    @property
    def best(self) -> tuple[float, float, float]:
        """Tilt, azimuth [°] and irradiation [kWh/m2] of the best orientation."""
        row, column = np.unravel_index(np.argmax(self.irradiation), self.irradiation.shape)
        return float(self.tilts[row]), float(self.azimuths[column]), float(self.irradiation[row, column])


@dataclass(frozen=True)
class DirectedLight:
    """A span of weather as every fixed plane needs it: light by direction, and sums of the rest.

    For a fixed plane the isotropic, horizon and ground parts are sums over the hours times a function of tilt; only
    the beam and the circumsolar part, max(0, n . s) summed over the hours, need the product of planes and hours.
    """

    suns: Floats  # (3, intervals) unit vectors, x east, y north, z up
    directed: Floats  # (intervals,) beam and circumsolar light facing the sun [Wh/m2]
    dome: float  # [Wh/m2]
    band: float  # [Wh/m2]
    ground: float  # light reflected by level ground [Wh/m2]

    def on_planes(self, tilt: Floats, azimuth: Floats) -> Floats:
        """Irradiation of planes, (planes,), by tilt and azimuth [°], (planes,), in [kWh/m2]."""
        beta, gamma = np.radians(tilt), np.radians(azimuth)
        normals = np.stack([np.sin(beta) * np.sin(gamma), np.sin(beta) * np.cos(gamma), np.cos(beta)], axis=-1)
        blocks = np.array_split(normals, max(1, len(normals) // 64))
        beam = np.concatenate([np.maximum(block @ self.suns, 0) @ self.directed for block in blocks])
        view = (1 + np.cos(beta)) / 2
        return (beam + self.dome * view + self.band * np.sin(beta) + self.ground * (1 - view)) / 1000


def directed_light(
    dni: Floats,
    dhi: Floats,
    ghi: Floats,
    albedo: Floats,
    zenith: Floats,
    azimuth: Floats,
    sky: PerezBrightness,
    beam_seen: Floats,
    hours: float,
) -> DirectedLight:
    """Gather the light of a span of weather under the Perez sky.

    Parameters
    ----------
    dni, dhi, ghi, albedo, zenith, azimuth, beam_seen : (intervals,)
        Irradiance [W/m2], albedo, the sun's place [°] and the share of the beam that the horizon lets pass.
    sky : PerezBrightness
        Of the same intervals.
    hours : float
        Length of an interval [h].
    """
    theta, phi = np.radians(zenith), np.radians(azimuth)
    bright = dhi * sky.circumsolar
    return DirectedLight(
        suns=np.stack([np.sin(theta) * np.sin(phi), np.sin(theta) * np.cos(phi), np.cos(theta)]),
        directed=(dni + bright / np.maximum(np.cos(theta), COS_85)) * beam_seen * hours,
        dome=float(np.sum(dhi - bright) * hours),
        band=float(np.sum(dhi * sky.horizon) * hours),
        ground=float(np.sum(ghi * albedo) * hours),
    )


def orientation_map(light: DirectedLight, tilt_step: float = 3.0, azimuth_step: float = 6.0) -> OrientationMap:
    """Irradiation on a grid of orientations, from horizontal to vertical and all round; steps in [°]."""
    tilts, azimuths = np.arange(0, 90 + tilt_step / 2, tilt_step), np.arange(0, 360, azimuth_step)
    every_tilt, every_azimuth = (axis.ravel() for axis in np.meshgrid(tilts, azimuths, indexing="ij"))
    return OrientationMap(tilts, azimuths, light.on_planes(every_tilt, every_azimuth).reshape(len(tilts), len(azimuths)))
