"""Building outlines with heights from GeoJSON (RFC 7946)."""

import math
from typing import Any

import numpy as np
import shapely

from noontide.core.scene.importers.problem import MOST_OUTLINES, UnreadableScene

EARTH = 6_371_008.8  # mean radius [m]
HEIGHTS = ("eave", "eave_height", "height", "building:height", "Height", "HEIGHT")
LEVELS = ("levels", "building:levels")
STOREY = 3.0  # m
FURTHEST = 5000.0  # m from the site
SMALLEST = 0.25  # m2


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
    for number, feature in enumerate(features, start=1):
        for ring in _rings(feature, number):
            if len(buildings) >= MOST_OUTLINES:
                raise UnreadableScene(
                    f"GeoJSON: more than {MOST_OUTLINES} outlines. Cut the file down to what stands around the site."
                )
            outline = _in_metres(ring, latitude, longitude, number)
            properties = feature.get("properties") or {} if isinstance(feature, dict) else {}
            name = str(properties.get("name") or "").replace("\n", " ")[:80]
            if outline is None or properties.get("kind") == "module":
                continue
            middle = outline.mean(axis=0)
            # Kept with north up: the front of an outline is its own south side.
            buildings[f"outline-{len(buildings) + 1}"] = {
                "name": name or f"Outline {len(buildings) + 1}", "x": round(float(middle[0]), 3), "y": round(float(middle[1]), 3),
                "outline": (outline - middle).round(3).tolist(), "eave": _height(properties, number),
            }  # fmt: skip
    if not buildings:
        raise UnreadableScene("GeoJSON: there is no polygon in the file. Export building outlines as polygons.")
    return {"buildings": buildings}


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


def _in_metres(ring: Any, latitude: float, longitude: float, number: int) -> np.ndarray | None:
    """Corners of an outline in metres from the site; None of a sliver."""
    try:
        points = np.array([[float(p[0]), float(p[1])] for p in ring])
    except (TypeError, ValueError, IndexError) as error:
        raise UnreadableScene(f"GeoJSON: a position of feature {number} is no pair of numbers.") from error
    if len(points) < 4 or not np.isfinite(points).all():
        raise UnreadableScene(f"GeoJSON: the ring of feature {number} needs four positions or more, all of them numbers.")
    points = points[:-1] if np.allclose(points[0], points[-1]) else points
    per_degree = math.pi / 180 * EARTH
    is_degrees = np.all(np.abs(points[:, 0] - longitude) < 1) and np.all(np.abs(points[:, 1] - latitude) < 1)
    if is_degrees:
        points = (points - [longitude, latitude]) * [per_degree * math.cos(math.radians(latitude)), per_degree]
    if np.abs(points).max() > FURTHEST:
        raise UnreadableScene(
            f"GeoJSON: feature {number} lies {np.abs(points).max() / 1000:.0f} km from the site. Move the site, or choose the file of its neighbourhood."
        )
    polygon = shapely.Polygon(points)
    if not polygon.is_valid:
        raise UnreadableScene(f"GeoJSON: the outline of feature {number} crosses itself ({shapely.is_valid_reason(polygon)}).")
    simple = np.array(polygon.simplify(0.05).exterior.coords)[:-1]
    if len(simple) > 60:
        simple = np.array(polygon.simplify(0.5).exterior.coords)[:-1]
    if len(simple) > 60:
        raise UnreadableScene(f"GeoJSON: the outline of feature {number} has {len(simple)} corners; 60 are the most.")
    return simple if polygon.area >= SMALLEST else None


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
