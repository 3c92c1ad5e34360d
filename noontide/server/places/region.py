"""Sites of a region as a GeoJSON layer (RFC 7946): points, with a name where there is one."""

import json
import math
from typing import Any

from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.list_of import list_of
from noontide.server.problems import Problem
from noontide.server.uploads import FILE_FORM, read_apart, uploaded

MOST = 200
LARGEST = 4 * 1024 * 1024  # bytes
NAMES = ("name", "title", "label", "id")


class LayerSite(BaseModel):
    """A point of the layer."""

    name: str
    latitude: float
    longitude: float


def read_layer(content: bytes) -> list[LayerSite]:
    """The points of a GeoJSON layer.

    Raises
    ------
    ValueError
        Naming the feature, and what was expected.
    """
    try:
        document = json.loads(content.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError) as error:
        raise ValueError(f"The file is no JSON ({str(error)[:120]}). Save the layer as GeoJSON.") from None
    kind = document.get("type") if isinstance(document, dict) else None
    if kind == "FeatureCollection" and isinstance(document.get("features"), list):
        features = document["features"]
    elif kind == "Feature":
        features = [document]
    else:
        raise ValueError(f"A FeatureCollection was expected; 'type' is {str(kind)[:40]!r}.")
    found: list[LayerSite] = []
    for number, feature in enumerate(features, 1):
        found += _points(feature, number)
        if len(found) > MOST:
            raise ValueError(f"The layer has more than {MOST} points. Keep those of the region.")
    if not found:
        raise ValueError("The layer has no points.")
    return found


def _points(feature: Any, number: int) -> list[LayerSite]:
    given_geometry = feature.get("geometry") if isinstance(feature, dict) else None
    geometry: dict = given_geometry if isinstance(given_geometry, dict) else {}
    kind = geometry.get("type")
    if kind not in ("Point", "MultiPoint"):
        raise ValueError(f"Feature {number} is {'without geometry' if kind is None else f'a {str(kind)[:30]}'}; points are read.")
    places = geometry.get("coordinates")
    places = [places] if kind == "Point" else places
    if not isinstance(places, list):
        raise ValueError(f"Feature {number} has no coordinates.")
    given = feature.get("properties")
    properties: dict = given if isinstance(given, dict) else {}
    name = next((str(properties[key]) for key in NAMES if properties.get(key) not in (None, "")), f"Site {number}")
    name = "".join(letter if letter.isprintable() else " " for letter in name)[:120]
    return [LayerSite(name=name, latitude=at[1], longitude=at[0]) for at in (_place(place, number) for place in places)]


def _place(place: Any, number: int) -> tuple[float, float]:
    """Longitude and latitude."""
    numbers = place[:2] if isinstance(place, list) else []
    if len(numbers) < 2 or not all(isinstance(v, (int, float)) and not isinstance(v, bool) and math.isfinite(v) for v in numbers):
        raise ValueError(f"Feature {number}: a place is [longitude, latitude]; it is {str(place)[:60]}.")
    longitude, latitude = map(float, numbers)
    if not (-180 <= longitude <= 180 and -90 <= latitude <= 90):
        raise ValueError(
            f"Feature {number} lies at longitude {longitude:g}, latitude {latitude:g}; GeoJSON is in degrees (WGS 84), longitude first."
        )
    return longitude, latitude


class RegionLayerView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request=FILE_FORM,
        responses=list_of(LayerSite),
        operation_id="region_layer",
    )
    def post(self, request: Request) -> Response:
        """The points of a GeoJSON layer; nothing is kept."""
        try:
            sites = read_apart(read_layer, uploaded(request, LARGEST).read())
        except ValueError as error:
            raise Problem(422, "invalid-layer", "The layer cannot be used", str(error)) from None
        return Response([site.model_dump() for site in sites])
