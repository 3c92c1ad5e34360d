"""What columns are called and what units are written like, in the languages that weather files come in."""

import re
import unicodedata

# A heading is looked at word by word, the first list that fits decides. What is left out comes first: a dew point is a
# temperature too, and the uncertainty of GHI is no irradiance.
LEFT_OUT = (
    r"uncert", r"\bsource\b", r"\bflag", r"\bqc\b", r"quality", r"qualit", r"\bdew", r"\btau\b|taupunkt", r"rosee", r"rocio", r"rugiada", r"wet.?bulb",
    r"extra", r"\betr", r"\btoa\b", r"clear.?sky", r"clearsky", r"\bcs\b", r"\bdir(ection)?\b.*wind|wind.*\bdir", r"\bwd\b", r"windricht|richtung",
    r"direccion|direzione|direction du vent", r"humid", r"feuchte", r"\brh\b", r"\bhur?\b", r"illum", r"\blux\b", r"precip|rain|regen|pluie|lluvia|pioggia", r"snow|schnee|neige|nieve|neve",
    r"\bcloud|bewolk|nuage|sky cover", r"\bsoil\b|boden|\bsol\b.*temp", r"panel|module|\bcell\b|zelle", r"\bgust|boe", r"zenith|elevation|azimuth|altitude|sun ?height|sonnenhohe",
    r"longwave|infrared|\bir\b|\blw", r"reflect|\bup(welling|ward)?\b", r"albedo", r"\bstd|\bmin\b(?!ute)|\bmax\b", r"tilted|\bgti\b|\bpoa\b|inclined|geneigt", r"\bpar\b", r"\buv",
)  # fmt: skip
QUANTITIES: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("beam_horizontal", (r"\bbhi\b", r"(beam|direct|direkt\w*|directe?a?|diretta)\W.*(horiz|waager)", r"horiz\w*.*\b(beam|direct|direkt)", r"\bb h\b|\bibh\b|gb\(h\)")),
    ("dni", (r"\bdni\b", r"\bbni\b", r"direct.?normal|normal.?direct|beam.?normal|normal.?beam|direktnormal|direktnormalstrahlung", r"direct[ea]?.*normal[ea]?", r"\bibn\b|\bgbn?\b|\bgb\(n\)|\bb n\b", r"\bbeam\b|\bdirect\b|direktstrahl|\bdirekt|\bdirecte?\b|\bdiretta\b|\bdirecta\b")),
    ("dhi", (r"\bdhi\b", r"\bdif\b|\bdiff?hi\b", r"diffus|difus", r"\bgd\b|gd\(h\)|\bg d\b|\bd ?h\b|\bidh\b")),
    ("ghi", (r"\bghi\b", r"glob", r"\bg ?h\b|\bg\(h\)|\bgg\b", r"\brsds\b|\bssrd\b|\bswdr\b|\bsrad\b|\brs\b|\bsw_?(d|in|down)", r"solar|sonnen|solaire|\bstrahl|shortwave|kurzwell|irradian|einstrahl|\brad\b|radiat|radiac|radiaz|ray(onnement)?")),
    ("temperature", (r"temp", r"\bta?\b|\bt ?2m\b|\btair\b|\btt\b|\btl\b|\bt ?amb\b|\btdb\b|dry.?bulb|\bdb\b|airtc", r"\bair\b|\bluft\b|lufttemp|\baire\b|\baria\b")),
    ("wind", (r"wind", r"\bw ?s\b|\bff\b|\bws ?10m\b|\bws ms\b|\bwspd\b|\bwg\b|\bu10\b|\bfx?\b", r"\bvent\b|\bviento\b|\bvento\b")),
    ("pressure", (r"press", r"druck", r"\bslp\b|\bsp\b|\bp\b|\bpp\b|\bpatm\b|\bbaro", r"presion|pressione")),
)  # fmt: skip
TIME_WORDS: tuple[tuple[str, str], ...] = (
    ("year", r"\byears?\b|\bjahre?\b|\bannee?\b|\bano\b|\banno\b|\byy(yy)?\b|\byr\b"),
    ("month", r"\bmonths?\b|\bmonate?\b|\bmois\b|\bmes\b|\bmese\b|\bmo\b|\bmon\b"),
    ("day of year", r"day.?of.?(the.?)?year|\bdoy\b|\bjulian|\btag.?im.?jahr|jour.?de.?l.?annee|\byday\b"),
    ("day", r"\bdays?\b|\btage?\b|\bjour\b|\bdia\b|\bgiorno\b|\bdd\b|\bdy\b"),
    ("hour", r"\bhours?\b|\bstunden?\b|\bheures?\b|\bhoras?\b|\bora\b|\bore\b|\bhh\b|\bhr\b|\bstd\b|\bh\b"),
    ("minute", r"\bmin(ute)?s?\b|\bminuten?\b|\bminutos?\b|\bminuti?\b"),
)
UNIT_WORDS: dict[str, tuple[tuple[str, str], ...]] = {
    "irradiance": (
        ("kWh/m²", r"kwh"), ("Wh/m²", r"(?<![k])wh"), ("kW/m²", r"\bkw(?!h)"), ("MJ/m²", r"\bmj"), ("kJ/m²", r"\bkj"),
        ("J/cm²", r"\bj\W*(/|per|je|cm)\W*cm|\bjcm"), ("J/m²", r"\bj\W*(/|per|je)\W*m|\bj ?m-?2"), ("W/m²", r"\bw\W*(/|per|je|m)|\bwatt|\bw$|\bw\b"),
    ),
    "temperature": (("°F", r"°\s*f\b|\bdeg ?f\b|fahrenheit|[\[(,_ ]f[\])]|\bf$"), ("K", r"kelvin|[\[(,_ ]k[\])]|\bk$"), ("°C", r"°\s*c\b|\bdeg ?c\b|celsius|[\[(,_ ]c[\])]|\bc$|grad")),
    "wind": (("km/h", r"km\W?/?\W?h|kmh|kph"), ("mph", r"mph|mi/h|miles"), ("kn", r"\bknots?\b|\bkn\b|\bkts?\b"), ("m/s", r"m\W?/?\W?s|meter")),
    "pressure": (("hPa", r"hpa|hektopascal"), ("mbar", r"mbar|\bmb\b|millibar"), ("kPa", r"kpa"), ("mmHg", r"mmhg|torr"), ("Pa", r"\bpa\b|pascal")),
}  # fmt: skip


def folded(text: str) -> str:
    """In small letters, without accents, underscores as blanks, a superscript two as 2."""
    plain = unicodedata.normalize("NFKD", text.replace("\ufffd", " ")).casefold()
    plain = "".join(ch for ch in plain if not unicodedata.combining(ch))
    return re.sub(r"[_\s]+", " ", plain).strip()


def without_unit(heading: str) -> str:
    """A heading without what stands in its brackets, in small letters."""
    return re.sub(r"[\[(][^\])]*[\])]", " ", folded(heading)).strip() or folded(heading)


def quantity_in(heading: str) -> str:
    """The quantity that a heading names, if any."""
    whole, bare = folded(heading), without_unit(heading)
    if is_left_out(heading):
        return ""
    for quantity, patterns in QUANTITIES:
        if any(re.search(pattern, bare) or ("(" in pattern and re.search(pattern, whole)) for pattern in patterns):
            return quantity
    return ""


def is_left_out(heading: str) -> bool:
    """Whether a heading names something that is not used here."""
    return any(re.search(pattern, without_unit(heading)) for pattern in LEFT_OUT)


def unit_in(text: str, quantity: str) -> str:
    """The unit that a heading or a line of units states for a quantity, if any."""
    kind = "irradiance" if quantity in ("ghi", "dni", "dhi", "beam_horizontal") else quantity
    plain = folded(text)
    brackets = " ".join(re.findall(r"[\[(]([^\])]*)[\])]", plain))
    for place in (brackets, plain):
        for unit, pattern in UNIT_WORDS.get(kind, ()):
            if place and re.search(pattern, place):
                return unit
    return ""


def time_part_in(heading: str) -> str:
    """The part of a date or time that a heading names, if it names one alone."""
    plain = without_unit(heading)
    return next((part for part, pattern in TIME_WORDS if re.search(pattern, plain)), "")
