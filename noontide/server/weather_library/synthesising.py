"""A year made of twelve numbers, kept in the library like one that was loaded."""

import json

from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request

from noontide.core.fields import Line
from noontide.core.weather import synthesise
from noontide.server.accounts.models import User
from noontide.server.problems import Problem
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import keep

Twelve = list[float]


class SynthesisRequest(BaseModel):
    """Monthly values of a place; irradiation in kWh/m2 of the month."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)
    elevation: float = Field(0, ge=-430, le=6000)
    name: Line = Field("", max_length=120)
    monthly_ghi: Twelve = Field(min_length=12, max_length=12)
    monthly_temperature: Twelve | None = Field(None, min_length=12, max_length=12)
    monthly_dhi: Twelve | None = Field(None, min_length=12, max_length=12)
    seed: int = Field(0, ge=0, le=10**6)


def store_synthesis(asked: SynthesisRequest, owner: User) -> WeatherYear:
    """Draw the year and keep it; what was asked for is its source.

    Raises
    ------
    Problem
        If the sun cannot give what was asked for, with the month.
    """
    title = asked.name or f"{asked.latitude:.2f}, {asked.longitude:.2f}"
    try:
        year = synthesise(
            asked.monthly_ghi, asked.latitude, asked.longitude, asked.elevation, asked.monthly_temperature, asked.seed,
            monthly_dhi=asked.monthly_dhi, title=f"{title}, from monthly values",
        )  # fmt: skip
    except ValueError as error:
        raise Problem(422, "impossible-months", "No year has these months", str(error)) from None
    content = json.dumps(asked.model_dump(), indent=1).encode()
    return keep(year, content, "monthly-values.json", "monthly values", "synthesis", owner)


def synthesis_of(request: Request) -> SynthesisRequest:
    """The request's body."""
    if not isinstance(request.data, dict):
        raise Problem(422, "invalid-body", "A JSON object is needed")
    return SynthesisRequest.model_validate(request.data)
