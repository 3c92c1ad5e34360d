"""Weather years from a service that speaks OGC API - Environmental Data Retrieval, answered as CoverageJSON."""

import contextlib
import http.client
import json
import socket
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from functools import cache
from typing import Any

import numpy as np
from django.conf import settings

from noontide.core.calendar import NOMINAL_YEAR, Calendar
from noontide.core.weather import Place, Weather, fill_missing_columns
from noontide.core.weather.numbers import RANGES
from noontide.server.problems import Problem

PARAMETERS = ("ghi", "temperature", "wind", "pressure")
TIMEOUT = 20  # s without a byte
LONGEST = 60.0  # s in all
SOON = 10.0  # s in all of what somebody waits for
LARGEST = 24 * 1024**2  # bytes of an answer; a year of hours has under two million
CHUNK = 256 * 1024


class ServiceFailed(Problem):
    """The weather service could not be reached or did not answer as the protocol asks."""

    def __init__(self, detail: str):
        super().__init__(502, "weather-service", "The weather service did not answer", detail)


def service_addresses() -> list[str]:
    """Addresses of all services: those of the settings, the first one being asked for climate and elevation; or the stand-in's."""
    named = [address.strip().rstrip("/") for address in settings.WEATHER_EDR.split(",") if address.strip()]
    return named or [service_address()]


@cache
def service_address() -> str:
    """Address of the service: the one in the settings, or the stand-in's, started when it is first needed."""
    if settings.WEATHER_EDR:
        return service_addresses()[0]
    from noontide.standins.edr import serve_in_background

    return serve_in_background()[0]


def fetch_year(latitude: float, longitude: float, elevation: float, utc_offset: float) -> tuple[Weather, bytes]:
    """A year of hours at a point, and the answer that it was read from.

    Raises
    ------
    ServiceFailed
        With what the service said, or why it could not be asked.
    """
    calendar = Calendar(NOMINAL_YEAR, 60, utc_offset)
    starts = calendar.local_starts - np.timedelta64(round(utc_offset * 60), "m")
    content = _position(
        settings.WEATHER_COLLECTION,
        {
            "coords": f"POINT({longitude:.5f} {latitude:.5f})",
            "z": f"{elevation:g}",
            "parameter-name": ",".join(PARAMETERS),
            "datetime": f"{starts[0]}Z/{starts[-1]}Z",
        },
    )
    coverage = as_json(content)
    try:
        ranges = coverage["ranges"]
        columns = {name: np.array(ranges[name]["values"], dtype=float) for name in PARAMETERS if name in ranges}
        label = str(coverage.get("noontide:label", ""))[:200]
        for name, values in columns.items():
            bounds = RANGES[name]
            if values.shape != (calendar.intervals,):
                raise ServiceFailed(f"Its answer has {values.size} values of {name}; a year of hours has {calendar.intervals}.")
            if not np.all((values >= bounds.low) & (values <= bounds.high)):
                raise ServiceFailed(f"Its values of {name} are not all between {bounds.low:g} and {bounds.high:g} {bounds.unit}.")
        weather = fill_missing_columns(
            calendar,
            Place(latitude, longitude, elevation),
            columns,
            title=f"{latitude:.2f}, {longitude:.2f}",
            source=label or service_address(),
            notes=(label,) if label else (),
        )
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise ServiceFailed(f"Its answer lacks what a year needs: {str(error)[:200]}") from error
    return weather, content


def fetch_elevation(latitude: float, longitude: float) -> float:
    """Height of a point above sea level [m], from the service's elevation collection.

    Raises
    ------
    ServiceFailed
        As for `fetch_year`.
    """
    content = _position(settings.ELEVATION_COLLECTION, {"coords": f"POINT({longitude:.5f} {latitude:.5f})"}, SOON)
    try:
        value = float(as_json(content)["ranges"]["elevation"]["values"][0])
    except (KeyError, TypeError, ValueError, IndexError) as error:
        raise ServiceFailed(f"Its answer has no elevation: {str(error)[:200]}") from error
    if not -430 <= value <= 9000:
        raise ServiceFailed(f"Its elevation of {value:g} m is not on this globe.")
    return value


def _position(collection: str, query: dict[str, str], seconds: float = LONGEST) -> bytes:
    """The answer of the first service to a position query."""
    path = f"collections/{urllib.parse.quote(collection)}/position"
    return ask(service_address(), path, query | {"f": "CoverageJSON"}, seconds)


def ask(service: str, path: str, query: dict[str, str] | None = None, seconds: float = LONGEST) -> bytes:
    """An answer of a service, within limits of size and time.

    Raises
    ------
    ServiceFailed
        In words, or why it could not be asked.
    """
    return ask_address(f"{service}/{path}{'?' + urllib.parse.urlencode(query) if query else ''}", seconds)


def ask_address(address: str, seconds: float = LONGEST) -> bytes:
    """The answer at a whole address, within the same limits: `seconds` for the exchange from its first byte to its last."""
    if urllib.parse.urlsplit(address).scheme not in ("http", "https"):
        raise ServiceFailed(f"Its address '{address[:120]}' is no web address. Correct NOONTIDE_WEATHER_EDR.")
    end = time.monotonic() + seconds
    late = ServiceFailed(f"Its answer took longer than {seconds:.0f} s.")
    pieces, size = [], 0
    exchange = _Exchange()
    # A server that sends a byte a second is never silent; what ends the exchange is the clock.
    watch = threading.Timer(seconds, exchange.end)
    watch.daemon = True
    watch.start()
    try:
        with exchange.opener().open(address, timeout=min(TIMEOUT, seconds)) as answer:
            while piece := answer.read(CHUNK):
                pieces.append(piece)
                size += len(piece)
                if size > LARGEST:
                    raise ServiceFailed(f"Its answer is larger than {LARGEST / 1e6:.0f} MB.")
    except urllib.error.HTTPError as error:
        # Not in its own words: they may be those of any machine that it stands for.
        meaning = " It has no such year, place or quantity." if error.code in (400, 404) else ""
        raise ServiceFailed(f"It answered {error.code} ({http.client.responses.get(error.code, 'unknown')}).{meaning}") from None
    except (OSError, ValueError, http.client.HTTPException) as error:
        if time.monotonic() >= end:
            raise late from None
        raise ServiceFailed(f"It could not be reached: {error}. Check its address in the settings.") from error
    finally:
        watch.cancel()
    if time.monotonic() >= end:
        raise late
    return b"".join(pieces)


class _Exchange:
    """A request whose sockets can be shut from outside, and which follows redirections within one host only."""

    def __init__(self) -> None:
        self._sockets: list[socket.socket] = []

    def end(self) -> None:
        for one in self._sockets:
            with contextlib.suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)

    def opener(self) -> urllib.request.OpenerDirector:
        sockets = self._sockets

        class Plain(http.client.HTTPConnection):
            def connect(self) -> None:
                super().connect()
                sockets.append(self.sock)

        class Secure(http.client.HTTPSConnection):
            def connect(self) -> None:
                super().connect()
                sockets.append(self.sock)

        class PlainHandler(urllib.request.HTTPHandler):
            def http_open(self, req: urllib.request.Request) -> Any:
                return self.do_open(Plain, req)

        class SecureHandler(urllib.request.HTTPSHandler):
            def https_open(self, req: urllib.request.Request) -> Any:
                return self.do_open(Secure, req)

        return urllib.request.build_opener(PlainHandler, SecureHandler, _WithinOneHost)


class _WithinOneHost(urllib.request.HTTPRedirectHandler):
    """An address that nobody has named, on a network that only the server sees, is not asked because a service says so."""

    max_redirections = 3

    def redirect_request(self, req: Any, fp: Any, code: int, msg: str, headers: Any, newurl: str) -> Any:
        before, after = urllib.parse.urlsplit(req.full_url), urllib.parse.urlsplit(newurl)
        if after.netloc != before.netloc or after.scheme not in ("http", "https"):
            raise ServiceFailed(
                f"It refers to another server, {after.netloc[:80]}. If that is right, name its address in NOONTIDE_WEATHER_EDR."
            )
        return super().redirect_request(req, fp, code, msg, headers, newurl)


def as_json(content: bytes) -> Any:
    try:
        found = json.loads(content)
    except (ValueError, RecursionError) as error:
        raise ServiceFailed(f"Its answer is no JSON: {str(error)[:200]}") from error
    if not isinstance(found, dict):
        raise ServiceFailed("Its answer is no JSON object.")
    return found
