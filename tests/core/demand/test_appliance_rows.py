"""Appliances as rows of a spreadsheet."""

import pytest

from noontide.core.demand.appliance_rows import read_rows, rows_of
from noontide.core.demand.sources import Appliances


def test_a_table_with_headings_is_read_by_them():
    text = "Appliance\tQty\tPower (kW)\tWhen\tHours/day\tDays\nLamp\t20\t0,015\t18-23\t4\tweekdays\nPump\t1\t0.9\t8-17\t\t"
    lamp, pump = read_rows(text)
    assert lamp == {"name": "Lamp", "number": 20, "power": 15, "hours": "18-23", "hours_a_day": 4, "days": "weekdays"}
    assert pump == {"name": "Pump", "number": 1, "power": 900, "hours": "8-17"}


def test_a_bare_table_has_name_number_power_and_hours():
    assert read_rows("Lamp,3,40,18-23\nRadio,1,12,0-24") == [
        {"name": "Lamp", "number": 3, "power": 40, "hours": "18-23"},
        {"name": "Radio", "number": 1, "power": 12, "hours": "0-24"},
    ]


def test_what_is_copied_is_read_again():
    items = {
        "a": {
            "name": "Saw",
            "number": 2,
            "power": 1500,
            "duty": 0.4,
            "hours": "7-12",
            "days": "weekdays",
            "surge": 3,
            "category": "Wood",
        }
    }
    before = Appliances.model_validate({"items": items})
    text = "\n".join("\t".join(map(str, row)) for row in rows_of(before))
    (again,) = read_rows(text)
    assert Appliances.model_validate({"items": {"a": again}}) == Appliances.model_validate(
        {"items": {"a": items["a"] | {"places": 1, "current": "AC", "efficiency": 1}}}
    )


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no rows"),
        ("Name\tHours\nLamp\t18-23", "No column holds the power"),
        ("Name\tPower", "no rows below"),
        ("Name\tPower\nLamp\tbright", "Row 2, Power .W.: 'bright' is no number"),
        ("Name\tPower\nLamp\t", "Row 2: the power is missing"),
        ("Name\tPower\tHours\nLamp\t5\t25-26", "Row 2, Hours|Row 2: '25-26'"),
        ("Name\tPower\nLamp\t1e9", "Row 2"),
        ("Name\tPower\tNumber\nLamp\t5\t-3", "Row 2, Number"),
    ],
)
def test_a_row_that_cannot_be_read_is_named(text, words):
    with pytest.raises(ValueError, match=words):
        read_rows(text)
