"""Incidence angle modifiers: the light that the front glass lets through, relative to light from straight ahead.

A model is a function from the cosine of incidence to the modifier, 1 at normal incidence and 0 at grazing.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Modifier = Callable[[Floats], Floats]
GLASS_INDEX = 1.526
COATING_INDEX = 1.3
GLASS_ABSORPTION = 4.0 * 0.002  # extinction of 4 per metre through 2 mm
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(48)


def fresnel(cosine: ArrayLike, coated: bool = False) -> Floats:
    """Refraction at the glass and absorption in it, with an anti-reflective coating where there is one.

    Parameters
    ----------
    cosine : any shape
        Of the incidence angle; 0 or less gives 0.
    coated : bool
        Whether a quarter-wave layer of index 1.3 lies on the glass.

    References
    ----------
    De Soto, W., Klein, S. A. and Beckman, W. A. (2006), Solar Energy 80, 78-88, eqs. 13 to 15: glass of index 1.526,
    extinction 4 per metre, 2 mm thick.
    """
    return _transmittance(np.asarray(cosine, dtype=float), coated) / _transmittance(np.array(1.0), coated)


def ashrae(cosine: ArrayLike, b0: float = 0.05) -> Floats:
    """1 - b0 (1 / cos - 1), not below 0.

    References
    ----------
    Souka, A. F. and Safwat, H. H. (1966), Solar Energy 10, 170-174; ASHRAE Standard 93.
    """
    cosine = np.asarray(cosine, dtype=float)
    return np.where(cosine > 0, np.clip(1 - b0 * (1 / np.maximum(cosine, 1e-9) - 1), 0, 1), 0.0)


def martin_ruiz(cosine: ArrayLike, a_r: float = 0.16) -> Floats:
    """(1 - exp(-cos / a_r)) / (1 - exp(-1 / a_r)), a_r from 0.14 (coated) to 0.20 (dusty).

    References
    ----------
    Martin, N. and Ruiz, J. M. (2001), Solar Energy Materials and Solar Cells 70, 25-38, eq. 7.
    """
    cosine = np.maximum(np.asarray(cosine, dtype=float), 0)
    return -np.expm1(-cosine / a_r) / -np.expm1(-1 / a_r)


def from_table(cosine: ArrayLike, angles: ArrayLike, modifiers: ArrayLike) -> Floats:
    """Linear between a datasheet's angles [°, rising] and modifiers, from 1 at 0° to 0 at 90°.

    Raises
    ------
    ValueError
        If the angles do not rise.
    """
    known, values = np.asarray(angles, dtype=float), np.asarray(modifiers, dtype=float)
    if (np.diff(known) <= 0).any():
        raise ValueError("angles of an incidence table must rise")
    if known[0] > 0:
        known, values = np.insert(known, 0, 0.0), np.insert(values, 0, 1.0)
    if known[-1] < 90:
        known, values = np.append(known, 90.0), np.append(values, 0.0)
    degrees = np.degrees(np.arccos(np.clip(np.asarray(cosine, dtype=float), 0, 1)))
    return np.where(np.asarray(cosine) > 0, np.interp(degrees, known, values), 0.0)


def tabulated(modifier: Modifier) -> Modifier:
    """The same modifier read from a table fine enough to be exact to 1e-6, for the many hours of a year."""
    # Even steps of the square root of the cosine put the points where the curve bends, at grazing light.
    root = np.linspace(0, 1, 4001)
    values = modifier(root**2)
    rises = np.diff(values)

    def read(cosine: Floats) -> Floats:
        place = np.sqrt(np.maximum(cosine, 0)) * 4000
        low = np.minimum(place.astype(np.int64), 3999)
        return values[low] + (place - low) * rises[low]

    return read


def mean_iam_of_sky(modifier: Modifier, tilt: float) -> float:
    """Mean modifier of an evenly bright, unobstructed dome on a plane tilted by `tilt` [°]; 1 where it sees none."""
    return over_sky_and_ground(modifier, tilt)[0]


def over_ground(modifier: Modifier, tilt: float) -> float:
    """Mean modifier of evenly bright ground on a plane tilted by `tilt` [°]; 1 where it sees none."""
    return over_sky_and_ground(modifier, tilt)[1]


def over_sky_and_ground(modifier: Modifier, tilt: float) -> tuple[float, float]:
    """Both means at once, integrated over the plane's own half space by angle from its normal.

    At the angle theta from the normal, the share of the circle that looks above the horizon is
    arccos(-cot(theta) cot(tilt)) / pi; the integral is cut where that share begins to fall.
    """
    beta = np.radians(np.clip(tilt, 1e-6, 180 - 1e-6))
    cut = abs(np.pi / 2 - beta)
    low, high = np.array([[0.0], [cut]]), np.array([[cut], [np.pi / 2]])
    # A sine stretch takes the square-root ends of the share out of the way of the quadrature.
    theta = ((low + high) / 2 + (high - low) / 2 * np.sin(np.pi / 2 * _NODES)).ravel()
    cosine, sine = np.cos(theta), np.sin(theta)
    light = (_WEIGHTS * (high - low) * np.cos(np.pi / 2 * _NODES)).ravel() * cosine * sine
    with np.errstate(divide="ignore"):
        share = np.arccos(np.clip(-cosine / sine / np.tan(beta), -1, 1)) / np.pi
    seen = np.stack([light * share, light * (1 - share)])
    bottom = seen.sum(axis=1)
    top = seen @ modifier(cosine)
    return tuple(float(t / b) if b > 1e-7 else 1.0 for t, b in zip(top, bottom, strict=True))


def mean_iam_of_band(modifier: Modifier, tilt: float) -> float:
    """Mean modifier of a thin band along the horizon on a plane tilted by `tilt` [°]; 1 where it sees none."""
    sine = np.sin(np.radians(tilt))
    turn = (_NODES + 1) * np.pi / 4
    cosine = sine * np.cos(turn)
    seen = np.sum(_WEIGHTS * cosine)
    return float(np.sum(_WEIGHTS * cosine * modifier(cosine)) / seen) if seen > 1e-9 else 1.0


def _transmittance(cosine: Floats, coated: bool) -> Floats:
    """Of a single pass: through each surface for unpolarised light, then through the glass."""
    inside = np.maximum(cosine, 1e-9)
    through, index = np.ones_like(inside), 1.0
    for next_index in (COATING_INDEX, GLASS_INDEX) if coated else (GLASS_INDEX,):
        refracted = np.sqrt(1 - (1 - inside**2) * (index / next_index) ** 2)
        across = ((index * inside - next_index * refracted) / (index * inside + next_index * refracted)) ** 2
        along = ((index * refracted - next_index * inside) / (index * refracted + next_index * inside)) ** 2
        through = through * (1 - (across + along) / 2)
        inside, index = refracted, next_index
    return np.where(cosine > 0, through * np.exp(-GLASS_ABSORPTION / inside), 0.0)
