"""A scene from a file, by its ending and its first bytes."""

import gzip
import json
import re
import zlib
from typing import Any

from pydantic import ValidationError

from noontide.core.fields import first_fault
from noontide.core.scene.document import Scene
from noontide.core.scene.importers.cityjson import read_cityjson
from noontide.core.scene.importers.geojson import read_geojson
from noontide.core.scene.importers.heights import read_heights
from noontide.core.scene.importers.meshes import property_of, read_mesh
from noontide.core.scene.importers.planes import scene_of
from noontide.core.scene.importers.points import planes_in, read_points
from noontide.core.scene.importers.problem import MOST_BYTES, UnreadableScene
from noontide.core.scene.importers.standing import Axis
from noontide.core.scene.own_files import MEMBER, own_part

TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
READERS = (".geojson", ".json", ".obj", ".gltf", ".glb", ".dxf", ".las", ".laz", ".xyz", ".txt", ".csv", ".asc", ".tif", ".tiff")


def read_scene(content: bytes, name: str, latitude: float, longitude: float) -> dict[str, Any]:
    """A part of a scene document, to be merged into a design's scene: that of `read_part`."""
    return read_part(content, name, latitude, longitude)["scene"]


def read_part(content: bytes, name: str, latitude: float, longitude: float, up: Axis | None = None) -> dict[str, Any]:
    """A part of a design document: `scene`, and `surfaces` with their modules where the file is one of ours; `up` of a model.

    Parameters
    ----------
    content : bytes
        Of the file; one that is compressed by gzip is unpacked up to a limit.
    name : str
        Of the file, for its ending.
    latitude, longitude : float
        Of the scene's origin [°].
    up : {"y", "z"} or None
        The axis of a model that points up; None as the format says or as the model seems to stand.

    Raises
    ------
    UnreadableScene
        With what is wrong, where, and how to put it right.
    """
    ending = f".{name.lower().rsplit('.', 1)[-1]}" if "." in name else ""
    if ending == ".gz":
        content, name = _unpacked(content), name[: -len(".gz")]
        ending = f".{name.lower().rsplit('.', 1)[-1]}" if "." in name else ""
    # What the bytes say goes before what the name says.
    ending = scene_format(content) or ending
    if len(content) > MOST_BYTES:
        raise UnreadableScene(f"{name}: {len(content) / 1024**2:.0f} MB; {MOST_BYTES / 1024**2:.0f} MB are the most.")
    if ending not in READERS:
        raise UnreadableScene(f"{name}: no reader for '{ending}'. Use one of {', '.join(READERS)}.")
    try:
        return _read(content, name, ending, latitude, longitude, up)
    except UnreadableScene:
        raise
    except (
        ArithmeticError,
        LookupError,
        ValueError,
    ) as error:  # of numbers that no shape can have, the packages raise what they stumble over
        raise UnreadableScene(
            f"{name}: its numbers make no shape ({type(error).__name__}). Check that lengths are in metres, and export it again."
        ) from error


def _read(content: bytes, name: str, ending: str, latitude: float, longitude: float, up: Axis | None) -> dict[str, Any]:
    surfaces: dict[str, Any] = {}
    axis = ""
    if (own := _own(content, ending, latitude, longitude)) is not None:
        surfaces = own["surfaces"]
    match ending:
        case _ if own is not None:
            found = own["scene"]
        case ".geojson" | ".json":
            found = _json(content, name, latitude, longitude)
        case ".obj" | ".gltf" | ".glb" | ".dxf":
            title = re.sub(r"[_\s]+", " ", name.replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]).strip() or "Body"
            found, axis = read_mesh(content, ending[1:], title[:1].upper() + title[1:], up)
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
        raise UnreadableScene(f"{name}: {first_fault(error).removeprefix('/')}") from error
    return {"scene": found, "surfaces": surfaces, "up": axis}


HEAD = 64 * 1024  # bytes that tell a text


def scene_format(content: bytes) -> str:
    """The ending that a file of a scene should have by its bytes; empty where they do not tell."""
    for start, ending in ((b"glTF", ".glb"), (b"LASF", ".las"), *((tiff, ".tif") for tiff in TIFF)):
        if content.startswith(start):
            return ending
    text = content[:HEAD].decode("utf-8-sig", errors="replace")
    if re.match(r"\s*ncols\s", text, re.IGNORECASE):
        return ".asc"
    if re.search(r"^\s*0\s*\n\s*SECTION\b", text, re.MULTILINE):
        return ".dxf"
    if len(re.findall(r"^\s*v\s+[-+\d.]", text, re.MULTILINE)) >= 3:
        return ".obj"
    if text.lstrip().startswith("{"):
        return ".gltf" if re.search(r'"asset"\s*:', text) and re.search(r'"(meshes|nodes)"\s*:', text) else ".json"
    return ""


def _own(content: bytes, ending: str, latitude: float, longitude: float) -> dict[str, Any] | None:
    """What a file of ours carries beside its shapes, where its scene has the same origin."""
    try:
        match ending:
            case ".geojson" | ".json":
                whole = json.loads(content)
                return own_part(whole.get(MEMBER), latitude, longitude) if isinstance(whole, dict) else None
            case ".glb":
                header = json.loads(content[20 : 20 + int.from_bytes(content[12:16], "little")])
                return own_part(header["asset"]["extras"][MEMBER], latitude, longitude)
            case ".dxf":
                return own_part(json.loads(property_of(content)), latitude, longitude)
    except (ValueError, KeyError, TypeError, RecursionError):
        return None
    return None


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
