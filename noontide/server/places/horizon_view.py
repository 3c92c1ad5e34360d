from django.conf import settings
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.shading import horizon_from_grid, read_height_grid
from noontide.core.shading.geotiff import read_geotiff
from noontide.server.problems import Problem

TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


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


class TerrainHorizonView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request={
            "multipart/form-data": {
                "type": "object",
                "properties": {
                    "file": {"type": "string", "format": "binary"},
                    "latitude": {"type": "number"},
                    "longitude": {"type": "number"},
                    "eye": {"type": "number"},
                    "step": {"type": "number"},
                },
                "required": ["file", "latitude", "longitude"],
            }
        },
        responses=TerrainHorizon,
        operation_id="terrain_horizon",
    )
    def post(self, request: Request) -> Response:
        """The horizon of a height grid at a point: GeoTIFF, or an ESRI ASCII grid in degrees; nothing is kept."""
        given = request.FILES.get("file")
        if given is None:
            raise Problem(422, "no-file", "A file is needed", "Send it as the field 'file' of a form.")
        if given.size > settings.UPLOAD_LIMIT:
            raise Problem(413, "too-large", "The file is too large", f"The limit is {settings.UPLOAD_LIMIT / 1e6:.0f} MB.")
        at = GridRequest.model_validate({k: v for k, v in request.data.items() if k != "file"})
        content, name = given.read(), (given.name or "height grid")[:120]
        try:
            if content[:4] in TIFF:
                grid = read_geotiff(content, at.longitude, at.latitude, name)
            else:
                grid = read_height_grid(content.decode("utf-8", errors="replace"), name)
                if not grid.is_geographic:
                    raise ValueError(f"{name} is in metres and does not say of which projection. Load it as GeoTIFF, which does.")
            line = horizon_from_grid(grid, at.longitude, at.latitude, at.eye, step=at.step)
        except ValueError as error:
            raise Problem(422, "invalid-grid", "The height grid cannot be used", str(error)) from None
        return Response(
            TerrainHorizon(azimuths=list(line.azimuths), elevations=[round(e, 1) for e in line.elevations]).model_dump()
        )
