"""Splitting the global horizontal irradiance into its beam and its diffuse part."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
# Under three degrees of elevation the beam is too weak and its geometry too uncertain to be split off.
LEAST_COSINE = np.cos(np.radians(87))


def erbs(
    ghi: ArrayLike, cos_zenith: ArrayLike, extraterrestrial: ArrayLike, lit_fraction: ArrayLike = 1.0
) -> tuple[Floats, Floats]:
    """Direct normal and diffuse horizontal irradiance from the global one.

    Parameters
    ----------
    ghi : any shape
        Mean over the interval [W/m2]; 0 or more.
    cos_zenith, extraterrestrial : broadcast with `ghi`
        Of the sun at the middle of the lit part of the interval; normal irradiance above the air [W/m2].
    lit_fraction
        Share of the interval with the sun up.

    Returns
    -------
    dni, dhi : [W/m2]
        Means over the interval with ghi = dni cos(zenith) + dhi, exactly.

    References
    ----------
    Erbs, D. G., Klein, S. A. and Duffie, J. A. (1982), Solar Energy 28, 293-302, eq. 1.
    """
    ghi, cosine, above, lit = np.broadcast_arrays(
        *(np.asarray(v, dtype=float) for v in (ghi, cos_zenith, extraterrestrial, lit_fraction))
    )
    horizontal_above = above * np.maximum(cosine, LEAST_COSINE) * np.maximum(lit, 1e-6)
    clearness = np.clip(ghi / horizontal_above, 0, 1)
    middle = 0.9511 + clearness * (-0.1604 + clearness * (4.388 + clearness * (-16.638 + clearness * 12.336)))
    diffuse_fraction = np.where(clearness <= 0.22, 1 - 0.09 * clearness, np.where(clearness <= 0.8, middle, 0.165))
    splits = cosine > LEAST_COSINE
    dni = np.where(splits, ghi * (1 - diffuse_fraction) / np.where(splits, cosine, 1.0), 0.0)
    # No beam is stronger than the sun above the air.
    dni = np.minimum(dni, above * lit)
    return dni, ghi - dni * cosine


def close_beam(ghi: ArrayLike, dhi: ArrayLike, cos_zenith: ArrayLike) -> Floats:
    """Direct normal irradiance [W/m2] that closes ghi = dni cos(zenith) + dhi; 0 where the sun is under three degrees."""
    ghi, dhi, cosine = (np.asarray(v, dtype=float) for v in (ghi, dhi, cos_zenith))
    splits = cosine > LEAST_COSINE
    return np.where(splits, np.maximum(ghi - dhi, 0) / np.where(splits, cosine, 1.0), 0.0)
