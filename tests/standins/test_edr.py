"""The weather service speaks its protocol: asked over HTTP, as any client would."""

import json
import urllib.error
import urllib.parse
import urllib.request

import pytest

from noontide.standins.edr import COLLECTION, STATIONS, serve_in_background


@pytest.fixture(scope="module")
def service():
    address, server = serve_in_background()
    yield address
    server.shutdown()
    server.server_close()


def get(address: str) -> tuple[int, dict]:
    try:
        with urllib.request.urlopen(address, timeout=20) as answer:
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as error:
        with error:
            return error.code, json.load(error)


def position(service: str, **query: str) -> tuple[int, dict]:
    wanted = {"coords": "POINT(11.31 43.62)", "datetime": "2025-12-31T23:00Z/2026-12-31T22:00Z", "z": "412"} | query
    return get(f"{service}/collections/{COLLECTION}/position?{urllib.parse.urlencode(wanted)}")


def test_it_lists_its_collection_and_what_it_conforms_to(service):
    _, conformance = get(f"{service}/conformance")
    assert any("ogcapi-edr" in part for part in conformance["conformsTo"])
    _, collections = get(f"{service}/collections")
    assert [c["id"] for c in collections["collections"]] == [COLLECTION, "elevation", STATIONS]
    status, one = get(f"{service}/collections/{COLLECTION}")
    assert status == 200
    assert set(one["parameter_names"]) == {"ghi", "temperature", "wind", "pressure"}


def test_a_position_is_a_coverage_of_a_whole_local_year(service):
    status, coverage = position(service)
    assert status == 200
    assert coverage["type"] == "Coverage"
    assert coverage["noontide:label"] == "simulated from long-term maps, not measured"
    times = coverage["domain"]["axes"]["t"]["values"]
    assert (times[0], times[-1], len(times)) == ("2025-12-31T23:00:00Z", "2026-12-31T22:00:00Z", 8760)
    for name, values in coverage["ranges"].items():
        assert values["shape"] == [8760] == [len(values["values"])], name
        assert coverage["parameters"][name]["unit"]["symbol"]["value"]


def test_only_the_parameters_asked_for_come(service):
    _, coverage = position(service, **{"parameter-name": "ghi,wind"})
    assert set(coverage["ranges"]) == {"ghi", "wind"}


def test_a_leap_year_and_a_half_hour_zone(service):
    _, coverage = position(service, datetime="2027-12-31T18:30Z/2028-12-31T17:30Z")
    assert len(coverage["domain"]["axes"]["t"]["values"]) == 8784


@pytest.mark.parametrize(
    ("query", "said"),
    [
        ({"coords": "POINT(11.31)"}, "coords must be a point"),
        ({"coords": "POINT(11 95)"}, "coords must be within"),
        ({"coords": "LINESTRING(0 0, 1 1)"}, "coords must be a point"),
        ({"z": "high"}, "z must be a number"),
        ({"coords": "POINT(1.2.3 4)"}, "coords must be a point"),
        ({"seed": "-1"}, "seed must be between"),
        ({"z": "nan"}, "z must be between"),
        ({"parameter-name": "ghi,snow"}, "there is no snow"),
        ({"datetime": "2026"}, "datetime must be an interval"),
        ({"datetime": "2026-05-01T00:00Z/2026-06-01T00:00Z"}, "datetime must"),
        ({"datetime": "2026-01-01T00:00Z/2026-06-01T00:00Z"}, "whole year"),
    ],
)
def test_what_it_cannot_answer_it_says(service, query, said):
    status, body = position(service, **query)
    assert status == 400
    assert said in body["description"]


def test_there_is_nothing_elsewhere(service):
    assert get(f"{service}/collections/rain")[0] == 404


def test_the_height_of_a_point_comes_by_the_same_protocol(service):
    status, coverage = get(f"{service}/collections/elevation/position?coords=POINT(8%2046.5)")
    assert status == 200
    assert coverage["domain"]["domainType"] == "Point"
    assert coverage["ranges"]["elevation"]["values"][0] > 1500
    status, sea = get(f"{service}/collections/elevation/position?coords=POINT(-30%200)")
    assert sea["ranges"]["elevation"]["values"] == [0]


YEAR = "2018-01-01T00:00Z/2018-12-31T23:00Z"


def stations(service: str, path: str = "", **query: str) -> tuple[int, dict]:
    return get(f"{service}/collections/{STATIONS}/{path}?{urllib.parse.urlencode(query)}")


def test_stations_are_listed_by_box_and_each_gives_its_years(service):
    status, answer = stations(service, "locations", bbox="9,42,13,45")
    assert (status, answer["type"]) == (200, "FeatureCollection")
    assert len(answer["features"]) > 5
    for feature in answer["features"]:
        x, y, _ = feature["geometry"]["coordinates"]
        assert 9 <= x <= 13 and 42 <= y <= 45
    one = answer["features"][0]
    assert stations(service, "locations", bbox="9,42,13,45")[1] == answer
    status, series = stations(service, f"locations/{one['id']}", datetime=YEAR)
    assert status == 200
    assert series["domain"]["axes"]["x"]["values"] == [one["geometry"]["coordinates"][0]]
    assert set(series["ranges"]) == set(one["properties"]["parameter-name"])
    other = stations(service, f"locations/{one['id']}", datetime=YEAR.replace("2018", "2019"))[1]
    assert other["ranges"]["ghi"]["values"] != series["ranges"]["ghi"]["values"]


def test_an_area_is_a_collection_of_its_stations(service):
    status, answer = stations(service, "area", coords="POLYGON((10 43,12 43,12 44.5,10 44.5,10 43))", datetime=YEAR)
    assert (status, answer["type"]) == (200, "CoverageCollection")
    assert 1 < len(answer["coverages"]) <= 8


@pytest.mark.parametrize(
    ("path", "query", "said"),
    [
        ("locations", {}, "bbox must be four numbers"),
        ("locations", {"bbox": "0,0,90,90"}, "at most 100 square degrees"),
        ("locations/9999-9999", {"datetime": YEAR}, "no location"),
        ("locations/no", {"datetime": YEAR}, "no location"),
        ("area", {"coords": "POINT(1 2)", "datetime": YEAR}, "must be a polygon"),
    ],
)
def test_what_stations_cannot_answer_they_say(service, path, query, said):
    status, answer = stations(service, path, **query)
    assert status == 400
    assert said in answer["description"]
