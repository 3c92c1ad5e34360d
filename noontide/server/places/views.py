from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.list_of import list_of
from noontide.server.places.codes import places_of_codes
from noontide.server.places.finding import Search, at, search, standard_offset, within
from noontide.server.places.gazetteer import Town
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


class FoundAnswer(BaseModel):
    """What a text may mean, the likeliest first."""

    places: list[PlaceAnswer]
    is_sure: bool = Field(description="Whether the first is what was typed and no other may as well be meant")
    remark: str = Field(
        description="What to tell a person: nothing found, only a part of the text found, several places of this name; or empty"
    )


def _remark(query: str, found: Search) -> str:
    if not found.towns:
        return f"No place '{query.strip()}' is known. Type a town (streets and postal codes are not kept here) or coordinates such as 43.62, 11.31"
    if found.unread:
        return f"'{found.unread}' is not known here; this is the town. For the exact point type coordinates"
    if not found.is_sure and len(found.towns) > 1:
        return "Several places may be meant"
    return ""


def _answer(town: Town) -> dict:
    return PlaceAnswer(
        name=town.name, country=town.country, latitude=town.latitude, longitude=town.longitude, population=town.population, time_zone=town.time_zone,
        utc_offset=standard_offset(town.time_zone, town.longitude),
    ).model_dump()  # fmt: skip


class PlacesView(APIView):
    @extend_schema(parameters=[OpenApiParameter("q", str, required=True)], responses=FoundAnswer, operation_id="find_places")
    def get(self, request: Request) -> Response:
        """Places by a code of the user's own, towns by name, or a point by its coordinates."""
        query = request.query_params.get("q", "")[:120]
        codes, found = places_of_codes(query, request.user), search(query)
        places = [_answer(town) for town in [*codes, *found.towns]]
        remark = "" if codes else _remark(query, found)
        return Response(FoundAnswer(places=places, is_sure=len(codes) == 1 or found.is_sure, remark=remark).model_dump())


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
