"""Places by name or coordinates, out of 69,000 towns, and what lies near a point."""

from dataclasses import dataclass
from datetime import datetime
from functools import cache, lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np

from noontide.core.earth import METRES_A_DEGREE
from noontide.server.places.coordinates import parse_coordinates
from noontide.server.places.gazetteer import Town, plain, towns

NEAR_KM = 60.0


FAR_LARGER = 100  # times the largest town that has a name as its own, from which another that has it in some tongue comes first
RIVAL = 0.1  # of the first one's people, from which a namesake may as well be meant


@dataclass(frozen=True, slots=True)
class Search:
    """Towns that a text may mean, the likeliest first."""

    towns: list[Town]
    is_sure: bool  # whether the first is what was typed, and no other may as well be meant
    unread: str = ""  # what of the text is no place that is known: a street, a house number, a postal code


def find(query: str, most: int = 8) -> list[Town]:
    """The towns of `search`."""
    return search(query, most).towns


def search(query: str, most: int = 8) -> Search:
    """Towns by name: those that are called so, then those that are in another tongue, that begin with it, that contain it; the larger first.

    A country, state or province may follow, after a comma or a blank. Of an address the town is found, and what was not read is given back.
    Coordinates in any usual notation are answered with the point itself.
    """
    if point := parse_coordinates(query):
        return Search([at(*point)], is_sure=True)
    parts = [part for part in (part.strip() for part in query.split(",")) if part]
    if len(parts) < 2:
        return _without_comma(query, most)
    name, land = parts[0], plain(parts[-1])
    if len(parts) <= 3 and (found := _named(name, land, most)):
        return _sureness(name, found)
    # An address: the rightmost part that is a town, with a land behind it or without.
    for k in reversed(range(len(parts))):
        behind = plain(parts[-1]) if k < len(parts) - 1 else ""
        if behind and behind not in _lands():
            continue
        named = _without_digits(parts[k])
        found = _without_comma(named, most, behind).towns
        if found and _is_called(found[0], named):
            called = [town for town in found if _is_called(town, named)]
            return Search(
                called, is_sure=False, unread=", ".join(p for n, p in enumerate(parts) if n != k and plain(p) != behind)
            )
    return Search([], is_sure=False, unread=query.strip())


def _without_digits(text: str) -> str:
    """A part of an address without its postal code."""
    return " ".join(word for word in text.split() if not any(ch.isdigit() for ch in word))


def _is_called(town: Town, name: str) -> bool:
    return town.plain == plain(name) or f"\n{name.strip().casefold()}\n" in f"{town.also}\n"


def _sureness(name: str, found: list[Town]) -> Search:
    first, *rest = found
    rivals = [town for town in rest if _is_called(town, name) and town.population >= RIVAL * first.population]
    return Search(found, is_sure=_is_called(first, name) and not rivals)


def _without_comma(query: str, most: int, land: str = "") -> Search:
    """ "Toledo Spain": the last words may be the land; "8010 Graz": the first may be a postal code."""
    words = query.split()
    found = _named(query, land, most)
    if len(words) < 2 or (found and _is_called(found[0], query)):
        return _sureness(query, found) if found else Search([], is_sure=False, unread=query.strip())
    for count in range(1, min(len(words), 4)):
        first, last = " ".join(words[:-count]), plain(" ".join(words[-count:]))
        if last in _lands() and (there := [t for t in _named(first, last, most) if _is_called(t, first)]):
            return _sureness(first, [*there, *(t for t in found if t not in there)][:most])
    if not found and (named := _without_digits(query)) and named != " ".join(words) and (there := _named(named, land, most)):
        called = [town for town in there if _is_called(town, named)]
        return Search(called or there, is_sure=False, unread=" ".join(word for word in words if word not in named.split()))
    return _sureness(query, found) if found else Search([], is_sure=False, unread=query.strip())


def _named(name: str, land: str, most: int) -> list[Town]:
    wanted, spoken = plain(name), name.strip().casefold()
    if len(wanted) < 2:
        return []
    own: list[Town] = []
    tongues: list[Town] = []
    begins: list[Town] = []
    contains: list[Town] = []
    others: list[Town] = []
    is_long = len(wanted) > 2
    for town in _with_any_of(wanted, f"\n{spoken}" if is_long else ""):
        is_within, is_also = wanted in town.plain, is_long and f"\n{spoken}" in town.also
        if not (is_within or is_also) or (land and not _lies_in(town, land)):
            continue
        if town.plain == wanted:
            own.append(town)
        elif is_also and f"\n{spoken}\n" in f"{town.also}\n":
            tongues.append(town)
        elif town.plain.startswith(wanted):
            begins.append(town)
        elif f" {wanted}" in town.plain:
            contains.append(town)
        elif is_also:
            others.append(town)
    # As it was typed, with its accents, before others.
    own.sort(key=lambda town: town.name.casefold() != spoken and f"\n{spoken}\n" not in f"{town.also}\n")
    # Roma is Rome before it is a village, Porto is no other town that somebody calls so.
    largest = max((town.population for town in own), default=0)
    famous = [town for town in tongues if own and town.population >= FAR_LARGER * max(largest, 1)]
    rest = [town for town in tongues if town not in famous]
    return [*famous, *own, *rest, *begins, *others, *contains][:most]


def _with_any_of(plain_name: str, other_name: str) -> list[Town]:
    """The towns whose plain name has the one in it, or whose other names the other one, in their order."""
    every = towns()
    places = set(every.plains.containing(plain_name))
    if other_name:
        places.update(every.alsos.containing(other_name))
    return [every[k] for k in sorted(places)]


def _lies_in(town: Town, land: str) -> bool:
    """Whether its country or province is called so, or begins so where three letters or more are typed."""
    return f"\n{land}\n" in town.lands or (len(land) > 2 and f"\n{land}" in town.lands)


@cache
def _lands() -> frozenset[str]:
    """Every name of a country or a province, as it is compared."""
    return frozenset(name for lands in towns().lands.texts for name in lands.split("\n") if name)


def within(south: float, west: float, north: float, east: float, most: int = 30) -> list[Town]:
    """The largest towns of a part of the map; one that reaches over the date line has its east under its west."""
    latitudes, longitudes = towns().positions.T
    across = (longitudes >= west) & (longitudes <= east) if west <= east else (longitudes >= west) | (longitudes <= east)
    places = np.flatnonzero(across & (latitudes >= south) & (latitudes <= north))
    return [towns()[k] for k in places[:most]]


def at(latitude: float, longitude: float) -> Town:
    """A point under the name of the nearest town, or of its coordinates where none is near."""
    coordinates = towns().positions
    phi = np.radians(coordinates[:, 0])
    north = (coordinates[:, 0] - latitude) * METRES_A_DEGREE / 1000
    east = ((coordinates[:, 1] - longitude + 180) % 360 - 180) * METRES_A_DEGREE / 1000 * np.cos((phi + np.radians(latitude)) / 2)
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
