"""Use, tariffs and bills on the command line."""

import json
from pathlib import Path

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


@pytest.fixture
def meter(tmp_path):
    from noontide.standins.meter import dairy_file

    path = tmp_path / "meter.csv"
    path.write_bytes(dairy_file())
    return path


def test_a_file_of_a_meter_is_read_and_named_as_a_source(capsys, meter, tmp_path):
    assert main(["demand", "read", str(meter), "--time-zone", "Europe/Rome", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    design = json.loads(Path("docs/examples/south-roof.json").read_text(encoding="utf-8"))
    design["site"]["time_zone"] = "Europe/Rome"
    design["demand"] = {"sources": {"dairy": found["source"]}}
    design["money"] = {"tariff": built_in_tariffs()["dairy-demand"].model_dump(mode="json", exclude_unset=True)}
    path = tmp_path / "design.json"
    path.write_text(json.dumps(design), encoding="utf-8")
    files = [str(path), "--weather", "docs/examples/aldermoor.csv"]
    assert main(["bill", *files, "--use", str(meter), "--json"]) == 0
    bill = json.loads(capsys.readouterr().out)
    assert bill["demand"] == pytest.approx(found["energy"], rel=0.01)
    assert main(["demand", "show", *files, "--use", str(meter), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["energy"] == pytest.approx(bill["demand"])
    assert main(["cash", *files, "--use", str(meter)]) == 0
    assert "net present value" in capsys.readouterr().out
    assert main(["simulate", *files, "--use", str(meter), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["figures"]["saving"] == pytest.approx(bill["saving"])
    with pytest.raises(SystemExit):
        main(["bill", *files])  # without the meter's file the demand is not known
    assert "are not there" in capsys.readouterr().err


def test_a_file_of_a_meter_is_scaled_to_energy_and_peak(capsys, meter):
    files = [str(meter), "--time-zone", "Europe/Rome", "--weather", "docs/examples/aldermoor.csv"]
    assert main(["demand", "scale", *files, "--energy", "50000", "--peak", "22"]) == 0
    values = [float(line.split(",")[1]) for line in capsys.readouterr().out.splitlines()[1:]]
    assert sum(values) == pytest.approx(50_000, rel=1e-6) and max(values) == pytest.approx(22, rel=1e-6)
    with pytest.raises(SystemExit):
        main(["demand", "scale", *files, "--energy", "5000000", "--peak", "22"])
    assert "do not go together" in capsys.readouterr().err


def test_a_verb_is_applied_by_name(capsys, tmp_path):
    arguments = tmp_path / "source.json"
    arguments.write_text('{"source": {"vehicle": {"timing": "by the sun"}}}', encoding="utf-8")
    assert main(["edit", "docs/examples/south-roof.json", "act", "add-source", str(arguments)]) == 0
    document = json.loads(capsys.readouterr().out)
    assert document["demand"]["sources"]["vehicle-1"]["name"] == "Vehicle"
    for verb, words in (("nothing", "the verbs are"), ("paint-week", "season")):
        with pytest.raises(SystemExit):
            main(["edit", "docs/examples/south-roof.json", "act", verb, str(arguments)])
        assert words in capsys.readouterr().err


def test_a_battery_is_told_with_its_sizes_and_is_the_cores(capsys, tmp_path):
    design = json.loads(Path(FILES[0]).read_text())
    design |= json.loads(
        json.dumps(
            {
                "demand": {"sources": {"h": {"name": "House", "yearly": {"energy": 8000}}}},
                "storage": {"bank": {"energy": 9, "price": 500}},
            }
        )
    )
    file = tmp_path / "design.json"
    file.write_text(json.dumps(design))
    assert main(["storage", str(file), *FILES[1:3], "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    flows, battery = found["flows"], found["battery"]
    assert battery["energy"] == 9 and flows["sun_battery"] + flows["grid_battery"] > flows["battery_use"] > 1000
    sizes = found["sizes"]
    assert (
        sizes["energies"][0] == 0 and sizes["self_sufficiency"] == sorted(sizes["self_sufficiency"]) and sizes["savings"] is None
    )
    assert main(["storage", str(file), *FILES[1:3]]) == 0
    shown = capsys.readouterr().out
    assert f"{battery['cycles']:,.0f} full cycles" in shown and found["proposal"]["words"] in shown
    with pytest.raises(SystemExit):
        main(["storage", str(file), *FILES[1:3], "--largest", "-3"])
    for words in ("take-battery", "size-battery"):
        arguments = tmp_path / "arguments.json"
        arguments.write_text({"take-battery": "{}", "size-battery": '{"energy": 4}'}[words])
        assert main(["edit", str(file), "act", words, str(arguments)]) == 0
