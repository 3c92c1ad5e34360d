from collections import Counter

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.server.places.coordinates import parse_coordinates
from noontide.server.places.finding import at, find, search, time_zone_at, within
from noontide.server.places.gazetteer import towns


@pytest.mark.parametrize(
    "text",
    [
        "43.62, 11.31", "43.62 11.31", "43.62,11.31", "43,62; 11,31", "43,62 11,31", "43,62, 11,31", "43.62°N, 11.31°E", "N 43.62 E 11.31", "11.31E 43.62N",
        "43°37'12\"N 11°18'36\"E", "43° 37′ 12″ N, 11° 18′ 36″ E", "43°37.2'N 11°18.6'E", "43.62/11.31", "43.62\t11.31", "+43.62 +11.31", "43.62 O 11.31".replace(" O", ","),
    ],
)  # fmt: skip
def test_coordinates_in_any_usual_notation(text):
    assert parse_coordinates(text) == pytest.approx((43.62, 11.31), abs=1e-5)


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("43.18°S 170.46°E", (-43.18, 170.46)),
        ("-43.18, 170.46", (-43.18, 170.46)),
        ("−43.18 −70.5", (-43.18, -70.5)),
        ("51°18'36\"N 2°21'36\"W", (51.31, -2.36)),
    ],
)
def test_south_and_west_are_negative(text, place):
    assert parse_coordinates(text) == pytest.approx(place, abs=1e-5)


@pytest.mark.parametrize(
    "text", ["", "Firenze", "95, 11", "43.62", "43.62 N", "1 2 3", "43°99'N 11°E", "N N 43 11", "43.62 N 11.31 N"]
)
def test_other_texts_are_no_coordinates(text):
    assert parse_coordinates(text) is None


@pytest.mark.parametrize(
    ("query", "name", "country"),
    [
        ("Zürich", "Zürich", "Switzerland"), ("zurich", "Zürich", "Switzerland"), ("san jose, costa", "San José", "Costa Rica"),
        ("san jose, united", "San Jose", "California, United States"), ("firenze", "Florence", "Italy"), ("roma", "Rome", "Italy"), ("Zaragoza", "Zaragoza", "Spain"), ("porto", "Porto", "Portugal"), ("Cádiz", "Cadiz", "Spain"),
        ("Toledo Spain", "Toledo", "Spain"), ("Springfield, Illinois", "Springfield", "Illinois, United States"), ("León, Mexico", "León de los Aldama", "Mexico"), ("springfield missouri", "Springfield", "Missouri, United States"), ("Łódź", "Łódź", "Poland"), ("lodz", "Łódź", "Poland"),
    ],
)  # fmt: skip
def test_towns_are_found_without_accents_and_told_apart_by_country(query, name, country):
    found = find(query)[0]
    assert found.name == name
    assert found.country.endswith(country)


def test_five_hundred_towns_find_themselves_by_name_and_land():
    """The first where no other is called so in its land, else among those offered; by name alone the largest namesake is never far behind."""
    drawn = np.random.default_rng(7).choice(len(towns()), 500, replace=False)
    called = Counter((town.plain, town.country) for town in towns())
    largest = {town.plain: town for town in reversed(towns())}  # the largest come first
    for k, town in enumerate(towns()[n] for n in drawn):
        found = find(f"{town.name}, {town.country.split(',')[0]}")
        assert town in (found if called[town.plain, town.country] > 1 else found[:1]), town
        if k % 5 == 0:
            first = find(town.name)[0]
            assert first.plain == town.plain or first.population >= largest[town.plain].population, town


@pytest.mark.parametrize(
    ("query", "name", "land", "unread"),
    [
        ("12 Mill Lane, Graz", "Graz", "Styria, Austria", "12 Mill Lane"),
        ("8010 Graz", "Graz", "Styria, Austria", "8010"),
        ("Hauptplatz 1, 8010 Graz, Austria", "Graz", "Styria, Austria", "Hauptplatz 1"),
    ],
)
def test_of_an_address_the_town_is_found_and_the_rest_is_given_back(query, name, land, unread):
    found = search(query)
    assert (found.towns[0].name, found.towns[0].country, found.unread, found.is_sure) == (name, land, unread, False)


@pytest.mark.parametrize(
    ("query", "is_sure"),
    [("Springfield", False), ("Springfield, IL", True), ("Victoria", False), ("Victoria, BC", True), ("Newcastle, NSW", True), ("Zaragoza", True), ("8010", False), ("Zarag", False)],
)  # fmt: skip
def test_what_may_mean_several_places_is_not_taken_for_one(query, is_sure):
    assert search(query).is_sure == is_sure


def test_the_api_says_what_it_did_not_read(api):
    assert "No place '8010' is known" in api.get("/api/places?q=8010").json()["remark"]
    assert "'12 Mill Lane' is not known here" in api.get("/api/places?q=12 Mill Lane, Graz").json()["remark"]
    assert api.get("/api/places?q=Springfield").json()["remark"] == "Several places may be meant"


def test_a_point_is_named_by_the_nearest_town_or_by_itself():
    assert at(43.77, 11.25).name in ("Florence", "near Florence")
    assert at(-43.0, -120.0).name == "-43.00, -120.00"


@pytest.mark.parametrize(
    ("latitude", "longitude", "offset"),
    [
        (51.31, -2.36, 0),
        (43.62, 11.31, 1),
        (-43.18, 170.46, 12),
        (40, -105, -7),
        (28.6, 77.2, 5.5),
        (-34, 151, 10),
        (53.3, -6.3, 0),
        (0, -179.9, -12),
    ],
)
def test_time_zones_are_told_without_daylight_saving(latitude, longitude, offset):
    assert time_zone_at(latitude, longitude)[1] == offset


def test_the_api_finds_places(api):
    answer = api.get("/api/places?q=Firenze").json()
    assert (answer["places"][0]["utc_offset"], answer["is_sure"], answer["remark"]) == (1, True, "")
    assert api.get("/api/places/at?latitude=91&longitude=0").status_code == 422
    assert api.get("/api/places/at").status_code == 422


def test_the_largest_towns_of_a_part_of_the_map_come_first():
    found = within(42, 10, 45, 13)
    assert len(found) == 30
    assert all(42 <= town.latitude <= 45 and 10 <= town.longitude <= 13 for town in found)
    populations = [town.population for town in found]
    assert populations == sorted(populations, reverse=True)


def test_a_map_over_the_date_line_has_towns_of_both_sides():
    longitudes = [town.longitude for town in within(-30, 176, -10, -170)]
    assert any(x > 176 for x in longitudes)
    assert any(x < -170 for x in longitudes)
    assert all(x > 176 or x < -170 for x in longitudes)


def test_the_open_sea_has_no_town(client):
    assert client.get("/api/places/within?bbox=-140,-45,-130,-40").json() == []


@pytest.mark.parametrize(
    "bbox", ["", "?bbox=", "?bbox=1,2,3", "?bbox=a,b,c,d", "?bbox=0,50,10,40", "?bbox=0,0,400,10", "?bbox=nan,0,1,1"]
)
def test_a_map_that_cannot_be_is_refused_in_words(client, bbox):
    answer = client.get(f"/api/places/within{bbox}")
    assert answer.status_code == 422
    assert "bbox" in answer.json()["title"] + answer.json().get("detail", "")


def grid_file(heights: str, cell: float = 0.01) -> SimpleUploadedFile:
    text = f"ncols 60\nnrows 60\nxllcorner 11.0\nyllcorner 43.3\ncellsize {cell}\nNODATA_value -9999\n{heights}"
    return SimpleUploadedFile("hills.asc", text.encode())


def test_a_height_grid_gives_the_horizon_of_a_place(api):
    row = " ".join(["900" if x > 40 else "300" for x in range(60)])
    at = {"latitude": 43.6, "longitude": 11.31}
    line = api.post("/api/places/horizon", {"file": grid_file("\n".join([row] * 60)), **at}).json()
    highest = max(zip(line["elevations"], line["azimuths"], strict=True))
    assert 3 < highest[0] < 6
    assert 60 < highest[1] < 120
    for file, said in (
        (grid_file("1 2 3"), "3,600 heights were expected"),
        (grid_file("\n".join([row] * 60), cell=50), "in metres and does not say of which projection"),
        (SimpleUploadedFile("x.tif", b"II*\0junk"), "cannot be opened as GeoTIFF"),
    ):
        answer = api.post("/api/places/horizon", {"file": file, **at})
        assert answer.status_code == 422
        assert said in answer.json()["detail"]
    assert api.post("/api/places/horizon", at).status_code == 422


def test_codes_of_the_users_own_stand_for_places(api, db):
    assert api.get("/api/places/codes").json() == {"codes": []}
    lines = [
        {"code": "MAST7", "latitude": 43.62, "longitude": 11.31, "elevation": 412, "name": "Harbour mast"},
        {"code": "MAST", "latitude": -43.18, "longitude": 170.46},
    ]
    assert api.send("put", "/api/places/codes", {"codes": lines}).status_code == 200
    found = api.get("/api/places?q=mast").json()["places"]
    assert [(place["name"], place["latitude"]) for place in found[:2]] == [("MAST", -43.18), ("MAST7 Harbour mast", 43.62)]
    assert found[1]["time_zone"] == "Europe/Rome"
    for wrong, said in (
        ([*lines, {"code": "mast", "latitude": 1, "longitude": 1}], "there already"),
        ([{"code": "X", "latitude": 100, "longitude": 1}], "90 or less"),
        ([{"code": "", "latitude": 1, "longitude": 1}], "at least 1"),
    ):
        answer = api.send("put", "/api/places/codes", {"codes": wrong})
        assert answer.status_code == 422
        assert said in str(answer.json())
    assert len(api.get("/api/places/codes").json()["codes"]) == 2
    api.send("put", "/api/places/codes", {"codes": []})
    assert api.get("/api/places?q=mast7").json()["places"] == []


def test_a_height_grid_gives_the_height_of_a_place(api):
    at = {"latitude": 43.6, "longitude": 11.3}
    # Heights rise by 10 m a cell to the east.
    row = " ".join(str(10 * column) for column in range(60))
    assert api.post("/api/places/height", {"file": grid_file("\n".join([row] * 60)), **at}).json()["elevation"] == 295
    outside = api.post("/api/places/height", {"file": grid_file("\n".join([row] * 60)), "latitude": 60, "longitude": 11.3})
    assert outside.status_code == 422
    assert "no height at 60°" in outside.json()["detail"]
    assert api.post("/api/places/height", {"file": grid_file("\n".join([row] * 60)), "latitude": 95, "longitude": 0}).json()[
        "errors"
    ]


def test_towns_find_themselves_by_their_own_names():
    """Every hundredth of the larger towns: itself, or a larger one of the very same name."""
    for town in towns()[:30_000:300]:
        if len(town.plain) < 2 or parse_coordinates(town.name):
            continue
        found = find(f"{town.name}, {town.country.split(',')[0]}")
        assert found[0].plain == town.plain and found[0].country.split(",")[0] == town.country.split(",")[0], town
        assert found[0].population >= town.population
