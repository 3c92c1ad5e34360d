"""Buildings from CityJSON (OGC 20-072r5): the finest solid or surface of each object, as bodies."""

from typing import Any

import numpy as np

from noontide.core.scene.importers.problem import MOST_FACES, UnreadableScene

FURTHEST = 5000.0


def read_cityjson(content: dict[str, Any]) -> dict[str, Any]:
    """The objects of a city model as meshes, their middle at the scene's origin.

    Raises
    ------
    UnreadableScene
        If vertices are missing, an index has no vertex, or the model is too large.
    """
    try:
        vertices = np.array(content["vertices"], dtype=float).reshape(-1, 3)
        transform = content.get("transform") or {"scale": [1, 1, 1], "translate": [0, 0, 0]}
        vertices = vertices * np.array(transform["scale"], float) + np.array(transform["translate"], float)
        objects = content["CityObjects"]
    except (KeyError, TypeError, ValueError) as error:
        raise UnreadableScene(f"CityJSON: vertices, transform or CityObjects cannot be read ({error}).") from error
    if not len(vertices) or not np.isfinite(vertices).all():
        raise UnreadableScene("CityJSON: there is no vertex, or one is not a number.")
    low, high = vertices.min(axis=0), vertices.max(axis=0)
    if max(high[0] - low[0], high[1] - low[1]) > 2 * FURTHEST:
        raise UnreadableScene(
            f"CityJSON: the model is {max(high[:2] - low[:2]) / 1000:.0f} km across. Cut it down to what stands around the site."
        )
    origin = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    meshes: dict[str, Any] = {}
    for name, thing in objects.items():
        rings = _rings(thing, name)
        if not rings:
            continue
        used = sorted({index for ring in rings for index in ring})
        if used[-1] >= len(vertices) or used[0] < 0:
            raise UnreadableScene(f"CityJSON: object '{name}' has vertex {used[-1]}; there are {len(vertices)}.")
        if sum(map(len, rings)) > MOST_FACES * 4:
            raise UnreadableScene(f"CityJSON: object '{name}' has more than {MOST_FACES} faces.")
        place = {index: k for k, index in enumerate(used)}
        meshes[f"body-{len(meshes) + 1}"] = {
            "name": str(name).replace("\n", " ")[:80], "source": "CityJSON",
            "points": (vertices[used] - origin).round(4).tolist(), "faces": [[place[i] for i in ring] for ring in rings],
        }  # fmt: skip
        if len(meshes) > 50:
            raise UnreadableScene(
                "CityJSON: more than 50 objects have a shape. Cut the file down to what stands around the site."
            )
    if not meshes:
        raise UnreadableScene("CityJSON: no object has a solid or a surface.")
    return {"meshes": meshes}


def _rings(thing: Any, name: str) -> list[list[int]]:
    """The outer rings of the finest geometry."""
    shapes = [
        g
        for g in (thing or {}).get("geometry", [])
        if g.get("type") in ("Solid", "MultiSurface", "CompositeSurface", "MultiSolid")
    ]
    if not shapes:
        return []
    finest = max(shapes, key=_level_of_detail)
    depth = {"MultiSurface": 1, "CompositeSurface": 1, "Solid": 2, "MultiSolid": 3}[finest["type"]]
    surfaces: list[Any] = finest.get("boundaries", [])
    try:
        for _ in range(depth - 1):
            surfaces = [inner for outer in surfaces for inner in outer]
        return [[int(i) for i in surface[0]] for surface in surfaces if len(surface[0]) >= 3]
    except (TypeError, IndexError, ValueError) as error:
        raise UnreadableScene(f"CityJSON: the boundaries of object '{name}' are not nested as its type says.") from error


def _level_of_detail(geometry: dict[str, Any]) -> float:
    """As a number; of what is none, the lowest."""
    try:
        return float(geometry.get("lod", 0))
    except (TypeError, ValueError):
        return -1.0
