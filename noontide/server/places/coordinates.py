"""Coordinates in any usual notation."""

import re

_NUMBER = r"[-+−]?\d+(?:\.\d+)?"
_ANGLE = re.compile(
    rf"""\s*(?P<before>[NSEWO])?\s*(?P<degrees>{_NUMBER})\s*(?:°|deg|d|º)?\s*
    (?:(?P<minutes>\d+(?:\.\d+)?)\s*(?:['′’m])\s*)?(?:(?P<seconds>\d+(?:\.\d+)?)\s*(?:"|″|”|''|s)\s*)?(?P<after>[NSEWO])?\s*""",
    re.VERBOSE | re.IGNORECASE,
)


def parse_coordinates(text: str) -> tuple[float, float] | None:
    """Latitude and longitude [°], or None if the text is none.

    Takes decimal degrees with point or comma, degrees with minutes and seconds, letters before or after, and either
    order where the letters tell.

    Examples
    --------
    >>> parse_coordinates("43.62, 11.31")
    (43.62, 11.31)
    >>> parse_coordinates("43,62; 11,31")
    (43.62, 11.31)
    >>> parse_coordinates("11°18'36\\"E 43°37'12\\"N")
    (43.62, 11.31)
    """
    for split in _splits(text.strip()):
        one, other = (_angle(part) for part in split)
        if one is None or other is None:
            continue
        (first, first_letter), (second, second_letter) = one, other
        if (first_letter in "EWO" and first_letter) or (second_letter in "NS" and second_letter):
            first, second, first_letter, second_letter = second, first, second_letter, first_letter
        if (first_letter and first_letter not in "NS") or (second_letter and second_letter not in "EWO"):
            continue
        if abs(first) <= 90 and abs(second) <= 180:
            return round(first, 6), round(second, 6)
    return None


def _splits(text: str) -> list[tuple[str, str]]:
    """Ways to cut the text in two, the plainest first."""
    for separator in (";", "/", "\t"):
        if text.count(separator) == 1:
            one, other = text.split(separator)
            return [(one.replace(",", "."), other.replace(",", "."))]
    pieces = text.split(",")
    if len(pieces) == 2 and (" " not in text.strip() or pieces[1].startswith(" ") or "." in text or "°" in text):
        return [(pieces[0], pieces[1])]
    if len(pieces) == 4:  # 43,62, 11,31
        return [(f"{pieces[0]}.{pieces[1].strip()}", f"{pieces[2]}.{pieces[3].strip()}")]
    plain = text.replace(",", ".")
    cuts = [match.end() for match in re.finditer(r"[NSEWO](?=\s*[\d+−-])|\s+(?=[NSEWO]?\s*[-+−\d])", plain, re.IGNORECASE)]
    return [(plain[:cut], plain[cut:]) for cut in cuts]


def _angle(text: str) -> tuple[float, str] | None:
    match = _ANGLE.fullmatch(text)
    if not match or (match["before"] and match["after"]):
        return None
    degrees = float(match["degrees"].replace("−", "-"))
    minutes, seconds = float(match["minutes"] or 0), float(match["seconds"] or 0)
    if minutes >= 60 or seconds >= 60:
        return None
    size = abs(degrees) + minutes / 60 + seconds / 3600
    letter = (match["before"] or match["after"] or "").upper()
    negative = match["degrees"][0] in "-−" or letter in ("S", "W")
    return (-size if negative else size), letter
