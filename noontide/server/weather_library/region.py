"""The irradiation of several sites of a region, from the weather service; the years themselves are not kept."""

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.weather import summarise
from noontide.server.jobs.kinds import Report, job_kind
from noontide.server.places.finding import time_zone_at
from noontide.server.places.region import MOST
from noontide.server.weather_library.edr import fetch_elevation, fetch_year


class RegionPoint(BaseModel):
    """A site that is asked about; its key stands in the answer."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    key: str = Field(min_length=1, max_length=40)
    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)


class RegionRequest(BaseModel):
    """The sites of a region."""

    model_config = ConfigDict(extra="forbid")

    sites: list[RegionPoint] = Field(min_length=1, max_length=MOST)


class RegionAnswer(BaseModel):
    """Irradiation of a year on the horizontal by the keys of the sites [kWh/m2]."""

    annual_ghi: dict[str, float]


@job_kind("region")
def ask_region(asked: RegionRequest, report: Report) -> RegionAnswer:
    """Ask the weather service for the yearly irradiation of each site."""
    sites = asked.sites
    found: dict[str, float] = {}
    for number, site in enumerate(sites):
        report(number / len(sites), f"Site {number + 1} of {len(sites)}...")
        offset = time_zone_at(site.latitude, site.longitude)[1]
        elevation = fetch_elevation(site.latitude, site.longitude)
        weather, _ = fetch_year(site.latitude, site.longitude, elevation, offset)
        found[site.key] = round(summarise(weather).annual_ghi, 1)
    return RegionAnswer(annual_ghi=found)
