import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.earth import EARTH_RADIUS
from noontide.core.heights import HeightGrid, read_height_grid
from noontide.core.shading.terrain import REFRACTION, horizon_from_grid
from tests.core.geotiffs import geotiff


def metric(heights, cell=50.0):
    rows, columns = heights.shape
    return HeightGrid(heights, -columns * cell / 2, rows * cell / 2, cell, is_geographic=False)


def grid_of(function, half=200, cell=50.0):
    at = (np.arange(2 * half) - half + 0.5) * cell
    east, north = np.meshgrid(at, -at)
    return metric(function(east, north), cell)


def test_level_ground_has_no_horizon():
    assert horizon_from_grid(grid_of(lambda e, n: np.full(e.shape, 300.0)), 0.0, 0.0).is_flat


def test_a_wall_stands_as_high_as_trigonometry_and_the_curved_earth_say():
    """A ridge of 500 m at 6 km in the east: arctan((500 - drop - eye) / 6000), a third of a metre of drop per square of 2 km."""
    grid = grid_of(lambda e, n: np.where(e >= 6000, 500.0, 0.0))
    line = horizon_from_grid(grid, 0.0, 0.0, eye=2.0)
    distance = 6000.0
    drop = distance**2 * (1 - REFRACTION) / (2 * EARTH_RADIUS)
    assert line.elevation_at(90.0) == pytest.approx(np.degrees(np.arctan((500 - drop - 2) / distance)), abs=0.05)
    assert line.elevation_at(270.0) == 0
    # Seen aslant the ridge is farther by the cosine, and lower.
    slant = distance / np.cos(np.radians(40))
    assert line.elevation_at(50.0) == pytest.approx(np.degrees(np.arctan(498 / slant)), abs=0.08)


def test_a_round_crater_has_one_elevation_all_round():
    grid = grid_of(lambda e, n: np.clip(np.hypot(e, n) - 3000, 0, 4000) * 0.3, cell=40.0)
    line = horizon_from_grid(grid, 0.0, 0.0)
    assert np.ptp(line.elevations) < 0.6
    assert min(line.elevations) > 5


def test_directions_are_those_of_the_compass():
    grid = grid_of(lambda e, n: np.where((n > 3000) & (np.abs(e) < 400), 400.0, 0.0))
    line = horizon_from_grid(grid, 0.0, 0.0)
    assert int(np.argmax(line.elevations)) in (359, 0, 1, 2, 358, 3, 357)
    assert line.elevation_at(180.0) == 0


def test_on_a_geographic_grid_metres_shrink_with_the_latitude():
    """The same hill, a tenth of a degree away: at 60° it stands half as far in the east as in the north."""
    half, cell = 300, 0.001
    at = (np.arange(2 * half) - half + 0.5) * cell
    east, north = np.meshgrid(at, -at)
    hills = np.where((np.abs(np.abs(east) - 0.1) < 0.002) & (np.abs(north) < 0.02), 600.0, 0.0)
    hills = np.maximum(hills, np.where((np.abs(np.abs(north) - 0.1) < 0.002) & (np.abs(east) < 0.02), 600.0, 0.0))
    line = horizon_from_grid(HeightGrid(hills, 10 - half * cell, 60 + half * cell, cell, True), 10.0, 60.0)
    assert np.tan(np.radians(line.elevation_at(90.0))) == pytest.approx(2 * np.tan(np.radians(line.elevation_at(0.0))), rel=0.04)


def test_a_far_mountain_sinks_behind_the_curve():
    """1,000 m at 140 km lie below the level line: the drop is 1,338 m."""
    cell = 500.0
    at = (np.arange(600) - 300 + 0.5) * cell
    east, _ = np.meshgrid(at, -at)
    low = metric(np.where(east > 139_000, 1000.0, 0.0), cell)
    assert horizon_from_grid(low, 0.0, 0.0).is_flat
    high = metric(np.where(east > 139_000, 3000.0, 0.0), cell)
    assert 0.5 < horizon_from_grid(high, 0.0, 0.0).elevation_at(90.0) < 0.75


TEXT = "ncols 4\nnrows 3\nxllcorner 10.0\nyllcorner 45.0\ncellsize 0.5\nNODATA_value -9999\n1 2 3 4\n5 6 7 8\n9 10 -9999 12\n"


def test_an_ascii_grid_is_read_from_the_north():
    grid = read_height_grid(TEXT)
    assert (grid.west, grid.north, grid.is_geographic) == (10.0, 46.5, True)
    assert_allclose(grid.heights[0], [1, 2, 3, 4])
    assert np.isnan(grid.heights[2, 2])
    assert grid.at(10.25, 46.25) == 1
    assert grid.at(10.5, 46.0) == pytest.approx((1 + 2 + 5 + 6) / 4)
    assert np.isnan(grid.at(9.0, 46.0))
    assert read_height_grid(TEXT.replace("xllcorner 10.0", "xllcenter 10.25")).west == 10.0


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (("ncols 4", "ncols four"), "line 1"),
        (("cellsize 0.5\n", ""), "cellsize"),
        (("9 10 -9999 12\n", "9 10\n"), "12 heights"),
        (("5 6 7 8", "5 x 7 8"), "no number"),
        (("ncols 4", "ncols 4000000000"), "cells"),
        (("xllcorner 10.0\n", ""), "xllcorner"),
    ],
)
def test_a_damaged_grid_is_refused_in_words(change, words):
    with pytest.raises(ValueError, match=words):
        read_height_grid(TEXT.replace(*change))


def test_a_point_off_the_grid_is_refused():
    with pytest.raises(ValueError, match="no height"):
        horizon_from_grid(read_height_grid(TEXT), 0.0, 0.0)


def test_a_geotiff_in_degrees_gives_the_line_of_the_same_grid():
    from rasterio.transform import from_origin

    from noontide.core.heights.geotiff import read_geotiff

    cell, west, north = 0.001, 11.2, 43.8
    x = west + (np.arange(300) + 0.5) * cell
    heights = np.where(x > 11.4, 900.0, 300.0) * np.ones((300, 1))
    grid = read_geotiff(geotiff(heights, from_origin(west, north, cell, cell), "EPSG:4326"), 11.31, 43.65)
    plain = HeightGrid(heights, west, north, cell, is_geographic=True)
    ours, theirs = (horizon_from_grid(g, 11.31, 43.65, step=5) for g in (grid, plain))
    assert_allclose(ours.elevations, theirs.elevations, atol=0.05)
    assert ours.elevation_at(90.0) > 4


def test_a_geotiff_in_metres_of_a_projection_lies_where_it_says():
    """UTM zone 32 north, a ridge of 500 m four kilometres to the east of the point at its middle."""
    from rasterio.transform import from_origin
    from rasterio.warp import transform

    from noontide.core.heights.geotiff import read_geotiff

    east = (np.arange(400) - 200 + 0.5) * 50
    heights = np.where(east >= 4000, 500.0, 0.0) * np.ones((400, 1))
    content = geotiff(heights, from_origin(690_000, 4_840_000, 50, 50), "EPSG:32632")
    (longitude,), (latitude,) = transform("EPSG:32632", "EPSG:4326", [700_000], [4_830_000])
    line = horizon_from_grid(read_geotiff(content, longitude, latitude), longitude, latitude, step=5)
    assert line.elevation_at(90.0) == pytest.approx(np.degrees(np.arctan(497 / 4000)), abs=0.25)
    assert line.elevation_at(270.0) == 0


def test_grids_that_cannot_be_used_are_refused_in_words():
    from rasterio.transform import from_origin

    from noontide.core.heights.geotiff import read_geotiff

    good = geotiff(np.ones((20, 20)), from_origin(11, 44, 0.1, 0.1), "EPSG:4326")
    with pytest.raises(ValueError, match=r"the site is at 10\.00"):
        read_geotiff(good, 10.0, 10.0)
    with pytest.raises(ValueError, match="in which coordinates"):
        read_geotiff(geotiff(np.ones((20, 20)), from_origin(11, 44, 0.1, 0.1), None), 11.5, 43.5)
    for broken in (b"II*\0" + b"\xff" * 200, good[:60], b""):
        with pytest.raises(ValueError, match="cannot be opened"):
            read_geotiff(broken, 11.5, 43.5)


def test_a_peak_of_one_cell_has_its_whole_height_at_its_own_azimuth():
    """Rough ground: against a walk in steps of five centimetres, at every azimuth."""
    rng = np.random.default_rng(4)
    heights = rng.gamma(0.6, 12.0, (121, 121))
    heights[60, 60] = 0.0
    grid = HeightGrid(heights, 0.0, 121 * 25.0, 25.0, False)
    east = north = 60.5 * 25.0
    found = horizon_from_grid(grid, east, north, elevation=0.0, step=3.0)
    distances = np.arange(25.0, 121 * 25.0, 0.05)
    for azimuth, elevation in zip(found.azimuths, found.elevations, strict=True):
        turn = np.radians(azimuth)
        line = grid.at(east + distances * np.sin(turn), north + distances * np.cos(turn))
        exact = np.degrees(np.nanmax(np.arctan2(line - distances**2 * 0.87 / (2 * 6_371_000.0) - 2.0, distances)))
        # A walk may step over the tip of a peak, never find more than it.
        assert max(exact, 0) - 0.001 <= elevation <= max(exact, 0) + 0.05


def test_a_single_peak_to_the_north_stands_as_high_as_it_is():
    heights = np.zeros((81, 81))
    heights[20, 40] = 155.0  # twenty cells of 50 m away: 8.7° over the eye
    grid = HeightGrid(heights, 0.0, 81 * 50.0, 50.0, False)
    found = horizon_from_grid(grid, 40.5 * 50.0, 40.5 * 50.0)
    assert found.elevations[0] == pytest.approx(np.degrees(np.arctan2(153.0 - 0.07, 1000.0)), abs=0.01)
