import io
import json
import subprocess
import sys

import pandas as pd
import pytest

from noontide.cli import main
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.weather import read, write
from noontide.parts import built_in_parts


@pytest.fixture
def files(tmp_path, roof_document, hill_weather):
    scheme, weather = tmp_path / "roof.json", tmp_path / "hill.epw"
    scheme.write_text(json.dumps(roof_document))
    write(hill_weather, weather)
    return scheme, weather


def test_simulate_prints_the_same_numbers_as_python(files, capsys):
    scheme, weather = files
    assert main(["simulate", str(scheme), "--weather", str(weather), "--json"]) == 0
    printed = json.loads(capsys.readouterr().out)
    results = simulate(Design.read(json.loads(scheme.read_text())), read(weather), built_in_parts())
    assert printed["annual"]["energy"] == results.annual.energy
    assert printed["cascade"]["residual"] < 1e-9


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_hourly_tables(files, tmp_path, ending, capsys):
    scheme, weather = files
    out = tmp_path / f"hours.{ending}"
    assert main(["simulate", str(scheme), "--weather", str(weather), "--hourly", str(out)]) == 0
    table = pd.read_csv(out) if ending == "csv" else pd.read_parquet(out)
    assert len(table) == 8760
    assert "Annual energy" in capsys.readouterr().out


def test_a_scheme_from_standard_input(files, monkeypatch, capsys):
    scheme, weather = files
    monkeypatch.setattr(sys, "stdin", io.StringIO(scheme.read_text()))
    assert main(["simulate", "-", "--weather", str(weather)]) == 0
    assert "closure error" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: d["surfaces"]["barn"].update(tilt=120), "/surfaces/barn/tilt"),
        (lambda d: d["subarrays"]["south"].update(module="none-such"), "no module 'none-such'"),
        (lambda d: d.pop("site"), "/site"),
    ],
)
def test_a_wrong_scheme_is_told_with_its_place(files, capsys, roof_document, change, said):
    scheme, weather = files
    change(roof_document)
    scheme.write_text(json.dumps(roof_document))
    try:
        code = main(["simulate", str(scheme), "--weather", str(weather)])
    except SystemExit as stopped:
        code = stopped.code
    assert code == 3
    assert said in capsys.readouterr().err


def test_a_broken_weather_file_is_told_with_its_line(files, capsys):
    _scheme, weather = files
    weather.write_text(weather.read_text().replace(",99.9,999,", ",99.9,", 1))
    lines = weather.read_text().splitlines()
    lines[99] = "2026,1,4"
    weather.write_text("\n".join(lines))
    with pytest.raises(SystemExit) as stopped:
        main(["weather", "show", str(weather)])
    assert stopped.value.code == 3
    assert "line 100" in capsys.readouterr().err


def test_convert_there_and_back(files, tmp_path, capsys):
    _, weather = files
    table, again = tmp_path / "hill.csv", tmp_path / "again.epw"
    assert main(["weather", "convert", str(weather), str(table)]) == 0
    assert main(["weather", "convert", str(table), str(again)]) == 0
    assert read(again).ghi.sum() == pytest.approx(read(weather).ghi.sum())
    assert main(["weather", "show", str(again)]) == 0
    assert "kWh/m² a year" in capsys.readouterr().out


def test_sun_takes_any_offset(capsys):
    assert main(["sun", "--lat", "43", "--lon", "11", "--at", "2026-06-21T14:00+02:00"]) == 0
    first = capsys.readouterr().out
    assert main(["sun", "--lat", "43", "--lon", "11", "--at", "2026-06-21T12:00"]) == 0
    assert capsys.readouterr().out == first


@pytest.mark.parametrize("arguments", [["simulate"], ["sun", "--lat", "x"], ["fly"], ["serve", "--port", "99999"]])
def test_a_wrong_call_ends_with_two(arguments, capsys):
    with pytest.raises(SystemExit) as stopped:
        main(arguments)
    assert stopped.value.code == 2
    assert "usage" in capsys.readouterr().err


def test_help_loads_no_computation():
    """Help must be instant: no array library may be imported for it."""
    code = "import sys; from noontide.cli import _parser; _parser().format_help(); assert not {'numpy', 'pandas', 'django'} & set(sys.modules)"
    subprocess.run([sys.executable, "-c", code], check=True)
