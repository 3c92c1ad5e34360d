"""Height grids as GeoTIFF, in any coordinates that the file names."""

import re

import numpy as np

from noontide.core.earth import METRES_A_DEGREE
from noontide.core.heights.grid import LARGEST, HeightGrid

FOOT, SURVEY_FOOT = 0.3048, 1200 / 3937
# Metres of the units of length that heights come in.
UNITS = {
    "m": 1.0, "metre": 1.0, "meter": 1.0, "metres": 1.0, "meters": 1.0, "dm": 0.1, "decimetre": 0.1, "decimeter": 0.1, "cm": 0.01, "centimetre": 0.01, "centimeter": 0.01,
    "mm": 0.001, "millimetre": 0.001, "km": 1000.0, "ft": FOOT, "foot": FOOT, "feet": FOOT, "international foot": FOOT,
    "us-ft": SURVEY_FOOT, "ftus": SURVEY_FOOT, "us survey foot": SURVEY_FOOT, "us_survey_foot": SURVEY_FOOT, "foot_us": SURVEY_FOOT, "yd": 0.9144,
}  # fmt: skip
SPAN = 3.0  # degrees around the point that are read: a mountain 150 km away is 1.4° of latitude away


def read_geotiff(content: bytes, longitude: float, latitude: float, name: str = "height grid") -> HeightGrid:
    """The heights around a point, as a grid in longitude and latitude.

    A grid in metres of a projection is resampled to cells of about the same size, or finer from west to east; heights come in metres, whatever scale,
    offset and unit the file names.

    Raises
    ------
    ValueError
        If it is no GeoTIFF with coordinates, too large, or does not hold the point.
    """
    import rasterio
    from rasterio.errors import RasterioError
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin
    from rasterio.warp import Resampling, reproject, transform_bounds

    if not content:
        raise ValueError(f"{name} cannot be opened as GeoTIFF: it is empty.")
    try:
        with MemoryFile(content) as memory, memory.open(driver="GTiff") as source:
            if source.crs is None:
                raise ValueError(
                    f"{name} does not say in which coordinates it is. Save it with its coordinate system, as GeoTIFF."
                )
            if source.width * source.height > LARGEST:
                raise ValueError(f"{name} has {source.width * source.height:,} cells; at most {LARGEST:,} are read.")
            west, south, east, north = transform_bounds(source.crs, "EPSG:4326", *source.bounds)
            if not (west <= longitude <= east and south <= latitude <= north):
                raise ValueError(
                    f"{name} covers {south:.2f} to {north:.2f}°, {west:.2f} to {east:.2f}°; the site is at {latitude:.2f}°, {longitude:.2f}°."
                )
            west, east = max(west, longitude - SPAN), min(east, longitude + SPAN)
            south, north = max(south, latitude - SPAN), min(north, latitude + SPAN)
            to_metres, offset = _metres_and_offset(source, name)
            cell = _cell(source)
            columns, rows = max(2, round((east - west) / cell)), max(2, round((north - south) / cell))
            if columns * rows > LARGEST:
                raise ValueError(f"{name} has {columns * rows:,} cells around the site; at most {LARGEST:,} are read.")
            heights = np.full((rows, columns), np.nan)
            reproject(
                rasterio.band(source, 1),
                heights,
                src_nodata=source.nodata,
                dst_transform=from_origin(west, north, cell, cell),
                dst_crs="EPSG:4326",
                dst_nodata=np.nan,
                resampling=Resampling.bilinear,
            )
            heights *= to_metres
            heights += offset
    except RasterioError as error:
        raise ValueError(f"{name} cannot be opened as GeoTIFF: {str(error)[:160]}") from error
    return HeightGrid(heights, west, north, cell, is_geographic=True)


def _cell(source) -> float:  # type: ignore[no-untyped-def]
    """Size of a cell, its smaller side [°]; a degree of latitude long where it is in metres, so that none is lost from north to south."""
    grid = source.transform
    side = min(float(np.hypot(grid.a, grid.d)), float(np.hypot(grid.b, grid.e)))
    return side if source.crs.is_geographic else side * source.crs.linear_units_factor[1] / METRES_A_DEGREE


def _metres_and_offset(source, name: str) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    """What a stored value is multiplied by, and what is added then, to be metres: the band's scale and offset, and its unit or that of the heights' datum.

    Raises
    ------
    ValueError
        If the unit is none of length.
    """
    unit = (source.units[0] or "").strip().lower()
    if unit and unit not in UNITS:
        raise ValueError(f"{name} has heights in '{unit}'; known are {', '.join(sorted(UNITS))}. Convert it to metres.")
    metres = UNITS[unit] if unit else _unit_of_datum(source.crs.to_wkt())
    scale, offset = float(source.scales[0]), float(source.offsets[0])
    return scale * metres, offset * metres


def _unit_of_datum(wkt: str) -> float:
    """Metres of the unit in which a compound coordinate system counts heights."""
    at = max(wkt.rfind("VERT_CS["), wkt.rfind("VERTCRS["))
    found = re.search(r'(?:LENGTH)?UNIT\["[^"]*",\s*([0-9.eE+-]+)', wkt[at:]) if at >= 0 else None
    return float(found[1]) if found else 1.0
