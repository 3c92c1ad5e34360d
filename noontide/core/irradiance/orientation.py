"""What every facing of a plane is worth: a year's irradiation over all tilts and azimuths."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.transposition import COS_85, PerezBrightness

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class OrientationMap:
    """Unshaded plane irradiation by facing; the best one is among the points of the grid."""

    tilts: Floats  # (tilts,) [°]
    azimuths: Floats  # (azimuths,) [°]
    irradiation: Floats  # (tilts, azimuths) [kWh/m2]

    @property
    def best(self) -> tuple[float, float, float]:
        """Tilt, azimuth [°] and irradiation [kWh/m2] of the best facing."""
        row, column = np.unravel_index(np.argmax(self.irradiation), self.irradiation.shape)
        return float(self.tilts[row]), float(self.azimuths[column]), float(self.irradiation[row, column])


def orientation_map(
    dni: Floats,
    dhi: Floats,
    ghi: Floats,
    albedo: Floats,
    zenith: Floats,
    azimuth: Floats,
    sky: PerezBrightness,
    beam_seen: Floats,
    hours: float,
    tilt_step: float = 3.0,
    azimuth_step: float = 6.0,
) -> OrientationMap:
    """Irradiation of the Perez sky on every facing.

    Parameters
    ----------
    dni, dhi, ghi, albedo, zenith, azimuth, beam_seen : (intervals,)
        Irradiance [W/m2], albedo, the sun's place [°] and the share of the beam that the horizon lets pass.
    sky : PerezBrightness
        Of the same intervals.
    hours : float
        Length of an interval [h].

    Notes
    -----
    For a fixed plane the isotropic, horizon and ground parts are sums over the year times a function of tilt;
    only the beam and the circumsolar part, max(0, n . s) summed over the hours, need the product of planes and hours.
    """
    tilts = np.arange(0, 90 + tilt_step / 2, tilt_step)
    azimuths = np.arange(0, 360, azimuth_step)
    beta, gamma = np.radians(tilts)[:, np.newaxis], np.radians(azimuths)
    normals = np.stack(
        np.broadcast_arrays(np.sin(beta) * np.sin(gamma), np.sin(beta) * np.cos(gamma), np.cos(beta)), axis=-1
    ).reshape(-1, 3)
    theta, phi = np.radians(zenith), np.radians(azimuth)
    suns = np.stack([np.sin(theta) * np.sin(phi), np.sin(theta) * np.cos(phi), np.cos(theta)])
    bright = dhi * sky.circumsolar
    directed = (dni + bright / np.maximum(np.cos(theta), COS_85)) * beam_seen
    beam = np.concatenate([np.maximum(block @ suns, 0) @ directed for block in np.array_split(normals, 16)])
    view = (1 + np.cos(beta)) / 2
    rest = np.sum(dhi - bright) * view + np.sum(dhi * sky.horizon) * np.sin(beta) + np.sum(ghi * albedo) * (1 - view)
    return OrientationMap(tilts, azimuths, (beam.reshape(len(tilts), len(azimuths)) + rest) * hours / 1000)
