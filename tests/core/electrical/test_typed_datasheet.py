"""Datasheets as they are pasted: the trade's words, other units, and what is not understood."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.electrical.datasheets import KINDS
from noontide.core.electrical.parts_table import checked_part, exported, read_parts
from noontide.core.electrical.typed_datasheet import read_datasheet
from noontide.parts import built_in_parts

SHEET = """Maker: Own
Model: Sunny 445
Number of cells 54
Maximum power (Pmax)  0.445 kW
Voc: 39.6 V
Isc\t14.0 A
Vmp 33.5 V
Imp 13,28 A
Temperature coefficient of Pmax: −0.30 %/°C
Temperature coefficient of Voc  -99 mV/°C
Temperature coefficient of Isc 0.045 %/K
Dimensions 1134 x 1762 x 30 mm
Weight 21.5 kg
Junction box IP68
Year 2026
"""


def test_a_pasted_datasheet_becomes_a_module():
    found = read_datasheet(SHEET, "modules")
    part, faults = checked_part(found.values, "modules")
    assert not faults and found.unread == ["Junction box IP68"]
    assert (part.power, part.imp, part.length, part.width, part.mass) == (445, 13.28, 1.762, 1.134, 21.5)
    assert part.voc_coefficient == pytest.approx(-0.099 / 39.6 * 100, abs=1e-5)
    assert any("mV/K" in words for words in found.converted)


def test_an_inverter_in_kilowatts_becomes_watts():
    text = "Rated AC power 10 kW\nMax DC power: 15 kW\nMax input voltage 1000 V\nNumber of trackers 2\nEuro efficiency 97.9 %"
    values = read_datasheet(text, "inverters").values
    assert values["ac_power"] == 10_000 and values["maximum_dc_power"] == 15_000
    assert (values["maximum_dc_voltage"], values["trackers"], values["european_efficiency"]) == (1000, 2, 97.9)


def test_a_novel_is_no_datasheet():
    with pytest.raises(ValueError, match="at most 400 lines"):
        read_datasheet("line\n" * 401, "modules")


@given(st.text(max_size=400), st.sampled_from(sorted(KINDS)))
def test_any_text_is_read_without_falling_over(text, kind):
    checked_part(read_datasheet(text, kind).values, kind)


@pytest.mark.parametrize("kind", sorted(KINDS))
@pytest.mark.parametrize("ending", ["csv", "xlsx", "json"])
def test_every_kind_of_part_goes_out_and_comes_back(kind, ending):
    parts = getattr(built_in_parts(), kind)
    content, _ = exported(parts.values(), kind, ending)
    back = read_parts(content.encode() if isinstance(content, str) else content, kind)
    assert not back.faults and back.parts == dict(parts)


@pytest.mark.parametrize("content", [b"[]", b'{"modules": 3}', b"{", b'{"modules": {"a": []}', b'{"inverters": {}}'])
def test_json_that_holds_no_parts_is_refused_in_words(content):
    with pytest.raises(ValueError, match=r"JSON|holds no modules"):
        read_parts(content, "modules")


def test_an_entry_that_is_no_datasheet_is_named_by_its_place():
    found = read_parts(b'[1, {"maker": "Own"}]', "modules")
    assert [fault.row for fault in found.faults][:2] == [1, 2] and "JSON object" in found.faults[0].reason
