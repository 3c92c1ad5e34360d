import numpy as np
import pytest

from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.weather import as_text
from noontide.parts import built_in_parts
from noontide.server.projects.models import Revision
from noontide.server.projects.revising import begin_project, revise
from noontide.server.weather_library.storing import store

TILT_25 = {"surfaces": {"barn": {"tilt": 25}}}


def url(scheme, rest: str = "") -> str:
    return f"/api/schemes/{scheme.pk}{rest}"


def test_a_scheme_answers_with_the_numbers_of_the_core_to_the_last_digit(api, scheme, hill_weather):
    answer = api.get(url(scheme)).json()
    results = simulate(Design.model_validate(scheme.head.document), hill_weather, built_in_parts())
    assert answer["evaluation"]["headline"]["energy"] == results.annual.energy
    assert [line["energy"] for line in answer["evaluation"]["cascade"]["lines"]] == [e.energy for e in results.cascade.entries]


def test_an_edit_brings_the_new_revision_its_figures_and_what_it_touched(api, scheme):
    before = api.get(url(scheme)).json()
    answer = api.send("patch", url(scheme), TILT_25, revision=1)
    assert answer.status_code == 200
    assert answer.headers["ETag"] == '"2"'
    body = answer.json()
    assert (body["revision"], body["changed"], body["can_undo"], body["can_redo"]) == (2, ["surfaces"], True, False)
    assert body["evaluation"]["headline"]["energy"] > before["evaluation"]["headline"]["energy"]


def test_an_edit_that_changes_nothing_makes_no_revision(api, scheme):
    assert api.send("patch", url(scheme), {"surfaces": {"barn": {"tilt": 18}}}, revision=1).json()["revision"] == 1


def test_null_puts_a_value_back_to_its_default(api, scheme):
    api.send("patch", url(scheme), {"losses": {"soiling": 6}}, revision=1)
    body = api.send("patch", url(scheme), {"losses": {"soiling": None}}, revision=2).json()
    assert body["document"]["losses"] == {}


def test_an_edit_based_on_an_older_revision_is_refused_and_writes_nothing(api, scheme):
    revise(scheme, TILT_25, based_on=1)
    answer = api.send("patch", url(scheme), {"surfaces": {"barn": {"tilt": 35}}}, revision=1)
    assert (answer.status_code, answer.json()["type"], answer.json()["newest"]) == (412, "/problems/stale-revision", 2)
    scheme.refresh_from_db()
    assert scheme.head.document["surfaces"]["barn"]["tilt"] == 25


def test_an_edit_without_if_match_is_refused(api, scheme):
    assert api.patch(url(scheme), data="{}", content_type="application/json").status_code == 428


@pytest.mark.parametrize(
    ("patch", "pointer", "said"),
    [
        ({"surfaces": {"barn": {"tilt": 95}}}, "/surfaces/barn/tilt", "Enter 90 or less."),
        ({"surfaces": {"barn": {"tilt": -1}}}, "/surfaces/barn/tilt", "Enter 0 or more."),
        ({"surfaces": {"barn": {"tilt": "steep"}}}, "/surfaces/barn/tilt", "Enter a number."),
        ({"subarrays": {"south": {"strings": 1.5}}}, "/subarrays/south/strings", "Enter a whole number."),
        ({"surfaces": {"barn": {"slope": 5}}}, "/surfaces/barn/slope", "There is no value named 'slope' here."),
        ({"surfaces": None}, "", "surface 'barn', which does not exist"),
    ],
)
def test_a_wrong_value_is_told_at_its_pointer_and_nothing_is_lost(api, scheme, patch, pointer, said):
    answer = api.send("patch", url(scheme), patch, revision=1)
    assert answer.status_code == 422
    assert answer.headers["Content-Type"] == "application/problem+json"
    finding = answer.json()["errors"][0]
    assert finding["pointer"] == pointer
    assert said in finding["detail"]
    assert Revision.objects.filter(scheme=scheme).count() == 1


def test_an_edit_of_many_megabytes_is_not_even_read(api, scheme):
    answer = api.send("patch", url(scheme), {"name": "x" * 5_000_000}, revision=1)
    assert (answer.status_code, answer.json()["title"]) == (413, "The request is too large")


def test_weather_that_arrives_later_is_seen(api, roof_document, hill_weather):
    """A scheme may come from elsewhere before its weather does."""
    reference = {"weather": {"digest": hill_weather.digest, "title": "hill"}}
    project = begin_project("Early", roof_document | reference)
    assert api.get(url(project.pinned)).json()["evaluation"]["headline"] is None
    store(as_text(hill_weather, "csv").encode(), "hill.csv")
    assert api.get(url(project.pinned)).json()["evaluation"]["headline"]["energy"] > 0


def test_nan_is_no_json(api, scheme):
    body = '{"surfaces": {"barn": {"tilt": NaN}}}'
    answer = api.patch(url(scheme), data=body, content_type="application/json", headers={"If-Match": '"1"'})
    assert answer.status_code == 400


def test_undo_and_redo_walk_the_revisions(api, scheme):
    for revision, tilt in ((1, 25), (2, 35)):
        api.send("patch", url(scheme), {"surfaces": {"barn": {"tilt": tilt}}}, revision=revision)
    back = api.send("post", url(scheme, "/undo"), revision=3).json()
    assert (back["document"]["surfaces"]["barn"]["tilt"], back["can_redo"]) == (25, True)
    assert api.send("post", url(scheme, "/redo"), revision=2).json()["document"]["surfaces"]["barn"]["tilt"] == 35
    for revision in (3, 2):
        api.send("post", url(scheme, "/undo"), revision=revision)
    answer = api.send("post", url(scheme, "/undo"), revision=1)
    assert (answer.status_code, answer.json()["title"]) == (409, "There is nothing to undo.")


def test_an_edit_after_undo_starts_a_branch_and_history_keeps_both(api, scheme):
    api.send("patch", url(scheme), TILT_25, revision=1)
    api.send("post", url(scheme, "/undo"), revision=2)
    branch = api.send("patch", url(scheme), {"surfaces": {"barn": {"tilt": 40}}}, revision=1).json()
    assert (branch["revision"], branch["can_redo"]) == (3, False)
    lines = api.get(url(scheme, "/revisions")).json()
    assert [(line["number"], line["parent"], line["is_head"]) for line in lines] == [
        (1, None, False),
        (2, 1, False),
        (3, 1, True),
    ]


def test_fork_pin_and_delete_with_a_way_back(api, project, scheme):
    fork = api.send("post", url(scheme, "/fork"), {"name": "Steeper"})
    assert fork.status_code == 201
    made = fork.json()
    assert (made["letter"], made["document"]["name"]) == ("B", "Steeper")
    assert api.send("delete", url(scheme)).json()["title"] == "The pinned scheme cannot be deleted"
    assert api.send("post", f"/api/schemes/{made['id']}/pin").json()["pinned"] == made["id"]
    assert api.send("delete", url(scheme)).status_code == 204
    assert [s["letter"] for s in api.get(f"/api/projects/{project.pk}").json()["schemes"]] == ["B"]
    assert api.send("post", url(scheme, "/restore")).status_code == 200
    assert [s["letter"] for s in api.get(f"/api/projects/{project.pk}").json()["schemes"]] == ["A", "B"]


def test_a_project_is_begun_renamed_deleted_and_restored(api, project, roof_document):
    made = api.send("post", "/api/projects", {"name": "New", "document": roof_document}).json()
    assert api.send("patch", f"/api/projects/{made['id']}", {"name": "Newer"}).json()["name"] == "Newer"
    assert api.send("delete", f"/api/projects/{made['id']}").status_code == 204
    assert {p["name"] for p in api.get("/api/projects").json()} == {"Aldermoor Dairy"}
    api.send("post", f"/api/projects/{made['id']}/restore")
    assert {p["name"] for p in api.get("/api/projects").json()} == {"Aldermoor Dairy", "Newer"}


def test_an_unfinished_scheme_says_what_it_needs(api, roof_document):
    project = begin_project("Empty", {"site": roof_document["site"]})
    evaluation = api.get(url(project.pinned)).json()["evaluation"]
    assert evaluation["headline"] is None
    assert {b["name"]: b["state"] for b in evaluation["benches"]} == {
        "site": "fine",
        "sky": "fine",
        "weather": "open",
        "surfaces": "open",
        "scene": "fine",
        "circuits": "open",
        "demand": "unused",
        "storage": "unused",
        "losses": "fine",
        "money": "unused",
    }
    assert api.get(url(project.pinned, "/working/energy")).status_code == 409


def test_an_unknown_part_becomes_a_check_not_a_fault(api, scheme):
    body = api.send("patch", url(scheme), {"subarrays": {"south": {"module": "nobody-1"}}}, revision=1).json()
    assert body["evaluation"]["checks"][0]["pointer"] == "/subarrays/south/module"


def test_hourly_columns_carry_the_year(api, scheme, hill_weather):
    answer = api.get(url(scheme, "/hourly?quantities=delivered,poa"))
    assert answer.headers["Content-Type"] == "application/vnd.noontide.columns"
    length = int.from_bytes(answer.content[:4], "little")
    values = np.frombuffer(answer.content[4 + length :], "<f4").reshape(2, 8760)
    exact = api.get(url(scheme, "/hourly?quantities=delivered,poa&kind=json")).json()
    assert np.allclose(values[0], exact["columns"][0]["values"], rtol=1e-6, atol=1e-3)
    energy = api.get(url(scheme)).json()["evaluation"]["headline"]["energy"]
    assert sum(exact["columns"][0]["values"]) / 1000 == pytest.approx(energy)
    table = api.get(url(scheme, "/hourly?quantities=delivered&kind=csv")).content.decode().splitlines()
    assert table[0] == "start,delivered [W]"
    assert len(table) == 8761


@pytest.mark.parametrize(
    ("path", "status"),
    [
        ("/hourly?quantities=luck", 422),
        ("/hourly?quantities=", 422),
        ("/hourly?quantities=poa&subarray=none", 422),
        ("/hourly?quantities=poa&kind=xls", 422),
        ("/moment/9000", 422),
        ("/working/luck", 404),
        ("/voltages/none", 404),
        ("/orientation?season=spring", 422),
    ],
)
def test_what_is_not_there_is_told(api, scheme, path, status):
    answer = api.get(url(scheme, path))
    assert answer.status_code == status
    assert answer.json()["title"]


def test_the_best_facing_is_on_the_map_and_faces_the_equator(api, scheme):
    found = api.get(url(scheme, "/orientation")).json()
    assert abs(found["best_azimuth"] - 180) <= 12
    assert 25 <= found["best_tilt"] <= 45
    assert found["best"] == pytest.approx(max(map(max, found["irradiation"])), abs=0.01)
    assert found["surfaces"]["barn"] < found["best"]


def test_voltages_tell_which_lengths_fit(api, scheme):
    found = api.get(url(scheme, "/voltages/south")).json()
    for row in found["rows"]:
        assert row["fits"] == (row["cold_open_circuit"] <= found["limit"] and row["hot_working"] >= found["lowest"])
        assert row["hot_working"] < row["cold_open_circuit"]
        assert sum(row["working"]) > 3000


def test_a_moment_shows_every_stage(api, scheme):
    values = {v["key"]: v["value"] for v in api.get(url(scheme, "/moment/4020")).json()["values"]}
    assert values["poa"] >= values["effective"] > 0
    assert values["dc_power"] > values["delivered"] > 0


def test_writing_without_the_token_is_refused(scheme):
    from django.test import Client

    guarded = Client(enforce_csrf_checks=True)
    answer = guarded.patch(url(scheme), data="{}", content_type="application/json", headers={"If-Match": '"1"'})
    assert answer.status_code == 403
    assert answer.headers["Content-Type"] == "application/problem+json"


def test_pages_allow_nothing_from_elsewhere(api):
    policy = api.get("/api/quantities").headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "frame-ancestors 'none'" in policy


def test_the_table_of_months_is_that_of_the_revision(api, scheme):
    before = api.get(f"/api/schemes/{scheme.pk}").json()
    table = api.get(f"/api/schemes/{scheme.pk}/months").json()
    assert table["revision"] == before["revision"]
    assert [month["energy"] for month in table["months"]] == pytest.approx(before["evaluation"]["headline"]["monthly_energy"])
    assert table["year"]["energy"] == pytest.approx(before["evaluation"]["headline"]["energy"])


def test_a_surface_that_turns_has_a_day_and_an_irradiation_of_its_own(api, scheme):
    fixed = api.get(url(scheme, "/orientation")).json()
    assert api.get(url(scheme, "/planes/172")).json()["surfaces"] == {}
    api.send("patch", url(scheme), {"surfaces": {"barn": {"tracking": {}, "mounting": "open rack"}}}, revision=1)
    turning = api.get(url(scheme, "/orientation")).json()
    assert turning["surfaces"]["barn"] > fixed["best"] > fixed["surfaces"]["barn"]
    day = api.get(url(scheme, "/planes/172")).json()
    assert len(day["surfaces"]["barn"]["rotation"]) == len(day["elevation"]) == 144
    assert max(day["surfaces"]["barn"]["rotation"]) == -min(day["surfaces"]["barn"]["rotation"]) == 55
    assert api.get(url(scheme, "/planes/366")).status_code == 422


def test_the_paths_of_the_sun_need_no_weather(api, scheme):
    paths = api.get(url(scheme, "/sun-paths")).json()
    assert (len(paths["elevation"]), len(paths["noon"])) == (365 * 144, 365)
    api.send("patch", url(scheme), {"weather": None}, revision=1)
    assert api.get(url(scheme, "/sun-paths")).json()["utc_offset"] == 1


def test_each_obstacle_has_its_line_and_its_cost(api, scheme):
    tree = {"name": "Oak", "azimuth": 190, "distance": 14, "width": 6, "height": 8}
    mast = {"azimuth": 140, "distance": 9, "width": 0.3, "height": 4}
    api.send("patch", url(scheme), {"site": {"horizon": None, "obstacles": {"oak": tree, "mast": mast}}}, revision=1)
    lines = api.get(url(scheme, "/obstacles")).json()["obstacles"]
    assert (lines["oak"]["is_near"], lines["mast"]["is_near"]) == (False, True)
    assert max(lines["oak"]["highest"]["elevations"]) == pytest.approx(np.degrees(np.arctan(8 / 14)), abs=0.02)
    effect = api.get(url(scheme, "/horizon-effect")).json()
    assert effect["obstacles"]["oak"]["irradiation"] > effect["obstacles"]["mast"]["irradiation"] > 0
    lost = np.array(effect["direct_lost"]) + np.array(effect["diffuse_lost"])
    assert lost.sum() == pytest.approx(sum(o["irradiation"] for o in effect["obstacles"].values()), rel=0.05)
    assert np.all(np.array(effect["access"]) <= 1 + 1e-9)
    assert effect["horizon"]["irradiation"] == 0
    assert api.get(url(scheme, "/horizon-effect?surface=moon")).status_code == 422
    energy = api.get(url(scheme)).json()["evaluation"]["headline"]["energy"]
    api.send("patch", url(scheme), {"site": {"obstacles": {"oak": None}}}, revision=2)
    gained = api.get(url(scheme)).json()["evaluation"]["headline"]["energy"] - energy
    assert gained == pytest.approx(effect["obstacles"]["oak"]["energy"], rel=0.15)


def test_a_shade_factor_takes_its_share_of_every_hour(api, scheme):
    api.send("patch", url(scheme), {"site": {"shade_factor": {"factor": 0.8}}}, revision=1)
    effect = api.get(url(scheme, "/horizon-effect")).json()
    assert effect["is_by_hand"]
    assert np.array(effect["access"])[np.array(effect["free"]) > 0.01] == pytest.approx(0.8, abs=2e-3)
    rules = [check["rule"] for check in api.get(url(scheme)).json()["evaluation"]["checks"]]
    assert "shade-estimated" in rules
    both = {"site": {"shade_table": {"access": [[1] * 24] * 12}}}
    assert "Shade is a factor or a table" in api.send("patch", url(scheme), both, revision=2).json()["errors"][0]["detail"]


def test_the_best_orientation_by_month_and_hour_and_what_being_off_costs(api, scheme):
    year = api.get(url(scheme, "/orientation")).json()
    december = api.get(url(scheme, "/orientation?season=dec")).json()
    july = api.get(url(scheme, "/orientation?season=jul")).json()
    assert july["best_tilt"] < year["best_tilt"] < december["best_tilt"]
    assert december["best"] < july["best"] < year["best"]
    morning = api.get(url(scheme, "/orientation?from=5&to=10")).json()
    evening = api.get(url(scheme, "/orientation?from=15&to=21")).json()
    assert morning["best_azimuth"] < 150 < 210 < evening["best_azimuth"]
    night = api.get(url(scheme, "/orientation?from=20&to=10")).json()
    assert night["best"] == pytest.approx(morning["best"], rel=0.2)
    for price in year["prices"]:
        assert all(price[way] >= -2e-3 for way in ("steeper", "flatter", "clockwise", "counter_clockwise"))
    costs = [price["steeper"] for price in year["prices"]]
    assert costs == sorted(costs)
    for wrong in ("from=24", "to=0", "from=x", "season=autumn"):
        assert api.get(url(scheme, f"/orientation?{wrong}")).status_code == 422
