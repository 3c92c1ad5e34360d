"""Use, tariffs and bills on the command line."""

import json

import pytest

from noontide.cli import main
from noontide.tariffs import built_in_tariffs

FILES = [
    "docs/examples/south-roof.json",
    "--weather",
    "docs/examples/aldermoor.csv",
    "--demand",
    "docs/examples/dairy-demand.json",
]


def test_the_tariffs_that_ship_are_complete_and_made_up(capsys):
    assert len(built_in_tariffs()) == 6
    assert main(["tariff", "list"]) == 0
    shown = capsys.readouterr().out
    for key, tariff in built_in_tariffs().items():
        assert key in shown and tariff.source.startswith("Made up")


@pytest.mark.parametrize("tariff", built_in_tariffs())
def test_a_bill_closes_in_every_tariff(capsys, tariff):
    assert main(["bill", *FILES, "--tariff", tariff, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (
        found["after"]
        == pytest.approx(sum(found["after_by_month"]), abs=1e-6)
        == pytest.approx(sum(line["amount"] for line in found["lines"]), abs=1e-6)
    )
    assert found["saving"] == pytest.approx(found["before"] - found["after"], abs=0.005) and found["saving"] > 0
    assert found["produced"] + found["imported"] >= found["demand"]
    assert found["demand"] == pytest.approx(125_609, rel=1e-3)


def test_a_bill_is_read_line_by_line_and_the_tariff_before_can_be_another(capsys):
    assert main(["bill", *FILES, "--tariff", "dairy-demand", "--before", "cottage-flat", "--lines"]) == 0
    shown = capsys.readouterr().out
    assert "Demand charge" in shown and "Energy from the grid, shoulder" in shown and "self-consumption" in shown
    months = [line for line in shown.splitlines() if line.startswith("  January")]
    was, now, saving = (float(text.replace(",", "")) for text in months[0].split()[1:])
    assert saving == pytest.approx(was - now, abs=0.005)


def test_use_is_told_by_source_and_month(capsys):
    assert main(["demand", "show", FILES[-1], "--weather", "docs/examples/aldermoor.csv", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert set(found["by_month"]) == {"milking", "milking/margin", "cold-store", "cheese", "house"}
    assert sum(map(sum, found["by_month"].values())) == pytest.approx(found["energy"], abs=1e-3)
    assert found["peak"] == pytest.approx(32.43, abs=0.01)
    assert main(["demand", "show", FILES[-1], "--weather", "docs/examples/aldermoor.csv"]) == 0
    assert "Milking and cooling" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (
            '{"energy": {"periods": {"a": {"price": 1}}, "seasons": {"y": {"weekday": {"a": "0-23"}}}}}',
            "no price from 23:00 to 24:00",
        ),
        ('{"energy": {"price": "dear"}}', "/energy/price"),
        ('{"energy": ', "Expecting value"),
        ("[]", "dictionary"),
    ],
)
def test_a_wrong_tariff_is_refused_with_its_place(tmp_path, capsys, content, words):
    (tmp_path / "wrong.json").write_text(content)
    for command in (
        ["tariff", "check", str(tmp_path / "wrong.json")],
        ["bill", *FILES, "--tariff", str(tmp_path / "wrong.json")],
    ):
        with pytest.raises(SystemExit) as stopped:
            main(command)
        error = capsys.readouterr().err
        assert stopped.value.code != 0 and words in error and "Traceback" not in error


def test_an_unknown_tariff_names_those_that_ship(capsys):
    with pytest.raises(SystemExit):
        main(["bill", *FILES, "--tariff", "nobody"])
    assert "cottage-flat" in capsys.readouterr().err
