"""Parts of one's own: read from a list, looked at, kept, used in a scheme and deleted."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

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
        {"pointer": "/kind", "detail": "Choose among modules, inverters, transformers, cables, devices, batteries, controllers."}
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
