"""Weather years from a service that speaks OGC API - Environmental Data Retrieval, answered as CoverageJSON."""

import json
import urllib.error
import urllib.parse
import urllib.request
from functools import cache

import numpy as np
from django.conf import settings

from noontide.core.calendar import NOMINAL_YEAR, Calendar
from noontide.core.weather import Place, Weather, complete

PARAMETERS = ("ghi", "temperature", "wind", "pressure")
TIMEOUT = 30  # s


class ServiceFailed(RuntimeError):
    """The weather service could not be reached or did not answer as the protocol asks."""


@cache
def service_address() -> str:
    """Address of the service: the one in the settings, or the stand-in's, started when it is first needed."""
    if settings.WEATHER_EDR:
        return settings.WEATHER_EDR.rstrip("/")
    from noontide.standins.edr import serve_in_background

    return serve_in_background()[0]


def fetch_year(latitude: float, longitude: float, elevation: float, utc_offset: float) -> Weather:
    """A year of hours at a point.

    Raises
    ------
    ServiceFailed
        With what the service said, or why it could not be asked.
    """
    calendar = Calendar(NOMINAL_YEAR, 60, utc_offset)
    starts = calendar.local_starts - np.timedelta64(round(utc_offset * 60), "m")
    query = urllib.parse.urlencode(
        {
            "coords": f"POINT({longitude:.5f} {latitude:.5f})",
            "z": f"{elevation:g}",
            "parameter-name": ",".join(PARAMETERS),
            "datetime": f"{starts[0]}Z/{starts[-1]}Z",
            "f": "CoverageJSON",
        }
    )
    address = f"{service_address()}/collections/{settings.WEATHER_COLLECTION}/position?{query}"
    try:
        with urllib.request.urlopen(address, timeout=TIMEOUT) as answer:
            coverage = json.load(answer)
    except urllib.error.HTTPError as error:
        raise ServiceFailed(f"It answered {error.code}: {error.read(300).decode(errors='replace')}") from error
    except (OSError, json.JSONDecodeError) as error:
        raise ServiceFailed(f"It could not be reached: {error}. Check its address in the settings.") from error
    try:
        columns = {
            name: np.array(coverage["ranges"][name]["values"], dtype=float) for name in PARAMETERS if name in coverage["ranges"]
        }
        label = coverage.get("noontide:label", "")
        if any(values.size != calendar.intervals or not np.isfinite(values).all() for values in columns.values()):
            raise ServiceFailed("Its answer is not a whole year of hours.")
        return complete(
            calendar,
            Place(latitude, longitude, elevation),
            columns,
            title=f"{latitude:.2f}, {longitude:.2f}",
            source=label or service_address(),
            notes=(label,) if label else (),
        )
    except (KeyError, TypeError, ValueError) as error:
        raise ServiceFailed(f"Its answer lacks what a year needs: {error}") from error
