"""Where weather could come from near a site: gridded collections and stations of the services, and a year of one of them."""

import re
import time
import urllib.parse
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import wait as wait_for
from dataclasses import replace
from datetime import timedelta, timezone
from typing import Any, Literal

import numpy as np
import pandas as pd
from pydantic import BaseModel, Field

from noontide.core.calendar import NOMINAL_YEAR, Calendar
from noontide.core.weather import Place, Weather, WeatherFileError, distance_km
from noontide.core.weather.coverage_json import is_coverage, table_of_coverage
from noontide.core.weather.reading import apply_reading, recognise_content
from noontide.server.weather_library.edr import ServiceFailed, as_json, ask, ask_address, service_addresses

REACH = 1.5  # degrees around the site in which stations are looked for
MOST_STATIONS = 30
MOST_COLLECTIONS = 40
IN_ALL = 12.0  # s for all services and their collections, asked side by side
AT_ONCE = 8
# What other services call the quantities, beside our own names.
WORDS = {
    "ghi": r"\bghi\b|global horizontal|global.{0,12}(?:irradi|radiation)|short.?wave.{0,12}down|downwelling|surface_solar|ssrd|rsds",
    "dni": r"\bdni\b|direct normal",
    "dhi": r"\bdhi\b|diffuse",
    "temperature": r"temperature|\bt2m\b|\btas\b",
    "wind": r"wind.?speed|\bwind\b|sfcwind",
    "pressure": r"pressure|\bps\b",
}


class SourceLine(BaseModel):
    """A station, or a gridded collection at the site's own point."""

    service: str
    collection: str
    location: str = Field(description="id of a station; empty for gridded data")
    title: str
    kind: Literal["grid", "station"]
    latitude: float
    longitude: float
    elevation: float | None
    distance: float = Field(description="from the site [km]")
    height_difference: float | None = Field(description="of the place over the site [m]")
    first_year: int | None
    last_year: int | None
    quantities: list[str]
    parameters: list[str] = Field(description="names of the service's own for them")


class SourcesAnswer(BaseModel):
    """All sources near a site, nearest first, and what could not be asked."""

    sources: list[SourceLine]
    problems: list[str]


def sources_near(latitude: float, longitude: float, elevation: float) -> SourcesAnswer:
    """Ask every service what it has near a site, side by side; what fails or is late is reported beside what is there."""
    site = Place(latitude, longitude, elevation)
    found: list[SourceLine] = []
    problems: list[str] = []
    end = time.monotonic() + IN_ALL
    pool = ThreadPoolExecutor(max_workers=AT_ONCE, thread_name_prefix="sources")
    try:
        lists = {pool.submit(_collections, service, end): (service, service) for service in service_addresses()}
        collections: dict[Future, tuple[str, str]] = {}
        for future, service, _ in _as_they_come(lists, end, problems):
            for collection in future.result():
                name = str(collection.get("title") or collection.get("id"))[:60]
                collections[pool.submit(_of_collection, service, collection, site, end)] = (service, name)
        for future, _, _ in _as_they_come(collections, end, problems):
            found += future.result()
    finally:
        pool.shutdown(wait=False, cancel_futures=True)
    return SourcesAnswer(sources=sorted(found, key=lambda line: (line.distance, line.title)), problems=sorted(problems))


def _as_they_come(asked: dict[Future, tuple[str, str]], end: float, problems: list[str]) -> Iterator[tuple[Future, str, str]]:
    """Answers that came in time and are good, with their service and title; of the others the words are added to the problems."""
    left = max(0.0, end - time.monotonic())
    done, late = wait_for(asked, timeout=left)
    problems += [f"{asked[future][1]}: no answer within {IN_ALL:.0f} s" for future in late]
    for future in done:
        try:
            future.result()
        except (ServiceFailed, KeyError, TypeError, ValueError, AttributeError, IndexError) as error:
            problems.append(f"{asked[future][1]}: {str(error)[:200]}")
        else:
            yield future, *asked[future]


def _collections(service: str, end: float) -> list[dict]:
    answer = as_json(ask(service, "collections", {"f": "json"}, _left(end)))
    return _list(answer, "collections")[:MOST_COLLECTIONS]


def _left(end: float) -> float:
    """Seconds of the whole that one exchange may still take."""
    if (left := end - time.monotonic()) <= 0:
        raise ServiceFailed(f"no answer within {IN_ALL:.0f} s")
    return left


def _list(answer: dict, name: str) -> list:
    entries = answer.get(name)
    return [entry for entry in entries if isinstance(entry, dict)] if isinstance(entries, list) else []


def _of_collection(service: str, collection: dict, site: Place, end: float) -> list[SourceLine]:
    parameters = collection.get("parameter_names") or {}
    names = {name: _quantity(name, entry) for name, entry in parameters.items()}
    queries = collection.get("data_queries") or {}
    identity, title = str(collection["id"]), str(collection.get("title") or collection["id"])
    common: dict[str, Any] = {"service": service, "collection": identity}
    if "ghi" not in names.values() and not ({"dni", "dhi"} <= set(names.values())):
        return []
    if "locations" in queries:
        box = f"{max(site.longitude - REACH, -180):.3f},{max(site.latitude - REACH, -90):.3f},{min(site.longitude + REACH, 180):.3f},{min(site.latitude + REACH, 90):.3f}"
        path = f"collections/{urllib.parse.quote(identity)}/locations"
        answer = as_json(ask(service, path, {"bbox": box, "f": "GeoJSON"}, _left(end)))
        lines = [_station(common, feature, names, site) for feature in _list(answer, "features")]
        return sorted(lines, key=lambda line: line.distance)[:MOST_STATIONS]
    if "position" not in queries:
        return []
    first, last = _years((((collection.get("extent") or {}).get("temporal") or {}).get("interval") or [[None, None]])[0])
    return [
        SourceLine(
            **common, location="", title=title, kind="grid", latitude=site.latitude, longitude=site.longitude, elevation=None, distance=0.0,
            height_difference=None, first_year=first, last_year=last, quantities=_known(names), parameters=[n for n, q in names.items() if q],
        )
    ]  # fmt: skip


def _station(common: dict, feature: dict, names: dict[str, str], site: Place) -> SourceLine:
    x, y, *z = feature["geometry"]["coordinates"]
    properties = feature.get("properties") or {}
    height = z[0] if z else properties.get("elevation")
    own = properties.get("parameter-name")
    mine = {name: quantity for name, quantity in names.items() if not isinstance(own, list) or name in own}
    first, last = _years(str(properties.get("datetime", "")).split("/"))
    place = Place(float(y), float(x))
    return SourceLine(
        **common, location=str(feature["id"]), title=str(properties.get("name") or feature["id"])[:120], kind="station", latitude=place.latitude, longitude=place.longitude,
        elevation=None if height is None else float(height), distance=distance_km(site, place),
        height_difference=None if height is None else float(height) - site.elevation, first_year=first, last_year=last,
        quantities=_known(mine), parameters=[n for n, q in mine.items() if q],
    )  # fmt: skip


def _quantity(name: str, parameter: Any) -> str:
    """Which of our quantities a parameter is; empty where it is none."""
    label = (parameter.get("observedProperty") or {}).get("label") if isinstance(parameter, dict) else ""
    text = f"{name} {' '.join(map(str, label.values())) if isinstance(label, dict) else label}".lower()
    return name if name in WORDS else next((quantity for quantity, words in WORDS.items() if re.search(words, text)), "")


def _known(names: dict[str, str]) -> list[str]:
    return [quantity for quantity in WORDS if quantity in names.values()]


def _years(interval: list) -> tuple[int | None, int | None]:
    def year(text: Any, is_end: bool) -> int | None:
        found = re.match(r"(\d{4})-(\d\d)", str(text or ""))
        return None if not found else int(found[1]) - (1 if is_end and int(found[2]) < 12 else 0)

    if len(interval) < 2:
        return None, None
    return year(interval[0], False), year(interval[1], True)


class SourceRequest(BaseModel):
    """A year of a source."""

    service: str = Field(max_length=300)
    collection: str = Field(max_length=120)
    location: str = Field("", max_length=120)
    title: str = Field("", max_length=120)
    parameters: list[str] = Field([], max_length=40)
    year: int | None = Field(None, ge=1950, le=2100)
    latitude: float = Field(ge=-90, le=90, allow_inf_nan=False)
    longitude: float = Field(ge=-180, le=180, allow_inf_nan=False)
    elevation: float = Field(0, ge=-430, le=6000, allow_inf_nan=False)


def fetch_source(asked: SourceRequest, utc_offset: float) -> tuple[Weather, bytes]:
    """A year of a source on the standard clock of the site, and the answer that it was read from.

    Raises
    ------
    ServiceFailed
        If the service is none of the settings', cannot be asked, or its answer makes no year.
    """
    if asked.service not in service_addresses():
        raise ServiceFailed(f"'{asked.service[:80]}' is none of the services in the settings.")
    calendar = Calendar(asked.year or NOMINAL_YEAR, 60, utc_offset)
    starts = calendar.local_starts - np.timedelta64(round(utc_offset * 60), "m")
    query = {"datetime": f"{starts[0]}Z/{starts[-1]}Z", "f": "CoverageJSON"}
    if asked.parameters:
        query["parameter-name"] = ",".join(asked.parameters)
    path = f"collections/{urllib.parse.quote(asked.collection)}"
    if asked.location:
        content = ask(asked.service, f"{path}/locations/{urllib.parse.quote(asked.location)}", query)
    else:
        content = ask(asked.service, f"{path}/position", query | {"coords": f"POINT({asked.longitude:.5f} {asked.latitude:.5f})"})
    return year_of_answer(content, asked, utc_offset), content


def year_of_answer(content: bytes, asked: SourceRequest, utc_offset: float) -> Weather:
    """The year that an answer in CoverageJSON holds, whatever its shape, read like any other table.

    Raises
    ------
    ServiceFailed
        If it makes none, with what is missing.
    """
    data = as_json(content)
    if not is_coverage(data):
        raise ServiceFailed("Its answer is no CoverageJSON.")

    def fetch(address: str) -> Any:
        full = urllib.parse.urljoin(f"{asked.service}/", address)
        if urllib.parse.urlsplit(full).netloc != urllib.parse.urlsplit(asked.service).netloc:
            raise ServiceFailed(f"Its answer refers to another server: {full[:120]}.")
        return as_json(ask_address(full))

    try:
        table = table_of_coverage(data, (asked.latitude, asked.longitude), fetch)
        clock = timezone(timedelta(hours=utc_offset))
        local = pd.to_datetime(table.frame["time"], utc=True).dt.tz_convert(clock)
        rows = table.frame.assign(time=local.map(lambda t: t.isoformat())).to_csv(sep="\t", index=False)
        text = "\n".join([*table.preamble, rows])
        place = (
            table.latitude or asked.latitude,
            table.longitude or asked.longitude,
            asked.elevation if table.elevation is None else table.elevation,
        )
        found = recognise_content(text.encode(), asked.title or asked.collection, place)
        weather = apply_reading(found.sheet, found.reading, asked.title or asked.collection)
    except (WeatherFileError, ValueError) as error:
        raise ServiceFailed(f"Its answer makes no year: {str(error)[:300]}") from error
    label = str(data.get("noontide:label", ""))[:200]
    title = f"{asked.title or asked.collection}{f' {asked.year}' if asked.year else ''}"
    notes = tuple(dict.fromkeys((*((label,) if label else ()), *weather.notes)))
    return replace(weather, title=title[:200], source=label or asked.service, notes=notes)
