"""Reports over HTTP: what they can have, how they will print, the files, and editions of one's own."""

import io
import re
import time
from dataclasses import replace

import numpy as np
import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from noontide.core.report import EDITIONS, PAGES
from noontide.server.jobs import running
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.revising import begin_scheme
from noontide.server.reports.models import Letterhead, OwnEdition


def test_the_catalogue_has_the_pages_and_the_editions_that_ship(api, db):
    found = api.get("/api/reports").json()
    assert [page["key"] for page in found["pages"]] == list(PAGES)
    assert [one["key"] for one in found["editions"]] == list(EDITIONS)
    assert {key for one in found["editions"] for key in one["pages"]} <= set(PAGES)


def test_sheets_are_of_the_revision_that_is_shown_and_change_with_the_design(api, scheme):
    one = api.get(f"/api/schemes/{scheme.pk}/report?pages=cover,balance").json()
    assert (one["revision"], [sheet["page"] for sheet in one["sheets"]]) == (1, ["cover", "balance"])
    energy = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"]
    assert f"{energy:,.0f} kWh" in one["sheets"][0]["svg"] and "revision 1, " in one["sheets"][0]["svg"]
    api.send("patch", f"/api/schemes/{scheme.pk}", {"surfaces": {"barn": {"tilt": 60}}}, 1)
    other = api.get(f"/api/schemes/{scheme.pk}/report?pages=cover,balance").json()
    assert other["revision"] == 2 and f"{energy:,.0f} kWh" not in other["sheets"][0]["svg"]


def test_a_page_without_anything_to_show_is_named_with_the_reason(api, scheme):
    found = api.get(f"/api/schemes/{scheme.pk}/report?pages=plan,cover").json()
    assert found["left_out"] == [{"page": "plan", "why": "No surface lies on a face of the scene."}]


@pytest.mark.parametrize(("kind", "start"), [("pdf", b"%PDF-"), ("html", b"<!doctype html>")])
def test_the_file_is_the_same_twice_and_named_by_its_revision(api, scheme, kind, start):
    address = f"/api/schemes/{scheme.pk}/report-file?edition=engineer&paper=letter&kind={kind}"
    one, other = api.get(address), api.get(address)
    assert one.status_code == 200 and one.content == other.content and one.content.startswith(start)
    assert f"report-scheme-A-revision-1.{kind}" in one["Content-Disposition"]


@pytest.mark.parametrize(
    ("query", "said"),
    [("pages=castle", "no page 'castle'"), ("edition=banker", "no edition 'banker'"), ("paper=b5", "no paper 'b5'"), ("pages=plan", "No surface lies")],
)  # fmt: skip
def test_a_report_that_cannot_be_made_says_why(api, scheme, query, said):
    for address in ("report", "report-file"):
        answer = api.get(f"/api/schemes/{scheme.pk}/{address}?{query}")
        assert answer.status_code == 422 and said in answer.json()["detail"]
    assert api.get(f"/api/schemes/{scheme.pk}/report-file?kind=docx").status_code == 422


def test_a_scheme_without_weather_has_no_report_and_says_what_is_missing(api, scheme):
    api.send("patch", f"/api/schemes/{scheme.pk}", {"weather": None}, 1)
    answer = api.get(f"/api/schemes/{scheme.pk}/report")
    assert answer.status_code == 409 and answer.json()["detail"]


def test_an_edition_of_ones_own_is_kept_replaced_by_its_name_and_deleted(api, db):
    kept = api.send("post", "/api/reports", {"title": "Bank", "pages": ["worth", "cover", "worth"], "paper": "letter"})
    assert kept.status_code == 201
    own = api.get("/api/reports").json()["editions"][-1]
    assert (own["title"], own["pages"], own["paper"], own["is_own"]) == ("Bank", ["worth", "cover"], "letter", True)
    again = api.send("post", "/api/reports", {"title": "Bank", "pages": ["cover"]}).json()
    assert again["key"] == own["key"] and again["pages"] == ["cover"]
    assert api.delete(f"/api/reports/{own['key']}").status_code == 204
    assert api.delete(f"/api/reports/{own['key']}").status_code == 404
    assert [one["key"] for one in api.get("/api/reports").json()["editions"]] == list(EDITIONS)


@pytest.mark.parametrize(
    ("body", "place"),
    [({"title": "", "pages": ["cover"]}, "/title"), ({"title": "A", "pages": []}, "/pages"), ({"title": "A", "pages": ["castle"]}, "/pages"),
     ({"title": "A", "pages": ["cover"], "paper": "b5"}, "/paper"), ({"title": "A" * 81, "pages": ["cover"]}, "/title")],
)  # fmt: skip
def test_an_edition_that_cannot_be_kept_is_refused_with_its_place(api, db, body, place):
    answer = api.send("post", "/api/reports", body)
    assert answer.status_code == 422 and place in [error["pointer"] for error in answer.json()["errors"]]
    assert not OwnEdition.objects.exists()


def test_anothers_edition_is_neither_seen_nor_deleted(api, db):
    other = get_user_model().objects.create(username="other")
    theirs = OwnEdition.objects.create(owner=other, title="Theirs", pages=["cover"], paper="a4")
    assert not any(one["is_own"] for one in api.get("/api/reports").json()["editions"])
    assert api.delete(f"/api/reports/{theirs.pk}").status_code == 404 and OwnEdition.objects.filter(pk=theirs.pk).exists()


def test_a_hostile_project_name_stands_as_words_on_the_sheets(api, scheme):
    api.send("patch", f"/api/projects/{scheme.project_id}", {"name": "<img src=x onerror=alert(1)> & Co"})
    svg = api.get(f"/api/schemes/{scheme.pk}/report?pages=cover").json()["sheets"][0]["svg"]
    assert "<img" not in svg and re.search(r"&lt;img src=x", svg)


def test_a_letterhead_stands_on_every_report_of_its_owner_and_on_no_other(api, scheme):
    before = api.get("/api/reports/letterhead").json()
    assert (before["sender"], before["contact"], before["closing"], before["has_logo"]) == ("", "", "", False)
    given = {"sender": "Hill Solar", "contact": "1 Lane, Aldermoor", "closing": "We would be glad to build it."}
    assert api.send("put", "/api/reports/letterhead", given).json() == before | given
    assert api.get("/api/reports/letterhead").json() == before | given
    svg = "".join(s["svg"] for s in api.get(f"/api/schemes/{scheme.pk}/report?pages=cover").json()["sheets"])
    assert all(words in svg for words in given.values())
    Letterhead.objects.update(owner=get_user_model().objects.create(username="other"))
    svg = "".join(s["svg"] for s in api.get(f"/api/schemes/{scheme.pk}/report?pages=cover").json()["sheets"])
    assert "Hill Solar" not in svg
    refused = api.send("put", "/api/reports/letterhead", {"sender": "x" * 121})
    assert refused.status_code == 422 and refused.json()["errors"][0]["pointer"] == "/sender"


def test_schemes_of_the_project_stand_side_by_side(api, scheme):
    alone = api.get(f"/api/schemes/{scheme.pk}/report?pages=schemes,cover").json()
    assert [one["page"] for one in alone["left_out"]] == ["schemes"]
    fork = api.send("post", f"/api/schemes/{scheme.pk}/fork", {"name": "Steeper"}).json()
    api.send("patch", f"/api/schemes/{fork['id']}", {"surfaces": {"barn": {"tilt": 50}}}, 1)
    steep, flat = (
        f"{api.get(f'/api/schemes/{key}').json()['evaluation']['headline']['energy']:,.0f} kWh" for key in (fork["id"], scheme.pk)
    )
    page = api.get(f"/api/schemes/{scheme.pk}/report?pages=schemes").json()["sheets"][0]["svg"]
    assert "B, Steeper" in page and page.index(flat) < page.index(steep)
    # From the other one the same figures stand, the columns exchanged.
    page = api.get(f"/api/schemes/{fork['id']}/report?pages=schemes").json()["sheets"][0]["svg"]
    assert page.index(steep) < page.index(flat)


def ended(api, job: str) -> dict:
    end = time.monotonic() + 60
    while (found := api.get(f"/api/jobs/{job}").json())["state"] in ("waiting", "running") and time.monotonic() < end:
        time.sleep(0.05)
    return found


@pytest.mark.django_db(transaction=True)
def test_a_report_is_made_as_a_job_that_says_where_it_is(api, scheme, monkeypatch):
    told = []
    monkeypatch.setattr(running, "NEWS_APART", 0.0)
    running.listen(lambda job: told.append(job.message))
    begun = api.send("post", f"/api/schemes/{scheme.pk}/jobs/report", {"edition": "electrical"})
    assert begun.status_code == 202, begun.json()
    job = ended(api, begun.json()["id"])
    running._listeners.pop()
    assert job["state"] == "done", job
    assert any("page" in words for words in told)
    found = job["result"]
    file = api.get(found["address"])
    content = b"".join(file.streaming_content)
    assert content.startswith(b"%PDF") and len(content) == found["bytes"]
    assert found["file_name"] in file.headers["Content-Disposition"]
    # The same pages as the answer that is made at once, to the byte.
    assert content == api.get(f"/api/schemes/{scheme.pk}/report-file?edition=electrical&kind=pdf").content


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    ("asked", "status"),
    [({"edition": "?"}, 422), ({"kind": "doc"}, 422), ({"pages": ["cover"] * 99}, 422), ({"paper": "a" * 99}, 422)],
)
def test_a_report_job_that_cannot_be_is_refused(api, scheme, asked, status):
    assert api.send("post", f"/api/schemes/{scheme.pk}/jobs/report", asked).status_code == status


@pytest.mark.django_db(transaction=True)
def test_a_report_job_of_unknown_pages_ends_in_words(api, scheme):
    begun = api.send("post", f"/api/schemes/{scheme.pk}/jobs/report", {"pages": ["wish"]}).json()
    job = ended(api, begun["id"])
    assert job["state"] == "failed" and "wish" in job["message"]


@pytest.mark.parametrize("name", ["../noontide.sqlite3", "x.pdf", "0" * 32 + ".pdf", "0" * 32 + ".exe"])
def test_only_reports_that_were_made_are_given(api, scheme, name):
    assert api.get(f"/api/report-files/{name}").status_code == 404


def test_other_schemes_that_are_not_ready_are_named_not_waited_for(api, project, scheme, monkeypatch):
    begin_scheme(project, scheme.head.document | {"losses": {"soiling": 5}})
    asked = evaluator.ask

    def slow(document, number=0, patience=None, key=""):
        found = asked(document, number, patience, key)
        return replace(found, state="pending") if number != scheme.pk else found

    monkeypatch.setattr(evaluator, "ask", slow)
    found = api.get(f"/api/schemes/{scheme.pk}/report?pages=cover,schemes").json()
    assert found["waits_for"] == ["B"] and found["left_out"][0]["page"] == "schemes"
    monkeypatch.undo()
    found = api.get(f"/api/schemes/{scheme.pk}/report?pages=cover,schemes").json()
    assert found["waits_for"] == [] and [sheet["page"] for sheet in found["sheets"]] == ["cover", "schemes"]


def picture(kind: str, width: int = 300, height: int = 100) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), "#2F5D8C").save(out, kind)
    return out.getvalue()


def sheets_of(api, scheme, pages: str = "built") -> str:
    return "".join(sheet["svg"] for sheet in api.get(f"/api/schemes/{scheme.pk}/report?pages={pages}").json()["sheets"])


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP"])
def test_a_logo_and_a_colour_stand_on_the_first_page(api, scheme, kind):
    answer = api.post("/api/reports/letterhead/logo", {"file": SimpleUploadedFile("l", picture(kind))})
    assert answer.status_code == 200 and answer.json()["has_logo"]
    api.send("put", "/api/reports/letterhead", {"colour": "#803010"})
    svg = sheets_of(api, scheme, "built,yield")
    assert svg.count("data:image/png;base64,") == 1 and "#803010" in svg
    # Three times as wide as high, as it came.
    found = re.search(r'<image [^>]*width="([\d.]+)" height="([\d.]+)"', svg)
    assert float(found[1]) == pytest.approx(3 * float(found[2]), rel=1e-3)
    one, other = (api.get(f"/api/schemes/{scheme.pk}/report-file?kind=pdf").content for _ in range(2))
    assert one == other, "with a picture too, the same revision makes the same bytes"
    assert not api.delete("/api/reports/letterhead/logo").json()["has_logo"]
    assert "<image" not in sheets_of(api, scheme)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "scripts"),
        (b'<?xml version="1.0"?><svg/>', "scripts"),
        (b"\x89PNG\r\n\x1a\n and no more", "damaged"),
        (b"GIF89a", "no picture"),
        (b"", "no picture"),
    ],
)
def test_a_logo_that_cannot_be_printed_is_refused_in_words(api, scheme, content, words):
    answer = api.post("/api/reports/letterhead/logo", {"file": SimpleUploadedFile("l.svg", content or b" ")})
    assert answer.status_code == 422 and words in answer.json()["detail"], answer.json()
    assert "<image" not in sheets_of(api, scheme)


def test_a_logo_of_five_megabytes_is_kept_as_large_as_paper_shows_it(api, scheme):
    noise = np.random.default_rng(1).integers(0, 255, (1300, 1300, 3), dtype=np.uint8)
    out = io.BytesIO()
    Image.fromarray(noise).save(out, "PNG")
    assert out.tell() > 5_000_000
    assert api.post("/api/reports/letterhead/logo", {"file": SimpleUploadedFile("l.png", out.getvalue())}).status_code == 200
    assert len(bytes(Letterhead.objects.get().logo)) < 2_000_000
    api.post("/api/reports/letterhead/logo", {"file": SimpleUploadedFile("l.png", b"x" * 10_000_001)})
    assert len(bytes(Letterhead.objects.get().logo)) > 1_000, "what is too large changes nothing"


@pytest.mark.parametrize(
    ("given", "words"),
    [({"colour": "#FFFF00"}, "pale"), ({"colour": "red"}, ""), ({"language": "xx"}, "no language")],
)
def test_looks_that_cannot_be_read_are_refused(api, scheme, given, words):
    answer = api.send("put", "/api/reports/letterhead", given)
    assert answer.status_code == 422 and words in str(answer.json())


def test_a_report_speaks_the_language_that_was_chosen(api, scheme):
    catalogue = api.get("/api/reports").json()
    assert {"en", "de"} <= {one["key"] for one in catalogue["languages"]}
    api.send("put", "/api/reports/letterhead", {"language": "de"})
    found = api.get(f"/api/schemes/{scheme.pk}/report?edition=customer").json()
    assert found["untranslated"] == []
    svg = "".join(sheet["svg"] for sheet in found["sheets"])
    energy = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"]
    assert f"{energy:,.0f} kWh".replace(",", ".") in svg and "Jahresenergie" in svg and "Annual energy" not in svg
    html = api.get(f"/api/schemes/{scheme.pk}/report-file?kind=html").content.decode()
    assert '<html lang="de">' in html and f"/projects/{scheme.project_id}/{scheme.pk}" in html
