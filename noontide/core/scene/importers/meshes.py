"""Bodies from mesh files: OBJ, glTF (also binary), and the faces of a DXF drawing."""

import io
import re
from typing import Any

import ezdxf
import numpy as np
import trimesh

from noontide.core.scene.importers.polygons import joined, welded
from noontide.core.scene.importers.problem import MOST_FACES, UnreadableScene
from noontide.core.scene.importers.standing import Axis, turned_up, up_axis

FURTHEST = 5000.0
PROPERTY = "noontide-part-"  # of a drawing, with a number
AT_HOME = 500.0  # m from the origin of a model, within which it keeps its place


Shape = tuple[str, np.ndarray, list]
UP: dict[str, Axis] = {"gltf": "y", "glb": "y", "dxf": "z"}  # by the format; an OBJ file does not say
UNNAMED = re.compile(r"(geometry|mesh|node|object|group|default|world|scene)?[\s_.:-]*\d*", re.IGNORECASE)


def read_mesh(content: bytes, kind: str, title: str = "Body", up: Axis | None = None) -> tuple[dict[str, Any], Axis]:
    """The shapes of a file as bodies, z up, faces that lie in one plane joined, and the axis that was up in the file.

    Nothing outside the file is opened. Bodies without a name of their own take `title`. Without `up` the axis is that of the format or,
    for one that does not say, as the model seems to stand.

    A model around its own origin keeps its place there; one that lies far from it, in coordinates of a country, comes with its middle to the origin.

    Raises
    ------
    UnreadableScene
        If the file is broken, refers to other files, has no face, or too many.
    """
    shapes = _dxf_faces(content) if kind == "dxf" else _shapes(content, kind)
    if not shapes:
        raise UnreadableScene(f"{kind.upper()}: the file has no face.")
    if (count := sum(len(faces) for _, _, faces in shapes)) > MOST_FACES:
        raise UnreadableScene(f"{kind.upper()}: {count:,} faces; {MOST_FACES:,} are the most. Simplify the mesh first.")
    _check_points(shapes, kind)
    axis = up or UP.get(kind) or _seems_up(shapes)
    if axis == "y":
        shapes = [(name, turned_up(points), faces) for name, points, faces in shapes]
    every = np.concatenate([points for _, points, _ in shapes])
    low, high = every.min(axis=0), every.max(axis=0)
    origin = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    if np.abs(every).max() <= AT_HOME:
        origin = np.zeros(3)
    meshes: dict[str, Any] = {}
    for number, (name, loose, triangles) in enumerate(shapes[:50], start=1):
        points, faces = joined(loose, triangles)
        if not faces:
            continue
        meshes[f"body-{number}"] = {
            "name": _name(name, title, number if len(shapes) > 1 else 0), "source": kind.upper(),
            "points": (points - origin).round(4).tolist(), "faces": [list(map(int, face)) for face in faces],
        }  # fmt: skip
    return {"meshes": meshes}, axis


def _check_points(shapes: list[Shape], kind: str) -> None:
    """Refuse points that are no numbers or lie too far apart, and faces of points that there are not."""
    every = np.concatenate([points for _, points, _ in shapes])
    if not np.isfinite(every).all():
        raise UnreadableScene(f"{kind.upper()}: a point is not a number.")
    span = float(np.max(every.max(axis=0) / 1000 - every.min(axis=0) / 1000))
    if span > 2 * FURTHEST / 1000:
        raise UnreadableScene(f"{kind.upper()}: the model is {span:.3g} km across. Is it in metres?")
    for name, points, faces in shapes:
        if max(max(face) for face in faces) >= len(points) or min(min(face) for face in faces) < 0:
            raise UnreadableScene(
                f"{kind.upper()}: a face of '{name[:40]}' names a point that is not in the file. Export it again."
            )


def _seems_up(shapes: list[Shape]) -> Axis:
    start, points, rings = 0, [], []
    for _, some, faces in shapes:
        points.append(some)
        rings += [[start + i for i in ring] for ring in faces]
        start += len(some)
    return up_axis(*welded(np.concatenate(points), rings))


def _name(name: str, title: str, number: int) -> str:
    """That of the file where a person has given one; a number of a program says nothing."""
    own = "" if UNNAMED.fullmatch(name.strip()) else name
    return " ".join((own or (f"{title} {number}" if number else title)).split())[:80]


def _shapes(content: bytes, kind: str) -> list[Shape]:
    try:
        # Without a resolver, a file that refers to another one is refused.
        loaded: Any = trimesh.load(io.BytesIO(content), file_type=kind, force="scene", process=False)
    except Exception as error:  # the readers raise whatever they stumble over
        raise UnreadableScene(
            f"{kind.upper()}: the file cannot be read ({type(error).__name__}: {str(error)[:120]}). Buffers and textures must be inside it."
        ) from error
    found: list[Shape] = []
    for node in loaded.graph.nodes_geometry:
        transform, name = loaded.graph[node]
        mesh = loaded.geometry[name]
        if isinstance(mesh, trimesh.Trimesh) and len(mesh.faces):
            points = trimesh.transform_points(np.array(mesh.vertices, dtype=float), transform)
            faces = mesh.faces if np.linalg.det(transform[:3, :3]) > 0 else mesh.faces[:, ::-1]  # a mirror turns them round
            found.append((str(node if kind in ("glb", "gltf") else name), points, faces.tolist()))
    return found


def property_of(content: bytes) -> str:
    """The text that a drawing of ours carries in its custom properties; none of any other.

    Raises
    ------
    ValueError
        If it is no drawing that can be read.
    """
    if PROPERTY.encode() not in content:
        return ""
    try:
        drawing = ezdxf.read(io.StringIO(content.decode("utf-8", errors="replace")))
    except Exception as error:  # as below
        raise ValueError(f"{type(error).__name__}: {error}") from error
    return "".join(value for tag, value in drawing.header.custom_vars if tag.startswith(PROPERTY))


def _dxf_faces(content: bytes) -> list[Shape]:
    """3DFACE, closed 3D polylines and polyface meshes, by layer."""
    try:
        drawing = ezdxf.read(io.StringIO(content.decode("utf-8", errors="replace")))
    except Exception as error:  # of a damaged drawing the reader raises whatever it stumbles over
        raise UnreadableScene(f"DXF: the file cannot be read ({type(error).__name__}: {str(error)[:120]}).") from error
    by_layer: dict[str, list[np.ndarray]] = {}
    for entity in drawing.modelspace():
        line: Any = entity
        ring = None
        if entity.dxftype() == "3DFACE":
            corners = [entity.dxf.get(f"vtx{k}") for k in range(4)]
            if any(corner is None for corner in corners[:3]):
                raise UnreadableScene(
                    f"DXF: a 3DFACE on layer {str(entity.dxf.layer)[:40]!r} has less than three corners. Export the drawing again."
                )
            ring = np.array([tuple(corner or corners[2]) for corner in corners], dtype=float)
            if np.allclose(ring[3], ring[2]):
                ring = ring[:3]
        elif entity.dxftype() == "POLYLINE" and line.is_3d_polyline and line.is_closed:
            ring = np.array([tuple(v.dxf.location) for v in line.vertices], dtype=float)
        if ring is not None and 3 <= len(ring) <= 100:
            by_layer.setdefault(entity.dxf.layer, []).append(ring)
        if sum(map(len, by_layer.values())) > MOST_FACES:
            raise UnreadableScene(f"DXF: more than {MOST_FACES:,} faces. Simplify the drawing first.")
    shapes: list[Shape] = []
    for layer, rings in by_layer.items():
        faces, start = [], 0
        for ring in rings:
            faces.append(list(range(start, start + len(ring))))
            start += len(ring)
        shapes.append((layer, np.concatenate(rings), faces))
    return shapes
