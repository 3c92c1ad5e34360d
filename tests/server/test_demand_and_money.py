"""Demand, tariffs and money over HTTP: the same figures as the core's, one revision an act, nothing lost by a wrong one."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.core.design import Design
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from noontide.server.demand_library.models import MeasuredUse
from noontide.server.projects.models import Revision
from noontide.standins.meter import dairy_file

METER = dairy_file()


def url(scheme, rest=""):
    return f"/api/schemes/{scheme.pk}{rest}"


@pytest.fixture
def shipped(api):
    return {line["key"]: line["tariff"] for line in api.get("/api/tariffs").json()}


@pytest.fixture
def templates(api):
    return {line["key"]: line["source"] for line in api.get("/api/demand-kinds").json()["templates"]}


def act(api, scheme, verb, body, revision):
    answer = api.send("post", url(scheme, f"/acts/{verb}"), body, revision=revision)
    assert answer.status_code == 200, answer.content
    return answer.json()


def upload(api, path="/api/use", content=METER, name="meter.csv", **fields):
    return api.post(path, {"file": SimpleUploadedFile(name, content), "time_zone": "Europe/Rome", **fields})


def test_every_template_can_be_added_and_every_tariff_taken(api, scheme, templates, shipped):
    revision = 1
    for source in templates.values():
        body = act(api, scheme, "add-source", {"source": source}, revision)
        revision = body["revision"]
        assert body["words"].endswith("is added.") and body["changed"] == ["demand"]
    for tariff in shipped.values():
        revision = act(api, scheme, "take-tariff", {"tariff": tariff}, revision)["revision"]
        money = api.get(url(scheme, "/money")).json()
        assert money["after"]["tariff"] == tariff["name"]
        assert sum(money["after"]["by_month"]) == pytest.approx(money["after"]["total"], abs=0.005)
    demand = api.get(url(scheme, "/demand")).json()
    assert len(demand["sources"]) >= len(templates)
    assert sum(s["energy"] for s in demand["sources"]) == pytest.approx(demand["energy"], rel=1e-6)
    assert revision == 1 + len(templates) + len(shipped) == Revision.objects.filter(scheme=scheme).count()


def test_the_answer_has_the_cores_figures_and_one_undo_takes_an_act_back(api, scheme, shipped, templates, hill_weather):
    act(api, scheme, "add-source", {"source": templates["household"]}, 1)
    body = act(api, scheme, "take-tariff", {"tariff": shipped["cottage-two-rates"]}, 2)
    results = simulate(Design.read(body["document"]), hill_weather, built_in_parts())
    shown = {figure["key"]: figure["value"] for figure in body["evaluation"]["figures"]}
    assert shown == pytest.approx(figures_of(results))
    for key in shown:
        working = api.get(url(scheme, f"/working/{key}")).json()
        assert working["value"] == pytest.approx(shown[key])
    undone = api.send("post", url(scheme, "/undo"), revision=3).json()
    assert "money" not in undone["document"]


def test_an_act_that_cannot_be_done_writes_nothing(api, scheme):
    for verb, body, status in (
        ("paint-week", {"season": "x", "days": ["weekday"], "start": 0, "end": 60, "period": "y"}, 422),
        ("paint-week", {"season": "x"}, 422),
        ("add-source", {"source": {"vehicle": {"charger": -1}}}, 422),
        ("add-source", {"source": {"vehicle": {}, "heating": {}}}, 422),
        ("fly", {}, 404),
    ):
        answer = api.send("post", url(scheme, f"/acts/{verb}"), body, revision=1)
        assert answer.status_code == status and answer.json()["detail" if status == 404 else "title"]
    assert api.send("post", url(scheme, "/acts/add-source"), {"source": {"vehicle": {}}}, revision=7).status_code == 412
    assert Revision.objects.filter(scheme=scheme).count() == 1


def test_interval_data_are_read_kept_and_used(api, scheme):
    shown = upload(api, "/api/use/reading").json()
    assert (shown["step"], shown["days"], shown["problem"]) == (15, 365, "")
    assert len(shown["week"]) == 168 and max(shown["week"]) < shown["peak"]
    row = upload(api, reading=json.dumps(shown["reading"])).json()
    assert upload(api).json()["digest"] == row["digest"] and MeasuredUse.objects.count() == 1
    body = act(
        api, scheme, "add-source", {"source": {"name": "Dairy", "interval": {"digest": row["digest"], "title": row["title"]}}}, 1
    )
    assert body["evaluation"]["state"] == "exact"
    demand = api.get(url(scheme, "/demand")).json()
    assert demand["energy"] == pytest.approx(row["energy"], rel=0.01)
    keys = [q["key"] for q in body["evaluation"]["quantities"]]
    assert keys == ["demand_interval-1"]
    assert api.get(url(scheme, "/hourly?quantities=demand_interval-1,import&kind=json")).status_code == 200
    assert api.get(url(scheme, "/hourly?quantities=demand_nobody")).status_code == 422
    # What a design uses is not deleted; undone and redone, it is still there.
    assert api.delete(f"/api/unused/use/{row['digest']}").status_code == 409


def test_a_changed_reading_that_gives_nothing_says_so_and_an_unused_file_can_go(api):
    shown = upload(api, "/api/use/reading").json()
    reading = shown["reading"]
    for column in reading["values"]:
        column["role"] = ""
    assert "no column is read" in upload(api, "/api/use/reading", reading=json.dumps(reading)).json()["problem"]
    row = upload(api).json()
    listed = api.get("/api/unused").json()["use"]
    assert [item["digest"] for item in listed] == [row["digest"]] and listed[0]["bytes"] > 100_000
    assert api.delete(f"/api/unused/use/{row['digest']}").json()["bytes"] == listed[0]["bytes"]
    assert api.delete(f"/api/unused/use/{row['digest']}").status_code == 404


def test_what_was_put_right_once_holds_for_the_next_file_of_that_meter(api):
    shown = upload(api, "/api/use/reading").json()
    assert not shown["is_remembered"]
    reading = shown["reading"]
    column = next(c for c in reading["values"] if c["role"])
    column["unit"] = {"kW": "W", "kWh": "Wh"}[column["unit"]]
    reading["stamps"] = "end"
    upload(api, reading=json.dumps(reading))
    # Another year of the same meter: other days, the same columns.
    other = METER.replace(b"2025", b"2023")
    again = upload(api, "/api/use/reading", content=other, name="next.csv").json()
    assert again["is_remembered"] and again["reading"]["stamps"] == "end" and again["reading"]["title"] == "next"
    assert again["energy"] == pytest.approx(shown["energy"] / 1000, rel=0.01)
    # Another make is read by itself.
    renamed = other.replace(column["heading"].encode(), b"Energy [kWh]")
    assert not upload(api, "/api/use/reading", content=renamed).json()["is_remembered"]


def test_average_days_are_by_kind_of_day_or_by_weekday(api, scheme, templates):
    act(api, scheme, "add-source", {"source": templates["household"]}, 1)
    kinds, weekdays = (api.get(url(scheme, f"/demand?days={days}")).json() for days in ("kind", "weekday"))
    assert (len(kinds["groups"]), len(weekdays["groups"])) == (2, 7)
    (source,), (by_day,) = (
        [one["days"][0] for one in answer["sources"] if "/" not in one["key"]] for answer in (kinds, weekdays)
    )
    assert by_day[0] == pytest.approx(source[0], abs=1e-5) and by_day[6] == pytest.approx(source[1], abs=1e-5)
    assert weekdays["energy"] == kinds["energy"]
    assert api.get(url(scheme, "/demand?days=moon")).status_code == 422


def test_items_are_added_by_name_and_the_grid_takes_its_carbon_by_hour(api, scheme, templates):
    revision = 1
    for kind in ("costs", "upkeep", "replacements", "grants", "loans", "tax_relief"):
        body = act(api, scheme, "add-cost", {"kind": kind}, revision)
        revision = body["revision"]
        assert len(body["document"]["money"][kind]) == 1
    source = act(api, scheme, "add-source", {"source": templates["household"]}, revision)
    body = act(api, scheme, "add-appliance", {"source": "appliances-1"}, source["revision"])
    assert len(body["document"]["demand"]["sources"]["appliances-1"]["appliances"]["items"]) == 1 + len(
        templates["household"]["appliances"]["items"]
    )

    def avoided(text):
        nonlocal revision
        done = act(api, scheme, "take-carbon", {"text": text, "per": "kg/kWh"}, revision)
        revision = done["revision"]
        return next(f["value"] for f in api.get(url(scheme, "/money")).json()["figures"] if f["key"] == "avoided_carbon")

    revision = body["revision"]
    flat = avoided("")
    assert avoided("\n".join(["0.3"] * 24)) == pytest.approx(flat)
    assert avoided("\n".join(["0.6"] * 24)) == pytest.approx(2 * flat)
    assert avoided("\n".join(["0"] * 6 + ["0.3"] * 14 + ["0"] * 4)) == pytest.approx(flat, rel=0.02)
    refused = api.send("post", url(scheme, "/acts/take-carbon"), {"text": "1\nx\n3"}, revision=revision)
    assert refused.status_code == 422 and "Row 2" in refused.json()["detail"]


def test_the_statement_says_what_was_measured_until_one_writes_ones_own(api, scheme, templates):
    body = act(api, scheme, "add-source", {"source": templates["household"]}, 1)
    said = api.get(url(scheme, "/money")).json()["statement"]
    assert "Use: estimated (" in said and "Weather:" in said and "Roof:" in said
    patch = {
        "money": {"statement": "Roof measured on 3 May."},
        "site": {"shade_factor": {"factor": 0.9, "is_measured": True, "statement": "Fisheye"}},
    }
    revision = api.send("patch", url(scheme), patch, revision=body["revision"]).json()["revision"]
    assert api.get(url(scheme, "/money")).json()["statement"] == "Roof measured on 3 May."
    api.send("patch", url(scheme), {"money": {"statement": None}}, revision=revision)
    assert "Shade: a shade factor, measured (Fisheye)." in api.get(url(scheme, "/money")).json()["statement"]


def test_a_battery_is_added_sized_by_the_curve_and_named_by_its_units(api, scheme, templates, shipped, hill_weather):
    bare = api.get(url(scheme, "/storage")).json()
    assert bare["battery"] is None and not bare["has_demand"] and bare["proposal"] is None
    act(api, scheme, "add-source", {"source": templates["household"]}, 1)
    act(api, scheme, "take-tariff", {"tariff": shipped["cottage-two-rates"]}, 2)
    body = act(api, scheme, "take-battery", {"model": "pellworth-5"}, 3)
    assert list(body["document"]["parts"]["batteries"]) == ["pellworth-5"] and body["changed"] == ["storage"]
    storage = api.get(url(scheme, "/storage")).json()
    assert storage["battery"]["energy"] == 5 and storage["battery"]["charge"] == pytest.approx(5000 / 51.2)
    powers = api.get(url(scheme, "/storage/powers")).json()
    assert powers[0]["energy"] == powers[0]["power"] == 0 and {line["energy"] for line in powers[1:]} == {5}
    # The core says the same.
    results = simulate(Design.read(body["document"]), hill_weather, built_in_parts())
    shown = {figure["key"]: figure["value"] for figure in body["evaluation"]["figures"]}
    assert shown == pytest.approx(figures_of(results)) and shown["battery_energy"] == 5
    body = act(api, scheme, "size-battery", {"energy": 13.9}, 4)
    assert body["document"]["storage"]["bank"]["parallel"] == 3 and "3 × Pellworth B 5: 15 kWh" in body["words"]
    keys = {q["key"] for q in body["evaluation"]["quantities"]}
    assert {"stored", "charge", "discharge"} <= keys
    assert api.get(url(scheme, "/hourly?quantities=stored,charge,discharge&kind=json")).status_code == 200
    day = api.get(url(scheme, "/storage/day?interval=4100")).json()
    assert len(day["flows"]["stored"]) == 24 and day["outage_hours"] >= 0
    for wrong in ("", "-1", "9000", "x"):
        assert api.get(url(scheme, f"/storage/day?interval={wrong}")).status_code == 422
    for key in ("battery_energy", "battery_cycles", "battery_lost", "battery_life", "peak_import"):
        assert api.get(url(scheme, f"/working/{key}")).status_code == 200
    body = act(api, scheme, "take-battery", {"model": None}, 5)
    assert body["document"]["storage"]["bank"]["energy"] == 15 and "model" not in body["document"]["storage"]["bank"]
    assert "parts" not in body["document"] or "batteries" not in body["document"]["parts"]
    body = act(api, scheme, "size-battery", {"energy": 0}, 6)
    assert "storage" not in body["document"] or "bank" not in body["document"]["storage"]
    refused = api.send("patch", url(scheme), {"storage": {"bank": {}, "serves": "peaks alone"}}, revision=7)
    assert refused.status_code == 422 and "needs a peak" in refused.json()["errors"][0]["detail"]


def test_a_place_without_a_grid_has_its_worksheet_and_proof(api, scheme, templates):
    assert api.get(url(scheme, "/storage/off-grid")).status_code == 409
    act(api, scheme, "add-source", {"source": templates["household"]}, 1)
    act(api, scheme, "take-battery", {"model": "pellworth-10"}, 2)
    assert api.get(url(scheme, "/off-grid-sheet")).status_code == 409
    refused = api.get(url(scheme, "/storage/off-grid"))
    assert refused.status_code == 409 and "has a grid" in refused.json()["detail"]
    body = api.send("patch", url(scheme), {"storage": {"off_grid": {"generator": {"quiet": "22-7"}}}}, revision=3).json()
    assert "There is no grid" in str(body["evaluation"]["brief"])
    found = api.get(url(scheme, "/storage/off-grid")).json()
    assert len(found["worksheet"]) == 16 and len(found["loss"]) == len(found["batteries"]) == 24
    page = api.get(url(scheme, "/off-grid-sheet"))
    assert page.content.startswith(b"%PDF") and page["Content-Type"] == "application/pdf"
    drawn = api.get(url(scheme, "/off-grid-sheet?kind=svg")).content.decode()
    assert "By the worksheet" in drawn and f"{found['proof']['loss_of_load']:.2%} of the energy" in drawn
    assert api.get(url(scheme, "/off-grid-sheet?kind=docx")).status_code == 422
    shown = {figure["key"]: figure["value"] for figure in body["evaluation"]["figures"]}
    assert shown["lost_load"] == found["proof"]["loss_of_load"] and shown["dark_hours"] == found["proof"]["dark_hours"]
    assert found["lines"] and found["words"] and found["cheapest"] is not None and not found["is_laid"]
    for key in ("lost_load", "dark_hours", "unused_energy", "fuel"):
        assert api.get(url(scheme, f"/working/{key}")).status_code == 200
    assert api.get(url(scheme, "/storage")).status_code == 200
    wrong = api.send("patch", url(scheme), {"storage": {"off_grid": {"generator": {"quiet": "25-7"}}}}, revision=4)
    assert wrong.status_code == 422


@pytest.mark.parametrize(
    ("content", "status"), [(b"", 422), (b"\0\1\2" * 99, 422), (b"Start,kWh\n1,2\n", 422), (b"<feed><IntervalReading>", 422)]
)
def test_what_is_no_file_of_a_meter_is_refused_in_words(api, content, status):
    for path in ("/api/use", "/api/use/reading"):
        answer = upload(api, path, content)
        assert answer.status_code == status and answer.json()["detail"]
    assert MeasuredUse.objects.count() == 0


def test_wrong_fields_of_the_form_are_refused(api):
    assert upload(api, reading="{").status_code == 422
    assert api.post("/api/use", {"file": SimpleUploadedFile("m.csv", METER), "time_zone": "Mars/Base"}).status_code == 422
    assert api.post("/api/use", {}).status_code == 422


def test_a_dropped_file_is_recognised(api):
    for content, kind in (
        (METER, "use"),
        (b'{"format": "noontide-tariff/1", "energy": {"price": 0.2}}', "tariff"),
        (b'{"format": "noontide-demand/1", "sources": {}}', "demand"),
        (b"<feed><IntervalReading/></feed>", "use"),
    ):
        found = api.post("/api/files/recognise", {"file": SimpleUploadedFile("f", content)}).json()
        assert found["kind"] == kind


def test_money_without_anything_set_is_quiet(api, scheme):
    money = api.get(url(scheme, "/money")).json()
    assert not money["is_counted"] and money["before"] is None
    states = {b["name"]: b["state"] for b in api.get(url(scheme)).json()["evaluation"]["benches"]}
    assert states["demand"] == states["money"] == "unused"
    verbs = {line["name"] for line in api.get("/api/acts").json()}
    assert {"add-source", "take-tariff", "paint-week"} <= verbs
