"""A scene from a file, by its ending and its first bytes."""

import gzip
import json
import zlib
from typing import Any

from pydantic import ValidationError

from noontide.core.scene.document import Scene
from noontide.core.scene.importers.cityjson import read_cityjson
from noontide.core.scene.importers.geojson import read_geojson
from noontide.core.scene.importers.heights import read_heights
from noontide.core.scene.importers.meshes import read_mesh
from noontide.core.scene.importers.points import planes_in, read_points, scene_of
from noontide.core.scene.importers.problem import MOST_BYTES, UnreadableScene

READERS = (".geojson", ".json", ".obj", ".gltf", ".glb", ".dxf", ".las", ".laz", ".xyz", ".txt", ".csv", ".asc", ".tif", ".tiff")


def read_scene(content: bytes, name: str, latitude: float, longitude: float) -> dict[str, Any]:
    """A part of a scene document, to be merged into a design's scene.

    Parameters
    ----------
    content : bytes
        Of the file; one that is compressed by gzip is unpacked up to a limit.
    name : str
        Of the file, for its ending.
    latitude, longitude : float
        Of the scene's origin [°].

    Raises
    ------
    UnreadableScene
        With what is wrong, where, and how to put it right.
    """
    ending = f".{name.lower().rsplit('.', 1)[-1]}" if "." in name else ""
    if ending == ".gz":
        content, name = _unpacked(content), name[: -len(".gz")]
        ending = f".{name.lower().rsplit('.', 1)[-1]}" if "." in name else ""
    if len(content) > MOST_BYTES:
        raise UnreadableScene(f"{name}: {len(content) / 1024**2:.0f} MB; {MOST_BYTES / 1024**2:.0f} MB are the most.")
    if ending not in READERS:
        raise UnreadableScene(f"{name}: no reader for '{ending}'. Use one of {', '.join(READERS)}.")
    match ending:
        case ".geojson" | ".json":
            found = _json(content, name, latitude, longitude)
        case ".obj" | ".gltf" | ".glb" | ".dxf":
            found = read_mesh(content, ending[1:])
        case ".asc" | ".tif" | ".tiff":
            found = read_heights(content, ending, name, latitude, longitude)
        case _:
            planes = planes_in(read_points(content, "las" if ending in (".las", ".laz") else "xyz"))
            if not planes:
                raise UnreadableScene(f"{name}: no plane of {2:g} m² or more was found among the points.")
            found = scene_of(planes)
    try:
        Scene.model_validate(found)
    except ValidationError as error:
        first = error.errors()[0]
        place = "/".join(map(str, first["loc"]))
        raise UnreadableScene(f"{name}: {place}: {first['msg']}") from error
    return found


def _json(content: bytes, name: str, latitude: float, longitude: float) -> dict[str, Any]:
    try:
        document = json.loads(content)
    except (ValueError, RecursionError) as error:
        raise UnreadableScene(f"{name}: this is no JSON ({str(error)[:120]}).") from error
    if not isinstance(document, dict):
        raise UnreadableScene(f"{name}: a JSON object is needed, GeoJSON or CityJSON.")
    if document.get("type") == "CityJSON":
        return read_cityjson(document)
    return read_geojson(document, latitude, longitude)


def _unpacked(content: bytes) -> bytes:
    """Never more than the limit, however much is packed into a few bytes."""
    reader = zlib.decompressobj(16 + zlib.MAX_WBITS)
    try:
        found = reader.decompress(content, MOST_BYTES + 1)
    except (zlib.error, gzip.BadGzipFile) as error:
        raise UnreadableScene(f"The file is no gzip ({error}).") from error
    if len(found) > MOST_BYTES:
        raise UnreadableScene(f"The file unpacks to more than {MOST_BYTES / 1024**2:.0f} MB.")
    return found
