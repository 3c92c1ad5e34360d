"""Sites of a region as a layer, their irradiation, and pictures that lie on the map."""

import contextlib
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import given
from hypothesis import strategies as st

from noontide.server.places.region import read_layer
from noontide.server.weather_library import region

PNG = b"\x89PNG\r\n\x1a\n" + b"\0" * 40


def layer(*features) -> bytes:
    return json.dumps({"type": "FeatureCollection", "features": list(features)}).encode()


def point(longitude, latitude, **properties):
    return {"type": "Feature", "geometry": {"type": "Point", "coordinates": [longitude, latitude]}, "properties": properties}


def upload(content: bytes, name: str = "sites.geojson"):
    return {"file": SimpleUploadedFile(name, content)}


def test_points_of_a_layer_come_with_their_names(api):
    several = {"type": "Feature", "geometry": {"type": "MultiPoint", "coordinates": [[1, 2, 300], [3, 4]]}, "properties": None}
    found = api.post("/api/places/region", upload(layer(point(11.2, 43.5, name="Valley"), several))).json()
    assert found == [
        {"name": "Valley", "latitude": 43.5, "longitude": 11.2},
        {"name": "Site 2", "latitude": 2, "longitude": 1},
        {"name": "Site 2", "latitude": 4, "longitude": 3},
    ]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        pytest.param(b"PK\x03\x04", "no JSON", id="another-file"),
        pytest.param(b"[" * 100_000, "no JSON", id="nested"),
        pytest.param(b'{"type": "Topology"}', "FeatureCollection was expected", id="another-kind"),
        pytest.param(layer(), "no points", id="empty"),
        pytest.param(
            layer(point(1, 2), {"type": "Feature", "geometry": {"type": "Polygon"}}), "Feature 2 is a Polygon", id="area"
        ),
        pytest.param(layer({"type": "Feature", "geometry": None}), "Feature 1 is without geometry", id="no-geometry"),
        pytest.param(layer(point(4_512_000, 1_203_000)), "in degrees", id="metres"),
        pytest.param(layer(point("11", 43)), "Feature 1: a place is", id="text"),
        pytest.param(layer(*[point(1, 2)] * 201), "more than 200 points", id="too-many"),
    ],
)
def test_a_layer_that_cannot_be_used_is_refused_in_words(api, content, words):
    answer = api.post("/api/places/region", upload(content))
    assert answer.status_code == 422
    assert words in answer.json()["detail"]


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=4),
        lambda v: (
            st.lists(v, max_size=3)
            | st.dictionaries(st.sampled_from(["type", "features", "geometry", "coordinates", "properties"]), v, max_size=4)
        ),
    )
)
def test_no_json_does_more_than_be_refused(document):
    with contextlib.suppress(ValueError):
        assert read_layer(json.dumps(document).encode())


def test_the_irradiation_of_a_region_comes_as_a_job(api, monkeypatch, hill_weather):
    asked = []

    def year(latitude, longitude, elevation, utc_offset):
        asked.append((latitude, longitude, elevation, utc_offset))
        return hill_weather, b""

    monkeypatch.setattr(region, "fetch_year", year)
    monkeypatch.setattr(region, "fetch_elevation", lambda latitude, longitude: 100.0)
    said = []
    result = region.ask_region(
        region.RegionRequest.model_validate(
            {"sites": [{"key": "a", "latitude": 43, "longitude": 11}, {"key": "b", "latitude": 44, "longitude": 12}]}
        ),
        lambda progress, words: said.append((progress, words)),
    )
    assert asked == [(43, 11, 100, 1), (44, 12, 100, 1)]
    assert result.annual_ghi["a"] == result.annual_ghi["b"] > 1000
    assert said == [(0, "Site 1 of 2..."), (0.5, "Site 2 of 2...")]


def test_a_region_without_sites_is_refused(api):
    assert api.send("post", "/api/weather/region", {"sites": []}).status_code == 422
    assert api.send("post", "/api/weather/region", []).status_code == 422
    assert api.send("post", "/api/weather/region", {"sites": [{"key": "a", "latitude": 99, "longitude": 0}]}).json()["errors"]


def test_a_picture_is_kept_once_and_given_back(api, settings):
    first, second = (api.post("/api/pictures", upload(PNG, name)).json() for name in ("plan.png", "same.png"))
    assert first == second and first["kind"] == "image/png"
    answer = api.get(f"/api/pictures/{first['digest']}")
    assert b"".join(answer.streaming_content) == PNG
    assert answer.headers["Content-Type"] == "image/png"
    assert len([path for path in (settings.DATA / "pictures").rglob("*") if path.is_file()]) == 1


def test_what_is_no_picture_is_not_kept(api, settings):
    for content in (b"<svg onload='x()'/>", b"", b"GIF89a", b"<html>"):
        assert api.post("/api/pictures", upload(content or b" ", "plan.png")).json()["type"].endswith("no-picture")
    assert not (settings.DATA / "pictures").exists()
    assert api.get(f"/api/pictures/{'ab' * 32}").status_code == 404
    assert api.get("/api/pictures/..%2f..%2fnoontide.sqlite3").status_code == 404


def test_a_design_carries_its_picture_and_its_region(api, scheme):
    plan = {
        "digest": "ab" * 32, "width_to_height": 1.5, "first_x": 0.1, "first_y": 0.2, "second_x": 0.8, "second_y": 0.7,
        "latitude": 43.62, "longitude": 11.31, "distance": 80, "azimuth": 70,
    }  # fmt: skip
    sites = {"s1": {"name": "Valley", "latitude": 43.5, "longitude": 11.2}}
    path = f"/api/schemes/{scheme.pk}"
    before = api.get(path).json()
    answer = api.send("patch", path, {"site": {"map_picture": plan, "region": sites}}, before["revision"]).json()
    assert answer["document"]["site"]["map_picture"]["distance"] == 80
    assert answer["evaluation"]["headline"]["energy"] == before["evaluation"]["headline"]["energy"]
    same = plan | {"second_x": 0.1, "second_y": 0.2}
    refused = api.send("patch", path, {"site": {"map_picture": same}}, answer["revision"])
    assert refused.status_code == 422 and "must lie apart" in refused.json()["errors"][0]["detail"]
