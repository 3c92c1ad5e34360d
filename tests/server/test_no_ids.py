"""Ids never reach a person: a design whose things nobody named is told by its places and makers alone."""

import re

import pytest

from noontide.server.projects.revising import begin_project

MARK = "qqz"
KEYS = {
    "pointer",
    "pointers",
    "key",
    "id",
    "surface",
    "surfaces",
    "subarray",
    "subarrays",
    "inverter",
    "inverters",
    "thing",
    "face",
    "solid",
    "owner",
    "names",
    "periods",  # of each half hour of a week
    "quantity",
}


@pytest.fixture
def unnamed(hill_year):
    document = {
        "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
        "weather": {"digest": hill_year.digest, "title": hill_year.title},
        "scene": {
            "buildings": {f"{MARK}-house": {"length": 14, "width": 9, "hip": {"pitch": 30}}},
            "chimneys": {f"{MARK}-flue": {"on": f"{MARK}-house", "x": 1, "y": -1.5}},
            "trees": {f"{MARK}-tree": {"x": 4, "y": -12}},
        },
        "demand": {
            "sources": {
                f"{MARK}-car": {"vehicle": {}},
                f"{MARK}-list": {"appliances": {"items": {f"{MARK}-saw": {"power": 900}}, "margin": 10}},
            }
        },
        "money": {
            "tariff": {
                "energy": {
                    "periods": {f"{MARK}-day": {"price": 0.3}, f"{MARK}-night": {"price": 0.2}},
                    "seasons": {f"{MARK}-year": {"weekday": {f"{MARK}-day": "6-22", f"{MARK}-night": "22-6"}}},
                },
                "demand": {f"{MARK}-power": {"price": 3.0}},
                "fixed": {f"{MARK}-meter": {"amount": 5}},
                "taxes": {f"{MARK}-vat": {"share": 7}},
            },
            "costs": {f"{MARK}-work": {"amount": 900}},
            "upkeep": {f"{MARK}-care": {"amount": 50}},
        },
        "surfaces": {
            f"{MARK}-roof": {"face": f"{MARK}-house/roof-1", "layout": {"module": "veltrane-430", "most": 12}},
            f"{MARK}-field": {"tilt": 30, "azimuth": 180, "area": 20, "rows": {"pitch": 4}},
        },
        "inverters": {f"{MARK}-one": {"model": "hexley-3"}, f"{MARK}-two": {"model": "hexley-8", "count": 2, "cable": {"length": 12}}},
        "subarrays": {
            f"{MARK}-a": {"surface": f"{MARK}-roof", "module": "veltrane-430", "modules_per_string": 12, "inverter": f"{MARK}-one"},
            f"{MARK}-b": {"surface": f"{MARK}-field", "module": "veltrane-430", "modules_per_string": 30, "inverter": f"{MARK}-two", "strings": 3, "cable": {"length": 30}, "main_cable": {"length": 20}},
            f"{MARK}-c": {"surface": f"{MARK}-field", "module": "veltrane-430", "modules_per_string": 16, "inverter": f"{MARK}-two", "tracker": 2},
        },
    }  # fmt: skip
    return begin_project("Unnamed", document).pinned


def words_of(value, path=()):
    """Every text of an answer that is shown, with its place; ids and pointers are for programs."""
    if isinstance(value, dict):
        for key, inner in value.items():
            if key not in KEYS and key not in ("document", "patch"):
                yield from words_of(inner, (*path, key))
    elif isinstance(value, list):
        for inner in value:
            yield from words_of(inner, path)
    elif isinstance(value, str) and MARK in value:
        yield "/".join(path), value


def test_no_answer_shows_an_id(api, unnamed):
    at = f"/api/schemes/{unnamed.pk}"
    revision = api.get(at).json()["revision"]
    assert api.send("post", f"{at}/acts/fill", {"surface": f"{MARK}-roof"}, revision=revision).status_code == 200
    shown = []
    for path in (
        "", "/wiring", "/diagram", "/string-sheet", "/bill", "/scene", "/shade", "/months", "/hourly?quantities=power", "/revisions", "/demand", "/money",
        f"/voltages/{MARK}-b", f"/curve/{MARK}-c/4000", "/moment/4000", "/orientation", "/horizon-effect",
        *(f"/working/{key}" for key in ("energy", "dc_power", "dc_ac_ratio", "loss_dc_wiring", "performance_ratio", "plane_irradiation", "loss_partial_shade", "loss_cell_temperature", "demand_energy", "self_sufficiency", "saving", "purchase", "net_present_value")),
    ):  # fmt: skip
        answer = api.get(f"{at}{path}")
        if answer.status_code != 200:
            continue
        found = (
            list(words_of(answer.json()))
            if "json" in answer["Content-Type"]
            else [("text", line) for line in answer.content.decode("utf-8", "replace").splitlines() if MARK in line]
        )
        shown += [(path, *one) for one in found]
    for path in (
        "/diagram?kind=svg",
        "/diagram?kind=dxf",
        "/bill?kind=csv",
        "/shade-table",
        "/shade-table?modules=1",
        "/plan/svg",
        "/plan/csv",
    ):
        answer = api.get(f"{at}{path}")
        if answer.status_code == 200:
            text = (
                answer.content.decode("utf-8", "replace") if not answer.streaming else b"".join(answer.streaming_content).decode()
            )
            shown += [(path, "text", m.group(0)) for m in re.finditer(rf".{{0,40}}{MARK}.{{0,30}}", text)]
    assert shown == [], "\n" + "\n".join(map(str, shown[:80]))
