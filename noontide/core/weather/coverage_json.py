"""CoverageJSON (OGC 21-069): years of ours exactly, and what services answer, as the rows of a table."""

import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from noontide.core.weather.passport import COLUMNS, UNITS, passport_of, year_of
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
PASSPORT = "noontide:year"
TITLES = {
    "ghi": "Global horizontal irradiance", "dni": "Direct normal irradiance", "dhi": "Diffuse horizontal irradiance", "temperature": "Air temperature at 2 m",
    "wind": "Wind speed at 10 m", "pressure": "Air pressure",
}  # fmt: skip
# Units of UCUM as weather tables write them.
UCUM = {"Cel": "°C", "K": "K", "[degF]": "°F", "W/m2": "W/m2", "W.m-2": "W/m2", "J/m2": "J/m2", "J.m-2": "J/m2", "m/s": "m/s", "m.s-1": "m/s", "km/h": "km/h", "hPa": "hPa", "Pa": "Pa", "kPa": "kPa"}  # fmt: skip
LARGEST = 4_000_000  # values of one range
Fetch = Callable[[str], Any]


def write_coverage(weather: Weather) -> str:
    """A year as one coverage, a series at a point, with all that it carries; numbers to their last digit."""
    c, place = weather.calendar, weather.place
    starts = c.local_starts - np.timedelta64(round(c.utc_offset * 60), "m")
    system = {"type": "GeographicCRS", "id": "http://www.opengis.net/def/crs/OGC/0/CRS84h"}
    return json.dumps(
        {
            "type": "Coverage",
            PASSPORT: passport_of(weather),
            "domain": {
                "type": "Domain",
                "domainType": "PointSeries",
                "axes": {
                    "x": {"values": [place.longitude]},
                    "y": {"values": [place.latitude]},
                    "z": {"values": [place.elevation]},
                    "t": {"values": [f"{start}Z" for start in starts]},
                },
                "referencing": [
                    {"coordinates": ["x", "y", "z"], "system": system},
                    {"coordinates": ["t"], "system": {"type": "TemporalRS", "calendar": "Gregorian"}},
                ],
            },
            "parameters": {
                name: {
                    "type": "Parameter",
                    "observedProperty": {"label": {"en": f"{TITLES[name]}, mean of the interval from the time on"}},
                    "unit": {"symbol": {"value": UNITS[name], "type": "http://www.opengis.net/def/uom/UCUM/"}},
                }
                for name in COLUMNS
            },
            "ranges": {
                name: {
                    "type": "NdArray",
                    "dataType": "float",
                    "axisNames": ["t"],
                    "shape": [c.intervals],
                    "values": getattr(weather, name).tolist(),
                }
                for name in COLUMNS
            },
        }
    )


def read_coverage(text: str) -> Weather:
    """A year that `write_coverage` wrote.

    Raises
    ------
    WeatherFileError
        If it is none.
    """
    try:
        data = json.loads(text)
        ranges = data["ranges"]
        columns = {name: np.array(ranges[name]["values"], dtype=float) for name in COLUMNS if name in ranges}
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise WeatherFileError(f"The CoverageJSON cannot be read: {str(error)[:120]}") from error
    return year_of(data.get(PASSPORT), columns)


@dataclass(frozen=True)
class CoverageTable:
    """A series at one point, as a table whose headings have their units."""

    latitude: float | None
    longitude: float | None
    elevation: float | None
    points: int  # of the coverage, of which one is taken
    frame: pd.DataFrame  # the column `time`, and one a parameter

    @property
    def preamble(self) -> list[str]:
        """What the table says of its place, a line each."""
        lines = []
        for name, value in (("latitude", self.latitude), ("longitude", self.longitude), ("elevation", self.elevation)):
            if value is not None:
                lines.append(f"{name}: {value:g}{' m' if name == 'elevation' else ''}")
        if self.points > 1:
            lines.append(f"grid of {self.points} points, the nearest is taken")
        return lines


def is_coverage(data: object) -> bool:
    """Whether JSON is a coverage or a collection of them."""
    return isinstance(data, dict) and data.get("type") in ("Coverage", "CoverageCollection")


def table_of_coverage(data: dict, near: tuple[float, float] | None = None, fetch: Fetch | None = None) -> CoverageTable:
    """The series at the point of a coverage that lies nearest.

    Point series, grids with a time axis and multi-point series are read, alone or as a collection (of points, or of one parameter
    each); ranges inside, or by reference where `fetch` is given; axes as values or as start, stop and number.

    Parameters
    ----------
    near : latitude and longitude, optional
        Of the point that is wanted [°]; the first is taken where it is not given.
    fetch : function of an address, optional
        Reads the JSON of a range that is given by reference.

    Raises
    ------
    WeatherFileError
        If it has no series of numbers, with the part that is missing.
    """
    try:
        every = [_series_of(coverage, near, fetch) for coverage in _coverages(data)]
    except (KeyError, TypeError, ValueError, IndexError, AttributeError, RecursionError) as error:
        if isinstance(error, WeatherFileError):
            raise
        raise WeatherFileError(f"The CoverageJSON cannot be read: {type(error).__name__}, {str(error)[:120]}") from error
    if not every:
        raise WeatherFileError("The CoverageJSON holds no coverage.")
    at = near or (every[0].latitude or 0.0, every[0].longitude or 0.0)
    nearest = min(every, key=lambda one: _apart(one, at))
    same = [one for one in every if (one.latitude, one.longitude) == (nearest.latitude, nearest.longitude)]
    frame = same[0].frame
    for one in same[1:]:
        new = [column for column in one.frame.columns if column == "time" or column not in frame.columns]
        frame = frame.merge(one.frame[new], on="time", how="outer")
    points = max(nearest.points, len({(one.latitude, one.longitude) for one in every}))
    return CoverageTable(nearest.latitude, nearest.longitude, nearest.elevation, points, frame.sort_values("time", kind="stable"))


def _coverages(data: dict) -> Iterator[dict]:
    if data["type"] == "Coverage":
        yield data
        return
    shared = {name: data[name] for name in ("parameters", "domainType", "referencing") if name in data}
    for coverage in data["coverages"]:
        domain = {"domainType": data.get("domainType")} | coverage["domain"]
        yield {**coverage, "domain": domain, "parameters": shared.get("parameters", {}) | coverage.get("parameters", {})}


def _apart(one: CoverageTable, at: tuple[float, float]) -> float:
    if one.latitude is None or one.longitude is None:
        return 0.0
    east = (one.longitude - at[1] + 180) % 360 - 180
    return (one.latitude - at[0]) ** 2 + (east * np.cos(np.radians(at[0]))) ** 2


def _series_of(coverage: dict, near: tuple[float, float] | None, fetch: Fetch | None) -> CoverageTable:
    axes = coverage["domain"]["axes"]
    if isinstance(coverage["domain"], str) or "t" not in axes:
        raise WeatherFileError("The coverage has no time axis.")
    times = _axis(axes["t"])
    taken, latitude, longitude, elevation, points = _point(axes, near)
    columns: dict[str, Any] = {"time": times}
    for name, kept in coverage["ranges"].items():
        values = _range(kept, taken, len(times), fetch)
        if values is not None:
            columns[_heading(name, coverage.get("parameters", {}).get(name, {}))] = values
    if len(columns) < 2:
        raise WeatherFileError("The coverage has no range of numbers over time.")
    return CoverageTable(latitude, longitude, elevation, points, pd.DataFrame(columns))


def _axis(axis: dict) -> list:
    if "values" in axis:
        return list(axis["values"])
    number = int(axis["num"])
    if not 1 <= number <= LARGEST:
        raise WeatherFileError(f"An axis of the coverage has {number:,} points.")
    return np.linspace(float(axis["start"]), float(axis["stop"]), number).tolist()


def _point(axes: dict, near: tuple[float, float] | None) -> tuple[dict[str, int], float | None, float | None, float | None, int]:
    """Which place of each axis but time is taken, and where that is."""
    if "composite" in axes:
        composite = axes["composite"]
        names = composite.get("coordinates", ["x", "y", "z"])
        tuples = composite["values"]
        where = np.array([[float(entry[names.index(n)]) for n in ("y", "x")] for entry in tuples])
        best = _nearest(where[:, 0], where[:, 1], near)
        z = float(tuples[best][names.index("z")]) if "z" in names else None
        return {"composite": best}, float(where[best, 0]), float(where[best, 1]), z, len(tuples)
    xs, ys, zs = (_axis(axes[name]) if name in axes else [] for name in ("x", "y", "z"))
    taken = {name: 0 for name in axes if name != "t"}
    if xs and ys:
        if near is not None:
            east = (np.array(xs, dtype=float) - near[1] + 180) % 360 - 180
            taken["x"], taken["y"] = int(np.abs(east).argmin()), int(np.abs(np.array(ys, dtype=float) - near[0]).argmin())
        longitude = (float(xs[taken["x"]]) + 180) % 360 - 180 if float(xs[taken["x"]]) > 180 else float(xs[taken["x"]])
        return taken, float(ys[taken["y"]]), longitude, float(zs[0]) if len(zs) == 1 else None, len(xs) * len(ys)
    return taken, None, None, float(zs[0]) if len(zs) == 1 else None, 1


def _nearest(latitudes: Floats, longitudes: Floats, near: tuple[float, float] | None) -> int:
    if near is None:
        return 0
    east = ((longitudes - near[1] + 180) % 360 - 180) * np.cos(np.radians(near[0]))
    return int(np.hypot(latitudes - near[0], east).argmin())


def _range(kept: Any, taken: dict[str, int], length: int, fetch: Fetch | None) -> Floats | None:
    """The values over time at the point that is taken; None where they are no numbers over time."""
    if isinstance(kept, str):
        if fetch is None:
            raise WeatherFileError(f"A range is given by reference only: {kept[:120]}. Ask for the ranges inside the answer.")
        kept = fetch(kept)
    if kept.get("type") == "TiledNdArray":
        raise WeatherFileError("The ranges come in tiles. Ask for the ranges inside the answer.")
    if kept.get("dataType") == "string":
        return None
    names, shape = list(kept.get("axisNames", [])), [int(n) for n in kept.get("shape", [])]
    values = kept["values"]
    if not names and len(values) == length:
        names, shape = ["t"], [length]
    if "t" not in names or len(values) > LARGEST or int(np.prod(shape)) != len(values):
        raise WeatherFileError(f"A range has {len(values):,} values on axes of {shape}.")
    array = np.array([np.nan if v is None else v for v in values], dtype=float).reshape(shape)
    index = tuple(slice(None) if name == "t" else taken.get(name, 0) for name in names)
    series = array[index]
    if series.shape != (length,):
        raise WeatherFileError(f"A range has {series.size:,} values over time; its axis has {length:,}.")
    return series


def _heading(name: str, parameter: dict) -> str:
    """What a weather table would call the column: the parameter's own word and title, with its unit."""
    title = _label((parameter.get("observedProperty") or {}).get("label") or parameter.get("description")) if parameter else ""
    unit = parameter.get("unit") or {}
    symbol = unit.get("symbol") if isinstance(unit, dict) else ""
    text = str(symbol.get("value", "")) if isinstance(symbol, dict) else str(symbol or _label(unit.get("label")) or "")
    words = name if not title or name.lower() in ("ghi", "dni", "dhi", "temperature", "wind", "pressure") else title.split(",")[0]
    return f"{words} [{UCUM.get(text, text)}]" if text else words


def _label(label: Any) -> str:
    """A text, or the English or first of several."""
    if isinstance(label, dict):
        return str(label.get("en") or next(iter(label.values()), ""))
    return str(label or "")
