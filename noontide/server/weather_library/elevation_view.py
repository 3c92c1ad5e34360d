from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.places.views import point_of
from noontide.server.weather_library.edr import fetch_elevation


class ElevationAnswer(BaseModel):
    """Height of a point above sea level, from the map of the weather service."""

    latitude: float
    longitude: float
    elevation: float
    source: str


class PlaceElevationView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("latitude", float, required=True), OpenApiParameter("longitude", float, required=True)],
        responses=ElevationAnswer,
        operation_id="elevation",
    )
    def get(self, request: Request) -> Response:
        """Height of a point, from the elevation collection of the weather service."""
        latitude, longitude = point_of(request)
        found = round(fetch_elevation(latitude, longitude))
        answer = ElevationAnswer(
            latitude=latitude, longitude=longitude, elevation=found, source="elevation map of about 9 km, lower where towns lie"
        )
        return Response(answer.model_dump())
