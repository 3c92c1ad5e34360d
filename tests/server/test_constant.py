"""Answers that are the same for everybody: made once, kept by whoever has them, and new where they differ."""

import gzip
import json

import pytest

from noontide.core.design import Design

CONSTANT = ["design-schema", "figures", "quantities", "demand-kinds", "tariffs", "parts"]


@pytest.mark.parametrize("name", CONSTANT)
def test_whoever_has_it_is_told_that_it_still_holds(api, name):
    first = api.get(f"/api/{name}")
    assert first.status_code == 200 and first.json()
    again = api.get(f"/api/{name}", headers={"If-None-Match": first["ETag"]})
    assert again.status_code == 304 and not again.content
    assert api.get(f"/api/{name}", headers={"If-None-Match": 'W/"another"'}).json() == first.json()
    assert first["Cache-Control"] == "no-cache"


@pytest.mark.parametrize("name", CONSTANT)
def test_packed_and_plain_say_the_same(api, name):
    plain = api.get(f"/api/{name}", headers={"Accept-Encoding": "identity"})
    packed = api.get(f"/api/{name}", headers={"Accept-Encoding": "gzip, br"})
    assert "Content-Encoding" not in plain and packed["Content-Encoding"] == "gzip"
    assert json.loads(gzip.decompress(packed.content)) == plain.json()
    assert "Accept-Encoding" in packed["Vary"] and packed["ETag"] == plain["ETag"]


def test_the_schema_is_the_designs_own(api):
    assert api.get("/api/design-schema").json() == json.loads(json.dumps(Design.model_json_schema()))


def test_a_part_of_ones_own_is_there_at_once_and_gone_again(api):
    before = api.get("/api/parts")
    typed = {"maker": "Thornby", "name": "Mine", "year": 2026, "power": 430, "voc": 38.6, "isc": 13.9, "vmp": 32.1, "imp": 13.4}
    typed |= {
        "cells_in_series": 54,
        "isc_coefficient": 0.045,
        "voc_coefficient": -0.25,
        "power_coefficient": -0.3,
        "length": 1722,
        "width": 1134,
    }
    answer = api.post("/api/parts/modules", {"values": typed, "keep": True}, content_type="application/json")
    assert answer.status_code == 200, answer.content[:400]
    mine = api.get("/api/parts", headers={"If-None-Match": before["ETag"]})
    assert mine.status_code == 200 and len(mine.json()["own"]) == 1
    key = mine.json()["own"][0].split("/")[1]
    assert api.delete(f"/api/parts/modules/{key}").status_code == 204
    assert api.get("/api/parts", headers={"If-None-Match": before["ETag"]}).status_code == 304
