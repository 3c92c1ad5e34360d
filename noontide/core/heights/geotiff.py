"""Height grids as GeoTIFF, in any coordinates that the file names."""

import numpy as np

from noontide.core.heights.grid import LARGEST, HeightGrid

SPAN = 3.0  # degrees around the point that are read: a mountain 150 km away is 1.4° of latitude away


def read_geotiff(content: bytes, longitude: float, latitude: float, name: str = "height grid") -> HeightGrid:
    """The heights around a point, as a grid in longitude and latitude.

    A grid in metres of a projection is resampled to cells of about the same size.

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
            cell = _cell(source, latitude)
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
    except RasterioError as error:
        raise ValueError(f"{name} cannot be opened as GeoTIFF: {str(error)[:160]}") from error
    return HeightGrid(heights, west, north, cell, is_geographic=True)


def _cell(source, latitude: float) -> float:  # type: ignore[no-untyped-def]
    """Size of a cell [°]."""
    across = abs(source.transform.a)
    return across if source.crs.is_geographic else across / (111_195.0 * max(float(np.cos(np.radians(latitude))), 0.1))
