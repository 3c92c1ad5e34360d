"""Where things stand: from their own coordinates to the site's."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.document import Building, Scene, Standing, Turned

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Place:
    """A level position with a direction of its own."""

    x: float
    y: float
    azimuth: float  # that its front faces [°]

    @property
    def axes(self) -> Floats:
        """Along the front, from left to right for someone who looks at it, and toward the back; as rows (2, 2)."""
        turn = np.radians(self.azimuth)
        back = np.array([-np.sin(turn), -np.cos(turn)])
        return np.array([[back[1], -back[0]], back])

    def out_of(self, points: Floats) -> Floats:
        """Level points of its own frame (n, 2) in the site's."""
        return np.array([self.x, self.y]) + np.asarray(points, dtype=float) @ self.axes

    def into(self, points: Floats) -> Floats:
        """Level points of the site (n, 2) in its own frame."""
        return (np.asarray(points, dtype=float) - np.array([self.x, self.y])) @ self.axes.T


def place_of(thing: Standing, scene: Scene) -> Place:
    """Of a thing in the site's frame; what stands on a building moves and turns with it."""
    azimuth = thing.azimuth if isinstance(thing, Turned) else 180.0
    if thing.on is None or isinstance(thing, Building):
        return Place(thing.x, thing.y, azimuth)
    building = scene.buildings[thing.on]
    ground = Place(building.x, building.y, building.azimuth)
    x, y = ground.out_of(np.array([[thing.x, thing.y]]))[0]
    # Its azimuth counts as on a building that faces south, so that it turns with the building.
    return Place(float(x), float(y), (azimuth + building.azimuth - 180) % 360)


def rectangle(length: float, width: float) -> Floats:
    """Corners round the origin, counterclockwise from the front's left, (4, 2)."""
    half, deep = length / 2, width / 2
    return np.array([[-half, -deep], [half, -deep], [half, deep], [-half, deep]])
