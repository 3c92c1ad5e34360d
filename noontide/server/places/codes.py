"""A table of codes of the user's own, and the places that they stand for."""

from django.db import transaction
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field, model_validator
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.accounts.models import User
from noontide.server.parsers import JSONParser
from noontide.server.places.finding import time_zone_at
from noontide.server.places.gazetteer import Town
from noontide.server.places.models import PlaceCode
from noontide.server.problems import Problem


class CodeLine(BaseModel):
    """One code."""

    model_config = ConfigDict(from_attributes=True, allow_inf_nan=False, extra="forbid")

    code: str = Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f\x7f;,\t]+$")
    name: str = Field("", max_length=120, pattern=r"^[^\x00-\x1f\x7f]*$")
    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)
    elevation: float | None = Field(None, ge=-430, le=9000)


class CodeTable(BaseModel):
    """The whole table."""

    model_config = ConfigDict(extra="forbid")

    codes: list[CodeLine] = Field(max_length=5000)

    @model_validator(mode="after")
    def _codes_differ(self) -> "CodeTable":
        seen: set[str] = set()
        for i, line in enumerate(self.codes):
            folded = line.code.casefold()
            if folded in seen:
                raise ValueError(f"Line {i + 1}: the code {line.code} is there already. Each code can stand for one place.")
            seen.add(folded)
        return self


class PlaceCodesView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(responses=CodeTable, operation_id="place_codes")
    def get(self, request: Request) -> Response:
        """The user's own codes."""
        return Response(_table(request.user))

    @extend_schema(request=CodeTable, responses=CodeTable, operation_id="set_place_codes")
    def put(self, request: Request) -> Response:
        """Replace the table; with a fault in any line nothing is changed."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = CodeTable.model_validate(request.data)
        with transaction.atomic():
            PlaceCode.objects.visible_to(request.user).delete()
            PlaceCode.objects.bulk_create(PlaceCode(owner=request.user, **line.model_dump()) for line in asked.codes)
        return Response(_table(request.user))


def _table(user: User) -> dict:
    lines = [CodeLine.model_validate(row) for row in PlaceCode.objects.visible_to(user)]
    return CodeTable(codes=lines).model_dump(mode="json")


def places_of_codes(query: str, user: User, most: int = 5) -> list[Town]:
    """Places whose code begins with a query, the code itself first."""
    wanted = query.strip()
    if not wanted:
        return []
    rows = PlaceCode.objects.visible_to(user).filter(code__istartswith=wanted)[:most]
    found = sorted(rows, key=lambda row: (row.code.casefold() != wanted.casefold(), row.code))
    return [
        Town(
            f"{row.code} {row.name}".strip(),
            "",
            "your code",
            row.latitude,
            row.longitude,
            0,
            time_zone_at(row.latitude, row.longitude)[0],
        )
        for row in found
    ]
