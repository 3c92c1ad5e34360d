"""A scene built: every face and every body, from the document."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noontide.core.lately import Lately
from noontide.core.scene import building as buildings
from noontide.core.scene.bodies import CORNERS, crown, loft, turned
from noontide.core.scene.document import Building, Carport, Ground, Rectangular, Round, Scene, Silo, Standing, Wall
from noontide.core.scene.frame import area_of
from noontide.core.scene.mesh_faces import mesh_faces
from noontide.core.scene.placing import Place, place_of, rectangle
from noontide.core.scene.roofs import ImpossibleRoof
from noontide.core.scene.solids import Body, Edge, Face, circle

Floats = NDArray[np.float64]
SLIVER = 5e-7  # area of a face that is left out [m2]
SUNK = 0.02  # that a thing reaches below the lowest point of what it stands on [m]


class ImpossibleScene(ValueError):
    """A scene that cannot be built; says which thing and why."""

    def __init__(self, pointer: str, reason: str):
        super().__init__(f"{pointer}: {reason}")
        self.pointer, self.reason = pointer, reason


@dataclass(frozen=True, eq=False)
class BuiltScene:
    """Faces and bodies of a scene, in the order of the document."""

    faces: tuple[Face, ...]
    bodies: tuple[Body, ...]

    def face(self, key: str) -> Face | None:
        """By its id."""
        return next((face for face in self.faces if face.id == key), None)


_buildings: Lately[tuple[list[Face], list[Body]]] = Lately(400)
_built: Lately[BuiltScene] = Lately(16)  # of the documents that were asked for last


def build_scene(scene: Scene, is_southern: bool = False) -> BuiltScene:
    """All faces and bodies; in the south trees are in leaf half a year later.

    Raises
    ------
    ImpossibleScene
        If an outline and its pitches make no roof; the message names the building.
    """
    built = scene._built.get(is_southern)
    if built is None:
        # What was set is part of the key: a month that somebody chose stays in the south, one that was not moves.
        key = f"{is_southern} {scene.model_dump_json(exclude_unset=True)}"
        built = scene._built[is_southern] = _built.find(key, lambda: _build(scene, is_southern))
    return built


def faces(scene: Scene | dict[str, Any]) -> tuple[Face, ...]:
    """The faces of a scene, every normal outward.

    Parameters
    ----------
    scene : Scene or dict
        Of a design, or its JSON document.

    Returns
    -------
    tuple of Face
        With `outline` (n, 3) [m] counterclockwise as seen from outside, `holes`, `normal`, `tilt` and `azimuth` [°],
        `area` [m2] and `edges` with their kinds: eave, ridge, hip, valley, rake, step.

    Raises
    ------
    pydantic.ValidationError
        If the document is no scene.
    ImpossibleScene
        If an outline and its pitches make no roof.
    """
    return build_scene(scene if isinstance(scene, Scene) else Scene.model_validate(scene)).faces


def _build(scene: Scene, is_southern: bool) -> BuiltScene:
    roofs: list[Face] = []
    bodies: list[Body] = []
    for key, one in scene.buildings.items():
        try:
            made, solid = _building(key, one, place_of(one, scene))
        except ImpossibleRoof as problem:
            raise ImpossibleScene(f"/scene/buildings/{key}", str(problem)) from problem
        roofs += made
        bodies += solid
    for key, ground in scene.grounds.items():
        roofs.append(_ground(key, ground, place_of(ground, scene)))
    for key, port in scene.carports.items():
        face, body = _carport(key, port, place_of(port, scene))
        roofs.append(face)
        bodies.append(body)
    extra: list[Face] = []
    for kind in ("chimneys", "pipes", "boxes", "silos", "walls", "poles", "skylights"):
        for key, thing in getattr(scene, kind).items():
            place = place_of(thing, scene)
            outline = place.out_of(_footprint(thing))
            low, at = _stand(thing, outline, place, roofs)
            name = thing.name or NAMES[kind]
            roofs = [buildings.with_hole(face, key, kind, outline) for face in roofs]
            if kind == "skylights":
                continue
            light = (thing.light,) * 12 if isinstance(thing, Wall) else (0.0,) * 12
            if isinstance(thing, Round):
                circles = [(thing.diameter, low), (thing.diameter, at + thing.height)]
                if isinstance(thing, Silo) and thing.cone > 0:
                    circles.append((thing.diameter * 1e-3, at + thing.height + thing.cone))
                body = turned(key, kind, name, np.array([place.x, place.y]), circles, light)
            else:
                body = loft(key, kind, name, [(outline, low), (outline, at + thing.height)], light)
            bodies.append(body)
            extra += _sides(body, len(outline), name)
    for key, tree in scene.trees.items():
        place = place_of(tree, scene)
        _, at = _stand(tree, np.array([[place.x, place.y]]), place, roofs)
        bodies += crown(key, tree, tree.name or "Tree", place.x, place.y, at, scene.years_ahead, is_southern)
    for key, mesh in scene.meshes.items():
        place = place_of(mesh, scene)
        points = np.array(mesh.points, dtype=float) + [place.x, place.y, mesh.base or 0.0]
        rings = tuple(np.array(ring, dtype=np.int64) for ring in mesh.faces)
        name = mesh.name or "Body"
        extra += mesh_faces(key, name, points, rings)
        bodies.append(Body(key, "meshes", name, points, np.zeros((0, 2), dtype=np.int64), rings))
    return BuiltScene(tuple(roofs + extra), tuple(bodies))


def _building(key: str, building: Building, place: Place) -> tuple[list[Face], list[Body]]:
    """Faces and bodies of a building; those of the buildings that an edit leaves alone are remembered."""
    mark = (key, building.model_dump_json(exclude={"x", "y", "is_hidden", "is_locked", "group"}), place)
    known = _buildings.find(mark, lambda: buildings.build(key, building, place, building.base or 0.0))
    return list(known[0]), list(known[1])


NAMES = {
    "chimneys": "Chimney", "pipes": "Pipe", "boxes": "Box", "silos": "Silo", "walls": "Wall", "poles": "Pole",
    "skylights": "Skylight", "trees": "Tree", "buildings": "Building", "carports": "Carport", "grounds": "Ground", "meshes": "Body",
}  # fmt: skip


def _footprint(thing: Standing) -> Floats:
    if isinstance(thing, Round):
        return circle(thing.diameter, CORNERS)
    if isinstance(thing, Wall):
        return rectangle(thing.length, thing.thickness)
    assert isinstance(thing, Rectangular)
    return rectangle(thing.length, thing.width)


def _stand(thing: Standing, outline: Floats, place: Place, roofs: list[Face]) -> tuple[float, float]:
    """Height of the foot, and of what it stands on at its middle."""
    if thing.base is not None:
        return thing.base, thing.base
    under = buildings.face_under(roofs, place.x, place.y)
    if under is None:
        return 0.0, 0.0
    face, at = under
    normal = face.normal
    heights = face.outline[0, 2] - ((outline - face.outline[0, :2]) @ normal[:2]) / normal[2]
    return float(min(heights.min(), at)) - SUNK, at


def _ground(key: str, ground: Ground, place: Place) -> Face:
    local = np.array(ground.outline, dtype=float) if ground.outline else rectangle(ground.length, ground.width)
    x, y = local.T
    if np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y) < 0:
        local = local[::-1]
    rise = (local[:, 1] - local[:, 1].min()) * np.tan(np.radians(ground.slope))
    outline = np.column_stack([place.out_of(local), rise + (ground.base or 0.0)])
    lengths = np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1)
    edges = tuple(Edge("eave", float(length)) for length in lengths)
    return Face(f"{key}/ground", key, "ground", ground.name or "Ground", outline, edges=edges, level_azimuth=place.azimuth)


def _carport(key: str, port: Carport, place: Place) -> tuple[Face, Body]:
    local = rectangle(port.length, port.width)
    rise = (local[:, 1] + port.width / 2) * np.tan(np.radians(port.pitch)) + port.height + (port.base or 0.0)
    level = place.out_of(local)
    name = port.name or "Carport"
    outline = np.column_stack([level, rise + port.thickness])
    lengths = np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1)
    edges = tuple(Edge(kind, float(length)) for kind, length in zip(("eave", "rake", "ridge", "rake"), lengths, strict=True))
    face = Face(f"{key}/roof", key, "roof", f"{name}, roof", outline, edges=edges, level_azimuth=place.azimuth)
    return face, loft(key, "carports", name, [(level, rise), (level, rise + port.thickness)])


def _sides(body: Body, count: int, name: str) -> list[Face]:
    """The sides and the top of a prism as faces."""
    made = []
    layers = len(body.points) // count
    for layer in range(1, layers):
        low, high = body.points[(layer - 1) * count : layer * count], body.points[layer * count : (layer + 1) * count]
        for k in range(count):
            j = (k + 1) % count
            outline = np.array([low[k], low[j], high[j], high[k]])
            if area_of(outline) > SLIVER:
                made.append(Face(f"{body.id}/side-{(layer - 1) * count + k + 1}", body.id, "side", f"{name}, side", outline))
    made.append(Face(f"{body.id}/top", body.id, "top", f"{name}, top", body.points[-count:]))
    return [face for face in made if area_of(face.outline) > SLIVER]
