"""Parallel rows on level ground: the shade that each throws on the next, in closed form.

Rows are long, of equal width and tilt, with the azimuth of their surface; the section across them is all that counts.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.angles import DEGREE
from noontide.core.shading.horizon import BAND_HEIGHT

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class RowGeometry:
    """Section across the rows.

    Raises
    ------
    ValueError
        If the rows would overlap in plan, or a length is not positive.
    """

    tilt: float  # [°]
    azimuth: float  # of the rows' faces [°]
    width: float  # of a row along its slope [m]
    pitch: float  # from a row's front edge to the next one's, level [m]
    count: int = 10

    def __post_init__(self) -> None:
        if self.width <= 0 or self.pitch <= 0 or self.count < 1:
            raise ValueError("rows need a positive width and pitch and at least one row")
        if self.width * np.cos(np.radians(self.tilt)) >= self.pitch:
            raise ValueError(
                f"rows of {self.width:g} m at {self.tilt:g}° need a pitch over {self.width * np.cos(np.radians(self.tilt)):.2f} m; it is {self.pitch:g} m"
            )

    @property
    def ground_coverage(self) -> float:
        """Row width to pitch."""
        return self.width / self.pitch

    @property
    def shaded_rows(self) -> float:
        """Share of the rows that stand behind another."""
        return (self.count - 1) / self.count


@dataclass(frozen=True)
class RowViews:
    """Share that each part of the light keeps on a row behind another, relative to a lone row; in the shape of the tilt."""

    isotropic: Floats
    band: Floats
    ground: Floats  # of the ground's view; what the strip in between receives is apart
    strip_sky: Floats  # sky view of the ground between rows, 0..1


def profile_angle(sun_zenith: Floats, sun_azimuth: Floats, azimuth: float) -> Floats:
    """Elevation of the sun in the section across rows facing `azimuth`, 0..180; over 90 with the sun behind [°]."""
    theta = np.radians(sun_zenith)
    ahead = np.sin(theta) * np.cos(np.radians(sun_azimuth - azimuth))
    return np.degrees(np.arctan2(np.cos(theta), ahead))


def shaded_fraction(rows: RowGeometry, profile: Floats) -> Floats:
    """Share of the row's width, from its lower edge, in the shade of the row before, 0..1."""
    return section_shade(90 - np.asarray(profile), rows.tilt, rows.ground_coverage)


def section_shade(sun: Floats, rotation: ArrayLike, coverage: float) -> Floats:
    """Share of a row's width in the shade of its neighbour towards the sun, 0..1.

    Parameters
    ----------
    sun, rotation : shapes that broadcast
        Angles of the sun and of the row's normal in the section across the rows, from the normal of the ground and to the same
        side [°].
    coverage : float
        Row width over the distance of the rows along the ground.

    Notes
    -----
    The neighbour stands the distance p away along the ground; its shadow on the plane of the row is displaced by
    p cos(sun) / cos(sun - rotation), and what is left of the width w is in shade. For fixed rows this is
    1 - (p / w) sin(profile) / sin(tilt + profile); cf. Passias and Källbäck (1984), Solar Cells 11, 281-291.
    """
    facing = np.cos((sun - rotation) * DEGREE)
    lit_face = facing > 1e-9
    shade = 1 - np.cos(sun * DEGREE) / np.where(lit_face, facing, 1.0) / coverage
    return np.where(lit_face, np.clip(shade, 0, 1), 0.0)


def strip_lit_fraction(rows: RowGeometry, profile: Floats) -> Floats:
    """Share of the ground between two rows that the beam reaches, 0..1."""
    return section_strip_lit(90 - np.asarray(profile), rows.tilt, rows.ground_coverage)


def section_strip_lit(sun: Floats, rotation: ArrayLike, coverage: float) -> Floats:
    """Share of the ground between rows that the beam reaches, 0..1; arguments as for `section_shade`."""
    shadow = coverage * np.abs(np.cos((sun - rotation) * DEGREE)) / np.maximum(np.cos(sun * DEGREE), 1e-9)
    return np.clip(1 - shadow, 0, 1)


def row_views(rows: RowGeometry) -> RowViews:
    """View factors of a row behind another, by crossed strings."""
    return section_views(np.asarray(rows.tilt), rows.ground_coverage)


def section_views(tilt: ArrayLike, coverage: float) -> RowViews:
    """View factors of rows tilted against the ground by `tilt` [°], any shape, by crossed strings.

    References
    ----------
    Hottel, H. C. and Sarofim, A. F. (1967), Radiative Transfer, crossed-string method.
    """
    beta, w, p = np.radians(np.asarray(tilt, dtype=float)), coverage, 1.0
    to_front_top = np.hypot(p - w * np.cos(beta), w * np.sin(beta))
    top_to_front_foot = np.hypot(p + w * np.cos(beta), w * np.sin(beta))
    sky, lone_sky = (w + p - to_front_top) / (2 * w), (1 + np.cos(beta)) / 2
    ground, lone_ground = (w + p - top_to_front_foot) / (2 * w), (1 - np.cos(beta)) / 2
    # The mask of the front row, seen from points up the slope, hides the band along the horizon.
    left = (1 - (np.arange(50) + 0.5) / 50) * w
    sine, cosine = np.sin(beta)[..., np.newaxis], np.cos(beta)[..., np.newaxis]
    mask = np.degrees(np.arctan2(left * sine, p - left * cosine))
    return RowViews(
        isotropic=sky / lone_sky,
        band=np.mean(np.clip(1 - mask / BAND_HEIGHT, 0, 1), axis=-1),
        ground=np.divide(ground, lone_ground, out=np.ones_like(beta), where=lone_ground > 1e-9),
        strip_sky=(to_front_top + top_to_front_foot - 2 * w) / (2 * p),
    )


def shaded_groups(shaded: Floats, groups: int) -> Floats:
    """Share of the cell groups along the slope that the shade touches, 0..1.

    `groups` is the number of groups up the row that can carry on without those below: 1 where the lowest cells of
    every string decide, 3 for modules in landscape with three bypass diodes.
    """
    return np.ceil(np.round(shaded * groups, 9)) / groups


def lit_halves(shaded: Floats) -> Floats:
    """Share of a half-cut module's two halves, one above the other, that the shade does not touch: 1, 0.5 or 0."""
    return 1 - shaded_groups(shaded, 2)
