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


def ridley(
    ghi: Floats,
    cos_zenith: Floats,
    extraterrestrial: Floats,
    lit_fraction: Floats,
    solar_time: Floats,
    intervals_per_hour: int = 1,
) -> tuple[Floats, Floats]:
    """Direct normal and diffuse horizontal irradiance from the course of the global one: the day and the hours around count too.

    Parameters
    ----------
    ghi, cos_zenith, extraterrestrial, lit_fraction : (intervals,)
        As for `erbs`, over whole days of the local clock; 0 at night.
    solar_time : (intervals,)
        Apparent solar time at the middle of the interval [h].
    intervals_per_hour : int

    Returns
    -------
    dni, dhi : (intervals,) [W/m2]
        Means over the interval with ghi = dni cos(zenith) + dhi, exactly.

    Raises
    ------
    ValueError
        If the intervals are not those of whole days.

    References
    ----------
    Ridley, B., Boland, J. and Lauret, P. (2010), Modelling of diffuse solar fraction with multiple predictors,
    Renewable Energy 35, 478-483.

    Notes
    -----
    The paper is for hours. In shorter intervals the persistence is that of the hours before and after, so that it means the same.
    """
    per_day = 24 * intervals_per_hour
    if ghi.size % per_day:
        raise ValueError(f"{ghi.size} intervals are not whole days of {per_day}.")
    above = extraterrestrial * np.maximum(cos_zenith, LEAST_COSINE) * lit_fraction
    # The first and the last minutes of light stand beside almost no sun: their clearness means nothing.
    counts = lit_fraction > 1e-6

    def clearness(light: Floats, sky: Floats) -> Floats:
        return np.clip(np.divide(light, sky, out=np.zeros_like(light), where=sky > 0), 0, 1)

    now = clearness(ghi, above)
    by_day = (ghi.reshape(-1, per_day).sum(axis=1), above.reshape(-1, per_day).sum(axis=1))
    day = np.repeat(clearness(*by_day), per_day)
    hours = [_moving_mean(np.where(counts, values, 0.0), intervals_per_hour) for values in (ghi, above)]
    before, after = (clearness(*(np.roll(values, by) for values in hours)) for by in (intervals_per_hour, -intervals_per_hour))
    lit_before, lit_after = (np.roll(hours[1], by) > 0 for by in (intervals_per_hour, -intervals_per_hour))
    # At sunrise and at sunset there is a neighbour on one side alone.
    around = np.where(lit_before & lit_after, (before + after) / 2, np.where(lit_before, before, after))
    elevation = 90 - np.degrees(np.arccos(np.clip(cos_zenith, 0, 1)))
    power = -5.38 + 6.63 * now + 0.006 * solar_time - 0.007 * elevation + 1.75 * day + 1.31 * around
    fraction = 1 / (1 + np.exp(power))
    splits = (cos_zenith > LEAST_COSINE) & counts
    dni = np.where(splits, ghi * (1 - fraction) / np.where(splits, cos_zenith, 1.0), 0.0)
    dni = np.minimum(dni, extraterrestrial * lit_fraction)
    return dni, ghi - dni * cos_zenith


def _moving_mean(values: Floats, width: int) -> Floats:
    """Mean over `width` values around each, round the end."""
    total = np.zeros_like(values)
    for by in range(-(width // 2), width - width // 2):
        total += np.roll(values, by)
    return total / width


def close_beam(ghi: ArrayLike, dhi: ArrayLike, cos_zenith: ArrayLike) -> Floats:
    """Direct normal irradiance [W/m2] that closes ghi = dni cos(zenith) + dhi; 0 where the sun is under three degrees."""
    ghi, dhi, cosine = (np.asarray(v, dtype=float) for v in (ghi, dhi, cos_zenith))
    splits = cosine > LEAST_COSINE
    return np.where(splits, np.maximum(ghi - dhi, 0) / np.where(splits, cosine, 1.0), 0.0)
