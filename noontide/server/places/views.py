from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.list_of import list_of
from noontide.server.places.codes import places_of_codes
from noontide.server.places.finding import Town, at, find, standard_offset, within
from noontide.server.problems import Problem


class PlaceAnswer(BaseModel):
    """A town, or a point under the name of what is near."""

    name: str
    country: str
    latitude: float
    longitude: float
    population: int
    time_zone: str
    utc_offset: float


def _answer(town: Town) -> dict:
    return PlaceAnswer(
        name=town.name, country=town.country, latitude=town.latitude, longitude=town.longitude, population=town.population, time_zone=town.time_zone,
        utc_offset=standard_offset(town.time_zone, town.longitude),
    ).model_dump()  # fmt: skip


class PlacesView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("q", str, required=True)], responses=list_of(PlaceAnswer), operation_id="find_places"
    )
    def get(self, request: Request) -> Response:
        """Places by a code of the user's own, towns by name, or a point by its coordinates."""
        query = request.query_params.get("q", "")[:120]
        return Response([_answer(town) for town in [*places_of_codes(query, request.user), *find(query)]])


class PlacesWithinView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("bbox", str, required=True, description="west,south,east,north in degrees, as in OGC API")],
        responses=list_of(PlaceAnswer),
        operation_id="places_within",
    )
    def get(self, request: Request) -> Response:
        """The largest towns of a part of the map."""
        try:
            west, south, east, north = (float(edge) for edge in request.query_params["bbox"].split(","))
        except (KeyError, ValueError):
            raise Problem(422, "bad-query", "bbox is needed: west,south,east,north in degrees, such as 10,42,13,45") from None
        if not (-90 <= south <= north <= 90 and -180 <= west <= 180 and -180 <= east <= 180):
            raise Problem(422, "bad-query", "in bbox the south lies under the north within 90°, west and east within 180°")
        return Response([_answer(town) for town in within(south, west, north, east)])


class PlaceAtView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("latitude", float, required=True), OpenApiParameter("longitude", float, required=True)],
        responses=PlaceAnswer,
        operation_id="place_at",
    )
    def get(self, request: Request) -> Response:
        """What lies at a point: the nearest town and the time zone."""
        latitude, longitude = point_of(request)
        return Response(_answer(at(latitude, longitude)))


def point_of(request: Request) -> tuple[float, float]:
    """Latitude and longitude of a query."""
    try:
        latitude, longitude = float(request.query_params["latitude"]), float(request.query_params["longitude"])
    except (KeyError, ValueError):
        raise Problem(422, "bad-query", "latitude and longitude are needed, in degrees") from None
    if not (-90 <= latitude <= 90 and -180 <= longitude <= 180):
        raise Problem(422, "bad-query", "The latitude must be within 90° and the longitude within 180°")
    return latitude, longitude
