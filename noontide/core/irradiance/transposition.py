"""Diffuse irradiance of the sky on a tilted plane, in the parts that shade and reflection treat differently.

Every model here returns a `SkyDiffuse`; arguments broadcast, planes as (surfaces, 1) against (intervals,).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
COS_85 = np.cos(np.radians(85))


@dataclass(frozen=True)
class SkyDiffuse:
    """Diffuse irradiance of the sky on the plane, each part (surfaces, intervals) [W/m2]."""

    isotropic: Floats  # from the whole dome
    circumsolar: Floats  # from the sun's own direction
    horizon: Floats  # from the band along the horizon; may be negative under overcast skies

    @property
    def total(self) -> Floats:
        return self.isotropic + self.circumsolar + self.horizon


def isotropic(dhi: ArrayLike, tilt: ArrayLike) -> SkyDiffuse:
    """An isotropic sky: dhi (1 + cos tilt) / 2.

    References
    ----------
    Liu, B. Y. H. and Jordan, R. C. (1963), Solar Energy 7, 53-74.
    """
    dome = np.asarray(dhi, dtype=float) * _sky_view(tilt)
    return SkyDiffuse(dome, np.zeros_like(dome), np.zeros_like(dome))


def hay_davies(
    dhi: ArrayLike, dni: ArrayLike, extraterrestrial: ArrayLike, cos_incidence: ArrayLike, cos_zenith: ArrayLike, tilt: ArrayLike
) -> SkyDiffuse:
    """An isotropic sky with a part around the sun, as large as the clearness of the beam.

    References
    ----------
    Hay, J. E. and Davies, J. A. (1980), Calculation of the solar radiation incident on an inclined surface.
    """
    # A beam above the extraterrestrial is no clearness.
    anisotropy = np.clip(np.asarray(dni, dtype=float) / extraterrestrial, 0, 1)
    anisotropy = np.minimum(anisotropy, _largest_circumsolar(dhi, dni, extraterrestrial, cos_zenith))
    dome = dhi * (1 - anisotropy) * _sky_view(tilt)
    return SkyDiffuse(dome, dhi * anisotropy * _beam_ratio(cos_incidence, cos_zenith), np.zeros_like(dome))


def reindl(
    dhi: ArrayLike,
    dni: ArrayLike,
    ghi: ArrayLike,
    extraterrestrial: ArrayLike,
    cos_incidence: ArrayLike,
    cos_zenith: ArrayLike,
    tilt: ArrayLike,
) -> SkyDiffuse:
    """Hay and Davies' sky with a brighter horizon.

    References
    ----------
    Reindl, D. T., Beckman, W. A. and Duffie, J. A. (1990), Solar Energy 45, 9-17.
    """
    even = hay_davies(dhi, dni, extraterrestrial, cos_incidence, cos_zenith, tilt)
    ghi = np.asarray(ghi, dtype=float)
    beam = np.asarray(dni, dtype=float) * cos_zenith
    share = np.sqrt(np.clip(np.divide(beam, ghi, out=np.zeros(np.broadcast(beam, ghi).shape), where=ghi > 0), 0, 1))
    brightening = share * np.sin(np.radians(tilt) / 2) ** 3
    return SkyDiffuse(even.isotropic, even.circumsolar, even.isotropic * brightening)


# Clearness bins of the all-sites composite set: upper limit of epsilon, then F11 F12 F13 F21 F22 F23.
PEREZ_1990 = np.array(
    [
        (1.065, -0.008, 0.588, -0.062, -0.060, 0.072, -0.022),
        (1.230, 0.130, 0.683, -0.151, -0.019, 0.066, -0.029),
        (1.500, 0.330, 0.487, -0.221, 0.055, -0.064, -0.026),
        (1.950, 0.568, 0.187, -0.295, 0.109, -0.152, -0.014),
        (2.800, 0.873, -0.392, -0.362, 0.226, -0.462, 0.001),
        (4.500, 1.132, -1.237, -0.412, 0.288, -0.823, 0.056),
        (6.200, 1.060, -1.600, -0.359, 0.264, -1.127, 0.131),
        (np.inf, 0.678, -0.327, -0.250, 0.156, -1.377, 0.251),
    ]
)


@dataclass(frozen=True)
class PerezBrightness:
    """What the Perez model knows of the sky before it meets a plane, (intervals,)."""

    clearness: Floats  # epsilon
    brightness: Floats  # delta
    circumsolar: Floats  # F1
    horizon: Floats  # F2


def perez_brightness(
    dhi: ArrayLike, dni: ArrayLike, extraterrestrial: ArrayLike, zenith: ArrayLike, air_mass: ArrayLike
) -> PerezBrightness:
    """Clearness, brightness and the two brightening coefficients of the sky.

    Parameters
    ----------
    dhi, dni, extraterrestrial : (intervals,)
        [W/m2].
    zenith : (intervals,)
        Apparent, of the sun [°].
    air_mass : (intervals,)
        Relative, not pressure-corrected.

    References
    ----------
    Perez, R., Ineichen, P., Seals, R., Michalsky, J. and Stewart, R. (1990), Solar Energy 44, 271-289, eqs. 1, 2, 9
    and Table 6.
    """
    dhi, dni = np.asarray(dhi, dtype=float), np.asarray(dni, dtype=float)
    angle = np.radians(zenith)
    cubed = 1.041 * angle**3
    some = dhi > 0
    clearness = np.where(some, (1 + np.divide(dni, dhi, out=np.zeros_like(dhi), where=some) + cubed) / (1 + cubed), 1.0)
    # Skies brighter than the extraterrestrial over the air mass are outside the range of the fit, as under a clock that is off.
    brightness = np.minimum(dhi * air_mass / extraterrestrial, 1.0)
    row = PEREZ_1990[np.searchsorted(PEREZ_1990[:, 0], clearness, side="right").clip(max=7)]
    f1 = np.clip(row[..., 1] + row[..., 2] * brightness + row[..., 3] * angle, 0, 1)
    f1 = np.minimum(f1, _largest_circumsolar(dhi, dni, extraterrestrial, np.cos(angle)))
    f2 = row[..., 4] + row[..., 5] * brightness + row[..., 6] * angle
    return PerezBrightness(clearness, brightness, f1, f2)


def perez(dhi: ArrayLike, sky: PerezBrightness, cos_incidence: ArrayLike, cos_zenith: ArrayLike, tilt: ArrayLike) -> SkyDiffuse:
    """A sky with a bright sun's surrounding and a bright or dark horizon, by its clearness and brightness.

    `sky` comes from `perez_brightness`, once for all planes.

    References
    ----------
    Perez et al. (1990), Solar Energy 44, 271-289, eq. 9.
    """
    dhi = np.asarray(dhi, dtype=float)
    bright = dhi * sky.circumsolar
    return SkyDiffuse(
        isotropic=(dhi - bright) * _sky_view(tilt),
        circumsolar=bright / np.maximum(cos_zenith, COS_85) * np.maximum(cos_incidence, 0),
        horizon=dhi * sky.horizon * np.sin(np.radians(tilt)),
    )


def ground_reflected(ghi: ArrayLike, albedo: ArrayLike, tilt: ArrayLike) -> Floats:
    """Irradiance reflected by flat, evenly lit ground onto the plane: ghi albedo (1 - cos tilt) / 2 [W/m2]."""
    return np.asarray(ghi, dtype=float) * albedo * (1 - _sky_view(tilt))


def _largest_circumsolar(dhi: ArrayLike, dni: ArrayLike, extraterrestrial: ArrayLike, cos_zenith: ArrayLike) -> Floats:
    """Share of the diffuse light that may come from around the sun: with the beam it is no stronger than the sun above the air.

    Ordinary skies are far below it; only a low sun under a weather clock that is off comes near.
    """
    room = np.maximum(np.asarray(extraterrestrial, dtype=float) - dni, 0) * np.maximum(cos_zenith, COS_85)
    return room / np.maximum(dhi, 1e-9)


def _sky_view(tilt: ArrayLike) -> Floats:
    return (1 + np.cos(np.radians(tilt))) / 2


def _beam_ratio(cos_incidence: ArrayLike, cos_zenith: ArrayLike) -> Floats:
    """Beam on the plane to beam on the horizontal, with the low sun held off at 85° as Perez does."""
    return np.maximum(cos_incidence, 0) / np.maximum(cos_zenith, COS_85)
