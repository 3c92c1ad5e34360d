from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.lists import several
from noontide.server.places.finding import Town, at, find, standard_offset
from noontide.server.problems import Problem
from noontide.server.projects.shapes import PlaceAnswer


def _told(town: Town) -> dict:
    return PlaceAnswer(
        name=town.name, country=town.country, latitude=town.latitude, longitude=town.longitude, population=town.population, time_zone=town.time_zone,
        utc_offset=standard_offset(town.time_zone, town.longitude),
    ).model_dump()  # fmt: skip


class PlacesView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("q", str, required=True)], responses=several(PlaceAnswer), operation_id="find_places"
    )
    def get(self, request: Request) -> Response:
        """Towns by name, or a point by its coordinates."""
        return Response([_told(town) for town in find(request.query_params.get("q", "")[:120])])


class PlaceAtView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("latitude", float, required=True), OpenApiParameter("longitude", float, required=True)],
        responses=PlaceAnswer,
        operation_id="place_at",
    )
    def get(self, request: Request) -> Response:
        """What lies at a point: the nearest town and the time zone."""
        try:
            latitude, longitude = float(request.query_params["latitude"]), float(request.query_params["longitude"])
        except (KeyError, ValueError):
            raise Problem(422, "bad-query", "latitude and longitude are needed, in degrees") from None
        if not (-90 <= latitude <= 90 and -180 <= longitude <= 180):
            raise Problem(422, "bad-query", "latitude lies within 90° and longitude within 180°")
        return Response(_told(at(latitude, longitude)))
