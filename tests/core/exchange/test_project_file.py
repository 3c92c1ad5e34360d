"""A project's file: it gives back what went in to the last bit, and nothing of a file that was tampered with."""

import io
import json
import zipfile
from hashlib import sha256
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from noontide.core.demand.series import UseSeries
from noontide.core.design import Design
from noontide.core.exchange import (
    ArchiveError,
    KeptPicture,
    KeptRevision,
    KeptScheme,
    KeptTrials,
    KeptUse,
    KeptWeather,
    ProjectFile,
    pack,
    unpack,
)
from noontide.core.exchange import archive as archives
from noontide.core.simulation import simulate
from noontide.core.trials import Run, Study
from noontide.core.trials.runs_table import RunColumns, RunsTable

STUDY = Study.model_validate(
    {"name": "Tilts", "loose": {"tilt": {"pointers": ["/surfaces/barn/tilt"], "values": [10, 20, 0.1 + 0.2]}, "model": {"pointers": ["/inverters/main/model"], "values": ["hexley-20", "x"]}}}
)  # fmt: skip
RUNS = [
    Run(
        0, {"tilt": 10, "model": "hexley-20"}, "done", {"energy": 1 / 3, "payback": None}, design="fedcba9876543210", seconds=0.25
    ),
    Run(7, {"tilt": 0.1 + 0.2, "model": "x"}, "failed", error="There is no inverter 'x'."),
]
PICTURE = b"\x89PNG\r\n\x1a\n" + bytes(40)


@pytest.fixture
def project(roof_document, hill_weather) -> ProjectFile:
    """Two schemes, one of them with a history that branches after an undo."""
    document = Design.read(roof_document).as_kept() | {"weather": {"digest": hill_weather.digest, "title": "Hill"}}
    steeper = document | {"name": "Steeper – ΔT ≤ 5 K, Żółć"}
    losses = document | {"losses": {"soiling": 0.1 + 0.2}}
    revisions = (
        KeptRevision(1, document, None, 1, "", "2026-11-29T08:00:00+00:00", "local"),
        KeptRevision(4, steeper, 1, 2, "6f1c0c32-0000-4000-8000-000000000000"),
        KeptRevision(5, losses, 1, 5),
    )
    powers = np.full((3, 24), 0.1)
    powers[1, 7] = np.nan
    return ProjectFile(
        uid="0123456789abcdef" * 2,
        name="Aldermoor Dairy",
        schemes=(KeptScheme("A", 5, revisions), KeptScheme("B", 7, (KeptRevision(7, steeper, None, 0),))),
        customer="The dairy",
        note="=1+1",
        pinned="B",
        weather=(KeptWeather(hill_weather, b"as it was uploaded", "hill.csv"),),
        use=(KeptUse(UseSeries("Meter", "2025-01-01", 60, powers), b"readings", "meter.csv", None, ("a gap",)),),
        pictures=(KeptPicture(sha256(PICTURE).hexdigest(), PICTURE),),
        trials=(
            KeptTrials("A", STUDY, losses, 5, "paused", 9, 1.5, "2026-11-29T09:00:00+00:00", RunColumns.of(STUDY, RUNS)),
            KeptTrials("B", STUDY, steeper, 7, "draft", 0, 0.0, ""),
        ),
    )


def rewritten(content: bytes, change) -> bytes:
    """The archive with its files changed by a function, without its marks being made to fit."""
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, body in change(files).items():
            archive.writestr(name, body)
    return out.getvalue()


def marked(files: dict[str, bytes], change=lambda manifest: None) -> dict[str, bytes]:
    """Files whose marks fit: what somebody would do who knows the format."""
    manifest = json.loads(files["project.json"])
    change(manifest)
    manifest["files"] = {
        name: {"bytes": len(body), "sha256": sha256(body).hexdigest()} for name, body in files.items() if name != "project.json"
    }
    return files | {"project.json": json.dumps(manifest).encode()}


def test_what_goes_in_comes_out(project, parts):
    content = pack(project)
    assert pack(project) == content, "the same project makes the same bytes"
    found = unpack(content)
    assert (found.uid, found.name, found.customer, found.note, found.pinned) == (
        project.uid, "Aldermoor Dairy", "The dairy", "=1+1", "B",
    )  # fmt: skip
    assert found.schemes[0] == project.schemes[0]
    assert found.schemes[1].document == project.schemes[1].document
    assert found.weather[0].weather.digest == project.weather[0].weather.digest
    assert (found.weather[0].content, found.weather[0].file_name) == (b"as it was uploaded", "hill.csv")
    assert np.array_equal(found.use[0].series.power, project.use[0].series.power, equal_nan=True)
    assert found.pictures == project.pictures
    paused, draft = found.trials
    assert (paused.study, paused.document, paused.state, paused.total, paused.seconds) == (
        STUDY, project.schemes[0].document, "paused", 9, 1.5,
    )  # fmt: skip
    before, after = (RunsTable(STUDY, one.trials[0].runs) for one in (project, found))
    assert [before.run(place) for place in (0, 1)] == [after.run(place) for place in (0, 1)]
    assert after.run(0).figures == {"energy": 1 / 3, "payback": None} and after.run(0).design == "fedcba9876543210"
    assert (draft.letter, draft.runs) == ("B", None)
    assert pack(found) == content, "what was brought in and is taken away again is the same file"
    # The same figures, to the last bit: same values, same code.
    for scheme in (0, 1):
        before = simulate(Design.read(project.schemes[scheme].document), project.weather[0].weather, parts)
        after = simulate(Design.read(found.schemes[scheme].document), found.weather[0].weather, parts)
        assert after.annual.energy == before.annual.energy


def test_designs_of_older_formats_come_out_in_todays(project):
    old = {"format": "noontide-design/4", **{k: v for k, v in project.schemes[1].document.items() if k != "format"}}

    def age(files):
        return marked(files | {"schemes/b.json": json.dumps(old).encode()})

    found = unpack(rewritten(pack(project), age))
    assert found.schemes[1].document["format"] == project.schemes[1].document["format"]


NOON = 128 + 8 * (24 * 170 + 11)  # bytes to an hour of the GHI column
HOSTILE = {
    "a letter changed": (lambda f: f | {"schemes/b.json": f["schemes/b.json"].replace(b"Steeper", b"steeper")}, "is not what it was"),
    "a file more": (lambda f: f | {"schemes/c.json": b"{}"}, "does not name"),
    "a file less": (lambda f: {k: v for k, v in f.items() if k != "history/a.json"}, "is missing"),
    "no list": (lambda f: {k: v for k, v in f.items() if k != "project.json"}, "another kind of archive"),
    "out of the archive": (lambda f: f | {"../../etc/cron": b"x"}, "plain and below"),
    "an absolute path": (lambda f: f | {"/etc/passwd": b"x"}, "plain and below"),
    "a drive": (lambda f: f | {"c:\\x": b"x"}, "plain and below"),
    "a bomb": (lambda f: f | {"bomb": bytes(200_000_000)}, "would grow"),
    "a list that is no JSON": (lambda f: f | {"project.json": b"["}, "no JSON"),
    "a list of a later version": (lambda f: f | {"project.json": b'{"format": "noontide-project/9"}'}, "later version"),
    "a list that nests without end": (lambda f: f | {"project.json": b"[" * 100_000}, "no JSON"),
    "another year's values": (
        lambda f: marked(f | {k: f[k][:NOON] + f[k][NOON + 8 : NOON + 16] + f[k][NOON + 8 :] for k in f if k.startswith("weather") and k.endswith(".npy")}),
        "is not the year",
    ),
    "values of another kind": (
        lambda f: marked(f | {k: b"\x93NUMPY\x01\x00v\x00{'descr': '|O', 'fortran_order': False, 'shape': (1,), }" + b" " * 60 + b"\n" for k in f if k.endswith(".npy")}),
        "no table",
    ),
    "a design that is none": (lambda f: marked(f | {"schemes/b.json": b'{"site": {"latitude": 99, "longitude": 0}}'}), "latitude"),
    "a revision without a parent": (
        lambda f: marked(f | {"history/a.json": f["history/a.json"].replace(b'"parent": 1', b'"parent": 3')}), "no parent",
    ),
    "two schemes of one letter": (
        lambda f: marked(f, lambda m: m["schemes"].append(m["schemes"][0])), "one letter for two",
    ),
    "a file named that is not there": (
        lambda f: marked(f, lambda m: m["weather"][0].update(source="schemes/z.json")), "does not hold",
    ),
    "trials of a scheme that is not there": (lambda f: marked(f, lambda m: m["trials"][0].update(letter="Z")), "does not have"),
    "a study that is none": (lambda f: marked(f, lambda m: m["trials"][0]["study"].update(loose={})), "the study is none"),
    "figures that the runs have not": (lambda f: marked(f, lambda m: m["trials"][0].update(figures=["energy"])), "columns"),
    "a run that is there twice": (
        lambda f: marked(f | {"trials/1.npy": f["trials/1.npy"].replace(np.float64(7).tobytes(), np.float64(0).tobytes(), 1)}), "twice",
    ),
    "half a run": (
        lambda f: marked(f | {"trials/1.npy": f["trials/1.npy"].replace(np.float64(7).tobytes(), np.float64(6.5).tobytes(), 1)}), "whole numbers",
    ),
    "a picture that is none": (
        lambda f: marked(f | {k: b"<svg onload='alert(1)'/>" for k in f if k.startswith("pictures")}), "is not the picture",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_a_file_that_was_tampered_with_is_refused_with_words(project, name):
    change, words = HOSTILE[name]
    with pytest.raises(ArchiveError, match=words):
        unpack(rewritten(pack(project), change))


def test_a_file_that_lies_about_its_length_is_not_read_to_its_end(project, monkeypatch):
    content = pack(project)
    monkeypatch.setattr(archives, "MOST_MANIFEST", 100)
    with pytest.raises(ArchiveError, match="longer than it should be"):
        unpack(content)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_damaged_bytes_never_give_another_project(project, data):
    content = bytearray(pack(project))
    for _ in range(data.draw(st.integers(1, 4))):
        content[data.draw(st.integers(0, len(content) - 1))] ^= data.draw(st.integers(1, 255))
    if data.draw(st.booleans()):
        content = content[: data.draw(st.integers(0, len(content)))]
    try:
        found = unpack(bytes(content))
    except ArchiveError:
        pass
    else:
        # Bytes that the format leaves free (times, comments) may differ: what is read may not.
        assert pack(found) == pack(project)


DATA = Path(__file__).resolve().parents[2] / "data"


def test_files_of_every_format_that_there_ever_was_open_with_the_same_designs_and_values(parts):
    """`project-1.noontide` was written by the first version that wrote any, with a design of format 4 and one of format 5."""
    found = unpack((DATA / "project-1.noontide").read_bytes())
    assert (found.name, found.customer, found.pinned) == ("Kept roofs", "Nobody", "A")
    kept = json.loads((DATA / "design-4.json").read_text(encoding="utf-8"))
    first = found.schemes[0].document
    assert Design.read(first | {"weather": None}) == Design.read(Design.read(kept).as_kept() | {"weather": None})
    (year,) = found.weather
    assert year.weather.digest == "4e98eb6731f46c49ad9dde2c2452e5bd" and year.weather.calendar.intervals == 8760
    for scheme in found.schemes:
        assert simulate(Design.read(scheme.document), year.weather, parts).annual.energy > 20_000
