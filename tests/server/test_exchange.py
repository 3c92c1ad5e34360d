"""Projects that travel, files that are taken away, and views for others, over HTTP."""

import io
import json
import zipfile
from datetime import timedelta
from uuid import uuid4

import openpyxl
import pandas as pd
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from noontide.core.exchange import unpack
from noontide.server.exchange.models import SharedView
from noontide.server.projects.housekeeping import is_used
from noontide.server.projects.models import Project, Revision
from noontide.server.trials.models import TrialSet
from noontide.server.weather_library.models import WeatherYear
from tests.server.test_trials import GRID, some_runs, stored


def edited(api, scheme, patch: dict) -> dict:
    head = api.get(f"/api/schemes/{scheme.pk}").json()["revision"]
    answer = api.send("patch", f"/api/schemes/{scheme.pk}", patch, head)
    assert answer.status_code == 200, answer.json()
    return answer.json()


def taken(api, project, query: str = "") -> bytes:
    answer = api.get(f"/api/projects/{project.pk}/file{query}")
    assert answer.status_code == 200
    return answer.content


def brought(api, content: bytes, **fields) -> tuple[int, dict]:
    answer = api.post("/api/projects/file", {"file": SimpleUploadedFile("p.noontide", content), **fields})
    return answer.status_code, answer.json()


@pytest.fixture
def edits(api, scheme):
    """A scheme with a history that branches: two edits, one undone, another made."""
    edited(api, scheme, {"losses": {"soiling": 3.3}})
    revision = edited(api, scheme, {"name": "Wrong way"})["revision"]
    api.send("post", f"/api/schemes/{scheme.pk}/undo", None, revision)
    edited(api, scheme, {"losses": {"mismatch": 0.7}})
    scheme.refresh_from_db()
    return scheme


def energy_of(api, scheme_id: int) -> float:
    return api.get(f"/api/schemes/{scheme_id}").json()["evaluation"]["headline"]["energy"]


def test_a_project_opens_elsewhere_with_its_history_and_the_same_figures(api, project, edits, tmp_path, settings):
    content = taken(api, project)
    before, energy = api.get(f"/api/schemes/{edits.pk}").json(), energy_of(api, edits.pk)
    # Another machine: neither the project nor its weather is there.
    Project.objects.update(uid=uuid4())
    WeatherYear.objects.all().delete()
    settings.DATA = tmp_path / "elsewhere"
    status, answer = brought(api, content)
    assert status == 201, answer
    assert not answer["project"]["is_copy"] and answer["project"]["name"] == "Aldermoor Dairy"
    scheme = answer["project"]["schemes"][0]["id"]
    after = api.get(f"/api/schemes/{scheme}").json()
    assert after["document"] == before["document"] and after["revision"] == before["revision"]
    assert energy_of(api, scheme) == pytest.approx(energy, rel=1e-12)
    # Undo walks back along the same states, to the first.
    states = []
    while after["can_undo"]:
        after = api.send("post", f"/api/schemes/{scheme}/undo", None, after["revision"]).json()
        states.append((after["document"].get("losses"), after["document"].get("name")))
    assert states == [({"soiling": 3.3}, before["document"].get("name")), (None, before["document"].get("name"))]
    assert Revision.objects.filter(scheme=scheme).count() == 4, "the edit that was undone is there too"
    # What is taken away of it again is the same project.
    again = taken(api, Project.objects.get(pk=answer["project"]["id"]))
    assert [s.revisions[-1].document for s in unpack(again).schemes] == [
        s.revisions[-1].document for s in unpack(content).schemes
    ]
    assert unpack(again).uid == unpack(content).uid


def test_trials_travel_with_their_runs_and_hold_on_to_their_weather(api, project, edits, tmp_path, settings):
    trial = stored(edits, GRID | {"name": "Tilts"}, some_runs())
    digest = edits.head.document["weather"]["digest"]
    rows = api.get(f"/api/trials/{trial.pk}/runs?sort=run").json()["rows"]
    content = taken(api, project)
    Project.objects.update(uid=uuid4())
    settings.DATA = tmp_path / "elsewhere"
    WeatherYear.objects.all().delete()
    status, answer = brought(api, content)
    assert status == 201 and "1 set of trials" in " ".join(answer["words"]), answer
    scheme = answer["project"]["schemes"][0]["id"]
    (line,) = api.get(f"/api/schemes/{scheme}/trials").json()
    assert (line["title"], line["state"], line["done"], line["runs"]) == ("Tilts", "done", 6, 6)
    assert api.get(f"/api/trials/{line['id']}/runs?sort=run").json()["rows"] == rows
    adopted = api.send("post", f"/api/trials/{line['id']}/adopt", {"run": 1})
    assert adopted.status_code == 201, adopted.json()
    assert is_used(digest)
    Revision.objects.filter(scheme=scheme).update(document={}, patch={})
    TrialSet.objects.exclude(scheme=scheme).delete()
    Revision.objects.exclude(scheme=scheme).update(document={}, patch={})
    assert is_used(digest), "a set of trials alone holds on to it"
    refused = api.delete(f"/api/unused/weather/{digest}")
    assert refused.status_code == 409 and "trials" in refused.json()["detail"]


def test_a_copy_stands_beside_its_original_and_says_so(api, project, edits):
    content = taken(api, project, "?history=false")
    assert [len(scheme.revisions) for scheme in unpack(content).schemes] == [1]
    status, told = brought(api, content, look="true")
    assert (status, told["project"], Project.objects.count()) == (200, None, 1), "looking changes nothing"
    assert "is here already" in " ".join(told["words"])
    status, answer = brought(api, content)
    assert status == 201 and answer["project"]["is_copy"] and answer["project"]["name"] == "Aldermoor Dairy (2)"
    copy = Project.objects.get(pk=answer["project"]["id"])
    assert copy.uid != project.uid and copy.copy_of == project.uid
    scheme = answer["project"]["schemes"][0]["id"]
    state = api.get(f"/api/schemes/{scheme}").json()
    assert not state["can_undo"]
    # It goes on from there: an edit, an undo, and the original stays as it was.
    edited(api, copy.pinned, {"name": "Mine"})
    assert api.get(f"/api/schemes/{edits.pk}").json()["document"].get("name") != "Mine"
    project.deleted = timezone.now()
    project.save()
    assert "is deleted here" in " ".join(brought(api, content, look="true")[1]["words"])


@pytest.mark.parametrize("end", [0.3, 0.8])
def test_a_damaged_file_changes_nothing(api, project, end):
    content = taken(api, project)
    rows = (Project.objects.count(), Revision.objects.count(), WeatherYear.objects.count())
    for broken in (content[: int(len(content) * end)], content.replace(b"PK\x03\x04", b"PK\x03\x05", 1), b"not a zip"):
        status, answer = brought(api, broken)
        assert status == 422 and answer["detail"], answer
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", b" " * 200_000_000)
    status, answer = brought(api, bomb.getvalue())
    assert status == 422 and "grow" in answer["detail"]
    assert (Project.objects.count(), Revision.objects.count(), WeatherYear.objects.count()) == rows


def test_a_file_is_recognised_wherever_it_is_dropped(api, project):
    answer = api.post("/api/files/recognise", {"file": SimpleUploadedFile("x.zip", taken(api, project))}).json()
    assert answer["kind"] == "project"
    kinds = api.get("/api/files/recognise").json()
    assert {"project", "scheme", "weather"} <= {line["kind"] for line in kinds} and all(
        line["what"] and line["place"] for line in kinds
    )


def test_every_way_out_gives_a_file(api, scheme):
    groups = api.get(f"/api/schemes/{scheme.pk}/take-away").json()
    lines = [line for group in groups for line in group["lines"]]
    assert all(bool(line["formats"]) != bool(line["missing"]) for line in lines)
    for line in lines:
        for one in line["formats"]:
            answer = api.get(one["address"])
            content = b"".join(answer.streaming_content) if answer.streaming else answer.content
            assert answer.status_code == 200 and content, one
            assert "attachment" in answer.headers.get("Content-Disposition", ""), one
    hours = pd.read_parquet(io.BytesIO(api.get(f"/api/schemes/{scheme.pk}/hours?kind=parquet").content))
    assert hours["delivered [W]"].sum() / 1000 == pytest.approx(energy_of(api, scheme.pk), rel=1e-9)
    assert openpyxl.load_workbook(io.BytesIO(api.get(f"/api/schemes/{scheme.pk}/workbook").content)).sheetnames[-1] == "Cash"


def test_a_view_shows_its_revision_until_it_is_taken_back(api, scheme):
    energy = energy_of(api, scheme.pk)
    made = api.send("post", f"/api/schemes/{scheme.pk}/shared", {"days": 3})
    assert made.status_code == 201
    token = made.json()["address"].rpartition("/")[2]
    assert len(token) >= 43
    edited(api, scheme, {"losses": {"soiling": 20}})
    shown = api.get(f"/api/shared/{token}/view").json()
    figures = {one["key"]: one["value"] for one in shown["figures"]}
    assert figures["energy"] == pytest.approx(energy, rel=1e-12), "what is shared does not move with the scheme"
    assert shown["revision"] == 1 and sum(shown["monthly_energy"]) == pytest.approx(energy)
    assert any(run[1] for paragraph in shown["brief"] for run in paragraph["runs"])
    assert api.get(f"/api/shared/{token}/year").content
    assert api.get(f"/api/shared/{token}/report").json()["sheets"]
    assert api.get(f"/api/shared/{token}/report?kind=pdf").content.startswith(b"%PDF")
    line = api.get(f"/api/schemes/{scheme.pk}/shared").json()["views"][0]
    assert not line["is_current"]
    # Nothing can be written through it.
    for method in ("post", "patch", "put", "delete"):
        assert api.send(method, f"/api/shared/{token}/view", {}).status_code == 405
    assert api.delete(f"/api/shared/{line['id']}").status_code == 204
    for end in ("view", "year", "report"):
        assert api.get(f"/api/shared/{token}/{end}").status_code == 404
    assert api.delete(f"/api/shared/{line['id']}").status_code == 404


def test_a_view_expires_and_goes_with_its_scheme(api, scheme):
    token = api.send("post", f"/api/schemes/{scheme.pk}/shared", {}).json()["address"].rpartition("/")[2]
    view = SharedView.objects.get()
    SharedView.objects.update(expires=timezone.now() - timedelta(seconds=1))
    assert api.get(f"/api/shared/{token}/view").status_code == 404
    SharedView.objects.update(expires=view.expires)
    assert api.get(f"/api/shared/{token}/view").status_code == 200
    scheme.project.deleted = timezone.now()
    scheme.project.save()
    assert api.get(f"/api/shared/{token}/view").status_code == 404


@pytest.mark.parametrize(
    ("asked", "status"), [({"days": 0}, 422), ({"days": 9999}, 422), ({"edition": "?"}, 422), ({"x": 1}, 422)]
)
def test_a_view_that_cannot_be_is_refused(api, scheme, asked, status):
    assert api.send("post", f"/api/schemes/{scheme.pk}/shared", asked).status_code == status
    assert not SharedView.objects.exists()


@pytest.mark.parametrize("token", ["x", "a" * 64, "..%2f..", "0" * 43])
def test_a_guessed_address_shows_nothing(api, scheme, token):
    api.send("post", f"/api/schemes/{scheme.pk}/shared", {})
    assert api.get(f"/api/shared/{token}/view").status_code == 404


def test_a_document_is_what_the_command_line_reads(api, scheme):
    assert json.loads(api.get(f"/api/schemes/{scheme.pk}/document").content) == scheme.head.document
