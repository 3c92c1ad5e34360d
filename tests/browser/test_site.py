"""The site: sites of a region as a layer, a picture on the map, the height from a grid, snow."""

import json
import re
import struct
import zlib

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import open_project, undo_all

SITES = {
    "type": "FeatureCollection",
    "features": [
        {"type": "Feature", "geometry": {"type": "Point", "coordinates": at}, "properties": {"name": name}}
        for name, at in (("Upper farm", [11.05, 43.9]), ("South mill", [11.9, 43.2]))
    ],
}


def png(width: int, height: int) -> bytes:
    """A white picture."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = b"".join(b"\0" + b"\xff" * (3 * width) for _ in range(height))
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def file_of(name: str, content: bytes) -> dict:
    return {"name": name, "mimeType": "application/octet-stream", "buffer": content}


@pytest.fixture
def site(page: Page):
    open_project(page, "Aldermoor Dairy", "site")
    undo_all(page)
    yield page
    undo_all(page)


def test_a_layer_of_sites_shows_how_much_their_light_differs(site: Page):
    site.get_by_label("Open a GeoJSON layer").set_input_files(file_of("sites.geojson", b"{}"))
    expect(site.get_by_text("A FeatureCollection was expected")).to_be_visible()
    site.get_by_label("Open a GeoJSON layer").set_input_files(file_of("sites.geojson", json.dumps(SITES).encode()))
    site.get_by_role("button", name="Get the irradiation of 2").click()
    expect(site.get_by_text("a year among 2 sites")).to_be_visible(timeout=20_000)
    row = site.get_by_role("table", name="Sites of the region").get_by_role("row", name=re.compile("Upper farm"))
    expect(row).to_contain_text(re.compile(r"1,[34]\d\d"))
    site.get_by_role("button", name="Remove Upper farm").click()
    expect(row).to_have_count(0)


def test_a_plan_is_laid_on_the_map_by_two_points(site: Page):
    site.get_by_role("button", name="Lay a picture on the map").click()
    take = site.get_by_label("Open a plan, photograph or aerial picture")
    take.set_input_files(file_of("plan.png", b"no picture"))
    expect(site.get_by_role("alert")).to_contain_text("no picture that the browser can read")
    take.set_input_files(file_of("plan.png", png(60, 40)))
    pin = site.get_by_role("button", name="Point A of the picture")
    pin.press("ArrowLeft")
    site.get_by_label("Place of point B").fill("43.6209, 11.31")
    site.get_by_role("button", name="Place it").click()
    distance = site.get_by_role("dialog").get_by_label("Distance from A to B")
    expect(distance).to_have_value("100.08")
    expect(site.get_by_role("dialog").get_by_label("Azimuth from A to B")).to_have_value("0")
    site.get_by_role("button", name="See it on the map").click()
    expect(site.get_by_role("img", name=re.compile("World map")).locator("image")).to_have_attribute(
        "href", re.compile("/api/pictures/[0-9a-f]{64}")
    )
    expect(site.get_by_role("button", name="The picture")).to_be_visible()


def test_the_elevation_comes_from_a_grid_of_the_user(site: Page):
    rows = "\n".join(" ".join(["250"] * 40) for _ in range(40))
    head = "ncols 40\nnrows 40\nxllcorner 11.1\nyllcorner 43.4\ncellsize 0.01\n"
    grid = site.locator("input[type=file][accept*='.asc']")
    grid.set_input_files(file_of("hills.asc", b"ncols"))
    expect(site.get_by_text(re.compile("hills.asc, line 1"))).to_be_visible()
    grid.set_input_files(file_of("hills.asc", (head + rows).encode()))
    expect(site.get_by_text("Elevation 250 m, from hills.asc.")).to_be_visible()
    expect(site.get_by_role("navigation", name="The Brief").get_by_label("Elevation of the site")).to_have_value("250")


def test_snow_is_given_by_month(site: Page):
    site.get_by_role("button", name="snow…").click()
    january = site.get_by_label("Snow cover in Jan")
    january.fill("80")
    january.press("Enter")
    expect(january).to_have_value("80")
    site.get_by_role("button", name="no snow").click()
    expect(january).to_have_count(0)
