import math
from collections.abc import Callable

from django.conf import settings
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.heights import HeightGrid, read_height_grid
from noontide.core.heights.geotiff import read_geotiff
from noontide.core.scene.importers import scene_format
from noontide.core.shading import horizon_from_grid
from noontide.server.problems import Problem
from noontide.server.uploads import read_apart, uploaded


class GridRequest(BaseModel):
    """Where the horizon of a height grid is looked for."""

    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    eye: float = Field(2.0, ge=0, le=500, allow_inf_nan=False, description="height of the array over the ground [m]")
    step: float = Field(3.0, ge=1, le=15, allow_inf_nan=False, description="between the azimuths [°]")


class TerrainHorizon(BaseModel):
    """The visible line of the terrain."""

    azimuths: list[float]
    elevations: list[float]


class TerrainHeight(BaseModel):
    """Height of the ground above sea level, from a height grid [m]."""

    elevation: float


def _form(*numbers: str) -> dict:
    properties: dict = {"file": {"type": "string", "format": "binary"}} | {name: {"type": "number"} for name in numbers}
    return {"multipart/form-data": {"type": "object", "properties": properties, "required": ["file", "latitude", "longitude"]}}


def _grid(content: bytes, at: GridRequest, name: str) -> HeightGrid:
    if scene_format(content) == ".tif":
        return read_geotiff(content, at.longitude, at.latitude, name)
    grid = read_height_grid(content.decode("utf-8", errors="replace"), name)
    if not grid.is_geographic:
        raise ValueError(f"{name} is in metres and does not say of which projection. Load it as GeoTIFF, which does.")
    return grid


def horizon_of(content: bytes, at: GridRequest, name: str) -> TerrainHorizon:
    """The visible line of a height grid."""
    line = horizon_from_grid(_grid(content, at, name), at.longitude, at.latitude, at.eye, step=at.step)
    return TerrainHorizon(azimuths=list(line.azimuths), elevations=[round(e, 1) for e in line.elevations])


def height_of(content: bytes, at: GridRequest, name: str) -> TerrainHeight:
    """The height of a point in a height grid."""
    height = float(_grid(content, at, name).at(at.longitude, at.latitude))
    if not math.isfinite(height):
        raise ValueError(f"The grid has no height at {at.latitude:g}°, {at.longitude:g}°.")
    return TerrainHeight(elevation=round(height, 1))


def _asked(request: Request, reader: Callable[[bytes, GridRequest, str], BaseModel]) -> Response:
    """What a reader finds in the height grid of a request."""
    given = uploaded(request, settings.UPLOAD_LIMIT)
    at = GridRequest.model_validate({k: v for k, v in request.data.items() if k != "file"})
    try:
        return Response(read_apart(reader, given.read(), at, (given.name or "height grid")[:120]).model_dump())
    except ValueError as error:
        raise Problem(422, "invalid-grid", "The height grid cannot be used", str(error)) from None


class TerrainHorizonView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request=_form("latitude", "longitude", "eye", "step"), responses=TerrainHorizon, operation_id="terrain_horizon"
    )
    def post(self, request: Request) -> Response:
        """The horizon of a height grid at a point: GeoTIFF, or an ESRI ASCII grid in degrees; nothing is kept."""
        return _asked(request, horizon_of)


class TerrainHeightView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(request=_form("latitude", "longitude"), responses=TerrainHeight, operation_id="terrain_height")
    def post(self, request: Request) -> Response:
        """The height of a point in a height grid: GeoTIFF, or an ESRI ASCII grid in degrees; nothing is kept."""
        return _asked(request, height_of)
