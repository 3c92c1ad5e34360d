"""Parallel rows on level ground: the shade that each throws on the next, in closed form.

Rows are long, of equal width and tilt, with the azimuth of their surface; the section across them is all that counts.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

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
    """Share that each part of the light keeps on a row behind another, relative to a lone row."""

    isotropic: float
    band: float
    ground: float  # of the ground's view; what the strip in between receives is apart
    strip_sky: float  # sky view of the ground between rows, 0..1


def profile_angle(sun_zenith: Floats, sun_azimuth: Floats, azimuth: float) -> Floats:
    """Elevation of the sun in the section across rows facing `azimuth`, 0..180; over 90 with the sun behind [°]."""
    theta = np.radians(sun_zenith)
    ahead = np.sin(theta) * np.cos(np.radians(sun_azimuth - azimuth))
    return np.degrees(np.arctan2(np.cos(theta), ahead))


def shaded_fraction(rows: RowGeometry, profile: Floats) -> Floats:
    """Share of the row's width, from its lower edge, in the shade of the row before, 0..1.

    References
    ----------
    The section's geometry: 1 - (pitch / width) sin(profile) / sin(tilt + profile); cf. Passias and Källbäck (1984),
    Solar Cells 11, 281-291.
    """
    psi, beta = np.radians(profile), np.radians(rows.tilt)
    across = np.sin(beta + psi)
    lit_face = across > 1e-9
    shade = 1 - np.sin(psi) / np.where(lit_face, across, 1.0) / rows.ground_coverage
    return np.where(lit_face, np.clip(shade, 0, 1), 0.0)


def strip_lit_fraction(rows: RowGeometry, profile: Floats) -> Floats:
    """Share of the ground between two rows that the beam reaches, 0..1."""
    psi, beta = np.radians(profile), np.radians(rows.tilt)
    shadow = rows.ground_coverage * np.abs(np.sin(beta + psi)) / np.maximum(np.sin(psi), 1e-9)
    return np.clip(1 - shadow, 0, 1)


def row_views(rows: RowGeometry) -> RowViews:
    """View factors of a row behind another, by crossed strings.

    References
    ----------
    Hottel, H. C. and Sarofim, A. F. (1967), Radiative Transfer, crossed-string method.
    """
    beta, w, p = np.radians(rows.tilt), rows.width, rows.pitch
    to_front_top = np.hypot(p - w * np.cos(beta), w * np.sin(beta))
    top_to_front_foot = np.hypot(p + w * np.cos(beta), w * np.sin(beta))
    sky, lone_sky = (w + p - to_front_top) / (2 * w), (1 + np.cos(beta)) / 2
    ground, lone_ground = (w + p - top_to_front_foot) / (2 * w), (1 - np.cos(beta)) / 2
    # The mask of the front row, seen from points up the slope, hides the band along the horizon.
    up = (np.arange(50) + 0.5) / 50 * w
    mask = np.degrees(np.arctan2((w - up) * np.sin(beta), p - (w - up) * np.cos(beta)))
    return RowViews(
        isotropic=float(sky / lone_sky),
        band=float(np.mean(np.clip(1 - mask / BAND_HEIGHT, 0, 1))),
        ground=float(ground / lone_ground) if lone_ground > 1e-9 else 1.0,
        strip_sky=float((to_front_top + top_to_front_foot - 2 * w) / (2 * p)),
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
