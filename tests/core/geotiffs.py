"""GeoTIFFs as another program writes them."""

from rasterio.io import MemoryFile


def geotiff(heights, transform, crs, nodata=None, dtype="float32", **band):
    """A grid of heights; `band` holds what else its one band has: units, scales, offsets."""
    shape = {"height": heights.shape[0], "width": heights.shape[1], "count": 1, "dtype": dtype}
    with MemoryFile() as memory:
        with memory.open(driver="GTiff", crs=crs, transform=transform, nodata=nodata, compress="deflate", **shape) as file:
            file.write(heights.astype(dtype), 1)
            for name, values in band.items():
                setattr(file, name, values)
        return memory.read()
