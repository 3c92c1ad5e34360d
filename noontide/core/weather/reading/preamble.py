"""What stands above and below a table: place, clock, title."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from noontide.core.weather.reading.words import folded

_NUMBER = r"([+-]?\d{1,5}(?:[.,]\d+)?)"
_GAP = r"(?:[^0-9+\-\n]{0,24}?)"
_LATITUDE = re.compile(
    rf"(?<![a-z])(?:lat(?:itude|itud|itudine)?|breite|geogr\w* breite|phi)(?![a-z]){_GAP}{_NUMBER}\s*(?:°|deg\w*)?\s*(?:(\d{{1,2}})['′]\s*(?:(\d{{1,2}}(?:\.\d+)?)[\"″]?)?)?\s*([ns])?(?![a-z])"
)
_LONGITUDE = re.compile(
    rf"(?<![a-z])(?:lon(?:g|gitude|gitud|gitudine)?|lng|lange|laenge|geogr\w* lange|lambda)(?![a-z]){_GAP}{_NUMBER}\s*(?:°|deg\w*)?\s*(?:(\d{{1,2}})['′]\s*(?:(\d{{1,2}}(?:\.\d+)?)[\"″]?)?)?\s*([ewo])?(?![a-z])"
)
_ELEVATION = re.compile(
    rf"(?<![a-z])(?:elev(?:ation)?|alt(?:itude|itud|itudine)?|height|hohe|hoehe|seehohe|quota|elevacion)(?![a-z])({_GAP}){_NUMBER}\s*(m|ft|feet|metres|meters|metros|metri)?(?![a-z])"
)
# A place written without words: 43.62 N 11.31 E, or 43°37'N, 11°19'W.
_POINT = re.compile(
    rf"(?<![\d.]){_NUMBER}\s*°?\s*(?:(\d{{1,2}})['′]\s*(?:(\d{{1,2}}(?:\.\d+)?)[\"″]?)?)?\s*([ns])(?![a-z])[,;/\s]*{_NUMBER}\s*°?\s*(?:(\d{{1,2}})['′]\s*(?:(\d{{1,2}}(?:\.\d+)?)[\"″]?)?)?\s*([ewo])(?![a-z])"
)
_POINT_HEIGHT = re.compile(rf"[ewo][,;/\s]+{_NUMBER}\s*(m|ft)(?![a-z0-9/])")
# Two or three numbers after a word for a place: latitude and longitude with decimals, and a height.
_PLACE_NUMBERS = re.compile(
    r"(?<![a-z])(lat\w*\.?\s*[/,;& ]\s*lon\w*|lon\w*\.?\s*[/,;& ]\s*lat\w*|site|place|location|position|station|coord\w*|gps|wgs ?84|standort|ort|lage|lieu|lugar|luogo|sitio|sito)(?![a-z])[^0-9+\-\n]{0,40}?([+-]?\d{1,3}[.,]\d+)(?:\s*°)?[,;/\s]+([+-]?\d{1,3}[.,]\d+)(?:\s*°)?(?:[,;/\s]+([+-]?\d{1,4}(?:[.,]\d+)?)\s*(m|ft|feet|metres|meters)?(?![\w.,/]))?(?!\s*[nsewo](?![a-z]))"
)
# What a stamp marks of its interval.
_OF_INTERVAL = r"(?:averag\w* |mean\w* |mittelungs|measur\w* |recording |sampling |time ?)?(?:intervall?e?s?o?|periode?s?|periodo|hours?|stunden?|heures?|horas?|ora|bins?|steps?|span)"
_ARTICLE = r"(?:[ -]?(?:of|des|der|du|de|del|dell'|della|de l'|d'))?(?:[ -]?(?:the|each|every|its|their|an?|jede[srn]?|la|le|l'|chaque|cada|ogni))?[ -]?"
_BEGIN = r"(?:start\w*|begin\w*|beginn\w*|anfang\w*|debut|inizio|inicio|comienzo)"
_END = r"(?:end(?:s|ing)?|ende|fin|fine|final|close)"
_MIDDLE = r"(?:middle|mid ?point|cent(?:er|re)|mitte|milieu|medio|meta|meta')"
_NO_DATE = r"(?![a-z])(?!\s*[:=]\s*\d)"
_STAMPS: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (marks, re.compile(rf"(?<![a-z])(?:{word}{_ARTICLE}{_OF_INTERVAL}|{_OF_INTERVAL}[ -]?{word}{more}){_NO_DATE}"))
    for marks, word, more in (
        ("start", _BEGIN, rf"|left[ -]?(?:label\w*|edge|aligned)|forward[ -](?:averag|look)\w*|(?:following|next|coming|folgende\w*|suivante?|siguiente|successiv[ao]) {_OF_INTERVAL}"),
        ("middle", _MIDDLE, rf"|mid[ -]?{_OF_INTERVAL}|centr?e?re?d label\w*"),
        ("end", _END, rf"|right[ -]?(?:label\w*|edge|aligned)|backward[ -](?:averag|look)\w*|(?:preceding|previous|past|last|vorangegangene\w*|vorangehende\w*|vorherige\w*|vergangene\w*|letzte\w*|precedente|anterior) {_OF_INTERVAL}"),
    )
)  # fmt: skip
_OFFSET = re.compile(r"(?:utc|gmt)\s*(?:offset)?\s*[:=;,]?\s*([+\-−]\s*\d{1,2})(?::?(\d{2})|[.,](\d+))?")
_ZONE_NUMBER = re.compile(
    r"(?<![a-z])(?:time ?zone|tz|utc ?offset|gmt ?offset|zeitzone|fuseau(?: horaire)?|fuso(?: orario)?|huso(?: horario)?)(?![a-z])[^0-9+\-−\n]{0,16}?([+\-−]?\d{1,2}(?:[.,]\d+)?)(?::(\d{2}))?"
)
_ZONE_NAME = re.compile(
    r"\b((?:Africa|America|Antarctica|Asia|Atlantic|Australia|Europe|Indian|Pacific)/[A-Za-z_]+(?:/[A-Za-z_]+)?)\b"
)
_TITLE = re.compile(
    r"(?<![a-z])(?:station(?: name)?|site(?: name)?|location|name|place|city|ort|lieu|lugar|luogo|title)\s*[:=;,\t]\s*(.{1,80})",
    re.IGNORECASE,
)
_SUMMER = re.compile(r"daylight.?saving|summer ?time|sommerzeit|\bdst\b|heure d.?ete|horario de verano|ora legale")
_NO_SUMMER = re.compile(
    r"(?:no|without|ohne|sans|sin|senza|not?)\s+(?:\w+\s+)?(?:daylight|summer|sommer|dst|heure d.?ete|horario de verano|ora legale)|standard time|winter ?zeit|normalzeit|\blst\b"
)
_UTC = re.compile(
    r"(?:times?|stamps?|zeit\w*|clock|hours?|heures?|hora\w*|ore?|data)\b[^.\n]{0,40}\b(?:in |is |are |= ?|: ?|\()?\s*(?:utc|gmt|universal time)\b(?!\s*[+\-−]\s*\d)|\(utc\)|\[utc\]"
)


@dataclass
class Preamble:
    """What was found, with the line (from 1) that says so."""

    latitude: tuple[float, int] | None = None
    longitude: tuple[float, int] | None = None
    elevation: tuple[float, int] | None = None
    utc_offset: tuple[float, int] | None = None
    zone: tuple[str, int] | None = None
    has_summer_time: tuple[bool, int] | None = None
    stamps: tuple[str, int] | None = None  # what a time marks of its interval
    title: str = ""


def preamble_of(lines: Sequence[tuple[int, str]]) -> Preamble:
    """Read numbered lines of words."""
    found = Preamble()
    for number, line in lines:
        _station_line(found, number, line)
        plain = folded(line.replace("º", "°"))
        if found.latitude is None and found.longitude is None and (m := _PLACE_NUMBERS.search(plain)):
            _take_numbers(found, m, number)
        if found.latitude is None and (m := _LATITUDE.search(plain)):
            found.latitude = _within(_degrees(m, "s"), 90, number)
        if found.longitude is None and (m := _LONGITUDE.search(plain)):
            found.longitude = _within(_degrees(m, "w"), 180, number)
        if found.latitude is None and found.longitude is None and (m := _POINT.search(plain)):
            _take_point(found, m, plain, number)
        if found.stamps is None and (marks := _stamps_in(plain)):
            found.stamps = marks, number
        if found.elevation is None and (m := _ELEVATION.search(plain)):
            in_feet = (m[3] or "").startswith("f") or re.search(r"\b(ft|feet)\b", m[1]) is not None
            height = _number(m[2]) * (0.3048 if in_feet else 1.0)
            found.elevation = (height, number) if -500 <= height <= 9000 else None
        if found.utc_offset is None:
            found.utc_offset = _offset(plain, number)
        if found.zone is None and (m := _ZONE_NAME.search(line)):
            found.zone = m[1], number
        if found.has_summer_time is None:
            if _NO_SUMMER.search(plain):
                found.has_summer_time = False, number
            elif _SUMMER.search(plain):
                found.has_summer_time = (
                    not re.search(r"(daylight|dst|summer)[^a-z]*(saving)?[^a-z]*(time)?\s*[:=;,]\s*(no|none|off|0|false)", plain),
                    number,
                )
        if not found.title and (m := _TITLE.search(line.strip("#;,\t "))):
            found.title = m[1].split(";")[0].split("\t")[0].strip(" ,\"'")[:80]
    return found


def _take_point(found: Preamble, point: re.Match[str], plain: str, number: int) -> None:
    """A place of two numbers with their quarters, and the height after it."""
    values = []
    for first, negative, most in ((1, "s", 90), (5, "w", 180)):
        value = _number(point[first]) + float(point[first + 1] or 0) / 60 + float(point[first + 2] or 0) / 3600
        values.append(_within(-value if point[first + 3] == negative else value, most, number))
    if None in values:
        return
    found.latitude, found.longitude = values
    if found.elevation is None and (m := _POINT_HEIGHT.search(plain, point.end() - 1)):
        height = _number(m[1]) * (0.3048 if m[2] == "ft" else 1.0)
        found.elevation = (height, number) if -500 <= height <= 9000 else None


def _take_numbers(found: Preamble, numbers: re.Match[str], line: int) -> None:
    """Latitude and longitude by their order, or the other way round where only that is a place; and the height after them."""
    first, second = _number(numbers[2]), _number(numbers[3])
    if numbers[1].startswith("lon") or abs(first) > 90 >= abs(second):
        first, second = second, first
    if abs(first) > 90 or abs(second) > 180:
        return
    found.latitude, found.longitude = (first, line), (second, line)
    if numbers[4] is not None and found.elevation is None:
        height = _number(numbers[4]) * (0.3048 if (numbers[5] or "").startswith("f") else 1.0)
        found.elevation = (height, line) if -500 <= height <= 9000 else None


def _stamps_in(plain: str) -> str:
    """What a line says that times mark of their interval; nothing where it says none, or several."""
    said = [marks for marks, pattern in _STAMPS if pattern.search(plain)]
    return said[0] if len(said) == 1 else ""


def _station_line(found: Preamble, number: int, line: str) -> None:
    """A first line of the TMY3 kind: code, name, state, time zone, latitude, longitude, elevation; numbers alone at the end."""
    fields = [field.strip().strip('"') for field in line.split(",")]
    if number > 3 or len(fields) != 7:
        return
    try:
        zone, latitude, longitude, elevation = (float(field) for field in fields[3:])
    except ValueError:
        return
    if abs(zone) <= 14 and abs(latitude) <= 90 and abs(longitude) <= 180 and -500 <= elevation <= 9000:
        found.utc_offset, found.latitude, found.longitude = (zone, number), (latitude, number), (longitude, number)
        found.elevation, found.title = (elevation, number), fields[1]


def _offset(plain: str, number: int) -> tuple[float, int] | None:
    if m := _OFFSET.search(plain):
        text = m[1].replace("−", "-").replace(" ", "")
        minutes = int(m[2]) / 60 if m[2] else float(f"0.{m[3]}") if m[3] else 0.0
        value = float(text) + (-minutes if text.startswith("-") else minutes)
    elif m := _ZONE_NUMBER.search(plain):
        value = _number(m[1])
        value += (int(m[2]) / 60 if m[2] else 0.0) * (-1 if value < 0 else 1)
    elif _UTC.search(plain):
        value = 0.0
    else:
        return None
    return (value, number) if -12 <= value <= 14 else None


def _degrees(found: re.Match[str], negative: str) -> float:
    value = _number(found[1])
    value += (float(found[2] or 0) / 60 + float(found[3] or 0) / 3600) * (-1 if value < 0 else 1)
    return -value if found[4] == negative else value


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _within(value: float, most: float, number: int) -> tuple[float, int] | None:
    return (value, number) if abs(value) <= most else None
