"""A weather year for a point: from the library if it has been asked for before, else from the service."""

from dataclasses import replace

from pydantic import BaseModel, ConfigDict, Field, field_validator

from noontide.core.design.site import known_zone
from noontide.core.fields import Line
from noontide.server.accounts.models import User, local_user
from noontide.server.jobs.kinds import Report, job_kind
from noontide.server.places.finding import standard_offset, time_zone_at
from noontide.server.weather_library.edr import fetch_year
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.sources import SourceRequest, fetch_source
from noontide.server.weather_library.storing import keep


def year_for(
    latitude: float, longitude: float, elevation: float, utc_offset: float, name: str = "", owner: User | None = None
) -> WeatherYear:
    """The service's year at a point, to a hundredth of a degree.

    Raises
    ------
    ServiceFailed
        If the library has none and the service cannot be asked.
    """
    latitude, longitude = round(latitude, 2), round(longitude, 2)
    owner = owner or local_user()
    known = (
        WeatherYear.objects.visible_to(owner)
        .filter(origin="service", latitude=latitude, longitude=longitude, elevation=elevation, utc_offset=utc_offset)
        .filter(reading__service=SERVICE_VERSION)
        .first()
    )
    if known:
        return known
    weather, content = fetch_year(latitude, longitude, elevation, utc_offset)
    title = f"Simulated climate, {name}" if name else f"Simulated climate, {latitude:.2f}, {longitude:.2f}"
    weather = replace(weather, title=title if "simulated" in weather.source else (name or weather.title))
    row = keep(weather, content, f"{weather.title}.covjson", "CoverageJSON", "service", owner)
    if row.reading.get("service") != SERVICE_VERSION:
        row.reading = row.reading | {"service": SERVICE_VERSION}
        row.save(update_fields=["reading"])
    return row


# A year that an older service gave is not handed out as today's.
SERVICE_VERSION = 2


class WeatherRequest(BaseModel):
    """A point that a year is wanted for."""

    model_config = ConfigDict(extra="forbid")

    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    elevation: float = Field(0, ge=-430, le=6000, allow_inf_nan=False)
    name: Line = Field("", max_length=120)
    time_zone: str = Field(
        "", max_length=60, description="whose standard time the year runs in; that of the point if it is left empty"
    )

    @field_validator("time_zone")
    @classmethod
    def _zone_exists(cls, name: str) -> str:
        return known_zone(name)


class OwnedWeatherRequest(WeatherRequest):
    """With whom it is for, who has it in the library then."""

    owner: int | None = None


class OwnedSourceRequest(SourceRequest):
    """With whom it is for, who has it in the library then."""

    owner: int | None = None


class FetchedYear(BaseModel):
    """A year that is in the library now."""

    digest: str
    title: str


@job_kind("weather")
def request_weather(asked: OwnedWeatherRequest, report: Report) -> FetchedYear:
    """Ask the weather service for a year at a point."""
    report(0.1, "Asking the weather service...")
    zone = asked.time_zone
    utc_offset = standard_offset(zone, asked.longitude) if zone else time_zone_at(asked.latitude, asked.longitude)[1]
    year = year_for(asked.latitude, asked.longitude, asked.elevation, utc_offset, asked.name, _owner(asked.owner))
    report(0.9, "Reading the year...")
    return FetchedYear(digest=year.digest, title=year.title)


def source_year(asked: SourceRequest, utc_offset: float, owner: User | None = None) -> WeatherYear:
    """A year of a source, kept in the library.

    Raises
    ------
    ServiceFailed
        If the source gives none.
    """
    weather, content = fetch_source(asked, utc_offset)
    return keep(weather, content, f"{weather.title}.covjson", "CoverageJSON", "service", owner or local_user())


@job_kind("source")
def request_source(asked: OwnedSourceRequest, report: Report) -> FetchedYear:
    """Ask a source near the site for a year."""
    report(0.1, f"Asking {asked.title or asked.collection}...")
    year = source_year(asked, time_zone_at(asked.latitude, asked.longitude)[1], _owner(asked.owner))
    report(0.9, "Reading the year...")
    return FetchedYear(digest=year.digest, title=year.title)


def _owner(pk: int | None) -> User | None:
    return User.objects.filter(pk=pk).first()
