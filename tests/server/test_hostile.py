"""A thousand hostile requests and files: none makes the server fail, and each refusal has words."""

import json
import random
import string

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.parts import built_in_parts
from noontide.server.projects.models import Revision

DEEP = "[" * 2000 + "]" * 2000
WIDE = json.dumps({"site": {"horizon": [{"azimuth": 0, "elevation": 0}] * 60_001}})
REVISIONS = ["²", "9" * 5000, "-1", "1.5", "W/", '""', "*", "\u0661", "1 2", "0x1", "null"]


def url(scheme, rest: str = "") -> str:
    return f"/api/schemes/{scheme.pk}{rest}"


def refused(answer) -> None:
    assert 400 <= answer.status_code < 500, (answer.status_code, answer.content[:300])
    assert answer.headers["Content-Type"] == "application/problem+json"
    assert answer.json()["title"]


@pytest.mark.parametrize("revision", REVISIONS)
def test_no_revision_can_be_made_up(api, scheme, revision):
    refused(api.patch(url(scheme), data="{}", content_type="application/merge-patch+json", headers={"If-Match": revision}))


@pytest.mark.parametrize(
    "body",
    [DEEP, '{"a":' * 2000 + "1" + "}" * 2000, WIDE, "{", "null", "[]", '"x"', "1e999", '{"a": NaN}', "\x00", "{'a': 1}"],
)
def test_no_body_makes_an_edit_fail_but_in_words(api, scheme, body):
    answer = api.patch(url(scheme), data=body, content_type="application/merge-patch+json", headers={"If-Match": '"1"'})
    refused(answer)
    assert Revision.objects.count() == 1


def test_findings_are_limited(api, scheme):
    many = {f"s{i}": {"tilt": 1000} for i in range(190)}
    body = api.send("patch", url(scheme), {"surfaces": many}, revision=1).json()
    assert len(body["errors"]) == 20
    assert body["further_errors"] > 100


def values(r: random.Random):
    return r.choice(
        [None, True, -1, 0, 1e308, -1e308, 1e-308, 2**63, "", "x" * 5000, "\x00", "\n", "=1+1", "é" * 50, [], {}, [[]], {"": None}, "../../x", "NaN", [None] * 50]
    )  # fmt: skip


def anywhere(r: random.Random, document, depth=0):
    """A patch that sets nonsense at a random place of the document."""
    if isinstance(document, dict) and document and r.random() < 0.9 - 0.1 * depth:
        key = r.choice(list(document))
        return {key: anywhere(r, document[key], depth + 1)}
    if r.random() < 0.3:
        return {"".join(r.choices(string.printable, k=r.randint(0, 12))): values(r)}
    return values(r)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(4))
def test_hundreds_of_nonsense_edits_change_nothing_or_something_that_reads(api, scheme, seed):
    r, revision = random.Random(seed), 1
    for _ in range(200):
        scheme.refresh_from_db()
        patch = anywhere(r, scheme.head.document)
        answer = api.send("patch", url(scheme), patch if isinstance(patch, dict) else {"name": patch}, revision=revision)
        assert answer.status_code in (200, 412, 422), (patch, answer.content[:400])
        if answer.status_code == 200:
            revision = answer.json()["revision"]
    assert api.get("/api/projects").status_code == 200


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(5))
def test_fifty_odd_datasheets_each_are_refused_or_give_a_state(api, scheme, seed):
    """Every number of a datasheet pulled about, alone and together: 250 in all."""
    r, revision = random.Random(100 + seed), 1
    library = built_in_parts()
    for _ in range(50):
        kind, use = r.choice([("modules", "veltrane-430"), ("inverters", "hexley-20"), ("inverters", "corvane-4x")])
        sheet = getattr(library, kind)[use].model_dump(mode="json", exclude_unset=True)
        for key in r.sample(
            [k for k, v in sheet.items() if isinstance(v, int | float) and not isinstance(v, bool)], k=r.randint(1, 3)
        ):
            sheet[key] = r.choice([sheet[key] * r.choice([0.01, 0.5, 0.99, 1.01, 2, 100]), 0, 1, -sheet[key], 1e-9, 1e6])
        if sheet.get("cells_in_series"):
            sheet["cells_in_series"] = int(sheet["cells_in_series"]) if abs(sheet["cells_in_series"]) < 1e9 else 60
        patch = {"parts": {kind: {use: sheet}}} | ({"inverters": {"main": {"model": use}}} if kind == "inverters" else {})
        answer = api.send("patch", url(scheme), patch, revision=revision)
        assert answer.status_code in (200, 422), (sheet, answer.content[:400])
        if answer.status_code == 200:
            body = answer.json()
            revision = body["revision"]
            assert body["evaluation"]["state"] in ("exact", "failed"), sheet
            assert body["evaluation"]["problem"] is None or "Error" not in body["evaluation"]["problem"]["title"]


FILES = {
    "line ends alone": b"\n" * 3_000_000,
    "a header and line ends": b"LOCATION,x,-,-,x,0,1,1,1,1\n" + b"\n" * 2_000_000,
    "one long line": b"# noontide-weather 1" + b"," * 3_000_000,
    "commas": (b"," * 200 + b"\n") * 5000,
    "no text": bytes(range(256)) * 100,
    "a formula": b"=cmd|' /C calc'!A0\n",
    "a zip": b"PK\x03\x04" + b"\x00" * 5000,
}


@pytest.mark.parametrize("name", FILES)
def test_no_file_is_kept_that_is_no_weather(api, name, tmp_path):
    refused(api.post("/api/weather", {"file": SimpleUploadedFile(f"{name}.csv", FILES[name])}))
    assert not [path for path in tmp_path.rglob("*") if path.is_file()]


@pytest.mark.parametrize(
    "path",
    ["/api/nothing", "/api/schemes/99999999", "/api/schemes/1/hourly?quantities=" + "x," * 3000, "/api/places/at?latitude=nan&longitude=0",
     "/api/places/elevation?latitude=91&longitude=0", "/api/weather/none", "/api/weather/none/file", "/api/jobs/00000000-0000-0000-0000-000000000000"],
)  # fmt: skip
def test_what_is_not_there_is_said_in_problem_details(api, path):
    refused(api.get(path))


def test_a_failure_of_ours_is_a_problem_with_a_request_id_and_a_line_in_the_log(api, scheme, monkeypatch, caplog):
    from noontide.server.projects import scheme_views

    def broken(*_):
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr(scheme_views, "scheme_answer", broken)
    api.raise_request_exception = False
    answer = api.get(url(scheme))
    assert answer.status_code == 500
    body = answer.json()
    assert body["request_id"] == answer.headers["X-Request-Id"]
    assert "a fault of ours" not in answer.content.decode()
    assert any(body["request_id"] in record.getMessage() for record in caplog.records)


@pytest.mark.parametrize("name", ["two\nlines", "nul\x00", "tab\tbed", "\u2028"])
def test_a_name_is_one_line(api, project, name):
    refused(api.send("patch", f"/api/projects/{project.pk}", {"name": name}))
    refused(api.send("post", "/api/weather/request", {"latitude": 1, "longitude": 1, "name": name}))


@pytest.mark.parametrize("zone", ["Europe", "../../etc/passwd", "Moon/Base", "\x00"])
def test_a_time_zone_that_is_none_shows_no_path_of_the_server(api, zone):
    answer = api.send("post", "/api/weather/request", {"latitude": 1, "longitude": 1, "time_zone": zone})
    refused(answer)
    assert "/usr" not in answer.content.decode()
