"""What nobody uses can be deleted, with what it frees; what any revision needs stays."""

import hashlib

from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.core.weather.epw import write_epw
from noontide.server.places.pictures import path_of
from noontide.server.projects.revising import begin_project
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load, store
from tests.conftest import simulated_weather

PNG = b"\x89PNG\r\n\x1a\n" + b"\0" * 60


def kept_year(latitude):
    return store(write_epw(simulated_weather(latitude, 11.0)).encode(), f"year-{latitude}.epw")


def test_a_year_that_no_design_uses_is_deleted_with_its_file(api, roof_document, db):
    used, unused = kept_year(44), kept_year(52)
    scheme = begin_project("Roof", roof_document | {"weather": {"digest": used.digest, "title": used.title}}).pinned
    found = api.get("/api/unused").json()
    assert [item["digest"] for item in found["weather"]] == [unused.digest]
    assert found["bytes"] == found["weather"][0]["bytes"] > 100_000
    assert api.delete(f"/api/unused/weather/{unused.digest}").json()["bytes"] == found["bytes"]
    assert api.get("/api/unused").json()["weather"] == []
    assert api.delete(f"/api/unused/weather/{unused.digest}").status_code == 404
    refused = api.delete(f"/api/unused/weather/{used.digest}")
    assert refused.status_code == 409 and "scheme A of Roof" in refused.json()["detail"]
    assert load(used.digest).ghi.size == 8760
    # Another year takes its place: an undo must still find the one before.
    other = kept_year(60)
    patch = {"weather": {"digest": other.digest, "title": other.title}}
    assert api.send("patch", f"/api/schemes/{scheme.pk}", patch, revision=1).status_code == 200
    for k in range(3):
        assert api.send("patch", f"/api/schemes/{scheme.pk}", {"name": f"n{k}"}, revision=2 + k).status_code == 200
    assert api.delete(f"/api/unused/weather/{used.digest}").status_code == 409
    assert set(WeatherYear.objects.values_list("digest", flat=True)) == {used.digest, other.digest}


def test_a_file_that_two_years_were_read_from_stays_with_the_other(api, db):
    one = kept_year(48)
    twin = WeatherYear.objects.get(pk=one.pk)
    twin.pk = "f" * 64
    twin.save(force_insert=True)
    before = {item["digest"]: item["bytes"] for item in api.get("/api/unused").json()["weather"]}
    assert before[twin.pk] == 0 < before[one.digest]
    api.delete(f"/api/unused/weather/{twin.pk}")
    assert load(one.digest).ghi.size == 8760


def test_a_picture_that_no_design_uses_is_deleted(api, roof_document, db):
    digest = api.post("/api/pictures", {"file": SimpleUploadedFile("plan.png", PNG)}).json()["digest"]
    assert digest == hashlib.sha256(PNG).hexdigest()
    assert [item["digest"] for item in api.get("/api/unused").json()["pictures"]] == [digest]
    plan = {
        "digest": digest, "width_to_height": 1.5, "first_x": 0.1, "first_y": 0.1, "second_x": 0.9, "second_y": 0.1, "latitude": 43.62, "longitude": 11.31,
        "distance": 50, "azimuth": 90,
    }  # fmt: skip
    begin_project("Plan", roof_document | {"site": roof_document["site"] | {"map_picture": plan}})
    assert api.get("/api/unused").json()["pictures"] == []
    assert api.delete(f"/api/unused/pictures/{digest}").status_code == 409 and path_of(digest).is_file()
    assert api.delete(f"/api/unused/pictures/{'0' * 64}").status_code == 404
