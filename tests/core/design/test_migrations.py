"""Designs that were saved by earlier versions open, with every value where it was."""

import json
from pathlib import Path

import pytest

from noontide.core.design import Design, DesignError
from noontide.core.design.migrations import FORMAT, STEPS, upgrade
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

KEPT = Path(__file__).parents[2] / "data"


@pytest.mark.parametrize("name", ["design-scheme-1.json", "design-2.json", "design-3.json", "design-4.json"])
def test_a_kept_document_of_an_earlier_format_opens_whole(name):
    saved = json.loads((KEPT / name).read_text(encoding="utf-8"))
    design = Design.read(saved)
    assert design.format == FORMAT != saved["format"]
    assert design.site.horizon[1].elevation == 14
    assert design.surfaces["shed"].rows.pitch == 2.4
    assert design.losses.soiling_by_month[4] == 3
    assert (design.models.transposition, design.models.incidence) == ("hay-davies", "martin-ruiz")
    assert design.subarrays["shed-1"].strings == 2
    results = simulate(design, simulated_weather(43.62, 11.31, 412, 1), built_in_parts())
    assert 900 < results.annual.specific_yield < 1700


def test_the_window_and_the_cell_groups_of_format_2_keep_their_values_under_their_new_names():
    saved = json.loads((KEPT / "design-2.json").read_text(encoding="utf-8"))
    old, design = saved["parts"]["inverters"]["own-20"], Design.read(saved)
    assert design.surfaces["shed"].rows.cell_groups == saved["surfaces"]["shed"]["rows"]["steps"] == 2
    new = design.parts.inverters["own-20"]
    assert (new.mppt_minimum, new.mppt_maximum) == (old["tracking_minimum"], old["tracking_maximum"])


def test_money_and_use_of_format_3_have_parts_of_their_own():
    saved = json.loads((KEPT / "design-3.json").read_text(encoding="utf-8"))
    design = Design.read(saved)
    money = design.money
    assert (money.currency, money.energy_value, money.years, money.interest) == ("CHF", 0.11, 25, 4.5)
    assert design.wiring.rules == "nec"
    (source,) = design.demand.sources.values()
    assert (source.per_area.use, source.per_area.area) == (95, 180)
    assert not money.is_counted  # the value of energy alone is no investment


def test_the_picture_and_the_strings_of_format_4_that_were_both_called_plan_have_names_of_their_own():
    saved = json.loads((KEPT / "design-4.json").read_text(encoding="utf-8"))
    design = Design.read(saved)
    assert design.site.map_picture.digest == saved["site"]["plan"]["digest"]
    assert design.subarrays["shed-1"].string_plan == (("m1", "m3", "m2"), ("m6", "m4", "m5"))


def test_every_earlier_format_has_a_kept_document():
    kept = {json.loads(path.read_text(encoding="utf-8"))["format"] for path in KEPT.glob("design-*.json")}
    assert kept == set(STEPS)


def test_reading_does_not_change_what_was_saved():
    saved = json.loads((KEPT / "design-scheme-1.json").read_text(encoding="utf-8"))
    before = json.dumps(saved)
    Design.read(saved)
    assert json.dumps(saved) == before


@pytest.mark.parametrize("name", ["noontide-design/6", "", None, 7, ["noontide-design/3"], "x" * 9999])
def test_a_format_that_is_not_known_is_refused_with_its_place(name):
    with pytest.raises(DesignError, match="is unknown") as caught:
        upgrade({"format": name})
    assert caught.value.pointer == "/format"
    assert len(str(caught.value)) < 300


@pytest.mark.parametrize("document", [None, [], "design", 3])
def test_what_is_no_object_is_refused(document):
    with pytest.raises(DesignError, match="JSON object"):
        upgrade(document)
