"""Parts of one's own: read from a list, looked at, kept, used in a scheme and deleted."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, current_at, open_circuit_voltage
from noontide.parts import built_in_parts
from tests.core.electrical.test_parts_table import row, table


def send(api, content, keep=False, **more):
    file = SimpleUploadedFile("list.csv", content)
    return api.post("/api/parts/import", {"file": file, "kind": "modules", "keep": "true" if keep else "false", **more})


def own(api):
    return [m["id"] for m in api.get("/api/parts").json()["modules"] if m["is_own"]]


def test_a_list_is_looked_at_before_anything_is_kept(api):
    content = table(row(), row(name="Bad", voc_coefficient="0.25"))
    found = send(api, content).json()
    assert found["names"] == ["Veltrane Own 430"] and found["kept"] == 0
    (fault,) = found["faults"]
    assert (fault["row"], fault["column"]) == (3, "voc_coefficient")
    assert "sign of the Voc coefficient seems to be lost" in fault["reason"]
    assert own(api) == []
    assert send(api, content, keep=True).json()["kept"] == 1
    assert own(api) == ["veltrane-own-430"]


def test_a_part_that_is_there_already_is_said_to_be_the_same_or_changed(api):
    send(api, table(row()), keep=True)
    assert send(api, table(row())).json()["same"] == ["veltrane-own-430"]
    assert send(api, table(row(voc="38.95"))).json()["changed"] == ["veltrane-own-430"]


def test_a_scheme_uses_an_own_part_and_keeps_its_copy(api, scheme):
    send(api, table(row()), keep=True)
    path = f"/api/schemes/{scheme.pk}"
    before = api.get(path).json()
    edited = api.send("patch", path, {"subarrays": {"south": {"module": "veltrane-own-430"}}}, before["revision"]).json()
    energy = edited["evaluation"]["headline"]["energy"]
    assert energy > 0
    assert edited["document"]["parts"]["modules"]["veltrane-own-430"]["voc"] == 38.9
    found = api.send(
        "post", f"{path}/find-strings", {"surface": "barn", "module": "veltrane-own-430", "number": 36, "lowest_ratio": 0.7}
    ).json()
    assert found["proposals"]
    assert api.send("delete", "/api/parts/modules/veltrane-own-430").status_code == 204
    assert own(api) == []
    assert api.get(path).json()["evaluation"]["headline"]["energy"] == energy
    assert api.send("delete", "/api/parts/modules/veltrane-own-430").status_code == 404


def test_a_part_that_ships_is_never_replaced(api):
    found = send(api, table(row(maker="Veltrane", name="430")), keep=True).json()
    assert found["kept"] == 0 and "ships with the application" in found["faults"][0]["reason"]


def test_headings_are_mapped(api):
    content = table(row()).replace(b"isc,", b"short,", 1)
    assert send(api, content).json()["unused"] == ["short"]
    assert send(api, content, mapping='{"short": "isc"}').json()["names"] == ["Veltrane Own 430"]
    assert send(api, content, mapping="[1]").status_code == 422
    assert send(api, content, mapping='{"short": "nothing"}').json()["type"].endswith("invalid-list")


@pytest.mark.parametrize(
    ("content", "words"), [(b"", "empty"), (b"PK\x03\x04", "cannot be opened"), (b"a,b\n1,2\n", "No heading is known")]
)
def test_what_is_no_list_is_refused(api, content, words):
    answer = send(api, content or b" ")
    assert answer.status_code == 422 and words in answer.json()["detail"]


def test_kind_and_file_are_needed(api):
    assert api.post("/api/parts/import", {"kind": "modules"}).status_code == 422
    assert api.post("/api/parts/import", {"file": SimpleUploadedFile("l.csv", b"x"), "kind": "lamps"}).json()["errors"] == [
        {
            "pointer": "/kind",
            "detail": "Choose among modules, inverters, optimisers, transformers, cables, devices, batteries, controllers.",
        }
    ]


def test_a_module_has_a_page_of_curves(api):
    page = api.get("/api/parts/modules/veltrane-430/page").json()
    top = page["by_light"][0]
    assert top["maximum_voltage"] * top["maximum_current"] == pytest.approx(430, rel=0.002)
    assert [c["irradiance"] for c in page["by_light"]] == [1000, 800, 600, 400, 200]
    # Voltage falls and current rises with the temperature.
    opened, short = [[c[key][i] for c in page["by_heat"]] for key, i in (("voltage", -1), ("current", 0))]
    assert opened == sorted(opened, reverse=True) and short == sorted(short)
    rated = page["efficiency"][page["map_heats"].index(20)][page["map_lights"].index(1000)]
    assert rated == pytest.approx(430 / (1000 * 1.722 * 1.134), rel=0.03)
    assert 0.4 < page["ideality"] < 2
    assert api.get("/api/parts/modules/nothing/page").status_code == 404


TYPED = {
    "maker": "Own", "name": "Typed 430", "year": 2026, "cells_in_series": 54, "power": 430, "isc": 13.98, "voc": 38.9, "imp": 13.2, "vmp": 32.6,
    "isc_coefficient": 0.045, "voc_coefficient": -0.25, "power_coefficient": -0.3, "length": 1.722, "width": 1.134,
}  # fmt: skip


def test_a_typed_datasheet_is_fitted_while_it_is_typed_and_kept_when_it_is_whole(api):
    half = api.send("post", "/api/parts/modules", {"values": {"maker": "Own", "voc": 38.9}}).json()
    assert {f["field"] for f in half["faults"]} >= {"power", "isc"} and half["module"] is None
    whole = api.send("post", "/api/parts/modules", {"values": TYPED}).json()
    assert not whole["faults"] and abs(whole["module"]["power_error"]) < 1e-3 and not whole["is_kept"]
    assert api.send("post", "/api/parts/modules", {"values": TYPED, "keep": True}).json()["is_kept"]
    assert "own-typed-430" in {m["id"] for m in api.get("/api/parts").json()["modules"]}


def test_a_slip_in_a_typed_datasheet_is_named(api):
    answer = api.send("post", "/api/parts/modules", {"values": TYPED | {"voc_coefficient": -0.0973}}).json()
    assert "seems to be in V/K" in answer["slip"]
    answer = api.send("post", "/api/parts/modules", {"values": TYPED | {"power": 0.43}}).json()
    assert any("kW" in f["reason"] for f in answer["faults"])


def test_a_typed_part_never_takes_the_name_of_one_that_ships(api):
    shipped = {"values": TYPED | {"maker": "Veltrane", "name": "430"}, "keep": True}
    answer = api.send("post", "/api/parts/modules", shipped).json()
    assert not answer["is_kept"] and "ships with the application" in answer["faults"][0]["reason"]


@pytest.mark.parametrize(("path", "body"), [("lamps", {"values": {}}), ("modules", {"values": {"lumen": 3}}), ("modules", [])])
def test_what_is_no_datasheet_is_refused(api, path, body):
    assert api.send("post", f"/api/parts/{path}", body).status_code in (404, 422)


def test_a_set_of_preferred_parts_is_kept_replaced_and_deleted(api):
    alpine = {
        "name": "Alpine",
        "modules": ["veltrane-450"],
        "inverters": ["hexley-20"],
        "rules": {"title": "Alpine", "continuous": 1.25},
        "setbacks": [{"title": "Snow guards", "distances": {"eave": 0.8}}],
    }
    assert api.send("put", "/api/parts/preferences", alpine).json()["rules"]["continuous"] == 1.25
    assert api.get("/api/parts/preferences").json()[0]["setbacks"][0]["distances"] == {"eave": 0.8}
    negative = alpine | {"setbacks": [{"title": "Under", "distances": {"eave": -1}}]}
    assert api.send("put", "/api/parts/preferences", negative).status_code == 422
    api.send("put", "/api/parts/preferences", alpine | {"modules": []})
    assert [one["modules"] for one in api.get("/api/parts/preferences").json()] == [[]]
    assert api.delete("/api/parts/preferences?name=Alpine").status_code == 204
    assert api.delete("/api/parts/preferences?name=Alpine").status_code == 404


def test_an_inverters_page_gives_its_weighted_efficiency_and_derating(api):
    page = api.get("/api/parts/inverters/hexley-20/page").json()
    assert [round(line["european"], 1) for line in page["lines"]] == [98.1, 98.4, 98.2]
    assert page["by_heat"][0] == 1 and page["by_heat"][-1] == 0
    assert api.get("/api/parts/inverters/none/page").status_code == 404


@pytest.mark.parametrize("kind", ["modules", "cables", "devices"])
def test_an_exported_list_is_imported_again(api, kind):
    content = api.get(f"/api/parts/export?kind={kind}&file=json").content
    answer = api.post("/api/parts/import", {"file": SimpleUploadedFile("l.json", content), "kind": kind}).json()
    # All of them are parts that ship, whose ids are taken.
    assert answer["names"] == [] and all("ships" in f["reason"] for f in answer["faults"])
    assert api.get("/api/parts/export?kind=lamps").status_code == 422


def curve_csv():
    module = built_in_parts().modules["veltrane-430"]
    cells = circuit(fit_module(module).parameters, 900, 35)
    voltage = np.linspace(0, float(open_circuit_voltage(cells)), 40)
    lines = [f"{v:.4f},{i:.5f}" for v, i in zip(voltage, current_at(cells, voltage), strict=True)]
    return "\n".join(["voltage,current", *lines]).encode()


def test_a_measured_curve_is_fitted_and_can_be_kept(api):
    at = "/api/parts/modules/veltrane-430/fit"
    given = {"file": SimpleUploadedFile("c.csv", curve_csv()), "irradiance": "900", "temperature": "35"}
    found = api.post(at, given).json()
    assert found["deviation"] < 1e-3 and all(abs(change) < 2e-3 for change in found["changes"].values())
    assert api.send("post", "/api/parts/modules", {"values": found["values"], "keep": True}).json()["is_kept"]
    missing = api.post(at, {"file": SimpleUploadedFile("c.csv", curve_csv())})
    assert missing.status_code == 422 and "irradiance of the curve is missing" in missing.json()["detail"]
    assert api.post(at, given | {"file": SimpleUploadedFile("c.csv", b"x"), "irradiance": "bright"}).status_code == 422


def test_the_library_tells_when_its_datasheet_is_another_than_the_schemes(api, scheme):
    library = {m["id"]: m["digest"] for m in api.get("/api/parts").json()["modules"]}
    own = scheme.head.document["parts"]["modules"]["veltrane-430"]
    assert own["digest"] == library["veltrane-430"] != library["veltrane-450"]


def test_a_modules_page_shows_the_curve_of_a_moment(api):
    page = api.get("/api/parts/modules/veltrane-430/page?irradiance=500&temperature=40").json()
    assert page["moment"]["irradiance"] == 500 and 6 < max(page["moment"]["current"]) < 7.5
    assert api.get("/api/parts/modules/veltrane-430/page").json()["moment"] is None
    assert api.get("/api/parts/modules/veltrane-430/page?irradiance=nan&temperature=40").status_code == 422
