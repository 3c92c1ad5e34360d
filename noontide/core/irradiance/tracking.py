"""Planes that follow the sun about one axis, with backtracking, also on sloping ground."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def rotation(
    zenith: ArrayLike,
    azimuth: ArrayLike,
    axis_tilt: float = 0.0,
    axis_azimuth: float = 180.0,
    ground_cover_ratio: float = 0.4,
    cross_axis_slope: float = 0.0,
    maximum: float = 90.0,
    backtrack: bool = True,
) -> Floats:
    """Rotation of a single-axis tracker about its axis [°], right-handed about the axis; 0 lies level across it.

    Parameters
    ----------
    zenith, azimuth : any shapes that broadcast
        Of the sun, apparent [°].
    axis_tilt : float
        Of the axis over the horizontal, down towards `axis_azimuth` [°].
    axis_azimuth : float
        Direction of the axis, clockwise from north [°]. With an axis to the south, mornings are negative; to the north, positive.
    ground_cover_ratio : float
        Width of a row over the distance of the axes, measured level.
    cross_axis_slope : float
        Slope of the line across the axes of neighbouring rows [°], right-handed like the rotation: a positive slope is that of a row
        turned by as much, and falls towards the side that positive rotations face.
    maximum : float
        Largest rotation to either side [°].
    backtrack : bool
        Whether rows turn back from the sun as far as it takes not to shade one another.

    Returns
    -------
    array
        With the sun below the horizon the row lies level, at 0.

    Raises
    ------
    ValueError
        If the ground cover ratio is not above 0, the maximum not within 0 to 180°, or the cross slope not within ±90°.

    References
    ----------
    Anderson, K. and Mikofski, M. (2020), Slope-aware backtracking for single-axis trackers, NREL/TP-5K00-76626, eqs. 1 to 14;
    Lorenzo, E., Narvarte, L. and Muñoz, J. (2011), Progress in Photovoltaics 19, 747-753.
    """
    if not ground_cover_ratio > 0:
        raise ValueError(f"The ground cover ratio must be above 0; it is {ground_cover_ratio:g}.")
    if not 0 <= maximum <= 180:
        raise ValueError(f"The largest rotation must lie within 0 to 180°; it is {maximum:g}.")
    if not abs(cross_axis_slope) < 90:
        raise ValueError(f"The cross-axis slope must lie within ±90°; it is {cross_axis_slope:g}.")
    z, a = np.radians(zenith), np.radians(azimuth)
    east, north, height = np.sin(z) * np.sin(a), np.sin(z) * np.cos(a), np.cos(z)
    ideal = angle_about(east, north, height, axis_tilt, axis_azimuth)
    turned = ideal
    if backtrack:
        slope = np.radians(cross_axis_slope)
        # The share of a row's width that the light of one row's distance covers; below 1 rows shade one another.
        reach = np.abs(np.cos(np.radians(ideal) - slope)) / (ground_cover_ratio * np.cos(slope))
        back = np.degrees(np.arccos(np.minimum(reach, 1.0)))
        turned = np.where(reach < 1, ideal - np.sign(ideal) * back, ideal)
    return np.where(np.asarray(zenith) < 90, np.clip(turned, -maximum, maximum), 0.0)


def plane_at(rotation: ArrayLike, axis_tilt: float = 0.0, axis_azimuth: float = 180.0) -> tuple[Floats, Floats]:
    """Tilt and azimuth of a plane turned about an axis, both in the shape of `rotation` [°]."""
    turn, lean, facing = np.radians(rotation), np.radians(axis_tilt), np.radians(axis_azimuth)
    across, along, up = np.sin(turn), np.cos(turn) * np.sin(lean), np.cos(turn) * np.cos(lean)
    east = across * np.cos(facing) + along * np.sin(facing)
    north = -across * np.sin(facing) + along * np.cos(facing)
    tilt = np.degrees(np.arctan2(np.hypot(east, north), up))
    return tilt, np.where(tilt > 1e-9, np.degrees(np.arctan2(east, north)) % 360, axis_azimuth % 360)


def angle_about(
    east: ArrayLike, north: ArrayLike, height: ArrayLike, axis_tilt: float = 0.0, axis_azimuth: float = 180.0
) -> Floats:
    """Angle about an axis at which a direction stands [°], in the sense of `rotation`; the direction as parts of a unit vector."""
    lean, facing = np.radians(axis_tilt), np.radians(axis_azimuth)
    across = np.cos(facing) * np.asarray(east) - np.sin(facing) * np.asarray(north)
    along = np.sin(facing) * np.asarray(east) + np.cos(facing) * np.asarray(north)
    return np.degrees(np.arctan2(across, along * np.sin(lean) + np.cos(lean) * np.asarray(height)))
