"""The scene over HTTP: drawing, solar access, filling, the cost of obstacles, files in and out."""

import csv
import io
import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.cli import main
from noontide.core.weather import as_text
from noontide.server.projects.revising import begin_project
from tests.conftest import lying
from tests.server.conftest import found_by_job, modules_of_rows

HOUSE = {
    "buildings": {"house": {"name": "House", "length": 12, "width": 8, "hip": {"pitch": 35}}},
    "chimneys": {"flue": {"name": "Flue", "on": "house", "x": 1, "y": -1.5}},
}


@pytest.fixture
def on_roof(roof_document, hill_year):
    document = roof_document | {
        "weather": {"digest": hill_year.digest, "title": hill_year.title},
        "scene": HOUSE,
        "surfaces": {"barn": {"face": "house/roof-1", "layout": {"most": 10}}},
    }
    return begin_project("House", document).pinned


def fill(api, scheme, asked):
    """The answer to a filling of the newest revision."""
    revision = api.get(f"/api/schemes/{scheme.pk}").json()["revision"]
    return api.send("post", f"/api/schemes/{scheme.pk}/acts/fill", asked, revision=revision)


def modules_of(answer, surface="barn"):
    assert answer.status_code == 200, answer.json()
    return lying(answer.json()["document"]["surfaces"][surface]["layout"])


def filled(api, scheme, **more):
    return modules_of(fill(api, scheme, {"surface": "barn"} | more))


def test_a_face_is_filled_drawn_and_counted(api, on_roof):
    found = filled(api, on_roof)
    room = api.get(f"/api/schemes/{on_roof.pk}/room/barn").json()
    assert len(found) == 10 <= max(room["portrait"], room["landscape"]) and room["usable_area"] > 10 * 1.134 * 1.722
    drawn = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    (layout,) = drawn["layouts"]
    assert [m["number"] for m in modules_of_rows(layout["rows"])] == list(range(1, 11)) and layout["tray"] == {}
    assert {s for f in drawn["faces"] for s in f["surfaces"]} == {"barn"}
    assert drawn["places"]["flue"]["kind"] == "chimneys"


def test_solar_access_belongs_to_the_revision_and_falls_with_the_chimney(api, on_roof):
    filled(api, on_roof)
    before = api.get(f"/api/schemes/{on_roof.pk}/shade").json()
    (surface,) = before["surfaces"]
    assert before["modules"] == 10 and len(surface["received"]) == 12 and len(surface["received"][0]) == 10
    assert 0.5 < surface["access"] < 1 and surface["product"] == pytest.approx(surface["access"] * surface["orientation"])
    higher = {"scene": {"chimneys": {"flue": {"height": 4}}}}
    assert api.send("patch", f"/api/schemes/{on_roof.pk}", higher, revision=before["revision"]).status_code == 200
    after = api.get(f"/api/schemes/{on_roof.pk}/shade").json()
    assert after["revision"] > before["revision"] and after["access"] < before["access"]
    everything = api.get(f"/api/schemes/{on_roof.pk}/shade?everything=true").json()
    assert len(everything["surfaces"]) == 4


def test_a_first_look_says_that_it_is_one_and_the_table_adds_up(api, on_roof):
    filled(api, on_roof)
    exact, coarse = (api.get(f"/api/schemes/{on_roof.pk}/shade?coarse={coarse}").json() for coarse in ("false", "true"))
    assert not exact["is_coarse"] and coarse["is_coarse"]
    assert coarse["access"] == pytest.approx(exact["access"], abs=0.02)
    rows = list(csv.DictReader(io.StringIO(api.get(f"/api/schemes/{on_roof.pk}/shade-table").content.decode())))
    lines = list(csv.DictReader(io.StringIO(api.get(f"/api/schemes/{on_roof.pk}/shade-table?modules=true").content.decode())))
    assert len(rows) == 1 and len(lines) == 10
    months = [key for key in rows[0] if key.endswith("[kWh/m2]") and key != "year [kWh/m2]"]
    for line in [*rows, *lines]:
        assert sum(float(line[m]) for m in months) == pytest.approx(float(line["year [kWh/m2]"]), abs=0.1)
    assert float(rows[0]["year [%]"]) == pytest.approx(sum(float(line["year [%]"]) for line in lines) / 10, abs=0.01)


def test_what_takes_light_from_a_module_is_named(api, on_roof):
    filled(api, on_roof)
    (layout,) = api.get(f"/api/schemes/{on_roof.pk}/scene").json()["layouts"]
    found = [
        {t["id"] for t in api.get(f"/api/schemes/{on_roof.pk}/light-takers/barn/{m['id']}").json()["takers"]}
        for m in modules_of_rows(layout["rows"])[:4]
    ]
    assert {"flue"} in found
    assert api.get(f"/api/schemes/{on_roof.pk}/light-takers/barn/nobody").status_code == 404


def test_fewer_modules_than_fit_take_the_sunniest_places(api, on_roof):
    every = filled(api, on_roof)
    (whole,) = api.get(f"/api/schemes/{on_roof.pk}/shade").json()["surfaces"]
    sums = {key: sum(month[k] for month in whole["received"]) for k, key in enumerate(whole["ids"])}
    some = filled(api, on_roof, layout={"most": 4})
    chosen = [key for key, placed in every.items() if placed in some.values()]
    assert len(chosen) == 4
    best = sum(sorted(sums.values())[-4:])
    assert sum(sums[key] for key in chosen) == pytest.approx(best, rel=0.003)


def test_obstacles_are_ranked_by_the_energy_they_cost(api, on_roof):
    filled(api, on_roof)
    on_roof.refresh_from_db()
    (flue,) = found_by_job(on_roof, "obstacle-costs").obstacles
    assert flue.id == "flue" and flue.energy > 0


def test_a_scene_without_weather_is_drawn_and_its_access_says_what_is_missing(api, roof_document):
    document = {k: v for k, v in roof_document.items() if k != "weather"} | {"scene": HOUSE}
    scheme = begin_project("House", document).pinned
    assert len(api.get(f"/api/schemes/{scheme.pk}/scene").json()["faces"]) > 8
    answer = api.get(f"/api/schemes/{scheme.pk}/shade")
    assert answer.status_code == 409 and "weather" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("format", "begins"),
    [("svg", b"<svg"), ("pdf", b"%PDF"), ("dxf", b"  0"), ("glb", b"glTF"), ("geojson", b"{"), ("csv", b"number")],
)
def test_the_plan_is_written_in_every_format(api, on_roof, format, begins):
    filled(api, on_roof)
    answer = api.get(f"/api/schemes/{on_roof.pk}/plan/{format}")
    assert answer.status_code == 200 and begins in answer.content[:120]
    assert f"scene.{format}" in answer["Content-Disposition"]


def test_an_unknown_format_is_not_found(api, on_roof):
    assert api.get(f"/api/schemes/{on_roof.pk}/plan/bmp").status_code == 404


def test_a_file_is_read_and_nothing_is_changed(api, on_roof):
    ring = [[0, 0], [9, 0], [9, 6], [0, 6], [0, 0]]
    text = json.dumps({"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [ring]}, "properties": {"height": 5}})
    sent = api.post(f"/api/schemes/{on_roof.pk}/scene-reading", {"file": SimpleUploadedFile("outline.geojson", text.encode())})
    (thing,) = sent.json()["things"]
    assert thing["kind"] == "buildings" and thing["words"].startswith("roof 54.0 m²")
    wrong = api.post(f"/api/schemes/{on_roof.pk}/scene-reading", {"file": SimpleUploadedFile("outline.geojson", b"nothing")})
    assert wrong.status_code == 422 and "no JSON" in wrong.json()["detail"]
    on_roof.refresh_from_db()
    assert on_roof.head.number == 1


@pytest.mark.parametrize(
    ("patch", "words"),
    [
        ({"scene": {"buildings": {"house": {"gable": {}}}}}, "has one roof"),
        ({"scene": {"buildings": {"house": {"eave": -1}}}}, "0.05 or more"),
        ({"surfaces": {"barn": {"tilt": 20}}}, "follows the face"),
        ({"scene": {"buildings": {"house": None}}}, "no such building"),
        ({"scene": {"buildings": {"x": {"outline": [[0, 0], [4, 4], [4, 0], [0, 4]]}}}}, "crosses or touches itself"),
    ],
)
def test_a_bad_edit_is_refused_with_its_place_and_nothing_is_written(api, on_roof, patch, words):
    answer = api.send("patch", f"/api/schemes/{on_roof.pk}", patch, revision=1)
    assert answer.status_code == 422
    assert words in answer.json()["errors"][0]["detail"]
    on_roof.refresh_from_db()
    assert on_roof.head.number == 1


def test_a_roof_that_changes_its_form_leaves_an_honest_failure(api, on_roof):
    answer = api.send(
        "patch", f"/api/schemes/{on_roof.pk}", {"scene": {"buildings": {"house": {"hip": None, "flat": {}}}}}, revision=1
    )
    assert answer.status_code == 200
    evaluation = answer.json()["evaluation"]
    assert evaluation["state"] == "failed" and "which the scene does not have" in str(evaluation)


@pytest.mark.parametrize(("of", "each"), [("modules", 1.0), ("power", 0.43), ("area", 1.134 * 1.722)])
def test_a_limit_lays_as_many_as_stay_under_it(api, on_roof, of, each):
    assert len(filled(api, on_roof, limit={"of": of, "value": 5.5 * each})) == 5


def test_a_limit_of_energy_takes_the_sunniest_and_stays_under_it(api, on_roof):
    ask = lambda value: len(filled(api, on_roof, limit={"of": "energy", "value": value}))  # noqa: E731
    few, more, all_of_them = ask(1000), ask(2000), ask(1e6)
    assert 1 <= few < more <= all_of_them
    assert more == pytest.approx(2 * few, abs=1.5)
    assert ask(0) == 0


def test_modules_are_added_to_an_area_and_what_lies_there_stays(api, on_roof):
    few = {"surfaces": {"barn": {"layout": {"most": 4}}}}
    assert api.send("patch", f"/api/schemes/{on_roof.pk}", few, revision=1).status_code == 200
    filled(api, on_roof)
    drawn = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    (layout,) = drawn["layouts"]
    first = modules_of_rows(layout["rows"])[0]["corners"]
    on_it = [sum(p[k] for p in first) / 4 for k in range(3)]
    none = fill(api, on_roof, {"surface": "barn", "within": [on_it, on_it]})
    assert none.status_code == 422 and "No module fits there" in none.json()["detail"]
    (face,) = (f for f in drawn["faces"] if "barn" in f["surfaces"])
    low, high = ([f([p[k] for p in face["outline"]]) for k in range(3)] for f in (min, max))
    assert fill(api, on_roof, {"surface": "barn", "within": [[1, 2], [3, 4]]}).status_code == 422
    assert api.get(f"/api/schemes/{on_roof.pk}/scene").json()["layouts"] == [layout], "nothing is written"
    more = modules_of(fill(api, on_roof, {"surface": "barn", "within": [low, high]}))
    assert set(more) > {m["id"] for m in modules_of_rows(layout["rows"])}


def test_setbacks_are_hatched_with_their_distances_and_one_edge_can_have_its_own(api, on_roof):
    filled(api, on_roof)
    before = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    (layout,) = before["layouts"]
    edges = {d["edge"]: d["distance"] for d in layout["distances"] if d["edge"]}
    assert edges and layout["hatching"]
    patch = {"surfaces": {"barn": {"layout": {"edges": {"1": 1.5}}}}}
    assert api.send("patch", f"/api/schemes/{on_roof.pk}", patch, revision=before["revision"]).status_code == 200
    (after,) = api.get(f"/api/schemes/{on_roof.pk}/scene").json()["layouts"]
    assert {d["edge"]: d["distance"] for d in after["distances"] if d["edge"]} == edges | {1: 1.5}
    assert after["usable_area"] < layout["usable_area"] - 5


def test_faces_without_modules_are_shown_in_pieces_of_a_spacing_of_one_s_own(api, on_roof):
    ask = lambda query: api.get(f"/api/schemes/{on_roof.pk}/shade?everything=true{query}")  # noqa: E731
    whole, fine, coarse = (
        {s["face"]: s for s in ask(query).json()["surfaces"]} for query in ("", "&spacing=0.25", "&spacing=1.5")
    )
    for face, one in whole.items():
        assert len(fine[face]["ids"]) > len(one["ids"]) > len(coarse[face]["ids"])
        assert fine[face]["access"] == pytest.approx(one["access"], abs=0.02)
    assert ask("&spacing=no").status_code == ask("&spacing=0").status_code == 422


FLAT = {"buildings": {"house": {"name": "House", "length": 16, "width": 10, "flat": {}, "hip": None}}}


def test_racks_in_pairs_are_filled_for_both_sides(api, on_roof):
    racks = {"tilt": 10, "azimuth": 90, "is_paired": True}
    patch = {
        "scene": FLAT | {"chimneys": None},
        "surfaces": {"barn": {"face": "house/roof", "layout": {"most": 8, "racks": racks}}},
    }
    revision = api.get(f"/api/schemes/{on_roof.pk}/scene").json()["revision"]
    answer = api.send("patch", f"/api/schemes/{on_roof.pk}", patch, revision=revision)
    assert answer.status_code == 200, answer.json()
    answer = fill(api, on_roof, {"surface": "barn"})
    (backs,) = set(answer.json()["document"]["surfaces"]) - {"barn"}
    assert answer.json()["words"] == "16 modules laid." and len(modules_of(answer)) == 8 == len(modules_of(answer, backs))
    assert answer.json()["document"]["surfaces"][backs]["layout"]["racks"]["azimuth"] == 270
    drawn = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    assert [f["surfaces"] for f in drawn["faces"] if f["surfaces"]] == [["barn", backs]]
    assert all(layout["tray"] == {} and len(modules_of_rows(layout["rows"])) == 8 for layout in drawn["layouts"])
    assert {s["surface"] for s in api.get(f"/api/schemes/{on_roof.pk}/shade").json()["surfaces"]} == {"barn", backs}
    fewer = fill(api, on_roof, {"surface": backs, "layout": {"most": 3}})
    assert len(modules_of(fewer)) == 3 == len(modules_of(fewer, backs)), "the other side is laid with it"


def test_another_type_of_module_says_what_stays_and_what_goes(api, on_roof):
    filled(api, on_roof)
    address = f"/api/schemes/{on_roof.pk}"

    def swap(module):
        revision = api.get(f"{address}/scene").json()["revision"]
        return api.send("post", f"{address}/acts/swap-modules", {"surface": "barn", "module": module}, revision=revision)

    same = swap("veltrane-430").json()
    assert same["words"] == "All 10 modules keep a place." and len(lying(same["document"]["surfaces"]["barn"]["layout"])) == 10
    larger = max(api.get("/api/parts").json()["modules"], key=lambda m: m["width"] * m["length"])
    found = swap(larger["id"]).json()
    assert f"{len(lying(found['document']['surfaces']['barn']['layout']))} of the 10 modules have a place" in found["words"]
    assert {one["module"] for one in found["document"]["subarrays"].values()} == {larger["id"]}
    unknown = swap("none")
    assert unknown.status_code == 422 and "none" in unknown.json()["detail"]


def test_a_span_of_the_year_is_looked_at_by_itself_and_the_parts_of_a_year_add_up(api, on_roof):
    filled(api, on_roof)
    whole = api.get(f"/api/schemes/{on_roof.pk}/shade?first=0&last=8759").json()
    (surface,) = whole["surfaces"]
    assert whole["span"] == [0, 8759]
    assert surface["free_during"] == pytest.approx(sum(surface["free"]), abs=0.1)
    by_module = [sum(month[k] for month in surface["received"]) for k in range(10)]
    assert surface["during"] == pytest.approx(by_module, abs=0.1)
    parts = [api.get(f"/api/schemes/{on_roof.pk}/shade?first={a}&last={b}").json() for a, b in ((0, 3000), (3001, 8759))]
    both = [sum(part["surfaces"][0]["during"][k] for part in parts) for k in range(10)]
    assert both == pytest.approx(by_module, abs=0.1)
    night = api.get(f"/api/schemes/{on_roof.pk}/shade?first=0&last=0").json()["surfaces"][0]
    assert night["free_during"] == 0 and set(night["during"]) == {0}
    for first, last in (("5", "4"), ("0", "600000"), ("-1", "4"), ("x", "4"), ("3", "")):
        refused = api.get(f"/api/schemes/{on_roof.pk}/shade?first={first}&last={last}")
        assert refused.status_code == 422 and "interval" in refused.json()["detail"]


def test_an_outline_measured_at_a_point_becomes_the_solar_access_that_a_horizon_gives(api, on_roof):
    line = [{"azimuth": 90, "elevation": 20}, {"azimuth": 180, "elevation": 12}, {"azimuth": 270, "elevation": 25}]
    path = f"/api/schemes/{on_roof.pk}/outline-access"
    found = np.array(api.send("post", path, {"surface": "barn", "outline": line}).json()["access"])
    assert found.shape == (12, 24) and found.min() < 0.9 and found.max() <= 1
    open_sky = api.send("post", path, {"surface": "barn", "outline": [p | {"elevation": 0} for p in line]}).json()["access"]
    assert np.min(open_sky) > 0.999
    revision = api.get(f"/api/schemes/{on_roof.pk}/scene").json()["revision"]
    assert api.send("patch", f"/api/schemes/{on_roof.pk}", {"site": {"horizon": line}}, revision=revision).status_code == 200
    effect = api.get(f"/api/schemes/{on_roof.pk}/horizon-effect?surface=barn").json()
    free, direct, diffuse = (np.array(effect[key]) for key in ("free", "direct_lost", "diffuse_lost"))
    lit = free > 0.5
    assert found[lit] == pytest.approx(1 - (direct + diffuse)[lit] / free[lit], abs=2e-3)
    assert api.send("post", path, {"surface": "none", "outline": line}).status_code == 422
    assert api.send("post", path, {"surface": "barn", "outline": line[:1]}).status_code == 422


def test_what_an_obstacle_costs_is_off_while_shade_given_by_hand_replaces_the_scene(api, on_roof):
    filled(api, on_roof)
    address = f"/api/schemes/{on_roof.pk}"
    given = {"site": {"shade_factor": {"is_measured": True, "statement": "Measured on site", "factor": 0.86}}}
    assert api.send("patch", address, given, revision=2).status_code == 200
    refused = api.send("post", f"{address}/jobs/obstacle-costs", {})
    assert refused.status_code == 409
    assert "a shade factor of 0.86" in refused.json()["detail"]


@pytest.mark.parametrize(
    ("place", "options"),
    [
        pytest.param("barn", ["--most", "6"], id="the sunniest six"),
        pytest.param("house/roof-3", [], id="a face without a surface"),
    ],
)
def test_the_command_line_fills_as_the_server_does(api, on_roof, hill_weather, tmp_path, place, options):
    design, weather, out = (tmp_path / name for name in ("design.json", "hill.csv", "out.json"))
    design.write_text(json.dumps(api.get(f"/api/schemes/{on_roof.pk}").json()["document"]))
    weather.write_text(as_text(hill_weather, "csv"))
    limit = {"limit": {"of": "modules", "value": 6}} if options else {}
    answer = fill(api, on_roof, {"surface" if place == "barn" else "face": place, **limit})
    run = ["edit", "--out", str(out), str(design), "fill", place, *options, "--weather", str(weather)]
    assert main(run) == 0
    assert json.loads(out.read_text()) == answer.json()["document"]


def test_an_act_that_takes_its_time_is_refused_where_others_changed_the_same(api, on_roof):
    revision = api.get(f"/api/schemes/{on_roof.pk}").json()["revision"]
    other = api.send("patch", f"/api/schemes/{on_roof.pk}", {"surfaces": {"barn": {"layout": {"most": 3}}}}, revision=revision)
    assert other.status_code == 200
    asked = {"surface": "barn", "layout": {"most": 5}}
    late = api.send("post", f"/api/schemes/{on_roof.pk}/acts/fill", asked, revision=revision)
    assert late.status_code == 412 and "/surfaces/barn/layout/most" in late.json()["detail"]


def test_the_first_face_takes_the_strings_of_the_plane_that_stood_for_it_found_anew(api, roof_document, hill_year):
    document = roof_document | {"weather": {"digest": hill_year.digest, "title": hill_year.title}, "scene": HOUSE}
    scheme = begin_project("Estimate", document).pinned
    answer = fill(api, scheme, {"face": "house/roof-1"})
    assert answer.status_code == 200, answer.json()
    now = answer.json()["document"]
    assert not set(now["surfaces"]) & set(document["surfaces"]), "the plane is gone"
    ((key, surface),) = now["surfaces"].items()
    count = len(lying(surface["layout"]))
    sets = {key: unit.get("count", 1) for key, unit in now["inverters"].items()}
    strung = sum(s["modules_per_string"] * s.get("strings", 1) * sets[s["inverter"]] for s in now["subarrays"].values())
    assert count - 2 <= strung <= count and f"{count} modules laid." in answer.json()["words"]
    assert {s["surface"] for s in now["subarrays"].values()} == {key}
    assert set(sets) == {s["inverter"] for s in now["subarrays"].values()}, "no inverter is left without strings"
    # It is one edit: one undo brings the plane and its strings back.
    back = api.send("post", f"/api/schemes/{scheme.pk}/undo", {}, revision=answer.json()["revision"]).json()
    assert back["document"]["subarrays"].keys() == document["subarrays"].keys()
    # A second face takes nothing over.
    second = api.send("post", f"/api/schemes/{scheme.pk}/redo", {}, revision=back["revision"]).json()
    other = fill(api, scheme, {"face": "house/roof-3"}).json()
    assert other["document"]["subarrays"] == second["document"]["subarrays"] and len(other["document"]["surfaces"]) == 2


@pytest.mark.parametrize("asked", [{}, {"surface": "barn", "face": "house/roof-1"}, {"face": "nothing"}])
def test_a_fill_needs_one_place(api, on_roof, asked):
    answer = fill(api, on_roof, asked)
    assert answer.status_code == 422 and answer.json()["title"]
