"""A weather service in miniature: OGC API - Environmental Data Retrieval, position query, CoverageJSON.

It serves two collections for any point on land or sea: `simulated-climate`, a year of hours, and `elevation`, the height above
sea level; and `simulated-stations`, years of hours at places of its own, by location and area queries. All come from long-term maps, and everything it says is labelled as such. Run it beside the application with `noontide stand-in weather`, or let `noontide serve` do so.
"""

import json
import re
from collections.abc import Callable, Iterable
from socketserver import ThreadingMixIn
from threading import Thread
from urllib.parse import parse_qs
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer, make_server

import numpy as np

from noontide.core.calendar import Calendar
from noontide.core.weather.climatology import elevation_at
from noontide.standins.climate import LABEL, synthetic_year
from noontide.standins.stations import Station, station_of, stations_within

COLLECTION = "simulated-climate"
ELEVATION = "elevation"
STATIONS = "simulated-stations"
TITLES = {COLLECTION: "Simulated climate", ELEVATION: "Elevation", STATIONS: "Simulated stations"}
PARAMETERS = {
    "ghi": ("Global horizontal irradiance, mean of the hour from the stamp", "W/m2"),
    "temperature": ("Air temperature at 2 m", "Cel"),
    "wind": ("Wind speed at 10 m", "m/s"),
    "pressure": ("Air pressure at the ground", "hPa"),
}
HEIGHT = {"elevation": ("Height above sea level, lower where towns lie", "m")}
_NUMBER = r"([-+]?\d{1,9}(?:\.\d{0,12})?)"
POINT = re.compile(rf"\s*POINT\s*Z?\s*\(\s*{_NUMBER}\s+{_NUMBER}(?:\s+{_NUMBER})?\s*\)\s*", re.IGNORECASE | re.ASCII)


class BadQuery(ValueError):
    """A query that the service cannot answer, with words for the caller."""


def application(environ: dict, start_response: Callable) -> Iterable[bytes]:
    """WSGI application of the service."""
    path = environ.get("PATH_INFO", "").rstrip("/")
    query = {key: values[-1] for key, values in parse_qs(environ.get("QUERY_STRING", "")).items()}
    try:
        match path:
            case "":
                return _answer(
                    start_response,
                    {"title": "Simulated climate", "description": LABEL, "links": [{"rel": "data", "href": "collections"}]},
                )
            case "/conformance":
                return _answer(
                    start_response,
                    {
                        "conformsTo": [
                            f"http://www.opengis.net/spec/ogcapi-edr-1/1.1/conf/{part}"
                            for part in ("core", "collections", "position", "area", "locations", "covjson", "geojson")
                        ]
                    },
                )
            case "/collections":
                return _answer(start_response, {"links": [], "collections": [_collection(name) for name in TITLES]})
            case p if p.removeprefix("/collections/") in TITLES:
                return _answer(start_response, _collection(p.removeprefix("/collections/")))
            case p if p == f"/collections/{COLLECTION}/position":
                return _answer(start_response, position(query), "application/prs.coverage+json")
            case p if p == f"/collections/{STATIONS}/locations":
                return _answer(start_response, locations(query), "application/geo+json")
            case p if p.startswith(f"/collections/{STATIONS}/locations/"):
                found = location(p.rpartition("/")[2], query)
                return _answer(start_response, found, "application/prs.coverage+json")
            case p if p == f"/collections/{STATIONS}/area":
                return _answer(start_response, area(query), "application/prs.coverage+json")
            case p if p == f"/collections/{ELEVATION}/position":
                return _answer(start_response, height(query), "application/prs.coverage+json")
            case _:
                return _answer(
                    start_response, {"code": "NotFound", "description": f"There is nothing at {path}."}, status="404 Not Found"
                )
    except BadQuery as error:
        return _answer(start_response, {"code": "InvalidParameterValue", "description": str(error)}, status="400 Bad Request")


def position(query: dict[str, str]) -> dict:
    """CoverageJSON of a year at a point.

    Raises
    ------
    BadQuery
        If a parameter is missing or wrong.
    """
    latitude, longitude = _point(query)
    elevation = _number(query, "z", -500, 9000) if "z" in query else elevation_at(latitude, longitude)
    seed = int(_number(query, "seed", 0, 2**31)) if "seed" in query else 0
    wanted = query.get("parameter-name", ",".join(PARAMETERS)).split(",")
    if unknown := [name for name in wanted if name not in PARAMETERS]:
        raise BadQuery(f"parameter-name: there is no {', '.join(unknown)[:80]}; choose among {', '.join(PARAMETERS)}")
    calendar = _calendar(query.get("datetime", ""))
    return _coverage(latitude, longitude, elevation, calendar, seed, wanted)


def _coverage(latitude: float, longitude: float, elevation: float, calendar: Calendar, seed: int, wanted: list[str]) -> dict:
    """A year of hours at a point."""
    year = synthetic_year(latitude, longitude, elevation, calendar, seed)
    starts = calendar.local_starts.astype("datetime64[s]") - np.timedelta64(round(calendar.utc_offset * 3600), "s")
    return {
        "type": "Coverage",
        "noontide:label": LABEL,
        "domain": {
            "type": "Domain",
            "domainType": "PointSeries",
            "axes": {
                "x": {"values": [longitude]},
                "y": {"values": [latitude]},
                "z": {"values": [elevation]},
                "t": {"values": [f"{start}Z" for start in starts]},
            },
            "referencing": [
                _crs(["x", "y", "z"]),
                {"coordinates": ["t"], "system": {"type": "TemporalRS", "calendar": "Gregorian"}},
            ],
        },
        "parameters": {name: _parameter(name) for name in wanted},
        "ranges": {
            name: {
                "type": "NdArray",
                "dataType": "float",
                "axisNames": ["t"],
                "shape": [calendar.intervals],
                "values": year[name].tolist(),
            }
            for name in wanted
        },
    }


def locations(query: dict[str, str]) -> dict:
    """The stations inside a bounding box, as GeoJSON.

    Raises
    ------
    BadQuery
        If there is no box, or it is too large.
    """
    return {
        "type": "FeatureCollection",
        "features": [_feature(station) for station in stations_within(*_box(query.get("bbox", "")))],
    }


def location(name: str, query: dict[str, str]) -> dict:
    """A year of a station.

    Raises
    ------
    BadQuery
        If there is no such station, or it has no such year.
    """
    station = station_of(name)
    if station is None:
        raise BadQuery(f"there is no location '{name[:40]}'")
    calendar = _calendar(query.get("datetime", ""))
    if not station.first <= calendar.year <= station.last:
        raise BadQuery(f"datetime: {station.name} has the years {station.first} to {station.last}")
    return _coverage(station.latitude, station.longitude, station.elevation, calendar, calendar.year, _wanted(query, station))


def area(query: dict[str, str]) -> dict:
    """A year of every station inside a polygon's box, at most eight of them.

    Raises
    ------
    BadQuery
        If the polygon or the year is missing or wrong.
    """
    corners = re.findall(rf"{_NUMBER}\s+{_NUMBER}", query.get("coords", ""))
    if not query.get("coords", "").strip().upper().startswith("POLYGON") or len(corners) < 4:
        raise BadQuery("coords must be a polygon such as POLYGON((11 43,12 43,12 44,11 44,11 43))")
    xs, ys = zip(*((float(x), float(y)) for x, y in corners), strict=True)
    calendar = _calendar(query.get("datetime", ""))
    found = [s for s in stations_within(min(xs), min(ys), max(xs), max(ys)) if s.first <= calendar.year <= s.last]
    return {
        "type": "CoverageCollection",
        "domainType": "PointSeries",
        "coverages": [
            _coverage(s.latitude, s.longitude, s.elevation, calendar, calendar.year, _wanted(query, s)) for s in found[:8]
        ],
    }


def _wanted(query: dict[str, str], station: Station) -> list[str]:
    asked = query.get("parameter-name", ",".join(station.quantities)).split(",")
    return [name for name in asked if name in station.quantities] or list(station.quantities)


def _box(text: str) -> tuple[float, float, float, float]:
    parts = text.split(",")
    try:
        west, south, east, north = map(float, parts if len(parts) == 4 else [])
    except ValueError:
        raise BadQuery("bbox must be four numbers: west, south, east, north") from None
    if not (-180 <= west < east <= 180 and -90 <= south < north <= 90) or (east - west) * (north - south) > 100:
        raise BadQuery("bbox must lie on the globe and have at most 100 square degrees")
    return west, south, east, north


def _feature(station: Station) -> dict:
    return {
        "type": "Feature",
        "id": station.id,
        "geometry": {"type": "Point", "coordinates": [station.longitude, station.latitude, station.elevation]},
        "properties": {
            "name": station.name,
            "datetime": f"{station.first}-01-01T00:00:00Z/{station.last}-12-31T23:00:00Z",
            "parameter-name": list(station.quantities),
            "elevation": station.elevation,
            "description": LABEL,
        },
    }


def height(query: dict[str, str]) -> dict:
    """CoverageJSON of the height of a point.

    Raises
    ------
    BadQuery
        If the point is missing or wrong.
    """
    latitude, longitude = _point(query)
    return {
        "type": "Coverage",
        "noontide:label": LABEL,
        "domain": {
            "type": "Domain",
            "domainType": "Point",
            "axes": {"x": {"values": [longitude]}, "y": {"values": [latitude]}},
            "referencing": [_crs(["x", "y"])],
        },
        "parameters": {"elevation": _parameter("elevation")},
        "ranges": {
            "elevation": {
                "type": "NdArray",
                "dataType": "float",
                "axisNames": [],
                "shape": [],
                "values": [round(elevation_at(latitude, longitude), 1)],
            }
        },
    }


def _point(query: dict[str, str]) -> tuple[float, float]:
    """Latitude and longitude of the `coords` of a query."""
    point = POINT.fullmatch(query.get("coords", ""))
    if not point:
        raise BadQuery("coords must be a point such as POINT(11.31 43.62): longitude, then latitude")
    longitude, latitude = float(point[1]), float(point[2])
    if not (-90 <= latitude <= 90 and -180 <= longitude <= 180):
        raise BadQuery("coords must be within 90° of latitude and 180° of longitude")
    return latitude, longitude


def _number(query: dict[str, str], name: str, low: float, high: float) -> float:
    try:
        value = float(query[name])
    except ValueError:
        raise BadQuery(f"{name} must be a number") from None
    if not low <= value <= high:
        raise BadQuery(f"{name} must be between {low:g} and {high:g}")
    return value


def _crs(axes: list[str]) -> dict:
    return {"coordinates": axes, "system": {"type": "GeographicCRS", "id": "http://www.opengis.net/def/crs/OGC/0/CRS84h"}}


def serve_in_background() -> tuple[str, WSGIServer]:
    """Start the service on a free port of this machine; its address and the server, to be shut down by the caller."""
    server = make_server("127.0.0.1", 0, application, server_class=_ThreadingServer, handler_class=_QuietHandler)
    Thread(target=server.serve_forever, daemon=True, name="weather stand-in").start()
    return f"http://127.0.0.1:{server.server_port}", server


def serve(port: int) -> None:
    """Run the service until it is interrupted."""
    with make_server("127.0.0.1", port, application, server_class=_ThreadingServer) as server:
        server.serve_forever()


class _ThreadingServer(ThreadingMixIn, WSGIServer):
    daemon_threads = True


class _QuietHandler(WSGIRequestHandler):
    def log_message(self, format: str, *args: object) -> None:
        pass


def _calendar(interval: str) -> Calendar:
    """The year of an interval that runs from a local first of January, as its start in UTC tells."""
    first, _, last = interval.partition("/")
    try:
        start, end = (np.datetime64(text.rstrip("Z"), "m") for text in (first, last))
        if np.isnat(start) or np.isnat(end):
            raise ValueError("one end of the interval is missing")
    except ValueError:
        raise BadQuery("datetime must be an interval such as 2026-01-01T00:00Z/2026-12-31T23:00Z") from None
    year = int((start + np.timedelta64(14, "h")).astype("datetime64[Y]").astype(int)) + 1970
    offset = float((np.datetime64(f"{year}-01-01T00:00", "m") - start) / np.timedelta64(1, "m")) / 60
    try:
        calendar = Calendar(year, 60, offset)
    except ValueError:
        raise BadQuery("datetime must begin at a first of January, 00:00 at some offset from UTC") from None
    if end - start != np.timedelta64((calendar.intervals - 1) * 60, "m"):
        raise BadQuery("datetime must span a whole year of hours, from its first to its last")
    return calendar


def _collection(name: str) -> dict:
    parameters = HEIGHT if name == ELEVATION else PARAMETERS
    queries = ("locations", "area") if name == STATIONS else ("position",)
    return {
        "id": name,
        "title": TITLES[name],
        "description": LABEL,
        "extent": {"spatial": {"bbox": [[-180, -90, 180, 90]], "crs": "OGC:CRS84"}},
        "data_queries": {
            kind: {"link": {"href": f"collections/{name}/{kind}", "rel": "data", "variables": {"query_type": kind}}}
            for kind in queries
        },
        "parameter_names": {parameter: _parameter(parameter) for parameter in parameters},
        "links": [],
    }


def _parameter(name: str) -> dict:
    title, unit = (PARAMETERS | HEIGHT)[name]
    return {
        "type": "Parameter",
        "observedProperty": {"label": {"en": title}},
        "unit": {"symbol": {"value": unit, "type": "http://www.opengis.net/def/uom/UCUM/"}},
    }


def _answer(start_response: Callable, body: dict, kind: str = "application/json", status: str = "200 OK") -> list[bytes]:
    content = json.dumps(body).encode()
    start_response(status, [("Content-Type", kind), ("Content-Length", str(len(content)))])
    return [content]
