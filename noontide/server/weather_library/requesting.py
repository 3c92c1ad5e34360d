"""A weather year for a point: from the library if it has been asked for before, else from the service."""

from dataclasses import replace

from noontide.core.weather import as_text
from noontide.server.weather_library.edr import fetch_year
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import store


def year_for(latitude: float, longitude: float, elevation: float, utc_offset: float, name: str = "") -> WeatherYear:
    """The service's year at a point, to a hundredth of a degree.

    Raises
    ------
    ServiceFailed
        If the library has none and the service cannot be asked.
    """
    latitude, longitude = round(latitude, 2), round(longitude, 2)
    known = WeatherYear.objects.filter(
        origin="service", latitude=latitude, longitude=longitude, elevation=elevation, utc_offset=utc_offset
    ).first()
    if known:
        return known
    weather = fetch_year(latitude, longitude, elevation, utc_offset)
    title = f"Simulated climate, {name}" if name else f"Simulated climate, {latitude:.2f}, {longitude:.2f}"
    weather = replace(weather, title=title if "simulated" in weather.source else (name or weather.title))
    return store(as_text(weather, "csv").encode(), f"{weather.title}.csv", origin="service")
