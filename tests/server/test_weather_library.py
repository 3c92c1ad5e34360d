import time
from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.core.weather import as_text
from noontide.server.accounts.models import local_user
from noontide.server.jobs.kinds import job_kind
from noontide.server.jobs.models import Job
from noontide.server.jobs.running import cancel, mark_interrupted, run_stored, start
from noontide.server.projects.revising import begin_project
from noontide.server.weather_library import edr
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.requesting import year_for
from noontide.server.weather_library.storing import store
from tests.conftest import simulated_weather
from tests.server.conftest import found_by_job, record_of


def upload(api, content: bytes, name: str):
    return api.post("/api/weather", {"file": SimpleUploadedFile(name, content)})


@pytest.mark.parametrize("kind", ["epw", "csv"])
def test_a_file_is_stored_read_and_given_back(api, hill_weather, kind):
    answer = upload(api, as_text(hill_weather, kind).encode(), f"hill.{kind}")
    assert answer.status_code == 201
    body = answer.json()
    assert body["summary"]["annual_ghi"] == pytest.approx(hill_weather.ghi.sum() / 1000, rel=1e-4)
    again = api.get(f"/api/weather/{body['digest']}/file?kind=csv").content
    assert upload(api, again, "again.csv").json()["digest"] == body["digest"]
    assert WeatherYear.objects.count() == 1


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "empty"),
        (b"\x89PNG\r\n\x1a\n\0\0", "not a text file"),
        (b"LOCATION,short\n", "header"),
        (b"a,b\n1,2\n", "no table was found"),
    ],
)
def test_a_wrong_file_is_refused_in_words_and_nothing_is_kept(api, content, said, tmp_path):
    answer = upload(api, content, "../../wrong.epw")
    assert answer.status_code == 422
    assert said in answer.json()["detail"]
    assert WeatherYear.objects.count() == 0
    assert not list(tmp_path.rglob("*"))


def test_a_fault_in_a_row_is_told_with_its_line(api, hill_weather):
    lines = as_text(hill_weather, "epw").splitlines()
    fields = lines[99].split(",")
    fields[6] = "warm"
    lines[99] = ",".join(fields)
    body = upload(api, "\n".join(lines).encode(), "hill.epw").json()
    assert (body["row"], body["column"], body["value"]) == (100, "temperature", "warm")


def test_a_file_over_the_limit_is_refused(api, settings):
    settings.UPLOAD_LIMIT = 10
    assert upload(api, b"x" * 11, "big.epw").status_code == 413


def test_no_file_at_all_is_told(api):
    assert api.post("/api/weather", {}).status_code == 422


def test_a_year_comes_from_the_service_by_its_protocol_and_is_labelled(db):
    year = year_for(-43.18, 170.46, 6, 12, "Saltwick")
    assert year.source == "simulated from long-term maps, not measured"
    assert (year.utc_offset, year.step) == (12, 60)
    assert year_for(-43.18, 170.46, 6, 12, "Saltwick").pk == year.pk
    assert WeatherYear.objects.count() == 1


@pytest.mark.django_db(transaction=True)
def test_a_request_for_weather_is_a_job_with_a_result(api):
    job = api.send("post", "/api/weather/request", {"latitude": 51.31, "longitude": -2.36, "name": "Weir"}).json()
    for _ in range(100):
        job = api.get(f"/api/jobs/{job['id']}").json()
        if job["state"] not in ("waiting", "running"):
            break
        time.sleep(0.05)
    assert job["state"] == "done", job
    assert WeatherYear.objects.get(pk=job["result"]["digest"]).latitude == 51.31


@pytest.mark.django_db(transaction=True)
def test_a_year_runs_in_the_time_zone_that_was_asked_for(api):
    """A year may run in another standard time than that of its point."""
    asked = {"latitude": 39.47, "longitude": -0.38, "time_zone": "Etc/GMT"}
    job = api.send("post", "/api/weather/request", asked).json()
    for _ in range(100):
        job = api.get(f"/api/jobs/{job['id']}").json()
        if job["state"] not in ("waiting", "running"):
            break
        time.sleep(0.05)
    assert WeatherYear.objects.get(pk=job["result"]["digest"]).utc_offset == 0


def test_a_service_that_is_away_is_told(settings, monkeypatch):
    monkeypatch.setattr(edr, "service_address", lambda: "http://127.0.0.1:9")
    with pytest.raises(edr.ServiceFailed, match="could not be reached"):
        edr.fetch_year(0, 0, 0, 0)


def test_what_the_service_refuses_is_passed_on(settings, monkeypatch):
    settings.WEATHER_COLLECTION = "no-such-collection"
    with pytest.raises(edr.ServiceFailed, match="404"):
        edr.fetch_year(0, 0, 0, 0)


@job_kind("slow steps")
def slow_steps(parameters: dict, report) -> dict:
    """A job for this test alone: many short steps."""
    for step in range(parameters["steps"]):
        report(step / parameters["steps"], "working")
        time.sleep(0.01)
    return {"steps": parameters["steps"]}


@pytest.mark.django_db(transaction=True)
def test_a_job_is_cancelled_between_its_steps():
    job = start("slow steps", {"steps": 500}, local_user())
    for _ in range(100):
        job.refresh_from_db()
        if job.progress > 0:
            break
        time.sleep(0.02)
    assert 0 < job.progress < 1
    assert cancel(job).state == Job.State.CANCELLED
    time.sleep(0.2)
    progress = Job.objects.get(pk=job.pk).progress
    time.sleep(0.2)
    job.refresh_from_db()
    assert (job.state, job.result, job.progress) == (Job.State.CANCELLED, None, progress)


@pytest.mark.django_db(transaction=True)
def test_a_job_that_is_not_cancelled_ends_with_its_result():
    job = start("slow steps", {"steps": 3}, local_user())
    for _ in range(100):
        job.refresh_from_db()
        if job.state == Job.State.DONE:
            break
        time.sleep(0.02)
    assert (job.state, job.result) == (Job.State.DONE, {"steps": 3})


@pytest.mark.django_db(transaction=True)
def test_a_stored_job_is_its_kind_and_parameters_alone():
    """Nothing else is handed over, so that another process can run it."""
    job = Job.objects.create(kind="slow steps", parameters={"steps": 2}, owner=local_user())
    run_stored(str(job.pk))
    job.refresh_from_db()
    assert job.result == {"steps": 2}


def test_jobs_of_a_stopped_server_are_told_as_interrupted():
    job = Job.objects.create(kind="weather", state=Job.State.RUNNING)
    assert mark_interrupted() == 1
    job.refresh_from_db()
    assert job.state == Job.State.INTERRUPTED


def test_the_doubts_of_a_year_come_with_their_places(api, hill_weather):
    ghi = hill_weather.ghi.copy()
    ghi[[12, 13, 4000]] = 1700
    digest = upload(api, as_text(replace(hill_weather, ghi=ghi), "csv").encode(), "bright.csv").json()["digest"]
    doubts = {doubt["rule"]: doubt for doubt in api.get(f"/api/weather/{digest}/quality").json()}
    assert doubts["physically-possible"]["runs"][0] == [12, 2]
    assert api.get("/api/weather/0123456789abcdef/quality").status_code == 404


def test_adjustments_are_steps_of_the_scheme_that_can_be_switched_off(api, scheme):
    def energy():
        return api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"]

    before = energy()
    path = f"/api/schemes/{scheme.pk}"
    api.send("patch", path, {"weather": {"monthly_factors": {"irradiance": [0.8] * 12}}}, revision=1)
    darker = energy()
    assert darker < 0.85 * before
    brief = api.get(path).json()["evaluation"]["brief"]
    assert any("adjusted: irradiance scaled by month" in run["text"] for paragraph in brief for run in paragraph["runs"])
    api.send("patch", path, {"weather": {"monthly_factors": {"is_on": False}}}, revision=2)
    assert energy() == before
    api.send("patch", path, {"weather": {"monthly_factors": {"is_on": None}}}, revision=3)
    assert energy() == darker
    wrong = api.send("patch", path, {"weather": {"monthly_factors": {"irradiance": [1] * 11}}}, revision=4)
    assert wrong.status_code == 422


def test_a_calibration_that_cannot_be_is_said_and_the_document_stays(api, roof_document):
    weather = simulated_weather(78, 15, 10, 1)
    year = store(as_text(weather, "csv").encode(), "north.csv")
    site = {"latitude": 78, "longitude": 15, "elevation": 10}
    calibration = {"monthly_ghi": [20] * 12}
    document = roof_document | {"site": site, "weather": {"digest": year.digest, "title": "North", "calibration": calibration}}
    scheme = begin_project("North", document).pinned
    answer = api.get(f"/api/schemes/{scheme.pk}").json()
    assert answer["document"]["weather"]["calibration"] == calibration
    check = answer["evaluation"]["checks"][0]
    assert (check["title"], check["pointer"]) == ("The weather cannot be adjusted so", "/weather/calibration")
    assert "has no light that could be scaled" in check["detail"]
    assert api.get(f"/api/schemes/{scheme.pk}/orientation").status_code == 409


def test_a_scheme_is_run_over_all_years_of_its_file(api, scheme, hill_weather):
    assert api.send("post", f"/api/schemes/{scheme.pk}/jobs/years", {}).status_code == 409
    stored = upload(api, record_of(hill_weather), "record.csv").json()
    assert stored["reading"]["reading"]["years"] == [2021, 2022, 2023]
    assert api.get(f"/api/schemes/{scheme.pk}/jobs/years").status_code == 204
    api.send("patch", f"/api/schemes/{scheme.pk}", {"weather": {"digest": stored["digest"]}}, revision=1)
    told = []
    scheme.refresh_from_db()
    result = found_by_job(scheme, "years", report=lambda progress, words: told.append((progress, words)))
    assert [run.year for run in result.runs] == [2021, 2022, 2023]
    assert result.runs[0].energy < result.runs[2].energy
    assert result.p90 < result.p50 == pytest.approx(result.mean)
    assert [progress for progress, _ in told] == sorted(progress for progress, _ in told)


def test_a_fact_of_a_year_shows_its_working(api, hill_year):
    shown = api.get(f"/api/weather/{hill_year.digest}/working/ghi").json()
    assert shown["value"] == pytest.approx(hill_year.summary["annual_ghi"])
    assert [step["name"] for step in shown["steps"]][::11] == ["January", "December"]
    unknown = api.get(f"/api/weather/{hill_year.digest}/working/rainfall")
    assert unknown.status_code == 404 and "rainfall" in unknown.json()["detail"]


def test_years_stored_before_clearness_was_kept_are_still_answered(api, hill_year):
    del hill_year.summary["clearness"]
    hill_year.save()
    assert api.get(f"/api/weather/{hill_year.digest}").json()["summary"]["clearness"] is None
