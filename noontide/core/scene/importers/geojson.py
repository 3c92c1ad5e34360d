"""Building outlines with heights from GeoJSON (RFC 7946)."""

import math
from typing import Any

import numpy as np
import shapely

from noontide.core.earth import METRES_A_DEGREE
from noontide.core.scene.importers.problem import MOST_OUTLINES, UnreadableScene
from noontide.core.weather.statistics import distance_km
from noontide.core.weather.year import Place

HEIGHTS = ("eave", "eave_height", "height", "building:height", "Height", "HEIGHT")
LEVELS = ("levels", "building:levels")
STOREY = 3.0  # m
FURTHEST = 5000.0  # m from the site
SMALLEST = 0.25  # m2
TINY = 0.2  # largest side of a ring that is too small for metres
LEVEL = 0.05  # m between the corners of a ring, up to which it is level


def read_geojson(content: dict[str, Any], latitude: float, longitude: float) -> dict[str, Any]:
    """The buildings of a feature collection as a part of a scene document.

    Coordinates are degrees of longitude and latitude; a collection whose numbers are no degrees counts as metres from the site.

    Raises
    ------
    UnreadableScene
        If there is no polygon, one is broken or far away, or there are too many.
    """
    features = content.get("features") if content.get("type") == "FeatureCollection" else [content]
    if not isinstance(features, list):
        raise UnreadableScene("GeoJSON: 'features' must be a list of features.")
    buildings: dict[str, Any] = {}
    planes: dict[str, Any] = {}
    for number, feature in enumerate(features, start=1):
        for ring in _rings(feature, number):
            if len(buildings) >= MOST_OUTLINES:
                raise UnreadableScene(
                    f"GeoJSON: more than {MOST_OUTLINES} outlines. Cut the file down to what stands around the site."
                )
            given = feature.get("properties") if isinstance(feature, dict) else None
            properties: dict[str, Any] = given if isinstance(given, dict) else {}
            name = str(properties.get("name") or "").replace("\n", " ")[:80]
            if properties.get("kind") == "module":
                continue
            heights = _heights(ring)
            if heights is not None and np.ptp(heights) > LEVEL:
                planes[f"plane-{len(planes) + 1}"] = {
                    "name": name or f"Plane {len(planes) + 1}", "source": "GeoJSON",
                    "points": _sloping(ring, heights, latitude, longitude, number), "faces": [list(range(len(heights)))],
                }  # fmt: skip
                continue
            outline = _in_metres(ring, latitude, longitude, number)
            if outline is None:
                continue
            is_told = bool(set(properties) & {*HEIGHTS, *LEVELS})
            eave = (
                _height(properties, number) if heights is None or heights[0] <= LEVEL or is_told else round(float(heights[0]), 3)
            )
            middle = outline.mean(axis=0)
            # Kept with north up: the front of an outline is its own south side.
            buildings[f"outline-{len(buildings) + 1}"] = {
                "name": name or f"Outline {len(buildings) + 1}", "x": round(float(middle[0]), 3), "y": round(float(middle[1]), 3),
                "outline": (outline - middle).round(3).tolist(), "eave": eave,
            }  # fmt: skip
    if not buildings and not planes:
        raise UnreadableScene("GeoJSON: there is no polygon in the file. Export building outlines as polygons.")
    return ({"buildings": buildings} if buildings else {}) | ({"meshes": planes} if planes else {})


def _rings(feature: Any, number: int) -> list[Any]:
    geometry = feature.get("geometry", feature) if isinstance(feature, dict) else None
    if not isinstance(geometry, dict):
        raise UnreadableScene(f"GeoJSON: feature {number} has no geometry.")
    kind, coordinates = geometry.get("type"), geometry.get("coordinates")
    if kind not in ("Polygon", "MultiPolygon"):
        return []
    if not isinstance(coordinates, list):
        raise UnreadableScene(f"GeoJSON: feature {number} has no coordinates.")
    try:
        return [coordinates[0]] if kind == "Polygon" else [polygon[0] for polygon in coordinates]
    except (TypeError, IndexError, KeyError) as error:
        raise UnreadableScene(f"GeoJSON: the coordinates of feature {number} are no rings of positions.") from error


def _heights(ring: Any) -> np.ndarray | None:
    """Third coordinates of a ring without its closing position; None where it has none."""
    try:
        points = np.array([[float(v) for v in p[:3]] for p in ring])
    except (TypeError, ValueError, IndexError):
        return None
    if points.ndim != 2 or points.shape[1] < 3 or len(points) < 4 or not np.isfinite(points).all():
        return None
    return points[:-1, 2] if np.allclose(points[0], points[-1]) else points[:, 2]


def _sloping(ring: Any, heights: np.ndarray, latitude: float, longitude: float, number: int) -> list[list[float]]:
    """Corners of a sloping face in space, counterclockwise as seen from above."""
    level = _places(ring, latitude, longitude, number)[: len(heights)]
    points = np.column_stack([level, heights])
    if not shapely.LinearRing(level).is_ccw:
        points = points[::-1]
    return points.round(4).tolist()


def _in_metres(ring: Any, latitude: float, longitude: float, number: int) -> np.ndarray | None:
    """Corners of an outline in metres from the site; None of a sliver."""
    points = _places(ring, latitude, longitude, number)
    polygon = shapely.Polygon(points)
    if not polygon.is_valid:
        raise UnreadableScene(f"GeoJSON: the outline of feature {number} crosses itself ({shapely.is_valid_reason(polygon)}).")
    simple = np.array(polygon.simplify(0.05).exterior.coords)[:-1]
    if len(simple) > 60:
        simple = np.array(polygon.simplify(0.5).exterior.coords)[:-1]
    if len(simple) > 60:
        raise UnreadableScene(f"GeoJSON: the outline of feature {number} has {len(simple)} corners; 60 are the most.")
    return simple if polygon.area >= SMALLEST else None


def _places(ring: Any, latitude: float, longitude: float, number: int) -> np.ndarray:
    """Positions of a ring in metres from the site."""
    try:
        points = np.array([[float(p[0]), float(p[1])] for p in ring])
    except (TypeError, ValueError, IndexError) as error:
        raise UnreadableScene(f"GeoJSON: a position of feature {number} is no pair of numbers.") from error
    if len(points) < 4 or not np.isfinite(points).all():
        raise UnreadableScene(f"GeoJSON: the ring of feature {number} needs four positions or more, all of them numbers.")
    points = points[:-1] if np.allclose(points[0], points[-1]) else points
    is_near = np.all(np.abs(points[:, 0] - longitude) < 1) and np.all(np.abs(points[:, 1] - latitude) < 1)
    # In metres nothing that small is an outline: it is one in degrees, wherever it lies.
    is_tiny = np.ptp(points, axis=0).max() < TINY and np.all(np.abs(points) <= [180, 90])
    if is_near or is_tiny:
        middle = points.mean(axis=0)
        far = distance_km(Place(latitude, longitude), Place(float(middle[1]), float(middle[0])))
        if far * 1000 > FURTHEST:
            raise UnreadableScene(
                f"GeoJSON: feature {number} lies {far:,.0f} km from the site, at latitude {middle[1]:.3f}°, longitude {middle[0]:.3f}°. Move the site there, or choose the file of its neighbourhood."
            )
        points = (points - [longitude, latitude]) * [METRES_A_DEGREE * math.cos(math.radians(latitude)), METRES_A_DEGREE]
    if np.abs(points).max() > FURTHEST:
        raise UnreadableScene(
            f"GeoJSON: feature {number} lies {np.abs(points).max() / 1000:.0f} km from the site. Move the site, or choose the file of its neighbourhood."
        )
    return points


def _height(properties: dict[str, Any], number: int) -> float:
    for key in HEIGHTS:
        if properties.get(key) not in (None, ""):
            try:
                height = float(str(properties[key]).lower().removesuffix("m").strip())
            except ValueError as error:
                raise UnreadableScene(
                    f"GeoJSON: {key} of feature {number} is {properties[key]!r}; it must be a height in metres."
                ) from error
            if 0.05 <= height <= 500:
                return height
            raise UnreadableScene(f"GeoJSON: {key} of feature {number} is {height:g} m; 0.05 to 500 m are possible.")
    for key in LEVELS:
        try:
            return max(1.0, float(properties[key])) * STOREY
        except (KeyError, TypeError, ValueError):
            continue
    return STOREY
