"""Sets of trials over HTTP: let loose, run in processes, paused and resumed, looked at, adopted; and what is refused."""

import time

import pytest

from noontide.core.design import Design
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import simulate
from noontide.core.trials import Run, Study
from noontide.core.trials.runs_table import RunColumns
from noontide.server.jobs.models import Job
from noontide.server.projects.models import Scheme
from noontide.server.projects.revising import revise
from noontide.server.trials import keeping
from noontide.server.trials.models import TrialChunk, TrialSet
from tests.server.conftest import found_by_job

TILT = ["/surfaces/barn/tilt"]
STRINGS = ["/subarrays/south/modules_per_string"]
GRID = {
    "loose": {
        "tilt": {"title": "Tilt, Barn", "unit": "°", "pointers": TILT, "values": [10, 20, 30]},
        "modules": {"title": "Modules per string", "pointers": STRINGS, "values": [16, 17]},
    },
    "aim": {"figure": "energy", "better": "more"},
}


@pytest.fixture
def scheme(project):
    return project.pinned


def ended(api, trial: int, seconds: float = 60) -> dict:
    end = time.monotonic() + seconds
    while (answer := api.send("get", f"/api/trials/{trial}").json())["state"] == "running" and time.monotonic() < end:
        time.sleep(0.05)
    while Job.objects.filter(kind="trials", state__in=["waiting", "running"]).exists() and time.monotonic() < end:
        time.sleep(0.05)
    return answer


def draft(api, scheme, study=GRID) -> dict:
    answer = api.send("post", f"/api/schemes/{scheme.pk}/trials", {"study": study})
    assert answer.status_code == 201, answer.json()
    return answer.json()


def stored(scheme, study=GRID, runs=(), state="done") -> TrialSet:
    """A set with runs, as a job leaves it."""
    parsed = Study.model_validate(study)
    trial = TrialSet.objects.create(
        scheme=scheme,
        study=study,
        document=scheme.head.document,
        revision=scheme.head.number,
        state=state,
        total=6,
        done=len(runs),
    )
    TrialChunk.objects.create(set=trial, body=RunColumns.of(parsed, list(runs)).as_bytes())
    return trial


def some_runs(count: int = 6) -> list[Run]:
    return [
        Run(n, {"tilt": [10, 20, 30][n // 2 % 3], "modules": 16 + n % 2}, "done", {"energy": 1000.0 + n, "errors": float(n % 2)}, design=f"{n + 1:016x}")
        for n in range(count)
    ]  # fmt: skip


def test_a_value_is_let_loose_in_a_draft_that_says_what_it_comes_to(api, scheme):
    letting = f"/api/schemes/{scheme.pk}/trials/loosen"
    one = api.send("post", letting, {"pointers": TILT}).json()
    assert (one["state"], one["outlook"]["runs"], one["loose"][0]["pointers"]) == ("draft", 7, TILT)
    two = api.send("post", letting, {"pointers": STRINGS}).json()
    assert two["id"] == one["id"] and two["outlook"]["runs"] == 7 * two["loose"][1]["count"] == two["outlook"]["solar_years"]
    assert two["outlook"]["seconds"] > 0 and {"energy", "errors"} <= {column["key"] for column in two["figures"]}
    held = api.send("post", letting, {"pointers": TILT, "loose": False}).json()
    assert [line["pointers"] for line in held["loose"]] == [STRINGS]
    assert api.send("post", letting, {"pointers": STRINGS, "loose": False}).json()["study"] is None
    refused = api.send("post", letting, {"pointers": ["/surfaces/attic/tilt"]})
    assert refused.status_code == 422 and "/surfaces/attic/tilt" in refused.json()["detail"]


@pytest.mark.django_db(transaction=True)
def test_trials_run_and_every_run_is_its_design_alone(api, scheme, hill_weather, parts):
    begun = draft(api, scheme)
    assert api.send("post", f"/api/trials/{begun['id']}/start").status_code == 202
    done = ended(api, begun["id"])
    assert (done["state"], done["done"], done["failed"], done["changed"]) == ("done", 6, 0, []), done
    page = api.send("get", f"/api/trials/{begun['id']}/runs?sort=energy&down=true").json()
    energies = [row["figures"]["energy"] for row in page["rows"]]
    assert energies == sorted(energies, reverse=True) and page["chosen"] == page["total"] == 6
    best = page["rows"][0]
    made = api.send("post", f"/api/trials/{begun['id']}/adopt", {"run": best["number"], "pin": True})
    assert made.status_code == 201
    scheme_made = Scheme.objects.get(pk=made.json()["id"])
    design = Design.read(scheme_made.head.document)
    assert design.surfaces["barn"].tilt == best["values"]["tilt"] and design.name.startswith(f"Run {best['number']}: Tilt ")
    alone = figures_of(simulate(design, hill_weather, parts))
    assert {key: best["figures"][key] for key in alone} == alone
    scheme.project.refresh_from_db()
    assert scheme.project.pinned_id == scheme_made.pk
    # The design below is another now: the set says so, and is run again on it in one go.
    revise(scheme, {"losses": {"soiling": 5}}, based_on=scheme.head.number)
    assert api.send("get", f"/api/trials/{begun['id']}").json()["changed"] == ["losses"]
    assert api.send("post", f"/api/trials/{begun['id']}/again").status_code == 202
    anew = ended(api, begun["id"])
    assert (anew["state"], anew["done"], anew["changed"]) == ("done", 6, [])
    rows = api.send("get", f"/api/trials/{begun['id']}/runs").json()["rows"]
    assert all(row["figures"]["energy"] < best["figures"]["energy"] for row in rows)


@pytest.mark.django_db(transaction=True)
def test_trials_are_paused_and_go_on_from_there(api, scheme):
    study = {"loose": {"tilt": {"pointers": TILT, "low": 0, "high": 60, "step": 0.1}}}
    begun = draft(api, scheme, study)
    api.send("post", f"/api/trials/{begun['id']}/start")
    again = api.send("post", f"/api/trials/{begun['id']}/start")
    assert again.status_code == 409 and "running" in again.json()["title"]
    while api.send("get", f"/api/trials/{begun['id']}").json()["done"] < 20:
        time.sleep(0.05)
    assert api.send("post", f"/api/trials/{begun['id']}/pause").json()["state"] == "paused"
    paused = ended(api, begun["id"])
    assert paused["state"] == "paused" and 20 <= paused["done"] < 601
    before = api.send("get", f"/api/trials/{begun['id']}/runs?count=500").json()
    assert before["total"] == api.send("get", f"/api/trials/{begun['id']}").json()["done"], "what was done is kept"
    api.send("post", f"/api/trials/{begun['id']}/start")
    done = ended(api, begun["id"], 120)
    after = api.send("get", f"/api/trials/{begun['id']}/runs?count=500").json()
    assert (done["state"], done["done"], after["total"]) == ("done", 601, 601)
    kept = {row["number"]: row["figures"]["energy"] for row in after["rows"]}
    assert all(kept[row["number"]] == row["figures"]["energy"] for row in before["rows"] if row["number"] in kept)


def test_a_set_whose_server_was_ended_says_so_and_can_be_taken_up(api, scheme):
    trial = stored(scheme, runs=some_runs(3), state="running")
    answer = api.send("get", f"/api/trials/{trial.pk}").json()
    assert (answer["state"], answer["done"]) == ("interrupted", 3)


def test_runs_are_sorted_filtered_and_put_together(api, scheme):
    address = f"/api/trials/{stored(scheme, runs=some_runs()).pk}"
    rows = api.send("get", f"{address}/runs?sort=energy&down=true&where=tilt:20:30&where=energy::1004&count=2&first=1").json()
    assert (rows["chosen"], [row["number"] for row in rows["rows"]]) == (3, [3, 2])
    cells = api.send("get", f"{address}/map?x=tilt&y=modules&figure=energy").json()["cells"]
    assert {(cell["x"], cell["y"]): cell["value"] for cell in cells}[30, 17] == 1005
    effects = api.send("get", f"{address}/effects?figure=energy&hold=modules:16").json()["effects"]
    assert [cell["value"] for cell in effects[0]["cells"]] == [1000, 1002, 1004]
    front = api.send("get", f"{address}/front?x=energy&y=errors").json()
    assert [point["run"] for point in front["points"] if point["is_front"]] == [4, 5]
    good = api.send("get", f"{address}/good?share=0.1").json()
    assert (good["count"], good["rows"][0]["number"], good["common"]) == (2, 5, ["Tilt is 30° in all of them."])
    # Limits and aims are read from the runs that there are: nothing is run again.
    limited = api.send("put", address, {"study": GRID | {"limits": [{"figure": "errors", "at_most": 0}]}}).json()
    assert (limited["state"], limited["kept"]) == ("done", 3)
    assert api.send("get", f"{address}/good?share=0").json()["rows"][0]["number"] == 4
    # Other values ask for other runs: a draft beside the set.
    other = api.send("put", address, {"study": {"loose": {"tilt": GRID["loose"]["tilt"]}}}).json()
    assert other["state"] == "draft" and other["id"] != limited["id"]


@pytest.mark.parametrize("kind", ["csv", "xlsx", "parquet", "study"])
def test_runs_are_taken_away_as_files(api, scheme, kind):
    import io

    import pandas as pd

    answer = api.get(f"/api/trials/{stored(scheme, runs=some_runs()).pk}/file?kind={kind}")
    assert answer.status_code == 200 and f".{'json' if kind == 'study' else kind}" in answer["Content-Disposition"]
    content = answer.content
    if kind == "study":
        assert Study.model_validate(answer.json()) == Study.model_validate(GRID)
        return
    table = {"csv": pd.read_csv, "xlsx": pd.read_excel, "parquet": pd.read_parquet}[kind](io.BytesIO(content))
    assert table["energy"].tolist() == [1000.0 + n for n in range(6)] and table["tilt"].tolist() == [10, 10, 20, 20, 30, 30]


@pytest.mark.parametrize(
    ("study", "pointer"),
    [
        ({"loose": {}}, "/loose"),
        ({"loose": {"t": {"pointers": TILT}}}, "/loose/t"),
        ({"loose": {"t": {"pointers": TILT, "values": [1]}}, "way": "guess"}, "/way"),
        ({"loose": {"t": {"pointers": TILT, "low": 5, "high": 1, "step": 1}}}, "/loose/t"),
    ],
)
def test_what_is_no_study_is_refused_with_its_place(api, scheme, study, pointer):
    answer = api.send("post", f"/api/schemes/{scheme.pk}/trials", {"study": study})
    assert answer.status_code == 422 and answer.json()["errors"][0]["pointer"].startswith(pointer)
    assert not TrialSet.objects.exists()


@pytest.mark.parametrize(
    ("study", "said"),
    [
        ({"loose": {"t": {"pointers": TILT, "values": [10, 95]}}}, "95"),
        (
            {"loose": {k: {"pointers": [f"/losses/{k}"], "low": 0, "high": 20, "step": 0.001} for k in ("soiling", "mismatch")}},
            "can be made",
        ),
        (GRID | {"aim": {"figure": "net_present_value", "better": "more"}}, "has no net present value"),
        (GRID | {"limits": [{"figure": "beauty", "at_least": 1}]}, "no figure 'beauty'"),
    ],
)
def test_what_cannot_be_run_is_said_before_anything_starts(api, scheme, study, said):
    begun = draft(api, scheme, study)
    assert said in begun["outlook"]["problem"]
    answer = api.send("post", f"/api/trials/{begun['id']}/start")
    assert answer.status_code == 422 and said in answer.json()["detail"]
    assert TrialSet.objects.get().state == "draft" and not Job.objects.exists()


def test_bad_questions_get_words_and_nobody_sees_anothers_trials(api, scheme, django_user_model):
    trial = stored(scheme, runs=some_runs())
    for query in (
        "runs?sort=beauty", "runs?where=energy:low:", "runs?first=minus", "map?x=tilt&y=beauty&figure=energy", "map?x=tilt&y=modules&figure=x",
        "effects?figure=energy&hold=beauty:1", "effects?figure=energy&of=worst", "front?x=energy&y=x", "good?share=200", "file?kind=pdf",
    ):  # fmt: skip
        answer = api.send("get", f"/api/trials/{trial.pk}/{query}")
        assert answer.status_code == 422 and answer.json()["title"], query
    assert api.send("post", f"/api/trials/{trial.pk}/adopt", {"run": 77}).status_code == 404
    assert api.send("get", f"/api/trials/{trial.pk}/runs/77").status_code == 404
    scheme.project.owner = django_user_model.objects.create(username="another")
    scheme.project.save()
    assert api.send("get", f"/api/trials/{trial.pk}").status_code == 404
    assert api.send("delete", f"/api/trials/{trial.pk}").status_code == 404 and TrialSet.objects.count() == 1


def test_a_hundred_thousand_runs_are_read_once_and_answered_page_by_page(api, scheme):
    study = {"loose": {"tilt": {"pointers": TILT, "low": 0, "high": 60}}, "way": "sobol", "runs": 100_000}
    parsed = Study.model_validate(study)
    trial = TrialSet.objects.create(
        scheme=scheme, study=study, document=scheme.head.document, revision=1, state="done", total=100_000, done=100_000
    )
    for first in range(0, 100_000, 5_000):
        runs = [
            Run(n, {"tilt": n * 6e-4}, "done", {"energy": float(n % 9973)}, design=f"{n:016x}")
            for n in range(first, first + 5_000)
        ]
        TrialChunk.objects.create(set=trial, body=RunColumns.of(parsed, runs).as_bytes())
    address = f"/api/trials/{trial.pk}"
    first = api.send("get", f"{address}/runs?sort=energy&down=true&count=200").json()
    assert first["total"] == 100_000 and first["rows"][0]["figures"]["energy"] == 9972
    assert keeping.table_of(trial) is keeping.table_of(trial)
    began = time.monotonic()
    page = api.send("get", f"{address}/runs?sort=energy&where=energy:100:200&first=900&count=200").json()
    assert [row["figures"]["energy"] for row in page["rows"]] == sorted(row["figures"]["energy"] for row in page["rows"])
    assert len(api.send("get", f"{address}/effects?figure=energy").json()["effects"][0]["cells"]) == 24
    assert len(api.send("get", f"{address}/front?x=energy&y=energy").json()["points"]) <= 3_001
    assert time.monotonic() - began < 20


def test_what_a_step_of_each_input_does_is_a_job(scheme):
    found = found_by_job(scheme, "sensitivity", {"figure": "specific_yield"}).model_dump()
    assert found["steps"][0]["title"] and found["without"] > 0
    own = found["value"]
    reaches = [max(abs(v - own) for v in (line["lower"], line["higher"]) if v is not None) for line in found["steps"]]
    assert reaches == sorted(reaches, reverse=True)
