"""The scene over HTTP: drawing, solar access, filling, the cost of obstacles, files in and out."""

import csv
import io
import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.server.projects.revising import begin_project
from tests.conftest import lying

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


def filled(api, scheme):
    found = api.send("post", f"/api/schemes/{scheme.pk}/fill", {"surface": "barn"}).json()
    answer = api.send("patch", f"/api/schemes/{scheme.pk}", found["patch"], revision=found["revision"])
    assert answer.status_code == 200, answer.json()
    return found | {"modules": lying(found["patch"]["surfaces"]["barn"]["layout"])}


def test_a_face_is_filled_drawn_and_counted(api, on_roof):
    found = filled(api, on_roof)
    assert found["count"] == 10 == len(found["modules"]) and max(found["portrait"], found["landscape"]) >= 10
    drawn = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    (layout,) = drawn["layouts"]
    assert [m["number"] for m in layout["modules"]] == list(range(1, 11)) and layout["tray"] == {}
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
        for m in layout["modules"][:4]
    ]
    assert {"flue"} in found
    assert api.get(f"/api/schemes/{on_roof.pk}/light-takers/barn/nobody").status_code == 404


def test_fewer_modules_than_fit_take_the_sunniest_places(api, on_roof):
    every = filled(api, on_roof)["modules"]
    (whole,) = api.get(f"/api/schemes/{on_roof.pk}/shade").json()["surfaces"]
    sums = {key: sum(month[k] for month in whole["received"]) for k, key in enumerate(whole["ids"])}
    some = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn", "layout": {"most": 4}}).json()
    some = lying(some["patch"]["surfaces"]["barn"]["layout"])
    chosen = [key for key, placed in every.items() if placed in some.values()]
    assert len(chosen) == 4
    best = sum(sorted(sums.values())[-4:])
    assert sum(sums[key] for key in chosen) == pytest.approx(best, rel=0.003)


def test_obstacles_are_ranked_by_the_energy_they_cost(api, on_roof):
    filled(api, on_roof)
    costs = api.get(f"/api/schemes/{on_roof.pk}/obstacle-costs").json()
    (flue,) = costs["obstacles"]
    assert flue["id"] == "flue" and flue["energy"] > 0


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
    filled(api, on_roof)
    asked = {"surface": "barn", "limit": {"of": of, "value": 5.5 * each}}
    assert api.send("post", f"/api/schemes/{on_roof.pk}/fill", asked).json()["count"] == 5


def test_a_limit_of_energy_takes_the_sunniest_and_stays_under_it(api, on_roof):
    filled(api, on_roof)
    ask = lambda value: api.send(  # noqa: E731
        "post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn", "limit": {"of": "energy", "value": value}}
    ).json()["count"]
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
    first = layout["modules"][0]["corners"]
    on_it = [sum(p[k] for p in first) / 4 for k in range(3)]
    none = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn", "within": [on_it, on_it]}).json()
    assert none["count"] == 0 and lying(none["patch"]["surfaces"]["barn"]["layout"]) == {}
    (face,) = (f for f in drawn["faces"] if "barn" in f["surfaces"])
    low, high = ([f([p[k] for p in face["outline"]]) for k in range(3)] for f in (min, max))
    more = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn", "within": [low, high]}).json()
    assert more["count"] and not set(lying(more["patch"]["surfaces"]["barn"]["layout"])) & {m["id"] for m in layout["modules"]}
    wrong = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn", "within": [[1, 2], [3, 4]]})
    assert wrong.status_code == 422
    assert api.get(f"/api/schemes/{on_roof.pk}/scene").json()["layouts"] == [layout], "nothing is written"


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
    found = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": "barn"}).json()
    (backs,) = set(found["patch"]["surfaces"]) - {"barn"}
    pair = found["patch"]["surfaces"][backs]
    assert found["count"] == 16 and len(lying(pair["layout"])) == 8 and pair["layout"]["racks"]["azimuth"] == 270
    answer = api.send("patch", f"/api/schemes/{on_roof.pk}", found["patch"], revision=answer.json()["revision"])
    assert answer.status_code == 200, answer.json()
    drawn = api.get(f"/api/schemes/{on_roof.pk}/scene").json()
    assert [f["surfaces"] for f in drawn["faces"] if f["surfaces"]] == [["barn", backs]]
    assert all(layout["tray"] == {} and len(layout["modules"]) == 8 for layout in drawn["layouts"])
    assert {s["surface"] for s in api.get(f"/api/schemes/{on_roof.pk}/shade").json()["surfaces"]} == {"barn", backs}
    again = api.send("post", f"/api/schemes/{on_roof.pk}/fill", {"surface": backs}).json()
    assert set(again["patch"]["surfaces"]) == {"barn", backs}, "the other side is laid with it"


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
    assert api.get(f"{address}/obstacle-costs").status_code == 200
    given = {"site": {"shade_factor": {"is_measured": True, "statement": "Measured on site", "factor": 0.86}}}
    assert api.send("patch", address, given, revision=2).status_code == 200
    refused = api.get(f"{address}/obstacle-costs")
    assert refused.status_code == 409
    assert "a shade factor of 0.86" in refused.json()["detail"]


def test_the_first_face_takes_the_strings_of_the_plane_that_stood_for_it_found_anew(api, roof_document, hill_year):
    document = roof_document | {"weather": {"digest": hill_year.digest, "title": hill_year.title}, "scene": HOUSE}
    scheme = begin_project("Estimate", document).pinned
    found = api.send("post", f"/api/schemes/{scheme.pk}/fill", {"face": "house/roof-1"}).json()
    answer = api.send("patch", f"/api/schemes/{scheme.pk}", found["patch"], revision=found["revision"])
    assert answer.status_code == 200, answer.json()
    now = api.get(f"/api/schemes/{scheme.pk}").json()["document"]
    assert set(now["surfaces"]) == {found["surface"]}, "the plane is gone"
    (surface,) = now["surfaces"].values()
    count = len(lying(surface["layout"]))
    sets = {key: unit.get("count", 1) for key, unit in now["inverters"].items()}
    strung = sum(s["modules_per_string"] * s.get("strings", 1) * sets[s["inverter"]] for s in now["subarrays"].values())
    assert count - 2 <= strung <= count == found["count"]
    assert {s["surface"] for s in now["subarrays"].values()} == {found["surface"]}
    assert set(sets) == {s["inverter"] for s in now["subarrays"].values()}, "no inverter is left without strings"
    # It is one edit: one undo brings the plane and its strings back.
    back = api.send("post", f"/api/schemes/{scheme.pk}/undo", {}, revision=answer.json()["revision"]).json()
    assert back["document"]["subarrays"].keys() == document["subarrays"].keys()
    # A second face takes nothing over.
    second = api.send("post", f"/api/schemes/{scheme.pk}/redo", {}, revision=back["revision"]).json()
    other = api.send("post", f"/api/schemes/{scheme.pk}/fill", {"face": "house/roof-3"}).json()
    assert second["revision"] == other["revision"] and set(other["patch"]) == {"surfaces"}


@pytest.mark.parametrize("asked", [{}, {"surface": "barn", "face": "house/roof-1"}, {"face": "nothing"}])
def test_a_fill_needs_one_place(api, on_roof, asked):
    answer = api.send("post", f"/api/schemes/{on_roof.pk}/fill", asked)
    assert answer.status_code in (409, 422) and answer.json()["title"]
