"""Sources near a site: the stand-in by its protocol, and servers that answer in other shapes or not at all."""

import contextlib
import json
import threading
import time
from dataclasses import replace
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import numpy as np
import pytest

from noontide.core.weather import as_text
from noontide.core.weather.coverage_json import write_coverage
from noontide.server.weather_library import edr, sources
from noontide.server.weather_library.edr import ServiceFailed
from noontide.server.weather_library.requesting import source_year
from noontide.server.weather_library.sources import SourceRequest, fetch_source, sources_near, year_of_answer
from noontide.server.weather_library.storing import store

AT = {"latitude": 43.62, "longitude": 11.31, "elevation": 412}


def request(line, **more):
    return SourceRequest(
        service=line["service"], collection=line["collection"], location=line["location"], title=line["title"], parameters=line["parameters"], **AT, **more
    )  # fmt: skip


def test_sources_come_nearest_first_and_a_station_gives_a_year(api, db):
    answer = api.get("/api/weather/sources?latitude=43.62&longitude=11.31&elevation=412").json()
    lines = answer["sources"]
    assert answer["problems"] == []
    assert [line["distance"] for line in lines] == sorted(line["distance"] for line in lines)
    assert {line["kind"] for line in lines} == {"grid", "station"}
    station = next(line for line in lines if line["kind"] == "station")
    assert station["height_difference"] == pytest.approx(station["elevation"] - 412)
    row = source_year(request(station, year=station["last_year"]), 1.0)
    assert (row.year, row.latitude, row.utc_offset) == (station["last_year"], station["latitude"], 1)
    assert not row.is_typical
    with pytest.raises(ServiceFailed, match="no such year"):
        fetch_source(request(station, year=1990), 1.0)
    grid = next(line for line in lines if line["kind"] == "grid")
    assert source_year(request(grid), 1.0).summary["annual_ghi"] == pytest.approx(1462, rel=0.01)


@pytest.mark.django_db(transaction=True)  # the work is done in a thread, which must be over before another test begins
def test_a_source_is_asked_for_as_a_job(api):
    lines = api.get("/api/weather/sources?latitude=43.62&longitude=11.31&elevation=412").json()["sources"]
    grid = next(line for line in lines if line["kind"] == "grid")
    job = api.send("post", "/api/weather/sources", request(grid).model_dump()).json()
    assert job["kind"] == "source"
    end = time.monotonic() + 60
    while (now := api.get(f"/api/jobs/{job['id']}").json())["state"] in ("waiting", "running") and time.monotonic() < end:
        time.sleep(0.1)
    assert now["state"] == "done", now["message"]


def test_only_services_of_the_settings_are_asked():
    with pytest.raises(ServiceFailed, match="none of the services"):
        fetch_source(SourceRequest(service="http://elsewhere.example", collection="x", **AT), 1.0)


def answers(monkeypatch, found: dict):
    """A server that answers by the end of the address."""

    def ask(address: str, seconds: float = 60.0) -> bytes:
        path = address.split("?")[0]
        for ending, answer in found.items():
            if path.endswith(ending):
                if isinstance(answer, Exception):
                    raise answer
                return answer if isinstance(answer, bytes) else json.dumps(answer).encode()
        raise ServiceFailed("It answered 404: nothing")

    monkeypatch.setattr(edr, "ask_address", ask)
    monkeypatch.setattr(sources, "ask_address", ask)


@pytest.fixture
def other_server(settings):
    settings.WEATHER_EDR = "http://one.example/edr, http://two.example"


def test_another_server_with_its_own_names_is_understood_and_what_fails_is_told_beside(other_server, monkeypatch):
    collection = {
        "id": "era",
        "title": "Reanalysis",
        "extent": {"temporal": {"interval": [["1979-01-01T00:00Z", "2024-06-30T00:00Z"]]}},
        "parameter_names": {
            "ssrd": {"observedProperty": {"label": "Surface short-wave downwelling radiation"}},
            "t2m": {"observedProperty": {"label": {"en": "2 m temperature"}}},
            "tcc": {"observedProperty": {"label": "Total cloud cover"}},
        },
        "data_queries": {"position": {}, "cube": {}},
    }
    clouds = {"id": "clouds", "parameter_names": {"tcc": {}}, "data_queries": {"position": {}}}
    broken = collection | {"id": "b", "title": "Broken", "data_queries": {"locations": {}}}
    answers(
        monkeypatch,
        {"edr/collections": {"collections": [collection, clouds, broken, "nonsense"]}, "b/locations": {"features": [{"geometry": None, "id": 1}]}, "two.example/collections": b"<html>"},
    )  # fmt: skip
    found = sources_near(**AT)
    assert [(s.title, s.kind, s.first_year, s.last_year, s.quantities, s.parameters) for s in found.sources] == [
        ("Reanalysis", "grid", 1979, 2023, ["ghi", "temperature"], ["ssrd", "t2m"])
    ]
    assert len(found.problems) == 2
    assert found.problems[0].startswith("Broken: ")
    assert "no JSON" in found.problems[1]


def shaped(weather, shape: str) -> dict:
    """A year in the shape of another server."""
    data = json.loads(write_coverage(weather))
    del data["noontide:year"]
    data["ranges"] = {name: data["ranges"][name] for name in ("ghi", "temperature")}
    if shape == "kelvin":
        data["parameters"] = {
            "ssrd": data["parameters"]["ghi"],
            "t2m": {"observedProperty": {"label": {"en": "Air temperature"}}, "unit": {"symbol": "K"}},
        }
        kelvin = (weather.temperature + 273.15).tolist()
        data["ranges"] = {"ssrd": data["ranges"]["ghi"], "t2m": data["ranges"]["temperature"] | {"values": kelvin}}
    elif shape == "grid":
        data["domain"]["axes"]["x"] = {"start": 10.31, "stop": 12.31, "num": 3}
        data["domain"]["axes"]["y"] = {"values": [43.62]}
        for kept in data["ranges"].values():
            cube = np.stack([np.array(kept["values"]) * k for k in (0.5, 1.0, 0.7)], axis=1)
            kept |= {"axisNames": ["t", "y", "x"], "shape": [8760, 1, 3], "values": cube.ravel().tolist()}
    elif shape == "collection":
        return {
            "type": "CoverageCollection",
            "coverages": [{**data, "ranges": {name: kept}} for name, kept in data["ranges"].items()],
        }
    elif shape == "reference":
        data["ranges"] = {name: f"ranges/{name}" for name in data["ranges"]}
    elif shape == "gaps":
        for at in (10, 4000, 4001):
            data["ranges"]["ghi"]["values"][at] = None
    return data


@pytest.mark.parametrize("shape", ["kelvin", "grid", "collection", "reference", "gaps"])
def test_a_year_is_read_from_every_shape_of_answer(hill_weather, monkeypatch, other_server, shape):
    full = json.loads(write_coverage(hill_weather))["ranges"]
    answers(monkeypatch, {f"ranges/{name}": kept for name, kept in full.items()})
    asked = SourceRequest(service="http://two.example", collection="c", title="Tower", year=2026, **AT)
    weather = year_of_answer(json.dumps(shaped(hill_weather, shape)).encode(), asked, 1.0)
    assert weather.calendar.utc_offset == 1
    assert weather.ghi.sum() == pytest.approx(hill_weather.ghi.sum(), rel=2e-3)
    assert weather.temperature.mean() == pytest.approx(hill_weather.temperature.mean(), abs=0.05)
    assert np.corrcoef(weather.ghi, hill_weather.ghi)[0, 1] > 0.999


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"<html>", "no JSON"),
        (b"[]", "no JSON object"),
        (b"{}", "no CoverageJSON"),
        (b'{"type": "Coverage"}', "makes no year"),
        (json.dumps({"type": "Coverage", "domain": {"axes": {"t": {"values": ["2026-01-01T00:00Z"]}}}, "ranges": {"ghi": {"values": [1]}}}).encode(), "makes no year"),
    ],
)  # fmt: skip
def test_an_answer_that_makes_no_year_is_told(content, said):
    asked = SourceRequest(service="http://two.example", collection="c", **AT)
    with pytest.raises(ServiceFailed, match=said):
        year_of_answer(content, asked, 1.0)


def test_a_range_on_another_server_is_not_followed(hill_weather, other_server):
    data = shaped(hill_weather, "reference")
    data["ranges"]["ghi"] = "http://evil.example/secret"
    asked = SourceRequest(service="http://two.example", collection="c", **AT)
    with pytest.raises(ServiceFailed, match="another server"):
        year_of_answer(json.dumps(data).encode(), asked, 1.0)


@pytest.mark.parametrize("kind", ["covjson", "parquet"])
def test_a_year_goes_out_and_comes_in_again_as_the_same_year(api, scheme, kind):
    digest = api.get(f"/api/schemes/{scheme.pk}").json()["document"]["weather"]["digest"]
    content = api.get(f"/api/weather/{digest}/file?kind={kind}").content
    from django.core.files.uploadedfile import SimpleUploadedFile

    again = api.post("/api/weather", {"file": SimpleUploadedFile(f"again.{kind}", content)})
    assert again.json()["digest"] == digest


def test_years_are_compared_by_hour_duration_day_and_this_schemes_yield(api, scheme, hill_weather):
    own = api.get(f"/api/schemes/{scheme.pk}").json()
    digest = own["document"]["weather"]["digest"]
    darker = store(
        as_text(
            replace(hill_weather, ghi=hill_weather.ghi * 0.8, dni=hill_weather.dni * 0.8, dhi=hill_weather.dhi * 0.8), "csv"
        ).encode(),
        "d.csv",
    )
    found = api.get(f"/api/schemes/{scheme.pk}/compare-weather?digests={digest},{darker.digest}").json()["years"]
    assert [year["digest"] for year in found] == [digest, darker.digest]
    assert found[0]["energy"] == own["evaluation"]["headline"]["energy"] > found[1]["energy"]
    for year in found:
        assert sum(year["daily"]) == pytest.approx(sum(year["hour_of_day"]) * 365 / 1000, rel=1e-3)
        assert year["duration"] == sorted(year["duration"], reverse=True)
    assert np.array(found[1]["daily"]) == pytest.approx(np.array(found[0]["daily"]) * 0.8, abs=2e-3)
    assert api.get(f"/api/schemes/{scheme.pk}/compare-weather?digests=0123456789").status_code == 404
    assert api.get(f"/api/schemes/{scheme.pk}/compare-weather?digests=").status_code == 422


class Unkind(BaseHTTPRequestHandler):
    """A service that drips, sends elsewhere, or says what it should not."""

    def do_GET(self):
        kind = self.path.split("/")[1]
        if kind == "body":
            self.send_response(200)
            self.end_headers()
        if kind in ("body", "headers"):
            with contextlib.suppress(OSError):
                for letter in b"HTTP/1.1 200 OK " + b"x" * 600:
                    self.wfile.write(bytes([letter]))
                    time.sleep(0.2)
        elif kind == "away":
            self.send_response(302)
            self.send_header("Location", f"http://127.0.0.1:{self.server.server_port}1/inside")
            self.end_headers()
        elif kind == "here":
            self.send_response(302)
            self.send_header("Location", "/plain")
            self.end_headers()
        elif kind == "plain":
            self.send_response(200)
            self.end_headers()
            self.wfile.write(b'{"a": 1}')
        else:
            self.send_response(500)
            self.end_headers()
            self.wfile.write(b"secret of the inside")

    def log_message(self, *_):
        pass


@pytest.fixture
def unkind():
    server = ThreadingHTTPServer(("127.0.0.1", 0), Unkind)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()


@pytest.mark.parametrize("kind", ["body", "headers"])
def test_a_service_that_drips_is_left_when_its_time_is_over(unkind, kind):
    begun = time.monotonic()
    with pytest.raises(ServiceFailed, match="longer than 2 s"):
        edr.ask(unkind, kind, seconds=2)
    assert time.monotonic() - begun < 3


def test_redirections_are_followed_on_one_host_only(unkind):
    assert edr.ask(unkind, "here") == b'{"a": 1}'
    with pytest.raises(ServiceFailed, match="refers to another server"):
        edr.ask(unkind, "away")


def test_what_a_service_says_in_an_error_stays_there(unkind):
    with pytest.raises(ServiceFailed) as raised:
        edr.ask(unkind, "wrong")
    assert "500" in str(raised.value) and "secret" not in str(raised.value)


def test_forty_slow_collections_are_asked_side_by_side_and_the_late_ones_named(settings, monkeypatch):
    settings.WEATHER_EDR = "http://slow.example"
    monkeypatch.setattr(sources, "IN_ALL", 2.0)
    one = {"parameter_names": {"ghi": {}}, "data_queries": {"locations": {}}}

    def ask(address: str, seconds: float = 60.0) -> bytes:
        if "/locations" in address:
            time.sleep(min(1.5, seconds))
            return b'{"features": []}'
        return json.dumps({"collections": [one | {"id": f"c{k}", "title": f"C {k}"} for k in range(40)]}).encode()

    monkeypatch.setattr(edr, "ask_address", ask)
    begun = time.monotonic()
    found = sources_near(**AT)
    assert time.monotonic() - begun < 3
    assert len(found.problems) > 20 and all("no answer within 2 s" in words for words in found.problems)
