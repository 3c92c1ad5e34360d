"""Long work on a scheme: begun over HTTP, told as it goes on, and the same wherever it is carried out."""

import os
import pickle
import subprocess
import sys
import time

import pytest

from noontide.server.jobs import running
from noontide.server.jobs.kinds import kind_named
from noontide.server.jobs.models import Job
from noontide.server.jobs.running import cancel
from noontide.server.projects.revising import begin_project
from noontide.server.projects.scheme_jobs import SCHEME_KINDS, asked_of
from noontide.server.weather_library.storing import store
from tests.server.conftest import found_by_job, record_of
from tests.server.test_scene import HOUSE

FIND = {"surface": "barn", "module": "veltrane-430", "number": 20, "inverter": "hexley-8"}


@pytest.fixture
def on_roof(roof_document, hill_weather):
    """A house with a roof of 20 modules in strings, under three years that have one file."""
    year = store(record_of(hill_weather), "record.csv")
    document = roof_document | {"weather": {"digest": year.digest, "title": year.title}, "scene": HOUSE}
    (key,) = document["surfaces"]
    return begin_project("House", document | {"surfaces": {key: {"face": "house/roof-1"}}}).pinned


@pytest.mark.parametrize(("name", "arguments"), [("years", {}), ("obstacle-costs", {}), ("find-strings", FIND)])
def test_a_worker_without_disk_and_database_finds_the_same(on_roof, name, arguments):
    work = kind_named(name).work
    here = found_by_job(on_roof, name, arguments)
    asked = asked_of(on_roof, SCHEME_KINDS[name], arguments, on_roof.project.owner)
    given = pickle.dumps(kind_named(name).gather(asked))
    bare = {key: value for key, value in os.environ.items() if not key.startswith(("DJANGO", "NOONTIDE"))}
    code = (
        "import sys; from noontide.server.jobs.on_worker import carry_out; "
        f"print(carry_out('{work.__module__}', '{work.__qualname__}', sys.stdin.buffer.read()).model_dump_json())"
    )
    done = subprocess.run([sys.executable, "-c", code], input=given, capture_output=True, env=bare, check=True)
    assert SCHEME_KINDS[name].found.model_validate_json(done.stdout.decode().splitlines()[-1]) == here


@pytest.mark.django_db(transaction=True)
def test_work_is_begun_told_and_read_over_http(api, on_roof):
    told = []
    running.listen(lambda job: told.append((job.kind, job.state)))
    address = f"/api/schemes/{on_roof.pk}/jobs/obstacle-costs"
    assert api.get(address).status_code == 204
    begun = api.send("post", address, {})
    assert begun.status_code == 202, begun.json()
    end = time.monotonic() + 30
    while (job := api.get(address).json())["state"] in ("waiting", "running") and time.monotonic() < end:
        time.sleep(0.1)
    assert (job["id"], job["state"], job["progress"]) == (begun.json()["id"], "done", 1)
    assert job["result"] == found_by_job(on_roof, "obstacle-costs").model_dump(mode="json")
    again = api.send("post", address, {}).json()
    assert Job.objects.filter(kind="obstacle-costs").count() == 1, "the one before is gone, with its copy of the design"
    cancel(Job.objects.get(pk=again["id"]))
    assert told[0] == ("obstacle-costs", "running") and ("obstacle-costs", "done") in told
    running._listeners.pop()


@pytest.mark.parametrize(
    ("name", "arguments", "status"),
    [
        pytest.param("find-strings", {"surface": "barn"}, 422, id="an argument is missing"),
        pytest.param("obstacle-costs", {"all": True}, 422, id="an argument too many"),
        pytest.param("wish", {}, 404, id="no such kind"),
    ],
)
def test_what_cannot_be_begun_leaves_no_job(api, on_roof, name, arguments, status):
    assert api.send("post", f"/api/schemes/{on_roof.pk}/jobs/{name}", arguments).status_code == status
    assert api.get(f"/api/schemes/{on_roof.pk}/jobs/find-strings").status_code == 204


@pytest.mark.django_db(transaction=True)
def test_a_report_shows_the_years_of_its_own_revision_alone(api, on_roof):
    address = f"/api/schemes/{on_roof.pk}/report?pages=cover,years"
    assert api.get(address).json()["left_out"][0]["page"] == "years"
    begun = api.send("post", f"/api/schemes/{on_roof.pk}/jobs/years", {}).json()
    end = time.monotonic() + 60
    while (job := api.get(f"/api/jobs/{begun['id']}").json())["state"] in ("waiting", "running") and time.monotonic() < end:
        time.sleep(0.1)
    svg = "".join(sheet["svg"] for sheet in api.get(address).json()["sheets"])
    assert f"{job['result']['p90']:,.0f} kWh" in svg
    api.send("patch", f"/api/schemes/{on_roof.pk}", {"losses": {"soiling": 9}}, 1)
    assert api.get(address).json()["left_out"][0]["page"] == "years", "the years were those of an earlier state"
