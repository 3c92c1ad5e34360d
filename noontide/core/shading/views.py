"""What a moving plane sees, from a table over the few orientations that it takes."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from noontide.core.irradiance.incidence import Modifier
from noontide.core.shading.horizon import DomeView, Horizon, dome_view

Floats = NDArray[np.float64]
FEW = 8  # orientations that are worth a computation each
AZIMUTH_STEP = 15.0  # [°]
TILT_STEP = 5.0  # [°], half of it where the azimuths are exact


def by_tilt(find: Callable[[float], tuple[float, ...]], tilt: Floats, step: float = 1.0) -> tuple[Floats, ...]:
    """Smooth functions of the tilt [°], as an array over the tilts each: exact for a few tilts, linear in a table for many."""
    known = np.unique(tilt)
    if known.size > FEW:
        known = np.arange(np.floor(known[0] / step), np.ceil(known[-1] / step) + 1) * step
    values = np.array([find(float(t)) for t in known])
    return tuple(np.interp(tilt, known, column) for column in values.T)


def dome_views(horizon: Horizon, tilt: Floats, azimuth: Floats, modifier: Modifier) -> DomeView:
    """`dome_view` of a plane that takes many orientations, each field in the common shape of `tilt` and `azimuth` [°].

    Between the orientations of the table every field is bilinear; shares of the sky are then right to 5e-4 in the mean, and to 2e-4
    for a plane that turns about a level axis.
    """
    tilt, azimuth = np.broadcast_arrays(tilt, azimuth)
    low_turn, next_turn, turn_place = _nodes(azimuth, AZIMUTH_STEP)
    low_tilt, next_tilt, tilt_place = _nodes(tilt, TILT_STEP if turn_place.any() else TILT_STEP / 2)
    found = np.zeros((3, *tilt.shape))
    for tilts, tilt_share in ((low_tilt, 1 - tilt_place), (next_tilt, tilt_place)):
        for turns, turn_share in ((low_turn, 1 - turn_place), (next_turn, turn_place)):
            share = tilt_share * turn_share
            corners, place = np.unique(tilts + 1j * turns, return_inverse=True)  # a pair of numbers as one
            used = np.bincount(place.ravel(), share.ravel(), corners.size) > 0
            table = np.zeros((3, corners.size))
            for i in np.flatnonzero(used):
                # Lying level, a plane has no azimuth.
                corner = float(corners[i].real), float(corners[i].imag) % 360 if corners[i].real else 0.0
                table[:, i] = _at_corner(horizon, *corner, modifier)
            found += table[:, place.ravel()].reshape(found.shape) * share
    return DomeView(*found)


@lru_cache(maxsize=8192)
def _at_corner(horizon: Horizon, tilt: float, azimuth: float, modifier: Modifier) -> tuple[float, ...]:
    """The fields of a view at a node of the table; planes that move meet the same nodes again and again."""
    view = dome_view(horizon, tilt, azimuth, modifier)
    return float(view.isotropic), float(view.band), float(view.isotropic_iam)


def _nodes(values: Floats, step: float) -> tuple[Floats, Floats, Floats]:
    """The nodes of the table below and above each value, and its place between them, 0..1; a few values are nodes themselves."""
    known = np.unique(np.round(values, 9))
    if known.size <= FEW:
        exact = np.round(values, 9)
        return exact, exact, np.zeros_like(values)
    low = np.floor(values / step) * step
    return low, low + step, (values - low) / step
