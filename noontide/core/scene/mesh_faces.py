"""Faces of bodies from files: what looks up is a roof with the kinds of its edges, what stands is a wall."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.scene.building import named_roofs, wind, with_edges
from noontide.core.scene.frame import area_of
from noontide.core.scene.solids import Face

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
SLIVER = 5e-7  # area of a face that is left out [m2]
STEEPEST = 0.1  # upward part of the normal, above which a face is a roof
LEVEL = 0.1  # part of the normal, below which a face is a wall
MOST_ROOFS = 60  # faces that look up; a body with more is land


def mesh_faces(key: str, title: str, points: Floats, rings: tuple[Ints, ...]) -> list[Face]:
    """Faces of a body by the numbers of its points; those without an area are left out."""
    found = []
    for number, ring in enumerate(rings, start=1):
        outline = points[ring]
        if area_of(outline) > SLIVER:
            found.append(Face(f"{key}/face-{number}", key, "mesh", f"{title}, face {number}", outline))
    up = [face for face in found if face.normal[2] > STEEPEST]
    if not up or len(up) > MOST_ROOFS:
        return found
    roofs = named_roofs([replace(face, kind="roof") for face in up], title)
    walls = {f.id: replace(f, kind="wall", name=f"{title}, {wind(f.azimuth)} wall") for f in found if abs(f.normal[2]) < LEVEL}
    every = {face.id: walls.get(face.id, face) for face in found} | {face.id: face for face in roofs}
    return [with_edges(face, list(every.values()), False) if face.kind == "roof" else face for face in every.values()]
