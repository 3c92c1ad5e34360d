"""What a file is, by its content: where it would go, whoever it is given to."""

import io
import json
import re
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from noontide.core.cells import rows_of, rows_of_sheet
from noontide.core.demand.espi import is_espi
from noontide.core.electrical.datasheets import KINDS
from noontide.core.electrical.parts_table import known_headings
from noontide.core.exchange.archive import MANIFEST, PROJECT_ENDING
from noontide.core.picture_types import picture_type
from noontide.core.scene.importers import scene_format

FileKind = Literal[
    "project", "scheme", "weather", "scene", "region", "picture", "parts", "horizon", "use", "demand", "tariff", "unknown"
]
HEAD = 64 * 1024  # bytes that tell a text
FEWEST_HEADINGS = 3  # of parts
SCENES = {
    ".glb": "a model (glTF)",
    ".las": "a point cloud (LAS)",
    ".tif": "a height grid (GeoTIFF)",
    ".asc": "a height grid (ASCII)",
    ".dxf": "a drawing (DXF)",
    ".obj": "a model (OBJ)",
}
OTHERS = {
    b"%PDF": "a PDF document. Save its table as CSV or XLSX, or its plan as PNG",
    b"\xd0\xcf\x11\xe0": "a document of the old binary kind. Save it as XLSX or CSV",
    b"\x1f\x8b": "a compressed file (gzip). Unpack it, then drop the file inside",
    b"Rar!": "an archive (RAR). Unpack it, then drop the files inside",
    b"7z\xbc\xaf": "an archive (7z). Unpack it, then drop the files inside",
    b"ply\n": "a mesh in PLY. Export it as glTF or OBJ",
    b"solid ": "a mesh in STL. Export it as glTF or OBJ",
    b"MZ": "a program",
    b"\x7fELF": "a program",
    b"GIF8": "a picture in GIF. Save it as PNG",
    b"BM": "a picture in BMP. Save it as PNG",
}
PLACES: dict[FileKind, str] = {
    "project": "opens as a project, with its schemes and weather",
    "scheme": "opens as a project of its own",
    "weather": "goes to the weather library",
    "scene": "goes into the scene",
    "region": "goes to the map of Site",
    "picture": "is laid on the map of Site",
    "parts": "goes to the parts library",
    "horizon": "goes to the horizon of Sky",
    "use": "goes to the Demand bench",
    "demand": "goes to the Demand bench",
    "tariff": "goes to the Money bench",
    "unknown": "has no place here",
}
# By kind, what such files are, for whoever does not know yet what can be brought in.
EXAMPLES: dict[FileKind, str] = {
    "project": "A project (.noontide)",
    "scheme": "A scheme (JSON)",
    "weather": "Weather: EPW, or any table of hours (text, XLSX, Parquet, CoverageJSON)",
    "scene": "A building, land or trees: glTF, OBJ, DXF, GeoJSON, CityJSON, LAS, GeoTIFF",
    "use": "Measured use: a meter's table, or ESPI",
    "demand": "Sources of demand (JSON)",
    "tariff": "A tariff (JSON)",
    "parts": "A list of modules, inverters or batteries (CSV, XLSX, JSON)",
    "horizon": "A horizon: azimuth and elevation",
    "picture": "An aerial picture or a plan (PNG, JPEG, WebP)",
    "region": "Points of a region (GeoJSON)",
}
NUMBER = re.compile(r"[-+−]?\d+(?:[.,]\d+)?")


OWN_FORMATS: dict[str, tuple[FileKind, str]] = {
    "noontide-demand/": ("demand", "a file of sources of demand"),
    "noontide-tariff/": ("tariff", "a tariff"),
}
# Headings of interval data, and those by which a table is one of weather all the same.
USE_WORDS = re.compile(r"kwh|\bkw\b|\bwh\b|consum|verbrauch|usage|meter read|z[aä]hlerstand|bezug", re.IGNORECASE)
WEATHER_WORDS = re.compile(r"ghi|dni|dhi|irradi|glob|radiat|strahl|temp|wind|m2|m²|m\^2", re.IGNORECASE)


@dataclass(frozen=True)
class FileGuess:
    """What a file is taken for."""

    kind: FileKind
    what: str  # in words: a list of modules
    parts: str = ""  # the kind of parts

    @property
    def words(self) -> str:
        """What it is and where it goes."""
        return f"This is {self.what}." if self.kind == "unknown" else f"This is {self.what}; it {PLACES[self.kind]}."


def recognise_file(content: bytes, name: str = "") -> FileGuess:
    """What a file is, by its first bytes and what they hold; never raises, whatever the bytes."""
    if not content.strip():
        return FileGuess("unknown", "an empty file")
    if picture_type(content) is not None:
        return FileGuess("picture", "a picture")
    if (scene := scene_format(content)) in SCENES:
        return FileGuess("scene", SCENES[scene])
    if content[:4] == b"PAR1":
        return FileGuess("weather", "a table (Parquet)")
    if content[:4] == b"PK\x03\x04":
        return _archive(content, name)
    for start, what in OTHERS.items():
        if content.startswith(start):
            return FileGuess("unknown", what)
    text = content[:HEAD].decode("utf-8-sig", errors="replace").lstrip()
    if is_espi(content):
        return FileGuess("use", "interval data of a meter (ESPI)")
    if content.lstrip()[:1] in (b"{", b"["):
        return _json(content)
    return _text(text, name)


def _archive(content: bytes, name: str) -> FileGuess:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            if MANIFEST in names:
                return FileGuess("project", "a project")
            if "xl/workbook.xml" not in names:
                kind = "a text document (DOCX)" if "word/document.xml" in names else "an archive (zip)"
                return FileGuess("unknown", f"{kind}. Drop the file inside, or a table as XLSX or CSV")
        import openpyxl

        sheet = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True).worksheets[0]
        first = next(rows_of_sheet(sheet), ())
    except Exception:
        if name.lower().endswith(PROJECT_ENDING):
            return FileGuess("project", "a project")
        # Damaged or not, it is a workbook: the reader of weather has the words for what is wrong with it.
        return FileGuess("weather", "a workbook")
    headings = [str(value or "") for value in first]
    return _of_headings(headings) or _of_use(headings) or FileGuess("weather", "a table (XLSX)")


def _json(content: bytes) -> FileGuess:
    try:
        document = json.loads(content)
    except (ValueError, RecursionError):
        return FileGuess("unknown", "JSON that is damaged or cut off. Export it again")
    if isinstance(document, list):
        keys = [key for entry in document[:20] if isinstance(entry, dict) for key in entry]
        return _of_headings(list(dict.fromkeys(keys))) or _of_use(keys) or FileGuess("weather", "a table (JSON)")
    if not isinstance(document, dict):
        return FileGuess("unknown", "JSON without an object or a list")
    own = str(document.get("format", ""))
    for start, (own_kind, what) in OWN_FORMATS.items():
        if own.startswith(start):
            return FileGuess(own_kind, what)
    kind = document.get("type")
    if kind in ("FeatureCollection", "Feature"):
        given = document.get("features") if kind == "FeatureCollection" else [document]
        features = given if isinstance(given, list) else []
        shapes = {_geometry(feature) for feature in features[:200]}
        is_points = bool(shapes) and shapes <= {"Point", "MultiPoint"}
        return FileGuess("region", "a layer of points (GeoJSON)") if is_points else FileGuess("scene", "outlines (GeoJSON)")
    if kind == "CityJSON":
        return FileGuess("scene", "a city model (CityJSON)")
    if "asset" in document and ("meshes" in document or "nodes" in document):
        return FileGuess("scene", "a model (glTF)")
    if kind in ("Coverage", "CoverageCollection"):
        return FileGuess("weather", "a coverage (CoverageJSON)")
    if {"surfaces", "subarrays", "inverters"} & document.keys() or ("site" in document and "format" in document):
        return FileGuess("scheme", "a scheme")
    for key in KINDS:
        if isinstance(document.get(key), dict | list):
            return FileGuess("parts", f"a list of {key}", key)
    return FileGuess("weather", "a table (JSON)")


def _geometry(feature: Any) -> str:
    geometry = feature.get("geometry") if isinstance(feature, dict) else None
    return str(geometry.get("type")) if isinstance(geometry, dict) else ""


def _text(text: str, name: str) -> FileGuess:
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if text.startswith("LOCATION,"):
        return FileGuess("weather", "a weather year (EPW)")
    rows = [re.split(r"[;\t ]+|,\s+|,(?=\S*[.,]\S*,)|,", line) for line in lines[:400]]
    numbers = [row for row in rows if all(NUMBER.fullmatch(cell) for cell in row if cell)]
    widths = {len([cell for cell in row if cell]) for row in numbers}
    if name.lower().endswith(".xyz") or (len(numbers) >= 40 and len(numbers) >= 0.98 * len(rows) and widths == {3}):
        return FileGuess("scene", "points (x, y, z)")
    if 3 <= len(numbers) <= 366 and len(numbers) >= len(rows) - 2 and widths == {2} and _is_horizon(numbers):
        return FileGuess("horizon", "a horizon (azimuth and elevation)")
    try:
        headings = next(iter(rows_of(text)), [])
    except ValueError:
        headings = []
    return _of_headings(headings) or _of_use(lines[:30]) or FileGuess("weather", "a table")


def _is_horizon(rows: Sequence[Sequence[str]]) -> bool:
    pairs = [[float(cell.replace(",", ".").replace("−", "-")) for cell in row if cell] for row in rows]
    return all(-360 <= azimuth <= 360 and -5 <= elevation <= 90 for azimuth, elevation in pairs)


def _of_use(words: Sequence[str]) -> FileGuess | None:
    """Interval data, where a unit or a word of use stands above the numbers and none of weather."""
    text = " ".join(word for word in words if re.search(r"[^\W\d_]{2}", word))
    is_use = USE_WORDS.search(text) is not None and WEATHER_WORDS.search(text) is None
    return FileGuess("use", "interval data of a meter") if is_use else None


def _of_headings(headings: Sequence[str]) -> FileGuess | None:
    """A list of parts, where enough of its headings are those of one kind's datasheets."""
    counts = {kind: known_headings(headings, kind) for kind in KINDS}
    best = max(counts, key=lambda kind: counts[kind])
    return FileGuess("parts", f"a list of {best}", best) if counts[best] >= FEWEST_HEADINGS else None
